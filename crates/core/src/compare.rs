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
