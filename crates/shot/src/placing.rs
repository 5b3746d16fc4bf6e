//! Putting a lamp by pointing at the picture.

use crate::document::Shot;
use crate::engine::scene::{Reader, Scene};
use crate::engine::{Engine, Request, Target};
use crate::error::ShotError;
use crate::steps::{LampKind, Relight, StepKind};
use glam::Vec3;
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
    let scene = Scene { engine, shot: &shot };
    let spot = surface(scene, Reader::of(element, &found.reads), (x, y))?
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

fn surface(scene: Scene<'_>, reader: Reader<'_>, (x, y): (i32, i32)) -> Result<Option<Spot>, ShotError> {
    let target = Target::Untouched { element: reader.element.id };
    let window = Window::new(x, y, 1, 1);
    let request = Request { window, ..Request::frame(scene.shot, target, Scale::FULL) };
    let sample = |role| Ok::<_, ShotError>(scene.read(reader, role, &request)?.map(|r| r.data().to_vec()));
    let Some(n) = sample(Role::Normal)? else { return Ok(None) };
    let normal = Vec3::from_slice(&n);
    let position = sample(Role::Position)?.map(|p| Vec3::from_slice(&p));
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
