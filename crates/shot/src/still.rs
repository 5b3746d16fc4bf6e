//! A shot at one frame: everything that moves has its value, and the whole is checked. The engine takes nothing else.

use crate::check;
use crate::document::Shot;
use crate::error::ShotError;
use crate::resolve::driven;
use crate::tracks;
use std::borrow::Cow;
use std::ops::Deref;

/// A shot at a frame.
#[derive(Clone, Debug)]
pub struct Still<'a> {
    shot: Cow<'a, Shot>,
}

impl<'a> Still<'a> {
    /// The shot at a frame: each sequence has its file, each driven parameter its value.
    ///
    /// # Errors
    /// A drive of what is not there, that fits no parameter, or that follows itself; values out of range.
    pub fn of(shot: &'a Shot, frame: i32) -> Result<Self, ShotError> {
        let shot = shot.at_frame(frame);
        let mut shot = if shot.drives.is_empty() {
            shot
        } else {
            let mut driven = driven(&shot, f64::from(frame))?;
            driven.drives.clear();
            check::check(&driven)?;
            Cow::Owned(driven)
        };
        if tracks::any(&shot) {
            tracks::stand_at(shot.to_mut(), frame);
        }
        Ok(Self { shot })
    }
}

impl Deref for Still<'_> {
    type Target = Shot;

    fn deref(&self) -> &Shot {
        &self.shot
    }
}
