//! Following a plane by what a render says of it: its motion vectors, or its positions.

use super::track::Track;
use crate::document::{Element, Shot};
use crate::engine::{Engine, Request, Target};
use crate::error::ShotError;
use glam::{DVec2, Vec3};
use jugata_core::passes::background;
use jugata_core::passes::solve::{self, Solved};
use jugata_core::track::Quad;
use jugata_core::track::exact::{self, Found};
use jugata_core::{Camera, Cancel, Raster, Role, Scale};
use jugata_exchange::camera_attributes;
use std::sync::Arc;

/// A shot, the element whose plane is followed, and who waits for it.
#[derive(Clone, Copy)]
pub(super) struct Source<'a> {
    pub engine: &'a Engine,
    pub shot: &'a Shot,
    pub element: u32,
    pub track: &'a Track,
    pub cancel: &'a Cancel,
}

impl Source<'_> {
    pub fn wrong(&self, what: impl Into<String>) -> ShotError {
        ShotError::Parameter { place: self.track.name.clone(), what: what.into() }
    }

    /// The element at a frame.
    fn at(&self, frame: i32) -> Result<Element, ShotError> {
        let missing = ShotError::Missing { what: "element", id: self.element };
        self.shot.at_frame(frame).element(self.element).cloned().ok_or(missing)
    }

    /// All that a target covers at a frame, at full resolution.
    pub fn whole(&self, target: Target, frame: i32) -> Result<Arc<Raster>, ShotError> {
        let request =
            Request { frame, cancel: self.cancel.clone(), ..Request::frame(self.shot, target, Scale::FULL) };
        let window = self.engine.covers(self.shot, &request)?;
        Ok(self.engine.evaluate(self.shot, &Request { window, ..request })?.raster)
    }

    /// The motion pass of a frame, px to the next frame.
    fn motion(&self, frame: i32) -> Result<Arc<Raster>, ShotError> {
        let pass = self.at(frame)?.pass_of(Role::Motion).map(|p| p.id);
        let pass = pass.ok_or_else(|| self.wrong("there is no motion pass to follow it by"))?;
        self.whole(Target::Pass { element: self.element, pass }, frame)
    }

    /// Where a region of one frame is on the next one, or on the one before.
    pub fn beside(&self, region: &Quad, from: i32, to: i32) -> Result<Option<Found>, ShotError> {
        self.cancel.check()?;
        Ok(match to > from {
            true => exact::ahead(&*self.motion(from)?, region),
            false => exact::back(&*self.motion(to)?, region),
        })
    }

    /// What a frame shows of the world.
    pub fn world(&self, frame: i32) -> Result<World, ShotError> {
        self.cancel.check()?;
        let element = self.at(frame)?;
        let pass = element
            .pass_of(Role::Position)
            .ok_or_else(|| self.wrong("there is no position pass to follow it by"))?;
        let stored = self.engine.stored(&element, pass, self.shot.display)?;
        let solved = solve::camera(&stored, self.shot.display).ok_or_else(|| {
            self.wrong(format!("the positions of frame {frame} fit no camera; follow it by motion vectors"))
        })?;
        let pose = match solved.axes {
            None => None,
            Some(_) => {
                let header =
                    camera_attributes::camera(&*self.engine.file(pass)?).filter(|c| c.world.is_some());
                Some(header.ok_or_else(|| {
                    self.wrong(
                        "its positions are as its camera sees them, and its files do not say where the camera stands; \
                         follow it by motion vectors",
                    )
                })?)
            }
        };
        Ok(World { nothing: background::shared(stored.plane(0)).filter(|v| *v != 0.0), stored, solved, pose })
    }
}

/// The places that a frame shows, in the space that all frames share.
pub(super) struct World {
    stored: Raster,
    /// The stored value of what is no place, if many pixels share one.
    nothing: Option<f32>,
    solved: Solved,
    /// The camera's pose, where places are stored as the camera sees them.
    pose: Option<Camera>,
}

impl World {
    /// The place that a pixel shows.
    pub fn place(&self, x: i32, y: i32) -> Option<Vec3> {
        let at = |c| self.stored.sample(c, x, y);
        let p = Vec3::new(at(0)?, at(1)?, at(2)?);
        if !p.is_finite() || p == Vec3::ZERO || Some(p.x) == self.nothing {
            return None;
        }
        match &self.pose {
            None => Some(p),
            Some(pose) => {
                let to_world = pose.turn_to_world()?;
                Some(to_world * (self.solved.place(p) - pose.from_world(Vec3::ZERO, true)))
            }
        }
    }

    /// Where a place is seen, px.
    pub fn shown(&self, place: Vec3) -> Option<DVec2> {
        let p = match &self.pose {
            None => self.solved.place(place),
            Some(pose) => pose.from_world(place, true),
        };
        Some(self.solved.camera.project(p)?.as_dvec2())
    }

    /// Where a region of another frame is on this one.
    pub fn found(&self, places: &[(DVec2, Vec3)]) -> Option<Found> {
        exact::by_places(places, |p| self.shown(p), |x, y| self.place(x, y))
    }

    /// The places that are seen in a region.
    pub fn seen(&self, region: &Quad) -> Vec<(DVec2, Vec3)> {
        exact::seen(region, |x, y| self.place(x, y))
    }
}
