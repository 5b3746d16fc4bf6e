//! Clay: an evenly lit grey surface.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::surface;

/// Parameters of Clay.
#[parameters]
pub struct Clay {
    /// How far around a place things hide the sky.
    #[param(label = "Reach", default = 0.6, range = [0.0, 1e6], slider = [0.0, 5.0], step = 0.01, unit = "units", group = "Occlusion")]
    pub reach: f32,
    /// How strongly what is hidden darkens.
    #[param(label = "Darkens", default = 1.0, range = [0.0, 100.0], slider = [0.0, 3.0], step = 0.01, unit = "×", group = "Occlusion")]
    pub occlusion: f32,
    /// Directions in which the horizon is looked for: more are calmer and slower.
    #[param(label = "Directions", default = 8, range = [2.0, 64.0], slider = [2.0, 32.0], step = 2.0, group = "Occlusion")]
    pub directions: u32,
    /// How much more light comes from above than from below.
    #[param(label = "From above", default = 0.4, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Light")]
    pub sky: f32,
    /// Reflectance.
    #[param(label = "Grey", default = 0.5, range = [0.0, 10.0], slider = [0.0, 1.0], step = 0.01, group = "Light")]
    pub grey: f32,
}

impl Kind for Clay {
    fn about(&self) -> About {
        About {
            title: "Clay",
            about: "The surface as grey clay under an even sky, darker where it sees less of it.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Normal), needs(Role::Position)]
    }

    fn sentence(&self) -> String {
        format!("Clay, hidden within {:.2} units", self.reach)
    }
}

impl Extraction for Clay {
    fn gives(&self) -> Role {
        Role::Clay
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let normals = inputs.need(Role::Normal)?;
        let positions = inputs.need(Role::Position)?;
        let how = surface::clay::Clay {
            reach: self.reach,
            occlusion: self.occlusion,
            sky: self.sky,
            grey: self.grey,
            directions: self.directions,
        };
        // Without a camera a common lens has to do: only the number of px looked at depends on it.
        let focal = inputs.camera.map_or(inputs.window.width as f32, |c| inputs.px(c.focal));
        let open = surface::clay::openness(normals, positions, focal, &how, inputs.cancel)?;
        Ok(surface::clay::clay(normals, Some(&open), &how, inputs.cancel)?)
    }
}
