//! The walk through the steps.

use super::cost;
use super::findings;
use super::key::{self, ContentHash, Hashes};
use super::mattes::{Matte, matte};
use super::planes::{note, on_window};
use super::scene::{Reader, Scene};
use super::wants::{self, Area};
use super::{Engine, Event, Request, Target};
use crate::document::{Element, Shot, Step};
use crate::error::ShotError;
use crate::inputs::{Inputs, MakeKept};
use crate::steps::{Effect, Reach};
use jugata_core::colour::blend::{self, Brings, Join};
use jugata_core::colour::composite;
use jugata_core::{Raster, Role, Window};
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
    let still = moving.at_frame(request.frame);
    let shot = &*still;
    cost::hold(engine.at_once, shot, request)?;
    let hashes = Hashes::of(shot);
    let scene = Scene::new(engine, &hashes);
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
            made(matte(scene, key::matte_of(element, id)?, request)?, Role::Alpha)
        }
        Target::After { element, .. } | Target::Before { element, .. } | Target::Untouched { element } => {
            let element = key::element_of(shot, element)?;
            let count = key::steps_of(element, request.target)?.unwrap_or(0);
            made(after_steps(scene, element, count, request)?, Role::Beauty)
        }
    }
}

/// All elements over each other, the first lowest.
fn composition(scene: Scene<'_>, request: &Request) -> Result<Arc<Raster>, ShotError> {
    let mut below: Option<Arc<Raster>> = None;
    for element in &scene.shot.elements {
        let top = after_steps(scene, element, element.steps.len(), request)?;
        below = Some(match below {
            None => top,
            Some(bottom) => Arc::new(composite::over(&top, &bottom, &request.cancel)?),
        });
    }
    Ok(below.unwrap_or_else(|| Arc::new(Raster::zeros(request.window, 4))))
}

/// An element's picture after its first `count` steps, on the request's window.
fn after_steps(
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
    // What needs the whole frame is worked out and kept once, whatever part of it is asked for.
    let whole = request.scale.window(scene.shot.display);
    if step.does.kind().reach() == Reach::WholeFrame && request.window != whole {
        let wanted = request.window;
        let request = Request { window: whole, ..request.clone() };
        let all = after_steps(scene, element, count, &request)?;
        return Ok(Arc::new(all.cropped(wanted, 0.0)));
    }
    let key = key::of_element(scene.hashes, element, count).at(request.window, request.scale);
    let (raster, reused) = scene.engine.keep(key, || run(scene, element, step, before.len(), request))?;
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
    let wide =
        Request { window: reached(step.does.kind().reach(), request, scene.shot.display), ..request.clone() };
    let picture = after_steps(scene, element, before, &wide)?;
    let (reader, kind) = (Reader::of(element, &step.reads), step.does.kind());
    let found = wants::found(scene, reader, kind.about().title, kind.wants(), &wide, Area::Window)?;
    let keep = |key: &str, make: MakeKept<'_>| {
        let content = key::of_kept(scene.hashes, reader, kind, key).at(wide.window, wide.scale);
        Ok(scene.engine.keep(content, make)?.0)
    };
    let inputs = Inputs {
        title: kind.about().title,
        found: &found,
        window: wide.window,
        scale: request.scale,
        camera: element.camera,
        frame: scene.shot.display,
        keep: &keep,
        cancel: &request.cancel,
    };
    let (effect, brings) = match kind.apply(&picture, &inputs)? {
        Effect::Replace(raster) => (raster, Brings::Replaces),
        Effect::Over(raster) => (raster, Brings::LiesOver),
        Effect::Light(raster) => (raster, Brings::Adds),
    };
    let effect = effect.cropped(request.window, 0.0);
    let matte = limit(scene, element, step, request)?;
    let how = Join { mode: step.joins.blend, space: step.joins.space, strength: step.joins.strength };
    let picture =
        if wide.window == request.window { picture } else { Arc::new(picture.cropped(request.window, 0.0)) };
    Ok(blend::join(&picture, &effect, brings, matte.as_deref(), how, &request.cancel)?)
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
        assert_eq!(reached(Reach::Px(9.0), &request, frame), Window::new(7, 7, 26, 26));
        assert_eq!(reached(Reach::Px(0.0), &request, frame), request.window);
        assert_eq!(reached(Reach::WholeFrame, &request, frame), Window::of_size(250, 125));
    }
}
