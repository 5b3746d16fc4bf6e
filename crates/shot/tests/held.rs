//! UV that is held to a body by how it moves, over fifty frames: bodies of the stand-in that turn while the camera goes. Where
//! each place was on the first frame, which the stand-in knows and no file has, is the truth. Figures are printed
//! (`--nocapture`); the bounds hold for the worst.
#![allow(clippy::unwrap_used)]

use crate::cameras::brought;
use glam::{DAffine3, DVec3, Vec2, Vec3};
use jugata_core::texture::project::{Form, Projector};
use jugata_core::track::body;
use jugata_core::{Raster, Scale};
use jugata_shot::check;
use jugata_shot::document::{Extract, Limit, NamedMatte, Shot};
use jugata_shot::engine::{Engine, Request, Target};
use jugata_shot::extracts::{HeldBy, ProjectUv};
use jugata_shot::parts::{ObjectsPart, PartKind};
use jugata_standin::{Passes, Settings, export, render};
use jugata_testkit::beds::{Bed, every, going};

const SIZE: (u32, u32) = (240, 135);
const LAST: i32 = 50;

/// A bed whose camera goes along and turns while its bodies do.
fn settings(bed: Bed) -> Settings {
    Settings { pan: 0.1, ..going(bed.settings(SIZE, 1).unwrap(), [0.0015, 0.0005, -0.001]) }
}

fn frames(bed: Bed) -> Vec<Passes> {
    let settings = settings(bed);
    (0..=LAST).map(|frame| render(&Settings { frame, ..settings.clone() })).collect()
}

/// Objects that turn by themselves, all of one piece, and are seen well on the first and on the last frame.
fn turning(frames: &[Passes]) -> Vec<u32> {
    let [first, last] = [&frames[0], &frames[LAST as usize]];
    let rest = of_rest(first);
    let stood = (last.world_to_camera * first.world_to_camera.inverse()).as_dmat4();
    let turns = |id: u32| {
        let places: Vec<_> = seen(last, id)
            .map(|i| (place(&last.rest, i).as_dvec3(), place(&last.position, i).as_dvec3()))
            .collect();
        let Some(way) = body::fitted(&places, places.len()) else { return false };
        // What stands is where it was, but for the camera.
        let gone = |(then, now): &(DVec3, DVec3)| {
            stood.transform_point3(rest.transform_point3(*then)).distance(*now) / now.length()
        };
        way.agrees > 0.99 && places.iter().map(gone).fold(0.0, f64::max) > 1e-3
    };
    let well = |id: u32| [first, last].iter().all(|p| seen(p, id).count() >= 150);
    (1..=first.names.len() as u32).filter(|id| well(*id) && turns(*id)).collect()
}

/// The pixels of an object.
fn seen(p: &Passes, id: u32) -> impl Iterator<Item = usize> {
    (0..p.id.window().area()).filter(move |&i| p.id.plane(0)[i] as u32 == id)
}

fn place(places: &Raster, i: usize) -> Vec3 {
    Vec3::from_array([0, 1, 2].map(|c| places.plane(c)[i]))
}

/// From where places were on the first frame, as the stand-in counts, to its camera space.
fn of_rest(first: &Passes) -> DAffine3 {
    let seen = (0..first.id.window().area()).filter(|&i| first.id.plane(0)[i] > 0.0);
    let pairs: Vec<_> =
        seen.map(|i| (place(&first.rest, i).as_dvec3(), place(&first.position, i).as_dvec3())).collect();
    body::fitted(&pairs, pairs.len()).unwrap().by
}

/// The take as a shot, its UV held to an object.
fn held(frames: &[Passes], id: u32, form: Form, on_frame: u32) -> (Engine, Shot) {
    let (engine, mut shot) = brought(frames.iter().map(|p| export::plain(p).unwrap()).collect());
    hold(&mut shot, id, form, on_frame);
    (engine, shot)
}

fn hold(shot: &mut Shot, id: u32, form: Form, on_frame: u32) {
    let object = PartKind::from(ObjectsPart { ids: vec![id] });
    shot.elements[0].mattes = vec![NamedMatte { id: 1, name: "body".into(), matte: Limit::of(object) }];
    let does = ProjectUv { form, of: Some(1), held: HeldBy::ItsMotion, on_frame, ..ProjectUv::default() };
    shot.elements[0].extracts =
        vec![Extract { id: 1001, name: "UV".into(), serves: true, does: does.into(), reads: Vec::new() }];
    check::check(shot).unwrap();
}

fn uv(engine: &Engine, shot: &Shot, frame: i32) -> Option<Raster> {
    let target = Target::Pass { element: 1, pass: 1001 };
    let request = Request { frame, ..Request::frame(shot, target, Scale::FULL) };
    engine.evaluate(shot, &request).ok().map(|made| made.raster.as_ref().clone())
}

/// Largest and middle distance from where the texture lies on the truth, texels of a texture that has as many along a side as
/// the body is px wide or high.
fn drift(got: &Raster, first: &Passes, now: &Passes, id: u32, form: Form) -> [f32; 2] {
    let upright = first.camera.turn_to_world().unwrap();
    let fitted_to = seen(first, id).map(|i| place(&first.position, i));
    let by = Projector::fitted(form, upright, fitted_to, Vec3::Z).unwrap();
    let rest = of_rest(first);
    let texels = {
        let w = first.id.window();
        let all: Vec<_> = seen(first, id).map(|i| w.pixel_at(i)).collect();
        let wide = |of: fn(&(i32, i32)) -> i32| {
            1 + all.iter().map(of).max().unwrap_or(0) - all.iter().map(of).min().unwrap_or(0)
        };
        wide(|p| p.0).max(wide(|p| p.1)) as f32
    };
    let off = |i: usize| {
        let then = rest.transform_point3(place(&now.rest, i).as_dvec3()).as_vec3();
        let d = Vec2::new(got.plane(0)[i], got.plane(1)[i]) - by.uv(then);
        // Once round is the same place.
        let d = if form == Form::Plane { d } else { Vec2::new(d.x - d.x.round(), d.y) };
        d.length() * texels
    };
    let mut all: Vec<f32> = seen(now, id).map(off).collect();
    all.sort_unstable_by(f32::total_cmp);
    [all[all.len() - 1], all[all.len() / 2]]
}

#[test]
fn a_texture_stays_on_a_turning_body_for_fifty_frames() {
    let some = |b: &Bed| matches!(b, Bed::Orrery | Bed::Room(1 | 4 | 7 | 9));
    let beds = Bed::all().into_iter().filter(|b| b.settings(SIZE, 1).is_some() && (every() || some(b)));
    let (mut all, mut lost) = (Vec::new(), 0);
    for bed in beds {
        let frames = frames(bed);
        let bodies = turning(&frames);
        let Some(&first) = bodies.first() else { continue };
        let (engine, mut shot) = held(&frames, first, Form::Plane, 0);
        for id in bodies {
            for form in [Form::Plane, Form::Cylinder] {
                hold(&mut shot, id, form, 0);
                let got = uv(&engine, &shot, LAST);
                let off = got.map(|got| drift(&got, &frames[0], &frames[LAST as usize], id, form));
                let Some([most, middle]) = off else {
                    println!("{bed}, object {id}: lost");
                    lost += usize::from(form == Form::Plane);
                    continue;
                };
                println!(
                    "{bed}, object {id}, {form:?}: {most:.3} at most, {middle:.3} in the middle, texels"
                );
                // Beside the axis of a cylinder, u says little of where a place is.
                all.extend((form == Form::Plane).then_some(most));
            }
        }
    }
    all.sort_unstable_by(f32::total_cmp);
    let (middle, worst) = (all[all.len() / 2], all[all.len() - 1]);
    println!("{} bodies: {middle:.3} texels in the middle, {worst:.3} at worst; {lost} lost", all.len());
    assert!(all.len() >= 9 && middle < 0.1 && worst < 1.0 && lost <= 1, "{all:?} {lost}");
}

#[test]
fn it_is_held_from_a_later_frame_backwards_too_and_says_what_it_lacks() {
    let frames = frames(Bed::Room(9));
    let id = turning(&frames)[0];
    let (engine, mut shot) = held(&frames, id, Form::Plane, LAST as u32);
    let got = uv(&engine, &shot, 0).unwrap();
    let of = |frame: i32| uv(&engine, &shot, frame).unwrap();
    // As the first frame shows it, it lies where it lies on the last.
    let [first, last] = [&frames[0], &frames[LAST as usize]];
    let near = |r: Vec3| {
        let far = |j: &usize| place(&last.rest, *j).distance(r);
        seen(last, id).map(|j| (far(&j), j)).min_by(|a, b| a.0.total_cmp(&b.0)).unwrap()
    };
    let fitted = of(LAST);
    let texture = |uv: &Raster, i: usize| Vec2::new(uv.plane(0)[i], uv.plane(1)[i]);
    // It turned by a quarter meanwhile: what is seen on both frames.
    let both = seen(first, id).map(|i| (i, near(place(&first.rest, i))));
    let mut both: Vec<_> =
        both.map(|(i, (far, j))| (far, texture(&got, i).distance(texture(&fitted, j)))).collect();
    both.sort_unstable_by(|a, b| a.0.total_cmp(&b.0));
    both.truncate(20);
    let off: Vec<f32> = both.iter().map(|b| b.1).collect();
    // Places between pixels are compared by the nearest one.
    assert!(off.iter().sum::<f32>() < 0.02 * off.len() as f32, "{both:?}");
    // Without motion vectors nothing says where it went.
    shot.elements[0].passes.retain(|p| p.role != jugata_core::Role::Motion);
    let target = Target::Pass { element: 1, pass: 1001 };
    let request = Request { frame: 3, ..Request::frame(&shot, target, Scale::FULL) };
    let said = engine.evaluate(&shot, &request).unwrap_err().to_string();
    assert!(said.contains("motion"), "{said}");
}
