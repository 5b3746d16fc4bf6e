//! The pinhole camera of a render: projection, unprojection, position from depth.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Scale, Window};
use glam::{DAffine3, DMat3, DVec3, Mat3, Vec2, Vec3};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A pinhole camera, in full-resolution px of the display window.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Camera {
    /// Focal length, px (focal length ÷ sensor width × picture width).
    pub focal: f32,
    /// Where the view axis meets the picture, px from the left.
    pub centre_x: f32,
    /// Where the view axis meets the picture, px from the top.
    pub centre_y: f32,
    /// Rows of the 3×4 matrix from the world into camera space (column vectors), where it is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(as = "Option<Vec<f32>>", optional)]
    pub world: Option<[f32; 12]>,
}

impl Camera {
    /// From a focal length and a sensor width in the same unit; the axis meets the middle of `display`.
    /// `None` unless all are finite and positive.
    pub fn from_sensor(focal: f32, sensor_width: f32, display: Window) -> Option<Self> {
        let px = focal / sensor_width * display.width as f32;
        (px.is_finite() && px > 0.0).then_some(Self::centred(px, display))
    }

    /// From a focal length in px; the axis meets the middle of `display`, and the place in the world is not known.
    pub const fn centred(focal: f32, display: Window) -> Self {
        Self {
            focal,
            centre_x: display.x as f32 + display.width as f32 * 0.5,
            centre_y: display.y as f32 + display.height as f32 * 0.5,
            world: None,
        }
    }

    /// Whether every figure is finite and the focal length positive.
    pub fn is_sound(&self) -> bool {
        let world = self.world.iter().flatten();
        self.focal > 0.0
            && [self.focal, self.centre_x, self.centre_y].iter().chain(world).all(|v| v.is_finite())
    }

    /// A direction (or, if `place`, a place) of the world in camera space; unchanged where the camera's
    /// place in the world is not known.
    pub fn from_world(&self, v: Vec3, place: bool) -> Vec3 {
        let Some(m) = self.world else { return v };
        let row = |r: usize| m[4 * r] * v.x + m[4 * r + 1] * v.y + m[4 * r + 2] * v.z;
        let turned = Vec3::new(row(0), row(1), row(2));
        if place { turned + Vec3::new(m[3], m[7], m[11]) } else { turned }
    }

    /// From camera space to the world's own axes, if the pose is known.
    pub fn turn_to_world(&self) -> Option<Mat3> {
        // Rows of the turn from the world to the camera are columns of its inverse.
        let column = |m: [f32; 12], r: usize| Vec3::new(m[4 * r], m[4 * r + 1], m[4 * r + 2]);
        self.world.map(|m| Mat3::from_cols(column(m, 0), column(m, 1), column(m, 2)))
    }

    /// From this camera's space into another's; `None` unless the pose of both is known.
    pub fn way_to(&self, other: &Self) -> Option<DAffine3> {
        let pose = |c: &Self| {
            c.world.map(|m| {
                let m = m.map(f64::from);
                let turn = DMat3::from_cols_array(&std::array::from_fn(|k| m[4 * (k % 3) + k / 3]));
                DAffine3::from_mat3_translation(turn, DVec3::new(m[3], m[7], m[11]))
            })
        };
        Some(pose(other)? * pose(self)?.inverse())
    }

    /// Unit direction from the surface seen at a picture point toward the camera.
    pub fn toward_viewer(&self, at: Vec2) -> Vec3 {
        -self.unproject(at, 1.0).normalize()
    }

    /// The point at planar depth `z` behind picture point `at` (px, so a pixel's centre is `x + ½`):
    /// `P = ((x−cx)Z/f, −(y−cy)Z/f, −Z)`.
    pub fn unproject(&self, at: Vec2, z: f32) -> Vec3 {
        let k = z / self.focal;
        Vec3::new((at.x - self.centre_x) * k, -(at.y - self.centre_y) * k, -z)
    }

    /// Where a point in front of the camera appears, px; `None` at or behind the camera.
    pub fn project(&self, p: Vec3) -> Option<Vec2> {
        let z = -p.z;
        (z > 0.0)
            .then(|| Vec2::new(self.centre_x + p.x * self.focal / z, self.centre_y - p.y * self.focal / z))
    }

    /// Positions from planar depth given on a window at `scale`, where each sample was picked from one
    /// full-resolution pixel. No depth gives a non-finite position.
    ///
    /// # Errors
    /// A depth without exactly one channel; cancellation.
    pub fn positions(&self, depth: &Raster, scale: Scale, cancel: &Cancel) -> Result<Raster, KernelError> {
        depth.expect_channels("depth", 1)?;
        let mut out = Raster::zeros(depth.window(), 3);
        let k = 1.0 / self.focal;
        for_each_band(&mut out, cancel, |band| {
            let window = band.window();
            for y in window.rows() {
                let ky = -(scale.picked(y) as f32 + 0.5 - self.centre_y) * k;
                let [px, py, pz] = band.rows(y);
                for (i, &z) in depth.row(0, y).iter().enumerate() {
                    let x = scale.picked(window.x + i as i32) as f32 + 0.5;
                    px[i] = (x - self.centre_x) * k * z;
                    py[i] = ky * z;
                    pz[i] = -z;
                }
            }
        })?;
        Ok(out)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::Mat4;

    const CAMERA: Camera = Camera { focal: 100.0, centre_x: 8.0, centre_y: 4.0, world: None };

    #[test]
    fn the_turn_to_the_world_keeps_its_up() {
        // A camera that looks down by 40° from a place away from the origin.
        let eye = Mat4::from_rotation_x(0.7) * Mat4::from_translation(Vec3::new(1.0, -2.0, -9.0));
        let columns = eye.to_cols_array();
        let world = Some(std::array::from_fn(|i| columns[(i % 4) * 4 + i / 4]));
        let camera = Camera { focal: 1.0, centre_x: 0.0, centre_y: 0.0, world };
        let up = eye.transform_vector3(Vec3::Y);
        let back: Vec3 = camera.turn_to_world().unwrap() * up;
        assert!((back - Vec3::Y).length() < 1e-5);
        assert_eq!(Camera { world: None, ..camera }.turn_to_world(), None);
    }

    #[test]
    fn projecting_what_was_unprojected_returns() {
        let at = Vec2::new(13.5, 1.5);
        let p = CAMERA.unproject(at, 7.0);
        assert_eq!(p.z, -7.0);
        assert!(p.x > 0.0 && p.y > 0.0, "right of and above the axis");
        assert!((CAMERA.project(p).unwrap() - at).length() < 1e-4);
        assert_eq!(CAMERA.project(Vec3::new(0.0, 0.0, 1.0)), None);
    }

    #[test]
    fn sensor_gives_the_handbook_field_of_view() {
        // 36 mm sensor, 50 mm lens: 39.6° across (any optics handbook: 2·atan(18/50)).
        let c = Camera::from_sensor(50.0, 36.0, Window::of_size(1920, 1080)).unwrap();
        let fov = 2.0 * (960.0 / c.focal).atan().to_degrees();
        assert!((fov - 39.6).abs() < 0.05, "{fov}");
        assert!(Camera::from_sensor(50.0, 0.0, Window::of_size(10, 10)).is_none());
    }

    #[test]
    fn positions_agree_with_unproject_at_every_scale() {
        let full = Raster::from_fn(Window::new(-2, 0, 20, 9), 1, |_, x, y| 3.0 + 0.1 * x as f32 + y as f32);
        for n in 0..3 {
            let scale = Scale::halved(n).unwrap();
            let depth = crate::raster::scale::pick(&full, scale, &Cancel::new()).unwrap();
            let p = CAMERA.positions(&depth, scale, &Cancel::new()).unwrap();
            let (x, y) = (2, 1);
            let (fx, fy) = (scale.picked(x), scale.picked(y));
            let want = CAMERA
                .unproject(Vec2::new(fx as f32 + 0.5, fy as f32 + 0.5), full.sample(0, fx, fy).unwrap());
            let got = Vec3::from_slice(&p.pixel(x, y).unwrap());
            assert!((got - want).length() < 1e-5, "scale {n}: {got} {want}");
        }
    }
}
