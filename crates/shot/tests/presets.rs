//! Steps saved under a name and put on other elements.
#![allow(clippy::unwrap_used)]

use jugata_core::Role;
use jugata_shot::document::{
    Element, Extract, Limit, MattePart, MediaId, NamedMatte, Pass, ReadsPass, Shot, Source, Step, Track,
};
use jugata_shot::extracts::catalogue as extracts;
use jugata_shot::lamp::{Lamp, LampKind};
use jugata_shot::made::{Lettering, MadeKind, OutlineRing};
use jugata_shot::parts::{CoveragePart, NamedPart, ObjectsPart, PolygonPart};
use jugata_shot::preset::{Lengths, Preset};
use jugata_shot::steps::{Emboss, Haze, LensBend, LensWay, MatchLight, Outline, StepKind, Warp};

fn pass(id: u32, name: &str, role: Role) -> Pass {
    let source =
        Source { media: MediaId::of(b"x"), file: "x.exr".into(), part: 0, channels: vec![], sequence: None };
    Pass {
        id,
        name: name.into(),
        role,
        source,
        convention: Default::default(),
        repairs: vec![],
        accepted: vec![],
    }
}

/// Two elements: the first with everything, the second with beauty and normals alone.
fn shot() -> Shot {
    let mut ring = Element::new(1, "Ring".into());
    ring.passes = vec![
        pass(1, "beauty", Role::Beauty),
        pass(2, "normal", Role::Normal),
        pass(3, "fine", Role::Normal),
        pass(4, "depth", Role::Depth),
        pass(5, "id", Role::ObjectId),
    ];
    ring.camera = jugata_core::Camera::from_sensor(50.0, 36.0, jugata_core::Window::of_size(64, 36));
    ring.mattes = vec![
        NamedMatte { id: 4, name: "inner".into(), matte: Limit::of(ObjectsPart { ids: vec![3] }) },
        NamedMatte { id: 7, name: "band".into(), matte: Limit::of(NamedPart { matte: 4 }).inverted() },
        NamedMatte { id: 9, name: "unused".into(), matte: Limit::of(CoveragePart {}) },
    ];
    let sun = Lamp { shadows: false, ..Lamp::default() };
    let mut light = Step::new(1, StepKind::Relight(sun.into()));
    light.reads = vec![ReadsPass { role: Role::Normal, pass: 3 }];
    let mut haze = Step::new(2, StepKind::Haze(Haze::default()));
    haze.only_where = Some(Limit::of(NamedPart { matte: 7 }));
    ring.steps = vec![light, haze];
    let mut drum = Element::new(2, "Drum".into());
    drum.passes =
        vec![pass(1, "beauty", Role::Beauty), pass(8, "fine", Role::Normal), pass(9, "normal", Role::Normal)];
    drum.steps = vec![Step::new(5, StepKind::Haze(Haze::default()))];
    let display = jugata_core::Window::of_size(64, 36);
    Shot {
        format: jugata_shot::document::FORMAT,
        name: "two".into(),
        display,
        frames: None,
        rate: 24.0,
        elements: vec![ring, drum],
        drives: vec![],
    }
}

#[test]
fn passes_are_bound_again_by_role_and_name() {
    let shot = shot();
    let preset = Preset::of(" Cool side ", &shot.elements[0], shot.display, &[1]).unwrap();
    assert_eq!((preset.name.as_str(), preset.mattes.len()), ("Cool side", 0));
    let on = preset.apply(&shot, 2, Lengths::Fitted).unwrap();
    assert_eq!((on.steps.as_slice(), on.missing.len()), (&[6][..], 0));
    let drum = on.shot.element(2).unwrap();
    assert_eq!(drum.steps.len(), 2, "at the end of its own");
    assert_eq!(drum.steps[1].reads, [ReadsPass { role: Role::Normal, pass: 8 }], "the pass of that name");
    assert!(drum.steps[1].on);
    assert_eq!(on.shot.element(1), shot.element(1), "the other element stays");
}

#[test]
fn what_is_missing_is_said_and_the_step_switched_off() {
    let shot = shot();
    let preset = Preset::of("Air", &shot.elements[0], shot.display, &[1, 2]).unwrap();
    let names: Vec<&str> = preset.mattes.iter().map(|m| m.name.as_str()).collect();
    assert_eq!(names, ["inner", "band"], "those within mattes too, and no others");
    let on = preset.apply(&shot, 2, Lengths::Fitted).unwrap();
    assert_eq!(on.missing, ["Haze needs depth, which Drum has none of, and is switched off."]);
    let drum = on.shot.element(2).unwrap();
    assert!(drum.steps[1].on && !drum.steps[2].on);
    assert_eq!(drum.mattes.len(), 2);
    // Once more on the same element: the mattes are there already.
    let again = preset.apply(&on.shot, 2, Lengths::Fitted).unwrap();
    assert_eq!(again.shot.element(2).unwrap().mattes.len(), 2);
    // On its own element nothing is missing.
    assert!(preset.apply(&shot, 1, Lengths::Fitted).unwrap().missing.is_empty());
}

#[test]
fn objects_by_number_and_other_elements_are_told() {
    let mut shot = shot();
    shot.elements[0].steps[0].only_where = Some(Limit::of(ObjectsPart { ids: vec![2] }));
    let like = MatchLight { like: Some(2), ..MatchLight::default() };
    shot.elements[0].steps.push(Step::new(3, StepKind::MatchLight(like)));
    let preset = Preset::of("p", &shot.elements[0], shot.display, &[1, 3]).unwrap();
    let said = preset.apply(&shot, 2, Lengths::Fitted).unwrap().missing;
    assert_eq!(
        said,
        [
            "Relight is limited by object ID, which Drum has none of, and is switched off.",
            "Match the light needs an element that is not in this shot, and is switched off."
        ]
    );
    let own = preset.apply(&shot, 1, Lengths::Fitted).unwrap().missing;
    assert_eq!(own, ["Relight is limited to objects by number; see that they are those of Ring."]);
}

#[test]
fn a_step_that_goes_by_another_goes_by_its_copy() {
    let mut shot = shot();
    let off = LensBend { k1: -0.1, ..LensBend::default() };
    let on = LensBend { does: LensWay::Distort, lens_of: Some(1), ..LensBend::default() };
    shot.elements[0].steps = vec![Step::new(1, off.into()), Step::new(2, on.into())];
    let lens_of = |steps: &[u32]| {
        let preset = Preset::of("lens", &shot.elements[0], shot.display, steps).unwrap();
        let applied = preset.apply(&shot, 2, Lengths::Fitted).unwrap();
        let id = *applied.steps.last().unwrap();
        let StepKind::LensBend(lens) = applied.shot.elements[1].step(id).unwrap().does.clone() else {
            unreachable!()
        };
        (lens.lens_of, applied.steps[0], applied.missing)
    };
    let (of, first, missing) = lens_of(&[1, 2]);
    assert_eq!((of, missing.len()), (Some(first), 0));
    let (of, _, missing) = lens_of(&[2]);
    assert_eq!((of, missing), (None, vec!["Lens went by a step that the preset does not hold.".to_owned()]));
}

#[test]
fn a_lamp_at_a_point_needs_positions_which_depth_and_camera_give() {
    let mut shot = shot();
    let bulb = Lamp { kind: LampKind::Point, ..Lamp::default() };
    shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(bulb.into()))];
    let preset = Preset::of("p", &shot.elements[0], shot.display, &[1]).unwrap();
    assert!(preset.apply(&shot, 1, Lengths::Fitted).unwrap().missing.is_empty());
    assert_eq!(preset.apply(&shot, 2, Lengths::Fitted).unwrap().missing.len(), 1);
    // An extracted pass is as good as a stored one.
    let of = |kind: &str| extracts().iter().find(|k| k.kind == kind).unwrap().defaults.clone();
    let made =
        Extract { id: 1001, name: "place".into(), serves: true, does: of("depth_position"), reads: vec![] };
    shot.elements[1].extracts = vec![made];
    assert!(preset.apply(&shot, 2, Lengths::Fitted).unwrap().missing.is_empty());
}

#[test]
fn a_preset_survives_the_way_out_and_in_and_bad_ones_are_refused() {
    let shot = shot();
    let preset = Preset::of("Air", &shot.elements[0], shot.display, &[2, 1]).unwrap();
    assert_eq!(preset.steps[0].id, 1, "in the order in which they happen");
    let text = serde_json::to_string(&preset).unwrap();
    assert_eq!(serde_json::from_str::<Preset>(&text).unwrap(), preset);
    let say = |p: Result<Preset, jugata_shot::ShotError>| p.unwrap_err().to_string();
    assert_eq!(
        say(Preset::of("x", &shot.elements[0], shot.display, &[9])),
        "There is no step 9 in this shot."
    );
    assert_eq!(say(Preset::of(" ", &shot.elements[0], shot.display, &[1])), "A preset: it needs a name.");
    assert!(say(Preset::of("x", &shot.elements[0], shot.display, &[])).contains("needs steps"));
    assert_eq!(
        preset.apply(&shot, 5, Lengths::Fitted).unwrap_err().to_string(),
        "There is no element 5 in this shot."
    );
    assert_eq!(preset.sentences().len(), 2);
}

#[test]
fn a_step_along_the_edge_of_a_matte_takes_that_matte_along() {
    let mut shot = shot();
    shot.elements[0].steps.push(Step::new(3, StepKind::Emboss(Emboss { of: Some(7), ..Emboss::default() })));
    let preset = Preset::of("edge", &shot.elements[0], shot.display, &[3]).unwrap();
    assert_eq!(preset.mattes.iter().map(|m| m.id).collect::<Vec<_>>(), [4, 7]);
    shot.elements[1].mattes =
        vec![NamedMatte { id: 7, name: "other".into(), matte: Limit::of(CoveragePart {}) }];
    let made = preset.apply(&shot, 2, Lengths::Fitted).unwrap();
    let drum = &made.shot.elements[1];
    let band = drum.mattes.iter().find(|m| m.name == "band").unwrap();
    let StepKind::Emboss(emboss) = &drum.steps.last().unwrap().does else { panic!() };
    assert_eq!(emboss.of, Some(band.id));
    assert_ne!(band.id, 7);
    // A matte that is gone is told.
    shot.elements[1].steps.push(Step::new(6, StepKind::Emboss(Emboss { of: Some(99), ..Emboss::default() })));
    let said = jugata_shot::check::check(&shot).unwrap_err().to_string();
    assert!(said.contains("the edge of a matte that is not there"), "{said}");
}

#[test]
fn what_is_held_to_a_plane_leaves_it_behind() {
    let mut shot = shot();
    let corners = [[0.0, 0.0], [9.0, 0.0], [9.0, 9.0], [0.0, 9.0]];
    let ring = &mut shot.elements[0];
    ring.tracks = vec![Track::new(1, "Wall".into(), 0, corners)];
    let mut push = Step { held: Some(1), ..Step::new(20, StepKind::Warp(Warp::default())) };
    let part =
        MattePart { held: Some(1), ..MattePart::new(PolygonPart { corners: corners.to_vec(), soft: 0.0 }) };
    push.only_where = Some(Limit { parts: vec![MattePart { id: 1, ..part }], ..Limit::default() });
    ring.steps.push(push);
    jugata_shot::check::check(&shot).unwrap();
    let preset = Preset::of("Push", &shot.elements[0], shot.display, &[20]).unwrap();
    assert_eq!(preset.steps[0].held, None);
    let after = preset.apply(&shot, 2, Lengths::Fitted).unwrap().shot;
    assert_eq!(after.elements[1].steps.last().unwrap().only_where.as_ref().unwrap().parts[0].held, None);
}

#[test]
fn lengths_are_fitted_to_letters_of_another_size() {
    let lettering = |id, size| {
        let made = Lettering { size, ..Lettering::default() };
        Element::made(id, format!("title {id}"), MadeKind::Lettering(made))
    };
    let mut shot = shot();
    shot.elements = vec![lettering(1, 200.0), lettering(2, 50.0), Element::new(3, "render".into())];
    let emboss = Emboss { width: 12.0, height: 1.5, from: 90.0, ..Emboss::default() };
    let ring = OutlineRing { id: 1, width: 6.0, ..OutlineRing::default() };
    shot.elements[0].steps = vec![
        Step::new(1, emboss.into()),
        Step::new(2, Outline { rings: vec![ring], ..Outline::default() }.into()),
    ];
    let preset = Preset::of("carved", &shot.elements[0], shot.display, &[1, 2]).unwrap();
    assert_eq!(preset.height, Some(200.0));
    let on = |element, lengths| {
        let made = preset.apply(&shot, element, lengths).unwrap().shot;
        let steps = &made.element(element).unwrap().steps;
        let [StepKind::Emboss(e), StepKind::Outline(o)] =
            [&steps[steps.len() - 2], &steps[steps.len() - 1]].map(|s| &s.does)
        else {
            panic!("{steps:?}")
        };
        ([e.width, e.height, e.from, e.light_soft], o.rings[0].width)
    };
    // A quarter as high: a quarter of every px; shares, angles and all else stay.
    assert_eq!(on(2, Lengths::Fitted), ([3.0, 1.5, 90.0, 0.375], 1.5));
    let same = ([12.0, 1.5, 90.0, 1.5], 6.0);
    assert_eq!(on(2, Lengths::Kept), same);
    assert_eq!(on(3, Lengths::Fitted), same);
    // A preset from outside says nothing impossible.
    let odd = Preset { height: Some(f32::NAN), ..preset.clone() };
    assert!(
        odd.apply(&shot, 2, Lengths::Fitted).unwrap_err().to_string().contains("height that is not possible")
    );
}
