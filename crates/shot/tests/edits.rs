//! Edits by address: they make one document out of another, and those of two people are put together.
#![allow(clippy::unwrap_used, clippy::panic)]

use jugata_core::Window;
use jugata_core::colour::blend::BlendMode;
use jugata_shot::document::{Element, FORMAT, Joins, Limit, Shot, Step};
use jugata_shot::edits::{EditAt, between, edited, meet};
use jugata_shot::lamp::Lamp;
use jugata_shot::made::{Gradient, MadeKind, Solid};
use jugata_shot::parts::DepthPart;
use jugata_shot::steps::{Exposure, Place, Relight, StepKind};
use proptest::prelude::*;
use serde_json::json;

fn shot() -> Shot {
    let lamps = vec![Lamp::new(), Lamp { id: 2, intensity: 3.0, ..Lamp::new() }];
    let mut first = Element::made(1, "ground".into(), MadeKind::Solid(Solid::default()));
    first.steps = vec![
        Step::new(1, Relight { lamps, ..Relight::default() }.into()),
        Step::new(2, Exposure { stops: 0.5 }.into()),
        Step::new(3, Place::default().into()),
    ];
    first.steps[1].only_where =
        Some(Limit::of(DepthPart { near: 1.0, far: 2.0, near_soft: 0.1, far_soft: 0.1 }));
    let second = Element::made(2, "sky".into(), MadeKind::Gradient(Gradient::default()));
    Shot {
        format: FORMAT,
        name: "a shot".into(),
        display: Window::of_size(64, 36),
        frames: None,
        rate: 24.0,
        elements: vec![first, second],
        drives: Vec::new(),
    }
}

fn with(change: impl FnOnce(&mut Shot)) -> Shot {
    let mut s = shot();
    change(&mut s);
    s
}

fn relight(s: &mut Shot) -> &mut Relight {
    match &mut s.elements[0].steps[0].does {
        StepKind::Relight(r) => r,
        _ => panic!("the first step relights"),
    }
}

#[test]
fn a_moved_value_is_one_edit_at_its_address() {
    let to = with(|s| relight(s).lamps[1].intensity = 4.0);
    let edits = between(&shot(), &to).unwrap();
    assert_eq!(
        edits,
        [EditAt {
            at: "elements/1/steps/1/does/lamps/2/intensity".into(),
            put: Some(json!(4.0)),
            after: None
        }]
    );
    assert_eq!(edited(&shot(), &edits).unwrap(), to);
    assert!(between(&to, &to).unwrap().is_empty());
}

#[test]
fn another_kind_is_put_whole_and_nothing_is_said_of_what_stays() {
    let to = with(|s| s.elements[0].steps[1].does = Place::default().into());
    let edits = between(&shot(), &to).unwrap();
    assert_eq!(edits.iter().map(|e| e.at.as_str()).collect::<Vec<_>>(), ["elements/1/steps/2/does"]);
    let to = with(|s| s.elements[0].steps[1].only_where = None);
    let edits = between(&shot(), &to).unwrap();
    assert_eq!((edits.len(), edits[0].put.clone()), (1, Some(json!(null))));
    let text = serde_json::to_string(&edits).unwrap();
    assert_eq!(serde_json::from_str::<Vec<EditAt>>(&text).unwrap(), edits, "a null is kept");
}

#[test]
fn edits_of_two_people_to_different_things_are_both_had() {
    let base = shot();
    let mine = with(|s| relight(s).lamps[0].intensity = 2.0);
    let theirs = with(|s| {
        relight(s).lamps[1].stops = 1.0;
        s.elements[0].steps.swap(1, 2);
        s.elements[1].joins = Some(Joins::of(BlendMode::Screen));
        s.elements[0].steps.push(Step::new(4, Exposure { stops: -1.0 }.into()));
    });
    let (a, b) = (between(&base, &mine).unwrap(), between(&base, &theirs).unwrap());
    assert!(!meet(&a, &b));
    let both = edited(&theirs, &a).unwrap();
    let mut wanted = theirs.clone();
    relight(&mut wanted).lamps[0].intensity = 2.0;
    assert_eq!(both, wanted);
    // The other way round it is the same.
    assert_eq!(edited(&mine, &b).unwrap(), wanted);
}

#[test]
fn edits_that_cannot_both_be_had_meet() {
    let base = shot();
    let of = |to: &Shot| between(&base, to).unwrap();
    let brighter = of(&with(|s| relight(s).lamps[0].intensity = 2.0));
    let darker = of(&with(|s| relight(s).lamps[0].intensity = 0.1));
    let gone = of(&with(|s| s.elements[0].steps.retain(|s| s.id != 1)));
    let lamp_gone = of(&with(|s| relight(s).lamps.retain(|l| l.id != 1)));
    let other_lamp_gone = of(&with(|s| relight(s).lamps.retain(|l| l.id != 2)));
    let moved = of(&with(|s| s.elements[0].steps.rotate_left(1)));
    assert!(meet(&brighter, &darker) && meet(&brighter, &gone) && meet(&gone, &lamp_gone));
    assert!(!meet(&brighter, &other_lamp_gone), "a lamp is known by its number");
    assert!(!meet(&brighter, &moved), "a step that only moves is still the step");
    assert!(meet(&moved, &moved));
    let whole = [EditAt { at: String::new(), put: Some(json!({})), after: None }];
    assert!(meet(&whole, &brighter));
}

#[test]
fn addresses_that_lead_nowhere_get_a_sentence() {
    let at = |at: &str, put| {
        edited(&shot(), &[EditAt { at: at.into(), put, after: None }]).unwrap_err().to_string()
    };
    assert_eq!(
        at("elements/9/name", Some(json!("x"))),
        "An edit: there is no elements/9/name in this shot any more."
    );
    assert!(at("elements/1/steps/7", None).contains("no elements/1/steps/7"));
    assert!(at("name/x", Some(json!(1))).contains("no name/x"));
    assert!(at("elements/1/steps/2/does/stops", Some(json!(99))).contains("“Exposure” is 99"));
    assert!(at("elements/1/steps/2/does/sparkle", Some(json!(1))).contains("sparkle"));
    assert!(at("", None).contains("An edit"));
    let many = vec![EditAt { at: "name".into(), put: Some(json!("n")), after: None }; 5000];
    assert!(edited(&shot(), &many).unwrap_err().to_string().contains("more than 4096"));
}

/// One of some changes, drawn by lot.
fn changed(s: &mut Shot, what: u8, k: u8) {
    let e = &mut s.elements[usize::from(k) % 2];
    match what % 8 {
        0 => e.name = format!("n{k}"),
        1 => drop(e.steps.pop()),
        2 => e.steps.reverse(),
        3 => {
            let id = e.free_step_id();
            let at = usize::from(k) % (e.steps.len() + 1);
            e.steps.insert(at, Step::new(id, Exposure { stops: f32::from(k) * 0.01 }.into()));
        }
        4 => e.steps.iter_mut().for_each(|s| s.on = !s.on),
        5 => e.placement = Some(Place { turn: f32::from(k), ..Place::default() }),
        6 => e.placement = None,
        _ => s.elements.reverse(),
    }
}

proptest! {
    #[test]
    fn what_differs_is_all_that_is_needed(changes in proptest::collection::vec((any::<u8>(), any::<u8>()), 0..9)) {
        let mut to = shot();
        changes.iter().for_each(|(what, k)| changed(&mut to, *what, *k));
        let edits = between(&shot(), &to).unwrap();
        prop_assert_eq!(edited(&shot(), &edits).unwrap(), to);
    }
}
