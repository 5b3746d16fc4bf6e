//! How a surface bends.

use super::{ExtractInputs, Extraction, needs, takes};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::{Raster, Role, surface};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Curvature.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Curvature {
    /// Length over which the bend is measured, full-resolution px.
    #[schemars(extend("x-label" = "Over", "x-unit" = "px", "x-slider" = [1.0, 40.0], "x-step" = 1.0, "x-group" = "Bend"))]
    pub over: f32,
    /// Factor.
    #[schemars(extend("x-label" = "Gain", "x-unit" = "×", "x-slider" = [0.0, 10.0], "x-step" = 0.01, "x-group" = "Bend"))]
    pub gain: f32,
}

impl Default for Curvature {
    fn default() -> Self {
        Self { over: 3.0, gain: 1.0 }
    }
}

impl Extraction for Curvature {
    const TITLE: &'static str = "Curvature";
    const ABOUT: &'static str = "How a surface bends: above ½ where it bulges, below in hollows.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Other
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Normal), takes(Role::Depth)]
    }

    fn sentence(&self) -> String {
        format!("Curvature over {:.0} px", self.over)
    }

    fn check(&self) -> Result<(), String> {
        range("the length", self.over, 0.0, 1000.0)?;
        range("the gain", self.gain, -1e4, 1e4)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let normals = given.need(Role::Normal, Self::TITLE)?;
        let over = given.px(self.over);
        let mut out = surface::facing::curvature(normals, given.pass(Role::Depth), over, given.cancel)?;
        // At least one px is measured over, also where a scale makes that more than was asked for.
        let k = self.gain * over / over.round().max(1.0);
        out.plane_mut(0).iter_mut().for_each(|v| *v = (0.5 + *v * k).clamp(0.0, 1.0));
        Ok(out)
    }
}
