//! Any file that is read, by its first bytes; never by the ending of its name, which may lie.

use crate::error::ExchangeError;
use crate::file::{FileFormat, ImageFile};
use crate::limits::Limits;
use crate::{exr_read, hdr_read, jpeg_read, png_read, tiff_read};
use jugata_core::Window;

/// The format that a file's first bytes announce.
pub fn format_of(bytes: &[u8]) -> Option<FileFormat> {
    let starts = |with: &[u8]| bytes.starts_with(with);
    if starts(&exr_read::MAGIC) {
        Some(FileFormat::Exr)
    } else if starts(&png_read::SIGNATURE) {
        Some(FileFormat::Png)
    } else if starts(b"II*\0") || starts(b"MM\0*") || starts(b"II+\0") || starts(b"MM\0+") {
        Some(FileFormat::Tiff)
    } else if starts(b"#?RADIANCE") || starts(b"#?RGBE") {
        Some(FileFormat::Hdr)
    } else if starts(&[0xff, 0xd8, 0xff]) {
        Some(FileFormat::Jpeg)
    } else {
        None
    }
}

/// The display window of a file, with as little reading as its format allows.
///
/// # Errors
/// As [`read`].
pub fn frame_of(bytes: &[u8], limits: &Limits) -> Result<Window, ExchangeError> {
    match format_of(bytes) {
        Some(FileFormat::Exr) => exr_read::frame(bytes, limits),
        _ => Ok(read(bytes, limits)?.display_window),
    }
}

/// Reads a whole file from memory.
///
/// # Errors
/// One sentence for what is no image, beyond the limits, unsupported or damaged.
pub fn read(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    Limits::hold("its length in bytes", bytes.len() as u64, limits.file_bytes)?;
    let file = match format_of(bytes).ok_or(ExchangeError::NotAnImage)? {
        FileFormat::Exr => exr_read::read(bytes, limits),
        FileFormat::Png => png_read::read(bytes, limits),
        FileFormat::Tiff => tiff_read::read(bytes, limits),
        FileFormat::Hdr => hdr_read::read(bytes, limits),
        FileFormat::Jpeg => jpeg_read::read(bytes, limits),
    };
    // A decoder's own words help a developer, never the person who brought the file.
    if let Some(detail) = file.as_ref().err().and_then(ExchangeError::detail) {
        tracing::debug!(detail, "a decoder gave up");
    }
    file
}
