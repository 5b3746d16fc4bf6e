//! Another texture over all of 1920×1080: where it lies, the light on it, and laid.
#![allow(missing_docs, clippy::unwrap_used)]

use criterion::{Criterion, criterion_group, criterion_main};
use glam::{Vec2, Vec3};
use jugata_core::texture::lay::{Laid, Lit, Meets, lay};
use jugata_core::texture::placing::Placing;
use jugata_core::texture::pyramid::{Beyond, Pyramid, stacked};
use jugata_core::texture::shading::light;
use jugata_core::texture::surface::{Surface, spots};
use jugata_core::{Cancel, Raster, Window};

fn all(c: &mut Criterion) {
    let (w, cancel) = (Window::of_size(1920, 1080), Cancel::new());
    // A slanting surface with an old texture of broad stripes, in light that falls off.
    let uv = Raster::from_fn(w, 2, |c, x, y| {
        let (x, y) = (x as f32 / 1920.0, y as f32 / 1080.0);
        if c == 0 { x * (0.5 + y) } else { y * y + 0.1 }
    });
    let albedo = Raster::from_fn(w, 3, |c, x, _| if (x / 60) % 2 == 0 { 0.6 } else { 0.2 + 0.1 * c as f32 });
    let picture = Raster::from_fn(w, 4, |c, x, y| match c {
        3 => 1.0,
        c => albedo.sample(c, x, y).unwrap() * (0.3 + 0.0005 * x as f32),
    });
    let cover = Raster::filled(w, 1, 1.0);
    let texture = Raster::from_fn(Window::of_size(2048, 2048), 4, |c, x, y| {
        if c == 3 { 1.0 } else { ((x * 7 + y * 3 + c as i32) % 255) as f32 / 255.0 }
    });
    let surface = Surface::new(&uv, &cover, None).unwrap();
    let mut g = c.benchmark_group("texture 1080p");
    g.sample_size(10);
    g.bench_function("sizes of 2048×2048", |b| b.iter(|| stacked(&texture, &cancel).unwrap()));
    g.bench_function("where it lies", |b| b.iter(|| spots(&surface, &cancel).unwrap()));
    let at = spots(&surface, &cancel).unwrap();
    let of = |gloss| light(&picture, &albedo, gloss, (&surface, &at), &cancel).unwrap();
    g.bench_function("light", |b| b.iter(|| of(true)));
    let (sizes, lit) = (stacked(&texture, &cancel).unwrap(), of(true));
    let laid = Laid {
        texture: Pyramid::of(&sizes, texture.window(), Beyond::Tiles),
        placing: Placing::new(Vec2::splat(0.5), Vec2::ONE, 0.3, 1.0),
        meets: Meets::Instead,
        gain: Vec3::ONE,
        covered: true,
    };
    let lit = Lit::Apart { albedo: &albedo, light: &lit, diffuse: &picture };
    g.bench_function("laid", |b| b.iter(|| lay(&picture, &surface, &at, lit, &laid, &cancel).unwrap()));
    g.finish();
}

criterion_group!(benches, all);
criterion_main!(benches);
