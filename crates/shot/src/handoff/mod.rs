//! Results as files.
//!
//! | module | subject |
//! |---|---|
//! | [`layers`] | what goes into a file beside the result |
//! | [`wish`] | a range of frames, and the names of their files |

pub mod layers;
pub mod wish;

pub use jugata_exchange::exr_write::Packing;
pub use layers::With;
pub use wish::{FRAMES, Wish, numbered};

use crate::document::Shot;
use crate::engine::{Engine, Evaluated, Request};
use crate::error::ShotError;
use crate::still::Still;
use jugata_core::{Camera, Raster, Role};
use jugata_exchange::ExchangeError;
use jugata_exchange::coded::{self, Bits, Coded};
use jugata_exchange::exr_write::{self, About, CameraOut, Depth, NamedLayer};
use jugata_exchange::{jpeg_write, png_write, tiff_write};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::path::Path;
use std::sync::OnceLock;
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
    fn depth(self) -> Option<Depth> {
        match self {
            Self::ExrFloat => Some(Depth::Float),
            Self::ExrHalf => Some(Depth::Half),
            _ => None,
        }
    }
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

/// Hash of all that decides the bytes that [`encode`] gives, the program itself with it: another build may give others.
///
/// # Errors
/// As [`Engine::covers`] and [`Engine::content`].
pub fn content(
    engine: &Engine,
    shot: &Shot,
    request: &Request,
    form: &FileForm,
) -> Result<String, ShotError> {
    let pixels = engine.content(shot, &whole(engine, shot, request, form.format)?)?.to_hex();
    let still = match form.with.is_empty() {
        true => String::new(),
        // Layers show parts of the shot that the result alone may not depend on.
        false => serde_json::to_string(&*Still::of(shot, request.frame)?)
            .map_err(|e| ShotError::Parameter { place: "The shot".into(), what: e.to_string() })?,
    };
    let camera = camera(shot).map(|c| format!("{c:?}")).unwrap_or_default();
    let about = format!("{form:?} {:?} {} {}", shot.display, shot.rate, request.frame);
    let mut hasher = blake3::Hasher::new();
    for part in [build(), &pixels, &still, &camera, &about] {
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
/// In files of whole numbers a depth is grey, near white; normals are coded as colours, other data is clipped to 0..1. A picture
/// gets R, G, B, A; a pass the channel names of its role; a limit one A channel.
///
/// # Errors
/// As [`Engine::evaluate`]; something that the format cannot hold.
pub fn encode(
    engine: &Engine,
    shot: &Shot,
    request: &Request,
    form: &FileForm,
) -> Result<Vec<u8>, ShotError> {
    let request = &whole(engine, shot, request, form.format)?;
    let made = engine.evaluate(shot, request)?;
    let beside = layers::beside(engine, shot, request, &made.raster, form)?;
    encode_made(&made, &beside, shot, request, form)
}

/// The request for all that a format can hold: a whole picture as OpenEXR has its overscan in the data window.
///
/// # Errors
/// As [`Engine::covers`].
pub fn whole(engine: &Engine, shot: &Shot, request: &Request, format: Format) -> Result<Request, ShotError> {
    let frame = request.scale.window(shot.display);
    if format.depth().is_none() || request.window != frame {
        return Ok(request.clone());
    }
    Ok(Request { window: engine.covers(shot, request)?, ..request.clone() })
}

/// Encodes what was evaluated already, with layers beside it.
///
/// # Errors
/// Something that the format cannot hold.
pub fn encode_made(
    made: &Evaluated,
    beside: &[layers::Beside],
    shot: &Shot,
    request: &Request,
    form: &FileForm,
) -> Result<Vec<u8>, ShotError> {
    let bytes = match form.format {
        Format::ExrFloat => exr(made, beside, shot, request, (form, Depth::Float)),
        Format::ExrHalf => exr(made, beside, shot, request, (form, Depth::Half)),
        Format::Png16 => png_write::of(&codes(made, Bits::Sixteen)?, Bits::Sixteen),
        Format::Png8 => png_write::of(&codes(made, Bits::Eight)?, Bits::Eight),
        Format::Tiff16 => tiff_write::sixteen(&codes(made, Bits::Sixteen)?),
        Format::TiffFloat => tiff_write::float(&made.raster),
        Format::Jpeg if made.raster.channels() == 4 => jpeg_write::write(&coded::over_black(&made.raster)?),
        Format::Jpeg => jpeg_write::write(&codes(made, Bits::Eight)?),
    }?;
    Ok(bytes)
}

/// What was evaluated as codes of so many bits.
fn codes(made: &Evaluated, bits: Bits) -> Result<Coded, ExchangeError> {
    match made.role {
        Role::Depth => coded::depth(&made.raster, bits),
        Role::Normal => coded::data(&made.raster, true),
        _ if made.raster.channels() < 4 => coded::data(&made.raster, false),
        _ => coded::picture(&made.raster),
    }
}

fn exr(
    made: &Evaluated,
    beside: &[layers::Beside],
    shot: &Shot,
    request: &Request,
    (form, depth): (&FileForm, Depth),
) -> Result<Vec<u8>, ExchangeError> {
    let own = [("", made.role, &*made.raster)];
    let all: Vec<(&str, Cow<'_, Raster>, Vec<String>)> = own
        .into_iter()
        .chain(beside.iter().map(|b| (b.name.as_str(), b.role, &*b.raster)))
        .map(|(name, role, raster)| {
            let raster = match role {
                Role::StMap if raster.channels() == 2 => with_third(raster),
                _ => Cow::Borrowed(raster),
            };
            let names = channel_names(role, raster.channels());
            (name, raster, names)
        })
        .collect();
    let names: Vec<Vec<&str>> =
        all.iter().map(|(.., names)| names.iter().map(String::as_str).collect()).collect();
    let layers: Vec<NamedLayer<'_>> = all
        .iter()
        .zip(&names)
        .map(|((name, raster, _), channels)| NamedLayer { name, channels, raster, depth })
        .collect();
    let about = About {
        camera: camera(shot),
        frame: shot.frames.map(|_| (request.frame, shot.rate)),
        packing: form.packing,
        ..About::default()
    };
    exr_write::write_with(&layers, request.scale.window(shot.display), &about)
}

/// Width of the sensor that a focal length in px is told by, mm: common practice, no source. Readers need only the ratio.
const SENSOR: f32 = 36.0;

/// The camera of a shot with one render that nothing has moved.
fn camera(shot: &Shot) -> Option<CameraOut> {
    let mut with = shot.elements.iter().filter(|e| e.camera.is_some());
    let (Some(element), None) = (with.next(), with.next()) else { return None };
    let camera = element.camera?;
    let moved = element.steps.iter().any(|s| s.on && s.does.kind().is_move()) || element.placement.is_some();
    let middle = Camera::centred(camera.focal, shot.display);
    let centred = (camera.centre_x - middle.centre_x).abs().max((camera.centre_y - middle.centre_y).abs());
    if moved || centred > 0.5 {
        return None;
    }
    let (width, height) = (shot.display.width as f32, shot.display.height as f32);
    Some(CameraOut {
        // OpenEXR multiplies row vectors.
        world_to_camera: camera.world.map(|m| {
            std::array::from_fn(|i| match (i % 4, i / 4) {
                (3, 3) => 1.0,
                (3, _) => 0.0,
                (row, column) => m[4 * row + column],
            })
        }),
        focal: camera.focal / width * SENSOR,
        sensor: [SENSOR, SENSOR * height / width],
    })
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
