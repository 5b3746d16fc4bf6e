//! Depth carried on past the edge.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::depth::extend::{Extend, extend};

/// Parameters of Extend past the edge.
#[parameters]
pub struct ExtendDepth {
    /// Width of the band outside that is inputs a depth, full-resolution px.
    #[param(label = "By", default = 12.0, range = [0.0, 20_000.0], slider = [0.0, 100.0], step = 0.5, unit = "px", group = "Edge")]
    pub by: f32,
    /// How far inside the edge samples are not trusted, full-resolution px.
    #[param(label = "Choke", default = 1.0, range = [0.0, 1000.0], slider = [0.0, 10.0], step = 0.25, unit = "px", group = "Edge")]
    pub choke: f32,
    /// Blur of what is new, full-resolution px.
    #[param(label = "Soften", default = 2.0, range = [0.0, 400.0], slider = [0.0, 30.0], step = 0.25, unit = "px", group = "Edge")]
    pub soften: f32,
}

impl Kind for ExtendDepth {
    fn about(&self) -> About {
        About {
            title: "Extend past the edge",
            about: "Carries the element's own depth on outside its edge; the untouched depth stays on top.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Depth), takes(Role::Alpha)]
    }

    fn sentence(&self) -> String {
        format!("Depth extended by {:.0} px, choked by {:.1} px", self.by, self.choke)
    }
}

impl Extraction for ExtendDepth {
    fn gives(&self) -> Role {
        Role::Depth
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let depth = inputs.need(Role::Depth)?;
        let how =
            Extend { by: inputs.px(self.by), choke: inputs.px(self.choke), soften: inputs.px(self.soften) };
        Ok(extend(depth, inputs.pass(Role::Alpha), how, inputs.cancel)?)
    }
}
