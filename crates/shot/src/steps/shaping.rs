//! Light shaped by the axes of the normals.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use jugata_core::colour::grade::Grade;
use jugata_core::light::axes::{Mix, Split, Tones, shape};
use jugata_core::light::rims;

/// Parameters of Shape the light.
#[parameters]
pub struct Shaping {
    /// Share of what faces right; below 0 left.
    #[param(label = "Right", default = 0.5, range = [-10.0, 10.0], slider = [-1.0, 1.0], step = 0.01, group = "Mix")]
    pub right: f32,
    /// Share of what faces up; below 0 down.
    #[param(label = "Up", default = 0.5, range = [-10.0, 10.0], slider = [-1.0, 1.0], step = 0.01, group = "Mix")]
    pub up: f32,
    /// Share of what faces the viewer; below 0 the rims.
    #[param(label = "To viewer", default = 0.0, range = [-10.0, 10.0], slider = [-1.0, 1.0], step = 0.01, group = "Mix")]
    pub front: f32,
    /// What of the mix is left as it is.
    #[param(label = "Neutral at", default = 0.0, range = [-10.0, 10.0], slider = [-1.0, 1.0], step = 0.01, group = "Mix")]
    pub pivot: f32,
    /// How steeply the change comes in.
    #[param(label = "Gain", default = 1.0, range = [-1e3, 1e3], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Mix")]
    pub gain: f32,
    /// Stops: as many up on one side as down on the other.
    #[param(label = "Exposure", default = 1.0, range = [-40.0, 40.0], slider = [-3.0, 3.0], step = 0.01, unit = "stops", group = "Drives")]
    pub exposure: f32,
    /// Power about middle grey on one side, its inverse on the other.
    #[param(label = "Contrast", default = 1.0, range = [0.0, 100.0], slider = [0.5, 2.0], step = 0.01, unit = "×", group = "Drives")]
    pub contrast: f32,
    /// Saturation on one side, its inverse on the other.
    #[param(label = "Saturation", default = 1.0, range = [0.0, 100.0], slider = [0.5, 2.0], step = 0.01, unit = "×", group = "Drives")]
    pub saturation: f32,
    /// Warmer on one side, cooler on the other.
    #[param(label = "Warmth", default = 0.0, range = [-150.0, 1e3], slider = [-100.0, 100.0], step = 1.0, unit = "mired", group = "Drives")]
    pub warmth: f32,
    /// Which tones are changed.
    #[param(label = "Changes", group = "Tones")]
    pub tones: Tones,
    /// Luminance on a screen at which shadows end and lights begin.
    #[param(label = "Split at", default = 0.4, range = [0.0, 10.0], slider = [0.0, 1.0], step = 0.01, group = "Tones")]
    pub split: f32,
    /// Length of the ramp on both sides of the split.
    #[param(label = "Split soft", default = 0.2, range = [0.0, 10.0], slider = [0.0, 0.5], step = 0.01, group = "Tones")]
    pub split_soft: f32,
}

impl Kind for Shaping {
    fn about(&self) -> About {
        About {
            title: "Shape the light",
            about: "Brightens one side of things and darkens the other, by which way they face; no lamp is added.",
            version: 2,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Normal)]
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
}

impl Change for Shaping {
    fn group(&self) -> Group {
        Group::Light
    }

    fn reach(&self) -> Reach {
        // Rims are softened over the px around them.
        Reach::OwnPx(rims::REACH)
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let normals = inputs.need(Role::Normal)?;
        let mix = Mix { axes: [self.right, self.up, self.front], pivot: self.pivot, gain: self.gain };
        let grade = Grade {
            exposure: self.exposure,
            contrast: self.contrast,
            saturation: self.saturation,
            warmth: self.warmth,
            ..Grade::default()
        };
        let split = Split { tones: self.tones, at: self.split, soft: self.split_soft };
        Ok(Effect::Replace(shape(picture, normals, mix, split, &grade, inputs.cancel)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::steps::StepKind;

    #[test]
    fn it_says_what_it_does() {
        let s = Shaping::default();
        assert_eq!(s.sentence(), "Shape the light by right 50 %, up 50 %: +1.00 stops");
        let s = Shaping { right: -1.0, up: 0.0, tones: Tones::Shadows, exposure: -0.5, ..s };
        assert_eq!(s.sentence(), "Shape the shadows by left 100 %: -0.50 stops");
        assert!(StepKind::from(Shaping { gain: f32::NAN, ..s }).check().is_err());
    }
}
