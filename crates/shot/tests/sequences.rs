//! Shots whose passes are sequences.
#![allow(clippy::unwrap_used)]

use jugata_core::{Raster, Scale};
use jugata_exchange::Limits;
use jugata_shot::Shot;
use jugata_shot::document::{MediaId, Step};
use jugata_shot::drives::{Drive, DrivenBy, Goes, Key};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::intake::{MediaFile, shot_of_files};
use jugata_shot::steps::{Exposure, Refocus, StepKind};
use jugata_shot::still::Still;
use jugata_standin::{Damage, Settings, export, render};

use crate::files::Files;

/// Frames of the orrery, each written with a fault.
fn delivered(frames: i32, damage: Damage) -> (Engine, Shot) {
    let bytes: Vec<Vec<u8>> = (0..frames)
        .map(|frame| {
            let mut passes = render(&Settings { frame, ..Settings::sized(320, 180, 2) });
            damage.apply(&mut passes);
            export::plain(&passes).unwrap()
        })
        .collect();
    let brought =
        |(i, b): (usize, &Vec<u8>)| MediaFile { name: format!("orrery.{i:04}.exr"), media: MediaId::of(b) };
    let brought: Vec<MediaFile> = bytes.iter().enumerate().map(brought).collect();
    let engine = Engine::new(Box::new(Files(bytes)), Limits::default(), CacheSizes::default());
    let shot = shot_of_files(&brought, &engine).unwrap();
    (engine, shot)
}

#[test]
fn what_only_the_next_frame_shows_is_found_and_has_its_place() {
    let (engine, shot) = delivered(2, Damage::MotionBackward);
    let element = shot.elements[0].id;
    let found = engine.findings(&shot, element, 0).unwrap();
    let finding =
        found.iter().find(|f| f.kind == jugata_core::passes::checks::FindingKind::MotionScale).unwrap();
    let target = Target::Finding { element, pass: finding.pass, finding: finding.kind };
    let request = Request { frame: 0, ..Request::frame(&shot, target, Scale::FULL) };
    let place = engine.evaluate(&shot, &request).unwrap().raster;
    let marked = place.plane(0).iter().filter(|v| **v > 0.0).count();
    assert!(marked > 0, "the place of the finding is marked");
}

#[test]
fn a_shot_of_several_frames_may_have_keys() {
    let (engine, mut shot) = delivered(2, Damage::MotionBackward);
    shot.elements[0].steps = vec![Step::new(1, Exposure::default().into())];
    let key = |frame, value| Key { frame, value: vec![value].into(), goes: Goes::Linear };
    let by = Some(DrivenBy::Keys { keys: vec![key(0.0, 0.0), key(1.0, 2.0)] });
    shot.drives = vec![Drive { id: 1, at: "elements/1/steps/1/does/stops".into(), by, drift: None }];
    let still = Still::of(&shot, 1).unwrap();
    assert_eq!(still.elements[0].steps[0].does, Exposure { stops: 2.0 }.into());
    let seen = |shot: &Shot, frame| {
        let request = Request { frame, ..Request::frame(shot, Target::Shot, Scale::FULL) };
        engine.evaluate(shot, &request).unwrap().raster
    };
    let plain = Shot { drives: Vec::new(), ..shot.clone() };
    assert_eq!(seen(&shot, 0).data(), seen(&plain, 0).data());
    let (keyed, still) = (seen(&shot, 1), seen(&plain, 1));
    assert!(keyed.plane(0).iter().zip(still.plane(0)).all(|(a, b)| (a - 4.0 * b).abs() <= 1e-4 * a));
}

/// Frames of the orrery past which a camera goes.
fn passed(frames: i32) -> (Engine, Shot) {
    let bytes: Vec<Vec<u8>> = (0..frames)
        .map(|frame| {
            let travel = [0.2, 0.0, 0.0];
            let settings = Settings { frame, travel, ..Settings::sized(160, 90, 2) };
            export::plain(&render(&settings)).unwrap()
        })
        .collect();
    let brought =
        |(i, b): (usize, &Vec<u8>)| MediaFile { name: format!("passed.{i:04}.exr"), media: MediaId::of(b) };
    let brought: Vec<MediaFile> = bytes.iter().enumerate().map(brought).collect();
    let engine = Engine::new(Box::new(Files(bytes)), Limits::default(), CacheSizes::default());
    let shot = shot_of_files(&brought, &engine).unwrap();
    (engine, shot)
}

/// Focus far behind what is near, with so many other frames for what is hidden.
fn far_focus(frames: u32) -> Refocus {
    Refocus { focus: 15.0, near_px: 60.0, frames, ..Refocus::default() }
}

#[test]
fn hidden_parts_come_from_other_frames_as_their_steps_left_them() {
    let (engine, mut shot) = passed(5);
    let mut seen = |steps: Vec<StepKind>| {
        shot.elements[0].steps = (1..).zip(steps).map(|(id, does)| Step::new(id, does)).collect();
        let request = Request { frame: 2, ..Request::frame(&shot, Target::Shot, Scale::FULL) };
        engine.evaluate(&shot, &request).unwrap().raster
    };
    let (guessed, told) = (seen(vec![far_focus(0).into()]), seen(vec![far_focus(2).into()]));
    let differ = |a: &Raster, b: &Raster, by: f32| {
        a.data().iter().zip(b.data()).filter(|(a, b)| (*a - *b).abs() > by).count()
    };
    let changed = differ(&guessed, &told, 0.004);
    assert!(changed > 50, "{changed}");
    // Twice the light before it is twice the light after it, what was hidden included: no more is off than by Refocus itself,
    // which tells rims by differences of colour.
    let mut halved = |frames| {
        let mut twice = seen(vec![Exposure { stops: 1.0 }.into(), far_focus(frames).into()]).as_ref().clone();
        (0..3).for_each(|c| twice.plane_mut(c).iter_mut().for_each(|v| *v *= 0.5));
        twice
    };
    let [of_itself, with] = [differ(&halved(0), &guessed, 1e-4), differ(&halved(2), &told, 1e-4)];
    assert!(with < of_itself + 50, "{of_itself} {with}");
}

#[test]
fn a_shot_of_one_frame_has_no_other() {
    let (engine, mut shot) = passed(1);
    let mut seen = |frames| {
        shot.elements[0].steps = vec![Step::new(1, far_focus(frames).into())];
        engine.evaluate(&shot, &Request::frame(&shot, Target::Shot, Scale::FULL)).unwrap().raster
    };
    assert_eq!(seen(0), seen(3));
}
