//! A range of luminance.

use super::part::{Part, PartFrom};
use crate::kinds::prelude::*;
use jugata_core::ShapeError;
use jugata_core::matte::{self, Range};

/// A range of luminance of the untouched picture, as on a screen (0 black, 1 white).
#[parameters]
pub struct LuminancePart {
    /// Lowest fully affected value.
    #[param(label = "Low", default = 0.6, range = [-1e6, 1e6], step = 0.01, means = "low")]
    pub low: f32,
    /// Highest fully affected value.
    #[param(label = "High", default = 1.0, range = [-1e6, 1e6], step = 0.01, means = "high")]
    pub high: f32,
    /// Length of the ramp below the lowest.
    #[param(label = "Low soft", default = 0.15, range = [0.0, 1e6], step = 0.01, means = "low-soft")]
    pub low_soft: f32,
    /// Length of the ramp above the highest.
    #[param(label = "High soft", default = 1.0, range = [0.0, 1e6], step = 0.01, means = "high-soft")]
    pub high_soft: f32,
}

impl Kind for LuminancePart {
    fn about(&self) -> About {
        About { title: "Luminance", about: "Bright or dark parts of the untouched picture", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        format!("luminance {:.0}–{:.0} %", self.low * 100.0, self.high * 100.0)
    }
}

impl Part for LuminancePart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Pass(Role::Beauty)
    }

    fn of_pass(&self, pass: &Raster) -> Result<Raster, ShapeError> {
        let &Self { low, high, low_soft, high_soft } = self;
        matte::from_luminance(pass, Range { low, high, low_soft, high_soft })
    }
}
