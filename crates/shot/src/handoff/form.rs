//! As what something is written: the kind of file, how it is packed, and what lies beside the result.

use crate::error::ShotError;
use jugata_exchange::exr_write::{Depth, Packing};
use serde::{Deserialize, Serialize};
use std::path::Path;
use ts_rs::TS;

/// What kind of file to write.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Format {
    /// OpenEXR with 32-bit float samples.
    #[default]
    ExrFloat,
    /// OpenEXR with 16-bit float samples.
    ExrHalf,
    /// PNG of 16 bits, sRGB, straight alpha.
    Png16,
    /// PNG of 8 bits, sRGB, straight alpha.
    Png8,
    /// TIFF with 32-bit float samples, scene-linear, premultiplied.
    TiffFloat,
    /// TIFF of 16 bits, sRGB, straight alpha.
    Tiff16,
    /// JPEG of 8 bits, sRGB, over black: a proof.
    Jpeg,
}

impl Format {
    /// By the ending of a file name.
    ///
    /// # Errors
    /// An ending that is not written.
    pub fn of_path(path: &Path) -> Result<Self, ShotError> {
        match path.extension().and_then(|e| e.to_str()).map(str::to_ascii_lowercase).as_deref() {
            Some("exr") => Ok(Self::ExrFloat),
            Some("png") => Ok(Self::Png16),
            Some("tif" | "tiff") => Ok(Self::TiffFloat),
            Some("jpg" | "jpeg") => Ok(Self::Jpeg),
            _ => Err(ShotError::Parameter {
                place: path.display().to_string(),
                what: "its name must end in .exr, .png, .tif or .jpg".into(),
            }),
        }
    }

    /// The format of the same files with so many bits; none if there is none.
    pub fn of_bits(self, bits: u32) -> Option<Self> {
        Some(match (self.ending(), bits) {
            ("exr", 16) => Self::ExrHalf,
            ("exr", 32) => Self::ExrFloat,
            ("png", 8) => Self::Png8,
            ("png", 16) => Self::Png16,
            ("tif", 16) => Self::Tiff16,
            ("tif", 32) => Self::TiffFloat,
            ("jpg", 8) => Self::Jpeg,
            _ => return None,
        })
    }

    /// Ending of a file of this format.
    pub fn ending(self) -> &'static str {
        match self {
            Self::ExrFloat | Self::ExrHalf => "exr",
            Self::Png16 | Self::Png8 => "png",
            Self::TiffFloat | Self::Tiff16 => "tif",
            Self::Jpeg => "jpg",
        }
    }

    /// Its media type, as of an address of the web.
    pub fn media_type(self) -> (&'static str, &'static str) {
        match self {
            Self::ExrFloat | Self::ExrHalf => ("image", "x-exr"),
            Self::Png16 | Self::Png8 => ("image", "png"),
            Self::TiffFloat | Self::Tiff16 => ("image", "tiff"),
            Self::Jpeg => ("image", "jpeg"),
        }
    }

    /// Samples of an OpenEXR file of this format.
    pub(super) fn depth(self) -> Option<Depth> {
        match self {
            Self::ExrFloat => Some(Depth::Float),
            Self::ExrHalf => Some(Depth::Half),
            _ => None,
        }
    }
}

/// Layers that may go along.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum With {
    /// Each element before its steps.
    Untouched,
    /// Each pass of each element, stored or extracted, in canonical form and as it was rendered.
    Passes,
    /// Each named matte.
    Mattes,
    /// What each lamp, and each other step that brings light, gives to the result, and the rest: all of them add up to it.
    Lights,
}

/// As what something is written.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct FileForm {
    /// The kind of file.
    pub format: Format,
    /// How an OpenEXR file is packed.
    #[serde(default)]
    pub packing: Packing,
    /// What goes into an OpenEXR file of the result beside it, each as layers of its own.
    #[serde(default)]
    pub with: Vec<With>,
}

impl From<Format> for FileForm {
    fn from(format: Format) -> Self {
        Self { format, ..Self::default() }
    }
}
