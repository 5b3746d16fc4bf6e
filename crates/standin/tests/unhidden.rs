//! Refocus with what other frames show of what is hidden: a camera goes sideways past the test beds, whose bodies turn, and
//! one frame is seen through a real lens.
#![allow(clippy::unwrap_used)]

use jugata_core::focus::hidden::{OtherFrame, ways};
use jugata_core::focus::iris::Iris;
use jugata_core::focus::{Boost, Focus, Law, refocus};
use jugata_core::show::compare::difference;
use jugata_core::{Cancel, Raster};
use jugata_standin::{Passes, Settings, ThinLens, render};
use jugata_testkit::beds::Bed;

const SIZE: (u32, u32) = (208, 117);

/// Px that what lies at the focus goes sideways in a frame.
const GOES: f32 = 6.0;

/// Frames to either side.
const FRAMES: usize = 3;

struct Take {
    now: Passes,
    /// Frames before, the nearest first, and those after.
    sides: [Vec<Passes>; 2],
    lens: ThinLens,
    truth: Raster,
}

impl Take {
    /// A bed with its focus far, so that what is near is wide and lets see past its edges.
    fn of(bed: Bed) -> Self {
        let still = bed.passes(SIZE, 1, 0);
        let mut z: Vec<f32> = still.depth.plane(0).iter().copied().filter(|z| z.is_finite()).collect();
        z.sort_unstable_by(f32::total_cmp);
        let (near, focus) = (z[z.len() / 100], z[z.len() * 3 / 4]);
        let circle = 0.12 * SIZE.0 as f32;
        let radius = circle / (2.0 * still.camera.focal * (1.0 / near - 1.0 / focus));
        let lens = ThinLens { radius, focus, blades: 0 };
        let travel = [GOES * focus / still.camera.focal, 0.0, 0.0];
        let at = |frame: i32| Settings { frame, travel, ..bed.settings(SIZE, 4).unwrap() };
        let truth = render(&Settings { samples: 12, lens: Some(lens), ..at(0) }).beauty;
        let side = |sign: i32| (1..=FRAMES as i32).map(|k| render(&at(sign * k))).collect();
        Self { now: render(&at(0)), sides: [side(-1), side(1)], lens, truth }
    }

    fn refocused(&self, frames: usize) -> Raster {
        let (p, cancel) = (&self.now, Cancel::new());
        // Back from the frames after: as far as they go on from there.
        let [before, after] = &self.sides;
        let steps = [
            before.iter().map(|p| p.motion.clone()).collect::<Vec<_>>(),
            after.iter().map(|p| backwards(&p.motion)).collect(),
        ];
        let side = |steps: &[Raster], side: &[Passes]| {
            let all: Vec<_> = steps.iter().zip(side).map(|(m, p)| (m, &p.depth)).take(frames).collect();
            ways(&all, &cancel).unwrap()
        };
        let [back, on] = [side(&steps[0], before), side(&steps[1], after)];
        let pairs = before.iter().zip(&back).zip(after.iter().zip(&on));
        let others: Vec<OtherFrame<'_>> =
            pairs.flat_map(|(b, a)| [of_frame(b.0, b.1), of_frame(a.0, a.1)]).collect();
        let law = Law::thin_lens(self.lens.radius, p.camera.focal, self.lens.focus, 150.0);
        let iris = Iris { blades: self.lens.blades, ..Iris::default() };
        let focus = Focus { law, iris, boost: Boost::default(), rim: 1 };
        refocus(&p.beauty, &p.depth, &focus, &others, &cancel).unwrap()
    }
}

fn of_frame<'a>(p: &'a Passes, way: &'a Raster) -> OtherFrame<'a> {
    OtherFrame { picture: &p.beauty, depth: &p.depth, way }
}

fn backwards(motion: &Raster) -> Raster {
    let mut out = motion.clone();
    out.planes_mut().into_iter().flatten().for_each(|v| *v = -*v);
    out
}

/// What is known of one bed: dB on the whole and where other frames change anything, without them and with them.
fn measured(bed: Bed) -> [f64; 4] {
    let take = Take::of(bed);
    let [alone, with] = [0, FRAMES].map(|n| take.refocused(n));
    let differs =
        |x, y| (0..3).any(|c| (alone.sample(c, x, y).unwrap() - with.sample(c, x, y).unwrap()).abs() > 0.004);
    let changed = Raster::from_fn(take.truth.window(), 1, |_, x, y| f32::from(u8::from(differs(x, y))));
    if let Ok(folder) = std::env::var("JUGATA_PICTURES") {
        let all = [("sharp", &take.now.beauty), ("truth", &take.truth), ("alone", &alone), ("with", &with)];
        for (what, r) in all {
            let path = format!("{folder}/unhidden_{bed}_{what}.png").replace(' ', "_");
            std::fs::write(path, jugata_exchange::png_write::rgba16(r).unwrap()).unwrap();
        }
    }
    let psnr = |r: &Raster, part: Option<&Raster>| difference(r, &take.truth, part).unwrap().psnr;
    let share = changed.plane(0).iter().sum::<f32>() / changed.window().area() as f32;
    let all =
        [psnr(&alone, None), psnr(&with, None), psnr(&alone, Some(&changed)), psnr(&with, Some(&changed))];
    println!(
        "{bed}: whole {:.2} → {:.2}; where it changes ({:.1} %) {:.2} → {:.2}",
        all[0],
        all[1],
        100.0 * share,
        all[2],
        all[3]
    );
    all
}

#[test]
fn other_frames_show_what_is_hidden() {
    // With `JUGATA_SEEDS` those of its rooms; all that FIDELITY tells take a minute more.
    let beds = match std::env::var("JUGATA_SEEDS") {
        Ok(_) => Bed::all(),
        Err(_) => vec![Bed::Orrery, Bed::Room(1), Bed::Room(2), Bed::Room(6), Bed::Room(11)],
    };
    let all: Vec<_> = beds.into_iter().map(measured).collect();
    let worst = all.iter().map(|f| f[1] - f[0]).fold(f64::INFINITY, f64::min);
    let mut local: Vec<f64> = all.iter().map(|f| f[3] - f[2]).filter(|g| g.is_finite()).collect();
    local.sort_unstable_by(f64::total_cmp);
    let middle = local[local.len() / 2];
    println!("worst gain on the whole {worst:.2}, median where it changes {middle:.2} dB");
    assert!(worst > -0.1 && middle > 0.3);
}
