//! JPEG out: proofs to look at.

use crate::coded::Coded;
use crate::error::ExchangeError;
use image::ExtendedColorType;
use image::codecs::jpeg::JpegEncoder;

/// Quality of a proof, of 100: no blocks are seen in smooth skies (by eye).
const QUALITY: u8 = 92;

/// A file of 8 bits, grey or sRGB.
///
/// # Errors
/// A picture with alpha; more than 65,535 px on a side; no pixel.
pub fn write(coded: &Coded) -> Result<Vec<u8>, ExchangeError> {
    let refuse = |what: String| ExchangeError::Unwritable { what };
    let kind = match coded.planes {
        1 => ExtendedColorType::L8,
        3 => ExtendedColorType::Rgb8,
        planes => return Err(refuse(format!("a JPEG of {planes} planes is not written"))),
    };
    if coded.samples.is_empty() || coded.width.max(coded.height) > 65_535 {
        return Err(refuse(format!("a JPEG of {}×{} px is not written", coded.width, coded.height)));
    }
    let mut out = Vec::new();
    JpegEncoder::new_with_quality(&mut out, QUALITY)
        .encode(&coded.bytes(), coded.width, coded.height, kind)
        .map_err(|e| refuse(e.to_string()))?;
    Ok(out)
}
