//! An ellipse.

use super::part::{Canvas, MOST_PX, Part, PartFrom};
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::matte::outlines;

/// An ellipse. Full-resolution px.
#[parameters]
pub struct EllipsePart {
    /// Its middle.
    #[param(label = "Place", range = [-MOST_PX, MOST_PX], unit = "px", means = "ellipse")]
    pub centre: [f32; 2],
    /// Half its width and height.
    #[param(label = "Size", default = [100.0, 80.0], range = [0.0, MOST_PX], unit = "px", means = "dragged")]
    pub radii: [f32; 2],
    /// Turn against the clock.
    #[param(label = "Turn", range = [-3600.0, 3600.0], unit = "°", means = "dragged")]
    pub turned: f32,
    /// Width of its soft edge.
    #[param(label = "Soft", default = 40.0, range = [0.0, MOST_PX], slider = [0.0, 300.0], step = 0.5, unit = "px")]
    pub soft: f32,
}

impl Kind for EllipsePart {
    fn about(&self) -> About {
        About { title: "Ellipse", about: "Drawn in the picture", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        "an ellipse".into()
    }
}

impl Part for EllipsePart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Drawing
    }

    fn draw(&self, on: &Canvas<'_>) -> Result<Raster, ShotError> {
        let radii = Vec2::from(self.radii) * on.px(1.0);
        let soft = on.px(self.soft);
        let ellipse = outlines::Ellipse { centre: on.at(self.centre), radii, turned: self.turned, soft };
        Ok(outlines::ellipse(on.window, ellipse, on.cancel)?)
    }
}
