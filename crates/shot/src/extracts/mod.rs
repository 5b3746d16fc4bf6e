//! Kinds of extracted pass: passes made from passes, always anew, never stored. A new kind is one file here and one
//! line in the list at its end: the serde enum, its schema, the controls, the menu and [`catalogue`] follow.
//!
//! An extraction works on the whole frame at the scale that is asked for; lengths in px shrink with it.

mod bump_normals;
mod clay;
mod curvature;
mod depth_normals;
mod depth_position;
mod elements_depth;
mod extend_depth;
mod facing;
mod fill_depth;
mod height_normals;
mod normals_height;
mod paint_depth;
mod picture_height;
mod plane_depth;
mod range_depth;
mod smooth_depth;

pub use bump_normals::{BumpNormals, ReliefFrom};
pub use clay::Clay;
pub use curvature::Curvature;
pub use depth_normals::DepthNormals;
pub use depth_position::DepthPosition;
pub use elements_depth::ElementsDepth;
pub use extend_depth::ExtendDepth;
pub use facing::Facing;
pub use fill_depth::FillDepth;
pub use height_normals::HeightNormals;
pub use normals_height::NormalsHeight;
pub use paint_depth::{DepthStroke, PaintDepth};
pub use picture_height::PictureHeight;
pub use plane_depth::PlaneDepth;
pub use range_depth::{Measure, RangeDepth};
pub use smooth_depth::SmoothDepth;

use crate::error::ShotError;
use crate::kinds::kinds;
use crate::steps::Reads;
use jugata_core::{Camera, Cancel, Raster, Role, Scale, Window};
use schemars::JsonSchema;
use serde::{Serialize, de::DeserializeOwned};
use std::collections::BTreeMap;
use std::sync::Arc;
use ts_rs::TS;

/// What an extraction works on: everything lies on one window.
pub struct ExtractInputs<'a> {
    /// Passes that it reads, canonical.
    pub passes: &'a BTreeMap<Role, Arc<Raster>>,
    /// Depths of other elements that it names, in that order; those without one are left out.
    pub others: &'a [Arc<Raster>],
    /// Passes that it names by number, in that order; those that are not there are left out.
    pub chosen: &'a [Arc<Raster>],
    /// Window of all of them, px at the scale.
    pub window: Window,
    /// Scale.
    pub scale: Scale,
    /// Camera of the element, if known.
    pub camera: Option<Camera>,
    /// Pulled when nobody waits any more.
    pub cancel: &'a Cancel,
}

impl ExtractInputs<'_> {
    /// A pass that was read.
    pub fn pass(&self, role: Role) -> Option<&Raster> {
        self.passes.get(&role).map(Arc::as_ref)
    }

    /// A pass that the extraction cannot do without.
    fn need(&self, role: Role, what: &str) -> Result<&Raster, ShotError> {
        let none = || ShotError::NoPass { step: what.into(), role, element: "it".into() };
        self.pass(role).ok_or_else(none)
    }

    /// A full-resolution length at the scale.
    fn px(&self, length: f32) -> f32 {
        self.scale.length(length)
    }
}

/// A pass that an extraction reads and cannot do without.
const fn needs(role: Role) -> Reads {
    Reads { role, required: true }
}

/// A pass that an extraction reads where there is one.
const fn takes(role: Role) -> Reads {
    Reads { role, required: false }
}

/// What a kind of extraction must say of itself.
pub trait Extraction:
    Clone + Default + PartialEq + std::fmt::Debug + Serialize + DeserializeOwned + JsonSchema
{
    /// Words for people.
    const TITLE: &'static str;
    /// One sentence on what it does.
    const ABOUT: &'static str;
    /// Raised when the same parameters give other samples, so that nothing stale is reused.
    const VERSION: u32;

    /// What the pass means.
    fn gives(&self) -> Role;
    /// Passes that it reads, given its parameters.
    fn reads(&self) -> Vec<Reads>;
    /// Other elements whose depth it reads.
    fn elements(&self) -> Vec<u32> {
        Vec::new()
    }
    /// Passes of its own element that it names by number; only those before it are seen.
    fn passes(&self) -> Vec<u32> {
        Vec::new()
    }
    /// How it is made, in words with the live values.
    fn sentence(&self) -> String;
    /// Checks that parameters are finite and in range.
    ///
    /// # Errors
    /// What is wrong, as the end of a sentence.
    fn check(&self) -> Result<(), String>;
    /// The pass, canonical, on the given window.
    ///
    /// # Errors
    /// Missing inputs, shapes, cancellation.
    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError>;
}

/// The object-safe form of [`Extraction`], which every kind has.
pub trait AnyExtraction {
    /// Words for people.
    fn title(&self) -> &'static str;
    /// Version of the kind's maths.
    fn version(&self) -> u32;
    /// What the pass means.
    fn gives(&self) -> Role;
    /// Passes that it reads.
    fn reads(&self) -> Vec<Reads>;
    /// Other elements whose depth it reads.
    fn elements(&self) -> Vec<u32>;
    /// Passes of its own element that it names by number.
    fn passes(&self) -> Vec<u32>;
    /// How it is made, in words.
    fn sentence(&self) -> String;
    /// Checks the parameters.
    ///
    /// # Errors
    /// What is wrong, as the end of a sentence.
    fn check(&self) -> Result<(), String>;
    /// The pass, canonical.
    ///
    /// # Errors
    /// Missing inputs, shapes, cancellation.
    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError>;
}

impl<T: Extraction> AnyExtraction for T {
    fn title(&self) -> &'static str {
        T::TITLE
    }
    fn version(&self) -> u32 {
        T::VERSION
    }
    fn gives(&self) -> Role {
        Extraction::gives(self)
    }
    fn reads(&self) -> Vec<Reads> {
        Extraction::reads(self)
    }
    fn elements(&self) -> Vec<u32> {
        Extraction::elements(self)
    }
    fn passes(&self) -> Vec<u32> {
        Extraction::passes(self)
    }
    fn sentence(&self) -> String {
        Extraction::sentence(self)
    }
    fn check(&self) -> Result<(), String> {
        Extraction::check(self)
    }
    fn make(&self, given: &ExtractInputs<'_>) -> Result<Raster, ShotError> {
        Extraction::make(self, given)
    }
}

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
    /// JSON Schema of the parameters, in order, with `x-` notes for controls.
    #[ts(type = "ObjectSchema")]
    pub schema: serde_json::Value,
}

fn tell<T: Extraction>(kind: &'static str, defaults: ExtractKind) -> ExtractInfo {
    ExtractInfo {
        kind,
        title: T::TITLE,
        about: T::ABOUT,
        gives: defaults.gives(),
        reads: defaults.reads(),
        schema: schemars::schema_for!(T).to_value(),
        defaults,
    }
}

kinds! {
    /// A kind of extraction with its parameters.
    ExtractKind is AnyExtraction, tell tells ExtractInfo;
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
}
