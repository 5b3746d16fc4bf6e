//! Blur of the picture, whatever its depth.

use super::change::{Change, Effect, Group, Reach};
use super::edge::toward;
use crate::kinds::prelude::*;
use jugata_core::raster::blur::{self, along, boxed};
use jugata_core::raster::soften::{radius_of, softened};

/// What a point becomes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum BlurForm {
    /// A soft spot.
    #[default]
    Gaussian,
    /// A square.
    Box,
    /// A line.
    Line,
}

/// Parameters of Blur.
#[parameters]
pub struct Blur {
    /// What a point becomes.
    #[param(label = "Form", group = "Blur")]
    pub form: BlurForm,
    /// Half its width; of a soft spot twice its standard deviation.
    #[param(label = "Size", default = 8.0, range = [0.0, 400.0], slider = [0.0, 100.0], step = 0.1, unit = "px", group = "Blur")]
    pub size: f32,
    /// How the line lies: 0° level, 90° upright.
    #[param(label = "Along", range = [-3600.0, 3600.0], slider = [0.0, 180.0], step = 1.0, unit = "°", means = "angle", group = "Blur", when = {"form": "line"})]
    pub angle: f32,
}

impl Kind for Blur {
    fn about(&self) -> About {
        About {
            title: "Blur",
            about: "Blurs the picture evenly: softly, by a box, or along a line.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        match self.form {
            BlurForm::Gaussian => format!("Blur by {:.1} px", self.size),
            BlurForm::Box => format!("Blur by a box of {:.1} px", self.size),
            BlurForm::Line => format!("Blur by {:.1} px along {:.0}°", self.size, self.angle),
        }
    }
}

impl Change for Blur {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn reach(&self) -> Reach {
        Reach::Px(match self.form {
            BlurForm::Gaussian => radius_of(self.size) as f32 + 2.0,
            _ => self.size.min(blur::MOST) + 4.0,
        })
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let (size, cancel) = (inputs.px(self.size), inputs.cancel);
        Ok(Effect::Replace(match self.form {
            BlurForm::Gaussian => softened(picture, size, cancel)?,
            BlurForm::Box => boxed(picture, size, cancel)?,
            BlurForm::Line => along(picture, toward(self.angle), size, cancel)?,
        }))
    }
}
