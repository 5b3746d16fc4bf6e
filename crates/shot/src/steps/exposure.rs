//! Brighter or darker.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::colour::exposure_gain;
use jugata_core::raster::bands::for_each_band;
use jugata_core::{KernelError, Raster};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Parameters of Exposure.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Exposure {
    /// Twice as bright for each stop.
    #[schemars(extend("x-label" = "Exposure", "x-unit" = "stops", "x-slider" = [-4.0, 4.0], "x-step" = 0.01))]
    pub stops: f32,
}

impl Kind for Exposure {
    const GROUP: Group = Group::Finish;
    const TITLE: &'static str = "Exposure";
    const ABOUT: &'static str = "Makes the picture brighter or darker, in stops.";
    const VERSION: u32 = 1;
    const JOINS: Joins = Joins { blend: BlendMode::Normal, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        Vec::new()
    }

    fn reach(&self) -> Reach {
        Reach::Px(0.0)
    }

    fn sentence(&self) -> String {
        format!("Exposure {:+.2} stops", self.stops)
    }

    fn check(&self) -> Result<(), String> {
        range("exposure", self.stops, -40.0, 40.0)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let gain = exposure_gain(self.stops);
        let picture = inputs.picture;
        let mut out = Raster::zeros(picture.window(), 4);
        for_each_band(&mut out, inputs.cancel, |band| {
            for y in band.window().rows() {
                for c in 0..4 {
                    let k = if c < 3 { gain } else { 1.0 };
                    band.row(c, y).iter_mut().zip(picture.row(c, y)).for_each(|(o, v)| *o = v * k);
                }
            }
        })
        .map_err(KernelError::from)?;
        Ok(out)
    }
}
