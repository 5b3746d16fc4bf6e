//! The brass orrery of the Veldmere Observatory.

use crate::bvh::Tree;
use crate::material::{BRASS, Material, Paint};
use crate::scene::{Builder, Outside, Scene};
use crate::shape::Shape;
use glam::{Mat4, Quat, Vec3};
use std::f32::consts::PI;

/// Names of the objects; the object ID is the place in this list plus one.
pub const OBJECTS: [&str; 13] = [
    "Wall", "Table", "Stand", "Sun", "Arms", "Ring", "Enamel", "Stone", "Glass", "Ringed", "Plate", "Drum",
    "Lamp",
];

/// ID of an object by name, or 0.
pub fn object_id(name: &str) -> u32 {
    OBJECTS.iter().position(|n| *n == name).map_or(0, |i| i as u32 + 1)
}

/// Where the wall's middle is, and half its size.
pub const WALL: [Vec3; 2] = [Vec3::new(-4.1, 2.1, -6.5), Vec3::new(7.6, 4.4, 0.1)];

/// Builds the scene at a frame: the planets turn with their arms, the nearer the faster. On the wall's front there may be
/// a relief.
pub fn scene(frame: f32, relief: f32) -> Scene {
    let mut b = Builder::new(&OBJECTS, frame);
    room(&mut b, relief);
    instrument(&mut b);
    planets(&mut b);
    desk(&mut b);
    let eye = Vec3::new(0.5, 2.9, 9.9);
    Scene {
        tree: Tree::new(b.shapes),
        materials: b.materials,
        names: b.names,
        outside: Outside::default(),
        world_to_camera: glam::camera::rh::view::look_at_mat4(eye, Vec3::new(0.1, 1.12, 0.0), Vec3::Y),
        travel: Mat4::IDENTITY,
        focal: 50.0,
        sensor: 36.0,
        lamp: Vec3::new(-2.35, 2.48, 1.2),
        lamp_radius: 0.16,
        lamp_power: Vec3::new(21.0, 17.5, 12.6),
        around: None,
        repaint: None,
    }
}

fn room(b: &mut Builder, relief: f32) {
    let chart = b.material(Material::matt(Paint::Chart));
    let wood = b.material(Material::glossy(Paint::Wood, 0.28));
    // The wall stops on the right: there the sky shows, and alpha is 0.
    let [at, half] = WALL;
    let flat = relief <= 0.0;
    let wall = if flat { Shape::Box { half } } else { Shape::Relief { half, depth: relief } };
    b.put("Wall", chart, wall, at, Quat::IDENTITY);
    b.stack("Table", wood, Vec3::new(0.0, -0.22, 0.0), 3.7, 3.75, 0.2);
    b.stack("Table", wood, Vec3::new(0.0, -3.0, 0.0), 0.5, 0.9, 2.8);
}

fn instrument(b: &mut Builder) {
    let brass = b.material(Material::metal(Paint::Plain(BRASS), 0.22));
    let dull = b.material(Material::metal(Paint::Plain(BRASS * 0.8), 0.4));
    let sun = b.material(Material {
        glow: 0.55,
        ..Material::glossy(Paint::Speckle(Vec3::new(0.85, 0.5, 0.12), Vec3::new(0.9, 0.66, 0.26), 9.0), 0.2)
    });
    b.stack("Stand", dull, Vec3::new(0.0, -0.02, 0.0), 0.95, 0.85, 0.14);
    b.stack("Stand", brass, Vec3::new(0.0, 0.12, 0.0), 0.62, 0.36, 0.22);
    b.stack("Stand", brass, Vec3::new(0.0, 0.34, 0.0), 0.09, 0.07, 1.2);
    let gear = Shape::Disc { outer: 0.74, inner: 0.2, holes: 7 };
    b.put("Stand", dull, gear, Vec3::new(0.0, 0.78, 0.0), Quat::from_rotation_x(0.06));
    b.stack("Stand", brass, Vec3::new(0.0, 2.17, 0.0), 0.09, 0.0, 0.32);
    b.ball("Sun", sun, Vec3::new(0.0, 1.76, 0.0), 0.42);
    let tilt = Quat::from_rotation_z(0.28) * Quat::from_rotation_x(0.42);
    b.put("Ring", brass, Shape::Torus { ring: 2.1, tube: 0.045 }, Vec3::new(0.0, 1.7, 0.0), tilt);
    let upright = Quat::from_rotation_y(0.5) * Quat::from_rotation_x(PI / 2.0);
    b.put("Ring", dull, Shape::Torus { ring: 1.32, tube: 0.03 }, Vec3::new(0.0, 1.72, 0.0), upright);
}

fn planets(b: &mut Builder) {
    let arm = b.material(Material::metal(Paint::Plain(BRASS * 0.9), 0.3));
    let rgb = |r, g, b| Vec3::new(r, g, b);
    let enamel =
        b.material(Material::glossy(Paint::Bands(rgb(0.02, 0.1, 0.32), rgb(0.03, 0.26, 0.42), 3.0), 0.1));
    let red =
        b.material(Material::glossy(Paint::Bands(rgb(0.42, 0.05, 0.03), rgb(0.55, 0.2, 0.09), 4.0), 0.12));
    let stone =
        b.material(Material::matt(Paint::Speckle(rgb(0.34, 0.32, 0.29), rgb(0.13, 0.12, 0.11), 11.0)));
    let glass =
        b.material(Material { f0: 0.12, ..Material::glossy(Paint::Plain(rgb(0.05, 0.19, 0.13)), 0.05) });
    let ivory = b.material(Material::glossy(Paint::Plain(rgb(0.6, 0.52, 0.38)), 0.25));
    let hoop = b.material(Material::matt(Paint::Plain(rgb(0.4, 0.3, 0.19))));
    // Height of the arm, angle from the viewer's right, reach, height and radius of the planet.
    let set = [
        ("Enamel", enamel, 0.95f32, 1.15f32, 1.75f32, 1.3f32, 0.3f32),
        ("Stone", stone, 0.86, -0.35, 2.35, 1.12, 0.4),
        ("Glass", glass, 1.05, 2.45, 1.5, 1.42, 0.2),
        ("Ringed", red, 0.9, 3.5, 2.55, 1.36, 0.36),
        ("Enamel", ivory, 1.1, 4.6, 1.05, 1.5, 0.13),
        ("Stone", ivory, 1.0, 0.62, 2.75, 1.62, 0.14),
    ];
    for (name, paint, level, angle, reach, height, radius) in set {
        let end = Vec3::new(angle.cos() * reach, level, angle.sin() * reach);
        let at = Vec3::new(end.x, height, end.z);
        // Slower farther out, as planets are (Kepler's third law), sped up to be seen in a few frames.
        b.spin = 0.06 / reach.powf(1.5);
        b.rod("Arms", arm, Vec3::new(0.0, level, 0.0), end, 0.022);
        b.rod("Arms", arm, end, at, 0.018);
        b.ball(name, paint, at, radius);
        if name == "Ringed" {
            let hoop_shape = Shape::Disc { outer: radius * 1.9, inner: radius * 1.25, holes: 0 };
            b.put(name, hoop, hoop_shape, at, Quat::from_rotation_z(0.3) * Quat::from_rotation_x(0.35));
        }
    }
    b.spin = 0.0;
}

fn desk(b: &mut Builder) {
    let plate = b.material(Material::metal(Paint::Plate, 0.3));
    let label = b.material(Material::matt(Paint::Label));
    let lacquer = b.material(Material::glossy(Paint::Plain(Vec3::new(0.035, 0.03, 0.028)), 0.15));
    let shade = b.material(Material::glossy(Paint::Plain(Vec3::new(0.05, 0.14, 0.11)), 0.2));
    let bulb = b.material(Material { glow: 6.0, ..Material::matt(Paint::Plain(Vec3::new(0.9, 0.8, 0.6))) });
    let lean = Quat::from_rotation_y(-0.12) * Quat::from_rotation_x(-0.5);
    let half = Vec3::new(0.95, 0.33, 0.03);
    b.put("Plate", plate, Shape::Box { half }, Vec3::new(0.55, 0.34, 2.5), lean);
    let turn = Quat::from_rotation_y(0.55);
    let drum = Shape::Frustum { bottom: 0.48, top: 0.48, height: 0.72, capped: true };
    b.put("Drum", label, drum, Vec3::new(-2.05, 0.0, 1.75), turn);
    b.stack("Drum", lacquer, Vec3::new(-2.05, 0.72, 1.75), 0.5, 0.46, 0.08);
    let cone = Shape::Frustum { bottom: 0.5, top: 0.1, height: 0.42, capped: false };
    b.put("Lamp", shade, cone, Vec3::new(-2.35, 2.58, 1.2), Quat::IDENTITY);
    b.rod("Lamp", lacquer, Vec3::new(-2.35, 2.96, 1.2), Vec3::new(-2.35, 6.0, 1.2), 0.02);
    b.ball("Lamp", bulb, Vec3::new(-2.35, 2.68, 1.2), 0.13);
}
