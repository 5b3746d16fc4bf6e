//! Graded blur: from place to place.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::raster::graded::{Sized, graded, sizes_between};

/// A place with the blur that it has.
#[parameters(item)]
pub struct BlurPoint {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Where it is, full-resolution px.
    #[param(label = "Place", range = [-1e6, 1e6], step = 1.0, unit = "px", means = "spot")]
    pub at: [f32; 2],
    /// The blur there: twice the standard deviation.
    #[param(label = "Size", default = 12.0, range = [0.0, 400.0], slider = [0.0, 100.0], step = 0.1, unit = "px")]
    pub size: f32,
}

/// Parameters of Graded blur.
#[parameters]
pub struct GradedBlur {
    /// Places with the blur that each has; between them it passes from one to the other.
    #[param(label = "Points", means = "blur-points", item = "point", most = 64, group = "Blur")]
    pub places: Vec<BlurPoint>,
    /// Factor on all of them.
    #[param(label = "All", default = 1.0, range = [0.0, 100.0], slider = [0.0, 3.0], step = 0.01, unit = "×", group = "Blur")]
    pub all: f32,
}

impl Kind for GradedBlur {
    fn about(&self) -> About {
        About {
            title: "Graded blur",
            about: "Blurs the picture more here and less there, between points that are placed in it.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let sizes = || self.places.iter().map(|p| p.size * self.all);
        let (low, high) = (sizes().fold(f32::INFINITY, f32::min), sizes().fold(0.0, f32::max));
        match self.places.len() {
            0 => "Graded blur: no points yet".into(),
            1 => format!("Graded blur by {high:.1} px"),
            n => format!("Graded blur between {n} points, {low:.1} to {high:.1} px"),
        }
    }
}

impl Change for GradedBlur {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn reach(&self) -> Reach {
        Reach::WholeFrame
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let k = inputs.px(1.0);
        let placed = |p: &BlurPoint| Sized { at: Vec2::from(p.at) * k, size: p.size * self.all * k };
        let places: Vec<Sized> = self.places.iter().map(placed).collect();
        let sizes = sizes_between(&places, picture.window(), inputs.cancel)?;
        Ok(Effect::Replace(graded(picture, &sizes, inputs.cancel)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_says_between_what() {
        let point = |id, size| BlurPoint { id, size, ..BlurPoint::default() };
        let blur = |places| GradedBlur { places, all: 2.0 };
        assert_eq!(blur(vec![]).sentence(), "Graded blur: no points yet");
        assert_eq!(blur(vec![point(1, 4.0)]).sentence(), "Graded blur by 8.0 px");
        let two = blur(vec![point(1, 4.0), point(2, 0.0)]);
        assert_eq!(two.sentence(), "Graded blur between 2 points, 0.0 to 8.0 px");
    }
}
