//! Normals from height.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::surface::height::{Bands, weighed};
use jugata_core::surface::normals::{Derivative, FromHeight, from_height};

/// Parameters of Normals from height.
#[parameters]
pub struct HeightNormals {
    /// How high a step of 1 is, full-resolution px.
    #[param(label = "Strength", default = 6.0, range = [-1e5, 1e5], slider = [0.0, 40.0], step = 0.1, unit = "px", group = "Slope")]
    pub strength: f32,
    /// How slopes are measured.
    #[param(label = "Kernel", group = "Slope")]
    pub kernel: Derivative,
    /// How strongly detail finer than the size comes through.
    #[param(label = "Fine", default = 1.0, range = [-100.0, 100.0], slider = [0.0, 3.0], step = 0.01, unit = "×", group = "Detail")]
    pub fine: f32,
    /// How strongly detail up to four times the size comes through.
    #[param(label = "Middle", default = 1.0, range = [-100.0, 100.0], slider = [0.0, 3.0], step = 0.01, unit = "×", group = "Detail")]
    pub middle: f32,
    /// How strongly all that is broader comes through.
    #[param(label = "Broad", default = 1.0, range = [-100.0, 100.0], slider = [0.0, 3.0], step = 0.01, unit = "×", group = "Detail")]
    pub broad: f32,
    /// Where fine detail ends; usually about as wide as a brush stroke or a grain.
    #[param(label = "Size", default = 6.0, range = [0.1, 1e4], slider = [1.0, 40.0], step = 0.5, unit = "px", group = "Detail")]
    pub size: f32,
    /// Whether the map repeats: its edges then fit each other.
    #[param(label = "Tileable", group = "Map")]
    pub tileable: bool,
    /// Whether y runs down, for tools that want it so; lamps here want it up.
    #[param(label = "Y down", group = "Map")]
    pub y_down: bool,
}

impl Kind for HeightNormals {
    fn about(&self) -> About {
        About {
            title: "Normals from height",
            about: "Turns a height into a normal map; flat places face the viewer.",
            version: 2,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Height)]
    }

    fn sentence(&self) -> String {
        format!("Normals from height, {:.1} px high", self.strength)
    }
}

impl Extraction for HeightNormals {
    fn gives(&self) -> Role {
        Role::Normal
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        // A proxy's px is longer, and so is what a height rises over it.
        let how = FromHeight {
            strength: inputs.px(self.strength),
            kernel: self.kernel,
            tileable: self.tileable,
            y_down: self.y_down,
        };
        let bands =
            Bands { fine: self.fine, middle: self.middle, broad: self.broad, size: inputs.px(self.size) };
        let height = weighed(inputs.need(Role::Height)?, bands, inputs.cancel)?;
        Ok(from_height(&height, how, inputs.cancel)?)
    }
}
