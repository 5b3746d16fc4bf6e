//! The fast relight against the plain scalar form of its formulas, over random surfaces.
#![allow(clippy::unwrap_used)]

use glam::Vec3;
use jugata_core::light::brdf;
use jugata_core::light::lamp::{Cone, Lamp, Place};
use jugata_core::light::relight::{Material, Surface, relight_into};
use jugata_core::{Cancel, Raster, Window};
use jugata_testkit::{facing_normals, noise};
use proptest::prelude::*;
use std::f32::consts::FRAC_1_PI;

/// One pixel, written as the formulas stand in the reference.
fn plain(picture: [f32; 4], n: Vec3, p: Vec3, albedo: Vec3, lamps: &[Lamp], f: Material) -> [f32; 3] {
    let mut sum = Vec3::ZERO;
    let v = -p.normalize();
    let matt = albedo * FRAC_1_PI * f.diffuse * (1.0 - f.metalness);
    let f0 = Vec3::splat(f.specular).lerp(albedo.min(Vec3::ONE), f.metalness);
    for lamp in lamps {
        let away = |position: Vec3| ((position - p).normalize(), 1.0 / (position - p).length_squared());
        let (l, falloff, spread) = match lamp.place {
            Place::Directional { toward } => (toward, 1.0, lamp.size),
            Place::Point { position } => {
                let (l, falloff) = away(position);
                (l, falloff, lamp.size * falloff.sqrt())
            }
            Place::Spot { position, cone } => {
                let (l, falloff) = away(position);
                (l, falloff * cone.share(cone.axis.dot(-l)), lamp.size * falloff.sqrt())
            }
        };
        let e = Vec3::from(lamp.power) * falloff;
        sum += matt * brdf::wrapped_cosine(n.dot(l), f.wrap) * e;
        if f.specular > 0.0 || f.metalness > 0.0 {
            let h = (l + v).normalize();
            let a2 = (brdf::alpha(f.roughness).powi(2) + spread * spread / 8.0).min(1.0);
            let answer = f0.map(|f0| brdf::ggx_times_cosine(n.dot(l), n.dot(v), n.dot(h), v.dot(h), a2, f0));
            sum += e * answer;
        }
    }
    (sum * picture[3]).into()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn fast_is_plain(
        seed in any::<u64>(),
        width in 1u32..1100,
        at in prop::array::uniform3(-3.0f32..3.0),
        wrap in 0.0f32..1.0,
        specular in prop_oneof![Just(0.0f32), 0.01f32..1.0],
        roughness in 0.15f32..1.0,
        metalness in prop_oneof![Just(0.0f32), 0.1f32..1.0],
        size in prop_oneof![Just(0.0f32), 0.01f32..0.3],
    ) {
        let w = Window::new(-3, 2, width, 3);
        let (picture, normal, albedo) = (noise(w, 4, seed), facing_normals(w, seed ^ 1), noise(w, 3, seed ^ 2));
        let place = noise(w, 3, seed ^ 3);
        let position = Raster::from_fn(w, 3, |c, x, y| place.sample(c, x, y).unwrap() - [0.5, 0.5, 6.0][c]);
        let lamps = [
            Lamp { place: Place::Directional { toward: Vec3::from(at).normalize() }, power: [2.0, 1.0, 0.5], size },
            Lamp { place: Place::Point { position: Vec3::from(at) }, power: [1.0, 3.0, 9.0], size },
            Lamp {
                place: Place::Spot { position: -Vec3::from(at), cone: Cone::new(Vec3::NEG_Z, 1.2, 0.6) },
                power: [4.0, 1.0, 2.0],
                size,
            },
        ];
        let finish = Material { diffuse: 0.8, wrap, specular, roughness, metalness, colour: None };
        let surface = Surface { normal: &normal, position: Some(&position), albedo: Some(&albedo) };
        let mut out = Raster::zeros(w, 4);
        let shining = lamps.map(Into::into);
        relight_into(&mut out, &picture, surface, &shining, finish.into(), &Cancel::new()).unwrap();
        for y in w.rows() {
            for x in w.x..w.x + width as i32 {
                let v3 = |r: &Raster| Vec3::from_slice(&r.pixel(x, y).unwrap());
                let px: [f32; 4] = picture.pixel(x, y).unwrap().try_into().unwrap();
                let want = plain(px, v3(&normal), v3(&position), v3(&albedo), &lamps, finish);
                let got = out.pixel(x, y).unwrap();
                for c in 0..3 {
                    prop_assert!((got[c] - want[c]).abs() <= 2e-5 + 2e-3 * want[c].abs(), "{x},{y}: {got:?} {want:?}");
                }
                prop_assert_eq!(got[3], px[3]);
            }
        }
    }
}
