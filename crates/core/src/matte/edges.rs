//! The edge of a matte: choked or grown, a band along it.
//!
//! A value at a pixel depends only on the pixels within [`reach`] of it, so that a window in pieces is the same.

use crate::raster::bands::for_each_band;
use crate::raster::distance as distances;
use crate::raster::soften::radius_of;
use crate::{Cancel, KernelError, Raster, Window};

/// Largest choke, growth or band that is worked out, px of the scale.
pub const MOST: f32 = 400.0;

/// Px around a window that [`grown`] by `by` and then [`crate::raster::soften::softened`] by `soft` look at.
pub fn reach(by: f32, soft: f32) -> f32 {
    by.abs().min(MOST).ceil() + radius_of(soft) as f32
}

/// Grown by `by` px, or choked if negative: the largest (smallest) value within that distance, which leaves a soft
/// edge as soft as it was (flat grey dilation and erosion by a disc, Serra 1982). A part of a px is mixed from the
/// two whole ones. Outside the raster there is nothing to find.
///
/// # Errors
/// A matte without exactly one channel; cancellation.
pub fn grown(matte: &Raster, by: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    matte.expect_channels("matte", 1)?;
    let by = by.clamp(-MOST, MOST);
    let (size, sign) = (by.abs(), if by < 0.0 { -1.0 } else { 1.0 });
    let low = spread(matte, size.floor() as i32, sign, cancel)?;
    let part = size.fract();
    if part == 0.0 {
        return Ok(low);
    }
    let high = spread(matte, size.ceil() as i32, sign, cancel)?;
    let mixed = low.plane(0).iter().zip(high.plane(0)).map(|(a, b)| a + (b - a) * part);
    Ok(Raster::from_planar(matte.window(), 1, mixed.collect())?)
}

/// The largest of `sign · value` within `radius` px, times `sign`.
fn spread(matte: &Raster, radius: i32, sign: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    if radius == 0 {
        return Ok(matte.clone());
    }
    let window = matte.window();
    // Half the width of the disc at each row.
    let halves: Vec<usize> =
        (0..=radius).map(|dy| ((radius * radius - dy * dy) as f32).sqrt() as usize).collect();
    let mut out = Raster::zeros(window, 1);
    for_each_band(&mut out, cancel, |band| {
        let width = window.width as usize;
        let mut runs = vec![0.0; width];
        for y in band.window().rows() {
            let row = band.row(0, y);
            row.fill(f32::NEG_INFINITY);
            for dy in -radius..=radius {
                let from = y + dy;
                if from < window.y || i64::from(from) >= window.bottom() {
                    continue;
                }
                largest(matte.row(0, from), halves[dy.unsigned_abs() as usize], sign, &mut runs);
                row.iter_mut().zip(&runs).for_each(|(v, r)| *v = v.max(*r));
            }
            row.iter_mut().for_each(|v| *v *= sign);
        }
    })?;
    Ok(out)
}

/// Running largest of `sign · row` within `half` px, in three comparisons a px whatever the width (van Herk 1992; Gil &
/// Werman 1993).
fn largest(row: &[f32], half: usize, sign: f32, out: &mut [f32]) {
    let (n, size) = (row.len(), 2 * half + 1);
    let at = |i: usize| if i >= half && i - half < n { sign * row[i - half] } else { f32::NEG_INFINITY };
    let padded = n + 2 * half;
    let mut backward = vec![f32::NEG_INFINITY; padded];
    for start in (0..padded).step_by(size) {
        let end = (start + size).min(padded);
        let mut most = f32::NEG_INFINITY;
        for i in (start..end).rev() {
            most = most.max(at(i));
            backward[i] = most;
        }
    }
    let mut forward = f32::NEG_INFINITY;
    for i in 0..padded {
        forward = if i % size == 0 { at(i) } else { forward.max(at(i)) };
        if i + 1 >= size {
            out[i + 1 - size] = backward[i + 1 - size].max(forward);
        }
    }
}

/// A band along the edge of `is`: 1 up to `inside` px within it and `outside` px beyond it, falling linearly to 0
/// over `soft` px more.
///
/// # Errors
/// A list that is not as long as the window has pixels; cancellation.
pub fn band(
    window: Window,
    is: &[bool],
    [inside, outside]: [f32; 2],
    soft: f32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let far = |is: &[bool]| distances::distance(window, is, cancel);
    let to_inside = far(is)?;
    let not: Vec<bool> = is.iter().map(|v| !v).collect();
    let to_outside = far(&not)?;
    let share = |i: usize| {
        // The edge lies half a px before the first pixel of the other side.
        let (far, most) = if is[i] {
            (to_outside.plane(0)[i] - 0.5, inside)
        } else {
            (to_inside.plane(0)[i] - 0.5, outside)
        };
        super::ramp(far - most, soft)
    };
    Ok(Raster::from_planar(window, 1, (0..is.len()).map(share).collect())?)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn disc(r: f32) -> Raster {
        Raster::from_fn(Window::new(-40, -40, 81, 81), 1, |_, x, y| {
            f32::from(u8::from((x as f32).hypot(y as f32) <= r))
        })
    }

    #[test]
    fn a_disc_grows_and_shrinks_by_px() {
        let go = |by| grown(&disc(20.0), by, &Cancel::new()).unwrap();
        let width = |m: &Raster| m.row(0, 0).iter().sum::<f32>();
        assert_eq!([0.0, 5.0, -5.0, 2.5].map(|by| width(&go(by))), [41.0, 51.0, 31.0, 46.0]);
        // Along the diagonal as well.
        let grown = go(5.0);
        assert_eq!((grown.sample(0, 17, 17), grown.sample(0, 19, 19)), (Some(1.0), Some(0.0)));
    }

    #[test]
    fn a_soft_edge_stays_as_soft() {
        let ramp = Raster::from_fn(Window::of_size(60, 40), 1, |_, x, _| {
            (1.0 - (x - 20) as f32 / 10.0).clamp(0.0, 1.0)
        });
        let choked = grown(&ramp, -6.0, &Cancel::new()).unwrap();
        for x in 0..50 {
            assert!((choked.sample(0, x, 20).unwrap() - ramp.sample(0, x + 6, 20).unwrap()).abs() < 1e-6);
        }
    }

    #[test]
    fn a_band_lies_on_both_sides() {
        let w = Window::new(-3, 0, 40, 9);
        let is: Vec<bool> = (0..w.area()).map(|i| i % 40 < 20).collect();
        let row = |soft| band(w, &is, [3.0, 5.0], soft, &Cancel::new()).unwrap().row(0, 4).to_vec();
        let whole: Vec<usize> = (0..40).filter(|&i| row(0.0)[i] == 1.0).collect();
        assert_eq!(whole, (17..25).collect::<Vec<_>>(), "19 is the last inside");
        assert!((row(4.0)[26] - (1.0 - 1.5 / 4.0)).abs() < 1e-6);
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

        /// Against the definition: the largest of all values in the disc.
        #[test]
        fn growing_is_the_largest_around(w in 1u32..20, h in 1u32..20, r in 0i32..9, values in prop::collection::vec(0.0f32..1.0, 400), choke in any::<bool>()) {
            let sign = if choke { -1.0 } else { 1.0 };
            let m = Raster::from_planar(Window::new(3, -2, w, h), 1, values[..(w * h) as usize].to_vec()).unwrap();
            let got = grown(&m, sign * r as f32, &Cancel::new()).unwrap();
            let window = got.window();
            let near = |x: i32, y: i32| x * x + y * y <= r * r;
            for y in window.rows() {
                for x in window.x..window.right() as i32 {
                    let mut want = f32::NEG_INFINITY;
                    for dy in -r..=r { for dx in -r..=r {
                        if near(dx, dy) && let Some(v) = m.sample(0, x + dx, y + dy) { want = want.max(sign * v); }
                    } }
                    prop_assert_eq!(got.sample(0, x, y), Some(sign * want));
                }
            }
        }
    }
}
