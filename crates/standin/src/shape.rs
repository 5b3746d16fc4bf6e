//! Shapes and their intersection with rays.

use glam::{Affine3A, Mat3, Vec2, Vec3};
use std::f32::consts::{PI, TAU};

/// A ray; `direction` need not be unit, distances are in its multiples.
#[derive(Clone, Copy, Debug)]
pub struct Ray {
    /// Start.
    pub origin: Vec3,
    /// Direction.
    pub direction: Vec3,
}

impl Ray {
    /// The point at distance `t`.
    pub fn at(&self, t: f32) -> Vec3 {
        self.origin + self.direction * t
    }
}

/// That a ray meets a shape: all that the search for the nearest needs to know. What the surface is like there is worked
/// out for the nearest alone, by [`Placed::hit`].
#[derive(Clone, Copy, Debug)]
pub struct Meeting {
    /// Distance along the ray.
    pub t: f32,
    /// Where, in the shape's own space.
    at: Vec3,
    /// Which part of the shape.
    part: Part,
}

/// Parts of a shape whose surfaces are told apart.
#[derive(Clone, Copy, Debug)]
enum Part {
    /// What goes round it, or all of it.
    Side,
    /// Its lower end, or a disc seen from below.
    Lower,
    /// Its upper end, or a disc seen from above.
    Upper,
}

/// The surface of a shape where a ray meets it.
#[derive(Clone, Copy, Debug)]
pub struct Hit {
    /// Distance along the ray.
    pub t: f32,
    /// Outward unit normal.
    pub normal: Vec3,
    /// Texture coordinates, 0..1.
    pub uv: Vec2,
}

/// A shape around the origin of its own space.
#[derive(Clone, Copy, Debug)]
pub enum Shape {
    /// Radius 1.
    Sphere,
    /// From −half to half on each axis.
    Box {
        /// Half the size.
        half: Vec3,
    },
    /// The same with waves on its front (+z): see [`relief`].
    Relief {
        /// Half the size without the waves.
        half: Vec3,
        /// How far they go to either side.
        depth: f32,
    },
    /// Around y, from 0 to `height`, capped, narrowing from `bottom` to `top` radius (a cone if 0).
    Frustum {
        /// Radius at y = 0.
        bottom: f32,
        /// Radius at y = `height`.
        top: f32,
        /// Length.
        height: f32,
        /// Whether the ends are closed.
        capped: bool,
    },
    /// Around y.
    Torus {
        /// Radius of the ring.
        ring: f32,
        /// Radius of the tube.
        tube: f32,
    },
    /// In the plane y = 0, with a hole in the middle and `holes` round ones on a circle.
    Disc {
        /// Outer radius.
        outer: f32,
        /// Radius of the middle hole.
        inner: f32,
        /// Number of round holes half way out.
        holes: u32,
    },
    /// A triangle without thickness, with corners at (0, 0), (1, 0) and (0, 1) of the plane z = 0.
    Triangle {
        /// Texture coordinates of its corners.
        uv: [Vec2; 3],
    },
}

/// Nearest distance that counts as a hit: keeps a ray from meeting the surface it left.
pub const NEAR: f32 = 2e-4;

impl Shape {
    /// Corners of the bounding box.
    pub fn bounds(&self) -> [Vec3; 2] {
        match *self {
            Self::Sphere => [-Vec3::ONE, Vec3::ONE],
            Self::Box { half } => [-half, half],
            Self::Relief { half, depth } => [-half, half + Vec3::Z * depth],
            Self::Frustum { bottom, top, height, .. } => {
                let r = bottom.max(top);
                [Vec3::new(-r, 0.0, -r), Vec3::new(r, height, r)]
            }
            Self::Torus { ring, tube } => {
                let half = Vec3::new(ring + tube, tube, ring + tube);
                [-half, half]
            }
            Self::Disc { outer, .. } => {
                let half = Vec3::new(outer, 1e-3, outer);
                [-half, half]
            }
            Self::Triangle { .. } => [Vec3::Z * -1e-3, Vec3::new(1.0, 1.0, 1e-3)],
        }
    }

    /// The nearest place between [`NEAR`] and `far` where a ray meets it.
    pub fn meets(&self, ray: &Ray, far: f32) -> Option<Meeting> {
        match *self {
            Self::Sphere => sphere(ray, far),
            Self::Box { half } => cuboid(ray, half, far),
            Self::Relief { half, depth } => waves(ray, half, depth, far),
            Self::Frustum { bottom, top, height, capped } => frustum(ray, bottom, top, height, capped, far),
            Self::Torus { ring, tube } => torus(ray, ring, tube, far),
            Self::Disc { outer, inner, holes } => disc(ray, outer, inner, holes, far),
            Self::Triangle { .. } => triangle(ray, far),
        }
    }

    /// The surface where a ray meets it: the outward unit normal, and where that is in the texture.
    fn surface(&self, meeting: &Meeting) -> (Vec3, Vec2) {
        let p = meeting.at;
        match *self {
            Self::Sphere => sphere_surface(p),
            Self::Box { half } => cuboid_surface(p, half),
            Self::Relief { half, depth } => waves_surface(p, half, depth),
            Self::Frustum { bottom, top, height, .. } => {
                frustum_surface(p, meeting.part, bottom, top, height)
            }
            Self::Torus { ring, .. } => torus_surface(p, ring),
            Self::Disc { outer, .. } => disc_surface(p, meeting.part, outer),
            Self::Triangle { uv } => triangle_surface(p, meeting.part, uv),
        }
    }
}

fn within(t: f32, far: f32) -> bool {
    t > NEAR && t < far
}

/// Longitude and latitude as 0..1.
fn sphere_uv(p: Vec3) -> Vec2 {
    Vec2::new(0.5 + p.x.atan2(p.z) / TAU, 0.5 + p.y.clamp(-1.0, 1.0).asin() / PI)
}

fn sphere_surface(p: Vec3) -> (Vec3, Vec2) {
    let normal = p.normalize();
    (normal, sphere_uv(normal))
}

fn side(t: f32, at: Vec3) -> Meeting {
    Meeting { t, at, part: Part::Side }
}

fn sphere(ray: &Ray, far: f32) -> Option<Meeting> {
    let a = ray.direction.length_squared();
    let b = ray.origin.dot(ray.direction);
    let c = ray.origin.length_squared() - 1.0;
    let d = b * b - a * c;
    if d < 0.0 {
        return None;
    }
    let root = d.sqrt();
    let t = [(-b - root) / a, (-b + root) / a].into_iter().find(|&t| within(t, far))?;
    Some(side(t, ray.at(t)))
}

fn cuboid(ray: &Ray, half: Vec3, far: f32) -> Option<Meeting> {
    let inverse = ray.direction.recip();
    let (a, b) = ((-half - ray.origin) * inverse, (half - ray.origin) * inverse);
    let (low, high) = (a.min(b), a.max(b));
    let (enter, leave) = (low.max_element(), high.min_element());
    if enter > leave {
        return None;
    }
    let t = [enter, leave].into_iter().find(|&t| within(t, far))?;
    Some(side(t, ray.at(t)))
}

fn cuboid_surface(p: Vec3, half: Vec3) -> (Vec3, Vec2) {
    let p = p / half;
    let m = p.abs();
    let (normal, uv) = if m.x >= m.y && m.x >= m.z {
        (Vec3::X * p.x.signum(), Vec2::new(-p.z * p.x.signum(), p.y))
    } else if m.y >= m.z {
        (Vec3::Y * p.y.signum(), Vec2::new(p.x, -p.z * p.y.signum()))
    } else {
        (Vec3::Z * p.z.signum(), Vec2::new(p.x * p.z.signum(), p.y))
    };
    (normal, uv * 0.5 + 0.5)
}

/// Waves of 0.9 units to and fro along both axes, −1..=1.
pub fn relief(x: f32, y: f32) -> f32 {
    (x * WAVES).sin() * (y * WAVES).sin()
}

const WAVES: f32 = TAU / 0.9;

/// The front of a box with waves on it, found by steps that cannot go through (its slope is at most `depth · WAVES`).
fn waves(ray: &Ray, half: Vec3, depth: f32, far: f32) -> Option<Meeting> {
    let inverse = ray.direction.recip();
    let (low, high) = (Vec3::new(-half.x, -half.y, half.z - depth), half + Vec3::Z * depth);
    let (a, b) = ((low - ray.origin) * inverse, (high - ray.origin) * inverse);
    let (mut t, leave) = (a.min(b).max_element().max(NEAR), a.max(b).min_element().min(far));
    let over = |t: f32| {
        let p = ray.at(t);
        (p.z - half.z) - depth * relief(p.x, p.y)
    };
    let reach = ray.direction.length() * (1.0 + (depth * WAVES).powi(2)).sqrt();
    for _ in 0..400 {
        if t >= leave {
            return None;
        }
        let above = over(t);
        if above < 1e-5 && ray.direction.z < 0.0 {
            return Some(side(t, ray.at(t)));
        }
        t += above.abs().max(1e-5) / reach;
    }
    None
}

fn waves_surface(p: Vec3, half: Vec3, depth: f32) -> (Vec3, Vec2) {
    let (sx, cx) = (p.x * WAVES).sin_cos();
    let (sy, cy) = (p.y * WAVES).sin_cos();
    let slope = Vec2::new(cx * sy, sx * cy) * (depth * WAVES);
    let uv = Vec2::new(p.x / half.x, p.y / half.y) * 0.5 + 0.5;
    (Vec3::new(-slope.x, -slope.y, 1.0).normalize(), uv)
}

fn frustum(ray: &Ray, bottom: f32, top: f32, height: f32, capped: bool, far: f32) -> Option<Meeting> {
    let mut best: Option<Meeting> = None;
    let mut offer = |meeting: Meeting| {
        if within(meeting.t, best.map_or(far, |m| m.t)) {
            best = Some(meeting);
        }
    };
    let slope = (top - bottom) / height;
    let (o, d) = (ray.origin, ray.direction);
    // x² + z² = (bottom + slope·y)²
    let (r0, rd) = (bottom + slope * o.y, slope * d.y);
    let a = d.x * d.x + d.z * d.z - rd * rd;
    let b = o.x * d.x + o.z * d.z - r0 * rd;
    let c = o.x * o.x + o.z * o.z - r0 * r0;
    let disc = b * b - a * c;
    if disc >= 0.0 && a.abs() > 1e-12 {
        for t in [(-b - disc.sqrt()) / a, (-b + disc.sqrt()) / a] {
            let p = ray.at(t);
            if (0.0..=height).contains(&p.y) && bottom + slope * p.y >= 0.0 {
                offer(side(t, p));
            }
        }
    }
    if capped && d.y.abs() > 1e-12 {
        for (y, r, part) in [(0.0, bottom, Part::Lower), (height, top, Part::Upper)] {
            let t = (y - o.y) / d.y;
            let at = ray.at(t);
            if at.x * at.x + at.z * at.z <= r * r {
                offer(Meeting { t, at, part });
            }
        }
    }
    best
}

fn frustum_surface(p: Vec3, part: Part, bottom: f32, top: f32, height: f32) -> (Vec3, Vec2) {
    let end = |r: f32| Vec2::new(p.x, -p.z) / (2.0 * r) + 0.5;
    match part {
        Part::Side => {
            let out = Vec3::new(p.x, 0.0, p.z).normalize_or(Vec3::X);
            let normal = (out - Vec3::Y * ((top - bottom) / height)).normalize();
            (normal, Vec2::new(0.5 + p.x.atan2(p.z) / TAU, p.y / height))
        }
        Part::Lower => (-Vec3::Y, end(bottom)),
        Part::Upper => (Vec3::Y, end(top)),
    }
}

/// Solves the quartic of the torus on the stretch of the ray that can meet it.
fn torus(ray: &Ray, ring: f32, tube: f32, far: f32) -> Option<Meeting> {
    let (from, to) = torus_stretch(ray, ring, tube, far)?;
    // Measured from the middle of the stretch, in f64, so that the coefficients stay small.
    let middle = (from + to) * 0.5;
    let (o, d) = (ray.at(middle).as_dvec3(), ray.direction.as_dvec3());
    let (r, t) = (f64::from(ring), f64::from(tube));
    // (|p|² + R² − r²)² = 4R²(px² + pz²) along p = o + s·d.
    let (dd, od, k) = (d.dot(d), o.dot(d), o.dot(o) + r * r - t * t);
    let flat = |a: glam::DVec3, b: glam::DVec3| 4.0 * r * r * (a.x * b.x + a.z * b.z);
    let quartic = [
        k * k - flat(o, o),
        4.0 * od * k - 2.0 * flat(o, d),
        2.0 * dd * k + 4.0 * od * od - flat(d, d),
        4.0 * dd * od,
        dd * dd,
    ];
    let half = f64::from(to - from) * 0.5;
    let s = crate::polynomial::roots(&quartic, -half, half).next()?;
    Some(side(middle + s as f32, (o + d * s).as_vec3()))
}

fn torus_surface(p: Vec3, ring: f32) -> (Vec3, Vec2) {
    let around = Vec2::new(p.x, p.z);
    let axis = around.normalize_or(Vec2::X) * ring;
    let normal = (p - Vec3::new(axis.x, 0.0, axis.y)).normalize();
    let uv = Vec2::new(0.5 + p.x.atan2(p.z) / TAU, 0.5 + p.y.atan2(around.length() - ring) / TAU);
    (normal, uv)
}

/// The part of the ray inside the flat ring that encloses the torus; most rays pass it by.
fn torus_stretch(ray: &Ray, ring: f32, tube: f32, far: f32) -> Option<(f32, f32)> {
    let (o, d) = (ray.origin, ray.direction);
    // A little wider than the torus, so that no root lies on an end of the stretch.
    let tube = tube * 1.01;
    let (a, b) = ((-tube - o.y) / d.y, (tube - o.y) / d.y);
    let (mut from, mut to) = (a.min(b).max(NEAR), a.max(b).min(far));
    let outer = ring + tube;
    let flat = |u: Vec3, v: Vec3| u.x * v.x + u.z * v.z;
    let (dd, od) = (flat(d, d), flat(o, d));
    let disc = od * od - dd * (flat(o, o) - outer * outer);
    if disc < 0.0 {
        return None;
    }
    if dd > 1e-12 {
        from = from.max((-od - disc.sqrt()) / dd);
        to = to.min((-od + disc.sqrt()) / dd);
    }
    let inside = |t: f32| flat(ray.at(t), ray.at(t)) < (ring - tube) * (ring - tube);
    // The inner disc is convex: a stretch with both ends in it stays in it.
    (from < to && !(inside(from) && inside(to))).then_some((from, to))
}

fn disc(ray: &Ray, outer: f32, inner: f32, holes: u32, far: f32) -> Option<Meeting> {
    let t = -ray.origin.y / ray.direction.y;
    if !within(t, far) {
        return None;
    }
    let p = ray.at(t);
    let at = Vec2::new(p.x, p.z);
    let r = at.length();
    if r > outer || r < inner {
        return None;
    }
    if holes > 0 {
        let middle = (outer + inner) * 0.5;
        let sector = TAU / holes as f32;
        let angle = (p.x.atan2(p.z) / sector).round() * sector;
        let centre = Vec2::new(angle.sin(), angle.cos()) * middle;
        let radius = ((outer - inner) * 0.33).min(middle * (sector * 0.5).sin() * 0.8);
        if at.distance(centre) < radius {
            return None;
        }
    }
    let part = if ray.direction.y < 0.0 { Part::Upper } else { Part::Lower };
    Some(Meeting { t, at: p, part })
}

fn disc_surface(p: Vec3, part: Part, outer: f32) -> (Vec3, Vec2) {
    let normal = if matches!(part, Part::Upper) { Vec3::Y } else { -Vec3::Y };
    (normal, Vec2::new(p.x, -p.z) / (2.0 * outer) + 0.5)
}

fn triangle(ray: &Ray, far: f32) -> Option<Meeting> {
    let t = -ray.origin.z / ray.direction.z;
    if !within(t, far) {
        return None;
    }
    let p = ray.at(t);
    if p.x < 0.0 || p.y < 0.0 || p.x + p.y > 1.0 {
        return None;
    }
    let part = if ray.direction.z < 0.0 { Part::Upper } else { Part::Lower };
    Some(Meeting { t, at: p, part })
}

fn triangle_surface(p: Vec3, part: Part, uv: [Vec2; 3]) -> (Vec3, Vec2) {
    let normal = if matches!(part, Part::Upper) { Vec3::Z } else { -Vec3::Z };
    (normal, uv[0] + (uv[1] - uv[0]) * p.x + (uv[2] - uv[0]) * p.y)
}

/// A shape placed in the world.
#[derive(Clone, Copy, Debug)]
pub struct Placed {
    shape: Shape,
    to_local: Affine3A,
    to_world: Affine3A,
    normals: Mat3,
    /// Object ID, from 1.
    pub id: u32,
    /// Index of the material.
    pub material: usize,
    /// Turn about the world's y axis from one frame to the next, radians.
    pub spin: f32,
}

impl Placed {
    /// Places a shape that stands still. The transform must be invertible.
    pub fn new(shape: Shape, to_world: Affine3A, id: u32, material: usize) -> Self {
        let to_local = to_world.inverse();
        let normals = Mat3::from(to_local.matrix3).transpose();
        Self { shape, to_local, to_world, normals, id, material, spin: 0.0 }
    }

    /// The shape as it stands at a frame, turning by `spin` a frame about the world's y axis.
    pub fn turning(self, spin: f32, frame: f32) -> Self {
        // What stands keeps its numbers to the last bit.
        if spin * frame == 0.0 {
            return Self { spin, ..self };
        }
        let turned = Affine3A::from_rotation_y(spin * frame) * self.to_world;
        Self { spin, ..Self::new(self.shape, turned, self.id, self.material) }
    }

    /// Corners of the bounding box in the world.
    pub fn bounds(&self) -> [Vec3; 2] {
        let [low, high] = self.shape.bounds();
        let mut out = [Vec3::INFINITY, Vec3::NEG_INFINITY];
        for i in 0..8 {
            let pick = |bit: u32, c: usize| if i >> bit & 1 == 0 { low[c] } else { high[c] };
            let p = self.to_world.transform_point3(Vec3::new(pick(0, 0), pick(1, 1), pick(2, 2)));
            out = [out[0].min(p), out[1].max(p)];
        }
        out
    }

    /// The nearest place before `far` where a ray meets it; distances keep their meaning.
    pub fn meets(&self, ray: &Ray, far: f32) -> Option<Meeting> {
        let local = Ray {
            origin: self.to_local.transform_point3(ray.origin),
            direction: self.to_local.transform_vector3(ray.direction),
        };
        self.shape.meets(&local, far)
    }

    /// The surface where a ray meets it, its normal in the world.
    pub fn hit(&self, meeting: &Meeting) -> Hit {
        let (normal, uv) = self.shape.surface(meeting);
        Hit { t: meeting.t, normal: (self.normals * normal).normalize(), uv }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shoot(shape: Shape, origin: [f32; 3], direction: [f32; 3]) -> Option<Hit> {
        let ray = Ray { origin: origin.into(), direction: direction.into() };
        let placed = Placed::new(shape, Affine3A::IDENTITY, 1, 0);
        placed.meets(&ray, f32::INFINITY).map(|m| placed.hit(&m))
    }

    #[track_caller]
    fn hits(shape: Shape, origin: [f32; 3], direction: [f32; 3], t: f32, normal: [f32; 3]) {
        let hit = shoot(shape, origin, direction).expect("a hit");
        assert!((hit.t - t).abs() < 1e-4 && hit.normal.distance(normal.into()) < 1e-3, "{hit:?}");
    }

    #[test]
    fn shapes_are_hit_where_geometry_says() {
        hits(Shape::Sphere, [0.0, 0.0, 5.0], [0.0, 0.0, -2.0], 2.0, [0.0, 0.0, 1.0]);
        hits(
            Shape::Box { half: Vec3::new(1.0, 2.0, 3.0) },
            [5.0, 0.0, 0.0],
            [-1.0, 0.0, 0.0],
            4.0,
            [1.0, 0.0, 0.0],
        );
        let tube = Shape::Frustum { bottom: 1.0, top: 1.0, height: 2.0, capped: true };
        hits(tube, [0.0, 5.0, 0.0], [0.0, -1.0, 0.0], 3.0, [0.0, 1.0, 0.0]);
        hits(tube, [0.0, 1.0, 4.0], [0.0, 0.0, -1.0], 3.0, [0.0, 0.0, 1.0]);
        // A crest of the waves, and how they fall half way down: 0.1·(2π/0.9)·cos 45° in the other direction sin 90°.
        let waves = Shape::Relief { half: Vec3::new(2.0, 2.0, 0.5), depth: 0.1 };
        hits(waves, [0.225, 0.225, 5.0], [0.0, 0.0, -1.0], 4.4, [0.0, 0.0, 1.0]);
        let fall = Vec3::new(-0.1 * TAU / 0.9 * 0.5f32.sqrt(), 0.0, 1.0).normalize();
        hits(waves, [0.1125, 0.225, 5.0], [0.0, 0.0, -1.0], 4.5 - 0.1 * 0.5f32.sqrt(), fall.to_array());
        let cone = Shape::Frustum { bottom: 1.0, top: 0.0, height: 1.0, capped: true };
        let n = 0.5f32.sqrt();
        hits(cone, [4.0, 0.5, 0.0], [-1.0, 0.0, 0.0], 3.5, [n, n, 0.0]);
        let torus = Shape::Torus { ring: 2.0, tube: 0.5 };
        hits(torus, [5.0, 0.0, 0.0], [-1.0, 0.0, 0.0], 2.5, [1.0, 0.0, 0.0]);
        assert!(shoot(torus, [0.0, 5.0, 0.0], [0.0, -1.0, 0.0]).is_none(), "through the hole");
    }

    #[test]
    fn discs_have_holes() {
        let gear = Shape::Disc { outer: 2.0, inner: 0.5, holes: 6 };
        assert!(shoot(gear, [0.0, 1.0, 0.0], [0.0, -1.0, 0.0]).is_none());
        assert!(shoot(gear, [0.0, 1.0, 1.25], [0.0, -1.0, 0.0]).is_none());
        assert!(shoot(gear, [0.0, 1.0, 1.9], [0.0, -1.0, 0.0]).is_some());
    }

    #[test]
    fn triangles_end_at_their_sides_and_have_two() {
        let uv = [Vec2::ZERO, Vec2::X, Vec2::new(0.5, 1.0)];
        let sheet = Shape::Triangle { uv };
        assert!(shoot(sheet, [0.6, 0.6, 1.0], [0.0, 0.0, -1.0]).is_none());
        for side in [1.0, -1.0] {
            let hit = shoot(sheet, [0.2, 0.4, side], [0.0, 0.0, -side]).unwrap();
            assert!(hit.normal.distance(Vec3::Z * side) < 1e-6);
            assert!(hit.uv.distance(Vec2::new(0.4, 0.4)) < 1e-6, "{}", hit.uv);
        }
    }

    #[test]
    fn placed_shapes_scale_and_turn() {
        let place = Affine3A::from_scale_rotation_translation(
            Vec3::splat(2.0),
            glam::Quat::from_rotation_y(1.0),
            Vec3::new(0.0, 0.0, -10.0),
        );
        let ball = Placed::new(Shape::Sphere, place, 1, 0);
        let ray = Ray { origin: Vec3::ZERO, direction: -Vec3::Z };
        let hit = ball.hit(&ball.meets(&ray, 1e9).unwrap());
        assert!((hit.t - 8.0).abs() < 1e-4 && hit.normal.distance(Vec3::Z) < 1e-4);
    }
}
