//! Mattes: one plane, 0 = untouched, 1 = fully affected.
//!
//! | module | subject |
//! |---|---|
//! | here | mattes from passes, pixel by pixel; how mattes are combined |
//! | [`outlines`] | ellipse, polygon, gradient |
//! | [`strokes`] | painted with a brush |
//! | [`hashed`] | objects by their hashed IDs |
//! | [`edges`] | choked, grown, a band along an edge |
//! | [`refill`] | the edge of a picture choked, with colours carried outwards first |

pub mod edges;
pub mod hashed;
pub mod outlines;
pub mod path;
pub mod refill;
pub mod strokes;

use crate::colour::{luminance, srgb_encode};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, ShapeError};
use glam::Vec3;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// 1 where the object ID is one of `ids`. Hard, since IDs are exact per pixel.
///
/// # Errors
/// An ID raster without exactly one channel.
pub fn from_ids(id: &Raster, ids: &[u32]) -> Result<Raster, ShapeError> {
    id.expect_channels("object ID", 1)?;
    let chosen: Vec<f32> = ids.iter().map(|&i| i as f32).collect();
    map(id, |v| if chosen.contains(&v) { 1.0 } else { 0.0 })
}

/// A range of depth, in scene units, with soft ends.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct DepthRange {
    /// Nearest fully affected depth.
    pub near: f32,
    /// Farthest fully affected depth.
    pub far: f32,
    /// Length of the ramp in front of `near`.
    pub near_soft: f32,
    /// Length of the ramp behind `far`.
    pub far_soft: f32,
}

/// Share of a value beyond an end by `distance`, over a soft end of length `soft`: 1 inside, falling linearly to 0.
fn ramp(distance: f32, soft: f32) -> f32 {
    if distance <= 0.0 {
        1.0
    } else if soft > 0.0 {
        (1.0 - distance / soft).max(0.0)
    } else {
        0.0
    }
}

/// 1 inside the range, falling linearly to 0 over each soft end; 0 where there is no depth.
///
/// # Errors
/// A depth raster without exactly one channel.
pub fn from_depth(depth: &Raster, range: DepthRange) -> Result<Raster, ShapeError> {
    depth.expect_channels("depth", 1)?;
    map(depth, |z| {
        if z.is_finite() {
            ramp(range.near - z, range.near_soft).min(ramp(z - range.far, range.far_soft))
        } else {
            0.0
        }
    })
}

/// What faces a direction: 1 up to `within` degrees away from it, falling smoothly to 0 at `until`; 0 where there
/// is no normal.
///
/// # Errors
/// Normals without exactly three channels.
pub fn from_facing(normal: &Raster, toward: Vec3, within: f32, until: f32) -> Result<Raster, ShapeError> {
    normal.expect_channels("normals", 3)?;
    let toward = toward.try_normalize().unwrap_or(Vec3::Z);
    let [x, y, z] = std::array::from_fn(|c| normal.plane(c));
    let share = |i: usize| {
        let n = Vec3::new(x[i], y[i], z[i]);
        let length = n.length();
        if length.is_nan() || length < 0.5 {
            return 0.0;
        }
        let away = (n.dot(toward) / length).clamp(-1.0, 1.0).acos().to_degrees();
        let t = ramp(away - within, (until - within).max(0.0));
        t * t * (3.0 - 2.0 * t)
    };
    Raster::from_planar(normal.window(), 1, (0..x.len()).map(share).collect())
}

/// A range of values with soft ends on both sides.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Range {
    /// Lowest fully affected value.
    pub low: f32,
    /// Highest fully affected value.
    pub high: f32,
    /// Length of the ramp below `low`.
    pub low_soft: f32,
    /// Length of the ramp above `high`.
    pub high_soft: f32,
}

impl Range {
    fn at(&self, v: f32) -> f32 {
        ramp(self.low - v, self.low_soft).min(ramp(v - self.high, self.high_soft))
    }
}

/// A range of luminance as it looks on a screen (under the sRGB curve, 0..1 and above), of the straight colour;
/// 0 where there is no coverage.
///
/// # Errors
/// A picture without exactly four channels.
pub fn from_luminance(picture: &Raster, range: Range) -> Result<Raster, ShapeError> {
    from_colour(picture, |rgb| range.at(srgb_encode(luminance(rgb))))
}

/// A range of hue about `hue` degrees (0 red, 120 green, 240 blue): 1 up to `width`/2 away from it, falling to 0 over
/// `soft` degrees; less where the colour is greyer than `least` saturation (0..1, HSV of the straight linear colour).
///
/// # Errors
/// A picture without exactly four channels.
pub fn from_hue(picture: &Raster, hue: f32, width: f32, soft: f32, least: f32) -> Result<Raster, ShapeError> {
    from_colour(picture, |rgb| {
        let (own, saturation) = hue_of(rgb);
        let away = (own - hue + 540.0).rem_euclid(360.0) - 180.0;
        ramp(away.abs() - width * 0.5, soft) * ramp(least - saturation, 0.5 * least)
    })
}

/// Hue in degrees and saturation of the HSV hexcone (Smith 1978).
pub fn hue_of([r, g, b]: [f32; 3]) -> (f32, f32) {
    let (most, least) = (r.max(g).max(b), r.min(g).min(b));
    let chroma = most - least;
    if chroma.is_nan() || chroma <= 0.0 || most <= 0.0 {
        return (0.0, 0.0);
    }
    let sixth = if most == r {
        (g - b) / chroma
    } else if most == g {
        2.0 + (b - r) / chroma
    } else {
        4.0 + (r - g) / chroma
    };
    ((sixth * 60.0).rem_euclid(360.0), (chroma / most).min(1.0))
}

fn from_colour(picture: &Raster, f: impl Fn([f32; 3]) -> f32) -> Result<Raster, ShapeError> {
    picture.expect_channels("picture", 4)?;
    let [r, g, b, a] = std::array::from_fn(|c| picture.plane(c));
    let share = |i: usize| if a[i] > 0.0 { f([r[i], g[i], b[i]].map(|v| (v / a[i]).max(0.0))) } else { 0.0 };
    Raster::from_planar(picture.window(), 1, (0..r.len()).map(share).collect())
}

/// How a further matte joins those before it. Largest and smallest of two values, so that two mattes of one edge
/// leave it as soft as it was (fuzzy union, intersection and difference, Zadeh 1965).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Combine {
    /// Here as well.
    #[default]
    Or,
    /// Only where both are.
    And,
    /// Not here.
    Minus,
}

/// Joins `further` to `matte`.
///
/// # Errors
/// Mattes of more than one channel, or on two windows.
pub fn combine(matte: &Raster, further: &Raster, how: Combine) -> Result<Raster, ShapeError> {
    matte.expect_channels("matte", 1)?;
    further.expect_channels("matte", 1)?;
    further.expect_window("matte", matte.window())?;
    let f: fn(f32, f32) -> f32 = match how {
        Combine::Or => f32::max,
        Combine::And => f32::min,
        Combine::Minus => |a, b| a.min(1.0 - b),
    };
    let both = matte.plane(0).iter().zip(further.plane(0)).map(|(a, b)| f(*a, *b));
    Raster::from_planar(matte.window(), 1, both.collect())
}

/// Stretches what lies between `low` and `high` to 0..1, and holds the rest at the ends.
///
/// # Errors
/// A matte without exactly one channel.
pub fn levels(matte: &Raster, low: f32, high: f32) -> Result<Raster, ShapeError> {
    matte.expect_channels("matte", 1)?;
    let scale = 1.0 / (high - low).max(1e-6);
    map(matte, |v| ((v - low) * scale).clamp(0.0, 1.0))
}

/// Each pixel of a new matte from its place, in px of the window.
fn drawn(
    window: crate::Window,
    cancel: &Cancel,
    f: impl Fn(f32, f32) -> f32 + Sync,
) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(window, 1);
    for_each_band(&mut out, cancel, |band| {
        let window = band.window();
        for y in window.rows() {
            for (x, v) in (window.x..).zip(band.row(0, y)) {
                *v = f(x as f32 + 0.5, y as f32 + 0.5);
            }
        }
    })?;
    Ok(out)
}

/// `1 − m`.
///
/// # Errors
/// A matte without exactly one channel.
pub fn invert(matte: &Raster) -> Result<Raster, ShapeError> {
    matte.expect_channels("matte", 1)?;
    map(matte, |v| 1.0 - v)
}

fn map(source: &Raster, f: impl Fn(f32) -> f32) -> Result<Raster, ShapeError> {
    Raster::from_planar(source.window(), 1, source.plane(0).iter().map(|&v| f(v)).collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn row(v: &[f32]) -> Raster {
        Raster::from_planar(Window::of_size(v.len() as u32, 1), 1, v.to_vec()).unwrap()
    }

    #[test]
    fn ids_are_hard_and_several() {
        let m = from_ids(&row(&[0.0, 3.0, 7.0, 3.5]), &[3, 7]).unwrap();
        assert_eq!(m.plane(0), [0.0, 1.0, 1.0, 0.0]);
        assert_eq!(invert(&m).unwrap().plane(0), [1.0, 0.0, 0.0, 1.0]);
    }

    #[test]
    fn depth_range_has_soft_ends_and_no_background() {
        let r = DepthRange { near: 2.0, far: 4.0, near_soft: 1.0, far_soft: 2.0 };
        let z = row(&[0.5, 1.5, 2.0, 3.0, 5.0, 7.0, f32::INFINITY, f32::NAN]);
        assert_eq!(from_depth(&z, r).unwrap().plane(0), [0.0, 0.5, 1.0, 1.0, 0.5, 0.0, 0.0, 0.0]);
        let hard = DepthRange { near_soft: 0.0, far_soft: 0.0, ..r };
        assert_eq!(from_depth(&row(&[1.99, 2.0, 4.0, 4.01]), hard).unwrap().plane(0), [0.0, 1.0, 1.0, 0.0]);
    }

    #[test]
    fn facing_is_an_angle() {
        let n = |d: f32| [d.to_radians().sin(), 0.0, d.to_radians().cos()];
        let angles = [0.0, 29.0, 45.0, 61.0, 120.0];
        let normals = Raster::from_fn(Window::of_size(6, 1), 3, |c, x, _| {
            angles.get(x as usize).map_or(0.0, |&d| n(d)[c])
        });
        let m = from_facing(&normals, Vec3::Z, 30.0, 60.0).unwrap();
        assert_eq!(m.plane(0)[..2], [1.0, 1.0]);
        assert!((m.plane(0)[2] - 0.5).abs() < 1e-5 && m.plane(0)[3..] == [0.0, 0.0, 0.0], "{:?}", m.plane(0));
    }

    fn colours(list: &[[f32; 4]]) -> Raster {
        Raster::from_fn(Window::of_size(list.len() as u32, 1), 4, |c, x, _| list[x as usize][c])
    }

    #[test]
    fn luminance_is_that_of_the_screen_and_knows_no_coverage() {
        // 0.214 linear is ½ under the sRGB curve (IEC 61966-2-1); half covered it is the same colour.
        let p = colours(&[[0.214, 0.214, 0.214, 1.0], [0.107, 0.107, 0.107, 0.5], [1.0; 4], [0.0; 4]]);
        let r = Range { low: 0.4, high: 0.6, low_soft: 0.0, high_soft: 0.8 };
        let m = from_luminance(&p, r).unwrap();
        assert_eq!(m.plane(0)[..2], [1.0, 1.0]);
        assert!((m.plane(0)[2] - 0.5).abs() < 1e-5 && m.plane(0)[3] == 0.0);
    }

    #[test]
    fn hues_are_those_of_the_circle() {
        for (rgb, hue) in [
            ([1.0, 0.0, 0.0], 0.0),
            ([1.0, 1.0, 0.0], 60.0),
            ([0.0, 0.5, 0.0], 120.0),
            ([0.2, 0.2, 0.6], 240.0),
            ([1.0, 0.0, 0.5], 330.0),
        ] {
            assert!((hue_of(rgb).0 - hue).abs() < 1e-3, "{rgb:?}");
        }
        assert_eq!(hue_of([0.3; 3]), (0.0, 0.0));
        let p = colours(&[
            [1.0, 0.0, 0.0, 1.0],
            [1.0, 0.0, 0.5, 1.0],
            [0.0, 1.0, 0.0, 1.0],
            [0.5, 0.5, 0.5, 1.0],
        ]);
        // 30° to the other side of red.
        let m = from_hue(&p, 0.0, 40.0, 20.0, 0.1).unwrap();
        assert!(m.plane(0)[0] == 1.0 && (m.plane(0)[1] - 0.5).abs() < 1e-4 && m.plane(0)[2..] == [0.0, 0.0]);
    }

    #[test]
    fn mattes_are_combined_as_sets() {
        let (a, b) = (row(&[1.0, 1.0, 0.0, 0.5, 0.75]), row(&[1.0, 0.0, 1.0, 0.5, 0.5]));
        for (how, want) in [
            (Combine::Or, [1.0, 1.0, 1.0, 0.5, 0.75]),
            (Combine::And, [1.0, 0.0, 0.0, 0.5, 0.5]),
            (Combine::Minus, [0.0, 1.0, 0.0, 0.5, 0.5]),
        ] {
            assert_eq!(combine(&a, &b, how).unwrap().plane(0), want, "{how:?}");
        }
        assert_eq!(
            levels(&row(&[0.0, 0.25, 0.5, 0.75, 1.0]), 0.25, 0.75).unwrap().plane(0),
            [0.0, 0.0, 0.5, 1.0, 1.0]
        );
    }
}
