//! An evenly lit grey surface: sky light, and how much of the sky each place sees.

use crate::depth::is_depth;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec3;
use std::f32::consts::FRAC_PI_2;

/// How clay is lit.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Clay {
    /// How far around a place things hide the sky, scene units.
    pub reach: f32,
    /// How strongly what is hidden darkens, 0..1 and above.
    pub occlusion: f32,
    /// How much more light comes from above (camera space) than from below, 0 all alike, 1 none from below.
    pub sky: f32,
    /// Reflectance.
    pub grey: f32,
    /// Directions in which the horizon is looked for.
    pub directions: u32,
}

/// Steps along each direction, closer together near the place.
const STEPS: i32 = 12;

/// What rises less than this over the tangent plane is the surface's own unevenness, sine.
const BIAS: f32 = 0.02;

/// Share of the sky that is open over each place, 0..1, cosine-weighted: in slices of the picture through the place the
/// horizon is looked for on both sides (Bavoil & Sainz 2008), and the light between both horizons is integrated in
/// closed form (Jiménez et al. 2016), against that of the open slice. Things count less with distance, and not beyond
/// `reach`. 1 where there is no surface.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn openness(
    normals: &Raster,
    positions: &Raster,
    focal: f32,
    how: &Clay,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    normals.expect_channels("normals", 3)?;
    positions.expect_channels("position", 3)?;
    positions.expect_window("position", normals.window())?;
    let mut out = Raster::filled(normals.window(), 1, 1.0);
    let sight = Sight { positions, focal, reach: how.reach };
    let slices = (how.directions / 2).clamp(1, 32);
    for_each_band(&mut out, cancel, |band| {
        let own = band.window();
        for y in own.rows() {
            let [nx, ny, nz] = normals.rows(y);
            for (i, v) in band.row(0, y).iter_mut().enumerate() {
                let x = own.x + i as i32;
                let n = Vec3::new(nx[i], ny[i], nz[i]);
                if let Some(p) = sight.at(x, y).filter(|_| n.length_squared() > 0.25) {
                    *v = sight.open((x, y), p, n.normalize(), slices);
                }
            }
        }
    })?;
    Ok(out)
}

struct Sight<'a> {
    positions: &'a Raster,
    focal: f32,
    reach: f32,
}

impl Sight<'_> {
    /// Position behind a pixel, if there is one.
    fn at(&self, x: i32, y: i32) -> Option<Vec3> {
        let window = self.positions.window();
        if !window.contains(x, y) {
            return None;
        }
        let i = (y - window.y) as usize * window.width as usize + (x - window.x) as usize;
        let p = Vec3::from_array(std::array::from_fn(|c| self.positions.plane(c)[i]));
        is_depth(-p.z).then_some(p)
    }

    /// Share of the sky over a place.
    fn open(&self, at: (i32, i32), p: Vec3, n: Vec3, slices: u32) -> f32 {
        let view = (-p).normalize();
        // Its own reach in px, kept within what a few steps can cover.
        let px = (self.reach * self.focal / -p.z).clamp(2.0, 300.0);
        let (turn, start) = hash(at.0, at.1);
        let (mut seen, mut all) = (0.0, 0.0);
        for k in 0..slices {
            let (sin, cos) = ((k as f32 + turn) / slices as f32 * std::f32::consts::PI).sin_cos();
            // The slice holds the view and a direction of the picture, whose y runs down.
            let along = Vec3::new(cos, -sin, 0.0);
            let axis = along.cross(view).normalize_or_zero();
            let flat = n - axis * n.dot(axis);
            let length = flat.length();
            if length < 1e-4 {
                continue;
            }
            let side = (along - view * along.dot(view)).dot(flat).signum();
            let tilt = side * (flat.dot(view) / length).clamp(-1.0, 1.0).acos();
            let horizons = [-1.0f32, 1.0].map(|way| {
                // Without anything in sight the tangent plane is the horizon.
                let lowest = (tilt + way * FRAC_PI_2).cos();
                let mut highest = lowest;
                for s in 1..=STEPS {
                    let far = px * ((s as f32 - start) / STEPS as f32).powf(1.5) * way;
                    let there = (at.0 + (cos * far).round() as i32, at.1 + (sin * far).round() as i32);
                    if there != at {
                        highest = highest.max(self.rises(p, n, view, there, lowest));
                    }
                }
                tilt + (way * highest.clamp(-1.0, 1.0).acos() - tilt).clamp(-FRAC_PI_2, FRAC_PI_2)
            });
            let light = |h: f32| 0.25 * (-(2.0 * h - tilt).cos() + tilt.cos() + 2.0 * h * tilt.sin());
            seen += length * (light(horizons[0]) + light(horizons[1]));
            all += length * (light(tilt - FRAC_PI_2) + light(tilt + FRAC_PI_2));
        }
        if all > 0.0 { (seen / all).clamp(0.0, 1.0) } else { 1.0 }
    }

    /// Cosine from the view up to which what lies behind a pixel hides the sky.
    fn rises(&self, p: Vec3, n: Vec3, view: Vec3, there: (i32, i32), lowest: f32) -> f32 {
        let Some(q) = self.at(there.0, there.1) else { return lowest };
        let to = q - p;
        let far = to.length();
        let falloff = 1.0 - (far / self.reach).powi(2);
        if far <= 0.0 || falloff <= 0.0 || to.dot(n) < BIAS * far {
            return lowest;
        }
        lowest + (to.dot(view) / far - lowest) * falloff
    }
}

/// Two numbers 0..1 from a pixel, so that the steps of neighbours differ and the answer is the same on every run.
fn hash(x: i32, y: i32) -> (f32, f32) {
    let mut v = (x as u32).wrapping_mul(0x9E37_79B1) ^ (y as u32).wrapping_mul(0x85EB_CA77);
    v ^= v >> 15;
    v = v.wrapping_mul(0x2C1B_3C6D);
    v ^= v >> 12;
    ((v & 0xFFFF) as f32 / 65_536.0, (v >> 16) as f32 / 65_536.0 * 0.9)
}

/// A clay picture (3 planes, linear): `grey · sky(n) · open^occlusion`, black where there is no surface. The light of a
/// sky that is brighter above than below on a matt surface is `1 + sky · n_y · ½` of the even one (a sky that runs evenly
/// from zenith to nadir; elementary integral, own derivation: `⅔` for such a sky, of which ¾ is taken as its contrast).
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn clay(
    normals: &Raster,
    open: Option<&Raster>,
    how: &Clay,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    normals.expect_channels("normals", 3)?;
    if let Some(open) = open {
        open.expect_channels("openness", 1)?;
        open.expect_window("openness", normals.window())?;
    }
    let mut out = Raster::zeros(normals.window(), 3);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let [nx, ny, nz] = normals.rows(y);
            let open = open.map(|o| o.row(0, y));
            let mut rows = band.rows::<3>(y);
            for i in 0..nx.len() {
                let n = Vec3::new(nx[i], ny[i], nz[i]);
                if n.length_squared().is_nan() || n.length_squared() < 0.25 {
                    continue;
                }
                let sky = 1.0 + 0.5 * how.sky * n.y;
                let seen = open.map_or(1.0, |o| o[i].max(0.0).powf(how.occlusion));
                rows.iter_mut().for_each(|r| r[i] = (how.grey * sky * seen).max(0.0));
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::surface::normals::from_positions;
    use crate::{Camera, Scale, Window};

    const HOW: Clay = Clay { reach: 1.0, occlusion: 1.0, sky: 0.0, grey: 0.5, directions: 12 };
    const W: Window = Window::of_size(160, 100);

    fn open(depth: &Raster) -> Raster {
        open_within(depth, 1.0)
    }

    fn open_within(depth: &Raster, reach: f32) -> Raster {
        let camera = Camera { focal: 150.0, centre_x: 80.0, centre_y: 50.0, world: None };
        let p = camera.positions(depth, Scale::FULL, &Cancel::new()).unwrap();
        let n = from_positions(&p, &Cancel::new()).unwrap();
        openness(&n, &p, 150.0, &Clay { reach, ..HOW }, &Cancel::new()).unwrap()
    }

    #[test]
    fn a_wall_sees_all_of_the_sky_and_a_corner_less() {
        let wall = open(&Raster::filled(W, 1, 4.0));
        assert!(wall.plane(0).iter().all(|v| *v > 0.999));
        // Two walls that meet in a hollow right angle at x = 80 px.
        let corner = Raster::from_fn(W, 1, |_, x, _| {
            let ray = (x as f32 + 0.5 - 80.0).abs() / 150.0;
            4.0 / (1.0 + ray)
        });
        let o = open(&corner);
        let mean = |x: i32| (30..70).map(|y| o.sample(0, x, y).unwrap()).sum::<f32>() / 40.0;
        assert!(mean(82) < mean(100) && mean(140) > 0.97, "{} {} {}", mean(82), mean(100), mean(140));
        // With all of the other wall in reach, a place beside the edge loses the half of its sky that the wall takes
        // (cosine-weighted, closed form for endless walls: ½), but for what the frame cuts off.
        let far = open_within(&corner, 40.0);
        let beside = (30..70).map(|y| far.sample(0, 82, y).unwrap()).sum::<f32>() / 40.0;
        assert!((0.5..0.62).contains(&beside), "{beside}");
        // Turned round it is a ridge, and sees everything.
        let ridge =
            Raster::from_fn(W, 1, |_, x, _| 4.0 / (1.0 - 0.9 * (x as f32 + 0.5 - 80.0).abs() / 150.0));
        assert!(open(&ridge).sample(0, 82, 50).unwrap() > 0.99);
    }

    #[test]
    fn clay_is_lighter_above_and_black_where_nothing_is() {
        let n = Raster::from_fn(Window::of_size(3, 1), 3, |c, x, _| {
            [[0.0, 1.0, 0.0], [0.0, -1.0, 0.0], [0.0; 3]][x as usize][c]
        });
        let c = clay(&n, None, &Clay { sky: 1.0, ..HOW }, &Cancel::new()).unwrap();
        assert_eq!([0, 1, 2].map(|x| c.sample(1, x, 0).unwrap()), [0.75, 0.25, 0.0]);
    }
}
