//! The walk through the steps.

use super::composition::composition;
use super::cost;
use super::findings;
use super::geometry::{self, Run};
use super::keeper::Engine;
use super::key::{self, ContentHash, Hashes};
use super::mattes::matte;
use super::planes::{note, on_window};
use super::reader::{Area, Matte, Reader, named_matte};
use super::request::{Event, Request, Target};
use super::scene::Scene;
use super::wants;
use crate::document::{Element, Joins, Shot, Step};
use crate::error::ShotError;
use crate::inputs::{Inputs, MakeKept};
use crate::limit::united;
use crate::steps::{Effect, Reach};
use crate::still::Still;
use jugata_core::colour::blend::{self, Brings, Join};
use jugata_core::geometry::field::Field;
use jugata_core::passes::moved::moved;
use jugata_core::raster::scale::MAX_HALVINGS;
use jugata_core::{Raster, Role, Scale, Window};
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

pub(super) fn evaluate(engine: &Engine, moving: &Shot, request: &Request) -> Result<Evaluated, ShotError> {
    request.cancel.check()?;
    let still = Still::of(moving, request.frame)?;
    let shot = &*still;
    cost::hold(engine.at_once, shot, request)?;
    let hashes = Hashes::of(&still);
    let scene = Scene::new(engine, &hashes);
    cost::hold_overscan(engine.at_once, scene, request)?;
    let content = key::of_target(&hashes, request.target)?.at(request.window, request.scale);
    let made = |raster, role| Ok(Evaluated { raster, role, content });
    match request.target {
        Target::Shot => made(composition(scene, request)?, Role::Beauty),
        Target::Pass { element, pass } => {
            let element = key::element_of(shot, element)?;
            let pass = key::provider_of(element, pass)?;
            let whole = scene.pass(element, pass, request)?;
            made(on_window(whole, pass.role(), request), pass.role())
        }
        Target::PlacedPass { element, pass } => {
            let element = key::element_of(shot, element)?;
            let pass = key::provider_of(element, pass)?;
            let whole = scene.pass(element, pass, request)?;
            made(Arc::new(in_place(scene, element, &whole, pass.role(), request)?), pass.role())
        }
        Target::PlacedMatte { element, matte: id } => {
            let element = key::element_of(shot, element)?;
            let chain = scene.moves_and_place(element, request.scale)?;
            let within = geometry::within(request.display, request.scale);
            let window = Field::of(&chain, request.window).part(within);
            let whole = matte(scene, named_matte(element, id)?, &Request { window, ..request.clone() })?;
            made(Arc::new(in_place(scene, element, &whole, Role::Alpha, request)?), Role::Alpha)
        }
        // The frame after this one says something, too.
        Target::Finding { element, pass, finding } => {
            made(findings::place(engine, moving, (element, pass, finding), request)?, Role::Alpha)
        }
        Target::Limit { element, step } => {
            let element = key::element_of(shot, element)?;
            let step = &element.steps[key::place_of(element, step)?];
            let matte = limit(scene, element, step, request)?
                .unwrap_or_else(|| Arc::new(Raster::filled(request.window, 1, 1.0)));
            made(matte, Role::Alpha)
        }
        Target::Matte { element, matte: id } => {
            let element = key::element_of(shot, element)?;
            made(matte(scene, named_matte(element, id)?, request)?, Role::Alpha)
        }
        Target::Gives { element, step } => {
            let element = key::element_of(shot, element)?;
            made(given(scene, element, key::place_of(element, step)?, request)?, Role::Beauty)
        }
        Target::After { element, .. } | Target::Before { element, .. } | Target::Untouched { element } => {
            let element = key::element_of(shot, element)?;
            let count = key::steps_of(element, request.target)?.unwrap_or(0);
            made(after_steps(scene, element, count, request)?, Role::Beauty)
        }
    }
}

/// The frame and what the picture of a target has beyond it, px of the request's scale.
pub(crate) fn covers(scene: Scene<'_>, request: &Request) -> Result<Window, ShotError> {
    let frame = request.scale.window(request.display);
    let shot = scene.shot;
    match request.target {
        Target::Shot => key::seen(shot).try_fold(frame, |all, e| {
            let run = scene.last_moves(e, e.steps.len(), true, request.scale)?;
            let before = scene.covers(e, run.after, request)?;
            Ok(united(all, run.chain.extent(before, geometry::within(request.display, request.scale))))
        }),
        Target::After { element, .. }
        | Target::Before { element, .. }
        | Target::Gives { element, .. }
        | Target::Untouched { element } => {
            let element = key::element_of(shot, element)?;
            let count = key::steps_of(element, request.target)?.unwrap_or(0);
            scene.whole_window(element, count, request)
        }
        Target::Pass { element, pass } => {
            let element = key::element_of(shot, element)?;
            let whole = scene.pass(element, key::provider_of(element, pass)?, request)?.window();
            Ok(united(frame, whole).intersect(&geometry::within(request.display, request.scale)))
        }
        Target::PlacedPass { element, .. } | Target::PlacedMatte { element, .. } => {
            let chain = scene.moves_and_place(key::element_of(shot, element)?, request.scale)?;
            Ok(united(frame, chain.extent(frame, geometry::within(request.display, request.scale))))
        }
        Target::Matte { .. } | Target::Limit { .. } | Target::Finding { .. } => Ok(frame),
    }
}

/// What belongs to an element as it lies under the result.
fn in_place(
    scene: Scene<'_>,
    element: &Element,
    whole: &Raster,
    role: Role,
    request: &Request,
) -> Result<Raster, ShotError> {
    let chain = scene.moves_and_place(element, request.scale)?;
    Ok(moved(whole, role, &chain, request.window, &request.cancel)?)
}

pub(super) fn join_of(joins: Joins) -> Join {
    Join { mode: joins.blend, space: joins.space, strength: joins.strength }
}

/// An element's picture after its first `count` steps, where it is put over those below it.
pub(super) fn placed(
    scene: Scene<'_>,
    element: &Element,
    count: usize,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    if element.placement.is_none() {
        return after_steps(scene, element, count, request);
    }
    let run = scene.last_moves(element, count, true, request.scale)?;
    let content = key::of_placed(scene.hashes, element, count);
    through(scene, element, &run, content, request)
}

/// Most pixels of an element's picture that others use: a larger one is taken smaller.
const MOST_OF_ANOTHER: usize = 1 << 24;

/// An element's picture after all its steps over its own frame, at the finest scale that is no larger than is worth while,
/// whatever scale is asked for: what uses it has a geometry of its own.
pub(super) fn alone(
    scene: Scene<'_>,
    element: &Element,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let frame = scene.frame_of(element)?;
    let fits = |s: &Scale| s.window(frame).area() <= MOST_OF_ANOTHER;
    let scale = (0..=MAX_HALVINGS).filter_map(Scale::halved).find(fits).unwrap_or(request.scale);
    let request = Request { window: scale.window(frame), scale, ..request.clone() };
    after_steps(scene, element, element.steps.len(), &request)
}

/// An element's picture through the moves at the end of its steps: sampled once, and kept.
fn through(
    scene: Scene<'_>,
    element: &Element,
    run: &Run,
    content: ContentHash,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    if run.chain.is_identity() {
        return after_steps(scene, element, run.after, request);
    }
    let (raster, _) = scene.engine.keep_window(content, request, |part| {
        let before = |part: &Request| after_steps(scene, element, run.after, part);
        Ok(Arc::new(scene.sampled(element, run, part, before)?))
    })?;
    Ok(raster)
}

/// What the step at a place gives: the picture after it less the picture before it, with the coverage that it leaves.
fn given(
    scene: Scene<'_>,
    element: &Element,
    place: usize,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let after = after_steps(scene, element, place + 1, request)?;
    let before = after_steps(scene, element, place, request)?;
    let mut gives = after.as_ref().clone();
    for c in 0..3 {
        gives.plane_mut(c).iter_mut().zip(before.plane(c)).for_each(|(v, before)| *v -= before);
    }
    Ok(Arc::new(gives))
}

/// An element's picture after its first `count` steps, on the request's window.
pub(super) fn after_steps(
    scene: Scene<'_>,
    element: &Element,
    count: usize,
    request: &Request,
) -> Result<Arc<Raster>, ShotError> {
    let Some((step, before)) = element.steps.get(..count).and_then(|s| s.split_last()) else {
        let picture = scene.read(Reader::of(element, &[]), Role::Beauty, request)?;
        return Ok(picture.unwrap_or_else(|| Arc::new(Raster::zeros(request.window, 4))));
    };
    if !key::has_effect(step) {
        return after_steps(scene, element, before.len(), request);
    }
    let content = key::of_element(scene.hashes, element, count);
    if geometry::moves_all(step) {
        let run = scene.last_moves(element, count, false, request.scale)?;
        return through(scene, element, &run, content, request);
    }
    // What needs the whole frame is worked out and kept once, whatever part of it is asked for.
    if step.does.kind().reach() == Reach::WholeFrame {
        let whole = scene.whole_window(element, before.len(), request)?;
        if request.window != whole {
            let wanted = request.window;
            let request = Request { window: whole, ..request.clone() };
            let all = after_steps(scene, element, count, &request)?;
            return Ok(Arc::new(all.cropped(wanted, 0.0)));
        }
    }
    let (raster, reused) = scene
        .engine
        .keep_window(content, request, |part| Ok(Arc::new(run(scene, element, step, before.len(), part)?)))?;
    let id = step.id;
    note(Some(request), if reused { Event::Reused { step: id } } else { Event::Ran { step: id } });
    Ok(raster)
}

fn run(
    scene: Scene<'_>,
    element: &Element,
    step: &Step,
    before: usize,
    request: &Request,
) -> Result<Raster, ShotError> {
    request.cancel.check()?;
    if step.does.kind().is_move() {
        return moved_in_part(scene, element, step, before, request);
    }
    // What lies beyond the picture is as its edge: an empty border would be drawn in by whatever looks around.
    let there = scene.whole_window(element, before, request)?;
    let window = reached(step.does.kind().reach(), request).intersect(&there);
    let wide = Request { window, ..request.clone() };
    let picture = after_steps(scene, element, before, &wide)?;
    let (effect, brings) = match effect(scene, element, step, before, &picture, &wide)? {
        Effect::Replace(raster) => (raster, Brings::Replaces),
        Effect::Over(raster) => (raster, Brings::LiesOver),
        Effect::Light(raster) => (raster, Brings::Adds),
    };
    let effect = effect.cropped(request.window, 0.0);
    let matte = limit(scene, element, step, request)?;
    let picture =
        if wide.window == request.window { picture } else { Arc::new(picture.cropped(request.window, 0.0)) };
    Ok(blend::join(&picture, &effect, brings, matte.as_deref(), join_of(step.joins), &request.cancel)?)
}

/// A move that is limited, or not at full strength: the picture before it and after it, each sampled once.
fn moved_in_part(
    scene: Scene<'_>,
    element: &Element,
    step: &Step,
    before: usize,
    request: &Request,
) -> Result<Raster, ShotError> {
    let picture = after_steps(scene, element, before, request)?;
    let run = scene.moves_up_to(element, before, request.scale)?;
    let effect =
        scene.sampled(element, &run, request, |part| after_steps(scene, element, run.after, part))?;
    let matte = limit(scene, element, step, request)?;
    let how = join_of(step.joins);
    Ok(blend::join(&picture, &effect, Brings::Replaces, matte.as_deref(), how, &request.cancel)?)
}

/// What a step makes of the picture before it, on the window that it has to see.
fn effect(
    scene: Scene<'_>,
    element: &Element,
    step: &Step,
    before: usize,
    picture: &Raster,
    wide: &Request,
) -> Result<Effect, ShotError> {
    let kind = step.does.kind();
    let (title, wants) = (kind.about().title, kind.wants());
    let reader = Reader::at(element, &step.reads, before);
    let moves = scene.moves_before(element, before, wide.scale)?;
    let found = wants::found(scene, reader, title, wants.clone(), wide, Area::Window)?;
    let sees = key::limit_of(element, step).filter(|_| kind.sees_its_limit());
    let own_limit = sees.map(|m| matte(scene, m, wide)).transpose()?;
    let of_limit = sees.map(|m| key::of_matte(scene.hashes, m));
    let keep = |key: &str, make: MakeKept<'_>| {
        let content = key::of_kept(scene.hashes, reader, kind, key);
        let content = of_limit.map_or(content, |m| content.and(m)).at(wide.window, wide.scale);
        Ok(scene.engine.keep(content, make)?.0)
    };
    let mut inputs = Inputs {
        limit: own_limit.as_deref(),
        before: Some(key::of_element(scene.hashes, element, before)),
        moved: &moves,
        ..scene.inputs(element, title, &found, wide.window, wide, &keep)?
    };
    if moves.is_identity() {
        return kind.apply(picture, &inputs);
    }
    let own_reader = Reader::of(element, &step.reads);
    let own_window = scene.whole_window(element, 0, wide)?;
    let keep_own = |key: &str, make: MakeKept<'_>| {
        let content = key::of_kept(scene.hashes, own_reader, kind, key).at(own_window, wide.scale);
        Ok(scene.engine.keep(content, make)?.0)
    };
    let own_request = Request { window: own_window, ..wide.clone() };
    let own_found = wants::found(scene, own_reader, title, wants, &own_request, Area::Window)?;
    let own = Inputs { found: &own_found, window: own_window, keep: &keep_own, ..inputs };
    inputs.own = Some(&own);
    kind.apply(picture, &inputs)
}

/// The window that a step has to see; one that looks at the whole frame is asked for nothing less.
fn reached(reach: Reach, request: &Request) -> Window {
    match reach {
        Reach::Px(px) => request.window.grown(request.scale.length(px.max(0.0)).ceil() as u32),
        Reach::OwnPx(px) => request.window.grown(px),
        Reach::WholeFrame => request.window,
    }
}

/// The matte that limits a step; `None` if nothing does.
fn limit(
    scene: Scene<'_>,
    element: &Element,
    step: &Step,
    request: &Request,
) -> Result<Option<Arc<Raster>>, ShotError> {
    key::limit_of(element, step).map(|m: Matte<'_>| matte(scene, m, request)).transpose()
}

#[cfg(test)]
mod tests {
    use super::*;
    use jugata_core::Scale;

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
        assert_eq!(reached(Reach::Px(9.0), &request), Window::new(7, 7, 26, 26));
        assert_eq!(reached(Reach::Px(0.0), &request), request.window);
    }
}
