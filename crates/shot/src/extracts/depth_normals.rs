//! Normals from depth.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::surface::normals::from_positions;

/// Normals from depth has no parameters.
#[parameters]
pub struct DepthNormals {}

impl Kind for DepthNormals {
    fn about(&self) -> About {
        About {
            title: "Normals from depth",
            about: "Finds which way surfaces face from positions, or from depth and camera; edges are not bridged.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Position)]
    }

    fn sentence(&self) -> String {
        "Normals from depth".into()
    }
}

impl Extraction for DepthNormals {
    fn gives(&self) -> Role {
        Role::Normal
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        Ok(from_positions(inputs.need(Role::Position)?, inputs.cancel)?)
    }
}
