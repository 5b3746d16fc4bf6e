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
