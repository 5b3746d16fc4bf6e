//! Presets, as they are sent.

use super::Draft;
use chrono::{DateTime, Utc};
use jugata_shot::preset::Lengths;
use jugata_store::PresetRow;
use serde::{Deserialize, Serialize};
use ts_rs::TS;
use uuid::Uuid;

/// A preset in the list.
#[derive(Debug, Serialize, TS)]
pub struct PresetSummary {
    /// Number.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Its steps in sentences.
    pub sentences: Vec<String>,
    /// How high the letters were that it was made on, px; none of a render.
    #[ts(optional = nullable)]
    pub height: Option<f32>,
    /// Whether it has a picture.
    pub pictured: bool,
    /// When it was saved.
    pub made_at: DateTime<Utc>,
}

impl From<PresetRow> for PresetSummary {
    fn from(row: PresetRow) -> Self {
        let sentences = row.preset.sentences();
        let (id, made_at, pictured) = (row.id, row.made_at, row.pictured);
        Self { id, name: row.preset.name, sentences, height: row.preset.height, pictured, made_at }
    }
}

/// Steps to keep under a name.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct SavePreset {
    /// The document as it stands.
    pub shot: Draft,
    /// Element.
    pub element: u32,
    /// Its steps.
    pub steps: Vec<u32>,
    /// Frame of the picture; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// Name.
    pub name: String,
}

/// Where a preset is put.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct ApplyPreset {
    /// The document as it stands.
    pub shot: Draft,
    /// Element.
    pub element: u32,
    /// What becomes of lengths on letters of another height.
    #[serde(default)]
    #[ts(optional, as = "Option<Lengths>")]
    pub lengths: Lengths,
}
