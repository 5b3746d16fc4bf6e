//! Another texture on a rendered thing, through its UV.

use super::change::{Change, Effect, Ground, Group, Reach};
use super::edge::matte_of;
use crate::files::MediaFile;
use crate::kinds::Lays;
use crate::kinds::prelude::*;
use crate::texture::{TextureFrom, aspect, texture, wanted, words};
use glam::Vec3;
use jugata_core::texture::lay::{self, Laid, Meets};
use jugata_core::texture::pyramid::{self, Beyond, Pyramid};
use jugata_core::texture::shading;
use jugata_core::texture::surface::{self, Surface};
use std::borrow::Cow;
use std::sync::Arc;

/// What the light on the surface is taken from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LitBy {
    /// The best of what there is, in the order of this list.
    #[default]
    Best,
    /// The diffuse pass ÷ the albedo: gloss stays as it is.
    Diffuse,
    /// The picture ÷ the albedo: gloss is told from light by its colour, as far as the albedo has any.
    Albedo,
    /// A clay pass; set the brightness by eye.
    Clay,
    /// The picture ÷ one colour, for a surface without any texture.
    OneColour,
    /// Nothing: the texture shines by itself, as a screen does.
    Itself,
}

/// Parameters of Re-texture.
#[parameters]
pub struct Retexture {
    /// Where the texture comes from.
    #[param(label = "Texture", group = "Texture")]
    pub from: TextureFrom,
    /// The picture.
    #[ts(optional = nullable)]
    #[param(label = "Picture", means = "picture-file", group = "Texture", when = {"from": "picture"})]
    pub picture: Option<MediaFile>,
    /// The element whose picture it is: footage, lettering, a drawing, a pattern.
    #[ts(optional = nullable)]
    #[param(label = "Element", means = "element", group = "Texture", when = {"from": "element"})]
    pub element: Option<u32>,
    /// What gets it: a matte of the element; else what *Only where* says, or all of it.
    #[param(label = "On", means = "limit-matte", group = "Texture")]
    #[ts(optional = nullable)]
    pub on: Option<u32>,
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
    /// What its light is taken from.
    #[param(label = "Lit by", means = "choice-list", group = "Light")]
    pub lit: LitBy,
    /// The surface's own colour, linear Rec.709.
    #[param(label = "Own colour", default = [0.5; 3], range = [0.0, 1e3], means = "colour", group = "Light", when = {"lit": "one_colour"})]
    pub own: [f32; 3],
    /// How it meets the colour that was there.
    #[param(label = "Meets it", group = "Light")]
    pub meets: Meets,
    /// Factor on its colour.
    #[param(label = "Brightness", default = 1.0, range = [0.0, 1e4], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Light")]
    pub brightness: f32,
}

/// An albedo of one colour, and light by it.
fn even(colour: [f32; 3], like: &Raster) -> Raster {
    Raster::from_fn(like.window(), 3, |c, _, _| colour[c])
}

/// The albedo of a grey surface as clay passes show it (common practice, no source).
const CLAY: f32 = 0.5;

impl Retexture {
    fn laid(&self) -> Lays {
        let Self { from, on, middle, size, turn, beyond, .. } = *self;
        Lays { from, on, middle, size, turn, beyond }
    }

    /// The best way to light it, given which roles are there.
    fn best(&self, has: impl Fn(Role) -> bool) -> LitBy {
        match self.lit {
            LitBy::Best if has(Role::Albedo) && has(Role::Diffuse) => LitBy::Diffuse,
            LitBy::Best if has(Role::Albedo) => LitBy::Albedo,
            LitBy::Best if has(Role::Clay) => LitBy::Clay,
            LitBy::Best => LitBy::OneColour,
            chosen => chosen,
        }
    }

    /// The colour of the surface, the light on it, and its diffuse part.
    fn light<'a>(
        &self,
        lit: LitBy,
        picture: &'a Raster,
        inputs: &'a Inputs<'_>,
        on: (&Surface<'_>, &Raster),
    ) -> Result<(Cow<'a, Raster>, Arc<Raster>, &'a Raster), ShotError> {
        let (seen, diffuse, albedo) = match lit {
            LitBy::Diffuse => {
                let diffuse = inputs.need(Role::Diffuse)?;
                (diffuse, diffuse, Cow::Borrowed(inputs.need(Role::Albedo)?))
            }
            LitBy::Albedo => (picture, picture, Cow::Borrowed(inputs.need(Role::Albedo)?)),
            LitBy::Clay => (inputs.need(Role::Clay)?, picture, Cow::Owned(even([CLAY; 3], picture))),
            _ => (picture, picture, Cow::Owned(even(self.own, picture))),
        };
        let made = || Ok(shading::light(seen, &albedo, lit == LitBy::Albedo, on, inputs.cancel)?);
        // It stays while the texture is dragged over it.
        let light = match lit {
            LitBy::Diffuse | LitBy::Clay => inputs.kept(&("light", lit), made)?,
            _ => inputs.kept_of_picture(&("light", lit, self.own), made)?,
        };
        // Of a clay the old colour is not known: it is what is seen ÷ light.
        let albedo = if lit == LitBy::Clay { Cow::Owned(quotient(picture, &light)) } else { albedo };
        Ok((albedo, light, diffuse))
    }
}

/// The first three planes of a picture over those of a light; 0 where there is none.
fn quotient(picture: &Raster, light: &Raster) -> Raster {
    Raster::from_fn(picture.window(), 3, |c, x, y| {
        let (a, b) = (picture.sample(c, x, y).unwrap_or(0.0), light.sample(c, x, y).unwrap_or(0.0));
        if b > 1e-6 { a / b } else { 0.0 }
    })
}

impl Kind for Retexture {
    fn about(&self) -> About {
        About {
            title: "Re-texture",
            about: "Lays a picture on a rendered thing through its UV, in the light that the thing is seen in.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let mut list = vec![needs(Role::Uv), takes(Role::ObjectId)];
        let by: &[Role] = match self.lit {
            LitBy::Best => &[Role::Albedo, Role::Diffuse, Role::Clay],
            LitBy::Diffuse => &[Role::Albedo, Role::Diffuse],
            LitBy::Albedo => &[Role::Albedo],
            LitBy::Clay => &[Role::Clay],
            LitBy::OneColour | LitBy::Itself => &[],
        };
        let chosen = self.lit != LitBy::Best;
        list.extend(by.iter().map(|r| if chosen { needs(*r) } else { takes(*r) }));
        list.push(cover(self.on));
        list.extend(wanted(self.from, self.picture.as_ref(), self.element));
        list
    }

    fn lays(&self) -> Option<Lays> {
        Some(self.laid())
    }

    fn sentence(&self) -> String {
        let Some(what) = words(self.from, self.picture.as_ref(), self.element) else {
            return "Re-texture: no texture chosen yet".into();
        };
        let beyond = match self.beyond {
            Beyond::Nothing => "",
            Beyond::Tiles => ", tiled",
            Beyond::Mirrored => ", mirrored",
            Beyond::Border => ", border drawn out",
        };
        let lit = match self.lit {
            LitBy::Itself => ", shining by itself",
            _ => "",
        };
        format!("Re-texture with {what}{beyond}{lit}")
    }
}

impl Change for Retexture {
    fn group(&self) -> Group {
        Group::Surface
    }

    fn reach(&self) -> Reach {
        Reach::OwnPx((shading::REACH + surface::RIM + surface::HARD + 1) as u32)
    }

    fn sees_its_limit(&self) -> bool {
        self.on.is_none()
    }

    fn tells_of_itself(&self) -> bool {
        true
    }

    fn tells(&self, on: &Ground<'_>) -> Vec<String> {
        let has = |role: Role| on.found.iter().any(|(w, _)| w.role().is_some_and(|(r, _)| r == role));
        let by = match self.best(has) {
            LitBy::Diffuse => "Lit by diffuse ÷ albedo.",
            LitBy::Albedo => "Lit by picture ÷ albedo.",
            LitBy::Clay => "Lit by the clay pass.",
            LitBy::OneColour | LitBy::Best => "Lit by picture ÷ one colour.",
            LitBy::Itself => "Shines by itself.",
        };
        vec![by.into()]
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        // Without a texture it is a step that waits for one.
        let Some(source) = texture(self.from, inputs) else { return Ok(Effect::Replace(picture.clone())) };
        let cancel = inputs.cancel;
        let whole;
        let on = match inputs.limit.or_else(|| inputs.cover()) {
            Some(cover) => cover,
            None => {
                whole = matte_of(picture, inputs)?;
                &whole
            }
        };
        let on = Surface::new(inputs.need(Role::Uv)?, on, inputs.pass(Role::ObjectId))?;
        let spots = inputs.kept(&"spots", || Ok(surface::spots(&on, cancel)?))?;
        let sizes = inputs.kept(&("texture", self.from), || Ok(pyramid::stacked(&source, cancel)?))?;
        let laid = Laid {
            texture: Pyramid::of(&sizes, source.window(), self.beyond),
            placing: self.laid().placing(aspect(&source)),
            meets: self.meets,
            gain: Vec3::splat(self.brightness),
            // Its own matte mixes it in by itself.
            covered: inputs.limit.is_none(),
        };
        let lit = self.best(|role| inputs.pass(role).is_some());
        if lit == LitBy::Itself {
            return Ok(Effect::Replace(lay::lay(picture, &on, &spots, lay::Lit::Itself, &laid, cancel)?));
        }
        let (albedo, light, diffuse) = self.light(lit, picture, inputs, (&on, &spots))?;
        let lit = lay::Lit::Apart { albedo: &albedo, light: &light, diffuse };
        Ok(Effect::Replace(lay::lay(picture, &on, &spots, lit, &laid, cancel)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::steps::StepKind;

    #[test]
    fn the_best_light_is_what_there_is() {
        let step = Retexture::default();
        let of = |roles: &[Role]| step.best(|r| roles.contains(&r));
        assert_eq!(of(&[Role::Albedo, Role::Diffuse, Role::Clay]), LitBy::Diffuse);
        assert_eq!(of(&[Role::Albedo, Role::Clay]), LitBy::Albedo);
        assert_eq!(of(&[Role::Diffuse, Role::Clay]), LitBy::Clay);
        assert_eq!(of(&[]), LitBy::OneColour);
        assert_eq!(Retexture { lit: LitBy::Itself, ..step }.best(|_| true), LitBy::Itself);
    }

    #[test]
    fn sentences_and_bad_figures() {
        let step = Retexture::default();
        assert_eq!(step.sentence(), "Re-texture with checks");
        let waits = Retexture { from: TextureFrom::Element, ..Retexture::default() };
        assert_eq!(waits.sentence(), "Re-texture: no texture chosen yet");
        assert!(StepKind::from(Retexture { size: [f32::NAN, 1.0], ..step }).check().is_err());
    }
}
