//! Positions from depth.

use super::{ExtractInputs, Extraction, needs};
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Positions from depth has no parameters.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct DepthPosition {}

impl Extraction for DepthPosition {
    const TITLE: &'static str = "Positions from depth";
    const ABOUT: &'static str = "Places each pixel in the scene by its depth and the camera; steps that need positions do so by themselves.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Position
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Depth)]
    }

    fn sentence(&self) -> String {
        "Positions from depth".into()
    }

    fn check(&self) -> Result<(), String> {
        Ok(())
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let depth = given.need(Role::Depth, Self::TITLE)?;
        let Some(camera) = given.camera else {
            let what = "it needs the camera of the render; give it in Intake".into();
            return Err(ShotError::Parameter { place: Self::TITLE.into(), what });
        };
        Ok(camera.positions(depth, given.scale, given.cancel)?)
    }
}
