//! Soft shadow: behind an edge, or within it.

use super::change::{Change, Effect, Group, Reach};
use super::edge::{about_matte, edge_of, matte_of, toward};
use crate::kinds::prelude::*;
use jugata_core::relief::laid::{Ink, Shadow, laid, shade};

/// Where a shadow falls.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum ShadowFalls {
    /// On what lies behind.
    #[default]
    Behind,
    /// On the thing itself, as if it were cut out of a sheet above it.
    Within,
}

/// Parameters of Soft shadow.
#[parameters]
pub struct SoftShadow {
    /// What throws it; a matte of the element or its own outline.
    #[param(label = "Edge of", means = "own-matte", group = "Edge")]
    #[ts(optional = nullable)]
    pub of: Option<u32>,
    /// Where it falls.
    #[param(label = "Falls", group = "Edge")]
    pub falls: ShadowFalls,
    /// Where the light comes from: 0° from the right, 90° from above.
    #[param(label = "Light from", default = 125.0, range = [-3600.0, 3600.0], slider = [0.0, 360.0], step = 1.0, unit = "°", means = "light-angle", group = "Place")]
    pub from: f32,
    /// How far it lies from what throws it.
    #[param(label = "Offset", default = 14.0, range = [0.0, 10_000.0], slider = [0.0, 100.0], step = 0.5, unit = "px", group = "Place")]
    pub offset: f32,
    /// How much larger it is than what throws it.
    #[param(label = "Spread", range = [-400.0, 400.0], slider = [-20.0, 40.0], step = 0.1, unit = "px", group = "Place")]
    pub spread: f32,
    /// Its blur.
    #[param(label = "Softness", default = 18.0, range = [0.0, 400.0], slider = [0.0, 100.0], step = 0.5, unit = "px", group = "Place")]
    pub soft: f32,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [0.0; 3], range = [0.0, 1e3], means = "colour", group = "Colour")]
    pub colour: [f32; 3],
    /// How opaque it is.
    #[param(label = "Opacity", default = 0.6, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Colour")]
    pub opacity: f32,
}

impl SoftShadow {
    fn at(&self, k: f32) -> Shadow {
        // A shadow within comes from a sheet that begins where the thing ends: there it grows by shrinking.
        let spread = if self.falls == ShadowFalls::Within { -self.spread } else { self.spread };
        Shadow { by: -toward(self.from) * self.offset * k, spread: spread * k, soft: self.soft * k }
    }
}

impl Kind for SoftShadow {
    fn about(&self) -> About {
        About { title: "Soft shadow", about: "Lays a shadow behind an edge, or within it.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        edge_of(self.of)
    }

    fn sentence(&self) -> String {
        let falls = if self.falls == ShadowFalls::Behind { "behind" } else { "within" };
        format!("Soft shadow {falls}, {:.0} px away, lit from {:.0}°", self.offset, self.from)
    }
}

impl Change for SoftShadow {
    fn group(&self) -> Group {
        Group::Edge
    }

    fn reach(&self) -> Reach {
        Reach::Px(self.at(1.0).reach() + 8.0)
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let matte = matte_of(picture, inputs)?;
        let shaded = |picture: &Raster, matte: &Raster| {
            let shade = shade(matte, &self.at(inputs.px(1.0)), inputs.cancel)?;
            let zeros = vec![0.0; picture.window().area()];
            let planes = match self.falls {
                ShadowFalls::Behind => [zeros, shade.plane(0).to_vec()],
                ShadowFalls::Within => [shade.plane(0).iter().map(|s| 1.0 - s).collect(), zeros],
            };
            let share = Raster::from_planar(picture.window(), 2, planes.concat())?;
            let ink = Ink { colour: self.colour, opacity: self.opacity, blend: BlendMode::Normal };
            Ok(laid(picture, matte, &share, ink, inputs.cancel)?)
        };
        let reach = self.at(inputs.px(1.0)).reach() + 8.0;
        Ok(Effect::Replace(about_matte(picture, &matte, reach, || picture.clone(), shaded)?))
    }
}
