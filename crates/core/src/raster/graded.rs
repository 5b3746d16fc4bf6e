//! A blur that differs from place to place.

use crate::raster::bands::for_each_band;
use crate::raster::scale::{Scale, average};
use crate::raster::soften::{MOST, softened};
use crate::{Cancel, KernelError, Raster, Window};
use glam::Vec2;

/// A place with the size of the blur there.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sized {
    /// Where, px.
    pub at: Vec2,
    /// Softness there, px ([`softened`]).
    pub size: f32,
}

/// The size of the blur at each pixel (one plane) between places that have one: their mean by inverse squared distance
/// (Shepard 1968), which is exact at each of them. Without places, 0 everywhere.
///
/// # Errors
/// Cancellation.
pub fn sizes_between(places: &[Sized], window: Window, cancel: &Cancel) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(window, 1);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            for (x, v) in (window.x..).zip(band.row(0, y)) {
                let here = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
                let (mut sum, mut total) = (0.0, 0.0);
                for place in places {
                    // Within a hundredth of a px a place has all the weight that there is.
                    let weight = here.distance_squared(place.at).max(1e-4).recip();
                    sum += weight * place.size;
                    total += weight;
                }
                *v = if total > 0.0 { sum / total } else { 0.0 };
            }
        }
    })?;
    Ok(out)
}

/// Sizes above this are blurred at half the size for each doubling, px.
const COARSE: f32 = 16.0;
/// Halvings, at most.
const HALVINGS: u32 = 4;
/// The smallest blur beside none, px.
const FINEST: f32 = 0.75;
/// From one blurred picture to the next.
const STEP: f32 = 1.5;

/// A picture blurred at each pixel by the size (px, one plane) that is told there, as [`softened`] blurs; sizes are held to
/// 0..=400, and what is not finite is 0. What lies beyond the window is as its edge.
///
/// Pictures of growing blur are made, each half as strong again, and two of them mixed at each pixel so that the variance of
/// what a point becomes is that of the size (own derivation: variances add up in a mean of two spots with one middle).
///
/// # Errors
/// Rasters that do not fit; cancellation.
pub fn graded(picture: &Raster, sizes: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    sizes.expect_channels("sizes", 1)?;
    sizes.expect_window("sizes", picture.window())?;
    let held = |v: f32| if v.is_finite() { v.clamp(0.0, MOST) } else { 0.0 };
    let ends = (f32::INFINITY, 0f32);
    let (low, high) = sizes.plane(0).iter().map(|v| held(*v)).fold(ends, |(a, b), v| (a.min(v), b.max(v)));
    let levels = levels(low, high);
    let Some((first, rest)) = levels.split_first() else { return Ok(picture.clone()) };
    let (mut less, mut from) = (blurred(picture, *first, cancel)?, *first);
    let mut out = less.clone();
    for &to in rest {
        let more = blurred(picture, to, cancel)?;
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                let sizes = sizes.row(0, y);
                for c in 0..picture.channels() {
                    let (less, more, out) = (less.row(c, y), more.row(c, y), band.row(c, y));
                    for i in 0..out.len() {
                        let size = held(sizes[i]);
                        if size > from {
                            let t = (size * size - from * from) / (to * to - from * from);
                            out[i] = less[i] + (more[i] - less[i]) * t.min(1.0);
                        }
                    }
                }
            }
        })?;
        (less, from) = (more, to);
    }
    Ok(out)
}

/// The sizes at which pictures are made, from the smallest that is asked for to the largest.
fn levels(low: f32, high: f32) -> Vec<f32> {
    if low > high {
        return Vec::new();
    }
    let mut all = vec![if low < FINEST { 0.0 } else { low }];
    let mut next = if low < FINEST { FINEST } else { low * STEP };
    while next < high {
        all.push(next);
        next *= STEP;
    }
    if high > all[all.len() - 1] {
        all.push(high);
    }
    all
}

/// Blurred evenly; strong blurs are worked out smaller.
fn blurred(picture: &Raster, size: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    let halvings = (size / COARSE).max(1.0).log2().floor().min(HALVINGS as f32) as u8;
    let Some(scale) = Scale::halved(halvings).filter(|s| *s != Scale::FULL) else {
        return softened(picture, size, cancel);
    };
    let n = scale.step() as f32;
    // What blocks and reading between them blur by themselves.
    let own = (n * n - 1.0) / 12.0 + n * n / 6.0;
    let sigma = (0.25 * size * size - own).max(0.0).sqrt() / n;
    let small = average(&whole_blocks(picture, scale), scale, cancel)?;
    let small = softened(&small, 2.0 * sigma, cancel)?;
    let (window, from) = (picture.window(), small.window());
    let taps = |first: i32, count: u32, low: i32, length: u32| -> Vec<(usize, usize, f32)> {
        let held = |i: i32| (i - low).clamp(0, length as i32 - 1) as usize;
        let one = |x: i32| {
            let at = (x as f32 + 0.5) / n - 0.5;
            (held(at.floor() as i32), held(at.floor() as i32 + 1), at - at.floor())
        };
        (first..).take(count as usize).map(one).collect()
    };
    let across = taps(window.x, window.width, from.x, from.width);
    let down = taps(window.y, window.height, from.y, from.height);
    let mut out = Raster::zeros(window, picture.channels());
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (above, below, t) = down[(y - window.y) as usize];
            for c in 0..small.channels() {
                let row = |i: usize| small.row(c, from.y + i as i32);
                let (above, below) = (row(above), row(below));
                for (v, (left, right, s)) in band.row(c, y).iter_mut().zip(&across) {
                    let upper = above[*left] + (above[*right] - above[*left]) * s;
                    let lower = below[*left] + (below[*right] - below[*left]) * s;
                    *v = upper + (lower - upper) * t;
                }
            }
        }
    })?;
    Ok(out)
}

/// A picture whose window is made of whole blocks of a scale, its edges carried on: so that no block is empty in part.
fn whole_blocks(picture: &Raster, scale: Scale) -> Raster {
    let (n, w) = (scale.step(), picture.window());
    let up = |v: i64| (v + i64::from(n) - 1).div_euclid(n.into()) * i64::from(n);
    let (left, top) = (w.x.div_euclid(n) * n, w.y.div_euclid(n) * n);
    let whole = Window::from_edges(left.into(), top.into(), up(w.right()), up(w.bottom()));
    if whole == w || w.is_empty() {
        return picture.clone();
    }
    let (right, last) = (w.right() as i32 - 1, w.bottom() as i32 - 1);
    Raster::from_fn(whole, picture.channels(), |c, x, y| {
        picture.row(c, y.clamp(w.y, last))[(x.clamp(w.x, right) - w.x) as usize]
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn busy(window: Window) -> Raster {
        Raster::from_fn(window, 4, |c, x, y| {
            let v = ((x * 7 + y * 13 + 5 * c as i32) % 31) as f32 / 31.0;
            if (x / 9 + y / 11) % 2 == 0 { v } else { 1.0 - v }
        })
    }

    #[test]
    fn one_size_everywhere_is_the_even_blur() {
        let picture = busy(Window::new(-3, 5, 230, 210));
        for size in [0.0, 0.4, 3.0, 14.0, 22.0, 40.0] {
            let sizes = Raster::filled(picture.window(), 1, size);
            let out = graded(&picture, &sizes, &Cancel::new()).unwrap();
            let even = softened(&picture, size, &Cancel::new()).unwrap();
            // Where the frame's edge is carried on, smaller pictures carry on the mean of a block.
            let inner = Window::new(72, 80, 80, 60);
            let (out, even) = (out.cropped(inner, 0.0), even.cropped(inner, 0.0));
            let most = out.data().iter().zip(even.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
            // Below three quarters of a px two pictures are mixed; above sixteen it is worked out smaller.
            let bound = if size == 0.4 {
                0.02
            } else if size > COARSE {
                2e-3
            } else {
                1e-6
            };
            assert!(most < bound, "{size}: {most}");
        }
    }

    #[test]
    fn a_point_spreads_by_the_variance_that_is_told() {
        let window = Window::of_size(161, 161);
        let mut point = Raster::zeros(window, 1);
        point.row_mut(0, 80)[80] = 1.0;
        // A Gaussian of less than a px is narrower than its own in whole px.
        for size in [2.5, 7.0, 20.0] {
            // Sizes on either side, so that this one lies between two levels.
            let sizes = Raster::from_fn(window, 1, |_, x, y| if (x, y) == (0, 0) { 0.0 } else { size });
            let sizes = {
                let mut s = sizes;
                s.row_mut(0, 160)[160] = 31.0;
                s
            };
            let out = graded(&point, &sizes, &Cancel::new()).unwrap();
            let (mut sum, mut square) = (0.0f64, 0.0f64);
            for y in window.rows() {
                for (x, v) in out.row(0, y).iter().enumerate() {
                    let d = f64::from((x as i32 - 80).pow(2) + (y - 80).pow(2));
                    sum += f64::from(*v);
                    square += f64::from(*v) * d;
                }
            }
            let sigma = (square / sum / 2.0).sqrt();
            assert!((sigma - f64::from(size) / 2.0).abs() < 0.01 * f64::from(size) + 0.01, "{size}: {sigma}");
        }
    }

    #[test]
    fn a_place_has_its_own_size_and_between_two_lies_their_mean() {
        let two =
            [Sized { at: Vec2::new(10.5, 5.5), size: 2.0 }, Sized { at: Vec2::new(30.5, 5.5), size: 12.0 }];
        let sizes = sizes_between(&two, Window::of_size(41, 11), &Cancel::new()).unwrap();
        let at = |x| sizes.sample(0, x, 5).unwrap();
        assert!((at(10) - 2.0).abs() < 1e-3 && (at(30) - 12.0).abs() < 1e-3 && (at(20) - 7.0).abs() < 1e-4);
        let none = sizes_between(&[], Window::of_size(3, 3), &Cancel::new()).unwrap();
        assert_eq!(none.data(), [0.0; 9]);
    }

    #[test]
    fn colours_of_the_frame_hold_to_its_edge() {
        let window = Window::of_size(50, 37);
        let out = graded(
            &Raster::filled(window, 4, 1.0),
            &Raster::from_fn(window, 1, |_, x, _| x as f32 * 4.0),
            &Cancel::new(),
        );
        assert!(out.unwrap().data().iter().all(|v| (v - 1.0).abs() < 1e-4));
    }
}
