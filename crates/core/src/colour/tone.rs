//! Colours changed one by one: hue, saturation, tone, and through a gradient.

use super::curve::Curve;
use super::grade::{GREY, Grade};
use super::{clipped, luminance, srgb_decode, srgb_encode};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec2;

/// A picture (RGBA, premultiplied) with each straight colour changed, given its pixel's middle.
///
/// # Errors
/// A picture without exactly four channels; cancellation.
pub fn recoloured(
    picture: &Raster,
    cancel: &Cancel,
    change: impl Fn([f32; 3], Vec2) -> [f32; 3] + Sync,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    let window = picture.window();
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let [r, g, b, a] = band.rows::<4>(y);
            for i in 0..a.len() {
                if a[i] > 0.0 {
                    let own = [r[i], g[i], b[i]].map(|v| v / a[i]);
                    let at = Vec2::new((window.x + i as i32) as f32 + 0.5, y as f32 + 0.5);
                    let new = change(own, at);
                    // What stays keeps every bit.
                    if new != own {
                        [r[i], g[i], b[i]] = new.map(|v| v * a[i]);
                    }
                }
            }
        }
    })?;
    Ok(out)
}

/// Hues that a shift concerns.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Hues {
    /// Their middle, degrees.
    pub middle: f32,
    /// How many degrees are fully concerned; 360 or more is all.
    pub width: f32,
    /// Over how many degrees on either side it fades.
    pub soft: f32,
}

impl Hues {
    /// Share of a hue that is concerned.
    fn share(&self, hue: f32) -> f32 {
        if self.width >= 360.0 {
            return 1.0;
        }
        let away = ((hue - self.middle + 180.0).rem_euclid(360.0) - 180.0).abs() - 0.5 * self.width;
        if self.soft <= 0.0 { f32::from(u8::from(away <= 0.0)) } else { 1.0 - clipped(away / self.soft) }
    }
}

/// A change of colour.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Tone {
    /// Warmth, tint, saturation and contrast about middle grey.
    pub grade: Grade,
    /// Where contrast leaves the value, instead of middle grey.
    pub pivot: f32,
    /// Added after everything.
    pub lift: f32,
    /// Factors of the three channels.
    pub gain: [f32; 3],
    /// Degrees by which hues are turned.
    pub turn: f32,
    /// Factor on the saturation of those hues.
    pub vivid: f32,
    /// Which hues are turned and made more vivid.
    pub hues: Hues,
}

impl Tone {
    /// The picture with it.
    ///
    /// # Errors
    /// As [`recoloured`].
    pub fn apply(&self, picture: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
        let (warming, graded) = (self.grade.warming(), self.grade != Grade::default());
        // Contrast leaves the pivot as it is.
        let about = if self.pivot > 0.0 { (self.pivot / GREY).powf(1.0 - self.grade.contrast) } else { 1.0 };
        recoloured(picture, cancel, |rgb, _| {
            let rgb = self.turned(rgb);
            let v = if graded { self.grade.apply(rgb, warming) } else { rgb };
            std::array::from_fn(|c| v[c] * about * self.gain[c] + self.lift)
        })
    }

    /// Turned about the grey axis, its luminance kept.
    fn turned(&self, rgb: [f32; 3]) -> [f32; 3] {
        if self.turn == 0.0 && self.vivid == 1.0 {
            return rgb;
        }
        let share = self.hues.share(hue_of(rgb));
        if share == 0.0 {
            return rgb;
        }
        let grey = luminance(rgb);
        let vivid = 1.0 + (self.vivid - 1.0) * share;
        let (sin, cos) = (self.turn * share).to_radians().sin_cos();
        // About the axis (1, 1, 1) (Rodrigues), then moved along it to the luminance it had.
        let k = (1.0_f32 / 3.0).sqrt();
        let [r, g, b] = rgb;
        let cross = [k * (b - g), k * (r - b), k * (g - r)];
        let along = k * k * (r + g + b) * (1.0 - cos);
        let turned: [f32; 3] = std::array::from_fn(|c| rgb[c] * cos + cross[c] * sin + along);
        let own = luminance(turned);
        turned.map(|v| grey + (v - own) * vivid)
    }
}

/// Degrees of a colour's hue about the grey axis: 0 red, 120 green, 240 blue.
fn hue_of([r, g, b]: [f32; 3]) -> f32 {
    let (x, y) = (r - 0.5 * (g + b), 0.75_f32.sqrt() * (g - b));
    if x == 0.0 && y == 0.0 { 0.0 } else { y.atan2(x).to_degrees().rem_euclid(360.0) }
}

/// A picture through a curve for all channels and one for each. `display` shows them values under the sRGB curve.
///
/// # Errors
/// As [`recoloured`].
pub fn curved(
    picture: &Raster,
    master: &Curve,
    channels: &[Curve; 3],
    display: bool,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    if master.is_identity() && channels.iter().all(Curve::is_identity) {
        return Ok(picture.clone());
    }
    recoloured(picture, cancel, |rgb, _| {
        std::array::from_fn(|c| {
            let seen = if display { srgb_encode(rgb[c]) } else { rgb[c] };
            let out = channels[c].at(master.at(seen));
            if display { srgb_decode(out) } else { out }
        })
    })
}

/// A picture whose brightness runs through colours: `stops` are at 0, ½ and 1 of the encoded luminance.
///
/// # Errors
/// As [`recoloured`].
pub fn through_gradient(
    picture: &Raster,
    stops: [[f32; 3]; 3],
    amount: f32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let seen = stops.map(|c| c.map(srgb_encode));
    recoloured(picture, cancel, |rgb, _| {
        let t = clipped(srgb_encode(luminance(rgb).max(0.0))) * 2.0;
        let (a, b, t) = if t < 1.0 { (seen[0], seen[1], t) } else { (seen[1], seen[2], t - 1.0) };
        std::array::from_fn(|c| {
            let to = srgb_decode(a[c] + (b[c] - a[c]) * t);
            rgb[c] + (to - rgb[c]) * amount
        })
    })
}

/// A darker edge.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Vignette {
    /// Its middle, px.
    pub centre: Vec2,
    /// Half its width and height, px: where it is half done.
    pub radii: Vec2,
    /// From a hard edge (0) to one that begins in the middle (1).
    pub soft: f32,
    /// Stops by which it changes what lies outside.
    pub stops: f32,
}

/// A picture with a vignette.
///
/// # Errors
/// As [`recoloured`].
pub fn vignette(picture: &Raster, how: &Vignette, cancel: &Cancel) -> Result<Raster, KernelError> {
    let soft = how.soft.clamp(1e-3, 1.0);
    recoloured(picture, cancel, |rgb, at| {
        let r = ((at - how.centre) / how.radii.max(Vec2::splat(1e-3))).length();
        let t = clipped((r - (1.0 - soft)) / (2.0 * soft));
        let gain = (how.stops * t * t * (3.0 - 2.0 * t)).exp2();
        rgb.map(|v| v * gain)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const NONE: Tone = Tone {
        grade: Grade {
            exposure: 0.0,
            contrast: 1.0,
            saturation: 1.0,
            warmth: 0.0,
            tint: [1.0; 3],
            tinted: 0.0,
        },
        pivot: 0.18,
        lift: 0.0,
        gain: [1.0; 3],
        turn: 0.0,
        vivid: 1.0,
        hues: Hues { middle: 0.0, width: 360.0, soft: 0.0 },
    };

    fn colours() -> Raster {
        Raster::from_fn(Window::of_size(40, 6), 4, |c, x, y| match c {
            3 => 0.5,
            c => ((x * 7 + y * 13 + c as i32 * 29) % 41) as f32 / 60.0,
        })
    }

    #[test]
    fn neutral_values_leave_every_bit() {
        assert_eq!(NONE.apply(&colours(), &Cancel::new()).unwrap(), colours());
        let none = Curve::default();
        let out =
            curved(&colours(), &none, &[none.clone(), none.clone(), none.clone()], true, &Cancel::new());
        assert_eq!(out.unwrap(), colours());
        let v = Vignette { centre: Vec2::ZERO, radii: Vec2::ONE, soft: 0.5, stops: 0.0 };
        assert_eq!(vignette(&colours(), &v, &Cancel::new()).unwrap(), colours());
    }

    #[test]
    fn hues_turn_and_only_those_that_are_meant() {
        let go = |t: Tone, rgb: [f32; 3]| t.turned(rgb);
        let red = go(Tone { turn: 120.0, ..NONE }, [1.0, 0.0, 0.0]);
        assert!(
            red[1] > red[0] && red[1] > red[2] && (luminance(red) - luminance([1.0, 0.0, 0.0])).abs() < 1e-5
        );
        let only = Tone { turn: 90.0, hues: Hues { middle: 120.0, width: 60.0, soft: 20.0 }, ..NONE };
        assert_eq!(go(only, [0.8, 0.1, 0.1]), [0.8, 0.1, 0.1]);
        assert_ne!(go(only, [0.1, 0.8, 0.1]), [0.1, 0.8, 0.1]);
        // Half way down the soft end it turns half as far.
        assert!((only.hues.share(160.0) - 0.5).abs() < 1e-5);
        assert_eq!([hue_of([1.0, 0.0, 0.0]), hue_of([0.0, 1.0, 0.0])].map(f32::round), [0.0, 120.0]);
    }

    #[test]
    fn contrast_leaves_its_pivot() {
        let t = Tone { grade: Grade { contrast: 1.6, ..NONE.grade }, pivot: 0.4, ..NONE };
        let flat = Raster::filled(Window::of_size(2, 2), 4, 0.4);
        let mut flat = flat;
        flat.plane_mut(3).fill(1.0);
        let out = t.apply(&flat, &Cancel::new()).unwrap();
        assert!((out.sample(0, 0, 0).unwrap() - 0.4).abs() < 1e-5);
    }

    #[test]
    fn a_vignette_darkens_the_corners_by_its_stops_and_not_the_middle() {
        let white = Raster::filled(Window::of_size(100, 100), 4, 1.0);
        let v = Vignette { centre: Vec2::splat(50.0), radii: Vec2::splat(30.0), soft: 0.5, stops: -2.0 };
        let out = vignette(&white, &v, &Cancel::new()).unwrap();
        assert_eq!((out.sample(0, 50, 50), out.sample(0, 0, 0)), (Some(1.0), Some(0.25)));
        assert!((out.sample(0, 80, 50).unwrap() - 0.5).abs() < 0.02);
    }
}
