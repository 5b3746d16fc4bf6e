//! Lamps as a document holds them.

use glam::{DAffine3, Vec3};
use jugata_core::colour::grade::white_of;
use jugata_core::light::lamp::{Cone, Lamp as Bare, Place};
use jugata_parameters::parameters;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::f32::consts::PI;
use ts_rs::TS;

/// Where a lamp's light comes from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LampKind {
    /// From one direction, everywhere alike.
    #[default]
    Directional,
    /// From a point, weaker with distance.
    Point,
    /// From a point into a cone, weaker with distance.
    Spot,
}

/// What gives a lamp its colour.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum ColourFrom {
    /// A colour.
    #[default]
    Colour,
    /// The temperature of a black body.
    Kelvin,
}

/// What a light stays with while the camera goes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum StaysWith {
    /// The scene: its place and direction are told as the camera of the first frame sees them.
    #[default]
    Scene,
    /// The camera, as a lamp that is fixed on it.
    Camera,
}

impl StaysWith {
    /// How a light has to be taken to where it is on a frame, from where the document has it.
    pub fn way(self, since_first: Option<DAffine3>) -> Option<DAffine3> {
        since_first.filter(|_| self == Self::Scene)
    }
}

/// A lamp.
#[parameters(item)]
pub struct Lamp {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Whether it is lit.
    #[param(default = true, means = "hidden")]
    pub on: bool,
    /// Where the light comes from.
    #[param(label = "Lamp", group = "Lamp")]
    pub kind: LampKind,
    /// From the surface to the lamp, camera space (x right, y up, z toward the viewer).
    #[param(label = "Direction", default = [0.55, 0.45, 0.704], range = [-1e6, 1e6], means = "direction", group = "Lamp", when = {"kind": "directional"})]
    pub toward: [f32; 3],
    /// Camera space, scene units.
    #[param(label = "Place", default = [0.0, 0.0, -6.0], range = [-1e6, 1e6], step = 0.01, unit = "units", means = "lamp-place", group = "Lamp", when = {"kind": ["point", "spot"]})]
    pub position: [f32; 3],
    /// The place that a spot is turned to, camera space, scene units.
    #[param(label = "Aimed at", default = [0.0, 0.0, -8.0], range = [-1e6, 1e6], step = 0.01, unit = "units", means = "lamp-aim", group = "Cone", when = {"kind": "spot"})]
    pub aim: [f32; 3],
    /// The whole angle of the cone.
    #[param(label = "Cone", default = 40.0, range = [1.0, 175.0], slider = [2.0, 120.0], step = 0.5, unit = "°", group = "Cone", when = {"kind": "spot"})]
    pub cone: f32,
    /// Share of the cone over which its edge fades.
    #[param(label = "Cone soft", default = 0.3, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Cone", when = {"kind": "spot"})]
    pub cone_soft: f32,
    /// What the lamp stays with while the camera goes. In the scene it is told as the camera of the first frame sees it.
    #[param(label = "Stays with", means = "stays-with", group = "Lamp")]
    pub stays: StaysWith,
    /// What gives the colour.
    #[param(label = "Colour by", group = "Light")]
    pub colour_from: ColourFrom,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [1.0; 3], range = [0.0, 1e3], means = "colour", group = "Light", when = {"colour_from": "colour"})]
    pub colour: [f32; 3],
    /// Of a black body.
    #[param(label = "Temperature", default = 4000.0, range = [1700.0, 25_000.0], slider = [1800.0, 12000.0], step = 50.0, unit = "K", group = "Light", when = {"colour_from": "kelvin"})]
    pub temperature: f32,
    /// What a white matt surface facing the lamp gains: far away for a directional lamp, at distance 1 for the others.
    #[param(label = "Intensity", default = 0.6, range = [0.0, 1e6], slider = [0.0, 10.0], step = 0.01, unit = "×", group = "Light")]
    pub intensity: f32,
    /// Stops on top of the intensity.
    #[param(label = "Stops", default = 0.0, range = [-20.0, 20.0], slider = [-4.0, 4.0], step = 0.05, unit = "stops", group = "Light")]
    pub stops: f32,
    /// How large the lamp is seen to be, a whole angle; the sun is ½°.
    #[param(label = "Size", default = 1.0, range = [0.0, 120.0], slider = [0.0, 20.0], step = 0.1, unit = "°", group = "Shadow", when = {"kind": "directional"})]
    pub spread: f32,
    /// Radius of the lamp.
    #[param(label = "Radius", default = 0.1, range = [0.0, 1e6], slider = [0.0, 1.0], step = 0.005, unit = "units", group = "Shadow", when = {"kind": ["point", "spot"]})]
    pub radius: f32,
    /// Whether what is seen in the picture casts shadows; a larger lamp casts softer ones.
    #[param(label = "Casts shadows", group = "Shadow")]
    pub shadows: bool,
    /// A glow where the lamp itself is seen, gone where something hides it.
    #[param(label = "Glow", default = 0.0, range = [0.0, 1e4], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "In the picture")]
    pub glow: f32,
    /// Streaks and ghosts of a lens, gone where something hides the lamp.
    #[param(label = "Flare", default = 0.0, range = [0.0, 1e4], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "In the picture")]
    pub flare: f32,
    /// Radius of the glow.
    #[param(label = "Glow size", default = 40.0, range = [0.5, 1e5], slider = [2.0, 300.0], step = 1.0, unit = "px", group = "In the picture")]
    pub glow_size: f32,
}

impl Lamp {
    /// The first lamp of a step.
    pub fn new() -> Self {
        Self { id: 1, ..Self::default() }
    }

    /// The lamp where it is on a frame, by the way of the camera since the first one.
    pub fn on_frame(&self, since_first: Option<DAffine3>) -> Self {
        self.stays.way(since_first).map_or_else(|| self.clone(), |way| self.taken(&way))
    }

    /// The same lamp in a space that has gone.
    fn taken(&self, way: &DAffine3) -> Self {
        let wide = |v: [f32; 3]| Vec3::from(v).as_dvec3();
        let place = |v| way.transform_point3(wide(v)).as_vec3().into();
        let toward = way.transform_vector3(wide(self.toward)).as_vec3().into();
        Self { toward, position: place(self.position), aim: place(self.aim), ..self.clone() }
    }

    /// The lamp as a document has it, from one that was put on a frame. What was not put stays to the last bit.
    pub fn put_on_frame(&self, put: Self, since_first: Option<DAffine3>) -> Self {
        let Some(way) = self.stays.way(since_first) else { return put };
        let (was, back) = (self.taken(&way), put.taken(&way.inverse()));
        let pick = |old, [was, put]: [[f32; 3]; 2], back| if was == put { old } else { back };
        Self {
            toward: pick(self.toward, [was.toward, put.toward], back.toward),
            position: pick(self.position, [was.position, put.position], back.position),
            aim: pick(self.aim, [was.aim, put.aim], back.aim),
            ..put
        }
    }

    /// The lamp as the maths wants it.
    pub fn shining(&self) -> Bare {
        let (position, aim) = (Vec3::from(self.position), Vec3::from(self.aim));
        let place = match self.kind {
            LampKind::Directional => {
                Place::Directional { toward: Vec3::from(self.toward).try_normalize().unwrap_or(Vec3::Z) }
            }
            LampKind::Point => Place::Point { position },
            LampKind::Spot => {
                let axis = (aim - position).try_normalize().unwrap_or(Vec3::NEG_Z);
                Place::Spot { position, cone: Cone::new(axis, self.cone.to_radians(), self.cone_soft) }
            }
        };
        let size = match self.kind {
            LampKind::Directional => 0.5 * self.spread.to_radians(),
            _ => self.radius,
        };
        // A white Lambert surface returns E/π, so this irradiance makes intensity what it gains.
        Bare { place, power: self.tint().map(|c| c * self.strength() * PI), size }
    }

    /// All that decides where its light comes from, for its kind.
    pub fn stand(&self) -> (LampKind, Vec<[f32; 3]>, [f32; 2]) {
        match self.kind {
            LampKind::Directional => (self.kind, vec![self.toward], [0.0; 2]),
            LampKind::Point => (self.kind, vec![self.position], [0.0; 2]),
            LampKind::Spot => (self.kind, vec![self.position, self.aim], [self.cone, self.cone_soft]),
        }
    }

    /// Colour at full strength, linear Rec.709.
    pub fn tint(&self) -> [f32; 3] {
        match self.colour_from {
            ColourFrom::Colour => self.colour,
            ColourFrom::Kelvin => white_of(self.temperature).map(|v| v.max(0.0)),
        }
    }

    /// Intensity with its stops.
    pub fn strength(&self) -> f32 {
        self.intensity * self.stops.exp2()
    }

    /// Whether it is itself seen in the picture.
    pub fn is_seen(&self) -> bool {
        self.glow > 0.0 || self.flare > 0.0
    }

    /// Where it shines from, as a person at the picture would say.
    pub fn words(&self) -> String {
        match self.kind {
            LampKind::Directional => format!("from {}", direction_words(self.toward.into())),
            LampKind::Point => format!("from a point {:.2} units deep", -self.position[2]),
            LampKind::Spot => format!("from a spot {:.2} units deep", -self.position[2]),
        }
    }

    /// Checks what the declared ranges cannot say.
    ///
    /// # Errors
    /// What is wrong, as a sentence without its place.
    pub fn check(&self) -> Result<(), String> {
        if self.kind == LampKind::Directional && Vec3::from(self.toward).try_normalize().is_none() {
            return Err("the direction has no length".into());
        }
        Ok(())
    }
}

/// Where a direction points, as a person at the picture would say.
fn direction_words(d: Vec3) -> String {
    // Components under a quarter of the length are not worth a word (about 15°).
    let d = d.try_normalize().unwrap_or(Vec3::Z);
    let word = |v: f32, low: &'static str, high: &'static str| {
        if v > 0.26 { Some(high) } else { (v < -0.26).then_some(low) }
    };
    let place: Vec<&str> =
        [word(d.y, "lower", "upper"), word(d.x, "left", "right")].into_iter().flatten().collect();
    match (place.as_slice(), d.z < -0.26) {
        ([], false) => "the viewer".into(),
        ([], true) => "behind".into(),
        (["upper"], false) => "above".into(),
        (["lower"], false) => "below".into(),
        (["upper"], true) => "above and behind".into(),
        (["lower"], true) => "below and behind".into(),
        (words, false) => format!("the {}", words.join(" ")),
        (words, true) => format!("the {} behind", words.join(" ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn directions_have_words() {
        for (d, words) in [
            ([0.0, 0.0, 1.0], "the viewer"),
            ([0.0, 0.0, -1.0], "behind"),
            ([0.0, 1.0, 0.1], "above"),
            ([-0.6, 0.5, 0.6], "the upper left"),
            ([0.9, 0.0, -0.4], "the right behind"),
        ] {
            assert_eq!(direction_words(d.into()), words);
        }
    }

    #[test]
    fn what_is_put_on_a_frame_stands_where_it_was_put() {
        let way =
            DAffine3::from_rotation_translation(glam::DQuat::from_rotation_y(0.4), [1.0, -2.0, 0.5].into());
        let lamp = Lamp {
            kind: LampKind::Spot,
            position: [0.3, 1.0, -4.0],
            aim: [0.1, 0.2, -7.0],
            ..Lamp::default()
        };
        let seen = lamp.on_frame(Some(way));
        assert_eq!(lamp.put_on_frame(seen.clone(), Some(way)), lamp, "nothing was put");
        let put = Lamp { position: [0.0, 0.0, -3.0], ..seen };
        let kept = lamp.put_on_frame(put.clone(), Some(way));
        assert_eq!((kept.toward, kept.aim), (lamp.toward, lamp.aim));
        let again = Vec3::from(kept.on_frame(Some(way)).position);
        assert!((again - Vec3::from(put.position)).length() < 1e-6, "{again}");
        let fixed = Lamp { stays: StaysWith::Camera, ..lamp };
        assert_eq!(fixed.on_frame(Some(way)), fixed);
        assert_eq!(fixed.put_on_frame(put.clone(), Some(way)), put);
    }

    #[test]
    fn power_follows_stops_and_temperature() {
        let lamp = Lamp { intensity: 2.0, stops: -1.0, ..Lamp::default() };
        assert!(lamp.shining().power.iter().all(|v| (v - PI).abs() < 1e-5));
        let warm = Lamp { colour_from: ColourFrom::Kelvin, temperature: 2500.0, ..lamp.clone() }.tint();
        assert!(warm[0] > warm[1] && warm[1] > warm[2] && warm[2] >= 0.0, "{warm:?}");
        let spot = Lamp { kind: LampKind::Spot, position: [0.0, 0.0, -1.0], aim: [0.0, 0.0, -3.0], ..lamp };
        let Place::Spot { cone, .. } = spot.shining().place else { panic!("a spot") };
        assert_eq!(cone.axis, Vec3::NEG_Z);
        assert!((cone.cos_outer - 20f32.to_radians().cos()).abs() < 1e-6, "half of the whole angle");
    }
}
