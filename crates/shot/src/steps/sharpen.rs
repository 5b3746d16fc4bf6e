//! What a resampling took, or more, given back: an unsharp mask in log.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use jugata_core::colour::sharpen;

/// Parameters of Sharpen.
#[parameters]
pub struct Sharpen {
    /// How fine what is sharpened is.
    #[param(label = "Radius", default = 0.8, range = [0.2, 20.0], slider = [0.3, 5.0], step = 0.05, unit = "px")]
    pub radius: f32,
    /// How much of it is added.
    #[param(label = "Amount", default = 30.0, range = [-100.0, 1000.0], slider = [0.0, 200.0], step = 1.0, unit = "%")]
    pub amount: f32,
    /// What differs by less is left alone: grain.
    #[param(label = "Threshold", range = [0.0, 10.0], slider = [0.0, 0.5], step = 0.01, unit = "stops")]
    pub threshold: f32,
}

impl Sharpen {
    fn at(&self, k: f32) -> sharpen::Sharpen {
        sharpen::Sharpen { radius: self.radius * k, amount: self.amount * 0.01, threshold: self.threshold }
    }
}

impl Kind for Sharpen {
    fn about(&self) -> About {
        About {
            title: "Sharpen",
            about: "Brings out fine detail, in log, so that bright edges get no halos.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let grain = if self.threshold > 0.0 {
            format!(", from {:.2} stops on", self.threshold)
        } else {
            String::new()
        };
        format!("Sharpen {:.0} % at {:.2} px{grain}", self.amount, self.radius)
    }
}

impl Change for Sharpen {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn reach(&self) -> Reach {
        Reach::Px(self.radius * 3.0)
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let how = self.at(inputs.px(1.0));
        Ok(Effect::Replace(sharpen::sharpen(picture, how, inputs.cancel)?))
    }
}
