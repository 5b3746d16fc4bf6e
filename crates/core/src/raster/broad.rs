//! Broad Gaussians at a cost that does not grow with their width.
//!
//! *Own derivation.* A Gaussian is made of three that follow each other, whose variances add up: a narrow one, after which few
//! samples say all that is left; one among these samples; and the cubic B-spline by which they become a picture again, whose
//! variance is a third of their distance squared wherever it is read. The samples lie at multiples of their distance from the
//! origin of the plane, not of the raster, so that every part of a raster gets the same numbers as the whole.

use super::soften::{add_both, widened};
use super::window::Window;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// Standard deviation of the first Gaussian, distances of samples: what would fold over is below 10⁻⁵ of what stays.
const NARROW: f32 = 0.8;
/// Least standard deviation of the whole, distances of samples.
const LEAST: f32 = 2.2;
/// Where a Gaussian ends, standard deviations.
const ENDS: f32 = 3.0;

/// How a broad Gaussian is made.
#[derive(Debug)]
pub(super) struct Broad {
    /// Distance of the samples, px: a power of two.
    apart: i32,
    /// The first Gaussian, from its middle on, px.
    narrow: Vec<f32>,
    /// The second one, samples.
    among: Vec<f32>,
}

impl Broad {
    /// For a standard deviation in px; `None` where samples would lie no wider than pixels.
    pub(super) fn of(sigma: f32) -> Option<Self> {
        let apart = 2i32.pow((sigma / LEAST).log2().floor().clamp(0.0, 16.0) as u32);
        if apart < 2 {
            return None;
        }
        let distance = apart as f32;
        let narrow = weights(NARROW * distance);
        let left = sigma * sigma - variance(&narrow) - distance * distance / 3.0;
        let among = weights(left.max(0.0).sqrt() / distance);
        Some(Self { apart, narrow, among })
    }

    /// Px on each side of a pixel that play a part in it.
    pub(super) fn radius(&self) -> usize {
        self.narrow.len() - 1 + (self.among.len() + 1) * self.apart as usize
    }

    /// The samples that rows or columns are made of, with `more` to either side.
    fn samples(&self, first: i32, count: u32, more: i32) -> (i32, u32) {
        let low = first.div_euclid(self.apart) - 1 - more;
        let high = (first + count as i32 - 1).div_euclid(self.apart) + 2 + more;
        (low, (high - low + 1) as u32)
    }

    /// A raster that is not empty, blurred; what lies beyond it is as its edge.
    pub(super) fn blurred(&self, raster: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
        let sampled = self.sampled(raster, cancel)?;
        let lines = self.lines(&sampled, raster.window(), cancel)?;
        self.filled(&lines, raster.window(), cancel)
    }

    /// The first Gaussian, at the samples alone, and as far beyond the raster as the second one looks.
    fn sampled(&self, raster: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
        let (w, reach) = (raster.window(), self.narrow.len() - 1);
        let more = self.among.len() as i32 - 1;
        let (x, across) = self.samples(w.x, w.width, more);
        let (y, down) = self.samples(w.y, w.height, more);
        let mut out = Raster::zeros(Window::new(x, y, across, down), raster.channels());
        let last = w.y + w.height as i32 - 1;
        for_each_band(&mut out, cancel, |band| {
            let (mut line, mut wide) = (vec![0.0; w.width as usize], Vec::new());
            for j in band.window().rows() {
                for c in 0..raster.channels() {
                    let row = |dy: i32| raster.row(c, (j * self.apart + dy).clamp(w.y, last));
                    sum_of_rows(&self.narrow, row, &mut line);
                    // From the first sample to the last one, with what the first Gaussian looks at around them.
                    let low = x * self.apart - w.x - reach as i32;
                    let count = (across as usize - 1) * self.apart as usize + 2 * reach + 1;
                    held(&line, low, count, &mut wide);
                    for (i, v) in band.row(c, j).iter_mut().enumerate() {
                        let at = i * self.apart as usize;
                        *v = sum_around(&self.narrow, &wide[at..=at + 2 * reach]);
                    }
                }
            }
        })?;
        Ok(out)
    }

    /// The second Gaussian, and its rows read at every column of a window.
    fn lines(&self, sampled: &Raster, window: Window, cancel: &Cancel) -> Result<Raster, KernelError> {
        let (y, down) = self.samples(window.y, window.height, 0);
        let (x, across) = self.samples(window.x, window.width, 0);
        let reach = self.among.len() - 1;
        let between = self.between();
        let mut out = Raster::zeros(Window::new(window.x, y, window.width, down), sampled.channels());
        for_each_band(&mut out, cancel, |band| {
            let mut line = vec![0.0; sampled.window().width as usize];
            let mut few = vec![0.0; across as usize];
            for j in band.window().rows() {
                for c in 0..sampled.channels() {
                    sum_of_rows(&self.among, |dy| sampled.row(c, j + dy), &mut line);
                    few.iter_mut()
                        .enumerate()
                        .for_each(|(i, v)| *v = sum_around(&self.among, &line[i..=i + 2 * reach]));
                    for (k, v) in band.row(c, j).iter_mut().enumerate() {
                        let column = window.x + k as i32;
                        let i = (column.div_euclid(self.apart) - 1 - x) as usize;
                        let w = &between[column.rem_euclid(self.apart) as usize];
                        *v = (0..4).map(|k| w[k] * few[i + k]).sum();
                    }
                }
            }
        })?;
        Ok(out)
    }

    /// Lines read at every row of a window.
    fn filled(&self, lines: &Raster, window: Window, cancel: &Cancel) -> Result<Raster, KernelError> {
        let between = self.between();
        let mut out = Raster::zeros(window, lines.channels());
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                let j = y.div_euclid(self.apart) - 1;
                let w = between[y.rem_euclid(self.apart) as usize];
                for c in 0..lines.channels() {
                    four(band.row(c, y), [0, 1, 2, 3].map(|k| lines.row(c, j + k)), w);
                }
            }
        })?;
        Ok(out)
    }

    /// Weights of the four samples around each pixel between two of them: the cubic B-spline.
    fn between(&self) -> Vec<[f32; 4]> {
        let weights = |k: i32| {
            let t = k as f32 / self.apart as f32;
            let s = 1.0 - t;
            let inner = |t: f32| (2.0 / 3.0) - t * t + 0.5 * t * t * t;
            [s * s * s / 6.0, inner(t), inner(s), t * t * t / 6.0]
        };
        (0..self.apart).map(weights).collect()
    }
}

/// A Gaussian of a standard deviation from its middle on, whose whole sum is 1.
pub(super) fn weights(sigma: f32) -> Vec<f32> {
    let radius = (ENDS * sigma).ceil() as i32;
    let all: Vec<f32> = (0..=radius).map(|i| (-0.5 * (i as f32 / sigma).powi(2)).exp()).collect();
    let sum = all[0] + 2.0 * all[1..].iter().sum::<f32>();
    all.into_iter().map(|w| w / sum).collect()
}

fn variance(weights: &[f32]) -> f32 {
    2.0 * weights.iter().enumerate().map(|(i, w)| (i * i) as f32 * w).sum::<f32>()
}

/// Rows around one, by their weights.
fn sum_of_rows<'a>(weights: &[f32], row: impl Fn(i32) -> &'a [f32], out: &mut [f32]) {
    out.iter_mut().zip(row(0)).for_each(|(o, v)| *o = weights[0] * v);
    for (k, w) in (1..).zip(&weights[1..]) {
        add_both(out, *w, row(-k), row(k));
    }
}

/// What lies around the middle of some values, by its weights.
#[inline]
fn sum_around(weights: &[f32], values: &[f32]) -> f32 {
    let middle = weights.len() - 1;
    let pair = |k: usize| weights[k] * (values[middle - k] + values[middle + k]);
    (1..=middle).fold(weights[0] * values[middle], |sum, k| sum + pair(k))
}

/// So many values of a line from its place `low` on, which may lie beyond it: there it is as its end.
fn held(line: &[f32], low: i32, count: usize, out: &mut Vec<f32>) {
    let before = low.min(0).unsigned_abs() as usize;
    let after = (i64::from(low) + count as i64 - line.len() as i64).max(0) as usize;
    let beyond = before.max(after);
    let mut wide = std::mem::take(out);
    widened(line, beyond, &mut wide);
    wide.drain(..(beyond as i64 + i64::from(low)) as usize);
    wide.truncate(count);
    *out = wide;
}

/// Four rows by their weights.
#[multiversion::multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn four(out: &mut [f32], rows: [&[f32]; 4], w: [f32; 4]) {
    let [a, b, c, d] = rows.map(|r| &r[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        *v = (w[0] * a[i] + w[1] * b[i]) + (w[2] * c[i] + w[3] * d[i]);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::raster::soften::{radius_of, softened};

    fn speckled(w: Window) -> Raster {
        Raster::from_fn(w, 2, |c, x, y| {
            let n = (x.wrapping_mul(73_856_093) ^ y.wrapping_mul(19_349_663) ^ c as i32).rem_euclid(1013);
            if n < 40 { 6.0 } else { n as f32 / 1013.0 }
        })
    }

    /// The whole Gaussian in double precision, edges held.
    fn exact(r: &Raster, sigma: f64) -> Raster {
        let w = r.window();
        let reach = (5.0 * sigma).ceil() as i32;
        let weights: Vec<f64> =
            (-reach..=reach).map(|i| (-0.5 * (f64::from(i) / sigma).powi(2)).exp()).collect();
        let sum: f64 = weights.iter().sum();
        let pass = |r: &Raster, dx: i32, dy: i32| {
            Raster::from_fn(w, r.channels(), |c, x, y| {
                let at = |k: i32| {
                    let x = (x + k * dx).clamp(w.x, w.right() as i32 - 1);
                    r.sample(c, x, (y + k * dy).clamp(w.y, w.bottom() as i32 - 1)).unwrap()
                };
                let each = (-reach..=reach).zip(&weights);
                (each.map(|(k, w)| w * f64::from(at(k))).sum::<f64>() / sum) as f32
            })
        };
        pass(&pass(r, 1, 0), 0, 1)
    }

    #[test]
    fn it_is_the_gaussian_that_it_stands_for() {
        let w = Window::new(-21, 13, 90, 70);
        let speckled = speckled(w);
        let step = Raster::from_fn(w, 1, |_, x, y| f32::from(u8::from(x + y < 40)));
        for sigma in [4.5f32, 6.0, 8.7, 10.0, 17.5, 24.0] {
            for r in [&speckled, &step] {
                let (got, want) =
                    (softened(r, 2.0 * sigma, &Cancel::new()).unwrap(), exact(r, f64::from(sigma)));
                let off = got.data().iter().zip(want.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
                println!("{sigma}: {off}");
                assert!(off < 2e-3, "{sigma}: {off}");
            }
        }
    }

    #[test]
    fn a_part_gets_the_bits_of_the_whole_and_an_even_raster_stays() {
        let w = Window::new(-21, 13, 170, 150);
        let r = speckled(w);
        for soft in [9.0, 21.0] {
            let whole = softened(&r, soft, &Cancel::new()).unwrap();
            let part = Window::new(33, 71, 23, 17);
            let cut = r.cropped(part.grown(radius_of(soft) as u32), 0.0);
            let cut = softened(&cut, soft, &Cancel::new()).unwrap().cropped(part, 0.0);
            assert_eq!(cut, whole.cropped(part, 0.0));
        }
        for w in [
            Window::of_size(1, 1),
            Window::new(-3, 7, 40, 2),
            Window::new(i32::MAX / 2 - 9, i32::MIN / 2, 3, 3),
        ] {
            for soft in [12.0, 800.0] {
                let out = softened(&Raster::filled(w, 1, 0.7), soft, &Cancel::new()).unwrap();
                assert!(out.window() == w && out.data().iter().all(|v| (v - 0.7).abs() < 1e-5));
            }
        }
    }
}
