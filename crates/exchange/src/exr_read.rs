//! OpenEXR files into memory.
//!
//! The header is read first; what it asks for is added up and compared with the limits before the crate
//! may allocate. Flat scanline and tiled parts; of mip levels the largest.

use crate::error::ExchangeError;
use crate::file::{Attribute, CameraHeader, Channel, ImageFile, Part, SampleKind};
use crate::limits::Limits;
use exr::compression::Compression;
use exr::error::Error as ExrError;
use exr::image::{AnyChannels, FlatSamples, Layer};
use exr::meta::MetaData;
use exr::meta::attribute::{AttributeValue, IntegerBounds, Text};
use exr::meta::header::{Header, LayerAttributes};
use exr::prelude::{ReadChannels, ReadLayers};
use jugata_core::Window;
use rayon::prelude::*;
use std::io::Cursor;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;

/// First four bytes of every OpenEXR file (OpenEXR File Layout, "Magic Number").
const MAGIC: [u8; 4] = [0x76, 0x2f, 0x31, 0x01];

/// Reads a whole file from memory.
///
/// # Errors
/// One sentence for what is not an EXR, is beyond the limits, unsupported or damaged.
pub fn read(bytes: &[u8], limits: &Limits) -> Result<ImageFile, ExchangeError> {
    let meta = header(bytes, limits)?;
    // Damaged data of the fixed-rate codecs makes the crate overflow inside its own threads, where
    // nothing could catch it; on this thread it is an ordinary error.
    let own_threads =
        !meta.headers.iter().any(|h| matches!(h.compression, Compression::B44 | Compression::B44A));
    let image = catch_unwind(AssertUnwindSafe(|| {
        let reader = exr::prelude::read()
            .no_deep_data()
            .largest_resolution_level()
            .all_channels()
            .all_layers()
            .all_attributes();
        let reader = if own_threads { reader } else { reader.non_parallel() };
        reader.from_buffered(Cursor::new(bytes))
    }))
    .map_err(|_| ExchangeError::Damaged { what: "its pixels cannot be decoded".into() })?
    .map_err(explain)?;
    let display_window = window(image.attributes.display_window)?;
    let parts = image.layer_data.into_iter().map(part).collect::<Result<Vec<_>, _>>()?;
    Ok(ImageFile { display_window, pixel_aspect: image.attributes.pixel_aspect, parts })
}

/// Reads and checks the headers only: nothing of the size of a picture is allocated.
///
/// # Errors
/// As [`read`].
pub fn header(bytes: &[u8], limits: &Limits) -> Result<MetaData, ExchangeError> {
    Limits::hold("its length in bytes", bytes.len() as u64, limits.file_bytes)?;
    if bytes.get(..4) != Some(&MAGIC) {
        return Err(ExchangeError::NotAnImage);
    }
    let meta = catch_unwind(|| MetaData::read_from_buffered(Cursor::new(bytes), false))
        .map_err(|_| ExchangeError::Damaged { what: "its header cannot be read".into() })?
        .map_err(explain)?;
    check(&meta, bytes.len() as u64, limits)?;
    Ok(meta)
}

fn check(meta: &MetaData, file_bytes: u64, limits: &Limits) -> Result<(), ExchangeError> {
    let (mut channels, mut decoded) = (0u64, 0u64);
    for header in &meta.headers {
        if header.deep {
            return Err(ExchangeError::Unsupported { what: "deep data" });
        }
        if header.channels.list.iter().any(|c| c.sampling.x() != 1 || c.sampling.y() != 1) {
            return Err(ExchangeError::Unsupported { what: "subsampled channels" });
        }
        let count = header.channels.list.len() as u64;
        channels = channels.saturating_add(count);
        let (width, height) = (header.layer_size.x() as u64, header.layer_size.y() as u64);
        Limits::hold("the longest side of a part", width.max(height), limits.side)?;
        let samples = width.saturating_mul(height).saturating_mul(count);
        decoded = decoded.saturating_add(samples.saturating_mul(4));
        check_display(header, limits)?;
    }
    Limits::hold("the number of channels", channels, limits.channels)?;
    Limits::hold("its decoded size in bytes", decoded, limits.decoded_bytes)?;
    if decoded / limits.expansion > file_bytes {
        return Err(ExchangeError::Damaged { what: "it promises far more pixels than it can hold".into() });
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
        return Err(ExchangeError::Damaged { what: format!("its pixel aspect is {aspect}") });
    }
    Ok(())
}

fn explain(error: ExrError) -> ExchangeError {
    match error {
        ExrError::NotSupported(what) if what.contains("deep") => {
            ExchangeError::Unsupported { what: "deep data" }
        }
        ExrError::NotSupported(_) => ExchangeError::Unsupported { what: "a rare variant of the format" },
        ExrError::Invalid(what) => ExchangeError::Damaged { what: what.into_owned() },
        ExrError::Io(e) if e.kind() == std::io::ErrorKind::UnexpectedEof => {
            ExchangeError::Damaged { what: "it breaks off before its end".into() }
        }
        ExrError::Io(e) => ExchangeError::Damaged { what: e.to_string() },
        ExrError::Aborted => ExchangeError::Damaged { what: "reading was stopped".into() },
    }
}

fn window(bounds: IntegerBounds) -> Result<Window, ExchangeError> {
    let (x, y) = (bounds.position.x(), bounds.position.y());
    let (w, h) = (bounds.size.x(), bounds.size.y());
    let far = |start: i32, n: usize| i64::from(start).unsigned_abs().saturating_add(n as u64) > 1 << 24;
    if w == 0 || h == 0 || far(x, w) || far(y, h) {
        return Err(ExchangeError::Damaged { what: "a window lies outside anything sensible".into() });
    }
    Ok(Window::new(x, y, w as u32, h as u32))
}

fn text(t: &Text) -> String {
    // The crate's `Display` reads bytes as Latin-1; files in use hold UTF-8.
    String::from_utf8_lossy(t.as_slice()).into_owned()
}

fn part(layer: Layer<AnyChannels<FlatSamples>>) -> Result<Part, ExchangeError> {
    let a = &layer.attributes;
    let position = a.layer_position;
    let data_window = window(IntegerBounds { position, size: layer.size })?;
    let channels = layer
        .channel_data
        .list
        .into_vec()
        .into_par_iter()
        .map(|c| {
            let name = text(&c.name);
            let (kind, samples) = match c.sample_data {
                FlatSamples::F16(v) => (SampleKind::Half, v.into_iter().map(half::f16::to_f32).collect()),
                FlatSamples::F32(v) => (SampleKind::Float, v),
                FlatSamples::U32(v) => (SampleKind::Uint, v.into_iter().map(|v| v as f32).collect()),
            };
            Channel { name, kind, samples: Arc::new(samples) }
        })
        .collect();
    Ok(Part {
        name: a.layer_name.as_ref().map(text),
        data_window,
        compression: layer.encoding.compression.to_string(),
        channels,
        camera: camera(a),
        attributes: attributes(a),
    })
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

/// Longest attribute text that is kept for display.
const ATTRIBUTE_TEXT: usize = 200;

fn attributes(a: &LayerAttributes) -> Vec<Attribute> {
    let mut list: Vec<Attribute> = a
        .other
        .iter()
        .map(|(name, value)| (text(name), plain(value)))
        .chain(a.software_name.as_ref().map(|t| ("software".into(), text(t))))
        .chain(a.comments.as_ref().map(|t| ("comments".into(), text(t))))
        .chain(a.owner.as_ref().map(|t| ("owner".into(), text(t))))
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
        AttributeValue::Bytes { bytes, .. } => format!("{} bytes", bytes.len()),
        other => format!("{other:?}"),
    }
}
