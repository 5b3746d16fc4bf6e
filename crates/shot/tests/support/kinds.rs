//! Every kind of step and of extraction on small shots, at its defaults and with its numbers moved.
#![allow(dead_code, clippy::unwrap_used)]

use crate::files::Files;
use jugata_core::Role;
use jugata_core::matte::hashed;
use jugata_exchange::Limits;
use jugata_shot::document::{Element, Extract, Limit, MediaId, NamedMatte, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Target};
use jugata_shot::extracts::{self, ExtractKind};
use jugata_shot::intake::{MediaFile, shot_of_files};
use jugata_shot::made::{self, MadeKind};
use jugata_shot::parts::{self, DepthPart, PartKind};
use jugata_shot::steps::{self, Exposure, StepKind};
use jugata_standin::{Settings, export, render};
use serde::de::DeserializeOwned;
use serde_json::{Value, json};
use std::sync::LazyLock;

/// The orrery, and two rooms.
pub const SEEDS: [Option<u64>; 3] = [None, Some(3), Some(8)];

/// A shot of two elements, the scene over a room, and its files, for each of the seeds.
static SHOTS: LazyLock<Vec<(Vec<Vec<u8>>, Shot)>> = LazyLock::new(|| {
    let size = Settings::sized(96, 54, 2);
    let of = |seed| export::plain(&render(&Settings { seed, ..size.clone() })).unwrap();
    let made = |seed| {
        let bytes = vec![of(seed), of(Some(16))];
        let names = ["near.exr", "far.exr"].map(String::from).into_iter().zip(&bytes);
        let brought: Vec<MediaFile> =
            names.map(|(name, b)| MediaFile { name, media: MediaId::of(b) }).collect();
        let shot = shot_of_files(&brought, &fresh(bytes.clone())).unwrap();
        assert_eq!(shot.elements.len(), 2);
        (bytes, shot)
    };
    SEEDS.into_iter().map(made).collect()
});

fn fresh(bytes: Vec<Vec<u8>>) -> Engine {
    Engine::new(Box::new(Files(bytes)), Limits::default(), CacheSizes::default())
}

/// The shot of one of the seeds, and an engine that has worked out nothing of it yet.
pub fn bench(seed: Option<u64>) -> (Engine, Shot) {
    let (bytes, shot) = &SHOTS[SEEDS.iter().position(|s| *s == seed).unwrap()];
    (fresh(bytes.clone()), shot.clone())
}

pub static BENCHES: LazyLock<Vec<(Engine, Shot)>> = LazyLock::new(|| SEEDS.into_iter().map(bench).collect());

/// Parameters with every number that has a slider at 37 % of it.
pub fn moved<T: DeserializeOwned>(defaults: &Value, schema: &Value) -> T {
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

pub fn as_json(of: &impl serde::Serialize) -> Value {
    serde_json::to_value(of).unwrap()
}

/// What lists hold that are drawn in the picture, where they are empty at first.
fn drawn() -> [(&'static str, Value); 5] {
    let push =
        json!({ "at": [40.0, 20.0], "by": [9.0, -6.0], "size": [22.0, 15.0], "turn": 12.0, "scale": 1.2 });
    let smear =
        json!({ "size": 20.0, "points": [[10.0, 40.0], [40.0, 30.0], [55.0, 44.0]], "strength": 0.8 });
    let bent = [[5.0, 8.0], [30.0, 6.0], [60.0, 6.0], [90.0, 9.0]];
    [
        ("pushes", json!([push])),
        ("smears", json!([smear])),
        ("points", json!([{ "id": 8, "by": [6.0, 4.0] }, { "id": 11, "by": [-3.0, 5.0] }])),
        ("places", json!([{ "at": [20.0, 10.0], "size": 1.5 }, { "at": [80.0, 40.0], "size": 20.0 }])),
        ("lines", json!([{ "points": bent }])),
    ]
}

/// Every kind of step, at its defaults and moved.
pub fn every_step() -> Vec<(String, StepKind)> {
    let both = |k: steps::KindInfo| {
        let mut defaults = as_json(&k.defaults);
        for (name, list) in drawn().into_iter().filter(|(name, _)| k.schema["properties"].get(name).is_some())
        {
            defaults[name] = list;
        }
        let odd = moved(&defaults, &k.schema);
        [(k.kind.to_owned(), k.defaults), (format!("{}, moved", k.kind), odd)]
    };
    steps::catalogue().iter().cloned().flat_map(both).collect()
}

/// Every kind of extraction, at its defaults and moved.
pub fn every_extract() -> Vec<(String, ExtractKind)> {
    let both = |k: extracts::ExtractInfo| {
        let odd = moved(&as_json(&k.defaults), &k.schema);
        [(k.kind.to_owned(), k.defaults), (format!("{}, moved", k.kind), odd)]
    };
    extracts::catalogue().iter().cloned().flat_map(both).collect()
}

/// The shot with a step on its first element, clay at hand; `like`, `elements` and who throws a shadow name the other element.
pub fn with_step(shot: &Shot, does: &StepKind) -> (Shot, Target) {
    let mut shot = shot.clone();
    let clay = extracts::catalogue().iter().find(|k| k.kind == "clay").unwrap().defaults.clone();
    shot.elements[0].extracts = vec![extracted(1001, clay)];
    let mut does = as_json(does);
    if does.get("like").is_some() {
        does["like"] = shot.elements[1].id.into();
    }
    if does["kind"] == "light_wrap" {
        does["from"] = shot.elements[1].id.into();
    }
    if does["kind"] == "cast_shadow" {
        does["element"] = shot.elements[1].id.into();
    }
    if does.get("of").is_some() {
        // A render often fills its frame: what works along an edge gets that of a matte.
        let by = json!({ "kind": "ellipse", "centre": [46.3, 25.1], "radii": [30.0, 15.5], "turned": 20.0, "soft": 0.0 });
        let matte = json!({ "parts": [{ "id": 1, "by": by }], "invert": false });
        let named = json!({ "id": 1, "name": "body", "matte": matte });
        shot.elements[0].mattes = vec![serde_json::from_value(named).unwrap()];
        does["of"] = 1.into();
    }
    let does: StepKind = serde_json::from_value(does).unwrap();
    let mut steps = vec![Step::new(1, does)];
    if steps[0].does.name() == "coordinate_map" {
        // A map at hand, of a step that turns the picture.
        let turned = json!({ "kind": "place", "turn": 7.0, "scale": [0.9, 1.1] });
        steps.insert(0, Step::new(2, serde_json::from_value(turned).unwrap()));
        let map = json!({ "kind": "moves_map", "last": 2 });
        shot.elements[0].extracts.push(extracted(1002, serde_json::from_value(map).unwrap()));
    }
    shot.elements[0].steps = steps;
    (shot, Target::After { element: 1, step: 1 })
}

pub fn extracted(id: u32, does: ExtractKind) -> Extract {
    Extract { id, name: "made".into(), serves: true, does, reads: Vec::new() }
}

/// The shot with an extraction on its first element, a height at hand, and a stroke where it takes strokes.
pub fn with_extract(shot: &Shot, does: &ExtractKind) -> (Shot, Target) {
    let mut shot = shot.clone();
    let mut does = as_json(does);
    if does.get("strokes").is_some() {
        let points = json!([[10.0, 10.0], [60.0, 30.0]]);
        does["strokes"] = json!([{ "size": 12.0, "points": points }]);
        if does["kind"] == "paint_depth" {
            does["strokes"][0]["depth"] = 3.0.into();
        }
    }
    if does.get("elements").is_some() {
        does["elements"] = vec![shot.elements[1].id].into();
    }
    let height = extracts::catalogue().iter().find(|k| k.kind == "picture_height").unwrap().defaults.clone();
    let mut list = vec![extracted(1001, height), extracted(1002, serde_json::from_value(does).unwrap())];
    if list[1].does.kind().gives() == Role::Height {
        list.remove(0);
    }
    let name = list[list.len() - 1].does.name();
    if name == "map_difference" {
        list[0] = extracted(1001, serde_json::from_value(json!({ "kind": "moves_map" })).unwrap());
    }
    shot.elements[0].extracts = list;
    if matches!(name, "moves_map" | "map_difference") {
        let lens = json!({ "kind": "lens", "k1": -0.2, "p1": 0.01 });
        shot.elements[0].steps = vec![Step::new(1, serde_json::from_value(lens).unwrap())];
    }
    (shot, Target::Pass { element: 1, pass: 1002 })
}

/// Every kind of made element, at its defaults and moved.
pub fn every_made() -> Vec<(String, MadeKind)> {
    let both = |k: made::MadeInfo| {
        let odd = moved(&as_json(&k.defaults), &k.schema);
        [(k.kind.to_owned(), k.defaults), (format!("{}, moved", k.kind), odd)]
    };
    made::catalogue().iter().cloned().flat_map(both).collect()
}

/// The shot with a made element on top.
pub fn with_made(shot: &Shot, made: &MadeKind) -> (Shot, Target) {
    let mut shot = shot.clone();
    shot.elements.push(Element::made(9, "made".into(), made.clone()));
    (shot, Target::Untouched { element: 9 })
}

/// Every kind of part of a matte, at its defaults and moved; what is drawn has something drawn.
pub fn every_part() -> Vec<(String, PartKind)> {
    let both = |k: parts::PartInfo| {
        let mut own = as_json(&k.defaults);
        match k.kind {
            "objects" => own["ids"] = json!([1, 3]),
            "hashed" => own["ids"] = json!([{ "id": hashed::id_of("Wall"), "name": "Wall" }]),
            "polygon" => own["corners"] = json!([[10.0, 5.0], [80.0, 12.0], [40.0, 50.0]]),
            "brush" => own["strokes"] = json!([{ "size": 14.0, "points": [[10.0, 10.0], [70.0, 40.0]] }]),
            "named" => own["matte"] = 1.into(),
            _ => {}
        }
        let odd = moved(&own, &k.schema);
        [(k.kind.to_owned(), serde_json::from_value(own).unwrap()), (format!("{}, moved", k.kind), odd)]
    };
    parts::catalogue().iter().cloned().flat_map(both).collect()
}

/// The shot with a step that a part limits, and a matte with a name.
pub fn with_part(shot: &Shot, by: &PartKind) -> (Shot, Target) {
    let mut shot = shot.clone();
    let near = DepthPart { near: 2.0, far: 6.0, ..DepthPart::default() };
    shot.elements[0].mattes = vec![NamedMatte { id: 1, name: "near".into(), matte: Limit::of(near) }];
    let mut step = Step::new(1, Exposure { stops: 1.0 }.into());
    step.only_where = Some(Limit::of(by.clone()));
    shot.elements[0].steps = vec![step];
    (shot, Target::Limit { element: 1, step: 1 })
}

/// Every kind on a shot, with its name.
pub fn every_kind(shot: &Shot) -> Vec<(String, Shot, Target)> {
    let steps = every_step().into_iter().map(|(name, k)| (name, with_step(shot, &k)));
    let extracts =
        every_extract().into_iter().map(|(name, k)| (format!("extract {name}"), with_extract(shot, &k)));
    let made = every_made().into_iter().map(|(name, k)| (format!("made {name}"), with_made(shot, &k)));
    let parts = every_part().into_iter().map(|(name, k)| (format!("part {name}"), with_part(shot, &k)));
    steps
        .chain(extracts)
        .chain(made)
        .chain(parts)
        .map(|(name, (shot, target))| (name, shot, target))
        .collect()
}
