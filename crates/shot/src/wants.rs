//! What a kind of step, of extracted pass or of made element asks for beside the picture it stands on.

use crate::files::MediaFile;
use jugata_core::{Convention, Role};
use serde::Serialize;

/// One thing that is asked for. The engine finds it, and its content, in one place ([`crate::engine`]).
#[derive(Clone, Debug, PartialEq, Serialize)]
pub enum Want {
    /// What serves a role among the passes of its own element.
    Role {
        /// The role.
        role: Role,
        /// Whether it cannot do without.
        required: bool,
    },
    /// A pass of its own element by number; only those before it are seen.
    Pass(u32),
    /// The depth of another element.
    DepthOf(u32),
    /// The depth of another element where it stands in the shot, moved and placed as its picture is.
    PlaceOf(u32),
    /// The light on another element before any step, and that on its own.
    LightOf(u32),
    /// The picture of another element after all its steps, over its own frame.
    PictureOf(u32),
    /// What lies behind in the shot, as its own element sees it at that step: another element where it is put, or all that is
    /// seen below its own.
    Behind(Option<u32>),
    /// A picture from a file, whole.
    Picture(MediaFile),
    /// The bytes of a file: a font, a drawing.
    File(MediaFile),
    /// A named matte of its own element.
    Matte(u32),
    /// A coordinate map from a file, whole: canonical (ST), read by a convention.
    Map(MediaFile, Box<Convention>),
    /// What another step of its own element does.
    Step(u32),
    /// The moves among the steps of its own element, from one to another, both by number; `None` is from the first, or to
    /// the last.
    Moves(Option<u32>, Option<u32>),
    /// Where its own element's untouched picture is at two times, frames from now, by its moves and by where it is put.
    Going([f64; 2]),
    /// The camera of its own element as it stands on two other frames, so many frames from now.
    Cameras([i32; 2]),
    /// How a body of its own element, what a named matte or its own coverage shows, lies now beside a frame of the shot on
    /// which it was fitted.
    Body(Option<u32>, u32),
    /// Something of its own element on another frame, so many frames from now; what shows the same as now is not there.
    OnFrame(i32, OfFrame),
}

/// What is asked for of another frame.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub enum OfFrame {
    /// The picture that it stands on.
    Picture,
    /// What serves a role.
    Role(Role),
}

impl Want {
    /// The role that is asked for of this frame, and whether it is needed.
    pub fn role(&self) -> Option<(Role, bool)> {
        match self {
            Self::Role { role, required } => Some((*role, *required)),
            _ => None,
        }
    }

    /// The other element that is asked.
    pub fn element(&self) -> Option<u32> {
        match self {
            Self::DepthOf(id) | Self::PlaceOf(id) | Self::LightOf(id) | Self::PictureOf(id) => Some(*id),
            Self::Behind(id) => *id,
            _ => None,
        }
    }
}

/// What something is done to: a named matte, or the element's own coverage.
pub fn cover(matte: Option<u32>) -> Want {
    matte.map_or(takes(Role::Alpha), Want::Matte)
}

/// A pass that nothing can be made without.
pub const fn needs(role: Role) -> Want {
    Want::Role { role, required: true }
}

/// A pass that is used where there is one.
pub const fn takes(role: Role) -> Want {
    Want::Role { role, required: false }
}
