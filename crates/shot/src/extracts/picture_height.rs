//! Height from a picture.

use super::{ExtractInputs, Extraction, needs};
use crate::check::range;
use crate::error::ShotError;
use crate::steps::Reads;
use jugata_core::surface::height::{FromPicture, from_picture};
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Height from the picture.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct PictureHeight {
    /// Share of red; a negative one counts from white.
    #[schemars(extend("x-label" = "Red", "x-slider" = [-1.0, 1.0], "x-step" = 0.01, "x-group" = "Channels"))]
    pub red: f32,
    /// Share of green.
    #[schemars(extend("x-label" = "Green", "x-slider" = [-1.0, 1.0], "x-step" = 0.01, "x-group" = "Channels"))]
    pub green: f32,
    /// Share of blue.
    #[schemars(extend("x-label" = "Blue", "x-slider" = [-1.0, 1.0], "x-step" = 0.01, "x-group" = "Channels"))]
    pub blue: f32,
    /// Dark is high instead.
    #[schemars(extend("x-label" = "Dark is high", "x-group" = "Channels"))]
    pub invert: bool,
    /// Blur, full-resolution px.
    #[schemars(extend("x-label" = "Blur", "x-unit" = "px", "x-slider" = [0.0, 20.0], "x-step" = 0.1, "x-group" = "Detail"))]
    pub blur: f32,
    /// Shading broader than this is flattened, full-resolution px; 0 leaves it.
    #[schemars(extend("x-label" = "Flatten from", "x-unit" = "px", "x-slider" = [0.0, 200.0], "x-step" = 1.0, "x-group" = "Detail"))]
    pub flatten: f32,
    /// Factor about the middle.
    #[schemars(extend("x-label" = "Contrast", "x-unit" = "×", "x-slider" = [0.0, 4.0], "x-step" = 0.01, "x-group" = "Detail"))]
    pub contrast: f32,
}

impl Default for PictureHeight {
    fn default() -> Self {
        // Luminance, in round figures.
        Self { red: 0.2, green: 0.7, blue: 0.1, invert: false, blur: 0.5, flatten: 40.0, contrast: 1.0 }
    }
}

impl Extraction for PictureHeight {
    const TITLE: &'static str = "Height from the picture";
    const ABOUT: &'static str =
        "Takes bright for high: weighted channels, broad shading flattened, grain kept.";
    const VERSION: u32 = 1;

    fn gives(&self) -> Role {
        Role::Height
    }

    fn reads(&self) -> Vec<Reads> {
        vec![needs(Role::Beauty)]
    }

    fn sentence(&self) -> String {
        let way = if self.invert { "dark" } else { "bright" };
        format!("Height from the picture, {way} is high, flattened from {:.0} px", self.flatten)
    }

    fn check(&self) -> Result<(), String> {
        let weights = [self.red, self.green, self.blue];
        weights.iter().try_for_each(|w| range("a share", *w, -100.0, 100.0))?;
        range("the blur", self.blur, 0.0, 400.0)?;
        range("what is flattened", self.flatten, 0.0, 400.0)?;
        range("the contrast", self.contrast, -100.0, 100.0)?;
        if weights.iter().all(|w| *w == 0.0) { Err("no channel has a share".into()) } else { Ok(()) }
    }

    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        let how = FromPicture {
            weights: [self.red, self.green, self.blue],
            invert: self.invert,
            blur: given.px(self.blur),
            flatten: given.px(self.flatten),
            contrast: self.contrast,
        };
        Ok(from_picture(given.need(Role::Beauty, Self::TITLE)?, how, given.cancel)?)
    }
}
