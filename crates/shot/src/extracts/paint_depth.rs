//! Depth painted in a few places and spread along the picture's edges.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use crate::params::at_scale;
use crate::params::few;
use crate::parts::MOST_POINTS;
use jugata_core::depth::spread::{Spread, spread};
use jugata_core::matte::strokes::{Stroke, paint};

/// A stroke that says how deep it is where it lies. Full-resolution px.
#[parameters(item)]
pub struct DepthStroke {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// The depth, scene units.
    #[param(label = "Depth", default = 1.0, range = [1e-6, 1e9])]
    pub depth: f32,
    /// Width of the brush.
    #[param(label = "Brush", default = 20.0, range = [0.0, 20_000.0])]
    pub size: f32,
    /// Its path.
    #[param(label = "Path", range = [-200_000.0, 200_000.0])]
    pub points: Vec<[f32; 2]>,
}

/// Parameters of Painted.
#[parameters]
pub struct PaintDepth {
    /// The strokes; a later one lies over an earlier one.
    #[param(label = "Strokes", item = "stroke", most = MOST_POINTS, default = Vec::new(), means = "depth-strokes", group = "Strokes")]
    pub strokes: Vec<DepthStroke>,
    /// Difference of colour on a screen that counts as an edge.
    #[param(label = "Edges from", default = 6.0, range = [0.01, 1000.0], slider = [0.5, 50.0], step = 0.5, unit = "%", group = "Spread")]
    pub edges: f32,
    /// Whether only what the element covers gets a depth.
    #[param(label = "Only the element", default = true, group = "Spread")]
    pub only_covered: bool,
}

impl Kind for PaintDepth {
    fn about(&self) -> About {
        About {
            title: "From a few strokes",
            about: "Paint how near a few places are; the depths spread over the picture and stop at its edges.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Beauty), takes(Role::Alpha)]
    }

    fn sentence(&self) -> String {
        match self.strokes.len() {
            0 => "Depth from strokes: none is painted yet".into(),
            1 => "Depth from 1 stroke".into(),
            n => format!("Depth from {n} strokes"),
        }
    }

    fn check(&self) -> Result<(), String> {
        few("points", self.strokes.iter().map(|s| s.points.len()).sum(), MOST_POINTS)
    }
}

impl Extraction for PaintDepth {
    fn gives(&self) -> Role {
        Role::Depth
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let picture = inputs.need(Role::Beauty)?;
        let mut painted = Raster::zeros(inputs.window, 2);
        for s in &self.strokes {
            let points = s.points.iter().map(|p| at_scale(*p, inputs.scale)).collect();
            let size = inputs.px(s.size).max(1.0);
            let stroke = Stroke { points, size, softness: 0.0, flow: 1.0, erases: false };
            let laid = paint(inputs.window, &[stroke], inputs.cancel)?;
            for (i, _) in laid.plane(0).iter().enumerate().filter(|(_, v)| **v >= 0.5) {
                painted.plane_mut(0)[i] = s.depth;
                painted.plane_mut(1)[i] = 1.0;
            }
        }
        let z = spread(picture, &painted, Spread { edge: self.edges * 0.01 }, inputs.cancel)?;
        let alpha = inputs.pass(Role::Alpha).filter(|_| self.only_covered);
        Ok(jugata_core::depth::only_covered(z, alpha)?)
    }
}
