//! Normals from height, and from positions.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec3;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How slopes are measured.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Derivative {
    /// The two neighbours alone: the sharpest.
    Central,
    /// 3×3, weights 1 2 1 (Sobel).
    #[default]
    Sobel,
    /// 3×3, weights 3 10 3 (Scharr): the most even in all directions.
    Scharr,
    /// 5×5: the calmest.
    Wide,
}

impl Derivative {
    /// Weights across, and half of those along (from 1 px out); along they are odd.
    fn weights(self) -> (&'static [f32], &'static [f32]) {
        match self {
            Self::Central => (&[1.0], &[0.5]),
            Self::Sobel => (&[0.25, 0.5, 0.25], &[0.5]),
            Self::Scharr => (&[3.0 / 16.0, 10.0 / 16.0, 3.0 / 16.0], &[0.5]),
            // A binomial across and its derivative along.
            Self::Wide => {
                (&[1.0 / 16.0, 4.0 / 16.0, 6.0 / 16.0, 4.0 / 16.0, 1.0 / 16.0], &[2.0 / 8.0, 1.0 / 8.0])
            }
        }
    }
}

/// How a height becomes normals.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FromHeight {
    /// Height of a step of 1, px.
    pub strength: f32,
    /// How slopes are measured.
    pub kernel: Derivative,
    /// Whether the map repeats; else its edge is held.
    pub tileable: bool,
    /// Whether y runs down in the normals (a map for tools that want it so).
    pub y_down: bool,
}

/// `n = normalize(−k ∂h/∂x, +k ∂h/∂y, 1)` with y down in storage; a flat height gives (0, 0, 1).
///
/// # Errors
/// A height without exactly one channel; cancellation.
pub fn from_height(height: &Raster, how: FromHeight, cancel: &Cancel) -> Result<Raster, KernelError> {
    height.expect_channels("height", 1)?;
    let window = height.window();
    let mut out = Raster::zeros(window, 3);
    if window.is_empty() {
        return Ok(out);
    }
    let (across, along) = how.kernel.weights();
    // Along, a kernel reaches at least as far as across.
    let (middle, half) = (across.len() / 2, along.len());
    let h = i64::from(window.height);
    let hold = |v: i64, n: i64| if how.tileable { v.rem_euclid(n) } else { v.clamp(0, n - 1) };
    let k = [-how.strength, if how.y_down { -how.strength } else { how.strength }];
    for_each_band(&mut out, cancel, |band| {
        // Weighed down the columns first: what is left to do is along two rows.
        let (mut even, mut odd) = (Vec::new(), Vec::new());
        for y in band.window().rows() {
            let v = i64::from(y - window.y);
            let row = |d: usize, sign: i64| height.row(0, window.y + hold(v + sign * d as i64, h) as i32);
            for (line, of_pairs) in [(&mut even, false), (&mut odd, true)] {
                line.clear();
                line.resize(window.width as usize + 2 * half, 0.0);
                let inner = &mut line[half..][..window.width as usize];
                if !of_pairs {
                    add_pair(inner, [across[middle], 0.0], row(0, 1), row(0, 1));
                }
                for d in 1..=half {
                    let weights = match of_pairs {
                        true => [along[d - 1], -along[d - 1]],
                        false => [across.get(middle + d).copied().unwrap_or(0.0); 2],
                    };
                    add_pair(inner, weights, row(d, 1), row(d, -1));
                }
                carry_on(line, half, how.tileable);
            }
            let [nx, ny, nz] = band.rows(y);
            normal_row([&even, &odd], (across, along), k, [nx, ny, nz]);
        }
    })?;
    Ok(out)
}

/// Adds two rows, each by its weight.
#[multiversion::multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn add_pair(out: &mut [f32], weights: [f32; 2], a: &[f32], b: &[f32]) {
    let (a, b) = (&a[..out.len()], &b[..out.len()]);
    for (i, v) in out.iter_mut().enumerate() {
        *v += weights[0] * a[i] + weights[1] * b[i];
    }
}

/// Fills `half` values at both ends of a line: with the other end where it repeats, else with its own.
fn carry_on(line: &mut [f32], half: usize, repeats: bool) {
    let width = line.len() - 2 * half;
    for d in 1..=half {
        let (before, after) = match repeats {
            true => (half + (width - 1) - (d - 1) % width, half + (d - 1) % width),
            false => (half, half + width - 1),
        };
        (line[half - d], line[half + width - 1 + d]) = (line[before], line[after]);
    }
}

/// Normals of a row, from what was weighed down the columns: evenly, and as a difference.
#[multiversion::multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn normal_row(lines: [&[f32]; 2], weights: (&[f32], &[f32]), strength: [f32; 2], out: [&mut [f32]; 3]) {
    let [nx, ny, nz] = out;
    let (n, half) = (nx.len(), weights.1.len());
    let (ny, nz) = (&mut ny[..n], &mut nz[..n]);
    let part = |line: usize, from: usize| &lines[line][from..from + n];
    nx.fill(0.0);
    ny.fill(0.0);
    for (d, b) in (1..).zip(weights.1) {
        let (right, left) = (part(0, half + d), part(0, half - d));
        for i in 0..n {
            nx[i] += b * (right[i] - left[i]);
        }
    }
    for (k, a) in (half - weights.0.len() / 2..).zip(weights.0) {
        let line = part(1, k);
        for i in 0..n {
            ny[i] += a * line[i];
        }
    }
    for i in 0..n {
        let (x, y) = (strength[0] * nx[i], strength[1] * ny[i]);
        let square = x * x + y * y + 1.0;
        // What is no number, or steeper than any surface, says nothing.
        let known = square < f32::MAX;
        let long = if known { square.sqrt() } else { 1.0 };
        nx[i] = if known { x / long } else { 0.0 };
        ny[i] = if known { y / long } else { 0.0 };
        nz[i] = 1.0 / long;
    }
}

/// Normals from positions (camera space): the cross product of their differences, on each axis from the side with the
/// smaller step of depth, so that no edge is bridged. Facing the viewer; zero where there is no position.
///
/// # Errors
/// Positions without exactly three channels; cancellation.
pub fn from_positions(positions: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    positions.expect_channels("position", 3)?;
    let mut out = Raster::zeros(positions.window(), 3);
    let at = |x: i32, y: i32| {
        let p = Vec3::new(positions.sample(0, x, y)?, positions.sample(1, x, y)?, positions.sample(2, x, y)?);
        (p.is_finite() && p.z < 0.0).then_some(p)
    };
    for_each_band(&mut out, cancel, |band| {
        let window = band.window();
        for y in window.rows() {
            let [nx, ny, nz] = band.rows(y);
            for (i, x) in (window.x..window.right() as i32).enumerate() {
                let Some(p) = at(x, y) else { continue };
                let right = nearer(p, at(x + 1, y).map(|q| q - p), at(x - 1, y).map(|q| p - q));
                let up = nearer(p, at(x, y - 1).map(|q| q - p), at(x, y + 1).map(|q| p - q));
                let n = match (right, up) {
                    (Some(right), Some(up)) => right.cross(up).try_normalize(),
                    _ => None,
                };
                // A lone pixel can only be taken to face the viewer.
                let n = n.unwrap_or_else(|| (-p).normalize());
                let n = if n.dot(p) > 0.0 { -n } else { n };
                (nx[i], ny[i], nz[i]) = (n.x, n.y, n.z);
            }
        }
    })?;
    Ok(out)
}

/// Of the differences to both sides the one with the smaller step of depth; where both are much alike, their mean, which
/// is exact to the second order.
fn nearer(p: Vec3, a: Option<Vec3>, b: Option<Vec3>) -> Option<Vec3> {
    match (a, b) {
        (Some(a), Some(b)) => {
            let (da, db) = (a.z.abs(), b.z.abs());
            let alike = (a.z - b.z).abs() < 0.1 * (da + db) + 1e-5 * p.z.abs();
            Some(if alike {
                0.5 * (a + b)
            } else if da <= db {
                a
            } else {
                b
            })
        }
        (a, b) => a.or(b),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Camera, Scale, Window};

    const ALL: [Derivative; 4] =
        [Derivative::Central, Derivative::Sobel, Derivative::Scharr, Derivative::Wide];
    const W: Window = Window::new(-3, 2, 64, 48);

    fn go(h: &Raster, kernel: Derivative, tileable: bool) -> Raster {
        from_height(h, FromHeight { strength: 2.0, kernel, tileable, y_down: false }, &Cancel::new()).unwrap()
    }

    fn at(n: &Raster, x: i32, y: i32) -> Vec3 {
        Vec3::from_slice(&n.pixel(x, y).unwrap())
    }

    #[test]
    fn a_tilted_plane_has_its_closed_form_and_a_flat_one_faces_the_viewer() {
        // Rising to the right and (y runs down) toward the top.
        let h = Raster::from_fn(W, 1, |_, x, y| 0.3 * x as f32 - 0.2 * y as f32);
        let want = Vec3::new(-0.6, -0.4, 1.0).normalize();
        for kernel in ALL {
            assert!((at(&go(&h, kernel, false), 20, 20) - want).length() < 1e-5, "{kernel:?}");
            assert_eq!(at(&go(&Raster::filled(W, 1, 0.7), kernel, true), 5, 5), Vec3::Z);
        }
        let down = FromHeight { strength: 2.0, kernel: Derivative::Sobel, tileable: false, y_down: true };
        let n = at(&from_height(&h, down, &Cancel::new()).unwrap(), 20, 20);
        assert!((n - want * Vec3::new(1.0, -1.0, 1.0)).length() < 1e-5);
    }

    #[test]
    fn a_hemisphere_and_a_sine_have_theirs() {
        let w = Window::of_size(401, 401);
        let r = 180.0f32;
        let h = Raster::from_fn(w, 1, |_, x, y| {
            (r * r - (x as f32 - 200.0).powi(2) - (y as f32 - 200.0).powi(2)).max(0.0).sqrt()
        });
        let how = FromHeight { strength: 1.0, kernel: Derivative::Scharr, tileable: false, y_down: false };
        let n = from_height(&h, how, &Cancel::new()).unwrap();
        for (x, y) in [(200, 200), (280, 200), (150, 260), (250, 120)] {
            let want = Vec3::new((x - 200) as f32, -(y - 200) as f32, h.sample(0, x, y).unwrap()) / r;
            assert!((at(&n, x, y) - want).length() < 2e-4, "{x} {y}: {} {want}", at(&n, x, y));
        }
        let k = std::f32::consts::TAU / 64.0;
        let h = Raster::from_fn(W, 1, |_, x, _| 3.0 * (k * x as f32).sin());
        let n = go(&h, Derivative::Central, true);
        for x in [-3, 10, 30, 60] {
            // Central differences see sin(k) instead of k of the slope.
            let slope = 2.0 * 3.0 * k.sin() * (k * x as f32).cos();
            assert!((at(&n, x, 9) - Vec3::new(-slope, 0.0, 1.0).normalize()).length() < 1e-5, "{x}");
        }
    }

    #[test]
    fn a_map_that_repeats_has_no_seam() {
        let k = std::f32::consts::TAU / 48.0;
        let h = Raster::from_fn(W, 1, |_, _, y| (k * y as f32).sin());
        for kernel in ALL {
            let n = go(&h, kernel, true);
            // The first row stands where the one 48 below would.
            assert!((at(&n, 5, 2) - at(&n, 40, 2)).length() < 1e-6);
            let slope = |y: f32| (k * y).cos();
            assert!(at(&n, 5, 2).y * slope(2.0) > 0.0 && at(&n, 5, 49).y * slope(49.0) > 0.0, "{kernel:?}");
            assert!((at(&n, 5, 2).y - at(&n, 5, 49).y).abs() < 0.02, "{kernel:?}");
        }
    }

    #[test]
    fn positions_of_a_plane_and_a_ball_give_their_normals_and_edges_are_not_bridged() {
        let camera = Camera { focal: 90.0, centre_x: 40.0, centre_y: 30.0, world: None };
        let w = Window::of_size(80, 60);
        let tilted = Vec3::new(0.3, 0.4, 0.866).normalize();
        // A tilted plane at the left, a wall far behind at the right: 1/Z is straight across the picture.
        let depth = Raster::from_fn(w, 1, |_, x, y| {
            if x >= 40 {
                return 20.0;
            }
            let ray = camera.unproject(glam::Vec2::new(x as f32 + 0.5, y as f32 + 0.5), 1.0);
            -5.0 * tilted.z / tilted.dot(ray)
        });
        let p = camera.positions(&depth, Scale::FULL, &Cancel::new()).unwrap();
        let n = from_positions(&p, &Cancel::new()).unwrap();
        for (x, y, want) in
            [(10, 10, tilted), (39, 30, tilted), (38, 59, tilted), (40, 30, Vec3::Z), (79, 0, Vec3::Z)]
        {
            assert!((at(&n, x, y) - want).length() < 2e-3, "{x} {y}: {} {want}", at(&n, x, y));
        }
        let mut hole = depth.clone();
        hole.row_mut(0, 20)[20] = f32::INFINITY;
        let p = camera.positions(&hole, Scale::FULL, &Cancel::new()).unwrap();
        let n = from_positions(&p, &Cancel::new()).unwrap();
        assert_eq!(at(&n, 20, 20), Vec3::ZERO);
        assert!((at(&n, 21, 20) - tilted).length() < 2e-3);
    }
}
