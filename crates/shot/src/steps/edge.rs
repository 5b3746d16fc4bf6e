//! What steps that work along an edge have in common.

use crate::error::ShotError;
use crate::inputs::Inputs;
use crate::wants::{Want, takes};
use glam::Vec2;
use jugata_core::{Raster, Role};

/// What is asked for by a step along the edge of a named matte, or of the element itself.
pub(super) fn edge_of(matte: Option<u32>) -> Vec<Want> {
    vec![matte.map_or(takes(Role::Alpha), Want::Matte)]
}

/// The matte whose edge it is about: the one that was asked for, else the element's own coverage, which no shadow or glow
/// of an earlier step blurs.
pub(super) fn matte_of(picture: &Raster, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
    match inputs.matte().or_else(|| inputs.pass(Role::Alpha)) {
        Some(matte) => Ok(matte.clone()),
        None => Ok(Raster::from_planar(picture.window(), 1, picture.plane(3).to_vec())?),
    }
}

/// Unit vector of an angle in degrees, y down: 0 to the right, 90 up.
pub(super) fn toward(degrees: f32) -> Vec2 {
    let (sin, cos) = degrees.to_radians().sin_cos();
    Vec2::new(cos, -sin)
}
