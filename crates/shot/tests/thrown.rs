//! The shadow that one element throws on another, against renders: every other object that is seen whole stands in one element,
//! the rest of the scene in another, and the stand-in lights the rest with these objects there, unseen, and without them.
//! Figures are printed (`--nocapture`).
#![allow(clippy::unwrap_used)]

use jugata_core::light::cast::{Meets, met, thrown};
use jugata_core::light::lamp::{Lamp, Place};
use jugata_core::light::shadow::Occluders;
use jugata_core::show::compare::difference;
use jugata_core::{Cancel, Raster, Scale};
use jugata_standin::{AddedLamp, LampPlace, Passes, Settings, render};
use jugata_testkit::beds::Bed;

const SIZE: (u32, u32) = (240, 136);
const SAMPLES: u32 = 3;
/// Irradiance of the lamp.
const POWER: f32 = 2.5;
/// As the step has it.
const THICKNESS: f32 = 0.1;
/// Toward the lamp, camera space.
const LAMPS: [[f32; 3]; 2] = [[0.55, 0.45, 0.704], [-0.6, 0.55, 0.58]];

/// The light of a lamp alone on what the camera sees.
fn light_alone(settings: &Settings, toward: [f32; 3]) -> (Passes, Raster) {
    let settings = Settings { diffuse: true, ..settings.clone() };
    let lamp =
        AddedLamp { place: LampPlace::Directional(toward), power: [POWER; 3], shadows: true, size: 0.0 };
    let without = render(&settings);
    let with = render(&Settings { added: vec![lamp], ..settings });
    let (a, b) = (with.diffuse.unwrap(), without.diffuse.clone().unwrap());
    let light = Raster::from_fn(a.window(), 4, |c, x, y| match c {
        3 => 1.0,
        _ => a.sample(c, x, y).unwrap() - b.sample(c, x, y).unwrap(),
    });
    (without, light)
}

/// Objects that are seen and do not reach the edge of the frame, by ID.
fn compact(p: &Passes) -> Vec<u32> {
    let w = p.id.window();
    let (mut seen, mut cut) = (vec![0; p.names.len() + 1], vec![false; p.names.len() + 1]);
    for i in 0..w.area() {
        let (x, y) = w.pixel_at(i);
        let id = p.id.plane(0)[i] as usize;
        seen[id] += 1;
        cut[id] |= x < 2 || y < 2 || x + 3 > w.width as i32 || y + 3 > w.height as i32;
    }
    (1..seen.len()).filter(|&id| seen[id] >= 30 && !cut[id]).map(|id| id as u32).collect()
}

/// What is found of a lamp in a scene that is parted.
struct Thrown {
    /// Light on the receiver, by itself.
    alone: Raster,
    /// With the other one there.
    truth: Raster,
    /// Ours.
    made: Raster,
    /// Where the other one keeps light off, or is said to.
    region: Raster,
}

impl Thrown {
    fn of(bed: Bed, thrower_odd: bool, toward: [f32; 3]) -> Self {
        let settings = bed.settings(SIZE, SAMPLES).unwrap();
        let whole = render(&Settings { samples: 1, ..settings.clone() });
        let throws: Vec<u32> =
            compact(&whole).into_iter().skip(usize::from(!thrower_odd)).step_by(2).collect();
        let takes: Vec<u32> = (1..=whole.names.len() as u32).filter(|id| !throws.contains(id)).collect();
        let (own, alone) = light_alone(&Settings { absent: throws.clone(), ..settings.clone() }, toward);
        let (_, truth) = light_alone(&Settings { only: Some(takes.clone()), ..settings.clone() }, toward);
        let other = render(&Settings { absent: takes, samples: 1, ..settings }).depth;
        let seen = seen(&own, &other, toward);
        let made = Raster::from_fn(alone.window(), 4, |c, x, y| {
            let v = alone.sample(c, x, y).unwrap();
            if c == 3 { v } else { v * seen.sample(0, x, y).unwrap() }
        });
        let differs = |a: &Raster, x, y| {
            (0..3).any(|c| (a.sample(c, x, y).unwrap() - alone.sample(c, x, y).unwrap()).abs() > 0.01)
        };
        // What the other one hides is not seen once both lie over each other.
        let hidden = |x, y| other.sample(0, x, y) < own.depth.sample(0, x, y);
        let region = Raster::from_fn(alone.window(), 1, |_, x, y| {
            f32::from(u8::from(!hidden(x, y) && (differs(&truth, x, y) || differs(&made, x, y))))
        });
        Self { alone, truth, made, region }
    }

    /// Decibels of no shadow at all and of ours where there is one, and the shares of the light there that are falsely
    /// let through and falsely kept off.
    fn figures(&self) -> [f64; 4] {
        let [none, ours] =
            [&self.alone, &self.made].map(|p| difference(p, &self.truth, Some(&self.region)).unwrap().psnr);
        let (mut lit, mut dark, mut all) = (0f64, 0f64, 0f64);
        for c in 0..3 {
            let planes = self.alone.plane(c).iter().zip(self.made.plane(c)).zip(self.truth.plane(c));
            for (((alone, made), truth), inside) in planes.zip(self.region.plane(0)) {
                let off = f64::from((made - truth) * inside);
                all += f64::from(alone * inside);
                *if off > 0.0 { &mut lit } else { &mut dark } += off.abs();
            }
        }
        [none, ours, lit / all.max(1e-9), dark / all.max(1e-9)]
    }
}

/// Share of the light that is let through, as *Cast a shadow* finds it.
fn seen(own: &Passes, other: &Raster, toward: [f32; 3]) -> Raster {
    let cancel = Cancel::new();
    let lamp = Lamp { place: Place::Directional { toward: toward.into() }, power: [1.0; 3], size: 0.0 };
    let (camera, scale) = (own.camera, Scale::FULL);
    let of = |n: &Raster, p: &Raster| {
        Occluders::new(n, p, camera, scale, THICKNESS, &cancel).unwrap().seen(&lamp, &cancel).unwrap()
    };
    let alone = of(&own.normal, &own.position);
    let Meets { normals, positions } =
        met(&own.normal, &own.position, other, (camera, scale), &cancel).unwrap();
    thrown(&alone, &of(&normals, &positions), &cancel).unwrap()
}

#[test]
fn an_element_throws_the_shadow_that_it_would_throw() {
    let mut all = Vec::new();
    for (n, bed) in Bed::some().into_iter().filter(|b| b.settings(SIZE, 1).is_some()).enumerate() {
        for (k, toward) in LAMPS.into_iter().enumerate() {
            let found = Thrown::of(bed, (n + k) % 2 == 0, toward);
            let area = found.region.plane(0).iter().sum::<f32>() / found.region.window().area() as f32;
            let [none, ours, lit, dark] = found.figures();
            println!(
                "{bed}, lamp {k}: {:.0} % of the picture; no shadow {none:.1}, ours {ours:.1} dB; {:.0} % falsely lit, {:.0} % falsely dark",
                100.0 * area,
                100.0 * lit,
                100.0 * dark
            );
            if let Ok(folder) = std::env::var("JUGATA_CROPS") {
                for (what, picture) in
                    [("alone", &found.alone), ("truth", &found.truth), ("ours", &found.made)]
                {
                    let path = format!("{folder}/{bed}_{k}_{what}.png").replace(' ', "_");
                    std::fs::write(path, jugata_exchange::png_write::rgba16(picture).unwrap()).unwrap();
                }
            }
            if area > 0.003 {
                all.push([ours - none, ours]);
            }
        }
    }
    all.sort_unstable_by(|a: &[f64; 2], b| a[0].total_cmp(&b[0]));
    let (worst, median) = (all[0][0], all[all.len() / 2][0]);
    println!("{} takes, gain worst {worst:.1}, median {median:.1}", all.len());
    if std::env::var_os("JUGATA_SEEDS").is_none() {
        assert!(all.len() >= 10 && worst > 1.2 && median > 5.0, "{all:.1?}");
    }
}
