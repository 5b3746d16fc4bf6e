//! Pattern: seeded noise, stripes and dots.

use super::drawn::{Made, coloured, each, rgba, two};
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::relief::drops::drops;
use jugata_core::relief::noise::{Basis, Noise, Sum, octaves};

/// What a pattern is made of.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum PatternForm {
    /// Soft clouds.
    #[default]
    Clouds,
    /// Sharp ridges.
    Ridges,
    /// Blocks that pass into each other.
    Patches,
    /// Cells about scattered points.
    Cells,
    /// Stripes.
    Stripes,
    /// Dots.
    Dots,
    /// Drops of rain: as Evolution goes on they grow, run down and dry up.
    Drops,
}

/// Parameters of Pattern.
#[parameters]
pub struct Pattern {
    /// What it is made of.
    #[param(label = "Form", means = "choice-list", group = "Form")]
    pub form: PatternForm,
    /// Size of its largest parts.
    #[param(label = "Size", default = 160.0, range = [0.5, 100_000.0], slider = [4.0, 800.0], step = 1.0, unit = "px", group = "Form")]
    pub size: f32,
    /// How much longer its parts are than wide.
    #[param(label = "Stretch", default = 1.0, range = [0.01, 100.0], slider = [0.1, 10.0], step = 0.05, unit = "×", group = "Form")]
    pub stretch: f32,
    /// How it lies: 0° level, 90° upright.
    #[param(label = "Along", range = [-3600.0, 3600.0], slider = [0.0, 180.0], step = 1.0, unit = "°", means = "angle", group = "Form")]
    pub angle: f32,
    /// How much finer parts lie within the larger ones.
    #[param(label = "Detail", default = 5, range = [1.0, 12.0], slider = [1.0, 8.0], step = 1.0, group = "Detail", when = {"form": ["clouds", "ridges", "patches", "cells", "drops"]})]
    pub detail: u32,
    /// How strong finer parts are, from one size to the next.
    #[param(label = "Rough", default = 0.5, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Detail", when = {"form": ["clouds", "ridges", "patches", "cells", "drops"]})]
    pub rough: f32,
    /// How far it bends itself.
    #[param(label = "Warp", range = [0.0, 100.0], slider = [0.0, 3.0], step = 0.05, group = "Detail")]
    pub warp: f32,
    /// Another number is another pattern.
    #[param(label = "Seed", default = 1, range = [0.0, 1e6], slider = [0.0, 100.0], step = 1.0, group = "Detail")]
    pub seed: u32,
    /// Drive it to make the pattern change.
    #[param(label = "Evolution", range = [-1e5, 1e5], slider = [0.0, 10.0], step = 0.01, group = "Detail")]
    pub evolution: f32,
    /// Whether its right edge fits its left one, and its lower edge its upper one.
    #[param(label = "Tileable", group = "Detail")]
    pub tileable: bool,
    /// The value that becomes the middle between the colours.
    #[param(label = "Threshold", default = 0.5, range = [-10.0, 10.0], slider = [0.0, 1.0], step = 0.01, group = "Colours")]
    pub threshold: f32,
    /// How hard the change between the colours is.
    #[param(label = "Contrast", default = 1.5, range = [0.0, 1000.0], slider = [0.2, 20.0], step = 0.05, unit = "×", group = "Colours")]
    pub contrast: f32,
    /// Linear Rec.709.
    #[param(label = "Colour 1", default = [0.03, 0.025, 0.02], range = [0.0, 1e3], means = "colour", group = "Colours")]
    pub first: [f32; 3],
    /// How opaque the first colour is.
    #[param(label = "Opacity 1", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Colours")]
    pub first_opacity: f32,
    /// Linear Rec.709.
    #[param(label = "Colour 2", default = [0.5, 0.45, 0.36], range = [0.0, 1e3], means = "colour", group = "Colours")]
    pub second: [f32; 3],
    /// How opaque the second colour is.
    #[param(label = "Opacity 2", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Colours")]
    pub second_opacity: f32,
}

impl Pattern {
    fn noise(&self, seed: u32, period: [u32; 2]) -> Noise {
        let basis = match self.form {
            PatternForm::Patches => Basis::Value,
            PatternForm::Cells => Basis::Cells,
            _ => Basis::Gradient,
        };
        Noise { basis, seed: self.seed.wrapping_mul(16).wrapping_add(seed), period }
    }

    /// 0..1 at a place in cells.
    fn value(&self, place: Vec2, period: [u32; 2]) -> f32 {
        let bend = |seed| {
            let noise = Noise { basis: Basis::Gradient, ..self.noise(seed, period) };
            octaves(&noise, Sum::Fractal, 3, 0.5, place, self.evolution) - 0.5
        };
        let place = if self.warp > 0.0 { place + Vec2::new(bend(5), bend(6)) * self.warp } else { place };
        let sum = if self.form == PatternForm::Ridges { Sum::Ridged } else { Sum::Fractal };
        match self.form {
            PatternForm::Stripes => 0.5 - 0.5 * (place.y * std::f32::consts::TAU).cos(),
            PatternForm::Dots => {
                let part = place - place.floor() - Vec2::splat(0.5);
                1.0 - (2.0 * part.length()).min(1.0)
            }
            PatternForm::Drops => {
                drops(&self.noise(0, period), self.detail, self.rough, place, self.evolution)
            }
            _ => octaves(&self.noise(0, period), sum, self.detail, self.rough, place, self.evolution),
        }
    }

    /// Where it stands between its first colour (0) and its second (1), by the place in its frame.
    fn share(&self, inputs: &Inputs<'_>) -> impl Fn(Vec2) -> f32 + Sync {
        let frame = inputs.window;
        let size = Vec2::new(frame.width as f32, frame.height as f32);
        let corner = Vec2::new(frame.x as f32, frame.y as f32);
        let cell = Vec2::new(self.size * self.stretch, self.size) * inputs.px(1.0);
        let (sin, cos) = self.angle.to_radians().sin_cos();
        // What repeats lies along the frame, in whole cells.
        let cells = (size / cell).round().max(Vec2::ONE);
        let period = if self.tileable { [cells.x as u32, cells.y as u32] } else { [0, 0] };
        move |p| {
            let place = if self.tileable {
                (p - corner) / size * cells
            } else {
                Vec2::new(p.x * cos - p.y * sin, p.x * sin + p.y * cos) / cell
            };
            ((self.value(place, period) - self.threshold) * self.contrast + 0.5).clamp(0.0, 1.0)
        }
    }
}

impl Kind for Pattern {
    fn about(&self) -> About {
        About {
            title: "Pattern",
            about: "Clouds, ridges, patches, cells, stripes, dots or drops of rain in two colours, and as a height, the same for the same seed.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        let form = match self.form {
            PatternForm::Clouds => "clouds",
            PatternForm::Ridges => "ridges",
            PatternForm::Patches => "patches",
            PatternForm::Cells => "cells",
            PatternForm::Stripes => "stripes",
            PatternForm::Dots => "dots",
            PatternForm::Drops => "drops",
        };
        format!("Pattern of {form}, {:.0} px", self.size)
    }
}

impl Made for Pattern {
    fn offers(&self) -> &'static [Role] {
        &[Role::Beauty, Role::Uv, Role::Height]
    }

    fn draw(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let colours = two([rgba(self.first, self.first_opacity), rgba(self.second, self.second_opacity)]);
        coloured(inputs, &colours, self.share(inputs))
    }

    fn rises(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let share = self.share(inputs);
        each(inputs, |p| [share(p)])
    }
}
