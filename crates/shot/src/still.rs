//! A shot at one frame: everything that moves has its value, and the whole is checked. The engine takes nothing else.

use crate::check;
use crate::document::{Shot, Step};
use crate::error::ShotError;
use crate::params::SlotMut;
use crate::resolve::driven;
use crate::tracks;
use std::borrow::Cow;
use std::ops::Deref;

/// A shot at a frame.
#[derive(Clone, Debug)]
pub struct Still<'a> {
    shot: Cow<'a, Shot>,
    moving: &'a Shot,
    time: f64,
}

impl<'a> Still<'a> {
    /// The shot at a frame: each sequence has its file, each driven parameter its value.
    ///
    /// # Errors
    /// A drive of what is not there, that fits no parameter, or that follows itself; values out of range.
    pub fn of(shot: &'a Shot, frame: i32) -> Result<Self, ShotError> {
        Self::at(shot, f64::from(frame))
    }

    /// The same shot some frames, or a part of one, later; below 0 earlier. Between two frames a sequence has the file of the
    /// nearer one.
    ///
    /// # Errors
    /// As [`Still::of`].
    pub fn later(&self, by: f64) -> Result<Self, ShotError> {
        Self::at(self.moving, self.time + by)
    }

    /// The frame, or the nearer one of two.
    pub fn frame(&self) -> i32 {
        nearest(self.time)
    }

    fn at(moving: &'a Shot, time: f64) -> Result<Self, ShotError> {
        let shot = moving.at_frame(nearest(time));
        let mut shot = if shot.drives.is_empty() {
            shot
        } else {
            let mut driven = driven(&shot, time)?;
            driven.drives.clear();
            check::check(&driven)?;
            Cow::Owned(driven)
        };
        if tracks::any(&shot) {
            tracks::stand_at(shot.to_mut(), time);
        }
        if goes_by_the_frame(&shot) {
            shot.to_mut().elements.iter_mut().flat_map(|e| &mut e.steps).for_each(|s| tell_time(s, time));
        }
        Ok(Self { shot, moving, time })
    }
}

/// The frame of a time.
fn nearest(time: f64) -> i32 {
    time.round() as i32
}

/// What a number means that is the frame of the still.
const FRAME: &str = "frame";

/// Whether a step does something else at each frame without a key.
fn goes_by_the_frame(shot: &Shot) -> bool {
    let tells = |s: &Step| s.does.kind().fields().iter().any(|f| f.means == FRAME);
    shot.elements.iter().flat_map(|e| &e.steps).any(tells)
}

fn tell_time(step: &mut Step, time: f64) {
    step.does.kind_mut().each_mut(&mut |field, slot| {
        if let (FRAME, SlotMut::Number(number)) = (field.means, slot) {
            *number = time as f32;
        }
    });
}

impl Deref for Still<'_> {
    type Target = Shot;

    fn deref(&self) -> &Shot {
        &self.shot
    }
}
