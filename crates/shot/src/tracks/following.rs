//! Following a plane through the frames of a shot, and where planes are seen.

use super::exact::Source;
use super::file::{MOST_FRAMES, TrackedFrame};
use super::track::{FollowedBy, Track, quad};
use crate::document::{Element, FrameRange, Shot};
use crate::engine::{Engine, Target};
use crate::error::ShotError;
use glam::{DMat3, DVec2, Vec3};
use jugata_core::geometry::place::between;
use jugata_core::track::course::{Course, Mark};
use jugata_core::track::{Follower, Quad, TrackError, all_through};
use jugata_core::{Cancel, Raster};
use serde::Serialize;
use std::collections::BTreeMap;
use std::sync::Arc;
use ts_rs::TS;

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

/// Follows a track through frames, forwards and backwards from its own, by what it is to be followed by. On a frame that was put right it is where it was put,
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
    let source = Source { engine, shot: what.shot, element: element.id, track, cancel };
    let count = usize::try_from(i64::from(last) - i64::from(first) + 1).unwrap_or(usize::MAX);
    if count > MOST_FRAMES {
        return Err(source.wrong(format!("more than {MOST_FRAMES} frames are not followed at once")));
    }
    let followed = Followed { source, corners: quad(track.corners) };
    let own = Mark { frame: track.at, corners: followed.corners, fits: 1.0, unsure: 0.0 };
    let mut marks = BTreeMap::from([(track.at, own)]);
    let ways: [Vec<i32>; 2] = [(track.at + 1..=last).collect(), (first..track.at).rev().collect()];
    for way in ways {
        if way.is_empty() {
            continue;
        }
        let mut way_on = followed.begin()?;
        for frame in way {
            match followed.mark(&mut way_on, frame) {
                Err(ShotError::Cancelled(_)) if cancel.is_cancelled() => break,
                found => {
                    let found = found?;
                    marks.insert(frame, found);
                    told(&found, [marks.len(), count]);
                }
            }
        }
    }
    Ok(Course { at: track.at, corners: followed.corners, marks: marks.into_values().collect() })
}

/// A track that is followed.
struct Followed<'a> {
    source: Source<'a>,
    corners: Quad,
}

/// What goes along from frame to frame, one way.
enum Way {
    /// What the region looked like.
    Seen(Box<Follower>),
    /// Where it was on the last frame, by vectors, and how unsure that is.
    Vectors { last: i32, by: DMat3, unsure: f32 },
    /// The places of the world that it shows.
    Places(Vec<(DVec2, Vec3)>),
}

impl Followed<'_> {
    fn untouched(&self, frame: i32) -> Result<Arc<Raster>, ShotError> {
        self.source.whole(Target::Untouched { element: self.source.element }, frame)
    }

    /// Looks at the region on its own frame.
    fn begin(&self) -> Result<Way, ShotError> {
        let at = self.source.track.at;
        Ok(match self.source.track.by {
            FollowedBy::Picture => {
                let element = self.source.element;
                let left_out = self
                    .source
                    .track
                    .left_out
                    .map(|matte| self.source.whole(Target::Matte { element, matte }, at));
                let left_out = left_out.transpose()?;
                let picture = self.untouched(at)?;
                let follower = Follower::new(&picture, self.corners, left_out.as_deref(), self.source.cancel);
                Way::Seen(Box::new(follower.map_err(|e| match e {
                    TrackError::Cancelled(c) => ShotError::Cancelled(c),
                    e => self.source.wrong(e.to_string()),
                })?))
            }
            FollowedBy::Motion => Way::Vectors { last: at, by: DMat3::IDENTITY, unsure: 0.0 },
            FollowedBy::Positions => {
                let places = self.source.world(at)?.seen(&self.corners);
                if places.is_empty() {
                    return Err(self.source.wrong("the position pass shows nothing in the region"));
                }
                Way::Places(places)
            }
        })
    }

    /// Where it is on the next frame of the way. On one that was put right it is where it was put.
    fn mark(&self, way: &mut Way, frame: i32) -> Result<Mark, ShotError> {
        let put = self.source.track.corrections().into_iter().find(|r| r.frame == frame);
        if let Some(by) = put.and_then(|r| between(r.from, r.to)) {
            match way {
                Way::Seen(follower) => follower.set(by),
                Way::Vectors { last, by: was, unsure } => (*last, *was, *unsure) = (frame, by, 0.0),
                Way::Places(_) => {}
            }
            return Ok(self.marked(frame, Some(by), 1.0, 0.0));
        }
        Ok(match way {
            Way::Seen(follower) => {
                let fit = follower.next(&*self.untouched(frame)?, self.source.cancel)?;
                self.marked(frame, Some(fit.by), fit.fits, fit.unsure)
            }
            Way::Vectors { last, by, unsure } => {
                let region = all_through(&self.corners, *by);
                let found = match region {
                    // From a frame that was passed over there are no vectors.
                    Some(region) if last.abs_diff(frame) == 1 => self.source.beside(&region, *last, frame)?,
                    _ => None,
                };
                match found {
                    Some(found) => {
                        // Errors of one frame after the other add up as those of dice do.
                        (*last, *by, *unsure) = (frame, found.by * *by, unsure.hypot(found.unsure));
                        self.marked(frame, Some(*by), found.agrees, *unsure)
                    }
                    None => self.marked(frame, None, 0.0, 0.0),
                }
            }
            Way::Places(places) => match self.source.world(frame)?.found(places) {
                Some(found) => self.marked(frame, Some(found.by), found.agrees, found.unsure),
                None => self.marked(frame, None, 0.0, 0.0),
            },
        })
    }

    fn marked(&self, frame: i32, by: Option<DMat3>, fits: f32, unsure: f32) -> Mark {
        let seen = by.and_then(|by| all_through(&self.corners, by));
        let unsure = if unsure.is_finite() { unsure.min(1e6) } else { 1e6 };
        Mark {
            frame,
            corners: seen.unwrap_or(self.corners),
            fits: if seen.is_some() { fits } else { 0.0 },
            unsure,
        }
    }
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
        let course = t.course(|f| engine.bytes(f)).unwrap_or_else(|_| t.resting());
        let by = t.by(&course, frame).transpose();
        let found = course.mark(frame).map(TrackedFrame::from);
        let frames = course.marks.iter().map(TrackedFit::from).collect();
        TrackSeen { element: e.id, track: t.id, by: by.to_cols_array_2d(), found, frames }
    };
    shot.elements.iter().flat_map(|e| e.tracks.iter().map(move |t| of(e, t))).collect()
}
