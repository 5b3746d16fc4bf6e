//! A ship folded of paper, by itself before nothing: an element that is laid over another render, by another camera.

use crate::bvh::Tree;
use crate::material::{Material, Paint};
use crate::scene::{Builder, Outside, Scene};
use crate::shape::Shape;
use glam::{Affine3A, Mat3A, Mat4, Vec2, Vec3, Vec3A};

/// Names of the objects; the object ID is the place in this list plus one.
pub const OBJECTS: [&str; 2] = ["Hull", "Sail"];

/// Half the length of the hull, and the height of the mast, units.
const SIZE: [f32; 2] = [1.7, 1.55];

/// Builds the ship. It lies still: where it goes is told where it is laid over something.
pub fn scene(frame: f32) -> Scene {
    let mut b = Builder::new(&OBJECTS, frame);
    let paper = b.material(Material::matt(Paint::Speckle(
        Vec3::new(0.74, 0.7, 0.6),
        Vec3::new(0.68, 0.63, 0.52),
        16.0,
    )));
    let sail = b.material(Material::matt(Paint::Plain(Vec3::new(0.7, 0.68, 0.62))));
    let at = |x: f32, y: f32, z: f32| Vec3::new(x, y, z);
    let (bow, stern) = (at(-SIZE[0], 0.82, 0.0), at(SIZE[0], 0.82, 0.0));
    let keel = [at(-0.85, 0.0, 0.0), at(0.85, 0.0, 0.0)];
    for side in [1.0, -1.0] {
        let rim = at(0.0, 0.5, 0.5 * side);
        for corners in [[bow, keel[0], rim], [keel[0], keel[1], rim], [keel[1], stern, rim]] {
            fold(&mut b, "Hull", paper, corners);
        }
        let foot = 0.16 * side;
        fold(&mut b, "Sail", sail, [at(-0.82, 0.36, foot), at(0.82, 0.36, foot), at(0.0, SIZE[1], 0.0)]);
    }
    let eye = at(-1.2, 1.9, 7.6);
    Scene {
        tree: Tree::new(b.shapes),
        materials: b.materials,
        names: b.names,
        outside: Outside::default(),
        world_to_camera: glam::camera::rh::view::look_at_mat4(eye, at(0.0, 0.72, 0.0), Vec3::Y),
        travel: Mat4::IDENTITY,
        focal: 65.0,
        sensor: 36.0,
        lamp: at(-3.2, 5.0, 3.4),
        lamp_radius: 0.4,
        lamp_power: Vec3::new(40.0, 33.5, 25.0),
        around: None,
        repaint: None,
    }
}

/// A face of folded paper; its texture lies flat on the ship as it is seen from the side.
fn fold(b: &mut Builder, name: &str, material: usize, corners: [Vec3; 3]) {
    let [o, x, y] = corners;
    let normal = (x - o).cross(y - o).normalize();
    let to = Mat3A::from_cols(Vec3A::from(x - o), Vec3A::from(y - o), Vec3A::from(normal));
    let uv = corners.map(|p| Vec2::new(0.5 + 0.5 * p.x / SIZE[0], p.y / SIZE[1]));
    let place = Affine3A { matrix3: to, translation: o.into() };
    b.put_scaled(name, material, Shape::Triangle { uv }, place);
}

#[cfg(test)]
mod tests {
    use crate::{Settings, render};

    #[test]
    fn the_ship_is_seen_whole_before_nothing() {
        let p = render(&Settings { ship: true, ..Settings::sized(96, 54, 2) });
        let (ids, alpha) = (p.id.plane(0), p.beauty.plane(3));
        let share = |id: f32| ids.iter().filter(|i| **i == id).count() as f32 / ids.len() as f32;
        assert!(share(1.0) > 0.05 && share(2.0) > 0.03 && share(0.0) > 0.6, "{} {}", share(1.0), share(2.0));
        // Nothing of it touches the frame.
        let w = p.id.window();
        let edge = |x: i32, y: i32| x == 0 || y == 0 || x == w.width as i32 - 1 || y == w.height as i32 - 1;
        assert!(
            (0..w.area())
                .filter(|i| {
                    let (x, y) = w.pixel_at(*i);
                    edge(x, y)
                })
                .all(|i| alpha[i] == 0.0)
        );
    }
}
