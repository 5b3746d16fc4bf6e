//! Light shaped by the axes of the normals.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::colour::grade::Grade;
use jugata_core::light::axes::{Mix, Split, Tones, shape};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Shape the light.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Shaping {
    /// Share of what faces right; below 0 left.
    #[schemars(extend("x-label" = "Right", "x-slider" = [-1.0, 1.0], "x-step" = 0.01, "x-group" = "Mix"))]
    pub right: f32,
    /// Share of what faces up; below 0 down.
    #[schemars(extend("x-label" = "Up", "x-slider" = [-1.0, 1.0], "x-step" = 0.01, "x-group" = "Mix"))]
    pub up: f32,
    /// Share of what faces the viewer; below 0 the rims.
    #[schemars(extend("x-label" = "To viewer", "x-slider" = [-1.0, 1.0], "x-step" = 0.01, "x-group" = "Mix"))]
    pub front: f32,
    /// What of the mix is left as it is.
    #[schemars(extend("x-label" = "Neutral at", "x-slider" = [-1.0, 1.0], "x-step" = 0.01, "x-group" = "Mix"))]
    pub pivot: f32,
    /// How steeply the change comes in.
    #[schemars(extend("x-label" = "Gain", "x-unit" = "×", "x-slider" = [0.0, 4.0], "x-step" = 0.01, "x-group" = "Mix"))]
    pub gain: f32,
    /// Stops: as many up on one side as down on the other.
    #[schemars(extend("x-label" = "Exposure", "x-unit" = "stops", "x-slider" = [-3.0, 3.0], "x-step" = 0.01, "x-group" = "Drives"))]
    pub exposure: f32,
    /// Power about middle grey on one side, its inverse on the other.
    #[schemars(extend("x-label" = "Contrast", "x-unit" = "×", "x-slider" = [0.5, 2.0], "x-step" = 0.01, "x-group" = "Drives"))]
    pub contrast: f32,
    /// Saturation on one side, its inverse on the other.
    #[schemars(extend("x-label" = "Saturation", "x-unit" = "×", "x-slider" = [0.5, 2.0], "x-step" = 0.01, "x-group" = "Drives"))]
    pub saturation: f32,
    /// Warmer on one side, cooler on the other.
    #[schemars(extend("x-label" = "Warmth", "x-unit" = "mired", "x-slider" = [-100.0, 100.0], "x-step" = 1.0, "x-group" = "Drives"))]
    pub warmth: f32,
    /// Which tones are changed.
    #[schemars(extend("x-label" = "Changes", "x-group" = "Tones"))]
    pub tones: Tones,
    /// Luminance on a screen at which shadows end and lights begin.
    #[schemars(extend("x-label" = "Split at", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Tones"))]
    pub split: f32,
    /// Length of the ramp on both sides of the split.
    #[schemars(extend("x-label" = "Split soft", "x-slider" = [0.0, 0.5], "x-step" = 0.01, "x-group" = "Tones"))]
    pub split_soft: f32,
}

impl Default for Shaping {
    fn default() -> Self {
        Self {
            right: 0.5,
            up: 0.5,
            front: 0.0,
            pivot: 0.0,
            gain: 1.0,
            exposure: 1.0,
            contrast: 1.0,
            saturation: 1.0,
            warmth: 0.0,
            tones: Tones::All,
            split: 0.4,
            split_soft: 0.2,
        }
    }
}

impl Kind for Shaping {
    const GROUP: Group = Group::Light;
    const TITLE: &'static str = "Shape the light";
    const ABOUT: &'static str =
        "Brightens one side of things and darkens the other, by which way they face; no lamp is added.";
    const VERSION: u32 = 1;
    const JOINS: Joins = Joins { blend: BlendMode::Normal, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        vec![Reads { role: Role::Normal, required: true }]
    }

    fn reach(&self) -> Reach {
        // Rims are softened over the px around them.
        Reach::Px(1.0)
    }

    fn sentence(&self) -> String {
        let axis = |v: f32, more: &str, less: &str| match v {
            v if v > 0.0 => Some(format!("{more} {:.0} %", v * 100.0)),
            v if v < 0.0 => Some(format!("{less} {:.0} %", -v * 100.0)),
            _ => None,
        };
        let axes = [
            axis(self.right, "right", "left"),
            axis(self.up, "up", "down"),
            axis(self.front, "front", "rims"),
        ];
        let axes: Vec<String> = axes.into_iter().flatten().collect();
        let of = match self.tones {
            Tones::All => "the light",
            Tones::Shadows => "the shadows",
            Tones::Lights => "the lights",
        };
        let mix = if axes.is_empty() { "nothing".into() } else { axes.join(", ") };
        format!("Shape {of} by {mix}: {:+.2} stops", self.exposure)
    }

    fn check(&self) -> Result<(), String> {
        for (what, v) in [("right", self.right), ("up", self.up), ("the share to the viewer", self.front)] {
            range(what, v, -10.0, 10.0)?;
        }
        range("the neutral value", self.pivot, -10.0, 10.0)?;
        range("gain", self.gain, -1e3, 1e3)?;
        range("exposure", self.exposure, -40.0, 40.0)?;
        range("contrast", self.contrast, 0.0, 100.0)?;
        range("saturation", self.saturation, 0.0, 100.0)?;
        range("warmth", self.warmth, -150.0, 1e3)?;
        range("the split", self.split, 0.0, 10.0)?;
        range("the softness of the split", self.split_soft, 0.0, 10.0)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let normals = inputs.need(Role::Normal, Self::TITLE)?;
        let mix = Mix { axes: [self.right, self.up, self.front], pivot: self.pivot, gain: self.gain };
        let grade = Grade {
            exposure: self.exposure,
            contrast: self.contrast,
            saturation: self.saturation,
            warmth: self.warmth,
            ..Grade::default()
        };
        let split = Split { tones: self.tones, at: self.split, soft: self.split_soft };
        Ok(shape(inputs.picture, normals, mix, split, &grade, inputs.cancel)?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_says_what_it_does() {
        let s = Shaping::default();
        assert_eq!(s.sentence(), "Shape the light by right 50 %, up 50 %: +1.00 stops");
        let s = Shaping { right: -1.0, up: 0.0, tones: Tones::Shadows, exposure: -0.5, ..s };
        assert_eq!(s.sentence(), "Shape the shadows by left 100 %: -0.50 stops");
        assert!(Shaping { gain: f32::NAN, ..s }.check().is_err());
    }
}
