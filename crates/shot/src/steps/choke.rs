//! The edge of the picture's coverage choked or grown, with colours carried outwards first.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use jugata_core::matte::refill::{Refill, refilled};

/// Parameters of Choke and refill.
#[parameters]
pub struct Choke {
    /// How far the edge is drawn in; grown if negative.
    #[param(label = "Choke", default = 1.0, range = [-100.0, 100.0], slider = [-4.0, 8.0], step = 0.1, unit = "px")]
    pub by: f32,
    /// How far the new edge is softened.
    #[param(label = "Soften", default = 0.0, range = [0.0, 100.0], slider = [0.0, 8.0], step = 0.1, unit = "px")]
    pub soft: f32,
    /// How far inside of the old edge colours are trusted; those of the rim are made of them.
    #[param(label = "Refill from", default = 2.0, range = [0.0, 64.0], slider = [0.0, 8.0], step = 0.5, unit = "px")]
    pub rim: f32,
}

impl Choke {
    fn at(&self, k: f32) -> Refill {
        Refill { by: -self.by * k, soft: self.soft * k, rim: self.rim * k }
    }
}

impl Kind for Choke {
    fn about(&self) -> About {
        About {
            title: "Choke and refill",
            about: "Draws the edge in or lets it grow, with the colours from inside, so that no dark or light rim stays.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let how = if self.by < 0.0 { "Let the edge grow by" } else { "Choke the edge by" };
        let soft = if self.soft > 0.0 { format!(", softened by {:.1} px", self.soft) } else { String::new() };
        let refill =
            if self.rim > 0.0 { format!(", refilled from {:.1} px inside", self.rim) } else { String::new() };
        format!("{how} {:.1} px{soft}{refill}", self.by.abs())
    }
}

impl Change for Choke {
    fn group(&self) -> Group {
        Group::Edge
    }

    fn reach(&self) -> Reach {
        Reach::Px(self.at(1.0).reach())
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        Ok(Effect::Replace(refilled(picture, self.at(inputs.px(1.0)), inputs.cancel)?))
    }
}
