//! Relight at several sizes: one lamp, diffuse only and with specular. Throughput in pixels.
#![allow(missing_docs, clippy::unwrap_used)]

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use glam::Vec3;
use jugata_core::light::lamp::{Cone, Lamp, Place};
use jugata_core::light::relight::{Material, Shining, Surface, relight_into};
use jugata_core::{Cancel, Raster, Window};
use jugata_testkit::{facing_normals, noise};
use std::hint::black_box;

fn relight(c: &mut Criterion) {
    let mut group = c.benchmark_group("relight");
    for (width, height) in [(960, 540), (1920, 1080), (3840, 2160)] {
        let w = Window::of_size(width, height);
        let (picture, normal, albedo) = (noise(w, 4, 1), facing_normals(w, 2), noise(w, 3, 3));
        let position = Raster::from_fn(w, 3, |c, x, y| [x as f32 * 0.01, y as f32 * 0.01, -5.0][c]);
        let mut out = Raster::zeros(w, 4);
        let sun = Place::Directional { toward: Vec3::new(0.6, 0.0, 0.8) };
        let bulb = Place::Point { position: Vec3::new(4.0, 4.0, -2.0) };
        group.throughput(Throughput::Elements(w.area() as u64)).sample_size(20);
        for (name, place, specular, with_position) in [
            ("diffuse", sun, 0.0, false),
            ("specular", sun, 0.04, false),
            ("specular with positions", sun, 0.04, true),
            ("point, specular", bulb, 0.04, true),
        ] {
            let surface = Surface {
                normal: &normal,
                position: with_position.then_some(&position),
                albedo: Some(&albedo),
            };
            let lamps = [Lamp { place, power: [1.0; 3], size: 0.0 }.into()];
            let finish = Material { specular, roughness: 0.4, ..Material::MATT };
            group.bench_function(BenchmarkId::new(name, format!("{width}x{height}")), |b| {
                b.iter(|| {
                    relight_into(
                        black_box(&mut out),
                        &picture,
                        surface,
                        &lamps,
                        finish.into(),
                        &Cancel::new(),
                    )
                    .unwrap();
                });
            });
        }
        // Eight lamps of all kinds, as one step may hold them.
        let cone = Cone::new(Vec3::NEG_Z, 0.8, 0.3);
        let places = [sun, bulb, Place::Spot { position: Vec3::new(2.0, 2.0, -1.0), cone }];
        let lamps: Vec<Shining<'_>> =
            (0..8).map(|i| Lamp { place: places[i % 3], power: [1.0; 3], size: 0.02 }.into()).collect();
        let surface = Surface { normal: &normal, position: Some(&position), albedo: Some(&albedo) };
        for (name, metalness) in [("eight lamps, specular", 0.0), ("eight lamps, metal", 0.7)] {
            let finish = Material { specular: 0.04, roughness: 0.4, metalness, ..Material::MATT };
            group.bench_function(BenchmarkId::new(name, format!("{width}x{height}")), |b| {
                b.iter(|| {
                    relight_into(
                        black_box(&mut out),
                        &picture,
                        surface,
                        &lamps,
                        finish.into(),
                        &Cancel::new(),
                    )
                    .unwrap();
                });
            });
        }
        // The floor: the same planes read and written without any arithmetic, in one thread per core.
        group.bench_function(BenchmarkId::new("copy of the same bytes", format!("{width}x{height}")), |b| {
            b.iter(|| {
                jugata_core::raster::bands::for_each_band(black_box(&mut out), &Cancel::new(), |band| {
                    for y in band.window().rows() {
                        for c in 0..4 {
                            let (p, n, a) = (picture.row(c, y), normal.row(c % 3, y), albedo.row(c % 3, y));
                            let o = band.row(c, y);
                            for i in 0..o.len() {
                                o[i] = p[i] + n[i] + a[i];
                            }
                        }
                    }
                })
                .unwrap();
            });
        });
    }
    group.finish();
}

criterion_group!(benches, relight);
criterion_main!(benches);
