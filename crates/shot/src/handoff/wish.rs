//! A range of frames to be written, and the names of their files.

use super::form::FileForm;
use crate::document::{FrameRange, Shot};
use crate::engine::{Request, Target};
use crate::error::ShotError;
use jugata_core::Scale;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Most frames that are asked for at once.
pub const FRAMES: u32 = 100_000;

/// Letters of a file's name, before its ending.
const NAME: usize = 120;

/// What is written of each frame of a range.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Wish {
    /// What to write.
    pub target: Target,
    /// As what.
    pub form: FileForm,
    /// Name of the files without their ending; its # stand for the digits of the frame's number.
    pub name: String,
    /// Folder into which they are put as they are written, below the one that the server has for it; without one they are
    /// kept by the server.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub folder: Option<String>,
}

impl Wish {
    /// Whether a range of frames can be written so.
    ///
    /// # Errors
    /// A range that is empty or too long; a name that cannot be a file's or a folder's.
    pub fn check(&self, range: FrameRange) -> Result<(), ShotError> {
        let wrong = |place: &str, what: String| Err(ShotError::Parameter { place: place.into(), what });
        let count = i64::from(range.last) - i64::from(range.first) + 1;
        if count < 1 || count > i64::from(FRAMES) {
            return wrong("The range", format!("it must be 1 to {FRAMES} frames long"));
        }
        let sound = |c: char| !c.is_control() && !"/\\:*?\"<>|".contains(c);
        let is_name =
            |name: &str| name.chars().count() <= NAME && name.chars().all(sound) && !name.starts_with('.');
        if !is_name(&self.name) {
            return wrong("The name", format!("“{}” cannot be the name of a file", self.name));
        }
        if let Some(folder) = self.folder.as_deref().filter(|f| f.trim().is_empty() || !is_name(f)) {
            return wrong("The folder", format!("“{folder}” cannot be the name of a folder"));
        }
        numbered(&self.name, range.first).map(|_| ())
    }

    /// Name of the file of a frame.
    ///
    /// # Errors
    /// A name without a place for the number.
    pub fn file_name(&self, frame: i32) -> Result<String, ShotError> {
        Ok(format!("{}.{}", numbered(&self.name, frame)?, self.form.format.ending()))
    }

    /// What is wanted of a frame.
    pub fn request(&self, shot: &Shot, frame: i32) -> Request {
        Request { frame, ..Request::frame(shot, self.target, Scale::FULL) }
    }
}

/// A name with the number of a frame in the place of its #, with at least as many digits.
///
/// # Errors
/// A name without #.
pub fn numbered(name: &str, frame: i32) -> Result<String, ShotError> {
    let (Some(first), Some(last)) = (name.find('#'), name.rfind('#')) else {
        return Err(ShotError::Parameter {
            place: format!("“{name}”"),
            what: "it has no # where the number of a frame goes; give shot.####".into(),
        });
    };
    let sign = if frame < 0 { "-" } else { "" };
    let digits = last + 1 - first;
    let number = format!("{sign}{:0digits$}", frame.unsigned_abs());
    Ok(format!("{}{number}{}", &name[..first], &name[last + 1..]))
}
