//! Light from all around.

use super::change::{Change, Effect, Group, Reach};
use super::relight::AlbedoFrom;
use crate::files::MediaFile;
use crate::finish::{self, Finish, Table};
use crate::kinds::prelude::*;
use glam::{Mat3, Vec3};
use jugata_core::Camera;
use jugata_core::light::relight::{Material, Surface};
use jugata_core::light::rims;
use jugata_core::light::surround::{Pattern, Surround as Light, SurroundLight, fall};
use jugata_core::surface::clay::{self, openness};
use std::sync::Arc;

/// Where the light comes from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum SurroundFrom {
    /// A sky, brightest at the horizon, over a dark ground.
    Sky,
    /// A dark room with bright panels left, right and above.
    #[default]
    Panels,
    /// Upright bars of light.
    Bars,
    /// A lat-long picture.
    Picture,
    /// The picture of another element: a pattern, a gradient, footage.
    Element,
}

/// Parameters of Light from all around.
#[parameters]
pub struct Surround {
    /// What is all around.
    #[param(label = "Around", group = "Around")]
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
    #[param(label = "Turn", default = 0.0, range = [-3600.0, 3600.0], slider = [-180.0, 180.0], step = 1.0, unit = "°", means = "around-turn", group = "Around")]
    pub turn: f32,
    /// Tilted up.
    #[param(label = "Tilt", default = 0.0, range = [-360.0, 360.0], slider = [-90.0, 90.0], step = 1.0, unit = "°", group = "Around")]
    pub tilt: f32,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [1.0; 3], range = [0.0, 1e3], means = "colour", group = "Light")]
    pub colour: [f32; 3],
    /// Factor on the light.
    #[param(label = "Intensity", default = 0.5, range = [0.0, 1e6], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Light")]
    pub intensity: f32,
    /// How strongly things near by hide the light, where there are positions and a camera.
    #[param(label = "Occlusion", default = 0.8, range = [0.0, 100.0], slider = [0.0, 2.0], step = 0.01, unit = "×", group = "Light")]
    pub occlusion: f32,
    /// How far around a place things hide the light.
    #[param(label = "Reach", default = 0.6, range = [0.0, 1e6], slider = [0.0, 5.0], step = 0.01, unit = "units", group = "Light")]
    pub reach: f32,
    /// What the light falls on.
    #[param(label = "Falls on", default = AlbedoFrom::Pass, group = "Surface")]
    pub albedo: AlbedoFrom,
    /// Finishes of some objects; all else is the rest, whose finish follows.
    #[param(label = "Finishes", item = "finish", most = 64, means = "finishes", group = "Surface")]
    pub finishes: Vec<Finish>,
    /// Factor on the diffuse light.
    #[param(label = "Diffuse", default = 1.0, range = [0.0, 1e3], slider = [0.0, 2.0], step = 0.01, unit = "×", group = "Surface")]
    pub diffuse: f32,
    /// Reflectance seen head-on; 0.04 is varnish, 0 none.
    #[param(label = "Specular", default = 0.04, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.005, group = "Surface")]
    pub specular: f32,
    /// From mirror to chalk.
    #[param(label = "Roughness", default = 0.4, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Surface")]
    pub roughness: f32,
    /// A metal has no diffuse light, and mirrors in its own colour.
    #[param(label = "Metal", default = 0.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Surface")]
    pub metalness: f32,
}

/// Directions in which the horizon is looked for: as many as clay has.
const DIRECTIONS: u32 = 8;

impl Surround {
    pub(super) fn light(&self, inputs: &Inputs<'_>) -> Result<Light, ShotError> {
        let of = |picture: Option<&Raster>, what: &str| {
            let missing = || inputs.wrong(&format!("it has no {what} yet; choose one"));
            picture.map(Light::from_picture).ok_or_else(missing)
        };
        let pattern = match self.from {
            SurroundFrom::Sky => Pattern::Sky,
            SurroundFrom::Panels => Pattern::Panels,
            SurroundFrom::Bars => Pattern::Bars(self.bars),
            SurroundFrom::Picture => return of(inputs.pictures().next(), "picture"),
            SurroundFrom::Element => return of(inputs.pictures_of().next(), "element"),
        };
        Ok(Light::from_pattern(pattern))
    }

    /// The picture that has to be asked for.
    pub(super) fn wanted(&self) -> Option<Want> {
        match self.from {
            SurroundFrom::Picture => self.picture.clone().map(Want::Picture),
            SurroundFrom::Element => self.element.map(Want::PictureOf),
            _ => None,
        }
    }

    /// What is all around, in words.
    pub(super) fn words(&self) -> String {
        match self.from {
            SurroundFrom::Sky => "a sky".into(),
            SurroundFrom::Panels => "bright panels".into(),
            SurroundFrom::Bars => format!("{} bars", self.bars),
            SurroundFrom::Picture => self.picture.as_ref().map_or("a picture".into(), |p| p.name.clone()),
            SurroundFrom::Element => self.element.map_or("an element".into(), |id| format!("element {id}")),
        }
    }

    /// From camera space into the surround's directions: upright in the world where the camera's place in it is known, and at
    /// rest in it while the camera turns.
    pub(super) fn turned(&self, now: Option<Camera>, first: Option<Camera>) -> Mat3 {
        let to_world = |c: Option<Camera>| c.and_then(|c| c.turn_to_world());
        let upright = to_world(now).map_or(Mat3::IDENTITY, |turn| {
            // A camera's own heading says nothing of what is all around: what is ahead at first is ahead.
            let ahead = to_world(first).unwrap_or(turn) * Vec3::NEG_Z;
            Mat3::from_rotation_y(ahead.x.atan2(-ahead.z)) * turn
        });
        Mat3::from_rotation_x(-self.tilt.to_radians())
            * Mat3::from_rotation_y(self.turn.to_radians())
            * upright
    }

    /// What a surface mirrors by its roughness, which no turn changes; nothing if it does not shine.
    pub(super) fn mirrored(
        &self,
        around: &Light,
        finish: &Material,
        inputs: &Inputs<'_>,
    ) -> Result<Option<Arc<Raster>>, ShotError> {
        if !finish.mirrors() {
            return Ok(None);
        }
        let picture = self.picture.as_ref().map(|p| &p.media);
        let key = ("mirrored", self.from, self.bars, (picture, self.element), finish.roughness);
        inputs.kept(&key, || Ok(around.mirrored(finish.roughness, inputs.cancel)?)).map(Some)
    }

    /// Share of the surround that each place sees.
    fn open(&self, inputs: &Inputs<'_>) -> Result<Option<Raster>, ShotError> {
        let own = inputs.as_rendered();
        let normal = own.need(Role::Normal)?;
        let (Some(positions), Some(camera)) = (own.pass(Role::Position), inputs.camera) else {
            return Ok(None);
        };
        if self.occlusion <= 0.0 {
            return Ok(None);
        }
        let how =
            clay::Clay { reach: self.reach, occlusion: 1.0, sky: 0.0, grey: 1.0, directions: DIRECTIONS };
        let focal = inputs.scale.length(camera.focal);
        let made = || Ok(openness(normal, positions, focal, &how, inputs.cancel)?);
        let open = own.kept(&("open", self.reach), made)?;
        let mut open = inputs.follow(open, Role::Alpha)?.as_ref().clone();
        open.plane_mut(0).iter_mut().for_each(|v| *v = v.powf(self.occlusion));
        Ok(Some(open))
    }
}

impl Kind for Surround {
    fn about(&self) -> About {
        About {
            title: "Light from all around",
            about: "Adds the light of a picture or a pattern all around: soft on what is matt, mirrored by what shines.",
            version: 2,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let mut list = vec![needs(Role::Normal), takes(Role::Position)];
        if self.albedo == AlbedoFrom::Pass {
            list.push(takes(Role::Albedo));
        }
        list.extend(self.wanted());
        list.extend(finish::wanted(&self.finishes));
        list
    }

    fn sentence(&self) -> String {
        let what = self.words();
        format!("Light from all around by {what}, turned {:.0}°, intensity {:.2}", self.turn, self.intensity)
    }
}

impl Change for Surround {
    fn group(&self) -> Group {
        Group::Light
    }

    fn joins(&self) -> Joins {
        Joins::of(BlendMode::Add)
    }

    fn reach(&self) -> Reach {
        if self.occlusion > 0.0 { Reach::WholeFrame } else { Reach::OwnPx(rims::REACH) }
    }

    fn lights(&self) -> Option<Vec<u32>> {
        Some(Vec::new())
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let normal = inputs.need(Role::Normal)?;
        let surface =
            Surface { normal, position: inputs.pass(Role::Position), albedo: inputs.pass(Role::Albedo) };
        let open = self.open(inputs)?;
        let around = self.light(inputs)?;
        let rest = Material {
            diffuse: self.diffuse,
            wrap: 0.0,
            specular: self.specular,
            roughness: self.roughness,
            metalness: self.metalness,
            colour: None,
        };
        let table = Table::of(&self.finishes, rest, inputs);
        let mirrored: Vec<Option<Arc<Raster>>> =
            table.materials().map(|m| self.mirrored(&around, m, inputs)).collect::<Result<_, _>>()?;
        let mirrored: Vec<Option<&Raster>> = mirrored.iter().map(Option::as_deref).collect();
        let how = SurroundLight {
            finishes: table.finishes(),
            gain: self.colour.map(|c| c * self.intensity),
            turn: self.turned(inputs.camera, inputs.camera_at_first),
            open: open.as_ref(),
            mirrored: &mirrored,
        };
        let light = fall(picture, surface, &around, how, inputs.cancel)?;
        Ok(Effect::Light(inputs.softened(light, surface, picture)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::steps::StepKind;

    #[test]
    fn turning_moves_what_is_ahead_to_the_right() {
        let s = Surround { turn: 90.0, ..Surround::default() };
        assert!((s.turned(None, None) * Vec3::X - Vec3::NEG_Z).length() < 1e-6);
        let s = Surround { tilt: 90.0, ..Surround::default() };
        assert!((s.turned(None, None) * Vec3::Y - Vec3::NEG_Z).length() < 1e-6, "what was ahead is above");
    }

    #[test]
    fn a_tilted_camera_leaves_the_surround_upright() {
        // A camera that looks down by 30° and stands turned by 50°: its up leans, the surround's does not.
        let to_world = Mat3::from_rotation_y(0.87) * Mat3::from_rotation_x(-0.52);
        let rows = to_world.transpose();
        let row = |r: usize| rows.row(r).to_array();
        let [a, b, c] = [row(0), row(1), row(2)];
        let world = Some([a[0], a[1], a[2], 0.0, b[0], b[1], b[2], 0.0, c[0], c[1], c[2], 0.0]);
        let camera = Camera { focal: 1.0, centre_x: 0.0, centre_y: 0.0, world };
        let turn = Surround::default().turned(Some(camera), None);
        let ahead = turn * Vec3::NEG_Z;
        assert!(ahead.x.abs() < 1e-5 && ahead.y < -0.4 && ahead.z < 0.0, "ahead and down: {ahead}");
        assert!((turn * Vec3::X).y.abs() < 1e-5, "right stays level");
        assert_eq!(Surround::default().turned(Some(camera), Some(camera)), turn);
        // Seen from a camera that has turned to the left since, what was ahead is to the right.
        let straight =
            Camera { world: Some([1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0]), ..camera };
        let ahead = Surround::default().turned(Some(camera), Some(straight)).transpose() * Vec3::NEG_Z;
        assert!(ahead.x > 0.7, "{ahead}");
    }

    #[test]
    fn sentences_and_bad_figures() {
        let s = Surround::default();
        assert_eq!(s.sentence(), "Light from all around by bright panels, turned 0°, intensity 0.50");
        assert!(StepKind::from(Surround { turn: f32::NAN, ..s }).check().is_err());
    }
}
