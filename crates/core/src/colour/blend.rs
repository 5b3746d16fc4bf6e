//! Blend modes (W3C Compositing and Blending Level 1) and the join of a step to its picture.

use crate::colour::{srgb_decode, srgb_encode};
use crate::raster::bands::for_each_band;
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
    /// Difference of the two, nothing below black. Light taken away.
    Subtract,
    /// The smaller value.
    Darken,
    /// The larger value.
    Lighten,
    /// Brightens the picture by the change.
    ColorDodge,
    /// Darkens the picture by the change.
    ColorBurn,
    /// Multiply or screen, by the change; ½ of the change is neutral.
    HardLight,
    /// A gentle hard light; ½ of the change is neutral.
    SoftLight,
    /// How far the two are apart.
    Difference,
    /// Like difference, with less contrast.
    Exclusion,
    /// Hue of the change, saturation and luminosity of the picture.
    Hue,
    /// Saturation of the change, hue and luminosity of the picture.
    Saturation,
    /// Hue and saturation of the change, luminosity of the picture.
    Color,
    /// Luminosity of the change, hue and saturation of the picture.
    Luminosity,
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
    pub const ALL: [Self; 18] = [
        Self::Normal,
        Self::Add,
        Self::Subtract,
        Self::Multiply,
        Self::Screen,
        Self::Overlay,
        Self::Darken,
        Self::Lighten,
        Self::ColorDodge,
        Self::ColorBurn,
        Self::HardLight,
        Self::SoftLight,
        Self::Difference,
        Self::Exclusion,
        Self::Hue,
        Self::Saturation,
        Self::Color,
        Self::Luminosity,
    ];

    /// Whether it looks at all three channels at once.
    pub const fn is_of_colours(self) -> bool {
        matches!(self, Self::Hue | Self::Saturation | Self::Color | Self::Luminosity)
    }
}

/// `B(b, s)` of the recommendation, extended above 1 so that it neither darkens nor turns back:
/// screen falls back to `max(b, s)` where a value exceeds 1 (the two agree at 1), overlay keeps its lower
/// branch below ½ and the extended screen above. The other bounded modes see both values held to 0..1, and what the
/// picture has above 1 is added again, so that a highlight stays one. A mode of colours gives the change.
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
        BlendMode::Subtract => (b - s).max(b.min(0.0)),
        BlendMode::Darken => b.min(s),
        BlendMode::Lighten => b.max(s),
        BlendMode::Difference => (b - s).abs(),
        BlendMode::ColorDodge => held(b, s, dodge),
        BlendMode::ColorBurn => held(b, s, |b, s| 1.0 - dodge(1.0 - b, 1.0 - s)),
        // hard-light(b, s) is overlay with the two exchanged.
        BlendMode::HardLight => held(b, s, |b, s| blend_value(BlendMode::Overlay, s, b)),
        BlendMode::SoftLight => held(b, s, soft_light),
        BlendMode::Exclusion => held(b, s, |b, s| b + s - 2.0 * b * s),
        BlendMode::Hue | BlendMode::Saturation | BlendMode::Color | BlendMode::Luminosity => s,
    }
}

/// A bounded function of values held to 0..1; what the picture has above 1 is added again.
fn held(b: f32, s: f32, f: impl Fn(f32, f32) -> f32) -> f32 {
    f(b.clamp(0.0, 1.0), s.clamp(0.0, 1.0)) + (b - 1.0).max(0.0)
}

fn dodge(b: f32, s: f32) -> f32 {
    if b <= 0.0 {
        0.0
    } else if s >= 1.0 {
        1.0
    } else {
        (b / (1.0 - s)).min(1.0)
    }
}

fn soft_light(b: f32, s: f32) -> f32 {
    if s <= 0.5 {
        return b - (1.0 - 2.0 * s) * b * (1.0 - b);
    }
    let d = if b <= 0.25 { ((16.0 * b - 12.0) * b + 4.0) * b } else { b.sqrt() };
    b + (2.0 * s - 1.0) * (d - b)
}

/// Luminosity of the recommendation, section 10.
fn lum([r, g, b]: [f32; 3]) -> f32 {
    0.3 * r + 0.59 * g + 0.11 * b
}

/// A colour with another luminosity, brought back into 0..1 along its own grey.
fn set_lum(c: [f32; 3], l: f32) -> [f32; 3] {
    let d = l - lum(c);
    let c = c.map(|v| v + d);
    let l = lum(c);
    let (n, x) = (c[0].min(c[1]).min(c[2]), c[0].max(c[1]).max(c[2]));
    let mut c = c;
    if n < 0.0 {
        c = c.map(|v| l + (v - l) * l / (l - n));
    }
    if x > 1.0 {
        c = c.map(|v| l + (v - l) * (1.0 - l) / (x - l));
    }
    c
}

fn sat(c: [f32; 3]) -> f32 {
    c[0].max(c[1]).max(c[2]) - c[0].min(c[1]).min(c[2])
}

/// A colour with another saturation.
fn set_sat(c: [f32; 3], s: f32) -> [f32; 3] {
    let (n, own) = (c[0].min(c[1]).min(c[2]), sat(c));
    if own > 0.0 { c.map(|v| (v - n) * s / own) } else { [0.0; 3] }
}

/// `B(b, s)` of the modes that look at all three channels (section 10.2); of the others channel by channel. Bounded as
/// [`blend_value`] is.
pub fn blend_colour(mode: BlendMode, b: [f32; 3], s: [f32; 3]) -> [f32; 3] {
    if !mode.is_of_colours() {
        return std::array::from_fn(|c| blend_value(mode, b[c], s[c]));
    }
    let hold = |c: [f32; 3]| c.map(|v| v.clamp(0.0, 1.0));
    let (cb, cs) = (hold(b), hold(s));
    let mixed = match mode {
        BlendMode::Hue => set_lum(set_sat(cs, sat(cb)), lum(cb)),
        BlendMode::Saturation => set_lum(set_sat(cb, sat(cs)), lum(cb)),
        BlendMode::Color => set_lum(cs, lum(cb)),
        _ => set_lum(cb, lum(cs)),
    };
    std::array::from_fn(|c| mixed[c] + (b[c] - 1.0).max(0.0))
}

fn screen(b: f32, s: f32) -> f32 {
    if b > 1.0 || s > 1.0 { b.max(s) } else { b + s - b * s }
}

/// What a change is joined to a picture with.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Join {
    /// Blend mode.
    pub mode: BlendMode,
    /// Encoding for all modes but normal, add and subtract.
    pub space: BlendSpace,
    /// 0 = the picture as it was, 1 = the full change. Above 1 overdoes it.
    pub strength: f32,
}

/// What a change brings to a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Brings {
    /// A new picture with its own coverage: of the same things, so both coverages lie on each other.
    Replaces,
    /// Something of its own laid over, with its own coverage.
    LiesOver,
    /// Light; coverage stays the picture's.
    Adds,
}

/// Joins `effect` to `picture`: `out = picture + (X − picture) · strength · matte`, where `X` is the picture with the
/// whole change.
///
/// All on the same window; both pictures RGBA, premultiplied. The blend function `B` sees straight (unpremultiplied)
/// colour `Cb` of the picture and `Cs` of the change, with coverages `αb` and `αs`:
/// - what lies over meets the picture as in W3C Compositing and Blending Level 1, section 5 to 9:
///   `X = αs·αb·B(Cb, Cs) + αs·(1 − αb)·Cs + (1 − αs)·αb·Cb`, `α = αs + αb·(1 − αs)`;
/// - what replaces covers the same things, so that the two are not independent: `B` where both are, each alone where
///   only it is (`α = max(αs, αb)`); in normal mode it takes the picture's place, coverage and all;
/// - light is seen within the picture's coverage.
///
/// `matte` has one plane. Where strength · matte is 0 every bit of the picture stays.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn join(
    picture: &Raster,
    effect: &Raster,
    brings: Brings,
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
    let both = [picture, effect];
    let replaced = brings == Brings::Replaces && how.mode != BlendMode::Normal;
    if brings == Brings::LiesOver || (replaced && picture.plane(3) != effect.plane(3)) {
        run_covered(&mut out, both, brings, matte, how, cancel)?;
        return Ok(out);
    }
    let linear = how.space == BlendSpace::Linear;
    // A change that takes the picture's place brings its own coverage.
    let channels = if brings == Brings::Adds { 3 } else { 4 };
    match how.mode {
        // The first three are linear in premultiplied colour: no division by alpha is needed.
        BlendMode::Normal => run(&mut out, both, matte, how.strength, cancel, channels, |_, s, _| s),
        BlendMode::Add => run(&mut out, both, matte, how.strength, cancel, 3, |b, s, _| b + s),
        BlendMode::Subtract => run(&mut out, both, matte, how.strength, cancel, 3, |b, s, _| {
            blend_value(BlendMode::Subtract, b, s)
        }),
        mode if mode.is_of_colours() => run_colours(&mut out, both, matte, how, cancel),
        mode if linear => run(&mut out, both, matte, how.strength, cancel, 3, |b, s, a| {
            straight(b, s, a, |b, s| blend_value(mode, b, s))
        }),
        mode => run(&mut out, both, matte, how.strength, cancel, 3, |b, s, a| {
            straight(b, s, a, |b, s| srgb_decode(blend_value(mode, srgb_encode(b), srgb_encode(s))))
        }),
    }?;
    Ok(out)
}

/// `B(b, s)` of straight colours in the join's encoding, scene-linear in and out.
fn mixed(how: Join, b: [f32; 3], s: [f32; 3]) -> [f32; 3] {
    let plain = matches!(how.mode, BlendMode::Normal | BlendMode::Add | BlendMode::Subtract);
    if plain || how.space == BlendSpace::Linear {
        return blend_colour(how.mode, b, s);
    }
    blend_colour(how.mode, b.map(srgb_encode), s.map(srgb_encode)).map(srgb_decode)
}

/// The whole change of one pixel, where both have their own coverage.
fn covered(brings: Brings, how: Join, b: [f32; 4], s: [f32; 4]) -> [f32; 4] {
    let ([.., ab], [.., as_]) = (b, s);
    // How much of the pixel both cover, and what each covers alone.
    let (shared, alpha) = match brings {
        Brings::LiesOver => (as_ * ab, as_ + ab * (1.0 - as_)),
        _ => (as_.min(ab), as_.max(ab)),
    };
    let straight = |v: [f32; 4]| {
        let k = if v[3] > 0.0 { 1.0 / v[3] } else { 0.0 };
        [v[0] * k, v[1] * k, v[2] * k]
    };
    match how.mode {
        // Sums need no division; and what has no coverage is light, which adds.
        BlendMode::Normal if brings == Brings::LiesOver => {
            return std::array::from_fn(|c| s[c] + b[c] * (1.0 - as_));
        }
        _ if shared <= 0.0 || how.mode == BlendMode::Add => {
            return [b[0] + s[0], b[1] + s[1], b[2] + s[2], alpha];
        }
        _ => {}
    }
    let both = mixed(how, straight(b), straight(s));
    let [above, below] = [1.0 - shared / as_, 1.0 - shared / ab];
    let of = |c: usize| shared * both[c] + above * s[c] + below * b[c];
    [of(0), of(1), of(2), alpha]
}

fn run_covered(
    out: &mut Raster,
    [picture, effect]: [&Raster; 2],
    brings: Brings,
    matte: Option<&Raster>,
    how: Join,
    cancel: &Cancel,
) -> Result<(), KernelError> {
    for_each_band(out, cancel, |band| {
        for y in band.window().rows() {
            let (below, above) = (picture.rows::<4>(y), effect.rows::<4>(y));
            let weights = matte.map(|m| m.row(0, y));
            let mut rows = band.rows::<4>(y);
            for i in 0..below[3].len() {
                let w = how.strength * weights.map_or(1.0, |m| m[i]);
                let own: [f32; 4] = std::array::from_fn(|c| below[c][i]);
                let mut joined = own;
                if w != 0.0 {
                    let whole = covered(brings, how, own, std::array::from_fn(|c| above[c][i]));
                    joined = std::array::from_fn(|c| own[c] + (whole[c] - own[c]) * w);
                    if w == 1.0 {
                        joined = whole;
                    }
                }
                (0..4).for_each(|c| rows[c][i] = joined[c]);
            }
        }
    })?;
    Ok(())
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

/// The join of a mode that looks at all three channels.
fn run_colours(
    out: &mut Raster,
    [picture, effect]: [&Raster; 2],
    matte: Option<&Raster>,
    how: Join,
    cancel: &Cancel,
) -> Result<(), KernelError> {
    let linear = how.space == BlendSpace::Linear;
    let seen = |v: f32| if linear { v } else { srgb_encode(v) };
    let back = |v: f32| if linear { v } else { srgb_decode(v) };
    for_each_band(out, cancel, |band| {
        for y in band.window().rows() {
            let (below, above) = (picture.rows::<4>(y), effect.rows::<4>(y));
            let weights = matte.map(|m| m.row(0, y));
            let mut rows = band.rows::<4>(y);
            for i in 0..below[3].len() {
                let (alpha, w) = (below[3][i], how.strength * weights.map_or(1.0, |m| m[i]));
                let own: [f32; 3] = std::array::from_fn(|c| below[c][i]);
                let mut joined = own;
                if w != 0.0 && alpha > 0.0 {
                    let straight = |rows: [&[f32]; 4]| std::array::from_fn(|c| seen(rows[c][i] / alpha));
                    let mixed = blend_colour(how.mode, straight(below), straight(above));
                    joined = std::array::from_fn(|c| own[c] + (back(mixed[c]) * alpha - own[c]) * w);
                }
                (0..3).for_each(|c| rows[c][i] = joined[c]);
                rows[3][i] = alpha;
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

    /// The other separable modes, hand-worked from section 9.1.
    #[test]
    fn formulas_of_the_other_modes() {
        use BlendMode::{
            ColorBurn, ColorDodge, Darken, Difference, Exclusion, HardLight, Lighten, SoftLight, Subtract,
        };
        let cases = [
            (Darken, 0.25, 0.75, 0.25),
            (Lighten, 0.25, 0.75, 0.75),
            (ColorDodge, 0.25, 0.5, 0.5), // 0.25 / (1 − 0.5)
            (ColorDodge, 0.75, 0.5, 1.0), // min(1, 1.5)
            (ColorDodge, 0.0, 1.0, 0.0),
            (ColorDodge, 0.1, 1.0, 1.0),
            (ColorBurn, 0.75, 0.5, 0.5), // 1 − 0.25 / 0.5
            (ColorBurn, 1.0, 0.0, 1.0),
            (ColorBurn, 0.5, 0.0, 0.0),
            (HardLight, 0.5, 0.25, 0.25),  // multiply(0.5, 0.5)
            (HardLight, 0.5, 0.75, 0.75),  // screen(0.5, 0.5)
            (HardLight, 0.3, 0.5, 0.3),    // ½ is neutral
            (SoftLight, 0.4, 0.5, 0.4),    // ½ is neutral
            (SoftLight, 0.5, 0.25, 0.375), // 0.5 − 0.5 · 0.5 · 0.5
            (SoftLight, 0.64, 1.0, 0.8),   // 0.64 + (√0.64 − 0.64)
            (SoftLight, 0.25, 1.0, 0.5),   // both forms of D meet at ¼
            (Difference, 0.25, 0.75, 0.5),
            (Exclusion, 0.25, 0.5, 0.5), // 0.75 − 2 · 0.125
            (Subtract, 0.75, 0.5, 0.25),
            (Subtract, 0.25, 0.5, 0.0),
        ];
        for (mode, b, s, want) in cases {
            let got = blend_value(mode, b, s);
            assert!((got - want).abs() < 1e-6, "{mode:?}({b}, {s}) = {got}, not {want}");
        }
    }

    /// Hand-worked from section 10.2, with Lum = 0.3 R + 0.59 G + 0.11 B.
    #[test]
    fn modes_of_colours_are_those_of_the_recommendation() {
        use BlendMode::{Color, Hue, Luminosity, Saturation};
        let (b, s) = ([0.6, 0.4, 0.2], [0.2, 0.2, 0.8]);
        let near = |mode, want: [f32; 3]| {
            let got = blend_colour(mode, b, s);
            assert!(got.iter().zip(want).all(|(g, w)| (g - w).abs() < 1e-5), "{mode:?}: {got:?} {want:?}");
        };
        // Lum(b) = 0.438, Lum(s) = 0.266, Sat(b) = 0.4, Sat(s) = 0.6.
        near(Luminosity, [0.428, 0.228, 0.028]);
        near(Color, [0.372, 0.372, 0.972]);
        near(Hue, [0.394, 0.394, 0.794]); // (0, 0, 0.4) has Lum 0.044
        near(Saturation, [0.681, 0.381, 0.081]); // (0.6, 0.3, 0) has Lum 0.357
        // Out of range colours are brought back along their grey.
        let c = blend_colour(Color, [0.9; 3], [0.0, 0.0, 1.0]);
        assert!(c.iter().all(|v| (0.0..=1.0).contains(v)) && (lum(c) - 0.9).abs() < 1e-5, "{c:?}");
        // A grey has no hue to give, and a highlight stays one.
        assert!(blend_colour(Saturation, b, [0.5; 3]).iter().all(|v| (v - 0.438).abs() < 1e-6));
        assert!(blend_colour(Hue, [5.0, 1.0, 1.0], s)[0] >= 4.0);
    }

    #[test]
    fn bright_values_never_darken() {
        for mode in [Screen, Overlay] {
            for (b, s) in [(1.5, 0.2), (0.9, 4.0), (3.0, 3.0), (1.0, 1.0)] {
                assert!(blend_value(mode, b, s) >= b.min(1.0), "{mode:?} {b} {s}");
            }
        }
        assert_eq!(blend_value(Screen, 3.0, 0.0), 3.0);
        for mode in BlendMode::ALL {
            let (low, high) = (blend_value(mode, 1.0, 0.5), blend_value(mode, 1.0001, 0.5));
            assert!(
                (low - high).abs() < 1e-3 && blend_value(mode, 9.0, 7.0).is_finite(),
                "{mode:?} is even at 1"
            );
        }
    }

    fn px(v: [f32; 4]) -> Raster {
        Raster::from_planar(Window::of_size(1, 1), 4, v.to_vec()).unwrap()
    }

    fn joined(mode: BlendMode, b: [f32; 4], s: [f32; 4], strength: f32, matte: f32) -> Raster {
        let m = Raster::filled(Window::of_size(1, 1), 1, matte);
        let how = Join { mode, space: BlendSpace::Linear, strength };
        join(&px(b), &px(s), Brings::Replaces, Some(&m), how, &Cancel::new()).unwrap()
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
        assert_eq!(
            joined(Multiply, [0.25, 0.25, 0.25, 0.5], [0.25, 0.25, 0.25, 0.5], 1.0, 1.0).plane(0),
            [0.125]
        );
        assert_eq!(joined(Multiply, [0.0; 4], [1.0; 4], 1.0, 1.0), px([1.0; 4]), "where only the change is");
        assert_eq!(joined(Add, [0.2, 0.2, 0.2, 1.0], [0.6; 4], 0.5, 0.5).plane(0), [0.2 + 0.6 * 0.25]);
    }

    /// One pixel with the whole change.
    fn brought(brings: Brings, mode: BlendMode, b: [f32; 4], s: [f32; 4]) -> Vec<f32> {
        let how = Join { mode, space: BlendSpace::Linear, strength: 1.0 };
        join(&px(b), &px(s), brings, None, how, &Cancel::new()).unwrap().data().to_vec()
    }

    fn close(got: &[f32], want: [f64; 4]) {
        assert!(got.iter().zip(want).all(|(a, b)| (f64::from(*a) - b).abs() < 1e-6), "{got:?} {want:?}");
    }

    #[test]
    fn what_lies_over_meets_the_picture_as_the_recommendation_says() {
        // W3C Compositing and Blending Level 1, section 5.6 and 9.1.4, worked by hand: straight 0.2 at ½ below straight 0.8
        // at 0.4; B = 0.16: 0.4·0.5·0.16 + 0.4·0.5·0.8 + 0.6·0.5·0.2 = 0.252, α = 0.4 + 0.5·0.6.
        let (b, s) = ([0.1, 0.1, 0.1, 0.5], [0.32, 0.32, 0.32, 0.4]);
        close(&brought(Brings::LiesOver, Multiply, b, s), [0.252, 0.252, 0.252, 0.7]);
        // Normal is `over` of Porter and Duff.
        close(&brought(Brings::LiesOver, Normal, b, s), [0.38, 0.38, 0.38, 0.7]);
        // Over nothing it is itself, under any mode; nothing over something leaves it.
        for mode in BlendMode::ALL {
            close(
                &brought(Brings::LiesOver, mode, [0.0; 4], s),
                [0.32, 0.32, 0.32, 0.4].map(|v: f32| v.into()),
            );
            close(&brought(Brings::LiesOver, mode, b, [0.0; 4]), [0.1, 0.1, 0.1, 0.5].map(|v: f32| v.into()));
        }
    }

    #[test]
    fn what_replaces_covers_the_same_things_and_light_leaves_coverage() {
        let (b, s) = ([0.25, 0.25, 0.25, 0.5], [0.1, 0.1, 0.1, 0.2]);
        // Of a half 0.2 is covered by both (0.5·0.5 there), 0.3 by the picture alone.
        close(&brought(Brings::Replaces, Multiply, b, s), [0.2, 0.2, 0.2, 0.5]);
        close(&brought(Brings::Replaces, Normal, b, s), [0.1, 0.1, 0.1, 0.2].map(|v: f32| v.into()));
        close(&brought(Brings::Adds, Add, b, s), [0.35, 0.35, 0.35, 0.5]);
        close(&brought(Brings::Adds, Normal, b, s), [0.1, 0.1, 0.1, 0.5].map(|v: f32| v.into()));
    }
}
