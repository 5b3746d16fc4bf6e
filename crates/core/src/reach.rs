//! How far each pixel is from the nearest of some pixels: the exact Euclidean distance transform
//! (Felzenszwalb & Huttenlocher 2012).

use crate::{Cancel, KernelError, Raster, ShapeError, Window};
use rayon::prelude::*;

/// Where no pixel is.
pub const NONE: u32 = u32::MAX;

/// Distance of every pixel of a window to the nearest pixel for which `is` holds (row after row), px; infinite
/// everywhere if there is none.
///
/// # Errors
/// Cancellation; a list that is not as long as the window has pixels.
pub fn distance(window: Window, is: &[bool], cancel: &Cancel) -> Result<Raster, KernelError> {
    let width = window.width as usize;
    let nearest = nearest(window, is, cancel)?;
    let far = |(i, &at): (usize, &u32)| {
        if at == NONE {
            return f32::INFINITY;
        }
        let at = at as usize;
        let (dx, dy) = ((i % width).abs_diff(at % width), (i / width).abs_diff(at / width));
        ((dx * dx + dy * dy) as f64).sqrt() as f32
    };
    Ok(Raster::from_planar(window, 1, nearest.par_iter().enumerate().map(far).collect())?)
}

/// Place (row after row) of the nearest pixel for which `is` holds, for every pixel of a window; [`NONE`]
/// everywhere if there is none.
///
/// # Errors
/// Cancellation; a list that is not as long as the window has pixels.
pub fn nearest(window: Window, is: &[bool], cancel: &Cancel) -> Result<Vec<u32>, KernelError> {
    let width = window.width as usize;
    if is.len() != window.area() {
        let (width, height) = (window.width, window.height);
        return Err(ShapeError::Samples { samples: is.len(), channels: 1, width, height }.into());
    }
    if is.is_empty() {
        return Ok(Vec::new());
    }
    cancel.check()?;
    // Rows of the nearest in the same column, then the nearest of these along each row.
    let mut rows: Vec<u32> =
        is.iter().enumerate().map(|(i, is)| if *is { (i / width) as u32 } else { NONE }).collect();
    down_and_up(&mut rows, width);
    rows.par_chunks_mut(width).enumerate().try_for_each(|(y, row)| {
        cancel.check()?;
        across(row, y, width);
        Ok::<_, KernelError>(())
    })?;
    Ok(rows)
}

/// The nearest row within each column.
fn down_and_up(plane: &mut [u32], width: usize) {
    let rows = plane.len() / width;
    let mut step = |from: usize, to: usize| {
        let far = |row: u32| if row == NONE { u32::MAX } else { row.abs_diff(to as u32) };
        for x in 0..width {
            let (own, other) = (plane[to * width + x], plane[from * width + x]);
            if far(other) < far(own) {
                plane[to * width + x] = other;
            }
        }
    };
    (1..rows).for_each(|y| step(y - 1, y));
    (1..rows).rev().for_each(|y| step(y, y - 1));
}

/// The nearest over columns: the lower envelope of the parabolas that stand on a row's squared distances.
fn across(row: &mut [u32], y: usize, width: usize) {
    let rows = row.to_vec();
    let lift = |i: usize| {
        let dy = (rows[i] as usize).abs_diff(y);
        (dy * dy + i * i) as f64
    };
    // Parabolas of the envelope, each with where it begins.
    let mut hull: Vec<(usize, f64)> = Vec::with_capacity(row.len());
    for q in (0..width).filter(|&q| rows[q] != NONE) {
        let mut begin = f64::NEG_INFINITY;
        while let Some(&(p, since)) = hull.last() {
            begin = (lift(q) - lift(p)) / (2 * (q - p)) as f64;
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
        *v = hull.get(at).map_or(NONE, |(p, _)| rows[*p] * width as u32 + *p as u32);
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
