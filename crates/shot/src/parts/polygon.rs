//! A polygon.

use super::part::{Canvas, MOST_PX, Part, PartFrom};
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::matte::outlines;

/// A polygon. Full-resolution px.
#[parameters]
pub struct PolygonPart {
    /// Its corners.
    #[param(label = "Corners", range = [-MOST_PX, MOST_PX], unit = "px", item = "corner", most = 1000, means = "corners")]
    pub corners: Vec<[f32; 2]>,
    /// Width of its soft edge.
    #[param(label = "Soft", default = 4.0, range = [0.0, MOST_PX], slider = [0.0, 200.0], step = 0.5, unit = "px")]
    pub soft: f32,
}

impl Kind for PolygonPart {
    fn about(&self) -> About {
        About { title: "Polygon", about: "Corner by corner, by clicking", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        match self.corners.len() {
            0..3 => "no shape yet".into(),
            n => format!("a shape of {n} corners"),
        }
    }
}

impl Part for PolygonPart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Drawing
    }

    fn draw(&self, on: &Canvas<'_>) -> Result<Raster, ShotError> {
        let corners: Vec<Vec2> = self.corners.iter().map(|c| on.at(*c)).collect();
        Ok(outlines::polygon(on.window, &corners, on.px(self.soft), on.cancel)?)
    }
}
