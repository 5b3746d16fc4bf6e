//! Renders as they arrive from elsewhere, on every test bed, through Intake itself: files in, proposals, findings,
//! remedies taken, canonical passes against the truth.
//!
//! A *right* set needs nothing: nothing may be said against it, and *Put the sure ones right* must change nothing. A set
//! that *differs* must be found out. Figures are in docs/FIDELITY.md; `--nocapture` tells every miss.
#![allow(clippy::unwrap_used)]

use glam::{Mat4, Vec3};
use jugata_core::colour::srgb_encode;
use jugata_core::passes::checks::{Finding, FindingKind, Remedy};
use jugata_core::{Raster, Role, Scale};
use jugata_exchange::Limits;
use jugata_exchange::exr_write::{About, CameraOut, Depth, NamedLayer, Packing, write_with};
use jugata_shot::document::{MediaId, Shot};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::media::InMemory;
use jugata_shot::{intake, remedies};
use jugata_standin::Passes;
use jugata_testkit::beds::{Bed, tried};
use rayon::prelude::*;
use std::sync::LazyLock;

/// Size of the beds that have none of their own.
const SIZE: (u32, u32) = (208, 117);

static BEDS: LazyLock<Vec<(Bed, Passes)>> =
    LazyLock::new(|| Bed::all().into_iter().map(|b| (b, b.passes(SIZE, 3, 0))).collect());

/// What goes into the file.
#[derive(Clone, Copy)]
struct Set {
    roles: &'static [Role],
    /// Whether the header has the camera.
    camera: bool,
}

use Role::{Beauty, Depth as Z, Normal, Position, Uv};

const ALL: Set = Set { roles: &[Beauty, Z, Normal, Position, Uv, Role::ObjectId], camera: true };
const NO_CAMERA: Set = Set { camera: false, ..ALL };
const NO_POSITION: Set = Set { roles: &[Beauty, Z, Normal, Uv, Role::ObjectId], camera: true };
const NO_POSITION_NO_CAMERA: Set = Set { camera: false, ..NO_POSITION };
const ALONE_DEPTH: Set = Set { roles: &[Beauty, Z], camera: false };
const ALONE_NORMAL: Set = Set { roles: &[Beauty, Normal], camera: false };
const ALONE_UV: Set = Set { roles: &[Beauty, Uv], camera: false };
const ALONE_POSITION: Set = Set { roles: &[Beauty, Position], camera: false };

fn write_set(p: &Passes, set: Set) -> Vec<u8> {
    let float = |name, channels, raster| NamedLayer { name, channels, raster, depth: Depth::Float };
    let layers: Vec<NamedLayer<'_>> = set
        .roles
        .iter()
        .map(|role| match role {
            Beauty => float("", &["R", "G", "B", "A"][..], &p.beauty),
            Z => float("depth", &["Z"], &p.depth),
            Normal => float("normal", &["X", "Y", "Z"], &p.normal),
            Position => float("position", &["X", "Y", "Z"], &p.position),
            Uv => float("uv", &["U", "V"], &p.uv),
            _ => float("objectID", &["id"], &p.id),
        })
        .collect();
    let w = p.beauty.window();
    let camera = CameraOut {
        world_to_camera: Some(p.world_to_camera.to_cols_array()),
        focal: p.focal,
        sensor: [p.sensor, p.sensor * w.height as f32 / w.width as f32],
    };
    // How a file is packed says nothing of its passes, and packing takes a third of the time of all this.
    let about = About { camera: set.camera.then_some(camera), packing: Packing::Plain, ..About::default() };
    write_with(&layers, w, &about).unwrap()
}

/// A shot of one file, its engine.
struct Arrived {
    shot: Shot,
    engine: Engine,
}

impl Arrived {
    fn new(bytes: Vec<u8>) -> Self {
        let file = jugata_exchange::read(&bytes, &Limits::default()).unwrap();
        let shot = intake::shot_of(&file, "render.exr", MediaId::of(&bytes));
        let engine = Engine::new(Box::new(InMemory(bytes)), Limits::default(), CacheSizes::default());
        Self { shot, engine }
    }

    fn findings(&self) -> Vec<Finding> {
        self.engine.findings(&self.shot, 1, 0).unwrap().to_vec()
    }

    fn role_of(&self, pass: u32) -> Role {
        self.shot.elements[0].passes.iter().find(|p| p.id == pass).unwrap().role
    }

    /// Takes remedies as the page does, from a confidence on, until there is none left.
    fn put_right(&mut self, from: f32) {
        for _ in 0..5 {
            let open: Vec<Finding> = self.findings().into_iter().filter(|f| f.confidence >= from).collect();
            let before = self.shot.clone();
            remedies::take(&mut self.shot, 1, &open);
            if self.shot == before {
                return;
            }
        }
    }

    fn canonical(&self, role: Role) -> Raster {
        let pass = self.shot.elements[0].passes.iter().find(|p| p.role == role).unwrap().id;
        let request = Request::frame(&self.shot, Target::Pass { element: 1, pass }, Scale::FULL);
        self.engine.evaluate(&self.shot, &request).unwrap().raster.as_ref().clone()
    }
}

fn truth(p: &Passes, role: Role) -> &Raster {
    match role {
        Beauty => &p.beauty,
        Z => &p.depth,
        Normal => &p.normal,
        Position => &p.position,
        Uv => &p.uv,
        _ => &p.id,
    }
}

/// How far a pass read is from the truth: the share of samples that are off by more than a hundredth of what is there.
fn off(got: &Raster, want: &Raster, role: Role, up_to_scale: bool) -> f32 {
    let k = if up_to_scale { scale_between(got, want) } else { 1.0 };
    let n = want.channels();
    let spread = |i: usize| match role {
        Z => want.plane(0)[i],
        Position => -want.plane(2)[i],
        _ => 1.0,
    };
    let wrong = (0..want.window().area())
        .filter(|&i| {
            (0..n).any(|c| {
                let (g, w) = (got.plane(c)[i] * k, want.plane(c)[i]);
                if w.is_finite() && g.is_finite() {
                    (g - w).abs() > 0.01 * spread(i)
                } else {
                    w.is_finite() != g.is_finite()
                }
            })
        })
        .count();
    wrong as f32 / want.window().area() as f32
}

fn scale_between(got: &Raster, want: &Raster) -> f32 {
    let mut ratios: Vec<f32> = want
        .plane(0)
        .iter()
        .zip(got.plane(0))
        .map(|(w, g)| w / g)
        .filter(|r| r.is_finite() && *r > 0.0)
        .collect();
    ratios.sort_unstable_by(f32::total_cmp);
    ratios.get(ratios.len() / 2).copied().unwrap_or(1.0)
}

type Change = fn(&mut Passes);

fn each(r: &mut Raster, change: impl Fn(f32) -> f32) {
    r.planes_mut().into_iter().for_each(|p| p.iter_mut().for_each(|v| *v = change(*v)));
}

/// Changes the samples of surfaces, with the place of each.
fn surfaces(r: &mut Raster, alpha: &Raster, change: impl Fn(Vec3) -> Vec3) {
    let n = r.channels();
    for i in 0..r.window().area() {
        let v = Vec3::from_array(std::array::from_fn(|c| if c < n { r.plane(c)[i] } else { 0.0 }));
        if v != Vec3::ZERO && alpha.plane(0)[i].is_finite() {
            let out = change(v);
            (0..n).for_each(|c| r.plane_mut(c)[i] = out[c]);
        }
    }
}

fn backdrop(p: &mut Passes, value: f32) {
    each(&mut p.depth, |z| if z.is_finite() { z } else { value });
}

fn range(p: &Passes) -> [f32; 2] {
    let ends = p.depth.plane(0).iter().filter(|z| z.is_finite());
    let (low, high) = ends.fold((f32::INFINITY, 0f32), |(a, b), z| (a.min(*z), b.max(*z)));
    [low * 0.8, high * 1.1]
}

fn unit_depth(p: &mut Passes, of: impl Fn(f32, f32, f32) -> f32, nothing: f32) {
    let [near, far] = range(p);
    each(&mut p.depth, |z| if z.is_finite() { of(z, near, far) } else { nothing });
}

fn world(p: &mut Passes, place: bool) {
    let back = Mat4::inverse(&p.world_to_camera);
    let depth = p.depth.clone();
    let r = if place { &mut p.position } else { &mut p.normal };
    surfaces(r, &depth, |v| if place { back.transform_point3(v) } else { back.transform_vector3(v) });
}

fn by_alpha(r: &mut Raster, beauty: &Raster) {
    r.planes_mut().into_iter().for_each(|p| {
        p.iter_mut().zip(beauty.plane(3)).for_each(|(v, a)| *v = if *a > 0.0 { *v * a } else { 0.0 });
    });
}

fn flipped(r: &Raster) -> Raster {
    let h = r.window().height as i32;
    Raster::from_fn(r.window(), r.channels(), |c, x, y| r.sample(c, x, h - 1 - y).unwrap())
}

fn moved(r: &Raster, by: i32, outside: f32) -> Raster {
    Raster::from_fn(r.window(), r.channels(), |c, x, y| r.sample(c, x - by, y).unwrap_or(outside))
}

/// Sets that are right as they stand.
const RIGHT: &[(&str, Set, Change)] = &[
    ("all", ALL, |_| {}),
    ("without camera", NO_CAMERA, |_| {}),
    ("without position", NO_POSITION, |_| {}),
    ("without position or camera", NO_POSITION_NO_CAMERA, |_| {}),
    ("depth alone", ALONE_DEPTH, |_| {}),
    ("normals alone", ALONE_NORMAL, |_| {}),
    ("UV alone", ALONE_UV, |_| {}),
    ("position alone", ALONE_POSITION, |_| {}),
    ("without beauty", Set { roles: &[Z, Normal, Position], camera: true }, |_| {}),
    ("nothing at 0", ALL, |p| backdrop(p, 0.0)),
    ("nothing at -1", NO_CAMERA, |p| backdrop(p, -1.0)),
    ("nothing at 65504", NO_POSITION, |p| backdrop(p, 65504.0)),
    ("nothing at 1e10", ALL, |p| backdrop(p, 1e10)),
    ("nothing at 1e10, alone", ALONE_DEPTH, |p| backdrop(p, 1e10)),
    ("nothing at 0, alone", ALONE_DEPTH, |p| backdrop(p, 0.0)),
    ("nothing at 1e30", NO_POSITION_NO_CAMERA, |p| backdrop(p, 1e30)),
    ("nothing at 3.4e38", ALL, |p| backdrop(p, 3.4e38)),
    ("nothing is no number", ALL, |p| backdrop(p, f32::NAN)),
    ("nothing at a thousand times", NO_POSITION, |p| {
        let far = range(p)[1] * 1000.0;
        backdrop(p, far);
    }),
];

/// What must be found: the set, what is done to it, which pass must come out right, and whether a scale is free.
type Differs = (&'static str, Set, Change, Role, bool);

const DIFFERS: &[Differs] = &[
    ("depth near white", ALL, |p| unit_depth(p, |z, n, f| 1.0 - (z - n) / (f - n), 0.0), Z, false),
    (
        "depth near white, no camera",
        NO_CAMERA,
        |p| unit_depth(p, |z, n, f| 1.0 - (z - n) / (f - n), 0.0),
        Z,
        false,
    ),
    (
        "depth near white, no position",
        NO_POSITION,
        |p| unit_depth(p, |z, n, f| 1.0 - (z - n) / (f - n), 0.0),
        Z,
        true,
    ),
    ("depth near black", ALL, |p| unit_depth(p, |z, n, f| (z - n) / (f - n), 1.0), Z, false),
    (
        "depth near black, no position",
        NO_POSITION,
        |p| unit_depth(p, |z, n, f| (z - n) / (f - n), 1.0),
        Z,
        true,
    ),
    ("depth inverse", ALL, |p| unit_depth(p, |z, _, _| 1.0 / z, 0.0), Z, false),
    ("depth inverse, no position", NO_POSITION, |p| unit_depth(p, |z, _, _| 1.0 / z, 0.0), Z, true),
    ("z-buffer", ALL, |p| unit_depth(p, |z, n, f| (1.0 / n - 1.0 / z) / (1.0 / n - 1.0 / f), 1.0), Z, false),
    (
        "z-buffer reversed",
        ALL,
        |p| unit_depth(p, |z, n, f| (1.0 / z - 1.0 / f) / (1.0 / n - 1.0 / f), 0.0),
        Z,
        false,
    ),
    (
        "z-buffer, no position",
        NO_POSITION,
        |p| unit_depth(p, |z, n, f| (1.0 / n - 1.0 / z) / (1.0 / n - 1.0 / f), 1.0),
        Z,
        true,
    ),
    ("logarithmic depth", ALL, |p| unit_depth(p, |z, n, f| (z / n).ln() / (f / n).ln(), 1.0), Z, false),
    (
        "logarithmic depth, no position",
        NO_POSITION,
        |p| unit_depth(p, |z, n, f| (z / n).ln() / (f / n).ln(), 1.0),
        Z,
        true,
    ),
    ("along the ray", ALL, |p| along(p), Z, false),
    ("along the ray, no camera", NO_CAMERA, |p| along(p), Z, false),
    ("along the ray, no position", NO_POSITION, |p| along(p), Z, false),
    (
        "along the ray, nothing at 1e10",
        ALL,
        |p| {
            along(p);
            backdrop(p, 1e10);
        },
        Z,
        false,
    ),
    ("depth in hundredths", ALL, |p| each(&mut p.depth, |z| z * 100.0), Z, false),
    ("depth negative", ALL, |p| unit_depth(p, |z, _, _| -z, 0.0), Z, false),
    ("depth negative, no position", NO_POSITION, |p| unit_depth(p, |z, _, _| -z, 0.0), Z, false),
    ("depth negative, alone", ALONE_DEPTH, |p| unit_depth(p, |z, _, _| -z, 0.0), Z, false),
    (
        "depth with sRGB",
        ALL,
        |p| unit_depth(p, |z, n, f| srgb_encode(1.0 - (z - n) / (f - n)), 0.0),
        Z,
        false,
    ),
    (
        "depth times alpha",
        ALL,
        |p| {
            backdrop(p, 0.0);
            let b = p.beauty.clone();
            by_alpha(&mut p.depth, &b);
        },
        Z,
        false,
    ),
    ("depth upside down", ALL, |p| p.depth = flipped(&p.depth), Z, false),
    ("depth moved by a pixel", ALL, |p| p.depth = moved(&p.depth, 1, f32::INFINITY), Z, false),
    ("normals coded", ALL, |p| coded(p), Normal, false),
    ("normals coded, alone", ALONE_NORMAL, |p| coded(p), Normal, false),
    (
        "normals with sRGB",
        ALL,
        |p| {
            let d = p.depth.clone();
            surfaces(&mut p.normal, &d, |v| (0.5 * v + 0.5).to_array().map(srgb_encode).into());
        },
        Normal,
        false,
    ),
    (
        "normals y down",
        ALL,
        |p| {
            let d = p.depth.clone();
            surfaces(&mut p.normal, &d, |v| Vec3::new(v.x, -v.y, v.z));
        },
        Normal,
        false,
    ),
    (
        "normals y down, no camera",
        NO_POSITION_NO_CAMERA,
        |p| {
            let d = p.depth.clone();
            surfaces(&mut p.normal, &d, |v| Vec3::new(v.x, -v.y, v.z));
        },
        Normal,
        false,
    ),
    (
        "normals z forward",
        ALL,
        |p| {
            let d = p.depth.clone();
            surfaces(&mut p.normal, &d, |v| Vec3::new(v.x, v.y, -v.z));
        },
        Normal,
        false,
    ),
    (
        "normals z forward, alone",
        ALONE_NORMAL,
        |p| {
            let d = p.depth.clone();
            surfaces(&mut p.normal, &d, |v| Vec3::new(v.x, v.y, -v.z));
        },
        Normal,
        false,
    ),
    (
        "normals z up",
        NO_POSITION,
        |p| {
            let d = p.depth.clone();
            surfaces(&mut p.normal, &d, |v| Vec3::new(v.x, -v.z, v.y));
        },
        Normal,
        false,
    ),
    ("normals of the world", ALL, |p| world(p, false), Normal, false),
    ("normals of the world, no position", NO_POSITION, |p| world(p, false), Normal, false),
    ("normals of the world, no camera", NO_POSITION_NO_CAMERA, |p| world(p, false), Normal, false),
    (
        "normals times alpha",
        ALL,
        |p| {
            let b = p.beauty.clone();
            by_alpha(&mut p.normal, &b);
        },
        Normal,
        false,
    ),
    (
        "normals coded times alpha",
        ALL,
        |p| {
            coded(p);
            let b = p.beauty.clone();
            by_alpha(&mut p.normal, &b);
        },
        Normal,
        false,
    ),
    ("position of the world", ALL, |p| world(p, true), Position, false),
    ("position of the world, no camera", NO_CAMERA, |p| world(p, true), Position, false),
    ("position of the world, alone", ALONE_POSITION, |p| world(p, true), Position, false),
    (
        "position and normals of the world, no camera",
        NO_CAMERA,
        |p| {
            world(p, true);
            world(p, false);
        },
        Normal,
        false,
    ),
    (
        "position z forward",
        NO_CAMERA,
        |p| {
            let d = p.depth.clone();
            surfaces(&mut p.position, &d, |v| Vec3::new(v.x, v.y, -v.z));
        },
        Position,
        false,
    ),
    (
        "UV from the top",
        ALL,
        |p| {
            let d = p.depth.clone();
            surfaces(&mut p.uv, &d, |v| Vec3::new(v.x, 1.0 - v.y, 0.0));
        },
        Uv,
        false,
    ),
    (
        "UV times alpha",
        ALL,
        |p| {
            let b = p.beauty.clone();
            by_alpha(&mut p.uv, &b);
        },
        Uv,
        false,
    ),
    ("straight alpha", ALL, |p| straight(p), Beauty, false),
];

fn along(p: &mut Passes) {
    let camera = p.camera;
    p.depth = Raster::from_fn(p.depth.window(), 1, |_, x, y| {
        let z = p.depth.sample(0, x, y).unwrap();
        let at = glam::Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
        if z.is_finite() { camera.unproject(at, z).length() } else { z }
    });
}

fn coded(p: &mut Passes) {
    let depth = p.depth.clone();
    surfaces(&mut p.normal, &depth, |v| 0.5 * v + 0.5);
}

fn straight(p: &mut Passes) {
    for i in 0..p.beauty.window().area() {
        let a = p.beauty.plane(3)[i];
        (0..3).for_each(|c| p.beauty.plane_mut(c)[i] /= if a > 0.0 { a } else { 1.0 });
    }
}

/// What is said against a right set: all findings but an offer to take the camera that was solved.
fn against(found: &[Finding]) -> Vec<String> {
    found
        .iter()
        .filter(|f| f.kind != FindingKind::Camera)
        .map(|f| format!("{:?} {:.2}: {}", f.kind, f.confidence, f.what))
        .collect()
}

fn has_nothing(p: &Passes) -> bool {
    p.depth.plane(0).iter().any(|z| z.is_infinite())
}

#[test]
fn nothing_is_said_against_right_sets_and_putting_right_changes_nothing() {
    let cases = tried(&BEDS, RIGHT);
    let outcomes: Vec<(String, bool)> = cases
        .par_iter()
        .map(|((bed, p), (name, set, change))| {
            let mut p = p.clone();
            let right = p.clone();
            change(&mut p);
            let mut arrived = Arrived::new(write_set(&p, *set));
            let said = against(&arrived.findings());
            arrived.put_right(0.9);
            let worst = set
                .roles
                .iter()
                .filter(|r| matches!(r, Beauty | Z | Normal | Position | Uv))
                .map(|r| (off(&arrived.canonical(*r), truth(&right, *r), *r, false), r))
                .fold((0.0, &Beauty), |a, b| if b.0 > a.0 { b } else { a });
            let good = said.is_empty() && worst.0 < 0.01;
            (format!("{bed}, {name}: {said:?}; {:?} off by {:.3}", worst.1, worst.0), good)
        })
        .collect();
    let bad: Vec<&String> = outcomes.iter().filter(|o| !o.1).map(|o| &o.0).collect();
    bad.iter().for_each(|b| println!("{b}"));
    let share = bad.len() as f32 / outcomes.len() as f32;
    println!("{} of {} right sets with a false finding ({:.1} %)", bad.len(), outcomes.len(), 100.0 * share);
    assert!(share <= 0.03);
}

#[test]
fn what_differs_is_found_out() {
    let cases = tried(&BEDS, DIFFERS);
    let outcomes: Vec<(&str, String, bool, bool)> = cases
        .par_iter()
        .filter(|((_, p), d)| d.0 != "straight alpha" || has_nothing(p))
        .map(|((bed, p), (name, set, change, role, free))| {
            let mut p = p.clone();
            let right = p.clone();
            change(&mut p);
            let mut arrived = Arrived::new(write_set(&p, *set));
            let first: Vec<String> = arrived
                .findings()
                .iter()
                .map(|f| format!("{:?} {:?} {:.2} {}", arrived.role_of(f.pass), f.kind, f.confidence, f.what))
                .collect();
            arrived.put_right(0.9);
            let sure = off(&arrived.canonical(*role), truth(&right, *role), *role, *free);
            arrived.put_right(0.0);
            let share = off(&arrived.canonical(*role), truth(&right, *role), *role, *free);
            // Rims of what was multiplied by alpha cannot come back whole.
            let most = if name.contains("alpha") { 0.06 } else { 0.02 };
            let sure_right = sure < most;
            (*name, format!("{bed}: off {share:.3}; {first:?}"), share < most, sure_right)
        })
        .collect();
    let found = outcomes.iter().filter(|o| o.2).count();
    for (name, ..) in DIFFERS {
        let of: Vec<_> = outcomes.iter().filter(|o| o.0 == *name).collect();
        let hits = of.iter().filter(|o| o.2).count();
        println!(
            "{name}: {hits} of {}, {} by the sure ones alone",
            of.len(),
            of.iter().filter(|o| o.3).count()
        );
        of.iter().filter(|o| !o.2).take(3).for_each(|o| println!("    {}", o.1));
    }
    let share = found as f32 / outcomes.len() as f32;
    println!("{found} of {} found out ({:.1} %)", outcomes.len(), 100.0 * share);
    assert!(share >= 0.9);
}

#[test]
fn no_remedy_is_taken_twice() {
    let (_, p) = &BEDS[0];
    let mut arrived = Arrived::new(write_set(p, ALL));
    let before = arrived.shot.clone();
    remedies::take(&mut arrived.shot, 1, &[]);
    assert_eq!(arrived.shot, before);
    assert!(!matches!(
        arrived.findings().first().and_then(|f| f.remedy.as_ref()),
        Some((_, Remedy::PointNearAndFar))
    ));
}
