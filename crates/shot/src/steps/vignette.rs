//! Vignette.

use super::change::{Change, Effect, Group};
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::colour::tone;

/// Parameters of Vignette.
#[parameters]
pub struct Vignette {
    /// Its middle: a share of the frame, from its left and its upper edge.
    #[param(label = "Middle", default = [0.5, 0.5], range = [-10.0, 10.0], step = 0.01, means = "pair", group = "Ellipse")]
    pub middle: [f32; 2],
    /// Where it is half done: a share of half the frame's width and height.
    #[param(label = "Size", default = [1.0, 1.0], range = [0.01, 100.0], step = 0.01, means = "pair", group = "Ellipse")]
    pub size: [f32; 2],
    /// From a hard edge to one that begins in the middle.
    #[param(label = "Softness", default = 0.6, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Ellipse")]
    pub soft: f32,
    /// By how much it darkens outside; positive brightens.
    #[param(label = "Stops", default = -1.0, range = [-20.0, 20.0], slider = [-4.0, 2.0], step = 0.05, unit = "stops", group = "Light")]
    pub stops: f32,
}

impl Kind for Vignette {
    fn about(&self) -> About {
        About { title: "Vignette", about: "Darkens the picture toward its edges.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        format!("Vignette of {:+.2} stops", self.stops)
    }
}

impl Change for Vignette {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let frame = inputs.frame;
        let size = Vec2::new(frame.width as f32, frame.height as f32) * inputs.px(1.0);
        let corner = Vec2::new(frame.x as f32, frame.y as f32) * inputs.px(1.0);
        let how = tone::Vignette {
            centre: corner + Vec2::from(self.middle) * size,
            radii: 0.5 * size * Vec2::from(self.size),
            soft: self.soft,
            stops: self.stops,
        };
        Ok(Effect::Replace(tone::vignette(picture, &how, inputs.cancel)?))
    }
}
