//! Document + target + window + scale → raster.
//!
//! A pure function of its inputs: the same bytes on every run, for any number of threads, for a cold or a
//! warm cache, and for any way a window is cut into pieces. The engine walks back from the wanted window
//! through the steps, growing it by each step's reach. Results are kept under a hash of everything that
//! made them.

mod body;
mod cache;
mod composition;
mod cost;
pub(crate) mod evaluate;
mod exposed;
mod facts;
mod findings;
mod finishes;
pub(crate) mod geometry;
mod keeper;
pub(crate) mod key;
mod lighting;
pub(crate) mod mattes;
mod planes;
mod pose;
mod probe;
pub(crate) mod reader;
mod request;
pub(crate) mod scene;
pub(crate) mod wants;

pub use crate::content::ContentHash;
pub use cache::{CacheSizes, Memory, MemoryUse};
pub use evaluate::Evaluated;
pub use facts::Facts;
pub use finishes::Finishing;
pub use keeper::Engine;
pub(crate) use key::Hashes;
pub use probe::PassValues;
pub use request::{Event, Request, Target, Trace};

use crate::document::Shot;
use crate::error::ShotError;
use crate::still::Still;
use jugata_core::Window;
use jugata_core::light::harmonics::Fit;
use jugata_core::passes::checks::Finding;
use std::sync::Arc;

impl Engine {
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
}
