//! Motion blur against the truth: the orrery and random rooms rendered again at many moments while the shutter is open, with
//! bodies that turn and with a camera that goes along. Figures are printed (`--nocapture`); the floors hold for the worst.
#![allow(clippy::unwrap_used)]

use glam::Vec2;
use jugata_core::motion::{Open, blur};
use jugata_core::show::compare::difference;
use jugata_core::{Cancel, Raster};
use jugata_exchange::png_write;
use jugata_standin::{Passes, Settings, Shutter, render};
use jugata_testkit::beds::{Bed, going};

const SIZE: (u32, u32) = (240, 136);
const SAMPLES: u32 = 4;

/// What moves in a bed.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Moving {
    /// Bodies turn about the axis of the room.
    Bodies,
    /// The camera goes sideways and ahead as well.
    Camera,
}

/// How far the camera goes in a frame, in mean depths.
const TRAVEL: [f32; 3] = [0.06, 0.015, -0.05];

struct Take {
    now: Passes,
    truth: Raster,
    open: Open,
}

impl Take {
    fn of(settings: Settings, moving: Moving) -> Self {
        let half = if moving == Moving::Bodies { 3.0 } else { 0.5 };
        let settings = if moving == Moving::Camera { going(settings, TRAVEL) } else { settings };
        let now = render(&settings);
        let shutter = Shutter { opens: -half, closes: half, moments: 64, samples: 2 };
        let truth = render(&Settings { shutter: Some(shutter), ..settings }).beauty;
        Self { now, truth, open: Open { opens: -half, closes: half } }
    }

    fn blurred(&self) -> Raster {
        let p = &self.now;
        blur(&p.beauty, &p.motion, Some(&p.depth), self.open, 1, &Cancel::new()).unwrap()
    }

    /// The plain way: the mean of the picture along each pixel's own vector.
    fn plain(&self) -> Raster {
        let (p, count) = (&self.now, 32);
        let w = p.beauty.window();
        let read = |c: usize, at: Vec2| {
            let at = at.clamp(Vec2::ZERO, Vec2::new(w.width as f32 - 1.0, w.height as f32 - 1.0));
            let (x, y, f) = (at.x as i32, at.y as i32, at.fract());
            let px = |x, y| p.beauty.sample(c, x, y).unwrap_or(0.0);
            let top = px(x, y) * (1.0 - f.x) + px((x + 1).min(w.width as i32 - 1), y) * f.x;
            let y = (y + 1).min(w.height as i32 - 1);
            let low = px(x, y) * (1.0 - f.x) + px((x + 1).min(w.width as i32 - 1), y) * f.x;
            top * (1.0 - f.y) + low * f.y
        };
        Raster::from_fn(w, 4, |c, x, y| {
            let v = Vec2::new(p.motion.sample(0, x, y).unwrap(), p.motion.sample(1, x, y).unwrap());
            let time = |k: i32| {
                self.open.opens + (k as f32 + 0.5) / count as f32 * (self.open.closes - self.open.opens)
            };
            (0..count).map(|k| read(c, Vec2::new(x as f32, y as f32) - v * time(k))).sum::<f32>()
                / count as f32
        })
    }

    /// Where something moves, or one of the two ways changes the picture.
    fn region(&self, others: [&Raster; 2]) -> Raster {
        let p = &self.now;
        Raster::from_fn(p.beauty.window(), 1, |_, x, y| {
            let own = (0..2).map(|c| p.motion.sample(c, x, y).unwrap().powi(2)).sum::<f32>().sqrt();
            let differs = |r: &Raster| {
                (0..3).any(|c| (r.sample(c, x, y).unwrap() - p.beauty.sample(c, x, y).unwrap()).abs() > 0.004)
            };
            let moving = own * (self.open.closes - self.open.opens) > 0.5 || others.into_iter().any(differs);
            f32::from(u8::from(moving))
        })
    }
}

#[test]
fn what_moves_is_blurred_as_a_shutter_would() {
    // With `JUGATA_SEEDS` those of its rooms; all that FIDELITY tells take five minutes.
    let beds = match std::env::var("JUGATA_SEEDS") {
        Ok(_) => Bed::all(),
        Err(_) => vec![Bed::Orrery, Bed::Room(1), Bed::Room(4)],
    };
    let mut all = Vec::new();
    for bed in beds {
        for moving in [Moving::Bodies, Moving::Camera] {
            let take = Take::of(bed.settings(SIZE, SAMPLES).unwrap(), moving);
            let (ours, plain) = (take.blurred(), take.plain());
            let region = take.region([&ours, &plain]);
            let area = region.plane(0).iter().sum::<f32>() / region.window().area() as f32;
            if area < 0.01 {
                println!("{bed}, {moving:?}: nothing moves");
                continue;
            }
            let [still, naive, made] = [&take.now.beauty, &plain, &ours]
                .map(|p| difference(p, &take.truth, Some(&region)).unwrap().psnr);
            println!(
                "{bed}, {moving:?}: {:.0} % moves; untouched {still:.2}, plain way {naive:.2}, ours {made:.2} dB, gain {:.2}",
                100.0 * area,
                made - naive
            );
            if let Ok(folder) = std::env::var("JUGATA_CROPS") {
                let pictures =
                    [("still", &take.now.beauty), ("truth", &take.truth), ("plain", &plain), ("ours", &ours)];
                for (what, picture) in pictures {
                    let path = format!("{folder}/{bed}_{moving:?}_{what}.png").replace(' ', "_");
                    std::fs::write(path, png_write::rgba16(picture).unwrap()).unwrap();
                }
            }
            all.push([made, made - naive]);
        }
    }
    let worst = all.iter().fold([f64::INFINITY; 2], |w, v| std::array::from_fn(|i| w[i].min(v[i])));
    let median: [f64; 2] = std::array::from_fn(|i| {
        let mut of: Vec<f64> = all.iter().map(|v| v[i]).collect();
        of.sort_unstable_by(f64::total_cmp);
        of[of.len() / 2]
    });
    println!("{} takes: worst {worst:.2?}, median {median:.2?}", all.len());
    if std::env::var_os("JUGATA_SEEDS").is_none() {
        // Worst is what is thin, passes behind something thin, or mirrors what stands still.
        assert!(all.len() == 6 && worst[0] > 27.5 && worst[1] > 2.4, "{worst:?}");
        assert!(median[0] > 32.5 && median[1] > 6.8, "{median:?}");
    }
}
