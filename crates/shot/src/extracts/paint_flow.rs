//! Motion painted with a brush.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use crate::params::{few, px};
use jugata_core::geometry::flow::{FlowStroke, painted};

/// A stroke along which the picture flows. Full-resolution px.
#[parameters(item)]
pub struct PaintedFlow {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Width of the brush.
    #[param(label = "Brush", default = 80.0, range = [1.0, 20_000.0], unit = "px")]
    pub size: f32,
    /// Share of the brush over which it fades.
    #[param(label = "Softness", default = 0.5, range = [0.0, 1.0])]
    pub softness: f32,
    /// Its path; the picture flows the way it was drawn.
    #[param(label = "Path", range = [-200_000.0, 200_000.0])]
    pub points: Vec<[f32; 2]>,
}

/// Strokes, and points of all of them, at most.
const MOST: usize = 2000;
const MOST_POINTS: usize = 50_000;

/// Parameters of Painted motion.
#[parameters]
pub struct PaintFlow {
    /// The strokes; a later one covers an earlier one.
    #[param(label = "Strokes", item = "stroke", most = MOST, means = "flow-strokes", group = "Strokes")]
    pub strokes: Vec<PaintedFlow>,
    /// How far the picture flows along them from one frame to the next.
    #[param(label = "Speed", default = 20.0, range = [-10_000.0, 10_000.0], slider = [0.0, 100.0], step = 0.5, unit = "px", group = "Strokes")]
    pub speed: f32,
}

impl Kind for PaintFlow {
    fn about(&self) -> About {
        About {
            title: "Painted motion",
            about: "Paint which way things move; the strokes become motion vectors.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        match self.strokes.len() {
            0 => "Painted motion: no stroke yet".into(),
            1 => format!("Motion of {} px along 1 stroke", self.speed),
            n => format!("Motion of {} px along {n} strokes", self.speed),
        }
    }

    fn check(&self) -> Result<(), String> {
        few("points", self.strokes.iter().map(|s| s.points.len()).sum(), MOST_POINTS)
    }
}

impl Extraction for PaintFlow {
    fn gives(&self) -> Role {
        Role::Motion
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let k = f64::from(inputs.scale.step());
        let strokes = self.strokes.iter().map(|s| FlowStroke {
            path: s.points.iter().map(|p| px(*p) / k).collect(),
            radius: f64::from(s.size) * 0.5 / k,
            softness: s.softness.into(),
        });
        let strokes: Vec<FlowStroke> = strokes.collect();
        // Vectors are in full-resolution px at every scale.
        Ok(painted(inputs.window, &strokes, self.speed.into(), inputs.cancel)?)
    }
}
