//! Motion vectors of what is moved by keys, links, drift or a track.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use crate::limit::united;
use crate::wants::takes;
use jugata_core::geometry::going::vectors;

/// Between which times the motion is measured.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum MeasuredOver {
    /// As long before the frame as after it.
    #[default]
    AroundTheFrame,
    /// From the frame to the next.
    ToTheNext,
    /// From the last frame to this one.
    FromTheLast,
}

impl MeasuredOver {
    /// In words.
    pub(super) fn words(self) -> &'static str {
        match self {
            Self::AroundTheFrame => "around the frame",
            Self::ToTheNext => "to the next frame",
            Self::FromTheLast => "from the last frame",
        }
    }
}

/// Parameters of Motion of moves.
#[parameters]
pub struct MovesMotion {
    /// Between which times the motion is measured.
    #[param(label = "Measured", group = "Motion")]
    pub over: MeasuredOver,
}

impl MovesMotion {
    /// Frames from now.
    fn times(&self) -> [f64; 2] {
        match self.over {
            MeasuredOver::AroundTheFrame => [-0.5, 0.5],
            MeasuredOver::ToTheNext => [0.0, 1.0],
            MeasuredOver::FromTheLast => [-1.0, 0.0],
        }
    }
}

impl Kind for MovesMotion {
    fn about(&self) -> About {
        About {
            title: "Motion of moves",
            about: "Motion vectors of what is moved here: by keys on its place or its steps, by links and drift, or along with a track. A motion pass of its own is added.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![takes(Role::Motion), Want::Going(self.times())]
    }

    fn sentence(&self) -> String {
        format!("Motion of its moves, {}", self.over.words())
    }
}

impl Extraction for MovesMotion {
    fn gives(&self) -> Role {
        Role::Motion
    }

    fn by_itself(&self) -> bool {
        true
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let Some(going) = inputs.going() else { return Ok(Raster::zeros(inputs.window, 2)) };
        let window = united(inputs.window, inputs.scale.window(going.frame));
        let own = inputs.pass(Role::Motion);
        let [from, to] = &going.at;
        Ok(vectors(
            [(going.times[0], from), (going.times[1], to)],
            own,
            (window, inputs.scale),
            inputs.cancel,
        )?)
    }
}
