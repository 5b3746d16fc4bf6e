//! A different room for each seed: the test bed of everything that must hold outside the orrery.
//!
//! Bodies are placed by where the camera will see them, so that any pose and any focal length gives a full picture:
//! bodies of every shape at all depths, thin rods, fences before bright small bodies, nested rings, bodies that touch
//! or cross each other, cards at nearly equal depths, tilted floors, walls with windows to nothing. The world is said to
//! be of any unit from 0.001 to 1000, anywhere, with y or z up.

use crate::bvh::Tree;
use crate::material::{Material, Paint};
use crate::scene::{Builder, Outside, Scene};
use crate::shade;
use crate::shape::{Ray, Shape};
use fastrand::Rng;
use glam::{Affine3A, Mat4, Quat, Vec2, Vec3};
use std::f32::consts::{PI, TAU};

/// How many rooms are tried until one shows enough; each try is as likely to be good as the last.
const TRIES: u64 = 64;

/// The number of the room of a seed: the first of its tries that shows enough.
pub fn good(seed: u64) -> u64 {
    let tried = |k: u64| seed.wrapping_mul(TRIES).wrapping_add(k);
    // What a room shows is judged at frame 0, so that all frames of a seed are of one room.
    (0..TRIES - 1).map(tried).find(|&room| shows_enough(&built(room, 0.0))).unwrap_or(tried(TRIES - 1))
}

/// What a ray of a coarse grid over the picture meets.
struct Probe {
    at: Vec3,
    z: f32,
    id: u32,
}

/// Rays of the grid, across and down.
const GRID: [usize; 2] = [32, 18];

fn probes(scene: &Scene) -> Vec<Probe> {
    let to_world = scene.world_to_camera.inverse();
    let half = scene.sensor / scene.focal * 0.5;
    let [across, down] = GRID;
    let ray = |i: usize| {
        let (x, y) = ((i % across) as f32 + 0.5, (i / across) as f32 + 0.5);
        let at = Vec2::new(2.0 * x / across as f32 - 1.0, (down as f32 - 2.0 * y) / across as f32) * half;
        Ray {
            origin: to_world.transform_point3(Vec3::ZERO),
            direction: to_world.transform_vector3(at.extend(-1.0)),
        }
    };
    (0..across * down)
        .filter_map(|i| {
            let (ray, found) = (ray(i), shade::find(scene, &ray(i))?);
            let z = (found.point - ray.origin).length() / ray.direction.length();
            Some(Probe { at: found.point, z, id: found.id })
        })
        .collect()
}

/// Whether a good part of the picture shows something, several bodies at several distances, and nothing right before the eye.
fn shows_enough(scene: &Scene) -> bool {
    let seen = probes(scene);
    let mut ids: Vec<u32> = seen.iter().map(|p| p.id).collect();
    ids.sort_unstable();
    ids.dedup();
    let (low, high) = seen.iter().fold((f32::INFINITY, 0f32), |(a, b), p| (a.min(p.z), b.max(p.z)));
    let close = seen.iter().filter(|p| p.z < 1.5).count();
    let all = GRID[0] * GRID[1];
    seen.len() > all / 4 && ids.len() >= 3 && low > 0.4 && close < all / 10 && high > 1.15 * low
}

/// Chances and the camera of a room.
struct Room {
    b: Builder,
    rng: Rng,
    to_world: Mat4,
    /// Half the width of the picture at distance 1.
    half: f32,
    /// Nearest and farthest distance at which bodies stand.
    depths: [f32; 2],
    count: u32,
}

fn between(rng: &mut Rng, low: f32, high: f32) -> f32 {
    low + (high - low) * rng.f32()
}

/// A room by its number at a frame.
pub fn built(seed: u64, frame: f32) -> Scene {
    let mut rng = Rng::with_seed(seed ^ 0x5eed_0f7e_1dae_0b5e);
    // From a wide angle to a long lens, as many of each.
    let focal = 18.0 * 6.0f32.powf(rng.f32());
    let sensor = [36.0, 23.5, 13.2][rng.usize(0..3)];
    let near = between(&mut rng, 2.5, 6.0);
    let depths = [near, near * between(&mut rng, 1.5, 6.0)];
    let world_to_camera = pose(&mut rng, 0.5 * (depths[0] + depths[1]));
    let outside = outside(&mut rng);
    let half = 0.5 * sensor / focal;
    let b = Builder::new(&[] as &[&str], frame);
    let mut room = Room { b, rng, to_world: world_to_camera.inverse(), half, depths, count: 0 };
    room.surroundings();
    room.bodies();
    let distance = room.depths[0] + room.rng.f32() * (room.depths[1] - room.depths[0]);
    let (x, y) = (between(&mut room.rng, -0.9, 0.9), between(&mut room.rng, 0.4, 1.2));
    let lamp = room.place(x, y, distance * 0.5);
    let mut scene = Scene {
        tree: Tree::new(room.b.shapes),
        materials: room.b.materials,
        names: room.b.names,
        outside,
        world_to_camera,
        travel: Mat4::IDENTITY,
        focal,
        sensor,
        lamp,
        lamp_radius: 0.02 * distance,
        lamp_power: Vec3::ZERO,
        around: None,
        repaint: None,
    };
    // As bright as suits what is seen, wherever the lamp hangs.
    let mut squares: Vec<f32> = probes(&scene).iter().map(|p| p.at.distance_squared(lamp)).collect();
    squares.sort_unstable_by(f32::total_cmp);
    let bright = squares.get(squares.len() / 3).copied().unwrap_or(1.0) * between(&mut room.rng, 1.5, 3.0);
    scene.lamp_power = Vec3::new(1.0, 0.9, 0.75) * bright;
    scene
}

/// A camera that looks at the origin from some distance, from any side, sometimes from below, sometimes leaning.
fn pose(rng: &mut Rng, distance: f32) -> Mat4 {
    let (around, up) = (rng.f32() * TAU, between(rng, -0.15, 0.9));
    let eye = Vec3::new(up.cos() * around.sin(), up.sin(), up.cos() * around.cos()) * distance;
    let lean = if rng.f32() < 0.3 { between(rng, -0.35, 0.35) } else { 0.0 };
    Mat4::from_rotation_z(lean) * glam::camera::rh::view::look_at_mat4(eye, Vec3::ZERO, Vec3::Y)
}

fn outside(rng: &mut Rng) -> Outside {
    let unit = 10f32.powf(between(rng, -3.0, 3.0));
    let turn = if rng.bool() { Quat::from_rotation_x(PI / 2.0) } else { Quat::IDENTITY };
    let origin =
        Vec3::new(between(rng, -20.0, 20.0), between(rng, -5.0, 5.0), between(rng, -20.0, 20.0)) * unit;
    Outside { unit, turn, origin: if rng.bool() { origin } else { Vec3::ZERO } }
}

impl Room {
    /// The place in the room that the picture shows at `(x, y)`, −1..1 over its width, at a distance along the axis.
    fn place(&self, x: f32, y: f32, z: f32) -> Vec3 {
        self.to_world.transform_point3(Vec3::new(x * self.half * z, y * self.half * z, -z))
    }

    /// A turn that makes a body's z axis look at the eye, and then off it by up to `off` about each axis.
    fn facing(&mut self, off: f32) -> Quat {
        let mut lean = || between(&mut self.rng, -off, off);
        let turn = Quat::from_rotation_y(lean()) * Quat::from_rotation_x(lean());
        Quat::from_mat4(&self.to_world) * turn
    }

    fn any_turn(&mut self) -> Quat {
        let r = &mut self.rng;
        Quat::from_rotation_y(r.f32() * TAU)
            * Quat::from_rotation_x(r.f32() * TAU)
            * Quat::from_rotation_z(r.f32() * TAU)
    }

    fn depth(&mut self) -> f32 {
        // As many in each octave of distance.
        self.depths[0] * (self.depths[1] / self.depths[0]).powf(self.rng.f32())
    }

    fn colour(&mut self) -> Vec3 {
        let r = &mut self.rng;
        let (grey, tint) = (0.04 + 0.7 * r.f32(), Vec3::new(r.f32(), r.f32(), r.f32()));
        (Vec3::splat(grey) * (0.4 + tint)).min(Vec3::splat(0.9))
    }

    fn surface(&mut self) -> usize {
        let (a, b, n) = (self.colour(), self.colour(), 1.0 + (self.rng.f32() * 8.0).floor());
        let paint = match self.rng.usize(0..5) {
            0 | 1 => Paint::Plain(a),
            2 => Paint::Bands(a, b, n),
            3 => Paint::Speckle(a, b, 2.0 + n),
            _ => Paint::Wood,
        };
        let alpha = between(&mut self.rng, 0.08, 0.5);
        let material = match self.rng.usize(0..10) {
            0..5 => Material::matt(paint),
            5..8 => Material::glossy(paint, alpha),
            _ => Material::metal(paint, alpha),
        };
        self.b.material(material)
    }

    fn name(&mut self, what: &str) -> String {
        self.count += 1;
        format!("{what} {}", self.count)
    }

    /// A floor, a wall, both or neither; a third of the rooms hang in nothing.
    fn surroundings(&mut self) {
        let kind = self.rng.usize(0..6);
        let far = self.depths[1];
        if kind < 4 {
            let lean = if self.rng.bool() { between(&mut self.rng, -0.3, 0.3) } else { 0.0 };
            let turn = Quat::from_rotation_z(lean) * Quat::from_rotation_y(self.rng.f32() * TAU);
            let z = self.depth();
            let under = between(&mut self.rng, -0.9, -0.3);
            let at = self.place(0.0, under, z) - turn * Vec3::Y * 0.05;
            let eye = self.to_world.transform_point3(Vec3::ZERO);
            // Seen from above, and not so low that the eye lies in it.
            if (turn * Vec3::Y).dot(eye - at) > 0.5 {
                let (name, material) = (self.name("Floor"), self.surface());
                let half = Vec3::new(far, 0.05, far) * between(&mut self.rng, 1.0, 3.0);
                self.b.put(&name, material, Shape::Box { half: half.with_y(0.05) }, at, turn);
            }
        }
        if kind > 1 && kind < 5 {
            self.wall(far * between(&mut self.rng.clone(), 1.05, 1.6));
        }
    }

    /// A wall across the view; every other has a window to nothing.
    fn wall(&mut self, z: f32) {
        let (name, material, turn) = (self.name("Wall"), self.surface(), self.facing(0.5));
        let side = z * self.half * between(&mut self.rng, 1.2, 2.5);
        let at = self.place(0.0, 0.0, z);
        let mut board = |x: f32, y: f32, w: f32, h: f32| {
            let half = Vec3::new(w * 0.5, h * 0.5, 0.02 * side);
            self.b.put(&name, material, Shape::Box { half }, at + turn * Vec3::new(x, y, 0.0), turn);
        };
        if self.rng.bool() {
            return board(0.0, 0.0, 2.0 * side, 2.0 * side);
        }
        let mut r = || between(&mut self.rng, 0.1, 0.3) * side;
        let (x, y, w, h) = (r() * 2.0 - 0.4 * side, r() - 0.2 * side, r(), r());
        board((x - w - side) * 0.5, 0.0, x - w + side, 2.0 * side);
        board((x + w + side) * 0.5, 0.0, side - x - w, 2.0 * side);
        board(x, (y - h - side) * 0.5, 2.0 * w, y - h + side);
        board(x, (y + h + side) * 0.5, 2.0 * w, side - y - h);
    }

    /// Three to forty bodies, more often few.
    fn bodies(&mut self) {
        let most = 3 + (38.0 * self.rng.f32().powi(2)) as u32;
        let before = self.count;
        while self.count - before < most {
            self.b.spin = if self.rng.f32() < 0.3 { between(&mut self.rng, -0.03, 0.03) } else { 0.0 };
            match self.rng.usize(0..12) {
                0 => self.fence(),
                1 => self.rings(),
                2 => self.pair(),
                3 => self.cards(),
                4 | 5 => self.rod(),
                6 => self.bright(),
                _ => self.lone(),
            }
        }
        self.b.spin = 0.0;
    }

    /// A body of any shape at a place, about as large as a ball of the given radius.
    fn body(&mut self, at: Vec3, radius: f32) {
        let (name, material, turn) = (self.name("Body"), self.surface(), self.any_turn());
        let mut r = || between(&mut self.rng, 0.4, 1.0);
        let (shape, scale) = match (r() * 1000.0) as u32 % 6 {
            0 => (Shape::Sphere, Vec3::ONE),
            1 => (Shape::Sphere, Vec3::new(r(), r(), r())),
            2 => (Shape::Box { half: Vec3::new(r(), r(), r()) }, Vec3::ONE),
            3 => (Shape::Frustum { bottom: r(), top: r() - 0.4, height: 1.5 * r(), capped: true }, Vec3::ONE),
            4 => (Shape::Torus { ring: r(), tube: 0.3 * r() }, Vec3::ONE),
            _ => (Shape::Disc { outer: 1.0, inner: 0.4 * r(), holes: (r() * 8.0) as u32 }, Vec3::ONE),
        };
        let place = Affine3A::from_scale_rotation_translation(scale * radius, turn, at);
        self.b.put_scaled(&name, material, shape, place);
    }

    /// Where a body shall be seen, how far away, and how large it is there.
    fn seen(&mut self, sizes: [f32; 2]) -> (Vec3, f32) {
        let z = self.depth();
        let (x, y) = (between(&mut self.rng, -1.0, 1.0), between(&mut self.rng, -0.6, 0.6));
        let size = sizes[0] * (sizes[1] / sizes[0]).powf(self.rng.f32());
        (self.place(x, y, z), size * self.half * z)
    }

    fn lone(&mut self) {
        let (at, radius) = self.seen([0.04, 0.35]);
        self.body(at, radius);
    }

    /// Two that touch in a point, or that go through each other.
    fn pair(&mut self) {
        let (at, radius) = self.seen([0.06, 0.25]);
        let (name, material, other) = (self.name("Ball"), self.surface(), self.name("Ball"));
        let (more, size) = (self.surface(), between(&mut self.rng, 0.3, 1.0));
        let way = self.any_turn() * Vec3::X;
        let apart = if self.rng.bool() { 1.0 + size } else { 0.5 + 0.5 * size };
        self.b.ball(&name, material, at, radius);
        self.b.ball(&other, more, at + way * (apart * radius), size * radius);
    }

    fn rod(&mut self) {
        let (name, material) = (self.name("Rod"), self.surface());
        let ((a, size), (b, _)) = (self.seen([0.004, 0.03]), self.seen([0.1, 0.1]));
        self.b.rod(&name, material, a, b, size);
    }

    /// Rings in each other, as of a gimbal.
    fn rings(&mut self) {
        let (at, size) = self.seen([0.1, 0.4]);
        for k in 0..self.rng.usize(2..5) {
            let (name, material, turn) = (self.name("Ring"), self.surface(), self.any_turn());
            let ring = size * 0.75f32.powi(k as i32);
            let tube = ring * between(&mut self.rng, 0.02, 0.1);
            self.b.put(&name, material, Shape::Torus { ring, tube }, at, turn);
        }
    }

    /// Uprights and two rails across the view, and something bright behind them.
    fn fence(&mut self) {
        let (name, material, turn) = (self.name("Fence"), self.surface(), self.facing(0.4));
        let z = self.depths[0] + 0.5 * self.rng.f32() * (self.depths[1] - self.depths[0]);
        let (x, y) = (between(&mut self.rng, -0.5, 0.5), between(&mut self.rng, -0.3, 0.3));
        let (at, unit) = (self.place(x, y, z), self.half * z);
        let (posts, gap) = (self.rng.usize(5..14), between(&mut self.rng, 0.04, 0.12) * unit);
        let (tall, thick) =
            (between(&mut self.rng, 0.2, 0.5) * unit, between(&mut self.rng, 0.004, 0.02) * unit);
        let wide = gap * (posts - 1) as f32 * 0.5;
        let to = |x: f32, y: f32| at + turn * Vec3::new(x, y, 0.0);
        for k in 0..posts {
            let x = k as f32 * gap - wide;
            self.b.rod(&name, material, to(x, -tall), to(x, tall), thick);
        }
        for y in [-0.7 * tall, 0.7 * tall] {
            self.b.rod(&name, material, to(-wide, y), to(wide, y), thick);
        }
        let behind = z * between(&mut self.rng, 1.1, 2.5);
        let at = self.place(x, y, behind);
        self.bright_at(at, 0.02 * self.half * behind);
    }

    /// A small body that is much brighter than all else.
    fn bright(&mut self) {
        let (at, size) = self.seen([0.008, 0.04]);
        self.bright_at(at, size);
    }

    fn bright_at(&mut self, at: Vec3, size: f32) {
        let glow = between(&mut self.rng, 4.0, 20.0);
        let material = Material { glow, ..Material::matt(Paint::Plain(self.colour() + 0.1)) };
        let (name, material) = (self.name("Bright"), self.b.material(material));
        self.b.ball(&name, material, at, size);
    }

    /// Boards that face the eye at nearly the same depth, one partly behind the other.
    fn cards(&mut self) {
        let (mut z, mut x, mut y) =
            (self.depth(), between(&mut self.rng, -0.6, 0.6), between(&mut self.rng, -0.3, 0.3));
        for _ in 0..self.rng.usize(2..5) {
            let (name, material, turn) = (self.name("Card"), self.surface(), self.facing(0.15));
            let unit = self.half * z;
            let (w, h) =
                (between(&mut self.rng, 0.06, 0.25) * unit, between(&mut self.rng, 0.06, 0.25) * unit);
            let half = Vec3::new(w, h, 0.004 * unit);
            let at = self.place(x, y, z);
            self.b.put(&name, material, Shape::Box { half }, at, turn);
            z *= between(&mut self.rng, 1.02, 1.3);
            x += between(&mut self.rng, -0.15, 0.15);
            y += between(&mut self.rng, -0.15, 0.15);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::render::{Settings, render};

    fn small(seed: u64) -> Settings {
        Settings { seed: Some(seed), ..Settings::sized(96, 54, 2) }
    }

    #[test]
    fn the_same_seed_gives_the_same_bytes_and_another_another_room() {
        let (a, b, c) = (render(&small(3)), render(&small(3)), render(&small(4)));
        assert_eq!((&a.beauty, &a.depth, &a.hashed), (&b.beauty, &b.depth, &b.hashed));
        assert_ne!(a.depth, c.depth);
    }

    #[test]
    fn every_room_shows_enough_and_its_passes_agree() {
        let (mut least, mut most) = (f32::INFINITY, 0f32);
        let mut open = 0;
        for seed in 0..24 {
            let p = render(&small(seed));
            let (mut seen, mut apart) = (0, 0f32);
            for i in 0..p.depth.window().area() {
                let z = p.depth.plane(0)[i];
                if z.is_finite() {
                    let (x, y) = p.depth.window().pixel_at(i);
                    let want = p.camera.unproject(Vec2::new(x as f32 + 0.5, y as f32 + 0.5), z);
                    let got =
                        Vec3::new(p.position.plane(0)[i], p.position.plane(1)[i], p.position.plane(2)[i]);
                    apart = apart.max(got.distance(want) / z);
                    seen += 1;
                    (least, most) = (least.min(z), most.max(z));
                }
            }
            assert!(seen * 5 > p.depth.window().area(), "seed {seed}: {seen}");
            assert!(apart < 1e-4, "seed {seed}: {apart}");
            open += usize::from(seen < p.depth.window().area());
            let mean = p.beauty.plane(1).iter().sum::<f32>() / seen as f32;
            assert!((0.01..8.0).contains(&mean), "seed {seed}: brightness {mean}");
        }
        assert!(least < 0.1 && most > 100.0, "units differ: {least} to {most}");
        assert!((4..24).contains(&open), "some look into nothing: {open}");
    }

    #[test]
    fn the_camera_written_out_sees_the_world_written_out() {
        for seed in 0..8 {
            let scene = built(good(seed), 0.0);
            let (own, out) = (scene.world_to_camera, scene.outside.camera(scene.world_to_camera));
            let p = Vec3::new(0.3, -0.7, 1.1);
            let world = scene.outside.turn * (p * scene.outside.unit) + scene.outside.origin;
            let (a, b) = (own.transform_point3(p) * scene.outside.unit, out.transform_point3(world));
            assert!(a.distance(b) < 1e-4 * scene.outside.unit.max(scene.outside.origin.length()), "{a} {b}");
        }
    }
}
