//! Depth in another range, direction or measure.

use super::{ExtractInputs, Extraction, needs};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::depth::{Along, Range, along, ranged};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What a depth measures.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Measure {
    /// As it is.
    #[default]
    Same,
    /// From the distance along the ray to that along the axis; needs a camera.
    RayToAxis,
    /// From the distance along the axis to that along the ray; needs a camera.
    AxisToRay,
}

/// Parameters of Set the range.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct RangeDepth {
    /// What it measures, taken first.
    #[schemars(extend("x-label" = "Measure", "x-group" = "Measure"))]
    pub measure: Measure,
    /// A depth as it is.
    #[schemars(extend("x-label" = "From", "x-meaning" = "depth", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Near"))]
    pub from_near: f32,
    /// What that depth becomes.
    #[schemars(extend("x-label" = "To", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Near"))]
    pub to_near: f32,
    /// Another depth as it is.
    #[schemars(extend("x-label" = "From", "x-meaning" = "depth", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Far"))]
    pub from_far: f32,
    /// What that depth becomes; less than the near one reverses the depth.
    #[schemars(extend("x-label" = "To", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Far"))]
    pub to_far: f32,
    /// Whether what lies outside is held at the ends.
    #[schemars(extend("x-label" = "Hold the ends", "x-group" = "Measure"))]
    pub hold: bool,
}

impl Default for RangeDepth {
    fn default() -> Self {
        let [near, far] = [1.0, 10.0];
        Self {
            measure: Measure::Same,
            from_near: near,
            to_near: near,
            from_far: far,
            to_far: far,
            hold: false,
        }
    }
}

impl Extraction for RangeDepth {
    const TITLE: &'static str = "Set the range";
    const ABOUT: &'static str =
        "Stretches or reverses a depth by two depths and what they become, and turns ray into axis.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Depth
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Depth)]
    }

    fn sentence(&self) -> String {
        let measure = match self.measure {
            Measure::Same => "",
            Measure::RayToAxis => " along the axis,",
            Measure::AxisToRay => " along the ray,",
        };
        let [a, b, c, d] = [self.from_near, self.from_far, self.to_near, self.to_far];
        format!("Depth{measure} of {a:.2} to {b:.2} set to {c:.2} to {d:.2}")
    }

    fn check(&self) -> Result<(), String> {
        for (what, v) in [("the near depth", self.from_near), ("the far depth", self.from_far)] {
            range(what, v, 0.0, 1e9)?;
        }
        for (what, v) in [("the new near depth", self.to_near), ("the new far depth", self.to_far)] {
            range(what, v, 0.0, 1e9)?;
        }
        let apart = (self.from_far - self.from_near).abs();
        if apart < 1e-9 { Err("the two depths are the same".into()) } else { Ok(()) }
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let depth = given.need(Role::Depth, Self::TITLE)?;
        let way = match self.measure {
            Measure::Same => None,
            Measure::RayToAxis => Some(Along::RayToAxis),
            Measure::AxisToRay => Some(Along::AxisToRay),
        };
        let measured = match (way, given.camera) {
            (None, _) => None,
            (Some(way), Some(camera)) => Some(along(depth, &camera, way, given.scale, given.cancel)?),
            (Some(_), None) => {
                let what = "turning the ray into the axis needs a camera; give it in Intake".into();
                return Err(ShotError::Parameter { place: Self::TITLE.into(), what });
            }
        };
        let range = Range {
            from: [self.from_near, self.from_far],
            to: [self.to_near, self.to_far],
            clamped: self.hold,
        };
        Ok(ranged(measured.as_ref().unwrap_or(depth), range, given.cancel)?)
    }
}
