//! How a change meets what was there.

use jugata_core::colour::blend::{BlendMode, BlendSpace};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How a step meets the picture, or an element what lies below it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Joins {
    /// Blend mode.
    pub blend: BlendMode,
    /// Encoding in which screen, multiply and overlay see the values.
    #[serde(default)]
    pub space: BlendSpace,
    /// 0 = not at all, 1 = fully.
    pub strength: f32,
}

impl Joins {
    /// Joined in a blend mode, fully.
    pub const fn of(blend: BlendMode) -> Self {
        Self { blend, space: BlendSpace::Display, strength: 1.0 }
    }
}
