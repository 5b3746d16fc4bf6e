//! Curves: tone by points.

use super::{Change, Effect, Group};
use crate::kinds::prelude::*;
use jugata_core::colour::curve::Curve;
use jugata_core::colour::tone::curved;

/// A point of a curve.
#[parameters(item)]
pub struct CurvePoint {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// A value before.
    #[param(label = "From", default = 0.5, range = [-10.0, 100.0], slider = [0.0, 1.0], step = 0.005)]
    pub x: f32,
    /// What it becomes.
    #[param(label = "To", default = 0.5, range = [-10.0, 100.0], slider = [0.0, 1.0], step = 0.005)]
    pub y: f32,
}

/// Parameters of Curves.
#[parameters]
pub struct Curves {
    /// Whether values are seen as on a screen (under the sRGB curve), or linear.
    #[param(label = "As on a screen", default = true, group = "Values")]
    pub display: bool,
    /// The curve of all channels.
    #[param(label = "All", means = "curve", item = "point", most = 64, default = identity(), group = "Curves")]
    pub all: Vec<CurvePoint>,
    /// The curve of red.
    #[param(label = "Red", means = "curve", item = "point", most = 64, default = identity(), group = "Curves")]
    pub red: Vec<CurvePoint>,
    /// The curve of green.
    #[param(label = "Green", means = "curve", item = "point", most = 64, default = identity(), group = "Curves")]
    pub green: Vec<CurvePoint>,
    /// The curve of blue.
    #[param(label = "Blue", means = "curve", item = "point", most = 64, default = identity(), group = "Curves")]
    pub blue: Vec<CurvePoint>,
}

/// A curve that changes nothing, with a point at either end.
fn identity() -> Vec<CurvePoint> {
    vec![CurvePoint { id: 1, x: 0.0, y: 0.0 }, CurvePoint { id: 2, x: 1.0, y: 1.0 }]
}

fn curve(points: &[CurvePoint]) -> Curve {
    Curve::through(&points.iter().map(|p| [p.x, p.y]).collect::<Vec<_>>())
}

impl Kind for Curves {
    fn about(&self) -> About {
        About { title: "Curves", about: "Sends values through curves that are drawn by points.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let bent = |points: &[CurvePoint]| !curve(points).is_identity();
        let named = [("all", &self.all), ("red", &self.red), ("green", &self.green), ("blue", &self.blue)];
        let said: Vec<&str> = named.into_iter().filter(|(_, c)| bent(c)).map(|(name, _)| name).collect();
        if said.is_empty() { "Curves".into() } else { format!("Curves: {}", said.join(", ")) }
    }
}

impl Change for Curves {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let channels = [&self.red, &self.green, &self.blue].map(|c| curve(c));
        Ok(Effect::Replace(curved(picture, &curve(&self.all), &channels, self.display, inputs.cancel)?))
    }
}
