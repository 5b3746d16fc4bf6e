//! Depth extended, smoothed, spread from strokes; a matte grown and softened; a picture rocked: 1080p and the quarter
//! scale of a drag.
#![allow(missing_docs, clippy::unwrap_used)]

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use jugata_core::depth::extend::{Extend, extend};
use jugata_core::depth::noise::{Smooth, smooth};
use jugata_core::depth::spread::{Spread, spread};
use jugata_core::matte::edges::grown;
use jugata_core::raster::soften::softened;
use jugata_core::show::parallax::{Rock, rocked};
use jugata_core::{Cancel, Raster, Window};
use jugata_testkit::noise;
use std::hint::black_box;

/// Sixty discs at many depths before nothing.
fn depth(w: Window) -> Raster {
    Raster::from_fn(w, 1, |_, x, y| {
        let (u, v) = (x as f32 / w.width as f32, y as f32 / w.width as f32);
        let mut z = f32::INFINITY;
        for i in 0..60 {
            let at = |k: f32| (i as f32 * k).fract();
            let (cx, cy) = (at(0.618_034), at(0.754_878) * 0.5625);
            if (u - cx).hypot(v - cy) < 0.02 + 0.06 * at(0.569_84) {
                z = z.min(1.0 + 19.0 * at(0.324_718));
            }
        }
        z
    })
}

fn run(c: &mut Criterion) {
    let mut group = c.benchmark_group("depth");
    group.sample_size(10);
    for (width, height, k) in [(480, 270, 0.25), (1920, 1080, 1.0)] {
        let w = Window::of_size(width, height);
        let (z, mut picture, none) = (depth(w), noise(w, 4, 1), Cancel::new());
        picture.plane_mut(3).fill(1.0);
        let size = format!("{width}x{height}");
        group.throughput(Throughput::Elements(w.area() as u64));
        group.bench_function(BenchmarkId::new("extend by 40 px", &size), |b| {
            let how = Extend { by: 40.0 * k, choke: k, soften: 4.0 * k };
            b.iter(|| black_box(extend(&z, None, how, &none).unwrap()));
        });
        group.bench_function(BenchmarkId::new("smooth over 4 px", &size), |b| {
            b.iter(|| black_box(smooth(&z, Smooth { radius: 4.0 * k, step: 0.03 }, &none).unwrap()));
        });
        group.bench_function(BenchmarkId::new("spread ten strokes", &size), |b| {
            let given = Raster::from_fn(w, 2, |c, x, y| {
                let here = x % (w.width as i32 / 5) < 6 && y % (w.height as i32 / 2) < 6;
                if c == 0 { 1.0 + (x % 7) as f32 } else { f32::from(u8::from(here)) }
            });
            b.iter(|| black_box(spread(&picture, &given, Spread { edge: 0.06 }, &none).unwrap()));
        });
        let matte =
            Raster::from_fn(w, 1, |_, x, y| f32::from(u8::from(z.sample(0, x, y).unwrap().is_finite())));
        group.bench_function(BenchmarkId::new("choke 10 px and soften 10 px", &size), |b| {
            b.iter(|| {
                let choked = grown(&matte, -10.0 * k, &none).unwrap();
                black_box(softened(&choked, 10.0 * k, &none).unwrap())
            });
        });
        group.bench_function(BenchmarkId::new("rock by 40 px", &size), |b| {
            let rock = Rock { amount: 40.0 * k, phase: 1.0, still: None, rim: 1 };
            b.iter(|| black_box(rocked(&picture, &z, rock, &none).unwrap()));
        });
    }
    group.finish();
}

criterion_group!(benches, run);
criterion_main!(benches);
