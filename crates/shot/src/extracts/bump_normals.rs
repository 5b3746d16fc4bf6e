//! Normals with fine relief.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::surface::bump::{raised, reoriented};
use jugata_core::surface::normals::{Derivative, FromHeight, from_height};

/// What the relief comes from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum ReliefFrom {
    /// A height.
    #[default]
    Height,
    /// A normal map whose flat places face the viewer.
    NormalMap,
}

/// Parameters of Normals with relief.
#[parameters]
pub struct BumpNormals {
    /// What the relief comes from.
    #[param(label = "Relief", group = "Relief")]
    pub from: ReliefFrom,
    /// The normal map, by the number of its pass.
    #[ts(optional = nullable)]
    #[param(label = "Map", means = "normal-pass", group = "Relief", when = {"from": "normal_map"})]
    pub map: Option<u32>,
    /// How high a step of 1 is, full-resolution px.
    #[param(label = "Strength", default = 6.0, range = [-1e5, 1e5], slider = [-20.0, 20.0], step = 0.1, unit = "px", group = "Relief", when = {"from": "height"})]
    pub strength: f32,
    /// How strongly the map turns the normals.
    #[param(label = "Strength", default = 1.0, range = [-1e3, 1e3], slider = [-2.0, 2.0], step = 0.01, unit = "×", group = "Relief", when = {"from": "normal_map"})]
    pub share: f32,
}

impl BumpNormals {
    /// The normals raised by a height: along the surface where positions and camera are known.
    fn by_height(&self, base: &Raster, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let height = inputs.need(Role::Height)?;
        let strength = inputs.px(self.strength);
        if let (Some(positions), Some(camera)) = (inputs.pass(Role::Position), inputs.camera) {
            let focal = inputs.px(camera.focal);
            return Ok(raised(base, positions, height, strength, focal, inputs.cancel)?);
        }
        let how = FromHeight { strength, kernel: Derivative::Sobel, tileable: false, y_down: false };
        Ok(reoriented(base, &from_height(height, how, inputs.cancel)?, inputs.cancel)?)
    }

    /// The normals turned by a map.
    fn by_map(&self, base: &Raster, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let Some(map) = inputs.numbered().next() else { return Ok(base.clone()) };
        let mut map = map.clone();
        if self.share != 1.0 {
            for c in 0..2 {
                map.plane_mut(c).iter_mut().for_each(|v| *v *= self.share);
            }
        }
        Ok(reoriented(base, &map, inputs.cancel)?)
    }
}

impl Kind for BumpNormals {
    fn about(&self) -> About {
        About {
            title: "Normals with relief",
            about: "Adds fine relief to the normals, from a height or from a normal map.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        match self.from {
            ReliefFrom::Height => vec![needs(Role::Normal), needs(Role::Height), takes(Role::Position)],
            ReliefFrom::NormalMap => {
                [needs(Role::Normal)].into_iter().chain(self.map.map(Want::Pass)).collect()
            }
        }
    }

    fn sentence(&self) -> String {
        match (self.from, self.map) {
            (ReliefFrom::Height, _) => {
                format!("Normals with relief from height, {:.1} px high", self.strength)
            }
            (ReliefFrom::NormalMap, Some(id)) => format!("Normals with relief from pass {id}"),
            (ReliefFrom::NormalMap, None) => "Normals with relief from no map yet".into(),
        }
    }
}

impl Extraction for BumpNormals {
    fn gives(&self) -> Role {
        Role::Normal
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let base = inputs.need(Role::Normal)?;
        match self.from {
            ReliefFrom::Height => self.by_height(base, inputs),
            ReliefFrom::NormalMap => self.by_map(base, inputs),
        }
    }
}
