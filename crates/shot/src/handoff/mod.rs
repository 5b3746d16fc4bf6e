//! Results as files.
//!
//! | module | subject |
//! |---|---|
//! | [`form`] | as what something is written |
//! | [`layers`] | what goes into a file beside the result |
//! | [`wish`] | a range of frames, and the names of their files |

pub mod form;
pub mod layers;
pub mod wish;

pub use form::{FileForm, Format, With};
pub use jugata_exchange::exr_write::Packing;

pub use wish::{FRAMES, Wish, numbered};

use crate::document::{Element, Shot};
use crate::engine::{Engine, Evaluated, Request, key};
use crate::error::ShotError;
use crate::still::Still;
use jugata_core::{Camera, Raster, Role};
use jugata_exchange::ExchangeError;
use jugata_exchange::coded::{self, Bits, Coded};
use jugata_exchange::exr_write::{self, About, CameraOut, Depth, NamedLayer};
use jugata_exchange::{jpeg_write, png_write, tiff_write};
use std::borrow::Cow;
use std::sync::OnceLock;

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
    let now = Still::of(shot, request.frame)?;
    let camera = render_of(&now).map(|e| format!("{:?}", key::of_camera(e))).unwrap_or_default();
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
    encode_made(engine, &made, &beside, shot, request, form)
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
    engine: &Engine,
    made: &Evaluated,
    beside: &[layers::Beside],
    shot: &Shot,
    request: &Request,
    form: &FileForm,
) -> Result<Vec<u8>, ShotError> {
    let in_exr = |depth| {
        Ok::<_, ShotError>(exr(made, beside, (shot, camera(engine, shot, request)?), request, (form, depth)))
    };
    let bytes = match form.format {
        Format::ExrFloat => in_exr(Depth::Float)?,
        Format::ExrHalf => in_exr(Depth::Half)?,
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
    (shot, camera): (&Shot, Option<CameraOut>),
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
        camera,
        frame: shot.frames.map(|_| (request.frame, shot.rate)),
        packing: form.packing,
        colour: all.iter().any(|(_, raster, _)| raster.channels() == 4) && made.role.averages(),
        ..About::default()
    };
    exr_write::write_with(&layers, request.scale.window(shot.display), &about)
}

/// Width of the sensor that a focal length in px is told by, mm: common practice, no source. Readers need only the ratio.
const SENSOR: f32 = 36.0;

/// The camera of a shot with one render that nothing has moved, as it stands on the frame.
fn camera(engine: &Engine, shot: &Shot, request: &Request) -> Result<Option<CameraOut>, ShotError> {
    let still = Still::of(shot, request.frame)?;
    let Some(element) = render_of(&still) else { return Ok(None) };
    Ok(engine.camera(element, shot.display)?.and_then(|camera| camera_out(shot, element, camera)))
}

/// The one element of a shot that has a camera.
fn render_of(shot: &Shot) -> Option<&Element> {
    let mut with = shot.elements.iter().filter(|e| e.camera.is_some());
    with.next().filter(|_| with.next().is_none())
}

fn camera_out(shot: &Shot, element: &Element, camera: Camera) -> Option<CameraOut> {
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
        (Role::Motion | Role::Other, 2) => &["X", "Y"],
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
