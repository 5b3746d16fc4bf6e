//! Emboss: highlight and shadow along a bevel.

use super::change::{Change, Effect, Group, Reach};
use super::edge::{about_matte, edge_of, matte_of, toward};
use crate::curve::{CurvePoint, identity, through};
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::Cancel;
use jugata_core::relief::bevel::{Bevel, Facing, Profile, Rise, Side, bands};
use jugata_core::relief::corner::Corners;
use jugata_core::relief::laid::{Ink, laid};

/// Parameters of Emboss.
#[parameters]
pub struct Emboss {
    /// What gets the bevel; a matte of the element or its own outline.
    #[param(label = "Edge of", means = "own-matte", group = "Bevel")]
    #[ts(optional = nullable)]
    pub of: Option<u32>,
    /// How wide the bevel is.
    #[param(label = "Width", default = 12.0, range = [0.1, 1000.0], slider = [0.5, 80.0], step = 0.1, unit = "px", group = "Bevel")]
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
    /// On which side of the edge it lies.
    #[param(label = "Lies", group = "Bevel")]
    pub side: Side,
    /// Beyond a corner it goes around it, or its sides go on until they meet in a ridge.
    #[param(label = "Corners", group = "Bevel")]
    pub corners: Corners,
    /// Where the light comes from: 0° from the right, 90° from above.
    #[param(label = "Light from", default = 125.0, range = [-3600.0, 3600.0], slider = [0.0, 360.0], step = 1.0, unit = "°", means = "light-angle", group = "Light")]
    pub from: f32,
    /// Higher keeps to what faces the light squarely.
    #[param(label = "Narrow", default = 1.5, range = [0.1, 50.0], slider = [0.5, 8.0], step = 0.05, group = "Light")]
    pub narrow: f32,
    /// Linear Rec.709.
    #[param(label = "Lit colour", default = [1.0, 0.98, 0.92], range = [0.0, 1e3], means = "colour", group = "Highlight")]
    pub light_colour: [f32; 3],
    /// How opaque the highlight is.
    #[param(label = "Lit opacity", default = 0.85, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Highlight")]
    pub light_opacity: f32,
    /// How wide the highlight is: grown above 1, shrunk below.
    #[param(label = "Lit width", default = 1.0, range = [0.01, 20.0], slider = [0.1, 3.0], step = 0.01, unit = "×", group = "Highlight")]
    pub light_grow: f32,
    /// Blur of the highlight.
    #[param(label = "Lit blur", default = 1.5, range = [0.0, 400.0], slider = [0.0, 30.0], step = 0.1, unit = "px", group = "Highlight")]
    pub light_soft: f32,
    /// How the highlight meets the picture.
    #[param(label = "Lit blend", default = BlendMode::Screen, means = "choice-list", group = "Highlight")]
    pub light_blend: BlendMode,
    /// Linear Rec.709.
    #[param(label = "Dark colour", default = [0.01, 0.012, 0.02], range = [0.0, 1e3], means = "colour", group = "Shadow")]
    pub dark_colour: [f32; 3],
    /// How opaque the shadow is.
    #[param(label = "Dark opacity", default = 0.7, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Shadow")]
    pub dark_opacity: f32,
    /// How wide the shadow is: grown above 1, shrunk below.
    #[param(label = "Dark width", default = 1.4, range = [0.01, 20.0], slider = [0.1, 3.0], step = 0.01, unit = "×", group = "Shadow")]
    pub dark_grow: f32,
    /// Blur of the shadow.
    #[param(label = "Dark blur", default = 3.0, range = [0.0, 400.0], slider = [0.0, 30.0], step = 0.1, unit = "px", group = "Shadow")]
    pub dark_soft: f32,
    /// How the shadow meets the picture.
    #[param(label = "Dark blend", default = BlendMode::Multiply, means = "choice-list", group = "Shadow")]
    pub dark_blend: BlendMode,
}

impl Emboss {
    fn bevel(&self, grow: f32, k: f32) -> Bevel {
        let width = self.width * grow * k;
        Bevel {
            width,
            height: self.height,
            profile: Rise::new(self.profile, through(&self.drawn)),
            side: self.side,
            corners: self.corners,
        }
    }
}

impl Emboss {
    /// Px around a pixel that it looks at.
    fn farthest(&self) -> f32 {
        let [light, dark] = [(self.light_grow, self.light_soft), (self.dark_grow, self.dark_soft)]
            .map(|(grow, soft)| self.bevel(grow, 1.0).reach(soft));
        light.max(dark) + 8.0
    }

    /// The picture with both bands, at a scale where lengths are `k` times as long.
    fn lit(&self, picture: &Raster, matte: &Raster, k: f32, cancel: &Cancel) -> Result<Raster, ShotError> {
        let contour = self.bevel(self.light_grow.max(self.dark_grow), k).contour(matte, cancel)?;
        let way = toward(self.from);
        let of = |grow: f32, toward: Vec2, soft: f32| {
            (self.bevel(grow, k), Facing { toward, narrow: self.narrow, soft: soft * k })
        };
        let dark = Ink { colour: self.dark_colour, opacity: self.dark_opacity, blend: self.dark_blend };
        let light = Ink { colour: self.light_colour, opacity: self.light_opacity, blend: self.light_blend };
        let both = [
            (of(self.dark_grow, -way, self.dark_soft), dark),
            (of(self.light_grow, way, self.light_soft), light),
        ];
        let (faces, inks): (Vec<_>, Vec<_>) = both.into_iter().filter(|(_, ink)| ink.opacity > 0.0).unzip();
        let mut out = picture.clone();
        for (share, ink) in bands(&contour, &faces, cancel)?.iter().zip(inks) {
            out = laid(&out, matte, share, ink, cancel)?;
        }
        Ok(out)
    }
}

impl Kind for Emboss {
    fn about(&self) -> About {
        About {
            title: "Emboss",
            about: "Lights a bevel along an edge: a band of highlight over a band of shadow, each with its own width.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        edge_of(self.of)
    }

    fn sentence(&self) -> String {
        let profile = match self.profile {
            Profile::Chamfer => "straight",
            Profile::Round => "round",
            Profile::Cove => "hollow",
            Profile::Step => "stepped",
            Profile::Drawn => "as drawn",
        };
        format!("Emboss {:.1} px wide, {profile}, lit from {:.0}°", self.width, self.from)
    }
}

impl Change for Emboss {
    fn group(&self) -> Group {
        Group::Edge
    }

    fn reach(&self) -> Reach {
        Reach::Px(self.farthest())
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let (matte, k) = (matte_of(picture, inputs)?, inputs.px(1.0));
        let lit = |picture: &Raster, matte: &Raster| self.lit(picture, matte, k, inputs.cancel);
        let reach = self.farthest() * k;
        Ok(Effect::Replace(about_matte(picture, &matte, reach, || picture.clone(), lit)?))
    }
}
