//! The picture moved as a coordinate map says.

use super::change::{Change, Ground, Group, Moves};
use crate::files::MediaFile;
use crate::inputs::Found;
use crate::kinds::prelude::*;
use jugata_core::Convention;
use jugata_core::geometry::chain::{Bend, Move};
use jugata_core::geometry::coordinate_map as core;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::passes::convention::{MapHolds, UvOrigin};
use jugata_core::passes::stored::{SampleKind, stepped};

/// Where the map is from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum MapFrom {
    /// A pass of the element.
    #[default]
    Pass,
    /// A file.
    File,
}

/// Which way the map is gone.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum MapWay {
    /// Each pixel is taken from where the map says.
    #[default]
    AsItSays,
    /// What the map does is undone.
    TheOtherWay,
}

/// Parameters of Coordinate map.
#[parameters]
pub struct CoordinateMap {
    /// A pass of the element, or a file.
    #[param(label = "Map from", group = "Map")]
    pub from: MapFrom,
    /// The file: 32-bit float, as large as the frame or larger.
    #[param(label = "File", means = "picture-file", group = "Map", when = {"from": "file"})]
    #[ts(optional = nullable)]
    pub file: Option<MediaFile>,
    /// What its two channels hold.
    #[param(label = "Holds", means = "choice-list", group = "Map", when = {"from": "file"})]
    pub holds: MapHolds,
    /// Where its second channel is 0, or which way its offsets run.
    #[param(label = "Origin", group = "Map", when = {"from": "file"})]
    pub origin: UvOrigin,
    /// Each pixel from where the map says, or that undone.
    #[param(label = "Goes", group = "Map")]
    pub goes: MapWay,
    /// How the picture is read between its pixels.
    #[param(label = "Filter", group = "Read")]
    pub filter: Kernel,
}

impl Kind for CoordinateMap {
    fn about(&self) -> About {
        About {
            title: "Coordinate map",
            about: "Takes each pixel from where an ST map or an offset map says, or undoes that.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        match (self.from, &self.file) {
            (MapFrom::Pass, _) => vec![needs(Role::StMap)],
            (MapFrom::File, None) => Vec::new(),
            (MapFrom::File, Some(file)) => {
                let convention =
                    Convention { map_holds: self.holds, uv_origin: self.origin, ..Convention::default() };
                vec![Want::Map(file.clone(), Box::new(convention))]
            }
        }
    }

    fn sentence(&self) -> String {
        let way = match self.goes {
            MapWay::AsItSays => "Move as",
            MapWay::TheOtherWay => "Undo what",
        };
        let map = match (self.from, &self.file) {
            (MapFrom::Pass, _) => "the ST map".to_owned(),
            (MapFrom::File, Some(file)) => file.name.clone(),
            (MapFrom::File, None) => return "Coordinate map: no file chosen yet".into(),
        };
        format!("{way} {map} {}", if self.goes == MapWay::AsItSays { "says" } else { "did" })
    }
}

impl Change for CoordinateMap {
    fn group(&self) -> Group {
        Group::Place
    }

    fn is_move(&self) -> bool {
        true
    }

    fn moves(&self, on: &Ground<'_>) -> Result<Moves, String> {
        let none = || Moves { by: Move::Homography(glam::DMat3::IDENTITY), kernel: self.filter };
        let Some((_, found)) = on.found.first() else { return Ok(none()) };
        let places = match found {
            Found::Raster(places) => places,
            Found::Map(places, frame) if (frame.width, frame.height) == (on.frame.width, on.frame.height) => {
                places
            }
            Found::Map(_, frame) => {
                return Err(format!(
                    "the map is made for {}×{} px, and the frame has {}×{}",
                    frame.width, frame.height, on.frame.width, on.frame.height
                ));
            }
            _ => return Ok(none()),
        };
        let map = core::CoordinateMap::new(places.clone(), on.frame).map_err(|e| e.to_string())?;
        let by = match self.goes {
            MapWay::AsItSays => Move::Bend(Bend::Map(map)),
            MapWay::TheOtherWay => Move::Unbend(Bend::Map(map)),
        };
        Ok(Moves { by, kernel: self.filter })
    }

    fn tells(&self, on: &Ground<'_>) -> Vec<String> {
        let Some(Found::Raster(places) | Found::Map(places, _)) = on.found.first().map(|f| &f.1) else {
            return Vec::new();
        };
        coarse(places, [on.frame.width, on.frame.height]).into_iter().collect()
    }
}

/// Samples that are looked at for how finely they are stored.
const LOOKED_AT: usize = 4000;

/// How coarsely a map's places are stored, if one sees it.
fn coarse(places: &Raster, size: [u32; 2]) -> Option<String> {
    // The first channel is as it was stored; the second may have been turned upside down.
    let across = places.plane(0);
    let some: Vec<f32> = across.iter().copied().step_by((across.len() / LOOKED_AT).max(1)).collect();
    let kind = stepped(&some)?;
    let how = match kind {
        SampleKind::Byte => "8 bits",
        SampleKind::Word => "16 bits",
        _ => "16-bit floating point",
    };
    let off = 0.5 * kind.step_at(0.75) * size[0].max(size[1]) as f32;
    (off > 0.02).then(|| {
        format!(
            "It is stored in {how}: its places are up to {off:.2} px off. A map wants 32-bit floating point."
        )
    })
}
