//! A region of 400×300 px found on the next frame of 1920×1080 and 3840×2160.
#![allow(missing_docs, clippy::unwrap_used)]

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use glam::DVec2;
use jugata_core::track::Follower;
use jugata_core::{Cancel, Raster, Window};

fn frame(w: u32, h: u32, by: f32) -> Raster {
    Raster::from_fn(Window::of_size(w, h), 4, |c, x, y| {
        let (x, y) = (x as f32 - by, y as f32 - 0.6 * by);
        let waves =
            (x * 0.21 + y * 0.05).sin() + (y * 0.17 - x * 0.03).sin() + (x * 0.043).sin() * (y * 0.037).cos();
        if c == 3 { 1.0 } else { 0.4 + 0.1 * waves }
    })
}

fn all(c: &mut Criterion) {
    let cancel = Cancel::new();
    let mut g = c.benchmark_group("the next frame of a track");
    g.sample_size(10);
    for (w, h) in [(1920, 1080), (3840, 2160)] {
        let at = |x: f64, y: f64| DVec2::new(x, y);
        let corners = [at(600.0, 400.0), at(1000.0, 400.0), at(1000.0, 700.0), at(600.0, 700.0)];
        let (first, next) = (frame(w, h, 0.0), frame(w, h, 7.3));
        g.bench_with_input(BenchmarkId::new("400×300 px", h), &(), |b, ()| {
            b.iter_batched(
                || Follower::new(&first, corners, None, &cancel).unwrap(),
                |mut follower| follower.next(&next, &cancel).unwrap(),
                criterion::BatchSize::LargeInput,
            );
        });
    }
    g.finish();
}

criterion_group!(benches, all);
criterion_main!(benches);
