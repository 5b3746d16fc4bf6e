//! Depth painted in a few places and spread along the picture's edges.

use super::{ExtractInputs, Extraction, needs, takes};
use crate::check::range;
use crate::error::ShotError;
use crate::limit::{MOST_POINTS, at_scale, few};
use crate::steps::Reads;
use jugata_core::depth::spread::{Spread, spread};
use jugata_core::matte::strokes::{Stroke, paint};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A stroke that says how deep it is where it lies. Full-resolution px.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct DepthStroke {
    /// The depth, scene units.
    pub depth: f32,
    /// Width of the brush.
    pub size: f32,
    /// Its path.
    pub points: Vec<[f32; 2]>,
}

/// Parameters of Painted.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct PaintDepth {
    /// The strokes; a later one lies over an earlier one.
    #[schemars(extend("x-label" = "Strokes", "x-meaning" = "depth-strokes", "x-group" = "Strokes"))]
    pub strokes: Vec<DepthStroke>,
    /// Difference of colour on a screen that counts as an edge.
    #[schemars(extend("x-label" = "Edges from", "x-unit" = "%", "x-slider" = [0.5, 50.0], "x-step" = 0.5, "x-group" = "Spread"))]
    pub edges: f32,
    /// Whether only what the element covers gets a depth.
    #[schemars(extend("x-label" = "Only the element", "x-group" = "Spread"))]
    pub only_covered: bool,
}

impl Default for PaintDepth {
    fn default() -> Self {
        Self { strokes: Vec::new(), edges: 6.0, only_covered: true }
    }
}

impl Extraction for PaintDepth {
    const TITLE: &'static str = "From a few strokes";
    const ABOUT: &'static str =
        "Paint how near a few places are; the depths spread over the picture and stop at its edges.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Depth
    }

    fn reads(&self) -> Vec<Reads> {
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
        few("points", self.strokes.iter().map(|s| s.points.len()).sum(), MOST_POINTS)?;
        for s in &self.strokes {
            range("the depth of a stroke", s.depth, 1e-6, 1e9)?;
            range("the brush", s.size, 0.0, 20_000.0)?;
            s.points.iter().flatten().try_for_each(|v| range("a point", *v, -200_000.0, 200_000.0))?;
        }
        range("the difference of colour", self.edges, 0.01, 1000.0)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let picture = given.need(Role::Beauty, Self::TITLE)?;
        let mut painted = Raster::zeros(given.window, 2);
        for s in &self.strokes {
            let points = s.points.iter().map(|p| at_scale(*p, given.scale)).collect();
            let size = given.px(s.size).max(1.0);
            let stroke = Stroke { points, size, softness: 0.0, flow: 1.0, erases: false };
            let laid = paint(given.window, &[stroke], given.cancel)?;
            for (i, _) in laid.plane(0).iter().enumerate().filter(|(_, v)| **v >= 0.5) {
                painted.plane_mut(0)[i] = s.depth;
                painted.plane_mut(1)[i] = 1.0;
            }
        }
        let z = spread(picture, &painted, Spread { edge: self.edges * 0.01 }, given.cancel)?;
        let alpha = given.pass(Role::Alpha).filter(|_| self.only_covered);
        Ok(jugata_core::depth::only_covered(z, alpha)?)
    }
}
