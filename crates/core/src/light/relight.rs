//! Light added to a rendered surface.

use crate::light::brdf;
use crate::light::lamp::{Cone, Lamp, Place};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec3;
use multiversion::multiversion;
use std::f32::consts::{FRAC_1_PI, PI};
use std::ops::Range;

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
pub struct Material {
    /// Factor on the diffuse light.
    pub diffuse: f32,
    /// Light reaching round the terminator, 0..=1.
    pub wrap: f32,
    /// Reflectance seen head-on (F0), 0..=1; 0 leaves the highlight out. 0.04 is glass or varnish.
    pub specular: f32,
    /// Perceptual roughness of the highlight, 0..=1.
    pub roughness: f32,
    /// How much of a metal it is, 0..=1: a metal has no diffuse light, and mirrors in its own colour.
    pub metalness: f32,
    /// Its colour instead of the albedo, linear.
    pub colour: Option<[f32; 3]>,
}

impl Material {
    /// A white matt surface: all diffuse light, and nothing else.
    pub const MATT: Self =
        Self { diffuse: 1.0, wrap: 0.0, specular: 0.0, roughness: 0.5, metalness: 0.0, colour: None };

    /// Whether it mirrors anything.
    pub fn mirrors(&self) -> bool {
        self.specular > 0.0 || self.metalness > 0.0
    }
}

/// What each place is made of.
#[derive(Clone, Copy, Debug)]
pub struct Finishes<'a> {
    /// What everything is made of that the others do not name.
    pub rest: Material,
    /// Materials of some places.
    pub others: &'a [Material],
    /// Which of the others each px has, counted from 1; 0 is the rest. One plane on the picture's window.
    pub which: Option<&'a Raster>,
}

impl From<Material> for Finishes<'_> {
    fn from(rest: Material) -> Self {
        Self { rest, others: &[], which: None }
    }
}

impl Finishes<'_> {
    /// Stretches of a row of one material each, at most `longest` px long.
    fn stretches(
        &self,
        y: i32,
        count: usize,
        longest: usize,
    ) -> impl Iterator<Item = (Range<usize>, Material)> {
        let which = self.which.map(|w| w.row(0, y));
        let mut start = 0;
        std::iter::from_fn(move || {
            if start >= count {
                return None;
            }
            let most = (start + longest).min(count);
            let (own, end) = match which {
                None => (0.0, most),
                Some(w) => {
                    let own = w[start];
                    (own, w[start..most].iter().position(|v| *v != own).map_or(most, |n| start + n))
                }
            };
            let place = (own as usize).checked_sub(1);
            let material = place.and_then(|k| self.others.get(k)).unwrap_or(&self.rest);
            let stretch = start..end;
            start = end;
            Some((stretch, *material))
        })
    }
}

/// A lamp, and how much of it each pixel sees.
#[derive(Clone, Copy, Debug)]
pub struct Shining<'a> {
    /// The lamp.
    pub lamp: Lamp,
    /// Share of the lamp that is seen, 0..=1, one plane on the picture's window; all of it if there is none.
    pub seen: Option<&'a Raster>,
}

impl From<Lamp> for Shining<'_> {
    fn from(lamp: Lamp) -> Self {
        Self { lamp, seen: None }
    }
}

/// Writes the light that `lamps` add: `L = (albedo/π · Σ E·cos + Σ E·GGX) · α`, RGBA premultiplied, with
/// the picture's alpha. Shadows are those that the lamps bring ([`crate::light::shadow`]).
///
/// `picture` is RGBA premultiplied; every raster lies on its window. Pixels without a surface get zero.
/// A point lamp or a spot without positions gives nothing.
///
/// A lamp of some size broadens the highlight: its half vectors turn by half the angle under which it is seen, and the
/// slopes of a disc of that radius have a variance of σ²/16 along each axis, of which α² is twice (own derivation from
/// Beckmann's slopes, of which α² is twice the variance).
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn relight_into<'a>(
    out: &mut Raster,
    picture: &Raster,
    surface: Surface<'_>,
    lamps: &[Shining<'a>],
    finishes: Finishes<'_>,
    cancel: &Cancel,
) -> Result<(), KernelError> {
    check(out, picture, surface, finishes)?;
    for seen in lamps.iter().filter_map(|l| l.seen) {
        seen.expect_channels("shadow", 1)?;
        seen.expect_window("shadow", picture.window())?;
    }
    for_each_band(out, cancel, |band| {
        let mut light = TileLight::new(finishes.rest);
        let mut shining = Vec::with_capacity(lamps.len());
        let window = band.window();
        for y in window.rows() {
            let alpha = picture.row(3, y);
            let base: [&[f32]; 3] = surface.albedo.unwrap_or(picture).rows(y);
            let normal: [&[f32]; 3] = surface.normal.rows(y);
            let position: Option<[&[f32]; 3]> = surface.position.map(|p| p.rows(y));
            let [r, g, b, a] = band.rows(y);
            a.copy_from_slice(alpha);
            let mut out = [r, g, b];
            for (tile, finish) in finishes.stretches(y, alpha.len(), TILE) {
                light.finish = finish;
                let seen = |l: &Shining<'a>| l.seen.map(|s| &s.row(0, y)[tile.clone()]);
                shining.clear();
                shining.extend(lamps.iter().map(|l| (l.lamp, seen(l))));
                gather(
                    &mut light,
                    normal.map(|n| &n[tile.clone()]),
                    position.map(|p| p.map(|p| &p[tile.clone()])),
                    &shining,
                );
                for (c, out) in out.iter_mut().enumerate() {
                    let own = finish.colour.map(|colour| [colour[c]; TILE]);
                    let base = own.as_ref().map_or(&base[c][tile.clone()], |own| &own[..tile.len()]);
                    // The picture's colour carries its coverage already; albedo does not.
                    let straight = surface.albedo.is_some() || finish.colour.is_some();
                    let coverage = straight.then(|| &alpha[tile.clone()]);
                    light.finish(c, &mut out[tile.clone()], base, coverage, &alpha[tile.clone()]);
                }
            }
        }
    })?;
    Ok(())
}

/// Pixels that are worked on at once: a dozen buffers of this length stay in the first-level cache.
const TILE: usize = 512;

fn check(
    out: &Raster,
    picture: &Raster,
    surface: Surface<'_>,
    finishes: Finishes<'_>,
) -> Result<(), KernelError> {
    let window = picture.window();
    picture.expect_channels("picture", 4)?;
    out.expect_channels("result", 4)?;
    out.expect_window("result", window)?;
    let planes = [
        ("normals", Some(surface.normal), 3),
        ("position", surface.position, 3),
        ("albedo", surface.albedo, 3),
        ("finishes", finishes.which, 1),
    ];
    Ok(Raster::expect_each(window, planes)?)
}

type Rgb = [[f32; TILE]; 3];

/// What the square of a lamp's angular radius adds to α²: see [`relight_into`].
const BROADER: f32 = 0.125;

/// Light gathered over a stretch of a row.
struct TileLight {
    finish: Material,
    /// Irradiance.
    diffuse: Rgb,
    /// Mirrored radiance: of a metal without the share that is white at grazing angles.
    gloss: Rgb,
    /// That share, of a metal.
    sheen: Rgb,
    /// Unit directions to the viewer.
    view: Rgb,
    /// Unit directions to the lamp.
    toward: Rgb,
    /// Falloff of the lamp; 0 where there is no surface.
    falloff: [f32; TILE],
    /// GGX α² with what the lamp's size adds.
    width: [f32; TILE],
}

impl TileLight {
    fn new(finish: Material) -> Self {
        let (zero, none) = ([[0.0; TILE]; 3], [0.0; TILE]);
        Self {
            finish,
            diffuse: zero,
            gloss: zero,
            sheen: zero,
            view: zero,
            toward: zero,
            falloff: none,
            width: none,
        }
    }

    #[inline(always)]
    fn gather(&mut self, n: [&[f32]; 3], position: Option<[&[f32]; 3]>, lamps: &[(Lamp, Option<&[f32]>)]) {
        let count = n[0].len();
        for plane in self.diffuse.iter_mut().chain(&mut self.gloss).chain(&mut self.sheen) {
            plane[..count].fill(0.0);
        }
        if self.finish.mirrors() {
            self.look(count, position);
        }
        for &(lamp, seen) in lamps {
            match (lamp.place, position) {
                (Place::Directional { toward }, _) => self.aim_far(n, toward, lamp.size),
                (Place::Point { position }, Some(p)) => self.aim_near(n, p, position, lamp.size),
                (Place::Spot { position, cone }, Some(p)) => {
                    self.aim_near(n, p, position, lamp.size);
                    self.narrow(count, cone);
                }
                (Place::Point { .. } | Place::Spot { .. }, None) => continue,
            }
            if let Some(seen) = seen {
                self.falloff[..count].iter_mut().zip(seen).for_each(|(f, s)| *f *= s);
            }
            self.add_diffuse(n, lamp.power);
            match (self.finish.metalness > 0.0, self.finish.mirrors()) {
                (true, _) => self.add_gloss::<true>(n, lamp.power),
                (false, true) => self.add_gloss::<false>(n, lamp.power),
                (false, false) => {}
            }
        }
    }

    /// Directions to the viewer, the same for every lamp.
    #[inline(always)]
    fn look(&mut self, count: usize, position: Option<[&[f32]; 3]>) {
        let [vx, vy, vz] = self.view.each_mut().map(|v| &mut v[..count]);
        let Some([px, py, pz]) = position.map(|p| p.map(|p| &p[..count])) else {
            vx.fill(0.0);
            vy.fill(0.0);
            vz.fill(1.0);
            return;
        };
        for i in 0..count {
            let k = -1.0 / (px[i] * px[i] + py[i] * py[i] + pz[i] * pz[i]).sqrt();
            (vx[i], vy[i], vz[i]) = (px[i] * k, py[i] * k, pz[i] * k);
        }
    }

    #[inline(always)]
    fn aim_far(&mut self, n: [&[f32]; 3], toward: Vec3, size: f32) {
        let count = n[0].len();
        for (plane, v) in self.toward.iter_mut().zip(toward.to_array()) {
            plane[..count].fill(v);
        }
        let [nx, ny, nz] = n.map(|n| &n[..count]);
        for (i, f) in self.falloff[..count].iter_mut().enumerate() {
            *f = exists(nx[i], ny[i], nz[i]);
        }
        let own = brdf::alpha(self.finish.roughness).powi(2);
        self.width[..count].fill((own + size * size * BROADER).min(1.0));
    }

    #[inline(always)]
    fn aim_near(&mut self, n: [&[f32]; 3], p: [&[f32]; 3], lamp: Vec3, size: f32) {
        let count = n[0].len();
        let ([nx, ny, nz], [px, py, pz]) = (n.map(|n| &n[..count]), p.map(|p| &p[..count]));
        let [lx, ly, lz] = self.toward.each_mut().map(|l| &mut l[..count]);
        let (falloff, width) = (&mut self.falloff[..count], &mut self.width[..count]);
        let (own, broader) = (brdf::alpha(self.finish.roughness).powi(2), size * size * BROADER);
        for i in 0..count {
            let (x, y, z) = (lamp.x - px[i], lamp.y - py[i], lamp.z - pz[i]);
            let inverse = 1.0 / (x * x + y * y + z * z);
            let k = inverse.sqrt();
            (lx[i], ly[i], lz[i]) = (x * k, y * k, z * k);
            falloff[i] = lit(inverse) * exists(nx[i], ny[i], nz[i]);
            let w = own + broader * inverse;
            width[i] = if w < 1.0 { w } else { 1.0 };
        }
    }

    /// Only what lies in a spot's cone is lit.
    #[inline(always)]
    fn narrow(&mut self, count: usize, cone: Cone) {
        let [lx, ly, lz] = self.toward.each_ref().map(|l| &l[..count]);
        for (i, f) in self.falloff[..count].iter_mut().enumerate() {
            *f *= cone.share(-(lx[i] * cone.axis.x + ly[i] * cone.axis.y + lz[i] * cone.axis.z));
        }
    }

    #[inline(always)]
    fn add_diffuse(&mut self, n: [&[f32]; 3], power: [f32; 3]) {
        let count = n[0].len();
        let [nx, ny, nz] = n.map(|n| &n[..count]);
        let [lx, ly, lz] = self.toward.each_ref().map(|l| &l[..count]);
        let falloff = &self.falloff[..count];
        let [r, g, b] = self.diffuse.each_mut().map(|d| &mut d[..count]);
        let wrap = self.finish.wrap;
        let share = 1.0 / ((1.0 + wrap) * (1.0 + wrap));
        for i in 0..count {
            let cosine = nx[i] * lx[i] + ny[i] * ly[i] + nz[i] * lz[i];
            let k = lit((cosine + wrap) * share * falloff[i]);
            r[i] += power[0] * k;
            g[i] += power[1] * k;
            b[i] += power[2] * k;
        }
    }

    /// [`brdf::ggx_times_cosine`] with its divisions gathered into two. With unit l and v the half vector
    /// has |l + v|² = 2 + 2 l·v, so (n·h)² = (n·l + n·v)² / |l + v|² and v·h = |l + v| / 2.
    #[inline(always)]
    fn add_gloss<const METAL: bool>(&mut self, n: [&[f32]; 3], power: [f32; 3]) {
        let count = n[0].len();
        let [nx, ny, nz] = n.map(|n| &n[..count]);
        let [lx, ly, lz] = self.toward.each_ref().map(|l| &l[..count]);
        let [vx, vy, vz] = self.view.each_ref().map(|v| &v[..count]);
        let (falloff, width) = (&self.falloff[..count], &self.width[..count]);
        let [r, g, b] = self.gloss.each_mut().map(|g| &mut g[..count]);
        let [sr, sg, sb] = self.sheen.each_mut().map(|s| &mut s[..count]);
        let f0 = self.finish.specular;
        for i in 0..count {
            let nl = nx[i] * lx[i] + ny[i] * ly[i] + nz[i] * lz[i];
            let nv = nx[i] * vx[i] + ny[i] * vy[i] + nz[i] * vz[i];
            let lv = lx[i] * vx[i] + ly[i] * vy[i] + lz[i] * vz[i];
            let hh = 2.0 + 2.0 * lv;
            let nh2 = (nl + nv) * (nl + nv) / hh;
            let m = lit(1.0 - 0.5 * hh.sqrt());
            let m2 = m * m;
            let grazing = m2 * m2 * m;
            let a2 = width[i];
            let rest = 1.0 - a2;
            let d = 1.0 - rest * nh2;
            let masked_l = nl + (a2 + rest * nl * nl).sqrt();
            let masked_v = nv + (a2 + rest * nv * nv).sqrt();
            let k = a2 * nl * falloff[i] / (PI * d * d * masked_l * masked_v);
            let both = if nv > 0.0 { lit(nl) } else { 0.0 };
            let k = if both > 0.0 { lit(k) } else { 0.0 };
            let whole = if METAL { k * (1.0 - grazing) } else { k * (f0 + (1.0 - f0) * grazing) };
            r[i] += power[0] * whole;
            g[i] += power[1] * whole;
            b[i] += power[2] * whole;
            if METAL {
                let white = k * grazing;
                sr[i] += power[0] * white;
                sg[i] += power[1] * white;
                sb[i] += power[2] * white;
            }
        }
    }

    fn finish(&self, c: usize, out: &mut [f32], base: &[f32], coverage: Option<&[f32]>, alpha: &[f32]) {
        let count = out.len();
        let metal = self.finish.metalness;
        let k = self.finish.diffuse * FRAC_1_PI * (1.0 - metal);
        let (sum, gloss) = (&self.diffuse[c][..count], &self.gloss[c][..count]);
        let (base, alpha) = (&base[..count], &alpha[..count]);
        match coverage.map(|a| &a[..count]) {
            Some(a) => {
                for i in 0..count {
                    out[i] = lit(base[i]) * sum[i] * k * a[i];
                }
            }
            None => (0..count).for_each(|i| out[i] = lit(base[i]) * sum[i] * k),
        }
        if metal > 0.0 {
            let (sheen, f0) = (&self.sheen[c][..count], self.finish.specular * (1.0 - metal));
            for i in 0..count {
                // Colour without coverage: a picture that stands in for albedo carries it.
                let straight =
                    if coverage.is_some() || alpha[i] <= 0.0 { base[i] } else { base[i] / alpha[i] };
                let head_on = f0 + metal * lit(straight).min(1.0);
                out[i] += (head_on * gloss[i] + sheen[i]) * alpha[i];
            }
        } else if self.finish.mirrors() {
            (0..count).for_each(|i| out[i] += gloss[i] * alpha[i]);
        }
    }
}

/// Gathers the light of a stretch, with the widest vectors that the machine has. Every bit is the same for all of them:
/// nothing is fused and nothing summed in another order.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn gather(
    light: &mut TileLight,
    n: [&[f32]; 3],
    position: Option<[&[f32]; 3]>,
    lamps: &[(Lamp, Option<&[f32]>)],
) {
    light.gather(n, position, lamps);
}

/// 1 where a normal is one; 0 for a zero or NaN normal (comparisons with NaN are false).
#[inline(always)]
fn exists(x: f32, y: f32, z: f32) -> f32 {
    if x * x + y * y + z * z > 0.25 { 1.0 } else { 0.0 }
}

/// `v` where it is a positive, finite number, else 0 (also for NaN).
#[inline(always)]
pub(crate) fn lit(v: f32) -> f32 {
    let v = if v > 0.0 { v } else { 0.0 };
    if v < f32::INFINITY { v } else { 0.0 }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(2, 1);
    const MATT: Material = Material::MATT;

    fn flat(v: &[f32]) -> Raster {
        Raster::from_fn(W, v.len(), |c, _, _| v[c])
    }

    fn lit_by(
        lamp: Place,
        n: [f32; 3],
        p: Option<[f32; 3]>,
        albedo: Option<[f32; 3]>,
        f: Material,
    ) -> Vec<f32> {
        let (normal, position) = (flat(&n), p.map(|p| flat(&p)));
        let albedo = albedo.map(|a| flat(&a));
        let surface = Surface { normal: &normal, position: position.as_ref(), albedo: albedo.as_ref() };
        let picture = flat(&[0.2, 0.1, 0.05, 0.5]);
        let mut out = Raster::zeros(W, 4);
        let lamps = [Lamp { place: lamp, power: [PI, PI, 2.0 * PI], size: 0.0 }.into()];
        relight_into(&mut out, &picture, surface, &lamps, f.into(), &Cancel::new()).unwrap();
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
        let glossy = Material { wrap: 1.0, specular: 1.0, ..MATT };
        for n in [[0.0; 3], [f32::NAN; 3]] {
            near(&lit_by(sun, n, None, Some([0.5; 3]), glossy), [0.0, 0.0, 0.0, 0.5]);
        }
        let bad = [f32::NAN, f32::INFINITY, -1.0];
        near(&lit_by(sun, [0.0, 0.0, 1.0], None, Some(bad), MATT), [0.0, 0.0, 0.0, 0.5]);
    }

    #[test]
    fn each_place_has_its_own_material() {
        let window = Window::of_size(1100, 1);
        let of = |v: [f32; 3]| Raster::from_fn(window, 3, |c, _, _| v[c]);
        let (normal, albedo) = (of([0.0, 0.0, 1.0]), of([0.0, 0.3, 0.6]));
        let picture = Raster::from_fn(window, 4, |c, x, _| [0.1, 0.1, 0.1, 0.5 + 0.5 * (x % 2) as f32][c]);
        let brass = Material { metalness: 1.0, roughness: 0.3, colour: Some([0.7, 0.5, 0.2]), ..MATT };
        let others = [Material { specular: 0.04, ..MATT }, brass];
        let which = Raster::from_fn(window, 1, |_, x, _| ((x / 7) % 4) as f32);
        let surface = Surface { normal: &normal, position: None, albedo: Some(&albedo) };
        let sun = Lamp { place: Place::Directional { toward: Vec3::Z }, power: [PI; 3], size: 0.0 };
        let lit = |finishes: Finishes<'_>| {
            let mut out = Raster::zeros(window, 4);
            relight_into(&mut out, &picture, surface, &[sun.into()], finishes, &Cancel::new()).unwrap();
            out
        };
        let mixed = lit(Finishes { rest: MATT, others: &others, which: Some(&which) });
        let alone = [MATT, others[0], brass, MATT].map(|m| lit(m.into()));
        for x in 0..1100 {
            // A number that no material has is the rest.
            let own = &alone[((x / 7) % 4) as usize];
            assert_eq!(mixed.pixel(x, 0), own.pixel(x, 0), "{x}");
        }
        // Head-on a mirror shows its own colour, at the peak: E · F · α⁻² / 4π, with E = π.
        let peak = 0.25 / brdf::alpha(0.3).powi(2);
        let brass = alone[2].pixel(1, 0).unwrap();
        for (got, colour) in brass.iter().zip([0.7, 0.5, 0.2]) {
            assert!((got / (colour * peak) - 1.0).abs() < 1e-4, "{got} is not {colour} × {peak}");
        }
    }

    #[test]
    fn the_highlight_peaks_at_the_mirror_direction() {
        let shiny = Material { diffuse: 0.0, specular: 1.0, ..MATT };
        let sun = |t: f32| Place::Directional { toward: Vec3::new(t.sin(), 0.0, t.cos()) };
        let at = |t: f32| lit_by(sun(t), [0.0, 0.0, 1.0], None, Some([0.0; 3]), shiny)[0];
        // D(0) = 1/(π α²), G = 1, F = 1: E/(4π α²) · α_coverage with E = π, α = ¼.
        assert!((at(0.0) - 0.25 / 0.0625 * 0.5).abs() < 1e-4, "{}", at(0.0));
        assert!(at(0.0) > at(0.2) && at(0.2) > at(0.4));
    }
}
