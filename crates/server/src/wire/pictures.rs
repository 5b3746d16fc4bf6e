//! Pictures, comparison and numbers, as they are sent.

use super::Draft;
use jugata_shot::engine::{PassValues, Target};
use jugata_shot::look::{Look, Other};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Asks how far two pictures are apart.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Compare {
    /// The picture.
    pub target: Target,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// The other.
    pub other: Other,
}

/// How far two pictures are apart, clipped to 0..1 and encoded as sRGB.
#[derive(Debug, Clone, Serialize, TS)]
pub struct Figures {
    /// Peak signal-to-noise ratio, dB; none if they are equal.
    pub psnr: Option<f64>,
    /// Mean structural similarity; none for tiny pictures.
    pub ssim: Option<f64>,
    /// Largest difference, in codes of 255.
    pub largest: f64,
}

/// A picture of a document that is not saved: the value while dragging.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Preview {
    /// The document.
    pub shot: Draft,
    /// What to make a picture of.
    pub look: Look,
}

/// Numbers under the crosshair.
#[derive(Debug, Serialize, TS)]
pub struct Probe {
    /// Every pass.
    pub passes: Vec<PassValues>,
    /// The shot's picture there: linear RGBA.
    pub result: Vec<f32>,
    /// The element's picture before all steps: linear RGBA.
    pub untouched: Vec<f32>,
}

/// Asks what pictures of some frames would be called.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskNames {
    /// How each is seen; its own frame does not matter.
    pub look: Look,
    /// The first frame.
    pub from: i32,
    /// The last frame.
    pub to: i32,
}

/// Asks for one pixel over some frames.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskPixels {
    /// Of what.
    pub target: Target,
    /// Column, full-resolution px.
    pub x: i32,
    /// Row, full-resolution px.
    pub y: i32,
    /// The first frame.
    pub from: i32,
    /// The last frame.
    pub to: i32,
    /// Who asks; a newer question of the same one cancels this one.
    #[serde(default)]
    pub viewer: Option<String>,
}
