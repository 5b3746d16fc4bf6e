//! Motion blur from vectors.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use crate::wants::takes;
use jugata_core::Scale;
use jugata_core::motion::{self, Open};

/// When the shutter is open.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Opens {
    /// Half of it before the frame, half after.
    #[default]
    Around,
    /// From the frame on.
    From,
    /// Up to the frame.
    UpTo,
}

/// Parameters of Motion blur.
#[parameters]
pub struct MotionBlur {
    /// How long the shutter is open: 360° is from one frame to the next.
    #[param(label = "Shutter", default = 180.0, range = [0.0, 3600.0], slider = [0.0, 360.0], step = 1.0, unit = "°", group = "Shutter")]
    pub shutter: f32,
    /// When it is open.
    #[param(label = "Open", group = "Shutter")]
    pub opens: Opens,
    /// Longer or shorter than the passes say; below 0 the other way.
    #[param(label = "Length", default = 1.0, range = [-100.0, 100.0], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Shutter")]
    pub length: f32,
    /// Nothing is drawn out longer than this, full-resolution px.
    #[param(label = "Longest", default = 200.0, range = [0.0, 600.0], slider = [0.0, 300.0], step = 1.0, unit = "px", group = "Shutter")]
    pub longest: f32,
    /// Width of the picture's own soft edges: how far the colours of two surfaces mix there.
    #[param(label = "Edge width", default = 1, range = [1.0, 8.0], slider = [1.0, 4.0], step = 1.0, unit = "px", group = "Shutter")]
    pub rim: u32,
}

impl MotionBlur {
    /// The part of the frame interval for which the shutter is open.
    pub(crate) fn share(&self) -> f32 {
        self.shutter / 360.0
    }

    pub(crate) fn open(&self) -> Open {
        let length = self.share();
        let [opens, closes] = match self.opens {
            Opens::Around => [-0.5, 0.5],
            Opens::From => [0.0, 1.0],
            Opens::UpTo => [-1.0, 0.0],
        };
        Open { opens: opens * length, closes: closes * length }
    }

    /// The vectors in px of a scale, none longer while the shutter is open than they may be.
    pub(crate) fn vectors(&self, motion: &Raster, scale: Scale) -> Raster {
        let (open, k) = (self.share(), scale.length(1.0) * self.length);
        let most = scale.length(self.longest);
        let mut out = motion.cropped(motion.window(), 0.0);
        if let [u, v, ..] = &mut out.planes_mut()[..] {
            for (u, v) in u.iter_mut().zip(v.iter_mut()) {
                let long = (*u * k).hypot(*v * k) * open;
                let k = if long > most { k * most / long } else { k };
                (*u, *v) = (*u * k, *v * k);
            }
        }
        out
    }
}

impl Kind for MotionBlur {
    fn about(&self) -> About {
        About {
            title: "Motion blur",
            about: "Blurs what moves along its way, by motion vectors, while a shutter is open.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Motion), takes(Role::Depth)]
    }

    fn sentence(&self) -> String {
        let when = match self.opens {
            Opens::Around => "around the frame",
            Opens::From => "from the frame on",
            Opens::UpTo => "up to the frame",
        };
        let length =
            if self.length == 1.0 { String::new() } else { format!(", {:.2} times as long", self.length) };
        format!("Motion blur, shutter {:.0}° {when}{length}", self.shutter)
    }
}

impl Change for MotionBlur {
    fn group(&self) -> Group {
        Group::Air
    }

    fn reach(&self) -> Reach {
        // What comes by may come from far away, and what lies behind is carried on from anywhere.
        Reach::WholeFrame
    }

    fn exposes(&self) -> Option<&MotionBlur> {
        Some(self)
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let vectors = self.vectors(inputs.need(Role::Motion)?, inputs.scale);
        let (depth, rim) = (inputs.pass(Role::Depth), inputs.rim(self.rim));
        Ok(Effect::Replace(motion::blur(picture, &vectors, depth, self.open(), rim, inputs.cancel)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::steps::StepKind;

    #[test]
    fn the_shutter_is_open_around_from_or_up_to_the_frame() {
        let open = |opens| MotionBlur { opens, ..MotionBlur::default() }.open();
        assert_eq!(open(Opens::Around), Open { opens: -0.25, closes: 0.25 });
        assert_eq!(open(Opens::From), Open { opens: 0.0, closes: 0.5 });
        assert_eq!(open(Opens::UpTo), Open { opens: -0.5, closes: 0.0 });
    }

    #[test]
    fn it_says_what_it_does_and_refuses_what_cannot_be() {
        assert_eq!(MotionBlur::default().sentence(), "Motion blur, shutter 180° around the frame");
        let back = MotionBlur { length: -2.0, opens: Opens::From, ..MotionBlur::default() };
        assert_eq!(back.sentence(), "Motion blur, shutter 180° from the frame on, -2.00 times as long");
        let wrong = MotionBlur { shutter: f32::NAN, ..MotionBlur::default() };
        assert!(StepKind::from(wrong).check().is_err());
    }
}
