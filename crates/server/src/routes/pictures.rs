//! Pictures of shots, and what lies under the crosshair.

use super::shots::{Body, body};
use super::{Shared, revision};
use crate::Rooms;
use crate::desk::{compute, work};
use crate::error::Failure;
use crate::wire::{Compare, Figures, Look, Other, PlaceLamp, Placed, Preview, Probe};
use jugata_core::view::{Graded, Screen, View};
use jugata_core::{Cancel, Raster, Role, Scale, Window, compare, view};
use jugata_exchange::png_write;
use jugata_shot::engine::{Engine, Request as Wanted, Target};
use jugata_shot::placing::{self, WhichLamp};
use jugata_shot::rocking::rock;
use jugata_shot::{Shot, ShotError, check, intake};
use rocket::http::{ContentType, Header, Status};
use rocket::request::{FromRequest, Outcome, Request};
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{Responder, get, post};
use std::convert::Infallible;
use std::sync::Arc;

/// Pixels of one picture for a screen: an 8K frame and some.
const MOST_PIXELS: u64 = 40_000_000;

/// Width at which the range of a depth is looked for, px.
const RANGED: u32 = 512;

/// How far from the frame's corner a window may lie, px.
const FARTHEST: u32 = 1 << 24;

/// The ETag that the browser has already.
pub struct Known(Option<String>);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Known {
    type Error = Infallible;

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, Infallible> {
        Outcome::Success(Self(request.headers().get_one("If-None-Match").map(str::to_owned)))
    }
}

/// An empty answer with status 304. (Rocket takes a bare `Status` of the 300s for a mistake.)
type NotModified = (Status, ());

/// A PNG with the hash of everything that made it, or word that the browser has it.
#[derive(Responder)]
pub struct Picture {
    /// The file, or nothing with status 304.
    file: Result<(ContentType, Vec<u8>), NotModified>,
    etag: Header<'static>,
    cache: Header<'static>,
}

impl Picture {
    fn new(file: Result<(ContentType, Vec<u8>), NotModified>, tag: String) -> Self {
        let cache = Header::new("Cache-Control", "private, no-cache");
        Self { file, etag: Header::new("ETag", tag), cache }
    }
}

/// A picture of a saved revision; `look` is JSON.
#[get("/api/shots/<id>/revisions/<number>/picture?<look>")]
pub async fn saved(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    look: &str,
    known: Known,
) -> Result<Picture, Failure> {
    let look: Look = serde_json::from_str(look).map_err(|e| {
        Failure::new(Status::UnprocessableEntity, format!("The request could not be understood: {e}."))
    })?;
    picture(rooms, revision(rooms, id, number).await?, look, known).await
}

/// A picture of a document that is not saved.
#[post("/api/preview", data = "<preview>")]
pub async fn preview(rooms: &Shared, preview: Body<'_, Preview>, known: Known) -> Result<Picture, Failure> {
    let Preview { shot, look } = body(preview)?;
    check::check(&shot)?;
    picture(rooms, Arc::new(shot), look, known).await
}

/// Some panes have left, or want nothing for now: what they wait for stops.
#[post("/api/viewers/leave", data = "<viewers>")]
pub fn leave(rooms: &Shared, viewers: Body<'_, Vec<String>>) -> Result<Status, Failure> {
    rooms.viewers.leave(body(viewers)?.iter().map(String::as_str));
    Ok(Status::NoContent)
}

async fn picture(rooms: &Arc<Rooms>, shot: Arc<Shot>, look: Look, known: Known) -> Result<Picture, Failure> {
    let mut wanted = Wanted::frame(&shot, look.target, look.scale);
    wanted.frame = look.frame.unwrap_or(wanted.frame);
    wanted.window = bounded(look.window.unwrap_or(wanted.window))?;
    check_view(&look)?;
    wanted.cancel = rooms.viewers.newest(look.viewer.as_deref())?;
    let cancel = wanted.cancel.clone();
    let asked = Arc::new(Asked { shot, look, wanted });
    let hashed = asked.clone();
    let tag = work(rooms, move |r| hashed.tag(r)).await?;
    if known.0.as_deref() == Some(&tag) {
        return Ok(Picture::new(Err((Status::NotModified, ())), tag));
    }
    let make = || {
        let asked = asked.clone();
        compute(rooms, &cancel, move |r| asked.png(r))
    };
    let png = rooms.desk.finished(&tag, &cancel, make).await?;
    Ok(Picture::new(Ok((ContentType::PNG, png.to_vec())), tag))
}

/// A picture that is asked for.
struct Asked {
    shot: Arc<Shot>,
    look: Look,
    wanted: Wanted,
}

impl Asked {
    /// The hash of everything that decides its bytes.
    fn tag(&self, rooms: &Rooms) -> Result<String, Failure> {
        let Self { shot, look, wanted } = self;
        let content =
            |target| rooms.engine.content(shot, &Wanted { target, ..wanted.clone() }).map(|c| c.to_hex());
        let own = content(wanted.target)?;
        let against = look.against.as_ref().map(|a| match &a.other {
            Other::Target { target } => Ok(format!("{} {}", content(*target)?, a.gain)),
            Other::File { file } => Ok::<_, ShotError>(format!("{} {}", file.media.as_str(), a.gain)),
        });
        let tinted = look.tint.map(content).transpose()?;
        let shown = serde_json::to_string(&(
            &look.view,
            &look.grade,
            &look.mark,
            against.transpose()?,
            tinted,
            // What is seen from the side depends on the depth as well, which the picture itself may not.
            look.rock.map(|r| (r, &**shot)),
        ))
        .unwrap_or_default();
        Ok(format!("\"{}-{}\"", &own[..32], blake3_short(&shown)))
    }

    fn png(&self, rooms: &Rooms) -> Result<Vec<u8>, Failure> {
        let pixels = self.pixels(rooms)?;
        let window = self.wanted.window;
        Ok(png_write::screen(window.width, window.height, &pixels)?)
    }

    /// The range that is shown of a depth: that of all of it, whatever part is on the screen and however large.
    fn depths(&self, rooms: &Rooms) -> Result<[f32; 2], ShotError> {
        let scale = Scale::at_most(self.shot.display, RANGED);
        let window = scale.window(self.shot.display);
        let whole = rooms.engine.evaluate(&self.shot, &Wanted { window, scale, ..self.wanted.clone() })?;
        Ok(view::range_of(&whole.raster))
    }

    fn pixels(&self, rooms: &Rooms) -> Result<Vec<u8>, ShotError> {
        let Self { shot, look, wanted } = self;
        let evaluated = |target| {
            Ok::<_, ShotError>(rooms.engine.evaluate(shot, &Wanted { target, ..wanted.clone() })?.raster)
        };
        let made = match look.rock {
            Some(r) => rock(&rooms.engine, shot, wanted, r)?,
            None => rooms.engine.evaluate(shot, wanted)?,
        };
        if let Some(against) = &look.against {
            let other = other(rooms, shot, &against.other, wanted)?;
            return Ok(compare::picture(&made.raster, &other, against.gain)?);
        }
        let grade = look.grade.as_ref().map(|g| Ok::<_, ShotError>((rooms.engine.lut(&g.file)?, g.reads)));
        let grade = grade.transpose()?;
        let graded = grade.as_ref().map(|(lut, reads)| Graded { lut, reads: *reads });
        let range = match (look.view.range, made.role) {
            (None, Role::Depth) => Some(self.depths(rooms)?),
            (range, _) => range,
        };
        let screen = Screen { view: View { range, ..look.view }, full_px: look.scale.step(), graded };
        let mut pixels = view::render(&made.raster, made.role, screen, &wanted.cancel)?;
        if let Some(mark) = look.mark {
            let target = Target::Finding { element: mark.element, pass: mark.pass, finding: mark.finding };
            view::mark(&mut pixels, &*evaluated(target)?);
        }
        if let Some(tint) = look.tint {
            view::tint(&mut pixels, &*evaluated(tint)?);
        }
        Ok(pixels)
    }
}

/// The other picture of a comparison, on the same window.
fn other(rooms: &Rooms, shot: &Shot, other: &Other, wanted: &Wanted) -> Result<Arc<Raster>, ShotError> {
    match other {
        Other::Target { target } => {
            Ok(rooms.engine.evaluate(shot, &Wanted { target: *target, ..wanted.clone() })?.raster)
        }
        Other::File { file } => {
            let reference = intake::shot_of_files(std::slice::from_ref(file), rooms.engine.as_ref())?;
            if (reference.display.width, reference.display.height)
                != (shot.display.width, shot.display.height)
            {
                let (r, s) = (reference.display, shot.display);
                return Err(ShotError::Parameter {
                    place: file.name.clone(),
                    what: format!("it is {}×{} px and the shot {}×{}", r.width, r.height, s.width, s.height),
                });
            }
            let display = reference.display;
            let request =
                Wanted { target: Target::Shot, display, frame: reference.first_frame(), ..wanted.clone() };
            Ok(rooms.engine.evaluate(&reference, &request)?.raster)
        }
    }
}

/// How far a picture of a saved revision is from another.
#[post("/api/shots/<id>/revisions/<number>/compare", data = "<ask>")]
pub async fn figures(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    ask: Body<'_, Compare>,
) -> Result<Json<Figures>, Failure> {
    let ask = body(ask)?;
    let shot = revision(rooms, id, number).await?;
    compute(rooms, &Cancel::new(), move |r| {
        let mut wanted = Wanted::frame(&shot, ask.target, Scale::FULL);
        wanted.frame = ask.frame.unwrap_or(wanted.frame);
        bounded(wanted.window)?;
        let made = r.engine.evaluate(&shot, &wanted)?;
        let other = other(r, &shot, &ask.other, &wanted)?;
        let apart = compare::difference(&made.raster, &other, None).map_err(ShotError::from)?;
        Ok::<_, Failure>(Json(Figures {
            psnr: apart.psnr.is_finite().then_some(apart.psnr),
            ssim: compare::ssim(&made.raster, &other).map_err(ShotError::from)?,
            largest: apart.largest * 255.0,
        }))
    })
    .await
}

fn blake3_short(text: &str) -> String {
    jugata_shot::MediaId::of(text.as_bytes()).as_str()[..12].to_owned()
}

/// Keeps a window from asking for more pixels than any screen shows.
pub fn bounded(window: Window) -> Result<Window, Failure> {
    let far = |v: i32| v.unsigned_abs() > FARTHEST;
    if far(window.x) || far(window.y) {
        let sentence = format!("{}, {} is too far from the picture.", window.x, window.y);
        return Err(Failure::new(Status::UnprocessableEntity, sentence));
    }
    if window.is_empty() || window.area() as u64 > MOST_PIXELS {
        let sentence = format!("A picture of {}×{} px is not made.", window.width, window.height);
        return Err(Failure::new(Status::UnprocessableEntity, sentence));
    }
    Ok(window)
}

fn check_view(look: &Look) -> Result<(), Failure> {
    let gain = look.against.as_ref().map(|a| a.gain);
    if !(look.view.gamma > 0.0 && look.view.gamma <= 100.0) {
        return Err(Failure::new(Status::UnprocessableEntity, "The view has a gamma that is not possible."));
    }
    let numbers = [look.view.exposure].into_iter().chain(gain).chain(look.view.range.into_iter().flatten());
    if numbers.into_iter().all(|v| v.is_finite() && v.abs() <= 1e9) {
        Ok(())
    } else {
        Err(Failure::new(Status::UnprocessableEntity, "The view has a number that is not possible."))
    }
}

/// Numbers under the crosshair at full-resolution pixel `(x, y)`.
#[get("/api/shots/<id>/revisions/<number>/probe?<element>&<frame>&<x>&<y>")]
pub async fn probe(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    element: u32,
    frame: Option<i32>,
    x: i32,
    y: i32,
) -> Result<Json<Probe>, Failure> {
    bounded(Window::new(x, y, 1, 1))?;
    let shot = revision(rooms, id, number).await?;
    compute(rooms, &Cancel::new(), move |r| {
        let frame = frame.unwrap_or(shot.first_frame());
        let passes = r.engine.probe(&shot, element, frame, (x, y))?;
        let result = pixel(&r.engine, &shot, Target::Shot, frame, (x, y))?;
        let untouched = pixel(&r.engine, &shot, Target::Untouched { element }, frame, (x, y))?;
        Ok::<_, Failure>(Json(Probe { passes, result, untouched }))
    })
    .await
}

fn pixel(
    engine: &Engine,
    shot: &Shot,
    target: Target,
    frame: i32,
    (x, y): (i32, i32),
) -> Result<Vec<f32>, ShotError> {
    let window = Window::new(x, y, 1, 1);
    let wanted = Wanted { window, frame, ..Wanted::frame(shot, target, Scale::FULL) };
    Ok(engine.evaluate(shot, &wanted)?.raster.data().to_vec())
}

/// Places a lamp by a click.
#[post("/api/place", data = "<ask>")]
pub async fn place(rooms: &Shared, ask: Body<'_, PlaceLamp>) -> Result<Json<Placed>, Failure> {
    let ask = body(ask)?;
    check::check(&ask.shot)?;
    compute(rooms, &Cancel::new(), move |r| {
        let which = WhichLamp { element: ask.element, step: ask.step, lamp: ask.lamp };
        let frame = ask.frame.unwrap_or(ask.shot.first_frame());
        let lamp = placing::place(&r.engine, &ask.shot, which, frame, (ask.x, ask.y), ask.how)?;
        Ok::<_, ShotError>(Json(Placed { lamp }))
    })
    .await
}
