//! Results as files.

use crate::document::Shot;
use crate::engine::{Engine, Evaluated, Request};
use crate::error::ShotError;
use jugata_core::{Raster, Role};
use jugata_exchange::ExchangeError;
use jugata_exchange::exr_write::{self, Depth, NamedLayer};
use jugata_exchange::png_write;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::path::Path;
use ts_rs::TS;

/// What to write.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Format {
    /// OpenEXR with 32-bit float samples.
    ExrFloat,
    /// OpenEXR with 16-bit float samples.
    ExrHalf,
    /// PNG of 16 bits, sRGB, straight alpha.
    Png16,
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
            _ => Err(ShotError::Parameter {
                place: path.display().to_string(),
                what: "its name must end in .exr or .png".into(),
            }),
        }
    }

    /// Ending of a file of this format.
    pub fn ending(self) -> &'static str {
        match self {
            Self::ExrFloat | Self::ExrHalf => "exr",
            Self::Png16 => "png",
        }
    }
}

/// Evaluates a request and encodes the result. Both the command line and the browser's hand-off come here,
/// so they give the same pixels.
///
/// A PNG of a depth is grey, near white; one of normals is coded as colours, other data is clipped to 0..1. A picture gets R, G, B, A; a pass the channel names of its role; a limit one A channel.
///
/// # Errors
/// As [`Engine::evaluate`]; a PNG of something that is not a picture.
pub fn encode(engine: &Engine, shot: &Shot, request: &Request, format: Format) -> Result<Vec<u8>, ShotError> {
    let request = &whole(engine, shot, request, format)?;
    encode_made(&engine.evaluate(shot, request)?, shot, request, format)
}

/// The request for all that a format can hold: a whole picture as OpenEXR has its overscan in the data window.
///
/// # Errors
/// As [`Engine::covers`].
pub fn whole(engine: &Engine, shot: &Shot, request: &Request, format: Format) -> Result<Request, ShotError> {
    let frame = request.scale.window(shot.display);
    if format == Format::Png16 || request.window != frame {
        return Ok(request.clone());
    }
    Ok(Request { window: engine.covers(shot, request)?, ..request.clone() })
}

/// Encodes what was evaluated already.
///
/// # Errors
/// A PNG of something that is not a picture.
pub fn encode_made(
    made: &Evaluated,
    shot: &Shot,
    request: &Request,
    format: Format,
) -> Result<Vec<u8>, ShotError> {
    let bytes = match format {
        Format::ExrFloat => exr(&made.raster, made.role, shot, request, Depth::Float),
        Format::ExrHalf => exr(&made.raster, made.role, shot, request, Depth::Half),
        Format::Png16 if made.role == Role::Depth => png_write::depth16(&made.raster),
        Format::Png16 if made.role == Role::Normal => png_write::data16(&made.raster, true),
        Format::Png16 if made.raster.channels() < 4 => png_write::data16(&made.raster, false),
        Format::Png16 => png_write::rgba16(&made.raster),
    }?;
    Ok(bytes)
}

fn exr(
    raster: &Raster,
    role: Role,
    shot: &Shot,
    request: &Request,
    depth: Depth,
) -> Result<Vec<u8>, ExchangeError> {
    let raster = &match role {
        Role::StMap if raster.channels() == 2 => with_third(raster),
        _ => Cow::Borrowed(raster),
    };
    let names = channel_names(role, raster.channels());
    let names: Vec<&str> = names.iter().map(String::as_str).collect();
    let layer = NamedLayer { name: "", channels: &names, raster, depth };
    exr_write::write(&[layer], request.scale.window(shot.display), None)
}

/// A map with an empty third plane.
fn with_third(map: &Raster) -> Cow<'_, Raster> {
    let mut three = Raster::zeros(map.window(), 3);
    for c in 0..2 {
        three.plane_mut(c).copy_from_slice(map.plane(c));
    }
    Cow::Owned(three)
}

fn channel_names(role: Role, count: usize) -> Vec<String> {
    let known: &[&str] = match (role, count) {
        (Role::Depth, 1) => &["Z"],
        (Role::Alpha, 1) => &["A"],
        (Role::Normal | Role::Position, 3) => &["X", "Y", "Z"],
        (Role::Uv, 2) => &["U", "V"],
        // Common practice, no source: s in red, t in green, nothing in blue, so that it is read as any picture is.
        (Role::StMap, 3) => &["R", "G", "B"],
        (Role::Motion, 2) => &["X", "Y"],
        (_, 3) => &["R", "G", "B"],
        (_, 4) => &["R", "G", "B", "A"],
        (_, 1) => &["Y"],
        _ => &[],
    };
    match known {
        [] => (0..count).map(|i| format!("channel{i:03}")).collect(),
        names => names.iter().map(|n| (*n).to_owned()).collect(),
    }
}
