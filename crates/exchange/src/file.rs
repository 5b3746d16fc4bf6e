//! An image file in memory.

use jugata_core::{Raster, Window};
use std::sync::Arc;

/// How a channel is stored.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum SampleKind {
    /// 16-bit float.
    Half,
    /// 32-bit float.
    Float,
    /// 32-bit whole number.
    Uint,
}

/// One channel of a part.
#[derive(Clone, Debug)]
pub struct Channel {
    /// Full name as in the file.
    pub name: String,
    /// How it is stored.
    pub kind: SampleKind,
    /// Samples over the part's data window.
    pub samples: Arc<Vec<f32>>,
}

/// A header attribute that is kept, as text for people.
#[derive(Clone, Debug, PartialEq, serde::Serialize)]
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
    /// Channels, in the order of the file (sorted by name).
    pub channels: Vec<Channel>,
    /// Camera figures of the header.
    pub camera: CameraHeader,
    /// Other attributes, sorted by name.
    pub attributes: Vec<Attribute>,
}

/// A file with all its samples.
#[derive(Clone, Debug)]
pub struct ImageFile {
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
        self.parts.iter().flat_map(|p| &p.channels).map(|c| c.samples.len() * 4).sum()
    }
}

impl Part {
    /// A channel by name.
    pub fn channel(&self, name: &str) -> Option<&Channel> {
        self.channels.iter().find(|c| c.name == name)
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
            data.extend_from_slice(&channel.samples);
        }
        Raster::from_planar(self.data_window, names.len(), data)
            .map_err(|_| names.first().map_or("", String::as_str))
    }
}
