//! Curves: tone by points.

use super::change::{Change, Effect, Group};
use crate::curve::{CurvePoint, identity, through};
use crate::kinds::prelude::*;
use jugata_core::colour::tone::curved;

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

impl Kind for Curves {
    fn about(&self) -> About {
        About { title: "Curves", about: "Sends values through curves that are drawn by points.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let bent = |points: &[CurvePoint]| !through(points).is_identity();
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
        let channels = [&self.red, &self.green, &self.blue].map(|c| through(c));
        Ok(Effect::Replace(curved(picture, &through(&self.all), &channels, self.display, inputs.cancel)?))
    }
}
