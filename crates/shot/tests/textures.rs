//! Re-texture against the truth: objects of the orrery and of random rooms with a poster on them, rendered again by the
//! stand-in. Figures are printed (`--nocapture`); the floors hold for the worst.
#![allow(clippy::unwrap_used)]

use crate::files::{Files, picture_file};
use glam::Vec2;
use jugata_core::matte::hashed;
use jugata_core::show::compare::difference;
use jugata_core::texture::pyramid::Beyond;
use jugata_core::{Raster, Scale, Window};
use jugata_exchange::{Limits, exr_read};
use jugata_shot::document::{MediaId, NamedMatte, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::files::MediaFile;
use jugata_shot::intake;
use jugata_shot::limit::Limit;
use jugata_shot::parts::{HashedName, HashedNames, HashedPart, ObjectsPart, PartKind};
use jugata_shot::steps::{LitBy, Retexture};
use jugata_shot::texture::TextureFrom;
use jugata_standin::material::Paint;
use jugata_standin::{Passes, Settings, export, render};
use jugata_testkit::beds::{Bed, ROOMS};
use jugata_testkit::foreign;

const SIZE: (u32, u32) = (320, 180);
const SAMPLES: u32 = 4;

/// The poster as a picture of its own.
fn poster() -> Vec<u8> {
    let side = 1536u32;
    let fine = 3;
    let picture = Raster::from_fn(Window::of_size(side, side), 4, |c, x, y| {
        if c == 3 {
            return 1.0;
        }
        let mut sum = 0.0;
        for s in 0..fine * fine {
            let at = Vec2::new((s % fine) as f32 + 0.5, (s / fine) as f32 + 0.5) / fine as f32;
            let uv = (Vec2::new(x as f32, y as f32) + at) / side as f32;
            sum += Paint::Poster.colour(Vec2::new(uv.x, 1.0 - uv.y))[c];
        }
        sum / (fine * fine) as f32
    });
    picture_file(&picture)
}

struct Bench {
    before: Passes,
    shot: Shot,
    engine: Engine,
    poster: MediaFile,
}

impl Bench {
    fn of(before: Passes, poster: &[u8]) -> Self {
        let bytes = export::plain(&before).unwrap();
        let file = exr_read::read(&bytes, &Limits::default()).unwrap();
        let shot = intake::shot_of(&file, "bed.exr", MediaId::of(&bytes));
        let files = Files(vec![bytes, poster.to_vec()]);
        let engine = Engine::new(Box::new(files), Limits::default(), CacheSizes::default());
        let poster = MediaFile { name: "poster.exr".into(), media: MediaId::of(poster) };
        Self { before, shot, engine, poster }
    }

    /// The picture with the poster on what a matte says, which is chosen for the step or limits it.
    fn with(&self, by: PartKind, lit: LitBy, chosen: bool) -> Raster {
        let mut shot = self.shot.clone();
        let element = &mut shot.elements[0];
        let step = Retexture {
            from: TextureFrom::Picture,
            picture: Some(self.poster.clone()),
            on: chosen.then_some(1),
            beyond: Beyond::Tiles,
            lit,
            ..Retexture::default()
        };
        let mut step = Step::new(1, step.into());
        if chosen {
            element.mattes.push(NamedMatte { id: 1, name: "Object".into(), matte: Limit::of(by) });
        } else {
            step.only_where = Some(Limit::of(by));
        }
        element.steps = vec![step];
        let request = Request::frame(&shot, Target::Shot, Scale::FULL);
        self.engine.evaluate(&shot, &request).unwrap().raster.as_ref().clone()
    }

    /// The plain way: the picture ÷ albedo times the texture at the pixel's UV, read between four texels, where the matte is.
    fn naive(&self, cover: &Raster, poster: &Raster) -> Raster {
        let p = &self.before;
        let (w, h) = (poster.window().width as f32, poster.window().height as f32);
        let read = |c: usize, u: f32, v: f32| {
            let (x, y) = (u * w - 0.5, (1.0 - v) * h - 0.5);
            let (fx, fy) = (x - x.floor(), y - y.floor());
            let at = |i: f32, j: f32| {
                let (i, j) = (i.rem_euclid(w) as i32, j.rem_euclid(h) as i32);
                poster.sample(c, i, j).unwrap_or(0.0)
            };
            let top = at(x.floor(), y.floor()) * (1.0 - fx) + at(x.floor() + 1.0, y.floor()) * fx;
            let bottom =
                at(x.floor(), y.floor() + 1.0) * (1.0 - fx) + at(x.floor() + 1.0, y.floor() + 1.0) * fx;
            top * (1.0 - fy) + bottom * fy
        };
        Raster::from_fn(p.beauty.window(), 4, |c, x, y| {
            let old = p.beauty.sample(c, x, y).unwrap();
            let k = cover.sample(0, x, y).unwrap();
            if c == 3 || k == 0.0 {
                return old;
            }
            let albedo = p.albedo.sample(c, x, y).unwrap().max(1e-3);
            let t = read(c, p.uv.sample(0, x, y).unwrap(), p.uv.sample(1, x, y).unwrap());
            old + k * (old / albedo * t - old)
        })
    }

    fn cover(&self, id: usize) -> Raster {
        hashed::matte(&self.before.hashed, &[hashed::id_of(&self.before.names[id - 1])]).unwrap()
    }
}

/// PSNR over what an object covers, dB.
fn psnr(a: &Raster, b: &Raster, cover: &Raster) -> f64 {
    difference(a, b, Some(cover)).unwrap().psnr
}

/// Objects that are large enough, have a diffuse colour, and are no metal.
fn objects(p: &Passes) -> Vec<usize> {
    let mut found: Vec<(usize, usize)> = (1..=p.names.len())
        .map(|id| {
            let is = |i: &usize| p.id.plane(0)[*i] == id as f32;
            let area = (0..p.id.window().area()).filter(is).count();
            let dark = (0..p.id.window().area())
                .filter(is)
                .filter(|&i| (0..3).all(|c| p.albedo.plane(c)[i] < 0.01))
                .count();
            (if dark * 10 > area { 0 } else { area }, id)
        })
        .filter(|(area, _)| *area > 400)
        .collect();
    found.sort_unstable_by(|a, b| b.cmp(a));
    found.into_iter().take(4).map(|(_, id)| id).collect()
}

#[test]
fn another_texture_comes_close_to_the_truth() {
    let (bytes, mut all) = (poster(), Vec::new());
    let texture = exr_read::read(&bytes, &Limits::default()).unwrap();
    let names = ["R", "G", "B", "A"].map(String::from);
    let texture = texture.parts[0].raster(&names).unwrap();
    let beds = match std::env::var("JUGATA_SEEDS") {
        Ok(_) => Bed::all(),
        Err(_) => std::iter::once(Bed::Orrery).chain(ROOMS.map(Bed::Room)).collect(),
    };
    for bed in beds {
        let Some(settings) = bed.settings(SIZE, SAMPLES) else { continue };
        let settings = Settings { diffuse: true, ..settings };
        let bench = Bench::of(render(&settings), &bytes);
        for id in objects(&bench.before) {
            let truth =
                render(&Settings { repaint: Some((id as u32, Paint::Poster)), ..settings.clone() }).beauty;
            let (name, cover) = (bench.before.names[id - 1].clone(), bench.cover(id));
            let by = || {
                PartKind::from(HashedPart {
                    ids: HashedNames(vec![HashedName { id: hashed::id_of(&name), name: name.clone() }]),
                })
            };
            let [by_diffuse, by_albedo] = [LitBy::Best, LitBy::Albedo].map(|lit| bench.with(by(), lit, true));
            // Limited by the same matte it comes to the same.
            let limited = psnr(&bench.with(by(), LitBy::Best, false), &by_diffuse, &cover);
            assert!(limited > 50.0, "{bed}, {name}: {limited} dB");
            let naive = bench.naive(&cover, &texture);
            let [before, naive, by_albedo, by_diffuse] =
                [&bench.before.beauty, &naive, &by_albedo, &by_diffuse].map(|p| psnr(p, &truth, &cover));
            println!(
                "{bed}, {name}: untouched {before:.2}, plain way {naive:.2}, albedo {by_albedo:.2}, diffuse {by_diffuse:.2} dB"
            );
            all.push([by_albedo, by_diffuse, by_albedo - naive, by_diffuse - naive]);
        }
    }
    let worst = all.iter().fold([f64::INFINITY; 4], |w, v| std::array::from_fn(|i| w[i].min(v[i])));
    let median: [f64; 4] = std::array::from_fn(|i| {
        let mut of: Vec<f64> = all.iter().map(|v| v[i]).collect();
        of.sort_unstable_by(f64::total_cmp);
        of[of.len() / 2]
    });
    println!("{} objects: worst {worst:.2?}, median {median:.2?}", all.len());
    assert!(all.len() > 30);
    // Worst is what is thinner than a pixel and a half, and dark gloss without a diffuse pass.
    assert!(worst[0] > 16.5 && worst[1] > 17.5, "{worst:?}");
    assert!(worst[2] > -2.0 && worst[3] > -2.0, "{worst:?}");
    assert!(median[0] > 30.5 && median[1] > 31.5 && median[2] > 8.4 && median[3] > 9.8, "{median:?}");
}

/// A foreign path tracer with a poster on one object: no diffuse pass, no hashed IDs, mattes by number.
#[test]
fn another_texture_comes_close_to_the_truth_of_a_foreign_renderer() {
    let texture = foreign::poster();
    let bytes = picture_file(&texture);
    let mut worst = [f64::INFINITY; 2];
    for posted in foreign::posted() {
        let (id, object) = (posted.id, &posted.object);
        let scene = foreign::SCENES.into_iter().find(|s| **s == posted.scene).unwrap();
        let bench = Bench::of(foreign::passes(scene), &bytes);
        let truth = posted.truth();
        let ids = &bench.before.id;
        let is = |x: i32, y: i32| f32::from(u8::from(ids.sample(0, x, y) == Some(id as f32)));
        let cover = Raster::from_fn(ids.window(), 1, |_, x, y| is(x, y));
        let made = bench.with(PartKind::from(ObjectsPart { ids: vec![id] }), LitBy::Best, true);
        let naive = bench.naive(&cover, &texture);
        let [before, naive, made] = [&bench.before.beauty, &naive, &made].map(|p| psnr(p, &truth, &cover));
        println!("{scene}, {object}: untouched {before:.2}, plain way {naive:.2}, re-textured {made:.2} dB");
        worst = [worst[0].min(made), worst[1].min(made - naive)];
    }
    println!("worst: {worst:.2?}");
    assert!(worst[0] > 23.5 && worst[1] > 1.0, "{worst:?}");
}
