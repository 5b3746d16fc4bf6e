//! What is asked about moves, and about textures that are laid on something.

use super::Draft;
use jugata_shot::laying::Layer;
use serde::Deserialize;
use ts_rs::TS;

/// What is asked about a texture that is laid on something.
#[derive(Debug, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskLaid {
    /// The shot.
    pub shot: Draft,
    /// The element.
    pub element: u32,
    /// What lays it.
    pub layer: Layer,
    /// The frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// A place of the picture whose UV is asked for, full-resolution px.
    #[serde(default)]
    #[ts(optional)]
    pub at: Option<[f32; 2]>,
}

/// What is asked about a step, or about an element by itself.
#[derive(Debug, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskTold {
    /// The shot.
    pub shot: Draft,
    /// The element.
    pub element: u32,
    /// The step, if about one.
    #[serde(default)]
    #[ts(optional)]
    pub step: Option<u32>,
    /// The frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
}
