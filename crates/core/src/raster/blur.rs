//! Blurs that are not Gaussian: a box, and a line.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec2;

/// Largest blur, px to one side.
pub const MOST: f32 = 400.0;

/// The mean over a box that reaches `half` px to each side; a part of a px counts by its part. What lies beyond the raster
/// is as its edge.
///
/// # Errors
/// Cancellation.
pub fn boxed(raster: &Raster, half: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    let half = half.clamp(0.0, MOST);
    if half == 0.0 || raster.window().is_empty() {
        return Ok(raster.clone());
    }
    let across = along(raster, Vec2::X, half, cancel)?;
    along(&across, Vec2::Y, half, cancel)
}

/// The mean along a line that reaches `half` px to each side in a direction (unit, y down), read between pixels. What lies
/// beyond the raster is as its edge.
///
/// # Errors
/// Cancellation.
pub fn along(raster: &Raster, way: Vec2, half: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    let half = half.clamp(0.0, MOST);
    if half == 0.0 || raster.window().is_empty() {
        return Ok(raster.clone());
    }
    let steps = taps(way, half);
    let window = raster.window();
    let (right, last) = ((window.right() - 1) as i32, (window.bottom() - 1) as i32);
    let mut out = Raster::zeros(window, raster.channels());
    for_each_band(&mut out, cancel, |band| {
        let width = window.width as usize;
        for y in band.window().rows() {
            for c in 0..raster.channels() {
                let out = band.row(c, y);
                for &(dx, dy, weight) in &steps {
                    let row = raster.row(c, (y + dy).clamp(window.y, last));
                    for (x, v) in out.iter_mut().enumerate().take(width) {
                        let from = (window.x + x as i32 + dx).clamp(window.x, right) - window.x;
                        *v += weight * row[from as usize];
                    }
                }
            }
        }
    })?;
    Ok(out)
}

/// Whole-pixel taps of a line: its places, a px apart at most, each shared between the four pixels around it.
fn taps(way: Vec2, half: f32) -> Vec<(i32, i32, f32)> {
    let count = (2.0 * half).ceil().max(1.0) as i32 * 2 + 1;
    let mut all = std::collections::BTreeMap::new();
    for i in 0..count {
        let at = way * half * (2.0 * (i as f32 + 0.5) / count as f32 - 1.0);
        let (low, part) = (at.floor(), at - at.floor());
        for (dx, wx) in [(0, 1.0 - part.x), (1, part.x)] {
            for (dy, wy) in [(0, 1.0 - part.y), (1, part.y)] {
                *all.entry((low.y as i32 + dy, low.x as i32 + dx)).or_insert(0.0) += wx * wy / count as f32;
            }
        }
    }
    all.into_iter().filter(|(_, w)| *w > 1e-7).map(|((y, x), w)| (x, y, w)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn dot() -> Raster {
        Raster::from_fn(Window::of_size(61, 61), 1, |_, x, y| f32::from(u8::from(x == 30 && y == 30)))
    }

    #[test]
    fn a_dot_becomes_its_kernel() {
        let made = boxed(&dot(), 4.5, &Cancel::new()).unwrap();
        assert!((made.plane(0).iter().sum::<f32>() - 1.0).abs() < 1e-4);
        assert!((made.sample(0, 33, 27).unwrap() - 1.0 / 81.0).abs() < 2e-3);
        assert_eq!(made.sample(0, 37, 30), Some(0.0));
        let line = along(&dot(), Vec2::from_angle(0.6), 12.0, &Cancel::new()).unwrap();
        assert!((line.plane(0).iter().sum::<f32>() - 1.0).abs() < 1e-4);
        let (x, y) = ((10.0 * 0.6_f32.cos()).round() as i32, (10.0 * 0.6_f32.sin()).round() as i32);
        assert!(
            line.sample(0, 30 + x, 30 + y).unwrap() > 0.015 && line.sample(0, 30 - y, 30 + x) == Some(0.0)
        );
    }

    #[test]
    fn what_is_even_stays() {
        let flat = Raster::filled(Window::new(-4, 9, 30, 20), 3, 0.7);
        for made in [boxed(&flat, 7.3, &Cancel::new()), along(&flat, Vec2::Y, 30.0, &Cancel::new())] {
            assert!(made.unwrap().data().iter().all(|v| (v - 0.7).abs() < 1e-5));
        }
    }
}
