//! Recolour: brightness through three colours.

use super::change::{Change, Effect, Group};
use crate::kinds::prelude::*;
use jugata_core::colour::tone::through_gradient;

/// Parameters of Recolour.
#[parameters]
pub struct Recolour {
    /// What black becomes, linear Rec.709.
    #[param(label = "Dark", default = [0.01, 0.012, 0.03], range = [0.0, 1e3], means = "colour")]
    pub dark: [f32; 3],
    /// What the middle of the brightness becomes.
    #[param(label = "Middle", default = [0.3, 0.12, 0.05], range = [0.0, 1e3], means = "colour")]
    pub middle: [f32; 3],
    /// What white becomes.
    #[param(label = "Light", default = [1.0, 0.85, 0.5], range = [0.0, 1e3], means = "colour")]
    pub light: [f32; 3],
    /// From the picture's own colours to these.
    #[param(label = "Amount", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01)]
    pub amount: f32,
}

impl Kind for Recolour {
    fn about(&self) -> About {
        About { title: "Recolour", about: "Gives dark, middle and light each a colour.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        format!("Recolour by {:.0} %", self.amount * 100.0)
    }
}

impl Change for Recolour {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let stops = [self.dark, self.middle, self.light];
        Ok(Effect::Replace(through_gradient(picture, stops, self.amount, inputs.cancel)?))
    }
}
