//! Strokes of a brush.

use super::part::{Canvas, MOST_PX, Part, PartFrom};
use crate::kinds::prelude::*;
use crate::params::few;
use jugata_core::matte::strokes::{Stroke, paint};

/// Most points of all strokes of a matte: some hours of painting.
pub const MOST_POINTS: usize = 50_000;

/// Most pixels that all strokes of a matte may touch, each as often as the brush passes it: half a minute of computing.
const MOST_PAINT: f64 = 2e10;

/// A stroke of a brush. Full-resolution px.
#[parameters(item)]
pub struct PaintedStroke {
    /// Number that stays with it.
    pub id: u32,
    /// Width of the brush.
    #[param(label = "Brush", default = 20.0, range = [0.0, 20_000.0])]
    pub size: f32,
    /// Share of its radius over which it fades.
    #[param(label = "Softness", range = [0.0, 1.0])]
    pub softness: f32,
    /// What it lays down.
    #[param(label = "Flow", default = 1.0, range = [0.0, 1.0])]
    pub flow: f32,
    /// Whether it takes away.
    pub erases: bool,
    /// Its path.
    #[param(label = "Path", range = [-MOST_PX, MOST_PX])]
    pub points: Vec<[f32; 2]>,
}

impl PaintedStroke {
    /// Pixels that are touched, at most: a square round each point, no larger than the largest frames.
    fn work(&self) -> f64 {
        self.points.len() as f64 * (f64::from(self.size) + 4.0).powi(2).min(1.6e7)
    }
}

/// Painted.
#[parameters]
pub struct BrushPart {
    /// The strokes, in order.
    #[param(label = "Strokes", item = "stroke", means = "strokes")]
    pub strokes: Vec<PaintedStroke>,
}

impl Kind for BrushPart {
    fn about(&self) -> About {
        About { title: "Brush", about: "Painted in the picture", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        self.comes_from().wants()
    }

    fn sentence(&self) -> String {
        match self.strokes.len() {
            0 => "nothing painted yet".into(),
            1 => "1 stroke".into(),
            n => format!("{n} strokes"),
        }
    }

    fn check(&self) -> Result<(), String> {
        few("points", self.strokes.iter().map(|s| s.points.len()).sum(), MOST_POINTS)?;
        let work: f64 = self.strokes.iter().map(PaintedStroke::work).sum();
        if work > MOST_PAINT {
            let words = "its strokes are too wide for their number of points; use fewer, or a smaller brush";
            return Err(words.into());
        }
        Ok(())
    }
}

impl Part for BrushPart {
    fn comes_from(&self) -> PartFrom {
        PartFrom::Drawing
    }

    fn draw(&self, on: &Canvas<'_>) -> Result<Raster, ShotError> {
        let scaled = |s: &PaintedStroke| Stroke {
            points: s.points.iter().map(|p| on.at(*p)).collect(),
            size: on.px(s.size),
            softness: s.softness,
            flow: s.flow,
            erases: s.erases,
        };
        let strokes: Vec<Stroke> = self.strokes.iter().map(scaled).collect();
        Ok(paint(on.window, &strokes, on.cancel)?)
    }
}
