//! Motion blur that a picture has already, in every scene: told with its shutter; sharp pictures and those that a lens or a
//! filter made soft are left alone.
#![allow(clippy::unwrap_used)]

use jugata_core::passes::checks::{self, Case, Evidence, FindingKind};
use jugata_core::passes::convention::{Convention, Setting};
use jugata_core::raster::soften::softened;
use jugata_core::{Cancel, Raster, Role, SampleKind};
use jugata_standin::{Passes, Settings, Shutter, render};
use jugata_testkit::beds::{Bed, every, going};
use std::sync::Arc;

const SIZE: (u32, u32) = (480, 270);

/// How far the camera goes in a frame, in mean depths, and how far it turns, degrees.
const WAYS: [([f32; 3], f32); 3] = [([0.04, 0.01, -0.03], 0.0), ([0.0; 3], 1.5), ([0.02, 0.02, 0.0], -1.0)];

fn moving(bed: Bed, (travel, pan): ([f32; 3], f32)) -> Settings {
    Settings { pan, ..going(bed.settings(SIZE, 2).unwrap(), travel) }
}

/// What is said of a picture beside the passes of a render.
fn told(p: &Passes, picture: &Raster, with_depth: bool) -> Option<String> {
    let setting = Setting { camera: Some(p.camera), display: p.beauty.window() };
    let one = |id: u32, role: Role, canonical: &Raster| Evidence {
        id,
        name: role.label().into(),
        role,
        canonical: Arc::new(canonical.clone()),
        stored: Arc::new(canonical.clone()),
        kind: SampleKind::Float,
        lossy: None,
        convention: Convention::default(),
        repairs: Vec::new(),
    };
    let mut passes = vec![one(1, Role::Beauty, picture), one(2, Role::Motion, &p.motion)];
    passes.extend(with_depth.then(|| one(3, Role::Depth, &p.depth)));
    let found = checks::run(&Case::new(passes, setting, None));
    let found = found.into_iter().find(|f| f.kind == FindingKind::Exposed)?;
    assert_eq!(found.pass, 1);
    Some(found.what)
}

/// All that FIDELITY tells takes four minutes.
fn beds() -> Vec<Bed> {
    match every() {
        true => Bed::all().into_iter().filter(|b| b.settings(SIZE, 1).is_some()).collect(),
        false => vec![Bed::Orrery, Bed::Room(4), Bed::Room(9)],
    }
}

#[test]
fn a_picture_that_was_exposed_while_things_moved_is_told_with_its_shutter() {
    let (mut told_of, mut right, mut of, mut wrong) = (0, 0, 0, Vec::new());
    for (n, bed) in beds().into_iter().enumerate() {
        let settings = moving(bed, WAYS[n % WAYS.len()]);
        let p = render(&settings);
        let soft = softened(&p.beauty, 4.0, &Cancel::new()).unwrap();
        for (name, picture) in [("sharp", &p.beauty), ("filtered", &soft)] {
            for with_depth in [true, false] {
                wrong.extend(told(&p, picture, with_depth).map(|t| format!("{bed} {name}: {t:?}")));
            }
        }
        for (_, seen) in bed.through_lenses(&p, 2) {
            wrong.extend(told(&p, &seen, true).map(|t| format!("{bed} through a lens: {t:?}")));
        }
        let ways = [(-0.25, 0.25, "around"), (0.0, 1.0, "on"), (-0.5, 0.0, "up to")];
        for (opens, closes, when) in ways {
            let shutter = Shutter { opens, closes, moments: 12, samples: 1 };
            let blurred = render(&Settings { shutter: Some(shutter), ..settings.clone() }).beauty;
            let degrees = (closes - opens) * 360.0;
            for with_depth in [true, false] {
                let told = told(&p, &blurred, with_depth);
                let right_one = |words: &String| words.contains(when) && degrees_of(words, degrees);
                let is = told.as_ref().is_some_and(right_one);
                println!("{bed}, {degrees:.0}° {when}, depth {with_depth}: {told:?}");
                of += 1;
                told_of += usize::from(told.is_some());
                right += usize::from(is);
            }
        }
    }
    println!("{told_of} of {of} told, {right} right; wrongly told: {wrong:#?}");
    assert!(wrong.is_empty(), "{wrong:#?}");
    assert!(10 * told_of >= 3 * of && 10 * right >= 9 * told_of, "{told_of} of {of}, {right} right");
}

/// Whether the degrees that are told are those that were asked for, to a third; of a long way to one side only its least is told.
fn degrees_of(words: &str, degrees: f32) -> bool {
    let about = words.split_once("about ").and_then(|(_, rest)| rest.split_once('°'));
    match about {
        Some((told, _)) => (told.parse::<f32>().unwrap() / degrees).ln().abs() < 0.3,
        None => words.contains("180° or more") && degrees >= 180.0,
    }
}
