//! How a stiff body moved from one frame to the next, by what a render says of it: where its surface is in space, and where
//! motion vectors take each of its pixels.
//!
//! Many pixels of the body each give a place now and the same place of the body a frame later; the turn and shift that most
//! agree with are found by the least median of squares (Rousseeuw 1984) over sets of three, and fitted to all that agree by
//! the turn that leaves least (Kabsch 1976). What passes before the body on the later frame, and what belongs to something
//! else, does not agree, and has no say. Both frames are in their own camera's space: a camera that goes is part of how the
//! body moves in it.

use super::agreed::{Agreed, Way};
use crate::geometry::lattice::hermite;
use crate::geometry::turn::best_turn;
use crate::{KernelError, Raster};
use glam::{DAffine3, DMat3, DQuat, DVec3, Vec3};
use nalgebra::{Matrix3, Vector3};

/// Pixels of a body that are looked at, at most.
const MOST: usize = 20_000;

/// What agrees lies within such a share of the body's own size: at least, as the digits of a pass leave a little; at most, as what leaves more
/// is no stiff body.
const LEAST: f64 = 1e-6;
const LOOSE: f64 = 0.02;

/// Places beside each other of one surface are at most so many times as far away.
const ONE: f64 = 1.1;

/// Share of its pixels that must agree.
const SHARE: f32 = 0.3;

/// A turn and a shift, and how well they fit.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stiff {
    /// From the one frame's camera space to the other's.
    pub by: DAffine3,
    /// Share of the body's pixels that say so (0..1).
    pub agrees: f32,
    /// What is left of those, root mean square, in the unit of the positions.
    pub left: f64,
}

/// How the body that `on` (one plane, 0..1) covers moved from one frame to the next: `places` and `next` are positions in each
/// frame's camera space (three planes; 0 where there is none), `motion` (two planes) tells in px where each pixel goes. `None`
/// where too little of it is seen on both, or where it bends.
///
/// # Errors
/// Shapes that do not match.
pub fn moved(
    places: &Raster,
    on: &Raster,
    motion: &Raster,
    next: &Raster,
) -> Result<Option<Stiff>, KernelError> {
    places.expect_channels("position", 3)?;
    next.expect_channels("position", 3)?;
    motion.expect_channels("motion", 2)?;
    motion.expect_window("motion", places.window())?;
    on.expect_window("matte", places.window())?;
    let w = places.window();
    let of_body: Vec<usize> = (0..w.area()).filter(|&i| on.plane(0)[i] >= 0.99).collect();
    let every = of_body.len().div_ceil(MOST).max(1);
    let looked_at: Vec<usize> = of_body.into_iter().step_by(every).collect();
    let field = Field { motion, on };
    let way = |i: usize| [0, 1].map(|c| f64::from(motion.plane(c)[i]));
    let even = |&i: &usize| {
        let (x, y) = w.pixel_at(i);
        both(places, next, field, [x, y].map(f64::from), way(i))
    };
    let pairs: Vec<(DVec3, DVec3)> = looked_at.iter().filter_map(even).collect();
    if let Some(found) = fitted(&pairs, looked_at.len()) {
        return Ok(Some(found));
    }
    // What is as thin as a pixel or two has no places between its pixels now.
    let thin = |&i: &usize| {
        let (x, y) = w.pixel_at(i);
        Some((place(places, x, y)?, beside(next, [x, y].map(f64::from), way(i))?))
    };
    let pairs: Vec<(DVec3, DVec3)> = looked_at.iter().filter_map(thin).collect();
    Ok(fitted(&pairs, looked_at.len()))
}

/// The place that a pixel shows.
fn place(places: &Raster, x: i32, y: i32) -> Option<DVec3> {
    let at = |c| places.sample(c, x, y);
    let p = Vec3::new(at(0)?, at(1)?, at(2)?);
    (p.is_finite() && p != Vec3::ZERO).then(|| p.as_dvec3())
}

/// Where motion vectors hold: those of a body.
#[derive(Clone, Copy)]
struct Field<'a> {
    motion: &'a Raster,
    on: &'a Raster,
}

impl Field<'_> {
    /// The vector between four pixels of the body.
    fn at(self, [x, y]: [f64; 2]) -> Option<[f64; 2]> {
        let (corner, share) = split([x, y])?;
        let way = mean(corner, share.map(line), |x, y| {
            let own = self.on.sample(0, x, y)? >= 0.99;
            let [x, y] = [self.motion.sample(0, x, y)?, self.motion.sample(1, x, y)?].map(f64::from);
            own.then(|| DVec3::new(x, y, 0.0))
        })?;
        Some([way.x, way.y])
    }
}

/// A place of a body on both frames, near a pixel (counted from pixel middles) whose vector is known. What is read between
/// pixels of something that bulges lies a little too deep, the farther from them the deeper; were it read at a pixel's middle
/// now and between pixels then, the body would sink from frame to frame. So both are read equally far from the middles: half of
/// the vector before, and half of it after, but for whole pixels.
fn both(
    now: &Raster,
    next: &Raster,
    field: Field<'_>,
    at: [f64; 2],
    way: [f64; 2],
) -> Option<(DVec3, DVec3)> {
    let from = [0, 1].map(|k| at[k] - (0.5 * way[k] - (0.5 * way[k]).round()));
    let way = field.at(from)?;
    let to = [0, 1].map(|k| from[k] + way[k]);
    let (here, there) = (split(from)?, split(to)?);
    // Both in one way, for the same reason.
    let cubics = mixed(now, here.0, here.1.map(cubic)).zip(mixed(next, there.0, there.1.map(cubic)));
    cubics.or_else(|| mixed(now, here.0, here.1.map(line)).zip(mixed(next, there.0, there.1.map(line))))
}

/// The place to which a pixel goes.
fn beside(next: &Raster, at: [f64; 2], way: [f64; 2]) -> Option<DVec3> {
    let (corner, share) = split([0, 1].map(|k| at[k] + way[k]))?;
    mixed(next, corner, share.map(cubic)).or_else(|| mixed(next, corner, share.map(line)))
}

/// The pixel to the upper left of a place, and how far beyond it that lies.
fn split(at: [f64; 2]) -> Option<([i32; 2], [f64; 2])> {
    let sound = at.iter().all(|v| v.is_finite() && v.abs() < 1e6);
    sound.then(|| (at.map(|v| v.floor() as i32), at.map(|v| v - v.floor())))
}

/// The two pixels around a place, and how much each counts.
fn line(f: f64) -> [(i32, f64); 2] {
    [(0, 1.0 - f), (1, f)]
}

/// The four pixels around a place, and how much each counts on a cubic that goes through all (Catmull & Rom 1974).
fn cubic(f: f64) -> [(i32, f64); 4] {
    let (weights, _) = hermite(f);
    std::array::from_fn(|k| (k as i32 - 1, weights[k]))
}

/// The mean of what pixels around a corner have, by the weights of columns and rows; `None` where one of them has nothing.
fn mean<const N: usize>(
    [x, y]: [i32; 2],
    [across, down]: [[(i32, f64); N]; 2],
    mut at: impl FnMut(i32, i32) -> Option<DVec3>,
) -> Option<DVec3> {
    let mut sum = DVec3::ZERO;
    for (j, v) in down.into_iter().filter(|w| w.1 != 0.0) {
        for (i, u) in across.into_iter().filter(|w| w.1 != 0.0) {
            sum += u * v * at(x + i, y + j)?;
        }
    }
    Some(sum)
}

/// The place between pixels; `None` where two surfaces meet. What is seen of a plane lies evenly in the picture once it is
/// divided by its distance, and so does one by that distance; places themselves do not.
fn mixed<const N: usize>(places: &Raster, corner: [i32; 2], weights: [[(i32, f64); N]; 2]) -> Option<DVec3> {
    let (mut near, mut far) = (f64::INFINITY, 0.0f64);
    let sum = mean(corner, weights, |x, y| {
        let p = place(places, x, y)?;
        let z = -p.z;
        (near, far) = (near.min(z), far.max(z));
        (z > 0.0).then(|| DVec3::new(p.x / z, p.y / z, 1.0 / z))
    })?;
    (far < near * ONE).then(|| DVec3::new(sum.x, sum.y, -1.0) / sum.z)
}

impl Way for DAffine3 {
    type Place = DVec3;
    const SET: usize = 3;
    const FEW: usize = 24;

    /// Kabsch 1976.
    fn fitted(pairs: &[(DVec3, DVec3)]) -> Option<Self> {
        let count = pairs.len() as f64;
        let [a, b] = [|p: &(DVec3, DVec3)| p.0, |p: &(DVec3, DVec3)| p.1]
            .map(|of| pairs.iter().map(of).sum::<DVec3>() / count);
        let mut sum = Matrix3::<f64>::zeros();
        for (from, to) in pairs {
            let [f, t] = [*from - a, *to - b].map(|v| Vector3::from(v.to_array()));
            sum += t * f.transpose();
        }
        let turn = DMat3::from_cols_slice(best_turn(sum)?.as_slice());
        let by = Self { matrix3: turn, translation: b - turn * a };
        by.is_finite().then_some(by)
    }

    fn off(self, (from, to): &(DVec3, DVec3)) -> f64 {
        self.transform_point3(*from).distance(*to)
    }
}

/// The turn and shift that most pairs of places agree with; `None` where too few do. `of` is how many there would be if all of
/// the body said something.
pub fn fitted(pairs: &[(DVec3, DVec3)], of: usize) -> Option<Stiff> {
    let size = extent(pairs);
    let found = Agreed::<DAffine3>::of(pairs, [LEAST * size, LOOSE * size])?;
    let agrees = found.share(of);
    (agrees >= SHARE).then(|| Stiff { by: found.by, agrees, left: found.left().sqrt() })
}

/// Root mean square distance of the body's places from their middle.
fn extent(pairs: &[(DVec3, DVec3)]) -> f64 {
    let count = pairs.len().max(1) as f64;
    let middle = pairs.iter().map(|p| p.0).sum::<DVec3>() / count;
    (pairs.iter().map(|p| p.0.distance_squared(middle)).sum::<f64>() / count).sqrt()
}

/// The same turn without what rounding made of it: one that is chained a thousand times stays a turn.
pub fn settled(by: DAffine3) -> DAffine3 {
    DAffine3 { matrix3: DMat3::from_quat(DQuat::from_mat3(&by.matrix3).normalize()), ..by }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(120, 90);
    const FOCAL: f64 = 140.0;
    const MIDDLE: DVec3 = DVec3::new(0.2, -0.1, -6.0);

    /// Where the ray of a place in the picture, px, meets a ball of radius 1.
    fn met(x: f64, y: f64, middle: DVec3) -> Option<DVec3> {
        let ray = DVec3::new((x - 60.0) / FOCAL, (45.0 - y) / FOCAL, -1.0).normalize();
        let along = ray.dot(middle);
        let reach = along * along - middle.length_squared() + 1.0;
        (reach > 0.0).then(|| ray * (along - reach.sqrt()))
    }

    fn shown(p: DVec3) -> [f64; 2] {
        [60.0 + FOCAL * p.x / -p.z, 45.0 - FOCAL * p.y / -p.z]
    }

    fn ball(middle: DVec3) -> Raster {
        let at = |x: i32, y: i32| met(f64::from(x) + 0.5, f64::from(y) + 0.5, middle);
        Raster::from_fn(W, 3, |c, x, y| at(x, y).map_or(0.0, |p| p[c] as f32))
    }

    /// A ball that turns by 7° and goes aside, seen on two frames.
    fn turning() -> (DAffine3, Raster, Raster, Raster, Raster) {
        let turn = DMat3::from_axis_angle(DVec3::new(0.3, 0.9, -0.2).normalize(), 7f64.to_radians());
        let shift = DVec3::new(0.15, 0.02, 0.3);
        let by = DAffine3 { matrix3: turn, translation: MIDDLE + shift - turn * MIDDLE };
        let now = ball(MIDDLE);
        let on = Raster::from_fn(W, 1, |_, x, y| f32::from(now.sample(2, x, y).is_some_and(|z| z != 0.0)));
        let motion = Raster::from_fn(W, 2, |c, x, y| {
            let Some(p) = place(&now, x, y) else { return 0.0 };
            (shown(by.transform_point3(p))[c] - shown(p)[c]) as f32
        });
        (by, now, on, motion, ball(MIDDLE + shift))
    }

    /// How far a solution takes places of the body from where they really go.
    fn error(found: Option<Stiff>, by: DAffine3) -> f64 {
        let Some(found) = found else { return f64::INFINITY };
        let all = [DVec3::X, DVec3::Y, DVec3::Z, -DVec3::X].map(|d| MIDDLE + d);
        all.map(|p| found.by.transform_point3(p).distance(by.transform_point3(p)))
            .into_iter()
            .fold(0.0, f64::max)
    }

    #[test]
    fn a_ball_that_turns_is_followed_though_its_outline_stays() {
        let (by, now, on, motion, next) = turning();
        let found = moved(&now, &on, &motion, &next).unwrap();
        // A pixel of the ball is 0.04 wide.
        assert!(error(found, by) < 2e-4, "{} {found:?}", error(found, by));
    }

    #[test]
    fn what_passes_before_it_has_no_say() {
        let (by, now, on, motion, mut next) = turning();
        for y in 30..70 {
            for c in 0..3 {
                next.row_mut(c, y)[55..75].fill([0.1, 0.1, -2.0][c]);
            }
        }
        let found = moved(&now, &on, &motion, &next).unwrap();
        assert!(found.is_some_and(|f| f.agrees < 0.9) && error(found, by) < 5e-4, "{found:?}");
    }

    #[test]
    fn what_bends_or_is_hardly_seen_is_not_followed() {
        let (_, now, on, motion, next) = turning();
        let small =
            Raster::from_fn(W, 1, |_, x, y| f32::from((60..64).contains(&x) && (45..49).contains(&y)));
        assert_eq!(moved(&now, &small, &motion, &next).unwrap(), None);
        assert_eq!(moved(&now, &on, &motion, &Raster::zeros(W, 3)).unwrap(), None);
        // Every place goes its own way.
        let torn = Raster::from_fn(W, 2, |c, x, y| ((x * 7 + y * 13 + c as i32 * 5) % 31) as f32 - 15.0);
        assert_eq!(moved(&now, &on, &torn, &next).unwrap(), None);
        let none = Raster::filled(W, 2, f32::NAN);
        assert_eq!(moved(&now, &on, &none, &next).unwrap(), None);
        assert!(moved(&now, &on, &Raster::zeros(W, 1), &next).is_err());
    }

    #[test]
    fn a_turn_that_is_chained_stays_one() {
        let (by, ..) = turning();
        let mut all = DAffine3::IDENTITY;
        for _ in 0..5000 {
            all = settled(by * all);
        }
        assert!((all.matrix3.determinant() - 1.0).abs() < 1e-12);
    }
}
