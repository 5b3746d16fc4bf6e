//! Seeded noise: the same bytes on every machine.
//!
//! Lattice values come from a hash of whole numbers (pcg3d, Jarzynski & Olano 2020, "Hash Functions for GPU Rendering").

use glam::{IVec3, Vec2, Vec3};

/// What makes the noise.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Basis {
    /// Gradients at lattice points, mixed by a quintic (Perlin 2002).
    Gradient,
    /// Values at lattice points, mixed by a quintic.
    Value,
    /// Distance to the nearest of scattered points (Worley 1996).
    Cells,
}

/// The hash of three whole numbers (pcg3d).
fn pcg3d(v: [u32; 3]) -> [u32; 3] {
    let [mut x, mut y, mut z] = v.map(|v| v.wrapping_mul(1_664_525).wrapping_add(1_013_904_223));
    x = x.wrapping_add(y.wrapping_mul(z));
    y = y.wrapping_add(z.wrapping_mul(x));
    z = z.wrapping_add(x.wrapping_mul(y));
    (x, y, z) = (x ^ (x >> 16), y ^ (y >> 16), z ^ (z >> 16));
    x = x.wrapping_add(y.wrapping_mul(z));
    y = y.wrapping_add(z.wrapping_mul(x));
    z = z.wrapping_add(x.wrapping_mul(y));
    [x, y, z]
}

/// Noise in a plane that changes along a third axis.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Noise {
    /// What makes it.
    pub basis: Basis,
    /// Another seed is another noise.
    pub seed: u32,
    /// After how many lattice cells it repeats, across and down; 0 never.
    pub period: [u32; 2],
}

impl Noise {
    /// The noise of a layer that is 2ⁱ times as fine: another seed, and as many more cells until it repeats.
    pub(super) fn octave(&self, i: u32) -> Self {
        Self {
            seed: self.seed.wrapping_add(i.wrapping_mul(0x85eb_ca6b)),
            period: self.period.map(|p| p.saturating_mul(1 << i)),
            ..*self
        }
    }

    /// Three numbers of a lattice point, 0..1.
    pub(super) fn lattice(&self, at: IVec3) -> Vec3 {
        let wrap = |v: i32, period: u32| if period == 0 { v } else { v.rem_euclid(period as i32) };
        let [x, y] = [wrap(at.x, self.period[0]), wrap(at.y, self.period[1])];
        let seed = self.seed.wrapping_mul(0x9e37_79b9);
        let h = pcg3d([x as u32, y as u32 ^ seed, (at.z as u32).wrapping_add(seed.rotate_left(13))]);
        Vec3::from_array(h.map(|v| (v >> 8) as f32 / 16_777_216.0))
    }

    /// Its value at a place in lattice cells and a time: about −1..1 for gradients, 0..1 for the others.
    pub fn at(&self, place: Vec2, time: f32) -> f32 {
        let p = place.extend(time);
        let cell = p.floor().as_ivec3();
        let part = p - p.floor();
        match self.basis {
            Basis::Cells => self.cells(cell, part),
            Basis::Gradient | Basis::Value => self.mixed(cell, part),
        }
    }

    fn mixed(&self, cell: IVec3, part: Vec3) -> f32 {
        let ease = part * part * part * (part * (part * 6.0 - 15.0) + 10.0);
        let corner = |i: i32| {
            let step = IVec3::new(i & 1, (i >> 1) & 1, i >> 2);
            let value = self.lattice(cell + step);
            match self.basis {
                Basis::Value => value.x,
                _ => gradient(value).dot(part - step.as_vec3()),
            }
        };
        let mix = |a: f32, b: f32, t: f32| a + (b - a) * t;
        let face = |z: i32| {
            mix(mix(corner(z), corner(z + 1), ease.x), mix(corner(z + 2), corner(z + 3), ease.x), ease.y)
        };
        let v = mix(face(0), face(4), ease.z);
        // Unit gradients reach √3/2 at most in the middle of a cell.
        if self.basis == Basis::Value { v } else { v * 1.154_700_5 }
    }

    fn cells(&self, cell: IVec3, part: Vec3) -> f32 {
        let mut nearest = f32::INFINITY;
        for z in -1..=1 {
            for y in -1..=1 {
                for x in -1..=1 {
                    let step = IVec3::new(x, y, z);
                    nearest =
                        nearest.min((step.as_vec3() + self.lattice(cell + step) - part).length_squared());
                }
            }
        }
        nearest.sqrt().min(1.0)
    }
}

/// A unit vector from three numbers in 0..1: evenly over the sphere.
fn gradient(v: Vec3) -> Vec3 {
    let z = 2.0 * v.x - 1.0;
    let (sin, cos) = (v.y * std::f32::consts::TAU).sin_cos();
    let r = (1.0 - z * z).max(0.0).sqrt();
    Vec3::new(r * cos, r * sin, z)
}

/// How octaves are put together.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sum {
    /// Added up.
    Fractal,
    /// Added up with each folded at its middle: sharp ridges (Musgrave 2003).
    Ridged,
}

/// A sum of octaves, each twice as fine as the one before it: about 0..1, its mean near ½.
pub fn octaves(noise: &Noise, sum: Sum, count: u32, gain: f32, place: Vec2, time: f32) -> f32 {
    let (mut total, mut weight, mut scale, mut most) = (0.0, 1.0, 1.0_f32, 0.0);
    for i in 0..count.clamp(1, 12) {
        let v = noise.octave(i).at(place * scale, time * scale);
        let v = if noise.basis == Basis::Gradient { 0.5 + 0.5 * v } else { v };
        total += weight * if sum == Sum::Ridged { 1.0 - (2.0 * v - 1.0).abs() } else { v };
        most += weight;
        weight *= gain;
        scale *= 2.0;
    }
    total / most
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_hash_is_the_published_one() {
        // Worked by Python's integers from the listing in the paper, as remembered.
        assert_eq!(pcg3d([0, 0, 0]), [2_611_992_518, 2_833_812_075, 1_058_359_340]);
        assert_eq!(pcg3d([1, 2, 3]), [4_204_755_366, 1_223_881_804, 1_500_469_937]);
    }

    #[test]
    fn noise_has_its_mean_and_spread_and_repeats_where_it_should() {
        for (basis, mean, least) in
            [(Basis::Gradient, 0.0, 0.05), (Basis::Value, 0.5, 0.02), (Basis::Cells, 0.51, 0.01)]
        {
            let noise = Noise { basis, seed: 7, period: [0, 0] };
            let values: Vec<f64> = (0..1_000_000u32)
                .map(|i| {
                    f64::from(noise.at(Vec2::new((i % 1000) as f32 * 0.317, (i / 1000) as f32 * 0.291), 0.4))
                })
                .collect();
            let own = values.iter().sum::<f64>() / 1e6;
            let spread = values.iter().map(|v| (v - own).powi(2)).sum::<f64>() / 1e6;
            assert!((own - mean).abs() < 0.05 && spread > least && spread < 0.2, "{basis:?} {own} {spread}");
            assert!(values.iter().all(|v| (-1.0..=1.0).contains(v)), "{basis:?}");
            let tiled = Noise { period: [5, 3], ..noise };
            for i in 0..200 {
                let p = Vec2::new(i as f32 * 0.25, i as f32 * 0.125);
                assert_eq!(tiled.at(p, 0.5).to_bits(), tiled.at(p + Vec2::new(5.0, 3.0), 0.5).to_bits());
            }
        }
        let a = Noise { basis: Basis::Gradient, seed: 1, period: [0, 0] };
        assert_ne!(a.at(Vec2::new(0.3, 0.4), 0.0), Noise { seed: 2, ..a }.at(Vec2::new(0.3, 0.4), 0.0));
        assert!((0.0..=1.0).contains(&octaves(&a, Sum::Ridged, 6, 0.5, Vec2::new(3.3, 9.1), 0.2)));
    }
}
