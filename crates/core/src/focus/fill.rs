//! What lies behind: carried on from where it is seen.

use super::law::STEP;
use crate::colour::luminance;
use crate::raster::bands::for_each_band;
use crate::raster::distance;
use crate::{Cancel, KernelError, Raster};

/// Half a side of the square over which known values of one surface are averaged, px: less grain in what is
/// carried on.
const SMOOTH: i32 = 2;

/// Planes of what is known: four of colour, what tells its surface from others (the signed circle, or how near it is), and
/// 1 where it is known; then whatever else is to be carried on.
pub(super) const TELLS: usize = 4;
pub(super) const KNOWN: usize = 5;

/// Whether two signed circles, px, are of one surface; the first is that of the place in question.
pub fn same_circle(own: f32, other: f32) -> bool {
    (other - own).abs() < 2.0 * STEP + 0.1 * own.abs()
}

/// Carries known values (`N` ≥ 6 planes) on over the whole window: each pixel takes what the nearest known place and
/// the known places of the same surface around that have in the mean; `alike` says of two values of the fifth plane whether
/// they are of one surface. Two surfaces are never mixed. The sixth plane of the answer is 1 everywhere, or 0 if nothing is
/// known.
///
/// # Errors
/// Cancellation.
pub fn carry_on<const N: usize>(
    known: &Raster,
    alike: impl Fn(f32, f32) -> bool + Sync,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let window = known.window();
    let is: Vec<bool> = known.plane(KNOWN).iter().map(|v| *v > 0.0).collect();
    let nearest = distance::nearest(window, &is, cancel)?;
    let smooth = smoothed::<N>(known, &alike, cancel)?;
    let mut out = Raster::zeros(window, N);
    let width = window.width as usize;
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let start = (y - window.y) as usize * width;
            let nearest = &nearest[start..start + width];
            for c in 0..N {
                let from = smooth.plane(c);
                let row = band.row(c, y).iter_mut().zip(nearest);
                row.filter(|(_, at)| **at != distance::NONE).for_each(|(v, at)| *v = from[*at as usize]);
            }
        }
    })?;
    Ok(out)
}

/// Known values averaged over the known places of the same surface around them.
fn smoothed<const N: usize>(
    known: &Raster,
    alike: &(impl Fn(f32, f32) -> bool + Sync),
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let window = known.window();
    let lights = lights(known, cancel)?;
    let mut out = Raster::zeros(window, N);
    for_each_band(&mut out, cancel, |band| {
        let mut around = Vec::new();
        for y in band.window().rows() {
            for at in 0..window.width as usize {
                if known.row(KNOWN, y)[at] == 0.0 {
                    continue;
                }
                let mut mean = mean::<N>(known, alike, at, y);
                let light = luminance([mean[0], mean[1], mean[2]]);
                let place = [at, (y - window.y) as usize];
                if let Some(bound) = bound(&lights, light, place, &mut around) {
                    mean[..3].iter_mut().for_each(|v| *v *= bound / light);
                }
                (0..N).for_each(|c| band.row(c, y)[at] = mean[c]);
            }
        }
    })?;
    Ok(out)
}

/// Luminance of the known places, NaN elsewhere.
fn lights(known: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    let mut out = Raster::filled(known.window(), 1, f32::NAN);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let [r, g, b, _, _, is] = known.rows::<6>(y);
            for (i, o) in band.row(0, y).iter_mut().enumerate().filter(|(i, _)| is[*i] > 0.0) {
                *o = luminance([r[i], g[i], b[i]]);
            }
        }
    })?;
    Ok(out)
}

fn mean<const N: usize>(known: &Raster, alike: &impl Fn(f32, f32) -> bool, at: usize, y: i32) -> [f32; N] {
    let window = known.window();
    let own = known.row(TELLS, y)[at];
    let columns = at.saturating_sub(SMOOTH as usize)..(at + SMOOTH as usize + 1).min(window.width as usize);
    let (mut sum, mut count) = ([0.0; N], 0.0);
    for row in (y - SMOOTH).max(window.y)..(y + SMOOTH + 1).min(window.bottom() as i32) {
        let planes = known.rows::<N>(row).map(|row| &row[columns.clone()]);
        for (i, other) in planes[TELLS].iter().enumerate() {
            if planes[KNOWN][i] > 0.0 && alike(own, *other) {
                (0..N).for_each(|c| sum[c] += planes[c][i]);
                count += 1.0;
            }
        }
    }
    sum.map(|v| v / count)
}

/// Half a side of the square of known places whose light bounds what is carried on, px, and the step in it.
const WIDE: (i32, usize) = (8, 2);

/// Light is carried on no brighter than this many times what three in four of the known places around have: what is
/// bright and small is seen where it is seen, and is not drawn out behind what hides the rest of its surroundings.
const BRIGHT: f32 = 1.5;

/// The bound for a colour of luminance `light` at a known place, if it is above that: `lights` are the luminances of
/// all known places, NaN elsewhere.
fn bound(lights: &Raster, light: f32, [x, y]: [usize; 2], around: &mut Vec<f32>) -> Option<f32> {
    let (window, (reach, step)) = (lights.window(), WIDE);
    let (left, right) =
        (x.saturating_sub(reach as usize), (x + reach as usize + 1).min(window.width as usize));
    let y = window.y + y as i32;
    // If so many of them are bright enough, the brightest quarter is, however many there are.
    let quarter = (2 * reach as usize / step + 1).pow(2).div_ceil(4);
    let mut enough = 0;
    around.clear();
    for row in ((y - reach).max(window.y)..(y + reach + 1).min(window.bottom() as i32)).step_by(step) {
        for &other in lights.row(0, row)[left..right].iter().step_by(step).filter(|v| !v.is_nan()) {
            around.push(other);
            enough += usize::from(BRIGHT * other >= light);
        }
        if enough >= quarter {
            return None;
        }
    }
    if around.len() < 4 {
        return None;
    }
    let at = around.len() * 3 / 4;
    let bound = (BRIGHT * *around.select_nth_unstable_by(at, f32::total_cmp).1).max(0.0);
    (light > bound).then_some(bound)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::new(-2, 1, 40, 9);

    /// A known strip at the left of circle 3 and one at the right of circle 20.
    fn two() -> Raster {
        Raster::from_fn(W, 6, |c, x, _| match (x < 2, x > 33, c) {
            (true, _, TELLS) => 3.0,
            (_, true, TELLS) => 20.0,
            (true, _, 0) => 0.25,
            (_, true, 0) => 0.75,
            (true, _, KNOWN) | (_, true, KNOWN) => 1.0,
            _ => 0.0,
        })
    }

    #[test]
    fn each_place_takes_the_nearest_surface_and_mixes_none() {
        let all = carry_on::<6>(&two(), same_circle, &Cancel::new()).unwrap();
        for y in W.rows() {
            for x in W.x..W.right() as i32 {
                let want = if x < 18 { [0.25, 3.0] } else { [0.75, 20.0] };
                let got = [all.sample(0, x, y).unwrap(), all.sample(TELLS, x, y).unwrap()];
                assert_eq!(got, want, "{x}");
                assert_eq!(all.sample(KNOWN, x, y), Some(1.0));
            }
        }
    }

    #[test]
    fn where_nothing_is_known_nothing_comes() {
        let all = carry_on::<6>(&Raster::zeros(W, 6), same_circle, &Cancel::new()).unwrap();
        assert!(all.data().iter().all(|v| *v == 0.0));
    }
}
