//! A plane of an element's picture that was followed through the shot.

use super::file::TrackFile;
use crate::error::ShotError;
use crate::files::MediaFile;
use crate::params::{distinct, few, range};
use glam::{DMat3, DVec2};
use jugata_core::geometry::place;
use jugata_core::track::course::{Correction, Course};
use jugata_core::track::{Quad, all_through};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
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
    /// What it is followed by.
    #[serde(default, skip_serializing_if = "FollowedBy::is_usual")]
    #[ts(optional, as = "Option<FollowedBy>")]
    pub by: FollowedBy,
    /// Where it was found on each frame.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub found: Option<MediaFile>,
    /// What was put right by hand.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(optional, as = "Option<Vec<PutRight>>")]
    pub put_right: Vec<PutRight>,
    /// When a still stands, frames.
    #[serde(skip)]
    #[ts(skip)]
    pub now: Option<f64>,
}

/// What a plane is followed by.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum FollowedBy {
    /// What is seen of it.
    #[default]
    Picture,
    /// The motion pass of each frame: also what moves by itself.
    Motion,
    /// The position pass of each frame: what stands still in the world while the camera goes.
    Positions,
}

impl FollowedBy {
    fn is_usual(&self) -> bool {
        *self == Self::default()
    }
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

/// Corrections of a track, at most.
const MOST_RIGHT: usize = 2000;

pub(super) fn quad(corners: [[f32; 2]; 4]) -> Quad {
    corners.map(|[x, y]| DVec2::new(x.into(), y.into()))
}

impl Track {
    /// A track that nothing was found of yet.
    pub fn new(id: u32, name: String, at: i32, corners: [[f32; 2]; 4]) -> Self {
        Self {
            id,
            name,
            at,
            corners,
            left_out: None,
            by: FollowedBy::default(),
            found: None,
            put_right: Vec::new(),
            now: None,
        }
    }

    /// What is wrong with its numbers, as the end of a sentence.
    pub(super) fn check(&self, mattes: &[u32]) -> Result<(), String> {
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
    pub(super) fn corrections(&self) -> Vec<Correction> {
        let of = |r: &PutRight| Correction { frame: r.frame, from: quad(r.from), to: quad(r.to) };
        self.put_right.iter().map(of).collect()
    }

    /// From the frame of the region to another one, px of the element's untouched picture.
    pub fn by(&self, course: &Course, frame: i32) -> DMat3 {
        let corrections = self.corrections();
        // The region may since have been drawn on another frame than the one that was followed from.
        course.by(frame, &corrections) * course.by(self.at, &corrections).inverse()
    }

    /// The same at a time between frames: its corners go straight from one to the next.
    pub fn by_time(&self, course: &Course, time: f64) -> DMat3 {
        let before = self.by(course, time.floor() as i32);
        let share = time - time.floor();
        if share == 0.0 {
            return before;
        }
        let (corners, after) = (quad(self.corners), self.by(course, time.floor() as i32 + 1));
        let on = |by| all_through(&corners, by);
        let between = on(before)
            .zip(on(after))
            .and_then(|(a, b)| place::between(corners, [0, 1, 2, 3].map(|i| a[i].lerp(b[i], share))));
        between.unwrap_or(before)
    }

    /// The course before anything was followed: it stays.
    pub(super) fn resting(&self) -> Course {
        Course { at: self.at, corners: quad(self.corners), marks: Vec::new() }
    }

    /// What was found, or what stays where nothing was; `read` gives the bytes of a file.
    ///
    /// # Errors
    /// The file is not there, or is no such file.
    pub fn course(
        &self,
        read: impl FnOnce(&MediaFile) -> Result<Arc<Vec<u8>>, ShotError>,
    ) -> Result<Course, ShotError> {
        let Some(file) = &self.found else { return Ok(self.resting()) };
        let wrong =
            |what: String| ShotError::Parameter { place: format!("{} ({})", self.name, file.name), what };
        TrackFile::read(&read(file)?).map_err(wrong)
    }
}
