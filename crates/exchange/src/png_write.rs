//! PNG out: 8 bits for screens, 16 bits for hand-off.

use crate::coded::{self, Bits, Coded};
use crate::error::ExchangeError;
use jugata_core::Raster;
use png::{BitDepth, ColorType, Compression, Encoder, ScaledFloat, SrgbRenderingIntent};

/// What a file holds beside its pixels.
struct Kind {
    colour: ColorType,
    depth: BitDepth,
    /// Data: a reader that heeds gamma must leave it as it is.
    data: bool,
    compression: Compression,
}

fn encode(width: u32, height: u32, kind: Kind, data: &[u8]) -> Result<Vec<u8>, ExchangeError> {
    let refuse = |e: png::EncodingError| ExchangeError::Unwritable { what: e.to_string() };
    let mut out = Vec::with_capacity(data.len() / 2);
    let mut encoder = Encoder::new(&mut out, width, height);
    encoder.set_color(kind.colour);
    encoder.set_depth(kind.depth);
    encoder.set_compression(kind.compression);
    if kind.data {
        encoder.set_source_gamma(ScaledFloat::new(1.0));
    } else {
        encoder.set_source_srgb(SrgbRenderingIntent::Perceptual);
    }
    let mut writer = encoder.write_header().map_err(refuse)?;
    writer.write_image_data(data).map_err(refuse)?;
    writer.finish().map_err(refuse)?;
    Ok(out)
}

/// An 8-bit RGB file for a screen, packed for speed rather than size. `pixels` are interleaved rows.
///
/// # Errors
/// A size that does not match, or no pixels.
pub fn screen(width: u32, height: u32, pixels: &[u8]) -> Result<Vec<u8>, ExchangeError> {
    let kind = Kind {
        colour: ColorType::Rgb,
        depth: BitDepth::Eight,
        data: false,
        compression: Compression::Fastest,
    };
    encode(width, height, kind, pixels)
}

/// An animated 8-bit RGB file for a screen (APNG, Portable Network Graphics Specification, Third Edition) that is played over
/// and over: frames of interleaved rows, so many a second.
///
/// # Errors
/// A size that does not match, no frames; what a frame could not be made for.
pub fn animated<E: From<ExchangeError>>(
    [width, height]: [u32; 2],
    rate: f32,
    frames: impl ExactSizeIterator<Item = Result<Vec<u8>, E>>,
) -> Result<Vec<u8>, E> {
    let refuse = |e: png::EncodingError| ExchangeError::Unwritable { what: e.to_string() };
    let mut out = Vec::new();
    let mut encoder = Encoder::new(&mut out, width, height);
    encoder.set_color(ColorType::Rgb);
    encoder.set_depth(BitDepth::Eight);
    encoder.set_compression(Compression::Balanced);
    encoder.set_source_srgb(SrgbRenderingIntent::Perceptual);
    encoder.set_animated(u32::try_from(frames.len()).unwrap_or(u32::MAX), 0).map_err(refuse)?;
    // A delay is a fraction of two 16-bit numbers, seconds.
    let tick = if rate < 65.0 { 1000 } else { 10 };
    let delay = (rate * f32::from(tick)).round().clamp(1.0, 65535.0) as u16;
    encoder.set_frame_delay(tick, delay).map_err(refuse)?;
    let mut writer = encoder.write_header().map_err(refuse)?;
    for frame in frames {
        writer.write_image_data(&frame?).map_err(refuse)?;
    }
    writer.finish().map_err(refuse)?;
    Ok(out)
}

/// A file of codes: sRGB pictures with straight alpha, or data without any curve.
///
/// # Errors
/// No pixels.
pub fn of(coded: &Coded, bits: Bits) -> Result<Vec<u8>, ExchangeError> {
    let colour = match coded.planes {
        1 => ColorType::Grayscale,
        3 => ColorType::Rgb,
        _ => ColorType::Rgba,
    };
    let (depth, data) = match bits {
        Bits::Eight => (BitDepth::Eight, coded.bytes()),
        Bits::Sixteen => (BitDepth::Sixteen, coded.numbers(bits).flat_map(u16::to_be_bytes).collect()),
    };
    let kind = Kind { colour, depth, data: coded.data, compression: Compression::Balanced };
    encode(coded.width, coded.height, kind, &data)
}

/// A 16-bit RGBA file of a linear premultiplied RGBA picture.
///
/// # Errors
/// A picture without four channels, or no pixels.
pub fn rgba16(picture: &Raster) -> Result<Vec<u8>, ExchangeError> {
    of(&coded::picture(picture)?, Bits::Sixteen)
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]
    use super::*;

    #[test]
    fn an_animation_has_its_frames_its_rate_and_no_end() {
        let frames = (0..5u8).map(|i| Ok::<_, ExchangeError>(vec![40 * i; 3 * 4 * 2]));
        let bytes = animated([4, 2], 23.976, frames.collect::<Vec<_>>().into_iter()).unwrap();
        let mut reader = png::Decoder::new(std::io::Cursor::new(&bytes)).read_info().unwrap();
        let control = *reader.info().animation_control().unwrap();
        assert_eq!((control.num_frames, control.num_plays), (5, 0));
        for i in 0..5u8 {
            let mut px = vec![0; reader.output_buffer_size().unwrap()];
            reader.next_frame(&mut px).unwrap();
            assert!(px.iter().all(|v| *v == 40 * i), "frame {i}");
            let delay = *reader.info().frame_control().unwrap();
            assert_eq!((delay.delay_num, delay.delay_den), (1000, 23976));
        }
        assert!(animated([4, 2], 24.0, [Ok::<_, ExchangeError>(vec![0; 5])].into_iter()).is_err());
        assert!(animated([4, 2], 24.0, std::iter::empty::<Result<_, ExchangeError>>()).is_err());
    }
}
