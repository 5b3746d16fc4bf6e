//! Colours that pass into each other.

use super::drawn::{Made, Stop, coloured, rgba, two};
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

/// A colour between the first and the second.
#[parameters(item)]
pub struct ColourStop {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Where it stands on the way from the first colour to the second.
    #[param(label = "At", default = 0.5, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.005)]
    pub at: f32,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [0.3, 0.3, 0.3], range = [0.0, 1e3], means = "colour")]
    pub colour: [f32; 3],
    /// How opaque it is.
    #[param(label = "Opacity", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01)]
    pub opacity: f32,
}

/// Parameters of Gradient.
#[parameters]
pub struct Gradient {
    /// Along what the colours change.
    #[param(label = "Form", group = "Form")]
    pub form: GradientForm,
    /// Where the first colour ends: a share of the frame, from its left and its upper edge.
    #[param(label = "From", default = [0.5, 0.0], range = [-10.0, 10.0], step = 0.01, means = "frame-share", group = "Form")]
    pub from: [f32; 2],
    /// Where the second colour begins.
    #[param(label = "To", default = [0.5, 1.0], range = [-10.0, 10.0], step = 0.01, means = "frame-share", group = "Form")]
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
    /// Colours on the way from the first to the second.
    #[param(label = "Between", means = "colour-stops", item = "colour", most = 32, group = "Between")]
    pub between: Vec<ColourStop>,
    /// From a straight change to one that begins and ends gently.
    #[param(label = "Ease", range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Form")]
    pub ease: f32,
}

impl Kind for Gradient {
    fn about(&self) -> About {
        About {
            title: "Gradient",
            about: "Fills the frame with colours that pass into each other, along a line, outwards or around.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let form = match self.form {
            GradientForm::Line => "Gradient along a line",
            GradientForm::Round => "Round gradient",
            GradientForm::Turn => "Gradient around a place",
        };
        match self.between.len() {
            0 => form.into(),
            more => format!("{form}, {} colours", more + 2),
        }
    }
}

impl Gradient {
    /// All its colours, in their order.
    fn stops(&self) -> Vec<Stop> {
        let mut between: Vec<Stop> = self.between.iter().map(|s| (s.at, rgba(s.colour, s.opacity))).collect();
        between.sort_by(|a, b| a.0.total_cmp(&b.0));
        let [first, last] =
            two([rgba(self.first, self.first_opacity), rgba(self.second, self.second_opacity)]);
        [first].into_iter().chain(between).chain([last]).collect()
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
        coloured(inputs, &self.stops(), |at| {
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::made::drawn::colour_at;

    #[test]
    fn colours_stand_in_order_wherever_they_were_added() {
        let stop = |id, at, v| ColourStop { id, at, colour: [v; 3], opacity: 0.5 };
        let gradient = Gradient {
            first: [0.0; 3],
            second: [1.0; 3],
            between: vec![stop(1, 0.75, 0.2), stop(2, 0.25, 0.8)],
            ..Gradient::default()
        };
        let stops = gradient.stops();
        let red = |t| colour_at(&stops, t)[0];
        // Premultiplied: half of 0.8 at a quarter, half of 0.2 at three quarters.
        assert_eq!(
            [red(-1.0), red(0.0), red(0.25), red(0.75), red(1.0), red(2.0)],
            [0.0, 0.0, 0.4, 0.1, 1.0, 1.0]
        );
        assert!((red(0.5) - 0.25).abs() < 1e-6 && (red(0.125) - 0.2).abs() < 1e-6);
        assert_eq!(gradient.sentence(), "Gradient along a line, 4 colours");
    }
}
