//! An unsharp mask in a logarithmic encoding, so that bright edges get no bright halos.

use crate::raster::bands::for_each_band;
use crate::raster::soften::softened;
use crate::{Cancel, KernelError, Raster};

/// ACEScct, the curve alone (AMPAS S-2016-001).
pub fn acescct(v: f32) -> f32 {
    if v <= 0.007_812_5 { 10.540_238 * v + 0.072_905_53 } else { (v.log2() + 9.72) / 17.52 }
}

/// The light of an ACEScct value.
pub fn from_acescct(v: f32) -> f32 {
    if v <= 0.155_251_14 { (v - 0.072_905_53) / 10.540_238 } else { (v * 17.52 - 9.72).exp2() }
}

/// How a picture is sharpened; it looks three deviations around a pixel.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sharpen {
    /// Standard deviation of the blur that tells what is fine, px.
    pub radius: f32,
    /// How much of what is fine is added.
    pub amount: f32,
    /// What is finer than this, in stops, is left alone.
    pub threshold: f32,
}

/// Sharpens a picture (RGBA, linear, premultiplied); coverage stays, and what is not covered sharpens nothing beside it.
///
/// # Errors
/// Another number of planes; cancellation.
pub fn sharpen(picture: &Raster, how: Sharpen, cancel: &Cancel) -> Result<Raster, KernelError> {
    picture.expect_channels("the picture", 4)?;
    let mut logs = Raster::zeros(picture.window(), 4);
    for_each_band(&mut logs, cancel, |band| {
        for y in band.window().rows() {
            let alpha = picture.row(3, y);
            for c in 0..3 {
                for ((to, v), a) in band.row(c, y).iter_mut().zip(picture.row(c, y)).zip(alpha) {
                    *to = if *a > 0.0 && v.is_finite() { acescct(v / a) * a } else { 0.0 };
                }
            }
            band.row(3, y).copy_from_slice(alpha);
        }
    })?;
    let soft = softened(&logs, 2.0 * how.radius, cancel)?;
    // A stop is 1/17.52 of the encoding.
    let threshold = how.threshold.max(0.0) / 17.52;
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            for c in 0..3 {
                let (own, low) = (logs.row(c, y), soft.row(c, y));
                let (alpha, covered) = (logs.row(3, y), soft.row(3, y));
                for (x, to) in band.row(c, y).iter_mut().enumerate() {
                    let a = alpha[x];
                    if a <= 0.0 || covered[x] <= 0.0 || !to.is_finite() {
                        continue;
                    }
                    let v = own[x] / a;
                    let fine = v - low[x] / covered[x];
                    let taken = (fine.abs() - threshold).max(0.0).copysign(fine) * how.amount;
                    if taken != 0.0 {
                        *to = from_acescct(v + taken).max(0.0) * a;
                    }
                }
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const HOW: Sharpen = Sharpen { radius: 1.5, amount: 1.0, threshold: 0.0 };

    fn edge() -> Raster {
        Raster::from_fn(Window::of_size(40, 9), 4, |c, x, _| match c {
            3 => 1.0,
            _ => 0.18 * if x < 20 { 1.0 } else { 4.0 },
        })
    }

    #[test]
    fn the_curve_is_the_published_one_and_goes_back() {
        // S-2016-001: 0.18 is 0.4135884.
        assert!((acescct(0.18) - 0.413_588_4).abs() < 1e-6);
        for v in [0.0, 0.001, 0.007_812_5, 0.02, 1.0, 60.0] {
            assert!((from_acescct(acescct(v)) - v).abs() < 1e-5 * (1.0 + v));
        }
    }

    #[test]
    fn an_edge_gets_as_much_darker_as_brighter_in_stops_and_what_is_even_stays() {
        let out = sharpen(&edge(), HOW, &Cancel::new()).unwrap();
        let row = out.row(0, 4);
        let (dark, bright) = (0.18 / row[19], row[20] / 0.72);
        assert!(dark > 1.2 && (dark / bright - 1.0).abs() < 1e-3, "{dark} {bright}");
        assert!((row[10] - 0.18).abs() < 1e-6 && (row[30] - 0.72).abs() < 1e-5);
        assert_eq!(out.plane(3), edge().plane(3));
        let none = Sharpen { threshold: 3.0, ..HOW };
        assert_eq!(sharpen(&edge(), none, &Cancel::new()).unwrap(), edge());
    }

    #[test]
    fn what_is_not_covered_sharpens_nothing() {
        let half = Raster::from_fn(Window::of_size(30, 5), 4, |c, x, _| match (x < 15, c) {
            (false, _) => 0.0,
            (true, 3) => 1.0,
            (true, _) => 0.4,
        });
        let out = sharpen(&half, HOW, &Cancel::new()).unwrap();
        let apart = out.data().iter().zip(half.data()).map(|(a, b)| (a - b).abs());
        assert!(apart.fold(0.0, f32::max) < 1e-5);
    }
}
