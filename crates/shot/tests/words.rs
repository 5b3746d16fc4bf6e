//! What every kind of step and extraction says: its sentences, what it answers to numbers that cannot be, and what the
//! engine did for a few shots.
#![allow(clippy::unwrap_used)]

use jugata_core::{Scale, Window};
use jugata_shot::document::{Joins, Limit, Shot, Step};
use jugata_shot::engine::{Request, Target, Trace};
use jugata_shot::parts::DepthPart;
use jugata_shot::steps::{Exposure, Relight, StepKind};
use jugata_shot::{check, extracts, made, parts, steps};
use serde_json::Value;
use std::fmt::Write;

use crate::kinds::{
    BENCHES, as_json, bench, every_extract, every_made, every_part, every_step, with_extract, with_made,
    with_part, with_step,
};

#[test]
fn sentences_of_every_kind() {
    let mut said = String::new();
    for (name, does) in every_step() {
        writeln!(said, "{name}: {}", Step::new(1, does).sentence(&[])).unwrap();
    }
    for (name, does) in every_extract() {
        writeln!(said, "extract {name}: {}", does.sentence()).unwrap();
    }
    for (name, does) in every_made() {
        writeln!(said, "made {name}: {}", does.sentence()).unwrap();
    }
    for (name, by) in every_part() {
        writeln!(said, "part {name}: {}", by.sentence()).unwrap();
    }
    insta::assert_snapshot!(said);
}

/// What is said of a shot, or that it is taken.
fn checked(shot: &Value) -> String {
    match check::parse(&shot.to_string()) {
        Ok(_) => "taken".into(),
        Err(e) => e.to_string(),
    }
}

/// Writes what is answered to each number of a kind far below and far above what can be.
fn out_of_range(said: &mut String, kind: &str, schema: &Value, shot: &Shot, place: &str) {
    let document = as_json(shot);
    for (name, _) in schema["properties"].as_object().into_iter().flatten() {
        let mut asked = document.clone();
        let number = asked.pointer(place).and_then(|does| does.get(name)).filter(|v| v.is_number()).cloned();
        let Some(number) = number else { continue };
        for far in [-1e12, 1e12] {
            let value: Value = if number.is_f64() { far.into() } else { (far as i64).into() };
            asked.pointer_mut(place).unwrap()[name] = value;
            writeln!(said, "{kind} {name} {far:e}: {}", checked(&asked)).unwrap();
        }
    }
}

#[test]
fn numbers_that_cannot_be_get_a_sentence() {
    let (_, shot) = &BENCHES[0];
    let mut said = String::new();
    for kind in steps::catalogue().iter().cloned() {
        let (shot, _) = with_step(shot, &kind.defaults);
        out_of_range(&mut said, kind.kind, &kind.schema, &shot, "/elements/0/steps/0/does");
    }
    for kind in extracts::catalogue().iter().cloned() {
        let (shot, _) = with_extract(shot, &kind.defaults);
        let at = format!("/elements/0/extracts/{}/does", shot.elements[0].extracts.len() - 1);
        out_of_range(&mut said, &format!("extract {}", kind.kind), &kind.schema, &shot, &at);
    }
    for kind in made::catalogue().iter().cloned() {
        let (shot, _) = with_made(shot, &kind.defaults);
        let at = format!("/elements/{}/made", shot.elements.len() - 1);
        out_of_range(&mut said, &format!("made {}", kind.kind), &kind.schema, &shot, &at);
    }
    for kind in parts::catalogue().iter().cloned() {
        let (shot, _) = with_part(shot, &kind.defaults);
        let at = "/elements/0/steps/0/only_where/parts/0/by";
        out_of_range(&mut said, &format!("part {}", kind.kind), &kind.schema, &shot, at);
    }
    insta::assert_snapshot!(said);
}

/// Two steps, of which the second is limited.
fn two_steps(shot: &Shot) -> Shot {
    let mut shot = shot.clone();
    let mut second = Step::new(2, StepKind::Exposure(Exposure { stops: -1.0 }));
    second.only_where = Some(Limit::of(DepthPart { near: 3.0, far: 6.0, near_soft: 0.5, far_soft: 0.5 }));
    shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(Relight::default())), second];
    shot
}

#[test]
fn what_the_engine_does_for_a_shot() {
    let (engine, shot) = bench(None);
    let shot = two_steps(&shot);
    let mut said = String::new();
    let mut ask = |what: &str, shot: &Shot, window: Option<Window>| {
        let trace = Trace::default();
        let mut request = Request::frame(shot, Target::After { element: 1, step: 2 }, Scale::FULL);
        request.window = window.unwrap_or(request.window);
        request.trace = Some(trace.clone());
        engine.evaluate(shot, &request).unwrap();
        writeln!(said, "{what}: {:?}", trace.lock().unwrap()).unwrap();
    };
    ask("at first", &shot, None);
    ask("again", &shot, None);
    let mut darker = shot.clone();
    darker.elements[0].steps[1].does = StepKind::Exposure(Exposure { stops: -2.0 });
    ask("the second changed", &darker, None);
    let mut weaker = shot.clone();
    weaker.elements[0].steps[0].joins = Joins { strength: 0.5, ..weaker.elements[0].steps[0].joins };
    ask("the first joined otherwise", &weaker, None);
    let mut off = shot.clone();
    off.elements[0].steps[0].on = false;
    ask("the first switched off", &off, None);
    ask("a part of what is there", &shot, Some(Window::new(10, 10, 20, 20)));
    insta::assert_snapshot!(said);
}
