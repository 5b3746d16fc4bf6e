//! Blend modes (W3C Compositing and Blending Level 1) and the join of a step to its picture.

use crate::bands::for_each_band;
use crate::colour::{srgb_decode, srgb_encode};
use crate::{Cancel, KernelError, Raster};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How a change meets what was there. W3C names.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum BlendMode {
    /// The change takes the place of the picture.
    #[default]
    Normal,
    /// Sum (W3C "lighter"/plus). Light adds.
    Add,
    /// `b + s − b·s`.
    Screen,
    /// `b·s`.
    Multiply,
    /// Hard light with the layers exchanged; ½ of the picture is neutral.
    Overlay,
}

/// The encoding in which a blend function sees the values.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum BlendSpace {
    /// Scene-linear values.
    Linear,
    /// Values under the sRGB curve, where ½ is a middle grey.
    #[default]
    Display,
}

impl BlendMode {
    /// Every mode, in the order in which a menu shows them.
    pub const ALL: [Self; 5] = [Self::Normal, Self::Add, Self::Screen, Self::Multiply, Self::Overlay];
}

/// `B(b, s)` of the recommendation, extended above 1 so that it neither darkens nor turns back:
/// screen falls back to `max(b, s)` where a value exceeds 1 (the two agree at 1), overlay keeps its lower
/// branch below ½ and the extended screen above.
pub fn blend_value(mode: BlendMode, b: f32, s: f32) -> f32 {
    match mode {
        BlendMode::Normal => s,
        BlendMode::Add => b + s,
        BlendMode::Screen => screen(b, s),
        BlendMode::Multiply => b * s,
        // overlay(b, s) = hard-light(s, b): multiply(s, 2b) below ½, screen(s, 2b − 1) above.
        BlendMode::Overlay => {
            if b <= 0.5 {
                s * (2.0 * b)
            } else {
                screen(s, 2.0 * b - 1.0)
            }
        }
    }
}

fn screen(b: f32, s: f32) -> f32 {
    if b > 1.0 || s > 1.0 { b.max(s) } else { b + s - b * s }
}

/// What a change is joined to a picture with.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Join {
    /// Blend mode.
    pub mode: BlendMode,
    /// Encoding for [`BlendMode::Screen`], [`BlendMode::Multiply`] and [`BlendMode::Overlay`].
    pub space: BlendSpace,
    /// 0 = the picture as it was, 1 = the full change. Above 1 overdoes it.
    pub strength: f32,
}

/// Joins `effect` to `picture`: `out = picture + (B(picture, effect) − picture) · strength · matte`.
///
/// All on the same window; both pictures RGBA, premultiplied, and of the same coverage, so alpha is the
/// picture's. The blend function sees straight (unpremultiplied) colour. `matte` has one plane.
/// Where strength · matte is 0 every bit of the picture stays.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn join(
    picture: &Raster,
    effect: &Raster,
    matte: Option<&Raster>,
    how: Join,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    effect.expect_channels("change", 4)?;
    effect.expect_window("change", picture.window())?;
    if let Some(m) = matte {
        m.expect_channels("matte", 1)?;
        m.expect_window("matte", picture.window())?;
    }
    let mut out = Raster::zeros(picture.window(), 4);
    let linear = how.space == BlendSpace::Linear;
    match how.mode {
        // The first two are linear in premultiplied colour: no division by alpha is needed.
        BlendMode::Normal => run(&mut out, [picture, effect], matte, how.strength, cancel, 4, |_, s, _| s),
        BlendMode::Add => run(&mut out, [picture, effect], matte, how.strength, cancel, 3, |b, s, _| b + s),
        mode if linear => run(&mut out, [picture, effect], matte, how.strength, cancel, 3, |b, s, a| {
            straight(b, s, a, |b, s| blend_value(mode, b, s))
        }),
        mode => run(&mut out, [picture, effect], matte, how.strength, cancel, 3, |b, s, a| {
            straight(b, s, a, |b, s| srgb_decode(blend_value(mode, srgb_encode(b), srgb_encode(s))))
        }),
    }?;
    Ok(out)
}

/// Applies a blend function to straight colour; without coverage the picture's value stays.
fn straight(b: f32, s: f32, alpha: f32, f: impl Fn(f32, f32) -> f32) -> f32 {
    if alpha > 0.0 { f(b / alpha, s / alpha) * alpha } else { b }
}

fn run(
    out: &mut Raster,
    [picture, effect]: [&Raster; 2],
    matte: Option<&Raster>,
    strength: f32,
    cancel: &Cancel,
    // Three leave the picture's coverage; a change that takes its place brings its own.
    channels: usize,
    blend: impl Fn(f32, f32, f32) -> f32 + Sync,
) -> Result<(), KernelError> {
    for_each_band(out, cancel, |band| {
        for y in band.window().rows() {
            let alpha = picture.row(3, y);
            band.row(3, y).copy_from_slice(alpha);
            let weights = matte.map(|m| m.row(0, y));
            for c in 0..channels {
                let (b, s) = (picture.row(c, y), effect.row(c, y));
                let o = band.row(c, y);
                for i in 0..o.len() {
                    let w = strength * weights.map_or(1.0, |m| m[i]);
                    // `b + (x − b)` need not return b bit for bit, so no change is a case of its own;
                    // the same with full strength, where the blend itself is meant.
                    let x = blend(b[i], s[i], alpha[i]);
                    let mixed = b[i] + (x - b[i]) * w;
                    o[i] = if w == 0.0 {
                        b[i]
                    } else if w == 1.0 {
                        x
                    } else {
                        mixed
                    };
                }
            }
        }
    })?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;
    use BlendMode::{Add, Multiply, Normal, Overlay, Screen};

    /// Hand-worked from the formulas of W3C Compositing and Blending Level 1, section 9.1, and
    /// "plus-lighter" of Level 2 for add.
    #[test]
    fn formulas_of_the_recommendation() {
        let cases = [
            (Normal, 0.25, 0.75, 0.75),
            (Add, 0.25, 0.5, 0.75),
            (Multiply, 0.25, 0.5, 0.125),
            (Screen, 0.25, 0.5, 0.625), // 0.25 + 0.5 − 0.125
            (Overlay, 0.25, 0.5, 0.25), // hard-light(s=0.25→b): multiply(0.5, 0.5)
            (Overlay, 0.75, 0.5, 0.75), // screen(0.5, 0.5)
            (Overlay, 0.5, 0.3, 0.3),   // the seam: multiply(0.3, 1)
            (Overlay, 0.2, 0.5, 0.2),   // ½ is neutral below …
            (Overlay, 0.9, 0.5, 0.9),   // … and above
        ];
        for (mode, b, s, want) in cases {
            let got = blend_value(mode, b, s);
            assert!((got - want).abs() < 1e-6, "{mode:?}({b}, {s}) = {got}, not {want}");
        }
    }

    #[test]
    fn bright_values_never_darken() {
        for mode in [Screen, Overlay] {
            for (b, s) in [(1.5, 0.2), (0.9, 4.0), (3.0, 3.0), (1.0, 1.0)] {
                assert!(blend_value(mode, b, s) >= b.min(1.0), "{mode:?} {b} {s}");
            }
        }
        assert_eq!(blend_value(Screen, 3.0, 0.0), 3.0);
    }

    fn px(v: [f32; 4]) -> Raster {
        Raster::from_planar(Window::of_size(1, 1), 4, v.to_vec()).unwrap()
    }

    fn joined(mode: BlendMode, b: [f32; 4], s: [f32; 4], strength: f32, matte: f32) -> Raster {
        let m = Raster::filled(Window::of_size(1, 1), 1, matte);
        let how = Join { mode, space: BlendSpace::Linear, strength };
        join(&px(b), &px(s), Some(&m), how, &Cancel::new()).unwrap()
    }

    #[test]
    fn no_change_keeps_every_bit() {
        let b = [0.1, 1.0e-20, 7.3, 0.7];
        for mode in BlendMode::ALL {
            for (strength, matte) in [(0.0, 1.0), (1.0, 0.0)] {
                let out = joined(mode, b, [f32::INFINITY, 3.0, -1.0, 0.7], strength, matte);
                assert_eq!(out, px(b), "{mode:?}");
            }
        }
    }

    #[test]
    fn coverage_scales_the_blend() {
        // Straight colours 0.5 and 0.5 at alpha ½: multiply gives 0.25 straight, 0.125 premultiplied.
        assert_eq!(joined(Multiply, [0.25, 0.25, 0.25, 0.5], [0.25; 4], 1.0, 1.0).plane(0), [0.125]);
        assert_eq!(joined(Multiply, [0.0; 4], [1.0; 4], 1.0, 1.0), px([0.0; 4]));
        assert_eq!(joined(Add, [0.2, 0.2, 0.2, 1.0], [0.6; 4], 0.5, 0.5).plane(0), [0.2 + 0.6 * 0.25]);
    }
}
