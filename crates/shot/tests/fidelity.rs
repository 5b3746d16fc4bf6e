//! Relight against the truth: the stand-in renders the orrery again with the same lamp added.
//!
//! The figures are in docs/FIDELITY.md; the floors here lie a little under them. Run with `--nocapture` to
//! see what is reached.
#![allow(clippy::unwrap_used)]

use crate::files::Files;
use crate::sky::{AROUND, lat_long};
use glam::Vec3;
use jugata_core::colour::srgb_code;
use jugata_core::light::relight::{Material, Surface, relight_into};
use jugata_core::show::compare::difference;
use jugata_core::surface::bump::raised;
use jugata_core::{Cancel, Raster, Role, Scale};
use jugata_exchange::{Limits, exr_read, png_write};
use jugata_shot::document::{MediaId, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::intake;
use jugata_shot::intake::MediaFile;
use jugata_shot::lamp::{Lamp, LampKind};
use jugata_shot::steps::{Relight, StepKind, Surround, SurroundFrom};
use jugata_standin::orrery::{WALL, object_id};
use jugata_standin::shape::relief;
use jugata_standin::{AddedLamp, LampPlace, Passes, Settings, export, render};
use std::f32::consts::PI;
use std::sync::LazyLock;

const SMALL: Settings = Settings::sized(480, 270, 4);

static BENCH: LazyLock<(Engine, Shot)> = LazyLock::new(|| {
    let bytes = export::plain(&render(&SMALL)).unwrap();
    let file = exr_read::read(&bytes, &Limits::default()).unwrap();
    let shot = intake::shot_of(&file, "orrery.exr", MediaId::of(&bytes));
    (Engine::new(Box::new(Files(vec![bytes, lat_long()])), Limits::default(), CacheSizes::default()), shot)
});

fn picture(shot: &Shot, target: Target) -> Raster {
    BENCH.0.evaluate(shot, &Request::frame(shot, target, Scale::FULL)).unwrap().raster.as_ref().clone()
}

/// PSNR against the truth, dB.
struct Figures {
    /// Of the picture before the relight, over the element.
    untouched: f64,
    /// Of the relit picture, over the element.
    relit: f64,
    /// The same over the matt objects alone, without their rims: there the model is the renderer's own.
    matt: f64,
}

/// Wall, Stone and Drum have no coat; pixels whose neighbours belong to other objects are left out.
fn matt_interior(id: &Raster) -> Raster {
    let matt = ["Wall", "Stone", "Drum"].map(|name| object_id(name) as f32);
    Raster::from_fn(id.window(), 1, |_, x, y| {
        let here = id.sample(0, x, y);
        let alone = (-2..=2).all(|dy| (-2..=2).all(|dx| id.sample(0, x + dx, y + dy) == here));
        f32::from(u8::from(alone && here.is_some_and(|v| matt.contains(&v))))
    })
}

/// Writes pictures side by side to docs/fidelity, where that is asked for (`make pictures`).
fn panel(name: &str, pictures: &[&Raster]) {
    if std::env::var_os("JUGATA_PICTURES").is_none() {
        return;
    }
    let window = pictures[0].window();
    let (wide, gap) = (window.width as usize, 4);
    let width = (wide + gap) * pictures.len() - gap;
    let mut pixels = vec![255; width * window.height as usize * 3];
    for (row, y) in pixels.chunks_mut(width * 3).zip(window.rows()) {
        for (part, picture) in row.chunks_mut((wide + gap) * 3).zip(pictures) {
            for (x, px) in part.chunks_mut(3).take(wide).enumerate() {
                (0..3).for_each(|c| px[c] = srgb_code(picture.row(c, y)[x]));
            }
        }
    }
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/fidelity");
    std::fs::create_dir_all(&folder).unwrap();
    let png = png_write::screen(width as u32, window.height, &pixels).unwrap();
    std::fs::write(folder.join(format!("{name}.png")), png).unwrap();
}

/// The lamp as the stand-in takes it.
fn added(lamp: &Lamp, shadows: bool) -> AddedLamp {
    let (place, size) = match lamp.kind {
        LampKind::Directional => (LampPlace::Directional(lamp.toward), 0.5 * lamp.spread.to_radians()),
        LampKind::Point => (LampPlace::Point(lamp.position), lamp.radius),
        LampKind::Spot => {
            let (at, aim) = (lamp.position, lamp.aim);
            (LampPlace::Spot { at, aim, cone: lamp.cone, soft: lamp.cone_soft }, lamp.radius)
        }
    };
    AddedLamp { place, power: lamp.colour.map(|c| c * lamp.intensity * PI), shadows, size }
}

fn truth_with(lamp: &Lamp, shadows: bool) -> Passes {
    render(&Settings { added: vec![added(lamp, shadows)], ..SMALL })
}

fn figures(what: &str, lamp: Lamp, shadows: bool) -> Figures {
    let lamp = Lamp { spread: 0.0, radius: 0.0, ..lamp };
    let truth = truth_with(&lamp, shadows);
    let relight = Relight::from(lamp);
    let matt = matt_interior(&truth.id);
    let truth = truth.beauty;
    let mut shot = BENCH.1.clone();
    let with = |shot: &mut Shot, relight: Relight| {
        shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(relight))];
        picture(shot, Target::Shot)
    };
    let untouched = picture(&shot, Target::Untouched { element: 1 });
    let coverage = Raster::from_planar(truth.window(), 1, truth.plane(3).to_vec()).unwrap();
    let psnr = |picture: &Raster, where_: &Raster| difference(picture, &truth, Some(where_)).unwrap().psnr;
    // One finish for everything, with a little varnish: what the floors were made for.
    let lit = with(&mut shot, Relight { specular: 0.04, ..relight.clone() });
    let plain = with(&mut shot, Relight { specular: 0.0, ..relight });
    let f = Figures {
        untouched: psnr(&untouched, &coverage),
        relit: psnr(&lit, &coverage),
        matt: psnr(&plain, &matt),
    };
    println!(
        "{what}, truth {} shadows: untouched {:.2} dB, relit {:.2} dB, matt interior {:.2} dB (untouched {:.2})",
        if shadows { "with" } else { "without" },
        f.untouched,
        f.relit,
        f.matt,
        psnr(&untouched, &matt),
    );
    f
}

fn sun() -> Lamp {
    let n = 1.0 / (0.78f32 * 0.78 + 0.35 * 0.35 + 0.52 * 0.52).sqrt();
    Lamp { toward: [0.78 * n, 0.35 * n, 0.52 * n], intensity: 0.5, ..Lamp::default() }
}

fn bulb() -> Lamp {
    Lamp { kind: LampKind::Point, position: [1.6, 0.9, -6.5], intensity: 3.0, ..Lamp::default() }
}

fn spot() -> Lamp {
    let (position, aim) = ([2.4, 1.8, -5.5], [0.0, -0.3, -8.0]);
    Lamp { kind: LampKind::Spot, position, aim, cone: 50.0, intensity: 8.0, ..Lamp::default() }
}

#[test]
fn a_directional_lamp_comes_close_to_the_truth() {
    let f = figures("directional", sun(), false);
    assert!(
        f.relit > 27.5 && f.relit > f.untouched + 6.0 && f.matt > FLOOR_MATT_SUN,
        "{} {}",
        f.relit,
        f.matt
    );
    let f = figures("directional", sun(), true);
    assert!(f.relit > FLOOR_SUN_SHADOWS && f.relit > f.untouched, "{} {}", f.relit, f.untouched);
}

#[test]
fn a_point_lamp_comes_close_to_the_truth() {
    let f = figures("point", bulb(), false);
    assert!(
        f.relit > 28.2 && f.relit > f.untouched + 2.5 && f.matt > FLOOR_MATT_BULB,
        "{} {}",
        f.relit,
        f.matt
    );
    let f = figures("point", bulb(), true);
    assert!(f.relit > FLOOR_BULB_SHADOWS && f.relit > f.untouched, "{} {}", f.relit, f.untouched);
}

#[test]
fn a_spot_comes_close_to_the_truth() {
    let f = figures("spot", spot(), false);
    assert!(f.relit > 30.4 && f.matt > 40.7, "{} {}", f.relit, f.matt);
}

/// PSNR where the truth has the lamp's shadow on what has a diffuse colour, without and with shadows from depth, dB.
fn in_shadow(what: &str, lamp: Lamp) -> [f64; 2] {
    // A lamp without size: a soft shadow's samples would leave the two truths other noise, which is no shadow.
    let lamp = Lamp { spread: 0.0, radius: 0.0, ..lamp };
    let (open, truth) = (truth_with(&lamp, false).beauty, truth_with(&lamp, true));
    let (albedo, truth) = (truth.albedo, truth.beauty);
    // Where the shadow takes away more than a fiftieth of a screen's white. Metals are left out: without diffuse light
    // they show no shadow, only that of other things in their mirrors.
    let shaded = |x, y| {
        let lost = (0..3).map(|c| open.sample(c, x, y).unwrap() - truth.sample(c, x, y).unwrap());
        lost.fold(0.0, f32::max) > 0.02
    };
    let region = Raster::from_fn(truth.window(), 1, |_, x, y| {
        let diffuse = (0..3).any(|c| albedo.sample(c, x, y).unwrap() > 0.01);
        f32::from(u8::from(diffuse && shaded(x, y)))
    });
    let share = region.plane(0).iter().sum::<f32>() / truth.window().area() as f32;
    let mut shot = BENCH.1.clone();
    let lit = [false, true].map(|shadows| {
        let relight = Relight { specular: 0.0, ..Lamp { shadows, ..lamp.clone() }.into() };
        shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(relight))];
        picture(&shot, Target::Shot)
    });
    panel(&format!("shadows-{what}"), &[&lit[0], &lit[1], &truth]);
    let [without, with] = lit.map(|lit| {
        let psnr = |where_| difference(&lit, &truth, where_).unwrap().psnr;
        println!("{what}: whole frame {:.2} dB", psnr(None));
        psnr(Some(&region))
    });
    println!("{what}: {:.1} % in shadow, {without:.2} dB without, {with:.2} dB with", share * 100.0);
    [without, with]
}

#[test]
fn shadows_from_depth_come_closer_to_the_truth() {
    for (what, lamp) in [("directional", sun()), ("point", bulb()), ("spot", spot())] {
        let [without, with] = in_shadow(what, lamp);
        assert!(with > without + 3.0, "{what}: {without} dB without, {with} dB with");
    }
}

#[test]
fn light_from_all_around_comes_close_to_the_truth() {
    let truth = render(&Settings { around: Some(AROUND), ..SMALL });
    let matt = matt_interior(&truth.id);
    let (truth, mut shot) = (truth.beauty, BENCH.1.clone());
    let coverage = Raster::from_planar(truth.window(), 1, truth.plane(3).to_vec()).unwrap();
    let untouched = picture(&shot, Target::Untouched { element: 1 });
    let picture_of = MediaFile { name: "around.exr".into(), media: MediaId::of(&lat_long()) };
    // The stand-in looks for what hides the light within 2.5 units.
    let usual = Surround {
        from: SurroundFrom::Picture,
        picture: Some(picture_of),
        intensity: 1.0,
        occlusion: 1.0,
        reach: 2.5,
        specular: 0.0,
        ..Surround::default()
    };
    let mut psnr = |what: &str, s: Surround, where_: &Raster| {
        shot.elements[0].steps = vec![Step::new(1, StepKind::Surround(s))];
        let got = difference(&picture(&shot, Target::Shot), &truth, Some(where_)).unwrap().psnr;
        println!("around, {what}: {got:.2} dB");
        got
    };
    let occluded = StepKind::Surround(usual.clone());
    let before = difference(&untouched, &truth, Some(&coverage)).unwrap().psnr;
    let before_matt = difference(&untouched, &truth, Some(&matt)).unwrap().psnr;
    println!("around: untouched {before:.2} dB, matt {before_matt:.2} dB");
    let all = psnr("element", Surround { specular: 0.04, ..usual.clone() }, &coverage);
    let open = psnr("matt, nothing hidden", Surround { occlusion: 0.0, ..usual.clone() }, &matt);
    let hidden = psnr("matt", usual.clone(), &matt);
    let turned = psnr("matt, turned away", Surround { turn: 120.0, ..usual }, &matt);
    shot.elements[0].steps = vec![Step::new(1, occluded)];
    panel("around", &[&untouched, &picture(&shot, Target::Shot), &truth]);
    assert!(all > 22.4 && hidden > 27.4, "{all} {hidden}, untouched {before} {before_matt}");
    assert!(hidden > open && hidden > turned + 3.0, "{hidden} {open} {turned}");
}

/// The stand-in puts real waves on its wall; bump has only the flat wall's passes, and the height of the waves.
#[test]
fn bump_comes_close_to_real_relief() {
    const DEPTH: f32 = 0.05;
    let flat = render(&SMALL);
    let real = |added: Vec<AddedLamp>| render(&Settings { relief: DEPTH, added, ..SMALL });
    let camera = flat.camera;
    let to_world = flat.world_to_camera.inverse();
    let window = flat.id.window();
    let wall = object_id("Wall") as f32;
    // Height of the wall in px at each place, as a height pass would have it.
    let height = Raster::from_fn(window, 1, |_, x, y| {
        let p = Vec3::from_array(std::array::from_fn(|c| flat.position.sample(c, x, y).unwrap()));
        let on_wall = to_world.transform_point3(p) - WALL[0];
        let is_wall = flat.id.sample(0, x, y) == Some(wall);
        if is_wall { DEPTH * relief(on_wall.x, on_wall.y) * camera.focal / -p.z } else { 0.0 }
    });
    let cancel = Cancel::new();
    let bumped = raised(&flat.normal, &flat.position, &height, 1.0, camera.focal, &cancel).unwrap();
    let id = &flat.id;
    let where_ = Raster::from_fn(window, 1, |_, x, y| {
        let inside =
            (-3..=3).all(|d| id.sample(0, x + d, y) == Some(wall) && id.sample(0, x, y + d) == Some(wall));
        f32::from(u8::from(inside))
    });
    // Normals against those of the real waves: mean angle, degrees.
    let truth = real(Vec::new());
    let angle = |n: &Raster| {
        let at = |r: &Raster, i: usize| Vec3::from_array(std::array::from_fn(|c| r.plane(c)[i]));
        let here: Vec<usize> = (0..window.area()).filter(|&i| where_.plane(0)[i] > 0.0).collect();
        let sum: f32 = here.iter().map(|&i| at(n, i).angle_between(at(&truth.normal, i))).sum();
        (sum / here.len() as f32).to_degrees()
    };
    let (before, after) = (angle(&flat.normal), angle(&bumped));
    // The light that a lamp adds, against what it adds to the real waves.
    let bare = Lamp { intensity: 1.0, ..sun() };
    let lit = real(vec![AddedLamp { size: 0.0, ..added(&bare, false) }]).beauty;
    let added = Raster::from_fn(window, 4, |c, x, y| {
        let v = |r: &Raster| r.sample(c, x, y).unwrap();
        if c < 3 { v(&lit) - v(&truth.beauty) } else { 1.0 }
    });
    // Bump moves nothing: where the chart on the wall is drawn, the waves carry its lines away.
    let plain = Raster::from_fn(window, 1, |_, x, y| {
        let same = |x, y| {
            let at = |r: &Raster| r.sample(1, x, y).unwrap_or(-1.0);
            (at(&flat.albedo) - at(&truth.albedo)).abs() < 0.002
        };
        let all = (-2..=2).all(|dy| (-2..=2).all(|dx| same(x + dx, y + dy)));
        where_.sample(0, x, y).unwrap() * f32::from(u8::from(all))
    });
    let share = plain.plane(0).iter().sum::<f32>() / where_.plane(0).iter().sum::<f32>();
    let light = |normal: &Raster| {
        let surface = Surface { normal, position: Some(&flat.position), albedo: Some(&flat.albedo) };
        let finish = Material::MATT;
        let mut out = Raster::zeros(window, 4);
        let lamps = [Lamp { spread: 0.0, ..bare.clone() }.shining().into()];
        relight_into(&mut out, &flat.beauty, surface, &lamps, finish.into(), &cancel).unwrap();
        out
    };
    let lights = [&flat.normal, &bumped].map(light);
    panel("relief", &[&lights[0], &lights[1], &added]);
    let psnr = |where_: &Raster| lights.each_ref().map(|l| difference(l, &added, Some(where_)).unwrap().psnr);
    let ([all, all_bumped], [own, own_bumped]) = (psnr(&where_), psnr(&plain));
    println!("relief: normals {before:.2} deg flat, {after:.2} deg bumped");
    println!("relief: light {all:.2} dB flat, {all_bumped:.2} dB bumped, whole wall");
    println!(
        "relief: light {own:.2} dB flat, {own_bumped:.2} dB bumped, {:.0} % without lines",
        share * 100.0
    );
    assert!(before > 10.0 && after < 0.06 * before, "{before} {after}");
    assert!(all_bumped > all + 3.0 && own_bumped > own + 10.0, "{all} {all_bumped} {own} {own_bumped}");
}

#[test]
fn without_an_albedo_pass_the_picture_stands_in_for_it() {
    let mut shot = BENCH.1.clone();
    shot.elements[0].passes.retain(|p| p.role != Role::Albedo);
    shot.elements[0].steps = vec![Step::new(1, StepKind::Relight(sun().into()))];
    let untouched = picture(&shot, Target::Untouched { element: 1 });
    let lit = picture(&shot, Target::Shot);
    let sum = |r: &Raster| r.plane(1).iter().map(|v| f64::from(*v)).sum::<f64>();
    assert!(sum(&lit) > 1.05 * sum(&untouched));
}

const FLOOR_MATT_SUN: f64 = 36.0;
const FLOOR_MATT_BULB: f64 = 43.0;
const FLOOR_SUN_SHADOWS: f64 = 27.9;
const FLOOR_BULB_SHADOWS: f64 = 28.5;
