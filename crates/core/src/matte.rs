//! Mattes: one plane, 0 = untouched, 1 = fully affected.

use crate::{Raster, ShapeError};

/// 1 where the object ID is one of `ids`. Hard, since IDs are exact per pixel.
///
/// # Errors
/// An ID raster without exactly one channel.
pub fn from_ids(id: &Raster, ids: &[u32]) -> Result<Raster, ShapeError> {
    id.expect_channels("object ID", 1)?;
    let chosen: Vec<f32> = ids.iter().map(|&i| i as f32).collect();
    map(id, |v| if chosen.contains(&v) { 1.0 } else { 0.0 })
}

/// A range of depth, in scene units, with soft ends.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct DepthRange {
    /// Nearest fully affected depth.
    pub near: f32,
    /// Farthest fully affected depth.
    pub far: f32,
    /// Length of the ramp in front of `near`.
    pub near_soft: f32,
    /// Length of the ramp behind `far`.
    pub far_soft: f32,
}

/// 1 inside the range, falling linearly to 0 over each soft end; 0 where there is no depth.
///
/// # Errors
/// A depth raster without exactly one channel.
pub fn from_depth(depth: &Raster, range: DepthRange) -> Result<Raster, ShapeError> {
    depth.expect_channels("depth", 1)?;
    let ramp = |distance: f32, soft: f32| {
        if distance <= 0.0 {
            1.0
        } else if soft > 0.0 {
            (1.0 - distance / soft).max(0.0)
        } else {
            0.0
        }
    };
    map(depth, |z| {
        if z.is_finite() {
            ramp(range.near - z, range.near_soft).min(ramp(z - range.far, range.far_soft))
        } else {
            0.0
        }
    })
}

/// `1 − m`.
///
/// # Errors
/// A matte without exactly one channel.
pub fn invert(matte: &Raster) -> Result<Raster, ShapeError> {
    matte.expect_channels("matte", 1)?;
    map(matte, |v| 1.0 - v)
}

fn map(source: &Raster, f: impl Fn(f32) -> f32) -> Result<Raster, ShapeError> {
    Raster::from_planar(source.window(), 1, source.plane(0).iter().map(|&v| f(v)).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn row(v: &[f32]) -> Raster {
        Raster::from_planar(Window::of_size(v.len() as u32, 1), 1, v.to_vec()).unwrap()
    }

    #[test]
    fn ids_are_hard_and_several() {
        let m = from_ids(&row(&[0.0, 3.0, 7.0, 3.5]), &[3, 7]).unwrap();
        assert_eq!(m.plane(0), [0.0, 1.0, 1.0, 0.0]);
        assert_eq!(invert(&m).unwrap().plane(0), [1.0, 0.0, 0.0, 1.0]);
    }

    #[test]
    fn depth_range_has_soft_ends_and_no_background() {
        let r = DepthRange { near: 2.0, far: 4.0, near_soft: 1.0, far_soft: 2.0 };
        let z = row(&[0.5, 1.5, 2.0, 3.0, 5.0, 7.0, f32::INFINITY, f32::NAN]);
        assert_eq!(from_depth(&z, r).unwrap().plane(0), [0.0, 0.5, 1.0, 1.0, 0.5, 0.0, 0.0, 0.0]);
        let hard = DepthRange { near_soft: 0.0, far_soft: 0.0, ..r };
        assert_eq!(from_depth(&row(&[1.99, 2.0, 4.0, 4.01]), hard).unwrap().plane(0), [0.0, 1.0, 1.0, 0.0]);
    }
}
