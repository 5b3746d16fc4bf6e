//! A picture of a shot seen from a little to the side.

use crate::document::Shot;
use crate::engine::reader::Reader;
use crate::engine::scene::Scene;
use crate::engine::{Engine, Evaluated, Hashes, Request, Target};
use crate::error::ShotError;
use crate::still::Still;
use jugata_core::show::parallax::{self, rocked};
use jugata_core::{Raster, Role, depth};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use ts_rs::TS;

/// Where the eye is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Rock {
    /// Largest move of anything at the ends of the rocking, full-resolution px.
    pub amount: f32,
    /// −1 the left end, 1 the right one.
    pub phase: f32,
    /// Depth that stays where it is, scene units; in the middle of the depths if not said.
    #[serde(default)]
    #[ts(optional)]
    pub still: Option<f32>,
}

/// Largest amount, px: far beyond what any eye believes.
const MOST: f32 = 1000.0;

/// What a request gives, seen from the side. The depth is the nearest of all elements for the whole shot, or that of
/// the element that is asked for. A target that is no picture is given as it is.
///
/// # Errors
/// As [`Engine::evaluate`]; no depth; figures out of range.
pub fn rock(engine: &Engine, shot: &Shot, request: &Request, r: Rock) -> Result<Evaluated, ShotError> {
    let sound = r.amount.abs() <= MOST && r.phase.abs() <= 1.0 && r.still.is_none_or(f32::is_finite);
    if !sound {
        let what = format!("it moves by at most {MOST} px, between −1 and 1");
        return Err(ShotError::Parameter { place: "The parallax".into(), what });
    }
    let whole = Request { window: request.scale.window(shot.display), ..request.clone() };
    let made = engine.evaluate(shot, &whole)?;
    let raster = if made.role == Role::Beauty {
        let depth = depth_of(engine, shot, &whole)?;
        let k = |px: f32| request.scale.length(px);
        let how = parallax::Rock { amount: k(r.amount), phase: r.phase, still: r.still, rim: 1 };
        Arc::new(rocked(&made.raster, &depth, how, &request.cancel)?)
    } else {
        made.raster
    };
    Ok(Evaluated { raster: Arc::new(raster.cropped(request.window, 0.0)), ..made })
}

/// The depth that belongs to a picture, on the request's window.
fn depth_of(engine: &Engine, shot: &Shot, request: &Request) -> Result<Raster, ShotError> {
    let shot = Still::of(shot, request.frame)?;
    let hashes = Hashes::of(&shot);
    let scene = Scene::new(engine, &hashes);
    let only = match request.target {
        Target::After { element, .. }
        | Target::Before { element, .. }
        | Target::Gives { element, .. }
        | Target::Untouched { element } => Some(element),
        _ => None,
    };
    let mut all: Option<Raster> = None;
    for element in shot.elements.iter().filter(|e| only.is_none_or(|id| id == e.id)) {
        let Some(own) = scene.read(Reader::at(element, &[], element.steps.len()), Role::Depth, request)?
        else {
            continue;
        };
        all = Some(match all {
            None => own.as_ref().clone(),
            Some(before) => depth::nearest(&before, &own, &request.cancel)?,
        });
    }
    let element = shot.elements.first().map_or_else(String::new, |e| e.name.clone());
    all.ok_or(ShotError::NoPass { step: "The parallax".into(), role: Role::Depth, element })
}
