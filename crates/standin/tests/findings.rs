//! Every finding on the stand-in's renders: a clean render gives none, a damaged one gives its own, and the
//! remedy makes the pass right and the finding go.
#![allow(clippy::unwrap_used)]

use jugata_core::passes::checks::{self, Case, Evidence, Finding, FindingKind, Remedy};
use jugata_core::passes::convention::{Convention, Setting, canonical};
use jugata_core::passes::repair::{self, Repair};
use jugata_core::{Cancel, Raster, Role, SampleKind};
use jugata_standin::damage::{CLIPPED_AT, MOVED};
use jugata_standin::{Damage, Passes, Settings, render};
use std::sync::{Arc, LazyLock};

static FRAMES: LazyLock<[Passes; 2]> =
    LazyLock::new(|| [0, 1].map(|frame| render(&Settings { frame, ..Settings::sized(640, 360, 2) })));

fn roles(p: &Passes) -> [(Role, &Raster); 8] {
    [
        (Role::Beauty, &p.beauty),
        (Role::Depth, &p.depth),
        (Role::Normal, &p.normal),
        (Role::Position, &p.position),
        (Role::Uv, &p.uv),
        (Role::ObjectId, &p.id),
        (Role::Albedo, &p.albedo),
        (Role::Motion, &p.motion),
    ]
}

/// How a pass is read: a convention and repairs.
#[derive(Clone, Default)]
struct Reading {
    convention: Convention,
    repairs: Vec<Repair>,
}

fn setting(p: &Passes) -> Setting {
    Setting { camera: Some(p.camera), display: p.beauty.window() }
}

fn evidence(p: &Passes, without: &[Role], readings: &[(Role, Reading)]) -> Vec<Evidence> {
    let setting = setting(p);
    (1..)
        .zip(roles(p))
        .filter(|(_, (role, _))| !without.contains(role))
        .map(|(id, (role, stored))| {
            let reading = readings.iter().find(|r| r.0 == role).map(|r| r.1.clone()).unwrap_or_default();
            let stored =
                repair::on_stored(stored.clone(), role, &reading.repairs, setting.display, Some(&p.beauty));
            let mut read = canonical(&stored, role, &reading.convention, &setting, &Cancel::new()).unwrap();
            repair::on_canonical(&mut read, role, &reading.repairs);
            Evidence {
                id,
                name: role.label().into(),
                role,
                stored: Arc::new(stored),
                canonical: Arc::new(read),
                kind: if role == Role::Beauty { SampleKind::Half } else { SampleKind::Float },
                lossy: None,
                convention: reading.convention,
                repairs: reading.repairs,
            }
        })
        .collect()
}

fn findings(p: &Passes, without: &[Role], readings: &[(Role, Reading)]) -> (Case, Vec<Finding>) {
    let case =
        Case::new(evidence(p, without, readings), setting(p), Some(Arc::new(FRAMES[1].beauty.clone())));
    let found = checks::run(&case);
    (case, found)
}

fn told(case: &Case, found: &[Finding]) -> Vec<(Role, FindingKind)> {
    let role = |id: u32| case.passes.each.iter().find(|p| p.id == id).unwrap().role;
    found.iter().map(|f| (role(f.pass), f.kind)).collect()
}

fn damaged(damage: Damage) -> Passes {
    let mut p = FRAMES[0].clone();
    damage.apply(&mut p);
    p
}

#[track_caller]
fn clean(p: &Passes, without: &[Role]) {
    let (_, found) = findings(p, without, &[]);
    let say: Vec<String> = found.iter().map(|f| format!("{:?} {}", f.kind, f.what)).collect();
    assert!(found.is_empty(), "without {without:?}: {say:#?}");
}

#[test]
fn a_clean_render_is_silent_with_every_set_of_passes() {
    for without in [
        &[][..],
        &[Role::Position],
        &[Role::Depth],
        &[Role::Normal],
        &[Role::Position, Role::Depth],
        &[Role::Position, Role::Normal],
        &[Role::Position, Role::Normal, Role::Beauty],
    ] {
        clean(&FRAMES[0], without);
        clean(&FRAMES[1], without);
    }
}

#[test]
fn checks_that_want_the_same_do_not_wait_for_each_other_for_ever() {
    let (done, finished) = std::sync::mpsc::channel();
    std::thread::spawn(move || {
        // More threads than a small machine has processors: what one of them waits for the others have taken up.
        let threads = rayon::ThreadPoolBuilder::new().num_threads(4).build().unwrap();
        for _ in 0..12 {
            let found = threads.install(|| findings(&FRAMES[0], &[], &[]).1.len());
            done.send(found).unwrap();
        }
    });
    for _ in 0..12 {
        assert_eq!(
            finished.recv_timeout(std::time::Duration::from_secs(60)),
            Ok(0),
            "they wait for each other"
        );
    }
}

/// What each damage must be told as, and on which pass.
const EXPECTED: [(Damage, Role, FindingKind); 28] = [
    (Damage::DepthHoles, Role::Depth, FindingKind::NotFinite),
    (Damage::DepthAntialiased, Role::Depth, FindingKind::Antialiased),
    (Damage::DepthNearWhite, Role::Depth, FindingKind::DepthDirection),
    (Damage::DepthNearBlack, Role::Depth, FindingKind::DepthDirection),
    (Damage::DepthInverse, Role::Depth, FindingKind::DepthDirection),
    (Damage::DepthHardware, Role::Depth, FindingKind::DepthDirection),
    (Damage::DepthClipped, Role::Depth, FindingKind::DepthClipped),
    (Damage::DepthAlongRay, Role::Depth, FindingKind::AlongRay),
    (Damage::DepthEightBit, Role::Depth, FindingKind::TooFewLevels),
    (Damage::DepthCurved, Role::Depth, FindingKind::ColourManaged),
    (Damage::DepthCentimetres, Role::Depth, FindingKind::DepthDirection),
    (Damage::NormalsCoded, Role::Normal, FindingKind::NormalsCoded),
    (Damage::NormalsCurved, Role::Normal, FindingKind::ColourManaged),
    (Damage::NormalsEightBit, Role::Normal, FindingKind::TooFewLevels),
    (Damage::NormalsFlipped, Role::Normal, FindingKind::NormalsAxes),
    (Damage::NormalsSwapped, Role::Normal, FindingKind::NormalsAxes),
    (Damage::NormalsWorld, Role::Normal, FindingKind::WorldSpace),
    (Damage::NormalsShort, Role::Normal, FindingKind::NormalsLength),
    (Damage::UvFlipped, Role::Uv, FindingKind::UvFlipped),
    (Damage::UvTiled, Role::Uv, FindingKind::UvRange),
    (Damage::UvEightBit, Role::Uv, FindingKind::TooFewLevels),
    (Damage::UvHalf, Role::Uv, FindingKind::TooFewLevels),
    (Damage::UvCurved, Role::Uv, FindingKind::ColourManaged),
    (Damage::MotionNormalised, Role::Motion, FindingKind::MotionScale),
    (Damage::MotionCentred, Role::Motion, FindingKind::MotionScale),
    (Damage::MotionBackward, Role::Motion, FindingKind::MotionScale),
    (Damage::AlphaStraight, Role::Beauty, FindingKind::Alpha),
    (Damage::IdMoved, Role::ObjectId, FindingKind::Disagrees),
];

#[test]
fn every_damage_is_told_on_its_own_pass() {
    let mut wrong = Vec::new();
    for (damage, role, kind) in EXPECTED {
        let (case, found) = findings(&damaged(damage), &[], &[]);
        let told = told(&case, &found);
        let says: Vec<String> = found.iter().map(|f| format!("{:.2} {}", f.confidence, f.what)).collect();
        let known = told.contains(&(role, kind)) && told.iter().all(|(r, _)| *r == role);
        if !known {
            wrong.push(format!("{damage:?}: wanted {kind:?}, got {told:?} {says:#?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// Takes every remedy that is offered until none is left; what the pass is read as in the end.
fn remedied(p: &Passes, without: &[Role], role: Role) -> (Case, Vec<Finding>) {
    let mut reading = Reading::default();
    for _ in 0..4 {
        let (case, found) = findings(p, without, &[(role, reading.clone())]);
        let id = case.pass(role).unwrap().id;
        let next = found.iter().filter(|f| f.pass == id).find_map(|f| f.remedy.as_ref());
        match next {
            Some((_, Remedy::Convention { convention })) => reading.convention = *convention,
            Some((_, Remedy::Repair { repair })) => reading.repairs.push(*repair),
            _ => return (case, found),
        }
    }
    findings(p, without, &[(role, reading)])
}

/// Median relative error of depth against the truth.
fn depth_error(case: &Case) -> f32 {
    let read = &case.pass(Role::Depth).unwrap().canonical;
    let mut apart: Vec<f32> = read
        .plane(0)
        .iter()
        .zip(FRAMES[0].depth.plane(0))
        .filter(|(a, b)| a.is_finite() && b.is_finite())
        .map(|(a, b)| ((a - b) / b).abs())
        .collect();
    apart.sort_unstable_by(f32::total_cmp);
    apart[apart.len() / 2]
}

#[test]
fn the_remedy_makes_depth_right() {
    for (damage, most) in [
        (Damage::DepthNearWhite, 1e-3),
        (Damage::DepthNearBlack, 1e-3),
        (Damage::DepthInverse, 1e-3),
        (Damage::DepthHardware, 1e-3),
        (Damage::DepthAlongRay, 1e-3),
        (Damage::DepthCurved, 1e-3),
        (Damage::DepthCentimetres, 1e-3),
    ] {
        let (case, found) = remedied(&damaged(damage), &[], Role::Depth);
        let left = told(&case, &found);
        assert!(left.is_empty(), "{damage:?}: {left:?} {:?}", found.first().map(|f| &f.what));
        assert!(depth_error(&case) < most, "{damage:?}: {}", depth_error(&case));
    }
}

#[test]
fn without_positions_normals_and_camera_still_tell_the_coding() {
    for (damage, kind) in [
        (Damage::DepthNearWhite, FindingKind::DepthDirection),
        (Damage::DepthNearBlack, FindingKind::DepthDirection),
        (Damage::DepthInverse, FindingKind::DepthDirection),
        (Damage::DepthAlongRay, FindingKind::AlongRay),
    ] {
        let p = damaged(damage);
        let (case, found) = findings(&p, &[Role::Position], &[]);
        assert!(told(&case, &found).contains(&(Role::Depth, kind)), "{damage:?}: {:?}", told(&case, &found));
        let (case, _) = remedied(&p, &[Role::Position], Role::Depth);
        // Right but for a scale: depths keep their order and their ratios to within the fit.
        let read = &case.pass(Role::Depth).unwrap().canonical;
        let (a, b) = ((200, 180), (420, 300));
        let ratio = |r: &Raster| r.sample(0, a.0, a.1).unwrap() / r.sample(0, b.0, b.1).unwrap();
        let (got, want) = (ratio(read), ratio(&FRAMES[0].depth));
        assert!((got / want - 1.0).abs() < 0.15, "{damage:?}: {got} {want}");
    }
}

#[test]
fn snapping_removes_what_a_filter_put_between_surfaces() {
    let p = damaged(Damage::DepthAntialiased);
    let (case, found) = remedied(&p, &[], Role::Depth);
    assert!(told(&case, &found).is_empty(), "{:?}", told(&case, &found));
    // Before, so many samples lay on no surface of their neighbourhood; after, nearly none.
    let off = |r: &Raster| {
        let truth = &FRAMES[0].depth;
        let near = |x: i32, y: i32, z: f32| {
            (-2..=2).any(|dy| {
                (-2..=2).any(|dx| {
                    truth
                        .sample(0, x + dx, y + dy)
                        .is_some_and(|t| t.is_infinite() || (t - z).abs() < 0.03 * t)
                })
            })
        };
        (0..360)
            .flat_map(|y| (0..640).map(move |x| (x, y)))
            .filter(|&(x, y)| !near(x, y, r.sample(0, x, y).unwrap()))
            .count()
    };
    let (before, after) = (off(&p.depth), off(&case.pass(Role::Depth).unwrap().canonical));
    assert!(after * 5 < before, "{before} → {after}");
}

#[test]
fn the_remedy_makes_normals_right() {
    for damage in [
        Damage::NormalsCoded,
        Damage::NormalsCurved,
        Damage::NormalsFlipped,
        Damage::NormalsSwapped,
        Damage::NormalsWorld,
    ] {
        for without in [&[][..], &[Role::Position]] {
            let (case, found) = remedied(&damaged(damage), without, Role::Normal);
            assert!(
                told(&case, &found).is_empty(),
                "{damage:?} without {without:?}: {:?}",
                told(&case, &found)
            );
            let (read, truth) = (&case.pass(Role::Normal).unwrap().canonical, &FRAMES[0].normal);
            let apart = read.data().iter().zip(truth.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
            assert!(apart < 2e-3, "{damage:?}: {apart}");
        }
    }
}

#[test]
fn the_remedy_makes_the_others_right() {
    let apart = |case: &Case, role: Role, truth: &Raster| {
        let read = &case.pass(role).unwrap().canonical;
        read.data().iter().zip(truth.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
    };
    let truth = &FRAMES[0];
    let (case, found) = remedied(&damaged(Damage::UvFlipped), &[], Role::Uv);
    assert!(found.is_empty() && apart(&case, Role::Uv, &truth.uv) < 1e-5);
    let (case, found) = remedied(&damaged(Damage::UvCurved), &[], Role::Uv);
    assert!(found.is_empty() && apart(&case, Role::Uv, &truth.uv) < 1e-4);
    let (case, found) = remedied(&damaged(Damage::IdMoved), &[], Role::ObjectId);
    assert!(found.is_empty(), "{:?}", told(&case, &found));
    assert_eq!(case.pass(Role::ObjectId).unwrap().stored.window().x, -MOVED[0]);
    let (case, found) = remedied(&damaged(Damage::AlphaStraight), &[], Role::Beauty);
    assert!(found.is_empty() && apart(&case, Role::Beauty, &truth.beauty) < 1e-5);
    for damage in [Damage::MotionNormalised, Damage::MotionCentred, Damage::MotionBackward] {
        let (case, found) = remedied(&damaged(damage), &[], Role::Motion);
        assert!(found.is_empty(), "{damage:?} {:?}", found.first().map(|f| &f.what));
        // Within the precision of the measure: 5 % of the fastest motion.
        let most = truth.motion.data().iter().fold(0.0f32, |m, v| m.max(v.abs()));
        assert!(
            apart(&case, Role::Motion, &truth.motion) < 0.05 * most,
            "{damage:?}: {} of {most}",
            apart(&case, Role::Motion, &truth.motion)
        );
    }
    let half = damaged(Damage::NormalsHalfSize);
    let (case, found) = findings(&half, &[], &[]);
    assert!(told(&case, &found).contains(&(Role::Normal, FindingKind::Disagrees)));
    let (case, _) = remedied(&half, &[], Role::Normal);
    assert_eq!(case.pass(Role::Normal).unwrap().canonical.window(), truth.beauty.window());
}

#[test]
fn figures_and_places_are_told() {
    let (case, found) = findings(&damaged(Damage::DepthClipped), &[], &[]);
    let f = found.iter().find(|f| f.kind == FindingKind::DepthClipped).unwrap();
    assert!(f.what.contains(&format!("{CLIPPED_AT:.4}")), "{}", f.what);
    let place = f.place.as_ref().unwrap();
    let depth = &case.pass(Role::Depth).unwrap().canonical;
    assert!(place.plane(0).iter().zip(depth.plane(0)).all(|(m, z)| *m == 0.0 || *z == CLIPPED_AT));
    let (_, found) = findings(&damaged(Damage::NormalsEightBit), &[], &[]);
    assert!(found.iter().any(|f| f.cost.as_deref().is_some_and(|c| c.contains("0.22°"))));
}

#[test]
fn with_nothing_to_go_by_it_asks_for_two_clicks() {
    let p = damaged(Damage::DepthNearWhite);
    let without = [Role::Position, Role::Normal, Role::Beauty];
    let (_, found) = findings(&p, &without, &[]);
    let depth: Vec<&Finding> = found.iter().filter(|f| f.pass == 2).collect();
    let asked = depth.len() == 1 && matches!(depth[0].remedy, Some((_, Remedy::PointNearAndFar)));
    assert!(asked, "{:?}", found.iter().map(|f| &f.what).collect::<Vec<_>>());
}
