//! Results as files.

use crate::document::{FrameRange, Shot};
use crate::engine::{Engine, Evaluated, Request, Target};
use crate::error::ShotError;
use jugata_core::{Raster, Role, Scale};
use jugata_exchange::ExchangeError;
use jugata_exchange::exr_write::{self, Depth, NamedLayer};
use jugata_exchange::png_write;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::path::Path;
use std::sync::OnceLock;
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

/// Most frames that are asked for at once.
pub const FRAMES: u32 = 100_000;

/// Letters of a file's name, before its ending.
const NAME: usize = 120;

/// What is written of each frame of a range.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Wish {
    /// What to write.
    pub target: Target,
    /// As what.
    pub format: Format,
    /// Name of the files without their ending; its # stand for the digits of the frame's number.
    pub name: String,
}

impl Wish {
    /// Whether a range of frames can be written so.
    ///
    /// # Errors
    /// A range that is empty or too long; a name that cannot be a file's.
    pub fn check(&self, range: FrameRange) -> Result<(), ShotError> {
        let wrong = |place: &str, what: String| Err(ShotError::Parameter { place: place.into(), what });
        let count = i64::from(range.last) - i64::from(range.first) + 1;
        if count < 1 || count > i64::from(FRAMES) {
            return wrong("The range", format!("it must be 1 to {FRAMES} frames long"));
        }
        let sound = |c: char| !c.is_control() && !"/\\:*?\"<>|".contains(c);
        if self.name.chars().count() > NAME || !self.name.chars().all(sound) || self.name.starts_with('.') {
            return wrong("The name", format!("“{}” cannot be the name of a file", self.name));
        }
        numbered(&self.name, range.first).map(|_| ())
    }

    /// Name of the file of a frame.
    ///
    /// # Errors
    /// A name without a place for the number.
    pub fn file_name(&self, frame: i32) -> Result<String, ShotError> {
        Ok(format!("{}.{}", numbered(&self.name, frame)?, self.format.ending()))
    }

    /// What is wanted of a frame.
    pub fn request(&self, shot: &Shot, frame: i32) -> Request {
        Request { frame, ..Request::frame(shot, self.target, Scale::FULL) }
    }
}

/// A name with the number of a frame in the place of its #, with at least as many digits.
///
/// # Errors
/// A name without #.
pub fn numbered(name: &str, frame: i32) -> Result<String, ShotError> {
    let (Some(first), Some(last)) = (name.find('#'), name.rfind('#')) else {
        return Err(ShotError::Parameter {
            place: format!("“{name}”"),
            what: "it has no # where the number of a frame goes; give shot.####".into(),
        });
    };
    let sign = if frame < 0 { "-" } else { "" };
    let digits = last + 1 - first;
    let number = format!("{sign}{:0digits$}", frame.unsigned_abs());
    Ok(format!("{}{number}{}", &name[..first], &name[last + 1..]))
}

/// Hash of all that decides the bytes that [`encode`] gives, the program itself with it: another build may give others.
///
/// # Errors
/// As [`Engine::covers`] and [`Engine::content`].
pub fn content(engine: &Engine, shot: &Shot, request: &Request, format: Format) -> Result<String, ShotError> {
    let pixels = engine.content(shot, &whole(engine, shot, request, format)?)?;
    let mut hasher = blake3::Hasher::new();
    for part in [build(), &pixels.to_hex(), &format!("{format:?} {:?}", shot.display)] {
        hasher.update(part.as_bytes()).update(&[0]);
    }
    Ok(hasher.finalize().to_hex().to_string())
}

/// Hash of the program that runs; its version where it cannot be read.
fn build() -> &'static str {
    static BUILD: OnceLock<String> = OnceLock::new();
    BUILD.get_or_init(|| {
        let mut hasher = blake3::Hasher::new();
        let program = std::env::current_exe().and_then(std::fs::File::open);
        match program.and_then(|file| hasher.update_reader(file).map(|_| ())) {
            Ok(()) => hasher.finalize().to_hex().to_string(),
            Err(_) => env!("CARGO_PKG_VERSION").into(),
        }
    })
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
