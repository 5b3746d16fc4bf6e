//! Normals or height of a bevel along the element's edge.

use super::extraction::Extraction;
use crate::curve::{CurvePoint, identity, through};
use crate::kinds::prelude::*;
use jugata_core::relief::bevel::{self, Profile, Rise, Side, relief};
use jugata_core::relief::corner::Corners;

/// What comes out.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum BevelGives {
    /// Normals: what lamps fall on.
    #[default]
    Normals,
    /// Height, px.
    Height,
}

/// Parameters of Bevel.
#[parameters]
pub struct Bevel {
    /// What comes out.
    #[param(label = "Gives", group = "Gives")]
    pub gives: BevelGives,
    /// How wide the bevel is.
    #[param(label = "Width", default = 12.0, range = [0.1, 1000.0], slider = [0.5, 80.0], step = 0.1, unit = "px", group = "Bevel")]
    pub width: f32,
    /// How high it rises, in widths; negative sinks.
    #[param(label = "Height", default = 1.0, range = [-20.0, 20.0], slider = [-2.0, 2.0], step = 0.01, unit = "×", group = "Bevel")]
    pub height: f32,
    /// How it rises.
    #[param(label = "Profile", default = Profile::Round, means = "choice-list", group = "Bevel")]
    pub profile: Profile,
    /// The profile from its lower end to its upper, over its width.
    #[param(label = "Drawn", means = "profile", item = "point", most = 64, default = identity(), group = "Bevel", when = {"profile": "drawn"})]
    pub drawn: Vec<CurvePoint>,
    /// On which side of the edge it lies.
    #[param(label = "Lies", group = "Bevel")]
    pub side: Side,
    /// Beyond a corner it goes around it, or its sides go on until they meet in a ridge.
    #[param(label = "Corners", group = "Bevel")]
    pub corners: Corners,
    /// Blur of its slopes: rounder ridges.
    #[param(label = "Rounded", default = 1.0, range = [0.0, 400.0], slider = [0.0, 30.0], step = 0.1, unit = "px", group = "Bevel")]
    pub soft: f32,
}

impl Kind for Bevel {
    fn about(&self) -> About {
        About {
            title: "Bevel",
            about: "Gives the element's edge a bevel, as normals for lamps to fall on or as a height.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Alpha)]
    }

    fn sentence(&self) -> String {
        let what = if self.gives == BevelGives::Normals { "Normals" } else { "Height" };
        format!("{what} of a bevel {:.1} px wide", self.width)
    }
}

impl Extraction for Bevel {
    fn gives(&self) -> Role {
        if self.gives == BevelGives::Normals { Role::Normal } else { Role::Height }
    }

    fn is_mean(&self) -> bool {
        true
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let bevel = bevel::Bevel {
            width: inputs.px(self.width),
            height: self.height,
            profile: Rise::new(self.profile, through(&self.drawn)),
            side: self.side,
            corners: self.corners,
        };
        let made = relief(inputs.need(Role::Alpha)?, &bevel, inputs.px(self.soft), inputs.cancel)?;
        if self.gives == BevelGives::Normals {
            return Ok(made.normals);
        }
        // Lengths of a height are those of the full resolution.
        let mut height = made.height;
        let k = 1.0 / inputs.px(1.0);
        height.plane_mut(0).iter_mut().for_each(|v| *v *= k);
        Ok(height)
    }
}
