//! A height or a normal map on a simple body, under ready lamps.

use crate::check::range;
use crate::document::Shot;
use crate::engine::{Engine, Request, Target};
use crate::error::ShotError;
use glam::{Mat3, Vec2, Vec3};
use jugata_core::light::lamp::{Lamp, Place};
use jugata_core::light::relight::{Material, Shining, Surface, relight_into};
use jugata_core::light::surround::{Pattern, Surround, SurroundLight, fall};
use jugata_core::raster::scale;
use jugata_core::surface::bodies::{BodyView, Shape, seen};
use jugata_core::surface::normals::{Derivative, FromHeight, from_height};
use jugata_core::{Cancel, Raster, Role, Scale};
use serde::{Deserialize, Serialize};
use std::f32::consts::PI;
use ts_rs::TS;

/// Ready lamps.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Lighting {
    /// One lamp from the upper left, and a little from the right.
    #[default]
    Side,
    /// From above.
    Above,
    /// From behind on both sides.
    Rims,
    /// Low from one side: every unevenness shows.
    Grazing,
    /// A room with bright panels.
    Room,
}

/// What is to be seen.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct OnShape {
    /// Element.
    pub element: u32,
    /// Its pass: a height or normals.
    pub pass: u32,
    /// The body.
    pub shape: Shape,
    /// The lamps.
    pub lighting: Lighting,
    /// Turned to the right, and toward the viewer, degrees.
    pub turn: [f32; 2],
    /// How often the map repeats across the body.
    pub tiles: f32,
    /// How high a step of 1 of a height is, px of the map; how strongly normals turn, 1 as they are.
    pub strength: f32,
    /// From mirror to chalk.
    pub roughness: f32,
    /// Side of the picture, px.
    pub side: u32,
}

/// Largest side of the picture, and of the map that is laid on, px.
const LARGEST: u32 = 1024;

/// The body with the map on it: RGBA, linear, premultiplied.
///
/// # Errors
/// As [`Engine::evaluate`]; a pass that is neither a height nor normals; figures out of range.
pub fn on_shape(
    engine: &Engine,
    shot: &Shot,
    frame: i32,
    how: &OnShape,
    cancel: &Cancel,
) -> Result<Raster, ShotError> {
    check(how).map_err(|what| ShotError::Parameter { place: "The body".into(), what })?;
    let map = map_of(engine, shot, frame, how, cancel)?;
    // Twice as large and then halved, so that rims are smooth.
    let turn = Vec2::new(how.turn[0].to_radians(), how.turn[1].to_radians());
    let seeing = BodyView { shape: how.shape, turn, tiles: how.tiles, side: how.side * 2 };
    let body = seen(Some(&map), seeing, cancel)?;
    let grey = Raster::filled(body.picture.window(), 3, 0.55);
    let surface = Surface { normal: &body.normal, position: Some(&body.position), albedo: Some(&grey) };
    let finish = Material { specular: 0.04, roughness: how.roughness, ..Material::MATT };
    let (lamps, around) = lights(how.lighting);
    let lamps: Vec<Shining<'_>> = lamps.into_iter().map(Into::into).collect();
    let mut lit = Raster::zeros(body.picture.window(), 4);
    relight_into(&mut lit, &body.picture, surface, &lamps, finish.into(), cancel)?;
    let falls = SurroundLight {
        finishes: finish.into(),
        gain: [around; 3],
        turn: Mat3::IDENTITY,
        open: None,
        mirrored: &[],
    };
    let room = fall(&body.picture, surface, &Surround::from_pattern(Pattern::Panels), falls, cancel)?;
    for c in 0..3 {
        lit.plane_mut(c).iter_mut().zip(room.plane(c)).for_each(|(l, r)| *l += r);
    }
    let half = Scale::halved(1).unwrap_or(Scale::FULL);
    Ok(scale::average(&lit, half, cancel)?)
}

fn check(how: &OnShape) -> Result<(), String> {
    how.turn.iter().try_for_each(|v| range("its turn", *v, -1e5, 1e5))?;
    range("the tiling", how.tiles, 0.01, 100.0)?;
    range("the strength", how.strength, -1e4, 1e4)?;
    range("roughness", how.roughness, 0.0, 1.0)?;
    range("the side", how.side as f32, 8.0, LARGEST as f32)
}

/// The map as normals whose flat places face the viewer.
fn map_of(
    engine: &Engine,
    shot: &Shot,
    frame: i32,
    how: &OnShape,
    cancel: &Cancel,
) -> Result<Raster, ShotError> {
    let target = Target::Pass { element: how.element, pass: how.pass };
    let scale = Scale::at_most(shot.display, 2 * LARGEST);
    let request = Request { frame, cancel: cancel.clone(), ..Request::frame(shot, target, scale) };
    let pass = engine.evaluate(shot, &request)?;
    match pass.role {
        Role::Height => {
            let strength = scale.length(how.strength);
            let how = FromHeight { strength, kernel: Derivative::Sobel, tileable: true, y_down: false };
            Ok(from_height(&pass.raster, how, cancel)?)
        }
        Role::Normal => {
            let mut map = pass.raster.as_ref().clone();
            (0..2).for_each(|c| map.plane_mut(c).iter_mut().for_each(|v| *v *= how.strength));
            Ok(map)
        }
        role => Err(ShotError::Parameter {
            place: "The body".into(),
            what: format!("it shows a height or normals, and that pass is {}", role.label()),
        }),
    }
}

/// Lamps, and how much of the room there is.
fn lights(lighting: Lighting) -> (Vec<Lamp>, f32) {
    let far = |x: f32, y: f32, z: f32, strength: f32| Lamp {
        place: Place::Directional { toward: Vec3::new(x, y, z).normalize() },
        power: [strength * PI; 3],
        size: 0.05,
    };
    match lighting {
        Lighting::Side => (vec![far(-0.6, 0.6, 0.55, 1.1), far(0.8, 0.1, 0.4, 0.12)], 0.08),
        Lighting::Above => (vec![far(0.1, 1.0, 0.15, 1.2)], 0.1),
        Lighting::Rims => (vec![far(-0.9, 0.3, -0.35, 1.6), far(0.9, 0.2, -0.3, 1.2)], 0.06),
        Lighting::Grazing => (vec![far(-1.0, 0.15, 0.12, 1.3)], 0.05),
        Lighting::Room => (Vec::new(), 0.6),
    }
}
