//! A pass laid over the picture.

use super::change::{Change, Effect, Group};
use crate::kinds::prelude::*;
use jugata_core::KernelError;
use jugata_core::raster::bands::for_each_band;

/// The pass that is laid over.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Laid {
    /// Clay, as it is extracted or came with the render.
    #[default]
    Clay,
    /// Shadow or occlusion.
    Shadow,
    /// Normals, ½ where they are 0.
    Normal,
    /// Height.
    Height,
    /// Colour of the surface.
    Albedo,
    /// A pass of the role other: facing, curvature, and what else there is.
    Other,
}

/// Which of its channels.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Channel {
    /// All of them.
    #[default]
    All,
    /// The first: red, or right.
    X,
    /// The second: green, or up.
    Y,
    /// The third: blue, or to the viewer.
    Z,
}

/// Parameters of Lay a pass over.
#[parameters]
pub struct PassOver {
    /// Which pass.
    #[param(label = "Pass", group = "Pass")]
    pub pass: Laid,
    /// Which of its channels.
    #[param(label = "Channel", group = "Pass")]
    pub channel: Channel,
    /// What becomes black.
    #[param(label = "Black at", default = 0.0, range = [-1e6, 1e6], slider = [0.0, 1.0], step = 0.005, group = "Levels")]
    pub black: f32,
    /// What becomes white.
    #[param(label = "White at", default = 0.6, range = [-1e6, 1e6], slider = [0.0, 1.0], step = 0.005, group = "Levels")]
    pub white: f32,
    /// Power of what lies between: above 1 darker, below 1 brighter.
    #[param(label = "Gamma", default = 1.0, range = [0.01, 100.0], slider = [0.2, 5.0], step = 0.01, group = "Levels")]
    pub bend: f32,
    /// White for black.
    #[param(label = "Invert", group = "Levels")]
    pub invert: bool,
}

impl PassOver {
    fn role(&self) -> Role {
        match self.pass {
            Laid::Clay => Role::Clay,
            Laid::Shadow => Role::Shadow,
            Laid::Normal => Role::Normal,
            Laid::Height => Role::Height,
            Laid::Albedo => Role::Albedo,
            Laid::Other => Role::Other,
        }
    }

    /// The value that is laid over; `None` for none.
    fn value(&self, v: f32) -> Option<f32> {
        let v = if self.pass == Laid::Normal { 0.5 + 0.5 * v } else { v };
        let span = self.white - self.black;
        // Black and white at one value are a step, not a slope without end.
        let level =
            if span.abs() > 1e-6 { (v - self.black) / span } else { f32::from(u8::from(v >= self.black)) };
        let v = level.max(0.0).powf(self.bend);
        let v = if self.invert { (1.0 - v).max(0.0) } else { v };
        v.is_finite().then_some(v)
    }
}

impl Kind for PassOver {
    fn about(&self) -> About {
        About {
            title: "Lay a pass over",
            about: "Blends a pass into the picture: clay multiplied back into burnt lights, an axis of the normals as overlay.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(self.role())]
    }

    fn sentence(&self) -> String {
        let channel = match self.channel {
            Channel::All => "",
            Channel::X => ", x",
            Channel::Y => ", y",
            Channel::Z => ", z",
        };
        let invert = if self.invert { ", inverted" } else { "" };
        format!("Lay the {} over{channel}{invert}", self.role().label())
    }
}

impl Change for PassOver {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn joins(&self) -> Joins {
        Joins::of(BlendMode::Multiply)
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let pass = inputs.need(self.role())?;
        let last = pass.channels().saturating_sub(1);
        let mut out = picture.clone();
        if pass.channels() == 0 {
            return Ok(Effect::Replace(out));
        }
        for_each_band(&mut out, inputs.cancel, |band| {
            for y in band.window().rows() {
                let alpha = picture.row(3, y);
                for c in 0..3 {
                    let from = match self.channel {
                        Channel::All => c,
                        Channel::X => 0,
                        Channel::Y => 1,
                        Channel::Z => 2,
                    };
                    let row = pass.row(from.min(last), y);
                    for ((o, v), a) in band.row(c, y).iter_mut().zip(row).zip(alpha) {
                        // What has no value leaves the picture alone wherever the blend lets it.
                        *o = self.value(*v).map_or(*o, |v| v * a);
                    }
                }
            }
        })
        .map_err(KernelError::from)?;
        Ok(Effect::Replace(out))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn levels_and_axes() {
        let s = PassOver { black: 0.2, white: 0.6, ..PassOver::default() };
        assert!((s.value(0.4).unwrap() - 0.5).abs() < 1e-6);
        assert_eq!(s.value(0.1), Some(0.0));
        assert_eq!(PassOver { invert: true, ..s.clone() }.value(0.2), Some(1.0));
        assert_eq!(s.value(f32::NAN), Some(0.0), "no number is black");
        let step = PassOver { white: 0.2, ..s.clone() };
        assert_eq!((step.value(0.19), step.value(0.2), step.value(7.0)), (Some(0.0), Some(1.0), Some(1.0)));
        let axis = PassOver { pass: Laid::Normal, black: 0.0, white: 1.0, ..s };
        assert_eq!((axis.value(0.0), axis.value(1.0)), (Some(0.5), Some(1.0)));
        assert_eq!(axis.sentence(), "Lay the normals over");
        assert_eq!(PassOver::default().sentence(), "Lay the clay over");
    }
}
