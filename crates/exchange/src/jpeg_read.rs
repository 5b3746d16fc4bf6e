//! JPEG into memory, for colour only.

use crate::colour_tags::{self, Encoding};
use crate::error::ExchangeError;
use crate::file::{FileFormat, ImageFile, SampleKind, from_interleaved};
use crate::hdr_read::explain;
use crate::limits::Limits;
use image::codecs::jpeg::JpegDecoder;
use image::{ColorType, ImageDecoder};
use std::io::Cursor;

/// Reads a JPEG: 8-bit grey or colour, taken for sRGB.
///
/// # Errors
/// What is beyond the limits, unsupported or damaged.
pub fn read(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    let mut decoder = JpegDecoder::new(Cursor::new(bytes)).map_err(explain)?;
    let profile = decoder.icc_profile().ok().flatten();
    let size = decoder.dimensions();
    let channels = match decoder.color_type() {
        ColorType::L8 => 1,
        ColorType::Rgb8 => 3,
        _ => return Err(ExchangeError::Unsupported { what: "a JPEG of another kind than grey or colour" }),
    };
    limits.hold_picture(size, channels as u64, bytes.len())?;
    let mut raw = vec![0u8; size.0 as usize * size.1 as usize * channels];
    decoder.read_image(&mut raw).map_err(explain)?;
    let samples: Vec<f32> = raw.iter().map(|&b| f32::from(b) / 255.0).collect();
    let mut file = from_interleaved(FileFormat::Jpeg, size, SampleKind::Byte, channels, &samples);
    let colour = profile.map_or_else(|| Encoding::srgb(None), |p| colour_tags::profile(&p));
    (file.colour, file.primaries, file.gamma) = (colour.colour, colour.primaries, colour.gamma);
    file.notes.extend(colour.note);
    file.parts[0].compression = "JPEG".into();
    file.parts[0].lossy = Some("JPEG rounds cosine coefficients");
    Ok(file)
}
