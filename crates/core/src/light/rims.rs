//! Added light brought to the picture's own soft edges.
//!
//! Passes hold one surface per pixel; the picture mixes the surfaces that share a pixel. Light computed
//! from passes therefore ends on a stair where the picture's edge is smooth, and leaves out the part of a
//! rim pixel whose centre just missed the surface. *Own derivation*: at a rim, the pixel is taken apart into the surface
//! at its centre and the others around it. How much of it the surface covers is told by the picture's own colours there
//! ([`crate::colour::unmix`]), and where both sides look alike by the shape of the edge. The light is mixed by the same
//! shares.

use crate::colour::unmix::{Around, near_share, parted, square};
use crate::light::beside::{dot, with_beside};
use crate::light::relight::Surface;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};

/// How far around a pixel is looked, px.
pub const REACH: u32 = COLOURS as u32 + 1;

/// How far around a rim the colours of its sides are looked for, px.
const COLOURS: i32 = 2;

/// Two neighbours whose normals have a smaller cosine than this (41°) lie on different facets.
const FACET: f32 = 0.75;

/// Two neighbours whose depths differ by more than this share lie on different surfaces. A plane seen so
/// steeply that its own pixels differ as much is one that a soft pixel does no harm to.
const STEP: f32 = 0.02;

/// Weights of the tent by squared distance: middle, side, corner.
const TENT: [f32; 3] = [4.0, 2.0, 1.0];

/// How much of what a tent gives to the other side a pixel's own box gives it: beside a straight edge that lies anywhere
/// between two pixels' centres, the box covers an eighth on the mean where the tent says a quarter.
const BOX: f32 = 0.5;

/// What [`covers`] has where a pixel is no rim.
const NO_RIM: f32 = -1.0;

/// How much of each pixel of a rim the surface at its centre covers (0..1), told from `picture` (RGBA premultiplied) and the
/// shape of the edge; below 0 elsewhere. One plane. No lamp changes it.
///
/// All on one window; the result is exact where that has [`REACH`] px more than is wanted.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn covers(surface: Surface<'_>, picture: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    expect(surface, picture)?;
    let window = picture.window();
    let rims = rims(surface, cancel)?;
    let sides = Sides { surface, size: size(window) };
    let mut out = Raster::filled(window, 1, NO_RIM);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let row = y - window.y;
            for (i, cover) in band.row(0, y).iter_mut().enumerate() {
                let at = row as usize * window.width as usize + i;
                if rims.plane(0)[at] > 0.0 {
                    *cover = sides.cover(picture, rims.plane(0), [i as i32, row], at);
                }
            }
        }
    })?;
    Ok(out)
}

/// Softens `light` (RGBA premultiplied, as [`crate::light::relight::relight_into`] writes it for this surface) at
/// rims, whose `covers` the picture told that it is added to: where two surfaces meet, the light of both is mixed; a
/// covered pixel without a surface of its own takes the light of those beside it. Everywhere else every bit stays.
///
/// All on one window; the result is exact where that has a px more than is wanted.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn soften(
    light: &Raster,
    surface: Surface<'_>,
    covers: &Raster,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let window = light.window();
    expect(surface, light)?;
    covers.expect_channels("covers", 1)?;
    covers.expect_window("covers", window)?;
    let sides = Sides { surface, size: size(window) };
    let mut out = light.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (cover, alpha) = (covers.row(0, y), light.row(3, y));
            for i in 0..alpha.len() {
                if cover[i] >= 0.0 && alpha[i] > 0.0 {
                    let mixed = sides.mix(light, [i as i32, y - window.y], cover[i]);
                    for (c, v) in mixed.into_iter().enumerate() {
                        band.row(c, y)[i] = v * alpha[i];
                    }
                }
            }
        }
    })?;
    Ok(out)
}

/// A surface and RGBA on one window.
fn expect(surface: Surface<'_>, rgba: &Raster) -> Result<(), KernelError> {
    let window = rgba.window();
    rgba.expect_channels("picture", 4)?;
    surface.normal.expect_channels("normals", 3)?;
    surface.normal.expect_window("normals", window)?;
    if let Some(p) = surface.position {
        p.expect_channels("position", 3)?;
        p.expect_window("position", window)?;
    }
    Ok(())
}

/// Columns and rows.
fn size(window: Window) -> [i32; 2] {
    [window.width as i32, window.height as i32]
}

fn is_surface(normal: [f32; 3]) -> bool {
    dot(normal, normal) > 0.25
}

/// 1 where light of more than one surface belongs to a pixel, 0 elsewhere.
fn rims(surface: Surface<'_>, cancel: &Cancel) -> Result<Raster, KernelError> {
    let Surface { normal, position, .. } = surface;
    let mut out = Raster::zeros(normal.window(), 1);
    // Without positions no step tells one surface from another.
    let (places, step) = position.map_or((normal, f32::INFINITY), |p| (p, STEP));
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let n = normal.rows::<3>(y);
            let rims = band.row(0, y);
            for (i, rim) in rims.iter_mut().enumerate() {
                *rim = f32::from(!is_surface(n.map(|n| n[i])));
            }
            let row = (y - normal.window().y) as usize;
            for way in [(-1, 0), (1, 0), (0, -1), (0, 1)] {
                with_beside(normal, places, row, way, rims, |rim, [here, there], [p, q]| {
                    let other = (dot(here, there) < FACET) | ((p[2] - q[2]).abs() > step * p[2].abs());
                    *rim = rim.max(f32::from(is_surface(there) & other));
                });
            }
        }
    })?;
    Ok(out)
}

/// The values of a pixel.
fn values<const N: usize>(of: &Raster, at: usize) -> [f32; N] {
    std::array::from_fn(|c| of.plane(c)[at])
}

/// The surfaces around a pixel: that at its centre, and all others. Pixels by their place in a plane.
struct Sides<'a> {
    surface: Surface<'a>,
    size: [i32; 2],
}

impl Sides<'_> {
    /// Whether there is a surface.
    fn is_there(&self, at: usize) -> bool {
        is_surface(values(self.surface.normal, at))
    }

    /// Whether two pixels show one surface.
    fn alike(&self, a: usize, b: usize) -> bool {
        let step = |p: &Raster| {
            let [p, q] = [a, b].map(|at| p.plane(2)[at]);
            (p - q).abs() <= 2.0 * STEP * p.abs().max(q.abs())
        };
        let [n, m] = [a, b].map(|at| values(self.surface.normal, at));
        dot(n, m) >= FACET && self.surface.position.is_none_or(step)
    }

    /// Straight light mixed over the surfaces around a pixel, of which the one at its centre has so much; zero where there is
    /// none.
    fn mix(&self, light: &Raster, at: [i32; 2], cover: f32) -> [f32; 3] {
        let centre = (at[1] * self.size[0] + at[0]) as usize;
        let own = |j: usize| self.is_there(centre) && self.alike(centre, j);
        let (mut sums, mut weights) = ([[0.0; 3]; 2], [0.0; 2]);
        for (j, far) in square(self.size, at, 1) {
            let [.., alpha] = values::<4>(light, j);
            if alpha <= 0.0 || !self.is_there(j) {
                continue;
            }
            let (side, weight) = (usize::from(!own(j)), TENT[far as usize]);
            for (s, v) in sums[side].iter_mut().zip(values::<3>(light, j)) {
                *s += weight * v / alpha;
            }
            weights[side] += weight;
        }
        let mean = |side: usize| sums[side].map(|s| s / weights[side]);
        match weights.map(|w| w > 0.0) {
            [true, true] => {
                let [here, there] = [mean(0), mean(1)];
                std::array::from_fn(|c| cover * here[c] + (1.0 - cover) * there[c])
            }
            [true, false] => mean(0),
            [false, true] => mean(1),
            [false, false] => [0.0; 3],
        }
    }

    /// How much of a pixel the surface at its centre covers, beside the other surfaces around.
    fn cover(&self, picture: &Raster, rims: &[f32], at: [i32; 2], centre: usize) -> f32 {
        let mut around = Around::<4>::new();
        for (j, far) in square(self.size, at, COLOURS).filter(|(j, _)| *j != centre && self.is_there(*j)) {
            around.add((self.alike(centre, j), rims[j] > 0.0), values(picture, j), j, far);
        }
        // Where there is nothing, alpha has told its share already.
        let others = |j| self.is_there(j) && !self.alike(centre, j);
        let by_shape = 1.0 - BOX * near_share(self.size, at, others);
        around.both().map_or(by_shape, |both| parted(values(picture, centre), &both, by_shape).0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const W: Window = Window::new(-4, -4, 9, 9);

    fn softened(light: &Raster, surface: Surface<'_>, picture: &Raster) -> Raster {
        let covers = covers(surface, picture, &Cancel::new()).unwrap();
        soften(light, surface, &covers, &Cancel::new()).unwrap()
    }

    /// A lit surface below a diagonal in front of a dark one far behind.
    fn diagonal() -> (Raster, Raster, Raster) {
        let near = |x: i32, y: i32| x + y > 0;
        let normal = Raster::from_fn(W, 3, |c, _, _| [0.0, 0.0, 1.0][c]);
        let position = Raster::from_fn(W, 3, |c, x, y| [0.0, 0.0, if near(x, y) { -2.0 } else { -9.0 }][c]);
        let light = Raster::from_fn(W, 4, |c, x, y| if c == 3 || near(x, y) { 1.0 } else { 0.0 });
        (light, normal, position)
    }

    #[test]
    fn light_ends_where_the_picture_does_and_the_rest_keeps_every_bit() {
        let (light, normal, position) = diagonal();
        let surface = Surface { normal: &normal, position: Some(&position), albedo: None };
        // Of the pixels on either side of the stair the near surface covers that much.
        let cover = |x: i32, y: i32| [0.15, 0.65][(x + y) as usize];
        let picture = Raster::from_fn(W, 4, |c, x, y| {
            let share = if (0..=1).contains(&(x + y)) { cover(x, y) } else { f32::from(x + y > 0) };
            [0.1 + 0.5 * share, 0.2, 0.9 - 0.6 * share, 1.0][c]
        });
        let out = softened(&light, surface, &picture);
        for y in W.rows() {
            for x in W.x..W.x + 9 {
                let v = out.sample(0, x, y).unwrap();
                if !(0..=1).contains(&(x + y)) {
                    assert_eq!(v, light.sample(0, x, y).unwrap(), "{x} {y}");
                } else if x.abs() < 4 && y.abs() < 4 {
                    assert!((v - cover(x, y)).abs() < 0.03, "{x} {y}: {v}");
                }
            }
        }
    }

    #[test]
    fn where_both_sides_look_alike_the_shape_of_the_edge_tells() {
        let (light, normal, position) = diagonal();
        let surface = Surface { normal: &normal, position: Some(&position), albedo: None };
        let out = softened(&light, surface, &Raster::filled(W, 4, 0.5));
        // In the middle of the stair the tent has 11 of its 16 parts on the pixel's own side, the box half of the rest more.
        // What is told is the mean of all covers, each as likely as it lies near that: spread evenly within a half.
        let shape = 1.0 - 0.5 * 5.0 / 16.0;
        let likely = |k: i32| (-6.0 * (f64::from(k) / 16.0 - shape).powi(2)).exp();
        let (sum, all) =
            (0..=16).fold((0.0, 0.0), |(s, a), k| (s + likely(k) * f64::from(k) / 16.0, a + likely(k)));
        let own = sum / all;
        assert!(own > 0.7 && own < shape);
        for (x, want) in [(0, 1.0 - own), (1, own)] {
            let v = f64::from(out.sample(0, x, 0).unwrap());
            assert!((v - want).abs() < 1e-3, "{x}: {v} for {want}");
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
        let out = softened(&light, surface, &light);
        assert_eq!(out.pixel(-1, 0), Some(vec![0.8, 0.8, 0.8, 1.0]));
        assert!((out.sample(0, 0, 0).unwrap() - 0.2).abs() < 1e-6, "its share of the light");
        assert_eq!(out.pixel(1, 0), Some(vec![0.0; 4]));
    }
}
