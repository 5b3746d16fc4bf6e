//! Added light brought to the picture's own soft edges.
//!
//! Passes hold one surface per pixel; the picture mixes the surfaces that share a pixel. Light computed
//! from passes therefore ends on a stair where the picture's edge is smooth, and leaves out the part of a
//! rim pixel whose centre just missed the surface. *Own derivation*: at a rim, the mix of a pixel is
//! estimated by a 3×3 tent over the surfaces around it, since that is the coverage which a tent-filtered
//! picture of the same surfaces would have.

use crate::light::beside::{dot, with_beside};
use crate::light::relight::Surface;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// Two neighbours whose normals have a smaller cosine than this (41°) lie on different facets.
const FACET: f32 = 0.75;

/// Two neighbours whose depths differ by more than this share lie on different surfaces. A plane seen so
/// steeply that its own pixels differ as much is one that a soft pixel does no harm to.
const STEP: f32 = 0.02;

/// Weights of the tent by distance: middle, side, corner.
const TENT: [f32; 3] = [4.0, 2.0, 1.0];

/// Softens `light` (RGBA premultiplied, as [`crate::light::relight::relight_into`] writes it for this surface) at
/// rims: where two surfaces meet, the light of both is mixed; a covered pixel without a surface of its own
/// takes the light of those beside it. Everywhere else every bit stays. Looks one px around.
///
/// All on one window; the result is exact where `light` and the surface cover one px more than is wanted.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn soften(light: &Raster, surface: Surface<'_>, cancel: &Cancel) -> Result<Raster, KernelError> {
    light.expect_channels("light", 4)?;
    surface.normal.expect_channels("normals", 3)?;
    surface.normal.expect_window("normals", light.window())?;
    if let Some(p) = surface.position {
        p.expect_channels("position", 3)?;
        p.expect_window("position", light.window())?;
    }
    let mut out = Raster::zeros(light.window(), 4);
    let near = Near { light, surface };
    for_each_band(&mut out, cancel, |band| {
        let mut rims = vec![false; light.window().width as usize];
        for y in band.window().rows() {
            near.rims(y, &mut rims);
            for c in 0..4 {
                band.row(c, y).copy_from_slice(light.row(c, y));
            }
            let alpha = light.row(3, y);
            for (i, (&a, &rim)) in alpha.iter().zip(&rims).enumerate() {
                if rim && a > 0.0 {
                    let mixed = near.mix(i, y);
                    for (c, v) in mixed.into_iter().enumerate() {
                        band.row(c, y)[i] = v * a;
                    }
                }
            }
        }
    })?;
    Ok(out)
}

fn is_surface(normal: [f32; 3]) -> bool {
    dot(normal, normal) > 0.25
}

struct Near<'a> {
    light: &'a Raster,
    surface: Surface<'a>,
}

impl Near<'_> {
    /// Column and row beside `(i, y)`, if inside.
    fn beside(&self, i: usize, y: i32, dx: i32, dy: i32) -> Option<(usize, i32)> {
        let w = self.light.window();
        let column = i.checked_add_signed(dx as isize).filter(|&c| c < w.width as usize)?;
        let row = y + dy;
        (row >= w.y && i64::from(row) < w.bottom()).then_some((column, row))
    }

    /// Whether there is a surface.
    fn is_there(&self, i: usize, y: i32) -> bool {
        is_surface(self.surface.normal.rows::<3>(y).map(|n| n[i]))
    }

    /// Whether light of more than one surface belongs to the pixels of a row.
    fn rims(&self, y: i32, rims: &mut [bool]) {
        let Surface { normal, position, .. } = self.surface;
        let n = normal.rows::<3>(y);
        for (i, rim) in rims.iter_mut().enumerate() {
            *rim = !is_surface(n.map(|n| n[i]));
        }
        // Without positions no step tells one surface from another.
        let (places, step) = position.map_or((normal, f32::INFINITY), |p| (p, STEP));
        let row = (y - normal.window().y) as usize;
        for way in [(-1, 0), (1, 0), (0, -1), (0, 1)] {
            with_beside(normal, places, row, way, rims, |rim, [here, there], [p, q]| {
                let other = (dot(here, there) < FACET) | ((p[2] - q[2]).abs() > step * p[2].abs());
                *rim |= is_surface(there) & other;
            });
        }
    }

    /// Straight light mixed over the surfaces around; zero where there is none.
    fn mix(&self, i: usize, y: i32) -> [f32; 3] {
        let (mut sum, mut weight) = ([0.0; 3], 0.0);
        for dy in -1..=1 {
            for dx in -1i32..=1 {
                let Some((j, row)) = self.beside(i, y, dx, dy) else { continue };
                let alpha = self.light.row(3, row)[j];
                if alpha <= 0.0 || !self.is_there(j, row) {
                    continue;
                }
                let w = TENT[(dx.abs() + dy.abs()) as usize];
                for (c, s) in sum.iter_mut().enumerate() {
                    *s += w * self.light.row(c, row)[j] / alpha;
                }
                weight += w;
            }
        }
        if weight > 0.0 { sum.map(|s| s / weight) } else { [0.0; 3] }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::new(-4, -4, 9, 9);

    /// A lit surface below a diagonal in front of a dark one far behind.
    fn diagonal() -> (Raster, Raster, Raster) {
        let near = |x: i32, y: i32| x + y > 0;
        let normal = Raster::from_fn(W, 3, |c, _, _| [0.0, 0.0, 1.0][c]);
        let position = Raster::from_fn(W, 3, |c, x, y| [0.0, 0.0, if near(x, y) { -2.0 } else { -9.0 }][c]);
        let light = Raster::from_fn(W, 4, |c, x, y| if c == 3 || near(x, y) { 1.0 } else { 0.0 });
        (light, normal, position)
    }

    #[test]
    fn stairs_become_ramps_and_the_rest_keeps_every_bit() {
        let (light, normal, position) = diagonal();
        let surface = Surface { normal: &normal, position: Some(&position), albedo: None };
        let out = soften(&light, surface, &Cancel::new()).unwrap();
        let at = |r: &Raster, x, y| r.sample(0, x, y).unwrap();
        for y in W.rows() {
            for x in W.x..W.x + 9 {
                let v = at(&out, x, y);
                if !(0..=1).contains(&(x + y)) {
                    assert_eq!(v, at(&light, x, y), "{x} {y}");
                } else if x.abs() < 4 && y.abs() < 4 {
                    // Middle of the stair: tent weights on the near side, of 16.
                    let want = if x + y == 0 { 5.0 / 16.0 } else { 11.0 / 16.0 };
                    assert!((v - want).abs() < 1e-6, "{x} {y}: {v}");
                }
            }
        }
    }

    #[test]
    fn a_covered_pixel_without_surface_takes_its_neighbours_light() {
        let normal = Raster::from_fn(W, 3, |c, x, _| if x < 0 && c == 2 { 1.0 } else { 0.0 });
        let alpha = |x: i32| [1.0, 0.25, 0.0][(x + 1).clamp(0, 2) as usize];
        let light = Raster::from_fn(W, 4, |c, x, _| {
            if c == 3 {
                alpha(x)
            } else if x < 0 {
                0.8 * alpha(x)
            } else {
                0.0
            }
        });
        let surface = Surface { normal: &normal, position: None, albedo: None };
        let out = soften(&light, surface, &Cancel::new()).unwrap();
        assert_eq!(out.pixel(-1, 0), Some(vec![0.8, 0.8, 0.8, 1.0]));
        assert!((out.sample(0, 0, 0).unwrap() - 0.2).abs() < 1e-6, "its share of the light");
        assert_eq!(out.pixel(1, 0), Some(vec![0.0; 4]));
    }
}
