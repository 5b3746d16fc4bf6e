//! Open formats in and out, with limits against hostile files.
//!
//! | module | subject |
//! |---|---|
//! | [`limits`], [`error`] | what is refused, and how that is said |
//! | [`file`] | an image file in memory: parts, channels, attributes |
//! | [`exr_read`], [`exr_write`] | OpenEXR |
//! | [`png_write`] | PNG of 8 and 16 bits |
//! | [`roles`] | passes proposed from channel names |
//! | [`camera_attributes`] | the camera of a render, from its header |
//! | [`inspect`] | what a file holds, for people and for scripts |
//!
//! Nothing here panics on what a file contains: sizes are added up with checked arithmetic and compared
//! with [`limits::Limits`] before anything is allocated, and a failure is one sentence.

pub mod camera_attributes;
pub mod error;
pub mod exr_read;
pub mod exr_write;
pub mod file;
pub mod inspect;
pub mod limits;
pub mod png_write;
pub mod roles;

pub use error::ExchangeError;
pub use file::{Channel, ImageFile, Part};
pub use limits::Limits;
