//! Grading that grows with distance.

use super::change::{Change, Effect, Group};
use crate::kinds::prelude::*;
use jugata_core::colour::grade::{Grade, Ramp, by_distance};

/// Parameters of By distance.
#[parameters]
pub struct Distance {
    /// Depth at which nothing is changed yet.
    #[param(label = "From", default = 5.0, range = [0.0, 1e9], step = 0.01, unit = "units", means = "depth", group = "Distance")]
    pub from: f32,
    /// Depth at which all of it is done; nearer than the other to grade what is near.
    #[param(label = "Full at", default = 10.0, range = [0.0, 1e9], step = 0.01, unit = "units", means = "depth", group = "Distance")]
    pub to: f32,
    /// Stops.
    #[param(label = "Exposure", default = -1.0, range = [-40.0, 40.0], slider = [-4.0, 4.0], step = 0.01, unit = "stops", group = "Light")]
    pub exposure: f32,
    /// Power about middle grey.
    #[param(label = "Contrast", default = 1.0, range = [0.01, 10.0], slider = [0.2, 2.0], step = 0.01, unit = "×", group = "Light")]
    pub contrast: f32,
    /// 0 is grey.
    #[param(label = "Saturation", default = 0.6, range = [0.0, 10.0], slider = [0.0, 2.0], step = 0.01, unit = "×", group = "Colour")]
    pub saturation: f32,
    /// Warmer above 0, cooler below.
    #[param(label = "Warmth", default = 0.0, range = [-110.0, 440.0], slider = [-100.0, 100.0], step = 1.0, unit = "mired", group = "Colour")]
    pub warmth: f32,
    /// Colour that is mixed in, at the picture's own brightness.
    #[param(label = "Tint", default = [0.55, 0.7, 1.0], range = [0.0, 1e3], means = "colour", group = "Colour")]
    pub tint: [f32; 3],
    /// How much of the tint.
    #[param(label = "Tinted", default = 0.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Colour")]
    pub tinted: f32,
}

impl Kind for Distance {
    fn about(&self) -> About {
        About {
            title: "By distance",
            about: "Exposure, contrast, saturation, warmth and tint that grow with distance.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Depth)]
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
}

impl Change for Distance {
    fn group(&self) -> Group {
        Group::Air
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let depth = inputs.need(Role::Depth)?;
        let grade = Grade {
            exposure: self.exposure,
            contrast: self.contrast,
            saturation: self.saturation,
            warmth: self.warmth,
            tint: self.tint,
            tinted: self.tinted,
        };
        let ramp = Ramp { from: self.from, to: self.to };
        Ok(Effect::Replace(by_distance(picture, depth, &grade, ramp, inputs.cancel)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::steps::StepKind;

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
        assert!(StepKind::from(Distance { warmth: f32::NAN, ..none }).check().is_err());
    }
}
