//! What was found of a plane, as it is kept.

use glam::DVec2;
use jugata_core::track::course::{Course, Mark};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Frames that are followed, at most.
pub const MOST_FRAMES: usize = 20_000;

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
