//! Normals from height.

use super::{Extraction, Given, needs};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::surface::normals::{Derivative, FromHeight, from_height};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Normals from height.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct HeightNormals {
    /// How high a step of 1 is, full-resolution px.
    #[schemars(extend("x-label" = "Strength", "x-unit" = "px", "x-slider" = [0.0, 40.0], "x-step" = 0.1, "x-group" = "Slope"))]
    pub strength: f32,
    /// How slopes are measured.
    #[schemars(extend("x-label" = "Kernel", "x-group" = "Slope"))]
    pub kernel: Derivative,
    /// Whether the map repeats: its edges then fit each other.
    #[schemars(extend("x-label" = "Tileable", "x-group" = "Map"))]
    pub tileable: bool,
    /// Whether y runs down, for tools that want it so; lamps here want it up.
    #[schemars(extend("x-label" = "Y down", "x-group" = "Map"))]
    pub y_down: bool,
}

impl Default for HeightNormals {
    fn default() -> Self {
        Self { strength: 6.0, kernel: Derivative::Sobel, tileable: false, y_down: false }
    }
}

impl Extraction for HeightNormals {
    const TITLE: &'static str = "Normals from height";
    const ABOUT: &'static str = "Turns a height into a normal map; flat places face the viewer.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Normal
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Height)]
    }

    fn sentence(&self) -> String {
        format!("Normals from height, {:.1} px high", self.strength)
    }

    fn check(&self) -> Result<(), String> {
        range("the strength", self.strength, -1e5, 1e5)
    }

    fn make(&self, given: &Given<'_>) -> Result<Raster, ShotError> {
        // A proxy's px is longer, and so is what a height rises over it.
        let how = FromHeight {
            strength: given.px(self.strength),
            kernel: self.kernel,
            tileable: self.tileable,
            y_down: self.y_down,
        };
        Ok(from_height(given.need(Role::Height, Self::TITLE)?, how, given.cancel)?)
    }
}
