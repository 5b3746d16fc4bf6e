//! Refocus against the truth: the orrery seen through a real lens (its opening sampled 256 times a pixel).
//!
//! Measured against doing nothing and against the plain gather, which gives each pixel the mean of a disc as
//! large as its own circle. The figures are in docs/FIDELITY.md; the floors here lie a little under them. Run with
//! `--nocapture` to see what is reached.
#![allow(clippy::unwrap_used)]

use jugata_core::compare::difference;
use jugata_core::focus::{Boost, Focus, Law, refocus};
use jugata_core::iris::Iris;
use jugata_core::{Cancel, Raster};
use jugata_standin::{Passes, Settings, ThinLens, render};
use std::sync::LazyLock;

const SIZE: Settings = Settings::sized(384, 216, 4);

static PINHOLE: LazyLock<Passes> = LazyLock::new(|| render(&SIZE));

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

struct Figures {
    whole: f64,
    edges: f64,
    whole_plain: f64,
    edges_plain: f64,
}

fn measured(lens: ThinLens) -> Figures {
    let p = &*PINHOLE;
    let truth = render(&Settings { samples: 16, lens: Some(lens), ..SIZE }).beauty;
    let law = Law::thin_lens(lens.radius, p.camera.focal, lens.focus, 150.0);
    let iris = Iris { blades: lens.blades, ..Iris::default() };
    let focus = Focus { law, iris, boost: Boost::default(), rim: 1 };
    let radii = law.radii(&p.depth, &Cancel::new()).unwrap();
    let out = refocus(&p.beauty, &p.depth, &focus, &Cancel::new()).unwrap();
    let gathered = plain(&p.beauty, &radii);
    let edges = band(&radii);
    let psnr = |r: &Raster, part: Option<&Raster>| difference(r, &truth, part).unwrap().psnr;
    let f = Figures {
        whole: psnr(&out, None),
        edges: psnr(&out, Some(&edges)),
        whole_plain: psnr(&gathered, None),
        edges_plain: psnr(&gathered, Some(&edges)),
    };
    println!(
        "focus {:.1}, {} blades, largest circle {:.0} px: whole {:.2} dB (plain {:.2}, nothing {:.2}), edges {:.2} dB (plain {:.2}, nothing {:.2}; {:.0} % of the picture)",
        lens.focus,
        lens.blades,
        2.0 * radii.data().iter().fold(0.0f32, |a, v| a.max(v.abs())),
        f.whole,
        f.whole_plain,
        psnr(&p.beauty, None),
        f.edges,
        f.edges_plain,
        psnr(&p.beauty, Some(&edges)),
        100.0 * edges.data().iter().sum::<f32>() / edges.data().len() as f32,
    );
    if let Some(folder) = std::env::var_os("JUGATA_PICTURES") {
        let folder = std::path::PathBuf::from(folder);
        for (name, r) in [("ours", &out), ("plain", &gathered), ("truth", &truth)] {
            let png = jugata_exchange::png_write::rgba16(r).unwrap();
            std::fs::write(folder.join(format!("focus_{:.0}_{}_{name}.png", lens.focus, lens.blades)), png)
                .unwrap();
        }
    }
    f
}

#[test]
fn refocus_comes_close_to_a_lens() {
    for lens in [
        ThinLens { radius: 0.15, focus: 5.0, blades: 0 },
        ThinLens { radius: 0.15, focus: 7.0, blades: 5 },
        ThinLens { radius: 0.15, focus: 9.0, blades: 0 },
    ] {
        let f = measured(lens);
        assert!(f.whole > f.whole_plain + 3.0, "{} {}", f.whole, f.whole_plain);
        assert!(f.edges > f.edges_plain + 4.0, "{} {}", f.edges, f.edges_plain);
    }
}
