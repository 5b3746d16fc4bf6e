//! A plane followed through a take whose truth is known, and what is held to it.
#![allow(clippy::unwrap_used)]

use glam::{DMat3, DVec2};
use jugata_core::track::course::Course;
use jugata_core::track::{all_through, through};
use jugata_core::{Cancel, Raster, Scale};
use jugata_exchange::Limits;
use jugata_shot::document::{Element, FrameRange, HeldTo, MattePart, MediaId, PutRight, Step, Track};
use jugata_shot::edits::{EditAt, edited};
use jugata_shot::engine::{CacheSizes, Engine, Event, Request, Target, Trace};
use jugata_shot::intake::{MediaFile, shot_of_files};
use jugata_shot::limit::{Limit, NamedMatte};
use jugata_shot::look::Look;
use jugata_shot::made::{MadeKind, Picture, Solid};
use jugata_shot::parts::{PartKind, PolygonPart};
use jugata_shot::steps::{Place, PlacedBy, PushedEllipse, Warp};
use jugata_shot::tracks::file::TrackFile;
use jugata_shot::tracks::following::{Following, follow, seen};
use jugata_shot::{Shot, check};
use jugata_testkit::plane::Take;
use std::sync::{Arc, LazyLock, Mutex};

use crate::files::Files;

const LAST: i32 = 4;

/// The take, its files, and the course that was found.
struct Followed {
    take: Take,
    files: Vec<Vec<u8>>,
    shot: Shot,
    course: Course,
}

static TAKE: LazyLock<Followed> = LazyLock::new(|| {
    let take = Take::new(2, false, 0.005);
    let files: Vec<Vec<u8>> = (0..=LAST).map(|frame| take.exr(frame)).collect();
    let brought: Vec<MediaFile> = files
        .iter()
        .enumerate()
        .map(|(i, b)| MediaFile { name: format!("wall.{i:04}.exr"), media: MediaId::of(b) })
        .collect();
    let engine = Engine::new(Box::new(Files(files.clone())), Limits::default(), CacheSizes::default());
    let mut shot = shot_of_files(&brought, &engine).unwrap();
    let corners = take.corners.map(|c| c.as_vec2().to_array());
    shot.elements[0].tracks = vec![Track::new(1, "Wall".into(), 0, corners)];
    check::check(&shot).unwrap();
    let what = Following { shot: &shot, element: shot.elements[0].id, track: 1, frames: None };
    let mut told = Vec::new();
    let course = follow(&engine, what, &Cancel::new(), &mut |m, _| told.push(m.frame)).unwrap();
    assert_eq!(told, (1..=LAST).collect::<Vec<_>>());
    let mut files = files;
    let file = serde_json::to_vec(&TrackFile::of(&course)).unwrap();
    let found = MediaFile { name: "wall.track.json".into(), media: MediaId::of(&file) };
    shot.elements[0].tracks[0].found = Some(found);
    files.push(file);
    Followed { take, files, shot, course }
});

fn engine() -> Engine {
    Engine::new(Box::new(Files(TAKE.files.clone())), Limits::default(), CacheSizes::default())
}

fn pixels(engine: &Engine, shot: &Shot, target: Target, frame: i32) -> Raster {
    let request = Request { frame, ..Request::frame(shot, target, Scale::FULL) };
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}

/// Where the region's middle is on a frame, by the truth.
fn middle(frame: i32) -> DVec2 {
    through(TAKE.take.by(frame), TAKE.take.corners.iter().sum::<DVec2>() * 0.25).unwrap()
}

#[test]
fn a_track_is_found_as_the_take_goes_and_told_at_each_frame() {
    for frame in 0..=LAST {
        let is = TAKE.course.mark(frame).unwrap();
        let truth = all_through(&TAKE.take.corners, TAKE.take.by(frame)).unwrap();
        let far = is.corners.iter().zip(&truth).map(|(a, b)| a.distance(*b)).fold(0.0, f64::max);
        assert!(far < 0.1, "frame {frame}: {far}");
        assert!(is.fits > 0.8);
        let seen = seen(&engine(), &TAKE.shot, frame);
        let by = DMat3::from_cols_array_2d(&seen[0].by).transpose();
        assert!(through(by, TAKE.take.corners[2]).unwrap().distance(truth[2]) < 0.1);
        assert_eq!((seen[0].frames.len(), seen[0].found.unwrap().frame), (LAST as usize + 1, frame));
    }
}

#[test]
fn a_drawn_matte_goes_along_with_its_track() {
    let mut shot = TAKE.shot.clone();
    let corners = TAKE.take.corners.map(|c| c.as_vec2().to_array());
    let drawn = |corners: [[f32; 2]; 4]| PartKind::from(PolygonPart { corners: corners.to_vec(), soft: 0.0 });
    let part = MattePart { id: 1, held: Some(1), ..MattePart::new(drawn(corners)) };
    let held =
        NamedMatte { id: 1, name: "Held".into(), matte: Limit { parts: vec![part], ..Limit::default() } };
    let truth = all_through(&TAKE.take.corners, TAKE.take.by(LAST)).unwrap().map(|c| c.as_vec2().to_array());
    let free = NamedMatte { id: 2, name: "Free".into(), matte: Limit::of(drawn(truth)) };
    shot.elements[0].mattes = vec![held, free];
    check::check(&shot).unwrap();
    let (engine, element) = (engine(), shot.elements[0].id);
    let [held, free] = [1, 2].map(|matte| pixels(&engine, &shot, Target::Matte { element, matte }, LAST));
    let off: f64 = held.data().iter().zip(free.data()).map(|(a, b)| f64::from((a - b).abs())).sum();
    let area: f64 = free.data().iter().map(|v| f64::from(*v)).sum();
    // Along its edge of some 400 px a tenth of a px, and what reading between pixels softens.
    assert!(off < 0.012 * area, "{off} of {area}");
    assert!(held.data().iter().all(|v| (0.0..=1.0).contains(v)));
}

#[test]
fn a_push_goes_along_and_the_picture_is_sampled_once() {
    let mut shot = TAKE.shot.clone();
    let at = middle(0).as_vec2().to_array();
    let push = PushedEllipse { id: 1, at, by: [12.0, 0.0], size: [40.0, 30.0], ..PushedEllipse::default() };
    let warp = Warp { pushes: vec![push], ..Warp::default() };
    shot.elements[0].steps = vec![Step { held: Some(1), ..Step::new(1, warp.into()) }];
    check::check(&shot).unwrap();
    let (engine, element) = (engine(), shot.elements[0].id);
    let trace: Trace = Arc::new(Mutex::new(Vec::new()));
    let request = Request {
        frame: LAST,
        trace: Some(trace.clone()),
        ..Request::frame(&shot, Target::After { element, step: 1 }, Scale::FULL)
    };
    let pushed = engine.evaluate(&shot, &request).unwrap().raster;
    let events = trace.lock().unwrap();
    let sampled: Vec<_> = events.iter().filter(|e| matches!(e, Event::Sampled { .. })).collect();
    assert_eq!(sampled, [&Event::Sampled { element, moves: 1 }]);
    // Twelve px to the right of the middle, as the plane lies on the first frame, is what was in the middle.
    let target = through(TAKE.take.by(LAST), middle(0) + DVec2::new(12.0, 0.0)).unwrap();
    let untouched = pixels(&engine, &shot, Target::Untouched { element }, LAST);
    let read = |r: &Raster, p: DVec2| {
        let (x, y) = ((p.x - 0.5).floor(), (p.y - 0.5).floor());
        let (u, v) = ((p.x - 0.5 - x) as f32, (p.y - 0.5 - y) as f32);
        let at = |i: i32, j: i32| r.sample(0, x as i32 + i, y as i32 + j).unwrap();
        (at(0, 0) * (1.0 - u) + at(1, 0) * u) * (1.0 - v) + (at(0, 1) * (1.0 - u) + at(1, 1) * u) * v
    };
    let [is, truth] = [read(&pushed, target), read(&untouched, middle(LAST))];
    assert!((is - truth).abs() < 0.03, "{is} is not {truth}");
    // Far from it every bit of the picture is as it was.
    assert_eq!(pushed.sample(0, 3, 3), untouched.sample(0, 3, 3));
}

#[test]
fn an_element_goes_along_with_a_plane_of_another() {
    let mut shot = TAKE.shot.clone();
    let (of, frame) = (shot.elements[0].id, shot.display);
    let mut label = Element::made(
        9,
        "Label".into(),
        MadeKind::from(Solid { colour: [0.0, 1.0, 0.0], ..Solid::default() }),
    );
    let [a, b, c, d] = TAKE.take.corners.map(|c| c.as_vec2());
    let (w, h) = (frame.width as f32, frame.height as f32);
    label.placement = Some(Place {
        by: PlacedBy::Corners,
        top_left: a.to_array(),
        top_right: [b.x - w, b.y],
        bottom_right: [c.x - w, c.y - h],
        bottom_left: [d.x, d.y - h],
        ..Place::default()
    });
    label.held = Some(HeldTo { element: of, track: 1 });
    shot.elements.push(label);
    check::check(&shot).unwrap();
    let engine = engine();
    for at in [0, LAST] {
        let picture = pixels(&engine, &shot, Target::Shot, at);
        let quad = all_through(&TAKE.take.corners, TAKE.take.by(at)).unwrap();
        let centre = quad.iter().sum::<DVec2>() * 0.25;
        for corner in quad {
            let inside = corner + (centre - corner).normalize() * 3.0;
            let outside = corner - (centre - corner).normalize() * 3.0;
            let at_place = |p: DVec2| [0, 1].map(|c| picture.sample(c, p.x as i32, p.y as i32).unwrap());
            let green = |p: DVec2| at_place(p)[1] - at_place(p)[0] > 0.9;
            assert!(
                green(inside) && !green(outside),
                "frame {at}, {corner}: {:?}, {:?}",
                at_place(inside),
                at_place(outside)
            );
        }
    }
    // Held to itself by way of another it is refused, in words.
    shot.elements[0].held = Some(HeldTo { element: 9, track: 1 });
    shot.elements[1].tracks = shot.elements[0].tracks.clone();
    let said = check::check(&shot).unwrap_err().to_string();
    assert!(said.contains("held to itself"), "{said}");
}

#[test]
fn steadied_a_plane_is_seen_as_it_lies_on_the_frame_of_its_region() {
    let (engine, element) = (engine(), TAKE.shot.elements[0].id);
    let seen = |frame: i32, steady: bool| {
        let look: Look = serde_json::from_value(serde_json::json!({
            "target": {"kind": "shot"}, "frame": frame, "raw": true,
            "steady": steady.then_some(HeldTo { element, track: 1 }),
        }))
        .unwrap();
        let request = look.request(&TAKE.shot);
        assert_ne!(look.content(&engine, &TAKE.shot, &request).unwrap(), "");
        look.encoded(&engine, &TAKE.shot, &request).unwrap()
    };
    let (width, [low, high]) =
        (TAKE.shot.display.width as usize, [TAKE.take.corners[0], TAKE.take.corners[2]]);
    let off = |a: &[u8], b: &[u8]| {
        let (mut sum, mut count) = (0.0, 0.0);
        for y in low.y as usize + 8..high.y as usize - 8 {
            for x in low.x as usize + 8..high.x as usize - 8 {
                let i = 4 * (y * width + x);
                (sum, count) = (sum + f64::from(a[i].abs_diff(b[i])), count + 1.0);
            }
        }
        sum / count
    };
    let [first, moved, still] = [seen(0, false), seen(LAST, false), seen(LAST, true)];
    // Light that changes is seen, motion is not.
    let (is, was) = (off(&first, &still), off(&first, &moved));
    assert!(is < 0.25 * was, "{is} of {was}");
    assert_eq!(seen(0, true), first, "on its own frame nothing is moved");
}

#[test]
fn what_is_put_right_is_believed_and_followed_on_from() {
    let mut shot = TAKE.shot.clone();
    let (engine, element) = (engine(), shot.elements[0].id);
    let from = TAKE.take.corners.map(|c| c.as_vec2().to_array());
    let to =
        all_through(&TAKE.take.corners, TAKE.take.by(2)).unwrap().map(|c| (c + 1.5).as_vec2().to_array());
    shot.elements[0].tracks[0].put_right = vec![PutRight { id: 1, frame: 2, from, to }];
    let by = DMat3::from_cols_array_2d(&seen(&engine, &shot, 2)[0].by).transpose();
    assert!(
        through(by, TAKE.take.corners[1]).unwrap().distance(DVec2::new(to[1][0].into(), to[1][1].into()))
            < 1e-3
    );
    let what = Following { shot: &shot, element, track: 1, frames: Some(FrameRange { first: 0, last: 3 }) };
    let again = follow(&engine, what, &Cancel::new(), &mut |_, _| {}).unwrap();
    assert_eq!(again.mark(2).unwrap().fits, 1.0);
    let truth = all_through(&TAKE.take.corners, TAKE.take.by(3)).unwrap();
    assert!(again.mark(3).unwrap().corners[0].distance(truth[0]) < 0.1);
}

#[test]
fn a_stopped_one_keeps_what_it_found_and_a_removed_one_lets_go() {
    let (engine, element) = (engine(), TAKE.shot.elements[0].id);
    let cancel = Cancel::new();
    let what = Following { shot: &TAKE.shot, element, track: 1, frames: None };
    let course = follow(&engine, what, &cancel, &mut |m, _| {
        if m.frame == 2 {
            cancel.cancel();
        }
    });
    assert_eq!(course.unwrap().marks.iter().map(|m| m.frame).collect::<Vec<_>>(), [0, 1, 2]);
    let mut shot = TAKE.shot.clone();
    shot.elements[0].steps = vec![Step { held: Some(1), ..Step::new(1, Warp::default().into()) }];
    let gone = EditAt { at: format!("elements/{element}/tracks/1"), put: None, after: None };
    let after = edited(&shot, &[gone]).unwrap();
    assert_eq!((after.elements[0].tracks.len(), after.elements[0].steps[0].held), (0, None));
    // What only changes the picture cannot be held.
    shot.elements[0].steps =
        vec![Step { held: Some(1), ..Step::new(1, jugata_shot::steps::Exposure::default().into()) }];
    assert!(check::check(&shot).unwrap_err().to_string().contains("only what moves the picture"));
}

#[test]
fn files_that_are_no_tracks_are_told() {
    for (bytes, says) in [
        (&b"{}"[..], "no file of a track"),
        (br#"{"planar_track":7,"at":0,"corners":[[0,0],[1,0],[1,1],[0,1]],"frames":[]}"#, "form 7"),
        (br#"{"planar_track":1,"at":0,"corners":[[0,0],[1,0],[1,1],[0,1e300]],"frames":[]}"#, "not sound"),
    ] {
        assert!(TrackFile::read(bytes).unwrap_err().contains(says));
    }
}

#[test]
fn a_picture_of_another_size_lies_on_the_region_corner_on_corner() {
    let (mut shot, mut files) = (TAKE.shot.clone(), TAKE.files.clone());
    // Of one grey: by its values alone it could be many things, but somebody chose it as a picture.
    let label = jugata_exchange::png_write::screen(24, 12, &[188; 24 * 12 * 3]).unwrap();
    let grey = jugata_core::colour::srgb_decode(188.0 / 255.0);
    let file = MediaFile { name: "label.png".into(), media: MediaId::of(&label) };
    files.push(label);
    let [a, b, c, d] = TAKE.take.corners.map(|c| c.as_vec2().to_array());
    let by = |[x, y]: [f32; 2], u: f32, v: f32| [x - 24.0 * u, y - 12.0 * v];
    let mut laid = Element::made(
        2,
        "label".into(),
        MadeKind::Picture(Picture { picture: Some(file), ..Picture::default() }),
    );
    laid.placement = Some(Place {
        by: PlacedBy::Corners,
        top_left: by(a, 0.0, 0.0),
        top_right: by(b, 1.0, 0.0),
        bottom_right: by(c, 1.0, 1.0),
        bottom_left: by(d, 0.0, 1.0),
        ..Place::default()
    });
    laid.held = Some(HeldTo { element: shot.elements[0].id, track: 1 });
    shot.elements.push(laid);
    check::check(&shot).unwrap();
    let engine = Engine::new(Box::new(Files(files)), Limits::default(), CacheSizes::default());
    for frame in [0, LAST] {
        let made = pixels(&engine, &shot, Target::Shot, frame);
        let at = middle(frame);
        let there = made.pixel(at.x as i32, at.y as i32).unwrap();
        assert!(there[..3].iter().all(|v| (v - grey).abs() < 1e-5), "{frame}: {there:?}");
        assert!((there[3] - 1.0).abs() < 1e-5, "{frame}: {there:?}");
        // Outside of each corner, by more than a px of the label, the picture is what it was.
        let untouched = pixels(&engine, &shot, Target::Untouched { element: shot.elements[0].id }, frame);
        for corner in all_through(&TAKE.take.corners, TAKE.take.by(frame)).unwrap() {
            let out = (at + (corner - at) * 1.4).floor().as_ivec2();
            assert_eq!(made.pixel(out.x, out.y), untouched.pixel(out.x, out.y), "{frame}");
        }
    }
}
