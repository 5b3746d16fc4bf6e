//! What lies hidden on one frame and is seen on others.
//!
//! *Own derivation.* Each pixel of another frame is put where it is on the frame in question. Where that lies behind what is
//! seen there, it is what a wide opening sees past the edge of what hides it. Rims hold the colours of two surfaces: those of
//! other frames say nothing.

use super::fill::{KNOWN, TELLS, same_circle};
use super::law::{Law, STEP};
use super::pieces::Edges;
use crate::raster::bands::for_each_band;
use crate::raster::distance;
use crate::{Cancel, KernelError, Raster};

/// Another frame, on the window of the one in question.
#[derive(Clone, Copy, Debug)]
pub struct OtherFrame<'a> {
    /// Its picture: RGBA, linear, premultiplied.
    pub picture: &'a Raster,
    /// Its depth.
    pub depth: &'a Raster,
    /// From each of its pixels to where what it shows is on the frame in question, px of the scale.
    pub way: &'a Raster,
}

/// Share of a depth by which two frames may differ in it and show the same surface.
const SAME: f32 = 0.05;

/// Of nine pixels, how many must be known of one surface.
const AROUND: usize = 5;

/// The ways of frames that follow one after the other, to the frame in question, px of the scale. `frames` has for each, the
/// nearest first, how far its pixels go to the frame before it in that order, and its depth. What is hidden on a frame on
/// the way goes on as it went.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn ways(frames: &[(&Raster, &Raster)], cancel: &Cancel) -> Result<Vec<Raster>, KernelError> {
    let mut all: Vec<Raster> = Vec::new();
    for (place, (step, depth)) in frames.iter().enumerate() {
        step.expect_channels("motion", 2)?;
        depth.expect_window("depth", step.window())?;
        let before = place.checked_sub(1).map(|i| (&all[i], frames[i].1));
        let w = step.window();
        let mut out = Raster::zeros(w, 2);
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                let [u, v] = band.rows(y);
                for (i, x) in (w.x..w.right() as i32).enumerate() {
                    let own = [step.row(0, y)[i], step.row(1, y)[i]];
                    let [to_x, to_y] = [x as f32 + own[0], y as f32 + own[1]].map(|v| v.round() as i32);
                    let seen = before.and_then(|(way, seen)| {
                        let (z, there) = (depth.row(0, y)[i], seen.sample(0, to_x, to_y)?);
                        let same = there == z || (there - z).abs() <= SAME * z;
                        same.then(|| [0, 1].map(|c| way.sample(c, to_x, to_y).unwrap_or_default()))
                    });
                    let rest = seen.unwrap_or_else(|| own.map(|v| v * place as f32));
                    (u[i], v[i]) = (own[0] + rest[0], own[1] + rest[1]);
                }
            }
        })?;
        all.push(out);
    }
    Ok(all)
}

/// What other frames show of what lies behind the surfaces of a frame, of which `radii` are the signed circles: six planes, as
/// [`super::fill::carry_on`] takes them. Of several surfaces the nearest is kept, of one surface what the first frame shows.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub(super) fn behind(
    radii: &Raster,
    others: &[OtherFrame<'_>],
    law: Law,
    rim: u32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let w = radii.window();
    let mut known = Raster::zeros(w, 6);
    for other in others {
        other.picture.expect_channels("picture of another frame", 4)?;
        other.picture.expect_window("picture of another frame", w)?;
        other.depth.expect_window("depth of another frame", w)?;
        other.way.expect_channels("way from another frame", 2)?;
        other.way.expect_window("way from another frame", w)?;
        let circles = law.radii(other.depth, cancel)?;
        let edges = Edges::find(&circles, rim, cancel)?;
        let rims = distance::in_square(w, edges.are(), rim);
        for (i, (x, y)) in (0..w.area()).map(|i| (i, w.pixel_at(i))).filter(|(i, _)| !rims[*i]) {
            let [u, v] = [0, 1].map(|c| other.way.plane(c)[i]);
            let [to_x, to_y] = [x as f32 + u, y as f32 + v].map(|v| v.round() as i32);
            let Some(front) = radii.sample(0, to_x, to_y) else { continue };
            let circle = circles.plane(0)[i];
            let at = (to_y - w.y) as usize * w.width as usize + (to_x - w.x) as usize;
            let nearer = known.plane(KNOWN)[at] == 0.0 || circle < known.plane(TELLS)[at] - STEP;
            if circle > front && !same_circle(front, circle) && nearer {
                (0..4).for_each(|c| known.plane_mut(c)[at] = other.picture.plane(c)[i]);
                known.plane_mut(TELLS)[at] = circle;
                known.plane_mut(KNOWN)[at] = 1.0;
            }
        }
        cancel.check()?;
    }
    whole(known, cancel)
}

/// Of what is known only what is known all around: of what is thin, a hair too far to one side is somewhere else.
fn whole(known: Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    let w = known.window();
    let mut out = known.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let is = band.row(KNOWN, y);
            for (i, x) in (w.x..w.right() as i32).enumerate().filter(|(i, _)| known.row(KNOWN, y)[*i] > 0.0) {
                let own = known.row(TELLS, y)[i];
                let around = (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| (x + dx, y + dy)));
                let alike = around.filter(|(x, y)| {
                    known.sample(KNOWN, *x, *y).is_some_and(|k| k > 0.0)
                        && known.sample(TELLS, *x, *y).is_some_and(|c| same_circle(own, c))
                });
                is[i] = f32::from(u8::from(alike.count() >= AROUND));
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(60, 20);

    /// A black card of 20 px before a wall whose red says which column of the wall it is; the card lies at `left`.
    fn frame(left: i32) -> (Raster, Raster, Raster) {
        let card = |x: i32| (left..left + 20).contains(&x);
        let picture = Raster::from_fn(W, 4, |c, x, _| match (c, card(x)) {
            (3, _) => 1.0,
            (0, false) => x as f32,
            _ => 0.0,
        });
        let depth = Raster::from_fn(W, 1, |_, x, _| if card(x) { 2.0 } else { 8.0 });
        let motion = Raster::from_fn(W, 2, |c, x, _| if c == 0 && card(x) { 6.0 } else { 0.0 });
        (picture, depth, motion)
    }

    #[test]
    fn what_a_card_hides_is_told_by_the_frames_before_it() {
        let law = Law { sharp: [4.0; 2], near: 40.0, far: 40.0, most: 60.0 };
        let [now, last, earlier] = [20, 14, 8].map(frame);
        let ways = ways(&[(&last.2, &last.1), (&earlier.2, &earlier.1)], &Cancel::new()).unwrap();
        let others = [(&last, &ways[0]), (&earlier, &ways[1])].map(|(f, way)| OtherFrame {
            picture: &f.0,
            depth: &f.1,
            way,
        });
        // The card goes 12 px from the first of them to now.
        assert_eq!([ways[1].sample(0, 15, 9), ways[1].sample(0, 50, 9)], [Some(12.0), Some(0.0)]);
        let radii = law.radii(&now.1, &Cancel::new()).unwrap();
        let known = behind(&radii, &others, law, 1, &Cancel::new()).unwrap();
        let is = |x: i32| known.sample(KNOWN, x, 9).unwrap() > 0.0;
        // The card covers 20 to 39 now, 14 to 33 and 8 to 27 before; two px beside each rim say nothing.
        for x in 0..60 {
            assert_eq!(is(x), (30..40).contains(&x), "{x}");
            if is(x) {
                assert_eq!(known.sample(0, x, 9), Some(x as f32));
                assert_eq!(known.sample(TELLS, x, 9), Some(law.radius(8.0)));
            }
        }
    }
}
