//! Depth of a plane.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use crate::params::at_scale;
use jugata_core::depth::plane::{Plane, plane};

/// Parameters of As a plane.
#[parameters]
pub struct PlaneDepth {
    /// A place of the picture, full-resolution px.
    #[param(label = "Near at", default = [100.0, 400.0], range = [-200_000.0, 200_000.0], step = 1.0, unit = "px", means = "place", group = "Near")]
    pub near_at: [f32; 2],
    /// Depth there.
    #[param(label = "Depth", default = 4.0, range = [1e-6, 1e9], slider = [0.1, 20.0], step = 0.01, unit = "units", group = "Near")]
    pub near: f32,
    /// Another place.
    #[param(label = "Far at", default = [100.0, 100.0], range = [-200_000.0, 200_000.0], step = 1.0, unit = "px", means = "place", group = "Far")]
    pub far_at: [f32; 2],
    /// Depth there.
    #[param(label = "Depth", default = 8.0, range = [1e-6, 1e9], slider = [0.1, 20.0], step = 0.01, unit = "units", group = "Far")]
    pub far: f32,
    /// Turn of the lines of equal depth.
    #[param(label = "Tilt", default = 0.0, range = [-85.0, 85.0], slider = [-85.0, 85.0], step = 0.5, unit = "°", group = "Near")]
    pub tilt: f32,
    /// Whether only what the element covers gets a depth.
    #[param(label = "Only the element", default = true, group = "Far")]
    pub only_covered: bool,
}

impl Kind for PlaneDepth {
    fn about(&self) -> About {
        About {
            title: "As a plane",
            about: "Gives an element without depth that of a plane through two places of the picture, with a tilt.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![takes(Role::Alpha)]
    }

    fn sentence(&self) -> String {
        format!("Depth of a plane from {:.2} to {:.2} units", self.near, self.far)
    }
}

impl Extraction for PlaneDepth {
    fn gives(&self) -> Role {
        Role::Depth
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let places = [self.near_at, self.far_at].map(|p| at_scale(p, inputs.scale));
        let p = Plane { places, depths: [self.near, self.far], tilt: self.tilt };
        let z = plane(inputs.window, p, inputs.cancel)?;
        let alpha = inputs.pass(Role::Alpha).filter(|_| self.only_covered);
        Ok(jugata_core::depth::only_covered(z, alpha)?)
    }
}
