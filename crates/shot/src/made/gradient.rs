//! Colours that pass into each other.

use super::{Made, rgba, two_colours};
use crate::kinds::prelude::*;
use glam::Vec2;
use std::f32::consts::TAU;

/// Along what the colours change.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum GradientForm {
    /// Along a line.
    #[default]
    Line,
    /// Outwards from a place.
    Round,
    /// Once around a place, from the direction of the other one.
    Turn,
}

/// Parameters of Gradient.
#[parameters]
pub struct Gradient {
    /// Along what the colours change.
    #[param(label = "Form", group = "Form")]
    pub form: GradientForm,
    /// Where the first colour ends: a share of the frame, from its left and its upper edge.
    #[param(label = "From", default = [0.5, 0.0], range = [-10.0, 10.0], step = 0.01, means = "pair", group = "Form")]
    pub from: [f32; 2],
    /// Where the second colour begins.
    #[param(label = "To", default = [0.5, 1.0], range = [-10.0, 10.0], step = 0.01, means = "pair", group = "Form")]
    pub to: [f32; 2],
    /// Linear Rec.709.
    #[param(label = "Colour 1", default = [0.02, 0.05, 0.12], range = [0.0, 1e3], means = "colour", group = "First")]
    pub first: [f32; 3],
    /// How opaque the first colour is.
    #[param(label = "Opacity 1", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "First")]
    pub first_opacity: f32,
    /// Linear Rec.709.
    #[param(label = "Colour 2", default = [0.35, 0.45, 0.6], range = [0.0, 1e3], means = "colour", group = "Second")]
    pub second: [f32; 3],
    /// How opaque the second colour is.
    #[param(label = "Opacity 2", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Second")]
    pub second_opacity: f32,
    /// From a straight change to one that begins and ends gently.
    #[param(label = "Ease", range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Form")]
    pub ease: f32,
}

impl Kind for Gradient {
    fn about(&self) -> About {
        About {
            title: "Gradient",
            about: "Fills the frame with two colours that pass into each other, along a line, outwards or around.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        match self.form {
            GradientForm::Line => "Gradient along a line".into(),
            GradientForm::Round => "Round gradient".into(),
            GradientForm::Turn => "Gradient around a place".into(),
        }
    }
}

impl Made for Gradient {
    fn draw(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let frame = inputs.window;
        let size = Vec2::new(frame.width as f32, frame.height as f32);
        let corner = Vec2::new(frame.x as f32, frame.y as f32);
        let [from, to] = [self.from, self.to].map(|p| corner + Vec2::from(p) * size);
        let way = to - from;
        let length = way.length_squared().max(1e-12);
        let colours = [rgba(self.first, self.first_opacity), rgba(self.second, self.second_opacity)];
        two_colours(inputs, colours, |at| {
            let d = at - from;
            let t = match self.form {
                GradientForm::Line => d.dot(way) / length,
                GradientForm::Round => (d.length_squared() / length).sqrt(),
                GradientForm::Turn => way.angle_to(d).rem_euclid(TAU) / TAU,
            };
            let t = t.clamp(0.0, 1.0);
            t + (t * t * (3.0 - 2.0 * t) - t) * self.ease
        })
    }
}
