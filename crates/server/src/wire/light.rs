//! Lamps placed, bodies lit, light found, as they are sent.

use super::Draft;
use jugata_shot::lamp::Lamp;
use jugata_shot::on_body::OnShape;
use jugata_shot::placing::PutLamp;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A click that places a lamp.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct PlaceLamp {
    /// The document as it stands.
    pub shot: Draft,
    /// Element.
    pub element: u32,
    /// The relight.
    pub step: u32,
    /// Place of the lamp in its list.
    pub lamp: usize,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// Full-resolution px.
    pub x: i32,
    /// Full-resolution px.
    pub y: i32,
    /// How.
    pub how: PutLamp,
}

/// The lamp after the click.
#[derive(Debug, Serialize, TS)]
pub struct Placed {
    /// The lamp.
    pub lamp: Lamp,
}

/// A height or normals on a simple body.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskShape {
    /// The document as it stands.
    pub shot: Draft,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// What is to be seen.
    pub how: OnShape,
    /// Who asks: a newer question of the same stops this one.
    #[serde(default)]
    #[ts(optional)]
    pub viewer: Option<String>,
}

/// Whose light is wanted.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskLight {
    /// The document as it stands.
    pub shot: Draft,
    /// Element.
    pub element: u32,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
}

/// The light on an element.
#[derive(Debug, Serialize, TS)]
pub struct LightFound {
    /// How well it explains the brightness of what was not left out, 0..1.
    pub explained: f32,
    /// Share of the pixels that were not left out as shadow or gloss.
    pub used: f32,
    /// The nine harmonics, RGB: what a white matt surface shows.
    pub light: [[f32; 3]; 9],
}
