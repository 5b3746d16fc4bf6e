//! A pass laid over the picture.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::raster::bands::for_each_band;
use jugata_core::{KernelError, Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

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
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct PassOver {
    /// Which pass.
    #[schemars(extend("x-label" = "Pass", "x-group" = "Pass"))]
    pub pass: Laid,
    /// Which of its channels.
    #[schemars(extend("x-label" = "Channel", "x-group" = "Pass"))]
    pub channel: Channel,
    /// What becomes black.
    #[schemars(extend("x-label" = "Black at", "x-slider" = [0.0, 1.0], "x-step" = 0.005, "x-group" = "Levels"))]
    pub black: f32,
    /// What becomes white.
    #[schemars(extend("x-label" = "White at", "x-slider" = [0.0, 1.0], "x-step" = 0.005, "x-group" = "Levels"))]
    pub white: f32,
    /// Power of what lies between: above 1 darker, below 1 brighter.
    #[schemars(extend("x-label" = "Gamma", "x-slider" = [0.2, 5.0], "x-step" = 0.01, "x-group" = "Levels"))]
    pub bend: f32,
    /// White for black.
    #[schemars(extend("x-label" = "Invert", "x-group" = "Levels"))]
    pub invert: bool,
}

impl Default for PassOver {
    fn default() -> Self {
        Self { pass: Laid::Clay, channel: Channel::All, black: 0.0, white: 0.6, bend: 1.0, invert: false }
    }
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
    const GROUP: Group = Group::Finish;
    const TITLE: &'static str = "Lay a pass over";
    const ABOUT: &'static str = "Blends a pass into the picture: clay multiplied back into burnt lights, an axis of the normals as overlay.";
    const VERSION: u32 = 1;
    const JOINS: Joins = Joins { blend: BlendMode::Multiply, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        vec![Reads { role: self.role(), required: true }]
    }

    fn reach(&self) -> Reach {
        Reach::Px(0.0)
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

    fn check(&self) -> Result<(), String> {
        range("black", self.black, -1e6, 1e6)?;
        range("white", self.white, -1e6, 1e6)?;
        range("gamma", self.bend, 0.01, 100.0)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let pass = inputs.need(self.role(), Self::TITLE)?;
        let last = pass.channels().saturating_sub(1);
        let picture = inputs.picture;
        let mut out = picture.clone();
        if pass.channels() == 0 {
            return Ok(out);
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
        Ok(out)
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
