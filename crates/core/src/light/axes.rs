//! Light shaped without a lamp: a signed mix of the axes of the normals drives a grade.

use crate::colour::grade::Grade;
use crate::colour::{luminance, srgb_encode};
use crate::light::relight::Surface;
use crate::light::rims;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec3;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How normals become a signed matte.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Mix {
    /// Shares of x (right), y (up) and z (toward the viewer); a negative one turns its axis round.
    pub axes: [f32; 3],
    /// What of the mix counts as 0.
    pub pivot: f32,
    /// Factor.
    pub gain: f32,
}

impl Mix {
    /// −1 to 1 for a unit normal: `clamp((w·n − pivot)·gain)`.
    pub fn at(&self, n: Vec3) -> f32 {
        ((n.dot(self.axes.into()) - self.pivot) * self.gain).clamp(-1.0, 1.0)
    }
}

/// Which tones are changed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Tones {
    /// All.
    #[default]
    All,
    /// What is darker than the split.
    Shadows,
    /// What is lighter than the split.
    Lights,
}

/// Where shadows end and lights begin: luminance as on a screen, 0..1, with a ramp of `soft` to both sides.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Split {
    /// Which side is changed.
    pub tones: Tones,
    /// The middle.
    pub at: f32,
    /// Half the length of the ramp.
    pub soft: f32,
}

impl Split {
    /// Share of the change for a straight linear colour. The two sides add up to 1 everywhere.
    pub fn share(&self, rgb: [f32; 3]) -> f32 {
        let v = srgb_encode(luminance(rgb).max(0.0));
        let t = ((v - self.at) / (2.0 * self.soft.max(1e-4)) + 0.5).clamp(0.0, 1.0);
        let light = t * t * (3.0 - 2.0 * t);
        match self.tones {
            Tones::All => 1.0,
            Tones::Shadows => 1.0 - light,
            Tones::Lights => light,
        }
    }
}

/// Steps between −1 and 1 for which the warmth is worked out.
const STEPS: usize = 64;

/// Grades a picture (RGBA premultiplied) by the mix of its normals: 1 is the grade, −1 the opposite of it (as many stops
/// down, the inverse contrast, cooler), 0 nothing. At rims the mix is that of the surfaces that share the pixel. Where there
/// is no normal nothing changes. `out` may be [`rims::REACH`] px smaller all round than what is read.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn shape(
    picture: &Raster,
    normals: &Raster,
    mix: Mix,
    split: Split,
    grade: &Grade,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let window = picture.window();
    picture.expect_channels("picture", 4)?;
    normals.expect_channels("normals", 3)?;
    normals.expect_window("normals", window)?;
    let mut signed = Raster::zeros(window, 4);
    for_each_band(&mut signed, cancel, |band| {
        for y in band.window().rows() {
            let (n, alpha) = (normals.rows::<3>(y), picture.row(3, y));
            let [m, _, _, a] = band.rows(y);
            a.copy_from_slice(alpha);
            for i in 0..alpha.len() {
                let n = Vec3::new(n[0][i], n[1][i], n[2][i]);
                if n.length_squared() > 0.25 {
                    m[i] = mix.at(n.normalize()) * alpha[i];
                }
            }
        }
    })?;
    let surface = Surface { normal: normals, position: None, albedo: None };
    let signed = rims::soften(&signed, surface, &rims::covers(surface, picture, cancel)?, cancel)?;
    let steps: Vec<Grade> = (0..=STEPS).map(|k| part(grade, 2.0 * k as f32 / STEPS as f32 - 1.0)).collect();
    let warmings: Vec<[f32; 3]> = steps.iter().map(Grade::warming).collect();
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let m = signed.row(0, y);
            let [r, g, b, a] = band.rows(y);
            for i in 0..m.len() {
                if a[i] <= 0.0 || m[i] == 0.0 {
                    continue;
                }
                let own = [r[i], g[i], b[i]].map(|v| v / a[i]);
                let by = (m[i] / a[i]).clamp(-1.0, 1.0) * split.share(own);
                if by == 0.0 {
                    continue;
                }
                let place = (by + 1.0) * 0.5 * STEPS as f32;
                let (k, t) =
                    ((place as usize).min(STEPS - 1), place - (place as usize).min(STEPS - 1) as f32);
                let warming =
                    std::array::from_fn(|c| warmings[k][c] + (warmings[k + 1][c] - warmings[k][c]) * t);
                let new = part(grade, by).apply(own, warming).map(|v| v * a[i]);
                (r[i], g[i], b[i]) = (new[0], new[1], new[2]);
            }
        }
    })?;
    Ok(out)
}

/// A part of a grade; a negative one is its opposite.
fn part(grade: &Grade, by: f32) -> Grade {
    let power = |v: f32| if v > 0.0 { v.powf(by) } else { (1.0 - by.max(0.0)).max(0.0) };
    Grade {
        exposure: grade.exposure * by,
        contrast: power(grade.contrast),
        saturation: power(grade.saturation),
        warmth: grade.warmth * by,
        tint: grade.tint,
        tinted: grade.tinted * by.max(0.0),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(9, 3);
    const ALL: Split = Split { tones: Tones::All, at: 0.5, soft: 0.1 };

    fn normals(n: [f32; 3]) -> Raster {
        Raster::from_fn(W, 3, |c, _, _| n[c])
    }

    fn grey(v: f32) -> Raster {
        Raster::from_fn(W, 4, |c, _, _| if c == 3 { 0.5 } else { 0.5 * v })
    }

    fn at(n: [f32; 3], mix: Mix, split: Split, grade: Grade, v: f32) -> f32 {
        let out = shape(&grey(v), &normals(n), mix, split, &grade, &Cancel::new()).unwrap();
        assert_eq!(out.sample(3, 4, 1), Some(0.5));
        out.sample(0, 4, 1).unwrap() / 0.5
    }

    #[test]
    fn one_side_gains_what_the_other_loses() {
        let mix = Mix { axes: [1.0, 0.0, 0.0], pivot: 0.0, gain: 1.0 };
        let stop = Grade { exposure: 1.0, ..Grade::default() };
        let go = |n| at(n, mix, ALL, stop, 0.2);
        assert!((go([1.0, 0.0, 0.0]) - 0.4).abs() < 1e-5);
        assert!((go([-1.0, 0.0, 0.0]) - 0.1).abs() < 1e-5);
        assert!((go([0.6, 0.0, 0.8]) - 0.2 * 2f32.powf(0.6)).abs() < 1e-5);
        assert_eq!(go([0.0, 0.0, 1.0]), 0.2);
        assert_eq!(go([0.0; 3]), 0.2, "no normal, no change");
        // Contrast about middle grey and its inverse.
        let hard = Grade { contrast: 2.0, ..Grade::default() };
        assert!((at([1.0, 0.0, 0.0], mix, ALL, hard, 0.36) - 0.72).abs() < 1e-4);
        assert!((at([-1.0, 0.0, 0.0], mix, ALL, hard, 0.72) - 0.36).abs() < 1e-4);
    }

    #[test]
    fn pivot_gain_and_a_negative_axis_do_as_they_say() {
        let mix = Mix { axes: [0.0, -1.0, 0.0], pivot: -0.5, gain: 2.0 };
        assert_eq!(mix.at(Vec3::Y), -1.0);
        assert_eq!(mix.at(-Vec3::Y), 1.0);
        assert_eq!(mix.at(Vec3::new(0.0, 0.5, 0.0)), 0.0);
        assert_eq!(mix.at(Vec3::new(0.0, 0.25, 0.0)), 0.5);
    }

    #[test]
    fn shadows_and_lights_share_every_tone() {
        let of = |tones, v| Split { tones, at: 0.5, soft: 0.2 }.share([v; 3]);
        for v in [0.0, 0.05, 0.2, 0.3, 0.9, 4.0] {
            assert!((of(Tones::Shadows, v) + of(Tones::Lights, v) - 1.0).abs() < 1e-6);
        }
        // 0.214 is ½ on a screen (IEC 61966-2-1).
        assert!((of(Tones::Lights, 0.214) - 0.5).abs() < 0.01);
        assert!(of(Tones::Shadows, 0.01) == 1.0 && of(Tones::Lights, 1.0) == 1.0);
        let mix = Mix { axes: [0.0, 0.0, 1.0], pivot: 0.0, gain: 1.0 };
        let stop = Grade { exposure: 1.0, ..Grade::default() };
        let dark = Split { tones: Tones::Shadows, at: 0.5, soft: 0.1 };
        assert_eq!(at([0.0, 0.0, 1.0], mix, dark, stop, 0.9), 0.9);
        assert!((at([0.0, 0.0, 1.0], mix, dark, stop, 0.01) - 0.02).abs() < 1e-6);
    }
}
