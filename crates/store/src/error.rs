//! What can go wrong with keeping.

use jugata_shot::ShotError;
use thiserror::Error;

/// Why something was not kept or found.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum StoreError {
    /// Nothing has that name.
    #[error("There is no such {what}.")]
    Missing {
        /// Shot, revision, file.
        what: &'static str,
    },
    /// Somebody else changed the shot in the meantime.
    #[error(
        "This shot was changed elsewhere in the meantime (it stands at revision {head}, and this change was made on {base}); take over the newer state first."
    )]
    Stale {
        /// Where the shot stands.
        head: i32,
        /// What the change was made on.
        base: i32,
    },
    /// There is nothing to undo or redo.
    #[error("There is nothing to {verb}.")]
    AtEnd {
        /// Undo or redo.
        verb: &'static str,
    },
    /// A name without a character.
    #[error("The name is empty; type one.")]
    NoName,
    /// The document is not sound.
    #[error(transparent)]
    Document(#[from] ShotError),
    /// The document could not be turned into JSON or back.
    #[error("The document could not be kept: {0}.")]
    Json(#[from] serde_json::Error),
    /// The database refused or is gone.
    #[error("The database did not answer: {0}.")]
    Database(#[from] diesel::result::Error),
    /// No connection.
    #[error("The database cannot be reached: {0}.")]
    Connection(String),
    /// Migrations failed.
    #[error("The database could not be brought up to date: {0}.")]
    Migration(String),
    /// The media store failed.
    #[error("The media store did not answer: {0}.")]
    Media(#[from] object_store::Error),
    /// A file of ours could not be read or written.
    #[error("A file could not be read or written: {0}.")]
    Io(#[from] std::io::Error),
}
