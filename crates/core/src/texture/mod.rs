//! Pictures on surfaces: what a render's UV says of where a texture lies, how it is read without shimmer, and the light
//! that it is seen in.
//!
//! Texture space is the unit square of the texture's own picture: x right, y down, `(0, 0)` its upper left corner.

pub mod flat;
pub mod lay;
pub mod outline;
pub mod placing;
pub mod project;
pub mod pyramid;
pub mod shading;
pub mod surface;

use crate::Raster;
use glam::Vec3;

/// The first three planes of a pixel.
#[inline]
pub fn colour_at(raster: &Raster, i: usize) -> Vec3 {
    Vec3::new(raster.plane(0)[i], raster.plane(1)[i], raster.plane(2)[i])
}
