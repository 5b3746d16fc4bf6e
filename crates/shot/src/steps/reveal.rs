//! What lies before or behind a depth.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::colour::grade::Ramp;
use jugata_core::focus::reveal::reveal;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What stays.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Keeps {
    /// What is nearer.
    #[default]
    Nearer,
    /// What is farther.
    Farther,
}

/// Parameters of Reveal.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Reveal {
    /// Depth up to which, or from which on, all stays.
    #[schemars(extend("x-label" = "Up to", "x-meaning" = "depth", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Depth"))]
    pub at: f32,
    /// Length of the way over which it fades beyond that.
    #[schemars(extend("x-label" = "Soft", "x-unit" = "units", "x-slider" = [0.0, 5.0], "x-step" = 0.01, "x-group" = "Depth"))]
    pub soft: f32,
    /// What stays.
    #[schemars(extend("x-label" = "Keep", "x-group" = "Keeps"))]
    pub keeps: Keeps,
    /// Width of the picture's own soft edges: how far the colours of two surfaces mix there.
    #[schemars(extend("x-label" = "Edge width", "x-unit" = "px", "x-slider" = [1.0, 4.0], "x-step" = 1.0, "x-group" = "Keeps"))]
    pub rim: u32,
}

impl Default for Reveal {
    fn default() -> Self {
        Self { at: 5.0, soft: 0.2, keeps: Keeps::Nearer, rim: 1 }
    }
}

impl Kind for Reveal {
    const GROUP: Group = Group::Air;
    const TITLE: &'static str = "Reveal";
    const ABOUT: &'static str =
        "Keeps what is nearer (or farther) than a depth and makes the rest transparent.";
    const VERSION: u32 = 1;
    const JOINS: Joins = Joins { blend: BlendMode::Normal, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        vec![Reads { role: Role::Depth, required: true }]
    }

    fn reach(&self) -> Reach {
        // What lies behind a rim is carried on from anywhere.
        Reach::WholeFrame
    }

    fn sentence(&self) -> String {
        let keeps = if self.keeps == Keeps::Nearer { "nearer" } else { "farther" };
        format!("Reveal what is {keeps} than {:.2} units", self.at)
    }

    fn check(&self) -> Result<(), String> {
        range("the depth", self.at, 0.0, 1e9)?;
        range("the softness", self.soft, 0.0, 1e9)?;
        range("the width of rims", self.rim as f32, 1.0, 8.0)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let depth = inputs.need(Role::Depth, Self::TITLE)?;
        let keep = match self.keeps {
            Keeps::Nearer => Ramp { from: self.at + self.soft.max(1e-6), to: self.at },
            Keeps::Farther => Ramp { from: (self.at - self.soft.max(1e-6)).max(0.0), to: self.at },
        };
        let rim = inputs.rim(self.rim);
        Ok(reveal(inputs.picture, depth, keep, rim, inputs.cancel)?)
    }
}
