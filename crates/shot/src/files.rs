//! Media files by what is in them; how they are looked into.

use crate::error::ShotError;
use jugata_core::Window;
use jugata_exchange::ImageFile;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

/// A file that was brought in and is in the media store.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct MediaFile {
    /// The name under which it came.
    pub name: String,
    /// Its bytes' hash.
    pub media: MediaId,
}

/// BLAKE3 hash of a file's bytes: 64 hexadecimal digits in lower case.
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, JsonSchema, TS)]
#[serde(transparent)]
#[ts(type = "string")]
pub struct MediaId(String);

impl MediaId {
    /// The ID of some bytes.
    pub fn of(bytes: &[u8]) -> Self {
        Self(blake3::hash(bytes).to_hex().to_string())
    }

    /// The ID of a hash that was computed while the bytes passed.
    pub fn from_hash(hash: blake3::Hash) -> Self {
        Self(hash.to_hex().to_string())
    }

    /// A hash given as text; `None` unless it is 64 lower-case hexadecimal digits.
    pub fn parse(text: &str) -> Option<Self> {
        let sound = text.len() == 64 && text.bytes().all(|b| matches!(b, b'0'..=b'9' | b'a'..=b'f'));
        sound.then(|| Self(text.to_owned()))
    }

    /// The digits.
    pub fn as_str(&self) -> &str {
        &self.0
    }

    /// Whether the digits are sound (a document may bring anything).
    pub fn is_sound(&self) -> bool {
        Self::parse(&self.0).is_some()
    }
}

/// Looks into files.
pub trait Opens {
    /// All of a file.
    ///
    /// # Errors
    /// A file that is gone or unreadable.
    fn open(&self, file: &MediaFile) -> Result<Arc<ImageFile>, ShotError>;

    /// Its display window, with as little reading as can be.
    ///
    /// # Errors
    /// A file that is gone or unreadable.
    fn frame(&self, file: &MediaFile) -> Result<Window, ShotError>;
}

/// A file's name without its ending.
pub fn stem(name: &str) -> &str {
    name.rsplit_once('.').map_or(name, |(stem, _)| stem)
}

/// At most `most` characters, none of them control characters.
pub fn plain(text: &str, most: usize) -> String {
    text.chars().filter(|c| !c.is_control()).take(most).collect()
}
