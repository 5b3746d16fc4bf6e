//! Focus set again.

use super::change::{Change, Effect, Group, Reach};
use crate::kinds::prelude::*;
use crate::wants::OfFrame;
use jugata_core::focus::hidden::{OtherFrame, ways};
use jugata_core::focus::iris::Iris;
use jugata_core::focus::{Boost, Focus, Law, refocus};
use jugata_core::show::view;

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
#[parameters]
pub struct Refocus {
    /// Where the range that stays sharp begins.
    #[param(label = "Focus", default = 5.0, range = [1e-6, 1e9], step = 0.01, unit = "units", means = "depth", group = "Focus")]
    pub focus: f32,
    /// How far behind the focus everything stays sharp, too.
    #[param(label = "Sharp range", default = 0.0, range = [0.0, 1e9], slider = [0.0, 4.0], step = 0.01, unit = "units", group = "Focus")]
    pub sharp: f32,
    /// The picture, or the circles of confusion.
    #[param(label = "Shows", group = "Focus")]
    pub shows: Shows,
    /// How the size of the blur is said.
    #[param(label = "Blur by", group = "Blur")]
    pub blur: BlurBy,
    /// Circle of a point infinitely far behind, full-resolution px across.
    #[param(label = "Far", default = 24.0, range = [0.0, 600.0], slider = [0.0, 150.0], step = 0.5, unit = "px", group = "Blur", when = {"blur": "pixels"})]
    pub far_px: f32,
    /// Circle of a point at half the distance of the focus, full-resolution px across.
    #[param(label = "Near", default = 24.0, range = [0.0, 600.0], slider = [0.0, 150.0], step = 0.5, unit = "px", group = "Blur", when = {"blur": "pixels"})]
    pub near_px: f32,
    /// Focal length ÷ opening.
    #[param(label = "f-number", default = 2.8, range = [0.01, 1e3], slider = [0.5, 22.0], step = 0.1, group = "Blur", when = {"blur": "lens"})]
    pub f_number: f32,
    /// Focal length, where the render's camera is not known.
    #[param(label = "Focal", default = 50.0, range = [0.1, 1e4], slider = [8.0, 200.0], step = 1.0, unit = "mm", group = "Blur", when = {"blur": "lens"})]
    pub focal: f32,
    /// Width of the sensor.
    #[param(label = "Sensor", default = 36.0, range = [0.1, 1e4], slider = [4.0, 70.0], step = 0.1, unit = "mm", group = "Blur", when = {"blur": "lens"})]
    pub sensor: f32,
    /// How long a unit of the scene is: a small scene has a shallow focus.
    #[param(label = "Unit size", default = 1000.0, range = [1e-6, 1e9], step = 1.0, unit = "mm", group = "Blur", when = {"blur": "lens"})]
    pub unit: f32,
    /// Largest circle, full-resolution px across.
    #[param(label = "Max radius", default = 300.0, range = [0.0, 600.0], slider = [0.0, 300.0], step = 1.0, unit = "px", group = "Blur")]
    pub most: f32,
    /// Blades of the iris; fewer than 3 make a circle.
    #[param(label = "Blades", default = 7, range = [0.0, 64.0], slider = [0.0, 12.0], step = 1.0, group = "Iris")]
    pub blades: u32,
    /// Turn of the iris.
    #[param(label = "Rotation", default = 0.0, range = [-3600.0, 3600.0], slider = [-180.0, 180.0], step = 1.0, unit = "°", group = "Iris")]
    pub rotation: f32,
    /// From straight blades to a circle.
    #[param(label = "Roundness", default = 0.4, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Iris")]
    pub roundness: f32,
    /// Gain of what is bright and out of focus.
    #[param(label = "Highlight gain", default = 0.0, range = [0.0, 1e3], slider = [0.0, 10.0], step = 0.05, unit = "×", group = "Iris")]
    pub highlights: f32,
    /// Luminance from which on the highlights' gain works.
    #[param(label = "Gain from", default = 1.0, range = [0.0, 1e6], slider = [0.0, 4.0], step = 0.01, group = "Iris")]
    pub highlights_from: f32,
    /// Width of the picture's own soft edges: how far the colours of two surfaces mix there.
    #[param(label = "Edge width", default = 1, range = [1.0, 8.0], slider = [1.0, 4.0], step = 1.0, unit = "px", group = "Iris")]
    pub rim: u32,
    /// How many frames to either side are looked at for what is hidden now and seen then; their motion passes say where it is.
    #[param(label = "Fill hidden", default = 0, range = [0.0, 4.0], slider = [0.0, 4.0], step = 1.0, unit = "frames", group = "Hidden parts")]
    #[serde(default)]
    pub frames: u32,
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
        let sensor_px = width / self.sensor * inputs.magnified();
        let k = |s: f32| inputs.scale.length(opening * focal_mm * sensor_px * plane(s));
        Law { sharp, near: k(sharp[0]), far: k(sharp[1]), most }
    }
}

/// Another frame's picture and depth, and the way from it to this one, px of the scale.
struct Beside<'a> {
    picture: &'a Raster,
    depth: &'a Raster,
    way: Raster,
}

impl Refocus {
    /// How far the frames that are looked at lie from now, the nearest first.
    fn looked_at(&self) -> impl Iterator<Item = i32> {
        (1..=self.frames as i32).flat_map(|k| [-k, k])
    }

    /// The frames to one side, the nearest first, as far as each has what is asked for of it.
    fn side<'a>(&self, inputs: &'a Inputs<'_>, sign: i32) -> Result<Vec<Beside<'a>>, ShotError> {
        let on = |k: i32, what| inputs.on_frame(sign * k, what);
        let of = |k| Some((on(k, OfFrame::Picture)?, on(k, OfFrame::Role(Role::Depth))?, on(k, MOTION)?));
        let frames: Vec<_> = (1..=self.frames as i32).map_while(of).collect();
        // A motion pass leads to the frame after; back from there, things are taken to go on as they do.
        let by = inputs.px(1.0) * -(sign as f32);
        let steps: Vec<Raster> = frames.iter().map(|(_, _, motion)| scaled(motion, by)).collect();
        let pairs: Vec<_> = steps.iter().zip(&frames).map(|(step, (_, depth, _))| (step, *depth)).collect();
        let ways = ways(&pairs, inputs.cancel)?;
        Ok(frames
            .into_iter()
            .zip(ways)
            .map(|((picture, depth, _), way)| Beside { picture, depth, way })
            .collect())
    }
}

/// The frames of both sides in turn, the nearest first.
fn interleaved<'a, T>(a: &'a [T], b: &'a [T]) -> impl Iterator<Item = &'a T> {
    (0..a.len().max(b.len())).flat_map(|i| a.get(i).into_iter().chain(b.get(i)))
}

/// Both planes of a motion pass times a factor.
fn scaled(motion: &Raster, by: f32) -> Raster {
    let mut out = motion.clone();
    out.planes_mut().into_iter().flatten().for_each(|v| *v *= by);
    out
}

const MOTION: OfFrame = OfFrame::Role(Role::Motion);

impl Kind for Refocus {
    fn about(&self) -> About {
        About {
            title: "Refocus",
            about: "Sets the focus again, from depth: sharp where you click, blurred by a lens elsewhere.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let of_frame = |by: i32| {
            [OfFrame::Picture, OfFrame::Role(Role::Depth), MOTION].map(|what| Want::OnFrame(by, what))
        };
        std::iter::once(needs(Role::Depth)).chain(self.looked_at().flat_map(of_frame)).collect()
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
        let hidden = match self.frames {
            0 => String::new(),
            1 => ", hidden parts from the frames beside it".to_owned(),
            n => format!(", hidden parts from {n} frames to either side"),
        };
        format!("Refocus {at}, {size}, {iris}{hidden}")
    }
}

impl Change for Refocus {
    fn group(&self) -> Group {
        Group::Air
    }

    fn reach(&self) -> Reach {
        // A blur may be 300 px wide, and what lies behind is spread from anywhere.
        Reach::WholeFrame
    }

    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let depth = inputs.need(Role::Depth)?;
        let law = self.law(inputs);
        if self.shows == Shows::Circles {
            let radii = law.radii(depth, inputs.cancel)?;
            return Ok(Effect::Replace(view::circles(&radii, picture, inputs.cancel)?));
        }
        let iris = Iris { blades: self.blades, rotation: self.rotation, roundness: self.roundness };
        let boost = Boost { from: self.highlights_from, gain: self.highlights };
        let rim = inputs.rim(self.rim);
        let focus = Focus { law, iris, boost, rim };
        let [before, after] = [-1, 1].map(|sign| self.side(inputs, sign));
        let (before, after) = (before?, after?);
        let others: Vec<_> = interleaved(&before, &after)
            .map(|b| OtherFrame { picture: b.picture, depth: b.depth, way: &b.way })
            .collect();
        Ok(Effect::Replace(refocus(picture, depth, &focus, &others, inputs.cancel)?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::steps::StepKind;
    use glam::{DMat3, DVec2};
    use jugata_core::geometry::chain::{Chain, Move};
    use jugata_core::{Camera, Cancel, Scale, Window};
    use std::sync::Arc;

    fn radius(r: &Refocus, camera: Option<Camera>, scale: Scale, z: f32) -> f32 {
        moved_radius(r, camera, scale, z, &Chain::default())
    }

    fn moved_radius(r: &Refocus, camera: Option<Camera>, scale: Scale, z: f32, moved: &Chain) -> f32 {
        let cancel = Cancel::new();
        let frame = Window::of_size(1920, 1080);
        let inputs = Inputs {
            title: "Refocus",
            found: &[],
            window: frame,
            scale,
            camera,
            camera_at_first: None,
            frame,
            own: None,
            limit: None,
            before: None,
            moved,
            keep: &|_, make| Ok(Arc::new(make()?)),
            cancel: &cancel,
        };
        r.law(&inputs).radius(z)
    }

    #[test]
    fn circles_of_a_lens_grow_with_the_picture() {
        let r = Refocus { blur: BlurBy::Lens, focus: 2.0, ..Refocus::default() };
        let twice = Chain::of([Move::Homography(DMat3::from_scale(DVec2::splat(2.0)))]);
        let camera = Camera::from_sensor(50.0, 36.0, Window::of_size(1920, 1080));
        let of = |moved: &Chain| moved_radius(&r, camera, Scale::FULL, 4.0, moved);
        let (as_rendered, larger) = (of(&Chain::default()), of(&twice));
        assert!(as_rendered > 1.0 && (larger / as_rendered - 2.0).abs() < 1e-4, "{as_rendered} {larger}");
        // Circles in px are what they are.
        let px = Refocus { blur: BlurBy::Pixels, ..r };
        let of = |moved: &Chain| moved_radius(&px, camera, Scale::FULL, 4.0, moved);
        assert_eq!(of(&twice), of(&Chain::default()));
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
        assert!(
            StepKind::from(Refocus { focus: 0.0, ..Refocus::default() })
                .check()
                .unwrap_err()
                .starts_with("“Focus” is 0")
        );
        assert!(StepKind::from(Refocus { most: f32::NAN, ..Refocus::default() }).check().is_err());
        assert!(StepKind::from(Refocus::default()).check().is_ok());
    }
}
