//! Lamps in camera space.

use glam::Vec3;

/// Where a lamp's light comes from.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Place {
    /// Infinitely far in direction `toward` (unit, from the surface to the lamp): parallel light.
    Directional {
        /// Unit direction from the surface to the lamp.
        toward: Vec3,
    },
    /// At a point; irradiance falls off as 1 / d².
    Point {
        /// Camera space, scene units.
        position: Vec3,
    },
    /// At a point, into a cone.
    Spot {
        /// Camera space, scene units.
        position: Vec3,
        /// Where it shines.
        cone: Cone,
    },
}

/// A cone of light with a soft edge.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Cone {
    /// Unit direction in which the lamp shines.
    pub axis: Vec3,
    /// Cosine of the angle from the axis at which the light is all gone.
    pub cos_outer: f32,
    /// Cosine of the angle from the axis up to which nothing is lost; above `cos_outer`.
    pub cos_inner: f32,
}

impl Cone {
    /// A cone of a whole angle (radians, held to 0.02..=3.1) whose outer share `soft` (0..=1) is the ramp.
    pub fn new(axis: Vec3, angle: f32, soft: f32) -> Self {
        let half = 0.5 * angle.clamp(0.02, 3.1);
        // Narrower than a thousandth a ramp is an edge, and its slope still a number.
        let inner = half * (1.0 - soft.clamp(1e-3, 1.0));
        Self { axis, cos_outer: half.cos(), cos_inner: inner.cos() }
    }

    /// Share of the light at a cosine from the axis: the square of the ramp between both angles' cosines, as the glTF
    /// extension KHR_lights_punctual recommends for spots (from memory).
    #[inline(always)]
    pub fn share(&self, cosine: f32) -> f32 {
        let ramp = ((cosine - self.cos_outer) / (self.cos_inner - self.cos_outer)).clamp(0.0, 1.0);
        ramp * ramp
    }
}

/// One lamp.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Lamp {
    /// Where it is.
    pub place: Place,
    /// Linear Rec.709. Irradiance on a surface that faces the lamp (directional), or radiant intensity,
    /// that is irradiance × distance² (point, spot).
    pub power: [f32; 3],
    /// Half of how large it is seen to be, radians (directional), or its radius, scene units (point, spot). It softens
    /// shadows and broadens highlights; 0 is a mere point.
    pub size: f32,
}

impl Lamp {
    /// Its place in the scene; a directional lamp has none.
    pub fn position(&self) -> Option<Vec3> {
        match self.place {
            Place::Directional { .. } => None,
            Place::Point { position } | Place::Spot { position, .. } => Some(position),
        }
    }
}

/// Direction to a lamp that puts its mirror highlight where the surface has normal `n` and the viewer is
/// toward `v` (both unit): `l = 2(n·v)n − v`. `None` where the surface is seen from behind.
pub fn highlight_direction(n: Vec3, v: Vec3) -> Option<Vec3> {
    let facing = n.dot(v);
    (facing > 0.0).then(|| 2.0 * facing * n - v).and_then(Vec3::try_normalize)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_cone_is_whole_inside_and_gone_outside() {
        let cone = Cone::new(Vec3::NEG_Z, 1.0, 0.5);
        assert_eq!(cone.share(0.24f32.cos()), 1.0);
        assert_eq!(cone.share(0.51f32.cos()), 0.0);
        let half = 0.5 * (0.25f32.cos() + 0.5f32.cos());
        assert!((cone.share(half) - 0.25).abs() < 1e-4, "the square of half the ramp");
        assert!(Cone::new(Vec3::NEG_Z, 1.0, 0.0).share(0.49f32.cos()) > 0.99);
    }

    #[test]
    fn highlight_mirrors_the_view() {
        let n = Vec3::new(0.6, 0.0, 0.8);
        let l = highlight_direction(n, Vec3::Z).unwrap();
        let h = (l + Vec3::Z).normalize();
        assert!((h - n).length() < 1e-6, "the half vector is the normal");
        assert_eq!(highlight_direction(-Vec3::Z, Vec3::Z), None);
        assert_eq!(highlight_direction(Vec3::Z, Vec3::Z), Some(Vec3::Z));
    }
}
