//! Presets, as they are sent.

use chrono::{DateTime, Utc};
use jugata_shot::Shot;
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
    /// Whether it has a picture.
    pub pictured: bool,
    /// When it was saved.
    pub made_at: DateTime<Utc>,
}

impl From<PresetRow> for PresetSummary {
    fn from(row: PresetRow) -> Self {
        let sentences = row.preset.sentences();
        Self { id: row.id, name: row.preset.name, sentences, pictured: row.pictured, made_at: row.made_at }
    }
}

/// Steps to keep under a name.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct SavePreset {
    /// The document as it stands.
    pub shot: Shot,
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
    pub shot: Shot,
    /// Element.
    pub element: u32,
}
