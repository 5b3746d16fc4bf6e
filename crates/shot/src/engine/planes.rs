//! Passes: read once, brought into canonical form, kept at each scale.

use super::keeper::Engine;
use super::key;
use super::reader::coverage;
use super::request::{Event, Request};
use crate::document::{Element, MediaId, Pass, Source};
use crate::error::ShotError;
use crate::files::{MediaFile, Opens};
use jugata_core::colour::lut::Lut;
use jugata_core::passes::convention::{Setting, canonical};
use jugata_core::passes::repair;
use jugata_core::raster::scale;
use jugata_core::{Cancel, Raster, Role, Scale, Window};
use jugata_exchange::{ImageFile, Part};
use std::sync::Arc;

impl Engine {
    /// The decoded file of a pass.
    pub(crate) fn file(&self, pass: &Pass) -> Result<Arc<ImageFile>, ShotError> {
        self.media(&pass.source)
    }

    /// A decoded file by its hash, read once however many ask at the same time.
    ///
    /// # Errors
    /// A file that is not at hand or not readable.
    pub fn media(&self, source: &Source) -> Result<Arc<ImageFile>, ShotError> {
        if let Some(file) = self.caches.files.get(&source.media) {
            return Ok(file);
        }
        let load = || {
            let bytes = self.library.bytes(source)?;
            Ok(Arc::new(jugata_exchange::read(&bytes, &self.limits)?))
        };
        self.caches
            .files
            .try_get_with(source.media.clone(), load)
            .map_err(|e| Arc::try_unwrap(e).unwrap_or_else(ShotError::Shared))
    }

    /// Keeps a file that somebody has decoded already.
    pub fn admit(&self, media: MediaId, image: impl Into<Arc<ImageFile>>) {
        self.caches.files.insert(media, image.into());
    }

    /// A colour table that was brought in.
    ///
    /// # Errors
    /// A file that is not at hand or no colour table.
    pub fn lut(&self, file: &MediaFile) -> Result<Arc<Lut>, ShotError> {
        if let Some(lut) = self.caches.luts.get(&file.media) {
            return Ok(lut);
        }
        let lut = Arc::new(jugata_exchange::cube_read::read(&self.library.bytes(&source_of(file))?)?);
        self.caches.luts.insert(file.media.clone(), lut.clone());
        Ok(lut)
    }

    /// All bytes of a file that was brought in.
    pub(crate) fn bytes(&self, file: &MediaFile) -> Result<Arc<Vec<u8>>, ShotError> {
        Ok(Arc::new(self.library.bytes(&source_of(file))?))
    }

    /// The planes of a pass as they are stored, but for repairs of place, holes and alpha.
    pub(crate) fn stored(
        &self,
        element: &Element,
        pass: &Pass,
        display: Window,
    ) -> Result<Raster, ShotError> {
        let stored = self.planes_of(pass, &pass.source.channels)?;
        let alpha = match coverage(element, pass) {
            Some(by) => Some(self.planes_of(by, &by.source.channels[by.source.channels.len() - 1..])?),
            None => None,
        };
        Ok(repair::on_stored(stored, pass.role, &pass.repairs, display, alpha.as_ref()))
    }

    fn planes_of(&self, pass: &Pass, channels: &[String]) -> Result<Raster, ShotError> {
        let file = self.file(pass)?;
        let read = part_of(&file, pass)?.raster(channels);
        read.map_err(|name| lacks(&pass.source, format!("it has no channel {name}")))
    }

    /// A whole pass in canonical form at a scale.
    pub(crate) fn pass(
        &self,
        element: &Element,
        pass: &Pass,
        at: Scale,
        display: Window,
        request: Option<&Request>,
    ) -> Result<Arc<Raster>, ShotError> {
        let key = key::of_pass(element, pass).at(display, at);
        let cancel = request.map(|r| r.cancel.clone()).unwrap_or_default();
        let (raster, _) = self.keep(key, || {
            if at == Scale::FULL {
                note(request, Event::Read { role: pass.role });
                let stored = self.stored(element, pass, display)?;
                let setting = Setting { camera: self.camera(element, display)?, display };
                return read(&stored, pass, &setting, &cancel);
            }
            let full = self.pass(element, pass, Scale::FULL, display, request)?;
            Ok(if pass.role.averages() {
                scale::average(&full, at, &cancel)?
            } else {
                scale::pick(&full, at, &cancel)?
            })
        })?;
        Ok(raster)
    }
}

/// Brings stored planes into canonical form, repairs included.
fn read(stored: &Raster, pass: &Pass, setting: &Setting, cancel: &Cancel) -> Result<Raster, ShotError> {
    let mut out = canonical(stored, pass.role, &pass.convention, setting, cancel)?;
    repair::on_canonical(&mut out, pass.role, &pass.repairs);
    Ok(out)
}

fn lacks(source: &Source, what: String) -> ShotError {
    ShotError::Parameter { place: source.file.clone(), what }
}

/// The part of a file that a pass is in.
pub(super) fn part_of<'f>(file: &'f ImageFile, pass: &Pass) -> Result<&'f Part, ShotError> {
    let s = &pass.source;
    file.parts.get(s.part as usize).ok_or_else(|| lacks(s, format!("it has no part {}", s.part)))
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

impl Opens for Engine {
    fn open(&self, file: &MediaFile) -> Result<Arc<ImageFile>, ShotError> {
        self.media(&source_of(file))
    }

    fn frame(&self, file: &MediaFile) -> Result<Window, ShotError> {
        if let Some(known) = self.caches.files.get(&file.media) {
            return Ok(known.display_window);
        }
        Ok(jugata_exchange::read::frame_of(&self.library.bytes(&source_of(file))?, &self.limits)?)
    }
}

fn source_of(file: &MediaFile) -> Source {
    let (media, file) = (file.media.clone(), file.name.clone());
    Source { media, file, part: 0, channels: Vec::new(), sequence: None }
}
