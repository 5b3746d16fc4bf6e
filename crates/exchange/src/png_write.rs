//! PNG out: 8 bits for screens, 16 bits for hand-off.

use crate::error::ExchangeError;
use jugata_core::Raster;
use jugata_core::colour::{clipped, srgb_encode};
use png::{BitDepth, ColorType, Compression, Encoder, ScaledFloat, SrgbRenderingIntent};

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
    match colour {
        // Depth is data: a reader that heeds gamma must leave it as it is.
        ColorType::Grayscale => encoder.set_source_gamma(ScaledFloat::new(1.0)),
        _ => encoder.set_source_srgb(SrgbRenderingIntent::Perceptual),
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

/// A 16-bit file of one to three planes of data, grey or RGB (a missing third plane is black), without any curve:
/// `signed` data is coded as `½ + ½ v` (normals: flat is ½, ½, 1), other data is clipped to 0..1. What is no number is 0.
///
/// # Errors
/// More planes than three, or no pixels.
pub fn data16(data: &Raster, signed: bool) -> Result<Vec<u8>, ExchangeError> {
    let planes = data.channels();
    if !(1..=3).contains(&planes) {
        return Err(ExchangeError::Unwritable {
            what: format!("a PNG of {planes} planes of data is not written"),
        });
    }
    let code = |v: f32| (clipped(if signed { 0.5 + 0.5 * v } else { v }) * 65_535.0 + 0.5) as u16;
    let wide = if planes == 1 { 1 } else { 3 };
    let mut bytes = Vec::with_capacity(data.window().area() * wide * 2);
    for i in 0..data.window().area() {
        for c in 0..wide {
            let v = if c < planes { code(data.plane(c)[i]) } else { 0 };
            bytes.extend(v.to_be_bytes());
        }
    }
    let kind = if planes == 1 { ColorType::Grayscale } else { ColorType::Rgb };
    let w = data.window();
    encode(w.width, w.height, kind, BitDepth::Sixteen, Compression::Balanced, &bytes)
}

/// A 16-bit grey file of a planar depth: the nearest is white, the farthest black but one step, nothing black;
/// even steps of depth between (the pair that viewers of 3D photos take: common practice, no source).
///
/// # Errors
/// A depth without exactly one channel, or no pixels.
pub fn depth16(depth: &Raster) -> Result<Vec<u8>, ExchangeError> {
    depth.expect_channels("depth", 1).map_err(|e| ExchangeError::Unwritable { what: e.to_string() })?;
    let finite = || depth.plane(0).iter().copied().filter(|z| z.is_finite());
    let (near, far) = (finite().fold(f32::INFINITY, f32::min), finite().fold(f32::NEG_INFINITY, f32::max));
    let scale = if far > near { 65_534.0 / (far - near) } else { 0.0 };
    let code = |z: f32| if z.is_finite() { (65_535.5 - (z - near) * scale) as u16 } else { 0 };
    let data: Vec<u8> = depth.plane(0).iter().flat_map(|z| code(*z).to_be_bytes()).collect();
    let w = depth.window();
    encode(w.width, w.height, ColorType::Grayscale, BitDepth::Sixteen, Compression::Balanced, &data)
}
