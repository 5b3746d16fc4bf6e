//! Light added to the rendered surface.

use super::change::{Change, Effect, Group, Reach};
use crate::finish::{self, Finish, Table};
use crate::kinds::prelude::*;
use crate::lamp::{Lamp, LampKind};
use crate::params::settle;
use glam::Vec2;
use jugata_core::light::flare::{self, Flare};
use jugata_core::light::relight::{Material, Shining, Surface, relight_into};
use jugata_core::light::rims;
use jugata_core::light::shadow::Occluders;
use serde::de::Error;
use serde::{Deserialize, Deserializer, Serialize};
use std::sync::Arc;

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
#[parameters(reads_itself)]
#[serde(deny_unknown_fields)]
pub struct Relight {
    /// The lamps.
    #[param(label = "Lamps", default = vec![Lamp::new()], item = "lamp", most = 64, means = "lamps")]
    pub lamps: Vec<Lamp>,
    /// What the light falls on.
    #[param(label = "Falls on", group = "Surface")]
    pub albedo: AlbedoFrom,
    /// Finishes of some objects; all else is the rest, whose finish follows.
    #[param(label = "Finishes", item = "finish", most = 64, means = "finishes", group = "Surface")]
    pub finishes: Vec<Finish>,
    /// Factor on the diffuse light.
    #[param(label = "Diffuse", default = 1.0, range = [0.0, 1e3], slider = [0.0, 2.0], step = 0.01, unit = "×", group = "Surface")]
    pub diffuse: f32,
    /// Light reaching round the edge of shadow.
    #[param(label = "Wrap", default = 0.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Surface")]
    pub wrap: f32,
    /// Reflectance seen head-on; 0.04 is varnish, 0 none: a highlight on what is matt is worse than none on varnish.
    #[param(label = "Specular", default = 0.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.005, group = "Surface")]
    pub specular: f32,
    /// From mirror to chalk.
    #[param(label = "Roughness", default = 0.4, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Surface")]
    pub roughness: f32,
    /// A metal has no diffuse light, and mirrors in its own colour.
    #[param(label = "Metal", default = 0.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Surface")]
    pub metalness: f32,
    /// Most that things are taken to be thick behind what is seen of them, for shadows: a share of their depth.
    #[param(label = "Thickness", default = 0.1, range = [0.0, 1e3], slider = [0.0, 0.5], step = 0.005, unit = "of Z", group = "Surface")]
    pub thickness: f32,
}

/// A relight as a document may hold it: the first documents had one lamp, its parameters among the others.
#[derive(Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
struct RelightForm {
    lamps: Option<Vec<Lamp>>,
    lamp: Option<LampKind>,
    toward: Option<[f32; 3]>,
    position: Option<[f32; 3]>,
    colour: Option<[f32; 3]>,
    intensity: Option<f32>,
    albedo: AlbedoFrom,
    diffuse: Option<f32>,
    wrap: Option<f32>,
    specular: Option<f32>,
    roughness: Option<f32>,
    metalness: Option<f32>,
    thickness: Option<f32>,
    finishes: Vec<Finish>,
}

impl RelightForm {
    /// Whether it has the parameters of a lamp among the others.
    fn has_one_lamp(&self) -> bool {
        let places = self.toward.is_some() || self.position.is_some();
        places || self.lamp.is_some() || self.colour.is_some() || self.intensity.is_some()
    }

    fn one_lamp(&self) -> Lamp {
        let usual = Lamp::default();
        Lamp {
            id: 1,
            kind: self.lamp.unwrap_or_default(),
            toward: self.toward.unwrap_or(usual.toward),
            position: self.position.unwrap_or(usual.position),
            colour: self.colour.unwrap_or(usual.colour),
            intensity: self.intensity.unwrap_or(usual.intensity),
            shadows: false,
            ..usual
        }
    }
}

impl<'de> Deserialize<'de> for Relight {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let f = RelightForm::deserialize(from)?;
        let usual = Self::default();
        let mut lamps = match (&f.lamps, f.has_one_lamp()) {
            (Some(_), true) => {
                return Err(D::Error::custom("a relight has lamps, or the parameters of one, but not both"));
            }
            (None, true) => vec![f.one_lamp()],
            (_, false) => f.lamps.unwrap_or(usual.lamps),
        };
        settle(&mut lamps);
        let mut finishes = f.finishes;
        settle(&mut finishes);
        Ok(Self {
            lamps,
            albedo: f.albedo,
            diffuse: f.diffuse.unwrap_or(usual.diffuse),
            wrap: f.wrap.unwrap_or(usual.wrap),
            specular: f.specular.unwrap_or(usual.specular),
            roughness: f.roughness.unwrap_or(usual.roughness),
            metalness: f.metalness.unwrap_or(usual.metalness),
            thickness: f.thickness.unwrap_or(usual.thickness),
            finishes,
        })
    }
}

impl From<Lamp> for Relight {
    fn from(lamp: Lamp) -> Self {
        Self { lamps: vec![Lamp { id: lamp.id.max(1), ..lamp }], ..Self::default() }
    }
}

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
    fn about(&self) -> About {
        About { title: "Relight", about: "Adds lamps to the rendered surface, from its normals.", version: 5 }
    }

    fn wants(&self) -> Vec<Want> {
        let placed = self.lit().any(|l| l.kind != LampKind::Directional);
        let mut list = vec![
            needs(Role::Normal),
            Want::Role { role: Role::Position, required: placed || self.casts_shadows() },
        ];
        if self.albedo == AlbedoFrom::Pass {
            list.push(takes(Role::Albedo));
        }
        list.extend(finish::wanted(&self.finishes));
        list
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
        self.lamps.iter().try_for_each(Lamp::check)
    }
}

impl Change for Relight {
    fn group(&self) -> Group {
        Group::Light
    }

    fn joins(&self) -> Joins {
        Joins::of(BlendMode::Add)
    }

    fn reach(&self) -> Reach {
        // A shadow may come from anywhere, as may what hides a glowing lamp; rims are softened over the px around them.
        let whole = self.casts_shadows() || self.lit().any(Lamp::is_seen);
        if whole { Reach::WholeFrame } else { Reach::OwnPx(rims::REACH) }
    }

    fn lights(&self) -> Option<Vec<u32>> {
        Some(self.lamps.iter().filter(|l| l.on).map(|l| l.id).collect())
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let normal = inputs.need(Role::Normal)?;
        let surface =
            Surface { normal, position: inputs.pass(Role::Position), albedo: inputs.pass(Role::Albedo) };
        let rest = Material {
            diffuse: self.diffuse,
            wrap: self.wrap,
            specular: self.specular,
            roughness: self.roughness,
            metalness: self.metalness,
            colour: None,
        };
        let table = Table::of(&self.finishes, rest, inputs);
        let since_first = inputs.since_first();
        let lit: Vec<Lamp> = self.lit().map(|l| l.on_frame(since_first)).collect();
        let seen = self.shadows(&lit, inputs)?;
        let lamps: Vec<Shining<'_>> = lit
            .iter()
            .zip(&seen)
            .map(|(lamp, seen)| Shining { lamp: lamp.shining(), seen: seen.as_deref() })
            .collect();
        let mut out = Raster::zeros(picture.window(), 4);
        relight_into(&mut out, picture, surface, &lamps, table.finishes(), inputs.cancel)?;
        let mut light = inputs.softened(out, surface, picture)?;
        lit.iter().filter(|l| l.is_seen()).try_for_each(|l| add_flare(&mut light, l, inputs))?;
        Ok(Effect::Light(light))
    }
}

impl Relight {
    /// How much of each lit lamp every place sees; nothing for those without shadows. What is cast is kept, so that only
    /// the lamp that is dragged casts anew.
    fn shadows(&self, lit: &[Lamp], inputs: &Inputs<'_>) -> Result<Vec<Option<Arc<Raster>>>, ShotError> {
        if !self.casts_shadows() {
            return Ok(vec![None; lit.len()]);
        }
        let own = inputs.as_rendered();
        let (normal, positions) = (own.need(Role::Normal)?, own.need(Role::Position)?);
        let none = || inputs.wrong("shadows need the camera of the render; give it under Intake");
        let camera = inputs.camera.ok_or_else(none)?;
        let mut occluders = None;
        let mut cast = |lamp: &Lamp| {
            let bare = lamp.shining();
            let seen = own.kept(&("seen", lamp.stand(), bare.size, self.thickness), || {
                let occluders = match &mut occluders {
                    Some(made) => made,
                    none => {
                        let (scale, cancel) = (inputs.scale, inputs.cancel);
                        none.insert(Occluders::new(normal, positions, camera, scale, self.thickness, cancel)?)
                    }
                };
                Ok(occluders.seen(&bare, inputs.cancel)?)
            })?;
            inputs.follow(seen, Role::Alpha)
        };
        lit.iter().map(|l| l.shadows.then(|| cast(l)).transpose()).collect()
    }
}

/// Adds what a lamp itself looks like, as far as nothing hides it; nothing without a camera.
fn add_flare(light: &mut Raster, lamp: &Lamp, inputs: &Inputs<'_>) -> Result<(), ShotError> {
    let bare = lamp.shining();
    let Some((at, depth)) = inputs.camera.and_then(|c| flare::seen_at(&bare, c)) else { return Ok(()) };
    // A lamp fades behind an edge over about the bright middle of its glow.
    let radius = 0.25 * lamp.glow_size;
    let free = inputs
        .as_rendered()
        .pass(Role::Position)
        .map_or(1.0, |p| flare::free(p, inputs.scale, at, depth, radius));
    let Some(at) = inputs.seen_at(at).filter(|_| free > 0.0) else { return Ok(()) };
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
    use crate::steps::StepKind;

    #[test]
    fn bad_figures_are_named() {
        let bad = |r: Relight| StepKind::from(r).check().unwrap_err();
        let of = |lamp: Lamp| Relight { lamps: vec![lamp], ..Relight::default() };
        assert_eq!(
            bad(Relight { wrap: 2.0, ..Relight::default() }),
            "“Wrap” is 2, and must lie between 0 and 1"
        );
        let dark = Lamp { intensity: f32::NAN, ..Lamp::default() };
        assert!(bad(of(dark)).starts_with("“Intensity” is NaN"));
        assert_eq!(bad(of(Lamp { toward: [0.0; 3], ..Lamp::default() })), "the direction has no length");
        assert!(StepKind::from(Relight::default()).check().is_ok());
        let two = Relight {
            lamps: vec![Lamp::new(), Lamp { id: 2, stops: 99.0, ..Lamp::new() }],
            ..Relight::default()
        };
        assert!(bad(two).starts_with("lamp 2: “Stops” is 99"));
        let alike = Relight { lamps: vec![Lamp::new(); 2], ..Relight::default() };
        assert_eq!(bad(alike), "two lamps have the number 1");
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
