//! Mattes, put together of their parts.

use super::geometry::within;
use super::key;
use super::planes::on_window;
use super::reader::{Matte, Reader, lacks};
use super::request::Request;
use super::scene::Scene;
use crate::error::ShotError;
use crate::limit::MattePart;
use crate::parts::{Canvas, PartFrom};
use jugata_core::geometry::chain::{Chain, Move};
use jugata_core::geometry::field::Field;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::resample::read;
use jugata_core::matte::{self, edges};
use jugata_core::raster::soften::softened;
use jugata_core::{Raster, Role, Scale, ShapeError, Window};
use std::collections::HashMap;
use std::sync::Arc;

/// A matte on the request's window.
pub(crate) fn matte(scene: Scene<'_>, m: Matte<'_>, request: &Request) -> Result<Arc<Raster>, ShotError> {
    let key = key::of_matte(scene.hashes, m).at(request.window, request.scale);
    let moves = scene.moves_before(m.reader.element, m.reader.after, request.scale)?;
    let (raster, _) = scene.engine.keep(key, || {
        request.cancel.check()?;
        if !moves.is_identity() {
            // A matte is made where the render is, and follows the picture.
            let own = Matte { reader: Reader { after: 0, ..m.reader }, ..m };
            let field = Field::of(&moves, request.window);
            let part = field.part(scene.whole_window(m.reader.element, 0, request)?);
            let own = matte(scene, own, &Request { window: part, ..request.clone() })?;
            return Ok(read(&own, &field, &request.cancel)?);
        }
        let shaped = shaped(scene, m, request)?;
        Ok(if m.limit.invert { matte::invert(&shaped)? } else { shaped })
    })?;
    Ok(raster)
}

/// Its parts together, and what is done to their edge.
fn shaped(scene: Scene<'_>, m: Matte<'_>, request: &Request) -> Result<Raster, ShotError> {
    let finish = m.limit.finish;
    if finish.is_nothing() {
        return together(scene, m, request);
    }
    // Beyond the frame there is nothing to look at, and its edge is held: cut there, the answer is the same for
    // every window.
    let k = request.scale.length(1.0);
    let extent = scene.whole_window(m.reader.element, 0, request)?;
    let wide = request.window.grown(finish.reach(k).ceil() as u32).intersect(&extent);
    let wide = Request { window: wide, ..request.clone() };
    let mut out = together(scene, m, &wide)?;
    out = edges::grown(&out, finish.grow * k, &request.cancel)?;
    if let Some(band) = finish.band {
        let is: Vec<bool> = out.plane(0).iter().map(|v| *v >= 0.5).collect();
        out = edges::band(out.window(), &is, band.map(|v| v * k), 1.0, &request.cancel)?;
    }
    out = softened(&out, finish.soften * k, &request.cancel)?;
    if (finish.low, finish.high) != (0.0, 1.0) {
        out = matte::levels(&out, finish.low, finish.high)?;
    }
    Ok(out.cropped(request.window, 0.0))
}

fn together(scene: Scene<'_>, m: Matte<'_>, request: &Request) -> Result<Raster, ShotError> {
    let mut all: Option<Raster> = None;
    // Named mattes are made once here whatever the engine's cache has room for: those that name each other twice
    // would double the work at every level.
    let mut named: HashMap<u32, Arc<Raster>> = HashMap::new();
    for p in &m.limit.parts {
        request.cancel.check()?;
        let own = match p.by.kind().comes_from() {
            PartFrom::Matte(id) => match named.get(&id) {
                Some(own) => own.clone(),
                None => {
                    let missing = || ShotError::Missing { what: "matte", id };
                    let own = matte(scene, m.used(id).ok_or_else(missing)?, request)?;
                    named.insert(id, own.clone());
                    own
                }
            },
            _ => Arc::new(held_part(scene, m, p, request)?),
        };
        let own = if p.invert { Arc::new(matte::invert(&own)?) } else { own };
        let before = match all {
            Some(before) => before,
            // The first part stands alone, unless it takes away from nothing.
            None if p.joins != matte::Combine::Minus => {
                all = Some(Arc::unwrap_or_clone(own));
                continue;
            }
            None => Raster::zeros(request.window, 1),
        };
        all = Some(matte::combine(&before, &own, p.joins)?);
    }
    Ok(all.unwrap_or_else(|| Raster::zeros(request.window, 1)))
}

/// A part where the track is that it is held to.
fn held_part(scene: Scene<'_>, m: Matte<'_>, p: &MattePart, request: &Request) -> Result<Raster, ShotError> {
    let Some(track) = p.held.filter(|_| p.by.kind().is_drawn()) else { return part(scene, m, p, request) };
    let by = scene.plane(m.reader.element, track)?;
    // A matte must not ring.
    let chain = Chain::of([Move::Homography(by)]).at(request.scale).read_by(Kernel::Bilinear);
    let field = Field::of(&chain, request.window);
    let own = field.part(within(request.display, request.scale));
    let own = part(scene, m, p, &Request { window: own, ..request.clone() })?;
    Ok(read(&own, &field, &request.cancel)?)
}

fn part(scene: Scene<'_>, m: Matte<'_>, part: &MattePart, request: &Request) -> Result<Raster, ShotError> {
    let own = part.by.kind();
    match own.role() {
        Some(role) => averaged(scene, m, role, request, |pass| own.of_pass(pass)),
        None => own.draw(&Canvas { window: request.window, scale: request.scale, cancel: &request.cancel }),
    }
}

/// A proxy averages coverage, so the matte is made at full size and then halved.
fn averaged(
    scene: Scene<'_>,
    m: Matte<'_>,
    role: Role,
    request: &Request,
    make: impl Fn(&Raster) -> Result<Raster, ShapeError>,
) -> Result<Raster, ShotError> {
    let Some(pass) = m.reader.provider(role) else { return Err(lacks(m.reader.element, m.what, role)) };
    let at_full = Request { scale: Scale::FULL, ..request.clone() };
    let full = scene.pass(m.reader.element, pass, &at_full)?;
    let n = request.scale.step();
    let w = request.window;
    let covered = Window::from_edges(
        i64::from(w.x) * i64::from(n),
        i64::from(w.y) * i64::from(n),
        w.right() * i64::from(n),
        w.bottom() * i64::from(n),
    );
    let wanted = covered.intersect(&full.window());
    let part = on_window(full, role, &Request { window: wanted, ..at_full });
    Ok(jugata_core::raster::scale::average(&make(&part)?, request.scale, &request.cancel)?.cropped(w, 0.0))
}
