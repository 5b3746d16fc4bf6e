//! The engine: where files come from, and what it keeps of what it made.

use super::cache::{CacheSizes, Caches, Memory};
use super::request::Request;
use crate::content::ContentHash;
use crate::error::ShotError;
use crate::media::Library;
use jugata_core::{Raster, Scale, Window};
use jugata_exchange::Limits;
use std::sync::Arc;

/// Evaluates documents; shared by all requests.
pub struct Engine {
    pub(super) library: Arc<dyn Library>,
    pub(super) limits: Limits,
    pub(super) caches: Caches,
    /// Bytes that one request may need at once.
    pub(super) at_once: u64,
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

    /// Bytes that one request may need at once.
    pub fn at_once(&self) -> u64 {
        self.at_once
    }

    /// Memory that is held now.
    pub fn memory(&self) -> Memory {
        self.caches.memory()
    }

    /// What was worked out last of a content at a scale, if it is still there.
    pub(super) fn latest(&self, content: ContentHash, scale: Scale) -> Option<Arc<Raster>> {
        let window = self.caches.windows.get(&content.at(Window::default(), scale))?;
        self.caches.results.get(&content.at(window, scale))
    }

    /// A result on a window. What was worked out last is used as far as it reaches: a pan makes only what comes into view.
    /// `make` works out any window of it.
    pub(super) fn keep_window(
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

    /// A result that was made, or is made now and kept.
    pub(super) fn keep(
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
