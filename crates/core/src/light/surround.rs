//! Light from all around: a lat-long picture or a pattern, on matt and on glossy surfaces.
//!
//! The middle of a lat-long picture lies straight ahead of the camera (−z), its right quarter to the right (+x), its
//! upper edge above (+y).

use crate::light::brdf;
use crate::light::harmonics::Harmonics;
use crate::light::relight::{Finishes, Material, Surface, lit};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::{Mat3, Vec2, Vec3};
use std::borrow::Cow;
use std::f32::consts::{FRAC_1_PI, PI, TAU};

/// Width of the lat-long picture that is worked with: half a degree a px, finer than any gloss that is not a mirror.
const WIDTH: u32 = 512;

/// Directions that each place of a filtered picture gathers.
const GATHERED: u32 = 96;

/// Patterns that stand in for a picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Pattern {
    /// A sky, brightest at the horizon, over a dark ground.
    Sky,
    /// A dark room with three bright panels: left, right and above.
    Panels,
    /// Upright bars of light, as many as said: for metal and lettering.
    Bars(u32),
}

/// Light from all around, in a pyramid of halves.
#[derive(Clone, Debug)]
pub struct Surround {
    /// Lat-long, three planes; each half as large as the one before.
    levels: Vec<Raster>,
}

/// The direction of a place of a lat-long picture, 0..1 from the left and from the top.
pub fn direction_of(at: Vec2) -> Vec3 {
    let (turn, down) = ((at.x - 0.5) * TAU, at.y * PI);
    Vec3::new(down.sin() * turn.sin(), down.cos(), -down.sin() * turn.cos())
}

/// The place of a unit direction in a lat-long picture.
pub fn place_of(d: Vec3) -> Vec2 {
    Vec2::new(0.5 + d.x.atan2(-d.z) / TAU, d.y.clamp(-1.0, 1.0).acos() * FRAC_1_PI)
}

impl Surround {
    /// From a lat-long picture: its first three planes, linear light. What is no number, or below zero, is dark.
    pub fn from_picture(picture: &Raster) -> Self {
        let w = picture.window();
        if w.is_empty() || picture.channels() < 3 {
            return Self::new(Raster::zeros(Window::of_size(2, 1), 3));
        }
        let width = WIDTH.min(w.width.max(2));
        let size = Window::of_size(width, (width / 2).max(1));
        let mut small = Raster::zeros(size, 3);
        let ends = |i: i32, n: u32, of: u32| {
            let at = |i: i64| i * i64::from(of) / i64::from(n);
            let (a, b) = (at(i64::from(i)), at(i64::from(i) + 1));
            (a, b.max(a + 1))
        };
        for y in size.rows() {
            let (top, bottom) = ends(y, size.height, w.height);
            for x in 0..size.width as i32 {
                let (left, right) = ends(x, size.width, w.width);
                for c in 0..3 {
                    let mut sum = 0.0;
                    for row in top..bottom {
                        let line = picture.row(c, (i64::from(w.y) + row) as i32);
                        sum += line[left as usize..right as usize].iter().map(|v| lit(*v)).sum::<f32>();
                    }
                    small.row_mut(c, y)[x as usize] = sum / ((bottom - top) * (right - left)) as f32;
                }
            }
        }
        Self::new(small)
    }

    /// From a pattern.
    pub fn from_pattern(pattern: Pattern) -> Self {
        let size = Window::of_size(WIDTH / 2, WIDTH / 4);
        let mut picture = Raster::zeros(size, 3);
        for y in size.rows() {
            for x in 0..size.width as i32 {
                let at =
                    Vec2::new((x as f32 + 0.5) / size.width as f32, (y as f32 + 0.5) / size.height as f32);
                let light = pattern.at(direction_of(at));
                for (c, v) in light.to_array().into_iter().enumerate() {
                    picture.row_mut(c, y)[x as usize] = v;
                }
            }
        }
        Self::new(picture)
    }

    fn new(picture: Raster) -> Self {
        let mut levels = vec![picture];
        while let Some(last) = levels.last().filter(|l| l.window().width > 4 && l.window().height > 2) {
            levels.push(halved(last));
        }
        Self { levels }
    }

    /// What falls on surfaces that face each direction: irradiance.
    pub fn irradiance(&self) -> Harmonics {
        // 128 px across are far finer than what nine harmonics can tell.
        let level = self.levels.iter().find(|l| l.window().width <= 128).unwrap_or(&self.levels[0]);
        let w = level.window();
        let (step, mut light) = (PI / w.height as f32, Harmonics::NONE);
        let turn = TAU / w.width as f32;
        for y in w.rows() {
            // The exact solid angle of a ring.
            let ring = ((y as f32 * step).cos() - ((y + 1) as f32 * step).cos()) * turn;
            for x in 0..w.width as i32 {
                let at = Vec2::new((x as f32 + 0.5) / w.width as f32, (y as f32 + 0.5) / w.height as f32);
                let seen = Vec3::from_array(std::array::from_fn(|c| level.row(c, y)[x as usize]));
                light.add(direction_of(at), seen, ring);
            }
        }
        light.on_surfaces()
    }

    /// Radiance from a unit direction, between the pixels of a level.
    fn look(&self, d: Vec3, level: f32) -> Vec3 {
        let i = (level.round().max(0.0) as usize).min(self.levels.len() - 1);
        between(&self.levels[i], place_of(d))
    }

    /// The light that a surface of some roughness mirrors, seen head-on, for each direction of its mirror: GGX about the
    /// direction, the viewer along it (the split of Karis 2013, "Real Shading in Unreal Engine 4", course notes), each of
    /// the gathered directions read from a level as coarse as its share of the lobe (Křivánek & Colbert 2008).
    pub fn mirrored(&self, roughness: f32, cancel: &Cancel) -> Result<Raster, KernelError> {
        let alpha = brdf::alpha(roughness);
        let widest = self.levels[0].window().width;
        if alpha <= brdf::MIN_ALPHA {
            return Ok(self.levels[0].clone());
        }
        let width = if alpha < 0.05 { widest } else { widest.min(if alpha < 0.2 { 128 } else { 64 }) }.max(2);
        let mut out = Raster::zeros(Window::of_size(width, (width / 2).max(1)), 3);
        let size = out.window();
        let lobe = self.lobe(alpha);
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                let mut rows = band.rows::<3>(y);
                for i in 0..size.width as usize {
                    let at = Vec2::new(
                        (i as f32 + 0.5) / size.width as f32,
                        (y as f32 + 0.5) / size.height as f32,
                    );
                    let d = direction_of(at);
                    let (u, v) = d.any_orthonormal_pair();
                    let (mut sum, mut weight) = (Vec3::ZERO, 0.0);
                    for (l, level) in &lobe {
                        sum += self.look(u * l.x + v * l.y + d * l.z, *level) * l.z;
                        weight += l.z;
                    }
                    let light = sum / weight;
                    rows.iter_mut().zip(light.to_array()).for_each(|(r, v)| r[i] = v);
                }
            }
        })?;
        Ok(out)
    }

    /// What [`Self::mirrored`] gave, looked up in a unit direction.
    pub fn mirrored_from(mirrored: &Raster, d: Vec3) -> Vec3 {
        between(mirrored, place_of(d))
    }

    /// Directions about +z that a lobe gathers, and the level each is read from.
    fn lobe(&self, alpha: f32) -> Vec<(Vec3, f32)> {
        let texels = self.levels[0].window().area() as f32;
        (0..GATHERED)
            .map(|i| {
                let h = half_vector(i, GATHERED, alpha);
                let l = 2.0 * h.z * h - Vec3::Z;
                let density = brdf::ggx_distribution(h.z, alpha * alpha) * 0.25;
                let angle = 1.0 / (GATHERED as f32 * density.max(1e-6));
                (l, 0.5 * (angle * texels / (2.0 * TAU)).max(1.0).log2() + 0.5)
            })
            .filter(|(l, _)| l.z > 0.0)
            .collect()
    }
}

/// The `i`th of `n` half vectors spread as GGX has them (Walter et al. 2007, eq. 35), in the order of Hammersley.
fn half_vector(i: u32, n: u32, alpha: f32) -> Vec3 {
    let (a, b) = ((i as f32 + 0.5) / n as f32, i.reverse_bits() as f32 / 4_294_967_296.0);
    let cos2 = (1.0 - a) / (1.0 + (alpha * alpha - 1.0) * a);
    let (sin, (s, c)) = ((1.0 - cos2).max(0.0).sqrt(), (TAU * b).sin_cos());
    Vec3::new(sin * c, sin * s, cos2.sqrt())
}

/// Steps in the table of what a surface mirrors.
const STEPS: usize = 32;

/// What a surface of some roughness mirrors of an even white surround, for cosines to the viewer from 0 to 1: factor of
/// its reflectance seen head-on, and what comes on top (the second half of Karis's split), by importance sampling.
fn mirrors(roughness: f32) -> [Vec2; STEPS] {
    const SAMPLES: u32 = 512;
    let alpha = brdf::alpha(roughness);
    std::array::from_fn(|i| {
        let nv = ((i as f32 + 0.5) / STEPS as f32).max(1e-3);
        let v = Vec3::new((1.0 - nv * nv).sqrt(), 0.0, nv);
        let mut sum = Vec2::ZERO;
        for k in 0..SAMPLES {
            let h = half_vector(k, SAMPLES, alpha);
            let vh = v.dot(h);
            let l = 2.0 * vh * h - v;
            if vh <= 0.0 || l.z <= 0.0 {
                continue;
            }
            let a2 = alpha * alpha;
            // G ÷ (4 n·l n·v) is the product of both maskings; the density of l is D n·h ÷ (4 v·h).
            let masked = brdf::smith_over_2cos(l.z, a2) * brdf::smith_over_2cos(nv, a2);
            let share = masked * l.z * 4.0 * vh / h.z;
            let grazing = (1.0 - vh).clamp(0.0, 1.0).powi(5);
            sum += Vec2::new(share * (1.0 - grazing), share * grazing);
        }
        sum / SAMPLES as f32
    })
}

impl Pattern {
    fn at(self, d: Vec3) -> Vec3 {
        match self {
            Self::Sky => {
                let up = d.y;
                if up < 0.0 {
                    return Vec3::new(0.16, 0.14, 0.12) * (1.0 - 0.5 * -up);
                }
                let horizon = (1.0 - up).powi(3);
                Vec3::new(0.35, 0.55, 1.0).lerp(Vec3::new(1.3, 1.25, 1.2), horizon)
            }
            Self::Panels => {
                let panel = |toward: Vec3, wide: f32, tall: f32| {
                    let t = toward.normalize();
                    let side = if t.y.abs() > 0.9 { Vec3::X } else { Vec3::Y.cross(t).normalize() };
                    let up = t.cross(side);
                    let ahead = d.dot(t);
                    let (x, y) = (d.dot(side) / ahead.max(1e-3), d.dot(up) / ahead.max(1e-3));
                    let soft = |v: f32, half: f32| ((half - v.abs()) / 0.06 + 0.5).clamp(0.0, 1.0);
                    if ahead > 0.0 { soft(x, wide) * soft(y, tall) } else { 0.0 }
                };
                let left = panel(Vec3::new(-1.0, 0.25, 0.45), 0.35, 0.9);
                let right = panel(Vec3::new(1.0, 0.1, 0.2), 0.2, 0.7);
                let above = panel(Vec3::Y, 0.9, 0.35);
                Vec3::splat(0.03)
                    + Vec3::new(1.0, 0.95, 0.88) * (5.0 * left)
                    + Vec3::new(0.75, 0.88, 1.0) * (3.0 * right)
                    + Vec3::ONE * (2.0 * above)
            }
            Self::Bars(count) => {
                let turn = place_of(d).x * count.max(1) as f32;
                let wave = 0.5 + 0.5 * (turn * TAU).cos();
                // A bar is the upper third of the wave, with a soft edge, and ends above and below.
                let bar = ((wave - 0.66) / 0.12).clamp(0.0, 1.0) * (1.2 - d.y.abs() * 1.4).clamp(0.0, 1.0);
                Vec3::splat(0.04 + 3.0 * bar)
            }
        }
    }
}

/// How light from all around falls on a surface.
#[derive(Clone, Copy, Debug)]
pub struct SurroundLight<'a> {
    /// How the surface answers.
    pub finishes: Finishes<'a>,
    /// Factors of the three channels.
    pub gain: [f32; 3],
    /// Turns camera space into the surround's own directions.
    pub turn: Mat3,
    /// Share of the surround that each place sees, one plane; all of it if there is none.
    pub open: Option<&'a Raster>,
    /// What [`Surround::mirrored`] gives for the roughness of each material, the rest first, as far as that is known
    /// already.
    pub mirrored: &'a [Option<&'a Raster>],
}

/// The light of a surround (RGBA premultiplied, with the picture's alpha), as [`crate::light::relight::relight_into`] has that of
/// lamps: `albedo/π · E(n)` by nine harmonics, and the mirrored light by roughness, filtered.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn fall(
    picture: &Raster,
    surface: Surface<'_>,
    surround: &Surround,
    how: SurroundLight<'_>,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    let window = picture.window();
    let planes = [
        ("normals", Some(surface.normal), 3),
        ("position", surface.position, 3),
        ("albedo", surface.albedo, 3),
        ("openness", how.open, 1),
        ("finishes", how.finishes.which, 1),
    ];
    Raster::expect_each(window, planes)?;
    let answers = answers(surround, &how, cancel)?;
    let irradiance = surround.irradiance();
    let mut out = Raster::zeros(window, 4);
    for_each_band(&mut out, cancel, |band| {
        let gain = Vec3::from(how.gain);
        for y in band.window().rows() {
            let alpha = picture.row(3, y);
            let base: [&[f32]; 3] = surface.albedo.unwrap_or(picture).rows(y);
            let (normal, position) = (surface.normal.rows::<3>(y), surface.position.map(|p| p.rows::<3>(y)));
            let open = how.open.map(|o| o.row(0, y));
            let which = how.finishes.which.map(|w| w.row(0, y));
            let [r, g, b, a] = band.rows(y);
            a.copy_from_slice(alpha);
            for i in 0..alpha.len() {
                let n = Vec3::new(normal[0][i], normal[1][i], normal[2][i]);
                if n.length_squared().is_nan() || n.length_squared() < 0.25 || alpha[i] <= 0.0 {
                    continue;
                }
                let Answer { finish, gloss } =
                    answers.get(which.map_or(0, |w| w[i] as usize)).unwrap_or(&answers[0]);
                let straight = if surface.albedo.is_some() { 1.0 } else { 1.0 / alpha[i] };
                let seen = Vec3::new(lit(base[0][i]), lit(base[1][i]), lit(base[2][i])) * straight;
                let colour = finish.colour.map_or(seen, Vec3::from);
                let matt = irradiance.at(how.turn * n).max(Vec3::ZERO)
                    * (FRAC_1_PI * finish.diffuse * (1.0 - finish.metalness));
                let mut light = colour * matt;
                if let Some(gloss) = gloss {
                    let view = position
                        .map_or(Vec3::Z, |p| -Vec3::new(p[0][i], p[1][i], p[2][i]).normalize_or(Vec3::NEG_Z));
                    let f0 = Vec3::splat(finish.specular).lerp(colour.min(Vec3::ONE), finish.metalness);
                    light += gloss.seen(n, view, f0, how.turn);
                }
                let light = light * gain * (alpha[i] * open.map_or(1.0, |o| o[i]));
                let light = if light.is_finite() { light } else { Vec3::ZERO };
                (r[i], g[i], b[i]) = (light.x, light.y, light.z);
            }
        }
    })?;
    Ok(out)
}

/// A material with what it mirrors, if it does.
struct Answer<'a> {
    finish: Material,
    gloss: Option<Gloss<'a>>,
}

/// What the rest and each of the others answer.
fn answers<'a>(
    surround: &Surround,
    how: &SurroundLight<'a>,
    cancel: &Cancel,
) -> Result<Vec<Answer<'a>>, KernelError> {
    let all = std::iter::once(&how.finishes.rest).chain(how.finishes.others);
    let answer = |(k, finish): (usize, &Material)| {
        let gloss = || {
            let known = how.mirrored.get(k).copied().flatten().map(Cow::Borrowed);
            let made = || surround.mirrored(finish.roughness, cancel).map(Cow::Owned);
            let mirrored = known.map_or_else(made, Ok)?;
            Ok::<_, KernelError>(Gloss { mirrored, table: mirrors(finish.roughness) })
        };
        Ok(Answer { finish: *finish, gloss: finish.mirrors().then(gloss).transpose()? })
    };
    all.enumerate().map(answer).collect()
}

/// Mirrored light, ready to be looked up.
struct Gloss<'a> {
    mirrored: Cow<'a, Raster>,
    table: [Vec2; STEPS],
}

impl Gloss<'_> {
    fn seen(&self, n: Vec3, view: Vec3, f0: Vec3, turn: Mat3) -> Vec3 {
        let nv = n.dot(view);
        // Relief may turn a normal away from the viewer a little: it then mirrors as at the rim.
        let mirror = 2.0 * nv.max(0.0) * n - view * nv.signum();
        let at = (nv.max(0.0) * STEPS as f32 - 0.5).clamp(0.0, (STEPS - 1) as f32);
        let (i, t) = (at as usize, at.fract());
        let share = self.table[i].lerp(self.table[(i + 1).min(STEPS - 1)], t);
        between(&self.mirrored, place_of(turn * mirror.normalize_or(n))) * (f0 * share.x + share.y)
    }
}

fn halved(full: &Raster) -> Raster {
    let w = full.window();
    let size = Window::of_size((w.width / 2).max(1), (w.height / 2).max(1));
    Raster::from_fn(size, full.channels(), |c, x, y| {
        let (i, j) = (2 * x as usize, 2 * y);
        let (top, below) = (full.row(c, j), full.row(c, (j + 1).min(w.height as i32 - 1)));
        let right = (i + 1).min(w.width as usize - 1);
        0.25 * (top[i] + top[right] + below[i] + below[right])
    })
}

/// A lat-long picture between its pixels: round about, and held at the poles.
fn between(picture: &Raster, at: Vec2) -> Vec3 {
    let w = picture.window();
    let (x, y) =
        (at.x * w.width as f32 - 0.5, (at.y * w.height as f32 - 0.5).clamp(0.0, (w.height - 1) as f32));
    let (left, top) = (x.floor(), y.floor());
    let (tx, ty) = (x - left, y - top);
    let column = |i: f32| (i as i32).rem_euclid(w.width as i32) as usize;
    let (a, b) = (column(left), column(left + 1.0));
    let (j, k) = (top as i32, ((top as i32) + 1).min(w.height as i32 - 1));
    Vec3::from_array(std::array::from_fn(|c| {
        let (upper, lower) = (picture.row(c, j), picture.row(c, k));
        let (u, l) = (upper[a] + (upper[b] - upper[a]) * tx, lower[a] + (lower[b] - lower[a]) * tx);
        u + (l - u) * ty
    }))
}

#[cfg(test)]
mod tests {
    use super::*;

    const W: Window = Window::of_size(8, 4);
    const MATT: Material = Material::MATT;

    /// A surround that is given by direction.
    fn of(f: impl Fn(Vec3) -> Vec3) -> Surround {
        let size = Window::of_size(256, 128);
        Surround::from_picture(&Raster::from_fn(size, 3, |c, x, y| {
            f(direction_of(Vec2::new((x as f32 + 0.5) / 256.0, (y as f32 + 0.5) / 128.0)))[c]
        }))
    }

    fn on(n: Vec3, surround: &Surround, finish: Material) -> Vec3 {
        let normal = Raster::from_fn(W, 3, |c, _, _| n[c]);
        let albedo = Raster::filled(W, 3, 0.5);
        let picture = Raster::filled(W, 4, 1.0);
        let surface = Surface { normal: &normal, position: None, albedo: Some(&albedo) };
        let how = SurroundLight {
            finishes: finish.into(),
            gain: [1.0; 3],
            turn: Mat3::IDENTITY,
            open: None,
            mirrored: &[],
        };
        let out = fall(&picture, surface, surround, how, &Cancel::new()).unwrap();
        Vec3::from_slice(&out.pixel(3, 2).unwrap()[..3])
    }

    #[test]
    fn directions_and_places_are_each_others_inverse() {
        for d in [
            Vec3::X,
            Vec3::NEG_Z,
            Vec3::new(0.3, 0.9, 0.2).normalize(),
            Vec3::new(-0.5, -0.5, 0.7).normalize(),
        ] {
            assert!((direction_of(place_of(d)) - d).length() < 1e-5, "{d}");
        }
        assert_eq!(place_of(Vec3::NEG_Z), Vec2::new(0.5, 0.5));
        assert!((place_of(Vec3::X).x - 0.75).abs() < 1e-6, "the right quarter is to the right");
    }

    #[test]
    fn an_even_surround_lights_all_alike_and_a_mirror_shows_what_its_energy_says() {
        let white = of(|_| Vec3::ONE);
        let turned = Vec3::new(0.0, 0.6, 0.8);
        // Matt: albedo/π · π.
        assert!((on(turned, &white, MATT) - 0.5).abs().max_element() < 3e-3);
        // A white mirror of any roughness returns what single scattering returns: the furnace of `brdf`, where the
        // closed form for α = 1 head-on is 1 − ln 2 (own derivation there).
        let mirror = |roughness| Material { diffuse: 0.0, specular: 1.0, roughness, ..MATT };
        assert!((on(Vec3::Z, &white, mirror(1.0)).x - (1.0 - std::f32::consts::LN_2)).abs() < 0.01);
        assert!((on(Vec3::Z, &white, mirror(0.2)).x - 1.0).abs() < 0.02);
    }

    #[test]
    fn gloss_agrees_with_the_integral_over_all_directions() {
        // A bright cap to the right and above; the reference sums the plain GGX over a fine grid of directions.
        let cap = Vec3::new(0.6, 0.5, 0.62).normalize();
        let light = |d: Vec3| Vec3::splat(1.0 + 6.0 * ((d.dot(cap) - 0.7).max(0.0) / 0.3));
        let s = of(light);
        for (roughness, n) in [
            (0.6, Vec3::Z),
            (0.4, Vec3::new(0.35, 0.25, 0.9).normalize()),
            (0.8, Vec3::new(0.0, 0.4, 0.9).normalize()),
        ] {
            let a2 = brdf::alpha(roughness).powi(2);
            let (mut want, rows) = (0.0f64, 400);
            for i in 0..rows {
                for j in 0..2 * rows {
                    let at = Vec2::new((j as f32 + 0.5) / (2 * rows) as f32, (i as f32 + 0.5) / rows as f32);
                    let l = direction_of(at);
                    let h = (l + Vec3::Z).normalize_or(Vec3::Z);
                    let f = brdf::ggx_times_cosine(n.dot(l), n.z, n.dot(h), h.z, a2, 0.5);
                    let ring = (PI * at.y).sin() * (PI / rows as f32) * (PI / rows as f32);
                    want += f64::from(f * light(l).x * ring);
                }
            }
            let got = on(n, &s, Material { diffuse: 0.0, specular: 0.5, roughness, ..MATT }).x;
            // Karis's split takes the lobe to be that seen head-on; a tenth is what it is good for off the axis.
            assert!((f64::from(got) - want).abs() < 0.1 * want, "roughness {roughness}: {got} {want}");
        }
    }

    #[test]
    fn what_faces_the_light_is_lit_and_turning_turns_it() {
        let right = of(|d| Vec3::splat((d.x - 0.5).max(0.0)));
        assert!(on(Vec3::X, &right, MATT).x > 5.0 * on(Vec3::NEG_X, &right, MATT).x.max(1e-3));
        for pattern in [Pattern::Sky, Pattern::Panels, Pattern::Bars(6)] {
            let s = Surround::from_pattern(pattern);
            let glossy = Material { specular: 0.5, metalness: 0.5, ..MATT };
            assert!(
                on(Vec3::Z, &s, glossy).is_finite() && on(Vec3::Y, &s, glossy).min_element() > 0.0,
                "{pattern:?}"
            );
        }
        let holes = Raster::filled(Window::of_size(3, 2), 4, f32::NAN);
        assert_eq!(on(Vec3::Z, &Surround::from_picture(&holes), MATT), Vec3::ZERO);
        assert_eq!(
            on(Vec3::Z, &Surround::from_picture(&Raster::zeros(Window::of_size(0, 0), 3)), MATT),
            Vec3::ZERO
        );
    }
}
