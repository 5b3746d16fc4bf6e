//! What is asked about moves.

use super::Draft;
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
