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
use jugata_standin::orrery::object_id;
use jugata_standin::{AddedLamp, LampPlace, Settings, export, render};
use std::f32::consts::PI;
use std::sync::LazyLock;

const SMALL: Settings =
    Settings { width: 480, height: 270, samples: 4, added: Vec::new(), frame: 0, lens: None };

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

/// PSNR against the truth, dB.
struct Figures {
    /// Of the picture before the relight, over the element.
    untouched: f64,
    /// Of the relit picture, over the element.
    relit: f64,
    /// The same over the matt objects alone, without their rims: there the model is the renderer's own.
    matt: f64,
}

/// Wall, Stone and Drum have no coat; pixels whose neighbours belong to other objects are left out.
fn matt_interior(id: &Raster) -> Raster {
    let matt = ["Wall", "Stone", "Drum"].map(|name| object_id(name) as f32);
    Raster::from_fn(id.window(), 1, |_, x, y| {
        let here = id.sample(0, x, y);
        let alone = (-2..=2).all(|dy| (-2..=2).all(|dx| id.sample(0, x + dx, y + dy) == here));
        f32::from(u8::from(alone && here.is_some_and(|v| matt.contains(&v))))
    })
}

fn figures(what: &str, relight: Relight, shadows: bool) -> Figures {
    let place = match relight.lamp {
        LampKind::Directional => LampPlace::Directional(relight.toward),
        LampKind::Point => LampPlace::Point(relight.position),
    };
    let power = relight.colour.map(|c| c * relight.intensity * PI);
    let truth = render(&Settings { added: vec![AddedLamp { place, power, shadows }], ..SMALL });
    let matt = matt_interior(&truth.id);
    let truth = truth.beauty;
    let mut shot = BENCH.1.clone();
    let with = |shot: &mut Shot, relight: Relight| {
        shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(relight))];
        picture(shot, Target::Shot)
    };
    let untouched = picture(&shot, Target::Untouched { element: 1 });
    let coverage = Raster::from_planar(truth.window(), 1, truth.plane(3).to_vec()).unwrap();
    let psnr = |picture: &Raster, where_: &Raster| difference(picture, &truth, Some(where_)).unwrap().psnr;
    let lit = with(&mut shot, relight.clone());
    let plain = with(&mut shot, Relight { specular: 0.0, ..relight });
    let f = Figures {
        untouched: psnr(&untouched, &coverage),
        relit: psnr(&lit, &coverage),
        matt: psnr(&plain, &matt),
    };
    println!(
        "{what}, truth {} shadows: untouched {:.2} dB, relit {:.2} dB, matt interior {:.2} dB (untouched {:.2})",
        if shadows { "with" } else { "without" },
        f.untouched,
        f.relit,
        f.matt,
        psnr(&untouched, &matt),
    );
    f
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
    let f = figures("directional", sun(), false);
    assert!(
        f.relit > 27.5 && f.relit > f.untouched + 6.0 && f.matt > FLOOR_MATT_SUN,
        "{} {}",
        f.relit,
        f.matt
    );
    let f = figures("directional", sun(), true);
    assert!(f.relit > FLOOR_SUN_SHADOWS && f.relit > f.untouched, "{} {}", f.relit, f.untouched);
}

#[test]
fn a_point_lamp_comes_close_to_the_truth() {
    let f = figures("point", bulb(), false);
    assert!(
        f.relit > 28.2 && f.relit > f.untouched + 2.5 && f.matt > FLOOR_MATT_BULB,
        "{} {}",
        f.relit,
        f.matt
    );
    let f = figures("point", bulb(), true);
    assert!(f.relit > FLOOR_BULB_SHADOWS && f.relit > f.untouched, "{} {}", f.relit, f.untouched);
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

const FLOOR_MATT_SUN: f64 = 36.0;
const FLOOR_MATT_BULB: f64 = 43.0;
const FLOOR_SUN_SHADOWS: f64 = 27.9;
const FLOOR_BULB_SHADOWS: f64 = 28.5;
