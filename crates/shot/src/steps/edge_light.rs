//! Edge light: a rim of light along an edge.

use super::change::{Change, Effect, Group, Reach};
use super::edge::{about_matte, edge_of, matte_of, toward, unlit};
use crate::kinds::prelude::*;
use jugata_core::Cancel;
use jugata_core::relief::bevel::{Bevel, Facing, Profile, Side, bands};
use jugata_core::relief::corner::Corners;

/// Parameters of Edge light.
#[parameters]
pub struct EdgeLight {
    /// What gets it; a matte of the element or its own outline.
    #[param(label = "Edge of", means = "own-matte", group = "Edge")]
    #[ts(optional = nullable)]
    pub of: Option<u32>,
    /// How far it reaches in.
    #[param(label = "Width", default = 20.0, range = [0.1, 1000.0], slider = [0.5, 120.0], step = 0.5, unit = "px", group = "Edge")]
    pub width: f32,
    /// Its blur.
    #[param(label = "Softness", default = 6.0, range = [0.0, 400.0], slider = [0.0, 60.0], step = 0.5, unit = "px", group = "Edge")]
    pub soft: f32,
    /// Where the light comes from: 0° from the right, 90° from above.
    #[param(label = "Light from", default = 60.0, range = [-3600.0, 3600.0], slider = [0.0, 360.0], step = 1.0, unit = "°", means = "light-angle", group = "Light")]
    pub from: f32,
    /// Higher keeps to what faces the light squarely; 0 goes all around.
    #[param(label = "Narrow", default = 1.0, range = [0.0, 50.0], slider = [0.0, 8.0], step = 0.05, group = "Light")]
    pub narrow: f32,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [1.0, 0.9, 0.75], range = [0.0, 1e3], means = "colour", group = "Light")]
    pub colour: [f32; 3],
    /// Factor on the light.
    #[param(label = "Intensity", default = 1.0, range = [0.0, 1e6], slider = [0.0, 8.0], step = 0.01, unit = "×", group = "Light")]
    pub intensity: f32,
}

impl EdgeLight {
    fn bevel(&self, k: f32) -> Bevel {
        Bevel {
            width: self.width * k,
            height: 1.0,
            profile: Profile::Round.into(),
            side: Side::Inside,
            corners: Corners::Round,
        }
    }
}

impl EdgeLight {
    /// Its light, at a scale where lengths are `k` times as long.
    fn light(&self, picture: &Raster, matte: &Raster, k: f32, cancel: &Cancel) -> Result<Raster, ShotError> {
        let bevel = self.bevel(k);
        let contour = bevel.contour(matte, cancel)?;
        let facing = Facing { toward: toward(self.from), narrow: self.narrow, soft: self.soft * k };
        let away = Facing { toward: -facing.toward, ..facing };
        // All around: what faces the light and what faces away from it.
        let ways = if self.narrow == 0.0 { vec![facing, away] } else { vec![facing] };
        let faces: Vec<_> = ways.into_iter().map(|way| (bevel.clone(), way)).collect();
        let shares = bands(&contour, &faces, cancel)?;
        let share = |i: usize| shares.iter().map(|s| s.plane(0)[i]).fold(0.0, f32::max);
        let (inside, alpha) = (matte.plane(0), picture.plane(3));
        let light = |c: usize| {
            let gain = self.colour[c] * self.intensity;
            let of = |i: usize| gain * share(i) * inside[i].min(alpha[i]);
            (0..alpha.len()).map(of).collect::<Vec<f32>>()
        };
        let planes = [light(0), light(1), light(2), alpha.to_vec()].concat();
        Ok(Raster::from_planar(picture.window(), 4, planes)?)
    }
}

impl Kind for EdgeLight {
    fn about(&self) -> About {
        About { title: "Edge light", about: "Adds a rim of light along the edge that faces it.", version: 1 }
    }

    fn wants(&self) -> Vec<Want> {
        edge_of(self.of)
    }

    fn sentence(&self) -> String {
        format!(
            "Edge light {:.0} px wide, from {:.0}°, intensity {:.2}",
            self.width, self.from, self.intensity
        )
    }
}

impl Change for EdgeLight {
    fn group(&self) -> Group {
        Group::Edge
    }

    fn joins(&self) -> Joins {
        Joins::of(BlendMode::Add)
    }

    fn reach(&self) -> Reach {
        Reach::Px(self.bevel(1.0).reach(self.soft) + 8.0)
    }

    fn lights(&self) -> Option<Vec<u32>> {
        Some(Vec::new())
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let (matte, k) = (matte_of(picture, inputs)?, inputs.px(1.0));
        let lit = |picture: &Raster, matte: &Raster| self.light(picture, matte, k, inputs.cancel);
        let reach = self.bevel(k).reach(self.soft * k) + 8.0;
        Ok(Effect::Light(about_matte(picture, &matte, reach, || unlit(picture), lit)?))
    }
}
