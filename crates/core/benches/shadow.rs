//! Shadows from depth over a scene of two hundred balls before a floor and a wall, and the whole of eight lamps with
//! specular and shadows.
#![allow(missing_docs, clippy::unwrap_used)]

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use glam::Vec3;
use jugata_core::light::lamp::{Cone, Lamp, Place};
use jugata_core::light::relight::{Material, Shining, Surface, relight_into};
use jugata_core::light::rims::{covers, soften};
use jugata_core::light::shadow::Occluders;
use jugata_core::surface::normals::from_positions;
use jugata_core::{Camera, Cancel, Raster, Scale, Window};
use jugata_testkit::noise;
use std::hint::black_box;

/// Floor below, wall at 20 units, balls between.
fn depth(w: Window, focal: f32) -> Raster {
    let (width, height) = (w.width as f32, w.height as f32);
    let floor = |y: f32| if y > height * 0.5 { 2.0 * focal / (y - height * 0.5) } else { f32::INFINITY };
    let mut out = Raster::from_fn(w, 1, |_, _, y| floor(y as f32 + 0.5).min(20.0));
    for i in 0..200 {
        let at = |k: f32| (i as f32 * k).fract();
        let (x, y, r) =
            (at(0.618_034) * width, at(0.754_878) * height, (0.005 + 0.03 * at(0.569_84)) * width);
        let z = 4.0 + 14.0 * at(0.324_718);
        for row in (y - r).max(0.0) as i32..(y + r).min(height) as i32 {
            for column in (x - r).max(0.0) as i32..(x + r).min(width) as i32 {
                let d = ((column as f32 - x).powi(2) + (row as f32 - y).powi(2)) / (r * r);
                let v = &mut out.row_mut(0, row)[column as usize];
                *v = if d < 1.0 { v.min(z - r * z / focal * (1.0 - d).sqrt()) } else { *v };
            }
        }
    }
    out
}

fn lamps() -> [Lamp; 8] {
    let cone = Cone::new(Vec3::new(0.0, -0.4, -0.9), 1.2, 0.3);
    let places = [
        Place::Directional { toward: Vec3::new(0.6, 0.5, 0.62) },
        Place::Point { position: Vec3::new(2.0, 2.0, -7.0) },
        Place::Spot { position: Vec3::new(-3.0, 3.0, -3.0), cone },
        Place::Directional { toward: Vec3::new(-0.8, 0.5, -0.33) },
    ];
    std::array::from_fn(|i| Lamp {
        place: places[i % 4],
        power: [1.0; 3],
        size: if i % 4 == 0 { 0.02 } else { 0.15 },
    })
}

fn shadow(c: &mut Criterion) {
    let mut group = c.benchmark_group("shadow");
    let cancel = Cancel::new();
    for (width, height) in [(960, 540), (1920, 1080)] {
        let w = Window::of_size(width, height);
        let (focal, centre_x, centre_y) = (width as f32 * 1.2, width as f32 * 0.5, height as f32 * 0.5);
        let camera = Camera { focal, centre_x, centre_y, world: None };
        let positions = camera.positions(&depth(w, focal), Scale::FULL, &cancel).unwrap();
        let normals = from_positions(&positions, &cancel).unwrap();
        let size = format!("{width}x{height}");
        group.throughput(Throughput::Elements(w.area() as u64)).sample_size(10);
        let occluders = || Occluders::new(&normals, &positions, camera, Scale::FULL, 0.1, &cancel).unwrap();
        group.bench_function(BenchmarkId::new("what casts them", &size), |b| {
            b.iter(|| black_box(occluders()));
        });
        let ready = occluders();
        let [sun, bulb, ..] = lamps();
        for (name, lamp) in [
            ("sun, hard", Lamp { size: 0.0, ..sun }),
            ("sun, soft", sun),
            ("bulb, hard", Lamp { size: 0.0, ..bulb }),
            ("bulb, soft", bulb),
        ] {
            group.bench_function(BenchmarkId::new(name, &size), |b| {
                b.iter(|| black_box(ready.seen(&lamp, &cancel).unwrap()));
            });
        }
        let (picture, albedo) = (noise(w, 4, 1), noise(w, 3, 3));
        let surface = Surface { normal: &normals, position: Some(&positions), albedo: Some(&albedo) };
        let finish = Material { specular: 0.04, roughness: 0.4, ..Material::MATT };
        let mut lit = Raster::zeros(w, 4);
        relight_into(&mut lit, &picture, surface, &lamps().map(Shining::from), finish.into(), &cancel)
            .unwrap();
        let rims = covers(surface, &picture, &cancel).unwrap();
        group.bench_function(BenchmarkId::new("covers of rims", &size), |b| {
            b.iter(|| black_box(covers(surface, &picture, &cancel).unwrap()));
        });
        group.bench_function(BenchmarkId::new("light softened at rims", &size), |b| {
            b.iter(|| black_box(soften(&lit, surface, &rims, &cancel).unwrap()));
        });
        for (name, soft) in [
            ("eight lamps without shadows, specular, all of it", None),
            ("eight hard lamps, specular, all of it", Some(0.0)),
            ("eight soft lamps, specular, all of it", Some(1.0)),
        ] {
            let lamps = lamps().map(|l| Lamp { size: l.size * soft.unwrap_or(1.0), ..l });
            group.bench_function(BenchmarkId::new(name, &size), |b| {
                b.iter(|| {
                    let occluders = soft.map(|_| occluders());
                    let seen = lamps.map(|l| occluders.as_ref().map(|o| o.seen(&l, &cancel).unwrap()));
                    let shining: Vec<Shining<'_>> = lamps
                        .into_iter()
                        .zip(&seen)
                        .map(|(lamp, s)| Shining { lamp, seen: s.as_ref() })
                        .collect();
                    let mut out = Raster::zeros(w, 4);
                    relight_into(&mut out, &picture, surface, &shining, finish.into(), &cancel).unwrap();
                    black_box(soften(&out, surface, &rims, &cancel).unwrap())
                });
            });
        }
    }
    group.finish();
}

criterion_group!(benches, shadow);
criterion_main!(benches);
