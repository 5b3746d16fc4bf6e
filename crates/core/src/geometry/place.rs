//! A picture put somewhere: moved, scaled, turned, sheared, turned in depth, or by four corners.

use super::chain::Move;
use glam::{DMat3, DVec2, DVec3};

/// How a picture is put. Lengths in full-resolution px, angles in degrees against the clock as seen.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Placed {
    /// The place of the picture about which it is scaled, sheared and turned.
    pub anchor: [f64; 2],
    /// How far the anchor is moved, right and down.
    pub by: [f64; 2],
    /// Factors of width and height; negative ones mirror.
    pub scale: [f64; 2],
    /// Px to the right for each px up.
    pub shear: f64,
    /// Turn in the picture.
    pub turn: f64,
    /// Turn in depth about the level axis through the anchor: the upper edge goes back.
    pub tilt: f64,
    /// Turn in depth about the upright axis through the anchor: the right edge goes back.
    pub swing: f64,
    /// How far away the viewer is, px: the nearer, the stronger the perspective.
    pub distance: f64,
}

impl Placed {
    /// The move; scaled, then sheared, turned, turned in depth, and moved.
    pub fn to_move(self) -> Move {
        let (s, c) = (-self.turn.to_radians()).sin_cos();
        let turn = DMat3::from_cols_array(&[c, s, 0.0, -s, c, 0.0, 0.0, 0.0, 1.0]);
        // Down is positive, so up is −y.
        let shear = DMat3::from_cols_array(&[1.0, 0.0, 0.0, -self.shear, 1.0, 0.0, 0.0, 0.0, 1.0]);
        let scale = DMat3::from_diagonal(DVec3::new(self.scale[0], self.scale[1], 1.0));
        let about = |to: [f64; 2]| DMat3::from_translation(DVec2::from(to));
        let [ax, ay] = self.anchor;
        let moved = about([ax + self.by[0], ay + self.by[1]]);
        Move::Homography(moved * self.in_depth() * turn * shear * scale * about([-ax, -ay]))
    }

    /// The plane of the picture turned in depth about the origin and seen from a distance in front of it.
    fn in_depth(self) -> DMat3 {
        if self.tilt == 0.0 && self.swing == 0.0 {
            return DMat3::IDENTITY;
        }
        let (st, ct) = self.tilt.to_radians().sin_cos();
        let (ss, cs) = self.swing.to_radians().sin_cos();
        // Right, down and away from the viewer. Swung first: the right edge goes back. Then tilted: the upper edge does.
        let tilted = |v: DVec3| DVec3::new(v.x, v.y * ct + v.z * st, v.z * ct - v.y * st);
        let (x, y) = (tilted(DVec3::new(cs, 0.0, ss)), tilted(DVec3::Y));
        // A point (u, v) of the plane lies at u·x + v·y; seen from `distance` it is divided by 1 + depth/distance.
        let k = 1.0 / self.distance;
        DMat3::from_cols(DVec3::new(x.x, x.y, x.z * k), DVec3::new(y.x, y.y, y.z * k), DVec3::Z)
    }
}

/// The move that puts the corners of a rectangle (top left, top right, bottom right, bottom left) at four places; `None`
/// where no plane seen by a camera has them: three in a line, or crossed over.
///
/// The projective map of a square (Heckbert 1989, "Fundamentals of Texture Mapping and Image Warping", section 2.2.3).
pub fn by_corners(from: [DVec2; 2], to: [DVec2; 4]) -> Option<Move> {
    let size = from[1] - from[0];
    if size.x <= 0.0 || size.y <= 0.0 {
        return None;
    }
    let [p0, p1, p2, p3] = to;
    // One way round at every corner, and no corner in line.
    let cross = |a: DVec2, b: DVec2, c: DVec2| (b - a).perp_dot(c - b);
    let ways = [cross(p0, p1, p2), cross(p1, p2, p3), cross(p2, p3, p0), cross(p3, p0, p1)];
    let span = (p2 - p0).length_squared().max((p3 - p1).length_squared());
    let least = span * 1e-9;
    if !(ways.iter().all(|w| *w > least) || ways.iter().all(|w| *w < -least)) {
        return None;
    }
    let (d1, d2, d3) = (p1 - p2, p3 - p2, p0 - p1 + p2 - p3);
    let det = d1.perp_dot(d2);
    let (g, h) = (d3.perp_dot(d2) / det, d1.perp_dot(d3) / det);
    let square = DMat3::from_cols((p1 - p0 + g * p1).extend(g), (p3 - p0 + h * p3).extend(h), p0.extend(1.0));
    let unit =
        DMat3::from_diagonal(DVec3::new(1.0 / size.x, 1.0 / size.y, 1.0)) * DMat3::from_translation(-from[0]);
    Some(Move::Homography(square * unit))
}

/// The projective map that takes four places to four others, both one way round; `None` where either has three in a line or
/// is crossed over.
pub fn between(from: [DVec2; 4], to: [DVec2; 4]) -> Option<DMat3> {
    let unit = |to| match by_corners([DVec2::ZERO, DVec2::ONE], to)? {
        Move::Homography(by) => Some(by),
        _ => None,
    };
    let back = unit(from)?.inverse();
    let both = unit(to)? * back;
    both.is_finite().then(|| both * (1.0 / both.z_axis.z))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::chain::Chain;

    const STILL: Placed = Placed {
        anchor: [50.0, 40.0],
        by: [0.0; 2],
        scale: [1.0; 2],
        shear: 0.0,
        turn: 0.0,
        tilt: 0.0,
        swing: 0.0,
        distance: 400.0,
    };

    fn put(p: Placed, x: f64, y: f64) -> DVec2 {
        Chain::of([p.to_move()]).forward(DVec2::new(x, y)).unwrap()
    }

    #[test]
    fn numbers_move_as_their_names_say() {
        let near = |a: DVec2, x: f64, y: f64| assert!((a - DVec2::new(x, y)).length() < 1e-9, "{a} {x} {y}");
        near(put(STILL, 7.0, 9.0), 7.0, 9.0);
        near(put(Placed { by: [3.0, -2.0], ..STILL }, 7.0, 9.0), 10.0, 7.0);
        near(put(Placed { scale: [2.0, 0.5], ..STILL }, 60.0, 60.0), 70.0, 50.0);
        // Against the clock as seen: what is to the right goes up.
        near(put(Placed { turn: 90.0, ..STILL }, 60.0, 40.0), 50.0, 30.0);
        near(put(Placed { shear: 0.5, ..STILL }, 50.0, 20.0), 60.0, 20.0);
    }

    #[test]
    fn what_goes_back_becomes_smaller() {
        let tilted = Placed { tilt: 30.0, ..STILL };
        // 40 px above the anchor: 40·cos 30° up, 40·sin 30° = 20 back, seen from 400: divided by 420/400.
        let at = put(tilted, 50.0, 0.0);
        assert!((at - DVec2::new(50.0, 40.0 - 34.641016 / 1.05)).length() < 1e-5, "{at}");
        let swung = put(Placed { swing: 30.0, ..STILL }, 90.0, 40.0);
        assert!((swung - DVec2::new(50.0 + 34.641016 / 1.05, 40.0)).length() < 1e-5, "{swung}");
        // Both: a turn of space keeps lengths, so that the distance from the viewer tells them.
        let both = Placed { tilt: 20.0, swing: 35.0, distance: 1e9, ..STILL };
        let (a, b) =
            (put(both, 60.0, 40.0) - put(both, 50.0, 40.0), put(both, 50.0, 50.0) - put(both, 50.0, 40.0));
        let (ct, st, cs, ss) = (
            20f64.to_radians().cos(),
            20f64.to_radians().sin(),
            35f64.to_radians().cos(),
            35f64.to_radians().sin(),
        );
        assert!(
            (a - 10.0 * DVec2::new(cs, ss * st)).length() < 1e-4
                && (b - 10.0 * DVec2::new(0.0, ct)).length() < 1e-4,
            "{a} {b}"
        );
    }

    #[test]
    fn corners_go_where_they_are_put() {
        let from = [DVec2::new(10.0, 20.0), DVec2::new(110.0, 80.0)];
        let to = [(5.0, 7.0), (140.0, -20.0), (120.0, 90.0), (30.0, 70.0)].map(DVec2::from);
        let chain = Chain::of([by_corners(from, to).unwrap()]);
        let corners = [(10.0, 20.0), (110.0, 20.0), (110.0, 80.0), (10.0, 80.0)].map(DVec2::from);
        for (corner, place) in corners.into_iter().zip(to) {
            assert!((chain.forward(corner).unwrap() - place).length() < 1e-9);
            assert!((chain.source(place).unwrap() - corner).length() < 1e-9);
        }
        // The meeting of the diagonals is kept by every projective map (Hartley & Zisserman 2004, section 2.3).
        let middle = chain.forward(DVec2::new(60.0, 50.0)).unwrap();
        let off = |a: DVec2, b: DVec2| (b - a).perp_dot(middle - a).abs() / (b - a).length();
        assert!(off(to[0], to[2]) < 1e-9 && off(to[1], to[3]) < 1e-9);
        let crossed = [to[0], to[2], to[1], to[3]];
        assert!(by_corners(from, crossed).is_none());
        assert!(by_corners(from, [to[0], to[1], to[2], to[0].midpoint(to[2])]).is_none(), "three in a line");
    }
}
