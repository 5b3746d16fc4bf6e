//! Putting a lamp by pointing at the picture.

use crate::document::{Element, Shot};
use crate::engine::Engine;
use crate::error::ShotError;
use crate::steps::{LampKind, Relight, StepKind};
use glam::{Vec2, Vec3};
use jugata_core::lamp::highlight_direction;
use jugata_core::{Role, Scale, Window};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How a click places a lamp.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Place {
    /// The highlight appears at the clicked surface.
    Highlight,
}

/// What is known of the surface at a pixel.
struct Spot {
    normal: Vec3,
    position: Option<Vec3>,
}

/// The parameters of a relight after a click at full-resolution pixel `(x, y)` of a frame.
///
/// # Errors
/// No such element or step, a step that is not a relight, or no surface at that place.
pub fn place(
    engine: &Engine,
    shot: &Shot,
    (element, step): (u32, u32),
    frame: i32,
    (x, y): (i32, i32),
    how: Place,
) -> Result<Relight, ShotError> {
    let shot = shot.at_frame(frame);
    let element = shot.element(element).ok_or(ShotError::Missing { what: "element", id: element })?;
    let found = element.step(step).ok_or(ShotError::Missing { what: "step", id: step })?;
    let StepKind::Relight(relight) = &found.does else {
        return Err(refuse(step, "it has no lamp to place"));
    };
    let spot = surface(engine, element, shot.display, (x, y))?
        .ok_or_else(|| refuse(step, "there is no surface at that place"))?;
    match how {
        Place::Highlight => {
            highlight(relight, &spot).ok_or_else(|| refuse(step, "that surface is seen from behind"))
        }
    }
}

fn refuse(step: u32, what: &str) -> ShotError {
    ShotError::Parameter { place: format!("Step {step}"), what: what.into() }
}

fn surface(
    engine: &Engine,
    element: &Element,
    display: Window,
    (x, y): (i32, i32),
) -> Result<Option<Spot>, ShotError> {
    let sample = |role| -> Result<Option<Vec<f32>>, ShotError> {
        let Some(pass) = element.pass_of(role) else { return Ok(None) };
        Ok(engine.pass(element, pass, Scale::FULL, display, None)?.pixel(x, y))
    };
    let Some(n) = sample(Role::Normal)? else { return Ok(None) };
    let normal = Vec3::from_slice(&n);
    let position = match (sample(Role::Position)?, sample(Role::Depth)?, element.camera) {
        (Some(p), _, _) => Some(Vec3::from_slice(&p)),
        (None, Some(z), Some(camera)) => {
            Some(camera.unproject(Vec2::new(x as f32 + 0.5, y as f32 + 0.5), z[0]))
        }
        _ => None,
    };
    let position = position.filter(|p| p.is_finite() && *p != Vec3::ZERO);
    Ok((normal != Vec3::ZERO).then_some(Spot { normal, position }))
}

/// A directional lamp is turned; a point lamp keeps its distance from the surface.
fn highlight(relight: &Relight, spot: &Spot) -> Option<Relight> {
    let view = spot.position.map_or(Vec3::Z, |p| -p.normalize());
    let toward = highlight_direction(spot.normal, view)?;
    Some(match (relight.lamp, spot.position) {
        (LampKind::Point, Some(at)) => {
            let distance = at.distance(relight.position.into()).max(0.05);
            Relight { position: (at + toward * distance).into(), ..relight.clone() }
        }
        _ => Relight { toward: toward.into(), ..relight.clone() },
    })
}
