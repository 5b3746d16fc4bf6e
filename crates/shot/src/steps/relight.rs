//! Light added to the rendered surface.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use crate::lamp::{Lamp, LampKind};
use glam::Vec2;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::light::flare::{self, Flare};
use jugata_core::light::relight::{Material, Shining, Surface, relight_into};
use jugata_core::light::rims;
use jugata_core::light::shadow::Occluders;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::de::Error;
use serde::{Deserialize, Deserializer, Serialize};
use std::sync::Arc;
use ts_rs::TS;

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
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Relight {
    /// The lamps.
    #[schemars(extend("x-label" = "Lamps", "x-meaning" = "lamps"))]
    pub lamps: Vec<Lamp>,
    /// What the light falls on.
    #[schemars(extend("x-label" = "SurroundLight on", "x-group" = "Surface"))]
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
    /// A metal has no diffuse light, and mirrors in its own colour.
    #[schemars(extend("x-label" = "Metal", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Surface"))]
    pub metalness: f32,
    /// How thick things are taken to be behind what is seen of them, for shadows: a share of their depth.
    #[schemars(extend("x-label" = "Thickness", "x-unit" = "of Z", "x-slider" = [0.0, 0.5], "x-step" = 0.005, "x-group" = "Surface"))]
    pub thickness: f32,
}

/// A relight as a document may hold it: the first documents had one lamp, its parameters among the others.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct RelightForm {
    lamps: Option<Vec<Lamp>>,
    lamp: Option<LampKind>,
    toward: Option<[f32; 3]>,
    position: Option<[f32; 3]>,
    colour: Option<[f32; 3]>,
    intensity: Option<f32>,
    albedo: AlbedoFrom,
    diffuse: f32,
    wrap: f32,
    specular: f32,
    roughness: f32,
    #[serde(default)]
    metalness: f32,
    #[serde(default = "usual_thickness")]
    thickness: f32,
}

/// A tenth of the depth: about what is still seen of a ball's back half by its shadow.
fn usual_thickness() -> f32 {
    0.1
}

impl<'de> Deserialize<'de> for Relight {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let f = RelightForm::deserialize(from)?;
        if f.lamps.is_some() && (f.lamp.is_some() || f.toward.is_some() || f.intensity.is_some()) {
            return Err(D::Error::custom("a relight has lamps, or the parameters of one, but not both"));
        }
        let first = || {
            let usual = Lamp::default();
            vec![Lamp {
                kind: f.lamp.unwrap_or_default(),
                toward: f.toward.unwrap_or(usual.toward),
                position: f.position.unwrap_or(usual.position),
                colour: f.colour.unwrap_or(usual.colour),
                intensity: f.intensity.unwrap_or(usual.intensity),
                shadows: false,
                ..usual
            }]
        };
        Ok(Self {
            lamps: f.lamps.unwrap_or_else(first),
            albedo: f.albedo,
            diffuse: f.diffuse,
            wrap: f.wrap,
            specular: f.specular,
            roughness: f.roughness,
            metalness: f.metalness,
            thickness: f.thickness,
        })
    }
}

impl Default for Relight {
    fn default() -> Self {
        Self {
            lamps: vec![Lamp::default()],
            albedo: AlbedoFrom::Pass,
            diffuse: 1.0,
            wrap: 0.0,
            specular: 0.04,
            roughness: 0.4,
            metalness: 0.0,
            thickness: usual_thickness(),
        }
    }
}

impl From<Lamp> for Relight {
    fn from(lamp: Lamp) -> Self {
        Self { lamps: vec![lamp], ..Self::default() }
    }
}

/// Most lamps of one step.
const LAMPS: usize = 64;

impl Relight {
    /// The lamps that are lit.
    fn lit(&self) -> impl Iterator<Item = &Lamp> {
        self.lamps.iter().filter(|l| l.on)
    }

    fn casts_shadows(&self) -> bool {
        self.thickness > 0.0 && self.lit().any(|l| l.shadows)
    }
}

impl Kind for Relight {
    const GROUP: Group = Group::Light;
    const TITLE: &'static str = "Relight";
    const ABOUT: &'static str = "Adds lamps to the rendered surface, from its normals.";
    const VERSION: u32 = 3;
    const JOINS: Joins = Joins { blend: BlendMode::Add, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        let placed = self.lit().any(|l| l.kind != LampKind::Directional);
        let mut list = vec![
            Reads { role: Role::Normal, required: true },
            Reads { role: Role::Position, required: placed || self.casts_shadows() },
        ];
        if self.albedo == AlbedoFrom::Pass {
            list.push(Reads { role: Role::Albedo, required: false });
        }
        list
    }

    fn reach(&self) -> Reach {
        // A shadow may come from anywhere, as may what hides a glowing lamp; rims are softened over the px around them.
        let whole = self.casts_shadows() || self.lit().any(Lamp::is_seen);
        if whole { Reach::WholeFrame } else { Reach::Px(1.0) }
    }

    fn sentence(&self) -> String {
        let lit: Vec<&Lamp> = self.lit().collect();
        let shadows = if self.casts_shadows() {
            ", with shadows"
        } else if self.lit().any(|l| l.shadows) {
            ", without shadows at thickness 0"
        } else {
            ""
        };
        match lit.as_slice() {
            [] => "Relight: no lamps on".into(),
            [one] => format!("Relight {}, intensity {:.2}{shadows}", one.words(), one.strength()),
            [first, second] => format!("Relight {} and {}{shadows}", first.words(), second.words()),
            [first, rest @ ..] => {
                format!("Relight {} and by {} more lamps{shadows}", first.words(), rest.len())
            }
        }
    }

    fn check(&self) -> Result<(), String> {
        if self.lamps.len() > LAMPS {
            return Err(format!("{} lamps are more than {LAMPS}", self.lamps.len()));
        }
        self.lamps.iter().try_for_each(Lamp::check)?;
        range("diffuse", self.diffuse, 0.0, 1e3)?;
        range("wrap", self.wrap, 0.0, 1.0)?;
        range("specular", self.specular, 0.0, 1.0)?;
        range("roughness", self.roughness, 0.0, 1.0)?;
        range("metal", self.metalness, 0.0, 1.0)?;
        range("thickness", self.thickness, 0.0, 1e3)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let normal = inputs.need(Role::Normal, Self::TITLE)?;
        let surface =
            Surface { normal, position: inputs.pass(Role::Position), albedo: inputs.pass(Role::Albedo) };
        let finish = Material {
            diffuse: self.diffuse,
            wrap: self.wrap,
            specular: self.specular,
            roughness: self.roughness,
            metalness: self.metalness,
        };
        let seen = self.shadows(normal, inputs)?;
        let lamps: Vec<Shining<'_>> = self
            .lit()
            .zip(&seen)
            .map(|(lamp, seen)| Shining { lamp: lamp.shining(), seen: seen.as_deref() })
            .collect();
        let mut out = Raster::zeros(inputs.picture.window(), 4);
        relight_into(&mut out, inputs.picture, surface, &lamps, finish, inputs.cancel)?;
        let mut light = rims::soften(&out, surface, inputs.cancel)?;
        self.lit().filter(|l| l.is_seen()).try_for_each(|l| add_flare(&mut light, l, inputs))?;
        Ok(light)
    }
}

impl Relight {
    /// How much of each lit lamp every place sees; nothing for those without shadows. What is cast is kept, so that only
    /// the lamp that is dragged casts anew.
    fn shadows(&self, normal: &Raster, inputs: &Inputs<'_>) -> Result<Vec<Option<Arc<Raster>>>, ShotError> {
        if !self.casts_shadows() {
            return Ok(self.lit().map(|_| None).collect());
        }
        let positions = inputs.need(Role::Position, Self::TITLE)?;
        let camera = inputs.camera.ok_or_else(|| ShotError::Parameter {
            place: Self::TITLE.into(),
            what: "shadows need the camera of the render; give it under Intake".into(),
        })?;
        let mut occluders = None;
        let mut cast = |lamp: &Lamp| {
            let bare = lamp.shining();
            let name = format!("seen {:?} {} {}", bare.place, bare.size, self.thickness);
            (inputs.keep)(&name, &mut || {
                let occluders = match &mut occluders {
                    Some(made) => made,
                    none => {
                        let (scale, cancel) = (inputs.scale, inputs.cancel);
                        none.insert(Occluders::new(normal, positions, camera, scale, self.thickness, cancel)?)
                    }
                };
                Ok(occluders.seen(&bare, inputs.cancel)?)
            })
        };
        self.lit().map(|l| l.shadows.then(|| cast(l)).transpose()).collect()
    }
}

/// Adds what a lamp itself looks like, as far as nothing hides it; nothing without a camera.
fn add_flare(light: &mut Raster, lamp: &Lamp, inputs: &Inputs<'_>) -> Result<(), ShotError> {
    let bare = lamp.shining();
    let Some((at, depth)) = inputs.camera.and_then(|c| flare::seen_at(&bare, c)) else { return Ok(()) };
    // A lamp fades behind an edge over about the bright middle of its glow.
    let radius = 0.25 * lamp.glow_size;
    let free = inputs.pass(Role::Position).map_or(1.0, |p| flare::free(p, inputs.scale, at, depth, radius));
    if free <= 0.0 {
        return Ok(());
    }
    let frame = inputs.frame;
    let middle =
        Vec2::new(frame.x as f32 + frame.width as f32 * 0.5, frame.y as f32 + frame.height as f32 * 0.5);
    let tint = lamp.tint();
    let flare = Flare {
        at,
        middle,
        size: lamp.glow_size,
        glow: tint.map(|c| c * lamp.glow * free),
        flare: tint.map(|c| c * lamp.flare * free),
    };
    Ok(flare::add(light, inputs.scale, &flare, inputs.cancel)?)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bad_figures_are_named() {
        let bad = |r: Relight| r.check().unwrap_err();
        let of = |lamp: Lamp| Relight { lamps: vec![lamp], ..Relight::default() };
        assert_eq!(
            bad(Relight { wrap: 2.0, ..Relight::default() }),
            "wrap is 2, and must lie between 0 and 1"
        );
        let dark = Lamp { intensity: f32::NAN, ..Lamp::default() };
        assert!(bad(of(dark)).starts_with("intensity is NaN"));
        assert_eq!(bad(of(Lamp { toward: [0.0; 3], ..Lamp::default() })), "the direction has no length");
        assert!(Relight::default().check().is_ok());
        assert!(
            bad(Relight { lamps: vec![Lamp::default(); 65], ..Relight::default() }).starts_with("65 lamps")
        );
    }

    #[test]
    fn sentences_name_the_lamps() {
        let sun = Lamp { shadows: false, ..Lamp::default() };
        let bulb = Lamp { kind: LampKind::Point, ..sun.clone() };
        let of = |lamps: &[&Lamp]| {
            Relight { lamps: lamps.iter().map(|l| (*l).clone()).collect(), ..Relight::default() }.sentence()
        };
        assert_eq!(of(&[&sun]), "Relight from the upper right, intensity 0.60");
        assert_eq!(of(&[&sun, &bulb]), "Relight from the upper right and from a point 6.00 units deep");
        assert_eq!(of(&[&bulb, &sun, &sun]), "Relight from a point 6.00 units deep and by 2 more lamps");
        let off = Lamp { on: false, ..sun.clone() };
        assert_eq!(of(&[&off]), "Relight: no lamps on");
        let shaded = Lamp { shadows: true, stops: 1.0, ..sun };
        let thin = Relight { lamps: vec![shaded.clone()], thickness: 0.0, ..Relight::default() };
        assert!(thin.sentence().ends_with("without shadows at thickness 0"));
        assert_eq!(of(&[&shaded, &off]), "Relight from the upper right, intensity 1.20, with shadows");
    }

    #[test]
    fn the_first_documents_are_read() {
        let old = r#"{"lamp": "point", "toward": [0, 0, 1], "position": [1, 2, -3], "colour": [1, 0.5, 0.25],
            "intensity": 2, "albedo": "picture", "diffuse": 1, "wrap": 0.5, "specular": 0, "roughness": 0.3}"#;
        let r: Relight = serde_json::from_str(old).unwrap();
        let [lamp] = r.lamps.as_slice() else { panic!("one lamp") };
        assert_eq!((lamp.kind, lamp.position, lamp.intensity), (LampKind::Point, [1.0, 2.0, -3.0], 2.0));
        assert!(!lamp.shadows, "they had none");
        let both = old.replacen('{', r#"{"lamps": [], "#, 1);
        assert!(serde_json::from_str::<Relight>(&both).unwrap_err().to_string().contains("but not both"));
        let again: Relight = serde_json::from_value(serde_json::to_value(&r).unwrap()).unwrap();
        assert_eq!(again, r);
    }
}
