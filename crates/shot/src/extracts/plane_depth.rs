//! Depth of a plane.

use super::{ExtractInputs, Extraction, takes};
use crate::check::range;
use crate::error::ShotError;
use crate::limit::at_scale;
use crate::steps::Reads;
use jugata_core::depth::plane::{Plane, plane};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of As a plane.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct PlaneDepth {
    /// A place of the picture, full-resolution px.
    #[schemars(extend("x-label" = "Near at", "x-meaning" = "place", "x-unit" = "px", "x-step" = 1.0, "x-group" = "Near"))]
    pub near_at: [f32; 2],
    /// Depth there.
    #[schemars(extend("x-label" = "Depth", "x-unit" = "units", "x-slider" = [0.1, 20.0], "x-step" = 0.01, "x-group" = "Near"))]
    pub near: f32,
    /// Another place.
    #[schemars(extend("x-label" = "Far at", "x-meaning" = "place", "x-unit" = "px", "x-step" = 1.0, "x-group" = "Far"))]
    pub far_at: [f32; 2],
    /// Depth there.
    #[schemars(extend("x-label" = "Depth", "x-unit" = "units", "x-slider" = [0.1, 20.0], "x-step" = 0.01, "x-group" = "Far"))]
    pub far: f32,
    /// Turn of the lines of equal depth.
    #[schemars(extend("x-label" = "Tilt", "x-unit" = "°", "x-slider" = [-85.0, 85.0], "x-step" = 0.5, "x-group" = "Near"))]
    pub tilt: f32,
    /// Whether only what the element covers gets a depth.
    #[schemars(extend("x-label" = "Only the element", "x-group" = "Far"))]
    pub only_covered: bool,
}

impl Default for PlaneDepth {
    fn default() -> Self {
        Self {
            near_at: [100.0, 400.0],
            near: 4.0,
            far_at: [100.0, 100.0],
            far: 8.0,
            tilt: 0.0,
            only_covered: true,
        }
    }
}

impl Extraction for PlaneDepth {
    const TITLE: &'static str = "As a plane";
    const ABOUT: &'static str =
        "Gives an element without depth that of a plane through two places of the picture, with a tilt.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Depth
    }

    fn reads(&self) -> Vec<Reads> {
        vec![takes(Role::Alpha)]
    }

    fn sentence(&self) -> String {
        format!("Depth of a plane from {:.2} to {:.2} units", self.near, self.far)
    }

    fn check(&self) -> Result<(), String> {
        for v in self.near_at.into_iter().chain(self.far_at) {
            range("a place", v, -200_000.0, 200_000.0)?;
        }
        range("the near depth", self.near, 1e-6, 1e9)?;
        range("the far depth", self.far, 1e-6, 1e9)?;
        range("the tilt", self.tilt, -85.0, 85.0)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let places = [self.near_at, self.far_at].map(|p| at_scale(p, given.scale));
        let p = Plane { places, depths: [self.near, self.far], tilt: self.tilt };
        let z = plane(given.window, p, given.cancel)?;
        let alpha = given.pass(Role::Alpha).filter(|_| self.only_covered);
        Ok(jugata_core::depth::only_covered(z, alpha)?)
    }
}
