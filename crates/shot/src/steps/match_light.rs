//! The light of one element brought to another.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::light::harmonics::relit;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Match the light.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct MatchLight {
    /// The element whose light is taken.
    #[schemars(extend("x-label" = "Match to", "x-meaning" = "element", "x-group" = "Light"))]
    pub like: Option<u32>,
    /// Nothing becomes more than this much brighter or darker.
    #[schemars(extend("x-label" = "Max gain", "x-unit" = "×", "x-slider" = [1.0, 16.0], "x-step" = 0.1, "x-group" = "Light"))]
    pub most: f32,
}

impl Default for MatchLight {
    fn default() -> Self {
        Self { like: None, most: 6.0 }
    }
}

impl Kind for MatchLight {
    const GROUP: Group = Group::Light;
    const TITLE: &'static str = "Match the light";
    const ABOUT: &'static str =
        "Finds the light of another element and of this one, and lights this one as the other is lit.";
    const VERSION: u32 = 1;
    const JOINS: Joins = Joins { blend: BlendMode::Normal, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        vec![Reads { role: Role::Normal, required: true }, Reads { role: Role::Albedo, required: false }]
    }

    fn reach(&self) -> Reach {
        Reach::Px(0.0)
    }

    fn light_of(&self) -> Option<u32> {
        self.like
    }

    fn sentence(&self) -> String {
        match self.like {
            Some(id) => format!("Match the light to that of element {id}"),
            None => "Match the light: no element chosen".into(),
        }
    }

    fn check(&self) -> Result<(), String> {
        range("the most", self.most, 1.0, 1e4)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        // Without another element it is a step that waits for one.
        let Some(lights) = &inputs.lights else { return Ok(inputs.picture.clone()) };
        let normal = inputs.need(Role::Normal, Self::TITLE)?;
        Ok(relit(inputs.picture, normal, &lights.own, &lights.other, self.most, inputs.cancel)?)
    }
}
