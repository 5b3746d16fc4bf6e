//! Moves: neighbours are sampled once, passes and mattes follow, what is derived with the camera follows, windows add up,
//! and what is not moved keeps its bits.
#![allow(clippy::unwrap_used)]

use jugata_core::colour::blend::BlendMode;
use jugata_core::{Raster, Role, Scale, Window};
use jugata_shot::document::{Element, Joins, Limit, Shot, Step};
use jugata_shot::engine::{Engine, Event, Request, Target, Trace};
use jugata_shot::handoff::{Format, encode};
use jugata_shot::lamp::Lamp;
use jugata_shot::made::{Gradient, MadeKind};
use jugata_shot::parts::{DepthPart, EllipsePart, ObjectsPart, PartKind};
use jugata_shot::steps::{Exposure, FlowLoop, Place, PlacedBy, Relight, StepKind};

use crate::kinds::{BENCHES, bench};

const AFTER: fn(u32) -> Target = |step| Target::After { element: 1, step };

fn with(shot: &Shot, steps: Vec<StepKind>) -> Shot {
    let mut shot = shot.clone();
    shot.elements[0].steps = (1..).zip(steps).map(|(id, does)| Step::new(id, does)).collect();
    shot
}

fn evaluated(engine: &Engine, shot: &Shot, target: Target, window: Option<Window>) -> (Raster, Vec<Event>) {
    let trace = Trace::default();
    let mut request = Request::frame(shot, target, Scale::FULL);
    request.window = window.unwrap_or(request.window);
    request.trace = Some(trace.clone());
    let made = engine.evaluate(shot, &request).unwrap();
    (made.raster.as_ref().clone(), trace.lock().unwrap().clone())
}

fn moved(x: f32, y: f32) -> Place {
    Place { moved: [x, y], ..Place::default() }
}

fn by_corners() -> Place {
    Place {
        by: PlacedBy::Corners,
        top_left: [10.0, 6.0],
        top_right: [-14.0, 2.0],
        bottom_right: [-4.0, -9.0],
        bottom_left: [3.0, -2.0],
        ..Place::default()
    }
}

#[test]
fn an_element_placed_by_four_corners_with_a_place_on_top_is_sampled_once() {
    let (engine, shot) = bench(None);
    let mut shot = with(&shot, vec![Place { turn: 12.0, ..Place::default() }.into()]);
    shot.elements.truncate(1);
    shot.elements[0].placement = Some(by_corners());
    let (_, events) = evaluated(&engine, &shot, Target::Shot, None);
    let sampled: Vec<_> = events.iter().filter(|e| matches!(e, Event::Sampled { .. })).collect();
    assert_eq!(sampled, [&Event::Sampled { element: 1, moves: 2 }], "{events:?}");
}

#[test]
fn moves_that_undo_each_other_keep_every_bit() {
    let (engine, shot) = &BENCHES[0];
    let there = Place { turn: 31.0, scale: [1.7, 1.7], ..Place::default() };
    let (untouched, _) = evaluated(engine, shot, Target::Untouched { element: 1 }, None);
    let round = with(shot, vec![moved(7.0, -3.0).into(), moved(-7.0, 3.0).into()]);
    assert_eq!(evaluated(engine, &round, AFTER(2), None).0, untouched);
    let still = with(shot, vec![Place::default().into()]);
    assert_eq!(evaluated(engine, &still, AFTER(1), None).0, untouched);
    let mut off = with(shot, vec![there.clone().into()]);
    off.elements[0].steps[0].on = false;
    assert_eq!(evaluated(engine, &off, AFTER(1), None).0, untouched);
    // A limit that is nowhere leaves every bit, too.
    let mut nowhere = with(shot, vec![there.into()]);
    nowhere.elements[0].steps[0].only_where = Some(Limit::of(ObjectsPart { ids: vec![4000] }));
    assert_eq!(evaluated(engine, &nowhere, AFTER(1), None).0, untouched);
}

/// A relight with shadows, a matte of depth and a drawn one: all that must follow.
fn lit() -> Vec<StepKind> {
    let lamp = Lamp { shadows: true, toward: [0.6, 0.5, 0.3], ..Lamp::new() };
    vec![Relight::from(lamp).into(), Exposure { stops: 1.0 }.into()]
}

fn limited(mut shot: Shot, step: usize) -> Shot {
    let depth = PartKind::from(DepthPart { near: 2.0, far: 6.0, near_soft: 0.5, far_soft: 1.0 });
    shot.elements[0].steps[step].only_where = Some(Limit::of(depth));
    let round =
        PartKind::from(EllipsePart { centre: [50.0, 25.0], radii: [20.0, 14.0], turned: 10.0, soft: 4.0 });
    shot.elements[0].steps[step + 1].only_where = Some(Limit::of(round));
    shot
}

#[test]
fn passes_mattes_and_what_the_camera_derives_follow_the_picture() {
    for (engine, shot) in BENCHES.iter() {
        // First light, then a shift by whole px: the truth. First the shift, then light: the same.
        let shift = moved(8.0, -5.0);
        let mut first = lit();
        first.push(shift.clone().into());
        let mut last = vec![StepKind::from(shift)];
        last.extend(lit());
        let (truth, _) = evaluated(engine, &limited(with(shot, first), 0), AFTER(3), None);
        let (got, _) = evaluated(engine, &limited(with(shot, last), 1), AFTER(3), None);
        // A px in from where the frame cuts the moved passes.
        let inside = Window::new(10, 2, 84, 45);
        let (truth, got) = (truth.cropped(inside, 0.0), got.cropped(inside, 0.0));
        let worst = truth.data().iter().zip(got.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(worst < 1e-6, "{worst}");
    }
}

#[test]
fn passes_are_picked_through_a_bent_move_and_windows_add_up() {
    let (engine, shot) = bench(None);
    let tilted = Place { tilt: 35.0, swing: -20.0, scale: [0.8, 0.9], ..Place::default() };
    let mut steps = vec![StepKind::from(tilted)];
    steps.extend(lit());
    steps.push(by_corners().into());
    let shot = limited(with(&shot, steps), 1);
    let (whole, events) = evaluated(&engine, &shot, AFTER(4), None);
    assert!(events.contains(&Event::Sampled { element: 1, moves: 1 }), "{events:?}");
    assert!(whole.data().iter().all(|v| v.is_finite()));
    for window in [Window::new(0, 0, 13, 9), Window::new(40, 20, 30, 30), Window::new(80, 3, 16, 1)] {
        let (fresh, _) = bench(None);
        assert_eq!(
            evaluated(&fresh, &shot, AFTER(4), Some(window)).0,
            whole.cropped(window, 0.0),
            "{window:?}"
        );
    }
    let alone = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
    let (fresh, _) = bench(None);
    assert_eq!(alone.install(|| evaluated(&fresh, &shot, AFTER(4), None)).0, whole);
}

#[test]
fn what_is_moved_out_of_the_frame_is_handed_off_and_comes_back() {
    let (engine, shot) = &BENCHES[0];
    let away =
        with(shot, vec![moved(40.0, 0.0).into(), Exposure { stops: 0.0 }.into(), moved(-40.0, 0.0).into()]);
    let (untouched, _) = evaluated(engine, shot, Target::Untouched { element: 1 }, None);
    // A change between two moves: what lay beyond the frame is still there.
    assert_eq!(evaluated(engine, &away, AFTER(3), None).0, untouched);
    let request = Request::frame(&away, AFTER(2), Scale::FULL);
    let bytes = encode(engine, &away, &request, &Format::ExrFloat.into()).unwrap();
    let file = jugata_exchange::read(&bytes, &jugata_exchange::Limits::default()).unwrap();
    let part = &file.parts[0];
    assert_eq!(file.display_window, away.display);
    let beyond = part.data_window.right() - away.display.right();
    assert!((40..=44).contains(&beyond), "{:?}", part.data_window);
    let red = part.raster(&["R".to_owned()]).unwrap();
    assert_eq!(red.sample(0, 40 + 90, 20), untouched.sample(0, 90, 20), "overscan holds the picture");
}

#[test]
fn corners_that_cross_get_a_sentence() {
    let (engine, shot) = &BENCHES[0];
    let crossed = Place { top_left: [500.0, 0.0], ..by_corners() };
    let shot = with(shot, vec![crossed.into()]);
    let error =
        engine.evaluate(&shot, &Request::frame(&shot, AFTER(1), Scale::FULL)).unwrap_err().to_string();
    assert!(error.starts_with("Step 1 (Place): its corners cross over"), "{error}");
}

#[test]
fn made_elements_lie_under_and_over_and_join_by_coverage() {
    let (engine, shot) = &BENCHES[0];
    let mut shot = shot.clone();
    shot.elements.truncate(1);
    let (own, _) = evaluated(engine, &shot, Target::Shot, None);
    let made = |id, first_opacity: f32| {
        let [first, second] = [[0.5, 0.25, 0.125]; 2];
        let gradient =
            Gradient { first, second, first_opacity, second_opacity: first_opacity, ..Gradient::default() };
        Element::made(id, "ground".into(), MadeKind::Gradient(gradient))
    };
    shot.elements.insert(0, made(7, 1.0));
    let (over, _) = evaluated(engine, &shot, Target::Shot, None);
    for i in [0usize, 700, 2600, 5183] {
        let a = own.plane(3)[i];
        assert!((over.plane(0)[i] - (own.plane(0)[i] + 0.5 * (1.0 - a))).abs() < 1e-6);
        assert!((over.plane(3)[i] - 1.0).abs() < 1e-6);
    }
    // Half covering, multiplied on top: W3C's formula over an opaque picture is a mix with the product.
    let mut top = made(8, 0.5);
    top.joins = Some(Joins {
        space: jugata_core::colour::blend::BlendSpace::Linear,
        ..Joins::of(BlendMode::Multiply)
    });
    let below = over;
    shot.elements.push(top);
    let (joined, _) = evaluated(engine, &shot, Target::Shot, None);
    for i in [0usize, 700, 2600, 5183] {
        let b = below.plane(1)[i];
        assert!((joined.plane(1)[i] - (0.5 * b + 0.5 * b * 0.25)).abs() < 1e-5);
    }
    shot.elements[2].only_used = true;
    assert_eq!(evaluated(engine, &shot, Target::Shot, None).0, below);
    // It has a UV pass, and steps and mattes work on it.
    let uv = Target::Pass { element: 7, pass: jugata_shot::made::drawn_id(Role::Uv) };
    let (uv, _) = evaluated(engine, &shot, uv, None);
    assert_eq!((uv.sample(0, 0, 0), uv.sample(1, 0, 0)), (Some(0.5 / 96.0), Some(1.0 - 0.5 / 54.0)));
    shot.elements[0].steps = vec![Step::new(1, Exposure { stops: 1.0 }.into())];
    let (brighter, _) = evaluated(engine, &shot, Target::After { element: 7, step: 1 }, None);
    assert_eq!(brighter.sample(0, 3, 3), Some(1.0));
}

#[test]
fn a_still_flows_in_a_loop_by_the_frame_and_comes_back() {
    let (engine, shot) = &BENCHES[0];
    let flows = with(shot, vec![FlowLoop { period: 12.0, speed: 2.0, ..FlowLoop::default() }.into()]);
    let at = |frame: i32| {
        let request = Request { frame, ..Request::frame(&flows, AFTER(1), Scale::FULL) };
        engine.evaluate(&flows, &request).unwrap().raster.as_ref().clone()
    };
    assert_eq!(at(3), at(15));
    assert_eq!(at(3), at(-9));
    assert_ne!(at(3), at(4));
    // What is kept does not know the frame; what is asked for does.
    let content = |frame: i32| {
        let request = Request { frame, ..Request::frame(&flows, AFTER(1), Scale::FULL) };
        engine.content(&flows, &request).unwrap()
    };
    assert_ne!(content(3), content(4));
    let StepKind::FlowLoop(kept) = &flows.elements[0].steps[0].does else { panic!() };
    assert_eq!(kept.frame, 0.0);
}
