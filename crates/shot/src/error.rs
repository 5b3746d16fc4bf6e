//! What can go wrong, each in one sentence.

use jugata_core::{Cancelled, KernelError, Role, ShapeError};
use jugata_exchange::ExchangeError;
use thiserror::Error;

/// Why a document or a picture was refused.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum ShotError {
    /// A parameter is out of range or not finite.
    #[error("{place}: {what}.")]
    Parameter {
        /// The step or pass.
        place: String,
        /// What is wrong.
        what: String,
    },
    /// Something is named that is not there.
    #[error("There is no {what} {id} in this shot.")]
    Missing {
        /// Element, pass, step.
        what: &'static str,
        /// Its number.
        id: u32,
    },
    /// A step needs a pass that the element does not have.
    #[error("{step} needs a {} pass; {element} has none.", role.label())]
    NoPass {
        /// The step, in a word.
        step: String,
        /// The role.
        role: Role,
        /// The element's name.
        element: String,
    },
    /// A step needs to know the camera.
    #[error("{step} needs positions, or depth and a camera; {element} has neither.")]
    NoPositions {
        /// The step, in a word.
        step: String,
        /// The element's name.
        element: String,
    },
    /// The picture would need more memory than one request may have.
    #[error("This picture needs about {} MiB at once, and {} MiB are allowed; ask for a smaller one.", needs >> 20, most >> 20)]
    TooLarge {
        /// Bytes that it needs.
        needs: u64,
        /// Bytes that it may have.
        most: u64,
    },
    /// A media file is not at hand.
    #[error("The file {file} is missing; put it next to the shot file, or bring it in again.")]
    NoMedia {
        /// Its name.
        file: String,
    },
    /// The document has another form than this build reads.
    #[error("The shot file is format {found}; this version reads up to {known}.")]
    Format {
        /// Its version.
        found: u32,
        /// Ours.
        known: u32,
    },
    /// The text is not a shot document.
    #[error("The shot document cannot be read at {path}: {what}.")]
    Syntax {
        /// Where, as a path of names.
        path: String,
        /// What is wrong.
        what: String,
    },
    /// The same failure as that of a request which waited for the same file.
    #[error("{0}")]
    Shared(std::sync::Arc<ShotError>),
    /// A media file is unreadable.
    #[error(transparent)]
    Media(#[from] ExchangeError),
    /// Nobody waits for the answer any more.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// Shapes do not fit; a mistake of ours rather than the user's.
    #[error("The picture could not be made: {0}.")]
    Shape(#[from] ShapeError),
}

impl From<KernelError> for ShotError {
    fn from(e: KernelError) -> Self {
        match e {
            KernelError::Cancelled(c) => c.into(),
            KernelError::Shape(s) => s.into(),
            // `KernelError` may grow; whatever it says is a sentence.
            other => Self::Parameter { place: "The picture".into(), what: other.to_string() },
        }
    }
}
