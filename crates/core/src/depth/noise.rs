//! Grain taken out of a depth without rounding its edges.

use super::is_depth;
use crate::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

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
    let falloff: Vec<f32> =
        (0..=2 * reach * reach).map(|d2| (-0.5 * d2 as f32 / (0.5 * radius).powi(2)).exp()).collect();
    let mut out = depth.clone();
    for_each_band(&mut out, cancel, |band| {
        let own = band.window();
        let mut samples = Vec::new();
        for y in own.rows() {
            for (x, v) in (own.x..).zip(band.row(0, y)) {
                if !is_depth(*v) {
                    continue;
                }
                let middle = 1.0 / *v;
                gather(depth, (x, y), reach, &falloff, &mut samples);
                let band_ = how.step * middle;
                // The pixel's own grain must not decide what its surface is.
                let level = robust_level(&mut samples, middle, band_);
                let plane = fit(&samples, |s| biweight(s.value - level, 2.0 * band_));
                let plane =
                    plane.and_then(|p| fit(&samples, |s| biweight(s.value - p.at(s.dx, s.dy), band_)));
                if let Some(p) = plane
                    && p.at(0.0, 0.0) > 0.0
                    && (p.at(0.0, 0.0) - middle).abs() < 1.5 * band_
                {
                    *v = 1.0 / p.at(0.0, 0.0);
                }
            }
        }
    })?;
    Ok(out)
}

struct Sample {
    dx: f32,
    dy: f32,
    value: f32,
    weight: f32,
}

fn gather(depth: &Raster, (x, y): (i32, i32), reach: i32, falloff: &[f32], samples: &mut Vec<Sample>) {
    let window = depth.window();
    samples.clear();
    let (top, bottom) = ((y - reach).max(window.y), (y + reach).min((window.bottom() - 1) as i32));
    let (left, right) = ((x - reach).max(window.x), (x + reach).min((window.right() - 1) as i32));
    for sy in top..=bottom {
        let row = &depth.row(0, sy)[(left - window.x) as usize..=(right - window.x) as usize];
        for (sx, &z) in (left..).zip(row) {
            if is_depth(z) {
                let (dx, dy) = (sx - x, sy - y);
                let weight = falloff[(dx * dx + dy * dy) as usize];
                samples.push(Sample { dx: dx as f32, dy: dy as f32, value: 1.0 / z, weight });
            }
        }
    }
}

/// The mean of what lies near a value, found again from where that mean is (mean shift, Fukunaga & Hostetler 1975).
fn robust_level(samples: &mut [Sample], start: f32, band: f32) -> f32 {
    let mut level = start;
    for _ in 0..2 {
        let (mut sum, mut count) = (0.0, 0.0);
        for s in samples.iter() {
            let w = s.weight * biweight(s.value - level, 2.0 * band);
            (sum, count) = (sum + w * s.value, count + w);
        }
        if count > 0.0 {
            level = sum / count;
        }
    }
    level
}

/// 1 at no difference, 0 from `most` on.
fn biweight(difference: f32, most: f32) -> f32 {
    let t = 1.0 - (difference / most).powi(2);
    if t > 0.0 { t * t } else { 0.0 }
}

/// A plane over the picture: value and its slopes.
struct Plane {
    value: f32,
    slope: [f32; 2],
}

impl Plane {
    fn at(&self, dx: f32, dy: f32) -> f32 {
        self.value + self.slope[0] * dx + self.slope[1] * dy
    }
}

/// Weighted least squares; `None` with too few samples on different lines.
fn fit(samples: &[Sample], weigh: impl Fn(&Sample) -> f32) -> Option<Plane> {
    let mut m = [0.0f64; 6];
    let mut r = [0.0f64; 3];
    for s in samples {
        let w = f64::from(s.weight * weigh(s));
        if w > 0.0 {
            let (x, y, v) = (f64::from(s.dx), f64::from(s.dy), f64::from(s.value));
            for (sum, term) in m.iter_mut().zip([1.0, x, y, x * x, x * y, y * y]) {
                *sum += w * term;
            }
            for (sum, term) in r.iter_mut().zip([1.0, x, y]) {
                *sum += w * term * v;
            }
        }
    }
    let [w, x, y, xx, xy, yy] = m;
    let a = glam::DMat3::from_cols_array(&[w, x, y, x, xx, xy, y, xy, yy]);
    if w <= 0.0 || a.determinant().abs() < 1e-9 * w.powi(3) {
        return None;
    }
    let p = a.inverse() * glam::DVec3::from(r);
    Some(Plane { value: p.x as f32, slope: [p.y as f32, p.z as f32] })
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
