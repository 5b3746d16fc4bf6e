//! Bevelled letters against a renderer of their own: outlines raised by a profile, each pixel the mean of many places,
//! whose distance to the outline is searched for among all its pieces. *Bevel* + *Relight* and *Gloss* see the drawn letters
//! alone. Figures are in docs/FIDELITY.md; `--nocapture` tells each.
#![allow(clippy::unwrap_used)]

use glam::{Vec2, Vec3};
use jugata_core::matte::path::Stroke;
use jugata_core::relief::bevel::Profile;
use jugata_core::show::compare::difference;
use jugata_core::{Raster, Scale, Window};
use jugata_exchange::Limits;
use jugata_exchange::lettering::{Font, Setting, ShippedFont};
use jugata_shot::document::{Element, Extract, FORMAT, MediaId, Shot, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::extracts::{Bevel, BevelGives};
use jugata_shot::files::MediaFile;
use jugata_shot::lamp::Lamp;
use jugata_shot::made::{Lettering, LetteringFont};
use jugata_shot::steps::{AlbedoFrom, Gloss, Relight, StepKind, SurroundFrom};
use jugata_testkit::beds::every;
use rayon::prelude::*;
use std::f32::consts::{PI, TAU};
use std::sync::LazyLock;

use crate::files::{Files, picture_file};

const FRAME: Window = Window::of_size(260, 120);
/// Places along each side of a pixel.
const SIDE: usize = 8;
const COLOUR: [f32; 3] = [0.5, 0.35, 0.2];
const TOWARD: Vec3 = Vec3::new(-0.5, 0.6, 0.62);
/// What a white surface gains that faces the lamp.
const POWER: f32 = 2.0;

struct Title {
    text: &'static str,
    font: (LetteringFont, ShippedFont),
    size: f32,
    width: f32,
    profile: Profile,
}

const BLACK: (LetteringFont, ShippedFont) = (LetteringFont::ArchivoBlack, ShippedFont::ArchivoBlack);
const SERIF: (LetteringFont, ShippedFont) = (LetteringFont::Cinzel, ShippedFont::Cinzel);
const PEN: (LetteringFont, ShippedFont) = (LetteringFont::GreatVibes, ShippedFont::GreatVibes);

/// Bold letters; then a vertical lip and strokes that are six px wide in places; then a pen's, which are mostly ridge.
const TITLES: [Title; 8] = [
    Title { text: "RO8", font: BLACK, size: 110.0, width: 8.0, profile: Profile::Chamfer },
    Title { text: "RO8", font: BLACK, size: 110.0, width: 14.0, profile: Profile::Round },
    Title { text: "BQ", font: BLACK, size: 120.0, width: 10.0, profile: Profile::Cove },
    Title { text: "SA", font: SERIF, size: 150.0, width: 9.0, profile: Profile::Round },
    Title { text: "SAG", font: SERIF, size: 100.0, width: 6.0, profile: Profile::Round },
    Title { text: "SAG", font: SERIF, size: 100.0, width: 6.0, profile: Profile::Cove },
    Title { text: "Mery", font: PEN, size: 90.0, width: 3.0, profile: Profile::Chamfer },
    Title { text: "Mery", font: PEN, size: 90.0, width: 8.0, profile: Profile::Round },
];
/// Where the three groups of them begin and end.
const GROUPS: [std::ops::Range<usize>; 3] = [0..2, 2..6, 6..8];

/// Straight pieces of an outline, curves cut fine.
fn outlines(title: &Title) -> Outlines {
    let setting = Setting {
        size: title.size,
        later: 1.0,
        lines: Vec::new(),
        tracking: 0.0,
        leading: 1.2,
        align: Default::default(),
        arc: 0.0,
    };
    let font = Font::read(title.font.1.bytes()).unwrap();
    let middle = 0.5 * Vec2::new(FRAME.width as f32, FRAME.height as f32);
    let path = font.outlines(title.text, &setting).unwrap().mapped(|p| p + middle);
    let (mut all, mut at, mut start) = (Vec::new(), Vec2::ZERO, Vec2::ZERO);
    let to = |all: &mut Vec<[Vec2; 2]>, at: &mut Vec2, p: Vec2| {
        all.push([*at, p]);
        *at = p;
    };
    let cut = |k: i32| (1..=k).map(move |i| i as f32 / k as f32);
    for stroke in path.strokes {
        match stroke {
            Stroke::Move(p) => (at, start) = (p, p),
            Stroke::Line(p) => to(&mut all, &mut at, p),
            Stroke::Quad(a, p) => {
                let from = at;
                cut(16).for_each(|t| to(&mut all, &mut at, from.lerp(a, t).lerp(a.lerp(p, t), t)));
            }
            Stroke::Cubic(a, b, p) => {
                let from = at;
                cut(24).for_each(|t| {
                    let [u, v, w] = [from.lerp(a, t), a.lerp(b, t), b.lerp(p, t)];
                    to(&mut all, &mut at, u.lerp(v, t).lerp(v.lerp(w, t), t));
                });
            }
            Stroke::Close => {
                let end = start;
                to(&mut all, &mut at, end);
            }
        }
    }
    // Outlines that overlap: what lies inside on both sides is no edge of the letter.
    let short: Vec<[Vec2; 2]> = all.iter().flat_map(|piece| shortened(*piece)).collect();
    let seam = |[a, b]: &[Vec2; 2]| {
        let (middle, off) = ((*a + *b) / 2.0, (*b - *a).normalize_or_zero().perp() * 0.02);
        winding(&all, middle + off) != 0 && winding(&all, middle - off) != 0
    };
    let edges = short.into_iter().filter(|piece| !seam(piece)).collect();
    Outlines { all, edges }
}

/// A piece in parts of at most a px.
fn shortened([a, b]: [Vec2; 2]) -> Vec<[Vec2; 2]> {
    let count = a.distance(b).ceil().max(1.0);
    (0..count as i32)
        .map(|i| [i, i + 1].map(|i| a.lerp(b, i as f32 / count)))
        .filter(|[a, b]| a != b)
        .collect()
}

/// How often an outline goes round a place.
fn winding(pieces: &[[Vec2; 2]], p: Vec2) -> i32 {
    let one = |[a, b]: &[Vec2; 2]| {
        if (a.y <= p.y) == (b.y <= p.y) || a.x + (p.y - a.y) / (b.y - a.y) * (b.x - a.x) <= p.x {
            return 0;
        }
        if b.y > a.y { 1 } else { -1 }
    };
    pieces.iter().map(one).sum()
}

/// The outlines of a title, and those parts of them that are edges.
struct Outlines {
    all: Vec<[Vec2; 2]>,
    edges: Vec<[Vec2; 2]>,
}

/// The way from the foot of a place on an edge.
fn off([a, b]: &[Vec2; 2], p: Vec2) -> Vec2 {
    let way = *b - *a;
    p - (*a + way * ((p - *a).dot(way) / way.length_squared()).clamp(0.0, 1.0))
}

/// The way from the nearest place of an edge, for each place of a pixel that lies inside.
fn inside(of: &Outlines, corner: Vec2) -> Vec<Vec2> {
    let middle = corner + 0.5;
    let far = |e: &[Vec2; 2]| off(e, middle).length();
    let nearest = of.edges.iter().map(far).fold(f32::INFINITY, f32::min);
    // No place of the pixel is farther than 0.71 px from its middle.
    let near: Vec<&[Vec2; 2]> = of.edges.iter().filter(|e| far(e) <= nearest + 1.5).collect();
    let all_alike = (nearest > 0.8).then(|| winding(&of.all, middle) != 0);
    let one = |i: usize| {
        let p = corner + Vec2::new((i % SIDE) as f32 + 0.5, (i / SIDE) as f32 + 0.5) / SIDE as f32;
        if !all_alike.unwrap_or_else(|| winding(&of.all, p) != 0) {
            return None;
        }
        near.iter().map(|e| off(e, p)).min_by(|a, b| a.length_squared().total_cmp(&b.length_squared()))
    };
    (0..SIDE * SIDE).filter_map(one).collect()
}

/// Rise over the way in, by the profiles' closed forms (reference.md §11); the bevel is as high as it is wide.
fn rise(profile: Profile, t: f32) -> f32 {
    match profile {
        _ if t >= 1.0 => 0.0,
        Profile::Chamfer => 1.0,
        Profile::Round => (1.0 - t) / (1.0 - (1.0 - t).powi(2)).sqrt().max(1e-4),
        Profile::Cove => t / (1.0 - t * t).sqrt().max(1e-4),
        Profile::Drawn => 1.0,
        Profile::Step => f32::from(u8::from(t > 1.0 / 3.0 && t < 2.0 / 3.0)) * 3.0,
    }
}

/// Normals (x right, y up) at the places of each pixel that lie inside; its share of inside is how many they are.
type Seen = Vec<Vec<Vec3>>;

static SEEN: LazyLock<Vec<Seen>> = LazyLock::new(|| TITLES.iter().map(seen).collect());

fn seen(title: &Title) -> Seen {
    let outlines = outlines(title);
    let one = |at: usize| {
        let corner = Vec2::new((at % FRAME.width as usize) as f32, (at / FRAME.width as usize) as f32);
        let normal = |off: Vec2| {
            let slope = rise(title.profile, off.length() / title.width);
            let inward = off.normalize_or_zero();
            Vec3::new(-slope * inward.x, slope * inward.y, 1.0).normalize()
        };
        inside(&outlines, corner).into_iter().map(normal).collect()
    };
    (0..FRAME.area()).into_par_iter().map(one).collect()
}

/// The letters rendered: `shade` tells what is seen of a place by its normal.
fn rendered(seen: &Seen, shade: impl Fn(Vec3) -> Vec3 + Sync) -> Raster {
    let of = (SIDE * SIDE) as f32;
    let pixels: Vec<[f32; 4]> = seen
        .par_iter()
        .map(|normals| {
            let sum: Vec3 = normals.iter().map(|n| shade(*n)).sum();
            [sum.x / of, sum.y / of, sum.z / of, normals.len() as f32 / of]
        })
        .collect();
    let planes = (0..4).flat_map(|c| pixels.iter().map(move |p| p[c])).collect();
    Raster::from_planar(FRAME, 4, planes).unwrap()
}

/// The title with a bevel and one step.
fn ours(title: &Title, does: StepKind, files: Vec<Vec<u8>>) -> Raster {
    let letters = Lettering {
        text: title.text.into(),
        font: title.font.0,
        size: title.size,
        colour: COLOUR,
        ..Lettering::default()
    };
    let bevel = Bevel {
        gives: BevelGives::Normals,
        width: title.width,
        height: 1.0,
        profile: title.profile,
        soft: 0.0,
        ..Bevel::default()
    };
    let mut element = Element::made(1, "title".into(), letters.into());
    element.extracts =
        vec![Extract { id: 1001, name: "bevel".into(), serves: true, does: bevel.into(), reads: Vec::new() }];
    element.steps = vec![Step::new(1, does)];
    let shot = Shot {
        format: FORMAT,
        name: "titles".into(),
        display: FRAME,
        frames: None,
        rate: 24.0,
        elements: vec![element],
        drives: Vec::new(),
    };
    jugata_shot::check::check(&shot).unwrap();
    let engine = Engine::new(Box::new(Files(files)), Limits::default(), CacheSizes::default());
    engine.evaluate(&shot, &Request::frame(&shot, Target::Shot, Scale::FULL)).unwrap().raster.as_ref().clone()
}

/// PSNR over what the letters cover. With `JUGATA_CROPS` both pictures are written into that folder.
fn figure(name: &str, got: &Raster, truth: &Raster) -> f64 {
    if let Some(folder) = std::env::var_os("JUGATA_CROPS") {
        for (whose, r) in [("ours", got), ("truth", truth)] {
            let place = std::path::Path::new(&folder).join(format!("{name}_{whose}.png"));
            std::fs::write(place, jugata_exchange::png_write::rgba16(r).unwrap()).unwrap();
        }
    }
    let covered =
        Raster::from_planar(FRAME, 1, truth.plane(3).iter().map(|a| f32::from(u8::from(*a > 0.0))).collect());
    difference(got, truth, Some(&covered.unwrap())).unwrap().psnr
}

/// The worst figure of each group.
fn worst_over(what: &str, of: impl Fn(usize, &Title, &Seen) -> f64) -> [f64; 3] {
    let figures = TITLES.iter().zip(&*SEEN).enumerate().map(|(i, (t, seen))| {
        let figure = of(i, t, seen);
        println!("{what}, {} in {:?}, {:?} of {} px: {figure:.1} dB", t.text, t.font.1, t.profile, t.width);
        figure
    });
    let figures: Vec<f64> = figures.collect();
    GROUPS.map(|group| figures[group].iter().copied().fold(f64::INFINITY, f64::min))
}

#[test]
fn matt_letters_are_lit_as_if_they_were_solid() {
    let worst = worst_over("matt", |_, title, seen| {
        let light = TOWARD.normalize();
        let truth = rendered(seen, |n| Vec3::from(COLOUR) * (1.0 + POWER * n.dot(light).max(0.0)));
        let lamp = Lamp { toward: TOWARD.to_array(), intensity: POWER, shadows: false, ..Lamp::default() };
        let relight = Relight { albedo: AlbedoFrom::Picture, ..lamp.into() };
        figure(
            &format!("matt_{}_{:?}", title.text, title.profile),
            &ours(title, relight.into(), Vec::new()),
            &truth,
        )
    });
    // A pixel has one normal: where two slopes meet in it, what faces away takes from what is lit.
    assert!(worst[0] > 40.0 && worst[1] > 35.0 && worst[2] > 28.0, "{worst:?}");
}

/// What is all around: a sky that grows brighter upwards, a warm window to the left, a cool strip behind the viewer.
fn around(d: Vec3) -> Vec3 {
    let sky = 0.15 + 0.6 * (0.5 + 0.5 * d.y).powi(2);
    let toward = |c: Vec3, power: i32| d.dot(c.normalize()).max(0.0).powi(power);
    Vec3::splat(sky)
        + Vec3::new(2.0, 1.4, 0.8) * toward(Vec3::new(-0.8, 0.3, 0.5), 24)
        + Vec3::new(0.3, 0.5, 0.9) * toward(Vec3::new(0.2, -0.1, 1.0), 12)
}

/// The same as a lat-long picture, its middle straight ahead (−z).
fn environment() -> Vec<u8> {
    let size = Window::of_size(512, 256);
    let picture = Raster::from_fn(size, 4, |c, x, y| {
        let (turn, down) = (((x as f32 + 0.5) / 512.0 - 0.5) * TAU, (y as f32 + 0.5) / 256.0 * PI);
        let d = Vec3::new(down.sin() * turn.sin(), down.cos(), -down.sin() * turn.cos());
        if c == 3 { 1.0 } else { around(d)[c] }
    });
    picture_file(&picture)
}

/// What a surface of GGX's roughness mirrors, seen from the front, by half vectors drawn from its distribution (Walter et
/// al. 2007, equations 33 to 36 and 41); it mirrors everything.
fn mirrored(n: Vec3, roughness: f32) -> Vec3 {
    const DRAWN: usize = 6;
    let (alpha, v) = (roughness * roughness, Vec3::Z);
    let (side, up) = n.any_orthonormal_pair();
    let smith = |cos: f32| 2.0 / (1.0 + (1.0 + alpha * alpha * (1.0 - cos * cos) / (cos * cos)).sqrt());
    let mut sum = Vec3::ZERO;
    for i in 0..DRAWN * DRAWN {
        let (u, w) = (((i % DRAWN) as f32 + 0.5) / DRAWN as f32, ((i / DRAWN) as f32 + 0.5) / DRAWN as f32);
        let (tan, turn) = (alpha * (u / (1.0 - u)).sqrt(), TAU * w);
        let h = (n + tan * (turn.cos() * side + turn.sin() * up)).normalize();
        let l = 2.0 * v.dot(h) * h - v;
        let (nl, nv) = (n.dot(l), n.dot(v));
        if nl > 0.0 && nv > 0.0 {
            sum += around(l) * (v.dot(h) * smith(nl) * smith(nv) / (nv * n.dot(h)));
        }
    }
    sum / (DRAWN * DRAWN) as f32
}

#[test]
fn glossy_letters_mirror_what_is_all_around_them() {
    let file = environment();
    let picture = MediaFile { name: "around.exr".into(), media: MediaId::of(&file) };
    for (k, roughness) in [0.1, 0.4].into_iter().enumerate() {
        // Most places lie on a face, and all of these mirror the same.
        let face = mirrored(Vec3::Z, roughness);
        let mirrored = |n: Vec3| if n == Vec3::Z { face } else { mirrored(n, roughness) };
        let worst = worst_over(&format!("gloss, roughness {roughness}"), |i, title, seen| {
            // What is mirrored takes long to work out: each title in one of the two, if not all is asked for.
            if (i + k) % 2 == 1 && !every() {
                return f64::INFINITY;
            }
            let truth = rendered(seen, |n| Vec3::from(COLOUR) + 0.5 * mirrored(n));
            let gloss = Gloss {
                width: title.width,
                profile: title.profile,
                soft: 0.0,
                from: SurroundFrom::Picture,
                picture: Some(picture.clone()),
                intensity: 0.5,
                roughness,
                ..Gloss::default()
            };
            figure(
                &format!("gloss{roughness}_{}_{:?}", title.text, title.profile),
                &ours(title, gloss.into(), vec![file.clone()]),
                &truth,
            )
        });
        assert!(worst[0] > 35.0 && worst[1] > 31.0 && worst[2] > 28.0, "{worst:?}");
    }
}
