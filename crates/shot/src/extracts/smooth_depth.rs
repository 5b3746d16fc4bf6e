//! Grain taken out of a depth.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::depth::noise::{Smooth, smooth};

/// Parameters of Take the grain out.
#[parameters]
pub struct SmoothDepth {
    /// How far around a pixel samples are taken from, full-resolution px.
    #[param(label = "Radius", default = 4.0, range = [0.0, 16.0], slider = [0.0, 16.0], step = 0.5, unit = "px", group = "Grain")]
    pub radius: f32,
    /// Difference of depth, percent of the depth, up to which it is grain and not an edge.
    #[param(label = "Grain", default = 3.0, range = [0.0, 100.0], slider = [0.0, 20.0], step = 0.1, unit = "%", group = "Grain")]
    pub grain: f32,
}

impl Kind for SmoothDepth {
    fn about(&self) -> About {
        About {
            title: "Take the grain out",
            about: "Smooths a noisy depth on each surface and leaves its edges and slants.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Depth)]
    }

    fn sentence(&self) -> String {
        format!("Depth without grain of {:.1} %", self.grain)
    }
}

impl Extraction for SmoothDepth {
    fn gives(&self) -> Role {
        Role::Depth
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let how = Smooth { radius: inputs.px(self.radius), step: self.grain * 0.01 };
        Ok(smooth(inputs.need(Role::Depth)?, how, inputs.cancel)?)
    }
}
