//! Motion of what is moved by keys: against closed forms, and motion blur by it against the mean of many moments.
#![allow(clippy::unwrap_used)]

use glam::Vec2;
use jugata_core::show::compare::difference;
use jugata_core::{Raster, Scale, Window};
use jugata_exchange::Limits;
use jugata_shot::check;
use jugata_shot::document::{Element, Extract, FORMAT, FrameRange, Shot, Step};
use jugata_shot::drives::{Drive, DrivenBy, Goes, Key};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::extracts::{ExtractKind, MeasuredOver, MovesMotion, PaintFlow, PaintedFlow};
use jugata_shot::made::Lettering;
use jugata_shot::steps::{MotionBlur, Opens, Place, StepKind};

use crate::files::Files;

const FRAME: Window = Window::of_size(240, 120);
const MOVED: &str = "elements/1/placement/moved";
const TURN: &str = "elements/1/placement/turn";
const STEP_TURN: &str = "elements/1/steps/1/does/turn";

fn keys(id: u32, at: &str, of: &[(f32, &[f32])]) -> Drive {
    let key =
        |&(frame, value): &(f32, &[f32])| Key { frame, value: value.to_vec().into(), goes: Goes::Linear };
    Drive { id, at: at.into(), by: Some(DrivenBy::Keys { keys: of.iter().map(key).collect() }), drift: None }
}

/// The same keys, so many times as slow.
fn slowed(shot: &Shot, times: f32) -> Shot {
    let mut shot = shot.clone();
    for drive in &mut shot.drives {
        if let Some(DrivenBy::Keys { keys }) = &mut drive.by {
            keys.iter_mut().for_each(|k| k.frame *= times);
        }
    }
    shot
}

fn extract(id: u32, does: ExtractKind) -> Extract {
    Extract { id, name: "motion".into(), serves: true, does, reads: Vec::new() }
}

fn title(steps: Vec<StepKind>, drives: Vec<Drive>) -> Shot {
    let letters =
        Lettering { text: "ORRERY".into(), size: 44.0, colour: [0.9, 0.6, 0.3], ..Lettering::default() };
    let mut element = Element::made(1, "title".into(), letters.into());
    element.placement = Some(Place::default());
    element.extracts = vec![extract(1001, MovesMotion::default().into())];
    element.steps = (1..).zip(steps).map(|(id, does)| Step::new(id, does)).collect();
    let shot = Shot {
        format: FORMAT,
        name: "title".into(),
        display: FRAME,
        frames: Some(FrameRange { first: 0, last: 20 }),
        rate: 24.0,
        elements: vec![element],
        drives,
    };
    check::check(&shot).unwrap();
    shot
}

fn engine() -> Engine {
    Engine::new(Box::new(Files(Vec::new())), Limits::default(), CacheSizes::default())
}

fn at(engine: &Engine, shot: &Shot, target: Target, frame: i32) -> Raster {
    let request = Request { frame, ..Request::frame(shot, target, Scale::FULL) };
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}

fn motion(shot: &Shot, frame: i32) -> Raster {
    at(&engine(), shot, Target::Pass { element: 1, pass: 1001 }, frame)
}

fn vector(r: &Raster, x: i32, y: i32) -> Vec2 {
    Vec2::new(r.sample(0, x, y).unwrap(), r.sample(1, x, y).unwrap())
}

#[test]
fn what_has_keys_on_its_place_moves_as_they_say() {
    let ends: &[(f32, &[f32])] = &[(4.0, &[0.0, 10.0]), (8.0, &[48.0, -10.0])];
    let shot = title(Vec::new(), vec![keys(1, MOVED, ends)]);
    assert_eq!(vector(&motion(&shot, 6), 60, 20), Vec2::new(12.0, -5.0));
    // Half of the way around the first key it stands; the whole of it to the next frame it moves.
    assert_eq!(vector(&motion(&shot, 4), 60, 20), Vec2::new(6.0, -2.5));
    let over = |over| {
        let mut shot = shot.clone();
        shot.elements[0].extracts[0].does = MovesMotion { over }.into();
        vector(&motion(&shot, 4), 60, 20)
    };
    assert_eq!(over(MeasuredOver::ToTheNext), Vec2::new(12.0, -5.0));
    assert_eq!(over(MeasuredOver::FromTheLast), Vec2::ZERO);
    assert_eq!(vector(&motion(&shot, 15), 60, 20), Vec2::ZERO);
}

#[test]
fn turns_by_a_step_and_by_the_place_add_up() {
    let steps = vec![Place::default().into()];
    let by = |id, at, per: f32| keys(id, at, &[(0.0, &[0.0]), (10.0, &[10.0 * per])]);
    let shot = title(steps, vec![by(1, STEP_TURN, 1.0), by(2, TURN, 2.0)]);
    let (motion, middle) = (motion(&shot, 5), Vec2::new(120.0, 60.0));
    for (x, y) in [(20, 30), (200, 90), (120, 10)] {
        let arm = Vec2::new(x as f32 + 0.5, y as f32 + 0.5) - middle;
        // 3° a frame against the clock; y goes down.
        let (sin, cos) = (1.5f32).to_radians().sin_cos();
        let turned = |s: f32| Vec2::new(cos * arm.x + s * sin * arm.y, cos * arm.y - s * sin * arm.x);
        let want = turned(1.0) - turned(-1.0);
        assert!((vector(&motion, x, y) - want).length() < 1e-3, "{x} {y} {} {want}", vector(&motion, x, y));
    }
}

#[test]
fn what_moves_by_itself_moves_on_what_is_moved() {
    let mut shot = title(Vec::new(), vec![keys(1, MOVED, &[(0.0, &[0.0, 0.0]), (10.0, &[70.0, 0.0])])]);
    let stroke =
        PaintedFlow { id: 1, size: 80.0, softness: 0.0, points: vec![[120.0, 110.0], [120.0, 10.0]] };
    let flow = PaintFlow { strokes: vec![stroke], speed: 4.0 };
    shot.elements[0].extracts.insert(0, extract(1000, flow.into()));
    let motion = motion(&shot, 5);
    assert!(
        (vector(&motion, 120, 60) - Vec2::new(7.0, -4.0)).length() < 0.05,
        "{}",
        vector(&motion, 120, 60)
    );
    assert_eq!(vector(&motion, 10, 60), Vec2::new(7.0, 0.0));
}

/// The shot's picture at a frame against the mean of many moments while the shutter is open, dB; without blur and with it.
fn against_moments(shot: &Shot, frame: i32, opens: Opens) -> [f64; 2] {
    const MOMENTS: i32 = 64;
    let engine = engine();
    let [open, close] = match opens {
        Opens::Around => [-0.25, 0.25],
        Opens::From => [0.0, 0.5],
        Opens::UpTo => [-0.5, 0.0],
    };
    let mut sharp = shot.clone();
    sharp.elements[0].steps.pop();
    // Two slowed frames for each moment, so that one lies in the middle of its part.
    let slow = 2.0 * MOMENTS as f32 / (close - open);
    let slowly = slowed(&sharp, slow);
    let mut truth = Raster::zeros(FRAME, 4);
    for k in 0..MOMENTS {
        let moment = ((frame as f32 + open) * slow).round() as i32 + 2 * k + 1;
        let picture = at(&engine, &slowly, Target::Shot, moment);
        for c in 0..4 {
            let mean = truth.plane_mut(c).iter_mut().zip(picture.plane(c));
            mean.for_each(|(t, v)| *t += v / MOMENTS as f32);
        }
    }
    [&sharp, shot].map(|s| difference(&at(&engine, s, Target::Shot, frame), &truth, None).unwrap().psnr)
}

#[test]
fn motion_blur_of_a_title_is_the_mean_of_its_moments() {
    let linear: &[(f32, &[f32])] = &[(0.0, &[-40.0, 0.0]), (10.0, &[140.0, 20.0])];
    let flies = |steps: Vec<StepKind>| title(steps, vec![keys(1, MOVED, linear)]);
    let blur = |opens| StepKind::from(MotionBlur { opens, ..MotionBlur::default() });
    let turns = title(
        vec![Place::default().into(), blur(Opens::Around)],
        vec![keys(1, STEP_TURN, &[(0.0, &[-30.0]), (10.0, &[90.0])])],
    );
    let mut tilts = title(vec![blur(Opens::Around)], vec![keys(1, TURN, &[(0.0, &[0.0]), (10.0, &[80.0])])]);
    if let Some(place) = &mut tilts.elements[0].placement {
        place.tilt = 40.0;
    }
    let cases = [
        ("flies", flies(vec![blur(Opens::Around)]), Opens::Around),
        ("flies, from", flies(vec![blur(Opens::From)]), Opens::From),
        ("flies, up to", flies(vec![blur(Opens::UpTo)]), Opens::UpTo),
        ("turns by a step", turns, Opens::Around),
        ("turns in depth", tilts, Opens::Around),
    ];
    for (name, shot, opens) in cases {
        let [without, with] = against_moments(&shot, 5, opens);
        println!("{name}: {without:.1} dB without, {with:.1} dB with");
        // What is asked of motion blur elsewhere, too.
        assert!(with > 36.0 && with > without + 12.0, "{name}: {without} {with}");
    }
}

#[test]
fn where_there_is_no_frame_beside_it_nothing_moves() {
    // The scale leaves its range right after frame 5.
    let ends: &[(f32, &[f32])] = &[(0.0, &[1.0, 1.0]), (5.0, &[99.9, 99.9]), (6.0, &[900.0, 900.0])];
    let shot = title(vec![MotionBlur::default().into()], vec![keys(1, "elements/1/placement/scale", ends)]);
    let engine = engine();
    let request = Request { frame: 6, ..Request::frame(&shot, Target::Shot, Scale::FULL) };
    assert!(engine.evaluate(&shot, &request).is_err(), "frame 6 itself cannot be");
    assert_eq!(vector(&motion(&shot, 5), 60, 20), Vec2::ZERO);
}

#[test]
fn what_has_no_keys_keeps_every_bit() {
    let shot = title(vec![MotionBlur::default().into()], Vec::new());
    let engine = engine();
    let untouched = at(&engine, &shot, Target::Untouched { element: 1 }, 5);
    assert_eq!(at(&engine, &shot, Target::Shot, 5), untouched);
}
