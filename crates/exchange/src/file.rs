//! An image file in memory.

use crate::samples::Samples;
use jugata_core::colour::ColourSpace;
use jugata_core::colour::primaries::Primaries;
use jugata_core::passes::convention::AlphaState;
pub use jugata_core::passes::stored::SampleKind;
use jugata_core::{Raster, Window};
use std::sync::Arc;

/// One channel of a part.
#[derive(Clone, Debug)]
pub struct Channel {
    /// Full name as in the file.
    pub name: String,
    /// How it is stored.
    pub kind: SampleKind,
    /// Samples over the part's data window.
    pub samples: Arc<Samples>,
}

/// A header attribute that is kept, as text for people.
#[derive(Clone, Debug, PartialEq, serde::Serialize, schemars::JsonSchema)]
pub struct Attribute {
    /// Name as in the file.
    pub name: String,
    /// Value in words.
    pub value: String,
}

/// What the header says of the camera, as stored.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct CameraHeader {
    /// Rows of worldToCamera, as stored (row vectors).
    pub world_to_camera: Option<[f32; 16]>,
    /// Width of the window that the screen cuts from the plane at distance 1.
    pub screen_window_width: f32,
    /// Centre of that window.
    pub screen_window_centre: [f32; 2],
    /// nominalFocalLength, mm.
    pub focal: Option<f32>,
    /// sensorOverallDimensions, mm.
    pub sensor: Option<[f32; 2]>,
}

/// A part of a file: channels that share a data window.
#[derive(Clone, Debug)]
pub struct Part {
    /// Name, if the part has one.
    pub name: Option<String>,
    /// Where its samples are.
    pub data_window: Window,
    /// Compression in words.
    pub compression: String,
    /// What the compression loses, if it loses anything.
    pub lossy: Option<&'static str>,
    /// Rows that the file should hold and does not; their samples are NaN.
    pub missing: Vec<MissingRows>,
    /// Channels, in the order of the file (sorted by name).
    pub channels: Vec<Channel>,
    /// Camera figures of the header.
    pub camera: CameraHeader,
    /// Other attributes, sorted by name.
    pub attributes: Vec<Attribute>,
}

/// Rows of the data window without all their samples: an unfinished or damaged file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize, schemars::JsonSchema)]
pub struct MissingRows {
    /// First such row.
    pub first: i32,
    /// Last such row.
    pub last: i32,
}

/// The format of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize, schemars::JsonSchema)]
pub enum FileFormat {
    /// OpenEXR.
    #[serde(rename = "OpenEXR")]
    Exr,
    /// PNG.
    #[serde(rename = "PNG")]
    Png,
    /// TIFF or BigTIFF.
    #[serde(rename = "TIFF")]
    Tiff,
    /// Radiance HDR.
    #[serde(rename = "Radiance HDR")]
    Hdr,
    /// JPEG.
    #[serde(rename = "JPEG")]
    Jpeg,
}

impl FileFormat {
    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Exr => "OpenEXR",
            Self::Png => "PNG",
            Self::Tiff => "TIFF",
            Self::Hdr => "Radiance HDR",
            Self::Jpeg => "JPEG",
        }
    }
}

/// A file with all its samples.
#[derive(Clone, Debug)]
pub struct ImageFile {
    /// Its format.
    pub format: FileFormat,
    /// How its colour is encoded, as far as format and header say.
    pub colour: ColourSpace,
    /// Primaries that its header names, where they are not those of `colour`.
    pub primaries: Option<Primaries>,
    /// The power that decodes its colour, where its header gives one in the place of the curve of `colour`.
    pub gamma: Option<f32>,
    /// Whether its colour is multiplied by alpha, as far as format and header say.
    pub alpha: AlphaState,
    /// What was noted while reading: things not read, or read in a way that is worth knowing.
    pub notes: Vec<String>,
    /// The frame.
    pub display_window: Window,
    /// Width ÷ height of a pixel.
    pub pixel_aspect: f32,
    /// Parts.
    pub parts: Vec<Part>,
}

impl ImageFile {
    /// Size of the samples in memory, bytes.
    pub fn bytes(&self) -> usize {
        self.parts.iter().flat_map(|p| &p.channels).map(|c| c.samples.bytes()).sum()
    }
}

/// Channel names of a picture with one to four interleaved samples a pixel, sorted as OpenEXR sorts.
pub(crate) const fn names(count: usize) -> &'static [&'static str] {
    match count {
        1 => &["Y"],
        2 => &["Y", "A"],
        3 => &["R", "G", "B"],
        _ => &["R", "G", "B", "A"],
    }
}

/// A file of one nameless part from interleaved samples.
pub(crate) fn from_interleaved(
    format: FileFormat,
    size: (u32, u32),
    kind: SampleKind,
    channels: usize,
    samples: &[f32],
) -> ImageFile {
    let plane = |c: usize| samples.iter().skip(c).step_by(channels.max(1)).copied().collect();
    from_planes(format, size, kind, (0..names(channels).len()).map(plane).collect())
}

/// A file of one nameless part from one to four planes.
pub(crate) fn from_planes(
    format: FileFormat,
    size: (u32, u32),
    kind: SampleKind,
    planes: Vec<Vec<f32>>,
) -> ImageFile {
    let window = Window::of_size(size.0, size.1);
    let names = names(planes.len());
    let channels = names.iter().zip(planes).map(|(name, plane)| Part::plain(name, kind, plane)).collect();
    ImageFile {
        format,
        colour: ColourSpace::Linear,
        primaries: None,
        gamma: None,
        alpha: AlphaState::Premultiplied,
        notes: Vec::new(),
        display_window: window,
        pixel_aspect: 1.0,
        parts: vec![Part {
            name: None,
            data_window: window,
            compression: String::new(),
            lossy: None,
            missing: Vec::new(),
            channels,
            camera: CameraHeader { screen_window_width: 1.0, ..CameraHeader::default() },
            attributes: Vec::new(),
        }],
    }
}

impl Part {
    /// A channel by name.
    pub fn channel(&self, name: &str) -> Option<&Channel> {
        self.channels.iter().find(|c| c.name == name)
    }

    /// A channel read from a format without channel names of its own.
    pub(crate) fn plain(name: &str, kind: SampleKind, samples: Vec<f32>) -> Channel {
        Channel { name: name.to_owned(), kind, samples: Arc::new(samples.into()) }
    }

    /// Several channels as one raster, in the order of `names`; the first missing name as an error.
    ///
    /// # Errors
    /// The name of a channel that the part does not have.
    pub fn raster<'n>(&self, names: &'n [String]) -> Result<Raster, &'n str> {
        let area = self.data_window.area();
        let mut data = Vec::with_capacity(area * names.len());
        for name in names {
            let channel = self.channel(name).ok_or(name.as_str())?;
            if channel.samples.len() != area {
                return Err(name);
            }
            channel.samples.append_to(&mut data);
        }
        Raster::from_planar(self.data_window, names.len(), data)
            .map_err(|_| names.first().map_or("", String::as_str))
    }
}
