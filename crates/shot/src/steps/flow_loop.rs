//! Flow in a loop.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use jugata_core::motion::looped;

/// Parameters of Flow in a loop.
#[parameters]
pub struct FlowLoop {
    /// Frames after which it begins again.
    #[param(label = "Period", default = 48.0, range = [2.0, 10_000.0], slider = [8.0, 240.0], step = 1.0, unit = "frames", group = "Flow")]
    pub period: f32,
    /// How fast it flows, against what the motion pass says; below 0 the other way.
    #[param(label = "Speed", default = 1.0, range = [-100.0, 100.0], slider = [0.0, 4.0], step = 0.01, unit = "×", group = "Flow")]
    pub speed: f32,
    /// Frames by which it is ahead.
    #[param(label = "Ahead", default = 0.0, range = [-10_000.0, 10_000.0], slider = [0.0, 240.0], step = 1.0, unit = "frames", group = "Flow")]
    pub ahead: f32,
    /// The frame that is seen; a still has its own.
    #[param(label = "Frame", default = 0.0, range = [-1e9, 1e9], means = "frame")]
    #[serde(default)]
    pub frame: f32,
}

impl Kind for FlowLoop {
    fn about(&self) -> About {
        About {
            title: "Flow in a loop",
            about: "Lets a still picture flow along a motion pass, or along painted flow, in a loop without a seam.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Motion)]
    }

    fn sentence(&self) -> String {
        let speed =
            if self.speed == 1.0 { String::new() } else { format!(", {:.2} times as fast", self.speed) };
        format!("Flow in a loop of {:.0} frames{speed}", self.period)
    }
}

impl Change for FlowLoop {
    fn group(&self) -> Group {
        Group::Air
    }

    fn reach(&self) -> Reach {
        // How far a flow carries is not known before it is followed.
        Reach::WholeFrame
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let k = inputs.px(1.0) * self.speed;
        let motion = inputs.need(Role::Motion)?.cropped(picture.window(), 0.0);
        let both = motion.plane(0).iter().chain(motion.plane(1));
        let flow = Raster::from_planar(picture.window(), 2, both.map(|v| v * k).collect())?;
        let frame = f64::from(self.frame) + f64::from(self.ahead);
        Ok(Effect::Replace(looped::flowed(picture, &flow, frame, self.period.into(), inputs.cancel)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::steps::StepKind;

    #[test]
    fn it_says_what_it_does_and_refuses_what_cannot_be() {
        assert_eq!(FlowLoop::default().sentence(), "Flow in a loop of 48 frames");
        let back = FlowLoop { speed: -0.5, period: 24.0, ..FlowLoop::default() };
        assert_eq!(back.sentence(), "Flow in a loop of 24 frames, -0.50 times as fast");
        assert!(StepKind::from(FlowLoop { period: 0.0, ..FlowLoop::default() }).check().is_err());
        assert!(StepKind::from(FlowLoop { frame: f32::NAN, ..FlowLoop::default() }).check().is_err());
    }
}
