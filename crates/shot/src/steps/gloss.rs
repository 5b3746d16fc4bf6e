//! Gloss: what a bevel mirrors of its surroundings.

use super::change::{Change, Effect, Group, Reach};
use super::edge::{about_matte, edge_of, matte_of, unlit};
use super::surround::{Surround, SurroundFrom};
use crate::curve::{CurvePoint, identity, through};
use crate::files::MediaFile;
use crate::kinds::prelude::*;
use jugata_core::light::relight::{Material, Surface};
use jugata_core::light::surround::{SurroundLight, fall};
use jugata_core::relief::bevel::{Bevel, Profile, Rise, Side, relief};
use jugata_core::relief::corner::Corners;

/// Where it shines.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum GlossOn {
    /// The bevel alone.
    Bevel,
    /// The flat face alone.
    Face,
    /// Both.
    #[default]
    Both,
}

/// Parameters of Gloss.
#[parameters]
pub struct Gloss {
    /// What gets the bevel; a matte of the element or its own outline.
    #[param(label = "Edge of", means = "own-matte", group = "Bevel")]
    #[ts(optional = nullable)]
    pub of: Option<u32>,
    /// How wide the bevel is.
    #[param(label = "Width", default = 16.0, range = [0.1, 1000.0], slider = [0.5, 80.0], step = 0.1, unit = "px", group = "Bevel")]
    pub width: f32,
    /// How high it rises, in widths; negative sinks.
    #[param(label = "Height", default = 1.0, range = [-20.0, 20.0], slider = [-2.0, 2.0], step = 0.01, unit = "×", group = "Bevel")]
    pub height: f32,
    /// How it rises.
    #[param(label = "Profile", default = Profile::Round, means = "choice-list", group = "Bevel")]
    pub profile: Profile,
    /// The profile from its lower end to its upper, over its width.
    #[param(label = "Drawn", means = "profile", item = "point", most = 64, default = identity(), group = "Bevel", when = {"profile": "drawn"})]
    pub drawn: Vec<CurvePoint>,
    /// Beyond a corner it goes around it, or its sides go on until they meet in a ridge.
    #[param(label = "Corners", group = "Bevel")]
    pub corners: Corners,
    /// Blur of its slopes: rounder ridges.
    #[param(label = "Rounded", default = 2.0, range = [0.0, 400.0], slider = [0.0, 30.0], step = 0.1, unit = "px", group = "Bevel")]
    pub soft: f32,
    /// What is all around.
    #[param(label = "Around", default = SurroundFrom::Panels, group = "Around")]
    pub from: SurroundFrom,
    /// The picture: twice as wide as high, its middle straight ahead.
    #[ts(optional = nullable)]
    #[param(label = "Picture", means = "picture-file", group = "Around", when = {"from": "picture"})]
    pub picture: Option<MediaFile>,
    /// The element whose picture it is, as a lat-long.
    #[ts(optional = nullable)]
    #[param(label = "Element", means = "element", group = "Around", when = {"from": "element"})]
    pub element: Option<u32>,
    /// How many bars stand all around.
    #[param(label = "Bars", default = 8, range = [1.0, 256.0], slider = [1.0, 24.0], step = 1.0, group = "Around", when = {"from": "bars"})]
    pub bars: u32,
    /// Turned to the right.
    #[param(label = "Turn", range = [-3600.0, 3600.0], slider = [-180.0, 180.0], step = 1.0, unit = "°", means = "around-turn", group = "Around")]
    pub turn: f32,
    /// Tilted up.
    #[param(label = "Tilt", range = [-360.0, 360.0], slider = [-90.0, 90.0], step = 1.0, unit = "°", group = "Around")]
    pub tilt: f32,
    /// Linear Rec.709.
    #[param(label = "Tint", default = [1.0; 3], range = [0.0, 1e3], means = "colour", group = "Shine")]
    pub tint: [f32; 3],
    /// Factor on what is mirrored.
    #[param(label = "Intensity", default = 0.5, range = [0.0, 1e6], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Shine")]
    pub intensity: f32,
    /// From mirror to chalk.
    #[param(label = "Roughness", default = 0.15, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Shine")]
    pub roughness: f32,
    /// Where it shines.
    #[param(label = "Shines on", group = "Shine")]
    pub on: GlossOn,
}

impl Gloss {
    fn around(&self) -> Surround {
        Surround {
            from: self.from,
            picture: self.picture.clone(),
            element: self.element,
            bars: self.bars,
            turn: self.turn,
            tilt: self.tilt,
            specular: 1.0,
            roughness: self.roughness,
            ..Surround::default()
        }
    }

    fn bevel(&self, k: f32) -> Bevel {
        Bevel {
            width: self.width * k,
            height: self.height,
            profile: Rise::new(self.profile, through(&self.drawn)),
            side: Side::Inside,
            corners: self.corners,
        }
    }
}

impl Gloss {
    /// Keeps light to what shines, by how much of each pixel lies on the bevel, inside the matte and within the picture.
    fn limit(&self, light: &mut Raster, [on, inside, alpha]: [&[f32]; 3]) {
        let share = |i: usize| {
            let own = if alpha[i] > 0.0 { (inside[i] / alpha[i]).clamp(0.0, 1.0) } else { 0.0 };
            own * match self.on {
                GlossOn::Bevel => on[i],
                GlossOn::Face => 1.0 - on[i],
                GlossOn::Both => 1.0,
            }
        };
        let shares: Vec<f32> = (0..alpha.len()).map(share).collect();
        for c in 0..3 {
            light.plane_mut(c).iter_mut().zip(&shares).for_each(|(v, s)| *v *= s);
        }
    }
}

impl Kind for Gloss {
    fn about(&self) -> About {
        About {
            title: "Gloss",
            about: "Mirrors a picture or a pattern all around in a bevel along an edge, and in its face.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        edge_of(self.of).into_iter().chain(self.around().wanted()).collect()
    }

    fn sentence(&self) -> String {
        let what = self.around().words();
        format!("Gloss of {what}, {:.0} px bevel, intensity {:.2}", self.width, self.intensity)
    }
}

impl Change for Gloss {
    fn group(&self) -> Group {
        Group::Edge
    }

    fn joins(&self) -> Joins {
        Joins::of(BlendMode::Add)
    }

    fn reach(&self) -> Reach {
        Reach::Px(self.bevel(1.0).reach(self.soft) + 8.0)
    }

    fn lights(&self) -> Option<Vec<u32>> {
        Some(Vec::new())
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let (matte, k, cancel) = (matte_of(picture, inputs)?, inputs.px(1.0), inputs.cancel);
        let step = self.around();
        let around = step.light(inputs)?;
        let finish = Material { diffuse: 0.0, specular: 1.0, roughness: self.roughness, ..Material::MATT };
        let mirrored = step.mirrored(&around, &finish, inputs)?;
        let mirrored = [mirrored.as_deref()];
        let how = SurroundLight {
            finishes: finish.into(),
            gain: self.tint.map(|t| t * self.intensity),
            turn: step.turned(None, None),
            open: None,
            mirrored: &mirrored,
        };
        let shine = |picture: &Raster, matte: &Raster| {
            let relief = relief(matte, &self.bevel(k), self.soft * k, cancel)?;
            let surface = Surface { normal: &relief.normals, position: None, albedo: None };
            let mut light = fall(picture, surface, &around, how, cancel)?;
            self.limit(&mut light, [relief.on.plane(0), matte.plane(0), picture.plane(3)]);
            Ok(light)
        };
        let reach = self.bevel(k).reach(self.soft * k) + 8.0;
        Ok(Effect::Light(about_matte(picture, &matte, reach, || unlit(picture), shine)?))
    }
}
