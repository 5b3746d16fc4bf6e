//! Stills: what moves has its value at a frame; what drives it is checked; documents of the first form are still read.
#![allow(clippy::unwrap_used, clippy::panic)]

use jugata_core::{Camera, Scale, Window};
use jugata_shot::check;
use jugata_shot::document::{Element, FORMAT, FrameRange, Shot, Step};
use jugata_shot::drives::{Drift, Drive, DrivenBy, Goes, Key};
use jugata_shot::engine::{Engine, Event, Request, Target, Trace};
use jugata_shot::lamp::Lamp;
use jugata_shot::made::{MadeKind, Solid};
use jugata_shot::steps::{Emboss, Exposure, Place, Relight, StepKind};
use jugata_shot::still::Still;

use crate::kinds::BENCHES;

const LAMP: &str = "elements/1/steps/1/does/lamps/2/toward";
const STOPS: &str = "elements/1/steps/2/does/stops";
const OPACITY: &str = "elements/1/made/opacity";

fn shot(drives: Vec<Drive>) -> Shot {
    let mut element = Element::made(1, "solid".into(), MadeKind::Solid(Solid::default()));
    let lamps = vec![Lamp::new(), Lamp { id: 2, ..Lamp::new() }];
    element.steps = vec![
        Step::new(1, Relight { lamps, ..Relight::default() }.into()),
        Step::new(2, Exposure { stops: 0.25 }.into()),
        Step::new(3, Exposure { stops: -1.0 }.into()),
    ];
    Shot {
        format: FORMAT,
        name: "moving".into(),
        display: Window::of_size(8, 4),
        frames: Some(FrameRange { first: 1, last: 20 }),
        rate: 24.0,
        elements: vec![element],
        drives,
    }
}

fn keys(id: u32, at: &str, of: &[(f32, &[f32])]) -> Drive {
    let key =
        |&(frame, value): &(f32, &[f32])| Key { frame, value: value.to_vec().into(), goes: Goes::Linear };
    Drive { id, at: at.into(), by: Some(DrivenBy::Keys { keys: of.iter().map(key).collect() }), drift: None }
}

fn link(id: u32, at: &str, to: &str, times: f32, plus: f32) -> Drive {
    Drive { id, at: at.into(), by: Some(DrivenBy::Link { to: to.into(), times, plus }), drift: None }
}

fn stops(still: &Shot, step: usize) -> f32 {
    match &still.elements[0].steps[step].does {
        StepKind::Exposure(e) => e.stops,
        _ => panic!("an exposure"),
    }
}

#[test]
fn keys_links_and_drift_have_their_values_at_a_frame() {
    let third = "elements/1/steps/3/does/stops";
    let drives = vec![
        link(1, third, STOPS, 2.0, 0.5),
        keys(2, STOPS, &[(1.0, &[0.0]), (11.0, &[1.0])]),
        keys(3, LAMP, &[(0.0, &[1.0, 0.0, 0.0]), (10.0, &[0.0, 1.0, 0.0])]),
        Drive {
            id: 4,
            at: OPACITY.into(),
            by: None,
            drift: Some(Drift { amount: 0.0, period: 5.0, seed: 1 }),
        },
        keys(5, "elements/1/steps/3/on", &[(1.0, &[1.0]), (8.0, &[0.0])]),
    ];
    let moving = shot(drives);
    check::check(&moving).unwrap();
    let still = Still::of(&moving, 6).unwrap();
    assert_eq!(
        (stops(&still, 1), stops(&still, 2)),
        (0.5, 1.5),
        "a link is found whatever its place in the list"
    );
    let StepKind::Relight(r) = &still.elements[0].steps[0].does else { panic!("a relight") };
    let length: f32 = r.lamps[1].toward.iter().map(|v| v * v).sum();
    assert!((length - 1.0).abs() < 1e-5, "a direction goes along the sphere: {:?}", r.lamps[1].toward);
    assert_eq!(r.lamps[0], Lamp::new(), "the other lamp stays");
    assert!(Still::of(&moving, 1).unwrap().elements[0].steps[2].on);
    assert!(!Still::of(&moving, 9).unwrap().elements[0].steps[2].on);
    assert!(still.drives.is_empty());
    let text = serde_json::to_string(&moving).unwrap();
    assert_eq!(check::parse(&text).unwrap(), moving);
}

#[test]
fn an_angle_of_light_follows_a_lamp() {
    let from = "elements/1/steps/4/does/from";
    let mut moving = shot(vec![
        link(1, from, LAMP, 1.0, 10.0),
        keys(3, LAMP, &[(0.0, &[1.0, 0.0, 0.0]), (10.0, &[0.0, 1.0, 0.0])]),
    ]);
    moving.elements[0].steps.push(Step::new(4, Emboss::default().into()));
    check::check(&moving).unwrap();
    let angle = |frame| {
        let still = Still::of(&moving, frame).unwrap();
        match &still.elements[0].steps[3].does {
            StepKind::Emboss(e) => e.from,
            _ => panic!("an emboss"),
        }
    };
    for (frame, want) in [(0, 10.0), (5, 55.0), (10, 100.0)] {
        assert!((angle(frame) - want).abs() < 1e-3, "{frame}: {}", angle(frame));
    }
    // Nothing else follows a direction.
    moving.drives[0].at = STOPS.into();
    assert!(check::check(&moving).unwrap_err().to_string().contains("3 numbers cannot stand for a number"));
}

#[test]
fn what_is_put_somewhere_follows_a_lamp() {
    let mut moving = shot(vec![
        link(1, "elements/1/steps/4/does/moved", LAMP, 1.0, 0.0),
        keys(3, LAMP, &[(0.0, &[0.0, 0.0, -1.0]), (10.0, &[1.0, 1.0, -1.0]), (20.0, &[0.6, -0.8, 1.0])]),
    ]);
    moving.elements[0].steps.push(Step::new(4, Place { anchor: [0.25, 0.5], ..Place::default() }.into()));
    assert!(check::check(&moving).unwrap_err().to_string().contains("give its element a focal length"));
    moving.elements[0].camera = Some(Camera::centred(100.0, moving.display));
    check::check(&moving).unwrap();
    let moved = |frame| match &Still::of(&moving, frame).unwrap().elements[0].steps[3].does {
        StepKind::Place(p) => p.moved,
        _ => panic!("a place"),
    };
    // From its anchor, a quarter of the frame from the left, to where the lamp is seen.
    let quarter = moving.display.width as f32 / 4.0;
    for (frame, want) in [(0, [quarter, 0.0]), (10, [quarter + 100.0, -100.0])] {
        let is = moved(frame);
        assert!((is[0] - want[0]).abs() < 0.01 && (is[1] - want[1]).abs() < 0.01, "{frame}: {is:?}");
    }
    // Behind the camera no lamp is seen.
    let [x, y] = moved(20);
    assert!(x > 10_000.0 && y > 10_000.0, "{x} {y}");
}

#[test]
fn what_cannot_drive_is_refused_in_a_sentence() {
    let refused = |drives: Vec<Drive>| check::check(&shot(drives)).unwrap_err().to_string();
    let circle = vec![link(1, STOPS, OPACITY, 1.0, 0.0), link(2, OPACITY, STOPS, 1.0, 0.0)];
    assert_eq!(refused(circle), format!("What drives {STOPS}: it follows itself by its links."));
    let nowhere = vec![link(1, STOPS, "elements/1/steps/9/does/stops", 1.0, 0.0)];
    assert!(refused(nowhere).contains("steps/9/does/stops: there is no such parameter"));
    assert!(refused(vec![keys(1, LAMP, &[(0.0, &[1.0])])]).contains("a number cannot stand for 3 numbers"));
    assert!(refused(vec![link(1, LAMP, STOPS, 1.0, 0.0)]).contains("a number cannot stand for 3 numbers"));
    assert!(
        refused(vec![keys(1, STOPS, &[(2.0, &[0.0]), (1.0, &[0.0])])]).contains("not in ascending order")
    );
    assert!(refused(vec![keys(1, STOPS, &[])]).contains("0 keys"));
    assert!(refused(vec![keys(1, STOPS, &[(0.0, &[f32::NAN])])]).contains("a key's value is NaN"));
    let twice = vec![keys(1, STOPS, &[(0.0, &[0.0])]), keys(2, STOPS, &[(0.0, &[1.0])])];
    assert!(refused(twice).contains("two drives cannot share a parameter"));
    assert!(refused(vec![keys(1, "elements/1/name", &[(0.0, &[0.0])])]).contains("no such parameter"));
    // A value that leaves its range does so at its frame, and is told there.
    let wild = shot(vec![keys(1, OPACITY, &[(1.0, &[0.5]), (20.0, &[2.0])])]);
    check::check(&wild).unwrap();
    assert!(Still::of(&wild, 2).is_ok());
    assert!(Still::of(&wild, 20).unwrap_err().to_string().contains("“Opacity” is 2"));
}

#[test]
fn what_does_not_move_is_reused_from_frame_to_frame() {
    let (engine, bench): &(Engine, Shot) = &BENCHES[0];
    let mut moving = bench.clone();
    moving.elements.truncate(1);
    moving.frames = Some(FrameRange { first: 1, last: 9 });
    moving.elements[0].steps =
        vec![Step::new(1, Relight::default().into()), Step::new(2, Exposure { stops: 0.0 }.into())];
    moving.drives = vec![keys(1, STOPS, &[(1.0, &[0.0]), (9.0, &[1.0])])];
    let ran = |frame: i32| {
        let trace = Trace::default();
        let mut request = Request::frame(&moving, Target::Shot, Scale::FULL);
        (request.frame, request.trace) = (frame, Some(trace.clone()));
        let made = engine.evaluate(&moving, &request).unwrap();
        (made.raster, trace.lock().unwrap().clone())
    };
    let (first, _) = ran(1);
    let (fifth, events) = ran(5);
    assert!(
        events.contains(&Event::Ran { step: 2 }) && !events.contains(&Event::Ran { step: 1 }),
        "{events:?}"
    );
    for (a, b) in first.plane(0).iter().zip(fifth.plane(0)) {
        assert!((a * 2f32.sqrt() - b).abs() <= 1e-5 * b.abs().max(1.0), "half a stop: {a} {b}");
    }
}

/// Shots as the first form had them (tests/format1): lamps, strokes and parts of mattes without numbers, a limit of one part
/// under its old name.
#[test]
fn documents_of_the_first_form_are_still_read() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/format1");
    let mut read = 0;
    for file in std::fs::read_dir(folder).unwrap() {
        let path = file.unwrap().path();
        let shot = check::parse(&std::fs::read_to_string(&path).unwrap())
            .unwrap_or_else(|e| panic!("{path:?}: {e}"));
        assert_eq!(shot.format, FORMAT, "{path:?}");
        if let StepKind::Relight(r) =
            &shot.elements[0].steps.first().map_or(Exposure::default().into(), |s| s.does.clone())
        {
            assert!(r.lamps.iter().all(|l| l.id > 0), "lamps have numbers");
        }
        read += 1;
    }
    assert!(read >= 10, "{read} files");
    let newer = serde_json::to_string(&shot(vec![])).unwrap().replace("\"format\":2", "\"format\":3");
    assert_eq!(
        check::parse(&newer).unwrap_err().to_string(),
        "The shot file is format 3; this version reads up to 2."
    );
}
