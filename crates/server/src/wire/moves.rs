//! What is asked about moves, and about textures that are laid on something.

use super::Draft;
use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use jugata_shot::laying::{FlatTexture, LaidAt, Layer};
use serde::{Deserialize, Serialize};
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
    /// Whether places are told as the shot shows them, and not as the render has them.
    #[serde(default)]
    #[ts(optional, as = "Option<bool>")]
    pub placed: bool,
    /// A place that is looked for on the other side, where one is asked for.
    #[serde(default)]
    #[ts(optional)]
    pub at: Option<LaidAt>,
}

/// The flat texture: a part of UV with what lies on it, dark where it is not seen.
#[derive(Debug, Serialize, TS)]
pub struct Flat {
    /// The least u and v.
    pub low: [f32; 2],
    /// The largest.
    pub high: [f32; 2],
    /// Width ÷ height of the texture's own picture.
    pub aspect: f32,
    /// A PNG of it, v upward, in Base64.
    pub png: String,
}

impl From<FlatTexture> for Flat {
    fn from(flat: FlatTexture) -> Self {
        let FlatTexture { low, high, aspect, png } = flat;
        Self { low, high, aspect, png: BASE64_STANDARD.encode(png) }
    }
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
