//! How much each place faces the viewer.

use super::{ExtractInputs, Extraction, needs, takes};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::{Raster, Role, surface};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Facing.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Facing {
    /// Exponent: above 1 only what faces the viewer squarely stays bright.
    #[schemars(extend("x-label" = "Power", "x-slider" = [0.1, 8.0], "x-step" = 0.01, "x-group" = "Facing"))]
    pub power: f32,
    /// Bright at the rims instead.
    #[schemars(extend("x-label" = "Rims", "x-group" = "Facing"))]
    pub rims: bool,
}

impl Default for Facing {
    fn default() -> Self {
        Self { power: 1.0, rims: false }
    }
}

impl Extraction for Facing {
    const TITLE: &'static str = "Facing";
    const ABOUT: &'static str =
        "How squarely each place faces the viewer: white where it does, black at the rims.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Other
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Normal), takes(Role::Position)]
    }

    fn sentence(&self) -> String {
        if self.rims { "Facing, bright at the rims".into() } else { "Facing".into() }
    }

    fn check(&self) -> Result<(), String> {
        range("the power", self.power, 0.01, 100.0)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let normals = given.need(Role::Normal, Self::TITLE)?;
        let mut out = surface::facing::facing(normals, given.pass(Role::Position), given.cancel)?;
        let surface: Vec<bool> = (0..out.plane(0).len())
            .map(|i| (0..3).map(|c| normals.plane(c)[i].powi(2)).sum::<f32>() > 0.25)
            .collect();
        for (v, is) in out.plane_mut(0).iter_mut().zip(surface) {
            let own = if self.rims { 1.0 - *v } else { *v };
            *v = if is { own.powf(self.power) } else { 0.0 };
        }
        Ok(out)
    }
}
