//! Air between the camera and the surface.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::colour::grade;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

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
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Haze {
    /// Depth at which it begins.
    #[schemars(extend("x-label" = "Begins at", "x-meaning" = "depth", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Air"))]
    pub start: f32,
    /// How much of the light each unit of the way takes.
    #[schemars(extend("x-label" = "Density", "x-unit" = "/unit", "x-slider" = [0.0, 1.0], "x-step" = 0.005, "x-group" = "Air"))]
    pub density: f32,
    /// Where the colour is from.
    #[schemars(extend("x-label" = "Colour of", "x-group" = "Colour"))]
    pub from: HazeColour,
    /// Linear Rec.709.
    #[schemars(extend("x-label" = "Colour", "x-meaning" = "colour", "x-group" = "Colour", "x-when" = {"from": "own"}))]
    pub colour: [f32; 3],
}

impl Default for Haze {
    fn default() -> Self {
        Self { start: 0.0, density: 0.1, from: HazeColour::Own, colour: [0.42, 0.5, 0.6] }
    }
}

impl Kind for Haze {
    const GROUP: Group = Group::Air;
    const TITLE: &'static str = "Haze";
    const ABOUT: &'static str =
        "Fills the air: the farther a surface, the more it takes the colour of the haze.";
    const VERSION: u32 = 1;
    const JOINS: Joins = Joins { blend: BlendMode::Normal, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        vec![Reads { role: Role::Depth, required: true }]
    }

    fn reach(&self) -> Reach {
        match self.from {
            HazeColour::Own => Reach::Px(0.0),
            HazeColour::Farthest => Reach::WholeFrame,
        }
    }

    fn sentence(&self) -> String {
        let colour =
            if self.from == HazeColour::Farthest { " in the colour of what is farthest" } else { "" };
        format!("Haze from {:.2} units, density {:.3}{colour}", self.start, self.density)
    }

    fn check(&self) -> Result<(), String> {
        range("where it begins", self.start, 0.0, 1e9)?;
        range("density", self.density, 0.0, 1e6)?;
        self.colour.iter().try_for_each(|&v| range("colour", v, 0.0, 1e3))
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let depth = inputs.need(Role::Depth, Self::TITLE)?;
        let colour = match self.from {
            HazeColour::Own => self.colour,
            HazeColour::Farthest => grade::far_colour(inputs.picture, depth).unwrap_or(self.colour),
        };
        let haze = grade::Haze { density: self.density, start: self.start, colour };
        Ok(grade::haze(inputs.picture, depth, &haze, inputs.cancel)?)
    }
}
