//! The engine on a small render: windows, threads, caches, order, limits, cancellation.
#![allow(clippy::unwrap_used)]

use jugata_core::colour::blend::BlendMode;
use jugata_core::{Camera, Cancel, Raster, Role, Scale, Window};
use jugata_shot::document::{Joins, Limit, MediaId, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Event, Request, Target, Trace};
use jugata_shot::lamp::{Lamp, LampKind};
use jugata_shot::parts::{DepthPart, ObjectsPart, PartKind};
use jugata_shot::steps::{
    BlurPoint, Exposure, GridPoint, MapFrom, MatchLight, PushedEllipse, Refocus, Relight, StepKind, Surround,
    SurroundFrom, catalogue,
};
use jugata_shot::{ShotError, check};
use jugata_testkit::assert_close;

use crate::support::{FRAME, engine, engine_with, picture};

/// A shot with a lamp on one object, a grade by depth, and a second lamp.
fn three_steps(shot: &mut Shot) {
    let lamp = Lamp { kind: LampKind::Point, position: [0.2, 0.1, -2.0], shadows: true, ..Lamp::default() };
    let mut one = Step::new(1, StepKind::Relight(lamp.into()));
    one.only_where = Some(Limit::of(ObjectsPart { ids: vec![1] }));
    let mut two = Step::new(2, StepKind::Exposure(Exposure { stops: -0.7 }));
    let by = PartKind::from(DepthPart { near: 3.5, far: 4.0, near_soft: 0.3, far_soft: 0.5 });
    two.only_where = Some(Limit::of(by).inverted());
    let mut three = Step::new(3, StepKind::Relight(Relight::default()));
    three.joins = Joins { blend: BlendMode::Screen, strength: 0.5, ..three.joins };
    shot.elements[0].steps = vec![one, two, three];
    check::check(shot).unwrap();
}

#[test]
fn any_window_any_threads_any_cache_the_same_bytes() {
    let (warm, mut shot) = engine();
    three_steps(&mut shot);
    for n in [0, 1, 2] {
        let scale = Scale::halved(n).unwrap();
        let frame = scale.window(FRAME);
        let whole = picture(&warm, &shot, frame, scale);
        assert_eq!(picture(&warm, &shot, frame, scale), whole, "warm");
        assert_eq!(picture(&engine().0, &shot, frame, scale), whole, "cold");
        let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
        assert_eq!(one.install(|| picture(&engine().0, &shot, frame, scale)), whole, "one thread");
        let (w, h) = (frame.width as i32, frame.height as i32);
        for piece in [
            Window::new(0, 0, 1, 1),
            Window::new(w / 3, h / 4, frame.width / 2, frame.height / 3),
            Window::new(w - 5, h - 3, 5, 3),
            Window::new(-9, -9, 12, 12),
        ] {
            let got = picture(&engine().0, &shot, piece, scale);
            let inside = piece.intersect(&frame);
            assert_eq!(got.cropped(inside, -1.0), whole.cropped(inside, -1.0), "{piece:?} at ½^{n}");
        }
    }
}

#[test]
fn what_a_step_keeps_is_never_stale() {
    let (warm, mut shot) = engine();
    let lamp = Lamp { kind: LampKind::Point, position: [0.2, 0.1, -2.0], shadows: true, ..Lamp::default() };
    let lit = |lamp: Lamp, thickness| StepKind::Relight(Relight { thickness, ..lamp.into() });
    let around = |turn, reach| StepKind::Surround(Surround { turn, reach, ..Surround::default() });
    let camera = shot.elements[0].camera.unwrap();
    let wider = Camera { focal: camera.focal * 0.8, ..camera };
    let brighter = Lamp { intensity: 2.0, ..lamp.clone() };
    let elsewhere = Lamp { position: [-0.3, 0.2, -2.2], ..lamp.clone() };
    let smaller = Lamp { radius: 0.0, ..lamp.clone() };
    for (does, camera) in [
        (lit(lamp.clone(), 0.1), camera),
        (lit(brighter, 0.1), camera),
        (lit(elsewhere, 0.1), camera),
        (lit(smaller, 0.1), camera),
        (lit(lamp.clone(), 0.3), camera),
        (lit(lamp, 0.1), wider),
        (around(0.0, 0.6), camera),
        (around(40.0, 0.6), camera),
        (around(40.0, 0.2), camera),
        (around(40.0, 0.2), wider),
        (StepKind::Surround(Surround { roughness: 0.1, ..Surround::default() }), camera),
        (StepKind::Surround(Surround { from: SurroundFrom::Bars, ..Surround::default() }), camera),
        (StepKind::Surround(Surround { from: SurroundFrom::Bars, bars: 3, ..Surround::default() }), camera),
    ] {
        shot.elements[0].camera = Some(camera);
        shot.elements[0].steps = vec![Step::new(1, does.clone())];
        let cold = picture(&engine().0, &shot, FRAME, Scale::FULL);
        assert_eq!(picture(&warm, &shot, FRAME, Scale::FULL), cold, "{does:?}");
    }
}

#[test]
fn outside_the_data_window_there_is_nothing() {
    let (engine, mut shot) = engine();
    three_steps(&mut shot);
    let got = picture(&engine, &shot, Window::new(0, 0, 10, 4), Scale::FULL);
    assert_eq!(got.pixel(5, 2), Some(vec![0.0; 4]));
    assert!(got.pixel(5, 3).unwrap()[3] > 0.0);
}

#[test]
fn a_pan_makes_only_what_comes_into_view() {
    let (warm, mut shot) = engine();
    three_steps(&mut shot);
    shot.elements[0].steps[1].only_where = None;
    let whole = picture(&engine().0, &shot, FRAME, Scale::FULL);
    let mut windows = Vec::new();
    for (x, y) in [(0, 0), (7, 3), (20, 11), (16, 2), (40, 30)] {
        let window = Window::new(x, y, 90, 50);
        windows.push(window);
        assert!(picture(&warm, &shot, window, Scale::FULL) == whole.cropped(window, 0.0), "{window:?}");
    }
    // Inside what is there nothing is made.
    let trace = Trace::default();
    let mut request = Request::frame(&shot, Target::Shot, Scale::FULL);
    request.window = Window::new(50, 40, 20, 10);
    request.trace = Some(trace.clone());
    warm.evaluate(&shot, &request).unwrap();
    assert!(!trace.lock().unwrap().iter().any(|e| matches!(e, Event::Ran { .. })), "{trace:?}");
}

#[test]
fn no_strength_an_empty_limit_and_a_step_switched_off_keep_every_bit() {
    let (engine, shot) = engine();
    let untouched = picture(&engine, &shot, FRAME, Scale::FULL);
    for info in catalogue().iter().cloned() {
        let mut changed = shot.clone();
        let mut step = Step::new(1, info.defaults.clone());
        if let StepKind::Exposure(e) = &mut step.does {
            e.stops = 3.0;
        }
        match &mut step.does {
            StepKind::Place(p) => p.turn = 20.0,
            StepKind::LensBend(l) => l.k1 = 0.2,
            StepKind::Warp(w) => {
                w.pushes =
                    vec![PushedEllipse { at: [70.0, 40.0], by: [20.0, 5.0], ..PushedEllipse::default() }];
            }
            StepKind::Grid(g) => g.points = vec![GridPoint { id: 8, by: [5.0, 3.0] }],
            StepKind::GradedBlur(g) => g.places = vec![BlurPoint { id: 1, at: [70.0, 40.0], size: 9.0 }],
            // At first these two change nothing.
            StepKind::Colour(c) => c.contrast = 1.5,
            StepKind::Curves(c) => c.all[1].y = 0.7,
            // A map needs one to go by; that has tests of its own.
            StepKind::CoordinateMap(_) => continue,
            _ => {}
        }
        let full = |step: &Step, shot: &mut Shot| {
            shot.elements[0].steps = vec![step.clone()];
            picture(&engine, shot, FRAME, Scale::FULL)
        };
        // Without another element there is no light to match or to come in, and no shadow; they have tests of their own.
        if !["match_light", "light_wrap", "cast_shadow"].contains(&info.kind) {
            assert!(full(&step, &mut changed) != untouched, "{} does something", info.kind);
        }
        step.only_where = Some(Limit::of(ObjectsPart { ids: vec![] }));
        assert_eq!(full(&step, &mut changed), untouched, "{}: an all-black limit", info.kind);
        step.only_where = None;
        step.joins.strength = 0.0;
        assert_eq!(full(&step, &mut changed), untouched, "{}: strength 0", info.kind);
        step.joins.strength = 1.0;
        step.on = false;
        assert_eq!(full(&step, &mut changed), untouched, "{}: switched off", info.kind);
    }
}

#[test]
fn the_light_of_another_element_is_taken() {
    let (engine, mut shot) = engine();
    let mut other = shot.elements[0].clone();
    other.id = 2;
    // Without albedo the same picture tells another light.
    other.passes.retain(|p| p.role != Role::Albedo);
    shot.elements.push(other);
    let with = |like, shot: &mut Shot| {
        let does = StepKind::MatchLight(MatchLight { like, ..MatchLight::default() });
        shot.elements[0].steps = vec![Step::new(1, does)];
        let target = Target::After { element: 1, step: 1 };
        engine.evaluate(shot, &Request::frame(shot, target, Scale::FULL)).map(|e| e.raster)
    };
    let untouched = with(None, &mut shot).unwrap();
    let matched = with(Some(2), &mut shot).unwrap();
    assert_ne!(matched, untouched);
    // The light is looked for at one scale, whatever is asked for: a window of it is the same.
    let window = Window::new(20, 10, 30, 20);
    let target = Target::After { element: 1, step: 1 };
    let part = Request { window, ..Request::frame(&shot, target, Scale::FULL) };
    assert_eq!(*engine.evaluate(&shot, &part).unwrap().raster, matched.cropped(window, 0.0));
    assert_eq!(*with(Some(1), &mut shot).unwrap(), *untouched, "its own light changes nothing");
    assert_eq!(with(Some(9), &mut shot).unwrap_err().to_string(), "There is no element 9 in this shot.");
    shot.elements[1].passes.retain(|p| p.role != Role::Normal);
    let said = with(Some(2), &mut shot).unwrap_err().to_string();
    assert!(said.contains("not enough visible surface"), "{said}");
}

#[test]
fn moving_a_late_value_reuses_what_came_before() {
    let (engine, mut shot) = engine();
    three_steps(&mut shot);
    let events = |shot: &Shot| {
        let request =
            Request { trace: Some(Default::default()), ..Request::frame(shot, Target::Shot, Scale::FULL) };
        engine.evaluate(shot, &request).unwrap();
        let log = request.trace.unwrap().lock().unwrap().clone();
        log.into_iter().filter(|e| !matches!(e, Event::Read { .. })).collect::<Vec<_>>()
    };
    let ran = |step| Event::Ran { step };
    assert_eq!(events(&shot), [ran(1), ran(2), ran(3)]);
    assert_eq!(events(&shot), [Event::Reused { step: 3 }]);
    let StepKind::Relight(late) = &mut shot.elements[0].steps[2].does else { unreachable!() };
    late.lamps[0].intensity = 0.9;
    assert_eq!(events(&shot), [Event::Reused { step: 2 }, ran(3)]);
    shot.elements[0].steps.swap(0, 1);
    assert_eq!(events(&shot), [ran(2), ran(1), ran(3)], "another order is another picture");
}

#[test]
fn what_is_made_beside_takes_nothing_away_and_knows_what_is_there() {
    let frame = 4 * FRAME.area() as u64 * 4;
    let sizes = CacheSizes { results: 24 * frame, ..CacheSizes::default() };
    let (engine, mut shot) = engine_with(sizes);
    three_steps(&mut shot);
    let beside = engine.beside(sizes);
    let events = |engine: &Engine, shot: &Shot| {
        let request =
            Request { trace: Some(Default::default()), ..Request::frame(shot, Target::Shot, Scale::FULL) };
        engine.evaluate(shot, &request).unwrap();
        request.trace.unwrap().lock().unwrap().clone()
    };
    events(&engine, &shot);
    assert_eq!(events(&beside, &shot), [Event::Reused { step: 3 }], "it knows what is there");
    let others = (1..40).map(|i| {
        let mut other = shot.clone();
        let StepKind::Relight(first) = &mut other.elements[0].steps[0].does else { unreachable!() };
        first.lamps[0].intensity = i as f32 * 0.1 + 2.0;
        other
    });
    let others: Vec<Shot> = others.collect();
    others.iter().for_each(|other| drop(events(&beside, other)));
    assert_eq!(events(&engine, &shot), [Event::Reused { step: 3 }], "nothing was taken away");
    others.iter().for_each(|other| drop(events(&engine, other)));
    assert_ne!(events(&engine, &shot), [Event::Reused { step: 3 }], "there was no room for all of it");
}

#[test]
fn the_result_after_each_step_can_be_seen() {
    let (engine, mut shot) = engine();
    three_steps(&mut shot);
    let of = |target| engine.evaluate(&shot, &Request::frame(&shot, target, Scale::FULL)).unwrap().raster;
    let (element, step) = (1, 2);
    assert_eq!(of(Target::After { element, step: 3 }), of(Target::Shot));
    assert_eq!(of(Target::Before { element, step }), of(Target::After { element, step: 1 }));
    assert_eq!(of(Target::Before { element, step: 1 }), of(Target::Untouched { element }));
    // What a step gives is what it brings to the picture before it; of a lamp, its light.
    let gives = of(Target::Gives { element, step: 3 });
    let [before, after] = [of(Target::Before { element, step: 3 }), of(Target::After { element, step: 3 })];
    for i in [0usize, 333, 1717] {
        assert_eq!(gives.plane(1)[i], after.plane(1)[i] - before.plane(1)[i]);
        assert_eq!(gives.plane(3)[i], after.plane(3)[i]);
    }
    assert!(gives.plane(1).iter().any(|v| *v > 0.0));
    let matte = of(Target::Limit { element, step: 1 });
    let id = |x, y| (i32::div_euclid(x, 40) + i32::div_euclid(y, 30)) % 3;
    assert_eq!(matte.sample(0, 45, 10), Some(f32::from(u8::from(id(45, 10) == 1))));
}

#[test]
fn pictures_have_one_content_and_other_pictures_another() {
    let (engine, mut shot) = engine();
    three_steps(&mut shot);
    let key = |shot: &Shot| engine.content(shot, &Request::frame(shot, Target::Shot, Scale::FULL)).unwrap();
    let first = key(&shot);
    shot.name = "another name".into();
    assert_eq!(key(&shot), first, "a name decides no pixel");
    shot.elements[0].steps[0].only_where.as_mut().unwrap().invert = true;
    assert_ne!(key(&shot), first);
}

#[test]
fn content_and_pixels_come_from_the_same_picture() {
    let (engine, shot) = engine();
    let both = |shot: &Shot| {
        let request = Request::frame(shot, Target::Shot, Scale::FULL);
        (engine.content(shot, &request).unwrap(), engine.evaluate(shot, &request).unwrap().raster)
    };
    // The same picture with red and blue exchanged, behind the one that serves and before it.
    let mut other = shot.elements[0].pass_of(Role::Beauty).unwrap().clone();
    (other.id, other.name) = (99, "exchanged".into());
    other.source.channels.swap(0, 2);
    let [mut behind, mut before] = [shot.clone(), shot.clone()];
    behind.elements[0].passes.push(other.clone());
    before.elements[0].passes.insert(0, other);
    let (content, pixels) = both(&shot);
    assert_eq!(both(&behind), (content, pixels.clone()), "what does not serve decides nothing");
    let (exchanged, blue) = both(&before);
    assert_ne!(exchanged, content);
    assert_eq!(blue.plane(0), pixels.plane(2));
}

#[test]
fn a_cancelled_request_runs_no_step() {
    let (engine, mut shot) = engine();
    three_steps(&mut shot);
    let cancel = Cancel::new();
    cancel.cancel();
    let request = Request {
        cancel,
        trace: Some(Default::default()),
        ..Request::frame(&shot, Target::Shot, Scale::FULL)
    };
    assert!(matches!(engine.evaluate(&shot, &request), Err(ShotError::Cancelled(_))));
    assert!(request.trace.unwrap().lock().unwrap().is_empty());
}

#[test]
fn positions_are_made_from_depth_and_camera() {
    let (engine, mut shot) = engine();
    three_steps(&mut shot);
    // The same lamp must land where a stored position pass would put it: compare with camera.positions.
    let camera = shot.elements[0].camera.unwrap();
    let depth = shot.elements[0].pass_of(Role::Depth).unwrap().id;
    let target = Target::Pass { element: 1, pass: depth };
    let z = engine.evaluate(&shot, &Request::frame(&shot, target, Scale::FULL)).unwrap().raster;
    let p = camera.positions(&z, Scale::FULL, &Cancel::new()).unwrap();
    assert_close(&Raster::from_fn(FRAME, 1, |_, x, y| -p.sample(2, x, y).unwrap()), &z, 0.0);
    shot.elements[0].camera = None;
    let error = engine.evaluate(&shot, &Request::frame(&shot, Target::Shot, Scale::FULL)).unwrap_err();
    assert_eq!(error.to_string(), "Relight needs positions, or depth and a camera; scene has neither.");
}

#[test]
fn what_is_missing_is_said() {
    let (engine, mut shot) = engine();
    let say = |shot: &Shot, target| {
        engine.evaluate(shot, &Request::frame(shot, target, Scale::FULL)).unwrap_err().to_string()
    };
    assert_eq!(say(&shot, Target::Pass { element: 1, pass: 99 }), "There is no pass 99 in this shot.");
    assert_eq!(say(&shot, Target::Untouched { element: 4 }), "There is no element 4 in this shot.");
    shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(Relight::default()))];
    shot.elements[0].passes.retain(|p| p.role != Role::Normal);
    assert_eq!(say(&shot, Target::Shot), "Relight needs a normals pass; scene has none.");
    shot.elements[0].passes[0].source.media = MediaId::of(b"gone");
    assert!(say(&shot, Target::Pass { element: 1, pass: 1 }).starts_with("The file scene.exr is missing"));
}

#[test]
fn every_kind_stands_a_picture_of_no_pixels_and_of_one() {
    let (engine, mut shot) = engine();
    for mut info in catalogue().iter().cloned() {
        if let StepKind::CoordinateMap(m) = &mut info.defaults {
            m.from = MapFrom::File;
        }
        shot.elements[0].steps = vec![Step::new(1, info.defaults)];
        let whole = picture(&engine, &shot, FRAME, Scale::FULL);
        assert_eq!(picture(&engine, &shot, Window::of_size(0, 0), Scale::FULL).data().len(), 0);
        for window in [Window::of_size(1, 1), Window::new(70, 40, 1, 1), Window::new(5000, 5000, 2, 2)] {
            let part = picture(&engine, &shot, window, Scale::FULL);
            let inside = window.intersect(&FRAME);
            assert_eq!((part.window(), part.cropped(inside, 0.0)), (window, whole.cropped(inside, 0.0)));
            assert!(part.data().iter().all(|v| v.is_finite()), "{}", info.title);
        }
    }
}

#[test]
fn a_step_that_needs_the_whole_frame_runs_once_for_all_its_windows() {
    let (engine, mut shot) = engine();
    let refocus = Refocus { focus: 3.0, far_px: 9.0, near_px: 9.0, ..Refocus::default() };
    shot.elements[0].steps = vec![Step::new(1, StepKind::Refocus(refocus))];
    let whole = picture(&engine, &shot, FRAME, Scale::FULL);
    let trace = jugata_shot::engine::Trace::default();
    for window in [Window::new(3, 2, 7, 5), Window::new(FRAME.x, FRAME.y, 1, 1)] {
        let request = Request {
            window,
            trace: Some(trace.clone()),
            ..Request::frame(&shot, Target::Shot, Scale::FULL)
        };
        let part = engine.evaluate(&shot, &request).unwrap().raster;
        assert_eq!(*part, whole.cropped(window, 0.0));
    }
    assert!(trace.lock().unwrap().iter().all(|e| *e == Event::Reused { step: 1 }), "{trace:?}");
}
