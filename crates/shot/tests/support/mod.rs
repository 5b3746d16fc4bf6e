//! A small shot on a seeded render, shared by the tests of the engine.
#![allow(dead_code, clippy::unwrap_used)]

use jugata_core::{Raster, Scale, Window};
use jugata_exchange::Limits;
use jugata_exchange::exr_write::{Depth, NamedLayer, write};
use jugata_shot::document::{MediaId, Shot, Source};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::media::Library;
use jugata_shot::{ShotError, intake};
use jugata_testkit::{facing_normals, noise};
use std::sync::LazyLock;

/// The frame of the scene.
pub const FRAME: Window = Window::of_size(150, 90);

struct Bytes(Vec<u8>);

impl Library for Bytes {
    fn bytes(&self, source: &Source) -> Result<Vec<u8>, ShotError> {
        match MediaId::of(&self.0) == source.media {
            true => Ok(self.0.clone()),
            false => Err(ShotError::NoMedia { file: source.file.clone() }),
        }
    }
}

static FILE: LazyLock<Vec<u8>> = LazyLock::new(file);

/// A seeded render with a data window that is not the frame.
fn file() -> Vec<u8> {
    let w = Window::new(-7, 3, 160, 80);
    let beauty =
        Raster::from_fn(
            w,
            4,
            |c, x, y| if c == 3 { 1.0 } else { ((x * 7 + y * 3 + c as i32) % 11) as f32 * 0.1 },
        );
    let normal = facing_normals(w, 2);
    let depth = Raster::from_fn(w, 1, |_, x, y| 3.0 + 0.01 * x as f32 + 0.02 * y as f32);
    let id = Raster::from_fn(w, 1, |_, x, y| ((x.div_euclid(40) + y.div_euclid(30)) % 3) as f32);
    let albedo = noise(w, 3, 5);
    let clay = noise(w, 3, 6);
    let uv =
        Raster::from_fn(w, 2, |c, x, y| if c == 0 { 0.011 * x as f32 + 0.3 } else { 0.017 * y as f32 - 0.4 });
    let diffuse = Raster::from_fn(w, 3, |c, x, y| {
        0.6 * beauty.sample(c, x, y).unwrap() * albedo.sample(c, x, y).unwrap()
    });
    let motion =
        Raster::from_fn(w, 2, |c, x, y| if (20..70).contains(&x) && y > 30 { [9.0, -4.0][c] } else { 0.0 });
    let layer = |name, channels, raster| NamedLayer { name, channels, raster, depth: Depth::Float };
    let layers = [
        layer("", &["R", "G", "B", "A"][..], &beauty),
        layer("normal", &["X", "Y", "Z"], &normal),
        layer("depth", &["Z"], &depth),
        layer("id", &["id"], &id),
        layer("albedo", &["R", "G", "B"], &albedo),
        layer("clay", &["R", "G", "B"], &clay),
        layer("uv", &["U", "V"], &uv),
        layer("diffuse", &["R", "G", "B"], &diffuse),
        layer("motion", &["X", "Y"], &motion),
    ];
    write(&layers, FRAME, None).unwrap()
}

pub fn engine() -> (Engine, Shot) {
    engine_with(CacheSizes::default())
}

pub fn engine_with(sizes: CacheSizes) -> (Engine, Shot) {
    let bytes = FILE.clone();
    let image = jugata_exchange::exr_read::read(&bytes, &Limits::default()).unwrap();
    let mut shot = intake::shot_of(&image, "scene.exr", MediaId::of(&bytes));
    shot.elements[0].camera = jugata_core::Camera::from_sensor(50.0, 36.0, FRAME);
    (Engine::new(Box::new(Bytes(bytes)), Limits::default(), sizes), shot)
}

/// The pixels of a shot on a window.
pub fn picture(engine: &Engine, shot: &Shot, window: Window, scale: Scale) -> Raster {
    let request = Request { window, ..Request::frame(shot, Target::Shot, scale) };
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}
