//! The shadow that another element throws on this one.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use crate::lamp::{Lamp, LampKind, StaysWith};
use jugata_core::light::cast::{Meets, met, shaded, thrown};
use jugata_core::light::shadow::Occluders;
use std::sync::Arc;

/// Parameters of Cast a shadow.
#[parameters]
pub struct CastShadow {
    /// The element that throws the shadow.
    #[param(label = "Thrown by", means = "element", group = "Element")]
    pub element: Option<u32>,
    /// Toward the light.
    #[param(label = "Light from", default = [0.55, 0.45, 0.704], range = [-1e6, 1e6], means = "direction", group = "Light")]
    pub toward: [f32; 3],
    /// What the light stays with while the camera goes. In the scene it is told as the camera of the first frame sees it.
    #[param(label = "Stays with", means = "stays-with", group = "Light")]
    pub stays: StaysWith,
    /// How wide the light is, seen from the surface: edges of the shadow are soft by it.
    #[param(label = "Light width", default = 2.0, range = [0.0, 60.0], slider = [0.0, 20.0], step = 0.1, unit = "°", group = "Light")]
    pub width: f32,
    /// How much of the light is kept off where the shadow is full.
    #[param(label = "Darkness", default = 0.6, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Shadow")]
    pub darkness: f32,
    /// What is left where the shadow is full, beside what the darkness leaves.
    #[param(label = "Tint", default = [0.0, 0.0, 0.0], range = [0.0, 1e3], means = "colour", group = "Shadow")]
    pub tint: [f32; 3],
    /// Most that things are taken to be thick behind what is seen of them: a share of their depth.
    #[param(label = "Thickness", default = 0.1, range = [0.0, 1e3], slider = [0.0, 0.5], step = 0.005, unit = "of Z", group = "Shadow")]
    pub thickness: f32,
}

impl CastShadow {
    fn light(&self) -> Lamp {
        let Self { toward, stays, width: spread, .. } = *self;
        Lamp { kind: LampKind::Directional, toward, stays, spread, ..Lamp::default() }
    }
}

impl Kind for CastShadow {
    fn about(&self) -> About {
        About {
            title: "Cast a shadow",
            about: "Darkens this element where another one, which stands in the same space, keeps the light off.",
            version: 2,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let mut list = vec![needs(Role::Normal), needs(Role::Position)];
        list.extend(self.element.map(Want::PlaceOf));
        list
    }

    fn sentence(&self) -> String {
        match self.element {
            None => "Cast a shadow: no element is chosen".into(),
            Some(id) => {
                let darkness = 100.0 * self.darkness;
                format!("Shadow of element {id}, light {}, {darkness:.0} %", self.light().words())
            }
        }
    }

    fn check(&self) -> Result<(), String> {
        self.light().check()
    }
}

impl Change for CastShadow {
    fn group(&self) -> Group {
        Group::Light
    }

    fn reach(&self) -> Reach {
        Reach::WholeFrame
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        if self.element.is_none() || self.darkness == 0.0 {
            return Ok(Effect::Replace(picture.clone()));
        }
        let seen = self.seen(inputs)?;
        Ok(Effect::Replace(shaded(picture, &seen, self.darkness, self.tint, inputs.cancel)?))
    }
}

impl CastShadow {
    /// How much of the light the other element lets through to every place.
    fn seen(&self, inputs: &Inputs<'_>) -> Result<Arc<Raster>, ShotError> {
        let own = inputs.as_rendered();
        let (normals, positions) = (own.need(Role::Normal)?, own.need(Role::Position)?);
        let camera = inputs
            .camera
            .ok_or_else(|| inputs.wrong("a shadow needs the camera of the render; give it under Intake"))?;
        let other = own.place_of().ok_or_else(|| {
            inputs.wrong(
                "the element that throws the shadow has no depth; put it in by depth and give it a distance",
            )
        })?;
        let light = self.light().on_frame(inputs.since_first());
        let seen = own.kept(&("thrown", light.toward, self.width, self.thickness), || {
            let (scale, cancel, light) = (inputs.scale, inputs.cancel, light.shining());
            let alone = Occluders::new(normals, positions, camera, scale, self.thickness, cancel)?;
            let alone = alone.seen(&light, cancel)?;
            let Meets { normals, positions } = met(normals, positions, other, (camera, scale), cancel)?;
            let both = Occluders::new(&normals, &positions, camera, scale, self.thickness, cancel)?;
            Ok(thrown(&alone, &both.seen(&light, cancel)?, cancel)?)
        })?;
        inputs.follow(seen, Role::Alpha)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_says_whose_shadow_it_is() {
        let shadow = CastShadow { element: Some(3), toward: [-0.6, 0.5, 0.6], ..CastShadow::default() };
        assert_eq!(shadow.sentence(), "Shadow of element 3, light from the upper left, 60 %");
        assert_eq!(CastShadow::default().sentence(), "Cast a shadow: no element is chosen");
        let error = CastShadow { toward: [0.0; 3], ..shadow }.check().unwrap_err();
        assert_eq!(error, "the direction has no length");
    }
}
