//! Brighter or darker.

use super::change::{Change, Effect, Group};
use crate::kinds::prelude::*;
use jugata_core::KernelError;
use jugata_core::colour::exposure_gain;
use jugata_core::raster::bands::for_each_band;

/// Parameters of Exposure.
#[parameters]
pub struct Exposure {
    /// Twice as bright for each stop.
    #[param(label = "Exposure", range = [-40.0, 40.0], slider = [-4.0, 4.0], step = 0.01, unit = "stops")]
    pub stops: f32,
}

impl Kind for Exposure {
    fn about(&self) -> About {
        About { title: "Exposure", about: "Makes the picture brighter or darker, in stops.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        Vec::new()
    }

    fn sentence(&self) -> String {
        format!("Exposure {:+.2} stops", self.stops)
    }
}

impl Change for Exposure {
    fn group(&self) -> Group {
        Group::Finish
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let gain = exposure_gain(self.stops);
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
        Ok(Effect::Replace(out))
    }
}
