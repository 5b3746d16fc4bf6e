//! Radiance HDR into memory.

use crate::error::{Damage, ExchangeError};
use crate::file::{FileFormat, ImageFile, SampleKind, from_interleaved};
use crate::limits::Limits;
use image::codecs::hdr::HdrDecoder;
use image::{ImageDecoder, ImageError};
use std::io::Cursor;

/// Reads a Radiance picture: linear RGB, 8 bits a channel with a shared exponent.
///
/// # Errors
/// What is beyond the limits, unsupported or damaged.
pub fn read(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    // The decoder knows rows from top to bottom only; from the bottom up they are turned over afterwards.
    let turned = upward(bytes);
    let bytes = turned.as_deref().unwrap_or(bytes);
    let decoder = HdrDecoder::new(Cursor::new(bytes)).map_err(explain)?;
    let size = decoder.dimensions();
    limits.hold_picture(size, 3, bytes.len())?;
    let head = decoder.metadata();
    let mut raw = vec![0u8; size.0 as usize * size.1 as usize * 12];
    decoder.read_image(&mut raw).map_err(explain)?;
    if turned.is_some() {
        let row = size.0 as usize * 12;
        raw = raw.chunks_exact(row).rev().flatten().copied().collect();
    }
    let samples: Vec<f32> = raw.as_chunks::<4>().0.iter().map(|b| f32::from_ne_bytes(*b)).collect();
    // A shared exponent with 8-bit mantissas is coarser than half; half is the nearest kind we name.
    let mut file = from_interleaved(FileFormat::Hdr, size, SampleKind::Half, 3, &samples);
    file.parts[0].compression = "RGBE".into();
    file.parts[0].lossy = Some("Radiance HDR keeps 8 bits a channel under one exponent");
    if let Some(e) = head.exposure.filter(|e| *e != 1.0) {
        file.notes.push(format!("Its header gives an exposure of {e}, which is not applied."));
    }
    if let Some(aspect) = head.pixel_aspect_ratio.filter(|a| a.is_finite() && *a > 0.0 && *a != 1.0) {
        file.pixel_aspect = aspect;
        file.notes.push(format!("Its pixel aspect is {aspect}."));
    }
    Ok(file)
}

/// The file with its rows said to run down, if its header says that they run up ("+Y 480 +X 640").
fn upward(bytes: &[u8]) -> Option<Vec<u8>> {
    let head = &bytes[..bytes.len().min(1 << 16)];
    let end = head.windows(2).position(|w| w == b"\n\n")? + 2;
    head[end..].starts_with(b"+Y ").then(|| {
        let mut out = bytes.to_vec();
        out[end] = b'-';
        out
    })
}

pub(crate) fn explain(e: ImageError) -> ExchangeError {
    match e {
        ImageError::Unsupported(_) => ExchangeError::Unsupported { what: "a rare variant of its format" },
        ImageError::IoError(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => Damage::CutOff.into(),
        e => ExchangeError::damaged(Damage::Garbled, e),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Two rows of one pixel, uncompressed: 1 then 4 in red (exponents 129 and 131 of a mantissa of 128).
    fn picture(direction: &str) -> Vec<u8> {
        let mut out = format!("#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n{direction}Y 2 +X 1\n").into_bytes();
        out.extend([128, 0, 0, 129, 128, 0, 0, 131]);
        out
    }

    #[test]
    fn rows_from_the_bottom_up_are_turned_over() {
        let red = |d: &str| {
            let file = read(&picture(d), &Limits::default()).unwrap();
            file.parts[0].channel("R").unwrap().samples.wide().to_vec()
        };
        assert_eq!((red("-"), red("+")), (vec![1.0, 4.0], vec![4.0, 1.0]));
    }
}
