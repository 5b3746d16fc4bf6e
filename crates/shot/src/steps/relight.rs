//! Light added to the rendered surface.

use super::{Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use glam::Vec3;
use jugata_core::blend::{BlendMode, BlendSpace};
use jugata_core::lamp::{Lamp, Place};
use jugata_core::relight::{Finish, Surface, relight_into};
use jugata_core::{Raster, Role, rims};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::f32::consts::PI;
use ts_rs::TS;

/// Where the lamp's light comes from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LampKind {
    /// From one direction, everywhere alike.
    #[default]
    Directional,
    /// From a point, weaker with distance.
    Point,
}

/// What the light falls on.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum AlbedoFrom {
    /// The albedo pass; the picture where there is none.
    #[default]
    Pass,
    /// The picture itself: the lamp multiplies what is there.
    Picture,
}

/// Parameters of Relight.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Relight {
    /// Where the light comes from.
    #[schemars(extend("x-label" = "Lamp", "x-group" = "Lamp"))]
    pub lamp: LampKind,
    /// From the surface to the lamp, camera space (x right, y up, z toward the viewer).
    #[schemars(extend("x-label" = "Direction", "x-meaning" = "direction", "x-group" = "Lamp", "x-when" = {"lamp": "directional"}))]
    pub toward: [f32; 3],
    /// Camera space, scene units.
    #[schemars(extend("x-label" = "Place", "x-meaning" = "scene-point", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Lamp", "x-when" = {"lamp": "point"}))]
    pub position: [f32; 3],
    /// Linear Rec.709.
    #[schemars(extend("x-label" = "Colour", "x-meaning" = "colour", "x-group" = "Lamp"))]
    pub colour: [f32; 3],
    /// What a white matt surface facing the lamp gains: far away for a directional lamp, at distance 1 for a point.
    #[schemars(extend("x-label" = "Intensity", "x-unit" = "×", "x-slider" = [0.0, 10.0], "x-step" = 0.01, "x-group" = "Lamp"))]
    pub intensity: f32,
    /// What the light falls on.
    #[schemars(extend("x-label" = "Falls on", "x-group" = "Surface"))]
    pub albedo: AlbedoFrom,
    /// Factor on the diffuse light.
    #[schemars(extend("x-label" = "Diffuse", "x-unit" = "×", "x-slider" = [0.0, 2.0], "x-step" = 0.01, "x-group" = "Surface"))]
    pub diffuse: f32,
    /// Light reaching round the edge of shadow.
    #[schemars(extend("x-label" = "Wrap", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Surface"))]
    pub wrap: f32,
    /// Reflectance seen head-on; 0.04 is varnish, 0 none.
    #[schemars(extend("x-label" = "Specular", "x-slider" = [0.0, 1.0], "x-step" = 0.005, "x-group" = "Surface"))]
    pub specular: f32,
    /// From mirror to chalk.
    #[schemars(extend("x-label" = "Roughness", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Surface"))]
    pub roughness: f32,
}

impl Default for Relight {
    fn default() -> Self {
        Self {
            lamp: LampKind::Directional,
            toward: [0.55, 0.45, 0.704],
            position: [0.0, 0.0, -6.0],
            colour: [1.0; 3],
            intensity: 0.6,
            albedo: AlbedoFrom::Pass,
            diffuse: 1.0,
            wrap: 0.0,
            specular: 0.04,
            roughness: 0.4,
        }
    }
}

impl Relight {
    fn lamp(&self) -> Lamp {
        let place = match self.lamp {
            LampKind::Directional => {
                Place::Directional { toward: Vec3::from(self.toward).try_normalize().unwrap_or(Vec3::Z) }
            }
            LampKind::Point => Place::Point { position: self.position.into() },
        };
        // A white Lambert surface returns E/π, so this irradiance makes intensity what it gains.
        Lamp { place, power: self.colour.map(|c| c * self.intensity * PI) }
    }
}

impl Kind for Relight {
    const TITLE: &'static str = "Relight";
    const ABOUT: &'static str = "Adds a lamp to the rendered surface, from its normals.";
    const VERSION: u32 = 2;
    const JOINS: Joins = Joins { blend: BlendMode::Add, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        let mut list = vec![Reads { role: Role::Normal, required: true }];
        list.push(Reads { role: Role::Position, required: self.lamp == LampKind::Point });
        if self.albedo == AlbedoFrom::Pass {
            list.push(Reads { role: Role::Albedo, required: false });
        }
        list
    }

    fn reach(&self) -> Reach {
        // Rims are softened over the px around them.
        Reach::Px(1.0)
    }

    fn sentence(&self) -> String {
        let from = match self.lamp {
            LampKind::Directional => format!("from {}", direction_words(self.toward.into())),
            LampKind::Point => format!("from a point {:.2} units deep", -self.position[2]),
        };
        format!("Relight {from}, intensity {:.2}", self.intensity)
    }

    fn check(&self) -> Result<(), String> {
        for (what, triple) in [("direction", self.toward), ("place", self.position)] {
            triple.iter().try_for_each(|&v| range(what, v, -1e6, 1e6))?;
        }
        if self.lamp == LampKind::Directional && Vec3::from(self.toward).try_normalize().is_none() {
            return Err("the direction has no length".into());
        }
        self.colour.iter().try_for_each(|&v| range("colour", v, 0.0, 1e3))?;
        range("intensity", self.intensity, 0.0, 1e6)?;
        range("diffuse", self.diffuse, 0.0, 1e3)?;
        range("wrap", self.wrap, 0.0, 1.0)?;
        range("specular", self.specular, 0.0, 1.0)?;
        range("roughness", self.roughness, 0.0, 1.0)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let normal = inputs.need(Role::Normal, Self::TITLE)?;
        let surface =
            Surface { normal, position: inputs.pass(Role::Position), albedo: inputs.pass(Role::Albedo) };
        let finish = Finish {
            diffuse: self.diffuse,
            wrap: self.wrap,
            specular: self.specular,
            roughness: self.roughness,
        };
        let mut out = Raster::zeros(inputs.picture.window(), 4);
        relight_into(&mut out, inputs.picture, surface, &[self.lamp()], finish, inputs.cancel)?;
        Ok(rims::soften(&out, surface, inputs.cancel)?)
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
    fn bad_figures_are_named() {
        let bad = |r: Relight| r.check().unwrap_err();
        assert_eq!(
            bad(Relight { wrap: 2.0, ..Relight::default() }),
            "wrap is 2, and must lie between 0 and 1"
        );
        assert!(bad(Relight { intensity: f32::NAN, ..Relight::default() }).starts_with("intensity is NaN"));
        assert_eq!(bad(Relight { toward: [0.0; 3], ..Relight::default() }), "the direction has no length");
        assert!(Relight::default().check().is_ok());
    }
}
