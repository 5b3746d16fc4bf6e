//! How much each place faces the viewer.

use super::extraction::Extraction;
use crate::kinds::prelude::*;
use jugata_core::surface;

/// Parameters of Facing.
#[parameters]
pub struct Facing {
    /// Exponent: above 1 only what faces the viewer squarely stays bright.
    #[param(label = "Power", default = 1.0, range = [0.01, 100.0], slider = [0.1, 8.0], step = 0.01, group = "Facing")]
    pub power: f32,
    /// Bright at the rims instead.
    #[param(label = "Rims", group = "Facing")]
    pub rims: bool,
}

impl Kind for Facing {
    fn about(&self) -> About {
        About {
            title: "Facing",
            about: "How squarely each place faces the viewer: white where it does, black at the rims.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        vec![needs(Role::Normal), takes(Role::Position)]
    }

    fn sentence(&self) -> String {
        if self.rims { "Facing, bright at the rims".into() } else { "Facing".into() }
    }
}

impl Extraction for Facing {
    fn gives(&self) -> Role {
        Role::Other
    }

    fn make(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let normals = inputs.need(Role::Normal)?;
        let mut out = surface::facing::facing(normals, inputs.pass(Role::Position), inputs.cancel)?;
        let surface: Vec<bool> = (0..out.plane(0).len())
            .map(|i| (0..3).map(|c| normals.plane(c)[i].powi(2)).sum::<f32>() > 0.25)
            .collect();
        for (v, is) in out.plane_mut(0).iter_mut().zip(surface) {
            let own = if self.rims { 1.0 - *v } else { *v };
            *v = if is { own.powf(self.power) } else { 0.0 };
        }
        Ok(out)
    }
}
