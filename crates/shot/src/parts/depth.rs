//! A range of depth.

use super::part::{Part, PartFrom};
use crate::kinds::prelude::*;
use jugata_core::ShapeError;
use jugata_core::matte::{self, DepthRange};

/// A range of depth with soft ends, scene units.
#[parameters]
pub struct DepthPart {
    /// Nearest fully affected depth.
    #[param(label = "Near", default = 5.0, range = [-1e9, 1e9], step = 0.01, means = "low")]
    pub near: f32,
    /// Farthest fully affected depth.
    #[param(label = "Far", default = 10.0, range = [-1e9, 1e9], step = 0.01, means = "high")]
    pub far: f32,
    /// Length of the ramp in front of `near`.
    #[param(label = "Near soft", default = 1.0, range = [0.0, 1e9], step = 0.01, means = "low-soft")]
    pub near_soft: f32,
    /// Length of the ramp behind `far`.
    #[param(label = "Far soft", default = 1.0, range = [0.0, 1e9], step = 0.01, means = "high-soft")]
    pub far_soft: f32,
}

impl Kind for DepthPart {
    fn about(&self) -> About {
        About { title: "Depth", about: "A range of depth with soft ends", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        format!("{:.2}–{:.2} deep", self.near, self.far)
    }

    fn check(&self) -> Result<(), String> {
        if self.near > self.far { Err("the near end lies behind the far end".into()) } else { Ok(()) }
    }
}

impl Part for DepthPart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Pass(Role::Depth)
    }

    fn of_pass(&self, pass: &Raster) -> Result<Raster, ShapeError> {
        let &Self { near, far, near_soft, far_soft } = self;
        matte::from_depth(pass, DepthRange { near, far, near_soft, far_soft })
    }
}
