//! Motion of every coding in every scene, in small pictures: told, and put right; right motion is left alone.
#![allow(clippy::unwrap_used)]

use jugata_core::passes::checks::{self, Case, Evidence, Finding, FindingKind, Remedy};
use jugata_core::passes::convention::{Convention, Setting, canonical};
use jugata_core::{Cancel, Raster, Role, SampleKind};
use jugata_standin::{Damage, Passes, Settings, render};
use std::sync::Arc;

/// Two frames of a scene: the orrery, or a random room. The camera goes sideways by a share of how far most of it is.
fn take(seed: Option<u64>, (w, h): (u32, u32), share: f32) -> [Passes; 2] {
    let plain = Settings { seed, ..Settings::sized(w, h, 2) };
    let mut far: Vec<f32> = render(&Settings { samples: 1, ..plain.clone() }).depth.plane(0).to_vec();
    far.retain(|z| z.is_finite() && *z > 0.0);
    far.sort_by(f32::total_cmp);
    let z = far[far.len() / 2];
    let travel = [share * z, 0.4 * share * z, 0.0];
    [0, 1].map(|frame| render(&Settings { frame, travel, ..plain.clone() }))
}

fn half(r: &Raster) -> Raster {
    let mut r = r.clone();
    for c in 0..r.channels() {
        r.plane_mut(c).iter_mut().for_each(|v| *v = half::f16::from_f32(*v).to_f32());
    }
    r
}

/// What the checks say of a motion pass beside its picture, and how it is read.
fn told(now: &Passes, motion: &Raster, next: Option<&Raster>, how: Convention) -> (Raster, Vec<Finding>) {
    let setting = Setting { camera: Some(now.camera), display: now.beauty.window() };
    let one = |id: u32, role: Role, stored: &Raster, convention: Convention| Evidence {
        id,
        name: role.label().into(),
        role,
        canonical: Arc::new(canonical(stored, role, &convention, &setting, &Cancel::new()).unwrap()),
        stored: Arc::new(stored.clone()),
        kind: SampleKind::Half,
        lossy: None,
        convention,
        repairs: Vec::new(),
    };
    let passes =
        vec![one(1, Role::Beauty, &now.beauty, Convention::default()), one(2, Role::Motion, motion, how)];
    let read = Raster::clone(&passes[1].canonical);
    let case = Case::new(passes, setting, next.map(|n| Arc::new(n.clone())));
    (read, checks::run(&case).into_iter().filter(|f| f.pass == 2).collect())
}

/// How far the vectors of surfaces are from the truth, as a share of the fastest: the 90th percentile.
fn off(read: &Raster, truth: &Passes) -> f32 {
    let most = truth.motion.data().iter().fold(1e-3f32, |m, v| m.max(v.abs()));
    let w = truth.motion.window();
    let seen = (0..w.area()).filter(|&i| truth.beauty.plane(3)[i] > 0.0);
    let mut off: Vec<f32> = seen
        .map(|i| (0..2).map(|c| (read.plane(c)[i] - truth.motion.plane(c)[i]).abs()).fold(0.0, f32::max))
        .collect();
    off.sort_by(f32::total_cmp);
    off[off.len() * 9 / 10] / most
}

/// Findings and remedies of one way to write motion, counted.
#[derive(Default)]
struct Count {
    of: usize,
    told: usize,
    right: usize,
    off: Vec<String>,
}

const CODINGS: [Damage; 3] = [Damage::MotionCentred, Damage::MotionNormalised, Damage::MotionBackward];

/// Right motion of every scene that is told to be other, what is told of other motion beside the next frame, and of motion
/// round ½ without it.
fn counted(seeds: impl Iterator<Item = Option<u64>> + Clone, size: (u32, u32), share: f32) -> [Count; 5] {
    let mut counts: [Count; 5] = Default::default();
    for seed in seeds {
        let [now, next] = take(seed, size, share);
        let mut look = |count: usize, damage: Option<Damage>, next: Option<&Raster>| {
            let mut p = now.clone();
            damage.into_iter().for_each(|d| d.apply(&mut p));
            let stored = half(&p.motion);
            let (_, found) = told(&now, &stored, next, Convention::default());
            let told_of = found.iter().find(|f| f.kind == FindingKind::MotionScale);
            let remedy = told_of.and_then(|f| match &f.remedy {
                Some((_, Remedy::Convention { convention })) => Some(*convention),
                _ => None,
            });
            let c = &mut counts[count];
            c.of += 1;
            c.told += usize::from(told_of.is_some());
            let read = remedy.map(|how| told(&now, &stored, next, how).0);
            // Without the next frame nothing tells the scale, 32 px here.
            let right = read.is_some_and(|mut read| {
                if next.is_none() {
                    (0..2).for_each(|c| read.plane_mut(c).iter_mut().for_each(|v| *v *= 32.0));
                }
                off(&read, &now) < 0.1
            });
            c.right += usize::from(right);
            if !right {
                c.off.push(seed.map_or("orrery".into(), |s| s.to_string()));
            }
        };
        look(0, None, Some(&next.beauty));
        look(0, None, None);
        for (i, damage) in (1..).zip(CODINGS) {
            look(i, Some(damage), Some(&next.beauty));
        }
        look(4, Some(Damage::MotionCentred), None);
    }
    counts
}

/// The seeds that are looked at: those of `JUGATA_SEEDS` (`first..last`), else twelve rooms and the orrery.
fn seeds() -> Vec<Option<u64>> {
    let asked = std::env::var("JUGATA_SEEDS").ok();
    match asked.as_deref().and_then(|s| s.split_once("..")) {
        Some((a, b)) => (a.parse().unwrap()..b.parse().unwrap()).map(Some).collect(),
        None => [None].into_iter().chain((0..12).map(Some)).collect(),
    }
}

#[test]
fn motion_of_every_coding_is_told_in_small_pictures_of_every_scene() {
    let names = ["right", "round ½", "fractions", "backward", "round ½, one frame"];
    let mut all: [Count; 5] = Default::default();
    for (size, share) in [((208, 117), 0.003), ((208, 117), -0.01), ((104, 58), 0.01)] {
        let counts = counted(seeds().into_iter(), size, share);
        for (all, (c, name)) in all.iter_mut().zip(counts.into_iter().zip(names)) {
            println!(
                "{size:?} {share} {name}: {} of {} told, {} right; not {:?}",
                c.told, c.of, c.right, c.off
            );
            (all.of, all.told, all.right) = (all.of + c.of, all.told + c.told, all.right + c.right);
        }
    }
    let share = |n: usize, c: &Count| n as f64 / c.of as f64;
    assert!(share(all[0].told, &all[0]) <= 0.01, "{} right ones are told", all[0].told);
    for (c, name) in all[1..].iter().zip(&names[1..]) {
        assert!(share(c.right, c) >= 0.9, "{name}: {} of {} right", c.right, c.of);
    }
}
