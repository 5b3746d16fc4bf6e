//! Planes of an element's picture that were followed through the shot, and what is held to them.
//!
//! | module | subject |
//! |---|---|
//! | [`track`] | a plane, and what was put right of it |
//! | [`file`] | what was found, as it is kept |
//! | [`following`], `exact` | how it is found: by what is seen, or by what a render says |

mod exact;
pub mod file;
pub mod following;
pub mod track;

use crate::document::{Element, NamedMatte, Shot, Step};
use crate::params::{distinct, few};
use std::collections::HashSet;
use track::HeldTo;

/// Tracks of an element, at most.
const MOST: usize = 64;

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

/// Gives tracks the time of a still, frames.
pub(crate) fn stand_at(shot: &mut Shot, time: f64) {
    for track in shot.elements.iter_mut().flat_map(|e| &mut e.tracks) {
        track.now = Some(time);
    }
}

/// Whether anything of a shot is followed.
pub(crate) fn any(shot: &Shot) -> bool {
    shot.elements.iter().any(|e| !e.tracks.is_empty())
}
