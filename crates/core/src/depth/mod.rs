//! Depth put right, and depth for what has none. Everything here takes and gives canonical depth (see the crate
//! documentation): planar Z, scene units, larger is farther, infinite where nothing was hit.
//!
//! | module | subject |
//! |---|---|
//! | here | another range, direction, unit; along the ray; the nearest of several |
//! | [`extend`] | carried on past the edge of what it belongs to |
//! | [`holes`] | places without depth inside a surface |
//! | [`noise`] | grain taken out, edges left |
//! | [`plane`] | the depth of a plane |
//! | [`spread`] | depths painted in a few places, spread along the picture's edges |

pub mod crossing;
pub mod extend;
pub mod holes;
pub mod noise;
pub mod plane;
pub mod spread;

use crate::raster::bands::for_each_band;
use crate::{Camera, Cancel, KernelError, Raster, Scale, ShapeError};

/// Another range for depth: `from` becomes `to`, all else in proportion.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Range {
    /// Two depths as they are, scene units.
    pub from: [f32; 2],
    /// What they become. Exchanged ends reverse the depth.
    pub to: [f32; 2],
    /// Whether what lies outside is held at the ends.
    pub clamped: bool,
}

/// Depth in another range; nothing stays nothing. What would come out at or before the camera becomes the smallest
/// positive depth.
///
/// # Errors
/// A depth without exactly one channel; cancellation.
pub fn ranged(depth: &Raster, range: Range, cancel: &Cancel) -> Result<Raster, KernelError> {
    let [a, b] = range.from;
    let scale = (range.to[1] - range.to[0]) / if (b - a).abs() > 1e-12 { b - a } else { 1e-12 };
    let (low, high) = (range.to[0].min(range.to[1]), range.to[0].max(range.to[1]));
    each(depth, cancel, |z, _, _| {
        let v = range.to[0] + (z - a) * scale;
        let v = if range.clamped { v.clamp(low, high) } else { v };
        v.max(f32::MIN_POSITIVE)
    })
}

/// Which way the measure of a depth goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Along {
    /// From the distance along the ray to that along the axis.
    RayToAxis,
    /// From the distance along the axis to that along the ray.
    AxisToRay,
}

/// Depth measured along the axis instead of along each pixel's ray, or the other way:
/// `Z = d / sqrt(1 + ((x−cx)/f)² + ((y−cy)/f)²)`.
///
/// # Errors
/// A depth without exactly one channel; cancellation.
pub fn along(
    depth: &Raster,
    camera: &Camera,
    way: Along,
    scale: Scale,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let k = 1.0 / camera.focal;
    each(depth, cancel, |z, x, y| {
        let dx = (scale.picked(x) as f32 + 0.5 - camera.centre_x) * k;
        let dy = (scale.picked(y) as f32 + 0.5 - camera.centre_y) * k;
        let longer = (1.0 + dx * dx + dy * dy).sqrt();
        if way == Along::RayToAxis { z / longer } else { z * longer }
    })
}

/// The nearest of two depths at each pixel. The second may lie on another window.
///
/// # Errors
/// Depths without exactly one channel; cancellation.
pub fn nearest(depth: &Raster, other: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    other.expect_channels("depth", 1)?;
    let other = other.cropped(depth.window(), f32::INFINITY);
    let mut out = depth.clone();
    depth.expect_channels("depth", 1)?;
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            for (v, o) in band.row(0, y).iter_mut().zip(other.row(0, y)) {
                if !is_depth(*v) || (is_depth(*o) && *o < *v) {
                    *v = if is_depth(*o) { *o } else { f32::INFINITY };
                }
            }
        }
    })?;
    Ok(out)
}

/// Depth without what coverage of less than a half leaves out; all of it where coverage is not known.
///
/// # Errors
/// Shapes that do not match.
pub fn only_covered(mut depth: Raster, alpha: Option<&Raster>) -> Result<Raster, ShapeError> {
    let Some(alpha) = alpha else { return Ok(depth) };
    alpha.expect_channels("alpha", 1)?;
    alpha.expect_window("alpha", depth.window())?;
    let uncovered = depth.plane_mut(0).iter_mut().zip(alpha.plane(0)).filter(|(_, a)| **a < 0.5);
    uncovered.for_each(|(z, _)| *z = f32::INFINITY);
    Ok(depth)
}

/// Whether a value is the depth of something.
pub fn is_depth(z: f32) -> bool {
    z.is_finite() && z > 0.0
}

/// Every sample that is a depth, from its value and pixel.
fn each(
    depth: &Raster,
    cancel: &Cancel,
    f: impl Fn(f32, i32, i32) -> f32 + Sync,
) -> Result<Raster, KernelError> {
    depth.expect_channels("depth", 1)?;
    let mut out = Raster::zeros(depth.window(), 1);
    for_each_band(&mut out, cancel, |band| {
        let window = band.window();
        for y in window.rows() {
            let from = depth.row(0, y);
            for ((x, v), &z) in (window.x..).zip(band.row(0, y)).zip(from) {
                *v = if is_depth(z) { f(z, x, y) } else { f32::INFINITY };
            }
        }
    })?;
    Ok(out)
}

/// What a depth belongs to: where coverage is at least a half, or where there is any depth if coverage is not known.
fn inside(depth: &Raster, alpha: Option<&Raster>) -> Vec<bool> {
    match alpha {
        Some(a) => a.plane(0).iter().map(|a| *a >= 0.5).collect(),
        None => depth.plane(0).iter().map(|z| is_depth(*z)).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Convention, Role, Window};

    const NO: f32 = f32::INFINITY;

    fn row(v: &[f32]) -> Raster {
        Raster::from_planar(Window::of_size(v.len() as u32, 1), 1, v.to_vec()).unwrap()
    }

    #[test]
    fn a_range_is_stretched_reversed_and_held() {
        let z = row(&[2.0, 4.0, 8.0, NO, f32::NAN]);
        let go = |to, clamped| {
            ranged(&z, Range { from: [2.0, 6.0], to, clamped }, &Cancel::new()).unwrap().into_data()
        };
        assert_eq!(go([10.0, 30.0], false), [10.0, 20.0, 40.0, NO, NO]);
        assert_eq!(go([30.0, 10.0], false), [30.0, 20.0, f32::MIN_POSITIVE, NO, NO]);
        assert_eq!(go([10.0, 30.0], true), [10.0, 20.0, 30.0, NO, NO]);
    }

    #[test]
    fn along_the_ray_and_back() {
        let camera = Camera { focal: 100.0, centre_x: 0.5, centre_y: 0.5, world: None };
        let z = Raster::filled(Window::of_size(101, 2), 1, 5.0);
        let go = |z: &Raster, way| along(z, &camera, way, Scale::FULL, &Cancel::new()).unwrap();
        let ray = go(&z, Along::AxisToRay);
        // 45° to the side the ray is √2 as long.
        assert!((ray.sample(0, 100, 0).unwrap() - 5.0 * 2f32.sqrt()).abs() < 1e-5);
        let back = go(&ray, Along::RayToAxis);
        assert!(back.plane(0).iter().all(|v| (v - 5.0).abs() < 1e-5));
        // The door does the same to a pass that is stored along the ray.
        let convention =
            Convention { depth: crate::passes::convention::DepthMeasure::AlongRay, ..Convention::default() };
        let setting = crate::passes::convention::Setting { camera: Some(camera), display: z.window() };
        let door =
            crate::passes::convention::canonical(&ray, Role::Depth, &convention, &setting, &Cancel::new())
                .unwrap();
        assert!(door.plane(0).iter().zip(back.plane(0)).all(|(a, b)| (a - b).abs() < 1e-5));
    }

    #[test]
    fn the_nearest_of_two_knows_nothing() {
        let a = row(&[2.0, 5.0, NO, NO, f32::NAN]);
        let b = row(&[3.0, 4.0, 6.0, NO, 1.0]);
        assert_eq!(nearest(&a, &b, &Cancel::new()).unwrap().data(), [2.0, 4.0, 6.0, NO, 1.0]);
        let alpha = row(&[1.0, 0.4, 0.5, 0.0, 0.0]);
        assert_eq!(only_covered(a.clone(), Some(&alpha)).unwrap().data(), [2.0, NO, NO, NO, NO]);
        let aside = Raster::filled(Window::new(1, 0, 1, 1), 1, 1.0);
        assert_eq!(nearest(&a, &aside, &Cancel::new()).unwrap().data(), [2.0, 1.0, NO, NO, NO]);
    }
}
