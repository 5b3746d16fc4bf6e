//! What the checks look at: the passes of an element with their camera, before anything is worked out of them.

use crate::passes::convention::{Convention, Setting};
use crate::passes::repair::Repair;
use crate::passes::solve::{self, Solved};
use crate::passes::stored::SampleKind;
use crate::{Camera, Raster, Role};
use std::sync::{Arc, OnceLock};

/// A pass, as the checks see it.
#[derive(Clone, Debug)]
pub struct Evidence {
    /// Number of the pass.
    pub id: u32,
    /// Name for people.
    pub name: String,
    /// What it is taken to mean.
    pub role: Role,
    /// Samples as stored, after repairs of place.
    pub stored: Arc<Raster>,
    /// Samples in canonical form under its convention.
    pub canonical: Arc<Raster>,
    /// How its coarsest channel is stored.
    pub kind: SampleKind,
    /// What its file loses, if anything.
    pub lossy: Option<&'static str>,
    /// Its convention.
    pub convention: Convention,
    /// Repairs made already.
    pub repairs: Vec<Repair>,
}

/// All passes of an element, with camera and frame.
#[derive(Debug)]
pub struct ElementPasses {
    /// The passes.
    pub each: Vec<Evidence>,
    /// Camera and frame.
    pub setting: Setting,
    /// The beauty of the next frame, canonical, if there is one.
    pub next: Option<Arc<Raster>>,
    solved: OnceLock<Option<Solved>>,
}

impl ElementPasses {
    /// Passes of an element.
    pub fn new(each: Vec<Evidence>, setting: Setting, next: Option<Arc<Raster>>) -> Self {
        Self { each, setting, next, solved: OnceLock::new() }
    }

    /// The first pass of a role.
    pub fn pass(&self, role: Role) -> Option<&Evidence> {
        self.each.iter().find(|p| p.role == role)
    }

    /// The camera that the position pass was taken with, solved from the pass itself; made once.
    pub fn solved(&self) -> Option<&Solved> {
        let solve = || {
            let pass = self.pass(Role::Position)?;
            solve::camera(&pass.stored, self.setting.display)
        };
        self.solved.get_or_init(solve).as_ref()
    }

    /// The camera of the element, else the solved one.
    pub fn known_camera(&self) -> Option<Camera> {
        self.setting.camera.or_else(|| self.solved().map(|s| s.camera))
    }

    /// Whether the picture is empty at a pixel; `None` where it does not say.
    pub fn empty(&self, x: i32, y: i32) -> Option<bool> {
        let beauty = self.pass(Role::Beauty).filter(|b| b.stored.channels() >= 4)?;
        Some(beauty.stored.sample(3, x, y)? <= 0.0)
    }
}
