//! Height from a texture that lies on a surface: relief that *Relight* sees.

use super::extraction::Extraction;
use crate::files::MediaFile;
use crate::kinds::Lays;
use crate::kinds::prelude::*;
use crate::texture::{TextureFrom, aspect, texture, wanted, words};
use jugata_core::colour::luminance;
use jugata_core::texture::colour_at;
use jugata_core::texture::lay::read;
use jugata_core::texture::pyramid::{Beyond, Pyramid, stacked};
use jugata_core::texture::surface::Surface;

/// Parameters of Height from a texture.
#[parameters]
pub struct TextureHeight {
    /// Where the texture comes from.
    #[param(label = "Texture", group = "Texture")]
    pub from: TextureFrom,
    /// The picture.
    #[ts(optional = nullable)]
    #[param(label = "Picture", means = "picture-file", group = "Texture", when = {"from": "picture"})]
    pub picture: Option<MediaFile>,
    /// The element whose picture it is: drops, grime, a pattern, lettering.
    #[ts(optional = nullable)]
    #[param(label = "Element", means = "element", group = "Texture", when = {"from": "element"})]
    pub element: Option<u32>,
    /// What gets it: a matte of the element, or all of it.
    #[param(label = "On", means = "part-matte", group = "Texture")]
    #[ts(optional = nullable)]
    pub on: Option<u32>,
    /// Whether dark rises instead of bright.
    #[param(label = "Dark rises", group = "Texture")]
    pub invert: bool,
    /// Its middle, in UV.
    #[param(label = "Middle", default = [0.5, 0.5], range = [-1000.0, 1000.0], step = 0.005, means = "uv-place", group = "Placed")]
    pub middle: [f32; 2],
    /// Its width and height, in UV; a negative one turns it over.
    #[param(label = "Size", default = [1.0, 1.0], range = [-1000.0, 1000.0], step = 0.01, unit = "×", means = "pair", group = "Placed")]
    pub size: [f32; 2],
    /// Against the clock, about its middle.
    #[param(label = "Turn", range = [-3600.0, 3600.0], slider = [-180.0, 180.0], step = 0.5, unit = "°", means = "angle", group = "Placed")]
    pub turn: f32,
    /// What lies beyond its square.
    #[param(label = "Beyond", means = "choice-list", group = "Placed")]
    pub beyond: Beyond,
}

impl TextureHeight {
    fn laid(&self) -> Lays {
        let Self { from, on, middle, size, turn, beyond, .. } = *self;
        Lays { from, on, middle, size, turn, beyond }
    }
}

impl Kind for TextureHeight {
    fn about(&self) -> About {
        About {
            title: "Height from a texture",
            about: "Brightness of a picture on the object's UV, as height: relief for Normals with relief, and so for lamps.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let texture = wanted(self.from, self.picture.as_ref(), self.element);
        [needs(Role::Uv), takes(Role::ObjectId), cover(self.on)].into_iter().chain(texture).collect()
    }

    fn lays(&self) -> Option<Lays> {
        Some(self.laid())
    }

    fn sentence(&self) -> String {
        match words(self.from, self.picture.as_ref(), self.element) {
            Some(what) => format!("Height from {what} on the UV"),
            None => "Height from a texture: none chosen yet".into(),
        }
    }
}

impl Extraction for TextureHeight {
    fn gives(&self) -> Role {
        Role::Height
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let mut out = Raster::zeros(inputs.window, 1);
        let Some(source) = texture(self.from, inputs) else { return Ok(out) };
        let whole = Raster::filled(inputs.window, 1, 1.0);
        let on = inputs.cover().unwrap_or(&whole);
        let surface = Surface::new(inputs.need(Role::Uv)?, on, inputs.pass(Role::ObjectId))?;
        let sizes = inputs.kept(&("texture", self.from), || Ok(stacked(&source, inputs.cancel)?))?;
        let placing = self.laid().placing(aspect(&source));
        let pyramid = Pyramid::of(&sizes, source.window(), self.beyond);
        let seen = read(&surface, &pyramid, &placing, inputs.cancel)?;
        // Where the texture lets the surface through, nothing rises.
        for (i, v) in out.plane_mut(0).iter_mut().enumerate() {
            let bright = luminance(colour_at(&seen, i).to_array());
            *v = if self.invert { seen.plane(3)[i] - bright } else { bright };
        }
        Ok(out)
    }
}
