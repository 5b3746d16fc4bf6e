//! OpenEXR files into memory.
//!
//! The header is read first; what it asks for is added up and compared with the limits before anything of
//! the size of a picture is allocated. Flat scanline and tiled parts; of mip levels the largest. Pixels are
//! taken chunk by chunk ([`crate::exr_chunks`]), so that one damaged chunk costs its rows and no more.

use crate::error::{Damage, ExchangeError};
use crate::exr_chunks;
use crate::exr_words::{explain, text};
use crate::file::{Attribute, CameraHeader, FileFormat, ImageFile, Part};
use crate::limits::Limits;
use crate::luminance_chroma;
use exr::compression::Compression;
use exr::error::Error as ExrError;
use exr::io::PeekRead;
use exr::meta::attribute::{AttributeValue, IntegerBounds, Text};
use exr::meta::header::{Header, LayerAttributes};
use exr::meta::{MetaData, Requirements, magic_number};
use jugata_core::Window;
use jugata_core::colour::ColourSpace;
use jugata_core::colour::primaries::{self, Primaries};
use jugata_core::passes::convention::AlphaState;
use std::io::Cursor;
use std::panic::catch_unwind;

/// First four bytes of every OpenEXR file (OpenEXR File Layout, "Magic Number").
pub const MAGIC: [u8; 4] = [0x76, 0x2f, 0x31, 0x01];

/// A header that passed the limits, and where the chunk offsets begin.
pub struct Opened {
    /// Headers of all parts, deep ones included.
    pub meta: MetaData,
    /// First byte behind the headers.
    pub table_at: usize,
    /// What was noted.
    pub notes: Vec<String>,
}

/// Reads a whole file from memory.
///
/// # Errors
/// One sentence for what is not an EXR, is beyond the limits, unsupported or damaged.
pub fn read(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    let Opened { meta, table_at, mut notes } = open(bytes, limits)?;
    let mut parts = Vec::new();
    let chunks = exr_chunks::locate(bytes, &meta, table_at);
    let mut refused = None;
    for (index, header) in meta.headers.iter().enumerate() {
        let title = || title(header, index);
        if header.deep {
            notes.push(format!("{} holds deep data, which Jugata does not read.", title()));
            continue;
        }
        match exr_chunks::decode(bytes, &meta, index, &chunks) {
            Ok(decoded) => {
                if !decoded.missing.is_empty() {
                    notes.push(missing(&title(), &decoded, header));
                }
                let mut part = part(header, decoded)?;
                notes.extend(luminance_chroma::expand(&mut part, header));
                parts.push(part);
            }
            Err(e) => {
                notes.push(format!("{} is not read. {e}", title()));
                refused = Some(e);
            }
        }
    }
    let display_window = window(meta.headers[0].shared_attributes.display_window)?;
    match (parts.is_empty(), refused) {
        (true, Some(e)) => Err(e),
        (true, None) => Err(ExchangeError::Unsupported { what: "nothing but deep data" }),
        _ => Ok(ImageFile {
            format: FileFormat::Exr,
            colour: ColourSpace::Linear,
            primaries: primaries(&meta.headers[0], &mut notes),
            gamma: None,
            alpha: AlphaState::Premultiplied,
            notes,
            display_window,
            pixel_aspect: meta.headers[0].shared_attributes.pixel_aspect,
            parts,
        }),
    }
}

/// The chromaticities attribute (OpenEXR Technical Introduction), if it says others than Rec.709.
fn primaries(header: &Header, notes: &mut Vec<String>) -> Option<Primaries> {
    let c = header.shared_attributes.chromaticities?;
    let of = |v: exr::math::Vec2<f32>| [v.x(), v.y()];
    let all = [of(c.red), of(c.green), of(c.blue), of(c.white)].concat();
    let own = Primaries(all.try_into().ok()?);
    if own.near(&primaries::REC709) {
        return None;
    }
    if !own.is_sound() {
        notes.push("Its chromaticities make no colours; it is taken for linear Rec.709.".into());
        return None;
    }
    notes.push(format!(
        "Its colours have the primaries {}; they are brought to Rec.709.",
        own.name().unwrap_or("of its header")
    ));
    Some(own)
}

/// The display window, from the header alone.
///
/// # Errors
/// As [`read`].
pub fn frame(bytes: &[u8], limits: &Limits) -> Result<Window, ExchangeError> {
    window(open(bytes, limits)?.meta.headers[0].shared_attributes.display_window)
}

fn title(header: &Header, index: usize) -> String {
    match &header.own_attributes.layer_name {
        Some(name) => format!("Part {index} ({})", text(name)),
        None => format!("Part {index}"),
    }
}

fn missing(title: &str, decoded: &exr_chunks::Decoded, header: &Header) -> String {
    let rows: Vec<String> = decoded
        .missing
        .iter()
        .take(4)
        .map(|m| if m.first == m.last { m.first.to_string() } else { format!("{}–{}", m.first, m.last) })
        .collect();
    let more = if decoded.missing.len() > 4 { " and more" } else { "" };
    let lost: usize = decoded.missing.iter().map(|m| (m.last - m.first) as usize + 1).sum();
    let share = 100.0 * lost as f64 / header.layer_size.y().max(1) as f64;
    format!("{title}: rows {}{more} are missing or damaged ({share:.0} % of its height).", rows.join(", "))
}

/// Reads and checks the headers only: nothing of the size of a picture is allocated.
///
/// # Errors
/// As [`read`].
pub fn open(bytes: &[u8], limits: &Limits) -> Result<Opened, ExchangeError> {
    Limits::hold("its length in bytes", bytes.len() as u64, limits.file_bytes)?;
    if bytes.get(..4) != Some(&MAGIC) {
        return Err(ExchangeError::NotAnImage);
    }
    let (meta, table_at) =
        catch_unwind(|| headers(bytes)).map_err(|_| ExchangeError::from(Damage::Header))?.map_err(explain)?;
    let mut notes = Vec::new();
    check(&meta, bytes.len() as u64, limits, &mut notes)?;
    Ok(Opened { meta, table_at, notes })
}

/// The headers without the crate's own validation: it refuses every file that has a deep part or a
/// subsampled channel, and we read what stands beside those.
fn headers(bytes: &[u8]) -> Result<(MetaData, usize), ExrError> {
    let mut cursor = Cursor::new(bytes);
    let mut read = PeekRead::new(&mut cursor);
    magic_number::validate_exr(&mut read)?;
    let requirements = Requirements::read(&mut read)?;
    requirements.validate()?;
    let headers = Header::read_all(&mut read, &requirements, false)?;
    if headers.is_empty() {
        return Err(ExrError::Invalid("it has no part".into()));
    }
    drop(read);
    let table_at = cursor.position() as usize;
    Ok((MetaData { requirements, headers }, table_at))
}

fn check(
    meta: &MetaData,
    file_bytes: u64,
    limits: &Limits,
    notes: &mut Vec<String>,
) -> Result<(), ExchangeError> {
    let (mut channels, mut decoded) = (0u64, 0u64);
    for header in meta.headers.iter() {
        let count = header.channels.list.len() as u64;
        channels = channels.saturating_add(count);
        if header.deep {
            check_display(header, limits)?;
            continue;
        }
        if count == 0 {
            return Err(Damage::NoChannels.into());
        }
        let (width, height) = (header.layer_size.x() as u64, header.layer_size.y() as u64);
        Limits::hold("the longest side of a part", width.max(height), limits.side)?;
        check_display(header, limits)?;
        let position = header.own_attributes.layer_position;
        window(IntegerBounds { position, size: header.layer_size })?;
        let samples = width.saturating_mul(height).saturating_mul(count);
        decoded = decoded.saturating_add(samples.saturating_mul(4));
    }
    Limits::hold("the number of channels", channels, limits.channels)?;
    limits.hold_decoded(decoded, file_bytes)?;
    let first = &meta.headers[0].shared_attributes;
    if meta.headers.iter().any(|h| h.shared_attributes.display_window != first.display_window) {
        notes.push("Its parts have different display windows; the first part's is used.".into());
    }
    if (first.pixel_aspect - 1.0).abs() > 1e-4 {
        notes.push(format!("Its pixels are {} times as wide as high.", first.pixel_aspect));
    }
    Ok(())
}

fn check_display(header: &Header, limits: &Limits) -> Result<(), ExchangeError> {
    let display = header.shared_attributes.display_window;
    let side = display.size.x().max(display.size.y()) as u64;
    Limits::hold("the longest side of the display window", side, limits.side)?;
    window(display)?;
    let aspect = header.shared_attributes.pixel_aspect;
    if !(aspect.is_finite() && aspect > 0.0) {
        return Err(ExchangeError::damaged(Damage::Header, format!("its pixel aspect is {aspect}")));
    }
    Ok(())
}

fn window(bounds: IntegerBounds) -> Result<Window, ExchangeError> {
    let (x, y) = (bounds.position.x(), bounds.position.y());
    let (w, h) = (bounds.size.x(), bounds.size.y());
    let far = |start: i32, n: usize| i64::from(start).unsigned_abs().saturating_add(n as u64) > 1 << 24;
    if w == 0 || h == 0 || far(x, w) || far(y, h) {
        return Err(Damage::Window.into());
    }
    Ok(Window::new(x, y, w as u32, h as u32))
}

fn part(header: &Header, decoded: exr_chunks::Decoded) -> Result<Part, ExchangeError> {
    let a = &header.own_attributes;
    let data_window = window(IntegerBounds { position: a.layer_position, size: header.layer_size })?;
    Ok(Part {
        name: a.layer_name.as_ref().map(text),
        data_window,
        compression: label(header.compression).into(),
        lossy: lossy(header.compression),
        missing: decoded.missing,
        channels: decoded.channels,
        camera: camera(a),
        attributes: attributes(a),
    })
}

/// The standard's names of compressions (OpenEXR Technical Introduction, "Data Compression").
fn label(compression: Compression) -> &'static str {
    match compression {
        Compression::Uncompressed => "uncompressed",
        Compression::RLE => "RLE",
        Compression::ZIP1 => "ZIPS",
        Compression::ZIP16 => "ZIP",
        Compression::PIZ => "PIZ",
        Compression::PXR24 => "PXR24",
        Compression::B44 => "B44",
        Compression::B44A => "B44A",
        Compression::DWAA(_) => "DWAA",
        Compression::DWAB(_) => "DWAB",
        _ => "HTJ2K",
    }
}

/// What a compression loses (OpenEXR Technical Introduction, "Data Compression").
fn lossy(compression: Compression) -> Option<&'static str> {
    match compression {
        Compression::PXR24 => Some("PXR24 rounds 32-bit floats to 24 bits"),
        Compression::B44 | Compression::B44A => Some("B44 packs halves in blocks of 4×4 with 6-bit steps"),
        Compression::DWAA(_) | Compression::DWAB(_) => Some("DWA rounds cosine coefficients, as JPEG does"),
        _ => None,
    }
}

fn camera(a: &LayerAttributes) -> CameraHeader {
    let other = |name: &str| a.other.get(&Text::from(name));
    CameraHeader {
        world_to_camera: a.world_to_camera,
        screen_window_width: a.screen_window_width,
        screen_window_centre: [a.screen_window_center.x(), a.screen_window_center.y()],
        focal: match other("nominalFocalLength") {
            Some(AttributeValue::F32(v)) => Some(*v),
            _ => None,
        },
        sensor: match other("sensorOverallDimensions") {
            Some(AttributeValue::FloatVec2(v)) => Some([v.x(), v.y()]),
            _ => None,
        },
    }
}

/// Longest attribute text that is kept: room for the manifest of a thousand hashed IDs.
const ATTRIBUTE_TEXT: usize = 1 << 20;

fn attributes(a: &LayerAttributes) -> Vec<Attribute> {
    let mut list: Vec<Attribute> = a
        .other
        .iter()
        .map(|(name, value)| (text(name), plain(value)))
        .chain(a.software_name.as_ref().map(|t| ("software".into(), text(t))))
        .chain(a.comments.as_ref().map(|t| ("comments".into(), text(t))))
        .chain(a.owner.as_ref().map(|t| ("owner".into(), text(t))))
        .chain(a.view_name.as_ref().map(|t| ("view".into(), text(t))))
        .chain(a.frames_per_second.map(|v| ("framesPerSecond".into(), format!("{}/{}", v.0, v.1))))
        .chain(a.world_to_camera.map(|m| ("worldToCamera".into(), format!("{m:?}"))))
        .map(|(name, value)| Attribute { name, value: value.chars().take(ATTRIBUTE_TEXT).collect() })
        .collect();
    list.sort_by(|a, b| a.name.cmp(&b.name));
    list
}

fn plain(value: &AttributeValue) -> String {
    match value {
        AttributeValue::Text(t) => text(t),
        AttributeValue::F32(v) => v.to_string(),
        AttributeValue::F64(v) => v.to_string(),
        AttributeValue::I32(v) => v.to_string(),
        AttributeValue::FloatVec2(v) => format!("{} {}", v.x(), v.y()),
        AttributeValue::IntVec2(v) => format!("{} {}", v.x(), v.y()),
        AttributeValue::FloatVec3((x, y, z)) => format!("{x} {y} {z}"),
        AttributeValue::IntVec3((x, y, z)) => format!("{x} {y} {z}"),
        AttributeValue::Matrix4x4(m) => numbers(m),
        AttributeValue::Matrix3x3(m) => numbers(m),
        AttributeValue::Rational(v) => format!("{}/{}", v.0, v.1),
        AttributeValue::TextVector(list) => list.iter().map(text).collect::<Vec<_>>().join(", "),
        AttributeValue::IntegerBounds(b) => {
            let (x, y) = (b.position.x(), b.position.y());
            format!("{x} {y} to {} {}", x as i64 + b.size.x() as i64 - 1, y as i64 + b.size.y() as i64 - 1)
        }
        AttributeValue::FloatRect(r) => format!("{} {} to {} {}", r.min.x(), r.min.y(), r.max.x(), r.max.y()),
        AttributeValue::Chromaticities(c) => {
            let point = |v: exr::math::Vec2<f32>| format!("{} {}", v.x(), v.y());
            format!(
                "red {}, green {}, blue {}, white {}",
                point(c.red),
                point(c.green),
                point(c.blue),
                point(c.white)
            )
        }
        AttributeValue::TimeCode(t) => {
            format!("{:02}:{:02}:{:02}:{:02}", t.hours, t.minutes, t.seconds, t.frame)
        }
        AttributeValue::KeyCode(k) => {
            format!("{} {} {} {}", k.film_manufacturer_code, k.film_type, k.film_roll_prefix, k.count)
        }
        AttributeValue::Preview(p) => format!("a small picture of {}×{} px", p.size.x(), p.size.y()),
        AttributeValue::Bytes { bytes, .. } => format!("{} bytes", bytes.len()),
        AttributeValue::Custom { kind, bytes } => {
            format!("{} bytes of its own kind, {}", bytes.len(), text(kind))
        }
        _ => "a value of a kind that is not shown".into(),
    }
}

fn numbers(values: &[f32]) -> String {
    values.iter().map(f32::to_string).collect::<Vec<_>>().join(" ")
}
