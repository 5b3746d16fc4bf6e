//! Clay: an evenly lit grey surface.

use super::{ExtractInputs, Extraction, needs};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::{Raster, Role, surface};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Clay.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Clay {
    /// How far around a place things hide the sky.
    #[schemars(extend("x-label" = "Reach", "x-unit" = "units", "x-slider" = [0.0, 5.0], "x-step" = 0.01, "x-group" = "Occlusion"))]
    pub reach: f32,
    /// How strongly what is hidden darkens.
    #[schemars(extend("x-label" = "Darkens", "x-unit" = "×", "x-slider" = [0.0, 3.0], "x-step" = 0.01, "x-group" = "Occlusion"))]
    pub occlusion: f32,
    /// Directions in which the horizon is looked for: more are calmer and slower.
    #[schemars(extend("x-label" = "Directions", "x-slider" = [2.0, 32.0], "x-step" = 2.0, "x-group" = "Occlusion"))]
    pub directions: u32,
    /// How much more light comes from above than from below.
    #[schemars(extend("x-label" = "From above", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Light"))]
    pub sky: f32,
    /// Reflectance.
    #[schemars(extend("x-label" = "Grey", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Light"))]
    pub grey: f32,
}

impl Default for Clay {
    fn default() -> Self {
        Self { reach: 0.6, occlusion: 1.0, directions: 8, sky: 0.4, grey: 0.5 }
    }
}

impl Extraction for Clay {
    const TITLE: &'static str = "Clay";
    const ABOUT: &'static str =
        "The surface as grey clay under an even sky, darker where it sees less of it.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Clay
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Normal), needs(Role::Position)]
    }

    fn sentence(&self) -> String {
        format!("Clay, hidden within {:.2} units", self.reach)
    }

    fn check(&self) -> Result<(), String> {
        range("the reach", self.reach, 0.0, 1e6)?;
        range("occlusion", self.occlusion, 0.0, 100.0)?;
        range("the directions", self.directions as f32, 2.0, 64.0)?;
        range("the light from above", self.sky, 0.0, 1.0)?;
        range("the grey", self.grey, 0.0, 10.0)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let normals = given.need(Role::Normal, Self::TITLE)?;
        let positions = given.need(Role::Position, Self::TITLE)?;
        let how = surface::clay::Clay {
            reach: self.reach,
            occlusion: self.occlusion,
            sky: self.sky,
            grey: self.grey,
            directions: self.directions,
        };
        // Without a camera a common lens has to do: only the number of px looked at depends on it.
        let focal = given.camera.map_or(given.window.width as f32, |c| given.px(c.focal));
        let open = surface::clay::openness(normals, positions, focal, &how, given.cancel)?;
        Ok(surface::clay::clay(normals, Some(&open), &how, given.cancel)?)
    }
}
