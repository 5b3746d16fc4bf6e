//! Open formats in and out, with limits against hostile files.
//!
//! | module | subject |
//! |---|---|
//! | [`limits`], [`error`] | what is refused, and how that is said |
//! | [`file`], [`samples`] | an image file in memory: parts, channels, attributes |
//! | [`read`] | any file that is read, by its first bytes |
//! | [`exr_read`], [`exr_chunks`], [`luminance_chroma`], [`exr_write`] | OpenEXR |
//! | [`png_read`], [`png_write`] | PNG of 8 and 16 bits |
//! | [`tiff_read`], [`tiff_write`], [`hdr_read`], [`jpeg_read`], [`jpeg_write`] | TIFF, Radiance HDR, JPEG |
//! | [`coded`] | pixels as codes, for files of whole numbers |
//! | [`cube_read`] | colour tables |
//! | [`lettering`], [`drawing`] | fonts and text set in them, SVG |
//! | [`roles`], [`names`], [`values`] | passes proposed from channel names and from values |
//! | [`manifest`] | names of hashed IDs |
//! | [`sets`] | many files grouped into elements, passes and frames |
//! | [`camera_attributes`] | the camera of a render, from its header |
//! | [`inspect`] | what a file holds, for people and for scripts |
//!
//! Nothing here panics on what a file contains: sizes are added up with checked arithmetic and compared
//! with [`limits::Limits`] before anything is allocated, and a failure is one sentence.

pub mod camera_attributes;
pub mod coded;
mod colour_tags;
pub mod cube_read;
pub mod drawing;
pub mod error;
pub mod exr_chunks;
pub mod exr_read;
mod exr_words;
pub mod exr_write;
pub mod file;
pub mod gltf_cameras;
pub mod hdr_read;
pub mod inspect;
pub mod jpeg_read;
pub mod jpeg_write;
pub mod lettering;
pub mod limits;
pub mod luminance_chroma;
pub mod manifest;
pub mod names;
pub mod png_read;
pub mod png_write;
pub mod read;
pub mod roles;
pub mod samples;
pub mod sets;
mod tiff_chunks;
pub mod tiff_read;
pub mod tiff_write;
pub mod values;

pub use error::{Damage, ExchangeError};
pub use file::{Channel, ImageFile, Part};
pub use limits::Limits;
pub use read::read;
