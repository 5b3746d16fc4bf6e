//! Height from a picture.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::surface::height::{FromPicture, from_picture};

/// Parameters of Height from the picture.
#[parameters]
pub struct PictureHeight {
    /// Share of red; a negative one counts from white.
    #[param(label = "Red", default = 0.2, range = [-100.0, 100.0], slider = [-1.0, 1.0], step = 0.01, group = "Channels")]
    pub red: f32,
    /// Share of green.
    #[param(label = "Green", default = 0.7, range = [-100.0, 100.0], slider = [-1.0, 1.0], step = 0.01, group = "Channels")]
    pub green: f32,
    /// Share of blue.
    #[param(label = "Blue", default = 0.1, range = [-100.0, 100.0], slider = [-1.0, 1.0], step = 0.01, group = "Channels")]
    pub blue: f32,
    /// Dark is high instead.
    #[param(label = "Dark is high", group = "Channels")]
    pub invert: bool,
    /// Blur, full-resolution px.
    #[param(label = "Blur", default = 0.5, range = [0.0, 400.0], slider = [0.0, 20.0], step = 0.1, unit = "px", group = "Detail")]
    pub blur: f32,
    /// Shading broader than this is flattened, full-resolution px; 0 leaves it.
    #[param(label = "Flatten from", default = 40.0, range = [0.0, 400.0], slider = [0.0, 200.0], step = 1.0, unit = "px", group = "Detail")]
    pub flatten: f32,
    /// Factor about the middle.
    #[param(label = "Contrast", default = 1.0, range = [-100.0, 100.0], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Detail")]
    pub contrast: f32,
}

impl Kind for PictureHeight {
    fn about(&self) -> About {
        About {
            title: "Height from the picture",
            about: "Takes bright for high: weighted channels, broad shading flattened, grain kept.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Beauty)]
    }

    fn sentence(&self) -> String {
        let way = if self.invert { "dark" } else { "bright" };
        format!("Height from the picture, {way} is high, flattened from {:.0} px", self.flatten)
    }

    fn check(&self) -> Result<(), String> {
        let none = [self.red, self.green, self.blue].iter().all(|w| *w == 0.0);
        if none { Err("no channel has a share".into()) } else { Ok(()) }
    }
}

impl Extraction for PictureHeight {
    fn gives(&self) -> Role {
        Role::Height
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let how = FromPicture {
            weights: [self.red, self.green, self.blue],
            invert: self.invert,
            blur: inputs.px(self.blur),
            flatten: inputs.px(self.flatten),
            contrast: self.contrast,
        };
        Ok(from_picture(inputs.need(Role::Beauty)?, how, inputs.cancel)?)
    }
}
