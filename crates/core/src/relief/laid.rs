//! Colour laid on a picture along the edge of a matte, inside and outside of it; shadows of a matte.

use super::contour::{covered, signed_distance};
use crate::colour::blend::{BlendMode, BlendSpace, Brings, Join, join};
use crate::raster::bands::for_each_band;
use crate::raster::soften::{radius_of, softened};
use crate::{Cancel, KernelError, Raster};
use glam::Vec2;

/// One colour, and how it meets the picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ink {
    /// Linear, straight.
    pub colour: [f32; 3],
    /// 0..1.
    pub opacity: f32,
    /// How it meets what is there.
    pub blend: BlendMode,
}

/// A picture (RGBA, premultiplied) with an ink laid on it. `share` says how much of it: of what lies inside `matte` (plane
/// 0) and of what lies outside of it (plane 1). Where the picture covers nothing, what lies outside stands alone.
///
/// # Errors
/// Other channels or windows; cancellation.
pub fn laid(
    picture: &Raster,
    matte: &Raster,
    share: &Raster,
    ink: Ink,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    share.expect_channels("share", 2)?;
    for (what, raster) in [("matte", matte), ("share", share)] {
        raster.expect_window(what, picture.window())?;
    }
    let mut weight = Raster::zeros(picture.window(), 1);
    for_each_band(&mut weight, cancel, |band| {
        for y in band.window().rows() {
            let (alpha, inside) = (picture.row(3, y), matte.row(0, y));
            let [within, without] = share.rows(y);
            for (i, w) in band.row(0, y).iter_mut().enumerate() {
                // Of what the picture covers, this much is inside.
                let own = if alpha[i] > 0.0 { (inside[i] / alpha[i]).clamp(0.0, 1.0) } else { 0.0 };
                *w = ink.opacity * (within[i] * own + without[i] * (1.0 - own));
            }
        }
    })?;
    let alpha = picture.plane(3);
    let data = (0..3).flat_map(|c| alpha.iter().map(move |a| a * ink.colour[c]));
    let solid = Raster::from_planar(picture.window(), 4, data.chain(alpha.iter().copied()).collect())?;
    let how = Join { mode: ink.blend, space: BlendSpace::Display, strength: 1.0 };
    let mut out = join(picture, &solid, Brings::Replaces, Some(&weight), how, cancel)?;
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (alpha, without) = (picture.row(3, y), share.row(1, y));
            let mut rows = band.rows::<4>(y);
            for i in 0..alpha.len() {
                let alone = (1.0 - alpha[i]).max(0.0) * without[i] * ink.opacity;
                for (row, v) in rows.iter_mut().zip([ink.colour[0], ink.colour[1], ink.colour[2], 1.0]) {
                    row[i] += v * alone;
                }
            }
        }
    })?;
    Ok(out)
}

/// A shadow that a matte throws.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shadow {
    /// How far it lies from the matte, px, y down.
    pub by: Vec2,
    /// How much larger it is than the matte, px; smaller if negative.
    pub spread: f32,
    /// Blur, px.
    pub soft: f32,
}

impl Shadow {
    /// Px around a pixel that it looks at.
    pub fn reach(&self) -> f32 {
        self.by.abs().max_element() + self.spread.abs() + radius_of(self.soft) as f32 + 4.0
    }
}

/// How much each pixel lies in the shadow of a matte (one channel).
///
/// # Errors
/// A matte without exactly one channel; cancellation.
pub fn shade(matte: &Raster, shadow: &Shadow, cancel: &Cancel) -> Result<Raster, KernelError> {
    matte.expect_channels("matte", 1)?;
    let grown = if shadow.spread == 0.0 {
        matte.clone()
    } else {
        let far = signed_distance(matte, shadow.spread.abs() + 2.0, cancel)?;
        let share = far.plane(0).iter().map(|d| covered(d + shadow.spread));
        Raster::from_planar(matte.window(), 1, share.collect())?
    };
    softened(&shifted(&grown, shadow.by, cancel)?, shadow.soft, cancel)
}

/// Shifted by any part of a px, bilinear; nothing comes in from outside.
fn shifted(matte: &Raster, by: Vec2, cancel: &Cancel) -> Result<Raster, KernelError> {
    let by = by.clamp(Vec2::splat(-1e6), Vec2::splat(1e6));
    if by == Vec2::ZERO {
        return Ok(matte.clone());
    }
    let (whole, part) = (by.floor(), by - by.floor());
    let (dx, dy) = (whole.x as i32, whole.y as i32);
    let window = matte.window();
    let row_of = |y: i32| {
        (i64::from(y) >= i64::from(window.y) && i64::from(y) < window.bottom()).then(|| matte.row(0, y))
    };
    let mut out = Raster::zeros(window, 1);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            // What is moved down by 2.3 px comes from 2 px above (seven tenths of it) and 3 px above.
            let rows = [
                (row_of(y.saturating_sub(dy)), 1.0 - part.y),
                (row_of(y.saturating_sub(dy).saturating_sub(1)), part.y),
            ];
            let out = band.row(0, y);
            for (row, weight) in
                rows.into_iter().filter_map(|(r, w)| r.map(|r| (r, w))).filter(|(_, w)| *w > 0.0)
            {
                for (x, v) in out.iter_mut().enumerate() {
                    let at =
                        |x: i64| usize::try_from(x).ok().and_then(|x| row.get(x)).copied().unwrap_or(0.0);
                    let x = x as i64 - i64::from(dx);
                    *v += weight * (at(x) * (1.0 - part.x) + at(x - 1) * part.x);
                }
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn block() -> Raster {
        Raster::from_fn(Window::of_size(40, 30), 1, |_, x, y| {
            f32::from(u8::from((10..20).contains(&x) && (8..18).contains(&y)))
        })
    }

    #[test]
    fn a_shadow_lies_where_it_is_thrown_and_is_as_large_as_it_should_be() {
        let go = |by, spread, soft| shade(&block(), &Shadow { by, spread, soft }, &Cancel::new()).unwrap();
        let shadow = go(Vec2::new(3.25, 4.0), 0.0, 0.0);
        assert_eq!([12, 13, 14, 23].map(|x| shadow.sample(0, x, 15).unwrap()), [0.0, 0.75, 1.0, 0.25]);
        assert_eq!((shadow.sample(0, 15, 11), shadow.sample(0, 15, 12)), (Some(0.0), Some(1.0)));
        let sum = |m: &Raster| m.plane(0).iter().sum::<f32>();
        assert!((sum(&shadow) - 100.0).abs() < 1e-3);
        assert!(
            (sum(&go(Vec2::ZERO, 2.0, 0.0)) - (14.0 * 14.0 - (4.0 - std::f32::consts::PI) * 4.0)).abs() < 3.0
        );
        assert!((sum(&go(Vec2::ZERO, -2.0, 0.0)) - 36.0).abs() < 0.5);
        assert!((sum(&go(Vec2::ZERO, 0.0, 3.0)) - 100.0).abs() < 0.2);
    }

    #[test]
    fn ink_outside_meets_the_picture_without_a_seam() {
        // A picture that covers three tenths of a pixel, and ink all around it.
        let w = Window::of_size(1, 1);
        let picture = Raster::from_planar(w, 4, vec![0.3, 0.0, 0.0, 0.3]).unwrap();
        let matte = Raster::filled(w, 1, 0.3);
        let share = Raster::from_planar(w, 2, vec![0.0, 1.0]).unwrap();
        let ink = Ink { colour: [0.0, 1.0, 0.0], opacity: 1.0, blend: BlendMode::Normal };
        let out = laid(&picture, &matte, &share, ink, &Cancel::new()).unwrap();
        let want = [0.3, 0.7, 0.0, 1.0];
        assert!(out.data().iter().zip(want).all(|(a, b)| (a - b).abs() < 1e-6), "{:?}", out.data());
        // An opaque picture takes it where it lies outside the matte.
        let solid = Raster::from_planar(w, 4, vec![1.0, 0.0, 0.0, 1.0]).unwrap();
        let out = laid(&solid, &matte, &share, ink, &Cancel::new()).unwrap();
        assert!(out.data().iter().zip(want).all(|(a, b)| (a - b).abs() < 1e-6), "{:?}", out.data());
        let none = Ink { opacity: 0.0, ..ink };
        assert_eq!(laid(&picture, &matte, &share, none, &Cancel::new()).unwrap(), picture);
    }
}
