//! What lies behind: values spread from where they are known to where they are not.

use crate::{Cancel, KernelError, Raster, Window};
use rayon::prelude::*;

/// Planes with a weight in the last one: sums of weighted values on a coarser grid.
fn halved(fine: &Raster) -> Raster {
    let w = fine.window();
    let window = Window::of_size(w.width.div_ceil(2), w.height.div_ceil(2));
    let mut out = Raster::zeros(window, fine.channels());
    let (wide, high) = (w.width as usize, w.height as usize);
    let width = window.width as usize;
    for c in 0..fine.channels() {
        let from = fine.plane(c);
        out.plane_mut(c).par_chunks_mut(width.max(1)).enumerate().for_each(|(y, row)| {
            for sy in [2 * y, 2 * y + 1].into_iter().filter(|&sy| sy < high) {
                let line = &from[sy * wide..(sy + 1) * wide];
                row.iter_mut().zip(line.chunks(2)).for_each(|(o, two)| *o += two.iter().sum::<f32>());
            }
        });
    }
    // Weights saturate: a cell that has enough speaks for itself.
    let last = fine.channels() - 1;
    let scale: Vec<f32> = out.plane(last).iter().map(|&w| if w > 1.0 { 1.0 / w } else { 1.0 }).collect();
    for c in 0..=last {
        out.plane_mut(c).par_iter_mut().zip(&scale).for_each(|(v, k)| *v *= k);
    }
    out
}

/// Spreads values (planes of value × weight, then the weight, 0..1) over the whole window by a pyramid of
/// means: near a known value it is that value, farther off the mean of what is around (the push-pull of
/// Gortler et al. 1996). The last plane of the answer is 1 everywhere, or 0 if nothing is known at all.
///
/// # Errors
/// Cancellation.
pub fn spread(known: Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    let (window, channels) = (known.window(), known.channels());
    let mut levels = vec![known];
    while let Some(fine) = levels.last().filter(|l| l.window().width.max(l.window().height) > 1) {
        cancel.check()?;
        levels.push(halved(fine));
    }
    let Some(mut coarse) = levels.pop() else { return Ok(Raster::zeros(window, channels)) };
    close(&mut coarse);
    while let Some(mut fine) = levels.pop() {
        cancel.check()?;
        pull(&mut fine, &coarse);
        coarse = fine;
    }
    Ok(coarse)
}

/// Divides the coarsest cell by its weight.
fn close(cell: &mut Raster) {
    let last = cell.channels() - 1;
    let weights = cell.plane(last).to_vec();
    for c in 0..=last {
        cell.plane_mut(c)
            .iter_mut()
            .zip(&weights)
            .for_each(|(v, w)| *v = if *w > 0.0 { *v / w } else { 0.0 });
    }
}

/// Adds to each fine cell what its weight leaves open, from the coarser grid, bilinearly.
fn pull(fine: &mut Raster, coarse: &Raster) {
    let (w, cw) = (fine.window(), coarse.window());
    let (wide, last) = (w.width as usize, fine.channels() - 1);
    if w.is_empty() {
        return;
    }
    let open: Vec<f32> = fine.plane(last).iter().map(|v| 1.0 - v).collect();
    for c in 0..=last {
        let from = coarse.plane(c);
        let cwide = cw.width as usize;
        fine.plane_mut(c).par_chunks_mut(wide).zip(open.par_chunks(wide)).enumerate().for_each(
            |(y, (row, open))| {
                let (y0, y1, fy) = beside(y, cw.height as usize);
                let (a, b) = (&from[y0 * cwide..][..cwide], &from[y1 * cwide..][..cwide]);
                for (x, (v, open)) in row.iter_mut().zip(open).enumerate() {
                    if *open > 0.0 {
                        let (x0, x1, fx) = beside(x, cwide);
                        let top = a[x0] + (a[x1] - a[x0]) * fx;
                        let bottom = b[x0] + (b[x1] - b[x0]) * fx;
                        *v += open * (top + (bottom - top) * fy);
                    }
                }
            },
        );
    }
}

/// The two coarse cells around the middle of a fine one, and where it lies between them.
fn beside(fine: usize, count: usize) -> (usize, usize, f32) {
    let last = count.saturating_sub(1);
    let half = fine / 2;
    if fine.is_multiple_of(2) {
        (half.saturating_sub(1).min(last), half.min(last), 0.75)
    } else {
        (half.min(last), (half + 1).min(last), 0.25)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn known_values_stay_and_one_alone_is_everywhere() {
        let w = Window::of_size(13, 7);
        let known = Raster::from_fn(w, 2, |c, x, y| match ((x, y) == (3, 4), c) {
            (true, 0) => 5.0,
            (true, _) => 1.0,
            _ => 0.0,
        });
        let all = spread(known, &Cancel::new()).unwrap();
        assert!(all.plane(0).iter().all(|v| (v - 5.0).abs() < 1e-4), "{:?}", all.plane(0));
        assert!(all.plane(1).iter().all(|v| (v - 1.0).abs() < 1e-5));
    }

    #[test]
    fn between_two_the_nearer_counts_more() {
        let w = Window::of_size(64, 1);
        let known = Raster::from_fn(w, 2, |c, x, _| match (x, c) {
            (0, 0) => 0.0,
            (63, 0) => 1.0,
            (0 | 63, _) => 1.0,
            _ => 0.0,
        });
        let all = spread(known, &Cancel::new()).unwrap();
        let at = |x| all.sample(0, x, 0).unwrap();
        assert!(at(0) == 0.0 && at(63) == 1.0 && at(5) < 0.2 && at(58) > 0.8 && (at(31) - 0.5).abs() < 0.2);
        assert!((1..64).all(|x| at(x) >= at(x - 1) - 1e-3), "{:?}", all.plane(0));
    }

    #[test]
    fn where_nothing_is_known_nothing_comes() {
        let all = spread(Raster::zeros(Window::of_size(5, 4), 3), &Cancel::new()).unwrap();
        assert!(all.data().iter().all(|v| *v == 0.0));
    }
}
