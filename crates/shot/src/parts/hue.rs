//! A range of hue.

use super::part::{Part, PartFrom};
use crate::kinds::prelude::*;
use jugata_core::{ShapeError, matte};

/// A range of hue of the untouched picture.
#[parameters]
pub struct HuePart {
    /// Its middle: 0 red, 120 green, 240 blue.
    #[param(label = "Hue", default = 30.0, range = [-3600.0, 3600.0], slider = [0.0, 360.0], step = 1.0, unit = "°", means = "hue")]
    pub hue: f32,
    /// Its width.
    #[param(label = "Width", default = 40.0, range = [0.0, 360.0], slider = [0.0, 360.0], step = 1.0, unit = "°")]
    pub width: f32,
    /// Length of the ramp on both sides.
    #[param(label = "Soft", default = 20.0, range = [0.0, 360.0], slider = [0.0, 180.0], step = 1.0, unit = "°")]
    pub soft: f32,
    /// Saturation (0..1) below which it fades.
    #[param(label = "Greys", default = 0.15, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01)]
    pub least: f32,
}

impl Kind for HuePart {
    fn about(&self) -> About {
        About { title: "Hue", about: "A range of hue of the untouched picture", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        format!("hue {:.0}°", self.hue)
    }
}

impl Part for HuePart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Pass(Role::Beauty)
    }

    fn of_pass(&self, pass: &Raster) -> Result<Raster, ShapeError> {
        matte::from_hue(pass, self.hue, self.width, self.soft, self.least)
    }
}
