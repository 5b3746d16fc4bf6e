//! Places without depth inside a surface.

use super::{inside, is_depth};
use crate::raster::neighbours::neighbours;
use crate::{Cancel, KernelError, Raster};

/// Fills holes: groups of pixels without depth that touch neither the raster's border nor (where coverage is known)
/// anything uncovered, and are no larger than `most` px. They are spanned by a smooth sheet: each value becomes the mean of its
/// neighbours (Laplace's equation), in 1/Z, in which a flat surface is met exactly.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn fill(
    depth: &Raster,
    alpha: Option<&Raster>,
    most: usize,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    depth.expect_channels("depth", 1)?;
    if let Some(alpha) = alpha {
        alpha.expect_channels("alpha", 1)?;
        alpha.expect_window("alpha", depth.window())?;
    }
    let covered = alpha.map(|a| inside(depth, Some(a)));
    let (width, height) = (depth.window().width as usize, depth.window().height as usize);
    let mut out = depth.clone();
    let mut seen = vec![false; width * height];
    for start in 0..width * height {
        if seen[start] || is_depth(depth.plane(0)[start]) {
            continue;
        }
        cancel.check()?;
        let group = group(depth.plane(0), start, (width, height), &mut seen);
        let at_border = |&i: &usize| {
            let (x, y) = (i % width, i / width);
            x == 0 || y == 0 || x + 1 == width || y + 1 == height
        };
        let open = match &covered {
            Some(covered) => group.iter().any(|&i| !covered[i]),
            None => group.iter().any(at_border),
        };
        if !open && group.len() <= most {
            span(out.plane_mut(0), &group, (width, height), cancel)?;
        }
    }
    Ok(out)
}

/// All pixels without depth that hang together with one (four neighbours).
fn group(z: &[f32], start: usize, (width, height): (usize, usize), seen: &mut [bool]) -> Vec<usize> {
    let (mut found, mut next) = (Vec::new(), vec![start]);
    seen[start] = true;
    while let Some(i) = next.pop() {
        found.push(i);
        for n in neighbours(i, width, height).take_while(|n| is_beside(i, *n, width)) {
            if !seen[n] && !is_depth(z[n]) {
                seen[n] = true;
                next.push(n);
            }
        }
    }
    found
}

/// Whether two neighbours share a side. (The list of neighbours names these first.)
fn is_beside(a: usize, b: usize, width: usize) -> bool {
    a.abs_diff(b) == width || a.abs_diff(b) == 1
}

/// Most sweeps over a hole: with over-relaxation that is enough for some hundred px across.
const SWEEPS: usize = 600;

/// Solves Laplace's equation over a group by successive over-relaxation (Young 1954).
fn span(
    plane: &mut [f32],
    group: &[usize],
    (width, height): (usize, usize),
    cancel: &Cancel,
) -> Result<(), KernelError> {
    let mut order = group.to_vec();
    order.sort_unstable();
    let rim: Vec<f32> = order
        .iter()
        .flat_map(|&i| neighbours(i, width, height).filter(|n| is_depth(plane[*n])).map(|n| 1.0 / plane[n]))
        .collect();
    if rim.is_empty() {
        return Ok(());
    }
    let start = rim.iter().sum::<f32>() / rim.len() as f32;
    let mut slot = std::collections::HashMap::with_capacity(order.len());
    order.iter().enumerate().for_each(|(k, &i)| {
        slot.insert(i, k);
    });
    // Each pixel's neighbours: another of the group, or a fixed value beside it.
    let around: Vec<Vec<Result<usize, f32>>> = order
        .iter()
        .map(|&i| {
            neighbours(i, width, height)
                .filter(|n| is_beside(i, *n, width))
                .filter_map(|n| match slot.get(&n) {
                    Some(&k) => Some(Ok(k)),
                    None => is_depth(plane[n]).then(|| Err(1.0 / plane[n])),
                })
                .collect()
        })
        .collect();
    let mut values = vec![start; order.len()];
    let across = (order.len() as f32).sqrt().max(2.0);
    // The best factor for a square of that side.
    let over = 2.0 / (1.0 + (std::f32::consts::PI / across).sin());
    for sweep in 0..SWEEPS {
        if sweep % 16 == 0 {
            cancel.check()?;
        }
        let mut moved = 0.0f32;
        for k in 0..values.len() {
            let sum: f32 = around[k].iter().map(|n| n.map_or_else(|v| v, |j| values[j])).sum();
            let step = (sum / around[k].len().max(1) as f32 - values[k]) * over;
            values[k] += step;
            moved = moved.max(step.abs());
        }
        if moved < 1e-6 * start {
            break;
        }
    }
    order.iter().zip(values).for_each(|(&i, v)| plane[i] = 1.0 / v.max(f32::MIN_POSITIVE));
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const NO: f32 = f32::INFINITY;

    /// A tilted plane: 1/Z is straight across the picture.
    fn plane(x: i32, y: i32) -> f32 {
        1.0 / (0.2 + 0.001 * x as f32 - 0.0005 * y as f32)
    }

    fn hole(x: i32, y: i32) -> bool {
        (x - 25).pow(2) + (y - 20).pow(2) < 64
    }

    #[test]
    fn a_hole_in_a_plane_is_closed_by_the_plane() {
        let w = Window::of_size(50, 40);
        let depth = Raster::from_fn(w, 1, |_, x, y| if hole(x, y) { NO } else { plane(x, y) });
        let out = fill(&depth, None, 10_000, &Cancel::new()).unwrap();
        for y in w.rows() {
            for x in 0..50 {
                let got = out.sample(0, x, y).unwrap();
                assert!((got / plane(x, y) - 1.0).abs() < 1e-4, "{x} {y}: {got}");
            }
        }
        assert_eq!(fill(&depth, None, 20, &Cancel::new()).unwrap(), depth, "too large for that");
    }

    #[test]
    fn what_is_open_or_uncovered_is_no_hole() {
        let w = Window::of_size(50, 40);
        let depth = Raster::from_fn(w, 1, |_, x, y| if hole(x, y) || x > 40 { NO } else { 5.0 });
        let out = fill(&depth, None, 10_000, &Cancel::new()).unwrap();
        assert!((out.sample(0, 25, 20).unwrap() - 5.0).abs() < 1e-4);
        assert_eq!(out.sample(0, 45, 20), Some(NO));
        // A window in a wall that one looks through is uncovered, so it stays.
        let alpha = Raster::from_fn(w, 1, |_, x, y| f32::from(u8::from(!hole(x, y) && x <= 40)));
        assert_eq!(fill(&depth, Some(&alpha), 10_000, &Cancel::new()).unwrap(), depth);
        let covered = Raster::filled(w, 1, 1.0);
        let out = fill(&depth, Some(&covered), 10_000, &Cancel::new()).unwrap();
        assert!(out.plane(0).iter().all(|z| (z - 5.0).abs() < 1e-4), "covered to the border is a hole, too");
    }
}
