//! Light from all directions as nine real spherical harmonics, and the light of a picture told by them.
//!
//! A matt surface smooths what falls on it so much that nine numbers a channel tell its light within a percent or two
//! (Ramamoorthi & Hanrahan 2001, "An Efficient Representation for Irradiance Environment Maps").

use crate::colour::luminance;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::{Vec2, Vec3};
use std::f32::consts::PI;

/// The nine real harmonics of degree 0 to 2 in a unit direction (their eq. 3, the same order).
#[inline]
pub fn basis(n: Vec3) -> [f32; 9] {
    let Vec3 { x, y, z } = n;
    [
        0.282_095,
        0.488_603 * y,
        0.488_603 * z,
        0.488_603 * x,
        1.092_548 * x * y,
        1.092_548 * y * z,
        0.315_392 * (3.0 * z * z - 1.0),
        1.092_548 * x * z,
        0.546_274 * (x * x - y * y),
    ]
}

/// What a clamped cosine keeps of each degree: π, 2π/3, π/4 (their eq. 8).
const KEPT: [f32; 9] = {
    let (a, b, c) = (PI, PI * 2.0 / 3.0, PI / 4.0);
    [a, b, b, b, c, c, c, c, c]
};

/// A colour for every direction.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Harmonics(pub [[f32; 3]; 9]);

impl Harmonics {
    /// No light.
    pub const NONE: Self = Self([[0.0; 3]; 9]);

    /// The value in a unit direction.
    #[inline]
    pub fn at(&self, n: Vec3) -> Vec3 {
        basis(n).iter().zip(&self.0).map(|(b, c)| Vec3::from(*c) * *b).sum()
    }

    /// Adds radiance that comes from a unit direction out of a solid angle (steradian).
    pub fn add(&mut self, from: Vec3, radiance: Vec3, angle: f32) {
        for (c, b) in self.0.iter_mut().zip(basis(from)) {
            *c = (Vec3::from(*c) + radiance * (b * angle)).into();
        }
    }

    /// From radiance to irradiance: what falls on a surface that faces each direction.
    pub fn on_surfaces(&self) -> Self {
        Self(std::array::from_fn(|i| self.0[i].map(|v| v * KEPT[i])))
    }
}

/// Light that was found in a picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fit {
    /// What a white surface shows in each direction that it may face (irradiance ÷ π).
    pub light: Harmonics,
    /// How well it explains the brightness of what was not left out, 0..=1 (1 − unexplained ÷ all variance).
    pub explained: f32,
    /// Share of the pixels that count by more than half: the others are in shadow, or shine.
    pub used: f32,
}

/// Rounds of reweighting: the weights no longer move after about ten.
const ROUNDS: usize = 14;

/// Tukey's biweight leaves out what lies farther off than this many standard deviations (Beaton & Tukey 1974; the
/// figure gives 95 % efficiency on normal errors).
const TUKEY: f64 = 4.685;

/// How much a coefficient of degree 1 and 2 is held toward zero, as a share of the pixels: directions that face away
/// from the viewer are never seen, and without it nine functions on half a ball would swing there.
const RIDGE: [f64; 3] = [1e-7, 1e-5, 1e-4];

/// Largest number of pixels that are looked at; more change nothing but the time.
const MOST: usize = 60_000;

/// Finds the light in a picture (RGBA premultiplied) from unit normals, and from the surface's colour (3 planes) where
/// that is known; else the surface is taken to be of one colour. Least squares of `picture ÷ albedo` on the nine
/// harmonics of the normals, reweighted so that shadows and highlights lose their say. `None` where fewer than 50
/// pixels can be used.
///
/// # Errors
/// Shapes that do not match.
pub fn fit(picture: &Raster, normals: &Raster, albedo: Option<&Raster>) -> Result<Option<Fit>, KernelError> {
    picture.expect_channels("picture", 4)?;
    normals.expect_channels("normals", 3)?;
    normals.expect_window("normals", picture.window())?;
    if let Some(albedo) = albedo {
        albedo.expect_channels("albedo", 3)?;
        albedo.expect_window("albedo", picture.window())?;
    }
    let samples = samples(picture, normals, albedo);
    Ok((samples.len() >= 50).then(|| robust(&samples)))
}

/// A direction's harmonics and what is seen there.
struct Sample {
    basis: [f64; 9],
    seen: [f64; 3],
}

fn samples(picture: &Raster, normals: &Raster, albedo: Option<&Raster>) -> Vec<Sample> {
    let count = picture.window().area();
    let stride = count.div_ceil(MOST).max(1);
    // Not in step with the rows, or columns would be left out.
    let stride = if stride > 1 { stride | 1 } else { 1 };
    let mut found = Vec::with_capacity(count / stride);
    for i in (0..count).step_by(stride) {
        let at = |r: &Raster| Vec3::from_array(std::array::from_fn(|c| r.plane(c)[i]));
        let (n, alpha) = (at(normals), picture.plane(3)[i]);
        if alpha < 0.99 || n.length_squared().is_nan() || n.length_squared() < 0.25 {
            continue;
        }
        let colour = albedo.map_or(Vec3::ONE, at);
        let seen = at(picture) / colour;
        // Too dark a surface tells its own noise.
        if colour.min_element() < 0.02 || !seen.is_finite() {
            continue;
        }
        found.push(Sample {
            basis: basis(n.normalize()).map(f64::from),
            seen: seen.to_array().map(f64::from),
        });
    }
    found
}

fn robust(samples: &[Sample]) -> Fit {
    let brightness = |v: [f64; 3]| f64::from(luminance(v.map(|v| v as f32)));
    let mut weights = vec![1.0; samples.len()];
    let mut light = [[0.0; 3]; 9];
    let mut left = vec![0.0; samples.len()];
    for _ in 0..ROUNDS {
        light = solve(samples, &weights);
        for (l, s) in left.iter_mut().zip(samples) {
            *l = brightness(s.seen) - brightness(told(&light, &s.basis));
        }
        // The median of what is left is 0.6745 standard deviations of a normal error.
        let mut sizes: Vec<f64> = left.iter().map(|v: &f64| v.abs()).collect();
        let middle = sizes.len() / 2;
        let (_, median, _) = sizes.select_nth_unstable_by(middle, f64::total_cmp);
        let far = TUKEY * (*median / 0.6745).max(1e-9);
        for (w, l) in weights.iter_mut().zip(&left) {
            let r = l / far;
            *w = if r.abs() < 1.0 { (1.0 - r * r).powi(2) } else { 0.0 };
        }
    }
    let all: f64 = weights.iter().sum::<f64>().max(1e-12);
    let mean = samples.iter().zip(&weights).map(|(s, w)| w * brightness(s.seen)).sum::<f64>() / all;
    let (mut whole, mut rest) = (0.0, 0.0);
    for ((s, w), l) in samples.iter().zip(&weights).zip(&left) {
        whole += w * (brightness(s.seen) - mean).powi(2);
        rest += w * l * l;
    }
    Fit {
        light: Harmonics(light.map(|c| c.map(|v| v as f32))),
        explained: if whole > 0.0 { (1.0 - rest / whole).clamp(0.0, 1.0) as f32 } else { 1.0 },
        used: weights.iter().filter(|w| **w > 0.5).count() as f32 / samples.len() as f32,
    }
}

fn told(light: &[[f64; 3]; 9], basis: &[f64; 9]) -> [f64; 3] {
    std::array::from_fn(|c| (0..9).map(|k| light[k][c] * basis[k]).sum())
}

/// Weighted least squares by the normal equations, held a little toward zero ([`RIDGE`]).
fn solve(samples: &[Sample], weights: &[f64]) -> [[f64; 3]; 9] {
    let (mut a, mut b) = ([[0.0; 9]; 9], [[0.0; 3]; 9]);
    for (s, w) in samples.iter().zip(weights).filter(|(_, w)| **w > 0.0) {
        for i in 0..9 {
            let k = w * s.basis[i];
            (0..=i).for_each(|j| a[i][j] += k * s.basis[j]);
            (0..3).for_each(|c| b[i][c] += k * s.seen[c]);
        }
    }
    let all: f64 = weights.iter().sum::<f64>().max(1.0);
    for (i, row) in a.iter_mut().enumerate() {
        row[i] += all * RIDGE[[0, 1, 1, 1, 2, 2, 2, 2, 2][i]];
    }
    cholesky(a, b)
}

/// Solves a symmetric positive definite system whose lower half is given, for three right-hand sides (any numerical
/// handbook).
fn cholesky(mut a: [[f64; 9]; 9], mut b: [[f64; 3]; 9]) -> [[f64; 3]; 9] {
    for i in 0..9 {
        for j in 0..=i {
            let sum = a[i][j] - (0..j).map(|k| a[i][k] * a[j][k]).sum::<f64>();
            a[i][j] = if i == j { sum.max(1e-12).sqrt() } else { sum / a[j][j] };
        }
    }
    for i in 0..9 {
        b[i] = std::array::from_fn(|c| (b[i][c] - (0..i).map(|k| a[i][k] * b[k][c]).sum::<f64>()) / a[i][i]);
    }
    for i in (0..9).rev() {
        b[i] =
            std::array::from_fn(|c| (b[i][c] - (i + 1..9).map(|k| a[k][i] * b[k][c]).sum::<f64>()) / a[i][i]);
    }
    b
}

/// Smallest light that a ratio divides by, as a share of the mean: below it there is nothing to tell the colour from.
const DARKEST: f32 = 0.02;

/// A picture (RGBA premultiplied) as it would be if the light were `wanted` instead of `own`: each pixel times the ratio
/// of both at its normal, held to `most` times brighter or darker. Places without a normal stay.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn relit(
    picture: &Raster,
    normals: &Raster,
    own: &Harmonics,
    wanted: &Harmonics,
    most: f32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    normals.expect_channels("normals", 3)?;
    normals.expect_window("normals", picture.window())?;
    let mean = |h: &Harmonics| Vec3::from(h.0[0]).max(Vec3::splat(1e-6)) * 0.282_095;
    let (low_own, low_wanted) = (mean(own) * DARKEST, mean(wanted) * DARKEST);
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let n = normals.rows::<3>(y);
            let mut rgb = band.rows::<3>(y);
            for i in 0..n[0].len() {
                let n = Vec3::new(n[0][i], n[1][i], n[2][i]);
                if n.length_squared().is_nan() || n.length_squared() < 0.25 {
                    continue;
                }
                let n = n.normalize();
                let ratio = wanted.at(n).max(low_wanted) / own.at(n).max(low_own);
                let ratio = ratio.clamp(Vec3::splat(1.0 / most), Vec3::splat(most));
                rgb.iter_mut().zip(ratio.to_array()).for_each(|(row, k)| row[i] *= k);
            }
        }
    })?;
    Ok(out)
}

/// A white matt ball in a light, seen from the front: RGBA, `side` px square.
pub fn ball(light: &Harmonics, side: u32) -> Raster {
    let half = side as f32 * 0.5;
    let mut out = Raster::zeros(Window::of_size(side, side), 4);
    for y in 0..side as i32 {
        for x in 0..side as usize {
            let at = Vec2::new(x as f32 + 0.5 - half, half - y as f32 - 0.5) / (half - 1.0);
            let r = at.length();
            let z = (1.0 - r * r).max(0.0).sqrt();
            let colour = light.at(at.extend(z).normalize_or(Vec3::Z)).max(Vec3::ZERO);
            // Its rim is a px wide.
            let alpha = ((1.0 - r) * (half - 1.0) + 0.5).clamp(0.0, 1.0);
            for (c, v) in (colour * alpha).extend(alpha).to_array().into_iter().enumerate() {
                out.row_mut(c, y)[x] = v;
            }
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    const W: Window = Window::of_size(64, 64);

    /// Normals of a ball that fills the window, and where it is.
    fn ball() -> Raster {
        Raster::from_fn(W, 3, |c, x, y| {
            let (u, v) = ((x as f32 - 31.5) / 32.0, (31.5 - y as f32) / 32.0);
            let z2 = 1.0 - u * u - v * v;
            if z2 > 0.0 { [u, v, z2.sqrt()][c] } else { 0.0 }
        })
    }

    fn lit(normals: &Raster, light: impl Fn(Vec3) -> Vec3) -> Raster {
        Raster::from_fn(W, 4, |c, x, y| {
            let n = Vec3::from_slice(&normals.pixel(x, y).unwrap());
            if n == Vec3::ZERO { 0.0 } else { light(n).extend(1.0).to_array()[c] }
        })
    }

    fn sphere(f: impl Fn(Vec3) -> f32) -> f32 {
        let mut sum = 0.0f64;
        for i in 0..200 {
            for j in 0..400 {
                let (t, p) = ((i as f32 + 0.5) / 200.0 * PI, (j as f32 + 0.5) / 200.0 * PI);
                let d = Vec3::new(t.sin() * p.cos(), t.cos(), t.sin() * p.sin());
                sum += f64::from(f(d) * t.sin());
            }
        }
        (sum * f64::from(PI / 200.0) * f64::from(PI / 200.0)) as f32
    }

    #[test]
    fn the_basis_is_orthonormal() {
        for i in 0..9 {
            for j in 0..=i {
                let dot = sphere(|d| basis(d)[i] * basis(d)[j]);
                assert!((dot - f32::from(u8::from(i == j))).abs() < 1e-3, "{i} {j}: {dot}");
            }
        }
    }

    #[test]
    fn an_even_sky_and_a_cosine_sky_give_their_closed_forms() {
        // L = 1: irradiance π. L = 1 + cos θ about +y: π + (2π/3) n·y (elementary integrals).
        let sky = |slope: f32| {
            let mut h = Harmonics::NONE;
            for i in 0..64 {
                for j in 0..128 {
                    let (t, p) = ((i as f32 + 0.5) / 64.0 * PI, (j as f32 + 0.5) / 64.0 * PI);
                    let d = Vec3::new(t.sin() * p.cos(), t.cos(), t.sin() * p.sin());
                    h.add(d, Vec3::splat(1.0 + slope * d.y), t.sin() * (PI / 64.0) * (PI / 64.0));
                }
            }
            h.on_surfaces()
        };
        for n in [Vec3::X, Vec3::Y, Vec3::NEG_Y, Vec3::new(0.6, 0.0, 0.8)] {
            assert!((sky(0.0).at(n).x - PI).abs() < 2e-3);
            let want = PI + 2.0 * PI / 3.0 * n.y;
            assert!((sky(1.0).at(n).x - want).abs() < 4e-3, "{n}: {} {want}", sky(1.0).at(n).x);
        }
    }

    #[test]
    fn light_is_found_again_in_spite_of_shadow_and_gloss() {
        let normals = ball();
        let told = Harmonics(std::array::from_fn(|i| {
            [2.0, 0.5, 0.3, -0.4, 0.1, 0.15, -0.1, 0.12, 0.08].map(|v: f32| v)[i..=i][0..1]
                .iter()
                .flat_map(|v| [*v, 0.8 * v, 0.6 * v])
                .collect::<Vec<_>>()
                .try_into()
                .unwrap()
        }));
        let clean = lit(&normals, |n| told.at(n));
        let worst = |f: Fit| {
            let mut worst = 0.0f32;
            for i in 0..W.area() {
                let n = Vec3::from_array(std::array::from_fn(|c| normals.plane(c)[i]));
                if n.z > 0.2 {
                    worst = worst.max((f.light.at(n) - told.at(n)).abs().max_element());
                }
            }
            worst
        };
        let f = fit(&clean, &normals, None).unwrap().unwrap();
        assert!(f.explained > 0.999 && worst(f) < 0.01, "{} {}", f.explained, worst(f));
        // A fifth in shadow, and a highlight ten times as bright.
        let mut dirty = clean.clone();
        for c in 0..3 {
            for y in W.rows() {
                for (x, v) in (0..64).zip(dirty.row_mut(c, y)) {
                    if x > 8 && x < 24 && y > 30 {
                        *v *= 0.3;
                    }
                    if (x - 40i32).pow(2) + (y - 18).pow(2) < 25 {
                        *v += 8.0;
                    }
                }
            }
        }
        let g = fit(&dirty, &normals, None).unwrap().unwrap();
        assert!(
            worst(g) < 0.02 && g.used < 0.95 && g.explained > 0.99,
            "{} {} {}",
            worst(g),
            g.used,
            g.explained
        );
        // Mere least squares is thrown off by it.
        let plain =
            solve(&samples(&dirty, &normals, None), &vec![1.0; samples(&dirty, &normals, None).len()]);
        let plain = Harmonics(plain.map(|c| c.map(|v| v as f32)));
        assert!((plain.at(Vec3::Z) - told.at(Vec3::Z)).length() > 0.1);
    }

    #[test]
    fn albedo_is_divided_out_and_too_little_is_said() {
        let normals = ball();
        let albedo = Raster::from_fn(W, 3, |c, x, _| [0.1, 0.5, 0.9][(x as usize / 8 + c) % 3]);
        let told = Harmonics(std::array::from_fn(|i| {
            [[1.0, 1.0, 1.0], [0.3; 3], [0.2; 3]].get(i).copied().unwrap_or([0.0; 3])
        }));
        let mut picture = lit(&normals, |n| told.at(n));
        for c in 0..3 {
            picture.plane_mut(c).iter_mut().zip(albedo.plane(c)).for_each(|(p, a)| *p *= a);
        }
        let f = fit(&picture, &normals, Some(&albedo)).unwrap().unwrap();
        assert!((f.light.at(Vec3::Z) - told.at(Vec3::Z)).length() < 2e-3);
        let none = Raster::zeros(W, 3);
        assert_eq!(fit(&picture, &none, None).unwrap(), None);
    }

    #[test]
    fn the_ratio_brings_one_light_to_the_other() {
        let normals = ball();
        let of = |k: f32| {
            Harmonics(std::array::from_fn(|i| [[1.0; 3], [k; 3]].get(i).copied().unwrap_or([0.0; 3])))
        };
        let (own, wanted) = (of(0.2), of(-0.2));
        let picture = lit(&normals, |n| own.at(n) * 0.5);
        let got = relit(&picture, &normals, &own, &wanted, 8.0, &Cancel::new()).unwrap();
        let want = lit(&normals, |n| wanted.at(n) * 0.5);
        let off = got.data().iter().zip(want.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(off < 1e-5, "{off}");
        let held = relit(
            &picture,
            &normals,
            &own,
            &Harmonics(of(0.0).0.map(|c| c.map(|v| v * 100.0))),
            2.0,
            &Cancel::new(),
        );
        let at = |r: &Raster| r.sample(0, 32, 32).unwrap();
        assert!((at(&held.unwrap()) / at(&picture) - 2.0).abs() < 1e-4);
        let b = super::ball(&own, 33);
        assert!((b.sample(0, 16, 16).unwrap() - own.at(Vec3::Z).x).abs() < 1e-3);
        assert_eq!(b.pixel(0, 0), Some(vec![0.0; 4]));
    }
}
