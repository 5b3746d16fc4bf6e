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
}

/// One lamp.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Lamp {
    /// Where it is.
    pub place: Place,
    /// Linear Rec.709. Irradiance on a surface that faces the lamp (directional), or radiant intensity,
    /// that is irradiance × distance² (point).
    pub power: [f32; 3],
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
    fn highlight_mirrors_the_view() {
        let n = Vec3::new(0.6, 0.0, 0.8);
        let l = highlight_direction(n, Vec3::Z).unwrap();
        let h = (l + Vec3::Z).normalize();
        assert!((h - n).length() < 1e-6, "the half vector is the normal");
        assert_eq!(highlight_direction(-Vec3::Z, Vec3::Z), None);
        assert_eq!(highlight_direction(Vec3::Z, Vec3::Z), Some(Vec3::Z));
    }
}
