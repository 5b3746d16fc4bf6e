//! Lenses and coordinate maps against OpenCV's (fixtures/make_lens.py), and what holds for every chain of bends.
#![allow(clippy::unwrap_used)]

use glam::{DMat3, DVec2};
use jugata_core::geometry::chain::{Bend, Chain, Move};
use jugata_core::geometry::coordinate_map::CoordinateMap;
use jugata_core::geometry::field::Field;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::lattice::Lattice;
use jugata_core::geometry::lens::{Lens, Model};
use jugata_core::geometry::map_of::{MapOf, map_of};
use jugata_core::geometry::push::{Push, Smear, Warp};
use jugata_core::geometry::resample::{contrast_kept, filtered};
use jugata_core::geometry::straight::{Solves, straighten};
use jugata_core::{Cancel, Raster, Scale, Window};
use proptest::prelude::*;
use serde::Deserialize;
use std::sync::Arc;

#[derive(Deserialize)]
struct Fixture {
    size: [u32; 2],
    lenses: Vec<LensFixture>,
    remapped: Remapped,
}

#[derive(Deserialize)]
struct LensFixture {
    f: [f64; 2],
    c: [f64; 2],
    k: [f64; 3],
    p: [f64; 2],
    bent: Vec<[f64; 2]>,
    undistorted: Vec<[f64; 2]>,
    maps: Vec<(u32, u32, f64, f64)>,
    lines: Vec<Vec<[f64; 2]>>,
}

#[derive(Deserialize)]
struct Remapped {
    size: [u32; 2],
    picture: Vec<f32>,
    map: [Vec<f32>; 2],
    out: Vec<f32>,
}

fn fixture() -> Fixture {
    serde_json::from_str(include_str!("fixtures/lens.json")).unwrap()
}

/// OpenCV counts from the centre of the first pixel, we from its corner.
const HALF: DVec2 = DVec2::splat(0.5);

impl LensFixture {
    fn lens(&self) -> Lens {
        let model = Model::BrownConrady { k: self.k, p: self.p };
        Lens::new(model, DVec2::from(self.c) + HALF, DVec2::from(self.f))
    }
}

#[test]
fn points_are_straightened_as_opencv_straightens_them() {
    for l in fixture().lenses {
        let lens = l.lens();
        for (bent, want) in l.bent.iter().zip(&l.undistorted) {
            let got = lens.straightened(DVec2::from(*bent) + HALF).unwrap().0 - HALF;
            assert!((got - DVec2::from(*want)).length() < 1e-3, "{bent:?}: {got} {want:?}");
        }
        for (x, y, mx, my) in &l.maps {
            let place = DVec2::new(f64::from(*x), f64::from(*y)) + HALF;
            let got = lens.bent(place).unwrap().0 - HALF;
            // The library's map is a 32-bit float.
            assert!((got - DVec2::new(*mx, *my)).length() < 1e-3, "{x} {y}: {got} {mx} {my}");
        }
    }
}

#[test]
fn lines_that_opencv_bent_become_straight() {
    let f = fixture();
    for l in f.lenses.iter().filter(|l| l.p == [0.0; 2]) {
        let lines: Vec<Vec<DVec2>> =
            l.lines.iter().map(|line| line.iter().map(|p| DVec2::from(*p) + HALF).collect()).collect();
        let centre = DVec2::from(l.c) + HALF;
        let found = straighten(&lines, Solves::BrownConrady, centre, DVec2::from(l.f)).unwrap();
        let (got, want) = (Lens::new(found.model, centre, DVec2::from(l.f)), l.lens());
        let corner = DVec2::new(f.size[0].into(), f.size[1].into()) * 0.95;
        for place in [DVec2::splat(20.0), corner, DVec2::new(30.0, 300.0)] {
            let off = got.straightened(place).unwrap().0 - want.straightened(place).unwrap().0;
            assert!(off.length() < 0.25, "{place}: {off}; {found:?}");
        }
        assert!(found.residual[1] < 0.02, "{found:?}");
    }
}

fn map(chain: &Chain, frame: Window, window: Window) -> CoordinateMap {
    let st = map_of(chain, MapOf::Moves, frame, (window, Scale::FULL), &Cancel::new()).unwrap();
    CoordinateMap::new(Arc::new(st), frame).unwrap()
}

#[test]
fn a_map_of_opencv_gives_what_opencv_makes_of_it() {
    let r = fixture().remapped;
    let frame = Window::of_size(r.size[0], r.size[1]);
    let picture = Raster::from_planar(frame, 1, r.picture).unwrap();
    let (w, h) = (frame.width as f32, frame.height as f32);
    let s = r.map[0].iter().map(|x| (x + 0.5) / w);
    let t = r.map[1].iter().map(|y| 1.0 - (y + 0.5) / h);
    let st = Raster::from_planar(frame, 2, s.chain(t).collect()).unwrap();
    let chain = Chain::of([Move::Bend(Bend::Map(CoordinateMap::new(Arc::new(st), frame).unwrap()))]);
    let out = filtered(&picture, &chain.read_by(Kernel::Bilinear), frame, &Cancel::new()).unwrap();
    // 1/64 px, to which the library rounds, on a slope of 0.1 a px at most.
    let mut worst = 0.0f32;
    for (i, (got, want)) in out.plane(0).iter().zip(&r.out).enumerate() {
        let (x, y) = frame.pixel_at(i);
        if frame.contains(x - 4, y - 4) && frame.contains(x + 4, y + 4) {
            worst = worst.max((got - want).abs());
        }
    }
    assert!(worst < 0.1 / 64.0 * 2.0, "{worst}");
}

fn bends(frame: Window) -> Vec<Move> {
    let size = DVec2::new(frame.width.into(), frame.height.into());
    let lens = Lens::new(
        Model::BrownConrady { k: [-0.2, 0.05, 0.0], p: [0.002, -0.001] },
        size * 0.51,
        DVec2::splat(size.x * 0.6),
    );
    let push = Push {
        from: size * 0.4,
        to: size * DVec2::new(0.5, 0.45),
        size: size * DVec2::new(0.15, 0.2),
        lies: 0.3,
        turn: 0.4,
        scale: 1.2,
        softness: 1.0,
    };
    let path = vec![size * 0.6, size * DVec2::new(0.7, 0.62), size * DVec2::new(0.75, 0.7)];
    let smear = Smear { path, radius: size.x * 0.08, softness: 1.0, strength: 0.6 };
    let mut by = vec![DVec2::ZERO; 20];
    by[7] = size * DVec2::new(0.02, -0.03);
    let lattice = Lattice::new([DVec2::ZERO, size], 5, 4, by).unwrap();
    let turn =
        DMat3::from_translation(size * 0.5) * DMat3::from_angle(0.1) * DMat3::from_translation(-size * 0.5);
    vec![
        Move::Unbend(Bend::Lens(lens)),
        Move::Homography(turn),
        Move::Bend(Bend::Warp(Arc::new(Warp::new(vec![push], vec![smear])))),
        Move::Bend(Bend::Lattice(Arc::new(lattice))),
        Move::Bend(Bend::Lens(lens)),
    ]
}

#[test]
fn five_moves_in_one_are_the_five_one_after_the_other() {
    let frame = Window::of_size(480, 270);
    let moves = bends(frame);
    let whole = Chain::of(moves.clone());
    let (mut worst, mut worst_round, mut seen) = (0.0f64, 0.0f64, 0);
    for i in 0..2000 {
        let place = DVec2::new(f64::from(i % 50) * 9.7, f64::from(i / 50) * 6.7);
        let by_one = moves.iter().rev().try_fold(place, |p, m| Chain::of([m.clone()]).source(p));
        let (Some(one), Some(together)) = (by_one, whole.source(place)) else { continue };
        worst = worst.max((one - together).length());
        if let Some(there) = whole.forward(together) {
            worst_round = worst_round.max((there - place).length());
            seen += 1;
        }
    }
    assert!(seen > 1500 && worst < 1e-9 && worst_round < 0.01, "{seen} {worst} {worst_round}");
}

#[test]
fn a_map_of_five_moves_moves_a_picture_as_they_do() {
    let frame = Window::of_size(480, 270);
    let chain = Chain::of(bends(frame));
    let given = Chain::of([Move::Bend(Bend::Map(map(&chain, frame, frame)))]);
    for i in 0..3000 {
        let (x, y) = (i % 60 * 8, i / 60 * 5);
        let place = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5);
        if let (Some(a), Some(b)) = (chain.source(place), given.source(place)) {
            assert!((a - b).length() < 1e-3, "{place}: {a} {b}");
        }
    }
    let picture = Raster::from_fn(frame, 4, |c, x, y| {
        if c == 3 { 1.0 } else { 0.5 + 0.4 * ((x as f32 * 0.31).sin() * (y as f32 * 0.23 + c as f32).cos()) }
    });
    let make = |chain: &Chain| filtered(&picture, chain, frame, &Cancel::new()).unwrap();
    let (own, by_map) = (make(&chain), make(&given));
    let mut off: Vec<f32> = own.data().iter().zip(by_map.data()).map(|(a, b)| (a - b).abs()).collect();
    off.sort_unstable_by(f32::total_cmp);
    // 1/50 px on a slope of 0.15 a px; at the picture's own edge a place is beside it or not.
    assert!(off[off.len() * 995 / 1000] < 0.003, "{}", off[off.len() * 995 / 1000]);
}

#[test]
fn what_is_taken_off_and_put_back_keeps_every_bit_and_overscan_brings_back_what_was_pushed_out() {
    let frame = Window::of_size(240, 136);
    let picture = Raster::from_fn(frame, 4, |c, x, y| {
        if c == 3 { 1.0 } else { 0.5 + 0.45 * ((x as f32 * 0.9).sin() * (y as f32 * 0.7 + c as f32).cos()) }
    });
    let moves = bends(frame);
    let (off, on) = (moves[0].clone(), moves[4].clone());
    let both = Chain::of([off.clone(), on.clone()]);
    assert!(both.is_identity());
    assert_eq!(filtered(&picture, &both, frame, &Cancel::new()).unwrap(), picture);
    // Sampled twice, through a picture that is larger than the frame.
    let within = frame.grown(400);
    let off = Chain::of([off]).read_by(Kernel::Lanczos3);
    let straight = off.extent(frame, within);
    assert!(!frame.covers(&straight), "a barrel taken off reaches beyond the frame");
    let there = filtered(&picture, &off, straight, &Cancel::new()).unwrap();
    let back = filtered(&there, &Chain::of([on]).read_by(Kernel::Lanczos3), frame, &Cancel::new()).unwrap();
    let (mut sum, mut count) = (0.0f64, 0.0f64);
    for c in 0..3 {
        for y in 8..128 {
            for x in 8..232 {
                let d = back.sample(c, x, y).unwrap() - picture.sample(c, x, y).unwrap();
                sum += f64::from(d) * f64::from(d);
                count += 1.0;
            }
        }
    }
    let psnr = -10.0 * (sum / count).log10();
    // Waves of 7 and 9 px at full contrast, which no render has: measured 49.3 dB. (Renders: tests/lens.rs of shot.)
    assert!(psnr > 48.5, "{psnr}");
}

#[test]
fn what_is_told_of_the_sharpness_is_what_a_zone_plate_shows() {
    let window = Window::of_size(256, 256);
    let shift = DMat3::from_translation(DVec2::new(0.37, 0.5)) * DMat3::from_angle(0.05);
    for (kernel, period) in [
        (Kernel::Bilinear, 4.0),
        (Kernel::CatmullRom, 4.0),
        (Kernel::Lanczos3, 4.0),
        (Kernel::CatmullRom, 8.0),
    ] {
        let chain = Chain::of([Move::Homography(shift)]).read_by(kernel);
        // The rings of a zone plate that have the period, one direction at a time.
        let mut kept = Vec::new();
        for across in [true, false] {
            let wave = |phase: f64| {
                Raster::from_fn(window, 1, |_, x, y| {
                    let at = f64::from(if across { x } else { y }) + 0.5;
                    (1.5 + (at * std::f64::consts::TAU / period + phase).cos()) as f32
                })
            };
            // Two a quarter apart tell the contrast at each pixel.
            let out = [0.0, -std::f64::consts::FRAC_PI_2]
                .map(|phase| filtered(&wave(phase), &chain, window, &Cancel::new()).unwrap());
            for y in 40..216 {
                for x in 40..216 {
                    let [a, b] = [0, 1].map(|i: usize| f64::from(out[i].sample(0, x, y).unwrap()) - 1.5);
                    kept.push(a.hypot(b));
                }
            }
        }
        let shown = kept.iter().sum::<f64>() / kept.len() as f64;
        let told = contrast_kept(&chain, window, period);
        assert!((shown - told).abs() < 0.02, "{kernel:?} {period}: shown {shown}, told {told}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// In pieces as in one, whatever bends.
    #[test]
    fn a_bent_picture_in_pieces_is_the_picture_in_one(x in 0i32..60, y in 0i32..40, w in 1u32..50, h in 1u32..40, lanczos: bool) {
        let frame = Window::of_size(110, 80);
        let picture = Raster::from_fn(frame, 4, |c, x, y| ((x * 7 + y * 5 + c as i32 * 3) % 13) as f32 / 13.0);
        let kernel = if lanczos { Kernel::Lanczos3 } else { Kernel::CatmullRom };
        let chain = Chain::of(bends(frame)).read_by(kernel);
        let whole = filtered(&picture, &chain, frame, &Cancel::new()).unwrap();
        let window = Window::new(x, y, w, h);
        let part = Field::of(&chain, window).part(frame);
        let got = filtered(&picture.cropped(part, 0.0), &chain, window, &Cancel::new()).unwrap();
        prop_assert!(got.cropped(window.intersect(&frame), 0.0) == whole.cropped(window.intersect(&frame), 0.0));
    }
}
