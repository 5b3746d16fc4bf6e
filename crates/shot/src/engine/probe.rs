//! Numbers under the crosshair.

use super::{Engine, key};
use crate::document::Shot;
use crate::error::ShotError;
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
    shot: &Shot,
    element: u32,
    x: i32,
    y: i32,
) -> Result<Vec<PassValues>, ShotError> {
    let display = shot.display;
    let element = key::element_of(shot, element)?;
    let plain = |v: Option<Vec<f32>>| -> Vec<Option<f32>> {
        v.unwrap_or_default().into_iter().map(|v| v.is_finite().then_some(v)).collect()
    };
    element
        .passes
        .iter()
        .map(|pass| {
            let canonical = engine.pass(element, pass, Scale::FULL, display, None)?;
            let file = engine.file(pass)?;
            let stored = file.parts.get(pass.source.part as usize).and_then(|part| {
                let w = part.data_window;
                let at = w.contains(x, y).then(|| {
                    (i64::from(y) - i64::from(w.y)) as usize * w.width as usize
                        + (i64::from(x) - i64::from(w.x)) as usize
                })?;
                let value = |name: &String| part.channel(name).and_then(|c| c.samples.get(at));
                pass.source.channels.iter().map(value).collect()
            });
            Ok(PassValues {
                pass: pass.id,
                name: pass.name.clone(),
                role: pass.role,
                canonical: plain(canonical.pixel(x, y)),
                stored: plain(stored),
            })
        })
        .collect()
}
