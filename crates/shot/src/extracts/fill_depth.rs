//! Holes in a depth filled.

use super::{ExtractInputs, Extraction, needs, takes};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::depth::holes::fill;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Fill holes.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct FillDepth {
    /// Side of a square as large as the largest hole that is filled, full-resolution px.
    #[schemars(extend("x-label" = "Up to", "x-unit" = "px", "x-slider" = [1.0, 200.0], "x-step" = 1.0, "x-group" = "Holes"))]
    pub up_to: f32,
}

impl Default for FillDepth {
    fn default() -> Self {
        Self { up_to: 60.0 }
    }
}

impl Extraction for FillDepth {
    const TITLE: &'static str = "Fill holes";
    const ABOUT: &'static str = "Closes places without depth inside the element with a smooth sheet; what one looks through stays open.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Depth
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Depth), takes(Role::Alpha)]
    }

    fn sentence(&self) -> String {
        format!("Depth with holes up to {:.0} px filled", self.up_to)
    }

    fn check(&self) -> Result<(), String> {
        range("the size of holes", self.up_to, 0.0, 20_000.0)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let most = given.px(self.up_to).powi(2).ceil() as usize;
        Ok(fill(given.need(Role::Depth, Self::TITLE)?, given.pass(Role::Alpha), most, given.cancel)?)
    }
}
