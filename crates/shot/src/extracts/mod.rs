//! Kinds of extracted pass: passes made from passes, always anew, never stored. A new kind is one file here and one
//! line in the list at its end: the serde enum, its schema, the controls, the menu and [`catalogue`] follow.
//!
//! An extraction works on the whole frame at the scale that is asked for; lengths in px shrink with it.

mod bevel;
mod bump_normals;
mod camera_motion;
mod clay;
mod curvature;
mod depth_normals;
mod depth_position;
mod elements_depth;
mod extend_depth;
mod extraction;
mod facing;
mod fill_depth;
mod height_normals;
mod map_difference;
mod moves_map;
mod moves_motion;
mod normals_height;
mod paint_depth;
mod paint_flow;
mod picture_height;
mod plane_depth;
mod project_uv;
mod range_depth;
mod smooth_depth;
mod texture_height;

pub use bevel::{Bevel, BevelGives};
pub use bump_normals::{BumpNormals, ReliefFrom};
pub use camera_motion::CameraMotion;
pub use clay::Clay;
pub use curvature::Curvature;
pub use depth_normals::DepthNormals;
pub use depth_position::DepthPosition;
pub use elements_depth::ElementsDepth;
pub use extend_depth::ExtendDepth;
pub use facing::Facing;
pub use fill_depth::FillDepth;
pub use height_normals::HeightNormals;
pub use map_difference::MapDifference;
pub use moves_map::{MapGoes, MovesMap};
pub use moves_motion::{MeasuredOver, MovesMotion};
pub use normals_height::NormalsHeight;
pub use paint_depth::{DepthStroke, PaintDepth};
pub use paint_flow::{PaintFlow, PaintedFlow};
pub use picture_height::PictureHeight;
pub use plane_depth::PlaneDepth;
pub use project_uv::{HeldBy, ProjectUv};
pub use range_depth::{Measure, RangeDepth};
pub use smooth_depth::SmoothDepth;
pub use texture_height::TextureHeight;

pub use extraction::Extraction;

use crate::kinds::{Reads, kinds};
use crate::wants::Want;
use jugata_core::Role;
use schemars::JsonSchema;
use serde::Serialize;
use ts_rs::TS;

/// A kind of extraction as the interface and the documentation see it.
#[derive(Clone, Debug, Serialize, TS)]
pub struct ExtractInfo {
    /// Name in documents.
    pub kind: &'static str,
    /// Words for people.
    pub title: &'static str,
    /// One sentence.
    pub about: &'static str,
    /// What the pass means.
    pub gives: Role,
    /// A new one's parameters.
    pub defaults: ExtractKind,
    /// Passes it reads with those parameters.
    pub reads: Vec<Reads>,
    /// Whether it is made by itself where a change needs what it gives and there is none.
    pub by_itself: bool,
    /// Whether it needs frames whose files tell where the camera stands.
    pub needs_poses: bool,
    /// JSON Schema of the parameters, in order, with `x-` notes for controls.
    #[ts(type = "ObjectSchema")]
    pub schema: serde_json::Value,
}

fn tell<T: Extraction + Default + JsonSchema>(kind: &'static str, defaults: ExtractKind) -> ExtractInfo {
    let own = T::default();
    ExtractInfo {
        kind,
        title: own.about().title,
        about: own.about().about,
        gives: own.gives(),
        reads: Reads::of(&own.wants()),
        by_itself: own.by_itself(),
        needs_poses: own.wants().iter().any(|w| matches!(w, Want::Cameras(_))),
        schema: schemars::schema_for!(T).to_value(),
        defaults,
    }
}

kinds! {
    /// A kind of extraction with its parameters.
    ExtractKind of Extraction, tell tells ExtractInfo;
    /// Depth carried on past the edge.
    ExtendDepth => "extend_depth",
    /// Holes in a depth filled.
    FillDepth => "fill_depth",
    /// Grain taken out of a depth.
    SmoothDepth => "smooth_depth",
    /// Depth in another range, direction or measure.
    RangeDepth => "range_depth",
    /// Depth of other elements, with the own.
    ElementsDepth => "elements_depth",
    /// Depth of a plane.
    PlaneDepth => "plane_depth",
    /// Depth painted in a few places and spread.
    PaintDepth => "paint_depth",
    /// Normals from positions, or from depth and camera.
    DepthNormals => "depth_normals",
    /// Normals with fine relief.
    BumpNormals => "bump_normals",
    /// Normals from a height.
    HeightNormals => "height_normals",
    /// Normals or height of a bevel.
    Bevel => "bevel",
    /// Height from the picture.
    PictureHeight => "picture_height",
    /// Height from normals.
    NormalsHeight => "normals_height",
    /// Positions from depth and camera.
    DepthPosition => "depth_position",
    /// An evenly lit grey surface.
    Clay => "clay",
    /// How squarely each place faces the viewer.
    Facing => "facing",
    /// How a surface bends.
    Curvature => "curvature",
    /// UV from positions.
    ProjectUv => "project_uv",
    /// Relief of a texture on a surface.
    TextureHeight => "texture_height",
    /// Motion painted with a brush.
    PaintFlow => "paint_flow",
    /// Motion of what stands still while the camera goes.
    CameraMotion => "camera_motion",
    /// Motion of what is moved.
    MovesMotion => "moves_motion",
    /// The coordinate map of moves.
    MovesMap => "moves_map",
    /// How far two coordinate maps lie apart.
    MapDifference => "map_difference",
}
