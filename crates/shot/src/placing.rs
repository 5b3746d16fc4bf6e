//! Putting a lamp by pointing at the picture.

use crate::check::range;
use crate::document::Shot;
use crate::engine::reader::Reader;
use crate::engine::scene::Scene;
use crate::engine::{Engine, Hashes, Request, Target};
use crate::error::ShotError;
use crate::lamp::{Lamp, LampKind};
use crate::steps::StepKind;
use crate::still::Still;
use glam::Vec3;
use jugata_core::light::lamp::highlight_direction;
use jugata_core::{Role, Scale, Window};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How a click places a lamp.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, TS)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum PutLamp {
    /// The highlight appears at the clicked surface.
    Highlight,
    /// The lamp hangs over the clicked surface.
    Surface {
        /// How far off it, scene units.
        lift: f32,
    },
    /// The spot is turned to the clicked surface.
    Aim,
}

/// A lamp of a step.
#[derive(Clone, Copy, Debug)]
pub struct WhichLamp {
    /// Element.
    pub element: u32,
    /// The relight.
    pub step: u32,
    /// PutLamp of the lamp in its list.
    pub lamp: usize,
}

/// What is known of the surface at a pixel.
struct Spot {
    normal: Vec3,
    position: Option<Vec3>,
}

/// A lamp after a click at full-resolution pixel `(x, y)` of a frame.
///
/// # Errors
/// No such element, step or lamp, no surface at that place, or one that the lamp cannot be placed by.
pub fn place(
    engine: &Engine,
    shot: &Shot,
    which: WhichLamp,
    frame: i32,
    (x, y): (i32, i32),
    how: PutLamp,
) -> Result<Lamp, ShotError> {
    let (step, shot) = (which.step, Still::of(shot, frame)?);
    let missing = |what, id| ShotError::Missing { what, id };
    let element = shot.element(which.element).ok_or_else(|| missing("element", which.element))?;
    let found = element.step(step).ok_or_else(|| missing("step", step))?;
    let StepKind::Relight(relight) = &found.does else {
        return Err(refuse(step, "it has no lamp to place"));
    };
    let lamp = relight.lamps.get(which.lamp).ok_or_else(|| missing("lamp", which.lamp as u32 + 1))?;
    let hashes = Hashes::of(&shot);
    let scene = Scene::new(engine, &hashes);
    let before = element.steps.iter().position(|s| s.id == step).unwrap_or(0);
    let spot = surface(scene, Reader::at(element, &found.reads, before), (x, y))?
        .ok_or_else(|| refuse(step, "there is no surface at that place"))?;
    let known = || spot.position.ok_or_else(|| refuse(step, "there is no position at that place"));
    let since_first = engine.since_first(element, shot.display)?;
    let seen = lamp.on_frame(since_first);
    let put = match how {
        PutLamp::Highlight => {
            highlight(&seen, &spot).ok_or_else(|| refuse(step, "that surface is seen from behind"))?
        }
        PutLamp::Surface { lift } => {
            range("the distance from the surface", lift, 0.0, 1e6).map_err(|what| refuse(step, &what))?;
            Lamp { position: (known()? + spot.normal * lift).into(), ..seen }
        }
        PutLamp::Aim => Lamp { aim: known()?.into(), ..seen },
    };
    Ok(lamp.put_on_frame(put, since_first))
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

/// A directional lamp is turned; the others keep their distance from the surface, and a spot is turned to it.
fn highlight(lamp: &Lamp, spot: &Spot) -> Option<Lamp> {
    let view = spot.position.map_or(Vec3::Z, |p| -p.normalize());
    let toward = highlight_direction(spot.normal, view)?;
    Some(match (lamp.kind, spot.position) {
        (LampKind::Point | LampKind::Spot, Some(at)) => {
            let distance = at.distance(lamp.position.into()).max(0.05);
            Lamp { position: (at + toward * distance).into(), aim: at.into(), ..lamp.clone() }
        }
        _ => Lamp { toward: toward.into(), ..lamp.clone() },
    })
}
