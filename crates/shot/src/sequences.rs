//! Numbered files, and the manifests that keep long lists of them outside the document.
//!
//! A shot file says every frame. In a database the document would grow with each frame that a renderer delivers, and each
//! revision would say them all again; there the frames of a sequence stand in a few lists of their own, named by what is in
//! them. A frame that comes changes one list, and the document stays a few kilobytes.

use crate::files::MediaId;
use schemars::JsonSchema;
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::collections::BTreeMap;
use std::ops::Deref;
use std::sync::{Arc, OnceLock};
use ts_rs::TS;

/// Numbers of frames that one list may hold, from a multiple of it on: so few that one more frame writes little anew, so many
/// that a document names few lists.
const LIST: i32 = 200;

/// First and last frame of a shot.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct FrameRange {
    /// First frame.
    pub first: i32,
    /// Last frame.
    pub last: i32,
}

/// Numbered files of one kind.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Sequence {
    /// Number that stays with the sequence.
    pub id: u32,
    /// Name with `#` for the digits of the frame number.
    pub name: String,
    /// The files, by ascending frame number. A page is not told them.
    #[serde(default, skip_serializing_if = "<[SequenceFrame]>::is_empty")]
    #[schemars(with = "Vec<SequenceFrame>")]
    #[ts(as = "Option<Vec<SequenceFrame>>", optional)]
    pub frames: Frames,
}

/// One file of a sequence.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct SequenceFrame {
    /// Frame number.
    pub number: i32,
    /// The file, by what is in it.
    pub media: MediaId,
    /// The name under which it came.
    pub file: String,
}

/// The files of a sequence. Copies share them: a document of thousands is copied for each value that is dragged.
#[derive(Clone, Debug, Default)]
pub struct Frames(Arc<Listed>);

#[derive(Debug, Default)]
struct Listed {
    frames: Vec<SequenceFrame>,
    /// Names of their lists, once somebody asked for them.
    names: OnceLock<Vec<String>>,
    /// Set once they were found to be sound.
    sound: OnceLock<()>,
}

impl Frames {
    /// Puts files at their numbers, in the place of those that are there.
    pub fn put(&mut self, came: Vec<SequenceFrame>) {
        let known = self.iter().cloned().chain(came).map(|f| (f.number, f));
        *self = known.collect::<BTreeMap<_, _>>().into_values().collect();
    }

    /// Checks them, unless they passed before: a document is checked for each value that is dragged.
    ///
    /// # Errors
    /// What the check says.
    pub(crate) fn check<E>(&self, check: impl FnOnce(&[SequenceFrame]) -> Result<(), E>) -> Result<(), E> {
        if self.0.sound.get().is_none() {
            check(self)?;
            self.0.sound.get_or_init(|| ());
        }
        Ok(())
    }

    /// The lists that they are kept in.
    pub fn lists(&self) -> impl Iterator<Item = &[SequenceFrame]> {
        self.chunk_by(|a, b| a.number.div_euclid(LIST) == b.number.div_euclid(LIST))
    }

    /// The name of each list: the BLAKE3 hash of what is in it, 64 hexadecimal digits.
    pub fn list_names(&self) -> &[String] {
        let of = |list: &[SequenceFrame]| {
            let mut hash = blake3::Hasher::new();
            for f in list {
                hash.update(&f.number.to_le_bytes());
                for text in [f.media.as_str(), f.file.as_str()] {
                    hash.update(&(text.len() as u64).to_le_bytes()).update(text.as_bytes());
                }
            }
            hash.finalize().to_hex().to_string()
        };
        self.0.names.get_or_init(|| self.lists().map(of).collect())
    }
}

impl Deref for Frames {
    type Target = [SequenceFrame];

    fn deref(&self) -> &[SequenceFrame] {
        &self.0.frames
    }
}

impl From<Vec<SequenceFrame>> for Frames {
    fn from(frames: Vec<SequenceFrame>) -> Self {
        Self(Arc::new(Listed { frames, ..Listed::default() }))
    }
}

impl FromIterator<SequenceFrame> for Frames {
    fn from_iter<I: IntoIterator<Item = SequenceFrame>>(frames: I) -> Self {
        frames.into_iter().collect::<Vec<_>>().into()
    }
}

impl PartialEq for Frames {
    fn eq(&self, other: &Self) -> bool {
        Arc::ptr_eq(&self.0, &other.0) || **self == **other
    }
}

impl Serialize for Frames {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.0.frames.serialize(to)
    }
}

impl<'de> Deserialize<'de> for Frames {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        Vec::deserialize(from).map(Self::from)
    }
}

impl Sequence {
    /// The file for a frame: its own, else the nearest one before it, else the first.
    pub fn at(&self, frame: i32) -> Option<&SequenceFrame> {
        let after = self.frames.partition_point(|f| f.number <= frame);
        self.frames.get(after.saturating_sub(1))
    }

    /// Frame numbers that are missing between the first and the last.
    pub fn gaps(&self) -> Vec<FrameRange> {
        self.frames
            .windows(2)
            .filter(|pair| pair[1].number > pair[0].number.saturating_add(1))
            .map(|pair| FrameRange { first: pair[0].number + 1, last: pair[1].number - 1 })
            .collect()
    }
}
