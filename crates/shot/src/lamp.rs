//! Lamps as a document holds them.

use crate::check::range;
use glam::Vec3;
use jugata_core::colour::grade::white_of;
use jugata_core::light::lamp::{Cone, Lamp as Bare, Place};
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

/// A lamp.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields, default)]
pub struct Lamp {
    /// Whether it is lit.
    #[schemars(extend("x-meaning" = "hidden"))]
    pub on: bool,
    /// Where the light comes from.
    #[schemars(extend("x-label" = "Lamp", "x-group" = "Lamp"))]
    pub kind: LampKind,
    /// From the surface to the lamp, camera space (x right, y up, z toward the viewer).
    #[schemars(extend("x-label" = "Direction", "x-meaning" = "direction", "x-group" = "Lamp", "x-when" = {"kind": "directional"}))]
    pub toward: [f32; 3],
    /// Camera space, scene units.
    #[schemars(extend("x-label" = "Place", "x-meaning" = "lamp-place", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Lamp", "x-when" = {"kind": ["point", "spot"]}))]
    pub position: [f32; 3],
    /// The place that a spot is turned to, camera space, scene units.
    #[schemars(extend("x-label" = "Aimed at", "x-meaning" = "lamp-aim", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Cone", "x-when" = {"kind": "spot"}))]
    pub aim: [f32; 3],
    /// The whole angle of the cone.
    #[schemars(extend("x-label" = "Cone", "x-unit" = "°", "x-slider" = [2.0, 120.0], "x-step" = 0.5, "x-group" = "Cone", "x-when" = {"kind": "spot"}))]
    pub cone: f32,
    /// Share of the cone over which its edge fades.
    #[schemars(extend("x-label" = "Cone soft", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Cone", "x-when" = {"kind": "spot"}))]
    pub cone_soft: f32,
    /// What gives the colour.
    #[schemars(extend("x-label" = "Colour by", "x-group" = "Light"))]
    pub colour_from: ColourFrom,
    /// Linear Rec.709.
    #[schemars(extend("x-label" = "Colour", "x-meaning" = "colour", "x-group" = "Light", "x-when" = {"colour_from": "colour"}))]
    pub colour: [f32; 3],
    /// Of a black body.
    #[schemars(extend("x-label" = "Temperature", "x-unit" = "K", "x-slider" = [1800.0, 12000.0], "x-step" = 50.0, "x-group" = "Light", "x-when" = {"colour_from": "kelvin"}))]
    pub temperature: f32,
    /// What a white matt surface facing the lamp gains: far away for a directional lamp, at distance 1 for the others.
    #[schemars(extend("x-label" = "Intensity", "x-unit" = "×", "x-slider" = [0.0, 10.0], "x-step" = 0.01, "x-group" = "Light"))]
    pub intensity: f32,
    /// Stops on top of the intensity.
    #[schemars(extend("x-label" = "Stops", "x-unit" = "stops", "x-slider" = [-4.0, 4.0], "x-step" = 0.05, "x-group" = "Light"))]
    pub stops: f32,
    /// How large the lamp is seen to be, a whole angle; the sun is ½°.
    #[schemars(extend("x-label" = "Size", "x-unit" = "°", "x-slider" = [0.0, 20.0], "x-step" = 0.1, "x-group" = "Shadow", "x-when" = {"kind": "directional"}))]
    pub spread: f32,
    /// Radius of the lamp.
    #[schemars(extend("x-label" = "Radius", "x-unit" = "units", "x-slider" = [0.0, 1.0], "x-step" = 0.005, "x-group" = "Shadow", "x-when" = {"kind": ["point", "spot"]}))]
    pub radius: f32,
    /// Whether what is seen in the picture casts shadows; a larger lamp casts softer ones.
    #[schemars(extend("x-label" = "Casts shadows", "x-group" = "Shadow"))]
    pub shadows: bool,
    /// A glow where the lamp itself is seen, gone where something hides it.
    #[schemars(extend("x-label" = "Glow", "x-unit" = "×", "x-slider" = [0.0, 4.0], "x-step" = 0.01, "x-group" = "In the picture"))]
    pub glow: f32,
    /// Streaks and ghosts of a lens, gone where something hides the lamp.
    #[schemars(extend("x-label" = "Flare", "x-unit" = "×", "x-slider" = [0.0, 4.0], "x-step" = 0.01, "x-group" = "In the picture"))]
    pub flare: f32,
    /// Radius of the glow.
    #[schemars(extend("x-label" = "Glow size", "x-unit" = "px", "x-slider" = [2.0, 300.0], "x-step" = 1.0, "x-group" = "In the picture"))]
    pub glow_size: f32,
}

impl Default for Lamp {
    fn default() -> Self {
        Self {
            on: true,
            kind: LampKind::Directional,
            toward: [0.55, 0.45, 0.704],
            position: [0.0, 0.0, -6.0],
            aim: [0.0, 0.0, -8.0],
            cone: 40.0,
            cone_soft: 0.3,
            colour_from: ColourFrom::Colour,
            colour: [1.0; 3],
            temperature: 4000.0,
            intensity: 0.6,
            stops: 0.0,
            spread: 1.0,
            radius: 0.1,
            shadows: false,
            glow: 0.0,
            flare: 0.0,
            glow_size: 40.0,
        }
    }
}

impl Lamp {
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

    /// Checks that every figure is finite and in range.
    ///
    /// # Errors
    /// What is wrong, as the end of a sentence.
    pub fn check(&self) -> Result<(), String> {
        for (what, triple) in
            [("direction", self.toward), ("place", self.position), ("where it is aimed", self.aim)]
        {
            triple.iter().try_for_each(|&v| range(what, v, -1e6, 1e6))?;
        }
        if self.kind == LampKind::Directional && Vec3::from(self.toward).try_normalize().is_none() {
            return Err("the direction has no length".into());
        }
        self.colour.iter().try_for_each(|&v| range("colour", v, 0.0, 1e3))?;
        range("cone", self.cone, 1.0, 175.0)?;
        range("the cone's softness", self.cone_soft, 0.0, 1.0)?;
        range("temperature", self.temperature, 1700.0, 25_000.0)?;
        range("intensity", self.intensity, 0.0, 1e6)?;
        range("stops", self.stops, -20.0, 20.0)?;
        range("size", self.spread, 0.0, 120.0)?;
        range("glow", self.glow, 0.0, 1e4)?;
        range("flare", self.flare, 0.0, 1e4)?;
        range("the glow's size", self.glow_size, 0.5, 1e5)?;
        range("radius", self.radius, 0.0, 1e6)
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
