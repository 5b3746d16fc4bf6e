//! Light drawn out along lines from a place.

use super::glow::{above, tinted};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec2;

/// Rays.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rays {
    /// Brightness from which on light is drawn out, linear.
    pub threshold: f32,
    /// Where they come from, px.
    pub from: Vec2,
    /// How far they reach: a share of the way from there to what is bright, added outwards.
    pub length: f32,
    /// Factors of the three channels.
    pub tint: [f32; 3],
}

/// Doublings: 128 places along each ray.
const DOUBLINGS: u32 = 7;

/// The light (RGBA, no coverage) of a picture (RGBA, premultiplied) that lies above the threshold, drawn out away from a
/// place: each pixel has the mean of what lies along the line toward that place. Nothing comes in from beyond the window.
///
/// Own derivation: the mean of 2ⁿ places is the mean of two means of 2ⁿ⁻¹, one of them scaled about the place, so that n
/// passes do.
///
/// # Errors
/// A picture without exactly four channels; cancellation.
pub fn rays(picture: &Raster, how: &Rays, cancel: &Cancel) -> Result<Raster, KernelError> {
    let mut light = above(picture, how.threshold, cancel)?;
    // Scales of all places together go from 1 down to 1 ÷ (1 + length), evenly in their logarithm.
    let whole = (1.0 + how.length.max(0.0)).ln();
    for i in 0..DOUBLINGS {
        let step = whole / f32::from(1_u8 << (DOUBLINGS - i));
        light = gathered(&light, how.from, (-step).exp(), cancel)?;
    }
    Ok(tinted(&light, how.tint))
}

/// The mean of a light and of itself read at `scale` times the way from a place.
fn gathered(light: &Raster, from: Vec2, scale: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    let window = light.window();
    let mut out = light.clone();
    let corner = Vec2::new(window.x as f32, window.y as f32);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let mut rows = band.rows::<3>(y);
            for x in 0..window.width as usize {
                let at = corner + Vec2::new(x as f32 + 0.5, (y - window.y) as f32 + 0.5);
                let p = from + (at - from) * scale - corner - Vec2::splat(0.5);
                let (low, part) = (p.floor(), p - p.floor());
                let weights = [
                    (0, 0, (1.0 - part.x) * (1.0 - part.y)),
                    (1, 0, part.x * (1.0 - part.y)),
                    (0, 1, (1.0 - part.x) * part.y),
                    (1, 1, part.x * part.y),
                ];
                // Place in a plane and weight; beyond the window there is nothing.
                let taps = weights.map(|(dx, dy, w)| {
                    let (x, y) = (low.x as i64 + dx, low.y as i64 + dy);
                    let inside = (0..i64::from(window.width)).contains(&x)
                        && (0..i64::from(window.height)).contains(&y);
                    inside.then(|| (y as usize * window.width as usize + x as usize, w))
                });
                for (c, row) in rows.iter_mut().enumerate() {
                    let plane = light.plane(c);
                    let sum: f32 = taps.iter().flatten().map(|(i, w)| w * plane[*i]).sum();
                    row[x] = 0.5 * (row[x] + sum);
                }
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    #[test]
    fn a_spot_is_drawn_out_away_from_the_place_and_nowhere_else() {
        let w = Window::new(4, -3, 200, 120);
        let picture = Raster::from_fn(w, 4, |c, x, y| match c {
            3 => 1.0,
            _ if (60..63).contains(&x) && (50..53).contains(&y) => 20.0,
            _ => 0.1,
        });
        let how = Rays { threshold: 1.0, from: Vec2::new(21.0, 51.0), length: 2.0, tint: [1.0, 0.5, 0.0] };
        let made = rays(&picture, &how, &Cancel::new()).unwrap();
        let at = |x| made.sample(0, x, 51).unwrap();
        assert!(at(70) > 0.01 && at(110) > 0.005 && at(50) == 0.0, "{} {} {}", at(50), at(70), at(110));
        // It ends where it should: at three times the way from the place to the spot.
        assert_eq!(at(155), 0.0);
        assert_eq!((made.sample(0, 61, 80), made.sample(3, 70, 51)), (Some(0.0), Some(0.0)));
        assert!((made.sample(1, 90, 51).unwrap() - 0.5 * at(90)).abs() < 1e-6);
        // A ray is even: neighbours differ by little.
        let jump = (70..140).map(|x| (at(x + 1) - at(x)).abs() / at(x).max(1e-3)).fold(0.0, f32::max);
        assert!(jump < 0.35, "{jump}");
    }
}
