//! How a picture is read between its samples.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use ts_rs::TS;

/// A kernel, separable, of sum 1 at every offset.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Kernel {
    /// Soft: straight lines between neighbours.
    Bilinear,
    /// Sharp and calm: the cubic through four neighbours with their slopes (Catmull & Rom 1974; Keys 1981 with a = −½).
    #[default]
    CatmullRom,
    /// Sharpest: a windowed sinc over six neighbours (Duchon 1979).
    Lanczos3,
}

impl Kernel {
    /// Samples on each side that it looks at.
    pub const fn radius(self) -> f64 {
        match self {
            Self::Bilinear => 1.0,
            Self::CatmullRom => 2.0,
            Self::Lanczos3 => 3.0,
        }
    }

    /// Its weight at a distance in samples, before the weights are brought to the sum 1.
    pub fn weight(self, t: f64) -> f64 {
        let t = t.abs();
        match self {
            Self::Bilinear => (1.0 - t).max(0.0),
            Self::CatmullRom if t < 1.0 => (1.5 * t - 2.5) * t * t + 1.0,
            Self::CatmullRom if t < 2.0 => ((2.5 - 0.5 * t) * t - 4.0) * t + 2.0,
            Self::Lanczos3 if t < 3.0 => looked_up(t),
            _ => 0.0,
        }
    }
}

/// Entries of the table for each sample.
const FINE: usize = 4096;

/// The windowed sinc on `0..=3`, since sines cost more than all else of a pixel.
static LANCZOS: LazyLock<Vec<f64>> = LazyLock::new(|| {
    let at = |i: usize| i as f64 / FINE as f64;
    (0..=3 * FINE + 1).map(|i| if at(i) < 3.0 { sinc(at(i)) * sinc(at(i) / 3.0) } else { 0.0 }).collect()
});

/// Between two entries of the table straight: within 3e-8 of the sines, and exact at whole samples.
fn looked_up(t: f64) -> f64 {
    let place = t * FINE as f64;
    let i = place as usize;
    match LANCZOS.get(i..i + 2) {
        Some(&[a, b]) => a + (b - a) * (place - i as f64),
        _ => 0.0,
    }
}

fn sinc(t: f64) -> f64 {
    let x = std::f64::consts::PI * t;
    // Whole numbers but 0 are exact zeros, so that what is not moved keeps its bits.
    if t == 0.0 {
        1.0
    } else if t.fract() == 0.0 {
        0.0
    } else {
        x.sin() / x
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_is_as_good_as_the_sines() {
        for i in 0..30_011 {
            let t = f64::from(i) * 1e-4;
            let exact = if t < 3.0 { sinc(t) * sinc(t / 3.0) } else { 0.0 };
            assert!((Kernel::Lanczos3.weight(t) - exact).abs() < 3e-8, "{t}");
        }
    }

    #[test]
    fn kernels_pass_through_samples_and_keep_what_is_even() {
        for kernel in [Kernel::Bilinear, Kernel::CatmullRom, Kernel::Lanczos3] {
            for n in 0..4 {
                assert_eq!(kernel.weight(f64::from(n)), if n == 0 { 1.0 } else { 0.0 }, "{kernel:?} {n}");
            }
            for i in 0..10 {
                let at = f64::from(i) / 10.0;
                let sum: f64 = (-3..=3).map(|n| kernel.weight(f64::from(n) - at)).sum();
                // Lanczos is near 1 by itself; the weights are brought to it.
                assert!((sum - 1.0).abs() < 0.015, "{kernel:?} {at} {sum}");
            }
        }
    }
}
