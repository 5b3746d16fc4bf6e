//! What faces a direction.

use super::part::{Part, PartFrom};
use crate::kinds::prelude::*;
use jugata_core::{ShapeError, matte};

/// What faces a direction.
#[parameters]
pub struct FacingPart {
    /// The direction, camera space.
    #[param(label = "Direction", default = [0.0, 1.0, 0.0], range = [-1e6, 1e6], means = "direction")]
    pub toward: [f32; 3],
    /// Degrees away from it up to which all is affected.
    #[param(label = "Within", default = 30.0, range = [0.0, 180.0], slider = [0.0, 180.0], step = 1.0, unit = "°", means = "low")]
    pub within: f32,
    /// Degrees away from it from which on nothing is.
    #[param(label = "Until", default = 70.0, range = [0.0, 180.0], slider = [0.0, 180.0], step = 1.0, unit = "°", means = "high")]
    pub until: f32,
}

impl Kind for FacingPart {
    fn about(&self) -> About {
        About { title: "Facing", about: "What faces a direction, from the normals", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        format!("facing within {:.0}°", self.within)
    }
}

impl Part for FacingPart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Pass(Role::Normal)
    }

    fn of_pass(&self, pass: &Raster) -> Result<Raster, ShapeError> {
        matte::from_facing(pass, self.toward.into(), self.within, self.until)
    }
}
