//! The light of one element brought to another.

use super::change::{Change, Effect, Group};
use crate::kinds::prelude::*;
use jugata_core::light::harmonics::relit;

/// Parameters of Match the light.
#[parameters]
pub struct MatchLight {
    /// The element whose light is taken.
    #[param(label = "Match to", means = "element", group = "Light")]
    pub like: Option<u32>,
    /// Nothing becomes more than this much brighter or darker.
    #[param(label = "Max gain", default = 6.0, range = [1.0, 1e4], slider = [1.0, 16.0], step = 0.1, unit = "×", group = "Light")]
    pub most: f32,
}

impl Kind for MatchLight {
    fn about(&self) -> About {
        About {
            title: "Match the light",
            about: "Finds the light of another element and of this one, and lights this one as the other is lit.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let mut wants = vec![needs(Role::Normal), takes(Role::Albedo)];
        wants.extend(self.like.map(Want::LightOf));
        wants
    }

    fn sentence(&self) -> String {
        match self.like {
            Some(id) => format!("Match the light to that of element {id}"),
            None => "Match the light: no element chosen".into(),
        }
    }
}

impl Change for MatchLight {
    fn group(&self) -> Group {
        Group::Light
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        // Without another element it is a step that waits for one.
        let Some(lights) = inputs.lights() else { return Ok(Effect::Replace(picture.clone())) };
        let normal = inputs.need(Role::Normal)?;
        Ok(Effect::Replace(relit(picture, normal, &lights.own, &lights.other, self.most, inputs.cancel)?))
    }
}
