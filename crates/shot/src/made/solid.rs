//! One colour.

use super::drawn::{Made, rgba};
use crate::kinds::prelude::*;

/// Parameters of Solid.
#[parameters]
pub struct Solid {
    /// Linear Rec.709.
    #[param(label = "Colour", default = [0.18; 3], range = [0.0, 1e3], means = "colour", group = "Colour")]
    pub colour: [f32; 3],
    /// How opaque it is.
    #[param(label = "Opacity", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Colour")]
    pub opacity: f32,
}

impl Kind for Solid {
    fn about(&self) -> About {
        About { title: "Solid", about: "Fills the frame with one colour.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        "Solid colour".into()
    }
}

impl Made for Solid {
    fn draw(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let rgba = rgba(self.colour, self.opacity);
        Ok(Raster::from_fn(inputs.window, 4, |c, _, _| rgba[c]))
    }
}
