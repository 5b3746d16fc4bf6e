//! Positions from depth.

use super::extraction::Extraction;
use crate::kinds::prelude::*;

/// Positions from depth has no parameters.
#[parameters]
pub struct DepthPosition {}

impl Kind for DepthPosition {
    fn about(&self) -> About {
        About {
            title: "Positions from depth",
            about: "Places each pixel in the scene by its depth and the camera; steps that need positions do so by themselves.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Depth)]
    }

    fn sentence(&self) -> String {
        "Positions from depth".into()
    }
}

impl Extraction for DepthPosition {
    fn gives(&self) -> Role {
        Role::Position
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let depth = inputs.need(Role::Depth)?;
        let Some(camera) = inputs.camera else {
            let what = "it needs the camera of the render; give it in Intake";
            return Err(inputs.wrong(what));
        };
        Ok(camera.positions(depth, inputs.scale, inputs.cancel)?)
    }
}
