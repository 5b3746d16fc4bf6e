//! The element itself.

use super::part::{Part, PartFrom};
use crate::kinds::prelude::*;
use jugata_core::ShapeError;

/// The element itself: its alpha.
#[parameters]
pub struct CoveragePart {}

impl Kind for CoveragePart {
    fn about(&self) -> About {
        About { title: "The element", about: "All that it covers: its alpha", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        "the element".into()
    }
}

impl Part for CoveragePart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Pass(Role::Beauty)
    }

    fn of_pass(&self, pass: &Raster) -> Result<Raster, ShapeError> {
        Raster::from_planar(pass.window(), 1, pass.plane(pass.channels() - 1).to_vec())
    }
}
