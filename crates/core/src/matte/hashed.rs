//! Hashed ID mattes (the open Cryptomatte specification 1.2.0): ranked pairs of ID and coverage.
//!
//! An ID is the MurmurHash3 (32 bit, seed 0) of an object's name, kept as the bit pattern of a float. Planes come in
//! pairs: ID, coverage, ID, coverage …, the largest coverage first.

use crate::{Raster, ShapeError};

/// The ID of a name: its hash, with one bit turned where the float would be zero-like, infinite or no number
/// ("hash to float", Cryptomatte specification 1.2.0).
pub fn id_of(name: &str) -> u32 {
    // Reading from memory cannot fail.
    let hash = murmur3::murmur3_32(&mut name.as_bytes(), 0).unwrap_or(0);
    match hash >> 23 & 255 {
        0 | 255 => hash ^ 1 << 23,
        _ => hash,
    }
}

/// The antialiased matte of some IDs: the sum of their coverages in every rank, at most 1.
///
/// # Errors
/// Planes that are no pairs.
pub fn matte(pairs: &Raster, ids: &[u32]) -> Result<Raster, ShapeError> {
    let ranks = pairs.channels() / 2;
    pairs.expect_channels("hashed IDs", ranks * 2)?;
    let mut out = Raster::zeros(pairs.window(), 1);
    for rank in 0..ranks {
        let (id, coverage) = (pairs.plane(2 * rank), pairs.plane(2 * rank + 1));
        for (i, sum) in out.plane_mut(0).iter_mut().enumerate() {
            if ids.contains(&id[i].to_bits()) {
                *sum = (*sum + coverage[i].max(0.0)).min(1.0);
            }
        }
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    #[test]
    fn ids_are_those_of_the_specification() {
        // Reference: mmh3 (PyPI) with the exponent rule of the specification; "bunny" and "default" are also its own
        // examples (from memory).
        for (name, id) in [
            ("bunny", 0x1385_1a76),
            ("default", 0x42c9_679f),
            ("Wall", 0x2c38_8f97),
            ("orrery/Enamel", 0xb6e5_57e7),
            ("größe", 0xe3d3_963f),
        ] {
            assert_eq!(id_of(name), id, "{name}");
        }
        for i in 0..5000 {
            let id = id_of(&format!("object{i}"));
            assert!(f32::from_bits(id).is_normal());
        }
    }

    #[test]
    fn coverage_of_all_ranks_is_summed() {
        let f = |name| f32::from_bits(id_of(name));
        let w = Window::of_size(2, 1);
        let planes = [[f("a"), f("b")], [0.7, 1.0], [f("b"), 0.0], [0.3, 0.0]].concat();
        let pairs = Raster::from_planar(w, 4, planes).unwrap();
        assert_eq!(matte(&pairs, &[id_of("a")]).unwrap().data(), [0.7, 0.0]);
        assert_eq!(matte(&pairs, &[id_of("b")]).unwrap().data(), [0.3, 1.0]);
        assert_eq!(matte(&pairs, &[id_of("a"), id_of("b")]).unwrap().data(), [1.0, 1.0]);
        assert!(matte(&Raster::zeros(w, 3), &[]).is_err());
    }
}
