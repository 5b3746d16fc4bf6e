//! Passes: read once, brought into canonical form, kept at each scale.

use super::{Engine, Event, Request, key};
use crate::document::{Element, Pass};
use crate::error::ShotError;
use jugata_core::{Raster, Role, Scale, convention, scale};
use jugata_exchange::{ExchangeError, ImageFile};
use std::sync::Arc;

impl Engine {
    /// The decoded file of a pass, read once however many ask at the same time.
    pub(super) fn file(&self, pass: &Pass) -> Result<Arc<ImageFile>, ShotError> {
        let media = &pass.source.media;
        if let Some(file) = self.caches.files.get(media) {
            return Ok(file);
        }
        let load = || {
            let bytes = self.library.bytes(&pass.source)?;
            Ok(Arc::new(jugata_exchange::read(&bytes, &self.limits)?))
        };
        self.caches
            .files
            .try_get_with(media.clone(), load)
            .map_err(|e| Arc::try_unwrap(e).unwrap_or_else(ShotError::Shared))
    }

    /// The planes of a pass as they are stored.
    pub(super) fn stored(&self, pass: &Pass) -> Result<Raster, ShotError> {
        let file = self.file(pass)?;
        let damaged = |what: String| ShotError::Media(ExchangeError::Damaged { what });
        let part = file
            .parts
            .get(pass.source.part as usize)
            .ok_or_else(|| damaged(format!("{} has no part {}", pass.source.file, pass.source.part)))?;
        part.raster(&pass.source.channels)
            .map_err(|name| damaged(format!("{} has no channel {name}", pass.source.file)))
    }

    /// A whole pass in canonical form at a scale.
    pub(crate) fn pass(
        &self,
        element: &Element,
        pass: &Pass,
        at: Scale,
        request: Option<&Request>,
    ) -> Result<Arc<Raster>, ShotError> {
        let key = key::of_pass(element, pass).at(Default::default(), at);
        let (raster, _) = self.keep(key, || {
            if at == Scale::FULL {
                note(request, Event::Read { role: pass.role });
                let stored = self.stored(pass)?;
                return Ok(convention::canonical(&stored, pass.role, pass.convention, element.camera));
            }
            let full = self.pass(element, pass, Scale::FULL, request)?;
            Ok(if pass.role.averages() { scale::average(&full, at) } else { scale::pick(&full, at) })
        })?;
        Ok(raster)
    }

    /// What an element offers for a role on the request's window: its pass, or positions from depth and
    /// camera. `None` if it has neither.
    pub(super) fn role(
        &self,
        element: &Element,
        role: Role,
        request: &Request,
    ) -> Result<Option<Arc<Raster>>, ShotError> {
        if let Some(pass) = element.pass_of(role) {
            let whole = self.pass(element, pass, request.scale, Some(request))?;
            return Ok(Some(on_window(whole, role, request)));
        }
        match (role, element.camera, element.pass_of(Role::Depth)) {
            (Role::Position, Some(camera), Some(depth)) => {
                let Some(content) = key::of_role(element, role) else { return Ok(None) };
                let (positions, _) = self.keep(content.at(request.window, request.scale), || {
                    let depth = self.pass(element, depth, request.scale, Some(request))?;
                    let depth = on_window(depth, Role::Depth, request);
                    Ok(camera.positions(&depth, request.scale, &request.cancel)?)
                })?;
                Ok(Some(positions))
            }
            _ => Ok(None),
        }
    }
}

/// The samples of the request's window.
pub(super) fn on_window(whole: Arc<Raster>, role: Role, request: &Request) -> Arc<Raster> {
    if whole.window() == request.window {
        whole
    } else {
        Arc::new(whole.cropped(request.window, role.outside()))
    }
}

pub(super) fn note(request: Option<&Request>, event: Event) {
    if let Some(trace) = request.and_then(|r| r.trace.as_ref())
        && let Ok(mut trace) = trace.lock()
    {
        trace.push(event);
    }
}
