//! Holes in a depth filled.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::depth::holes::fill;

/// Parameters of Fill holes.
#[parameters]
pub struct FillDepth {
    /// Side of a square as large as the largest hole that is filled, full-resolution px.
    #[param(label = "Up to", default = 60.0, range = [0.0, 20_000.0], slider = [1.0, 200.0], step = 1.0, unit = "px", group = "Holes")]
    pub up_to: f32,
}

impl Kind for FillDepth {
    fn about(&self) -> About {
        About {
            title: "Fill holes",
            about: "Closes places without depth inside the element with a smooth sheet; what one looks through stays open.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Depth), takes(Role::Alpha)]
    }

    fn sentence(&self) -> String {
        format!("Depth with holes up to {:.0} px filled", self.up_to)
    }
}

impl Extraction for FillDepth {
    fn gives(&self) -> Role {
        Role::Depth
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let most = inputs.px(self.up_to).powi(2).ceil() as usize;
        Ok(fill(inputs.need(Role::Depth)?, inputs.pass(Role::Alpha), most, inputs.cancel)?)
    }
}
