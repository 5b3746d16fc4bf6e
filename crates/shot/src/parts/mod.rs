//! Kinds of part that a matte is put together of. A new kind is one file here and one line in the list at its end: the serde
//! enum, its schema, checks, the menu and [`catalogue`] follow.

mod brush;
mod coverage;
mod depth;
mod ellipse;
mod facing;
mod gradient;
mod hashed;
mod hue;
mod luminance;
mod named;
mod objects;
mod part;
mod polygon;

pub use brush::{BrushPart, MOST_POINTS, PaintedStroke};
pub use coverage::CoveragePart;
pub use depth::DepthPart;
pub use ellipse::EllipsePart;
pub use facing::FacingPart;
pub use gradient::GradientPart;
pub use hashed::{HashedName, HashedNames, HashedPart};
pub use hue::HuePart;
pub use luminance::LuminancePart;
pub use named::NamedPart;
pub use objects::ObjectsPart;
pub use part::{Canvas, Part, PartFrom};
pub use polygon::PolygonPart;

use crate::kinds::kinds;
use jugata_core::Role;
use schemars::JsonSchema;
use serde::Serialize;
use ts_rs::TS;

/// A kind of part as the interface and the documentation see it.
#[derive(Clone, Debug, Serialize, TS)]
pub struct PartInfo {
    /// Name in documents.
    pub kind: &'static str,
    /// Words for people.
    pub title: &'static str,
    /// What it chooses, as goes on after its title.
    pub about: &'static str,
    /// The pass that it is read from, if from one.
    pub role: Option<Role>,
    /// Whether it is drawn in the picture, and so may be held to a plane of it.
    pub drawn: bool,
    /// A new one's parameters.
    pub defaults: PartKind,
    /// JSON Schema of the parameters, in order, with `x-` notes for controls.
    #[ts(type = "ObjectSchema")]
    pub schema: serde_json::Value,
}

fn tell<T: Part + Default + JsonSchema>(kind: &'static str, defaults: PartKind) -> PartInfo {
    let about = T::default().about();
    let schema = schemars::schema_for!(T).to_value();
    let (role, drawn) = (defaults.kind().role(), defaults.kind().is_drawn());
    PartInfo { kind, title: about.title, about: about.about, role, drawn, defaults, schema }
}

kinds! {
    /// What makes a part of a matte.
    PartKind of Part, tell tells PartInfo;
    /// Objects, by their numbers in the object ID pass.
    ObjectsPart => "objects",
    /// Objects, by their hashed IDs: antialiased.
    HashedPart => "hashed",
    /// A range of depth with soft ends.
    DepthPart => "depth",
    /// What faces a direction.
    FacingPart => "facing",
    /// A range of luminance of the untouched picture.
    LuminancePart => "luminance",
    /// A range of hue of the untouched picture.
    HuePart => "hue",
    /// Painted.
    BrushPart => "brush",
    /// An ellipse.
    EllipsePart => "ellipse",
    /// A polygon.
    PolygonPart => "polygon",
    /// From nothing to all between two places.
    GradientPart => "gradient",
    /// The element itself: its alpha.
    CoveragePart => "coverage",
    /// A matte of the element by name.
    NamedPart => "named",
}
