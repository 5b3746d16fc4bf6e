//! Pictures for a screen: what is shown of a shot, how, and as which bytes.

use crate::document::Shot;
use crate::engine::scene::Scene;
use crate::engine::{Engine, Evaluated, Hashes, Request, Target};
use crate::error::ShotError;
use crate::intake::{self, MediaFile};
use crate::rocking::{Rock, rock};
use crate::still::Still;
use crate::tracks::track::HeldTo;
use jugata_core::colour::ColourSpace;
use jugata_core::geometry::chain::Chain;
use jugata_core::geometry::field::Field;
use jugata_core::passes::checks::FindingKind;
use jugata_core::passes::moved::moved;
use jugata_core::show::compare;
use jugata_core::show::view;
use jugata_core::show::view::{Graded, Screen, View};
use jugata_core::{Cancel, Raster, Role, Scale, Window};
use jugata_exchange::png_write;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

/// Width at which the range of a depth is looked for, px.
const RANGED: u32 = 512;

/// Which picture, and how to show it.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Look {
    /// What to make a picture of.
    pub target: Target,
    /// Px at `scale`; the whole frame if not said.
    #[serde(default)]
    pub window: Option<Window>,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// Proxy scale: how often the size is halved.
    #[serde(default)]
    pub scale: Scale,
    /// How to show it.
    #[serde(default)]
    pub view: View,
    /// A colour table in the place of the view transform.
    #[serde(default)]
    #[ts(optional)]
    pub grade: Option<DisplayTable>,
    /// Show how far the picture is from another instead of the picture.
    #[serde(default)]
    #[ts(optional)]
    pub against: Option<Against>,
    /// A finding whose place is marked on the picture.
    #[serde(default)]
    #[ts(optional)]
    pub mark: Option<Mark>,
    /// A limit or matte that is laid over the picture as a tint.
    #[serde(default)]
    #[ts(optional)]
    pub tint: Option<Target>,
    /// The picture is seen from a little to the side.
    #[serde(default)]
    #[ts(optional)]
    pub rock: Option<Rock>,
    /// A plane that stands still: everything is seen as it lies on the frame of its region.
    #[serde(default)]
    #[ts(optional)]
    pub steady: Option<HeldTo>,
    /// Bytes of red, green, blue and alpha row by row in the place of a PNG: for a value that moves, since they are neither
    /// packed nor unpacked.
    #[serde(default)]
    #[ts(as = "Option<bool>", optional)]
    pub raw: bool,
    /// The pane that waits; a newer request of the same pane cancels this one.
    #[serde(default)]
    pub viewer: Option<String>,
    /// Nobody waits for it yet: it is made while there is nothing else to do, and given up for what somebody waits for.
    #[serde(default)]
    #[ts(as = "Option<bool>", optional)]
    pub ahead: bool,
}

/// A colour table that was brought in.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct DisplayTable {
    /// The file.
    pub file: MediaFile,
    /// The encoding that the table expects.
    pub reads: ColourSpace,
}

/// Another picture to compare with.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Against {
    /// What it is.
    pub other: Other,
    /// Factor on the difference.
    pub gain: f32,
}

/// What a picture is compared with.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Other {
    /// Something of the same shot.
    Target {
        /// What.
        target: Target,
    },
    /// The beauty of a file that was brought in.
    File {
        /// The file.
        file: MediaFile,
    },
}

/// A finding on a picture.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Mark {
    /// The element.
    pub element: u32,
    /// The pass.
    pub pass: u32,
    /// What was found.
    pub finding: FindingKind,
}

impl Look {
    /// A frame of something as it is shown if nobody asks for more.
    pub fn of(target: Target, frame: i32, scale: Scale) -> Self {
        Self {
            target,
            window: None,
            frame: Some(frame),
            scale,
            view: View::default(),
            grade: None,
            against: None,
            mark: None,
            tint: None,
            rock: None,
            steady: None,
            raw: false,
            viewer: None,
            ahead: false,
        }
    }

    /// What it asks of the engine; nobody has pulled its token yet.
    pub fn request(&self, shot: &Shot) -> Request {
        let mut request = Request::frame(shot, self.target, self.scale);
        request.frame = self.frame.unwrap_or(request.frame);
        request.window = self.window.unwrap_or(request.window);
        request
    }

    /// A short name for everything that decides the bytes of its picture.
    ///
    /// # Errors
    /// What the engine says of the shot.
    pub fn content(&self, engine: &Engine, shot: &Shot, request: &Request) -> Result<String, ShotError> {
        let content =
            |target| engine.content(shot, &Request { target, ..request.clone() }).map(|c| c.to_hex());
        let own = content(request.target)?;
        let against = self.against.as_ref().map(|a| match &a.other {
            Other::Target { target } => Ok(format!("{} {}", content(*target)?, a.gain)),
            Other::File { file } => Ok::<_, ShotError>(format!("{} {}", file.media.as_str(), a.gain)),
        });
        let tinted = self.tint.map(content).transpose()?;
        let shown = serde_json::to_string(&(
            &self.view,
            &self.grade,
            &self.mark,
            against.transpose()?,
            tinted,
            // What is seen from the side depends on the depth as well, which the picture itself may not.
            self.rock.map(|r| (r, shot)),
            self.raw,
            self.steady
                .map(|held| steadying(engine, shot, request, held))
                .transpose()?
                .map(|c| format!("{c:?}")),
        ))
        .unwrap_or_default();
        let shown = crate::MediaId::of(shown.as_bytes());
        Ok(format!("{}-{}", &own[..32], &shown.as_str()[..12]))
    }

    /// Its picture on the request's window, as a PNG or raw.
    ///
    /// # Errors
    /// What the engine says of the shot; another picture of another size; cancellation.
    pub fn encoded(&self, engine: &Engine, shot: &Shot, request: &Request) -> Result<Vec<u8>, ShotError> {
        let pixels = self.codes(engine, shot, request)?;
        if self.raw {
            return Ok(pixels.as_chunks::<3>().0.iter().flat_map(|&[r, g, b]| [r, g, b, 255]).collect());
        }
        Ok(png_write::screen(request.window.width, request.window.height, &pixels)?)
    }

    /// What is asked for, as it lies on the frame of a plane's region where one stands still.
    fn seen(&self, engine: &Engine, shot: &Shot, request: &Request) -> Result<Evaluated, ShotError> {
        let Some(held) = self.steady else { return engine.evaluate(shot, request) };
        let chain = steadying(engine, shot, request, held)?;
        let part = Field::of(&chain, request.window).part(engine.covers(shot, request)?);
        let made = engine.evaluate(shot, &Request { window: part, ..request.clone() })?;
        let still = moved(&made.raster, made.role, &chain, request.window, &request.cancel)?;
        Ok(Evaluated { raster: Arc::new(still), ..made })
    }

    /// Its codes on the request's window: red, green and blue row by row.
    ///
    /// # Errors
    /// As [`Self::encoded`].
    pub fn codes(&self, engine: &Engine, shot: &Shot, request: &Request) -> Result<Vec<u8>, ShotError> {
        let evaluated = |target| {
            Ok::<_, ShotError>(self.seen(engine, shot, &Request { target, ..request.clone() })?.raster)
        };
        let made = match self.rock {
            Some(r) => rock(engine, shot, request, r)?,
            None => self.seen(engine, shot, request)?,
        };
        if let Some(against) = &self.against {
            let other = match (&against.other, self.steady) {
                (Other::Target { target }, Some(_)) => evaluated(*target)?,
                (other, _) => other.on(engine, shot, request)?,
            };
            return Ok(compare::picture(&made.raster, &other, against.gain)?);
        }
        let grade = self.grade.as_ref().map(|g| Ok::<_, ShotError>((engine.lut(&g.file)?, g.reads)));
        let grade = grade.transpose()?;
        let graded = grade.as_ref().map(|(lut, reads)| Graded { lut, reads: *reads });
        let range = match (self.view.range, made.role) {
            (None, Role::Depth) => Some(depths(engine, shot, request)?),
            (range, _) => range,
        };
        let screen = Screen {
            view: View { range, ..self.view },
            full_px: self.scale.step(),
            frame: shot.display,
            graded,
        };
        let mut pixels = view::render(&made.raster, made.role, screen, &request.cancel)?;
        if let Some(mark) = self.mark {
            let target = Target::Finding { element: mark.element, pass: mark.pass, finding: mark.finding };
            view::mark(&mut pixels, &*evaluated(target)?);
        }
        if let Some(tint) = self.tint {
            view::tint(&mut pixels, &*evaluated(tint)?);
        }
        Ok(pixels)
    }
}

/// What makes a plane stand still, px of the request's scale: in the shot where its element is put, else in the element's own
/// frame.
fn steadying(engine: &Engine, shot: &Shot, request: &Request, held: HeldTo) -> Result<Chain, ShotError> {
    let still = Still::of(shot, request.frame)?;
    let hashes = Hashes::of(&still);
    Scene::new(engine, &hashes).steadied(held, request.target == Target::Shot, request.scale)
}

/// The range that is shown of a depth: that of all of it, whatever part is on the screen and however large.
fn depths(engine: &Engine, shot: &Shot, request: &Request) -> Result<[f32; 2], ShotError> {
    let scale = Scale::at_most(shot.display, RANGED);
    let window = scale.window(shot.display);
    let whole = engine.evaluate(shot, &Request { window, scale, ..request.clone() })?;
    Ok(view::range_of(&whole.raster))
}

impl Other {
    /// The other picture, on the window of a request.
    ///
    /// # Errors
    /// A file of another size or that is not at hand; what the engine says of the shot.
    pub fn on(&self, engine: &Engine, shot: &Shot, request: &Request) -> Result<Arc<Raster>, ShotError> {
        let file = match self {
            Self::Target { target } => {
                return Ok(engine.evaluate(shot, &Request { target: *target, ..request.clone() })?.raster);
            }
            Self::File { file } => file,
        };
        let reference = intake::shot_of_files(std::slice::from_ref(file), engine)?;
        let (r, s) = (reference.display, shot.display);
        if (r.width, r.height) != (s.width, s.height) {
            return Err(ShotError::Parameter {
                place: file.name.clone(),
                what: format!("it is {}×{} px and the shot {}×{}", r.width, r.height, s.width, s.height),
            });
        }
        let frame = reference.first_frame();
        let request = Request { target: Target::Shot, display: r, frame, ..request.clone() };
        Ok(engine.evaluate(&reference, &request)?.raster)
    }
}

/// Width of a small picture, px: twice that of a tile, for dense screens.
const SMALL: u32 = 320;

/// A small PNG of what is wanted, at whatever scale and window.
///
/// # Errors
/// As [`Engine::evaluate`].
pub fn small_png(engine: &Engine, shot: &Shot, wanted: &Request) -> Result<Vec<u8>, ShotError> {
    let scale = Scale::at_most(shot.display, SMALL);
    let small = Request { scale, window: scale.window(shot.display), ..wanted.clone() };
    let made = engine.evaluate(shot, &small)?;
    plain_png(&made.raster, made.role, scale, &small.cancel)
}

/// A raster as a PNG as it looks to begin with; `scale` is the one that it was made at.
///
/// # Errors
/// Cancellation.
pub fn plain_png(raster: &Raster, role: Role, scale: Scale, cancel: &Cancel) -> Result<Vec<u8>, ShotError> {
    let screen = Screen { full_px: scale.step(), ..Screen::plain(View::default()) };
    let pixels = view::render(raster, role, screen, cancel)?;
    let window = raster.window();
    Ok(png_write::screen(window.width, window.height, &pixels)?)
}
