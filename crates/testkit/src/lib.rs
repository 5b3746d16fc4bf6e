//! Development only: seeded rasters, one comparator, test beds, a throw-away PostgreSQL and a throw-away bucket on loopback.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

pub mod beds;
mod bucket;
pub mod foreign;
pub mod plane;
mod postgres;

pub use bucket::Bucket;
pub use postgres::{Database, Postgres};

use jugata_core::{Raster, Window};

/// A raster of seeded noise in `0..1`; the same for the same seed.
pub fn noise(window: Window, channels: usize, seed: u64) -> Raster {
    let mut rng = fastrand::Rng::with_seed(seed);
    Raster::from_fn(window, channels, |_, _, _| rng.f32())
}

/// Seeded unit normals that face the viewer.
pub fn facing_normals(window: Window, seed: u64) -> Raster {
    let mut rng = fastrand::Rng::with_seed(seed);
    let mut out = Raster::zeros(window, 3);
    for i in 0..window.area() {
        let (x, y) = (rng.f32() - 0.5, rng.f32() - 0.5);
        let z = (1.0 - x * x - y * y).sqrt();
        for (c, v) in [x, y, z].into_iter().enumerate() {
            out.plane_mut(c)[i] = v;
        }
    }
    out
}

/// Asserts that two rasters share window and channels and differ by at most `tolerance` anywhere.
///
/// # Panics
/// With the first sample that differs by more.
#[track_caller]
pub fn assert_close(got: &Raster, want: &Raster, tolerance: f32) {
    assert_eq!((got.window(), got.channels()), (want.window(), want.channels()), "shape");
    for (i, (g, w)) in got.data().iter().zip(want.data()).enumerate() {
        let same = g.to_bits() == w.to_bits() || (g - w).abs() <= tolerance;
        assert!(same, "sample {i}: {g} is not {w} (± {tolerance})");
    }
}
