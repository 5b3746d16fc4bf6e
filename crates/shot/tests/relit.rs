//! Relight and light from all around against the truth, over every test bed: the orrery, random rooms, and the scenes
//! of a foreign renderer with a lamp added. The figures of each are printed (`--nocapture`); the floors hold for the
//! worst.
#![allow(clippy::unwrap_used)]

use crate::files::Files;
use crate::sky::{AROUND, lat_long};
use glam::Vec3;
use jugata_core::show::compare::difference;
use jugata_core::{Raster, Role, Scale};
use jugata_exchange::{Limits, exr_read};
use jugata_shot::document::{MediaId, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::finish::Finish;
use jugata_shot::intake;
use jugata_shot::intake::MediaFile;
use jugata_shot::lamp::{Lamp, LampKind};
use jugata_shot::steps::{Relight, StepKind, Surround, SurroundFrom};
use jugata_standin::{AddedLamp, LampPlace, Passes, Settings, export, render};
use jugata_testkit::{beds::Bed, foreign};
use std::f32::consts::PI;

const SIZE: (u32, u32) = (240, 135);
const SAMPLES: u32 = 3;

/// A bed on the bench.
struct Bench {
    passes: Passes,
    shot: Shot,
    engine: Engine,
}

impl Bench {
    fn new(bed: Bed) -> Self {
        let passes = bed.passes(SIZE, SAMPLES, 0);
        let bytes = export::plain(&passes).unwrap();
        let file = exr_read::read(&bytes, &Limits::default()).unwrap();
        let mut shot = intake::shot_of(&file, "bed.exr", MediaId::of(&bytes));
        if passes.albedo.data().iter().all(|v| *v == 0.0) {
            // Some beds have none; the picture has to do.
            shot.elements[0].passes.retain(|p| p.role != Role::Albedo);
        }
        let engine =
            Engine::new(Box::new(Files(vec![bytes, lat_long()])), Limits::default(), CacheSizes::default());
        Self { passes, shot, engine }
    }

    fn with(&self, kind: StepKind) -> Raster {
        let mut shot = self.shot.clone();
        shot.elements[0].steps = vec![Step::new(1, kind)];
        let request = Request::frame(&shot, Target::Shot, Scale::FULL);
        self.engine.evaluate(&shot, &request).unwrap().raster.as_ref().clone()
    }

    /// What the picture says of its objects' finish; nothing where the bed has no IDs.
    fn finishes(&self) -> Vec<Finish> {
        let element = self.shot.elements[0].id;
        let request = Request::frame(&self.shot, Target::Untouched { element }, Scale::FULL);
        self.engine.finishes(&self.shot, element, &request).map(|told| told.finishes).unwrap_or_default()
    }

    /// PSNR against a truth where the bed has something, dB.
    fn psnr(&self, picture: &Raster, truth: &Raster) -> f64 {
        let coverage = Raster::from_planar(truth.window(), 1, truth.plane(3).to_vec()).unwrap();
        difference(picture, truth, Some(&coverage)).unwrap().psnr
    }

    /// A lamp far away and one near, neither with any size.
    fn lamps(&self, bed: Bed) -> [(&'static str, Lamp); 2] {
        let bare = Lamp { spread: 0.0, radius: 0.0, ..Lamp::default() };
        let (toward, irradiance, at, power) = match bed {
            Bed::Foreign(name) => {
                let l = foreign::lamps(name);
                (l.toward, l.irradiance, l.at, l.intensity)
            }
            _ => {
                let mut z: Vec<f32> =
                    self.passes.depth.plane(0).iter().copied().filter(|z| z.is_finite()).collect();
                z.sort_unstable_by(f32::total_cmp);
                let middle = z[z.len() / 2];
                let toward = Vec3::new(0.6, 0.55, 0.58).normalize();
                (toward.into(), 1.2, [-0.35, 0.3, -0.62].map(|v| v * middle), 0.35 * middle * middle)
            }
        };
        let sun = Lamp { toward, intensity: irradiance / PI, ..bare.clone() };
        let bulb = Lamp { kind: LampKind::Point, position: at, intensity: power / PI, ..bare };
        [("sun", sun), ("point", bulb)]
    }
}

/// The bed rendered again with a lamp, whose shadows a foreign scene always has.
fn truth(bed: Bed, what: &str, lamp: &Lamp, shadows: bool) -> Option<Raster> {
    let place = match lamp.kind {
        LampKind::Directional => LampPlace::Directional(lamp.toward),
        _ => LampPlace::Point(lamp.position),
    };
    let added = AddedLamp { place, power: [lamp.intensity * PI; 3], shadows, size: 0.0 };
    match settings(bed) {
        Some(s) => Some(render(&Settings { added: vec![added], ..s }).beauty),
        None => match bed {
            Bed::Foreign(name) => shadows.then(|| foreign::truth(name, what)),
            _ => None,
        },
    }
}

fn settings(bed: Bed) -> Option<Settings> {
    bed.settings(SIZE, SAMPLES)
}

/// Differences beyond this, dB, are less than a code of eight bits.
const SAME: f64 = 50.0;

/// Shares of a lamp's light that fall where in truth there is shadow, and that are kept from where in truth there is
/// none: of pictures with the lamp without and with shadows, the truth and ours.
fn wrongly_seen(truth: [&Raster; 2], ours: [&Raster; 2], before: &Raster) -> [f64; 2] {
    let light =
        |p: &Raster, i: usize| (0..3).map(|c| f64::from(p.plane(c)[i] - before.plane(c)[i])).sum::<f64>();
    let seen = |[open, shaded]: [&Raster; 2], i: usize| (light(shaded, i) / light(open, i)).clamp(0.0, 1.0);
    let (mut all, mut wrong) = (0.0, [0.0; 2]);
    for i in 0..before.window().area() {
        let weight = light(truth[0], i);
        // Where either has next to no light there is nothing to tell.
        if weight < 1e-3 || light(ours[0], i) < 1e-3 {
            continue;
        }
        let too_much = seen(ours, i) - seen(truth, i);
        all += weight;
        wrong[0] += weight * too_much.max(0.0);
        wrong[1] += weight * (-too_much).max(0.0);
    }
    wrong.map(|w| w / all.max(f64::MIN_POSITIVE))
}

/// A closed room whose walls behind the camera keep the sun out: no pass tells of them, so the truth has no light that
/// could be compared.
const KEPT_OUT: [(Bed, &str); 1] = [(Bed::Foreign("shelf"), "sun")];

#[test]
fn a_lamp_comes_closer_to_the_truth_in_every_bed() {
    let mut worst = [f64::INFINITY; 3];
    let (mut gains, mut wrong) = (Vec::new(), Vec::new());
    for bed in Bed::all() {
        let bench = Bench::new(bed);
        let finishes = bench.finishes();
        for (what, lamp) in bench.lamps(bed) {
            // One finish for everything, which has a little varnish.
            let varnish = |shadows| Relight { specular: 0.04, ..Lamp { shadows, ..lamp.clone() }.into() };
            let relight = |shadows| StepKind::Relight(varnish(shadows));
            let [open, shaded] = [false, true].map(|s| bench.with(relight(s)));
            // Nothing shines but what was told to.
            let [matt, finished] = [Vec::new(), finishes.clone()].map(|finishes| {
                bench.with(StepKind::Relight(Relight { specular: 0.0, finishes, ..varnish(true) }))
            });
            let before = &bench.passes.beauty;
            let full = truth(bed, what, &lamp, true).unwrap();
            let [nothing, without, with] = [before, &open, &shaded].map(|p| bench.psnr(p, &full));
            let [matt, finished] = [&matt, &finished].map(|p| bench.psnr(p, &full));
            print!("{bed}, {what}: untouched {nothing:.2}, relit {without:.2}, with shadows {with:.2}, ");
            print!("all matt {matt:.2}, with finishes {finished:.2} dB");
            if !KEPT_OUT.contains(&(bed, what)) {
                gains.push([finished - matt, finished - with]);
            }
            if !KEPT_OUT.contains(&(bed, what)) {
                worst[0] = worst[0].min(with - nothing);
            }
            worst[1] = worst[1].min(with.min(SAME) - without.min(SAME));
            if let Some(free) = truth(bed, what, &lamp, false) {
                let share = wrongly_seen([&free, &full], [&open, &shaded], before);
                print!("; falsely lit {:.2} %, falsely dark {:.2} %", share[0] * 100.0, share[1] * 100.0);
                wrong.push(share);
                let [nothing, relit] = [before, &open].map(|p| bench.psnr(p, &free));
                print!("; truth without shadows: untouched {nothing:.2}, relit {relit:.2} dB");
                worst[2] = worst[2].min(relit - nothing);
            }
            println!();
        }
    }
    let [over_matt, over_varnish] = [0, 1].map(|k| {
        let mut all: Vec<f64> = gains.iter().map(|g: &[f64; 2]| g[k]).collect();
        all.sort_unstable_by(f64::total_cmp);
        println!("gains of finishes over one for all, {}: {all:.2?}", ["matt", "varnished"][k]);
        [all[0], all[all.len() / 2]]
    });
    println!(
        "worst gains: with shadows {:.2}, of shadows {:.2}, without any {:.2} dB",
        worst[0], worst[1], worst[2]
    );
    let [lit, dark] = [0, 1].map(|k| {
        let mut all: Vec<f64> = wrong.iter().map(|w: &[f64; 2]| w[k] * 100.0).collect();
        all.sort_unstable_by(f64::total_cmp);
        println!("falsely {}, % of a lamp's light: {all:.2?}", ["lit", "dark"][k]);
        [all[all.len() / 2], all[all.len() - 1]]
    });
    assert!(over_matt[0] > -0.4 && over_matt[1] > 0.2 && over_varnish[0] > -0.8 && over_varnish[1] > 0.5);
    assert!(worst[0] > 1.2 && worst[1] > -0.15 && worst[2] > 2.0, "{worst:?}");
    assert!(lit[0] < 2.6 && lit[1] < 5.4 && dark[0] < 0.9 && dark[1] < 7.5, "{lit:?}, {dark:?}");
}

#[test]
fn light_from_all_around_comes_closer_to_the_truth_in_every_bed() {
    let mut worst = [f64::INFINITY; 3];
    for bed in Bed::all() {
        let Some(settings) = settings(bed) else { continue };
        let bench = Bench::new(bed);
        let truth = render(&Settings { around: Some(AROUND), ..settings }).beauty;
        let picture = MediaFile { name: "around.exr".into(), media: MediaId::of(&lat_long()) };
        let usual = Surround {
            from: SurroundFrom::Picture,
            picture: Some(picture),
            intensity: 1.0,
            // The stand-in looks for what hides the light within 2.5 of its own units.
            reach: 2.5 * bench.passes.unit,
            ..Surround::default()
        };
        let told = Surround { specular: 0.0, finishes: bench.finishes(), ..usual.clone() };
        let with = |usual: &Surround, occlusion| {
            bench.with(StepKind::Surround(Surround { occlusion, ..usual.clone() }))
        };
        let [open, hidden, finished] = [with(&usual, 0.0), with(&usual, 1.0), with(&told, 1.0)];
        let [nothing, open, hidden, finished] =
            [&bench.passes.beauty, &open, &hidden, &finished].map(|p| bench.psnr(p, &truth));
        print!(
            "{bed}, around: untouched {nothing:.2}, one finish for everything: nothing hidden {open:.2}, "
        );
        println!("hidden {hidden:.2}, with finishes {finished:.2} dB");
        worst =
            [worst[0].min(hidden - nothing), worst[1].min(hidden - open), worst[2].min(finished - nothing)];
    }
    println!(
        "worst gains: {:.2}, of what is hidden {:.2}, with finishes {:.2} dB",
        worst[0], worst[1], worst[2]
    );
    assert!(worst[2] > 3.1 && worst[1] > -0.65, "{worst:?}");
}

/// 1 where two surfaces meet within a px, by the depth and the normals of a bed; 0 elsewhere.
fn rims(passes: &Passes) -> Raster {
    let (z, n) = (&passes.depth, &passes.normal);
    let meets = |[x, y, u, v]: [i32; 4]| {
        let (Some(a), Some(b)) = (z.sample(0, x, y), z.sample(0, u, v)) else { return false };
        if !a.is_finite() || !b.is_finite() {
            return a.is_finite() != b.is_finite();
        }
        let normal = |x, y| Vec3::from_array(std::array::from_fn(|c| n.sample(c, x, y).unwrap()));
        (a - b).abs() > 0.02 * a.max(b) || normal(x, y).dot(normal(u, v)) < 0.75
    };
    Raster::from_fn(z.window(), 1, |_, x, y| {
        let around = (y - 1..=y + 1).flat_map(|v| (x - 1..=x + 1).map(move |u| (u, v)));
        f32::from(around.flat_map(|(u, v)| [[u, v, u + 1, v], [u, v, u, v + 1]]).any(meets))
    })
}

/// Lambert's light as the passes have it, pixel by pixel, without shadows: the plain way.
fn plain(passes: &Passes, lamp: &Lamp) -> Raster {
    let Passes { beauty, normal, position, albedo, .. } = passes;
    Raster::from_fn(beauty.window(), 4, |c, x, y| {
        let at = |r: &Raster| Vec3::from_array(std::array::from_fn(|c| r.sample(c, x, y).unwrap()));
        let before = beauty.sample(c, x, y).unwrap();
        if c == 3 {
            return before;
        }
        let (toward, falls) = match lamp.kind {
            LampKind::Directional => (Vec3::from_array(lamp.toward), 1.0),
            _ => {
                let way = Vec3::from_array(lamp.position) - at(position);
                (way.normalize(), way.length_squared().recip())
            }
        };
        let light = at(albedo)[c] * at(normal).dot(toward).max(0.0) * lamp.intensity * falls;
        before + if light.is_finite() { light } else { 0.0 }
    })
}

#[test]
fn light_ends_where_the_picture_does() {
    let (mut gains, mut finished) = (Vec::new(), Vec::new());
    for bed in Bed::all() {
        let bench = Bench::new(bed);
        let (rim, finishes) = (rims(&bench.passes), bench.finishes());
        for (what, lamp) in bench.lamps(bed) {
            if KEPT_OUT.contains(&(bed, what)) {
                continue;
            }
            // A foreign scene has shadows in any case.
            let shadows = settings(bed).is_none();
            let truth = truth(bed, what, &lamp, shadows).unwrap();
            let plain = plain(&bench.passes, &lamp);
            let matt = Relight { specular: 0.0, ..Lamp { shadows, ..lamp }.into() };
            let told = Relight { finishes: finishes.clone(), ..matt.clone() };
            let psnr = |p: &Raster| difference(p, &truth, Some(&rim)).unwrap().psnr;
            let [untouched, plain] = [&bench.passes.beauty, &plain].map(psnr);
            let [matt, told] = [matt, told].map(|r| psnr(&bench.with(StepKind::Relight(r))));
            print!("{bed}, {what}, at edges: untouched {untouched:.2}, plain {plain:.2}, ");
            println!("all matt {matt:.2}, with finishes {told:.2} dB");
            gains.push(matt - plain);
            finished.push(told - plain);
        }
    }
    let [matt, finished] = [gains, finished].map(|mut all| {
        all.sort_unstable_by(f64::total_cmp);
        println!("gains over the plain way at edges: {all:.2?}");
        [all[0], all[all.len() / 2]]
    });
    assert!(matt[0] > -0.1 && matt[1] > 1.0, "{matt:?}");
    assert!(finished[0] > 0.2 && finished[1] > 3.0, "{finished:?}");
}
