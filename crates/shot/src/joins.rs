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

/// How an element stands in one space with those below it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct ByDepth {
    /// How far away an element is that has no depth of its own, scene units.
    #[serde(default = "one_unit")]
    pub at: f32,
    /// How much nearer than its depth says it is taken to be, scene units.
    #[serde(default)]
    pub nearer: f32,
}

fn one_unit() -> f32 {
    1.0
}

impl ByDepth {
    /// Greatest distance and shift, scene units.
    pub const MOST: f32 = 1e9;
}
