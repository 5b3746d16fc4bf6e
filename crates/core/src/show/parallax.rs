//! A picture seen from a little to the side, from its depth: for a 3D look that rocks.
//!
//! Pieces of surface ([`crate::focus::pieces`]) are moved along the row by their parallax and laid down from near to
//! far, each pixel's coverage being shared until it is full, as the aperture is in a refocus. What a near surface
//! laid bare shows what was carried on behind it.

use crate::depth::is_depth;
use crate::focus::law::Law;
use crate::focus::pieces::{CIRCLE, COVER, Layer, Pieces};
use crate::raster::bands::for_each_band;
use crate::raster::distance;
use crate::raster::soften::softened;
use crate::{Cancel, KernelError, Raster};

/// Parallax past which the look of a single picture is believed less and less, as a share of the picture's width
/// (common practice, no source: the thirtieth of stereo photography).
pub const BELIEVABLE: f32 = 1.0 / 30.0;

/// Where the eye is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rock {
    /// Largest move of anything in the picture at the end of the rocking, px of the scale.
    pub amount: f32,
    /// −1 the left end, 1 the right one.
    pub phase: f32,
    /// Depth that stays where it is, scene units; in the middle of the depths (of 1/Z) if not said.
    pub still: Option<f32>,
    /// Width of the picture's own soft edges, px of the scale.
    pub rim: u32,
}

/// Share of the samples that is left out at either end when the range of depths is looked for.
const STRAYS: f32 = 0.005;

/// Nearest and farthest of the depths in 1/Z, without strays; `None` if there is no depth.
fn ends(depth: &Raster) -> Option<[f32; 2]> {
    let mut all: Vec<f32> =
        depth.plane(0).iter().step_by(7).filter(|z| is_depth(**z)).map(|z| 1.0 / z).collect();
    if all.is_empty() {
        return None;
    }
    let out = ((all.len() as f32 * STRAYS) as usize).min(all.len() - 1);
    let low = *all.select_nth_unstable_by(out, f32::total_cmp).1;
    let last = all.len() - 1 - out;
    let high = *all.select_nth_unstable_by(last, f32::total_cmp).1;
    Some([high.max(low), low])
}

/// The picture from the side. `picture` is RGBA premultiplied, `depth` lies on its window, which should be the whole
/// frame: what lies beyond its edge is taken to be as the edge.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn rocked(picture: &Raster, depth: &Raster, rock: Rock, cancel: &Cancel) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    depth.expect_channels("depth", 1)?;
    depth.expect_window("depth", picture.window())?;
    let Some([near, far]) = ends(depth) else { return Ok(picture.clone()) };
    let still = rock.still.filter(|z| is_depth(*z)).map_or(0.5 * (near + far), |z| 1.0 / z);
    let most = (near - still).abs().max((far - still).abs());
    if most <= 0.0 || rock.amount == 0.0 || rock.phase == 0.0 {
        return Ok(picture.clone());
    }
    let k = rock.amount.abs() / most;
    // What is farther than the strays moves no farther than they.
    let law = Law { sharp: [1.0 / still; 2], near: k, far: k, most: 1.5 * rock.amount.abs() };
    let mut pieces = Pieces::split(picture, law.radii(depth, cancel)?, None, rock.rim, cancel)?;
    if let Some(back) = &mut pieces.back {
        calm(&mut back.raster, SOFT * rock.amount.abs(), cancel)?;
    }
    let phase = rock.phase.clamp(-1.0, 1.0) * rock.amount.signum();
    let mut out = Raster::zeros(picture.window(), 4);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let mut out: [&mut [f32]; 4] = band.rows(y);
            lay(&pieces, y, phase, &mut out);
        }
    })?;
    Ok(out)
}

/// Blur of what is carried on behind a surface, as a share of the largest move.
const SOFT: f32 = 0.3;

/// Blurs what is hidden, the more the deeper it is behind the edge: carried on as it is, each bright spot beside an
/// edge would draw a streak.
fn calm(back: &mut Raster, soft: f32, cancel: &Cancel) -> Result<(), KernelError> {
    let window = back.window();
    let seen: Vec<bool> = back.plane(COVER).iter().map(|v| *v <= 0.0).collect();
    let deep = distance::distance(window, &seen, cancel)?;
    let n = window.area();
    let mut planes = back.data()[..n * 5].to_vec();
    for c in 0..4 {
        (0..n).for_each(|i| planes[c * n + i] *= planes[COVER * n + i]);
    }
    let blurred = softened(&Raster::from_planar(window, 5, planes)?, soft, cancel)?;
    for_each_band(back, cancel, |band| {
        for y in band.window().rows() {
            let (deep, cover) = (deep.row(0, y), blurred.row(COVER, y));
            for c in 0..4 {
                let from = blurred.row(c, y);
                for (i, v) in band.row(c, y).iter_mut().enumerate() {
                    let share = (deep[i] / soft.max(1.0)).min(1.0);
                    if cover[i] > 1e-3 {
                        *v += (from[i] / cover[i] - *v) * share;
                    }
                }
            }
        }
    })?;
    Ok(())
}

/// A piece on its way: where it lands and what it brings.
struct Moved {
    circle: f32,
    left: f32,
    right: f32,
    cover: f32,
    at: usize,
    back: bool,
}

/// One row: its pieces moved and laid down from near to far.
fn lay(pieces: &Pieces, y: i32, phase: f32, out: &mut [&mut [f32]; 4]) {
    let width = out[0].len();
    let mut moved = Vec::with_capacity(width * 2);
    spans(&pieces.front, y, phase, false, &mut moved);
    if let Some(back) = &pieces.back {
        spans(back, y, phase, true, &mut moved);
    }
    // Equal circles keep their order, so that the answer is the same on every run.
    moved.sort_by(|a, b| a.circle.total_cmp(&b.circle).then(a.back.cmp(&b.back)).then(a.at.cmp(&b.at)));
    let mut taken = vec![0.0f32; width];
    for m in &moved {
        let layer = match &pieces.back {
            Some(back) if m.back => back,
            _ => &pieces.front,
        };
        let value: [f32; 4] = std::array::from_fn(|c| layer.raster.row(c, y)[m.at]);
        let (from, to) = (m.left.max(0.0), m.right.min(width as f32));
        let mut x = from;
        while x < to {
            let i = x as usize;
            let end = (i as f32 + 1.0).min(to);
            let share = (end - x) * m.cover;
            let free = (1.0 - taken[i]).max(0.0);
            if share > 1e-6 && free > 1e-6 {
                let k = share.min(free);
                taken[i] += k;
                // Colour of a front piece is its share of the pixel already.
                let of = k / m.cover;
                (0..4).for_each(|c| out[c][i] += value[c] * of);
            }
            x = end;
        }
    }
    close(&taken, out);
}

/// Spans in which the pieces of a row land. Neighbours on one surface stay joined.
fn spans(layer: &Layer, y: i32, phase: f32, back: bool, moved: &mut Vec<Moved>) {
    let (circle, cover) = (layer.raster.row(CIRCLE, y), layer.raster.row(COVER, y));
    let width = circle.len();
    let joined = |i: usize, j: usize| {
        let slant = 1.0 + 0.06 * circle[i].abs().max(circle[j].abs());
        cover[i] > 0.0 && cover[j] > 0.0 && (circle[i] - circle[j]).abs() < slant
    };
    for i in 0..width {
        if cover[i] <= 0.0 {
            continue;
        }
        let own = -phase * circle[i];
        let between = |j: usize| 0.5 * (own - phase * circle[j]);
        let mut left = i as f32 + if i > 0 && joined(i, i - 1) { between(i - 1) } else { own };
        let mut right = (i + 1) as f32 + if i + 1 < width && joined(i, i + 1) { between(i + 1) } else { own };
        // Beyond the frame all is as its edge.
        if i == 0 {
            left = left.min(0.0);
        }
        if i + 1 == width {
            right = right.max(width as f32);
        }
        if right > left {
            moved.push(Moved { circle: circle[i], left, right, cover: cover[i], at: i, back });
        }
    }
}

/// Pixels that are not full take the rest from what they have, or from the nearest one of the row that has anything.
fn close(taken: &[f32], out: &mut [&mut [f32]; 4]) {
    let width = taken.len();
    for (i, &t) in taken.iter().enumerate() {
        if t > 0.02 && t < 1.0 {
            out.iter_mut().for_each(|o| o[i] /= t);
        }
    }
    let full = |i: usize| taken[i] > 0.02;
    let mut i = 0;
    while i < width {
        if full(i) {
            i += 1;
            continue;
        }
        let end = (i..width).find(|&j| full(j)).unwrap_or(width);
        let (before, after) = (i.checked_sub(1), (end < width).then_some(end));
        for at in i..end {
            let left = before.filter(|b| after.is_none_or(|a| at - b <= a - at));
            if let Some(from) = left.or(after).or(before) {
                out.iter_mut().for_each(|o| o[at] = o[from]);
            }
        }
        i = end;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(120, 12);

    fn stripes(x: i32) -> f32 {
        if (x / 6) % 2 == 0 { 0.8 } else { 0.2 }
    }

    /// A red card over 40..70 at depth 2 before a striped wall at depth 10.
    fn card() -> (Raster, Raster) {
        let is = |x: i32| (40..70).contains(&x);
        let picture = Raster::from_fn(W, 4, |c, x, _| match (c, is(x)) {
            (3, _) => 1.0,
            (0, true) => 0.9,
            (_, true) => 0.0,
            _ => stripes(x),
        });
        (picture, Raster::from_fn(W, 1, |_, x, _| if is(x) { 2.0 } else { 10.0 }))
    }

    fn go(amount: f32, phase: f32, still: Option<f32>) -> Raster {
        let (picture, depth) = card();
        rocked(&picture, &depth, Rock { amount, phase, still, rim: 1 }, &Cancel::new()).unwrap()
    }

    #[test]
    fn the_near_moves_and_what_is_still_stays() {
        // The wall stays; seen from the right, the card moves 8 px to the left of where it was … or to the right.
        let right = go(8.0, 1.0, Some(10.0));
        let is_card =
            |r: &Raster, x: i32| r.sample(0, x, 5).unwrap() > 0.85 && r.sample(1, x, 5).unwrap() < 0.05;
        let first = (0..120).find(|&x| is_card(&right, x)).unwrap();
        let last = (0..120).rfind(|&x| is_card(&right, x)).unwrap();
        assert_eq!((first, last), (48, 77));
        let (picture, _) = card();
        for x in (0..38).chain(80..120) {
            let apart = (right.sample(1, x, 5).unwrap() - picture.sample(1, x, 5).unwrap()).abs();
            assert!(apart < 1e-4, "{x}: the wall stays");
        }
        // What was behind the card is filled from the wall, never from the card.
        for x in 41..47 {
            assert!(right.sample(0, x, 5).unwrap() < 0.85 && right.sample(3, x, 5).unwrap() > 0.999, "{x}");
        }
        // The other way it is the mirror.
        let left = go(8.0, -1.0, Some(10.0));
        assert_eq!((0..120).find(|&x| is_card(&left, x)), Some(32));
        // In the middle of the depths both move, half as far each.
        assert_eq!((0..120).find(|&x| is_card(&go(8.0, 1.0, None), x)), Some(48));
    }

    #[test]
    fn no_move_keeps_every_bit_and_the_frame_stays_full() {
        let (picture, _) = card();
        assert_eq!(go(0.0, 1.0, None), picture);
        assert_eq!(go(9.0, 0.0, None), picture);
        assert!(go(12.0, 1.0, None).plane(3).iter().all(|a| (a - 1.0).abs() < 1e-4));
        assert!(go(12.0, -0.7, Some(2.0)).plane(3).iter().all(|a| (a - 1.0).abs() < 1e-4));
    }

    #[test]
    fn a_slanted_surface_stays_closed() {
        let picture = Raster::from_fn(W, 4, |c, _, _| [0.3, 0.6, 0.1, 1.0][c]);
        let depth = Raster::from_fn(W, 1, |_, x, _| 2.0 + 0.08 * x as f32);
        let out =
            rocked(&picture, &depth, Rock { amount: 10.0, phase: 0.8, still: None, rim: 1 }, &Cancel::new())
                .unwrap();
        for (got, want) in out.data().iter().zip(picture.data()) {
            assert!((got - want).abs() < 1e-4, "{got} {want}");
        }
    }

    #[test]
    fn nothing_is_no_trouble() {
        for w in [Window::of_size(0, 0), Window::of_size(1, 1)] {
            let rock = Rock { amount: 5.0, phase: 1.0, still: None, rim: 1 };
            let picture = Raster::filled(w, 4, 0.5);
            assert_eq!(
                rocked(&picture, &Raster::filled(w, 1, f32::NAN), rock, &Cancel::new()).unwrap(),
                picture
            );
        }
    }
}
