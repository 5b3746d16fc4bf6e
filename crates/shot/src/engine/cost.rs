//! What a request will need of memory, added up before anything is allocated: a file of some hundred bytes may name a
//! frame that no memory holds.

use super::key;
use super::request::{Request, Target};
use super::scene::Scene;
use crate::document::{Element, Shot, Step};
use crate::error::ShotError;
use crate::steps::Reach;
use crate::wants::Want;

/// Bytes for each pixel of the window that is asked for: the picture before and after a step, its passes, its matte.
const OF_WINDOW: u64 = 64;

/// Bytes for each pixel of the frame, where a step sees all of it (measured for refocus: 130 at 4K, with its inputs).
const OF_WHOLE: u64 = 144;

/// Bytes for each pixel of the frame, where passes are extracted: what is read and what is made of it.
const OF_EXTRACTS: u64 = 96;

/// Bytes for each pixel of the frame, where mattes are put together.
const OF_MATTES: u64 = 24;

/// Bytes for each pixel of the frame, where elements stand in one space: a depth carried on, and two pictures in pieces.
const OF_SPACE: u64 = 112;

/// Bytes for each pixel of the frame and each thing that is asked for of another frame: its samples, and ways from there.
const OF_ANOTHER_FRAME: u64 = 16;

/// Refuses a request that needs more than `most` bytes at once.
///
/// # Errors
/// [`ShotError::TooLarge`]; an element, step or pass that is not there.
pub(super) fn hold(most: u64, shot: &Shot, request: &Request) -> Result<(), ShotError> {
    let frame = request.scale.window(shot.display).area() as u64;
    let window = request.window.area() as u64;
    let mut of_frame = 0;
    for (element, steps) in seen(shot, request.target)? {
        let works = || steps.iter().filter(|s| key::has_effect(s));
        if works().any(|s| s.does.kind().reach() == Reach::WholeFrame) {
            let others = works().map(of_other_frames).max().unwrap_or(0);
            of_frame = of_frame.max(OF_WHOLE + others);
        }
        if !element.extracts.is_empty() {
            of_frame = of_frame.max(OF_EXTRACTS);
        }
        let masked = works().any(|s| s.only_where.is_some());
        let of_mattes =
            |t| matches!(t, Target::Matte { .. } | Target::PlacedMatte { .. } | Target::Limit { .. });
        if masked || of_mattes(request.target) {
            of_frame = of_frame.max(OF_MATTES);
        }
    }
    if request.target == Target::Shot && key::in_space(shot) {
        of_frame = of_frame.max(OF_SPACE);
    }
    bounded(most, [window.saturating_mul(OF_WINDOW), frame.saturating_mul(of_frame)])
}

/// What a step asks for of other frames, bytes for each pixel of the frame.
fn of_other_frames(step: &Step) -> u64 {
    let wants = step.does.kind().wants();
    wants.iter().filter(|w| matches!(w, Want::OnFrame(..))).count() as u64 * OF_ANOTHER_FRAME
}

/// The same for what lies beyond the frame, as files and moves have it: known once the files are read.
///
/// # Errors
/// As [`hold`].
pub(super) fn hold_overscan(most: u64, scene: Scene<'_>, request: &Request) -> Result<(), ShotError> {
    for (element, steps) in seen(scene.shot, request.target)? {
        let kinds = || steps.iter().filter(|s| key::has_effect(s)).map(|s| s.does.kind());
        if kinds().any(|k| k.is_move() || k.reach() == Reach::WholeFrame) {
            let whole = scene.whole_window(element, steps.len(), request)?.area() as u64;
            bounded(most, [whole.saturating_mul(OF_WHOLE), 0])?;
        }
    }
    Ok(())
}

fn bounded(most: u64, [a, b]: [u64; 2]) -> Result<(), ShotError> {
    let needs = a.saturating_add(b);
    if needs > most { Err(ShotError::TooLarge { needs, most }) } else { Ok(()) }
}

/// The elements that a target shows, each with the steps that are worked out for it.
fn seen(shot: &Shot, target: Target) -> Result<Vec<(&Element, &[Step])>, ShotError> {
    let id = match target {
        Target::Shot => return Ok(shot.elements.iter().map(|e| (e, e.steps.as_slice())).collect()),
        Target::After { element, .. }
        | Target::Before { element, .. }
        | Target::Gives { element, .. }
        | Target::Untouched { element }
        | Target::Pass { element, .. }
        | Target::PlacedPass { element, .. }
        | Target::Matte { element, .. }
        | Target::PlacedMatte { element, .. }
        | Target::Limit { element, .. }
        | Target::Finding { element, .. } => element,
    };
    let element = key::element_of(shot, id)?;
    let count = key::steps_of(element, target)?.unwrap_or(0);
    Ok(vec![(element, &element.steps[..count.min(element.steps.len())])])
}
