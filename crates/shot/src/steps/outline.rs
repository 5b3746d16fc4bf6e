//! Outline: rings of colour along an edge.

use super::change::{Change, Effect, Group, Reach};
use super::edge::{about_matte, edge_of, matte_of};
use crate::kinds::prelude::*;
use crate::made::OutlineRing;
use jugata_core::relief::ring::rings;

/// Parameters of Outline.
#[parameters]
pub struct Outline {
    /// What gets the outline; a matte of the element or its own outline.
    #[param(label = "Edge of", means = "own-matte", group = "Edge")]
    #[ts(optional = nullable)]
    pub of: Option<u32>,
    /// Rings along the edge; the first lies on top.
    #[param(label = "Rings", means = "rings", item = "ring", most = 16, default = vec![OutlineRing { id: 1, ..OutlineRing::default() }], group = "Rings")]
    pub rings: Vec<OutlineRing>,
}

impl Outline {
    /// Px around a pixel that it looks at.
    fn farthest(&self) -> f32 {
        self.rings.iter().map(|r| r.width).fold(0.0, f32::max) + 8.0
    }
}

impl Kind for Outline {
    fn about(&self) -> About {
        About {
            title: "Outline",
            about: "Draws rings of colour along an edge: inside, outside or on it.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        edge_of(self.of)
    }

    fn sentence(&self) -> String {
        match self.rings.as_slice() {
            [] => "Outline: no rings yet".into(),
            [one] => format!("Outline {:.1} px wide", one.width),
            all => format!("Outline of {} rings", all.len()),
        }
    }
}

impl Change for Outline {
    fn group(&self) -> Group {
        Group::Edge
    }

    fn reach(&self) -> Reach {
        Reach::Px(self.farthest())
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let matte = matte_of(picture, inputs)?;
        let all: Vec<_> = self.rings.iter().map(|r| r.at(inputs.px(1.0))).collect();
        let ringed = |picture: &Raster, matte: &Raster| Ok(rings(picture, matte, &all, inputs.cancel)?);
        let reach = inputs.px(self.farthest());
        Ok(Effect::Replace(about_matte(picture, &matte, reach, || picture.clone(), ringed)?))
    }
}
