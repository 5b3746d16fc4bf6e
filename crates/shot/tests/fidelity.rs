//! Relight against the truth: the stand-in renders the orrery again with the same lamp added.
//!
//! The figures are in docs/FIDELITY.md; the floors here lie a little under them. Run with `--nocapture` to
//! see what is reached.
#![allow(clippy::unwrap_used)]

use jugata_core::compare::difference;
use jugata_core::{Raster, Role, Scale};
use jugata_exchange::{Limits, exr_read};
use jugata_shot::document::{MediaId, Shot, Source, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::media::Library;
use jugata_shot::steps::{LampKind, Relight, StepKind};
use jugata_shot::{ShotError, intake};
use jugata_standin::{AddedLamp, LampPlace, Settings, export, render};
use std::f32::consts::PI;
use std::sync::LazyLock;

const SMALL: Settings = Settings { width: 480, height: 270, samples: 4, added: Vec::new() };

struct Bytes(Vec<u8>);

impl Library for Bytes {
    fn bytes(&self, _: &Source) -> Result<Vec<u8>, ShotError> {
        Ok(self.0.clone())
    }
}

static BENCH: LazyLock<(Engine, Shot)> = LazyLock::new(|| {
    let bytes = export::exr(&render(&SMALL)).unwrap();
    let file = exr_read::read(&bytes, &Limits::default()).unwrap();
    let shot = intake::shot_of(&file, "orrery.exr", MediaId::of(&bytes));
    (Engine::new(Box::new(Bytes(bytes)), Limits::default(), CacheSizes::default()), shot)
});

fn picture(shot: &Shot, target: Target) -> Raster {
    BENCH.0.evaluate(shot, &Request::frame(shot, target, Scale::FULL)).unwrap().raster.as_ref().clone()
}

/// PSNR over the element of the untouched and of the relit picture against the truth.
fn figures(what: &str, relight: Relight, shadows: bool) -> (f64, f64) {
    let place = match relight.lamp {
        LampKind::Directional => LampPlace::Directional(relight.toward),
        LampKind::Point => LampPlace::Point(relight.position),
    };
    let power = relight.colour.map(|c| c * relight.intensity * PI);
    let truth = render(&Settings { added: vec![AddedLamp { place, power, shadows }], ..SMALL }).beauty;
    let mut shot = BENCH.1.clone();
    shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(relight))];
    let coverage = Raster::from_planar(truth.window(), 1, truth.plane(3).to_vec()).unwrap();
    let of = |picture: &Raster| difference(picture, &truth, Some(&coverage)).unwrap().psnr;
    let (before, after) = (of(&picture(&shot, Target::Untouched { element: 1 })), of(&picture(&shot, Target::Shot)));
    println!("{what}, truth {}: untouched {before:.2} dB, relit {after:.2} dB", if shadows { "with shadows" } else { "without shadows" });
    (before, after)
}

fn sun() -> Relight {
    let n = 1.0 / (0.78f32 * 0.78 + 0.35 * 0.35 + 0.52 * 0.52).sqrt();
    Relight { toward: [0.78 * n, 0.35 * n, 0.52 * n], intensity: 0.5, ..Relight::default() }
}

fn bulb() -> Relight {
    Relight { lamp: LampKind::Point, position: [1.6, 0.9, -6.5], intensity: 3.0, ..Relight::default() }
}

#[test]
fn a_directional_lamp_comes_close_to_the_truth() {
    let (before, after) = figures("directional", sun(), false);
    assert!(after > FLOOR_SUN && after > before + 8.0, "{before} {after}");
    let (before, after) = figures("directional", sun(), true);
    assert!(after > FLOOR_SUN_SHADOWS && after > before, "{before} {after}");
}

#[test]
fn a_point_lamp_comes_close_to_the_truth() {
    let (before, after) = figures("point", bulb(), false);
    assert!(after > FLOOR_BULB && after > before + 8.0, "{before} {after}");
    let (before, after) = figures("point", bulb(), true);
    assert!(after > FLOOR_BULB_SHADOWS && after > before, "{before} {after}");
}

#[test]
fn without_an_albedo_pass_the_picture_stands_in_for_it() {
    let mut shot = BENCH.1.clone();
    shot.elements[0].passes.retain(|p| p.role != Role::Albedo);
    shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(sun()))];
    let untouched = picture(&shot, Target::Untouched { element: 1 });
    let lit = picture(&shot, Target::Shot);
    let sum = |r: &Raster| r.plane(1).iter().map(|v| f64::from(*v)).sum::<f64>();
    assert!(sum(&lit) > 1.05 * sum(&untouched));
}

const FLOOR_SUN: f64 = 20.0;
const FLOOR_SUN_SHADOWS: f64 = 15.0;
const FLOOR_BULB: f64 = 20.0;
const FLOOR_BULB_SHADOWS: f64 = 15.0;
