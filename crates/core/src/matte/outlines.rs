//! Drawn mattes: ellipse, polygon, gradient. Places and lengths in px of the window that is drawn on; pixel
//! `(x, y)` is sampled at its centre.

use super::drawn;
use crate::{Cancel, KernelError, Raster, Window};
use glam::Vec2;

/// An ellipse.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ellipse {
    /// Its middle.
    pub centre: Vec2,
    /// Half its width and half its height.
    pub radii: Vec2,
    /// Turn in degrees, against the clock as seen.
    pub turned: f32,
    /// Width of its soft edge, half inside and half outside; an edge is never harder than a pixel.
    pub soft: f32,
}

/// Coverage at a signed distance from an edge (positive outside) that is `soft` px wide.
fn edge(outside: f32, soft: f32) -> f32 {
    let t = (0.5 - outside / soft.max(1.0)).clamp(0.0, 1.0);
    if soft > 1.0 { t * t * (3.0 - 2.0 * t) } else { t }
}

/// 1 inside, 0 outside. The distance to the edge is that of the first order, `f / |∇f|` of the implicit form, which
/// is exact on a circle's edge and good to a few percent over a soft edge narrower than the ellipse (Taubin 1994).
///
/// # Errors
/// Cancellation.
pub fn ellipse(window: Window, e: Ellipse, cancel: &Cancel) -> Result<Raster, KernelError> {
    let (sin, cos) = e.turned.to_radians().sin_cos();
    let radii = e.radii.max(Vec2::splat(1e-3));
    drawn(window, cancel, |x, y| {
        let d = Vec2::new(x, y) - e.centre;
        // y runs down, and a turn against the clock is one with y up.
        let own = Vec2::new(d.x * cos - d.y * sin, d.x * sin + d.y * cos) / radii;
        let k = own.length();
        let slope = (own / radii).length() / k.max(1e-6);
        edge((k - 1.0) / slope.max(1e-6), e.soft)
    })
}

/// 1 inside a closed polygon (even-odd rule), 0 outside, with an edge `soft` px wide. Fewer than three corners hold
/// nothing.
///
/// # Errors
/// Cancellation.
pub fn polygon(window: Window, corners: &[Vec2], soft: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
    if corners.len() < 3 {
        return Ok(Raster::zeros(window, 1));
    }
    let sides: Vec<(Vec2, Vec2)> =
        corners.iter().zip(corners.iter().cycle().skip(1)).map(|(a, b)| (*a, *b)).collect();
    drawn(window, cancel, |x, y| {
        let p = Vec2::new(x, y);
        let mut inside = false;
        let mut far = f32::INFINITY;
        for &(a, b) in &sides {
            if (a.y > y) != (b.y > y) && x < a.x + (y - a.y) / (b.y - a.y) * (b.x - a.x) {
                inside = !inside;
            }
            far = far.min(to_segment(p, a, b));
        }
        let far = far.sqrt();
        edge(if inside { -far } else { far }, soft)
    })
}

/// Squared distance from a point to a segment.
pub(super) fn to_segment(p: Vec2, a: Vec2, b: Vec2) -> f32 {
    let (along, to) = (b - a, p - a);
    let t = (to.dot(along) / along.length_squared().max(1e-12)).clamp(0.0, 1.0);
    to.distance_squared(along * t)
}

/// 0 up to `from`, 1 beyond `to`, straight between them and the same across; 1 everywhere if both are one point.
///
/// # Errors
/// Cancellation.
pub fn gradient(window: Window, from: Vec2, to: Vec2, cancel: &Cancel) -> Result<Raster, KernelError> {
    let along = to - from;
    let scale = 1.0 / along.length_squared().max(1e-12);
    drawn(window, cancel, |x, y| {
        if along == Vec2::ZERO { 1.0 } else { ((Vec2::new(x, y) - from).dot(along) * scale).clamp(0.0, 1.0) }
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    const W: Window = Window::new(-10, 5, 120, 80);

    fn area(m: &Raster) -> f32 {
        m.plane(0).iter().sum()
    }

    #[test]
    fn an_ellipse_has_its_area_and_its_turn() {
        let e =
            Ellipse { centre: Vec2::new(50.0, 45.0), radii: Vec2::new(30.0, 12.0), turned: 30.0, soft: 0.0 };
        let m = ellipse(W, e, &Cancel::new()).unwrap();
        let want = std::f32::consts::PI * 30.0 * 12.0;
        assert!((area(&m) / want - 1.0).abs() < 0.01, "{} {want}", area(&m));
        // Turned against the clock, its right end lies above its middle.
        assert_eq!(m.sample(0, 50 + 24, 45 - 14), Some(1.0));
        assert_eq!(m.sample(0, 50 + 24, 45 + 14), Some(0.0));
        let soft = ellipse(W, Ellipse { soft: 8.0, turned: 0.0, ..e }, &Cancel::new()).unwrap();
        assert!((area(&soft) / want - 1.0).abs() < 0.02);
        // ½ on the edge itself: between the centres of the two pixels beside it.
        let middle = 0.5 * (soft.sample(0, 79, 45).unwrap() + soft.sample(0, 80, 45).unwrap());
        assert!((middle - 0.5).abs() < 0.01, "{middle}");
    }

    #[test]
    fn a_polygon_has_its_area_and_may_cross_itself() {
        let square = [[10.25, 10.5], [40.75, 10.5], [40.75, 30.5], [10.25, 30.5]].map(Vec2::from);
        let m = polygon(W, &square, 0.0, &Cancel::new()).unwrap();
        assert!((area(&m) - 30.5 * 20.0).abs() < 1.0, "{}", area(&m));
        let bow = [[10.0, 10.0], [50.0, 50.0], [50.0, 10.0], [10.0, 50.0]].map(Vec2::from);
        let m = polygon(W, &bow, 0.0, &Cancel::new()).unwrap();
        assert_eq!((m.sample(0, 14, 30), m.sample(0, 30, 14)), (Some(1.0), Some(0.0)));
        assert_eq!(area(&polygon(W, &bow[..2], 0.0, &Cancel::new()).unwrap()), 0.0);
    }

    #[test]
    fn a_gradient_runs_from_nothing_to_all() {
        let m = gradient(W, Vec2::new(20.5, 0.0), Vec2::new(60.5, 0.0), &Cancel::new()).unwrap();
        assert_eq!([15, 20, 30, 60, 90].map(|x| m.sample(0, x, 40).unwrap()), [0.0, 0.0, 0.25, 1.0, 1.0]);
        let all = gradient(W, Vec2::ONE, Vec2::ONE, &Cancel::new()).unwrap();
        assert!(all.plane(0).iter().all(|v| *v == 1.0));
    }
}
