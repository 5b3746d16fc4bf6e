//! Normals from height.

use super::{ExtractInputs, Extraction, needs};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::surface::height::{Bands, weighed};
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
    /// How strongly detail finer than the size comes through.
    #[schemars(extend("x-label" = "Fine", "x-unit" = "×", "x-slider" = [0.0, 3.0], "x-step" = 0.01, "x-group" = "Detail"))]
    #[serde(default = "whole")]
    pub fine: f32,
    /// How strongly detail up to four times the size comes through.
    #[schemars(extend("x-label" = "Middle", "x-unit" = "×", "x-slider" = [0.0, 3.0], "x-step" = 0.01, "x-group" = "Detail"))]
    #[serde(default = "whole")]
    pub middle: f32,
    /// How strongly all that is broader comes through.
    #[schemars(extend("x-label" = "Broad", "x-unit" = "×", "x-slider" = [0.0, 3.0], "x-step" = 0.01, "x-group" = "Detail"))]
    #[serde(default = "whole")]
    pub broad: f32,
    /// Where fine detail ends.
    #[schemars(extend("x-label" = "Size", "x-unit" = "px", "x-slider" = [1.0, 40.0], "x-step" = 0.5, "x-group" = "Detail"))]
    #[serde(default = "usual_size")]
    pub size: f32,
    /// Whether the map repeats: its edges then fit each other.
    #[schemars(extend("x-label" = "Tileable", "x-group" = "Map"))]
    pub tileable: bool,
    /// Whether y runs down, for tools that want it so; lamps here want it up.
    #[schemars(extend("x-label" = "Y down", "x-group" = "Map"))]
    pub y_down: bool,
}

/// As it is.
fn whole() -> f32 {
    1.0
}

/// About what a brush stroke or a grain is wide in a photograph for a texture.
fn usual_size() -> f32 {
    6.0
}

impl Default for HeightNormals {
    fn default() -> Self {
        Self {
            strength: 6.0,
            kernel: Derivative::Sobel,
            fine: 1.0,
            middle: 1.0,
            broad: 1.0,
            size: usual_size(),
            tileable: false,
            y_down: false,
        }
    }
}

impl Extraction for HeightNormals {
    const TITLE: &'static str = "Normals from height";
    const ABOUT: &'static str = "Turns a height into a normal map; flat places face the viewer.";
    const VERSION: u32 = 2;

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
        for (what, v) in [("fine", self.fine), ("middle", self.middle), ("broad", self.broad)] {
            range(what, v, -100.0, 100.0)?;
        }
        range("the size", self.size, 0.1, 1e4)?;
        range("the strength", self.strength, -1e5, 1e5)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        // A proxy's px is longer, and so is what a height rises over it.
        let how = FromHeight {
            strength: given.px(self.strength),
            kernel: self.kernel,
            tileable: self.tileable,
            y_down: self.y_down,
        };
        let bands =
            Bands { fine: self.fine, middle: self.middle, broad: self.broad, size: given.px(self.size) };
        let height = weighed(given.need(Role::Height, Self::TITLE)?, bands, given.cancel)?;
        Ok(from_height(&height, how, given.cancel)?)
    }
}
