//! The document: round trips, what is refused, schema, sentences, the catalogue of kinds.
#![allow(clippy::unwrap_used)]

use jugata_core::matte::Combine;
use jugata_core::{Role, Window};
use jugata_shot::document::{
    Element, Extract, FORMAT, Limit, MattePart, MediaId, NamedMatte, PaintedStroke, Pass, Shot, Source, Step,
    schema,
};
use jugata_shot::extracts::{self, ExtendDepth, ExtractKind};
use jugata_shot::parts::{BrushPart, CoveragePart, DepthPart, NamedPart, ObjectsPart, PartKind};
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
    let steps = catalogue().iter().cloned().zip(1..).map(|(k, id)| Step::new(id, k.defaults)).collect();
    let mut element = Element::new(1, "orrery".into());
    (element.passes, element.steps) = (vec![pass], steps);
    Shot {
        format: FORMAT,
        name: "Orrery".into(),
        display: Window::of_size(16, 9),
        frames: None,
        rate: 24.0,
        elements: vec![element],
        drives: Vec::new(),
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
    assert_eq!(refused(|s| s.format = 9), "The shot file is format 9; this version reads up to 2.");
    assert_eq!(refused(|s| s.elements[0].steps[1].id = 1), "orrery: two of its steps have the number 1.");
    assert_eq!(
        refused(|s| s.elements[0].steps[0].joins.strength = f32::NAN),
        "Step 1 (Relight): strength is NaN, and must lie between 0 and 10."
    );
    assert_eq!(
        refused(|s| s.elements[0].steps[1].does = StepKind::Exposure(Exposure { stops: 99.0 })),
        "Step 2 (Exposure): “Exposure” is 99, and must lie between -40 and 40."
    );
    let depth = |near, far| PartKind::from(DepthPart { near, far, near_soft: 0.0, far_soft: 0.0 });
    assert_eq!(
        refused(|s| s.elements[0].steps[0].only_where = Some(Limit::of(depth(5.0, 4.0)))),
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
    assert!(
        error(&json.replace("\"stops\"", "\"stop\""))
            .contains("stop is not known here; known: id, on, kind, ")
    );
    let kind = |k: &str| format!("\"kind\":\"{k}\"");
    assert!(
        error(&json.replace(&kind("exposure"), &kind("sparkle")))
            .contains("sparkle is no choice here; known: relight, ")
    );
    assert!(error(&json[..json.len() / 2]).contains("the text ends too early"));
    assert!(error(&format!("{json} x")).contains("its end"));
    assert!(error(&json.replace("\"strength\":1.0", "\"strength\":1e999")).contains("number out of range"));
}

/// What every entry of a catalogue must keep to; `json` are its defaults.
fn well_described(
    kind: &str,
    [title, about]: [&str; 2],
    json: &serde_json::Value,
    schema: &serde_json::Value,
) {
    assert!(about.ends_with('.') && !title.is_empty(), "{kind}");
    assert_eq!(json["kind"], kind);
    let properties = schema["properties"].as_object().cloned().unwrap_or_default();
    for key in json.as_object().unwrap().keys().filter(|k| *k != "kind") {
        assert!(properties[key].get("x-label").is_some(), "{kind}.{key} has a label");
    }
}

#[test]
fn kinds_are_well_described() {
    let all = catalogue();
    let names: HashSet<_> = all.iter().map(|k| k.kind).collect();
    assert_eq!(names.len(), all.len(), "names differ");
    for info in all {
        assert!(info.defaults.check().is_ok(), "{}: defaults are sound", info.kind);
        let json = serde_json::to_value(&info.defaults).unwrap();
        assert_eq!(serde_json::from_value::<StepKind>(json.clone()).unwrap(), info.defaults);
        well_described(info.kind, [info.title, info.about], &json, &info.schema);
    }
}

#[test]
fn kinds_of_extraction_are_well_described() {
    let all = extracts::catalogue();
    let names: HashSet<_> = all.iter().map(|k| k.kind).collect();
    assert_eq!(names.len(), all.len(), "names differ");
    for info in all {
        assert!(info.defaults.check().is_ok(), "{}: defaults are sound", info.kind);
        let json = serde_json::to_value(&info.defaults).unwrap();
        assert_eq!(serde_json::from_value::<ExtractKind>(json.clone()).unwrap(), info.defaults);
        well_described(info.kind, [info.title, info.about], &json, &info.schema);
    }
}

#[test]
fn kinds_of_made_element_are_well_described() {
    for info in jugata_shot::made::catalogue().iter().cloned() {
        assert!(info.defaults.check().is_ok(), "{}: defaults are sound", info.kind);
        let json = serde_json::to_value(&info.defaults).unwrap();
        well_described(info.kind, [info.title, info.about], &json, &info.schema);
    }
}

/// What is declared fits together: a default and a slider's ends can be what the range says.
#[test]
fn sliders_and_defaults_lie_in_their_ranges() {
    let all = catalogue().iter().cloned().map(|k| (k.kind, k.schema));
    let all = all.chain(extracts::catalogue().iter().cloned().map(|k| (k.kind, k.schema)));
    let all: Vec<_> =
        all.chain(jugata_shot::made::catalogue().iter().cloned().map(|k| (k.kind, k.schema))).collect();
    let steps = catalogue().iter().cloned().map(|k| k.defaults);
    for does in steps {
        let schema = &all.iter().find(|(kind, _)| *kind == does.name()).unwrap().1;
        for field in does.kind().fields() {
            let slider = &schema["properties"][field.name]["x-slider"];
            if let (Some([low, high]), Some(ends)) = (field.range, slider.as_array()) {
                let ends = [ends[0].as_f64().unwrap() as f32, ends[1].as_f64().unwrap() as f32];
                assert!(
                    low <= ends[0] && ends[1] <= high && ends[0] < ends[1],
                    "{} {}",
                    does.name(),
                    field.name
                );
            }
        }
    }
}

#[test]
fn a_limit_of_the_first_documents_is_still_read() {
    let old = r#"{"by":{"kind":"depth","near":1.0,"far":2.0,"near_soft":0.0,"far_soft":0.0},"invert":true}"#;
    let limit: Limit = serde_json::from_str(old).unwrap();
    let by = PartKind::from(DepthPart { near: 1.0, far: 2.0, near_soft: 0.0, far_soft: 0.0 });
    assert_eq!(limit, Limit::of(by).inverted());
    let again = serde_json::to_string(&limit).unwrap();
    assert_eq!(serde_json::from_str::<Limit>(&again).unwrap(), limit);
    assert!(serde_json::from_str::<Limit>(r#"{"bye":1}"#).is_err());
}

#[test]
fn mattes_are_told_and_refused() {
    let ids = |id| PartKind::from(ObjectsPart { ids: vec![id] });
    let mut limit = Limit::of(ids(6));
    limit.parts.push(MattePart { joins: Combine::Minus, ..MattePart::new(NamedPart { matte: 3 }) });
    limit.parts.push(MattePart { joins: Combine::And, invert: true, ..MattePart::new(CoveragePart {}) });
    let names = |id| (id == 3).then(|| "Ring".to_owned());
    insta::assert_snapshot!(limit.sentence(&names), @"object 6 but not Ring and not the element");
    insta::assert_snapshot!(limit.clone().inverted().sentence(&|_| None), @"not (object 6 but not a matte that is gone and not the element)");
    limit.finish.band = Some([2.0, 3.0]);
    insta::assert_snapshot!(limit.sentence(&names), @"along the edge of object 6 but not Ring and not the element");
    assert_eq!(limit.check(&[1]), Err("there is no matte 3 that it could use".into()));
    assert_eq!(limit.check(&[3]), Ok(()));
    limit.finish.soften = f32::NAN;
    assert!(limit.check(&[3]).unwrap_err().starts_with("“Soften” is NaN"));
    let painted =
        |points| PaintedStroke { id: 1, size: 5.0, softness: 0.0, flow: 1.0, erases: false, points };
    let brush = |points| Limit::of(BrushPart { strokes: vec![painted(points)] });
    assert_eq!(brush(vec![[0.0; 2]; 60_000]).check(&[]), Err("60000 points are more than 50000".into()));
    assert!(brush(vec![[f32::INFINITY, 0.0]]).check(&[]).is_err());
    // A named matte may use those before it only.
    let named = |id, by| NamedMatte { id, name: format!("m{id}"), matte: Limit::of(by) };
    let message = refused(|s| {
        s.elements[0].mattes = vec![named(1, PartKind::from(NamedPart { matte: 2 })), named(2, ids(1))];
    });
    assert_eq!(message, "m1: there is no matte 2 that it could use.");
}

#[test]
fn extracted_passes_are_checked() {
    let made = |id, does| Extract { id, name: "near".into(), serves: true, does, reads: vec![] };
    let extend = |by| ExtractKind::ExtendDepth(ExtendDepth { by, ..ExtendDepth::default() });
    assert_eq!(
        refused(|s| s.elements[0].extracts = vec![made(1, extend(4.0))]),
        "orrery: two of its passes have the number 1."
    );
    assert_eq!(
        refused(|s| s.elements[0].extracts = vec![made(2, extend(-1.0))]),
        "near: “By” is -1, and must lie between 0 and 20000."
    );
}

#[test]
fn steps_read_as_sentences() {
    let mut step = Step::new(1, StepKind::Relight(Relight::default()));
    step.only_where = Some(Limit::of(ObjectsPart { ids: vec![6, 9] }).inverted());
    step.joins.strength = 0.5;
    insta::assert_snapshot!(step.sentence(&[]), @"Relight from the upper right, intensity 0.60 at 50 % — only where not object 6, 9");
    let step = Step::new(2, StepKind::Exposure(Exposure { stops: 0.5 }));
    insta::assert_snapshot!(step.sentence(&[]), @"Exposure +0.50 stops");
}

#[test]
fn the_schemas_are_what_is_published() {
    published("shot.schema.json", schema());
    published("inspect.schema.json", jugata_shot::inspection::schema());
}

#[track_caller]
fn published(name: &str, schema: serde_json::Value) {
    let path = format!("{}/../../docs/{name}", env!("CARGO_MANIFEST_DIR"));
    // As text: a number that is read again may differ in its last bit.
    let text = serde_json::to_string_pretty(&schema).unwrap() + "\n";
    if std::env::var_os("JUGATA_UPDATE").is_some() {
        std::fs::write(path, text).unwrap();
        return;
    }
    let published = std::fs::read_to_string(path).unwrap();
    assert!(published == text, "docs/{name} is not current: run `make types`");
}
