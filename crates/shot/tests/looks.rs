//! Pictures for a screen: whatever changes their bytes changes their name, and nothing else does.
#![allow(clippy::unwrap_used)]

use jugata_core::show::view::{Backdrop, Planes, Transform, View};
use jugata_core::{Cancel, Role, Scale, Window};
use jugata_shot::ShotError;
use jugata_shot::document::Step;
use jugata_shot::engine::Target;
use jugata_shot::look::{Against, Look, Other, plain_png};
use jugata_shot::rocking::Rock;
use jugata_shot::steps::{Exposure, StepKind};
use std::collections::BTreeMap;

use crate::support::{FRAME, engine};

fn plain() -> Look {
    serde_json::from_str(r#"{"target": {"kind": "shot"}}"#).unwrap()
}

/// Looks that each differ from the plain one in one thing.
fn others() -> Vec<(&'static str, Look)> {
    let viewed = |view: View| Look { view, ..plain() };
    let untouched = Target::Untouched { element: 1 };
    let against = |gain| Against { other: Other::Target { target: untouched }, gain };
    let rock = |phase| Rock { amount: 9.0, phase, still: None };
    vec![
        ("exposure", viewed(View { exposure: 1.0, ..View::default() })),
        ("gamma", viewed(View { gamma: 2.0, ..View::default() })),
        ("planes", viewed(View { planes: Planes::First, ..View::default() })),
        ("transform", viewed(View { transform: Transform::Raw, ..View::default() })),
        ("against", Look { against: Some(against(1.0)), ..plain() }),
        ("against, stronger", Look { against: Some(against(8.0)), ..plain() }),
        ("a pass", Look { target: Target::Pass { element: 1, pass: 2 }, ..plain() }),
        ("half the size", Look { scale: Scale::halved(1).unwrap(), ..plain() }),
        ("a window", Look { window: Some(Window::new(10, 10, 40, 30)), ..plain() }),
        ("a tint", Look { tint: Some(Target::Pass { element: 1, pass: 4 }), ..plain() }),
        ("from the left", Look { rock: Some(rock(-1.0)), ..plain() }),
        ("from the right", Look { rock: Some(rock(1.0)), ..plain() }),
        ("bare bytes", Look { raw: true, ..plain() }),
    ]
}

#[test]
fn a_look_has_a_name_of_its_own_and_pictures_that_differ() {
    let (engine, mut shot) = engine();
    shot.elements[0].steps = vec![Step::new(1, StepKind::Exposure(Exposure { stops: -0.3 }))];
    let mut known: BTreeMap<String, &str> = BTreeMap::new();
    let mut pictures: BTreeMap<Vec<u8>, &str> = BTreeMap::new();
    for (name, look) in std::iter::once(("plain", plain())).chain(others()) {
        let request = look.request(&shot);
        let content = look.content(&engine, &shot, &request).unwrap();
        assert_eq!(content, look.content(&engine, &shot, &request).unwrap(), "{name}: the same name twice");
        if let Some(other) = known.insert(content, name) {
            panic!("{name} has the name of {other}");
        }
        let picture = look.encoded(&engine, &shot, &request).unwrap();
        if let Some(other) = pictures.insert(picture, name) {
            panic!("{name} is the picture of {other}");
        }
    }
}

#[test]
fn who_looks_does_not_change_what_is_seen() {
    let (engine, shot) = engine();
    let somebody = Look { viewer: Some("a pane".into()), ..plain() };
    let name = |look: &Look| look.content(&engine, &shot, &look.request(&shot)).unwrap();
    assert_eq!(name(&somebody), name(&plain()));
}

#[test]
fn bare_bytes_are_opaque_and_as_many_as_the_window_has() {
    let (engine, shot) = engine();
    let look = Look { raw: true, window: Some(Window::new(-20, -20, 31, 17)), ..plain() };
    let bytes = look.encoded(&engine, &shot, &look.request(&shot)).unwrap();
    assert_eq!(bytes.len(), 31 * 17 * 4);
    assert!(bytes.chunks(4).all(|px| px[3] == 255));
}

#[test]
fn what_cannot_be_shown_is_said() {
    let (engine, shot) = engine();
    let gone = Look { target: Target::Pass { element: 1, pass: 99 }, ..plain() };
    assert!(gone.encoded(&engine, &shot, &gone.request(&shot)).is_err());
    let left = Cancel::new();
    left.cancel();
    let picture = crate::support::picture(&engine, &shot, FRAME, Scale::FULL);
    let end = plain_png(&picture, Role::Beauty, Scale::FULL, &left);
    assert!(matches!(end, Err(ShotError::Cancelled(_))));
    assert!(plain_png(&picture, Role::Beauty, Scale::FULL, &Cancel::new()).unwrap().starts_with(b"\x89PNG"));
    let loud = Look { view: View { backdrop: Backdrop::Loud, ..View::default() }, ..plain() };
    let encoded = |look: &Look| look.encoded(&engine, &shot, &look.request(&shot)).unwrap();
    assert!(encoded(&loud) != encoded(&plain()), "where the picture is empty");
}
