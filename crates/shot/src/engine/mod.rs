//! Document + target + window + scale → raster.
//!
//! A pure function of its inputs: the same bytes on every run, for any number of threads, for a cold or a
//! warm cache, and for any way a window is cut into pieces. The engine walks back from the wanted window
//! through the steps, growing it by each step's reach. Results are kept under a hash of everything that
//! made them.

mod cache;
mod composition;
mod cost;
pub(crate) mod evaluate;
mod facts;
mod findings;
mod finishes;
pub(crate) mod geometry;
pub(crate) mod key;
mod lighting;
pub(crate) mod mattes;
mod planes;
mod probe;
pub(crate) mod scene;
pub(crate) mod wants;

pub use cache::{CacheSizes, Memory, MemoryUse};
pub use evaluate::Evaluated;
pub use facts::Facts;
pub use finishes::Finishing;
pub use key::ContentHash;
pub(crate) use key::Hashes;
pub use probe::PassValues;

use crate::document::Shot;
use crate::error::ShotError;
use crate::media::Library;
use crate::still::Still;
use cache::Caches;
use jugata_core::light::harmonics::Fit;
use jugata_core::passes::checks::{Finding, FindingKind};
use jugata_core::{Cancel, Raster, Role, Scale, Window};
use jugata_exchange::Limits;
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
    /// A matte by name.
    Matte {
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
    fn untouched(&self, element: u32, wide: u32) -> Self {
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

/// Evaluates documents; shared by all requests.
pub struct Engine {
    library: Arc<dyn Library>,
    limits: Limits,
    caches: Caches,
    /// Bytes that one request may need at once.
    at_once: u64,
}

impl Engine {
    /// An engine that takes files from `library`.
    pub fn new(library: Box<dyn Library>, limits: Limits, sizes: CacheSizes) -> Self {
        Self { library: library.into(), limits, caches: Caches::new(sizes), at_once: sizes.at_once }
    }

    /// An engine that knows what this one has kept and keeps what it makes itself beside it: what is made ahead takes nothing
    /// away from what somebody works on.
    pub fn beside(&self, sizes: CacheSizes) -> Self {
        let (library, caches) = (self.library.clone(), self.caches.beside(sizes));
        Self { library, limits: self.limits, caches, at_once: sizes.at_once }
    }

    /// The raster of a request: RGBA for pictures, canonical planes for passes, one plane for limits.
    ///
    /// # Errors
    /// Missing elements, steps, passes or files; unreadable files; cancellation.
    pub fn evaluate(&self, shot: &Shot, request: &Request) -> Result<Evaluated, ShotError> {
        evaluate::evaluate(self, shot, request)
    }

    /// The window that a request's picture covers, px of its scale: the shot's frame, and what lies beyond it (overscan).
    ///
    /// # Errors
    /// Missing elements or steps; unreadable files.
    pub fn covers(&self, shot: &Shot, request: &Request) -> Result<Window, ShotError> {
        let shot = &Still::of(shot, request.frame)?;
        let hashes = Hashes::of(shot);
        evaluate::covers(scene::Scene::new(self, &hashes), request)
    }

    /// Hash of everything that decides the pixels of a request, without computing them.
    ///
    /// # Errors
    /// Missing elements, steps or passes.
    pub fn content(&self, shot: &Shot, request: &Request) -> Result<ContentHash, ShotError> {
        Ok(key::of_target(&Hashes::of(&Still::of(shot, request.frame)?), request.target)?
            .at(request.window, request.scale))
    }

    /// Values of every pass of an element at a full-resolution pixel of a frame.
    ///
    /// # Errors
    /// A missing element or file.
    pub fn probe(
        &self,
        shot: &Shot,
        element: u32,
        frame: i32,
        (x, y): (i32, i32),
    ) -> Result<Vec<PassValues>, ShotError> {
        probe::probe(self, &Still::of(shot, frame)?, element, x, y)
    }

    /// What is known of an element's stored passes at a frame.
    ///
    /// # Errors
    /// A missing element or file.
    pub fn facts(&self, shot: &Shot, element: u32, frame: i32) -> Result<Vec<Facts>, ShotError> {
        facts::facts(self, &Still::of(shot, frame)?, element)
    }

    /// What the checks say of an element's passes at a frame; kept until a pass or its reading changes.
    ///
    /// # Errors
    /// A missing element or file.
    pub fn findings(&self, shot: &Shot, element: u32, frame: i32) -> Result<Arc<Vec<Finding>>, ShotError> {
        findings::findings(self, shot, element, frame)
    }

    /// The light on an element before any step, at the frame of a request.
    ///
    /// # Errors
    /// A missing element or file; too little of it to be seen.
    pub fn light_on(&self, shot: &Shot, element: u32, request: &Request) -> Result<Fit, ShotError> {
        let shot = &Still::of(shot, request.frame)?;
        let hashes = Hashes::of(shot);
        scene::Scene::new(self, &hashes).light_of(key::element_of(shot, element)?, request)
    }

    /// Bytes that one request may need at once.
    pub fn at_once(&self) -> u64 {
        self.at_once
    }

    /// Memory that is held now.
    pub fn memory(&self) -> Memory {
        self.caches.memory()
    }

    /// What was worked out last of a content at a scale, if it is still there.
    fn latest(&self, content: ContentHash, scale: Scale) -> Option<Arc<Raster>> {
        let window = self.caches.windows.get(&content.at(Window::default(), scale))?;
        self.caches.results.get(&content.at(window, scale))
    }

    /// A result on a window. What was worked out last is used as far as it reaches: a pan makes only what comes into view.
    /// `make` works out any window of it.
    fn keep_window(
        &self,
        content: ContentHash,
        request: &Request,
        make: impl Fn(&Request) -> Result<Arc<Raster>, ShotError>,
    ) -> Result<(Arc<Raster>, bool), ShotError> {
        let (window, scale) = (request.window, request.scale);
        let key = content.at(window, scale);
        if let Some(kept) = self.caches.results.get(&key) {
            return Ok((kept, true));
        }
        let before = self.latest(content, scale);
        let shared = before.as_ref().map_or(Window::default(), |b| b.window().intersect(&window));
        let made = match before {
            Some(before) if shared == window => return Ok((Arc::new(before.cropped(window, 0.0)), true)),
            Some(before) if 2 * shared.area() >= window.area() && !window.is_empty() => {
                let mut grown = before.cropped(window, 0.0);
                for strip in window.without(&shared) {
                    grown.paste(make(&Request { window: strip, ..request.clone() })?.as_ref());
                }
                Arc::new(grown)
            }
            _ => make(request)?,
        };
        self.caches.results.insert(key, made.clone());
        let place = content.at(Window::default(), scale);
        // A strip of a pan is no place to begin the next one at.
        let larger = |old: Window| old.area() > window.area() && self.latest(content, scale).is_some();
        if !self.caches.windows.get(&place).is_some_and(larger) {
            self.caches.windows.insert(place, window);
        }
        Ok((made, false))
    }

    fn keep(
        &self,
        key: ContentHash,
        make: impl FnOnce() -> Result<Raster, ShotError>,
    ) -> Result<(Arc<Raster>, bool), ShotError> {
        if let Some(kept) = self.caches.results.get(&key) {
            return Ok((kept, true));
        }
        let made = Arc::new(make()?);
        self.caches.results.insert(key, made.clone());
        Ok((made, false))
    }
}
