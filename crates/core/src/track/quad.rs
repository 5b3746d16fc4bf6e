//! Four corners, and where a projective map takes them.

use glam::{DMat3, DVec2};

/// Corners of a region, full-resolution px, one way round; the first is the upper left one of what is seen.
pub type Quad = [DVec2; 4];

/// Where a projective map puts a place; `None` at or behind the horizon.
pub fn through(by: DMat3, p: DVec2) -> Option<DVec2> {
    let q = by * p.extend(1.0);
    (q.z > 1e-9 && q.is_finite()).then(|| q.truncate() / q.z)
}

/// Whether a region keeps its side and a sensible size.
pub(super) fn sound(corners: &Quad, by: DMat3) -> bool {
    let by = by * (1.0 / by.z_axis.z);
    let Some(at) = all_through(corners, by) else { return false };
    let [was, is] = [area(corners), area(&at)];
    let bent = (0..4).all(|i| {
        let turn = |q: &Quad| (q[(i + 1) % 4] - q[i]).perp_dot(q[(i + 2) % 4] - q[(i + 1) % 4]);
        turn(corners) * turn(&at) > 0.0
    });
    bent && is / was > 1e-3 && is / was < 1e3
}

/// A region's corners through a projective map.
pub fn all_through(corners: &Quad, by: DMat3) -> Option<Quad> {
    let mut at = *corners;
    for p in &mut at {
        *p = through(by, *p)?;
    }
    Some(at)
}

/// The corners of the box around it.
pub(super) fn ends(q: &Quad) -> [DVec2; 2] {
    [
        q.iter().copied().fold(DVec2::INFINITY, DVec2::min),
        q.iter().copied().fold(DVec2::NEG_INFINITY, DVec2::max),
    ]
}

/// Twice its area, with its sign.
pub(super) fn area(q: &Quad) -> f64 {
    (q[2] - q[0]).perp_dot(q[3] - q[1])
}
