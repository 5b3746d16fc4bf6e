//! Light added to a rendered surface.

use crate::bands::for_each_band;
use crate::brdf;
use crate::lamp::{Lamp, Place};
use crate::{Cancel, KernelError, Raster};
use glam::Vec3;
use std::f32::consts::FRAC_1_PI;

/// What is known of the surface behind each pixel, all on the picture's window.
#[derive(Clone, Copy, Debug)]
pub struct Surface<'a> {
    /// Unit normals, camera space; zero = no surface.
    pub normal: &'a Raster,
    /// Positions, camera space. Without them lamps are directional only and the viewer is at (0, 0, 1).
    pub position: Option<&'a Raster>,
    /// Surface colour (3 planes). Without it the picture itself stands in for it ("gain": the lamp
    /// multiplies what is there).
    pub albedo: Option<&'a Raster>,
}

/// How the surface answers the lamps.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Finish {
    /// Factor on the diffuse light.
    pub diffuse: f32,
    /// Light reaching round the terminator, 0..=1.
    pub wrap: f32,
    /// Reflectance seen head-on (F0), 0..=1; 0 leaves the highlight out. 0.04 is glass or varnish.
    pub specular: f32,
    /// Perceptual roughness of the highlight, 0..=1.
    pub roughness: f32,
}

/// Writes the light that `lamps` add: `L = (albedo/π · Σ E·cos + Σ E·GGX) · α`, RGBA premultiplied, with
/// the picture's alpha. Shadows are not cast.
///
/// `picture` is RGBA premultiplied; every raster lies on its window. Pixels without a surface get zero.
/// A point lamp without positions gives nothing.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn relight_into(
    out: &mut Raster,
    picture: &Raster,
    surface: Surface<'_>,
    lamps: &[Lamp],
    finish: Finish,
    cancel: &Cancel,
) -> Result<(), KernelError> {
    check(out, picture, surface)?;
    let width = picture.window().width as usize;
    let gloss = finish.specular > 0.0;
    for_each_band(out, cancel, |band| {
        let mut light = RowLight::new(width, gloss);
        for y in band.window().rows() {
            light.clear();
            let row = SurfaceRow {
                normal: surface.normal.rows(y),
                position: surface.position.map(|p| p.rows(y)),
            };
            for lamp in lamps {
                light.add(&row, lamp, finish);
            }
            let alpha = picture.row(3, y);
            let base: [&[f32]; 3] = surface.albedo.unwrap_or(picture).rows(y);
            // The picture's colour carries its coverage already; albedo does not.
            let covered = surface.albedo.is_none();
            let [r, g, b, a] = band.rows(y);
            for (c, o) in [r, g, b].into_iter().enumerate() {
                light.finish(c, o, base[c], alpha, covered, finish.diffuse);
            }
            a.copy_from_slice(alpha);
        }
    })?;
    Ok(())
}

fn check(out: &Raster, picture: &Raster, surface: Surface<'_>) -> Result<(), KernelError> {
    let window = picture.window();
    picture.expect_channels("picture", 4)?;
    out.expect_channels("result", 4)?;
    out.expect_window("result", window)?;
    for (what, raster) in [
        ("normals", Some(surface.normal)),
        ("position", surface.position),
        ("albedo", surface.albedo),
    ] {
        if let Some(raster) = raster {
            raster.expect_channels(what, 3)?;
            raster.expect_window(what, window)?;
        }
    }
    Ok(())
}

/// One row of the surface.
struct SurfaceRow<'a> {
    normal: [&'a [f32]; 3],
    position: Option<[&'a [f32]; 3]>,
}

/// Light gathered over one row: irradiance and mirrored radiance, RGB each.
struct RowLight {
    diffuse: [Vec<f32>; 3],
    gloss: Option<[Vec<f32>; 3]>,
    /// One lamp's diffuse and mirrored factor at each pixel, before its colour.
    factor: [Vec<f32>; 2],
}

impl RowLight {
    fn new(width: usize, gloss: bool) -> Self {
        let row = || vec![0.0; width];
        let rgb = || std::array::from_fn(|_| row());
        Self { diffuse: rgb(), gloss: gloss.then(rgb), factor: [row(), row()] }
    }

    fn clear(&mut self) {
        self.diffuse.iter_mut().chain(self.gloss.iter_mut().flatten()).for_each(|p| p.fill(0.0));
    }

    fn add(&mut self, row: &SurfaceRow<'_>, lamp: &Lamp, finish: Finish) {
        let gloss = self.gloss.is_some();
        match (lamp.place, row.position) {
            (Place::Directional { toward }, None) => {
                self.trace(row, finish, gloss, |_| (toward, 1.0, Vec3::Z));
            }
            (Place::Directional { toward }, Some(p)) => {
                self.trace(row, finish, gloss, |i| (toward, 1.0, view(p, i, gloss)));
            }
            (Place::Point { position }, Some(p)) => self.trace(row, finish, gloss, |i| {
                let to = position - Vec3::new(p[0][i], p[1][i], p[2][i]);
                let inverse = 1.0 / to.length_squared();
                (to * inverse.sqrt(), inverse, view(p, i, gloss))
            }),
            (Place::Point { .. }, None) => return,
        }
        for c in 0..3 {
            let power = lamp.power[c];
            for (sum, k) in self.diffuse[c].iter_mut().zip(&self.factor[0]) {
                *sum += power * k;
            }
            if let Some(gloss) = &mut self.gloss {
                for (sum, k) in gloss[c].iter_mut().zip(&self.factor[1]) {
                    *sum += power * k;
                }
            }
        }
    }

    /// Fills `factor` from the lamp's direction, falloff and view direction at each pixel.
    #[inline]
    fn trace(
        &mut self,
        row: &SurfaceRow<'_>,
        finish: Finish,
        gloss: bool,
        at: impl Fn(usize) -> (Vec3, f32, Vec3),
    ) {
        let [nx, ny, nz] = row.normal;
        let a2 = brdf::alpha(finish.roughness).powi(2);
        let [diffuse, mirror] = &mut self.factor;
        for i in 0..diffuse.len().min(nx.len()) {
            let n = Vec3::new(nx[i], ny[i], nz[i]);
            let (l, falloff, v) = at(i);
            // No surface: a zero or NaN normal. Comparisons with NaN are false, so it gives no light.
            let exists = if n.length_squared() > 0.25 { falloff } else { 0.0 };
            let cosine = n.dot(l);
            diffuse[i] = lit(brdf::wrapped_cosine(cosine, finish.wrap) * exists);
            if gloss {
                let h = (l + v) * (1.0 / (l + v).length_squared().max(1e-12).sqrt());
                let k =
                    brdf::ggx_times_cosine(cosine, n.dot(v), n.dot(h), v.dot(h), a2, finish.specular);
                mirror[i] = lit(k * exists);
            }
        }
    }

    fn finish(&self, c: usize, out: &mut [f32], base: &[f32], alpha: &[f32], covered: bool, diffuse: f32) {
        let k = diffuse * FRAC_1_PI;
        let sum = &self.diffuse[c];
        for i in 0..out.len() {
            let coverage = if covered { 1.0 } else { alpha[i] };
            out[i] = lit(base[i]) * sum[i] * k * coverage;
        }
        if let Some(gloss) = &self.gloss {
            for i in 0..out.len() {
                out[i] += gloss[c][i] * alpha[i];
            }
        }
    }
}

/// `v` where it is a positive number, else 0 (also for NaN).
#[inline]
fn lit(v: f32) -> f32 {
    if v > 0.0 && v < f32::INFINITY { v } else { 0.0 }
}

/// Direction from the surface to the camera; only worth its square root if there is a highlight.
#[inline]
fn view(p: [&[f32]; 3], i: usize, wanted: bool) -> Vec3 {
    if !wanted {
        return Vec3::Z;
    }
    let p = Vec3::new(p[0][i], p[1][i], p[2][i]);
    p * (-1.0 / p.length_squared().max(1e-12).sqrt())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;
    use std::f32::consts::PI;

    const W: Window = Window::of_size(2, 1);
    const MATT: Finish = Finish { diffuse: 1.0, wrap: 0.0, specular: 0.0, roughness: 0.5 };

    fn flat(v: &[f32]) -> Raster {
        Raster::from_fn(W, v.len(), |c, _, _| v[c])
    }

    fn lit_by(lamp: Place, n: [f32; 3], p: Option<[f32; 3]>, albedo: Option<[f32; 3]>, f: Finish) -> Vec<f32> {
        let (normal, position) = (flat(&n), p.map(|p| flat(&p)));
        let albedo = albedo.map(|a| flat(&a));
        let surface =
            Surface { normal: &normal, position: position.as_ref(), albedo: albedo.as_ref() };
        let picture = flat(&[0.2, 0.1, 0.05, 0.5]);
        let mut out = Raster::zeros(W, 4);
        let lamps = [Lamp { place: lamp, power: [PI, PI, 2.0 * PI] }];
        relight_into(&mut out, &picture, surface, &lamps, f, &Cancel::new()).unwrap();
        out.pixel(1, 0).unwrap()
    }

    #[track_caller]
    fn near(got: &[f32], want: [f32; 4]) {
        assert!(got.iter().zip(want).all(|(g, w)| (g - w).abs() < 1e-6), "{got:?} is not {want:?}");
    }

    #[test]
    fn lambert_by_hand() {
        let sun = Place::Directional { toward: Vec3::new(0.0, 0.6, 0.8) };
        // albedo/π · E · cos · alpha = 0.5/π · π · 0.8 · 0.5
        near(&lit_by(sun, [0.0, 0.0, 1.0], None, Some([0.5; 3]), MATT), [0.2, 0.2, 0.4, 0.5]);
        // Gain: the picture is the albedo, its coverage already in it.
        near(&lit_by(sun, [0.0, 0.0, 1.0], None, None, MATT), [0.16, 0.08, 0.08, 0.5]);
        near(&lit_by(sun, [0.0, 0.0, -1.0], None, Some([0.5; 3]), MATT), [0.0, 0.0, 0.0, 0.5]);
    }

    #[test]
    fn point_light_falls_off_with_the_square() {
        let lamp = Place::Point { position: Vec3::new(0.0, 0.0, -3.0) };
        let at = |z| lit_by(lamp, [0.0, 0.0, 1.0], Some([0.0, 0.0, z]), Some([0.5; 3]), MATT);
        near(&at(-4.0), [0.25, 0.25, 0.5, 0.5]);
        near(&at(-5.0), [0.0625, 0.0625, 0.125, 0.5]);
        near(&at(f32::NEG_INFINITY), [0.0, 0.0, 0.0, 0.5]);
        near(&lit_by(lamp, [0.0, 0.0, 1.0], None, None, MATT), [0.0, 0.0, 0.0, 0.5]);
    }

    #[test]
    fn nothing_shines_where_there_is_no_surface() {
        let sun = Place::Directional { toward: Vec3::Z };
        let glossy = Finish { wrap: 1.0, specular: 1.0, ..MATT };
        for n in [[0.0; 3], [f32::NAN; 3]] {
            near(&lit_by(sun, n, None, Some([0.5; 3]), glossy), [0.0, 0.0, 0.0, 0.5]);
        }
        let bad = [f32::NAN, f32::INFINITY, -1.0];
        near(&lit_by(sun, [0.0, 0.0, 1.0], None, Some(bad), MATT), [0.0, 0.0, 0.0, 0.5]);
    }

    #[test]
    fn the_highlight_peaks_at_the_mirror_direction() {
        let shiny = Finish { diffuse: 0.0, specular: 1.0, roughness: 0.5, wrap: 0.0 };
        let sun = |t: f32| Place::Directional { toward: Vec3::new(t.sin(), 0.0, t.cos()) };
        let at = |t: f32| lit_by(sun(t), [0.0, 0.0, 1.0], None, Some([0.0; 3]), shiny)[0];
        // D(0) = 1/(π α²), G = 1, F = 1: E/(4π α²) · α_coverage with E = π, α = ¼.
        assert!((at(0.0) - 0.25 / 0.0625 * 0.5).abs() < 1e-4, "{}", at(0.0));
        assert!(at(0.0) > at(0.2) && at(0.2) > at(0.4));
    }
}
