//! Motion blur of 40 px over 1920×1080 and 3840×2160: one body before a wall that stands still, and all of the picture.
#![allow(missing_docs, clippy::unwrap_used)]

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use jugata_core::motion::{Open, blur};
use jugata_core::{Cancel, Raster, Window};

fn all(c: &mut Criterion) {
    let cancel = Cancel::new();
    let open = Open { opens: -0.25, closes: 0.25 };
    let mut g = c.benchmark_group("motion blur 40 px");
    g.sample_size(10);
    for (w, h) in [(1920, 1080), (3840, 2160)] {
        let window = Window::of_size(w, h);
        // A disc of a third of the height, which takes a seventh of the picture.
        let is = |x: i32, y: i32| {
            let (dx, dy) = (x as f32 - 0.5 * w as f32, y as f32 - 0.5 * h as f32);
            dx.hypot(dy) < h as f32 / 3.0
        };
        let picture = Raster::from_fn(window, 4, |c, x, y| {
            if c == 3 { 1.0 } else { ((x * 7 + y * 3 + c as i32 * 5) % 11) as f32 * 0.1 }
        });
        let depth = Raster::from_fn(window, 1, |_, x, y| if is(x, y) { 2.0 } else { 8.0 });
        let body = Raster::from_fn(window, 2, |c, x, y| if is(x, y) && c == 0 { 80.0 } else { 0.0 });
        // A camera that turns and comes nearer.
        let whole = Raster::from_fn(window, 2, |c, x, y| {
            let away = if c == 0 { x as f32 / w as f32 } else { y as f32 / h as f32 } - 0.5;
            if c == 0 { 70.0 + 20.0 * away } else { 20.0 * away }
        });
        for (name, motion) in [("a body", &body), ("all", &whole)] {
            g.bench_with_input(BenchmarkId::new(name, h), &(), |b, ()| {
                b.iter(|| blur(&picture, motion, Some(&depth), open, 1, &cancel).unwrap());
            });
        }
    }
    g.finish();
}

criterion_group!(benches, all);
criterion_main!(benches);
