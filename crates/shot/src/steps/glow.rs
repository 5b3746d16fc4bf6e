//! Glow: light that spreads from what is bright.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use jugata_core::colour::glow;

/// Parameters of Glow.
#[parameters]
pub struct Glow {
    /// Brightness from which on it spreads; 1 is white.
    #[param(label = "Above", default = 0.8, range = [0.0, 1e6], slider = [0.0, 4.0], step = 0.01, group = "Takes")]
    pub threshold: f32,
    /// How wide it is.
    #[param(label = "Size", default = 40.0, range = [0.3, 1000.0], slider = [1.0, 300.0], step = 1.0, unit = "px", group = "Spreads")]
    pub size: f32,
    /// From a bright core to a wide haze.
    #[param(label = "Wide", default = 0.5, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Spreads")]
    pub wide: f32,
    /// Linear Rec.709.
    #[param(label = "Tint", default = [1.0; 3], range = [0.0, 1e3], means = "colour", group = "Light")]
    pub tint: [f32; 3],
    /// Share of the light that is laid over; 1 adds as much as was taken.
    #[param(label = "Intensity", default = 0.6, range = [0.0, 1e6], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Light")]
    pub intensity: f32,
}

impl Kind for Glow {
    fn about(&self) -> About {
        About {
            title: "Glow",
            about: "Spreads light from what is bright, over what lies around it.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        format!("Glow {:.0} px wide above {:.2}, intensity {:.2}", self.size, self.threshold, self.intensity)
    }
}

impl Change for Glow {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn joins(&self) -> Joins {
        Joins::of(BlendMode::Add)
    }

    fn reach(&self) -> Reach {
        Reach::WholeFrame
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let how = glow::Glow {
            threshold: self.threshold,
            size: inputs.px(self.size),
            wide: self.wide,
            tint: self.tint.map(|t| t * self.intensity),
        };
        Ok(Effect::Over(glow::glow(picture, &how, inputs.cancel)?))
    }
}
