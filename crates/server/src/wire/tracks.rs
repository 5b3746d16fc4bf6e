//! What is asked about tracks, and what is told while one is followed.

use super::ShotState;
use jugata_shot::document::FrameRange;
use jugata_shot::tracks::following::TrackedFit;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A track to be followed through frames.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskFollow {
    /// The element.
    pub element: u32,
    /// Number of the track.
    pub track: u32,
    /// First and last frame; all of the shot's if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frames: Option<FrameRange>,
}

/// What is told while a track is followed, a line each.
#[derive(Debug, Serialize, TS)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Following {
    /// A frame was looked at.
    Frame {
        /// How well it fits there.
        fit: TrackedFit,
        /// How many were looked at.
        done: usize,
        /// How many there are.
        of: usize,
    },
    /// It is done, or was stopped; what was found is kept.
    Done {
        /// The shot with it.
        state: Box<ShotState>,
    },
    /// It could not be followed.
    Failed {
        /// Why.
        sentence: String,
    },
}
