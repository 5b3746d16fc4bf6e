//! Colour: contrast, saturation, warmth, hues.

use super::change::{Change, Effect, Group};
use crate::kinds::prelude::*;
use jugata_core::colour::grade::Grade;
use jugata_core::colour::tone::{Hues, Tone};

/// Parameters of Colour.
#[parameters]
pub struct Colour {
    /// Power about the pivot.
    #[param(label = "Contrast", default = 1.0, range = [0.0, 20.0], slider = [0.3, 3.0], step = 0.01, unit = "×", group = "Tone")]
    pub contrast: f32,
    /// The value that contrast leaves as it is.
    #[param(label = "Pivot", default = 0.18, range = [0.0001, 1000.0], slider = [0.01, 1.0], step = 0.01, group = "Tone")]
    pub pivot: f32,
    /// Added to everything: positive lifts the blacks.
    #[param(label = "Lift", range = [-100.0, 100.0], slider = [-0.2, 0.2], step = 0.001, group = "Tone")]
    pub lift: f32,
    /// Factors of the channels.
    #[param(label = "Gain", default = [1.0; 3], range = [0.0, 1e3], means = "colour", group = "Tone")]
    pub gain: [f32; 3],
    /// From grey to vivid.
    #[param(label = "Saturation", default = 1.0, range = [0.0, 100.0], slider = [0.0, 2.5], step = 0.01, unit = "×", group = "Colour")]
    pub saturation: f32,
    /// Warmer or cooler white.
    #[param(label = "Warmth", range = [-100.0, 400.0], slider = [-80.0, 150.0], step = 1.0, unit = "mired", group = "Colour")]
    pub warmth: f32,
    /// A colour that is mixed in.
    #[param(label = "Tint", default = [1.0, 0.75, 0.5], range = [0.0, 1e3], means = "colour", group = "Colour")]
    pub tint: [f32; 3],
    /// How much of the tint.
    #[param(label = "Tinted", range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Colour")]
    pub tinted: f32,
    /// Turns hues: 120° makes red green.
    #[param(label = "Turn hue", range = [-3600.0, 3600.0], slider = [-180.0, 180.0], step = 1.0, unit = "°", group = "Hue")]
    pub turn: f32,
    /// Saturation of the hues that are turned.
    #[param(label = "Vivid", default = 1.0, range = [0.0, 100.0], slider = [0.0, 3.0], step = 0.01, unit = "×", group = "Hue")]
    pub vivid: f32,
    /// Which hue it is about: 0° red, 120° green, 240° blue.
    #[param(label = "About hue", range = [-3600.0, 3600.0], slider = [0.0, 360.0], step = 1.0, unit = "°", group = "Hue")]
    pub middle: f32,
    /// How wide a range of hues is fully turned; 360° is all of them.
    #[param(label = "Range", default = 360.0, range = [0.0, 360.0], slider = [0.0, 360.0], step = 1.0, unit = "°", group = "Hue")]
    pub width: f32,
    /// Over how many degrees on either side it fades.
    #[param(label = "Fade", default = 30.0, range = [0.0, 180.0], slider = [0.0, 120.0], step = 1.0, unit = "°", group = "Hue")]
    pub soft: f32,
}

impl Kind for Colour {
    fn about(&self) -> About {
        About {
            title: "Colour",
            about: "Contrast about a pivot, saturation and warmth; hues turned, all or a range of them.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let mut said = Vec::new();
        let mut tell = |is: bool, words: String| {
            if is {
                said.push(words);
            }
        };
        tell(self.contrast != 1.0, format!("contrast {:.2}", self.contrast));
        tell(self.saturation != 1.0, format!("saturation {:.2}", self.saturation));
        tell(self.warmth != 0.0, format!("{:+.0} mired", self.warmth));
        tell(self.turn != 0.0, format!("hue {:+.0}°", self.turn));
        if said.is_empty() { "Colour".into() } else { format!("Colour: {}", said.join(", ")) }
    }
}

impl Change for Colour {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let tone = Tone {
            grade: Grade {
                exposure: 0.0,
                contrast: self.contrast,
                saturation: self.saturation,
                warmth: self.warmth,
                tint: if self.tinted > 0.0 { self.tint } else { [1.0; 3] },
                tinted: self.tinted,
            },
            pivot: self.pivot,
            lift: self.lift,
            gain: self.gain,
            turn: self.turn,
            vivid: self.vivid,
            hues: Hues { middle: self.middle, width: self.width, soft: self.soft },
        };
        Ok(Effect::Replace(tone.apply(picture, inputs.cancel)?))
    }
}
