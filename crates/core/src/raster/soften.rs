//! Rasters blurred by a Gaussian.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// Largest softness that is worked out, px.
pub const MOST: f32 = 400.0;

/// Px on each side of a Gaussian for a softness of `soft` px.
pub fn radius_of(soft: f32) -> usize {
    // At three standard deviations 0.3 % are left.
    if soft > 0.0 { (1.5 * soft.min(MOST)).ceil() as usize } else { 0 }
}

/// Blurred by a Gaussian whose standard deviation is half of `soft` px, so that a hard edge fades over about twice
/// `soft`. What lies beyond the raster is as its edge.
///
/// # Errors
/// Cancellation.
pub fn softened(raster: &Raster, soft: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    let radius = radius_of(soft);
    if radius == 0 || raster.window().is_empty() {
        return Ok(raster.clone());
    }
    let sigma = 0.5 * soft.min(MOST);
    let weights: Vec<f32> = (0..=radius).map(|i| (-0.5 * (i as f32 / sigma).powi(2)).exp()).collect();
    let sum = weights[0] + 2.0 * weights[1..].iter().sum::<f32>();
    let weights: Vec<f32> = weights.iter().map(|w| w / sum).collect();
    let (window, channels) = (raster.window(), raster.channels());
    let mut across = Raster::zeros(window, channels);
    for_each_band(&mut across, cancel, |band| {
        let mut wide = Vec::new();
        for y in band.window().rows() {
            for c in 0..channels {
                let row = raster.row(c, y);
                widened(row, radius, &mut wide);
                let out = band.row(c, y);
                let n = out.len();
                for (k, w) in weights.iter().enumerate() {
                    let (left, right) = (&wide[radius - k..][..n], &wide[radius + k..][..n]);
                    let twice = if k == 0 { 0.5 } else { 1.0 };
                    (0..n).for_each(|i| out[i] += w * twice * (left[i] + right[i]));
                }
            }
        }
    })?;
    let mut out = Raster::zeros(window, channels);
    let last = (window.bottom() - 1) as i32;
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            for c in 0..channels {
                let row = band.row(c, y);
                for (k, w) in (0i32..).zip(&weights) {
                    let (above, below) =
                        (across.row(c, (y - k).max(window.y)), across.row(c, (y + k).min(last)));
                    let twice = if k == 0 { 0.5 } else { 1.0 };
                    (0..row.len()).for_each(|i| row[i] += w * twice * (above[i] + below[i]));
                }
            }
        }
    })?;
    Ok(out)
}

/// A row with its ends carried on by `radius` px.
fn widened(row: &[f32], radius: usize, wide: &mut Vec<f32>) {
    wide.clear();
    let ends = row.first().copied().zip(row.last().copied()).unwrap_or_default();
    wide.extend(std::iter::repeat_n(ends.0, radius));
    wide.extend_from_slice(row);
    wide.extend(std::iter::repeat_n(ends.1, radius));
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn disc(r: f32) -> Raster {
        Raster::from_fn(Window::new(-40, -40, 81, 81), 1, |_, x, y| {
            f32::from(u8::from((x as f32).hypot(y as f32) <= r))
        })
    }

    #[test]
    fn softening_keeps_the_sum_and_the_middle_of_an_edge() {
        let before = disc(20.0);
        let after = softened(&before, 6.0, &Cancel::new()).unwrap();
        let sum = |r: &Raster| r.plane(0).iter().sum::<f32>();
        assert!((sum(&after) / sum(&before) - 1.0).abs() < 1e-4);
        let step = Raster::from_fn(Window::of_size(60, 3), 1, |_, x, _| f32::from(u8::from(x < 30)));
        let s = softened(&step, 8.0, &Cancel::new()).unwrap();
        // The integral of a Gaussian of 4 px: Φ(0.125) and Φ(1.125) (handbook values 0.5497, 0.8697).
        assert!((s.sample(0, 29, 1).unwrap() - 0.5497).abs() < 2e-3, "{:?}", s.sample(0, 29, 1));
        assert!((s.sample(0, 25, 1).unwrap() - 0.8697).abs() < 2e-3, "{:?}", s.sample(0, 25, 1));
    }
}
