//! Light that spreads from what is bright.

use crate::raster::bands::for_each_band;
use crate::raster::soften::softened;
use crate::{Cancel, KernelError, Raster, Window};

/// A glow.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Glow {
    /// Brightness from which on it spreads, linear.
    pub threshold: f32,
    /// How wide it is, px: the standard deviation of the widest of its Gaussians.
    pub size: f32,
    /// From a narrow core (0) to a wide haze (1).
    pub wide: f32,
    /// Factors of the three channels.
    pub tint: [f32; 3],
}

/// Most halvings.
const LEVELS: usize = 9;

/// The light (RGBA, no coverage) that spreads from a picture (RGBA, premultiplied): a sum of Gaussians, each twice as wide as
/// the one before it, of what lies above the threshold. Its sum over an endless frame is that of what was taken, times the
/// tint; beyond the picture's window nothing comes in.
///
/// # Errors
/// A picture without exactly four channels; cancellation.
pub fn glow(picture: &Raster, how: &Glow, cancel: &Cancel) -> Result<Raster, KernelError> {
    let bright = above(picture, how.threshold, cancel)?;
    let window = picture.window();
    // What spreads past the frame is lost there, not reflected: the frame stands in an empty border.
    let border =
        ((how.size * 3.0).ceil().clamp(1.0, 4096.0) as u32).min(window.width.max(window.height)).max(8);
    let mut level = bright.cropped(window.grown(border), 0.0);
    let finest = 2.0_f32.min(how.size.max(0.3));
    let count = ((how.size / finest).log2().floor() as usize + 1).clamp(1, LEVELS);
    // Narrow ones weigh more the less wide it is to be.
    let weight = |i: usize| {
        (0.25 + 0.75 * how.wide.clamp(0.0, 1.0)).powi((count - 1 - i) as i32)
            * (1.25 - how.wide.clamp(0.0, 1.0)).powi(i as i32)
    };
    let total: f32 = (0..count).map(weight).sum();
    let mut parts = Vec::with_capacity(count);
    for i in 0..count {
        cancel.check()?;
        if i > 0 {
            level = halved(&level, cancel)?;
        }
        let mut part = softened(&level, 2.0 * finest, cancel)?;
        let k = weight(i) / total.max(1e-12);
        part.planes_mut().into_iter().flatten().for_each(|v| *v *= k);
        parts.push(part);
    }
    let mut sum = parts.pop().unwrap_or_else(|| Raster::zeros(window, 3));
    while let Some(finer) = parts.pop() {
        sum = added(&finer, &sum, cancel)?;
    }
    Ok(tinted(&sum.cropped(window, 0.0), how.tint))
}

/// Light (three planes) times a tint, as RGBA without coverage.
pub(super) fn tinted(light: &Raster, tint: [f32; 3]) -> Raster {
    let mut out = Raster::zeros(light.window(), 4);
    for (c, tint) in tint.into_iter().enumerate() {
        out.plane_mut(c).iter_mut().zip(light.plane(c)).for_each(|(o, v)| *o = v * tint);
    }
    out
}

/// What lies above a brightness, in its own hue.
pub(super) fn above(picture: &Raster, threshold: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    let mut out = Raster::zeros(picture.window(), 3);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let rgba = picture.rows::<4>(y);
            let mut rows = band.rows::<3>(y);
            for i in 0..rgba[3].len() {
                let [r, g, b, a] = rgba.map(|row| row[i]);
                let most = r.max(g).max(b);
                let k =
                    if most.is_finite() && most > 0.0 { (most - threshold * a).max(0.0) / most } else { 0.0 };
                // What is not finite is left alone: a factor of 0 would make NaN of it.
                let taken = |v: f32| if k > 0.0 { v.max(0.0) * k } else { 0.0 };
                rows.iter_mut().zip([r, g, b]).for_each(|(row, v)| row[i] = taken(v));
            }
        }
    })?;
    Ok(out)
}

/// Half as large: four pixels are one, their mean. Windows are in px of the level.
fn halved(level: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    let w = level.window();
    let (left, top) = (w.x.div_euclid(2), w.y.div_euclid(2));
    let (right, bottom) = ((w.right() + 1).div_euclid(2), (w.bottom() + 1).div_euclid(2));
    let small = Window::from_edges(left.into(), top.into(), right, bottom);
    let mut out = Raster::zeros(small, level.channels());
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            for c in 0..level.channels() {
                let out = band.row(c, y);
                for from in [2 * y, 2 * y + 1] {
                    if from < w.y || i64::from(from) >= w.bottom() {
                        continue;
                    }
                    for (x, v) in level.row(c, from).iter().enumerate() {
                        let at = (w.x + x as i32).div_euclid(2) - small.x;
                        out[at as usize] += 0.25 * v;
                    }
                }
            }
        }
    })?;
    Ok(out)
}

/// A level and the next coarser one, read between its pixels.
fn added(fine: &Raster, coarse: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    let (w, s) = (fine.window(), coarse.window());
    let mut out = fine.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            // The nearer of the coarser rows has three quarters, the other one a quarter.
            let near = y.div_euclid(2);
            let other = if y.rem_euclid(2) == 0 { near - 1 } else { near + 1 };
            for c in 0..fine.channels() {
                let out = band.row(c, y);
                for (from, weight) in [(near, 0.75), (other, 0.25)] {
                    if from < s.y || i64::from(from) >= s.bottom() {
                        continue;
                    }
                    let row = coarse.row(c, from);
                    let at = |x: i32| {
                        usize::try_from(x - s.x).ok().and_then(|i| row.get(i)).copied().unwrap_or(0.0)
                    };
                    for (x, v) in out.iter_mut().enumerate() {
                        let x = w.x + x as i32;
                        let near = x.div_euclid(2);
                        let other = if x.rem_euclid(2) == 0 { near - 1 } else { near + 1 };
                        *v += weight * (0.75 * at(near) + 0.25 * at(other));
                    }
                }
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn spot(at: [i32; 2]) -> Raster {
        Raster::from_fn(Window::new(-7, 3, 300, 260), 4, |c, x, y| match c {
            3 => 1.0,
            _ if [x, y] == at => 50.0,
            _ => 0.2,
        })
    }

    #[test]
    fn the_sum_of_the_light_is_what_was_taken() {
        for (size, wide) in [(0.5, 0.5), (3.0, 0.0), (12.0, 0.5), (25.0, 1.0)] {
            let how = Glow { threshold: 1.0, size, wide, tint: [1.0, 0.5, 0.0] };
            for at in [[140, 130], [141, 131]] {
                let made = glow(&spot(at), &how, &Cancel::new()).unwrap();
                let sum = |c: usize| made.plane(c).iter().map(|v| f64::from(*v)).sum::<f64>();
                assert!((sum(0) / 49.0 - 1.0).abs() < 1e-3, "{size} {}", sum(0));
                assert!((sum(1) / 24.5 - 1.0).abs() < 1e-3 && sum(2) == 0.0 && sum(3) == 0.0);
            }
        }
    }

    #[test]
    fn what_is_not_finite_spreads_nothing() {
        let mut picture = spot([140, 130]);
        picture.plane_mut(1)[5] = f32::INFINITY;
        let how = Glow { threshold: 1.0, size: 3.0, wide: 0.5, tint: [1.0; 3] };
        let made = glow(&picture, &how, &Cancel::new()).unwrap();
        assert!(made.data().iter().all(|v| v.is_finite()));
    }

    #[test]
    fn a_glow_lies_about_its_source_and_is_as_wide_as_it_says() {
        let how = Glow { threshold: 1.0, size: 16.0, wide: 1.0, tint: [1.0; 3] };
        let made = glow(&spot([140, 130]), &how, &Cancel::new()).unwrap();
        let (mut mean, mut total) = ([0.0_f64; 2], 0.0_f64);
        for y in made.window().rows() {
            for x in -7..293 {
                let v = f64::from(made.sample(0, x, y).unwrap());
                total += v;
                mean = [mean[0] + v * f64::from(x), mean[1] + v * f64::from(y)];
            }
        }
        assert!((mean[0] / total - 140.0).abs() < 0.6 && (mean[1] / total - 130.0).abs() < 0.6, "{mean:?}");
    }
}
