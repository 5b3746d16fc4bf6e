//! Planes of an element's picture that were followed through the shot, and what is held to them.

use crate::document::{Element, FrameRange, NamedMatte, Shot, Step};
use crate::engine::{Engine, Request, Target};
use crate::error::ShotError;
use crate::files::MediaFile;
use crate::params::{distinct, few, range};
use glam::{DMat3, DVec2};
use jugata_core::geometry::place::between;
use jugata_core::track::course::{Correction, Course, Mark};
use jugata_core::track::{Follower, Quad, TrackError, all_through};
use jugata_core::{Cancel, Raster, Scale};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;
use ts_rs::TS;

/// A plane of an element's untouched picture.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Track {
    /// Number that stays with it.
    pub id: u32,
    /// Name for people.
    pub name: String,
    /// The frame on which its region is drawn; what is held to it is given as it lies there.
    pub at: i32,
    /// Corners of the region, one way round from the upper left. Full-resolution px.
    pub corners: [[f32; 2]; 4],
    /// A named matte of the element: what it shows on that frame does not belong to the plane.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub left_out: Option<u32>,
    /// Where it was found on each frame.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub found: Option<MediaFile>,
    /// What was put right by hand.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(optional, as = "Option<Vec<PutRight>>")]
    pub put_right: Vec<PutRight>,
    /// The frame that a still stands at.
    #[serde(skip)]
    #[ts(skip)]
    pub now: Option<i32>,
}

/// Where a quad of the frame of a region really is on another frame. Full-resolution px.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct PutRight {
    /// Number that stays with it.
    pub id: u32,
    /// The frame.
    pub frame: i32,
    /// Corners on the frame of the region.
    pub from: [[f32; 2]; 4],
    /// Where they are on this frame.
    pub to: [[f32; 2]; 4],
}

/// A plane of another element, to which an element is held.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct HeldTo {
    /// The element whose picture was followed.
    pub element: u32,
    /// Number of the track among its own.
    pub track: u32,
}

/// Tracks of an element, and corrections of a track, at most.
const MOST: usize = 64;
const MOST_RIGHT: usize = 2000;
/// Frames that are followed, at most.
pub const MOST_FRAMES: usize = 20_000;

fn quad(corners: [[f32; 2]; 4]) -> Quad {
    corners.map(|[x, y]| DVec2::new(x.into(), y.into()))
}

impl Track {
    /// A track that nothing was found of yet.
    pub fn new(id: u32, name: String, at: i32, corners: [[f32; 2]; 4]) -> Self {
        Self { id, name, at, corners, left_out: None, found: None, put_right: Vec::new(), now: None }
    }

    /// What is wrong with its numbers, as the end of a sentence.
    fn check(&self, mattes: &[u32]) -> Result<(), String> {
        let place = |c: &[[f32; 2]; 4]| {
            c.iter().flatten().try_for_each(|v| range("a corner", *v, -200_000.0, 200_000.0))
        };
        place(&self.corners)?;
        few("corrections", self.put_right.len(), MOST_RIGHT)?;
        distinct("correction", self.put_right.iter().map(|r| r.id))?;
        if self.left_out.is_some_and(|id| !mattes.contains(&id)) {
            return Err("it leaves out a matte that is not there".into());
        }
        if self.found.as_ref().is_some_and(|f| !f.media.is_sound()) {
            return Err("its media is not a BLAKE3 hash".into());
        }
        self.put_right.iter().try_for_each(|r| place(&r.from).and_then(|()| place(&r.to)))
    }

    /// What was put right, as it is worked with.
    fn corrections(&self) -> Vec<Correction> {
        let of = |r: &PutRight| Correction { frame: r.frame, from: quad(r.from), to: quad(r.to) };
        self.put_right.iter().map(of).collect()
    }

    /// From the frame of the region to another one, px of the element's untouched picture.
    pub fn by(&self, course: &Course, frame: i32) -> DMat3 {
        let corrections = self.corrections();
        // The region may since have been drawn on another frame than the one that was followed from.
        course.by(frame, &corrections) * course.by(self.at, &corrections).inverse()
    }

    /// The course before anything was followed: it stays.
    fn resting(&self) -> Course {
        Course { at: self.at, corners: quad(self.corners), marks: Vec::new() }
    }

    /// What was found, or what stays where nothing was.
    ///
    /// # Errors
    /// The file is not there, or is no such file.
    pub fn course(&self, engine: &Engine) -> Result<Course, ShotError> {
        let Some(file) = &self.found else { return Ok(self.resting()) };
        let wrong =
            |what: String| ShotError::Parameter { place: format!("{} ({})", self.name, file.name), what };
        TrackFile::read(&engine.bytes(file)?).map_err(wrong)
    }
}

/// Checks the tracks of an element, and that what is held is held to one of them.
///
/// # Errors
/// Place and sentence.
pub(crate) fn check(e: &Element) -> Result<(), (String, String)> {
    let own = |what| (e.name.clone(), what);
    few("tracks", e.tracks.len(), MOST).map_err(own)?;
    distinct("track", e.tracks.iter().map(|t| t.id)).map_err(own)?;
    let mattes: Vec<u32> = e.mattes.iter().map(|m| m.id).collect();
    for t in &e.tracks {
        t.check(&mattes).map_err(|what| (t.name.clone(), what))?;
    }
    let known = |id: Option<u32>| id.is_none_or(|id| e.tracks.iter().any(|t| t.id == id));
    let limits =
        e.steps.iter().filter_map(|s| s.only_where.as_ref()).chain(e.mattes.iter().map(|m| &m.matte));
    let parts = limits.flat_map(|l| &l.parts).all(|p| known(p.held));
    if !parts || !e.steps.iter().all(|s| known(s.held)) {
        return Err(own("something is held to a track that is not there".into()));
    }
    Ok(())
}

/// Checks that elements are held to tracks that are there, and not to each other in a circle.
///
/// # Errors
/// Place and sentence.
pub(crate) fn check_elements(shot: &Shot) -> Result<(), (String, String)> {
    for e in &shot.elements {
        let (mut at, mut seen) = (e, HashSet::from([e.id]));
        while let Some(held) = at.held {
            let other = shot.element(held.element);
            let Some(other) = other.filter(|o| o.tracks.iter().any(|t| t.id == held.track)) else {
                return Err((at.name.clone(), "it is held to a track that is not there".into()));
            };
            if !seen.insert(other.id) {
                return Err((
                    e.name.clone(),
                    "it would be held to itself, by way of what it is held to".into(),
                ));
            }
            at = other;
        }
    }
    Ok(())
}

/// Lets go of tracks that an edit took away.
pub(crate) fn let_go(shot: &mut Shot) {
    let tracks =
        |e: &Element| e.tracks.iter().map(|t| HeldTo { element: e.id, track: t.id }).collect::<Vec<_>>();
    let known: HashSet<HeldTo> = shot.elements.iter().flat_map(tracks).collect();
    for e in &mut shot.elements {
        e.held = e.held.filter(|held| known.contains(held));
        let own = |track: u32| known.contains(&HeldTo { element: e.id, track });
        release(&mut e.steps, &mut e.mattes, own);
    }
}

/// Lets go of what is held, unless to tracks that stay.
pub(crate) fn release(steps: &mut [Step], mattes: &mut [NamedMatte], stays: impl Fn(u32) -> bool) {
    let limits = steps.iter_mut().map(|s| {
        s.held = s.held.filter(|id| stays(*id));
        s.only_where.as_mut()
    });
    let limits = limits.flatten().chain(mattes.iter_mut().map(|m| &mut m.matte));
    limits.flat_map(|l| &mut l.parts).for_each(|p| p.held = p.held.filter(|id| stays(*id)));
}

/// What was found, as it is kept: open, and told in the picture's own px, so that others can use it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TrackFile {
    /// The form of the file.
    pub planar_track: u32,
    /// The frame on which the region was drawn.
    pub at: i32,
    /// Its corners there.
    pub corners: [[f64; 2]; 4],
    /// The frames that were looked at, ascending.
    pub frames: Vec<TrackedFrame>,
}

/// The region on one frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct TrackedFrame {
    /// The frame.
    pub frame: i32,
    /// Corners there, px from the frame's upper left corner.
    pub corners: [[f64; 2]; 4],
    /// Share of the region that is seen and looks as it did; 0 where it was not found.
    pub fits: f32,
    /// How far the corners may be off, px.
    pub unsure: f32,
}

impl From<&Mark> for TrackedFrame {
    fn from(m: &Mark) -> Self {
        Self { frame: m.frame, corners: m.corners.map(|c| c.to_array()), fits: m.fits, unsure: m.unsure }
    }
}

impl From<TrackedFrame> for Mark {
    fn from(f: TrackedFrame) -> Self {
        Self { frame: f.frame, corners: f.corners.map(DVec2::from), fits: f.fits, unsure: f.unsure }
    }
}

impl TrackFile {
    /// Reads a file.
    ///
    /// # Errors
    /// What is wrong with it, as the end of a sentence.
    pub fn read(bytes: &[u8]) -> Result<Course, String> {
        let file: Self = serde_json::from_slice(bytes).map_err(|_| "it is no file of a track".to_owned())?;
        if file.planar_track != 1 {
            return Err(format!("its form {} is not known here", file.planar_track));
        }
        let sound = |c: &[[f64; 2]; 4]| c.iter().flatten().all(|v| v.is_finite() && v.abs() < 1e7);
        let ascending = file.frames.windows(2).all(|p| p[0].frame < p[1].frame);
        let numbers =
            file.frames.iter().all(|f| sound(&f.corners) && f.fits.is_finite() && f.unsure.is_finite());
        if file.frames.len() > MOST_FRAMES || !sound(&file.corners) || !ascending || !numbers {
            return Err("its frames are not sound".into());
        }
        let marks = file.frames.into_iter().map(Mark::from).collect();
        Ok(Course { at: file.at, corners: file.corners.map(DVec2::from), marks })
    }

    /// A course as a file.
    pub fn of(course: &Course) -> Self {
        let frames = course.marks.iter().map(TrackedFrame::from).collect();
        Self { planar_track: 1, at: course.at, corners: course.corners.map(|c| c.to_array()), frames }
    }
}

/// What to follow.
#[derive(Clone, Copy, Debug)]
pub struct Following<'a> {
    /// The shot.
    pub shot: &'a Shot,
    /// The element.
    pub element: u32,
    /// Its track.
    pub track: u32,
    /// First and last frame; all of the shot's if not said.
    pub frames: Option<FrameRange>,
}

/// How far following has come: a frame that is done, how many are, and how many there are.
pub type Told<'a> = &'a mut dyn FnMut(&Mark, [usize; 2]);

/// Follows a track through frames, forwards and backwards from its own. On a frame that was put right it is where it was put,
/// and goes on from there. `told` hears each frame that is done; when it is cancelled, what was found so far is given.
///
/// # Errors
/// No such track; a region that cannot be followed; files that cannot be read.
pub fn follow(
    engine: &Engine,
    what: Following<'_>,
    cancel: &Cancel,
    told: Told<'_>,
) -> Result<Course, ShotError> {
    let missing = |what, id| ShotError::Missing { what, id };
    let element = what.shot.element(what.element).ok_or_else(|| missing("element", what.element))?;
    let track =
        element.tracks.iter().find(|t| t.id == what.track).ok_or_else(|| missing("track", what.track))?;
    let asked = what.frames.or(what.shot.frames);
    let asked = asked.unwrap_or(FrameRange { first: track.at, last: track.at });
    let (first, last) = (asked.first.min(track.at), asked.last.max(track.at));
    let wrong = |what: String| ShotError::Parameter { place: track.name.clone(), what };
    let count = usize::try_from(i64::from(last) - i64::from(first) + 1).unwrap_or(usize::MAX);
    if count > MOST_FRAMES {
        return Err(wrong(format!("more than {MOST_FRAMES} frames are not followed at once")));
    }
    let corners = quad(track.corners);
    let untouched = Target::Untouched { element: element.id };
    let picture = |frame: i32| whole(engine, what.shot, untouched, frame, cancel);
    let left_out = match track.left_out {
        Some(matte) => {
            let target = Target::Matte { element: element.id, matte };
            Some(whole(engine, what.shot, target, track.at, cancel)?)
        }
        None => None,
    };
    let start = || {
        Follower::new(&*picture(track.at)?, corners, left_out.as_deref(), cancel).map_err(|e| match e {
            TrackError::Cancelled(c) => ShotError::Cancelled(c),
            e => wrong(e.to_string()),
        })
    };
    let own = Mark { frame: track.at, corners, fits: 1.0, unsure: 0.0 };
    let mut marks = BTreeMap::from([(track.at, own)]);
    let right = track.corrections();
    let ways: [Vec<i32>; 2] = [(track.at + 1..=last).collect(), (first..track.at).rev().collect()];
    for way in ways {
        if way.is_empty() {
            continue;
        }
        let mut follower = start()?;
        for frame in way {
            let found = mark(&mut follower, frame, &right, &corners, &picture, cancel);
            match found {
                Err(ShotError::Cancelled(_)) if cancel.is_cancelled() => break,
                found => {
                    let found = found?;
                    marks.insert(frame, found);
                    told(&found, [marks.len(), count]);
                }
            }
        }
    }
    Ok(Course { at: track.at, corners, marks: marks.into_values().collect() })
}

fn mark(
    follower: &mut Follower,
    frame: i32,
    right: &[Correction],
    corners: &Quad,
    picture: &dyn Fn(i32) -> Result<Arc<Raster>, ShotError>,
    cancel: &Cancel,
) -> Result<Mark, ShotError> {
    let put = right.iter().find(|r| r.frame == frame);
    let put = put.and_then(|r| between(r.from, r.to));
    let (by, fits, unsure) = match put {
        Some(by) => {
            follower.set(by);
            (by, 1.0, 0.0)
        }
        None => {
            let fit = follower.next(&*picture(frame)?, cancel)?;
            (fit.by, fit.fits, fit.unsure)
        }
    };
    let seen = all_through(corners, by);
    let unsure = if unsure.is_finite() { unsure.min(1e6) } else { 1e6 };
    let fits = if seen.is_some() { fits } else { 0.0 };
    Ok(Mark { frame, corners: seen.unwrap_or(*corners), fits, unsure })
}

fn whole(
    engine: &Engine,
    shot: &Shot,
    target: Target,
    frame: i32,
    cancel: &Cancel,
) -> Result<Arc<Raster>, ShotError> {
    let request = Request { frame, cancel: cancel.clone(), ..Request::frame(shot, target, Scale::FULL) };
    let window = engine.covers(shot, &request)?;
    Ok(engine.evaluate(shot, &Request { window, ..request })?.raster)
}

/// A track as it is seen at a frame.
#[derive(Clone, Debug, PartialEq, Serialize, TS)]
pub struct TrackSeen {
    /// The element.
    pub element: u32,
    /// Its track.
    pub track: u32,
    /// From the frame of its region to this one: rows of the projective map, px.
    pub by: [[f64; 3]; 3],
    /// What was found on this frame, if it was looked at.
    #[ts(optional = nullable)]
    pub found: Option<TrackedFrame>,
    /// How well it fits on each frame that was looked at.
    pub frames: Vec<TrackedFit>,
}

/// How well a track fits on a frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, TS)]
pub struct TrackedFit {
    /// The frame.
    pub frame: i32,
    /// Share of the region that is seen and looks as it did.
    pub fits: f32,
    /// How far the corners may be off, px.
    pub unsure: f32,
}

impl From<&Mark> for TrackedFit {
    fn from(m: &Mark) -> Self {
        Self { frame: m.frame, fits: m.fits, unsure: m.unsure }
    }
}

/// All tracks of a shot at a frame. One whose file is not there stays where it was drawn.
pub fn seen(engine: &Engine, shot: &Shot, frame: i32) -> Vec<TrackSeen> {
    let of = |e: &Element, t: &Track| {
        let course = t.course(engine).unwrap_or_else(|_| t.resting());
        let by = t.by(&course, frame).transpose();
        let found = course.mark(frame).map(TrackedFrame::from);
        let frames = course.marks.iter().map(TrackedFit::from).collect();
        TrackSeen { element: e.id, track: t.id, by: by.to_cols_array_2d(), found, frames }
    };
    shot.elements.iter().flat_map(|e| e.tracks.iter().map(move |t| of(e, t))).collect()
}

/// Gives tracks the frame of a still.
pub(crate) fn stand_at(shot: &mut Shot, frame: i32) {
    for track in shot.elements.iter_mut().flat_map(|e| &mut e.tracks) {
        track.now = Some(frame);
    }
}

/// Whether anything of a shot is followed.
pub(crate) fn any(shot: &Shot) -> bool {
    shot.elements.iter().any(|e| !e.tracks.is_empty())
}

/// From the frame of a track's region to that of the still.
pub(crate) fn now(engine: &Engine, element: &Element, id: u32) -> Result<DMat3, ShotError> {
    let track = element.tracks.iter().find(|t| t.id == id).ok_or(ShotError::Missing { what: "track", id })?;
    let course = track.course(engine)?;
    Ok(track.by(&course, track.now.unwrap_or(track.at)))
}
