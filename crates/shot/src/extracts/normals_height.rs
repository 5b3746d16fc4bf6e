//! Height from normals.

use super::{ExtractInputs, Extraction, needs};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::surface::height::from_normals;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Height from normals.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct NormalsHeight {
    /// Height that counts as a step of 1, full-resolution px.
    #[schemars(extend("x-label" = "Strength", "x-unit" = "px", "x-slider" = [0.1, 100.0], "x-step" = 0.1, "x-group" = "Height"))]
    pub strength: f32,
    /// Whether the map repeats.
    #[schemars(extend("x-label" = "Tileable", "x-group" = "Height"))]
    pub tileable: bool,
}

impl Default for NormalsHeight {
    fn default() -> Self {
        Self { strength: 20.0, tileable: false }
    }
}

impl Extraction for NormalsHeight {
    const TITLE: &'static str = "Height from normals";
    const ABOUT: &'static str = "Integrates normals into the height that fits their slopes best.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Height
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Normal)]
    }

    fn sentence(&self) -> String {
        format!("Height from normals, {:.1} px a step", self.strength)
    }

    fn check(&self) -> Result<(), String> {
        range("the strength", self.strength, 1e-3, 1e6)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let normals = given.need(Role::Normal, Self::TITLE)?;
        let mut height = from_normals(normals, given.px(self.strength), self.tileable, given.cancel)?;
        // About ½, as a height from a picture is.
        height.plane_mut(0).iter_mut().for_each(|v| *v += 0.5);
        Ok(height)
    }
}
