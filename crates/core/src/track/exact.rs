//! A plane followed by what a render says of it: by motion vectors from frame to frame, or by positions that stay where they
//! are in the world while the camera goes.
//!
//! Many pixels of the region each say where they are on the other frame; the projective map that most of them agree with is
//! found by the least median of squares (Rousseeuw 1984) over sets of four, and fitted to all that agree by the normalised
//! direct linear transform (Hartley & Zisserman 2004, algorithm 4.2). What passes before the plane does not agree, and has
//! no say.

use super::agreed::{Agreed, Way};
use super::quad::{Quad, area, ends, through};
use crate::Raster;
use crate::geometry::place;
use glam::{DMat3, DVec2, Vec3};
use nalgebra::{SMatrix, SVector, SymmetricEigen};

/// Pixels of a region that are looked at, along a side of the grid.
const ALONG: usize = 48;

/// What agrees lies within so many px: at least, as `f32` and the scale of a pass leave a little; at
/// most, as positions of one ray anywhere in each pixel leave half a px, and what leaves more is no plane.
const LEAST: f64 = 0.02;
const MOST: f64 = 1.5;

/// Where a region is on another frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Found {
    /// From the one frame to the other.
    pub by: DMat3,
    /// Share of the region whose pixels say so (0..1).
    pub agrees: f32,
    /// What is left of those, px, root mean square, over the root of how many degrees of freedom they have.
    pub unsure: f32,
}

/// Evenly spread places of a region, in its own pixels' centres.
fn spread(region: &Quad) -> Vec<DVec2> {
    let [low, high] = ends(region);
    let step = ((high - low) / ALONG as f64).max(DVec2::ONE);
    let counts = ((high - low) / step).ceil();
    let at = |i: usize, j: usize| (low + step * DVec2::new(i as f64, j as f64)).floor() + 0.5;
    let all = (0..=counts.y as usize).flat_map(|j| (0..=counts.x as usize).map(move |i| (i, j)));
    all.map(|(i, j)| at(i, j)).filter(|p| inside(region, *p)).collect()
}

/// Whether a place lies inside a convex quad, whichever way round.
fn inside(q: &Quad, p: DVec2) -> bool {
    let side = |i: usize| (q[(i + 1) % 4] - q[i]).perp_dot(p - q[i]);
    (0..4).all(|i| side(i) >= 0.0) || (0..4).all(|i| side(i) <= 0.0)
}

/// The vector at a pixel, if it has one.
fn vector(motion: &Raster, p: DVec2) -> Option<DVec2> {
    let (x, y) = (p.x.floor() as i32, p.y.floor() as i32);
    let v = DVec2::new(motion.sample(0, x, y)?.into(), motion.sample(1, x, y)?.into());
    v.is_finite().then_some(v)
}

/// Where a region is on the next frame, by the vectors (px to the next frame) of its own.
pub fn ahead(motion: &Raster, region: &Quad) -> Option<Found> {
    let places = spread(region);
    let pairs: Vec<_> = places.iter().filter_map(|p| Some((*p, *p + vector(motion, *p)?))).collect();
    fitted(&pairs, places.len())
}

/// Where a region is on the frame before, by the vectors of that frame: those of pixels that come to lie in the region.
pub fn back(motion: &Raster, region: &Quad) -> Option<Found> {
    let w = motion.window();
    // Every pixel may come from anywhere: all are looked at, and as many as on the way ahead are kept.
    let met = |y: i32| {
        (w.x..w.right() as i32).filter_map(move |x| {
            let p = DVec2::new(f64::from(x), f64::from(y)) + 0.5;
            let to = p + vector(motion, p)?;
            inside(region, to).then_some((to, p))
        })
    };
    let all: Vec<_> = w.rows().flat_map(met).collect();
    let every = (all.len() / (ALONG * ALONG)).max(1);
    let pairs: Vec<_> = all.into_iter().step_by(every).collect();
    let whole = 0.5 * area(region).abs() / every as f64;
    fitted(&pairs, (whole as usize).max(pairs.len()))
}

/// Places of the world that are seen in a region: their pixel, and where they are. `place` tells what a pixel shows.
pub fn seen(region: &Quad, place: impl Fn(i32, i32) -> Option<Vec3>) -> Vec<(DVec2, Vec3)> {
    let of = |p: DVec2| Some((p, place(p.x.floor() as i32, p.y.floor() as i32)?));
    spread(region).into_iter().filter_map(of).collect()
}

/// Where a region is on a frame on which `shown` tells where a place of the world is seen, px, and `place` which place a
/// pixel shows. Its share counts those places that really are seen there.
pub fn by_places(
    places: &[(DVec2, Vec3)],
    shown: impl Fn(Vec3) -> Option<DVec2>,
    place: impl Fn(i32, i32) -> Option<Vec3>,
) -> Option<Found> {
    let pairs: Vec<_> = places.iter().filter_map(|(p, at)| Some((*p, shown(*at)?, *at))).collect();
    let fit = fitted(&pairs.iter().map(|(p, q, _)| (*p, *q)).collect::<Vec<_>>(), places.len())?;
    let is_seen = |(p, q, at): &&(DVec2, DVec2, Vec3)| {
        let on_plane = through(fit.by, *p).is_some_and(|r| r.distance(*q) < 0.5);
        // What is seen there is as near to the place as to what its own neighbours on the plane show.
        let around = |dx: i32, dy: i32| place(q.x.floor() as i32 + dx, q.y.floor() as i32 + dy);
        let Some(here) = around(0, 0) else { return false };
        let beside = [(1, 0), (-1, 0), (0, 1), (0, -1)].into_iter().filter_map(|(x, y)| around(x, y));
        let step = beside.map(|b| b.distance(here)).fold(f32::INFINITY, f32::min);
        let near = if step.is_finite() { 2.0 * step } else { 0.0 };
        on_plane && here.distance(*at) <= near.max(1e-4 * at.length())
    };
    let count = pairs.iter().filter(is_seen).count();
    Some(Found { agrees: count as f32 / places.len() as f32, ..fit })
}

impl Way for DMat3 {
    type Place = DVec2;
    const SET: usize = 4;
    const FEW: usize = 12;

    fn fitted(pairs: &[(DVec2, DVec2)]) -> Option<Self> {
        least_squares(pairs)
    }

    fn through(pairs: &[(DVec2, DVec2)]) -> Option<Self> {
        let four: [(DVec2, DVec2); 4] = pairs.try_into().ok()?;
        place::between(four.map(|p| p.0), four.map(|p| p.1))
    }

    fn off(self, (from, to): &(DVec2, DVec2)) -> f64 {
        through(self, *from).map_or(f64::INFINITY, |q| q.distance(*to))
    }
}

/// The projective map that most pairs agree with. `of` is how many there would be if all of the region said something.
fn fitted(pairs: &[(DVec2, DVec2)], of: usize) -> Option<Found> {
    let found = Agreed::<DMat3>::of(pairs, [LEAST, MOST])?;
    let free = (2 * found.agreeing.len()).saturating_sub(8).max(1) as f64;
    Some(Found {
        by: found.by,
        agrees: found.share(of),
        // Eight figures of a map, spread over four corners.
        unsure: (found.left() * 8.0 / free).sqrt() as f32,
    })
}

/// Moves and scales places so that they lie around the origin at a distance of about √2.
fn normalised(places: impl Iterator<Item = DVec2> + Clone) -> Option<DMat3> {
    let count = places.clone().count().max(1) as f64;
    let middle = places.clone().sum::<DVec2>() / count;
    let far = places.map(|p| p.distance(middle)).sum::<f64>() / count;
    let k = std::f64::consts::SQRT_2 / far;
    k.is_finite().then(|| DMat3::from_scale(DVec2::splat(k)) * DMat3::from_translation(-middle))
}

/// The map that fits all pairs best.
fn least_squares(pairs: &[(DVec2, DVec2)]) -> Option<DMat3> {
    let (a, b) = (normalised(pairs.iter().map(|p| p.0))?, normalised(pairs.iter().map(|p| p.1))?);
    let mut sum = SMatrix::<f64, 9, 9>::zeros();
    for (from, to) in pairs {
        let (p, q) = (through(a, *from)?, through(b, *to)?);
        let first = [p.x, p.y, 1.0, 0.0, 0.0, 0.0, -q.x * p.x, -q.x * p.y, -q.x];
        let second = [0.0, 0.0, 0.0, p.x, p.y, 1.0, -q.y * p.x, -q.y * p.y, -q.y];
        for row in [first, second] {
            let row = SVector::<f64, 9>::from(row);
            sum += row * row.transpose();
        }
    }
    let eigen = SymmetricEigen::new(sum);
    let least = eigen.eigenvalues.imin();
    let h = eigen.eigenvectors.column(least);
    let rows = [[h[0], h[1], h[2]], [h[3], h[4], h[5]], [h[6], h[7], h[8]]];
    let by = b.inverse() * DMat3::from_cols_array_2d(&rows).transpose() * a;
    let by = by * (1.0 / by.z_axis.z);
    by.is_finite().then_some(by)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;
    use glam::DVec3;

    const REGION: Quad =
        [DVec2::new(20.0, 15.0), DVec2::new(90.0, 18.0), DVec2::new(85.0, 66.0), DVec2::new(22.0, 62.0)];

    fn tilted() -> DMat3 {
        DMat3::from_cols(
            DVec3::new(1.03, 0.05, 4e-4),
            DVec3::new(-0.04, 0.97, -3e-4),
            DVec3::new(6.0, -3.5, 1.0),
        )
    }

    /// Vectors of a plane, with a body that goes its own way before it.
    fn motion(by: DMat3, body: bool) -> Raster {
        Raster::from_fn(Window::of_size(120, 80), 2, |c, x, y| {
            let p = DVec2::new(f64::from(x), f64::from(y)) + 0.5;
            if body && (x - 50).pow(2) + (y - 40).pow(2) < 260 {
                return [9.0, -7.0][c];
            }
            (through(by, p).unwrap() - p)[c] as f32
        })
    }

    fn farthest(found: DMat3, want: DMat3) -> f64 {
        let at = |by, p| through(by, p).unwrap();
        REGION.iter().map(|c| at(found, *c).distance(at(want, *c))).fold(0.0, f64::max)
    }

    #[test]
    fn vectors_lead_ahead_and_back_whatever_passes_before() {
        for body in [false, true] {
            let field = motion(tilted(), body);
            let found = ahead(&field, &REGION).unwrap();
            assert!(farthest(found.by, tilted()) < 1e-4, "{body} {found:?}");
            assert!((found.agrees - if body { 0.76 } else { 1.0 }).abs() < 0.05, "{found:?}");
            let there = super::super::quad::all_through(&REGION, tilted()).unwrap();
            let found = back(&field, &there).unwrap();
            let home = |p: DVec2| through(found.by, through(tilted(), p).unwrap()).unwrap();
            assert!(REGION.iter().all(|c| home(*c).distance(*c) < 1e-3), "{body} {found:?}");
            assert!(found.unsure < 1e-3);
        }
    }

    #[test]
    fn what_says_nothing_or_is_no_plane_is_not_found() {
        let none = Raster::filled(Window::of_size(120, 80), 2, f32::NAN);
        assert_eq!(ahead(&none, &REGION), None);
        assert_eq!(back(&none, &REGION), None);
        let outside = REGION.map(|p| p + 500.0);
        assert_eq!(ahead(&motion(tilted(), false), &outside), None);
        // Each pixel by itself: what agrees is little, and is said.
        let wild = Raster::from_fn(Window::of_size(120, 80), 2, |c, x, y| {
            ((x * 7919 + y * 104_729 + c as i32 * 31) % 101) as f32 * 0.3 - 15.0
        });
        assert!(ahead(&wild, &REGION).is_none_or(|f| f.agrees < 0.75));
    }

    #[test]
    fn places_of_the_world_lead_to_any_frame() {
        // A floor seen by a camera that goes on: places are as pixels show them.
        let camera = crate::Camera::centred(100.0, Window::of_size(120, 80));
        let place = |x: i32, y: i32, shift: f32| {
            let at = glam::Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
            let ray = camera.unproject(at, 1.0);
            // The plane 0.3·x + 0.5·y − z = 6, from a camera that stands `shift` to the right.
            let k = (6.0 - 0.3 * shift) / (0.3 * ray.x + 0.5 * ray.y - ray.z);
            (k > 0.0).then(|| ray * k + Vec3::X * shift)
        };
        let region = seen(&REGION, |x, y| place(x, y, 0.0));
        let shown = |at: Vec3| camera.project(at - Vec3::X * 0.4).map(|p| p.as_dvec2());
        let found = by_places(&region, shown, |x, y| place(x, y, 0.4)).unwrap();
        for (p, at) in &region {
            assert!(through(found.by, *p).unwrap().distance(shown(*at).unwrap()) < 1e-3);
        }
        assert!(found.agrees > 0.95, "{found:?}");
        // Where something else is seen, they are not.
        let hidden =
            by_places(&region, shown, |x, y| if x < 50 { Some(Vec3::Z * -1.0) } else { place(x, y, 0.4) });
        assert!((0.3..0.75).contains(&hidden.unwrap().agrees), "{hidden:?}");
    }
}
