//! Grain taken out of a depth without rounding its edges.

use super::is_depth;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use multiversion::multiversion;

/// What is smoothed. Lengths in px of the raster.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Smooth {
    /// How far around a pixel samples are taken from.
    pub radius: f32,
    /// Difference of depth, as a share of the depth itself, up to which samples are grain of one surface.
    pub step: f32,
}

/// Largest radius, px: the work grows with its square.
pub const MOST_RADIUS: f32 = 16.0;

/// A plane is fitted to the samples of one surface around each pixel and read at its middle, in 1/Z, in which flat
/// surfaces are planes across the picture. A sample counts by its distance and by how near its depth is to the robust
/// middle (a second fit weighs each sample by its distance from the first; Tukey's biweight), so that slants keep
/// their slope and nothing beyond an edge is mixed in. What is no depth stays so.
///
/// # Errors
/// A depth without exactly one channel; cancellation.
pub fn smooth(depth: &Raster, how: Smooth, cancel: &Cancel) -> Result<Raster, KernelError> {
    depth.expect_channels("depth", 1)?;
    let radius = how.radius.clamp(0.0, MOST_RADIUS);
    let reach = radius.ceil() as i32;
    if reach == 0 || how.step <= 0.0 {
        return Ok(depth.clone());
    }
    let kernel = Kernel::new(reach, radius);
    let mut out = depth.clone();
    for_each_band(&mut out, cancel, |band| {
        let own = band.window();
        let mut values = vec![0.0; kernel.dx.len()];
        let mut weights = vec![0.0; kernel.dx.len()];
        for y in own.rows() {
            for (x, v) in (own.x..).zip(band.row(0, y)) {
                if is_depth(*v) {
                    let middle = 1.0 / *v;
                    kernel.gather(depth, (x, y), middle, &mut values, &mut weights);
                    if let Some(better) = settled(&kernel, &values, &weights, how.step * middle) {
                        *v = 1.0 / (middle + better);
                    }
                }
            }
        }
    })?;
    Ok(out)
}

/// Places around a pixel, in whole lanes, and how much each counts.
struct Kernel {
    reach: i32,
    dx: Vec<f32>,
    dy: Vec<f32>,
    falloff: Vec<f32>,
}

/// Samples that are worked on at once.
const LANES: usize = 8;

impl Kernel {
    fn new(reach: i32, radius: f32) -> Self {
        let around =
            || (-reach..=reach).flat_map(move |dy| (-reach..=reach).map(move |dx| (dx as f32, dy as f32)));
        let spare = around().count().next_multiple_of(LANES) - around().count();
        // The places that fill the last lane count for nothing.
        let all = || around().chain(std::iter::repeat_n((0.0, 0.0), spare));
        let weigh = |(dx, dy): (f32, f32)| (-0.5 * (dx * dx + dy * dy) / (0.5 * radius).powi(2)).exp();
        let falloff = around().map(weigh).chain(std::iter::repeat_n(0.0, spare)).collect();
        Self { reach, dx: all().map(|p| p.0).collect(), dy: all().map(|p| p.1).collect(), falloff }
    }

    /// 1/Z around a pixel less that of the pixel itself; what is no depth weighs nothing.
    fn gather(
        &self,
        depth: &Raster,
        (x, y): (i32, i32),
        middle: f32,
        values: &mut [f32],
        weights: &mut [f32],
    ) {
        let window = depth.window();
        let (n, side) = (self.reach, (2 * self.reach + 1) as usize);
        weights.fill(0.0);
        let left = (x - n).max(window.x);
        let right = (x + n).min((window.right() - 1) as i32);
        for sy in (y - n).max(window.y)..=(y + n).min((window.bottom() - 1) as i32) {
            let row = &depth.row(0, sy)[(left - window.x) as usize..=(right - window.x) as usize];
            let start = (sy - y + n) as usize * side + (left - x + n) as usize;
            for (k, z) in row.iter().enumerate() {
                let sound = is_depth(*z);
                values[start + k] = if sound { 1.0 / z - middle } else { 0.0 };
                weights[start + k] = if sound { self.falloff[start + k] } else { 0.0 };
            }
        }
    }
}

/// What is to be added to the pixel's own 1/Z; `None` if its surroundings do not say.
fn settled(kernel: &Kernel, values: &[f32], weights: &[f32], band: f32) -> Option<f32> {
    // The pixel's own grain must not decide what its surface is: the mean of what lies near it, found again from where
    // that mean is (mean shift, Fukunaga & Hostetler 1975).
    let mut level = 0.0;
    for _ in 0..2 {
        let m = moments(kernel, values, weights, [level, 0.0, 0.0], 2.0 * band);
        if m[0] > 0.0 {
            level += m[6] / m[0];
        }
    }
    let first = plane(moments(kernel, values, weights, [level, 0.0, 0.0], 2.0 * band), [level, 0.0, 0.0])?;
    let best = plane(moments(kernel, values, weights, first, band), first)?[0];
    (best.abs() < 1.5 * band).then_some(best)
}

/// Sums over the samples: weight, and weight times x, y, x², xy, y², r, xr, yr, with r the distance from a plane and each
/// weight lessened by it (biweight of width `band`).
#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn moments(kernel: &Kernel, values: &[f32], weights: &[f32], p: [f32; 3], band: f32) -> [f32; 9] {
    let mut sums = [[0.0f32; LANES]; 9];
    let inverse = 1.0 / (band * band);
    let lanes = kernel.dx.chunks_exact(LANES).zip(kernel.dy.chunks_exact(LANES));
    for ((x, y), (v, w)) in lanes.zip(values.chunks_exact(LANES).zip(weights.chunks_exact(LANES))) {
        for i in 0..LANES {
            let r = v[i] - (p[0] + p[1] * x[i] + p[2] * y[i]);
            let t = (1.0 - r * r * inverse).max(0.0);
            let k = w[i] * t * t;
            let terms = [k, k * x[i], k * y[i], k * x[i] * x[i], k * x[i] * y[i], k * y[i] * y[i]];
            for (sum, term) in sums.iter_mut().zip(terms) {
                sum[i] += term;
            }
            sums[6][i] += k * r;
            sums[7][i] += k * r * x[i];
            sums[8][i] += k * r * y[i];
        }
    }
    sums.map(|lanes| lanes.iter().sum())
}

/// The plane that is nearest to the samples, from their sums about another; `None` with too few of them on different
/// lines.
fn plane([w, x, y, xx, xy, yy, r, xr, yr]: [f32; 9], about: [f32; 3]) -> Option<[f32; 3]> {
    let a = glam::DMat3::from_cols_array(&[w, x, y, x, xx, xy, y, xy, yy].map(f64::from));
    if w <= 0.0 || a.determinant().abs() < 1e-6 * f64::from(w).powi(3) {
        return None;
    }
    let p = a.inverse() * glam::DVec3::new(r.into(), xr.into(), yr.into());
    Some([about[0] + p.x as f32, about[1] + p.y as f32, about[2] + p.z as f32])
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(60, 40);

    /// A slant before a wall, and grain of ±1 % on both.
    fn scene() -> (Raster, Raster) {
        let mut state = 7u32;
        let clean = Raster::from_fn(W, 1, |_, x, y| {
            if x < 30 { 1.0 / (0.25 - 0.002 * x as f32 + 0.001 * y as f32) } else { 9.0 }
        });
        let noisy = Raster::from_fn(W, 1, |_, x, y| {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let grain = 0.01 * ((state >> 8) as f32 / (1u32 << 23) as f32 - 1.0);
            clean.sample(0, x, y).unwrap() * (1.0 + grain)
        });
        (clean, noisy)
    }

    fn error(a: &Raster, b: &Raster, columns: std::ops::Range<i32>) -> f32 {
        let apart = |x: i32, y: i32| (a.sample(0, x, y).unwrap() / b.sample(0, x, y).unwrap() - 1.0).powi(2);
        let n = (columns.len() * W.height as usize) as f32;
        (columns.flat_map(|x| W.rows().map(move |y| (x, y))).map(|(x, y)| apart(x, y)).sum::<f32>() / n)
            .sqrt()
    }

    #[test]
    fn grain_goes_and_edges_and_slants_stay() {
        let (clean, noisy) = scene();
        let how = Smooth { radius: 5.0, step: 0.05 };
        let out = smooth(&noisy, how, &Cancel::new()).unwrap();
        let before = error(&noisy, &clean, 0..60);
        assert!(error(&out, &clean, 0..60) < before / 4.0, "{} {before}", error(&out, &clean, 0..60));
        // Beside the edge as well: no sample of the other side is mixed in.
        assert!(error(&out, &clean, 28..32) < before / 2.0, "{} {before}", error(&out, &clean, 28..32));
        // A clean slant is left as it is.
        let same = smooth(&clean, how, &Cancel::new()).unwrap();
        assert!(error(&same, &clean, 0..60) < 1e-5);
    }

    #[test]
    fn what_is_no_depth_stays_so() {
        let no = Raster::filled(W, 1, f32::INFINITY);
        assert_eq!(smooth(&no, Smooth { radius: 4.0, step: 0.1 }, &Cancel::new()).unwrap(), no);
    }
}
