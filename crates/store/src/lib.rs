//! Keeping: PostgreSQL through Diesel, and the media store.
//!
//! A shot is a line of revisions. Each edit appends one that names the revision it was made on; undo and
//! redo move the shot's head along the line. A write on anything but the head is refused, so two tabs never
//! overwrite each other. Documents are JSONB, checked against the Rust types on the way in and out.
//!
//! Pixels are files in a media store, named by the BLAKE3 hash of their bytes and never altered.
//!
//! | module | subject |
//! |---|---|
//! | [`shots`] | shots and their revisions |
//! | `sequences` | frames of sequences, beside the documents |
//! | [`media`] | files by hash, in an object store and in the database |
//! | [`order`] | copies, what is put away or deleted, names of revisions, media that nothing names |
//! | [`presets`] | steps kept under a name |
//! | [`deliveries`] | what came through the drop folder |
//! | [`jobs`] | ranges of frames to be written, and who works on which |
//! | [`outbox`] | frames that shall lie in a folder, too |
//! | [`work`] | those who write them |
//! | [`error`] | what can go wrong |

mod address;
pub mod deliveries;
pub mod error;
pub mod jobs;
pub mod media;
pub mod order;
pub mod outbox;
pub mod presets;
mod schema;
mod sequences;
pub mod shots;
pub mod work;
mod written;

pub use deliveries::{Arrival, DeliveredFile};
pub use error::StoreError;
pub use jobs::{JobFrame, JobRow, JobState, Rendered, Taken};
pub use media::{MediaPlace, MediaStore};
pub use order::Usage;
pub use outbox::ToPut;
pub use presets::PresetRow;
pub use shots::{Loaded, RevisionRow, ShotRow, Store};
pub use work::{Outcome, Worker};
