//! How far each pixel is from the nearest of some pixels: the exact Euclidean distance transform
//! (Felzenszwalb & Huttenlocher 2012).

use crate::{Cancel, KernelError, Raster, Window};
use rayon::prelude::*;

/// Distance of every pixel of a window to the nearest pixel for which `is` holds (row after row), px; infinite
/// everywhere if there is none.
///
/// # Errors
/// Cancellation; a list that is not as long as the window has pixels.
pub fn distance(window: Window, is: &[bool], cancel: &Cancel) -> Result<Raster, KernelError> {
    let width = window.width as usize;
    let start = is.iter().map(|i| if *i { 0.0 } else { f32::INFINITY }).collect();
    let mut out = Raster::from_planar(window, 1, start)?;
    if window.is_empty() {
        return Ok(out);
    }
    cancel.check()?;
    down_and_up(out.plane_mut(0), width);
    out.plane_mut(0).par_chunks_mut(width).try_for_each(|row| {
        cancel.check()?;
        across(row);
        Ok::<_, KernelError>(())
    })?;
    Ok(out)
}

/// Distance within each column.
fn down_and_up(plane: &mut [f32], width: usize) {
    let rows = plane.len() / width;
    let mut step = |from: usize, to: usize| {
        for x in 0..width {
            plane[to * width + x] = plane[to * width + x].min(plane[from * width + x] + 1.0);
        }
    };
    (1..rows).for_each(|y| step(y - 1, y));
    (1..rows).rev().for_each(|y| step(y, y - 1));
}

/// Distance over columns: the lower envelope of the parabolas that stand on a row's squared distances.
fn across(row: &mut [f32]) {
    // Whole numbers below 2⁵³: exact.
    let height: Vec<f64> = row.iter().map(|v| f64::from(*v) * f64::from(*v)).collect();
    // Parabolas of the envelope, each with where it begins.
    let mut hull: Vec<(usize, f64)> = Vec::with_capacity(row.len());
    for (q, h) in height.iter().enumerate().filter(|(_, h)| h.is_finite()) {
        let lift = |i: usize, h: f64| h + (i * i) as f64;
        let mut begin = f64::NEG_INFINITY;
        while let Some(&(p, since)) = hull.last() {
            begin = (lift(q, *h) - lift(p, height[p])) / (2 * (q - p)) as f64;
            if begin > since {
                break;
            }
            hull.pop();
            begin = f64::NEG_INFINITY;
        }
        hull.push((q, begin));
    }
    let mut at = 0;
    for (x, v) in row.iter_mut().enumerate() {
        while hull.get(at + 1).is_some_and(|(_, begin)| *begin < x as f64) {
            at += 1;
        }
        if let Some((p, _)) = hull.get(at) {
            *v = ((x.abs_diff(*p) as f64).powi(2) + height[*p]).sqrt() as f32;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn of(w: u32, h: u32, is: &[bool]) -> Vec<f32> {
        distance(Window::new(-3, 5, w, h), is, &Cancel::new()).unwrap().into_data()
    }

    #[test]
    fn nothing_is_infinitely_far_and_empty_windows_are_fine() {
        assert!(of(4, 3, &[false; 12]).iter().all(|v| *v == f32::INFINITY));
        assert!(of(0, 3, &[]).is_empty());
        assert!(distance(Window::of_size(2, 2), &[true], &Cancel::new()).is_err());
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

        /// Against the definition: the smallest of all distances.
        #[test]
        fn it_is_the_distance_to_the_nearest(w in 1u32..24, h in 1u32..17, seeds in prop::collection::vec(0usize..400, 1..9)) {
            let mut is = vec![false; (w * h) as usize];
            seeds.iter().for_each(|s| { let n = is.len(); is[s % n] = true; });
            let place = |i: usize| ((i as u32 % w) as f32, (i as u32 / w) as f32);
            for (i, got) in of(w, h, &is).into_iter().enumerate() {
                let (x, y) = place(i);
                let far = |j: usize| { let (a, b) = place(j); (x - a).hypot(y - b) };
                let want = (0..is.len()).filter(|&j| is[j]).map(far).fold(f32::INFINITY, f32::min);
                prop_assert!((got - want).abs() < 1e-5, "{i}: {got} {want}");
            }
        }
    }
}
