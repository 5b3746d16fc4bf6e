//! Files that come in, as they are sent.

use jugata_core::Camera;
use jugata_core::passes::checks::FindingKind;
use jugata_shot::intake::MediaFile;
use jugata_store::Usage;
use serde::{Deserialize, Serialize};
use ts_rs::TS;
use uuid::Uuid;

/// What the media store holds.
#[derive(Debug, Serialize, TS)]
pub struct MediaUsage {
    /// Files.
    #[ts(type = "number")]
    pub files: i64,
    /// Their bytes.
    #[ts(type = "number")]
    pub bytes: i64,
    /// Files that nothing names.
    #[ts(type = "number")]
    pub unused: i64,
    /// Their bytes.
    #[ts(type = "number")]
    pub unused_bytes: i64,
}

impl From<Usage> for MediaUsage {
    fn from(u: Usage) -> Self {
        Self { files: u.files, bytes: u.bytes, unused: u.unused, unused_bytes: u.unused_bytes }
    }
}

/// A shot that changed because files arrived.
#[derive(Debug, Clone, Serialize, TS)]
pub struct News {
    /// The shot.
    pub shot: Uuid,
    /// Revision at which it stands.
    pub revision: i32,
    /// What arrived, in words.
    pub words: String,
}

/// The drop folder.
#[derive(Debug, Clone, Serialize, TS)]
pub struct Delivery {
    /// Its path; none if the server watches no folder.
    pub folder: Option<String>,
    /// What could not be taken, a sentence each, the newest first.
    pub refused: Vec<String>,
}

/// A file that arrived.
#[derive(Debug, Serialize, TS)]
pub struct Arrived {
    /// What to name it by when a shot is made of it.
    pub file: MediaFile,
    /// Its format in words.
    pub format: String,
    /// Frame, px.
    pub width: u32,
    /// Frame, px.
    pub height: u32,
    /// What was noted while reading.
    pub notes: Vec<String>,
}

/// Files that become a shot, or join one.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Files {
    /// The files.
    pub files: Vec<MediaFile>,
}

/// Files that join an element.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct MoreFiles {
    /// Revision at which the person sees the shot.
    pub base: i32,
    /// The element; none makes elements of their own.
    #[serde(default)]
    #[ts(optional)]
    pub element: Option<u32>,
    /// The files.
    pub files: Vec<MediaFile>,
    /// A pass whose file, or whole sequence, they take the place of.
    #[serde(default)]
    #[ts(optional)]
    pub instead: Option<u32>,
}

/// A finding whose remedy shall be taken, by its pass and kind.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Chosen {
    /// Number of the pass.
    pub pass: u32,
    /// What was found.
    pub kind: FindingKind,
}

/// A camera of a scene file.
#[derive(Debug, Serialize, TS)]
pub struct SceneCamera {
    /// Its name.
    pub name: String,
    /// The camera, for the frame of the shot.
    pub camera: Camera,
}

/// A shot that was brought in.
#[derive(Debug, Serialize, TS)]
pub struct BroughtIn {
    /// Number of the new shot.
    pub id: Uuid,
}
