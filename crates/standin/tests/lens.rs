//! Refocus against the truth: every test bed seen through a real lens (its opening sampled many times a pixel).
//!
//! Measured against doing nothing and against the plain gather, which gives each pixel the mean of a disc as
//! large as its own circle. The figures are in docs/FIDELITY.md; the floors here lie a little under them. Run with
//! `--nocapture` to see what is reached.
#![allow(clippy::unwrap_used)]

use jugata_core::focus::iris::Iris;
use jugata_core::focus::{Boost, Focus, Law, refocus};
use jugata_core::show::compare::difference;
use jugata_core::{Cancel, Raster};
use jugata_standin::{Passes, Settings, ThinLens, render};
use jugata_testkit::beds::Bed;

/// The mean of a disc round each pixel, as large as the pixel's own circle: no care for who hides whom.
fn plain(picture: &Raster, radii: &Raster) -> Raster {
    let w = picture.window();
    let (right, bottom) = (w.width as i32 - 1, w.height as i32 - 1);
    let mut out = Raster::zeros(w, 4);
    for y in w.rows() {
        for x in 0..=right {
            let r = radii.sample(0, x, y).unwrap().abs().max(0.5);
            let n = r.ceil() as i32;
            let (mut sum, mut count) = ([0.0; 4], 0.0);
            for dy in -n..=n {
                for dx in -n..=n {
                    if (dx * dx + dy * dy) as f32 <= r * r {
                        let (sx, sy) = ((x + dx).clamp(0, right), (y + dy).clamp(0, bottom));
                        (0..4).for_each(|c| sum[c] += picture.sample(c, sx, sy).unwrap());
                        count += 1.0;
                    }
                }
            }
            (0..4).for_each(|c| out.row_mut(c, y)[x as usize] = sum[c] / count);
        }
    }
    out
}

/// Pixels within two circles (the larger of both sides) of a jump in depth, and no farther than 40 px.
fn band(radii: &Raster) -> Raster {
    let w = radii.window();
    let at = |x: i32, y: i32| radii.sample(0, x, y);
    let mut out = Raster::zeros(w, 1);
    for y in w.rows() {
        for x in 0..w.width as i32 {
            let here = at(x, y).unwrap();
            for (qx, qy) in [(x + 1, y), (x, y + 1)] {
                let Some(there) = at(qx, qy).filter(|t| (t - here).abs() > 1.0) else { continue };
                let n = (2.0 * here.abs().max(there.abs())).ceil().min(40.0) as i32;
                for by in (y - n).max(0)..(y + n + 1).min(w.height as i32) {
                    let (from, to) = ((x - n).max(0), (x + n + 1).min(w.width as i32));
                    out.row_mut(0, by)[from as usize..to as usize].fill(1.0);
                }
            }
        }
    }
    out
}

/// The insides of bodies: farther from a jump in depth than the plain gather reaches, and in focus or not. Where
/// nothing is near, no refocus has an excuse.
fn inside(radii: &Raster, edges: &Raster) -> Raster {
    let mut out = edges.clone();
    out.plane_mut(0)
        .iter_mut()
        .zip(radii.plane(0))
        .for_each(|(v, r)| *v = f32::from(u8::from(*v == 0.0 && r.is_finite())));
    out
}

/// Above this neither can be called worse, dB: the r.m.s. error is below a code of eight bits, and what is left is grain.
const ALIKE: f64 = 50.0;

/// PSNR of a part of the picture.
#[derive(Clone, Copy, Debug)]
struct Figure {
    nothing: f64,
    plain: f64,
    ours: f64,
}

impl Figure {
    fn gain(&self) -> f64 {
        self.ours - self.plain
    }

    /// The same, with what is alike to the eye taken as alike.
    fn visible_gain(&self) -> f64 {
        self.ours.min(ALIKE) - self.plain.min(ALIKE)
    }
}

struct Figures {
    whole: Figure,
    edges: Figure,
    inside: Option<Figure>,
}

fn measured(name: &str, p: &Passes, lens: ThinLens, truth: &Raster) -> Figures {
    let law = Law::thin_lens(lens.radius, p.camera.focal, lens.focus, 150.0);
    let iris = Iris { blades: lens.blades, ..Iris::default() };
    let focus = Focus { law, iris, boost: Boost::default(), rim: 1 };
    let radii = law.radii(&p.depth, &Cancel::new()).unwrap();
    let out = refocus(&p.beauty, &p.depth, &focus, &[], &Cancel::new()).unwrap();
    let gathered = plain(&p.beauty, &radii);
    let edges = band(&radii);
    let inner = inside(&radii, &edges);
    let figure = |part: Option<&Raster>| {
        let psnr = |r: &Raster| difference(r, truth, part).unwrap().psnr.min(60.0);
        Figure { nothing: psnr(&p.beauty), plain: psnr(&gathered), ours: psnr(&out) }
    };
    let covered = |r: &Raster| r.data().iter().sum::<f32>() / r.data().len() as f32;
    let f = Figures {
        whole: figure(None),
        edges: figure(Some(&edges)),
        inside: (covered(&inner) > 0.02).then(|| figure(Some(&inner))),
    };
    let show = |f: &Figure| format!("{:.2} (plain {:.2}, nothing {:.2})", f.ours, f.plain, f.nothing);
    println!(
        "{name}, focus {:.3}, {} blades, largest circle {:.0} px: whole {}, edges {} ({:.0} % of it), inside {}",
        lens.focus,
        lens.blades,
        2.0 * radii.data().iter().fold(0.0f32, |a, v| a.max(v.abs())),
        show(&f.whole),
        show(&f.edges),
        100.0 * covered(&edges),
        f.inside.as_ref().map_or("none".into(), show),
    );
    if let Some(folder) = std::env::var_os("JUGATA_PICTURES") {
        let folder = std::path::PathBuf::from(folder);
        for (kind, r) in [("ours", &out), ("plain", &gathered), ("truth", truth)] {
            let png = jugata_exchange::png_write::rgba16(r).unwrap();
            let place = folder.join(format!("focus_{}_{:.3}_{kind}.png", name.replace(' ', ""), lens.focus));
            std::fs::write(place, png).unwrap();
        }
    }
    f
}

/// The orrery through three lenses, larger than the other beds and with more samples.
fn orrery() -> Vec<Figures> {
    let size = Settings::sized(384, 216, 4);
    let p = render(&size);
    [(5.0, 0), (7.0, 5), (9.0, 0)]
        .into_iter()
        .map(|(focus, blades)| {
            let lens = ThinLens { radius: 0.15, focus, blades };
            let truth = render(&Settings { samples: 16, lens: Some(lens), ..size.clone() }).beauty;
            measured("orrery", &p, lens, &truth)
        })
        .collect()
}

/// Every test bed but the orrery, each through two lenses.
fn others() -> Vec<Figures> {
    let beds = Bed::all().into_iter().filter(|b| *b != Bed::Orrery);
    beds.flat_map(|bed| {
        let p = bed.passes((208, 117), 8, 0);
        let seen = bed.through_lenses(&p, 12);
        seen.into_iter().map(|(lens, truth)| measured(&bed.to_string(), &p, lens, &truth)).collect::<Vec<_>>()
    })
    .collect()
}

fn worst(all: &[Figures], of: impl Fn(&Figures) -> Option<f64>) -> f64 {
    all.iter().filter_map(of).fold(f64::INFINITY, f64::min)
}

#[track_caller]
fn held(all: &[Figures]) {
    let whole = worst(all, |f| Some(f.whole.gain()));
    let edges = worst(all, |f| Some(f.edges.gain()));
    let inside = worst(all, |f| f.inside.map(|f| f.visible_gain()));
    println!("worst gains: whole {whole:.2}, edges {edges:.2}, inside {inside:.2} dB");
    // A tenth of a decibel is what the grain of the truth moves.
    assert!(whole > 3.0 && edges > 4.0 && inside > -0.1);
}

#[test]
fn refocus_comes_close_to_a_lens_on_the_orrery() {
    held(&orrery());
}

#[test]
fn refocus_comes_close_to_a_lens_in_rooms_that_nobody_here_made() {
    held(&others());
}
