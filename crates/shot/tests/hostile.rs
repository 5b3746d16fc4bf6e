//! Documents that are sound and would take for ever, if what is named twice were worked out twice.
#![allow(clippy::unwrap_used)]

use jugata_core::matte::Combine;
use jugata_core::{Role, Scale};
use jugata_shot::check;
use jugata_shot::document::{Extract, Limit, MattePart, NamedMatte, PaintedStroke, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::extracts::ExtractKind;
use jugata_shot::parts::{BrushPart, CoveragePart, NamedPart, ObjectsPart};
use jugata_shot::steps::{Exposure, StepKind};
use std::time::{Duration, Instant};

use crate::support::{engine, engine_with};

/// Room for a few pictures of the scene, so that what is kept cannot hide what is made again.
const SMALL: CacheSizes = CacheSizes { files: 1 << 30, results: 400_000, at_once: 8 << 30 };

/// Far below what doubling at every level would take, far above what a slow machine needs.
const SOON: Duration = Duration::from_secs(5);

fn named(id: u32, parts: Vec<MattePart>) -> NamedMatte {
    let mut matte = Limit::of(CoveragePart {});
    matte.parts = parts;
    NamedMatte { id, name: format!("m{id}"), matte }
}

fn uses(matte: u32) -> MattePart {
    MattePart { joins: Combine::And, ..MattePart::new(NamedPart { matte }) }
}

/// The picture and its hash, and how long both took.
fn timed(engine: &Engine, shot: &Shot, target: Target) -> Duration {
    check::check(shot).unwrap();
    let start = Instant::now();
    let request = Request::frame(shot, target, Scale::FULL);
    engine.content(shot, &request).unwrap();
    engine.evaluate(shot, &request).unwrap();
    start.elapsed()
}

#[test]
fn mattes_that_name_the_one_before_twice_are_made_once_each() {
    for sizes in [CacheSizes::default(), SMALL] {
        let (engine, mut shot) = engine_with(sizes);
        let first = named(1, vec![MattePart::new(ObjectsPart { ids: vec![1] })]);
        let rest = (2..=64).map(|id| named(id, vec![uses(id - 1), uses(id - 1)]));
        shot.elements[0].mattes = std::iter::once(first).chain(rest).collect();
        let mut step = Step::new(1, StepKind::Exposure(Exposure { stops: 1.0 }));
        step.only_where = Some(Limit::of(NamedPart { matte: 64 }));
        shot.elements[0].steps = vec![step];
        let took = timed(&engine, &shot, Target::Shot);
        println!("64 mattes: {took:?}");
        assert!(took < SOON, "{took:?}");
    }
}

#[test]
fn five_levels_of_sixty_four_references_are_five_mattes() {
    let (engine, mut shot) = engine_with(SMALL);
    let first = named(1, vec![MattePart::new(CoveragePart {})]);
    let rest = (2..=5).map(|id| named(id, (0..64).map(|_| uses(id - 1)).collect()));
    shot.elements[0].mattes = std::iter::once(first).chain(rest).collect();
    let took = timed(&engine, &shot, Target::Matte { element: 1, matte: 5 });
    assert!(took < SOON, "{took:?}");
}

#[test]
fn extractions_that_read_each_other_in_turn_are_made_once_each() {
    let (engine, mut shot) = engine();
    let kinds = |i: u32| match i % 2 {
        0 => ExtractKind::NormalsHeight(Default::default()),
        _ => ExtractKind::BumpNormals(Default::default()),
    };
    shot.elements[0].extracts = (0..20)
        .map(|i| Extract {
            id: 100 + i,
            name: format!("x{i}"),
            does: kinds(i),
            serves: true,
            reads: Vec::new(),
        })
        .collect();
    let took = timed(&engine, &shot, Target::Pass { element: 1, pass: 119 });
    println!("20 extractions: {took:?}");
    assert!(took < SOON, "{took:?}");
    assert_eq!(shot.elements[0].provider(119).map(|p| p.role()), Some(Role::Normal));
}

#[test]
fn strokes_without_end_are_refused_and_long_ones_can_be_stopped() {
    let (engine, mut shot) = engine();
    let zigzag = |points: u16, size: f32| PaintedStroke {
        id: 1,
        size,
        softness: 1.0,
        flow: 0.5,
        erases: false,
        points: (0..points).map(|i| [f32::from(i % 2) * 1e4 - 5e3, f32::from(i)]).collect(),
    };
    let mut painted = |stroke: PaintedStroke| {
        shot.elements[0].mattes = vec![named(1, vec![MattePart::new(BrushPart { strokes: vec![stroke] })])];
        shot.clone()
    };
    let wide = painted(zigzag(50_000, 20_000.0));
    let said = check::check(&wide).unwrap_err().to_string();
    assert!(said.contains("too wide for their number of points"), "{said}");
    // Half a minute of work, stopped after a moment.
    let long = painted(zigzag(1_200, 4_000.0));
    check::check(&long).unwrap();
    let request = Request::frame(&long, Target::Matte { element: 1, matte: 1 }, Scale::FULL);
    let cancel = request.cancel.clone();
    std::thread::scope(|s| {
        let work = s.spawn(|| engine.evaluate(&long, &request));
        std::thread::sleep(Duration::from_millis(30));
        let start = Instant::now();
        cancel.cancel();
        let _ = work.join().unwrap();
        assert!(start.elapsed() < Duration::from_secs(1), "{:?}", start.elapsed());
    });
}
