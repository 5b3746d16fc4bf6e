//! The walk through the steps.

use super::findings;
use super::key::{self, ContentHash};
use super::planes::{note, on_window};
use super::{Engine, Event, Request, Target};
use crate::document::{Element, LimitBy, Shot, Step};
use crate::error::ShotError;
use crate::steps::{Inputs, Reach};
use jugata_core::blend::{self, Join};
use jugata_core::matte::{self, DepthRange};
use jugata_core::{Raster, Role, Scale, Window, composite, hashed};
use std::collections::BTreeMap;
use std::sync::Arc;

/// A raster with what it means.
#[derive(Clone, Debug)]
pub struct Evaluated {
    /// The samples, on the window that was asked for.
    pub raster: Arc<Raster>,
    /// What they are: beauty for pictures, the pass's role, "other" for a limit.
    pub role: Role,
    /// Hash of what made them.
    pub content: ContentHash,
}

/// What stays the same on the way back through the steps.
#[derive(Clone, Copy)]
struct Walk<'a> {
    engine: &'a Engine,
    /// The shot's frame, full-resolution px.
    frame: Window,
}

pub(super) fn evaluate(engine: &Engine, shot: &Shot, request: &Request) -> Result<Evaluated, ShotError> {
    request.cancel.check()?;
    let walk = Walk { engine, frame: shot.display };
    let content = engine.content(shot, request)?;
    let made = |raster, role| Ok(Evaluated { raster, role, content });
    match request.target {
        Target::Shot => made(composition(walk, shot, request)?, Role::Beauty),
        Target::Pass { element, pass } => {
            let element = key::element_of(shot, element)?;
            let pass = key::pass_of(element, pass)?;
            let whole = engine.pass(element, pass, request.scale, request.display, Some(request))?;
            made(on_window(whole, pass.role, request), pass.role)
        }
        Target::Finding { element, pass, finding } => {
            made(findings::place(engine, shot, (element, pass, finding), request)?, Role::Alpha)
        }
        Target::Limit { element, step } => {
            let element = key::element_of(shot, element)?;
            let step = &element.steps[key::place_of(element, step)?];
            let matte = limit(engine, element, step, request)?
                .unwrap_or_else(|| Arc::new(Raster::filled(request.window, 1, 1.0)));
            made(matte, Role::Alpha)
        }
        Target::After { element, .. } | Target::Before { element, .. } | Target::Untouched { element } => {
            let element = key::element_of(shot, element)?;
            let count = key::steps_of(element, request.target)?.unwrap_or(0);
            made(after_steps(walk, element, count, request)?, Role::Beauty)
        }
    }
}

/// All elements over each other, the first lowest.
fn composition(walk: Walk<'_>, shot: &Shot, request: &Request) -> Result<Arc<Raster>, ShotError> {
    let mut below: Option<Arc<Raster>> = None;
    for element in &shot.elements {
        let top = after_steps(walk, element, element.steps.len(), request)?;
        below = Some(match below {
            None => top,
            Some(bottom) => Arc::new(composite::over(&top, &bottom, &request.cancel)?),
        });
    }
    Ok(below.unwrap_or_else(|| Arc::new(Raster::zeros(request.window, 4))))
}

/// An element's picture after its first `count` steps, on the request's window.
fn after_steps(
    walk: Walk<'_>,
    element: &Element,
    count: usize,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let Some((step, before)) = element.steps.get(..count).and_then(|s| s.split_last()) else {
        let picture = walk.engine.role(element, Role::Beauty, request)?;
        return Ok(picture.unwrap_or_else(|| Arc::new(Raster::zeros(request.window, 4))));
    };
    if !key::has_effect(step) {
        return after_steps(walk, element, before.len(), request);
    }
    // What needs the whole frame is worked out and kept once, whatever part of it is asked for.
    let whole = request.scale.window(walk.frame);
    if step.does.reach() == Reach::WholeFrame && request.window != whole {
        let wanted = request.window;
        let request = Request { window: whole, ..request.clone() };
        let all = after_steps(walk, element, count, &request)?;
        return Ok(Arc::new(all.cropped(wanted, 0.0)));
    }
    let key = key::of_element(element, count).at(request.window, request.scale);
    let (raster, reused) = walk.engine.keep(key, || run(walk, element, step, before.len(), request))?;
    let id = step.id;
    note(Some(request), if reused { Event::Reused { step: id } } else { Event::Ran { step: id } });
    Ok(raster)
}

fn run(
    walk: Walk<'_>,
    element: &Element,
    step: &Step,
    before: usize,
    request: &Request,
) -> Result<Raster, ShotError> {
    request.cancel.check()?;
    let engine = walk.engine;
    let wide = Request { window: reached(step.does.reach(), request, walk.frame), ..request.clone() };
    let picture = after_steps(walk, element, before, &wide)?;
    let mut passes = BTreeMap::new();
    for reads in step.does.reads() {
        match engine.role(element, reads.role, &wide)? {
            Some(raster) => {
                passes.insert(reads.role, raster);
            }
            None if reads.required => return Err(lacks(element, step, reads.role)),
            None => {}
        }
    }
    let inputs = Inputs {
        picture: &picture,
        passes: &passes,
        scale: request.scale,
        camera: element.camera,
        frame: walk.frame,
        cancel: &request.cancel,
    };
    let effect = step.does.apply(&inputs)?.cropped(request.window, 0.0);
    let matte = limit(engine, element, step, request)?;
    let how = Join { mode: step.joins.blend, space: step.joins.space, strength: step.joins.strength };
    let picture =
        if wide.window == request.window { picture } else { Arc::new(picture.cropped(request.window, 0.0)) };
    Ok(blend::join(&picture, &effect, matte.as_deref(), how, &request.cancel)?)
}

fn lacks(element: &Element, step: &Step, role: Role) -> ShotError {
    let (step, element) = (step.does.title().to_owned(), element.name.clone());
    match role {
        Role::Position => ShotError::NoPositions { step, element },
        role => ShotError::NoPass { step, role, element },
    }
}

/// The window that a step has to see. For the whole frame it must not depend on the window asked for, or
/// a picture cut into pieces would differ from one made at once.
fn reached(reach: Reach, request: &Request, frame: Window) -> Window {
    match reach {
        Reach::Px(px) => request.window.grown(request.scale.length(px.max(0.0)).ceil() as u32),
        Reach::WholeFrame => request.scale.window(frame),
    }
}

/// The matte that limits a step; `None` if nothing does.
fn limit(
    engine: &Engine,
    element: &Element,
    step: &Step,
    request: &Request,
) -> Result<Option<Arc<Raster>>, ShotError> {
    let Some(limit) = &step.only_where else { return Ok(None) };
    let key = key::of_limit(element, step).at(request.window, request.scale);
    let (raster, _) = engine.keep(key, || {
        let (role, by) = (role_of(&limit.by), &limit.by);
        let matte = match by {
            // A proxy averages coverage, so the matte is made at full size and then halved.
            LimitBy::Objects { ids } => {
                averaged(engine, element, role, step, request, |r| matte::from_ids(r, ids))?
            }
            LimitBy::Hashed { ids } => {
                let ids: Vec<u32> = ids.iter().map(|h| h.id).collect();
                averaged(engine, element, role, step, request, |r| hashed::matte(r, &ids))?
            }
            &LimitBy::Depth { near, far, near_soft, far_soft } => {
                let range = DepthRange { near, far, near_soft, far_soft };
                averaged(engine, element, role, step, request, |r| matte::from_depth(r, range))?
            }
        };
        Ok(if limit.invert { matte::invert(&matte)? } else { matte })
    })?;
    Ok(Some(raster))
}

fn role_of(by: &LimitBy) -> Role {
    match by {
        LimitBy::Objects { .. } => Role::ObjectId,
        LimitBy::Hashed { .. } => Role::HashedId,
        LimitBy::Depth { .. } => Role::Depth,
    }
}

fn averaged(
    engine: &Engine,
    element: &Element,
    role: Role,
    step: &Step,
    request: &Request,
    make: impl Fn(&Raster) -> Result<Raster, jugata_core::ShapeError>,
) -> Result<Raster, ShotError> {
    let Some(pass) = element.pass_of(role) else { return Err(lacks(element, step, role)) };
    let full = engine.pass(element, pass, Scale::FULL, request.display, Some(request))?;
    let n = request.scale.step();
    let w = request.window;
    let covered = Window::from_edges(
        i64::from(w.x) * i64::from(n),
        i64::from(w.y) * i64::from(n),
        w.right() * i64::from(n),
        w.bottom() * i64::from(n),
    );
    let part = full.cropped(covered.intersect(&full.window()), role.outside());
    Ok(jugata_core::scale::average(&make(&part)?, request.scale).cropped(w, 0.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reach_grows_windows_in_px_of_the_scale() {
        let frame = Window::of_size(1000, 500);
        let request = Request {
            target: Target::Shot,
            window: Window::new(10, 10, 20, 20),
            scale: Scale::halved(2).unwrap(),
            frame: 0,
            display: frame,
            cancel: jugata_core::Cancel::new(),
            trace: None,
        };
        assert_eq!(reached(Reach::Px(9.0), &request, frame), Window::new(7, 7, 26, 26));
        assert_eq!(reached(Reach::Px(0.0), &request, frame), request.window);
        assert_eq!(reached(Reach::WholeFrame, &request, frame), Window::of_size(250, 125));
    }
}
