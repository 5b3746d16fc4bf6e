//! What moves found out, and places that follow them, as they are sent.

use super::Draft;
use jugata_shot::telling::Follow;
use serde::Deserialize;
use ts_rs::TS;

/// What is asked about a step.
#[derive(Debug, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskTold {
    /// The shot.
    pub shot: Draft,
    /// The element.
    pub element: u32,
    /// The step.
    pub step: u32,
    /// The frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
}

/// Places that are followed.
#[derive(Debug, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskFollow {
    /// The shot.
    pub shot: Draft,
    /// The element.
    pub element: u32,
    /// The step after which the places lie; none is before all steps.
    #[serde(default)]
    #[ts(optional)]
    pub after: Option<u32>,
    /// The frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// The places, full-resolution px.
    pub places: Vec<[f64; 2]>,
    /// Which way.
    pub way: Follow,
}
