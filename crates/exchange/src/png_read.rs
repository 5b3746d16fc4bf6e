//! PNG into memory: 1 to 16 bits, grey, colour or palette, with or without alpha.

use crate::colour_tags::{self, Encoding};
use crate::error::{Damage, ExchangeError};
use crate::file::{FileFormat, ImageFile, SampleKind, from_planes};
use crate::limits::Limits;
use jugata_core::colour::primaries::Primaries;
use jugata_core::passes::convention::AlphaState;
use png::{BitDepth, ColorType, Decoder, DecodingError, Info, Transformations};
use std::io::Cursor;

/// First eight bytes of every PNG (PNG, third edition, 5.2).
pub const SIGNATURE: [u8; 8] = [0x89, b'P', b'N', b'G', 0x0d, 0x0a, 0x1a, 0x0a];

/// Reads a PNG. Values are codes ÷ largest code, as stored; alpha is straight (PNG, third edition, 6.2).
///
/// # Errors
/// What is beyond the limits or damaged.
pub fn read(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    // The decoder looks palettes up without asking whether they are long enough.
    std::panic::catch_unwind(|| decode(bytes, limits)).unwrap_or_else(|_| Err(Damage::Garbled.into()))
}

fn decode(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    let most = usize::try_from(limits.decoded_bytes).unwrap_or(usize::MAX);
    let mut decoder = Decoder::new_with_limits(Cursor::new(bytes), png::Limits { bytes: most });
    decoder.set_transformations(Transformations::EXPAND);
    let head = decoder.read_header_info().map_err(explain)?;
    let size = (head.width, head.height);
    // Four is what expansion makes of a palette with transparency.
    limits.hold_picture(size, 4, bytes.len())?;
    let mut reader = decoder.read_info().map_err(explain)?;
    let (colour, mut notes) = encoding(reader.info());
    let (kind, depth) = reader.output_color_type();
    let planes = planes(&mut reader, kind.samples(), depth, size)?;
    if planes.cut_off {
        notes.push("It breaks off before its end; what is missing is zero.".into());
    }
    let stored = if depth == BitDepth::Sixteen { SampleKind::Word } else { SampleKind::Byte };
    let mut file = from_planes(FileFormat::Png, size, stored, planes.of);
    (file.colour, file.primaries, file.gamma) = (colour.colour, colour.primaries, colour.gamma);
    file.alpha = AlphaState::Straight;
    file.notes = notes;
    file.parts[0].compression = "deflate".into();
    Ok(file)
}

/// Planes of a picture, and whether its end is missing.
struct Planes {
    of: Vec<Vec<f32>>,
    cut_off: bool,
}

/// Decodes row by row, so that nothing but the planes is as large as the picture; an interlaced one whole.
fn planes(
    reader: &mut png::Reader<Cursor<&[u8]>>,
    channels: usize,
    depth: BitDepth,
    (width, height): (u32, u32),
) -> Result<Planes, ExchangeError> {
    let area = width as usize * height as usize;
    let mut of: Vec<Vec<f32>> = (0..channels).map(|_| vec![0.0; area]).collect();
    let mut put = |row: &[u8], start: usize| {
        for (c, plane) in of.iter_mut().enumerate() {
            let out = &mut plane[start..];
            match depth {
                BitDepth::Sixteen => {
                    let codes = row.as_chunks::<2>().0.iter().skip(c).step_by(channels);
                    out.iter_mut()
                        .zip(codes)
                        .for_each(|(o, b)| *o = f32::from(u16::from_be_bytes(*b)) / 65_535.0);
                }
                _ => {
                    let codes = row.iter().skip(c).step_by(channels);
                    out.iter_mut().zip(codes).for_each(|(o, b)| *o = f32::from(*b) / 255.0);
                }
            }
        }
    };
    if reader.info().interlaced {
        let length = reader.output_buffer_size().ok_or(Damage::Header)?;
        let mut buffer = vec![0; length];
        // What was decoded before the break stands in the buffer.
        let cut_off = match reader.next_frame(&mut buffer) {
            Ok(_) => false,
            Err(e) if ends(&e) => true,
            Err(e) => return Err(explain(e)),
        };
        put(&buffer, 0);
        return Ok(Planes { of, cut_off });
    }
    for y in 0..height as usize {
        match reader.next_row() {
            Ok(Some(row)) => put(row.data(), y * width as usize),
            Ok(None) => return Ok(Planes { of, cut_off: true }),
            Err(e) if ends(&e) => return Ok(Planes { of, cut_off: true }),
            Err(e) => return Err(explain(e)),
        }
    }
    Ok(Planes { of, cut_off: false })
}

fn ends(e: &DecodingError) -> bool {
    matches!(e, DecodingError::IoError(e) if e.kind() == std::io::ErrorKind::UnexpectedEof)
}

/// What the colour chunks say (PNG, third edition, 11.3.2), in their order of precedence.
fn encoding(info: &Info<'_>) -> (Encoding, Vec<String>) {
    let mut notes = Vec::new();
    if info.color_type == ColorType::Indexed {
        notes.push("Its colours come from a palette.".into());
    }
    let by_points = info.coding_independent_code_points.as_ref().map(|c| {
        colour_tags::code_points(c.color_primaries, c.transfer_function).unwrap_or_else(|| {
            Encoding::srgb(Some("Its header gives code points that are not applied; it is taken for sRGB."))
        })
    });
    let by_profile = || info.icc_profile.as_ref().map(|p| colour_tags::profile(p));
    let by_intent = || info.srgb.map(|_| Encoding::srgb(Some("Its header says sRGB.")));
    let by_power = || {
        let pair = |p: (png::ScaledFloat, png::ScaledFloat)| [p.0.into_value(), p.1.into_value()];
        let chromaticities = info.chrm_chunk.and_then(|c| {
            let all = [pair(c.red), pair(c.green), pair(c.blue), pair(c.white)].concat();
            <[f32; 8]>::try_from(all).ok().map(Primaries)
        });
        colour_tags::power(info.gama_chunk.map(|g| g.into_value()), chromaticities)
    };
    let found = by_points.or_else(by_profile).or_else(by_intent).or_else(by_power);
    let found = found.unwrap_or_else(|| Encoding::srgb(None));
    notes.extend(found.note.clone());
    (found, notes)
}

fn explain(e: DecodingError) -> ExchangeError {
    match e {
        DecodingError::LimitsExceeded => Damage::Hollow.into(),
        e if ends(&e) => Damage::CutOff.into(),
        e => ExchangeError::damaged(Damage::Garbled, e),
    }
}
