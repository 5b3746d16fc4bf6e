//! Refocus of a scene of two hundred discs over a slanted floor: largest circle 40 and 120 px at 1080p, the
//! quarter scale of a drag, and 4K. The most memory that the process has held is printed at the end.
#![allow(missing_docs, clippy::unwrap_used, clippy::print_stdout)]

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use jugata_core::focus::iris::Iris;
use jugata_core::focus::{Boost, Focus, Law, refocus};
use jugata_core::{Cancel, Raster, Window};
use jugata_testkit::noise;
use std::hint::black_box;

/// Depths from 1 (near) to 20 (far).
fn depth(w: Window) -> Raster {
    let size = w.width as f32;
    let mut out = Raster::from_fn(w, 1, |_, _, y| 20.0 / (1.0 + 9.0 * y as f32 / w.height as f32));
    for i in 0..200 {
        let at = |k: f32| (i as f32 * k).fract();
        let (x, y) = (at(0.618_034) * size, at(0.754_878) * w.height as f32);
        let (r, z) = ((0.01 + 0.03 * at(0.569_84)) * size, 1.0 + 19.0 * at(0.324_718));
        for row in (y - r).max(0.0) as i32..(y + r).min(w.height as f32) as i32 {
            for column in (x - r).max(0.0) as i32..(x + r).min(size) as i32 {
                let d = (column as f32 - x).hypot(row as f32 - y);
                let v = &mut out.row_mut(0, row)[column as usize];
                if d < r && z < *v {
                    *v = z;
                }
            }
        }
    }
    out
}

/// Sharp at 3 units; both the nearest and the farthest are at about the largest circle.
fn focus(largest: f32) -> Focus {
    let law = Law { sharp: [1.9; 2], near: largest, far: largest, most: largest * 0.5 };
    let iris = Iris { blades: 7, rotation: 10.0, roundness: 0.3 };
    Focus { law, iris, boost: Boost::default(), rim: 1 }
}

fn run(c: &mut Criterion) {
    let mut group = c.benchmark_group("refocus");
    group.sample_size(10);
    for (width, height, largest) in
        [(480, 270, 10.0), (1920, 1080, 40.0), (1920, 1080, 120.0), (3840, 2160, 80.0)]
    {
        let w = Window::of_size(width, height);
        let (mut picture, depth) = (noise(w, 4, 1), depth(w));
        picture.plane_mut(3).fill(1.0);
        group.throughput(Throughput::Elements(w.area() as u64));
        let name = BenchmarkId::new(format!("circle of {largest} px"), format!("{width}x{height}"));
        group.bench_function(name, |b| {
            b.iter(|| black_box(refocus(&picture, &depth, &focus(largest), &[], &Cancel::new()).unwrap()));
        });
    }
    group.finish();
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    println!("most memory: {}", status.lines().find(|l| l.starts_with("VmHWM")).unwrap_or("not known"));
}

criterion_group!(benches, run);
criterion_main!(benches);
