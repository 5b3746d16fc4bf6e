//! OpenEXR files out: one part, any number of layers, half or float.

use crate::error::ExchangeError;
use exr::compression::Compression;
use exr::image::{AnyChannel, AnyChannels, Blocks, Encoding, FlatSamples, Image, Layer};
use exr::math::Vec2;
use exr::meta::attribute::Chromaticities;
use exr::meta::attribute::{AttributeValue, IntegerBounds, LineOrder, Text};
use exr::meta::header::{ImageAttributes, LayerAttributes};
use exr::prelude::{SmallVec, WritableImage};
use half::f16;
use jugata_core::colour::primaries::REC709;
use jugata_core::{Raster, Window};
use serde::{Deserialize, Serialize};
use std::io::Cursor;
use ts_rs::TS;

/// Bits of a written sample.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Depth {
    /// 16-bit float: pictures.
    Half,
    /// 32-bit float: data, and pictures that go on to be worked on.
    #[default]
    Float,
}

impl Depth {
    /// A number as a file of these samples holds it.
    pub fn held(self, v: f32) -> f32 {
        match self {
            Self::Half => f16::from_f32(v).to_f32(),
            Self::Float => v,
        }
    }
}

/// Planes that are written under one name.
#[derive(Clone, Copy, Debug)]
pub struct NamedLayer<'a> {
    /// Prefix of the channels, or empty for the main layer.
    pub name: &'a str,
    /// Channel suffixes, one per plane.
    pub channels: &'a [&'a str],
    /// The planes.
    pub raster: &'a Raster,
    /// Sample type.
    pub depth: Depth,
}

/// Camera attributes of the file.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct CameraOut {
    /// worldToCamera as OpenEXR stores it: rows of a matrix for row vectors; none where its place is not known.
    pub world_to_camera: Option<[f32; 16]>,
    /// Focal length, mm.
    pub focal: f32,
    /// Sensor size, mm.
    pub sensor: [f32; 2],
}

/// A text attribute of the header.
pub type TextAttribute = (String, String);

/// How samples are packed; none of them loses anything.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Packing {
    /// Deflate, 16 lines at a time: small, and read by everybody.
    #[default]
    Zip,
    /// Deflate, line by line: quicker to read in part.
    ZipLine,
    /// Wavelets: smallest for pictures with noise.
    Piz,
    /// Runs: for flat mattes.
    Runs,
    /// Not at all.
    Plain,
}

/// What a file says of itself beside its layers.
#[derive(Clone, Debug, Default)]
pub struct About<'a> {
    /// Camera attributes.
    pub camera: Option<CameraOut>,
    /// Text attributes.
    pub texts: &'a [TextAttribute],
    /// How it is packed.
    pub packing: Packing,
    /// Whether it holds colour, of which the primaries are told (Rec.709, white D65).
    pub colour: bool,
    /// Number of the frame in its sequence, and frames a second.
    pub frame: Option<(i32, f32)>,
}

/// Encodes layers that share one data window as a ZIP-compressed scanline file (16 lines a block).
/// The same input gives the same bytes.
///
/// # Errors
/// No layer, layers on different windows, an empty window, or names that collide.
pub fn write(
    layers: &[NamedLayer<'_>],
    display: Window,
    camera: Option<CameraOut>,
) -> Result<Vec<u8>, ExchangeError> {
    write_with(layers, display, &About { camera, ..About::default() })
}

/// As [`write`], with all that a file may say of itself.
///
/// # Errors
/// As [`write`].
pub fn write_with(
    layers: &[NamedLayer<'_>],
    display: Window,
    about: &About<'_>,
) -> Result<Vec<u8>, ExchangeError> {
    let refuse = |what: &str| ExchangeError::Unwritable { what: what.into() };
    let data = layers.first().ok_or_else(|| refuse("it has no layer"))?.raster.window();
    if layers.iter().any(|l| l.raster.window() != data || l.channels.len() != l.raster.channels()) {
        return Err(refuse("its layers do not cover the same window"));
    }
    if data.is_empty() || display.is_empty() {
        return Err(refuse("it has no pixel"));
    }
    let mut list = SmallVec::new();
    for layer in layers {
        for (c, suffix) in layer.channels.iter().enumerate() {
            let name =
                if layer.name.is_empty() { (*suffix).to_owned() } else { format!("{}.{suffix}", layer.name) };
            list.push(AnyChannel::new(name.as_str(), samples(layer.raster.plane(c), layer.depth)));
        }
    }
    let channels = AnyChannels::sort(list);
    let names: Vec<&[u8]> = channels.list.iter().map(|c| c.name.as_slice()).collect();
    if names.windows(2).any(|pair| pair[0] == pair[1]) {
        return Err(refuse("two of its channels have the same name"));
    }
    let size = Vec2(data.width as usize, data.height as usize);
    let encoding = Encoding {
        compression: match about.packing {
            Packing::Zip => Compression::ZIP16,
            Packing::ZipLine => Compression::ZIP1,
            Packing::Piz => Compression::PIZ,
            Packing::Runs => Compression::RLE,
            Packing::Plain => Compression::Uncompressed,
        },
        blocks: Blocks::ScanLines,
        line_order: LineOrder::Increasing,
    };
    let mut attributes = layer_attributes(data, about);
    for (name, value) in about.texts {
        attributes.other.insert(Text::from(name.as_str()), AttributeValue::Text(Text::from(value.as_str())));
    }
    let layer = Layer::new(size, attributes, encoding, channels);
    let mut shared = ImageAttributes::new(IntegerBounds {
        position: Vec2(display.x, display.y),
        size: Vec2(display.width as usize, display.height as usize),
    });
    if about.colour {
        let [rx, ry, gx, gy, bx, by, wx, wy] = REC709.0;
        shared.chromaticities = Some(Chromaticities {
            red: Vec2(rx, ry),
            green: Vec2(gx, gy),
            blue: Vec2(bx, by),
            white: Vec2(wx, wy),
        });
    }
    if let Some(c) = about.camera {
        let dimensions = AttributeValue::FloatVec2(Vec2(c.sensor[0], c.sensor[1]));
        shared.other.insert(Text::from("sensorOverallDimensions"), dimensions);
    }
    let image = Image::new(shared, layer);
    let mut out = Cursor::new(Vec::new());
    image.write().to_buffered(&mut out).map_err(|e| ExchangeError::Unwritable { what: e.to_string() })?;
    let mut bytes = out.into_inner();
    sort_header(&mut bytes);
    Ok(bytes)
}

/// Puts the attributes of a single part in the order of their names. The crate keeps them in a hash map and
/// writes them in another order on every run; the header's length, and so every offset, stays.
fn sort_header(bytes: &mut [u8]) {
    // Magic number and version are eight bytes; an attribute is a name, a type, a size and so many bytes; a zero
    // byte ends the list (OpenEXR File Layout, "Header").
    let mut at = 8;
    let mut list: Vec<&[u8]> = Vec::new();
    while bytes.get(at).is_some_and(|b| *b != 0) {
        let text = |from: usize| bytes[from..].iter().position(|b| *b == 0).map(|n| from + n + 1);
        let size = text(at).and_then(text).and_then(|s| Some((s, bytes.get(s..s + 4)?.try_into().ok()?)));
        let Some((start, size)) = size else { return };
        let end = start + 4 + u32::from_le_bytes(size) as usize;
        let Some(attribute) = bytes.get(at..end) else { return };
        list.push(attribute);
        at = end;
    }
    list.sort_unstable();
    let sorted = list.concat();
    bytes[8..at].copy_from_slice(&sorted);
}

fn layer_attributes(data: Window, about: &About<'_>) -> LayerAttributes {
    let mut a = LayerAttributes {
        layer_position: Vec2(data.x, data.y),
        software_name: Some(Text::from("Jugata")),
        ..LayerAttributes::default()
    };
    if let Some((frame, rate)) = about.frame {
        // Standard attributes of OpenEXR.
        a.other.insert(Text::from("imageCounter"), AttributeValue::I32(frame));
        a.frames_per_second = Some(((rate * 1000.0).round() as i32, 1000));
    }
    if let Some(c) = about.camera {
        a.world_to_camera = c.world_to_camera;
        a.screen_window_width = c.sensor[0] / c.focal;
        a.other.insert(Text::from("nominalFocalLength"), AttributeValue::F32(c.focal));
    }
    a
}

fn samples(plane: &[f32], depth: Depth) -> FlatSamples {
    match depth {
        Depth::Half => FlatSamples::F16(plane.iter().map(|&v| f16::from_f32(v)).collect()),
        Depth::Float => FlatSamples::F32(plane.to_vec()),
    }
}
