//! Samples of a filtered depth that lie on no surface: between two, where a silhouette was antialiased like a picture.

use crate::Raster;
use crate::raster::neighbours::neighbours;

/// Relative step in depth that is a silhouette.
const STEP: f32 = 0.06;

/// Relative step up to which neighbours lie on one surface, also where it is seen at a flat angle.
const SAME: f32 = 0.015;

/// Neighbours of eight that the last pixel of a surface has on it: a straight rim leaves five, a corner
/// three. A line of blended pixels has two, before and behind.
const SUPPORT: usize = 3;

/// How far from both surfaces, as a share of the step, a value must lie to be on neither.
const OFF: f32 = 0.1;

/// Samples on neither of the surfaces around them, each with the value of the surface that covers more of
/// it.
pub(super) fn between(depth: &Raster) -> Vec<(usize, f32)> {
    survey(depth).0
}

/// Those samples, and the number of samples along silhouettes (one side of them).
pub(super) fn survey(depth: &Raster) -> (Vec<(usize, f32)>, usize) {
    use rayon::prelude::*;
    let (w, h) = (depth.window().width as usize, depth.window().height as usize);
    let z = depth.plane(0);
    // Where nothing is, depth is infinite; zero and less are no distance either.
    let is = |z: f32| z.is_finite() && z > 0.0;
    let like = |a: f32, b: f32| (a - b).abs() < SAME * a.abs().min(b.abs());
    let supported: Vec<bool> = (0..z.len())
        .into_par_iter()
        .map(|i| is(z[i]) && neighbours(i, w, h).filter(|&j| like(z[i], z[j])).count() >= SUPPORT)
        .collect();
    let found: Vec<(usize, f32)> = (0..z.len())
        .into_par_iter()
        .filter(|&i| is(z[i]) && !supported[i] && !turns_away(z, i, w, h))
        .filter_map(|i| Some((i, surface_of(z, &supported, i, w, h)?)))
        .collect();
    let rim = |i: usize, j: usize| is(z[i]) && is(z[j]) && (z[i] - z[j]).abs() > STEP * z[i].min(z[j]);
    let steps = (0..z.len())
        .into_par_iter()
        .filter(|&i| (i % w + 1 < w && rim(i, i + 1)) || (i + w < z.len() && rim(i, i + w)))
        .count();
    (found, steps)
}

/// Share of the rise to a sample that the rise before it must have for a surface that turns away.
const TURNING: f32 = 0.12;

/// Whether a sample goes on from the nearer side as a round thing does at its rim: distances that rise more and more. A
/// blend of two surfaces rises at once.
fn turns_away(z: &[f32], i: usize, w: usize, h: usize) -> bool {
    let (x, y) = ((i % w) as i64, (i / w) as i64);
    let at = |dx: i64, dy: i64| -> Option<f32> {
        let (u, v) = (x + dx, y + dy);
        let inside = (0..w as i64).contains(&u) && (0..h as i64).contains(&v);
        inside.then(|| z[v as usize * w + u as usize]).filter(|z| z.is_finite())
    };
    // Straight toward the nearest of what is around: along an edge rises say nothing.
    const WAYS: [(i64, i64); 8] = [(1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (-1, -1), (1, -1), (-1, 1)];
    let nearest = WAYS
        .iter()
        .filter_map(|&(dx, dy)| Some((at(dx, dy)?, (dx, dy))))
        .reduce(|a, b| if b.0 < a.0 { b } else { a });
    let Some((one, (dx, dy))) = nearest else { return false };
    let Some(two) = at(2 * dx, 2 * dy) else { return false };
    let (last, before) = (z[i] - one, one - two);
    last > 0.0 && before > TURNING * last
}

/// How far around a sample surfaces are looked for, px: a render filter reaches two.
const AROUND: i64 = 3;

/// The value, of the surfaces around a sample that lies on none, that is nearest to its own: blending left
/// more of what covers more. `None` where it does not lie between two of them.
fn surface_of(z: &[f32], supported: &[bool], i: usize, w: usize, h: usize) -> Option<f32> {
    let (x, y) = ((i % w) as i64, (i / w) as i64);
    let rows = (y - AROUND).max(0)..=(y + AROUND).min(h as i64 - 1);
    let around = rows.flat_map(|v| {
        ((x - AROUND).max(0)..=(x + AROUND).min(w as i64 - 1)).map(move |u| v as usize * w + u as usize)
    });
    let (mut low, mut high) = (f32::INFINITY, f32::NEG_INFINITY);
    let mut nearest = None::<f32>;
    for j in around.filter(|&j| supported[j]) {
        (low, high) = (low.min(z[j]), high.max(z[j]));
        if nearest.is_none_or(|n| (z[j] - z[i]).abs() < (n - z[i]).abs()) {
            nearest = Some(z[j]);
        }
    }
    let step = high - low;
    let between = z[i] > low + OFF * step && z[i] < high - OFF * step;
    nearest.filter(|_| step > STEP * low.abs() && between)
}
