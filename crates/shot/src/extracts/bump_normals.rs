//! Normals with fine relief.

use super::{ExtractInputs, Extraction, needs, takes};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::surface::bump::{raised, reoriented};
use jugata_core::surface::normals::{Derivative, FromHeight, from_height};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

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
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct BumpNormals {
    /// What the relief comes from.
    #[schemars(extend("x-label" = "Relief", "x-group" = "Relief"))]
    pub from: ReliefFrom,
    /// The normal map, by the number of its pass.
    #[schemars(extend("x-label" = "Map", "x-meaning" = "normal-pass", "x-group" = "Relief", "x-when" = {"from": "normal_map"}))]
    #[serde(default)]
    #[ts(optional = nullable)]
    pub map: Option<u32>,
    /// How high a step of 1 is, full-resolution px.
    #[schemars(extend("x-label" = "Strength", "x-unit" = "px", "x-slider" = [-20.0, 20.0], "x-step" = 0.1, "x-group" = "Relief", "x-when" = {"from": "height"}))]
    pub strength: f32,
    /// How strongly the map turns the normals.
    #[schemars(extend("x-label" = "Strength", "x-unit" = "×", "x-slider" = [-2.0, 2.0], "x-step" = 0.01, "x-group" = "Relief", "x-when" = {"from": "normal_map"}))]
    pub share: f32,
}

impl Default for BumpNormals {
    fn default() -> Self {
        Self { from: ReliefFrom::Height, map: None, strength: 6.0, share: 1.0 }
    }
}

impl BumpNormals {
    /// The normals raised by a height: along the surface where positions and camera are known.
    fn by_height(&self, base: &Raster, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let height = given.need(Role::Height, Self::TITLE)?;
        let strength = given.px(self.strength);
        if let (Some(positions), Some(camera)) = (given.pass(Role::Position), given.camera) {
            let focal = given.px(camera.focal);
            return Ok(raised(base, positions, height, strength, focal, given.cancel)?);
        }
        let how = FromHeight { strength, kernel: Derivative::Sobel, tileable: false, y_down: false };
        Ok(reoriented(base, &from_height(height, how, given.cancel)?, given.cancel)?)
    }

    /// The normals turned by a map.
    fn by_map(&self, base: &Raster, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let Some(map) = given.chosen.first() else { return Ok(base.clone()) };
        let mut map = map.as_ref().clone();
        if self.share != 1.0 {
            for c in 0..2 {
                map.plane_mut(c).iter_mut().for_each(|v| *v *= self.share);
            }
        }
        Ok(reoriented(base, &map, given.cancel)?)
    }
}

impl Extraction for BumpNormals {
    const TITLE: &'static str = "Normals with relief";
    const ABOUT: &'static str = "Adds fine relief to the normals, from a height or from a normal map.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Normal
    }

    fn reads(&self) -> Vec<Reads> {
        match self.from {
            ReliefFrom::Height => vec![needs(Role::Normal), needs(Role::Height), takes(Role::Position)],
            ReliefFrom::NormalMap => vec![needs(Role::Normal)],
        }
    }

    fn passes(&self) -> Vec<u32> {
        let wanted = self.from == ReliefFrom::NormalMap;
        self.map.iter().filter(|_| wanted).copied().collect()
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

    fn check(&self) -> Result<(), String> {
        range("the strength", self.strength, -1e5, 1e5)?;
        range("the strength", self.share, -1e3, 1e3)
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let base = given.need(Role::Normal, Self::TITLE)?;
        match self.from {
            ReliefFrom::Height => self.by_height(base, given),
            ReliefFrom::NormalMap => self.by_map(base, given),
        }
    }
}
