//! TIFF and BigTIFF into memory: grey and colour of 8 and 16 bits and float, strips and tiles,
//! interleaved and planar, either byte order, associated and straight alpha.

use crate::error::ExchangeError;
use crate::file::{FileFormat, ImageFile, Part, SampleKind, from_interleaved};
use crate::limits::Limits;
use jugata_core::colour::ColourSpace;
use jugata_core::convention::AlphaState;
use std::io::Cursor;
use std::panic::{AssertUnwindSafe, catch_unwind};
use tiff::decoder::{Decoder, DecodingResult};
use tiff::tags::Tag;
use tiff::{ColorType, TiffError};

type Reader<'b> = Decoder<Cursor<&'b [u8]>>;

/// Reads the first image of a TIFF. Whole numbers of 8 and 16 bits are read as 0..1, floats as they are.
///
/// # Errors
/// What is beyond the limits, unsupported or damaged.
pub fn read(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    // The crate indexes into tables that a damaged file may have made too short.
    catch_unwind(AssertUnwindSafe(|| decode(bytes, limits)))
        .unwrap_or_else(|_| Err(ExchangeError::Damaged { what: "its tables contradict each other".into() }))
}

fn decode(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    let mut bounds = tiff::decoder::Limits::default();
    bounds.decoding_buffer_size = usize::try_from(limits.decoded_bytes).unwrap_or(usize::MAX);
    let mut reader = Decoder::new(Cursor::new(bytes)).map_err(explain)?.with_limits(bounds);
    let size = reader.dimensions().map_err(explain)?;
    let colour = reader.colortype().map_err(explain)?;
    let channels = usize::from(colour.num_samples());
    limits.hold_picture(size, channels as u64, bytes.len())?;
    check_colour(colour)?;
    let mut result = DecodingResult::U8(Vec::new());
    let layout = reader.read_image_to_buffer(&mut result).map_err(explain)?;
    let (kind, mut samples) = numbers(result)?;
    let area = size.0 as usize * size.1 as usize;
    if samples.len() < area * channels {
        return Err(ExchangeError::Damaged { what: "some of its planes are missing".into() });
    }
    if layout.planes > 1 {
        samples = interleave(&samples, area, channels);
    }
    let used = channels.min(4);
    let kept: Vec<f32> = samples.chunks_exact(channels).flat_map(|px| px[..used].iter().copied()).collect();
    let mut file = from_interleaved(FileFormat::Tiff, size, kind, used, &kept);
    describe(&mut file, &mut reader, kind, channels);
    if channels == 2 || channels > 4 {
        name_bands(&mut file, colour, &samples, channels, kind);
    }
    Ok(file)
}

fn check_colour(colour: ColorType) -> Result<(), ExchangeError> {
    let what = match colour {
        ColorType::CMYK(_) | ColorType::CMYKA(_) => "colours for printing (CMYK)",
        ColorType::YCbCr(_) => "video colours (YCbCr)",
        ColorType::Lab(_) => "L*a*b* colours",
        ColorType::Palette(_) => "a colour palette",
        c if c.bit_depth() < 8 => "fewer than 8 bits a sample",
        _ => return Ok(()),
    };
    Err(ExchangeError::Unsupported { what })
}

fn numbers(result: DecodingResult) -> Result<(SampleKind, Vec<f32>), ExchangeError> {
    Ok(match result {
        DecodingResult::U8(v) => (SampleKind::Byte, v.into_iter().map(|v| f32::from(v) / 255.0).collect()),
        DecodingResult::U16(v) => {
            (SampleKind::Word, v.into_iter().map(|v| f32::from(v) / 65_535.0).collect())
        }
        DecodingResult::U32(v) => (SampleKind::Uint, v.into_iter().map(|v| v as f32).collect()),
        DecodingResult::F16(v) => (SampleKind::Half, v.into_iter().map(half::f16::to_f32).collect()),
        DecodingResult::F32(v) => (SampleKind::Float, v),
        DecodingResult::F64(v) => (SampleKind::Float, v.into_iter().map(|v| v as f32).collect()),
        _ => return Err(ExchangeError::Unsupported { what: "signed or 64-bit whole numbers" }),
    })
}

fn interleave(planar: &[f32], area: usize, channels: usize) -> Vec<f32> {
    (0..area * channels).map(|i| planar[(i % channels) * area + i / channels]).collect()
}

/// Alpha state, encoding and other words of the header (TIFF 6.0).
fn describe(file: &mut ImageFile, reader: &mut Reader<'_>, kind: SampleKind, channels: usize) {
    // Floats are scene-linear and whole numbers for a screen: common practice, no source.
    let whole = matches!(kind, SampleKind::Byte | SampleKind::Word);
    file.colour = if whole { ColourSpace::Srgb } else { ColourSpace::Linear };
    // ExtraSamples: 1 = associated (premultiplied), 2 = unassociated (straight); TIFF 6.0, section 18.
    let extra: Option<Vec<u16>> = reader.find_tag_unsigned_vec(Tag::ExtraSamples).ok().flatten();
    file.alpha = match extra.as_deref() {
        Some([2, ..]) => AlphaState::Straight,
        _ => AlphaState::Premultiplied,
    };
    if channels == 4 && !matches!(extra.as_deref(), Some([1 | 2, ..])) {
        file.notes.push("Its header does not say whether alpha is premultiplied; it is taken to be.".into());
    }
    if reader.more_images() {
        file.notes.push("It holds more than one image; the first is read.".into());
    }
    if matches!(reader.find_tag(Tag::IccProfile), Ok(Some(_))) {
        file.notes.push("It carries an ICC profile, which is not applied.".into());
    }
    file.parts[0].compression = match reader.find_tag_unsigned::<u16>(Tag::Compression) {
        Ok(Some(1)) | Ok(None) => "none".into(),
        Ok(Some(5)) => "LZW".into(),
        Ok(Some(7)) => {
            file.parts[0].lossy = Some("JPEG rounds cosine coefficients");
            "JPEG".into()
        }
        Ok(Some(8 | 32_946)) => "deflate".into(),
        Ok(Some(32_773)) => "PackBits".into(),
        Ok(Some(n)) => format!("code {n}"),
        Err(_) => String::new(),
    };
}

/// Names for pictures of two, five or more bands, which have no colour names of their own.
fn name_bands(file: &mut ImageFile, colour: ColorType, samples: &[f32], channels: usize, kind: SampleKind) {
    if matches!(colour, ColorType::GrayA(_)) {
        return;
    }
    file.parts[0].channels = (0..channels)
        .map(|c| {
            let plane = samples.iter().skip(c).step_by(channels).copied().collect();
            Part::plain(&format!("band{}", c + 1), kind, plane)
        })
        .collect();
}

fn explain(e: TiffError) -> ExchangeError {
    match e {
        TiffError::UnsupportedError(_) => ExchangeError::Unsupported { what: "a rare variant of TIFF" },
        TiffError::LimitsExceeded => ExchangeError::Damaged { what: "it asks for too much memory".into() },
        TiffError::IoError(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => {
            ExchangeError::Damaged { what: "it breaks off before its end".into() }
        }
        e => ExchangeError::Damaged { what: e.to_string() },
    }
}
