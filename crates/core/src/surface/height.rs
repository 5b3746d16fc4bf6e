//! Height from a picture, and from normals.

use crate::colour::srgb_encode;
use crate::raster::bands::for_each_band;
use crate::raster::soften::softened;
use crate::{Cancel, KernelError, Raster};
use rayon::prelude::*;
use rustfft::FftPlanner;
use rustfft::num_complex::Complex32;

/// How bright becomes high.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FromPicture {
    /// Shares of red, green and blue; they are divided by the sum of their sizes.
    pub weights: [f32; 3],
    /// Dark is high instead.
    pub invert: bool,
    /// Blur, px of the scale.
    pub blur: f32,
    /// Broad shading is flattened above this size, px of the scale; 0 leaves it.
    pub flatten: f32,
    /// Factor about the middle.
    pub contrast: f32,
}

/// Height, about 0..1, from a picture (RGBA premultiplied): its weighted channels as on a screen (sRGB curve), so that an
/// even step seen is an even step of height; ½ where nothing covers.
///
/// # Errors
/// A picture without exactly four channels; cancellation.
pub fn from_picture(picture: &Raster, how: FromPicture, cancel: &Cancel) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    let total: f32 = how.weights.iter().map(|w| w.abs()).sum();
    let weights = how.weights.map(|w| w / total.max(1e-6));
    // A negative share counts from white.
    let base: f32 = weights.iter().filter(|w| **w < 0.0).map(|w| -w).sum();
    let mut h = Raster::zeros(picture.window(), 1);
    for_each_band(&mut h, cancel, |band| {
        for y in band.window().rows() {
            let [r, g, b, a] = picture.rows(y);
            for (i, v) in band.row(0, y).iter_mut().enumerate() {
                let straight = |p: &[f32]| {
                    if p[i].is_finite() { srgb_encode((p[i] / a[i]).clamp(0.0, 1e3)) } else { 0.0 }
                };
                let seen = [straight(r), straight(g), straight(b)];
                let sum = base + weights.iter().zip(seen).map(|(w, s)| w * s).sum::<f32>();
                *v = if a[i] > 0.0 { if how.invert { 1.0 - sum } else { sum } } else { 0.5 };
            }
        }
    })?;
    h = softened(&h, how.blur, cancel)?;
    let broad = if how.flatten > 0.0 { Some(softened(&h, how.flatten, cancel)?) } else { None };
    let mut out = h;
    for (i, v) in out.plane_mut(0).iter_mut().enumerate() {
        let flat = broad.as_ref().map_or(*v, |b| 0.5 + *v - b.plane(0)[i]);
        *v = 0.5 + (flat - 0.5) * how.contrast;
    }
    Ok(out)
}

/// Height whose slopes are nearest to those of the normals in least squares (Frankot & Chellappa 1988), px units, its
/// mean 0: `p = ∂h/∂x = −n_x/n_z`, `q = ∂h/∂y = +n_y/n_z` (y down in storage), divided by `strength`. A picture that does
/// not repeat is mirrored first, which keeps its border from wrapping. Where there is no normal, or one that faces
/// away, it is flat.
///
/// # Errors
/// Normals without exactly three channels; cancellation.
pub fn from_normals(
    normals: &Raster,
    strength: f32,
    tileable: bool,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    normals.expect_channels("normals", 3)?;
    let window = normals.window();
    let (w, h) = (window.width as usize, window.height as usize);
    if w * h == 0 {
        return Ok(Raster::zeros(window, 1));
    }
    let (wide, high) = if tileable { (w, h) } else { (2 * w, 2 * h) };
    let k = 1.0 / if strength.abs() > 1e-9 { strength } else { 1e-9 };
    let slope = |x: usize, y: usize| {
        // Mirrored, the height is even; so its slope along the mirrored axis turns its sign.
        let (mx, sx) = if x < w { (x, 1.0) } else { (2 * w - 1 - x, -1.0) };
        let (my, sy) = if y < h { (y, 1.0) } else { (2 * h - 1 - y, -1.0) };
        let at = my * w + mx;
        let [nx, ny, nz] = std::array::from_fn(|c| normals.plane(c)[at]);
        if !(nz > STEEP && nx.is_finite() && ny.is_finite()) {
            return Complex32::new(0.0, 0.0);
        }
        // Both slopes in one transform: p as the real part, q as the imaginary.
        Complex32::new(-nx / nz * k * sx, ny / nz * k * sy)
    };
    let mut f: Vec<Complex32> = (0..wide * high).into_par_iter().map(|i| slope(i % wide, i / wide)).collect();
    transform(&mut f, wide, high, false, cancel)?;
    let mut z = integrated(&f, wide, high);
    transform(&mut z, wide, high, true, cancel)?;
    let scale = 1.0 / (wide * high) as f32;
    let mut out = Raster::zeros(window, 1);
    for y in 0..h {
        let from = &z[y * wide..y * wide + w];
        out.plane_mut(0)[y * w..(y + 1) * w].iter_mut().zip(from).for_each(|(o, v)| *o = v.re * scale);
    }
    let mean = out.plane(0).iter().map(|v| f64::from(*v)).sum::<f64>() / (w * h) as f64;
    out.plane_mut(0).iter_mut().for_each(|v| *v -= mean as f32);
    Ok(out)
}

/// Normals this near to the horizon have no slope to speak of.
const STEEP: f32 = 0.02;

/// Height in frequencies from both slopes in frequencies. The slopes of the samples are taken to be those of central
/// differences, `sin ω`, where these see the frequency at all, which closes the circle with the kernels of
/// [`super::normals`].
fn integrated(f: &[Complex32], wide: usize, high: usize) -> Vec<Complex32> {
    let of = |i: usize| {
        let (x, y) = (i % wide, i / wide);
        let own = f[i];
        let mirror = f[(high - y) % high * wide + (wide - x) % wide].conj();
        // Split the transforms of the real and the imaginary part.
        let p = (own + mirror) * 0.5;
        let q = (own - mirror) * Complex32::new(0.0, -0.5);
        let turn = |k: usize, n: usize| {
            let k = if 2 * k > n { k as f32 - n as f32 } else { k as f32 };
            std::f32::consts::TAU * k / n as f32
        };
        let (u, v) = (turn(x, wide), turn(y, high));
        let sum = u * u + v * v;
        if sum == 0.0 { Complex32::new(0.0, 0.0) } else { (p * u + q * v) * Complex32::new(0.0, -1.0) / sum }
    };
    (0..f.len()).into_par_iter().map(of).collect()
}

/// A transform of rows, then of columns.
fn transform(
    f: &mut Vec<Complex32>,
    wide: usize,
    high: usize,
    back: bool,
    cancel: &Cancel,
) -> Result<(), KernelError> {
    let mut planner = FftPlanner::new();
    for (n, rows) in [(wide, high), (high, wide)] {
        cancel.check()?;
        let plan = if back { planner.plan_fft_inverse(n) } else { planner.plan_fft_forward(n) };
        f.par_chunks_mut(n).for_each(|row| plan.process(row));
        let turned = (0..f.len()).into_par_iter().map(|i| f[i % rows * n + i / rows]).collect();
        *f = turned;
    }
    Ok(())
}

/// How strongly a height's bands of detail come through.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Bands {
    /// Detail finer than `size`.
    pub fine: f32,
    /// Detail between `size` and four times that.
    pub middle: f32,
    /// All that is broader.
    pub broad: f32,
    /// Where fine detail ends, px.
    pub size: f32,
}

/// A height with its bands of detail weighed: the height less its blur, the difference of two blurs, and the broader
/// blur. Weights of 1 give the height itself, every bit of it.
///
/// # Errors
/// A height without exactly one channel; cancellation.
pub fn weighed(height: &Raster, bands: Bands, cancel: &Cancel) -> Result<Raster, KernelError> {
    height.expect_channels("height", 1)?;
    let Bands { fine, middle, broad, size } = bands;
    if fine == 1.0 && middle == 1.0 && broad == 1.0 {
        return Ok(height.clone());
    }
    let calm = softened(height, size, cancel)?;
    let calmer = softened(height, size * 4.0, cancel)?;
    let mut out = height.clone();
    for ((h, a), b) in out.plane_mut(0).iter_mut().zip(calm.plane(0)).zip(calmer.plane(0)) {
        *h = fine * (*h - a) + middle * (a - b) + broad * b;
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::super::normals::{Derivative, FromHeight, from_height};
    use super::*;
    use crate::Window;

    fn hills(w: Window) -> Raster {
        Raster::from_fn(w, 1, |_, x, y| {
            let bump = |cx: f32, cy: f32, s: f32| {
                (-((x as f32 - cx).powi(2) + (y as f32 - cy).powi(2)) / (2.0 * s * s)).exp()
            };
            8.0 * bump(40.0, 30.0, 12.0) - 5.0 * bump(80.0, 50.0, 9.0) + 0.04 * x as f32
        })
    }

    fn rms(a: &Raster, b: &Raster) -> f32 {
        let mean = |r: &Raster| r.plane(0).iter().sum::<f32>() / r.plane(0).len() as f32;
        let (ma, mb) = (mean(a), mean(b));
        let n = a.plane(0).len() as f32;
        (a.plane(0).iter().zip(b.plane(0)).map(|(x, y)| ((x - ma) - (y - mb)).powi(2)).sum::<f32>() / n)
            .sqrt()
    }

    #[test]
    fn the_height_of_known_normals_comes_back_within_a_hundredth() {
        let w = Window::of_size(120, 80);
        let h = hills(w);
        let how = FromHeight { strength: 1.0, kernel: Derivative::Central, tileable: false, y_down: false };
        let n = from_height(&h, how, &Cancel::new()).unwrap();
        let back = from_normals(&n, 1.0, false, &Cancel::new()).unwrap();
        let range = 13.0;
        assert!(rms(&back, &h) / range < 0.01, "{}", rms(&back, &h) / range);
        // Twice the strength on the way out, half on the way back.
        let n = from_height(&h, FromHeight { strength: 2.0, ..how }, &Cancel::new()).unwrap();
        assert!(rms(&from_normals(&n, 2.0, false, &Cancel::new()).unwrap(), &h) / range < 0.01);
    }

    #[test]
    fn a_map_that_repeats_comes_back_too() {
        let w = Window::of_size(64, 48);
        let turn = |k: i32, n: i32| std::f32::consts::TAU * k as f32 / n as f32;
        let h = Raster::from_fn(w, 1, |_, x, y| 3.0 * turn(2 * x, 64).sin() + 2.0 * turn(3 * y, 48).cos());
        let how = FromHeight { strength: 1.0, kernel: Derivative::Central, tileable: true, y_down: false };
        let n = from_height(&h, how, &Cancel::new()).unwrap();
        let back = from_normals(&n, 1.0, true, &Cancel::new()).unwrap();
        assert!(rms(&back, &h) / 10.0 < 0.01, "{}", rms(&back, &h));
        assert_eq!(
            from_normals(&Raster::zeros(w, 3), 1.0, true, &Cancel::new()).unwrap(),
            Raster::zeros(w, 1)
        );
    }

    #[test]
    fn bright_is_high_as_it_looks() {
        let w = Window::of_size(3, 1);
        let p = Raster::from_fn(w, 4, |c, x, _| {
            [[0.0, 0.0, 0.0, 1.0], [0.107, 0.107, 0.107, 0.5], [0.0, 1.0, 0.0, 1.0]][x as usize][c]
        });
        let how = FromPicture { weights: [1.0; 3], invert: false, blur: 0.0, flatten: 0.0, contrast: 1.0 };
        let go = |how| from_picture(&p, how, &Cancel::new()).unwrap().into_data();
        let h = go(how);
        assert!(h[0].abs() < 1e-6 && (h[1] - 0.5).abs() < 1e-3 && (h[2] - 1.0 / 3.0).abs() < 1e-5, "{h:?}");
        assert!((go(FromPicture { invert: true, ..how })[1] - 0.5).abs() < 1e-3);
        assert!((go(FromPicture { weights: [0.0, 1.0, 0.0], ..how })[2] - 1.0).abs() < 1e-6);
        assert!(go(FromPicture { weights: [0.0, -1.0, 0.0], ..how })[2].abs() < 1e-6);
        assert!((go(FromPicture { contrast: 2.0, ..how })[0] + 0.5).abs() < 1e-6);
    }

    #[test]
    fn broad_shading_is_flattened_and_grain_stays() {
        let w = Window::of_size(200, 40);
        let p = Raster::from_fn(w, 4, |c, x, _| {
            if c == 3 { 1.0 } else { 0.1 + 0.003 * x as f32 + if x % 2 == 0 { 0.05 } else { 0.0 } }
        });
        let how = FromPicture { weights: [1.0; 3], invert: false, blur: 0.0, flatten: 12.0, contrast: 1.0 };
        let h = from_picture(&p, how, &Cancel::new()).unwrap();
        let mean = |from: i32| (from..from + 20).map(|x| h.sample(0, x, 20).unwrap()).sum::<f32>() / 20.0;
        assert!((mean(50) - mean(140)).abs() < 0.02);
        assert!(h.sample(0, 100, 20).unwrap() - h.sample(0, 101, 20).unwrap() > 0.02);
    }

    #[test]
    fn bands_come_through_as_they_are_weighed() {
        let w = Window::of_size(128, 32);
        let wave = |length: f32| {
            Raster::from_fn(w, 1, move |_, x, _| (x as f32 * std::f32::consts::TAU / length).sin())
        };
        let (fine, broad) = (wave(4.0), wave(128.0));
        let both =
            Raster::from_fn(w, 1, |_, x, y| fine.sample(0, x, y).unwrap() + broad.sample(0, x, y).unwrap());
        let of = |fine, middle, broad| {
            weighed(&both, Bands { fine, middle, broad, size: 6.0 }, &Cancel::new()).unwrap()
        };
        assert_eq!(of(1.0, 1.0, 1.0), both);
        let off = |a: &Raster, b: &Raster| {
            let inside = 30..98;
            inside
                .map(|x| (a.sample(0, x, 16).unwrap() - b.sample(0, x, 16).unwrap()).abs())
                .fold(0.0, f32::max)
        };
        assert!(off(&of(1.0, 0.0, 0.0), &fine) < 0.05, "{}", off(&of(1.0, 0.0, 0.0), &fine));
        assert!(off(&of(0.0, 1.0, 1.0), &broad) < 0.05);
        let twice = of(2.0, 2.0, 2.0);
        assert!(twice.data().iter().zip(both.data()).all(|(a, b)| (a - 2.0 * b).abs() < 1e-5));
    }
}
