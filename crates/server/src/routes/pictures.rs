//! Pictures of shots, and what lies under the crosshair.

use super::shared::{Shared, drafted, drafted_as_seen, revision};
use super::shots::{Body, body};
use crate::app::App;
use crate::desk::Waits;
use crate::error::Failure;
use crate::wire::{AskNames, AskPixels, Compare, Figures, PlaceLamp, Placed, Preview, Probe};
use crate::work::{compute, work};
use jugata_core::show::compare;
use jugata_core::show::histogram::{self as tones, Histogram};
use jugata_core::{Cancel, Scale, Window};
use jugata_shot::engine::{Engine, Request as Wanted, Target};
use jugata_shot::look::Look;
use jugata_shot::placing::{self, WhichLamp};
use jugata_shot::{Shot, ShotError};
use rocket::http::{ContentType, Header, Status};
use rocket::request::{FromRequest, Outcome, Request};
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{Responder, get, post};
use std::convert::Infallible;
use std::sync::Arc;

/// Pixels of one picture for a screen: an 8K frame and some.
const MOST_PIXELS: u64 = 40_000_000;

/// Frames whose names are told at once.
const MOST_NAMES: i64 = 512;

/// Frames over which one pixel is told at once.
const MOST_PIXELS_OVER_TIME: i64 = 1000;

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

/// A picture with the hash of everything that made it, or word that the browser has it.
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

/// What pictures of some frames would be called (their ETags), without making one: equal names are equal pictures, in whatever
/// revision. Nothing for a frame of which there is no picture.
#[post("/api/shots/<id>/revisions/<number>/names", data = "<ask>")]
pub async fn names(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    ask: Body<'_, AskNames>,
) -> Result<Json<Vec<Option<String>>>, Failure> {
    let AskNames { look, from, to } = body(ask)?;
    let range = few(from, to, MOST_NAMES)?;
    let shot = revision(rooms, id, number).await?;
    let names = work(rooms, move |r| {
        let name = |frame| {
            let mut wanted = look.request(&shot);
            wanted.frame = frame;
            look.content(&r.engine, &shot, &wanted).ok().map(quoted)
        };
        Ok::<_, Failure>(range.map(name).collect())
    });
    Ok(Json(names.await?))
}

/// One pixel of a target over some frames, at full resolution: red, green, blue, alpha of each. It is given up for what
/// somebody waits for.
#[post("/api/shots/<id>/revisions/<number>/pixels", data = "<ask>")]
pub async fn over_time(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    ask: Body<'_, AskPixels>,
) -> Result<Json<Vec<Vec<f32>>>, Failure> {
    let AskPixels { target, x, y, from, to, viewer } = body(ask)?;
    bounded(Window::new(x, y, 1, 1))?;
    let range = few(from, to, MOST_PIXELS_OVER_TIME)?;
    let shot = revision(rooms, id, number).await?;
    let cancel = rooms.viewers.newest(viewer.as_deref())?;
    let stop = cancel.clone();
    let course = compute(rooms, Waits::Nobody, &cancel, move |r| {
        range.map(|frame| pixel(&r.ahead, &shot, target, frame, (x, y), &stop)).collect::<Result<Vec<_>, _>>()
    });
    Ok(Json(course.await?))
}

/// A range of not too many frames.
fn few(from: i32, to: i32, most: i64) -> Result<std::ops::RangeInclusive<i32>, Failure> {
    if i64::from(to) - i64::from(from) >= most {
        let sentence = format!("No more than {most} frames are told at once.");
        return Err(Failure::new(Status::UnprocessableEntity, sentence));
    }
    Ok(from..=to)
}

fn quoted(content: String) -> String {
    format!("\"{content}\"")
}

/// A picture of a document that is not saved.
#[post("/api/preview", data = "<preview>")]
pub async fn preview(rooms: &Shared, preview: Body<'_, Preview>, known: Known) -> Result<Picture, Failure> {
    let Preview { shot, look } = body(preview)?;
    picture(rooms, drafted(rooms, shot).await?, look, known).await
}

/// Some panes have left, or want nothing for now: what they wait for stops.
#[post("/api/viewers/leave", data = "<viewers>")]
pub fn leave(rooms: &Shared, viewers: Body<'_, Vec<String>>) -> Result<Status, Failure> {
    rooms.viewers.leave(body(viewers)?.iter().map(String::as_str));
    Ok(Status::NoContent)
}

async fn picture(rooms: &Arc<App>, shot: Arc<Shot>, look: Look, known: Known) -> Result<Picture, Failure> {
    let mut wanted = look.request(&shot);
    let kind = if look.raw { ContentType::Binary } else { ContentType::PNG };
    bounded(wanted.window)?;
    check_view(&look)?;
    wanted.cancel = rooms.viewers.newest(look.viewer.as_deref())?;
    let cancel = wanted.cancel.clone();
    let asked = Arc::new((shot, look, wanted));
    let hashed = asked.clone();
    let content = work(rooms, move |r| {
        let (shot, look, wanted) = &*hashed;
        Ok::<_, Failure>(look.content(&r.engine, shot, wanted)?)
    });
    let tag = quoted(content.await?);
    if known.0.as_deref() == Some(&tag) {
        return Ok(Picture::new(Err((Status::NotModified, ())), tag));
    }
    let encode = || {
        let asked = asked.clone();
        move |r: &App| {
            let (shot, look, wanted) = &*asked;
            let engine = if look.ahead { &r.ahead } else { &*r.engine };
            Ok::<_, Failure>(look.encoded(engine, shot, wanted)?)
        }
    };
    let look = &asked.1;
    let png = if look.ahead {
        rooms.desk.finished_ahead(&tag, compute(rooms, Waits::Nobody, &cancel, encode())).await?
    } else if look.viewer.is_none() {
        rooms.desk.finished(&tag, &cancel, || compute(rooms, Waits::Strip, &cancel, encode())).await?
    } else {
        rooms.desk.finished(&tag, &cancel, || compute(rooms, Waits::Pane, &cancel, encode())).await?
    };
    Ok(Picture::new(Ok((kind, png.to_vec())), tag))
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
    compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let mut wanted = Wanted::frame(&shot, ask.target, Scale::FULL);
        wanted.frame = ask.frame.unwrap_or(wanted.frame);
        bounded(wanted.window)?;
        let made = r.engine.evaluate(&shot, &wanted)?;
        let other = ask.other.on(&r.engine, &shot, &wanted)?;
        let apart = compare::difference(&made.raster, &other, None).map_err(ShotError::from)?;
        Ok::<_, Failure>(Json(Figures {
            psnr: apart.psnr.is_finite().then_some(apart.psnr),
            ssim: compare::ssim(&made.raster, &other).map_err(ShotError::from)?,
            largest: apart.largest * 255.0,
        }))
    })
    .await
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
    compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let frame = frame.unwrap_or(shot.first_frame());
        let passes = r.engine.probe(&shot, element, frame, (x, y))?;
        let result = pixel(&r.engine, &shot, Target::Shot, frame, (x, y), &Cancel::new())?;
        let untouched =
            pixel(&r.engine, &shot, Target::Untouched { element }, frame, (x, y), &Cancel::new())?;
        Ok::<_, Failure>(Json(Probe { passes, result, untouched }))
    })
    .await
}

/// Widest picture whose tones are counted, px.
const WIDTH_OF_HISTOGRAM: u32 = 640;

/// How often each tone is met in the picture before a step; `display` counts them as seen on a screen.
#[get("/api/shots/<id>/revisions/<number>/histogram?<element>&<step>&<frame>&<display>")]
pub async fn histogram(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    element: u32,
    step: u32,
    frame: Option<i32>,
    display: bool,
) -> Result<Json<Histogram>, Failure> {
    let shot = revision(rooms, id, number).await?;
    compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let scale = Scale::at_most(shot.display, WIDTH_OF_HISTOGRAM);
        let wanted = Wanted::frame(&shot, Target::Before { element, step }, scale);
        let wanted = Wanted { frame: frame.unwrap_or(shot.first_frame()), ..wanted };
        let picture = r.engine.evaluate(&shot, &wanted)?.raster;
        Ok::<_, Failure>(Json(tones::histogram(&picture, display).map_err(ShotError::from)?))
    })
    .await
}

fn pixel(
    engine: &Engine,
    shot: &Shot,
    target: Target,
    frame: i32,
    (x, y): (i32, i32),
    cancel: &Cancel,
) -> Result<Vec<f32>, ShotError> {
    let (window, cancel) = (Window::new(x, y, 1, 1), cancel.clone());
    let wanted = Wanted { window, frame, cancel, ..Wanted::frame(shot, target, Scale::FULL) };
    Ok(engine.evaluate(shot, &wanted)?.raster.data().to_vec())
}

/// Places a lamp by a click.
#[post("/api/place", data = "<ask>")]
pub async fn place(rooms: &Shared, ask: Body<'_, PlaceLamp>) -> Result<Json<Placed>, Failure> {
    let ask = body(ask)?;
    let shot = drafted_as_seen(rooms, ask.shot).await?;
    compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let which = WhichLamp { element: ask.element, step: ask.step, lamp: ask.lamp };
        let frame = ask.frame.unwrap_or(shot.first_frame());
        let lamp = placing::place(&r.engine, &shot, which, frame, (ask.x, ask.y), ask.how)?;
        Ok::<_, ShotError>(Json(Placed { lamp }))
    })
    .await
}
