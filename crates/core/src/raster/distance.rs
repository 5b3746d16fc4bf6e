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
    let far = |[x, y]: [usize; 2], [nearest_x, nearest_y]: [usize; 2]| {
        let (dx, dy) = (x.abs_diff(nearest_x), y.abs_diff(nearest_y));
        ((dx * dx + dy * dy) as f64).sqrt() as f32
    };
    Ok(Raster::from_planar(window, 1, for_each(window, is, f32::INFINITY, far, cancel)?)?)
}

/// Place (row after row) of the nearest pixel for which `is` holds, for every pixel of a window; [`NONE`]
/// everywhere if there is none.
///
/// # Errors
/// Cancellation; a list that is not as long as the window has pixels.
pub fn nearest(window: Window, is: &[bool], cancel: &Cancel) -> Result<Vec<u32>, KernelError> {
    for_each(window, is, NONE, |_, [x, y]| y as u32 * window.width + x as u32, cancel)
}

/// Whether a pixel for which `is` holds lies in the square of `reach` px around each pixel of a window (row after row).
pub fn in_square(window: Window, is: &[bool], reach: u32) -> Vec<bool> {
    if is.is_empty() {
        return Vec::new();
    }
    let (row, reach) = (window.width as usize, reach as usize);
    let rows: Vec<bool> = is
        .par_chunks(row)
        .flat_map_iter(|line| {
            // How many there are up to each column.
            let mut sums = vec![0u32; row + 1];
            line.iter().enumerate().for_each(|(x, is)| sums[x + 1] = sums[x] + u32::from(*is));
            (0..row).map(move |x| sums[(x + reach + 1).min(row)] > sums[x.saturating_sub(reach)])
        })
        .collect();
    let high = window.height as usize;
    (0..high)
        .into_par_iter()
        .flat_map_iter(|y| {
            let mut out = vec![false; row];
            for from in y.saturating_sub(reach)..(y + reach + 1).min(high) {
                let line = &rows[from * row..(from + 1) * row];
                out.iter_mut().zip(line).for_each(|(o, is)| *o |= is);
            }
            out
        })
        .collect()
}

/// What `tell` makes of the column and the row of each pixel and of the one nearest to it; `none` if there is none.
fn for_each<T: Copy + Send + Sync>(
    window: Window,
    is: &[bool],
    none: T,
    tell: impl Fn([usize; 2], [usize; 2]) -> T + Sync,
    cancel: &Cancel,
) -> Result<Vec<T>, KernelError> {
    let width = window.width as usize;
    if is.len() != window.area() {
        let (width, height) = (window.width, window.height);
        return Err(ShapeError::Samples { samples: is.len(), channels: 1, width, height }.into());
    }
    let mut out = vec![none; is.len()];
    if is.is_empty() {
        return Ok(out);
    }
    cancel.check()?;
    // Rows of the nearest in the same column, then the nearest of these along each row.
    let rows = in_columns(is, width);
    out.par_chunks_mut(width).zip(rows.par_chunks(width)).enumerate().try_for_each_init(
        Vec::new,
        |hull, (y, (out, rows))| {
            cancel.check()?;
            across(rows, y, hull);
            let mut at = 0;
            for (x, v) in out.iter_mut().enumerate() {
                while hull.get(at + 1).is_some_and(|(_, begin)| *begin < x as f64) {
                    at += 1;
                }
                if let Some((p, _)) = hull.get(at) {
                    *v = tell([x, y], [*p, rows[*p] as usize]);
                }
            }
            Ok::<_, KernelError>(())
        },
    )?;
    Ok(out)
}

/// Rows that are gone over by one thread at a time.
const BAND: usize = 64;

/// The nearest row within each column.
fn in_columns(is: &[bool], width: usize) -> Vec<u32> {
    // The last one above each band and the first one below it, from the first and the last within each.
    let ends: Vec<[Vec<u32>; 2]> =
        is.par_chunks(width * BAND).enumerate().map(|(i, is)| ends(is, i * BAND, width)).collect();
    let mut carried = vec![[vec![NONE; width], vec![NONE; width]]; ends.len()];
    for i in 1..ends.len() {
        let (above, below) = (i, ends.len() - 1 - i);
        carried[above][0] = carry(&ends[i - 1][1], &carried[i - 1][0]);
        carried[below][1] = carry(&ends[below + 1][0], &carried[below + 1][1]);
    }
    let mut rows = vec![NONE; is.len()];
    let bands = rows.par_chunks_mut(width * BAND).zip(is.par_chunks(width * BAND)).zip(carried);
    bands.enumerate().for_each(|(i, ((rows, is), [above, below]))| {
        down_and_up(rows, is, i * BAND, above, below);
    });
    rows
}

/// The first and the last row of each column, of a band that begins at a row.
fn ends(is: &[bool], begin: usize, width: usize) -> [Vec<u32>; 2] {
    let [mut first, mut last] = [vec![NONE; width], vec![NONE; width]];
    for (is, y) in is.chunks(width).zip(begin as u32..) {
        for ((is, first), last) in is.iter().zip(&mut first).zip(&mut last) {
            *last = if *is { y } else { *last };
            *first = if *is { (*first).min(y) } else { *first };
        }
    }
    [first, last]
}

/// What a band has, else what is beyond it.
fn carry(has: &[u32], beyond: &[u32]) -> Vec<u32> {
    has.iter().zip(beyond).map(|(has, beyond)| if *has == NONE { *beyond } else { *has }).collect()
}

/// The nearest row within each column of a band, by the last one above and the first one below.
fn down_and_up(rows: &mut [u32], is: &[bool], begin: usize, mut above: Vec<u32>, mut below: Vec<u32>) {
    let width = above.len();
    for ((row, is), y) in rows.chunks_mut(width).zip(is.chunks(width)).zip(begin as u32..) {
        for ((v, is), above) in row.iter_mut().zip(is).zip(&mut above) {
            *above = if *is { y } else { *above };
            *v = *above;
        }
    }
    for (i, (row, is)) in rows.chunks_mut(width).zip(is.chunks(width)).enumerate().rev() {
        let y = (begin + i) as u32;
        for ((v, is), below) in row.iter_mut().zip(is).zip(&mut below) {
            *below = if *is { y } else { *below };
            let far = |row: u32| if row == NONE { NONE } else { row.abs_diff(y) };
            *v = if far(*below) < far(*v) { *below } else { *v };
        }
    }
}

/// The nearest over columns: the lower envelope of the parabolas that stand on a row's squared distances. Each one's
/// column, with where it begins.
fn across(rows: &[u32], y: usize, hull: &mut Vec<(usize, f64)>) {
    let lift = |i: usize| {
        let dy = (rows[i] as usize).abs_diff(y);
        (dy * dy + i * i) as f64
    };
    hull.clear();
    for q in (0..rows.len()).filter(|&q| rows[q] != NONE) {
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

    #[test]
    fn a_square_holds_what_lies_in_it() {
        let (w, h) = (9usize, 6usize);
        let mut is = vec![false; w * h];
        [(0, 0), (8, 5), (4, 2)].into_iter().for_each(|(x, y): (usize, usize)| is[y * w + x] = true);
        for reach in 0..4usize {
            let got = in_square(Window::new(2, -1, w as u32, h as u32), &is, reach as u32);
            for (i, got) in got.into_iter().enumerate() {
                let near = |j: usize| (i % w).abs_diff(j % w).max((i / w).abs_diff(j / w)) <= reach;
                assert_eq!(got, (0..w * h).any(|j| is[j] && near(j)), "{reach}, {i}");
            }
        }
        assert!(in_square(Window::of_size(0, 3), &[], 2).is_empty());
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

        /// Against the definition: the smallest of all distances.
        #[test]
        fn it_is_the_distance_to_the_nearest(w in 1u32..24, h in prop_oneof![1u32..17, 120u32..200], seeds in prop::collection::vec(0usize..5000, 1..9)) {
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
