//! How a surface bends.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::surface;

/// Parameters of Curvature.
#[parameters]
pub struct Curvature {
    /// Length over which the bend is measured, full-resolution px.
    #[param(label = "Over", default = 3.0, range = [0.0, 1000.0], slider = [1.0, 40.0], step = 1.0, unit = "px", group = "Bend")]
    pub over: f32,
    /// Factor.
    #[param(label = "Gain", default = 1.0, range = [-1e4, 1e4], slider = [0.0, 10.0], step = 0.01, unit = "×", group = "Bend")]
    pub gain: f32,
}

impl Kind for Curvature {
    fn about(&self) -> About {
        About {
            title: "Curvature",
            about: "How a surface bends: above ½ where it bulges, below in hollows.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Normal), takes(Role::Depth)]
    }

    fn sentence(&self) -> String {
        format!("Curvature over {:.0} px", self.over)
    }
}

impl Extraction for Curvature {
    fn gives(&self) -> Role {
        Role::Other
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let normals = inputs.need(Role::Normal)?;
        let over = inputs.px(self.over);
        let mut out = surface::facing::curvature(normals, inputs.pass(Role::Depth), over, inputs.cancel)?;
        // At least one px is measured over, also where a scale makes that more than was asked for.
        let k = self.gain * over / over.round().max(1.0);
        out.plane_mut(0).iter_mut().for_each(|v| *v = (0.5 + *v * k).clamp(0.0, 1.0));
        Ok(out)
    }
}
