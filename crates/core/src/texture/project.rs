//! UV from places: a plane, a cylinder or a sphere around an object.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::{DAffine3, Mat3, Vec2, Vec3};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::f32::consts::{PI, TAU};
use ts_rs::TS;

/// What the texture is wrapped on.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Form {
    /// Seen along z: u along x, v along y.
    Plane,
    /// Around y: u once round from the back, v along y.
    #[default]
    Cylinder,
    /// Around y: u is the longitude from the back, v the latitude from below.
    Sphere,
}

/// The projector: its own space has y up and looks along −z at the middle.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Projector {
    /// What it wraps on.
    pub form: Form,
    /// From the space of the places to the projector's own.
    pub turn: Mat3,
    /// Its middle, in the space of the places.
    pub middle: Vec3,
    /// Half its sides, in its own axes.
    pub half: Vec3,
}

impl Projector {
    /// One that fits what is seen of an object: the middle and half the sides of its places in turned axes. Where only the
    /// front of a body is seen, its middle would lie too near; a cylinder and a sphere are therefore taken for as deep as
    /// they are wide, behind their front.
    pub fn fitted(
        form: Form,
        turn: Mat3,
        places: impl Iterator<Item = Vec3>,
        toward_eye: Vec3,
    ) -> Option<Self> {
        let (mut low, mut high) = (Vec3::INFINITY, Vec3::NEG_INFINITY);
        for p in places.filter(|p| p.is_finite()) {
            (low, high) = (low.min(turn * p), high.max(turn * p));
        }
        if !(low.is_finite() && high.is_finite()) {
            return None;
        }
        let (mut middle, mut half) = ((low + high) * 0.5, (high - low) * 0.5);
        if form != Form::Plane {
            // The side of the box that the eye looks along tells least of the body's size.
            let eye = (turn * toward_eye).abs();
            let around = if form == Form::Cylinder { [0, 2].as_slice() } else { [0, 1, 2].as_slice() };
            let wide = around.iter().map(|&k| half[k]).fold(0.0, f32::max);
            let ahead = if eye.x > eye.z { 0 } else { 2 };
            if half[ahead] < wide {
                let front =
                    if (turn * toward_eye)[ahead] > 0.0 { high[ahead] - wide } else { low[ahead] + wide };
                middle[ahead] = front;
                half[ahead] = wide;
            }
        }
        Some(Self { form, turn, middle: turn.transpose() * middle, half: half.max(Vec3::splat(1e-12)) })
    }

    /// The same for an object that moved: `back` takes its places to where they were when this was fitted.
    pub fn carried(self, back: DAffine3) -> Self {
        let middle = back.inverse().transform_point3(self.middle.as_dvec3()).as_vec3();
        Self { turn: (self.turn.as_dmat3() * back.matrix3).as_mat3(), middle, ..self }
    }

    /// UV of a place: 0..1 over the projector's own sides, once round for what goes round.
    pub fn uv(&self, place: Vec3) -> Vec2 {
        let p = self.turn * (place - self.middle);
        let round = || 0.5 + p.x.atan2(p.z) / TAU;
        let along = |v: f32, half: f32| 0.5 + 0.5 * v / half;
        match self.form {
            Form::Plane => Vec2::new(along(p.x, self.half.x), along(p.y, self.half.y)),
            Form::Cylinder => Vec2::new(round(), along(p.y, self.half.y)),
            Form::Sphere => {
                // Each axis by its own half, so that an egg is wrapped as a ball is.
                let q = p / self.half;
                let latitude = q.y.atan2(q.x.hypot(q.z));
                Vec2::new(0.5 + q.x.atan2(q.z) / TAU, 0.5 + latitude / PI)
            }
        }
    }
}

/// UV of each place (three planes), two planes; 0 where there is none (`surface` is 0, or the place is no number).
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn projected(
    places: &Raster,
    surface: &Raster,
    by: &Projector,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    places.expect_channels("position", 3)?;
    surface.expect_window("matte", places.window())?;
    let mut out = Raster::zeros(places.window(), 2);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let ([px, py, pz], is) = (places.rows(y), surface.row(0, y));
            let [u, v] = band.rows(y);
            for i in 0..is.len() {
                let p = Vec3::new(px[i], py[i], pz[i]);
                let uv = if is[i] > 0.0 && p.is_finite() { by.uv(p) } else { Vec2::ZERO };
                (u[i], v[i]) = (uv.x, uv.y);
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::{DMat3, DVec3};

    /// Closed forms: what is put on a plane, a cylinder and a sphere at known UV is found there again.
    #[test]
    fn closed_forms_to_the_last_digits() {
        let turn = Mat3::from_rotation_x(0.4) * Mat3::from_rotation_y(-1.1);
        let (middle, half) = (Vec3::new(3.0, -2.0, 7.0), Vec3::new(1.5, 0.8, 1.5));
        for form in [Form::Plane, Form::Cylinder, Form::Sphere] {
            let by = Projector { form, turn, middle, half };
            for k in 0..400 {
                let (u, v) = ((k % 20) as f32 / 20.0 + 0.02, (k / 20) as f32 / 20.0 + 0.02);
                let (long, lat) = ((u - 0.5) * TAU, (v - 0.5) * PI);
                let own = match form {
                    Form::Plane => Vec3::new((2.0 * u - 1.0) * half.x, (2.0 * v - 1.0) * half.y, 0.3),
                    Form::Cylinder => Vec3::new(1.5 * long.sin(), (2.0 * v - 1.0) * half.y, 1.5 * long.cos()),
                    Form::Sphere => {
                        half * Vec3::new(lat.cos() * long.sin(), lat.sin(), lat.cos() * long.cos())
                    }
                };
                let got = by.uv(turn.transpose() * own + middle);
                assert!((got - Vec2::new(u, v)).abs().max_element() < 1e-5, "{form:?} {u} {v}: {got}");
            }
        }
    }

    #[test]
    fn one_that_is_carried_says_of_a_moved_place_what_it_said_of_the_place() {
        let turn = DMat3::from_rotation_y(0.7) * DMat3::from_rotation_z(-0.3);
        let moved = DAffine3 { matrix3: turn, translation: DVec3::new(0.4, -1.0, 2.0) };
        let half = Vec3::new(1.5, 0.8, 1.2);
        for form in [Form::Plane, Form::Cylinder, Form::Sphere] {
            let by = Projector {
                form,
                turn: Mat3::from_rotation_x(0.4),
                middle: Vec3::new(3.0, -2.0, -7.0),
                half,
            };
            let carried = by.carried(moved.inverse());
            for place in [Vec3::new(3.5, -1.6, -6.2), Vec3::new(2.2, -2.5, -6.6)] {
                let now = moved.transform_point3(place.as_dvec3()).as_vec3();
                assert!((carried.uv(now) - by.uv(place)).abs().max_element() < 1e-5, "{form:?}");
            }
        }
    }

    #[test]
    fn a_ball_seen_from_the_front_is_fitted_whole() {
        let (middle, radius) = (Vec3::new(0.3, 0.2, -8.0), 1.2);
        let front = (0..5000).filter_map(|k| {
            let (z, a) = (1.0 - 2.0 * (k as f32 + 0.5) / 5000.0, k as f32 * 2.4);
            let n = Vec3::new((1.0f32 - z * z).sqrt() * a.cos(), (1.0f32 - z * z).sqrt() * a.sin(), z);
            (n.z > 0.1).then_some(middle + n * radius)
        });
        let by = Projector::fitted(Form::Sphere, Mat3::IDENTITY, front, Vec3::Z).unwrap();
        assert!(by.middle.distance(middle) < 0.03 && (by.half - radius).abs().max_element() < 0.03, "{by:?}");
        assert!((by.uv(middle + Vec3::Z * radius) - 0.5).abs().max_element() < 0.01);
        assert_eq!(Projector::fitted(Form::Plane, Mat3::IDENTITY, [Vec3::NAN].into_iter(), Vec3::Z), None);
    }
}
