//! TIFF and BigTIFF into memory: grey and colour of 8 and 16 bits and float, strips and tiles,
//! interleaved and planar, either byte order, associated and straight alpha.

use crate::colour_tags;
use crate::error::{Damage, ExchangeError};
use crate::file::{FileFormat, ImageFile, Part, SampleKind, from_planes};
use crate::limits::Limits;
use crate::tiff_chunks::{Layout, Planes};
use jugata_core::colour::ColourSpace;
use jugata_core::passes::convention::AlphaState;
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
    catch_unwind(AssertUnwindSafe(|| decode(bytes, limits))).unwrap_or_else(|_| Err(Damage::Header.into()))
}

fn decode(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    let mut bounds = tiff::decoder::Limits::default();
    bounds.decoding_buffer_size = usize::try_from(limits.decoded_bytes).unwrap_or(usize::MAX);
    let mut reader = Decoder::new(Cursor::new(bytes)).map_err(explain)?.with_limits(bounds);
    let size = reader.dimensions().map_err(explain)?;
    let colour = reader.colortype().map_err(explain)?;
    // The library leaves out what comes beside the colours.
    let samples = reader.find_tag_unsigned::<u16>(Tag::SamplesPerPixel).ok().flatten().unwrap_or(1);
    let channels = usize::from(colour.num_samples().max(samples));
    limits.hold_picture(size, channels as u64, bytes.len())?;
    check_colour(colour)?;
    let (kind, mut planes) = match Layout::of(&mut reader, bytes, size, channels) {
        Some(layout) => {
            let read = layout.planes(bytes)?;
            (read.kind, read)
        }
        None => by_library(&mut reader, size, channels)?,
    };
    let size = orient(&mut reader, &mut planes, size);
    let named = if channels == 2 || channels > 4 { 0 } else { channels };
    let cut_off = planes.cut_off;
    let all = planes.of;
    let mut file = if named == 0 {
        let mut file = from_planes(FileFormat::Tiff, size, kind, Vec::new());
        file.parts[0].channels = bands(colour, kind, all);
        file
    } else {
        from_planes(FileFormat::Tiff, size, kind, all)
    };
    describe(&mut file, &mut reader, kind, channels);
    if cut_off {
        file.notes.push("It breaks off before its end; what is missing is zero.".into());
    }
    Ok(file)
}

/// What the library decodes as a whole.
fn by_library(
    reader: &mut Reader<'_>,
    size: (u32, u32),
    channels: usize,
) -> Result<(SampleKind, Planes), ExchangeError> {
    let mut result = DecodingResult::U8(Vec::new());
    let layout = reader.read_image_to_buffer(&mut result).map_err(explain)?;
    let (kind, samples) = numbers(result)?;
    let area = size.0 as usize * size.1 as usize;
    if samples.len() < area * channels {
        return Err(Damage::Planes.into());
    }
    let plane = |c: usize| {
        if layout.planes > 1 {
            samples[c * area..(c + 1) * area].to_vec()
        } else {
            samples.iter().skip(c).step_by(channels).copied().collect()
        }
    };
    Ok((kind, Planes { kind, of: (0..channels).map(plane).collect(), cut_off: false }))
}

/// Turns the picture as its orientation tag says (TIFF 6.0, section 8); its size then.
fn orient(reader: &mut Reader<'_>, planes: &mut Planes, (w, h): (u32, u32)) -> (u32, u32) {
    let tag = reader.find_tag_unsigned::<u16>(Tag::Orientation).ok().flatten().unwrap_or(1);
    if !(2..=8).contains(&tag) {
        return (w, h);
    }
    let (mirrored, upside, swapped) = match tag {
        2 => (true, false, false),
        3 => (true, true, false),
        4 => (false, true, false),
        5 => (false, false, true),
        6 => (false, true, true),
        7 => (true, true, true),
        _ => (true, false, true),
    };
    let (ow, oh) = if swapped { (h, w) } else { (w, h) };
    for plane in &mut planes.of {
        let from = |x: u32, y: u32| {
            let (u, v) = if swapped { (y, x) } else { (x, y) };
            let (u, v) = (if mirrored { w - 1 - u } else { u }, if upside { h - 1 - v } else { v });
            plane[v as usize * w as usize + u as usize]
        };
        *plane = (0..oh).flat_map(|y| (0..ow).map(move |x| (x, y))).map(|(x, y)| from(x, y)).collect();
    }
    (ow, oh)
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
    if let Ok(Some(profile)) = reader.find_tag(Tag::IccProfile)
        && let Ok(bytes) = profile.into_u8_vec()
    {
        let colour = colour_tags::profile(&bytes);
        (file.colour, file.primaries, file.gamma) = (colour.colour, colour.primaries, colour.gamma);
        file.notes.extend(colour.note);
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

/// Channels of pictures of two, five or more bands: colour keeps its names, what comes beside it has none of its own.
fn bands(colour: ColorType, kind: SampleKind, planes: Vec<Vec<f32>>) -> Vec<crate::file::Channel> {
    let known: &[&str] = match colour {
        ColorType::GrayA(_) => &["Y", "A"],
        ColorType::RGB(_) => &["R", "G", "B"],
        ColorType::RGBA(_) => &["R", "G", "B", "A"],
        _ => &[],
    };
    let name = |c: usize| known.get(c).map_or_else(|| format!("band{}", c + 1), |n| (*n).to_owned());
    planes.into_iter().enumerate().map(|(c, plane)| Part::plain(&name(c), kind, plane)).collect()
}

fn explain(e: TiffError) -> ExchangeError {
    match e {
        TiffError::UnsupportedError(_) => ExchangeError::Unsupported { what: "a rare variant of TIFF" },
        TiffError::LimitsExceeded => Damage::Hollow.into(),
        TiffError::IoError(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => Damage::CutOff.into(),
        TiffError::FormatError(e) => ExchangeError::damaged(Damage::Header, e),
        e => ExchangeError::damaged(Damage::Garbled, e),
    }
}
