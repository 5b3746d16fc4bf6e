//! Height from normals.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::surface::height::from_normals;

/// Parameters of Height from normals.
#[parameters]
pub struct NormalsHeight {
    /// Height that counts as a step of 1, full-resolution px.
    #[param(label = "Strength", default = 20.0, range = [1e-3, 1e6], slider = [0.1, 100.0], step = 0.1, unit = "px", group = "Height")]
    pub strength: f32,
    /// Whether the map repeats.
    #[param(label = "Tileable", group = "Height")]
    pub tileable: bool,
}

impl Kind for NormalsHeight {
    fn about(&self) -> About {
        About {
            title: "Height from normals",
            about: "Integrates normals into the height that fits their slopes best.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Normal)]
    }

    fn sentence(&self) -> String {
        format!("Height from normals, {:.1} px a step", self.strength)
    }
}

impl Extraction for NormalsHeight {
    fn gives(&self) -> Role {
        Role::Height
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let normals = inputs.need(Role::Normal)?;
        let mut height = from_normals(normals, inputs.px(self.strength), self.tileable, inputs.cancel)?;
        // About ½, as a height from a picture is.
        height.plane_mut(0).iter_mut().for_each(|v| *v += 0.5);
        Ok(height)
    }
}
