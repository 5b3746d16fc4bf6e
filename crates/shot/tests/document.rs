//! The document: round trips, what is refused, schema, sentences, the catalogue of kinds.
#![allow(clippy::unwrap_used)]

use jugata_core::{Role, Window};
use jugata_shot::document::{Element, Limit, LimitBy, MediaId, Pass, Shot, Source, Step, schema};
use jugata_shot::steps::{Exposure, Relight, StepKind, catalogue};
use jugata_shot::{ShotError, check};
use std::collections::HashSet;

fn shot() -> Shot {
    let source = Source {
        media: MediaId::of(b"x"),
        file: "orrery.exr".into(),
        part: 0,
        channels: vec!["R".into(), "G".into(), "B".into(), "A".into()],
        sequence: None,
    };
    let pass = Pass {
        id: 1,
        name: "beauty".into(),
        role: Role::Beauty,
        source,
        convention: Default::default(),
        repairs: vec![],
        accepted: vec![],
    };
    let steps = catalogue().into_iter().zip(1..).map(|(k, id)| Step::new(id, k.defaults)).collect();
    let element = Element {
        id: 1,
        name: "orrery".into(),
        camera: None,
        passes: vec![pass],
        notes: vec![],
        sequences: vec![],
        steps,
    };
    Shot {
        format: 1,
        name: "Orrery".into(),
        display: Window::of_size(16, 9),
        frames: None,
        rate: 24.0,
        elements: vec![element],
    }
}

fn refused(change: impl FnOnce(&mut Shot)) -> String {
    let mut s = shot();
    change(&mut s);
    check::check(&s).unwrap_err().to_string()
}

#[test]
fn a_document_survives_the_way_out_and_in() {
    let s = shot();
    assert_eq!(check::parse(&serde_json::to_string(&s).unwrap()).unwrap(), s);
}

#[test]
fn what_cannot_be_is_refused_in_a_sentence() {
    assert_eq!(refused(|s| s.format = 9), "The shot file has the form 9, and this version reads the form 1.");
    assert_eq!(refused(|s| s.elements[0].steps[1].id = 1), "orrery: two of its steps have the number 1.");
    assert_eq!(
        refused(|s| s.elements[0].steps[0].joins.strength = f32::NAN),
        "Step 1 (Relight): strength is NaN, and must lie between 0 and 10."
    );
    assert_eq!(
        refused(|s| s.elements[0].steps[1].does = StepKind::Exposure(Exposure { stops: 99.0 })),
        "Step 2 (Exposure): exposure is 99, and must lie between -40 and 40."
    );
    let depth = |near, far| LimitBy::Depth { near, far, near_soft: 0.0, far_soft: 0.0 };
    assert_eq!(
        refused(|s| s.elements[0].steps[0].only_where = Some(Limit { by: depth(5.0, 4.0), invert: false })),
        "Step 1 (Relight): the near end lies behind the far end."
    );
    assert_eq!(
        refused(|s| s.display = Window::of_size(0, 4)),
        "The shot: a frame of 0×4 px is not possible."
    );
    assert!(refused(|s| s.name = "a\u{7}b".into()).contains("plain characters"));
    assert!(
        refused(|s| s.elements[0].steps = vec![s.elements[0].steps[0].clone(); 300])
            .contains("more than 256")
    );
}

#[test]
fn unknown_fields_kinds_and_torn_text_are_named() {
    let json = serde_json::to_string(&shot()).unwrap();
    let error = |text: &str| match check::parse(text).unwrap_err() {
        ShotError::Syntax { path, what } => format!("{path} | {what}"),
        other => other.to_string(),
    };
    assert!(error(&json.replace("\"stops\"", "\"stop\"")).contains("unknown field `stop`"));
    let kind = |k: &str| format!("\"kind\":\"{k}\"");
    assert!(error(&json.replace(&kind("exposure"), &kind("sparkle"))).contains("unknown variant `sparkle`"));
    assert!(error(&json[..json.len() / 2]).contains("EOF"));
    assert!(error(&format!("{json} x")).contains("its end"));
    assert!(error(&json.replace("\"strength\":1.0", "\"strength\":1e999")).contains("number out of range"));
}

#[test]
fn kinds_are_well_described() {
    let all = catalogue();
    let names: HashSet<_> = all.iter().map(|k| k.kind).collect();
    assert_eq!(names.len(), all.len(), "names differ");
    for info in &all {
        assert_eq!(info.kind, info.defaults.name());
        assert!(info.defaults.check().is_ok(), "{}: defaults are sound", info.kind);
        assert!(info.about.ends_with('.') && !info.title.is_empty());
        let json = serde_json::to_value(&info.defaults).unwrap();
        assert_eq!(serde_json::from_value::<StepKind>(json.clone()).unwrap(), info.defaults);
        let properties = info.schema["properties"].as_object().unwrap();
        for key in json.as_object().unwrap().keys().filter(|k| *k != "kind") {
            assert!(properties[key].get("x-label").is_some(), "{}.{key} has a label", info.kind);
        }
    }
}

#[test]
fn steps_read_as_sentences() {
    let mut step = Step::new(1, StepKind::Relight(Relight::default()));
    step.only_where = Some(Limit { by: LimitBy::Objects { ids: vec![6, 9] }, invert: true });
    step.joins.strength = 0.5;
    insta::assert_snapshot!(step.sentence(), @"Relight from the upper right, intensity 0.60 at 50 % — only where not object 6, 9");
    let step = Step::new(2, StepKind::Exposure(Exposure { stops: 0.5 }));
    insta::assert_snapshot!(step.sentence(), @"Exposure +0.50 stops");
}

#[test]
fn the_schemas_are_what_is_published() {
    published("shot.schema.json", schema());
    published("inspect.schema.json", jugata_shot::inspection::schema());
}

#[track_caller]
fn published(name: &str, schema: serde_json::Value) {
    let path = format!("{}/../../docs/{name}", env!("CARGO_MANIFEST_DIR"));
    if std::env::var_os("JUGATA_UPDATE").is_some() {
        std::fs::write(path, serde_json::to_string_pretty(&schema).unwrap() + "\n").unwrap();
        return;
    }
    let published: serde_json::Value = serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
    assert!(published == schema, "docs/{name} is not current: run `make types`");
}
