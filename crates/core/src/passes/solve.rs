//! The camera of a render, solved from its position pass.
//!
//! Each pixel of a position pass is a place and the picture point where it is seen (the pixel's centre), so the pass holds
//! its own camera. Own derivation on the direct linear transform (Hartley & Zisserman 2004, chapter 7): the 3×4 projection
//! is the null vector of two equations for each pixel; its left part is split into the upper triangle of a pinhole and a
//! rotation, and what is found is refined as a pinhole with square pixels by least squares of the distances in px.

use crate::geometry::camera::Camera;
use crate::passes::convention::{Axes, Axis};
use crate::{Raster, Window};
use glam::Vec3;
use nalgebra::{DMatrix, DVector, Matrix3, Matrix3x4, SMatrix, SVector, Vector3};

/// Places that are looked at; more make it no surer.
const SAMPLES: usize = 3000;

/// Median distance between pixel centres and projected places up to which a camera is believed, px. Passes of exact
/// pixel centres leave less than 0.05; passes of one ray anywhere in each pixel leave 0.3 to 0.4.
const BELIEVED: f64 = 0.6;

/// Share of the places that must be seen within a px of their pixel.
const MOST: f64 = 0.8;

/// A camera that was solved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Solved {
    /// The camera. Where places are in world space, `world` leads from the stored coordinates into its space.
    pub camera: Camera,
    /// Where places are in the camera's own space: which stored channel is right, up, toward the viewer.
    pub axes: Option<Axes>,
    /// Median distance between a pixel's centre and where its place is seen, px.
    pub residual: f32,
}

impl Solved {
    /// A stored place in camera space (x right, y up, z toward the viewer).
    pub fn place(&self, stored: Vec3) -> Vec3 {
        match self.axes {
            Some(axes) => turned(&axes, stored),
            None => self.camera.from_world(stored, true),
        }
    }
}

/// A vector by its axes.
pub(crate) fn turned(axes: &Axes, v: Vec3) -> Vec3 {
    Vec3::from(axes.map(|a| {
        let (channel, sign) = a.parts();
        v[channel] * sign
    }))
}

/// A place and where it is seen, px.
#[derive(Clone, Copy)]
struct Seen {
    place: Vector3<f64>,
    at: [f64; 2],
}

/// Solves the camera of stored places (three planes, in any one space; zero, not finite, or one value that many pixels
/// share where nothing is). `None` where they fit no pinhole camera, or too few of them say.
pub fn camera(positions: &Raster, display: Window) -> Option<Solved> {
    if positions.channels() < 3 {
        return None;
    }
    let seen = seen(positions);
    if seen.len() < 60 {
        return None;
    }
    in_camera_space(&seen, display).or_else(|| in_world_space(&seen, display))
}

/// Median distance in px between pixel centres and the stored places as a camera sees them; `None` if too few say.
/// `place` brings a stored place into the camera's space.
pub fn residual(positions: &Raster, camera: &Camera, place: impl Fn(Vec3) -> Vec3) -> Option<f32> {
    let mut apart: Vec<f64> = seen(positions)
        .iter()
        .map(|s| {
            let p = place(Vec3::new(s.place.x as f32, s.place.y as f32, s.place.z as f32));
            let shown = camera.project(p);
            shown.map_or(1e6, |q| f64::hypot(f64::from(q.x) - s.at[0], f64::from(q.y) - s.at[1]))
        })
        .collect();
    (apart.len() >= 60).then(|| median(&mut apart) as f32)
}

fn seen(positions: &Raster) -> Vec<Seen> {
    let w = positions.window();
    let [x, y, z] = [0, 1, 2].map(|c| positions.plane(c));
    let at = |i: usize| Vec3::new(x[i], y[i], z[i]);
    // One value that many share is no place: what a renderer writes where nothing is.
    let shared = crate::passes::background::shared(x).filter(|v| *v != 0.0);
    let is = |i: &usize| at(*i).is_finite() && at(*i) != Vec3::ZERO && Some(x[*i]) != shared;
    let count = (0..w.area()).filter(is).count();
    (0..w.area())
        .filter(is)
        .step_by((count / SAMPLES).max(1))
        .map(|i| {
            let (px, py) = w.pixel_at(i);
            let p = at(i);
            Seen {
                place: Vector3::new(f64::from(p.x), f64::from(p.y), f64::from(p.z)),
                at: [f64::from(px) + 0.5, f64::from(py) + 0.5],
            }
        })
        .collect()
}

fn median(values: &mut [f64]) -> f64 {
    let middle = values.len() / 2;
    if values.is_empty() { f64::INFINITY } else { *values.select_nth_unstable_by(middle, f64::total_cmp).1 }
}

/// Every order of the axes with every choice of signs; the plain ones first.
pub(crate) fn all_axes() -> impl Iterator<Item = Axes> {
    const ORDERS: [[usize; 3]; 6] = [[0, 1, 2], [0, 2, 1], [1, 0, 2], [2, 1, 0], [1, 2, 0], [2, 0, 1]];
    ORDERS.into_iter().flat_map(|order| {
        (0..8).map(move |signs| std::array::from_fn(|j| Axis::new(order[j], signs >> j & 1 == 1)))
    })
}

/// Places in the camera's own space on any axes: then `px − cx = f·x/−z` and `py − cy = −f·y/−z` with one focal length.
fn in_camera_space(seen: &[Seen], display: Window) -> Option<Solved> {
    let centre = middle(display);
    let mut best: Option<(f64, f64, Axes)> = None;
    for axes in all_axes() {
        let own = |s: &Seen| {
            let part = |a: Axis| s.place[a.parts().0] * f64::from(a.parts().1);
            [part(axes[0]), part(axes[1]), part(axes[2])]
        };
        if seen.iter().any(|s| own(s)[2] >= 0.0) {
            continue;
        }
        let slope = |s: &Seen| {
            let [x, y, z] = own(s);
            [x / -z, -y / -z]
        };
        let (mut above, mut below) = (0.0, 0.0);
        for s in seen {
            let [u, v] = slope(s);
            above += u * (s.at[0] - centre[0]) + v * (s.at[1] - centre[1]);
            below += u * u + v * v;
        }
        let focal = above / below;
        if !(focal.is_finite() && focal > 0.0) {
            continue;
        }
        let mut apart: Vec<f64> = seen
            .iter()
            .map(|s| {
                let [u, v] = slope(s);
                f64::hypot(centre[0] + focal * u - s.at[0], centre[1] + focal * v - s.at[1])
            })
            .collect();
        let left = median(&mut apart);
        if best.is_none_or(|b| left < b.0 * 0.999) && close(&apart) {
            best = Some((left, focal, axes));
        }
    }
    let (left, focal, axes) = best.filter(|b| b.0 < BELIEVED)?;
    let camera =
        Camera { focal: focal as f32, centre_x: centre[0] as f32, centre_y: centre[1] as f32, world: None };
    Some(Solved { camera, axes: Some(axes), residual: left as f32 })
}

fn middle(display: Window) -> [f64; 2] {
    [
        f64::from(display.x) + 0.5 * f64::from(display.width),
        f64::from(display.y) + 0.5 * f64::from(display.height),
    ]
}

/// Whether most places are seen near their pixels.
fn close(apart: &[f64]) -> bool {
    apart.iter().filter(|d| **d < 1.0).count() as f64 > MOST * apart.len() as f64
}

/// A pinhole: focal length, centre, rotation (rows) and move into a space with x right, y down, z forward.
#[derive(Clone, Copy)]
struct Pinhole {
    focal: f64,
    centre: [f64; 2],
    turn: Matrix3<f64>,
    shift: Vector3<f64>,
}

impl Pinhole {
    fn shown(&self, place: &Vector3<f64>) -> Option<[f64; 2]> {
        let p = self.turn * place + self.shift;
        (p.z > 0.0)
            .then(|| [self.centre[0] + self.focal * p.x / p.z, self.centre[1] + self.focal * p.y / p.z])
    }

    fn apart(&self, seen: &[Seen]) -> Vec<f64> {
        let far = |s: &Seen| self.shown(&s.place).map_or(1e6, |q| f64::hypot(q[0] - s.at[0], q[1] - s.at[1]));
        seen.iter().map(far).collect()
    }

    /// Moved by small changes: log of the focal length, centre (if it is free), turn about three axes, shift.
    fn changed(&self, by: &[f64], free: bool, size: f64) -> Self {
        let turn = nalgebra::Rotation3::new(Vector3::new(by[1], by[2], by[3]));
        let centre = if free { [self.centre[0] + by[7], self.centre[1] + by[8]] } else { self.centre };
        Self {
            focal: self.focal * by[0].exp(),
            centre,
            turn: turn.matrix() * self.turn,
            shift: turn.matrix() * self.shift + size * Vector3::new(by[4], by[5], by[6]),
        }
    }

    /// Levenberg's damped least squares of the distances in px, far ones weighing no more than a px (Huber).
    fn refined(mut self, seen: &[Seen], free: bool) -> Self {
        let n = if free { 9 } else { 7 };
        let size = self.shift.norm().max(1e-9);
        let cost = |p: &Self| -> f64 {
            p.apart(seen).iter().map(|d| if *d < 1.0 { 0.5 * d * d } else { d - 0.5 }).sum()
        };
        let (mut damping, mut now) = (1e-3, cost(&self));
        for _ in 0..30 {
            let (normal, slope) = self.equations(seen, free, size, n);
            let mut damped = normal.clone();
            (0..n).for_each(|k| damped[(k, k)] += damping * normal[(k, k)] + 1e-12);
            let Some(step) = damped.cholesky().map(|c| c.solve(&slope)) else { break };
            let tried = self.changed(step.as_slice(), free, size);
            let then = cost(&tried);
            if then < now {
                let enough = now - then < 1e-9 * now;
                (self, now, damping) = (tried, then, damping * 0.3);
                if enough {
                    break;
                }
            } else {
                damping *= 8.0;
                if damping > 1e6 {
                    break;
                }
            }
        }
        self
    }

    fn equations(&self, seen: &[Seen], free: bool, size: f64, n: usize) -> (DMatrix<f64>, DVector<f64>) {
        const H: f64 = 1e-6;
        let beside: Vec<Self> = (0..n)
            .map(|k| {
                let mut by = [0.0; 9];
                // Px for the centre, small shares for all else.
                by[k] = if k >= 7 { 1e-3 } else { H };
                self.changed(&by, free, size)
            })
            .collect();
        let (mut normal, mut slope) = (DMatrix::zeros(n, n), DVector::zeros(n));
        let mut row = vec![[0.0; 2]; n];
        for s in seen {
            let Some(q) = self.shown(&s.place) else { continue };
            let error = [s.at[0] - q[0], s.at[1] - q[1]];
            let weight = 1.0 / f64::hypot(error[0], error[1]).max(1.0);
            let mut whole = true;
            for (k, other) in beside.iter().enumerate() {
                let h = if k >= 7 { 1e-3 } else { H };
                match other.shown(&s.place) {
                    Some(o) => row[k] = [(o[0] - q[0]) / h, (o[1] - q[1]) / h],
                    None => whole = false,
                }
            }
            if !whole {
                continue;
            }
            for a in 0..n {
                for b in 0..=a {
                    normal[(a, b)] += weight * (row[a][0] * row[b][0] + row[a][1] * row[b][1]);
                }
                slope[a] += weight * (row[a][0] * error[0] + row[a][1] * error[1]);
            }
        }
        for a in 0..n {
            for b in a + 1..n {
                normal[(a, b)] = normal[(b, a)];
            }
        }
        (normal, slope)
    }
}

fn in_world_space(seen: &[Seen], display: Window) -> Option<Solved> {
    let first = direct(seen)?;
    // Places at rims may be of neither surface: the better part counts.
    let mut apart = first.apart(seen);
    let most = (median(&mut apart.clone()) * 4.0).max(0.5);
    let kept: Vec<Seen> = seen.iter().zip(&apart).filter(|(_, d)| **d < most).map(|(s, _)| *s).collect();
    let start = if kept.len() * 2 > seen.len() { direct(&kept).unwrap_or(first) } else { first };
    let centred = Pinhole { centre: middle(display), ..start }.refined(seen, false);
    let left = |p: &Pinhole| median(&mut p.apart(seen));
    // A lens that is shifted off the middle is rare: it must fit clearly better.
    let free = start.refined(seen, true);
    let best = if left(&free) < 0.5 * left(&centred) - 0.01 { free } else { centred };
    apart = best.apart(seen);
    let residual = median(&mut apart);
    if residual > BELIEVED || !close(&apart) {
        return None;
    }
    // Into x right, y up, z toward the viewer.
    let sides = [1.0, -1.0, -1.0];
    let rows = std::array::from_fn(|i| {
        let (r, c) = (i / 4, i % 4);
        (sides[r] * if c < 3 { best.turn[(r, c)] } else { best.shift[r] }) as f32
    });
    let camera = Camera {
        focal: best.focal as f32,
        centre_x: best.centre[0] as f32,
        centre_y: best.centre[1] as f32,
        world: Some(rows),
    };
    camera.is_sound().then_some(Solved { camera, axes: None, residual: residual as f32 })
}

/// The direct linear transform: on places and picture points moved to their middles and scaled.
fn direct(seen: &[Seen]) -> Option<Pinhole> {
    let n = seen.len() as f64;
    let middle = seen.iter().map(|s| s.place).sum::<Vector3<f64>>() / n;
    let size = seen.iter().map(|s| (s.place - middle).norm()).sum::<f64>() / n;
    let at = [0, 1].map(|c| seen.iter().map(|s| s.at[c]).sum::<f64>() / n);
    let wide = seen.iter().map(|s| f64::hypot(s.at[0] - at[0], s.at[1] - at[1])).sum::<f64>() / n;
    if !(size > 0.0 && wide > 0.0 && size.is_finite()) {
        return None;
    }
    let mut products = SMatrix::<f64, 12, 12>::zeros();
    for s in seen {
        let p = (s.place - middle) / size;
        let (u, v) = ((s.at[0] - at[0]) / wide, (s.at[1] - at[1]) / wide);
        let h = [p.x, p.y, p.z, 1.0];
        let (mut a, mut b) = (SVector::<f64, 12>::zeros(), SVector::<f64, 12>::zeros());
        for k in 0..4 {
            (a[k], a[8 + k]) = (h[k], -u * h[k]);
            (b[4 + k], b[8 + k]) = (h[k], -v * h[k]);
        }
        products += a * a.transpose() + b * b.transpose();
    }
    let eigen = products.symmetric_eigen();
    let mut order: Vec<usize> = (0..12).collect();
    order.sort_by(|a, b| eigen.eigenvalues[*a].total_cmp(&eigen.eigenvalues[*b]));
    // Places on one plane leave more than one answer.
    if eigen.eigenvalues[order[1]] < 1e-9 * eigen.eigenvalues[order[11]] {
        return None;
    }
    let q = eigen.eigenvectors.column(order[0]);
    let own = Matrix3x4::from_fn(|r, c| q[4 * r + c]);
    // Back from what was moved and scaled.
    let picture = Matrix3::new(wide, 0.0, at[0], 0.0, wide, at[1], 0.0, 0.0, 1.0);
    let mut world = nalgebra::Matrix4::identity() / size;
    world[(3, 3)] = 1.0;
    (0..3).for_each(|r| world[(r, 3)] = -middle[r] / size);
    split(picture * own * world, seen)
}

/// A projection into pinhole and pose; pixels must be nearly square.
fn split(mut p: Matrix3x4<f64>, seen: &[Seen]) -> Option<Pinhole> {
    // What is seen lies in front.
    let depth = |s: &Seen| p[(2, 0)] * s.place.x + p[(2, 1)] * s.place.y + p[(2, 2)] * s.place.z + p[(2, 3)];
    if seen.iter().filter(|s| depth(s) < 0.0).count() * 2 > seen.len() {
        p = -p;
    }
    let m: Matrix3<f64> = p.fixed_view::<3, 3>(0, 0).into();
    // Upper triangle times rotation: the QR split of the matrix turned over both ways.
    let over = Matrix3::new(0.0, 0.0, 1.0, 0.0, 1.0, 0.0, 1.0, 0.0, 0.0);
    let qr = (over * m).transpose().qr();
    let (mut k, mut turn) = (over * qr.r().transpose() * over, over * qr.q().transpose());
    let signs =
        Matrix3::from_diagonal(&Vector3::new(k[(0, 0)].signum(), k[(1, 1)].signum(), k[(2, 2)].signum()));
    (k, turn) = (k * signs, signs * turn);
    let scale = k[(2, 2)];
    if scale.abs() < 1e-300 {
        return None;
    }
    let (fx, fy) = (k[(0, 0)] / scale, k[(1, 1)] / scale);
    if !(fx > 0.0 && fy > 0.0 && (0.5..2.0).contains(&(fx / fy))) {
        return None;
    }
    let shift = k.try_inverse()? * p.column(3);
    let pinhole =
        Pinhole { focal: (fx * fy).sqrt(), centre: [k[(0, 2)] / scale, k[(1, 2)] / scale], turn, shift };
    pinhole.focal.is_finite().then_some(pinhole)
}

/// Focal length on a sensor 36 mm wide, for people.
pub fn lens_mm(camera: &Camera, display: Window) -> f32 {
    camera.focal / display.width.max(1) as f32 * 36.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::{Quat, Vec2};

    const W: Window = Window::of_size(160, 90);

    /// Places of balls and a floor, in camera space.
    fn places(camera: &Camera) -> Raster {
        let z = |x: i32, y: i32| 5.0 + ((x / 20) * 7 % 5) as f32 + 0.01 * y as f32 + ((y / 30) % 2) as f32;
        Raster::from_fn(W, 3, |c, x, y| {
            if x < 9 {
                return 0.0;
            }
            camera.unproject(Vec2::new(x as f32 + 0.5, y as f32 + 0.5), z(x, y))[c]
        })
    }

    fn mapped(r: &Raster, f: impl Fn(Vec3) -> Vec3) -> Raster {
        Raster::from_fn(W, 3, |c, x, y| {
            let v = Vec3::from_slice(&r.pixel(x, y).unwrap());
            if v == Vec3::ZERO { 0.0 } else { f(v)[c] }
        })
    }

    const OWN: Camera = Camera { focal: 190.0, centre_x: 80.0, centre_y: 45.0, world: None };

    #[test]
    fn camera_space_is_known_on_any_axes() {
        let own = places(&OWN);
        for axes in all_axes() {
            // What reading by these axes would undo.
            let stored = mapped(&own, |v| {
                let mut out = Vec3::ZERO;
                axes.iter().enumerate().for_each(|(j, a)| out[a.parts().0] = v[j] * a.parts().1);
                out
            });
            let solved = camera(&stored, W).unwrap();
            assert_eq!(solved.axes, Some(axes));
            assert!((solved.camera.focal - 190.0).abs() < 1e-2 && solved.residual < 1e-3, "{solved:?}");
        }
    }

    #[test]
    fn a_camera_anywhere_in_any_unit_comes_back() {
        for (unit, mirrored) in [(1.0, false), (1e-3, false), (1e3, true)] {
            let turn = Quat::from_rotation_y(0.7) * Quat::from_rotation_x(-0.4) * Quat::from_rotation_z(0.2);
            let eye = Vec3::new(30.0, -4.0, 11.0) * unit;
            let side = if mirrored { Vec3::new(-1.0, 1.0, 1.0) } else { Vec3::ONE };
            let stored = mapped(&places(&OWN), |v| (turn * (v * unit)) * side + eye);
            let solved = camera(&stored, W).unwrap();
            assert!(solved.axes.is_none() && solved.residual < 0.01, "{solved:?}");
            assert!((solved.camera.focal / 190.0 - 1.0).abs() < 2e-4, "{solved:?}");
            let (a, b) =
                (Vec3::from_slice(&stored.pixel(50, 40).unwrap()), places(&OWN).pixel(50, 40).unwrap());
            let want = Vec3::from_slice(&b) * unit;
            assert!(solved.place(a).distance(want) < 2e-3 * want.length(), "{} {want}", solved.place(a));
        }
    }

    #[test]
    fn a_shifted_lens_is_seen_and_what_is_no_position_pass_is_refused() {
        let shifted = Camera { centre_x: 92.0, ..OWN };
        let stored = mapped(&places(&shifted), |v| Quat::from_rotation_y(0.5) * v + Vec3::X * 7.0);
        let solved = camera(&stored, W).unwrap();
        assert!((solved.camera.centre_x - 92.0).abs() < 0.05 && solved.residual < 0.01, "{solved:?}");
        let noise = Raster::from_fn(W, 3, |c, x, y| ((x * 31 + y * 17 + c as i32 * 7) % 23) as f32 - 11.0);
        assert_eq!(camera(&noise, W), None);
        assert_eq!(camera(&Raster::zeros(W, 3), W), None);
        assert_eq!(camera(&Raster::filled(W, 3, 1e10), W), None);
    }
}
