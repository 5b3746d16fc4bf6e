//! What can go wrong with a file, each in one sentence that says what to do.

use thiserror::Error;

/// What can be wrong with a file: a short list, so that every message is one that a person has written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum Damage {
    /// Bytes are missing at the end.
    #[error("is cut off before its end; copy it again, or wait until it is written")]
    CutOff,
    /// The compressed samples are no such thing.
    #[error("is damaged: its image data is garbled; copy or render it again")]
    Garbled,
    /// The header cannot be.
    #[error("is damaged: its header makes no sense; save it again")]
    Header,
    /// A size of zero.
    #[error("is damaged: it has no pixels; render it again")]
    NoPixels,
    /// No channel in a part.
    #[error("is damaged: one of its parts has no channels; save it again")]
    NoChannels,
    /// A window far from any picture.
    #[error("is damaged: one of its windows lies far outside any picture; save it again")]
    Window,
    /// More pixels than so few bytes can hold.
    #[error("promises far more pixels than its length can hold; copy or render it again")]
    Hollow,
    /// Planes that the header names are not there.
    #[error("is damaged: some of its planes are missing; save it again")]
    Planes,
    /// None of the pixels are there.
    #[error("has a header and none of its pixels; wait until it is written, or render it again")]
    Empty,
    /// No colour table.
    #[error("is not a colour table in .cube text; export it again as .cube")]
    NoTable,
    /// No scene.
    #[error("is no glTF 2.0; export the scene as .gltf or .glb")]
    NoScene,
    /// A scene without a camera.
    #[error("has no perspective camera in its scene; export it with its camera")]
    NoCamera,
}

impl ExchangeError {
    /// A damage, with what a decoder said of it.
    pub(crate) fn damaged(damage: Damage, detail: impl std::fmt::Display) -> Self {
        Self::Damaged { damage, detail: detail.to_string() }
    }

    /// What a decoder said, where there is more than the sentence.
    pub fn detail(&self) -> Option<&str> {
        match self {
            Self::Damaged { detail, .. } => Some(detail.as_str()).filter(|d| !d.is_empty()),
            _ => None,
        }
    }
}

impl From<Damage> for ExchangeError {
    fn from(damage: Damage) -> Self {
        Self::Damaged { damage, detail: String::new() }
    }
}

/// Why a file was not read or written.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum ExchangeError {
    /// The bytes are not an image file that Jugata reads.
    #[error("This is not an image that Jugata reads; bring in OpenEXR, PNG, TIFF, Radiance HDR or JPEG.")]
    NotAnImage,
    /// The bytes are no font with outlines.
    #[error("This is not a font that Jugata reads; bring in an OpenType or TrueType file (.otf, .ttf).")]
    NotAFont,
    /// The bytes are no SVG.
    #[error("This drawing cannot be read; save it as plain SVG, with its text turned into outlines.")]
    NotADrawing,
    /// The format allows it, Jugata does not read it.
    #[error("The file holds {what}, which Jugata does not read; save it in another way.")]
    Unsupported {
        /// What it holds.
        what: &'static str,
    },
    /// The file contradicts itself or breaks off.
    #[error("The file {damage}.")]
    Damaged {
        /// What is wrong with it.
        damage: Damage,
        /// What the decoder said, for those who look for the cause; may be empty.
        detail: String,
    },
    /// A colour table that is wrong somewhere, in words of our own.
    #[error("The file is damaged: {what}.")]
    Table {
        /// Where and what.
        what: String,
    },
    /// More than the limits allow.
    #[error("The file is too large: {what} is {found}, and at most {most} is read.")]
    Limit {
        /// What there is too much of.
        what: &'static str,
        /// How much the file has.
        found: u64,
        /// How much is read.
        most: u64,
    },
    /// A picture that cannot be written.
    #[error("The picture cannot be written: {what}.")]
    Unwritable {
        /// Why.
        what: String,
    },
    /// Reading or writing failed below us.
    #[error(
        "The file could not be read or written; see that it is there, that it may be read, and that the disk is not full."
    )]
    Io(#[from] std::io::Error),
}
