//! What lies before or behind a depth.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use jugata_core::colour::grade::Ramp;
use jugata_core::focus::reveal::reveal;

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
#[parameters]
pub struct Reveal {
    /// Depth up to which, or from which on, all stays.
    #[param(label = "Up to", default = 5.0, range = [0.0, 1e9], step = 0.01, unit = "units", means = "depth", group = "Depth")]
    pub at: f32,
    /// Length of the way over which it fades beyond that.
    #[param(label = "Soft", default = 0.2, range = [0.0, 1e9], slider = [0.0, 5.0], step = 0.01, unit = "units", group = "Depth")]
    pub soft: f32,
    /// What stays.
    #[param(label = "Keep", group = "Keeps")]
    pub keeps: Keeps,
    /// Width of the picture's own soft edges: how far the colours of two surfaces mix there.
    #[param(label = "Edge width", default = 1, range = [1.0, 8.0], slider = [1.0, 4.0], step = 1.0, unit = "px", group = "Keeps")]
    pub rim: u32,
}

impl Kind for Reveal {
    fn about(&self) -> About {
        About {
            title: "Reveal",
            about: "Keeps what is nearer (or farther) than a depth and makes the rest transparent.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Depth)]
    }

    fn sentence(&self) -> String {
        let keeps = if self.keeps == Keeps::Nearer { "nearer" } else { "farther" };
        format!("Reveal what is {keeps} than {:.2} units", self.at)
    }
}

impl Change for Reveal {
    fn group(&self) -> Group {
        Group::Air
    }

    fn reach(&self) -> Reach {
        // What lies behind a rim is carried on from anywhere.
        Reach::WholeFrame
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let depth = inputs.need(Role::Depth)?;
        let keep = match self.keeps {
            Keeps::Nearer => Ramp { from: self.at + self.soft.max(1e-6), to: self.at },
            Keeps::Farther => Ramp { from: (self.at - self.soft.max(1e-6)).max(0.0), to: self.at },
        };
        let rim = inputs.rim(self.rim);
        Ok(Effect::Replace(reveal(picture, depth, keep, rim, inputs.cancel)?))
    }
}
