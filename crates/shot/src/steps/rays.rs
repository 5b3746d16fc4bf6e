//! Rays: light drawn out along lines from a place.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::colour::rays;

/// Parameters of Rays.
#[parameters]
pub struct Rays {
    /// Where they come from.
    #[param(label = "From", range = [-200_000.0, 200_000.0], step = 1.0, unit = "px", means = "place", group = "From")]
    pub from: [f32; 2],
    /// Brightness from which on light is drawn out; 1 is white.
    #[param(label = "Above", default = 0.8, range = [0.0, 1e6], slider = [0.0, 4.0], step = 0.01, group = "Takes")]
    pub threshold: f32,
    /// How far they reach: a share of the way from there to what is bright.
    #[param(label = "Length", default = 0.6, range = [0.0, 20.0], slider = [0.0, 3.0], step = 0.01, unit = "×", group = "From")]
    pub length: f32,
    /// Linear Rec.709.
    #[param(label = "Tint", default = [1.0; 3], range = [0.0, 1e3], means = "colour", group = "Light")]
    pub tint: [f32; 3],
    /// Factor on the light.
    #[param(label = "Intensity", default = 1.0, range = [0.0, 1e6], slider = [0.0, 8.0], step = 0.01, unit = "×", group = "Light")]
    pub intensity: f32,
}

impl Kind for Rays {
    fn about(&self) -> About {
        About {
            title: "Rays",
            about: "Draws light out from what is bright, along lines away from a place.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let [x, y] = self.from;
        format!("Rays from {x:.0}, {y:.0}, {:.2} long, intensity {:.2}", self.length, self.intensity)
    }
}

impl Change for Rays {
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
        let how = rays::Rays {
            threshold: self.threshold,
            from: Vec2::from(self.from) * inputs.px(1.0),
            length: self.length,
            tint: self.tint.map(|t| t * self.intensity),
        };
        Ok(Effect::Over(rays::rays(picture, &how, inputs.cancel)?))
    }
}
