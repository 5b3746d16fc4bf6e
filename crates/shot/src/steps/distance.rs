//! Grading that grows with distance.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::colour::grade::{Grade, Ramp, by_distance};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of By distance.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Distance {
    /// Depth at which nothing is changed yet.
    #[schemars(extend("x-label" = "From", "x-meaning" = "depth", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Distance"))]
    pub from: f32,
    /// Depth at which all of it is done; nearer than the other to grade what is near.
    #[schemars(extend("x-label" = "Full at", "x-meaning" = "depth", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Distance"))]
    pub to: f32,
    /// Stops.
    #[schemars(extend("x-label" = "Exposure", "x-unit" = "stops", "x-slider" = [-4.0, 4.0], "x-step" = 0.01, "x-group" = "Light"))]
    pub exposure: f32,
    /// Power about middle grey.
    #[schemars(extend("x-label" = "Contrast", "x-unit" = "×", "x-slider" = [0.2, 2.0], "x-step" = 0.01, "x-group" = "Light"))]
    pub contrast: f32,
    /// 0 is grey.
    #[schemars(extend("x-label" = "Saturation", "x-unit" = "×", "x-slider" = [0.0, 2.0], "x-step" = 0.01, "x-group" = "Colour"))]
    pub saturation: f32,
    /// Warmer above 0, cooler below.
    #[schemars(extend("x-label" = "Warmth", "x-unit" = "mired", "x-slider" = [-100.0, 100.0], "x-step" = 1.0, "x-group" = "Colour"))]
    pub warmth: f32,
    /// Colour that is mixed in, at the picture's own brightness.
    #[schemars(extend("x-label" = "Tint", "x-meaning" = "colour", "x-group" = "Colour"))]
    pub tint: [f32; 3],
    /// How much of the tint.
    #[schemars(extend("x-label" = "Tinted", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Colour"))]
    pub tinted: f32,
}

impl Default for Distance {
    fn default() -> Self {
        Self {
            from: 5.0,
            to: 10.0,
            exposure: -1.0,
            contrast: 1.0,
            saturation: 0.6,
            warmth: 0.0,
            tint: [0.55, 0.7, 1.0],
            tinted: 0.0,
        }
    }
}

impl Kind for Distance {
    const GROUP: Group = Group::Air;
    const TITLE: &'static str = "By distance";
    const ABOUT: &'static str = "Exposure, contrast, saturation, warmth and tint that grow with distance.";
    const VERSION: u32 = 1;
    const JOINS: Joins = Joins { blend: BlendMode::Normal, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        vec![Reads { role: Role::Depth, required: true }]
    }

    fn reach(&self) -> Reach {
        Reach::Px(0.0)
    }

    fn sentence(&self) -> String {
        let mut does = Vec::new();
        if self.exposure != 0.0 {
            does.push(format!("exposure {:+.2} stops", self.exposure));
        }
        for (word, v) in [("contrast", self.contrast), ("saturation", self.saturation)] {
            if v != 1.0 {
                does.push(format!("{word} ×{v:.2}"));
            }
        }
        if self.warmth != 0.0 {
            does.push(format!("warmth {:+.0} mired", self.warmth));
        }
        if self.tinted > 0.0 {
            does.push(format!("tint {:.0} %", self.tinted * 100.0));
        }
        let does = if does.is_empty() { "nothing".into() } else { does.join(", ") };
        format!("By distance from {:.2} to {:.2} units: {does}", self.from, self.to)
    }

    fn check(&self) -> Result<(), String> {
        range("where it begins", self.from, 0.0, 1e9)?;
        range("where it is full", self.to, 0.0, 1e9)?;
        range("exposure", self.exposure, -40.0, 40.0)?;
        range("contrast", self.contrast, 0.01, 10.0)?;
        range("saturation", self.saturation, 0.0, 10.0)?;
        range("warmth", self.warmth, -110.0, 440.0)?;
        self.tint.iter().try_for_each(|&v| range("tint", v, 0.0, 1e3))?;
        range("the share of the tint", self.tinted, 0.0, 1.0)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let depth = inputs.need(Role::Depth, Self::TITLE)?;
        let grade = Grade {
            exposure: self.exposure,
            contrast: self.contrast,
            saturation: self.saturation,
            warmth: self.warmth,
            tint: self.tint,
            tinted: self.tinted,
        };
        let ramp = Ramp { from: self.from, to: self.to };
        Ok(by_distance(inputs.picture, depth, &grade, ramp, inputs.cancel)?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_sentence_names_what_is_changed_and_nothing_else() {
        let all = Distance { contrast: 1.2, warmth: -20.0, tinted: 0.5, ..Distance::default() };
        assert_eq!(
            all.sentence(),
            "By distance from 5.00 to 10.00 units: exposure -1.00 stops, contrast ×1.20, saturation ×0.60, \
             warmth -20 mired, tint 50 %"
        );
        let none = Distance { exposure: 0.0, saturation: 1.0, ..Distance::default() };
        assert!(none.sentence().ends_with(": nothing"));
        assert!(Distance { warmth: f32::NAN, ..none }.check().is_err());
    }
}
