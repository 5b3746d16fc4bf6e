//! How far two pictures are apart.

use crate::colour::{clipped, srgb_encode};
use crate::{Raster, ShapeError};

/// Figures of a comparison.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Difference {
    /// Peak signal-to-noise ratio, dB, on the sRGB-encoded picture clipped to 0..1; infinite if equal.
    pub psnr: f64,
    /// Largest absolute difference of encoded, clipped values.
    pub largest: f64,
    /// Pixels compared.
    pub pixels: usize,
}

/// Compares the colour planes (R, G, B) of two pictures on one window, where `matte` (if any) is at least
/// ½. PSNR = `10 log₁₀(1 / MSE)`; equal or empty areas give `+inf`.
///
/// # Errors
/// Shapes that do not match.
pub fn difference(a: &Raster, b: &Raster, matte: Option<&Raster>) -> Result<Difference, ShapeError> {
    b.expect_window("second picture", a.window())?;
    if a.channels() < 3 || b.channels() < 3 {
        return Err(ShapeError::Channels {
            what: "picture",
            wanted: 3,
            found: a.channels().min(b.channels()),
        });
    }
    if let Some(m) = matte {
        m.expect_window("matte", a.window())?;
    }
    let inside = |i: usize| matte.is_none_or(|m| m.plane(0)[i] >= 0.5);
    let (mut sum, mut largest) = (0.0f64, 0.0f64);
    let pixels = (0..a.window().area()).filter(|&i| inside(i)).count();
    let encode = |v: f32| f64::from(srgb_encode(clipped(v)));
    for c in 0..3 {
        for (i, (&x, &y)) in a.plane(c).iter().zip(b.plane(c)).enumerate() {
            if inside(i) {
                let d = (encode(x) - encode(y)).abs();
                sum += d * d;
                largest = largest.max(d);
            }
        }
    }
    let psnr = if sum == 0.0 { f64::INFINITY } else { 10.0 * (3.0 * pixels as f64 / sum).log10() };
    Ok(Difference { psnr, largest, pixels })
}

/// Taps of the Gaussian window on each side (11 × 11 in all) and its standard deviation (Wang, Bovik, Sheikh &
/// Simoncelli 2004, section III.B).
const RADIUS: usize = 5;
const SIGMA: f64 = 1.5;

/// Mean structural similarity of the luma of two pictures, encoded as [`difference`] encodes: Gaussian windows
/// 11 × 11 with σ = 1.5, K₁ = 0.01, K₂ = 0.03, L = 1 (Wang et al. 2004), over the pixels whose window lies
/// inside the picture. 1 = the same. Pictures smaller than a window give `None`.
///
/// # Errors
/// Shapes that do not match.
pub fn ssim(a: &Raster, b: &Raster) -> Result<Option<f64>, ShapeError> {
    b.expect_window("second picture", a.window())?;
    let (w, h) = (a.window().width as usize, a.window().height as usize);
    if w <= 2 * RADIUS || h <= 2 * RADIUS {
        return Ok(None);
    }
    let (x, y) = (luma(a), luma(b));
    let product = |p: &[f64], q: &[f64]| p.iter().zip(q).map(|(p, q)| p * q).collect::<Vec<f64>>();
    let blur = |v: Vec<f64>| blurred(&v, w, h);
    let (mx, my) = (blur(x.clone()), blur(y.clone()));
    let (xx, yy, xy) = (blur(product(&x, &x)), blur(product(&y, &y)), blur(product(&x, &y)));
    let (c1, c2) = (0.01f64.powi(2), 0.03f64.powi(2));
    let (mut sum, mut count) = (0.0, 0usize);
    for row in RADIUS..h - RADIUS {
        for i in row * w + RADIUS..row * w + w - RADIUS {
            let (vx, vy) = (xx[i] - mx[i] * mx[i], yy[i] - my[i] * my[i]);
            let cov = xy[i] - mx[i] * my[i];
            sum += (2.0 * mx[i] * my[i] + c1) * (2.0 * cov + c2)
                / ((mx[i] * mx[i] + my[i] * my[i] + c1) * (vx + vy + c2));
            count += 1;
        }
    }
    Ok(Some(sum / count as f64))
}

/// Luma (ITU-R BT.709-6 weights on encoded values), clipped to 0..1.
fn luma(r: &Raster) -> Vec<f64> {
    let plane = |c: usize| r.plane(c.min(r.channels() - 1));
    (0..r.window().area())
        .map(|i| {
            (0..3)
                .map(|c| {
                    f64::from(crate::colour::LUMINANCE[c]) * f64::from(srgb_encode(clipped(plane(c)[i])))
                })
                .sum()
        })
        .collect()
}

/// Gaussian blur; samples whose window leaves the picture are not used by the caller.
fn blurred(v: &[f64], w: usize, h: usize) -> Vec<f64> {
    let weight = |k: isize| (-((k * k) as f64) / (2.0 * SIGMA * SIGMA)).exp();
    let r = RADIUS as isize;
    let total: f64 = (-r..=r).map(weight).sum();
    let kernel: Vec<f64> = (-r..=r).map(|k| weight(k) / total).collect();
    let along = |v: &[f64], stride: usize, inside: &dyn Fn(usize) -> bool| -> Vec<f64> {
        (0..v.len())
            .map(|i| {
                if inside(i) {
                    kernel.iter().enumerate().map(|(k, g)| g * v[i + k * stride - RADIUS * stride]).sum()
                } else {
                    0.0
                }
            })
            .collect()
    };
    let rows = along(v, 1, &|i| (RADIUS..w - RADIUS).contains(&(i % w)));
    along(&rows, w, &|i| (RADIUS..h - RADIUS).contains(&(i / w)))
}

/// Interleaved 8-bit RGB of the absolute difference of two pictures, each clipped to 0..1 and encoded as
/// sRGB, times `gain`.
///
/// # Errors
/// Shapes that do not match.
pub fn picture(a: &Raster, b: &Raster, gain: f32) -> Result<Vec<u8>, ShapeError> {
    use rayon::prelude::*;
    b.expect_window("second picture", a.window())?;
    let code = |r: &Raster, c: usize, i: usize| srgb_encode(clipped(r.plane(c.min(r.channels() - 1))[i]));
    let mut out = vec![0u8; a.window().area() * 3];
    out.par_chunks_mut(3).enumerate().for_each(|(i, px)| {
        for (c, v) in px.iter_mut().enumerate() {
            *v = (clipped((code(a, c, i) - code(b, c, i)).abs() * gain) * 255.0 + 0.5) as u8;
        }
    });
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;
    use crate::colour::srgb_decode;

    #[test]
    fn psnr_by_hand() {
        let w = Window::of_size(2, 1);
        let a = Raster::filled(w, 3, srgb_decode(0.5));
        let b = Raster::filled(w, 3, srgb_decode(0.6));
        // Error 0.1 everywhere: MSE 0.01, 20 dB.
        let d = difference(&a, &b, None).unwrap();
        assert!((d.psnr - 20.0).abs() < 1e-3 && (d.largest - 0.1).abs() < 1e-5 && d.pixels == 2);
        assert_eq!(difference(&a, &a, None).unwrap().psnr, f64::INFINITY);
        let m = Raster::from_planar(w, 1, vec![1.0, 0.0]).unwrap();
        assert_eq!(difference(&a, &b, Some(&m)).unwrap().pixels, 1);
    }
}
