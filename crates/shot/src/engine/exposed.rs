//! Motion blur of elements that stand in one space: given to all of them together, after they have met.
//!
//! A picture that is blurred already has no depth of its own where something is drawn out: before its outline there is a mixture
//! of what passes and of what is behind it, and another element may stand between the two. So the elements meet while they
//! are sharp, their motion with them, and the whole is blurred once, as a camera would.

use super::composition::near_of;
use super::evaluate::{covers, placed};
use super::key;
use super::reader::Reader;
use super::request::{Request, Target};
use super::scene::Scene;
use crate::document::{Element, Step};
use crate::error::ShotError;
use crate::steps::MotionBlur;
use jugata_core::colour::blend::BlendMode;
use jugata_core::depth::crossing::{InSpace, Lies, Shown, crossed, of_both};
use jugata_core::motion;
use jugata_core::passes::moved::moved;
use jugata_core::{Raster, Role};
use std::sync::Arc;

/// Elements that are blurred together, the first lowest.
pub(super) struct Together<'a> {
    pub elements: Vec<&'a Element>,
    /// The shutter that is open longest, and the width of edges.
    shutter: &'a MotionBlur,
}

/// The motion blur with which an element's steps end, and how many steps there are before it.
fn last_blur(element: &Element) -> Option<(usize, &Step, &MotionBlur)> {
    let place = element.steps.iter().rposition(key::has_effect)?;
    let step = &element.steps[place];
    let whole =
        step.only_where.is_none() && step.joins.strength == 1.0 && step.joins.blend == BlendMode::Normal;
    let blur = step.does.kind().exposes().filter(|_| whole)?;
    Some((place, step, blur))
}

/// An element as it meets others.
struct Sharp {
    picture: Arc<Raster>,
    near: Raster,
    motion: Raster,
}

impl Sharp {
    fn in_space(&self) -> InSpace<'_> {
        InSpace { picture: &self.picture, near: &self.near }
    }
}

impl<'a> Together<'a> {
    /// Those of some elements, from the lowest on, that can be blurred together: they all stand in one space, are laid over
    /// each other as they are, and at least one ends with a motion blur; the shutters of all begin alike.
    pub fn of(scene: Scene<'_>, elements: &[&'a Element]) -> Option<Self> {
        let count = elements.iter().rposition(|e| e.by_depth.is_some())? + 1;
        let group = elements[..count].to_vec();
        let plain = |e: &Element| e.joins.is_none_or(|j| j.strength == 1.0 && j.blend == BlendMode::Normal);
        let in_space = group.iter().skip(1).all(|e| e.by_depth.is_some());
        if count < 2 || !in_space || !group.iter().all(|e| plain(e)) {
            return None;
        }
        let blurs: Vec<(&Element, &Step, &MotionBlur)> =
            group.iter().filter_map(|e| last_blur(e).map(|(_, step, blur)| (*e, step, blur))).collect();
        let shutter = blurs.iter().map(|b| b.2).max_by(|a, b| a.shutter.total_cmp(&b.shutter))?;
        let alike = |(element, step, blur): &(&Element, &Step, &MotionBlur)| {
            let known = key::of_role(scene.hashes, Reader::of(element, &step.reads), Role::Motion).is_some();
            known && blur.opens == shutter.opens && blur.rim == shutter.rim
        };
        (shutter.shutter > 0.0 && blurs.iter().all(alike)).then_some(Self { elements: group, shutter })
    }

    /// What is seen of them, on the request's window.
    pub fn picture(&self, scene: Scene<'_>, request: &Request) -> Result<Arc<Raster>, ShotError> {
        let window = covers(scene, &Request { target: Target::Shot, ..request.clone() })?;
        let whole = Request { window, ..request.clone() };
        let content = key::of_exposed(scene.hashes, &self.elements).at(window, request.scale);
        let (picture, _) = scene.engine.keep(content, || self.blurred(scene, &whole))?;
        Ok(match window == request.window {
            true => picture,
            false => Arc::new(picture.cropped(request.window, 0.0)),
        })
    }

    fn blurred(&self, scene: Scene<'_>, request: &Request) -> Result<Raster, ShotError> {
        let cancel = &request.cancel;
        let mut all: Option<Sharp> = None;
        for element in &self.elements {
            let own = self.sharp(scene, element, request)?;
            all = Some(match all {
                None => own,
                Some(below) => met(&own, &below, request)?,
            });
        }
        let Some(Sharp { picture, near, motion }) = all else { return Ok(Raster::zeros(request.window, 4)) };
        let mut depth = near;
        // Of what is infinitely far the nearness is 0.
        depth.plane_mut(0).iter_mut().for_each(|v| *v = v.recip());
        let rim = (request.scale.length(self.shutter.rim as f32).ceil() as u32).max(1);
        Ok(motion::blur(&picture, &motion, Some(&depth), self.shutter.open(), rim, cancel)?)
    }

    /// An element before it is blurred, and how it moves while the longest shutter is open.
    fn sharp(&self, scene: Scene<'_>, element: &Element, request: &Request) -> Result<Sharp, ShotError> {
        let blur = last_blur(element);
        let count = blur.map_or(element.steps.len(), |(place, ..)| place);
        let picture = placed(scene, element, count, request)?;
        let near = near_of(scene, element, &picture, request)?;
        let motion = match blur {
            None => None,
            Some((_, step, _)) => {
                scene.read_whole(Reader::of(element, &step.reads), Role::Motion, request)?
            }
        };
        let Some((motion, (_, _, blur))) = motion.zip(blur) else {
            return Ok(Sharp { motion: Raster::zeros(picture.window(), 2), picture, near });
        };
        let chain = scene.moves_and_place(element, request.scale)?;
        let motion = moved(&motion, Role::Motion, &chain, request.window, &request.cancel)?;
        let mut motion = blur.vectors(&motion, request.scale);
        let share = blur.share() / self.shutter.share();
        motion.planes_mut().into_iter().flatten().for_each(|v| *v *= share);
        Ok(Sharp { picture, near, motion })
    }
}

/// Two in one space.
fn met(upper: &Sharp, lower: &Sharp, request: &Request) -> Result<Sharp, ShotError> {
    let cancel = &request.cancel;
    let (a, b) = (upper.in_space(), lower.in_space());
    let both = |planes| of_both(a, b, Lies::Among, planes, cancel);
    let near = both([&upper.near, &lower.near])?;
    let motion = both([&upper.motion, &lower.motion])?;
    Ok(Sharp { picture: Arc::new(crossed(a, b, Shown::Both, cancel)?), near, motion })
}
