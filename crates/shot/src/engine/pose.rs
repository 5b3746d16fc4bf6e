//! Where a render's camera stands at a frame.
//!
//! A document holds one camera for an element, as it was told when its files came in. Where the files of each frame tell
//! where the camera stands, that holds for the frame, as long as what the first frame tells is what the document says: a
//! camera that somebody chose instead holds for all.

use super::keeper::Engine;
use super::key;
use super::scene::Scene;
use crate::document::{Element, MediaId, Pass};
use crate::error::ShotError;
use crate::inputs::{Cameras, way_between};
use glam::DAffine3;
use jugata_core::passes::solve;
use jugata_core::{Camera, Role, Window};
use jugata_exchange::camera_attributes;

/// Rows of the matrix from the world into camera space.
pub(super) type Pose = [f32; 12];

/// What tells a pose.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum ToldBy {
    /// The header of a file.
    Header,
    /// The places of the world in a position pass.
    Positions,
}

impl ToldBy {
    /// How far what is told may be off: a turn by this, a place by this share of how far away it is. A header is copied; what
    /// is solved has an error.
    fn error(self) -> f32 {
        match self {
            Self::Header => 1e-5,
            Self::Positions => 2e-3,
        }
    }
}

impl Engine {
    /// The camera of an element of a still, with its pose at that frame.
    ///
    /// # Errors
    /// A file that is not at hand or not readable.
    pub(crate) fn camera(&self, element: &Element, display: Window) -> Result<Option<Camera>, ShotError> {
        let Some(own) = element.camera else { return Ok(None) };
        let Some(pose) = own.world else { return Ok(Some(own)) };
        for first in &element.at_first {
            let Some(now) = element.passes.iter().find(|p| p.id == first.id) else { continue };
            for by in [ToldBy::Header, ToldBy::Positions] {
                if now.source.media == first.source.media {
                    continue;
                }
                let agrees = |told: Option<Pose>| told.is_some_and(|told| same(&told, &pose, by.error()));
                if agrees(self.pose(element, first, by, display)?)
                    && let Some(told) = self.pose(element, now, by, display)?
                {
                    return Ok(Some(Camera { world: Some(told), ..own }));
                }
            }
        }
        Ok(Some(own))
    }

    /// From camera space as it is on the first frame into that of this still; `None` while the camera stays, or where nobody knows
    /// where it goes.
    ///
    /// # Errors
    /// As [`Engine::camera`].
    pub(crate) fn since_first(
        &self,
        element: &Element,
        display: Window,
    ) -> Result<Option<DAffine3>, ShotError> {
        Ok(way_between(element.camera, self.camera(element, display)?))
    }

    /// Where the camera stands as a pass tells it; kept.
    fn pose(
        &self,
        element: &Element,
        pass: &Pass,
        by: ToldBy,
        display: Window,
    ) -> Result<Option<Pose>, ShotError> {
        if by == ToldBy::Positions && pass.role != Role::Position {
            return Ok(None);
        }
        let key = (pass.source.media.clone(), pass.source.part, by);
        if let Some(kept) = self.caches.poses.get(&key) {
            return Ok(kept);
        }
        let told = match by {
            ToldBy::Header => camera_attributes::camera(&*self.file(pass)?),
            ToldBy::Positions => {
                let solved = solve::camera(&self.stored(element, pass, display)?, display);
                solved.filter(|s| s.axes.is_none()).map(|s| s.camera)
            }
        };
        let pose = told.and_then(|c| c.world);
        self.caches.poses.insert(key, pose);
        Ok(pose)
    }
}

/// The camera of an element as it stands on two other frames, so many from now; a frame without a file of its own is taken for
/// this one. `None` where both are, or where nothing tells.
pub(super) fn cameras(
    scene: Scene<'_>,
    element: &Element,
    times: [i32; 2],
) -> Result<Option<Cameras>, ShotError> {
    let display = scene.shot.display;
    let Some(now) = scene.engine.camera(element, display)? else { return Ok(None) };
    let at = |by: i32| {
        let still = scene.hashes.later(by.into())?;
        let there = key::element_of(&still, element.id)?;
        if told_by(there) == told_by(element) {
            return Ok((0, now));
        }
        Ok::<_, ShotError>((by, scene.engine.camera(there, display)?.unwrap_or(now)))
    };
    let [from, to] = [at(times[0])?, at(times[1])?];
    Ok((from.0 != to.0).then_some(Cameras { times: [from.0, to.0], at: [from.1, to.1] }))
}

/// The files that may tell where a camera stands.
pub(super) fn told_by(element: &Element) -> Vec<&MediaId> {
    let told = |first: &Pass| element.passes.iter().find(|p| p.id == first.id);
    element.at_first.iter().filter_map(told).map(|p| &p.source.media).collect()
}

/// Whether two poses are one, but for an error.
fn same(a: &Pose, b: &Pose, error: f32) -> bool {
    let far = (0..3).map(|r| a[4 * r + 3].powi(2)).sum::<f32>().sqrt();
    a.iter().zip(b).enumerate().all(|(i, (a, b))| {
        let may = if i % 4 == 3 { error * (1.0 + far) } else { error };
        (a - b).abs() <= may
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_pose_is_one_with_itself_and_with_no_other() {
        let pose: Pose = [1.0, 0.0, 0.0, 3.0, 0.0, 1.0, 0.0, -2.0, 0.0, 0.0, 1.0, -20.0];
        assert!(same(&pose, &pose, 0.0));
        let moved = |i: usize, by: f32| std::array::from_fn(|k| pose[k] + if k == i { by } else { 0.0 });
        let near = |i: usize, by: f32| same(&pose, &moved(i, by), ToldBy::Positions.error());
        assert!(near(3, 0.01) && !near(3, 0.1) && !near(1, 0.01) && !near(0, f32::NAN));
    }
}
