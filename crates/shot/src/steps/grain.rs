//! Grain.

use super::change::{Change, Effect, Group};
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::colour::sharpen::{acescct, from_acescct};
use jugata_core::colour::tone::recoloured;
use jugata_core::relief::noise::{Basis, Noise};

/// Parameters of Grain.
#[parameters]
pub struct Grain {
    /// How strong it is.
    #[param(label = "Amount", default = 0.15, range = [0.0, 20.0], slider = [0.0, 1.0], step = 0.01, unit = "stops", group = "Grain")]
    pub amount: f32,
    /// How large its grains are.
    #[param(label = "Size", default = 1.6, range = [0.5, 200.0], slider = [0.5, 12.0], step = 0.1, unit = "px", group = "Grain")]
    pub size: f32,
    /// From grey grain to one that differs in every channel.
    #[param(label = "Colour", default = 0.3, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Grain")]
    pub colour: f32,
    /// Another number is another grain; drive it to make it move.
    #[param(label = "Seed", default = 1.0, range = [0.0, 1e6], step = 1.0, group = "Grain")]
    pub seed: f32,
}

impl Kind for Grain {
    fn about(&self) -> About {
        About {
            title: "Grain",
            about: "Adds grain that is as strong in the shadows as in the light.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        format!("Grain of {:.2} stops, {:.1} px", self.amount, self.size)
    }
}

/// ACEScct per stop (AMPAS S-2016-001: 1 ÷ 17.52).
const STOP: f32 = 1.0 / 17.52;

impl Change for Grain {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let noise = |channel: u32| Noise {
            basis: Basis::Gradient,
            seed: (self.seed as u32).wrapping_mul(4).wrapping_add(channel),
            period: [0, 0],
        };
        let all = [noise(0), noise(1), noise(2), noise(3)];
        let cell = 1.0 / inputs.px(self.size).max(0.25);
        // A noise of gradients spreads by about 0.28.
        let strength = self.amount * STOP / 0.28;
        let out = recoloured(picture, inputs.cancel, |rgb, at| {
            // Off the lattice, where gradients are 0.
            let place = at * cell + Vec2::splat(0.37);
            let grey = all[3].at(place, 0.5) * (1.0 - self.colour);
            std::array::from_fn(|c| {
                let own = grey + all[c].at(place, 0.5) * self.colour;
                if strength == 0.0 { rgb[c] } else { from_acescct(acescct(rgb[c]) + own * strength).max(0.0) }
            })
        })?;
        Ok(Effect::Replace(out))
    }
}
