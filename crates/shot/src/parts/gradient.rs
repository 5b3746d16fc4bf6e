//! A gradient.

use super::part::{Canvas, MOST_PX, Part, PartFrom};
use crate::kinds::prelude::*;
use jugata_core::matte::outlines;

/// From nothing to all between two places. Full-resolution px.
#[parameters]
pub struct GradientPart {
    /// Where there is nothing yet.
    #[param(label = "Nothing here", range = [-MOST_PX, MOST_PX], unit = "px", means = "ramp-from")]
    pub from: [f32; 2],
    /// Where there is all.
    #[param(label = "All here", default = [0.0, 100.0], range = [-MOST_PX, MOST_PX], unit = "px", means = "ramp-to")]
    pub to: [f32; 2],
}

impl Kind for GradientPart {
    fn about(&self) -> About {
        About { title: "Gradient", about: "From nothing to all between two places", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        "a gradient".into()
    }
}

impl Part for GradientPart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Drawing
    }

    fn draw(&self, on: &Canvas<'_>) -> Result<Raster, ShotError> {
        Ok(outlines::gradient(on.window, on.at(self.from), on.at(self.to), on.cancel)?)
    }
}
