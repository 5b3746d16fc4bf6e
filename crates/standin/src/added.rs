//! Light that a render adds to its scene: lamps, and a different surrounding.

use glam::{Mat3, Mat4, Vec3};

/// Where an added lamp's light comes from, in camera space.
#[derive(Clone, Copy, Debug)]
pub enum LampPlace {
    /// Unit direction from the surface to the lamp.
    Directional([f32; 3]),
    /// A point.
    Point([f32; 3]),
    /// A point that shines into a cone.
    Spot {
        /// Where it is.
        at: [f32; 3],
        /// A place on its axis.
        aim: [f32; 3],
        /// Whole angle of the cone, degrees.
        cone: f32,
        /// Share of the half angle over which the light fades.
        soft: f32,
    },
}

/// A lamp that the true re-render has and the first render had not.
#[derive(Clone, Copy, Debug)]
pub struct AddedLamp {
    /// Where.
    pub place: LampPlace,
    /// Irradiance (directional) or radiant intensity (point), linear Rec.709.
    pub power: [f32; 3],
    /// Whether it casts shadows.
    pub shadows: bool,
    /// Its radius (point, spot; scene units), or half its angle (directional; radians): shadows are soft.
    pub size: f32,
}

impl AddedLamp {
    /// The same lamp in the scene's own space, of which one unit is `unit` of the world's.
    pub(crate) fn in_units_of(&self, unit: f32) -> Self {
        let place = |p: [f32; 3]| p.map(|v| v / unit);
        match self.place {
            LampPlace::Directional(_) => *self,
            LampPlace::Point(at) => Self { place: LampPlace::Point(place(at)), ..self.near(unit) },
            LampPlace::Spot { at, aim, cone, soft } => Self {
                place: LampPlace::Spot { at: place(at), aim: place(aim), cone, soft },
                ..self.near(unit)
            },
        }
    }

    /// Power falls with the square of the distance; the ball of the lamp is a length.
    pub(crate) fn near(&self, unit: f32) -> Self {
        Self { power: self.power.map(|v| v / (unit * unit)), size: self.size / unit, ..*self }
    }
}

/// Light from all around that the true re-render has and the first render had not: a soft cap over an even rest.
///
/// Directions are upright in the world, with the camera's heading at frame 0 straight ahead (−z).
#[derive(Clone, Copy, Debug)]
pub struct Around {
    /// Radiance of the rest, linear Rec.709.
    pub rest: [f32; 3],
    /// Where the middle of the cap is.
    pub toward: [f32; 3],
    /// Radiance in the middle of the cap, on top of the rest.
    pub cap: [f32; 3],
    /// Cosine from the middle at which the cap ends.
    pub until: f32,
}

impl Around {
    /// The same with directions of the world, as a camera stands at first.
    pub(crate) fn in_the_world(self, world_to_camera: Mat4) -> Self {
        let ahead = world_to_camera.inverse().transform_vector3(Vec3::NEG_Z);
        let heading = Mat3::from_rotation_y(ahead.x.atan2(-ahead.z));
        Self { toward: (heading.transpose() * Vec3::from(self.toward)).to_array(), ..self }
    }

    /// Radiance from a direction.
    pub fn at(&self, d: Vec3) -> Vec3 {
        let ramp = ((d.dot(Vec3::from(self.toward).normalize()) - self.until) / (1.0 - self.until)).max(0.0);
        Vec3::from(self.rest) + Vec3::from(self.cap) * ramp
    }
}
