//! Grading that grows with distance, and haze. On linear Rec.709, straight colour; alpha is left alone.

use crate::colour::{clipped, exposure_gain, luminance};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// A change of colour at full strength.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Grade {
    /// Stops.
    pub exposure: f32,
    /// Power about middle grey (0.18); 1 is none.
    pub contrast: f32,
    /// 0 grey, 1 none, above more.
    pub saturation: f32,
    /// Shift of the white, mired (10⁶ ÷ K) from 6504 K; positive is warmer.
    pub warmth: f32,
    /// Colour that is mixed in at the picture's own luminance.
    pub tint: [f32; 3],
    /// How much of it, 0..1.
    pub tinted: f32,
}

impl Default for Grade {
    fn default() -> Self {
        Self { exposure: 0.0, contrast: 1.0, saturation: 1.0, warmth: 0.0, tint: [1.0; 3], tinted: 0.0 }
    }
}

/// Middle grey: 18 % reflectance (common practice, no source).
pub(crate) const GREY: f32 = 0.18;

/// Chromaticity of a black body, 1667–25000 K (cubic fits of Kang et al. 2002; coefficients from memory, checked
/// against CIE 15's chromaticities of 2856 K and 6504 K in the tests).
pub fn planck(kelvin: f32) -> [f32; 2] {
    let t = 1e3 / kelvin.clamp(1667.0, 25_000.0);
    let cubic = |[a, b, c, d]: [f32; 4], v: f32| ((a * v + b) * v + c) * v + d;
    let warm = kelvin < 4000.0;
    let x = if warm {
        cubic([-0.266_123_9, -0.234_358_9, 0.877_695_6, 0.179_910], t)
    } else {
        cubic([-3.025_847, 2.107_037_9, 0.222_634_7, 0.240_390], t)
    };
    let y = if kelvin < 2222.0 {
        [-1.106_381_4, -1.348_110_2, 2.185_558_3, -0.202_196_83]
    } else if warm {
        [-0.954_947_6, -1.374_185_9, 2.091_37, -0.167_488_67]
    } else {
        [3.081_758, -5.873_387, 3.751_13, -0.370_014_83]
    };
    [x, cubic(y, x)]
}

/// Linear Rec.709 of a black body at luminance 1 (matrix of IEC 61966-2-1).
pub fn white_of(kelvin: f32) -> [f32; 3] {
    let [x, y] = planck(kelvin);
    let (big_x, big_z) = (x / y, (1.0 - x - y) / y);
    [
        3.240_625 * big_x - 1.537_208 - 0.498_628_6 * big_z,
        -0.968_930_7 * big_x + 1.875_756 + 0.041_517_52 * big_z,
        0.055_710_12 * big_x - 0.204_021_1 + 1.056_996 * big_z,
    ]
}

impl Grade {
    /// Factors of the three channels for the warmth, a grey keeping its luminance.
    pub(crate) fn warming(&self) -> [f32; 3] {
        if self.warmth == 0.0 {
            return [1.0; 3];
        }
        let neutral = white_of(6504.0);
        // A warm picture looks as if lit by a warmer white.
        let white = white_of(1e6 / (1e6 / 6504.0 + self.warmth).max(40.0));
        let ratio: [f32; 3] = std::array::from_fn(|c| (white[c] / neutral[c]).max(0.01));
        let own = luminance(ratio);
        ratio.map(|v| v / own)
    }

    /// The graded colour.
    pub(crate) fn apply(&self, rgb: [f32; 3], warming: [f32; 3]) -> [f32; 3] {
        let gain = exposure_gain(self.exposure);
        let mut v: [f32; 3] = std::array::from_fn(|c| rgb[c] * gain * warming[c]);
        if self.contrast != 1.0 {
            v = v.map(|v| if v > 0.0 { GREY * (v / GREY).powf(self.contrast) } else { v });
        }
        let grey = luminance(v);
        v = v.map(|v| grey + (v - grey) * self.saturation);
        if self.tinted > 0.0 {
            let own = luminance(self.tint).max(1e-4);
            v = std::array::from_fn(|c| v[c] + (self.tint[c] / own * grey - v[c]) * self.tinted);
        }
        v
    }
}

/// From which depth to which a change grows, smoothly at both ends; `from` may lie behind `to`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ramp {
    /// Depth at which there is none of it, scene units.
    pub from: f32,
    /// Depth from which on there is all of it.
    pub to: f32,
}

impl Ramp {
    /// Share at a depth, 0..1; what is no depth is infinitely far.
    pub fn at(&self, z: f32) -> f32 {
        let z = if z.is_finite() { z } else { 1e30 };
        if self.from == self.to {
            return f32::from(u8::from(z >= self.to));
        }
        let t = clipped((z - self.from) / (self.to - self.from));
        t * t * (3.0 - 2.0 * t)
    }
}

/// Works on each pixel's straight colour, with its depth.
fn each(
    picture: &Raster,
    depth: &Raster,
    cancel: &Cancel,
    change: impl Fn([f32; 3], f32) -> [f32; 3] + Sync,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    depth.expect_channels("depth", 1)?;
    depth.expect_window("depth", picture.window())?;
    let mut out = Raster::zeros(picture.window(), 4);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let [r, g, b, a]: [&[f32]; 4] = picture.rows(y);
            let z = depth.row(0, y);
            let [or, og, ob, oa] = band.rows(y);
            for i in 0..a.len() {
                oa[i] = a[i];
                if a[i] > 0.0 {
                    let own = [r[i], g[i], b[i]].map(|v| v / a[i]);
                    [or[i], og[i], ob[i]] = change(own, z[i]).map(|v| v * a[i]);
                }
            }
        }
    })?;
    Ok(out)
}

/// Grades a picture (RGBA premultiplied) the more, the farther along the ramp its depth lies.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn by_distance(
    picture: &Raster,
    depth: &Raster,
    grade: &Grade,
    ramp: Ramp,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let warming = grade.warming();
    each(picture, depth, cancel, |rgb, z| {
        let share = ramp.at(z);
        if share == 0.0 {
            return rgb;
        }
        let full = grade.apply(rgb, warming);
        std::array::from_fn(|c| rgb[c] + (full[c] - rgb[c]) * share)
    })
}

/// Air between the camera and the surface.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Haze {
    /// Extinction, per scene unit.
    pub density: f32,
    /// Depth at which it begins.
    pub start: f32,
    /// Colour of what is infinitely far.
    pub colour: [f32; 3],
}

impl Haze {
    /// Share of a surface's light that comes through: `exp(−β·(z − start)₊)` (Beer–Lambert).
    pub fn transmittance(&self, z: f32) -> f32 {
        let way = if z.is_finite() { (z - self.start).max(0.0) } else { f32::INFINITY };
        if self.density == 0.0 { 1.0 } else { (-self.density * way).exp() }
    }
}

/// Lays haze over a picture (RGBA premultiplied): `T·C + (1 − T)·colour`.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn haze(picture: &Raster, depth: &Raster, haze: &Haze, cancel: &Cancel) -> Result<Raster, KernelError> {
    each(picture, depth, cancel, |rgb, z| {
        let t = haze.transmittance(z);
        std::array::from_fn(|c| t * rgb[c] + (1.0 - t) * haze.colour[c])
    })
}

/// Mean straight colour of the farthest twentieth of what is covered: what haze takes up from the picture itself.
pub fn far_colour(picture: &Raster, depth: &Raster) -> Option<[f32; 3]> {
    let alpha = picture.plane(3);
    let z = depth.plane(0);
    let mut covered: Vec<usize> = (0..alpha.len()).filter(|&i| alpha[i] > 0.5).collect();
    let count = covered.len().div_ceil(20);
    if count == 0 || z.len() != alpha.len() {
        return None;
    }
    let far = |i: &usize| if z[*i].is_finite() { z[*i] } else { f32::INFINITY };
    // Equal depths in the order of pixels, so that the answer does not depend on how they are sorted.
    covered.select_nth_unstable_by(count - 1, |a, b| far(b).total_cmp(&far(a)).then(a.cmp(b)));
    let mean = |c: usize| {
        let sum: f64 = covered[..count].iter().map(|&i| f64::from(picture.plane(c)[i] / alpha[i])).sum();
        (sum / count as f64) as f32
    };
    Some([0, 1, 2].map(mean))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn at(grade: Grade, rgb: [f32; 3], z: f32) -> [f32; 3] {
        let w = Window::of_size(1, 1);
        let picture = Raster::from_planar(w, 4, vec![rgb[0], rgb[1], rgb[2], 1.0]).unwrap();
        let ramp = Ramp { from: 2.0, to: 6.0 };
        let out = by_distance(&picture, &Raster::filled(w, 1, z), &grade, ramp, &Cancel::new()).unwrap();
        [0, 1, 2].map(|c| out.plane(c)[0])
    }

    #[test]
    fn black_bodies_have_the_colours_of_the_tables() {
        // CIE 15: standard illuminant A (2856 K) at 0.44758, 0.40745. A black body of 6504 K lies at 0.3135, 0.3237
        // (Wyszecki & Stiles, table of the Planckian locus; from memory).
        for (kelvin, want) in [(2856.0, [0.44758, 0.40745]), (6504.0, [0.3135, 0.3237])] {
            let got = planck(kelvin);
            assert!((0..2).all(|c| (got[c] - want[c]).abs() < 6e-4), "{kelvin}: {got:?}");
        }
        let [r, g, b] = white_of(2856.0);
        assert!(r > 1.5 && b < 0.35 && (luminance([r, g, b]) - 1.0).abs() < 2e-3, "{r} {g} {b}");
    }

    #[test]
    fn a_ramp_leaves_what_is_near_and_grades_what_is_far() {
        let rgb = [0.4, 0.2, 0.1];
        let brighter = Grade { exposure: 1.0, ..Grade::default() };
        assert_eq!(at(brighter, rgb, 1.0), rgb);
        let far = at(brighter, rgb, f32::INFINITY);
        assert!((0..3).all(|c| (far[c] - 2.0 * rgb[c]).abs() < 1e-6), "{far:?}");
        assert!((at(brighter, rgb, 4.0)[0] - 0.6).abs() < 1e-6, "half-way");
        let backwards = Ramp { from: 6.0, to: 2.0 };
        assert_eq!((backwards.at(1.0), backwards.at(4.0), backwards.at(9.0)), (1.0, 0.5, 0.0));
    }

    #[test]
    fn each_change_does_what_it_says() {
        let rgb = [0.4, 0.2, 0.1];
        let far = |g| at(g, rgb, 100.0);
        let grey = luminance(rgb);
        assert!(far(Grade { saturation: 0.0, ..Grade::default() }).iter().all(|v| (v - grey).abs() < 1e-6));
        let harder = at(Grade { contrast: 2.0, ..Grade::default() }, [GREY, 0.36, 0.09], 100.0);
        assert!((harder[0] - GREY).abs() < 1e-5 && (harder[1] - 0.72).abs() < 1e-4 && harder[2] < 0.05);
        let warm = at(Grade { warmth: 60.0, ..Grade::default() }, [0.5; 3], 100.0);
        assert!(warm[0] > 0.55 && warm[2] < 0.4 && (luminance(warm) - 0.5).abs() < 1e-4, "{warm:?}");
        let blue = far(Grade { tint: [0.2, 0.4, 1.0], tinted: 1.0, ..Grade::default() });
        assert!((luminance(blue) - grey).abs() < 1e-5 && blue[2] > blue[0]);
    }

    #[test]
    fn haze_follows_beer_and_lambert_and_leaves_no_edge() {
        let h = Haze { density: 0.5, start: 2.0, colour: [0.6, 0.7, 0.8] };
        // Handbook: transmittance of two attenuation lengths is e⁻² = 0.1353.
        assert!((h.transmittance(6.0) - 0.135_335).abs() < 1e-5);
        assert_eq!((h.transmittance(1.0), h.transmittance(f32::INFINITY)), (1.0, 0.0));
        assert_eq!(Haze { density: 0.0, ..h }.transmittance(f32::INFINITY), 1.0);
        let w = Window::of_size(2, 1);
        let picture = Raster::from_planar(w, 4, vec![0.5, 0.0, 0.5, 0.0, 0.5, 0.0, 0.5, 0.0]).unwrap();
        let out = haze(&picture, &Raster::filled(w, 1, 1e9), &h, &Cancel::new()).unwrap();
        assert_eq!(out.pixel(0, 0), Some(vec![0.3, 0.35, 0.4, 0.5]), "haze under the picture's own coverage");
        assert_eq!(out.pixel(1, 0), Some(vec![0.0; 4]));
    }

    #[test]
    fn the_far_colour_is_that_of_what_lies_farthest() {
        let w = Window::of_size(40, 1);
        let picture = Raster::from_fn(w, 4, |c, x, _| {
            if c == 3 {
                1.0
            } else if x >= 38 {
                0.9
            } else {
                0.1
            }
        });
        let depth = Raster::from_fn(w, 1, |_, x, _| x as f32);
        assert_eq!(far_colour(&picture, &depth), Some([0.9; 3]));
        assert_eq!(far_colour(&Raster::zeros(w, 4), &depth), None);
    }
}
