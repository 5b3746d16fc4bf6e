//! Light at a point of the scene.

use crate::added::{AddedLamp, LampPlace};
use crate::material::Material;
use crate::scene::Scene;
use crate::shape::{Hit, Placed, Ray};
use glam::{Vec2, Vec3};
use std::f32::consts::{PI, TAU};

/// Far enough for everything in the scene.
pub const FAR: f32 = 1e4;

/// Sky light of the room, from below to above.
const SKY: [Vec3; 2] = [Vec3::new(0.07, 0.06, 0.055), Vec3::new(0.2, 0.235, 0.29)];

/// Distance beyond which nothing darkens the sky light.
const OCCLUSION_REACH: f32 = 2.5;

/// What a ray met, in the world.
pub struct Found<'a> {
    /// Object ID.
    pub id: u32,
    /// Surface.
    pub material: &'a Material,
    /// Place.
    pub point: Vec3,
    /// Unit normal with relief, toward the viewer's side.
    pub normal: Vec3,
    /// Colour of the surface.
    pub colour: Vec3,
    /// Texture coordinates.
    pub uv: Vec2,
    /// Turn of the object about the world's y axis to the next frame, radians.
    pub spin: f32,
}

/// Repeatable numbers in 0..1 for the choices of one sample of a pixel.
///
/// The first eight choices of all samples of a pixel fill their ranges evenly (an additive recurrence by
/// powers of the root of x⁹ = x + 1, the d-dimensional golden ratio for d = 8, shifted by a hash of the
/// pixel); later ones are plain hashes. That leaves far less noise than dice for the same rays.
#[derive(Clone, Copy)]
pub struct Dice {
    /// Number of the pixel.
    pub pixel: u32,
    /// Number of the sample in its pixel.
    pub sample: u32,
    choice: u32,
}

/// Steps of the recurrence: φ⁻¹ … φ⁻⁸ with φ = 1.0850702.
const STEPS: [f32; 8] =
    [0.921_599, 0.849_345, 0.782_755, 0.721_386, 0.664_829, 0.612_706, 0.564_669, 0.520_398];

impl Dice {
    /// Dice for a sample.
    pub fn new(pixel: u32, sample: u32) -> Self {
        Self { pixel, sample, choice: 0 }
    }

    /// The next number.
    pub fn roll(&mut self) -> f32 {
        let choice = self.choice;
        self.choice += 1;
        match STEPS.get(choice as usize) {
            Some(step) => (hash(self.pixel, choice) + step * (self.sample + 1) as f32).fract(),
            None => hash(self.pixel.wrapping_add(self.sample.wrapping_mul(0x9e37_79b9)), choice),
        }
    }
}

/// PCG output permutation (O'Neill 2014, RXS-M-XS on 32 bits) of two numbers, in 0..1.
fn hash(a: u32, b: u32) -> f32 {
    let x = (a ^ b.wrapping_mul(0x85eb_ca6b)).wrapping_mul(747_796_405).wrapping_add(2_891_336_453);
    let w = ((x >> ((x >> 28) + 4)) ^ x).wrapping_mul(277_803_737);
    // 24 bits, so that the result stays under 1.
    (((w >> 22) ^ w) >> 8) as f32 / 16_777_216.0
}

/// The nearest surface along a ray.
pub fn find<'a>(scene: &'a Scene, ray: &Ray) -> Option<Found<'a>> {
    let (hit, placed) = scene.tree.nearest(ray, FAR)?;
    Some(surface(scene, ray, hit, placed))
}

fn surface<'a>(scene: &'a Scene, ray: &Ray, hit: Hit, placed: &Placed) -> Found<'a> {
    let material = &scene.materials[placed.material];
    let mut normal = if hit.normal.dot(ray.direction) > 0.0 { -hit.normal } else { hit.normal };
    let slope = material.paint.slope(hit.uv);
    if slope != Vec2::ZERO && normal.z > 0.5 {
        let u = Vec3::Y.cross(normal).normalize();
        normal = (normal - u * slope.x - normal.cross(u) * slope.y).normalize();
    }
    Found {
        id: placed.id,
        material,
        point: ray.at(hit.t),
        normal,
        colour: scene.colour(placed.id, material, hit.uv),
        uv: hit.uv,
        spin: placed.spin,
    }
}

fn sky(direction: Vec3) -> Vec3 {
    SKY[0].lerp(SKY[1], 0.5 + 0.5 * direction.y)
}

/// Light from all around that only the true re-render has, from a direction of the world.
fn added_around(scene: &Scene, direction: Vec3) -> Vec3 {
    scene.around.map_or(Vec3::ZERO, |around| around.at(direction.normalize()))
}

/// What a metal or a coat mirrors: the room as a gradient with a broad window of light.
fn mirrored_room(direction: Vec3) -> Vec3 {
    let window = Vec3::new(0.5, 0.55, 0.68).normalize();
    let strip = (direction.dot(window) - 0.8).max(0.0) * 5.0;
    sky(direction) + Vec3::new(0.95, 1.0, 1.1) * (strip * strip).min(1.0)
}

fn across(n: Vec3, dice: &mut Dice) -> Vec3 {
    // Cosine-weighted: a point of the unit sphere added to the normal.
    let (z, a) = (1.0 - 2.0 * dice.roll(), dice.roll() * TAU);
    let r = (1.0 - z * z).max(0.0).sqrt();
    (n + Vec3::new(r * a.cos(), r * a.sin(), z)).normalize_or(n)
}

/// Light that leaves a surface, and the diffuse part of it.
#[derive(Clone, Copy, Default)]
pub struct Light {
    /// All of it.
    pub all: Vec3,
    /// What comes back from within the surface.
    pub diffuse: Vec3,
}

impl Light {
    fn matt(diffuse: Vec3) -> Self {
        Self { all: diffuse, diffuse }
    }

    fn times(self, by: Vec3) -> Self {
        Self { all: self.all * by, diffuse: self.diffuse * by }
    }

    fn over(self, by: f32) -> Self {
        Self { all: self.all / by, diffuse: self.diffuse / by }
    }

    fn add(&mut self, other: Self) {
        self.all += other.all;
        self.diffuse += other.diffuse;
    }
}

/// Share of incoming light that a surface sends toward `v`: diffuse and mirrored, times the cosine.
///
/// GGX (Walter et al. 2007) in the textbook form, written apart from `jugata_core` on purpose.
fn answer(at: &Found<'_>, v: Vec3, l: Vec3) -> Light {
    let (nl, nv) = (at.normal.dot(l), at.normal.dot(v));
    if nl <= 0.0 || nv <= 0.0 {
        return Light::default();
    }
    let m = at.material;
    let diffuse = if m.metal { Vec3::ZERO } else { at.colour / PI };
    if m.f0 == 0.0 {
        return Light::matt(diffuse * nl);
    }
    let h = (l + v).normalize();
    let (nh, vh) = (at.normal.dot(h).max(0.0), v.dot(h).max(0.0));
    let a2 = m.alpha * m.alpha;
    let d = a2 / (PI * (nh * nh * (a2 - 1.0) + 1.0).powi(2));
    let g = |c: f32| 2.0 * c / (c + (a2 + (1.0 - a2) * c * c).sqrt());
    let f0 = if m.metal { at.colour * m.f0 } else { Vec3::splat(m.f0) };
    let f = f0 + (Vec3::ONE - f0) * (1.0 - vh).powi(5);
    Light { all: (diffuse + f * (d * g(nl) * g(nv) / (4.0 * nl * nv))) * nl, diffuse: diffuse * nl }
}

/// Light that leaves the surface along `-ray.direction`. `depth` bounds the mirrored bounces.
pub fn radiance(
    scene: &Scene,
    ray: &Ray,
    at: &Found<'_>,
    added: &[AddedLamp],
    dice: &mut Dice,
    depth: u32,
) -> Light {
    let v = -ray.direction.normalize();
    let m = at.material;
    let start = at.point + at.normal * 1e-3;
    let mut light = Light::matt(at.colour * m.glow);
    // The area lamp: one point of its ball a sample. It hangs in its own bulb, which casts no shadow.
    let toward = scene.lamp + across(Vec3::ZERO, dice) * scene.lamp_radius - start;
    let distance = toward.length();
    let l = toward / distance;
    if at.normal.dot(l) > 0.0 && !scene.tree.blocked(&Ray { origin: start, direction: toward }, 0.999) {
        light.add(answer(at, v, l).times(scene.lamp_power).over(distance * distance));
    }
    for lamp in added {
        light.add(from_added(scene, at, v, start, lamp, dice));
    }
    // Sky light with one ray of occlusion.
    let up = across(at.normal, dice);
    let open = !scene.tree.blocked(&Ray { origin: start, direction: up }, OCCLUSION_REACH);
    let ambient = if open { sky(up) + added_around(scene, up) } else { SKY[0] * 0.35 };
    if !m.metal {
        light.add(Light::matt(at.colour * ambient));
    }
    if m.f0 > 0.0 && depth > 0 {
        light.all += mirror(scene, at, v, start, added, dice, depth);
    }
    light
}

fn mirror(
    scene: &Scene,
    at: &Found<'_>,
    v: Vec3,
    start: Vec3,
    added: &[AddedLamp],
    dice: &mut Dice,
    depth: u32,
) -> Vec3 {
    let m = at.material;
    let spread = (across(at.normal, dice) - at.normal) * (m.alpha * m.alpha);
    let n = (at.normal + spread).normalize_or(at.normal);
    let cosine = n.dot(v).max(0.0);
    let direction = 2.0 * n.dot(v) * n - v;
    let f0 = if m.metal { at.colour * m.f0 } else { Vec3::splat(m.f0) };
    let f = f0 + (Vec3::ONE - f0) * (1.0 - cosine).powi(5) * (1.0 - m.alpha);
    let ray = Ray { origin: start, direction };
    let seen = match find(scene, &ray) {
        Some(found) => radiance(scene, &ray, &found, added, dice, depth - 1).all,
        None => mirrored_room(direction) + added_around(scene, direction),
    };
    // A second bounce is bounded harder: a bulb mirrored in a rough metal would leave white dots.
    f * seen.min(Vec3::splat(2.0))
}

fn from_added(
    scene: &Scene,
    at: &Found<'_>,
    v: Vec3,
    start: Vec3,
    lamp: &AddedLamp,
    dice: &mut Dice,
) -> Light {
    let power = Vec3::from(lamp.power);
    let to_world = scene.world_to_camera.inverse();
    let place = |p: [f32; 3]| to_world.transform_point3(p.into());
    let from_point = |p: [f32; 3]| {
        let toward = place(p) - at.point;
        (toward, power / toward.length_squared())
    };
    let (toward, far, irradiance) = match lamp.place {
        LampPlace::Directional(d) => (to_world.transform_vector3(d.into()).normalize(), FAR, power),
        LampPlace::Point(p) => {
            let (toward, irradiance) = from_point(p);
            (toward, 1.0, irradiance)
        }
        LampPlace::Spot { at: p, aim, cone, soft } => {
            let (toward, irradiance) = from_point(p);
            let axis = (place(aim) - place(p)).normalize();
            let half = (cone / 2.0).to_radians();
            let (outer, inner) = (half.cos(), (half * (1.0 - soft)).cos());
            let ramp = ((axis.dot(-toward.normalize()) - outer) / (inner - outer).max(1e-6)).clamp(0.0, 1.0);
            (toward, 1.0, irradiance * ramp * ramp)
        }
    };
    if irradiance == Vec3::ZERO {
        return Light::default();
    }
    if lamp.shadows {
        // A place of its ball, each sample another.
        let off = if lamp.size > 0.0 { across(Vec3::ZERO, dice) * lamp.size } else { Vec3::ZERO };
        if scene.tree.blocked(&Ray { origin: start, direction: toward + off }, far * 0.999) {
            return Light::default();
        }
    }
    answer(at, v, toward.normalize()).times(irradiance)
}
