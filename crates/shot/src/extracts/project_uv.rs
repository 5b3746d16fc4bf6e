//! UV from positions.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use glam::{EulerRot, Mat3, Vec3};
use jugata_core::Camera;
use jugata_core::texture::colour_at;
use jugata_core::texture::project::{Form, Projector, projected};
use serde::Deserializer;

/// Parameters of UV from position.
#[parameters]
pub struct ProjectUv {
    /// What the texture is wrapped on.
    #[param(label = "Wrapped on", group = "Form")]
    pub form: Form,
    /// What it is fitted to: a matte of the element, or all of it.
    #[param(label = "Fitted to", means = "part-matte", group = "Form")]
    #[ts(optional = nullable)]
    pub of: Option<u32>,
    /// What holds it to an object that moves; else it is fitted to what is seen on each frame.
    #[param(label = "Held by", group = "Form")]
    #[serde(alias = "rest", deserialize_with = "held_or_not")]
    pub held: HeldBy,
    /// The frame on which it is fitted, of those that the shot has; it goes along from there.
    #[param(label = "On frame", range = [0.0, 1e7], step = 1.0, group = "Form", when = {"held": "its_motion"})]
    pub on_frame: u32,
    /// Turned about its upright axis; also where the seam lies.
    #[param(label = "Turn", range = [-3600.0, 3600.0], slider = [-180.0, 180.0], step = 1.0, unit = "°", group = "Turned")]
    pub turn: f32,
    /// Leaning back.
    #[param(label = "Lean", range = [-3600.0, 3600.0], slider = [-90.0, 90.0], step = 1.0, unit = "°", group = "Turned")]
    pub lean: f32,
    /// Leaning to the side.
    #[param(label = "Roll", range = [-3600.0, 3600.0], slider = [-90.0, 90.0], step = 1.0, unit = "°", group = "Turned")]
    pub roll: f32,
    /// How large it is beside what it is fitted to.
    #[param(label = "Size", default = [1.0, 1.0], range = [0.001, 1000.0], step = 0.01, unit = "×", means = "pair", group = "Turned")]
    pub size: [f32; 2],
}

/// What holds a texture to an object that moves.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum HeldBy {
    /// Nothing: it is fitted to what is seen on each frame.
    #[default]
    Nothing,
    /// Where each place was before anything moved or bent, as a pass says.
    RestPosition,
    /// How the object moves from frame to frame, by its positions and its motion vectors; it must not bend.
    ItsMotion,
}

/// Before there was a third way, it was on or off.
fn held_or_not<'de, D: Deserializer<'de>>(from: D) -> Result<HeldBy, D::Error> {
    #[derive(Deserialize)]
    #[serde(untagged)]
    enum Written {
        Switch(bool),
        Choice(HeldBy),
    }
    Ok(match Written::deserialize(from)? {
        Written::Switch(false) => HeldBy::Nothing,
        Written::Switch(true) => HeldBy::RestPosition,
        Written::Choice(held) => held,
    })
}

impl ProjectUv {
    fn places(&self) -> Role {
        match self.held {
            HeldBy::RestPosition => Role::Rest,
            HeldBy::Nothing | HeldBy::ItsMotion => Role::Position,
        }
    }

    /// The projector that fits what is seen of an object. It stands upright in the world where the camera's pose is known.
    fn fitted(&self, places: &Raster, on: &Raster, camera: Option<Camera>, eye: Vec3) -> Option<Projector> {
        let upright = camera.and_then(|c| c.turn_to_world()).unwrap_or(Mat3::IDENTITY);
        let seen = (0..places.window().area()).filter(|&i| on.plane(0)[i] >= 0.99);
        // Where nothing is, there is no place.
        let seen = seen.map(|i| colour_at(places, i)).filter(|p| *p != Vec3::ZERO);
        Projector::fitted(self.form, self.turned() * upright, seen, eye)
    }

    fn turned(&self) -> Mat3 {
        let [y, x, z] = [self.turn, self.lean, self.roll].map(f32::to_radians);
        Mat3::from_euler(EulerRot::YXZ, y, x, z).transpose()
    }
}

impl Kind for ProjectUv {
    fn about(&self) -> About {
        About {
            title: "UV from position",
            about: "Wraps a plane, a cylinder or a sphere around an object, where a render has no UV or a poor one.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let mut wants = vec![needs(self.places()), cover(self.of)];
        if self.held == HeldBy::ItsMotion {
            wants.extend([needs(Role::Motion), Want::Body(self.of, self.on_frame)]);
        }
        wants
    }

    fn sentence(&self) -> String {
        let form = match self.form {
            Form::Plane => "a plane",
            Form::Cylinder => "a cylinder",
            Form::Sphere => "a sphere",
        };
        let held = match self.held {
            HeldBy::Nothing => String::new(),
            HeldBy::RestPosition => ", held by its rest position".into(),
            HeldBy::ItsMotion => format!(", held by its motion since frame {}", self.on_frame),
        };
        format!("UV from {form} around the object, turned {:.0}°{held}", self.turn)
    }
}

impl Extraction for ProjectUv {
    fn gives(&self) -> Role {
        Role::Uv
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let places = inputs.need(self.places())?;
        let whole = Raster::filled(inputs.window, 1, 1.0);
        let on = inputs.cover().unwrap_or(&whole);
        let fitted = match (self.held, inputs.body()) {
            (HeldBy::ItsMotion, None) => {
                return Err(inputs.wrong("its object is itself chosen by how something moves"));
            }
            (HeldBy::ItsMotion, Some(body)) => {
                let by = self.fitted(&body.places, &body.on, body.camera, Vec3::Z);
                by.map(|by| by.carried(body.back))
            }
            (HeldBy::Nothing, _) => self.fitted(places, on, inputs.camera, Vec3::Z),
            // The rest position has its own axes; nothing is known of the eye there.
            (HeldBy::RestPosition, _) => self.fitted(places, on, None, Vec3::ZERO),
        };
        let Some(mut by) = fitted else { return Ok(Raster::zeros(inputs.window, 2)) };
        by.half.x *= self.size[0];
        by.half.y *= self.size[1];
        Ok(projected(places, on, &by, inputs.cancel)?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_held_to_the_rest_position_by_a_switch_still_is() {
        let read = |text: &str| serde_json::from_str::<ProjectUv>(text);
        assert_eq!(read(r#"{"rest": true}"#).unwrap().held, HeldBy::RestPosition);
        assert_eq!(read(r#"{"rest": false}"#).unwrap().held, HeldBy::Nothing);
        assert_eq!(read(r#"{"held": "its_motion"}"#).unwrap().held, HeldBy::ItsMotion);
        assert!(read(r#"{"held": "glue"}"#).is_err());
    }
}
