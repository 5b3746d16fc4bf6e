//! Hashes of everything that decides pixels.

use super::Target;
use crate::document::{Element, Pass, Shot, Step};
use crate::error::ShotError;
use jugata_core::{Role, Scale, Window};
use serde::Serialize;

/// Raised when the engine itself gives other pixels for the same document.
const ENGINE_VERSION: u32 = 2;

/// Hash of what made a raster.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct ContentHash([u8; 32]);

impl ContentHash {
    /// As hexadecimal digits.
    pub fn to_hex(self) -> String {
        blake3::Hash::from(self.0).to_hex().to_string()
    }

    /// The hash of this content and another.
    pub fn and(self, other: Self) -> Self {
        of(&("and", self.0, other.0))
    }

    /// The hash of this content on a window at a scale.
    pub fn at(self, window: Window, scale: Scale) -> Self {
        of(&("at", self.0, window, scale))
    }
}

fn of(what: &impl Serialize) -> ContentHash {
    let mut hasher = blake3::Hasher::new();
    hasher.update(&ENGINE_VERSION.to_le_bytes());
    // Writing to a hasher cannot fail, and neither can turning plain numbers and names into JSON; were it
    // ever to, the hash would still be of all that was written before.
    let written = serde_json::to_writer(&mut hasher, what);
    debug_assert!(written.is_ok());
    ContentHash(hasher.finalize().into())
}

/// Content of a pass, at any window.
pub(super) fn of_pass(element: &Element, pass: &Pass) -> ContentHash {
    let s = &pass.source;
    of(&("pass", &s.media, s.part, &s.channels, pass.role, pass.convention, &pass.repairs, element.camera))
}

/// Content of all passes of an element, in a frame.
pub(super) fn of_passes(element: &Element, display: Window) -> ContentHash {
    let all: Vec<_> = element.passes.iter().map(|p| (p.id, &p.name, of_pass(element, p).0)).collect();
    of(&("passes", all, display))
}

/// Content of what an element offers for a role: its pass, or what is derived for it.
pub(super) fn of_role(element: &Element, role: Role) -> Option<ContentHash> {
    match (element.pass_of(role), role, element.camera) {
        (Some(pass), _, _) => Some(of_pass(element, pass)),
        (None, Role::Position, Some(camera)) => {
            element.pass_of(Role::Depth).map(|d| of(&("positions", of_pass(element, d).0, camera)))
        }
        _ => None,
    }
}

/// Content of an element after its first `count` steps.
pub(super) fn of_element(element: &Element, count: usize) -> ContentHash {
    let beauty = element.pass_of(Role::Beauty).map(|p| of_pass(element, p).0);
    let start = of(&("beauty", beauty));
    element.steps.iter().take(count).fold(start, |before, step| of_step(element, step, before))
}

/// Content after a step, from the content before it. A step without effect passes it on.
pub(super) fn of_step(element: &Element, step: &Step, before: ContentHash) -> ContentHash {
    if !has_effect(step) {
        return before;
    }
    let reads: Vec<_> = step.does.reads().iter().map(|r| of_role(element, r.role).map(|h| h.0)).collect();
    let limit = step.only_where.as_ref().map(|_| of_limit(element, step).0);
    of(&("step", before.0, step.does.version(), &step.does, &step.joins, limit, reads, element.camera))
}

/// Whether a step can change a bit.
pub(super) fn has_effect(step: &Step) -> bool {
    step.on && step.joins.strength != 0.0
}

/// Content of the matte of a step.
pub(super) fn of_limit(element: &Element, step: &Step) -> ContentHash {
    let ids = of_role(element, Role::ObjectId).map(|h| h.0);
    let hashed = of_role(element, Role::HashedId).map(|h| h.0);
    let depth = of_role(element, Role::Depth).map(|h| h.0);
    of(&("limit", &step.only_where, ids, hashed, depth))
}

pub(super) fn element_of(shot: &Shot, id: u32) -> Result<&Element, ShotError> {
    shot.element(id).ok_or(ShotError::Missing { what: "element", id })
}

/// Place of a step in its element.
pub(super) fn place_of(element: &Element, id: u32) -> Result<usize, ShotError> {
    element.steps.iter().position(|s| s.id == id).ok_or(ShotError::Missing { what: "step", id })
}

pub(super) fn pass_of(element: &Element, id: u32) -> Result<&Pass, ShotError> {
    element.passes.iter().find(|p| p.id == id).ok_or(ShotError::Missing { what: "pass", id })
}

/// Number of steps of an element that a target includes, if it is a state of one element.
pub(super) fn steps_of(element: &Element, target: Target) -> Result<Option<usize>, ShotError> {
    Ok(match target {
        Target::After { step, .. } => Some(place_of(element, step)? + 1),
        Target::Before { step, .. } => Some(place_of(element, step)?),
        Target::Untouched { .. } => Some(0),
        _ => None,
    })
}

/// Content of a target, at any window.
pub(super) fn of_target(shot: &Shot, target: Target) -> Result<ContentHash, ShotError> {
    match target {
        Target::Shot => {
            let all: Vec<_> = shot.elements.iter().map(|e| of_element(e, e.steps.len()).0).collect();
            Ok(of(&("shot", all)))
        }
        Target::Pass { element, pass } => {
            let element = element_of(shot, element)?;
            Ok(of(&("shown", of_pass(element, pass_of(element, pass)?).0)))
        }
        Target::Finding { element, pass, finding } => {
            let element = element_of(shot, element)?;
            pass_of(element, pass)?;
            Ok(of(&("finding", of_passes(element, shot.display).0, pass, finding)))
        }
        Target::Limit { element, step } => {
            let element = element_of(shot, element)?;
            Ok(of_limit(element, &element.steps[place_of(element, step)?]))
        }
        Target::After { element, .. } | Target::Before { element, .. } | Target::Untouched { element } => {
            let element = element_of(shot, element)?;
            Ok(of_element(element, steps_of(element, target)?.unwrap_or(0)))
        }
    }
}
