//! How a pass was stored, and the way to canonical form.

use crate::{Camera, Raster, Role, Scale};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Whether colour was multiplied by coverage.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum AlphaState {
    /// Premultiplied, as OpenEXR asks.
    #[default]
    Premultiplied,
    /// Straight.
    Straight,
}

/// How directions were stored.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum NormalCoding {
    /// −1..1.
    #[default]
    Signed,
    /// 0..1, so that `n = 2v − 1`.
    ZeroToOne,
}

/// What a depth measures.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum DepthMeasure {
    /// Along the view axis.
    #[default]
    Planar,
    /// Along the ray; needs a camera to be turned into planar.
    AlongRay,
}

/// The convention of a pass. Fields that do not concern its role are ignored.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(default, deny_unknown_fields)]
pub struct Convention {
    /// For the beauty.
    pub alpha: AlphaState,
    /// For normals.
    pub normal: NormalCoding,
    /// For depth.
    pub depth: DepthMeasure,
}

/// Brings stored planes of a role into canonical form (see the crate documentation): missing alpha is 1,
/// missing samples have the role's value for "nothing", normals have unit length.
///
/// Too few planes are filled with zero, further ones dropped.
pub fn canonical(stored: &Raster, role: Role, convention: Convention, camera: Option<Camera>) -> Raster {
    let channels = role.channels().unwrap_or(stored.channels());
    let mut out = Raster::from_planar(stored.window(), channels, planes(stored, role, channels))
        .unwrap_or_else(|_| Raster::zeros(stored.window(), channels));
    match role {
        Role::Beauty if convention.alpha == AlphaState::Straight => premultiply(&mut out),
        Role::Normal => unit_normals(&mut out, convention.normal),
        Role::Depth => planar_depth(&mut out, convention.depth, camera),
        _ => {}
    }
    out
}

fn planes(stored: &Raster, role: Role, channels: usize) -> Vec<f32> {
    let area = stored.window().area();
    let mut data = Vec::with_capacity(area * channels);
    for c in 0..channels {
        if c < stored.channels() {
            data.extend_from_slice(stored.plane(c));
        } else {
            let missing = if role == Role::Beauty && c == 3 { 1.0 } else { 0.0 };
            data.resize(data.len() + area, missing);
        }
    }
    data
}

fn premultiply(picture: &mut Raster) {
    let [r, g, b, a] =
        picture.planes_mut().try_into().unwrap_or_else(|_| [(); 4].map(|()| Default::default()));
    for plane in [r, g, b] {
        plane.iter_mut().zip(a.iter()).for_each(|(v, a)| *v *= a);
    }
}

fn unit_normals(normals: &mut Raster, coding: NormalCoding) {
    let [x, y, z] = normals.planes_mut().try_into().unwrap_or_else(|_| [(); 3].map(|()| Default::default()));
    for ((x, y), z) in x.iter_mut().zip(y.iter_mut()).zip(z.iter_mut()) {
        let stored = glam::Vec3::new(*x, *y, *z);
        // A stored zero vector is "nothing" in either coding: 0..1 coding cannot hold (−1, −1, −1).
        let n = match coding {
            NormalCoding::ZeroToOne if stored != glam::Vec3::ZERO => 2.0 * stored - 1.0,
            _ => stored,
        };
        let length = n.length();
        let unit = if length > 0.05 && length.is_finite() { n / length } else { glam::Vec3::ZERO };
        (*x, *y, *z) = (unit.x, unit.y, unit.z);
    }
}

fn planar_depth(depth: &mut Raster, measure: DepthMeasure, camera: Option<Camera>) {
    let window = depth.window();
    if let (DepthMeasure::AlongRay, Some(camera)) = (measure, camera) {
        // Z = d / √(1 + ((x−cx)/f)² + ((y−cy)/f)²)
        for y in window.rows() {
            let dy = (Scale::FULL.picked(y) as f32 + 0.5 - camera.centre_y) / camera.focal;
            for (x, z) in (window.x..).zip(depth.row_mut(0, y)) {
                let dx = (x as f32 + 0.5 - camera.centre_x) / camera.focal;
                *z /= (1.0 + dx * dx + dy * dy).sqrt();
            }
        }
    }
    depth.plane_mut(0).iter_mut().for_each(|z| {
        if z.is_nan() {
            *z = f32::INFINITY;
        }
    });
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(1, 1);

    fn of(role: Role, v: &[f32], convention: Convention) -> Vec<f32> {
        let stored = Raster::from_planar(W, v.len(), v.to_vec()).unwrap();
        canonical(&stored, role, convention, None).pixel(0, 0).unwrap()
    }

    #[test]
    fn pictures_get_alpha_and_premultiplication() {
        let straight = Convention { alpha: AlphaState::Straight, ..Convention::default() };
        assert_eq!(of(Role::Beauty, &[0.5, 0.2, 0.1], Convention::default()), [0.5, 0.2, 0.1, 1.0]);
        assert_eq!(of(Role::Beauty, &[0.5, 0.2, 1.0, 0.5], straight), [0.25, 0.1, 0.5, 0.5]);
    }

    #[test]
    fn normals_become_unit_in_both_codings() {
        let coded = Convention { normal: NormalCoding::ZeroToOne, ..Convention::default() };
        assert_eq!(of(Role::Normal, &[0.5, 0.5, 1.0], coded), [0.0, 0.0, 1.0]);
        assert_eq!(of(Role::Normal, &[0.0, 0.0, 0.0], coded), [0.0; 3]);
        assert_eq!(of(Role::Normal, &[0.0, 2.0, 0.0], Convention::default()), [0.0, 1.0, 0.0]);
        assert_eq!(of(Role::Normal, &[f32::NAN, 2.0, 0.0], Convention::default()), [0.0; 3]);
    }

    #[test]
    fn ray_distance_becomes_planar() {
        let w = Window::of_size(8, 6);
        let camera = Camera { focal: 5.0, centre_x: 4.0, centre_y: 3.0 };
        let ray = Raster::from_fn(w, 1, |_, x, y| {
            camera.unproject(glam::Vec2::new(x as f32 + 0.5, y as f32 + 0.5), 7.0).length()
        });
        let along = Convention { depth: DepthMeasure::AlongRay, ..Convention::default() };
        let z = canonical(&ray, Role::Depth, along, Some(camera));
        assert!(z.plane(0).iter().all(|z| (z - 7.0).abs() < 1e-5));
        assert_eq!(of(Role::Depth, &[f32::NAN], Convention::default()), [f32::INFINITY]);
    }
}
