//! Every kind of step and of extraction, over the catalogues: golden figures of its pictures, and what holds for each.
//!
//! A new kind is taken in by itself: at its defaults, and with every number that has a slider moved along it.
#![allow(clippy::unwrap_used)]

use jugata_core::{Cancel, Raster, Role, Scale, Window};
use jugata_exchange::Limits;
use jugata_shot::document::{Extract, MediaId, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::extracts::{self, ExtractKind};
use jugata_shot::intake::{Brought, shot_of_files};
use jugata_shot::steps::{self, StepKind};
use jugata_shot::{ShotError, check};
use jugata_standin::{Settings, export, render};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};
use std::fmt::Write;
use std::sync::LazyLock;
use std::time::{Duration, Instant};

#[path = "support/files.rs"]
mod files;
use files::Files;

/// The orrery, and two rooms.
const SEEDS: [Option<u64>; 3] = [None, Some(3), Some(8)];

/// A shot of two elements, the scene over a room, and what it takes to render it.
fn bench(seed: Option<u64>) -> (Engine, Shot) {
    let size = Settings::sized(96, 54, 2);
    let of = |seed| export::exr(&render(&Settings { seed, ..size.clone() })).unwrap();
    let bytes = vec![of(seed), of(Some(16))];
    let names = ["near.exr", "far.exr"].map(String::from);
    let brought: Vec<Brought> =
        names.into_iter().zip(&bytes).map(|(name, b)| Brought { name, media: MediaId::of(b) }).collect();
    let engine = Engine::new(Box::new(Files(bytes)), Limits::default(), CacheSizes::default());
    let shot = shot_of_files(&brought, &engine).unwrap();
    assert_eq!(shot.elements.len(), 2);
    (engine, shot)
}

static BENCHES: LazyLock<Vec<(Engine, Shot)>> = LazyLock::new(|| SEEDS.into_iter().map(bench).collect());

/// Parameters with every number that has a slider at 37 % of it.
fn moved<T: DeserializeOwned>(defaults: &Value, schema: &Value) -> T {
    let mut values = defaults.clone();
    for (name, property) in schema["properties"].as_object().into_iter().flatten() {
        let ends = property["x-slider"].as_array().map(|s| [s[0].as_f64().unwrap(), s[1].as_f64().unwrap()]);
        if let (Some([a, b]), Some(now)) = (ends, values.get(name).filter(|v| v.is_number())) {
            let to = a + 0.37 * (b - a);
            values[name] = if now.is_f64() { to.into() } else { (to.round() as i64).into() };
        }
    }
    serde_json::from_value(values).unwrap()
}

fn as_json(of: &impl serde::Serialize) -> Value {
    serde_json::to_value(of).unwrap()
}

/// Every kind of step, at its defaults and moved.
fn every_step() -> Vec<(String, StepKind)> {
    let both = |k: steps::KindInfo| {
        let odd = moved(&as_json(&k.defaults), &k.schema);
        [(k.kind.to_owned(), k.defaults), (format!("{}, moved", k.kind), odd)]
    };
    steps::catalogue().into_iter().flat_map(both).collect()
}

/// Every kind of extraction, at its defaults and moved.
fn every_extract() -> Vec<(String, ExtractKind)> {
    let both = |k: extracts::ExtractInfo| {
        let odd = moved(&as_json(&k.defaults), &k.schema);
        [(k.kind.to_owned(), k.defaults), (format!("{}, moved", k.kind), odd)]
    };
    extracts::catalogue().into_iter().flat_map(both).collect()
}

/// The shot with a step on its first element, clay at hand; `like` and `elements` name the other element.
fn with_step(shot: &Shot, does: &StepKind) -> (Shot, Target) {
    let mut shot = shot.clone();
    let clay = extracts::catalogue().into_iter().find(|k| k.kind == "clay").unwrap().defaults;
    shot.elements[0].extracts = vec![made(1001, clay)];
    let mut does = as_json(does);
    if does.get("like").is_some() {
        does["like"] = shot.elements[1].id.into();
    }
    shot.elements[0].steps = vec![Step::new(1, serde_json::from_value(does).unwrap())];
    (shot, Target::After { element: 1, step: 1 })
}

fn made(id: u32, does: ExtractKind) -> Extract {
    Extract { id, name: "made".into(), serves: true, does, reads: Vec::new() }
}

/// The shot with an extraction on its first element, a height at hand, and a stroke where it takes strokes.
fn with_extract(shot: &Shot, does: &ExtractKind) -> (Shot, Target) {
    let mut shot = shot.clone();
    let mut does = as_json(does);
    if does.get("strokes").is_some() {
        let points = json!([[10.0, 10.0], [60.0, 30.0]]);
        does["strokes"] = json!([{ "depth": 3.0, "size": 12.0, "points": points }]);
    }
    if does.get("elements").is_some() {
        does["elements"] = vec![shot.elements[1].id].into();
    }
    let height = extracts::catalogue().into_iter().find(|k| k.kind == "picture_height").unwrap().defaults;
    let mut list = vec![made(1001, height), made(1002, serde_json::from_value(does).unwrap())];
    if list[1].does.gives() == Role::Height {
        list.remove(0);
    }
    shot.elements[0].extracts = list;
    (shot, Target::Pass { element: 1, pass: 1002 })
}

/// Every kind on a shot, with its name.
fn every_kind(shot: &Shot) -> Vec<(String, Shot, Target)> {
    let steps = every_step().into_iter().map(|(name, k)| (name, with_step(shot, &k)));
    let extracts =
        every_extract().into_iter().map(|(name, k)| (format!("extract {name}"), with_extract(shot, &k)));
    steps.chain(extracts).map(|(name, (shot, target))| (name, shot, target)).collect()
}

fn evaluated(
    engine: &Engine,
    shot: &Shot,
    target: Target,
    window: Option<Window>,
) -> Result<Raster, ShotError> {
    let mut request = Request::frame(shot, target, Scale::FULL);
    request.window = window.unwrap_or(request.window);
    Ok(engine.evaluate(shot, &request)?.raster.as_ref().clone())
}

/// A hash of every bit, and the mean of each channel, so that a change says how large it is.
fn figures(r: &Raster) -> String {
    let bits: Vec<u8> = r.data().iter().flat_map(|v| v.to_bits().to_le_bytes()).collect();
    let mut said = MediaId::of(&bits).as_str()[..16].to_owned();
    for c in 0..r.channels() {
        let finite: Vec<f64> = r.plane(c).iter().filter(|v| v.is_finite()).map(|v| f64::from(*v)).collect();
        write!(said, " {:.5}", finite.iter().sum::<f64>() / finite.len().max(1) as f64).unwrap();
    }
    said
}

#[test]
fn pictures_of_every_kind_are_what_they_were() {
    let mut said = String::new();
    for (name, ..) in every_kind(&BENCHES[0].1) {
        writeln!(said, "{name}").unwrap();
        for ((engine, shot), seed) in BENCHES.iter().zip(SEEDS) {
            let (_, shot, target) = every_kind(shot).into_iter().find(|k| k.0 == name).unwrap();
            let figures = match check::check(&shot).and_then(|()| evaluated(engine, &shot, target, None)) {
                Ok(r) => figures(&r),
                Err(e) => e.to_string(),
            };
            writeln!(said, "  {}: {figures}", seed.map_or("orrery".into(), |s| format!("room {s}"))).unwrap();
        }
    }
    insta::assert_snapshot!(said);
}

#[test]
fn every_kind_gives_the_same_bits_however_it_is_cut_and_by_any_number_of_threads() {
    let (engine, shot) = &BENCHES[0];
    let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
    for (name, shot, target) in every_kind(shot) {
        let Ok(whole) = evaluated(engine, &shot, target, None) else { continue };
        let frame = shot.display;
        let (fresh, _) = bench(SEEDS[0]);
        let alone = one.install(|| evaluated(&fresh, &shot, target, None)).unwrap();
        assert_eq!(alone.data(), whole.data(), "{name}: one thread");
        for piece in [Window::new(0, 0, 1, 1), Window::new(31, 17, 40, 23), Window::new(90, 50, 6, 4)] {
            let (fresh, _) = bench(SEEDS[0]);
            let got = evaluated(&fresh, &shot, target, Some(piece)).unwrap();
            let inside = piece.intersect(&frame);
            assert_eq!(got.cropped(inside, -1.0), whole.cropped(inside, -1.0), "{name}: {piece:?}");
        }
    }
}

#[test]
fn every_kind_stops_when_nobody_waits_and_bears_what_is_empty_or_tiny() {
    let (engine, shot) = &BENCHES[0];
    for (name, shot, target) in every_kind(shot) {
        if evaluated(engine, &shot, target, Some(Window::new(0, 0, 8, 8))).is_err() {
            continue;
        }
        // What the window of before has not kept is asked for by somebody who has left.
        let mut left = Request::frame(&shot, target, Scale::FULL);
        left.window = Window::new(9, 3, 60, 40);
        left.cancel = Cancel::new();
        left.cancel.cancel();
        let start = Instant::now();
        match engine.evaluate(&shot, &left) {
            Err(ShotError::Cancelled(_)) => {}
            // What is made once for the whole frame is there already.
            Ok(_) if name.starts_with("extract") => {}
            other => panic!("{name}: {:?}", other.map(|m| m.raster.window())),
        }
        assert!(start.elapsed() < Duration::from_millis(50), "{name}: {:?}", start.elapsed());
        for window in [Window::new(5, 5, 0, 0), Window::new(40, 20, 1, 1), Window::new(-500, -500, 3, 3)] {
            let got = evaluated(engine, &shot, target, Some(window)).unwrap();
            assert_eq!(got.window(), window, "{name}");
        }
    }
}
