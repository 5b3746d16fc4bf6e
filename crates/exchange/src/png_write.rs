//! PNG out: 8 bits for screens, 16 bits for hand-off.

use crate::error::ExchangeError;
use jugata_core::Raster;
use jugata_core::colour::{clipped, srgb_encode};
use png::{BitDepth, ColorType, Compression, Encoder, SrgbRenderingIntent};

fn encode(
    width: u32,
    height: u32,
    colour: ColorType,
    depth: BitDepth,
    compression: Compression,
    data: &[u8],
) -> Result<Vec<u8>, ExchangeError> {
    let refuse = |e: png::EncodingError| ExchangeError::Unwritable { what: e.to_string() };
    let mut out = Vec::with_capacity(data.len() / 2);
    let mut encoder = Encoder::new(&mut out, width, height);
    encoder.set_color(colour);
    encoder.set_depth(depth);
    encoder.set_compression(compression);
    encoder.set_source_srgb(SrgbRenderingIntent::Perceptual);
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
    encode(width, height, ColorType::Rgb, BitDepth::Eight, Compression::Fastest, pixels)
}

/// A 16-bit RGBA file of a linear premultiplied RGBA picture: sRGB curve, straight alpha as the PNG
/// specification asks, values clipped to 0..1, NaN as 0.
///
/// # Errors
/// A picture without four channels, or no pixels.
pub fn rgba16(picture: &Raster) -> Result<Vec<u8>, ExchangeError> {
    picture.expect_channels("picture", 4).map_err(|e| ExchangeError::Unwritable { what: e.to_string() })?;
    let code = |v: f32| (clipped(v) * 65_535.0 + 0.5) as u16;
    let mut data = Vec::with_capacity(picture.window().area() * 8);
    for i in 0..picture.window().area() {
        let alpha = picture.plane(3)[i];
        let straight = if alpha > 0.0 { 1.0 / alpha } else { 0.0 };
        for c in 0..3 {
            data.extend(code(srgb_encode(picture.plane(c)[i] * straight)).to_be_bytes());
        }
        data.extend(code(alpha).to_be_bytes());
    }
    let window = picture.window();
    encode(window.width, window.height, ColorType::Rgba, BitDepth::Sixteen, Compression::Balanced, &data)
}
