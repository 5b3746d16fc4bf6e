//! Grain taken out of a depth.

use super::{ExtractInputs, Extraction, needs};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::depth::noise::{Smooth, smooth};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Take the grain out.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct SmoothDepth {
    /// How far around a pixel samples are taken from, full-resolution px.
    #[schemars(extend("x-label" = "Radius", "x-unit" = "px", "x-slider" = [0.0, 16.0], "x-step" = 0.5, "x-group" = "Grain"))]
    pub radius: f32,
    /// Difference of depth, percent of the depth, up to which it is grain and not an edge.
    #[schemars(extend("x-label" = "Grain", "x-unit" = "%", "x-slider" = [0.0, 20.0], "x-step" = 0.1, "x-group" = "Grain"))]
    pub grain: f32,
}

impl Default for SmoothDepth {
    fn default() -> Self {
        Self { radius: 4.0, grain: 3.0 }
    }
}

impl Extraction for SmoothDepth {
    const TITLE: &'static str = "Take the grain out";
    const ABOUT: &'static str = "Smooths a noisy depth on each surface and leaves its edges and slants.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Depth
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Depth)]
    }

    fn sentence(&self) -> String {
        format!("Depth without grain of {:.1} %", self.grain)
    }

    fn check(&self) -> Result<(), String> {
        range("the radius", self.radius, 0.0, 16.0)?;
        range("the grain", self.grain, 0.0, 100.0)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let how = Smooth { radius: given.px(self.radius), step: self.grain * 0.01 };
        Ok(smooth(given.need(Role::Depth, Self::TITLE)?, how, given.cancel)?)
    }
}
