//! Light wrap: what lies behind let in along an edge.

use super::change::{Change, Effect, Group, Reach};
use super::edge::{about_matte, edge_of, matte_of, unlit};
use crate::kinds::prelude::*;
use jugata_core::colour::wrap::{Wrap, wrapped};

/// Parameters of Light wrap.
#[parameters]
pub struct LightWrap {
    /// What it comes round; a matte of the element or its own outline.
    #[param(label = "Edge of", means = "own-matte", group = "Edge")]
    #[ts(optional = nullable)]
    pub of: Option<u32>,
    /// How far it reaches in.
    #[param(label = "Width", default = 24.0, range = [0.0, 400.0], slider = [0.0, 120.0], step = 0.5, unit = "px", group = "Edge")]
    pub width: f32,
    /// Whose light comes in: one element, or all that lies below this one.
    #[param(label = "From", means = "behind", group = "Behind")]
    #[ts(optional = nullable)]
    pub from: Option<u32>,
    /// How much what lies behind is blurred before it comes in.
    #[param(label = "Blur", default = 30.0, range = [0.0, 400.0], slider = [0.0, 120.0], step = 0.5, unit = "px", group = "Behind")]
    pub blur: f32,
    /// Linear Rec.709.
    #[param(label = "Tint", default = [1.0; 3], range = [0.0, 1e3], means = "colour", group = "Light")]
    pub tint: [f32; 3],
    /// Factor on the light.
    #[param(label = "Intensity", default = 1.0, range = [0.0, 1e6], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Light")]
    pub intensity: f32,
}

impl LightWrap {
    /// At a scale where lengths are `k` times as long.
    fn at(&self, k: f32) -> Wrap {
        Wrap { width: self.width * k, blur: self.blur * k, tint: self.tint.map(|t| t * self.intensity) }
    }
}

impl Kind for LightWrap {
    fn about(&self) -> About {
        About {
            title: "Light wrap",
            about: "Lets the light of what lies behind come in along an edge, so that both stand in one air.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let mut wants = edge_of(self.of);
        wants.push(Want::Behind(self.from));
        wants
    }

    fn sentence(&self) -> String {
        let from = self.from.map_or("what lies below".into(), |id| format!("element {id}"));
        format!("Light wrap {:.0} px wide from {from}, intensity {:.2}", self.width, self.intensity)
    }
}

impl Change for LightWrap {
    fn group(&self) -> Group {
        Group::Edge
    }

    fn joins(&self) -> Joins {
        Joins::of(BlendMode::Screen)
    }

    fn reach(&self) -> Reach {
        Reach::Px(self.at(1.0).reach() + 2.0)
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let Some(behind) = inputs.behind() else { return Ok(Effect::Light(unlit(picture))) };
        let mut matte = matte_of(picture, inputs)?;
        // A drawn matte may reach past what is there.
        matte.plane_mut(0).iter_mut().zip(picture.plane(3)).for_each(|(m, a)| *m = m.min(*a));
        let how = self.at(inputs.px(1.0));
        let light = |picture: &Raster, matte: &Raster| {
            let mut light = wrapped(matte, &behind.cropped(matte.window(), 0.0), &how, inputs.cancel)?;
            light.plane_mut(3).copy_from_slice(picture.plane(3));
            Ok(light)
        };
        Ok(Effect::Light(about_matte(picture, &matte, how.reach() + 2.0, || unlit(picture), light)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_says_whose_light_comes_in() {
        assert_eq!(
            LightWrap::default().sentence(),
            "Light wrap 24 px wide from what lies below, intensity 1.00"
        );
        let own = LightWrap { from: Some(2), width: 10.0, ..LightWrap::default() };
        assert_eq!(own.sentence(), "Light wrap 10 px wide from element 2, intensity 1.00");
    }
}
