//! A case: the passes of an element, and what is worked out of several of them together, once for all checks.

use super::evidence::{ElementPasses, Evidence};
use super::lens::View;
use super::surface::Surface;
use super::turn::Turn;
use crate::passes::convention::Setting;
use crate::passes::solve::Solved;
use crate::{Camera, Raster, Role};
use std::sync::{Arc, OnceLock};

/// All passes of an element, and what they say together.
///
/// What is made once is made on one processor. Checks of several passes run at the same time and ask for the same things: one
/// that shared its work out and waited for it would begin another check meanwhile, which would wait for what the first is
/// still making.
#[derive(Debug)]
pub struct Case {
    /// The passes.
    pub passes: ElementPasses,
    surface: OnceLock<Option<Surface>>,
    view: OnceLock<Option<View>>,
    turn: OnceLock<Option<Turn>>,
    /// Of each pass, where its surfaces end.
    steps: Vec<OnceLock<Vec<bool>>>,
}

impl Case {
    /// A case.
    pub fn new(passes: Vec<Evidence>, setting: Setting, next: Option<Arc<Raster>>) -> Self {
        let steps = passes.iter().map(|_| OnceLock::new()).collect();
        Self {
            steps,
            passes: ElementPasses::new(passes, setting, next),
            surface: OnceLock::new(),
            view: OnceLock::new(),
            turn: OnceLock::new(),
        }
    }

    /// Camera and frame.
    pub fn setting(&self) -> &Setting {
        &self.passes.setting
    }

    /// The first pass of a role.
    pub fn pass(&self, role: Role) -> Option<&Evidence> {
        self.passes.pass(role)
    }

    /// The camera that the position pass was taken with, if it tells.
    pub fn solved(&self) -> Option<&Solved> {
        self.passes.solved()
    }

    /// What depth and normals say together; made once.
    pub fn view(&self) -> Option<&View> {
        self.view.get_or_init(|| View::of(&self.passes)).as_ref()
    }

    /// The turn by which the normals are those of the depth, where they are the world's and its camera is not known.
    pub fn turn(&self) -> Option<&Turn> {
        self.turn.get_or_init(|| Turn::of(&self.passes, self.view()?)).as_ref()
    }

    /// Where the surfaces of a pass end, as `find` finds it; made once. Nothing of a pass that is not of this case.
    pub(super) fn steps(&self, pass: &Evidence, find: impl FnOnce() -> Vec<bool>) -> &[bool] {
        let place = self.passes.each.iter().position(|p| p.id == pass.id);
        place.and_then(|i| self.steps.get(i)).map_or(&[], |steps| steps.get_or_init(find))
    }

    /// The camera by which depth is read: that of the element, else the solved one, else one whose focal length depth and
    /// normals agree for.
    pub fn camera(&self) -> Option<Camera> {
        let by_view = || {
            let view = self.view().filter(|v| v.left < AGREED)?;
            Some(Camera::centred(view.focal, self.setting().display))
        };
        self.passes.known_camera().or_else(by_view)
    }

    /// Directions of the surface derived from position, or from depth and camera; made once.
    pub fn surface(&self) -> Option<&Surface> {
        self.surface.get_or_init(|| Surface::of(&self.passes, || self.camera())).as_ref()
    }
}

/// What depth and normals may leave unexplained for their focal length to be believed.
const AGREED: f32 = 0.06;
