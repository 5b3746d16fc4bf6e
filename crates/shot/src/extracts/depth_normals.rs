//! Normals from depth.

use super::{ExtractInputs, Extraction, needs};
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::surface::normals::from_positions;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Normals from depth has no parameters.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct DepthNormals {}

impl Extraction for DepthNormals {
    const TITLE: &'static str = "Normals from depth";
    const ABOUT: &'static str =
        "Finds which way surfaces face from positions, or from depth and camera; edges are not bridged.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Normal
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Position)]
    }

    fn sentence(&self) -> String {
        "Normals from depth".into()
    }

    fn check(&self) -> Result<(), String> {
        Ok(())
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        Ok(from_positions(given.need(Role::Position, Self::TITLE)?, given.cancel)?)
    }
}
