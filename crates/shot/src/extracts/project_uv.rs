//! UV from positions.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use glam::{EulerRot, Mat3, Vec3};
use jugata_core::texture::colour_at;
use jugata_core::texture::project::{Form, Projector, projected};

/// Parameters of UV from position.
#[parameters]
pub struct ProjectUv {
    /// What the texture is wrapped on.
    #[param(label = "Wrapped on", group = "Form")]
    pub form: Form,
    /// What it is fitted to: a matte of the element, or all of it.
    #[param(label = "Fitted to", means = "part-matte", group = "Form")]
    #[ts(optional = nullable)]
    pub of: Option<u32>,
    /// Whether it goes by the rest position, so that it sticks to what moves or bends.
    #[param(label = "By rest position", group = "Form")]
    pub rest: bool,
    /// Turned about its upright axis; also where the seam lies.
    #[param(label = "Turn", range = [-3600.0, 3600.0], slider = [-180.0, 180.0], step = 1.0, unit = "°", group = "Turned")]
    pub turn: f32,
    /// Leaning back.
    #[param(label = "Lean", range = [-3600.0, 3600.0], slider = [-90.0, 90.0], step = 1.0, unit = "°", group = "Turned")]
    pub lean: f32,
    /// Leaning to the side.
    #[param(label = "Roll", range = [-3600.0, 3600.0], slider = [-90.0, 90.0], step = 1.0, unit = "°", group = "Turned")]
    pub roll: f32,
    /// How large it is beside what it is fitted to.
    #[param(label = "Size", default = [1.0, 1.0], range = [0.001, 1000.0], step = 0.01, unit = "×", means = "pair", group = "Turned")]
    pub size: [f32; 2],
}

impl ProjectUv {
    fn turned(&self) -> Mat3 {
        let [y, x, z] = [self.turn, self.lean, self.roll].map(f32::to_radians);
        Mat3::from_euler(EulerRot::YXZ, y, x, z).transpose()
    }
}

impl Kind for ProjectUv {
    fn about(&self) -> About {
        About {
            title: "UV from position",
            about: "Wraps a plane, a cylinder or a sphere around an object, where a render has no UV or a poor one.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let places = if self.rest { Role::Rest } else { Role::Position };
        vec![needs(places), cover(self.of)]
    }

    fn sentence(&self) -> String {
        let form = match self.form {
            Form::Plane => "a plane",
            Form::Cylinder => "a cylinder",
            Form::Sphere => "a sphere",
        };
        let held = if self.rest { ", held to the rest position" } else { "" };
        format!("UV from {form} around the object, turned {:.0}°{held}", self.turn)
    }
}

impl Extraction for ProjectUv {
    fn gives(&self) -> Role {
        Role::Uv
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let places = inputs.need(if self.rest { Role::Rest } else { Role::Position })?;
        let whole = Raster::filled(inputs.window, 1, 1.0);
        let on = inputs.cover().unwrap_or(&whole);
        // The rest position has its own axes; nothing is known of the eye there.
        let camera = inputs.camera.filter(|_| !self.rest);
        let eye = if self.rest { Vec3::ZERO } else { Vec3::Z };
        // The projector stands upright in the world where the camera's pose is known.
        let upright = camera.and_then(|c| c.turn_to_world()).unwrap_or(Mat3::IDENTITY);
        let turn = self.turned() * upright;
        let seen = (0..inputs.window.area()).filter(|&i| on.plane(0)[i] >= 0.99);
        // Where nothing is, there is no place.
        let seen = seen.map(|i| colour_at(places, i)).filter(|p| *p != Vec3::ZERO);
        let Some(mut by) = Projector::fitted(self.form, turn, seen, eye) else {
            return Ok(Raster::zeros(inputs.window, 2));
        };
        by.half.x *= self.size[0];
        by.half.y *= self.size[1];
        Ok(projected(places, on, &by, inputs.cancel)?)
    }
}
