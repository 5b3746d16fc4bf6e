//! Numbers under the crosshair.

use super::keeper::Engine;
use super::key;
use super::key::Hashes;
use super::request::{Request, Target};
use super::scene::Scene;
use crate::document::{Pass, Provider};
use crate::error::ShotError;
use crate::still::Still;
use jugata_core::{Role, Scale};
use serde::Serialize;
use ts_rs::TS;

/// Values of a pass at one pixel.
#[derive(Clone, Debug, PartialEq, Serialize, TS)]
pub struct PassValues {
    /// Number of the pass.
    pub pass: u32,
    /// Its name.
    pub name: String,
    /// Its role.
    pub role: Role,
    /// Canonical values; empty outside the data window. Not finite ones are absent.
    pub canonical: Vec<Option<f32>>,
    /// Values as stored.
    pub stored: Vec<Option<f32>>,
}

pub(super) fn probe(
    engine: &Engine,
    shot: &Still<'_>,
    element: u32,
    x: i32,
    y: i32,
) -> Result<Vec<PassValues>, ShotError> {
    let hashes = Hashes::of(shot);
    let scene = Scene::new(engine, &hashes);
    let element = key::element_of(shot, element)?;
    let request = Request::frame(shot, Target::Untouched { element: element.id }, Scale::FULL);
    let plain = |v: Option<Vec<f32>>| -> Vec<Option<f32>> {
        v.unwrap_or_default().into_iter().map(|v| v.is_finite().then_some(v)).collect()
    };
    let values = |pass: Provider<'_>| {
        let canonical = scene.pass(element, pass, &request)?;
        let stored = match pass {
            Provider::Stored(p) => stored(engine, p, (x, y))?,
            Provider::Extracted(..) | Provider::Drawn(..) => None,
        };
        Ok(PassValues {
            pass: pass.id(),
            name: pass.name().to_owned(),
            role: pass.role(),
            canonical: plain(canonical.pixel(x, y)),
            stored: plain(stored),
        })
    };
    element.providers().map(values).collect()
}

/// Values of a pixel as they are in the file.
fn stored(engine: &Engine, pass: &Pass, (x, y): (i32, i32)) -> Result<Option<Vec<f32>>, ShotError> {
    let file = engine.file(pass)?;
    Ok(file.parts.get(pass.source.part as usize).and_then(|part| {
        let w = part.data_window;
        let at = w.contains(x, y).then(|| {
            (i64::from(y) - i64::from(w.y)) as usize * w.width as usize
                + (i64::from(x) - i64::from(w.x)) as usize
        })?;
        let value = |name: &String| part.channel(name).and_then(|c| c.samples.get(at));
        pass.source.channels.iter().map(value).collect()
    }))
}
