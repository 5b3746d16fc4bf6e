//! Relief of a title at 1920×1080: the edge finer than a pixel, a band, a bevel's normals; blurs for comparison with
//! `relief.py` beside it (SciPy, OpenCV).
#![allow(missing_docs, clippy::unwrap_used)]

use criterion::{Criterion, criterion_group, criterion_main};
use glam::Vec2;
use jugata_core::raster::distance::nearest;
use jugata_core::raster::soften::softened;
use jugata_core::relief::bevel::{Bevel, Facing, Profile, Side, bands, relief};
use jugata_core::relief::contour::Contour;
use jugata_core::relief::corner::Corners;
use jugata_core::{Cancel, Raster, Window};

/// Discs and bars, about as much edge and area as a title of two lines.
fn title() -> Raster {
    Raster::from_fn(Window::of_size(1920, 1080), 1, |_, x, y| {
        let (x, y) = (x as f32 + 0.5, y as f32 + 0.5);
        if !(300.0..800.0).contains(&y) {
            return 0.0;
        }
        let (cx, cy) = ((x / 160.0).floor() * 160.0 + 80.3, if y < 560.0 { 430.7 } else { 690.2 });
        let far = Vec2::new(x - cx, y - cy).length();
        (70.0 - far + 0.5).clamp(0.0, 1.0) - (34.0 - far + 0.5).clamp(0.0, 1.0)
    })
}

fn all(c: &mut Criterion) {
    let (m, cancel) = (title(), Cancel::new());
    let mut g = c.benchmark_group("relief 1080p");
    g.sample_size(20);
    let is: Vec<bool> = m.plane(0).iter().map(|v| *v < 0.5).collect();
    g.bench_function("nearest", |b| b.iter(|| nearest(m.window(), &is, &cancel).unwrap()));
    g.bench_function("contour", |b| b.iter(|| Contour::of(&m, 14.0, &cancel).unwrap()));
    let bevel = Bevel {
        width: 12.0,
        height: 1.0,
        profile: Profile::Round.into(),
        side: Side::Inside,
        corners: Corners::Round,
    };
    let contour = Contour::of(&m, 14.0, &cancel).unwrap();
    let facing = Facing { toward: Vec2::new(-0.6, -0.8), narrow: 1.5, soft: 1.5 };
    g.bench_function("band", |b| b.iter(|| bands(&contour, &[(bevel.clone(), facing)], &cancel).unwrap()));
    let both = [
        (bevel.clone(), facing),
        (Bevel { width: 16.0, ..bevel.clone() }, Facing { toward: -facing.toward, ..facing }),
    ];
    let wide = both[1].0.contour(&m, &cancel).unwrap();
    g.bench_function("two bands", |b| b.iter(|| bands(&wide, &both, &cancel).unwrap()));
    g.bench_function("relief", |b| b.iter(|| relief(&m, &bevel, 1.0, &cancel).unwrap()));
    let rgba = Raster::from_fn(m.window(), 4, |c, x, y| ((x * 7 + y * 3 + c as i32) % 255) as f32 / 255.0);
    g.bench_function("Gaussian, sigma 10, RGBA", |b| b.iter(|| softened(&rgba, 20.0, &cancel).unwrap()));
    g.finish();
}

criterion_group!(benches, all);
criterion_main!(benches);
