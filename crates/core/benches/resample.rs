//! A picture of 1920×1080 through a map that is given, by each kernel, and through a lens with pushes.
//!
//! The same against a general-purpose library: `python3 benches/remap.py` (PyPI: opencv-python-headless), in one run with
//! this one.
#![allow(clippy::unwrap_used)]

use criterion::{Criterion, criterion_group, criterion_main};
use glam::DVec2;
use jugata_core::geometry::chain::{Bend, Chain, Move};
use jugata_core::geometry::coordinate_map::CoordinateMap;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::lens::{Lens, Model};
use jugata_core::geometry::map_of::{MapOf, map_of};
use jugata_core::geometry::push::{Push, Warp};
use jugata_core::geometry::resample::filtered;
use jugata_core::{Cancel, Raster, Scale, Window};
use std::sync::Arc;

fn lens(frame: Window) -> Move {
    let size = DVec2::new(frame.width.into(), frame.height.into());
    let model = Model::BrownConrady { k: [-0.1, 0.01, 0.0], p: [0.0; 2] };
    Move::Unbend(Bend::Lens(Lens::new(model, size * 0.5, DVec2::splat(size.x * 0.5))))
}

fn pushes() -> Move {
    let push = |x: f64, y: f64| Push {
        from: DVec2::new(x, y),
        to: DVec2::new(x + 60.0, y - 40.0),
        size: DVec2::new(220.0, 150.0),
        lies: 0.4,
        turn: 0.3,
        scale: 1.1,
        softness: 1.0,
    };
    Move::Bend(Bend::Warp(Arc::new(Warp::new(vec![push(500.0, 400.0), push(1300.0, 700.0)], vec![]))))
}

fn benches(c: &mut Criterion) {
    let cancel = Cancel::new();
    for (name, frame) in [("1080p", Window::of_size(1920, 1080)), ("4k", Window::of_size(3840, 2160))] {
        let picture =
            Raster::from_fn(frame, 4, |c, x, y| ((x * 7 + y * 13 + c as i32 * 5) % 97) as f32 / 97.0);
        let st =
            map_of(&Chain::of([lens(frame)]), MapOf::Moves, frame, (frame, Scale::FULL), &cancel).unwrap();
        let map = Move::Bend(Bend::Map(CoordinateMap::new(Arc::new(st), frame).unwrap()));
        let given = Chain::of([map]);
        for kernel in [Kernel::Bilinear, Kernel::CatmullRom, Kernel::Lanczos3] {
            let chain = given.clone().read_by(kernel);
            c.bench_function(&format!("map {kernel:?} {name}"), |b| {
                b.iter(|| filtered(&picture, &chain, frame, &cancel).unwrap());
            });
        }
        let chain = Chain::of([lens(frame), pushes()]).read_by(Kernel::Bilinear);
        c.bench_function(&format!("lens and pushes {name}"), |b| {
            b.iter(|| filtered(&picture, &chain, frame, &cancel).unwrap());
        });
    }
}

criterion_group! {
    name = resample;
    config = Criterion::default().sample_size(10).measurement_time(std::time::Duration::from_secs(3));
    targets = benches
}
criterion_main!(resample);
