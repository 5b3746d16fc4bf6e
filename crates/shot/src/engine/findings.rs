//! What the checks say of an element's passes.

use super::keeper::Engine;
use super::key;
use super::planes::{on_window, part_of};
use super::request::Request;
use crate::document::{Element, Pass, Shot};
use crate::error::ShotError;
use jugata_core::passes::checks::{self, Case, Evidence, Finding, FindingKind};
use jugata_core::passes::convention::Setting;
use jugata_core::raster::scale;
use jugata_core::{Raster, Role, SampleKind, Scale, Window};
use std::sync::Arc;

pub(super) fn findings(
    engine: &Engine,
    shot: &Shot,
    element: u32,
    frame: i32,
) -> Result<Arc<Vec<Finding>>, ShotError> {
    let now = shot.at_frame(frame);
    let here = key::element_of(&now, element)?;
    let next = next_beauty(shot, element, frame)?;
    let content = key::of_passes(here, shot.display);
    let key = match &next {
        Some((element, pass)) => content.and(key::of_pass(element, pass)),
        None => content,
    };
    if let Some(kept) = engine.caches.findings.get(&key) {
        return Ok(kept);
    }
    let display = shot.display;
    let passes = here.passes.iter().map(|p| evidence(engine, here, p, display)).collect::<Result<_, _>>()?;
    let next = match &next {
        Some((element, pass)) => Some(engine.pass(element, pass, Scale::FULL, display, None)?),
        None => None,
    };
    let case = Case::new(passes, Setting { camera: engine.camera(here, display)?, display }, next);
    let found = Arc::new(checks::run(&case));
    engine.caches.findings.insert(key, found.clone());
    Ok(found)
}

/// The beauty of the frame after, where there is one of its own.
fn next_beauty(shot: &Shot, element: u32, frame: i32) -> Result<Option<(Element, Pass)>, ShotError> {
    let of = |e: &Element| e.pass_of(Role::Beauty).map(|p| p.source.media.clone());
    let Some(now) = of(key::element_of(&shot.at_frame(frame), element)?) else { return Ok(None) };
    let after = shot.at_frame(frame.saturating_add(1));
    let after = key::element_of(&after, element)?;
    let pass = after.pass_of(Role::Beauty).filter(|p| p.source.media != now);
    Ok(pass.map(|p| (after.clone(), p.clone())))
}

fn evidence(engine: &Engine, element: &Element, pass: &Pass, display: Window) -> Result<Evidence, ShotError> {
    let file = engine.file(pass)?;
    let part = part_of(&file, pass)?;
    let kinds = pass.source.channels.iter().filter_map(|n| part.channel(n)).map(|c| c.kind);
    let canonical = engine.pass(element, pass, Scale::FULL, display, None)?;
    // Most passes are stored as they are meant: one copy will do.
    let stored = Arc::new(engine.stored(element, pass, display)?);
    let stored = if *stored == *canonical { canonical.clone() } else { stored };
    Ok(Evidence {
        id: pass.id,
        name: pass.name.clone(),
        role: pass.role,
        stored,
        canonical,
        kind: kinds.min().unwrap_or(SampleKind::Float),
        lossy: part.lossy,
        convention: pass.convention,
        repairs: pass.repairs.clone(),
    })
}

/// Where something was found, on the request's window; all of it where the finding has no place of its own.
pub(super) fn place(
    engine: &Engine,
    shot: &Shot,
    (element, pass, kind): (u32, u32, FindingKind),
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let found = findings(engine, shot, element, request.frame)?;
    let finding = found.iter().find(|f| f.pass == pass && f.kind == kind);
    Ok(match finding.map(|f| &f.place) {
        Some(Some(place)) => {
            on_window(Arc::new(scale::average(place, request.scale, &request.cancel)?), Role::Alpha, request)
        }
        Some(None) => Arc::new(Raster::filled(request.window, 1, 1.0)),
        None => Arc::new(Raster::zeros(request.window, 1)),
    })
}
