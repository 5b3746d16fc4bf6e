//! Depth carried on past the edge.

use super::{ExtractInputs, Extraction, needs, takes};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::depth::extend::{Extend, extend};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Extend past the edge.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct ExtendDepth {
    /// Width of the band outside that is given a depth, full-resolution px.
    #[schemars(extend("x-label" = "By", "x-unit" = "px", "x-slider" = [0.0, 100.0], "x-step" = 0.5, "x-group" = "Edge"))]
    pub by: f32,
    /// How far inside the edge samples are not trusted, full-resolution px.
    #[schemars(extend("x-label" = "Choke", "x-unit" = "px", "x-slider" = [0.0, 10.0], "x-step" = 0.25, "x-group" = "Edge"))]
    pub choke: f32,
    /// Blur of what is new, full-resolution px.
    #[schemars(extend("x-label" = "Soften", "x-unit" = "px", "x-slider" = [0.0, 30.0], "x-step" = 0.25, "x-group" = "Edge"))]
    pub soften: f32,
}

impl Default for ExtendDepth {
    fn default() -> Self {
        Self { by: 12.0, choke: 1.0, soften: 2.0 }
    }
}

impl Extraction for ExtendDepth {
    const TITLE: &'static str = "Extend past the edge";
    const ABOUT: &'static str =
        "Carries the element's own depth on outside its edge; the untouched depth stays on top.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Depth
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Depth), takes(Role::Alpha)]
    }

    fn sentence(&self) -> String {
        format!("Depth extended by {:.0} px, choked by {:.1} px", self.by, self.choke)
    }

    fn check(&self) -> Result<(), String> {
        range("the width", self.by, 0.0, 20_000.0)?;
        range("the choke", self.choke, 0.0, 1000.0)?;
        range("the softness", self.soften, 0.0, 400.0)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let depth = given.need(Role::Depth, Self::TITLE)?;
        let how =
            Extend { by: given.px(self.by), choke: given.px(self.choke), soften: given.px(self.soften) };
        Ok(extend(depth, given.pass(Role::Alpha), how, given.cancel)?)
    }
}
