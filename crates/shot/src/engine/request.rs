//! What is asked of the engine, and what it notes of its work.

use crate::document::Shot;
use jugata_core::passes::checks::FindingKind;
use jugata_core::{Cancel, Role, Scale, Window};
use serde::{Deserialize, Serialize};
use std::sync::{Arc, Mutex};
use ts_rs::TS;

/// What to make a picture of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Target {
    /// All elements over each other, with all steps.
    Shot,
    /// An element after one of its steps.
    After {
        /// The element.
        element: u32,
        /// The step.
        step: u32,
    },
    /// An element as it stands before one of its steps.
    Before {
        /// The element.
        element: u32,
        /// The step.
        step: u32,
    },
    /// What a step gives to an element: the picture after it less the picture before it. Of a step that adds light it is that
    /// light; colour may be below zero where a step takes some away.
    Gives {
        /// The element.
        element: u32,
        /// The step.
        step: u32,
    },
    /// An element without any step.
    Untouched {
        /// The element.
        element: u32,
    },
    /// A pass in canonical form, stored or extracted.
    Pass {
        /// The element.
        element: u32,
        /// The pass.
        pass: u32,
    },
    /// A pass as it lies under the result: through the moves of its element's steps, and where the element is put.
    PlacedPass {
        /// The element.
        element: u32,
        /// The pass.
        pass: u32,
    },
    /// A matte by name.
    Matte {
        /// The element.
        element: u32,
        /// The matte.
        matte: u32,
    },
    /// A matte by name as it lies under the result.
    PlacedMatte {
        /// The element.
        element: u32,
        /// The matte.
        matte: u32,
    },
    /// The matte that limits a step.
    Limit {
        /// The element.
        element: u32,
        /// The step.
        step: u32,
    },
    /// Where a finding was found on a pass: 1 there, 0 elsewhere.
    Finding {
        /// The element.
        element: u32,
        /// The pass.
        pass: u32,
        /// What was found.
        finding: FindingKind,
    },
}

/// What is wanted, and how large.
#[derive(Clone, Debug)]
pub struct Request {
    /// What to make a picture of.
    pub target: Target,
    /// In px at `scale`.
    pub window: Window,
    /// Proxy scale.
    pub scale: Scale,
    /// Frame number; a still is the same at every frame.
    pub frame: i32,
    /// The shot's frame, full-resolution px.
    pub display: Window,
    /// Pulled when nobody waits any more.
    pub cancel: Cancel,
    /// Where to note what was done, for tests.
    pub trace: Option<Trace>,
}

impl Request {
    /// The whole frame of a target.
    pub fn frame(shot: &Shot, target: Target, scale: Scale) -> Self {
        let (window, frame) = (scale.window(shot.display), shot.first_frame());
        Self { target, window, scale, frame, display: shot.display, cancel: Cancel::new(), trace: None }
    }

    /// An element before any step at the same frame, whole, and so small that it is at most this wide, px.
    pub(super) fn untouched(&self, element: u32, wide: u32) -> Self {
        let scale = Scale::at_most(self.display, wide);
        let target = Target::Untouched { element };
        Self { target, window: scale.window(self.display), scale, ..self.clone() }
    }
}

/// One thing that the engine did.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Event {
    /// A step was computed.
    Ran {
        /// Number of the step.
        step: u32,
    },
    /// A kept result of a step was used.
    Reused {
        /// Number of the step.
        step: u32,
    },
    /// An extracted pass was made.
    Made {
        /// Number of the pass.
        pass: u32,
    },
    /// A picture was sampled through moves.
    Sampled {
        /// Number of the element.
        element: u32,
        /// How many moves that was in one.
        moves: usize,
    },
    /// A pass was made from its file.
    Read {
        /// Its role.
        role: Role,
    },
}

/// A shared list of events.
pub type Trace = Arc<Mutex<Vec<Event>>>;
