//! Focus set again.

use super::{Group, Inputs, Kind, Reach, Reads};
use crate::check::range;
use crate::document::Joins;
use crate::error::ShotError;
use jugata_core::colour::blend::{BlendMode, BlendSpace};
use jugata_core::focus::iris::Iris;
use jugata_core::focus::{Boost, Focus, Law, refocus};
use jugata_core::show::view;
use jugata_core::{Raster, Role};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How the size of the blur is said.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum BlurBy {
    /// As px of the picture in front and behind.
    #[default]
    Pixels,
    /// As a lens has it: f-number, focal length, sensor.
    Lens,
}

/// What the step gives.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Shows {
    /// The refocused picture.
    #[default]
    Picture,
    /// The circles of confusion: the brighter, the larger; green behind the focus, copper in front.
    Circles,
}

/// Parameters of Refocus.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Refocus {
    /// Where the range that stays sharp begins.
    #[schemars(extend("x-label" = "Focus", "x-meaning" = "depth", "x-unit" = "units", "x-step" = 0.01, "x-group" = "Focus"))]
    pub focus: f32,
    /// How far behind the focus everything stays sharp, too.
    #[schemars(extend("x-label" = "Sharp range", "x-unit" = "units", "x-slider" = [0.0, 4.0], "x-step" = 0.01, "x-group" = "Focus"))]
    pub sharp: f32,
    /// The picture, or the circles of confusion.
    #[schemars(extend("x-label" = "Shows", "x-group" = "Focus"))]
    pub shows: Shows,
    /// How the size of the blur is said.
    #[schemars(extend("x-label" = "Blur by", "x-group" = "Blur"))]
    pub blur: BlurBy,
    /// Circle of a point infinitely far behind, full-resolution px across.
    #[schemars(extend("x-label" = "Far", "x-unit" = "px", "x-slider" = [0.0, 150.0], "x-step" = 0.5, "x-group" = "Blur", "x-when" = {"blur": "pixels"}))]
    pub far_px: f32,
    /// Circle of a point at half the distance of the focus, full-resolution px across.
    #[schemars(extend("x-label" = "Near", "x-unit" = "px", "x-slider" = [0.0, 150.0], "x-step" = 0.5, "x-group" = "Blur", "x-when" = {"blur": "pixels"}))]
    pub near_px: f32,
    /// Focal length ÷ opening.
    #[schemars(extend("x-label" = "f-number", "x-slider" = [0.5, 22.0], "x-step" = 0.1, "x-group" = "Blur", "x-when" = {"blur": "lens"}))]
    pub f_number: f32,
    /// Focal length, where the render's camera is not known.
    #[schemars(extend("x-label" = "Focal", "x-unit" = "mm", "x-slider" = [8.0, 200.0], "x-step" = 1.0, "x-group" = "Blur", "x-when" = {"blur": "lens"}))]
    pub focal: f32,
    /// Width of the sensor.
    #[schemars(extend("x-label" = "Sensor", "x-unit" = "mm", "x-slider" = [4.0, 70.0], "x-step" = 0.1, "x-group" = "Blur", "x-when" = {"blur": "lens"}))]
    pub sensor: f32,
    /// How long a unit of the scene is: a small scene has a shallow focus.
    #[schemars(extend("x-label" = "Unit size", "x-unit" = "mm", "x-step" = 1.0, "x-group" = "Blur", "x-when" = {"blur": "lens"}))]
    pub unit: f32,
    /// Largest circle, full-resolution px across.
    #[schemars(extend("x-label" = "Max radius", "x-unit" = "px", "x-slider" = [0.0, 300.0], "x-step" = 1.0, "x-group" = "Blur"))]
    pub most: f32,
    /// Blades of the iris; fewer than 3 make a circle.
    #[schemars(extend("x-label" = "Blades", "x-slider" = [0.0, 12.0], "x-step" = 1.0, "x-group" = "Iris"))]
    pub blades: u32,
    /// Turn of the iris.
    #[schemars(extend("x-label" = "Rotation", "x-unit" = "°", "x-slider" = [-180.0, 180.0], "x-step" = 1.0, "x-group" = "Iris"))]
    pub rotation: f32,
    /// From straight blades to a circle.
    #[schemars(extend("x-label" = "Roundness", "x-slider" = [0.0, 1.0], "x-step" = 0.01, "x-group" = "Iris"))]
    pub roundness: f32,
    /// Gain of what is bright and out of focus.
    #[schemars(extend("x-label" = "Highlight gain", "x-unit" = "×", "x-slider" = [0.0, 10.0], "x-step" = 0.05, "x-group" = "Iris"))]
    pub highlights: f32,
    /// Luminance from which on the highlights' gain works.
    #[schemars(extend("x-label" = "Gain from", "x-slider" = [0.0, 4.0], "x-step" = 0.01, "x-group" = "Iris"))]
    pub highlights_from: f32,
    /// Width of the picture's own soft edges: how far the colours of two surfaces mix there.
    #[schemars(extend("x-label" = "Edge width", "x-unit" = "px", "x-slider" = [1.0, 4.0], "x-step" = 1.0, "x-group" = "Iris"))]
    pub rim: u32,
}

impl Default for Refocus {
    fn default() -> Self {
        Self {
            focus: 5.0,
            sharp: 0.0,
            shows: Shows::Picture,
            blur: BlurBy::Pixels,
            far_px: 24.0,
            near_px: 24.0,
            f_number: 2.8,
            focal: 50.0,
            sensor: 36.0,
            unit: 1000.0,
            most: 300.0,
            blades: 7,
            rotation: 0.0,
            roundness: 0.4,
            highlights: 0.0,
            highlights_from: 1.0,
            rim: 1,
        }
    }
}

impl Refocus {
    /// Circles by depth, px of the scale.
    fn law(&self, inputs: &Inputs<'_>) -> Law {
        let sharp = [self.focus, self.focus + self.sharp];
        let most = inputs.scale.length(self.most) * 0.5;
        if self.blur == BlurBy::Pixels {
            // At 1/z = 0 the far side has its whole circle; at half the focus the near side has its own.
            let [near, far] = [self.near_px * sharp[0], self.far_px * sharp[1]];
            let k = |px: f32| inputs.scale.length(px) * 0.5;
            return Law { sharp, near: k(near), far: k(far), most };
        }
        // The camera's focal length in px is that of the picture plane; c = A·F·|D−S|/(D·(S−F)) then is
        // A·f_px·S/(S−F)·|1/S − 1/D|, where S/(S−F) moves the plane back for the focus.
        let width = inputs.frame.width.max(1) as f32;
        let focal_mm = inputs.camera.map_or(self.focal, |c| c.focal / width * self.sensor);
        let focal = focal_mm / self.unit;
        let opening = 0.5 * focal / self.f_number;
        let plane = |s: f32| s / (s - focal).max(0.01 * s);
        let k = |s: f32| inputs.scale.length(opening * focal_mm / self.sensor * width * plane(s));
        Law { sharp, near: k(sharp[0]), far: k(sharp[1]), most }
    }
}

impl Kind for Refocus {
    const GROUP: Group = Group::Air;
    const TITLE: &'static str = "Refocus";
    const ABOUT: &'static str =
        "Sets the focus again, from depth: sharp where you click, blurred by a lens elsewhere.";
    const VERSION: u32 = 1;
    const JOINS: Joins = Joins { blend: BlendMode::Normal, space: BlendSpace::Display, strength: 1.0 };

    fn reads(&self) -> Vec<Reads> {
        vec![Reads { role: Role::Depth, required: true }]
    }

    fn reach(&self) -> Reach {
        // A blur may be 300 px wide, and what lies behind is spread from anywhere.
        Reach::WholeFrame
    }

    fn sentence(&self) -> String {
        let at = if self.sharp > 0.0 {
            format!("from {:.2} to {:.2} units", self.focus, self.focus + self.sharp)
        } else {
            format!("at {:.2} units", self.focus)
        };
        let size = match self.blur {
            BlurBy::Pixels => format!("{:.0} px far, {:.0} px near", self.far_px, self.near_px),
            BlurBy::Lens => format!("f/{:.1}", self.f_number),
        };
        let iris = if self.blades < 3 { "round".to_owned() } else { format!("{} blades", self.blades) };
        format!("Refocus {at}, {size}, {iris}")
    }

    fn check(&self) -> Result<(), String> {
        range("focus", self.focus, 1e-6, 1e9)?;
        range("the sharp range", self.sharp, 0.0, 1e9)?;
        for (what, px) in [
            ("the far circle", self.far_px),
            ("the near circle", self.near_px),
            ("the largest circle", self.most),
        ] {
            range(what, px, 0.0, 600.0)?;
        }
        range("f-number", self.f_number, 0.01, 1e3)?;
        range("focal length", self.focal, 0.1, 1e4)?;
        range("sensor width", self.sensor, 0.1, 1e4)?;
        range("the length of a unit", self.unit, 1e-6, 1e9)?;
        range("the number of blades", self.blades as f32, 0.0, 64.0)?;
        range("the turn of the iris", self.rotation, -3600.0, 3600.0)?;
        range("roundness", self.roundness, 0.0, 1.0)?;
        range("highlights", self.highlights, 0.0, 1e3)?;
        range("the luminance of highlights", self.highlights_from, 0.0, 1e6)?;
        range("the width of rims", self.rim as f32, 1.0, 8.0)
    }

    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let depth = inputs.need(Role::Depth, Self::TITLE)?;
        let law = self.law(inputs);
        if self.shows == Shows::Circles {
            let radii = law.radii(depth, inputs.cancel)?;
            return Ok(view::circles(&radii, inputs.picture, inputs.cancel)?);
        }
        let iris = Iris { blades: self.blades, rotation: self.rotation, roundness: self.roundness };
        let boost = Boost { from: self.highlights_from, gain: self.highlights };
        let rim = inputs.rim(self.rim);
        Ok(refocus(inputs.picture, depth, &Focus { law, iris, boost, rim }, inputs.cancel)?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jugata_core::{Camera, Cancel, Scale, Window};
    use std::collections::BTreeMap;
    use std::sync::Arc;

    fn radius(r: &Refocus, camera: Option<Camera>, scale: Scale, z: f32) -> f32 {
        let picture = Raster::zeros(Window::of_size(1, 1), 4);
        let (passes, cancel) = (BTreeMap::new(), Cancel::new());
        let frame = Window::of_size(1920, 1080);
        let inputs = Inputs {
            picture: &picture,
            passes: &passes,
            pictures: &[],
            lights: None,
            scale,
            camera,
            frame,
            keep: &|_, make| Ok(Arc::new(make()?)),
            cancel: &cancel,
        };
        r.law(&inputs).radius(z)
    }

    #[test]
    fn px_are_those_at_infinity_and_at_half_the_distance() {
        let r = Refocus { focus: 4.0, far_px: 30.0, near_px: 20.0, ..Refocus::default() };
        let at = |z| radius(&r, None, Scale::FULL, z);
        assert_eq!((at(f32::INFINITY), at(2.0), at(4.0)), (15.0, -10.0, 0.0));
        let half = Scale::halved(1).unwrap();
        assert_eq!(radius(&r, None, half, f32::INFINITY), 7.5);
        // What is sharp for a while begins to blur behind that.
        let wide = Refocus { sharp: 4.0, ..r };
        let at = |z| radius(&wide, None, Scale::FULL, z);
        assert!(at(8.0) == 0.0 && at(f32::INFINITY) == 15.0 && at(16.0) == 7.5);
    }

    #[test]
    fn a_lens_gives_the_handbooks_circle_with_and_without_a_camera() {
        // 50 mm, f/2, focused at 2 m, a point at 4 m, 36 mm over 1920 px: 17.09 px across (see core::focus::law).
        let r = Refocus { blur: BlurBy::Lens, focus: 2.0, f_number: 2.0, ..Refocus::default() };
        let camera = Camera::from_sensor(50.0, 36.0, Window::of_size(1920, 1080));
        for camera in [None, camera] {
            let across = 2.0 * radius(&r, camera, Scale::FULL, 4.0);
            assert!((across - 17.09).abs() < 0.02, "{across}");
        }
    }

    #[test]
    fn it_says_what_it_does_and_refuses_what_cannot_be() {
        assert_eq!(Refocus::default().sentence(), "Refocus at 5.00 units, 24 px far, 24 px near, 7 blades");
        let lens = Refocus { blur: BlurBy::Lens, sharp: 1.0, blades: 0, ..Refocus::default() };
        assert_eq!(lens.sentence(), "Refocus from 5.00 to 6.00 units, f/2.8, round");
        assert!(Refocus { focus: 0.0, ..Refocus::default() }.check().unwrap_err().starts_with("focus is 0"));
        assert!(Refocus { most: f32::NAN, ..Refocus::default() }.check().is_err());
        assert!(Refocus::default().check().is_ok());
    }
}
