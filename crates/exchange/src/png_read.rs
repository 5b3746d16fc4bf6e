//! PNG into memory: 1 to 16 bits, grey, colour or palette, with or without alpha.

use crate::error::ExchangeError;
use crate::file::{FileFormat, ImageFile, SampleKind, from_interleaved};
use crate::limits::Limits;
use jugata_core::colour::ColourSpace;
use jugata_core::convention::AlphaState;
use png::{BitDepth, ColorType, Decoder, DecodingError, Info, Transformations};
use std::io::Cursor;

/// First eight bytes of every PNG (PNG, third edition, 5.2).
pub const SIGNATURE: [u8; 8] = [0x89, b'P', b'N', b'G', 0x0d, 0x0a, 0x1a, 0x0a];

/// Reads a PNG. Values are codes ÷ largest code, as stored; alpha is straight (PNG, third edition, 6.2).
///
/// # Errors
/// What is beyond the limits or damaged.
pub fn read(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    let most = usize::try_from(limits.decoded_bytes).unwrap_or(usize::MAX);
    let mut decoder = Decoder::new_with_limits(Cursor::new(bytes), png::Limits { bytes: most });
    decoder.set_transformations(Transformations::EXPAND);
    let head = decoder.read_header_info().map_err(explain)?;
    let size = (head.width, head.height);
    // Four is what expansion makes of a palette with transparency.
    limits.hold_picture(size, 4, bytes.len())?;
    let mut reader = decoder.read_info().map_err(explain)?;
    let (colour, mut notes) = encoding(reader.info());
    let length = reader.output_buffer_size().ok_or(ExchangeError::Damaged { what: "its size".into() })?;
    let mut buffer = vec![0; length];
    let mut lost = false;
    let (kind, depth) = reader.output_color_type();
    match reader.next_frame(&mut buffer) {
        Ok(_) => {}
        // What was decoded before the break stands in the buffer.
        Err(DecodingError::IoError(e)) if e.kind() == std::io::ErrorKind::UnexpectedEof => lost = true,
        Err(e) => return Err(explain(e)),
    }
    if lost {
        notes.push("It breaks off before its end; what is missing is zero.".into());
    }
    let channels = kind.samples();
    let (kind, samples) = match depth {
        BitDepth::Sixteen => (
            SampleKind::Word,
            buffer.as_chunks::<2>().0.iter().map(|b| f32::from(u16::from_be_bytes(*b)) / 65_535.0).collect(),
        ),
        _ => (SampleKind::Byte, buffer.iter().map(|&b| f32::from(b) / 255.0).collect::<Vec<f32>>()),
    };
    let mut file = from_interleaved(FileFormat::Png, size, kind, channels, &samples);
    file.colour = colour;
    file.alpha = AlphaState::Straight;
    file.notes = notes;
    file.parts[0].compression = "deflate".into();
    Ok(file)
}

/// What the colour chunks say (PNG, third edition, 11.3.2), in their order of precedence.
fn encoding(info: &Info<'_>) -> (ColourSpace, Vec<String>) {
    let mut notes = Vec::new();
    if info.color_type == ColorType::Indexed {
        notes.push("Its colours come from a palette.".into());
    }
    if info.icc_profile.is_some() {
        notes.push("It carries an ICC profile, which is not applied; it is taken for sRGB.".into());
        return (ColourSpace::Srgb, notes);
    }
    if info.srgb.is_some() {
        notes.push("Its header says sRGB.".into());
        return (ColourSpace::Srgb, notes);
    }
    match info.gama_chunk.map(|g| g.into_value()) {
        Some(g) if (g - 1.0).abs() < 0.01 => {
            notes.push("Its header says linear (gAMA 1).".into());
            (ColourSpace::Linear, notes)
        }
        Some(g) => {
            notes.push(format!("Its header says gAMA {g:.4}; it is taken for sRGB."));
            (ColourSpace::Srgb, notes)
        }
        None => (ColourSpace::Srgb, notes),
    }
}

fn explain(e: DecodingError) -> ExchangeError {
    match e {
        DecodingError::LimitsExceeded => {
            ExchangeError::Damaged { what: "it asks for too much memory".into() }
        }
        DecodingError::IoError(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => {
            ExchangeError::Damaged { what: "it breaks off before its end".into() }
        }
        e => ExchangeError::Damaged { what: e.to_string() },
    }
}
