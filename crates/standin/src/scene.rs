//! A scene: what there is to see, from where, and in what light.

use crate::added::Around;
use crate::bvh::Tree;
use crate::material::{Material, Paint};
use crate::shape::{Placed, Shape};
use glam::{Affine3A, Mat4, Quat, Vec2, Vec3};

/// How the scene's own space is written out: `unit · turn · place + origin`. Rays are traced in the scene's own space,
/// which is some ten units wide, so that nothing depends on how large or how far away the world is said to be.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Outside {
    /// Units of the world for one of the scene's own.
    pub unit: f32,
    /// Turn of the world: which of its axes is up.
    pub turn: Quat,
    /// Where the scene's own origin lies in the world.
    pub origin: Vec3,
}

impl Default for Outside {
    fn default() -> Self {
        Self { unit: 1.0, turn: Quat::IDENTITY, origin: Vec3::ZERO }
    }
}

impl Outside {
    /// World to camera space as it is written out, from the scene's own.
    pub fn camera(&self, own: Mat4) -> Mat4 {
        let turn = Mat4::from_quat(Quat::from_mat4(&own) * self.turn.inverse());
        let place = own.w_axis.truncate() * self.unit - turn.transform_vector3(self.origin);
        let mut out = turn;
        out.w_axis = place.extend(1.0);
        out
    }
}

/// The scene: shapes, surfaces, camera, light.
#[derive(Debug)]
pub struct Scene {
    /// The shapes.
    pub tree: Tree,
    /// Surfaces, by [`Placed::material`].
    pub materials: Vec<Material>,
    /// Names of the objects; an object's ID is its place in this list plus one.
    pub names: Vec<String>,
    /// How the scene's own space is written out.
    pub outside: Outside,
    /// World to camera space.
    pub world_to_camera: Mat4,
    /// Camera space of this frame to that of the next.
    pub travel: Mat4,
    /// Focal length, mm.
    pub focal: f32,
    /// Sensor width, mm.
    pub sensor: f32,
    /// Middle of the area lamp.
    pub lamp: Vec3,
    /// Radius of the area lamp.
    pub lamp_radius: f32,
    /// Radiant intensity of the area lamp.
    pub lamp_power: Vec3,
    /// Light from all around beside its own.
    pub around: Option<Around>,
    /// What the colour of the object of an ID is instead of its own.
    pub repaint: Option<(u32, Paint)>,
}

impl Scene {
    /// Colour of an object of a material at a place of its surface.
    pub fn colour(&self, id: u32, material: &Material, uv: Vec2) -> Vec3 {
        let other = self.repaint.filter(|(repainted, _)| *repainted == id);
        other.map_or(material.paint, |(_, paint)| paint).colour(uv)
    }
}

/// Puts shapes into a scene by the names of their objects.
#[derive(Debug, Default)]
pub(crate) struct Builder {
    pub shapes: Vec<Placed>,
    pub materials: Vec<Material>,
    pub names: Vec<String>,
    /// Frame for which the scene is built.
    frame: f32,
    /// Turn of what is put next, radians a frame.
    pub spin: f32,
}

impl Builder {
    /// For a scene at a frame, with the objects that it will have.
    pub fn new(names: &[impl ToString], frame: f32) -> Self {
        let names = names.iter().map(ToString::to_string).collect();
        Self { names, frame, ..Self::default() }
    }

    /// ID of an object, which is added if it is not there.
    pub fn id(&mut self, name: &str) -> u32 {
        let at = self.names.iter().position(|n| n == name).unwrap_or_else(|| {
            self.names.push(name.to_owned());
            self.names.len() - 1
        });
        at as u32 + 1
    }

    pub fn material(&mut self, material: Material) -> usize {
        self.materials.push(material);
        self.materials.len() - 1
    }

    pub fn put(&mut self, name: &str, material: usize, shape: Shape, at: Vec3, turn: Quat) {
        self.put_scaled(name, material, shape, Affine3A::from_rotation_translation(turn, at));
    }

    /// Puts a shape where a transform, which must be invertible, takes it.
    pub fn put_scaled(&mut self, name: &str, material: usize, shape: Shape, place: Affine3A) {
        let placed = Placed::new(shape, place, self.id(name), material);
        self.shapes.push(placed.turning(self.spin, self.frame));
    }

    pub fn ball(&mut self, name: &str, material: usize, at: Vec3, radius: f32) {
        // Tilted, so that bands and the seam are seen.
        let turn = Quat::from_rotation_z(0.35) * Quat::from_rotation_y(2.2);
        let place = Affine3A::from_scale_rotation_translation(Vec3::splat(radius), turn, at);
        self.put_scaled(name, material, Shape::Sphere, place);
    }

    pub fn rod(&mut self, name: &str, material: usize, from: Vec3, to: Vec3, radius: f32) {
        let along = to - from;
        let turn = Quat::from_rotation_arc(Vec3::Y, along.normalize());
        let shape = Shape::Frustum { bottom: radius, top: radius, height: along.length(), capped: true };
        self.put(name, material, shape, from, turn);
    }

    pub fn stack(&mut self, name: &str, material: usize, at: Vec3, bottom: f32, top: f32, height: f32) {
        self.put(name, material, Shape::Frustum { bottom, top, height, capped: true }, at, Quat::IDENTITY);
    }
}
