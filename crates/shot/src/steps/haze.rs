//! Air between the camera and the surface.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use jugata_core::colour::grade;

/// Where the haze has its colour from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum HazeColour {
    /// Chosen.
    #[default]
    Own,
    /// The mean of what lies farthest in the picture.
    Farthest,
}

/// Parameters of Haze.
#[parameters]
pub struct Haze {
    /// Depth at which it begins.
    #[param(label = "Begins at", default = 0.0, range = [0.0, 1e9], step = 0.01, unit = "units", means = "depth", group = "Air")]
    pub start: f32,
    /// How much of the light each unit of the way takes.
    #[param(label = "Density", default = 0.1, range = [0.0, 1e6], slider = [0.0, 1.0], step = 0.005, unit = "/unit", group = "Air")]
    pub density: f32,
    /// Where the colour is from.
    #[param(label = "Colour of", group = "Colour")]
    pub from: HazeColour,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [0.42, 0.5, 0.6], range = [0.0, 1e3], means = "colour", group = "Colour", when = {"from": "own"})]
    pub colour: [f32; 3],
}

impl Kind for Haze {
    fn about(&self) -> About {
        About {
            title: "Haze",
            about: "Fills the air: the farther a surface, the more it takes the colour of the haze.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Depth)]
    }

    fn sentence(&self) -> String {
        let colour =
            if self.from == HazeColour::Farthest { " in the colour of what is farthest" } else { "" };
        format!("Haze from {:.2} units, density {:.3}{colour}", self.start, self.density)
    }
}

impl Change for Haze {
    fn group(&self) -> Group {
        Group::Air
    }

    fn reach(&self) -> Reach {
        match self.from {
            HazeColour::Own => Reach::Px(0.0),
            HazeColour::Farthest => Reach::WholeFrame,
        }
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let depth = inputs.need(Role::Depth)?;
        let colour = match self.from {
            HazeColour::Own => self.colour,
            HazeColour::Farthest => grade::far_colour(picture, depth).unwrap_or(self.colour),
        };
        let haze = grade::Haze { density: self.density, start: self.start, colour };
        Ok(Effect::Replace(grade::haze(picture, depth, &haze, inputs.cancel)?))
    }
}
