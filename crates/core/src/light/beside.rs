//! Surfaces and those beside them, row by row.

use crate::Raster;

/// Of two vectors.
pub(crate) fn dot(a: [f32; 3], b: [f32; 3]) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

/// From one place to another.
pub(crate) fn apart(p: [f32; 3], q: [f32; 3]) -> [f32; 3] {
    [q[0] - p[0], q[1] - p[1], q[2] - p[2]]
}

/// Goes along a row with the pixels that lie one way beside: normals and positions of both, where there are two.
#[inline(always)]
pub(crate) fn with_beside<T>(
    normals: &Raster,
    positions: &Raster,
    row: usize,
    (dx, dy): (isize, isize),
    out: &mut [T],
    each: impl Fn(&mut T, [[f32; 3]; 2], [[f32; 3]; 2]),
) {
    let window = normals.window();
    let (y, other) = (window.y + row as i32, window.y + row as i32 + dy as i32);
    if !window.contains(window.x, other) {
        return;
    }
    let (from, to) = ((-dx).max(0) as usize, out.len() - dx.max(0) as usize);
    if from >= to {
        return;
    }
    let (near_from, near_to) = (from.wrapping_add_signed(dx), to.wrapping_add_signed(dx));
    let (n, p) = (normals.rows::<3>(y).map(|v| &v[from..to]), positions.rows::<3>(y).map(|v| &v[from..to]));
    let m = normals.rows::<3>(other).map(|v| &v[near_from..near_to]);
    let q = positions.rows::<3>(other).map(|v| &v[near_from..near_to]);
    for (i, out) in out[from..to].iter_mut().enumerate() {
        let at = |v: [&[f32]; 3]| [v[0][i], v[1][i], v[2][i]];
        each(out, [at(n), at(m)], [at(p), at(q)]);
    }
}
