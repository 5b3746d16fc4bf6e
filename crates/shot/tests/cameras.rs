//! Takes whose camera goes and turns: passes of the world on every frame, and motion vectors from where the camera stands.
//! The stand-in's own passes are the truth. Figures are printed (`--nocapture`); the floors hold for the worst.
#![allow(clippy::unwrap_used)]

use crate::files::{Files, picture_file};
use crate::sky::{AROUND, lat_long};
use crate::tracked::in_the_world;
use glam::{Mat4, Vec3, Vec4};
use jugata_core::passes::convention::{Convention, Space};
use jugata_core::show::compare::difference;
use jugata_core::{Camera, Raster, Role, Scale};
use jugata_exchange::Limits;
use jugata_exchange::exr_write::{About, Depth, NamedLayer, write_with};
use jugata_shot::document::{Extract, MediaId, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::extracts::{CameraMotion, MeasuredOver};
use jugata_shot::intake::{MediaFile, shot_of_files};
use jugata_shot::lamp::{Lamp, LampKind, StaysWith};
use jugata_shot::placing::{PutLamp, WhichLamp, place};
use jugata_shot::steps::{Relight, Surround, SurroundFrom};
use jugata_standin::damage::Damage;
use jugata_standin::{AddedLamp, LampPlace, Passes, Settings, export, render};
use jugata_testkit::beds::{Bed, going};

const SIZE: (u32, u32) = (160, 90);
const FRAMES: i32 = 4;
const BEDS: [Bed; 4] = [Bed::Orrery, Bed::Room(1), Bed::Room(4), Bed::Room(9)];

/// A bed whose camera goes along and turns.
fn moving(bed: Bed) -> Settings {
    Settings { pan: 3.0, ..going(bed.settings(SIZE, 2).unwrap(), [0.02, 0.01, -0.015]) }
}

fn frames(bed: Bed) -> Vec<Passes> {
    let settings = moving(bed);
    (0..FRAMES).map(|frame| render(&Settings { frame, ..settings.clone() })).collect()
}

/// Files of a take as one element.
pub fn brought(files: Vec<Vec<u8>>) -> (Engine, Shot) {
    with_file(files, Vec::new())
}

/// The same with a file that is at hand beside them.
fn with_file(files: Vec<Vec<u8>>, beside: Vec<u8>) -> (Engine, Shot) {
    let name =
        |(i, b): (usize, &Vec<u8>)| MediaFile { name: format!("take.{i:04}.exr"), media: MediaId::of(b) };
    let all: Vec<MediaFile> = files.iter().enumerate().map(name).collect();
    let at_hand = files.into_iter().chain([beside]).collect();
    let engine = Engine::new(Box::new(Files(at_hand)), Limits::default(), CacheSizes::default());
    let shot = shot_of_files(&all, &engine).unwrap();
    (engine, shot)
}

/// The passes of a frame with normals and positions of the world.
fn of_the_world(p: &Passes) -> Passes {
    let mut out = in_the_world(p);
    Damage::NormalsWorld.apply(&mut out);
    out
}

fn told_to_be_of_the_world(shot: &mut Shot) {
    for pass in &mut shot.elements[0].passes {
        if matches!(pass.role, Role::Normal | Role::Position) {
            pass.convention = Convention { space: Space::World, ..pass.convention };
        }
    }
}

fn pass(engine: &Engine, shot: &Shot, role: Role, frame: i32) -> Raster {
    let element = &shot.elements[0];
    let target = Target::Pass { element: element.id, pass: element.pass_of(role).unwrap().id };
    made(engine, shot, target, frame)
}

fn made(engine: &Engine, shot: &Shot, target: Target, frame: i32) -> Raster {
    let request = Request { frame, ..Request::frame(shot, target, Scale::FULL) };
    engine.evaluate(shot, &request).unwrap().raster.as_ref().clone()
}

fn extract(does: CameraMotion) -> Extract {
    Extract { id: 1001, name: "Motion".into(), serves: true, does: does.into(), reads: Vec::new() }
}

/// Largest difference where both are a number.
fn apart(a: &Raster, b: &Raster) -> f32 {
    let both = a.data().iter().zip(b.data());
    both.map(|(a, b)| (a - b).abs()).filter(|d| d.is_finite()).fold(0.0, f32::max)
}

/// A take without headers: only positions of the world tell where the camera stands.
fn bare(p: &Passes) -> Vec<u8> {
    let layer = |name, channels, raster| NamedLayer { name, channels, raster, depth: Depth::Float };
    let layers = [
        layer("", &["R", "G", "B", "A"], &p.beauty),
        layer("position", &["X", "Y", "Z"], &p.position),
        layer("normal", &["X", "Y", "Z"], &p.normal),
    ];
    write_with(&layers, p.beauty.window(), &About::default()).unwrap()
}

#[test]
fn passes_of_the_world_are_seen_by_the_camera_of_their_own_frame() {
    for bed in BEDS {
        let frames = frames(bed);
        let world: Vec<Passes> = frames.iter().map(of_the_world).collect();
        let (engine, mut shot) = brought(world.iter().map(|p| export::plain(p).unwrap()).collect());
        told_to_be_of_the_world(&mut shot);
        let (engine_of_bare, mut without) = brought(world.iter().map(bare).collect());
        told_to_be_of_the_world(&mut without);
        without.elements[0].camera = Some(frames[0].camera);
        for (frame, truth) in (0..).zip(&frames) {
            let far = truth.depth.plane(0).iter().copied().filter(|z| z.is_finite()).fold(0.0, f32::max);
            for (engine, shot, may) in [(&engine, &shot, 1e-4), (&engine_of_bare, &without, 2e-3)] {
                let normal = apart(&pass(engine, shot, Role::Normal, frame), &truth.normal);
                let place = apart(&pass(engine, shot, Role::Position, frame), &truth.position) / far;
                println!(
                    "{bed}, frame {frame}: normals off by {normal:.1e}, positions by {place:.1e} of the depth"
                );
                assert!(normal < may && place < may, "{bed}, frame {frame}: {normal} {place}");
            }
        }
    }
}

#[test]
fn a_camera_that_somebody_chose_holds_for_all_frames() {
    let frames = frames(Bed::Room(4));
    let world: Vec<Passes> = frames.iter().map(of_the_world).collect();
    let (engine, mut shot) = brought(world.iter().map(|p| export::plain(p).unwrap()).collect());
    told_to_be_of_the_world(&mut shot);
    let mut chosen = frames[0].camera;
    let window = frames[2].depth.window();
    let shown = (0..window.area()).find(|i| frames[2].depth.plane(0)[*i].is_finite()).unwrap();
    chosen.world.as_mut().unwrap()[3] += 0.1 * frames[2].depth.plane(0)[shown];
    shot.elements[0].camera = Some(chosen);
    let at = |r: &Raster| Vec3::from_array(std::array::from_fn(|c| r.plane(c)[shown]));
    let (seen, wanted) =
        (at(&pass(&engine, &shot, Role::Position, 2)), chosen.from_world(at(&world[2].position), true));
    assert!((seen - wanted).length() < 1e-3 * wanted.length(), "{seen} {wanted}");
}

#[test]
fn what_stands_still_goes_as_the_renderer_says() {
    let mut worst = 0.0f32;
    for bed in BEDS {
        let frames = frames(bed);
        let still = render(&Settings { travel: [0.0; 3], pan: 0.0, ..moving(bed) });
        let (engine, mut shot) = brought(frames.iter().map(|p| export::plain(p).unwrap()).collect());
        let own = pass(&engine, &shot, Role::Motion, 0);
        shot.elements[0].passes.retain(|p| p.role != Role::Motion);
        let does = CameraMotion { over: MeasuredOver::ToTheNext };
        shot.elements[0].extracts = vec![extract(does)];
        let target = Target::Pass { element: shot.elements[0].id, pass: 1001 };
        let found = made(&engine, &shot, target, 0);
        let stands = |i: usize| {
            still.motion.plane(0)[i] == 0.0
                && still.motion.plane(1)[i] == 0.0
                && still.depth.plane(0)[i].is_finite()
        };
        let off = (0..own.window().area()).filter(|i| stands(*i)).flat_map(|i| [(0, i), (1, i)]);
        let off = off.map(|(c, i)| (found.plane(c)[i] - own.plane(c)[i]).abs()).fold(0.0, f32::max);
        let most = own.plane(0).iter().fold(0.0f32, |m, v| m.max(v.abs()));
        println!("{bed}: off by {off:.1e} px of {most:.1}");
        worst = worst.max(off);
        // The last frame has no next one.
        let last = made(&engine, &shot, target, FRAMES - 1);
        assert!(last.data().iter().all(|v| *v == 0.0), "{bed}");
        assert!(most > 3.0, "{bed}: {most}");
    }
    assert!(worst < 2e-3, "{worst}");
}

#[test]
fn what_is_all_around_stays_where_it_is_while_the_camera_turns() {
    // In the other beds a camera that turned by so much sees next to nothing but floor, which is lit alike from everywhere.
    let mut gains = Vec::new();
    for bed in [1, 4, 8, 9, 11].map(Bed::Room) {
        let settings = Settings { pan: -60.0, ..bed.settings(SIZE, 2).unwrap() };
        let files =
            [0, 1].map(|frame| export::plain(&render(&Settings { frame, ..settings.clone() })).unwrap());
        let truth = render(&Settings { frame: 1, around: Some(AROUND), ..settings }).beauty;
        let picture = MediaFile { name: "around.exr".into(), media: MediaId::of(&lat_long()) };
        let light = Surround {
            from: SurroundFrom::Picture,
            picture: Some(picture),
            intensity: 1.0,
            specular: 0.0,
            ..Surround::default()
        };
        // As the second frame of a take, and alone, where ahead is where that frame looks.
        let [going, alone] = [&files[..], &files[1..]].map(|files| {
            let (engine, mut shot) = with_file(files.to_vec(), lat_long());
            shot.elements[0].steps = vec![Step::new(1, light.clone().into())];
            difference(&made(&engine, &shot, Target::Shot, 1), &truth, None).unwrap().psnr
        });
        println!("{bed}: {going:.2} dB while the camera turns, {alone:.2} dB turned along with it");
        gains.push(going - alone);
    }
    let better = gains.iter().filter(|g| **g > 0.1).count();
    let all: f64 = gains.iter().sum();
    assert!(better >= 4 && all > 4.0, "{gains:?}");
}

/// From the world into camera space.
fn pose(camera: &Camera) -> Mat4 {
    let m = camera.world.unwrap();
    let row = |r: usize| Vec4::new(m[4 * r], m[4 * r + 1], m[4 * r + 2], m[4 * r + 3]);
    Mat4::from_cols(row(0), row(1), row(2), Vec4::W).transpose()
}

/// A lamp far away and a near one, without any size, as the first camera of a take sees them.
fn lamps(first: &Passes) -> [Lamp; 2] {
    let bare = Lamp { spread: 0.0, radius: 0.0, shadows: true, ..Lamp::default() };
    let mut z: Vec<f32> = first.depth.plane(0).iter().copied().filter(|z| z.is_finite()).collect();
    z.sort_unstable_by(f32::total_cmp);
    let z = z[z.len() / 2];
    let place = [-0.35, 0.3, -0.62].map(|v| v * z);
    [
        Lamp { toward: [0.6, 0.55, 0.58], intensity: 0.4, ..bare.clone() },
        Lamp { kind: LampKind::Point, position: place, intensity: 0.11 * z * z, ..bare },
    ]
}

#[test]
fn a_lamp_that_is_put_once_stays_in_the_scene_while_the_camera_goes() {
    const LATE: i32 = 3;
    let mut gains = Vec::new();
    for bed in [Bed::Orrery, Bed::Room(1), Bed::Room(4), Bed::Room(9), Bed::Room(11)] {
        let settings = Settings { pan: 5.0, ..moving(bed) };
        let takes = [0, LATE].map(|frame| render(&Settings { frame, ..settings.clone() }));
        let way = pose(&takes[1].camera) * pose(&takes[0].camera).inverse();
        let files = takes.each_ref().map(|p| export::plain(p).unwrap());
        for lamp in lamps(&takes[0]) {
            // Where the lamp is as the late camera sees it, and the stand-in's own light from there.
            let [toward, position] =
                [way.transform_vector3(lamp.toward.into()), way.transform_point3(lamp.position.into())];
            let there = Lamp { toward: toward.into(), position: position.into(), ..lamp.clone() };
            let at = match lamp.kind {
                LampKind::Directional => LampPlace::Directional(toward.normalize().into()),
                _ => LampPlace::Point(position.into()),
            };
            let power = [lamp.intensity * std::f32::consts::PI; 3];
            let added = vec![AddedLamp { place: at, power, shadows: true, size: 0.0 }];
            let truth = render(&Settings { frame: LATE, added, ..settings.clone() }).beauty;
            let lit = |files: &[Vec<u8>], lamp: Lamp, frame: i32| {
                let (engine, mut shot) = brought(files.to_vec());
                shot.elements[0].steps = vec![Step::new(1, Relight::from(lamp).into())];
                made(&engine, &shot, Target::Shot, frame)
            };
            let going = lit(&files, lamp.clone(), 1);
            let fixed = lit(&files, Lamp { stays: StaysWith::Camera, ..lamp.clone() }, 1);
            let put = lit(&files[1..], there, 1);
            let [going_db, fixed_db, put_db] =
                [&going, &fixed, &put].map(|p| difference(p, &truth, None).unwrap().psnr);
            println!(
                "{bed}, {:?}: {going_db:.2} dB, put anew {put_db:.2}, fixed on the camera {fixed_db:.2}",
                lamp.kind
            );
            assert!(
                (going_db - put_db).abs() < 0.02,
                "{bed}: as good as one that is put there on that frame"
            );
            gains.push(going_db - fixed_db);
        }
    }
    assert!(gains.iter().all(|g| *g > 0.0), "{gains:?}");
}

#[test]
fn a_lamp_that_is_put_on_a_late_frame_stands_over_the_surface_that_was_clicked() {
    let bed = Bed::Room(4);
    let takes = [0, 2].map(|frame| render(&Settings { frame, ..moving(bed) }));
    let files = takes.each_ref().map(|p| export::plain(p).unwrap());
    let [first, late] = takes.each_ref().map(|p| pose(&p.camera));
    let z = |x: i32, y: i32| takes[1].depth.sample(0, x, y).unwrap();
    let shown =
        (0..SIZE.1 as i32).map(|y| (SIZE.0 as i32 / 2, y)).find(|(x, y)| z(*x, *y).is_finite()).unwrap();
    let lamp = Lamp { kind: LampKind::Point, ..Lamp::new() };
    let click = |files: &[Vec<u8>]| {
        let (engine, mut shot) = brought(files.to_vec());
        shot.elements[0].steps = vec![Step::new(1, Relight::from(lamp.clone()).into())];
        let which = WhichLamp { element: shot.elements[0].id, step: 1, lamp: 0 };
        let over = place(&engine, &shot, which, 1, shown, PutLamp::Surface { lift: 0.5 }).unwrap();
        // Which way a lamp far away would shine does not change with its place.
        assert_eq!((over.toward, over.aim), (lamp.toward, lamp.aim));
        Vec3::from(over.position)
    };
    let (in_take, alone) = (click(&files), click(&files[1..]));
    let as_seen = (late * first.inverse()).transform_point3(in_take);
    assert!((as_seen - alone).length() < 1e-3 * z(shown.0, shown.1), "{as_seen} {alone}");
    assert!((in_take - alone).length() > 0.05, "the camera has gone: {in_take} {alone}");
}

#[test]
fn a_picture_without_a_pose_goes_nowhere_and_says_so() {
    let picture = Raster::filled(jugata_core::Window::of_size(8, 4), 4, 0.5);
    let (engine, mut shot) = brought(vec![picture_file(&picture)]);
    shot.elements[0].extracts = vec![extract(CameraMotion::default())];
    let target = Target::Pass { element: shot.elements[0].id, pass: 1001 };
    let error = engine.evaluate(&shot, &Request::frame(&shot, target, Scale::FULL)).unwrap_err();
    assert!(error.to_string().contains("position"), "{error}");
}
