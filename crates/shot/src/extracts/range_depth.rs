//! Depth in another range, direction or measure.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::depth::{Along, Range, along, ranged};

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
#[parameters]
pub struct RangeDepth {
    /// What it measures, taken first.
    #[param(label = "Measure", group = "Measure")]
    pub measure: Measure,
    /// A depth as it is.
    #[param(label = "From", default = 1.0, range = [0.0, 1e9], step = 0.01, unit = "units", means = "depth", group = "Near")]
    pub from_near: f32,
    /// What that depth becomes.
    #[param(label = "To", default = 1.0, range = [0.0, 1e9], step = 0.01, unit = "units", group = "Near")]
    pub to_near: f32,
    /// Another depth as it is.
    #[param(label = "From", default = 10.0, range = [0.0, 1e9], step = 0.01, unit = "units", means = "depth", group = "Far")]
    pub from_far: f32,
    /// What that depth becomes; less than the near one reverses the depth.
    #[param(label = "To", default = 10.0, range = [0.0, 1e9], step = 0.01, unit = "units", group = "Far")]
    pub to_far: f32,
    /// Whether what lies outside is held at the ends.
    #[param(label = "Hold the ends", group = "Measure")]
    pub hold: bool,
}

impl Kind for RangeDepth {
    fn about(&self) -> About {
        About {
            title: "Set the range",
            about: "Stretches or reverses a depth by two depths and what they become, and turns ray into axis.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
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
        let apart = (self.from_far - self.from_near).abs();
        if apart < 1e-9 { Err("the two depths are the same".into()) } else { Ok(()) }
    }
}

impl Extraction for RangeDepth {
    fn gives(&self) -> Role {
        Role::Depth
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let depth = inputs.need(Role::Depth)?;
        let way = match self.measure {
            Measure::Same => None,
            Measure::RayToAxis => Some(Along::RayToAxis),
            Measure::AxisToRay => Some(Along::AxisToRay),
        };
        let measured = match (way, inputs.camera) {
            (None, _) => None,
            (Some(way), Some(camera)) => Some(along(depth, &camera, way, inputs.scale, inputs.cancel)?),
            (Some(_), None) => {
                let what = "turning the ray into the axis needs a camera; give it in Intake";
                return Err(inputs.wrong(what));
            }
        };
        let range = Range {
            from: [self.from_near, self.from_far],
            to: [self.to_near, self.to_far],
            clamped: self.hold,
        };
        Ok(ranged(measured.as_ref().unwrap_or(depth), range, inputs.cancel)?)
    }
}
