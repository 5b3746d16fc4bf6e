//! Rasters blurred by a Gaussian.

use super::broad::{Broad, weights};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// Largest softness that is worked out, px.
pub const MOST: f32 = 400.0;

/// Px on each side of a pixel that play a part in it when it is made soft by `soft` px.
pub fn radius_of(soft: f32) -> usize {
    let sigma = sigma_of(soft);
    match Broad::of(sigma) {
        _ if sigma <= 0.0 => 0,
        Some(broad) => broad.radius(),
        None => weights(sigma).len() - 1,
    }
}

/// Standard deviation for a softness; 0 for none.
fn sigma_of(soft: f32) -> f32 {
    if soft > 0.0 { 0.5 * soft.min(MOST) } else { 0.0 }
}

/// Blurred by a Gaussian whose standard deviation is half of `soft` px, so that a hard edge fades over about twice
/// `soft`. What lies beyond the raster is as its edge.
///
/// # Errors
/// Cancellation.
pub fn softened(raster: &Raster, soft: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    let sigma = sigma_of(soft);
    if sigma <= 0.0 || raster.window().is_empty() {
        return Ok(raster.clone());
    }
    match Broad::of(sigma) {
        Some(broad) => broad.blurred(raster, cancel),
        None => narrow(raster, &weights(sigma), cancel),
    }
}

/// By a Gaussian that is given from its middle on, first along the rows, then across them.
fn narrow(raster: &Raster, weights: &[f32], cancel: &Cancel) -> Result<Raster, KernelError> {
    let (window, channels, radius) = (raster.window(), raster.channels(), weights.len() - 1);
    let last = (window.bottom() - 1) as i32;
    let mut across = Raster::zeros(window, channels);
    for_each_band(&mut across, cancel, |band| {
        let mut wide = Vec::new();
        for y in band.window().rows() {
            for c in 0..channels {
                widened(raster.row(c, y), radius, &mut wide);
                let out = band.row(c, y);
                let n = out.len();
                out.iter_mut().zip(&wide[radius..]).for_each(|(o, v)| *o = weights[0] * v);
                for (k, w) in (1..).zip(&weights[1..]) {
                    add_both(out, *w, &wide[radius - k..][..n], &wide[radius + k..][..n]);
                }
            }
        }
    })?;
    let mut out = Raster::zeros(window, channels);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            for c in 0..channels {
                let row = band.row(c, y);
                row.iter_mut().zip(across.row(c, y)).for_each(|(o, v)| *o = weights[0] * v);
                for (k, w) in (1i32..).zip(&weights[1..]) {
                    add_both(row, *w, across.row(c, (y - k).max(window.y)), across.row(c, (y + k).min(last)));
                }
            }
        }
    })?;
    Ok(out)
}

/// Adds two rows by one weight.
#[multiversion::multiversion(targets("x86_64+avx2", "aarch64+neon"))]
pub(super) fn add_both(out: &mut [f32], weight: f32, a: &[f32], b: &[f32]) {
    let (a, b) = (&a[..out.len()], &b[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        *v += weight * (a[i] + b[i]);
    }
}

/// A row with its ends carried on by `radius` px.
pub(super) fn widened(row: &[f32], radius: usize, wide: &mut Vec<f32>) {
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
