//! The edge of a picture's own coverage choked or grown, with colours carried outwards from inside first: no dark or light
//! rim is left of what the picture was rendered over.

use super::edges;
use crate::focus::fill;
use crate::raster::bands::for_each_band;
use crate::raster::distance::distance;
use crate::raster::soften::softened;
use crate::{Cancel, KernelError, Raster};

/// What is done to an edge, px of the scale.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Refill {
    /// Grown by so much, or choked if negative.
    pub by: f32,
    /// How far it is softened.
    pub soft: f32,
    /// How far inside of full coverage colours are trusted; those of the rest are made of them.
    pub rim: f32,
}

/// Coverage that counts as full: the last code of 8 bits is not.
const FULL: f32 = 0.999;

/// A change of coverage that is only the rounding of softening.
const SAME: f32 = 1e-5;

/// Px beyond the rim over which an antialiased edge runs out, and over which colours are averaged.
const BEYOND: f32 = 12.0;

impl Refill {
    /// Px around a window that [`refilled`] looks at.
    pub fn reach(&self) -> f32 {
        edges::reach(self.by, self.soft) + self.rim + self.carried() + BEYOND
    }

    /// How far from trusted colours they are carried.
    fn carried(&self) -> f32 {
        self.rim + self.by.max(0.0) + 2.0 * self.soft + 3.0
    }
}

/// The picture (RGBA, premultiplied) with another edge. Where coverage stays and colours are trusted, every bit stays; what has
/// no trusted colour near it (hair, smoke, glass) keeps its own.
///
/// # Errors
/// A picture without four channels; cancellation.
pub fn refilled(picture: &Raster, how: Refill, cancel: &Cancel) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    let w = picture.window();
    if how.by == 0.0 && how.soft == 0.0 && how.rim == 0.0 {
        return Ok(picture.clone());
    }
    let alpha = Raster::from_planar(w, 1, picture.plane(3).to_vec())?;
    let open: Vec<bool> = alpha.plane(0).iter().map(|a| *a < FULL).collect();
    let inside = distance(w, &open, cancel)?;
    // A pixel beside an open one is a px from it.
    let trusted: Vec<bool> =
        open.iter().zip(inside.plane(0)).map(|(open, d)| !open && *d > how.rim).collect();
    let far = distance(w, &trusted, cancel)?;
    let carried = carried(picture, &trusted, cancel)?;
    let cut = softened(&edges::grown(&alpha, how.by, cancel)?, how.soft, cancel)?;
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let start = (y - w.y) as usize * w.width as usize;
            let (cut, far, old) = (cut.row(0, y), far.row(0, y), alpha.row(0, y));
            let new: [&[f32]; PLANES] = carried.rows(y);
            let trusted = &trusted[start..start + w.width as usize];
            let rows: [&mut [f32]; 4] = band.rows(y);
            for x in 0..cut.len() {
                if trusted[x] && (cut[x] - old[x]).abs() < SAME {
                    continue;
                }
                let near = far[x] <= how.carried();
                for c in 0..3 {
                    let straight = match near {
                        true => new[c][x],
                        false if old[x] > 0.0 => rows[c][x] / old[x],
                        false => 0.0,
                    };
                    rows[c][x] = straight * cut[x];
                }
                // Nothing grows where no colour is known.
                rows[3][x] = if near || old[x] > 0.0 { cut[x] } else { 0.0 };
            }
        }
    })?;
    Ok(out)
}

/// Colour, coverage, one surface, whether it is known.
const PLANES: usize = 6;

/// Trusted colours, straight, carried on over the window.
fn carried(picture: &Raster, trusted: &[bool], cancel: &Cancel) -> Result<Raster, KernelError> {
    let mut known = Raster::zeros(picture.window(), PLANES);
    for c in 0..3 {
        let of = known.plane_mut(c).iter_mut().zip(picture.plane(c)).zip(picture.plane(3)).zip(trusted);
        of.filter(|(_, is)| **is).for_each(|(((out, v), a), _)| *out = v / a);
    }
    for c in [3, 5] {
        known.plane_mut(c).iter_mut().zip(trusted).for_each(|(out, is)| *out = f32::from(u8::from(*is)));
    }
    fill::carry_on::<PLANES>(&known, |_, _| true, cancel)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::new(-5, 2, 60, 60);
    const RED: [f32; 3] = [0.8, 0.2, 0.1];

    /// A red disc of 20 px that was cut out of a dark picture: its outer 2 px are half black.
    fn disc() -> Raster {
        Raster::from_fn(W, 4, |c, x, y| {
            let d = 20.0 - from_middle(x, y);
            let alpha = (d + 0.5).clamp(0.0, 1.0);
            let dark = if d < 2.0 { 0.5 } else { 1.0 };
            if c == 3 { alpha } else { RED[c] * alpha * dark }
        })
    }

    fn from_middle(x: i32, y: i32) -> f32 {
        ((x as f32 - 25.0).powi(2) + (y as f32 - 32.0).powi(2)).sqrt()
    }

    fn run(how: Refill) -> Raster {
        refilled(&disc(), how, &Cancel::new()).unwrap()
    }

    #[test]
    fn a_dark_rim_is_gone_and_the_edge_lies_where_it_was_choked_to() {
        for by in [-3.0, -1.0, 0.0, 2.0] {
            let out = run(Refill { by, soft: 0.0, rim: 3.0 });
            for y in W.rows() {
                for x in -5..55 {
                    let [r, g, b, a] = out.pixel(x, y).unwrap()[..] else { panic!("four planes") };
                    for (got, want) in [r, g, b].into_iter().zip(RED) {
                        assert!((got - want * a).abs() < 1e-4, "{by} {x} {y}: {got} {a}");
                    }
                    // A disc of whole pixels stands for the round one.
                    let want = (20.0 + by - from_middle(x, y) + 0.5).clamp(0.0, 1.0);
                    assert!((a - want).abs() < 0.75, "{by} {x} {y}: {a} {want}");
                }
            }
            let area: f32 = out.plane(3).iter().sum();
            let want = std::f32::consts::PI * (20.0 + by).powi(2);
            assert!((area / want - 1.0).abs() < 0.03, "{by}: {area} {want}");
        }
    }

    #[test]
    fn what_is_trusted_keeps_every_bit_and_nothing_to_do_changes_nothing() {
        let picture = disc();
        assert_eq!(run(Refill { by: 0.0, soft: 0.0, rim: 0.0 }), picture);
        let out = run(Refill { by: -1.0, soft: 1.0, rim: 3.0 });
        assert_eq!(out.pixel(25, 32), picture.pixel(25, 32));
        assert_eq!(out.pixel(-5, 2), Some(vec![0.0; 4]));
        // Smoke has no core: its colour stays its own.
        let smoke = Raster::from_fn(W, 4, |c, x, _| if c == 3 { 0.4 } else { 0.004 * (x + 5) as f32 });
        let out = refilled(&smoke, Refill { by: 0.0, soft: 0.0, rim: 2.0 }, &Cancel::new()).unwrap();
        let apart = out.data().iter().zip(smoke.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(apart < 1e-6, "{apart}");
    }

    #[test]
    fn softness_and_growth_bring_no_other_colour_in() {
        let out = run(Refill { by: 1.0, soft: 4.0, rim: 3.0 });
        let edge = out.pixel(25 + 20, 32).unwrap();
        assert!(edge[3] > 0.3 && edge[3] < 0.9, "{edge:?}");
        assert!((edge[0] / edge[3] - RED[0]).abs() < 1e-4);
    }
}
