//! Kinds of made element: what an element may start from instead of a render. A new kind is one file here and one line in
//! the list at its end: the serde enum, its schema, the controls, the menu and [`catalogue`] follow.
//!
//! What is made lies on a frame of its own: the shot's, or that of its picture.

mod drawing;
mod drawn;
mod gradient;
mod lettering;

mod pattern;
mod picture;
mod solid;

pub use drawing::{Drawing, DrawingColours};
pub use gradient::{ColourStop, Gradient, GradientForm};
pub use lettering::{Lettering, LetteringAlign, LetteringFont, OutlineRing, OwnLine};
pub use pattern::{Pattern, PatternForm};
pub use picture::Picture;
pub use solid::Solid;

pub use drawn::{Made, drawn, drawn_id};

use crate::kinds::kinds;
use jugata_core::Role;
use schemars::JsonSchema;
use serde::Serialize;
use ts_rs::TS;

/// A pass that a made element draws.
#[derive(Clone, Copy, Debug, Serialize, TS)]
pub struct Offered {
    /// Its number.
    pub pass: u32,
    /// What it means.
    pub role: Role,
}

/// A kind of made element as the interface and the documentation see it.
#[derive(Clone, Debug, Serialize, TS)]
pub struct MadeInfo {
    /// Name in documents.
    pub kind: &'static str,
    /// Words for people.
    pub title: &'static str,
    /// One sentence.
    pub about: &'static str,
    /// Passes that it draws, by role.
    pub offers: Vec<Offered>,
    /// A new one's parameters.
    pub defaults: MadeKind,
    /// JSON Schema of the parameters, in order, with `x-` notes for controls.
    #[ts(type = "ObjectSchema")]
    pub schema: serde_json::Value,
}

fn tell<T: Made + Default + JsonSchema>(kind: &'static str, defaults: MadeKind) -> MadeInfo {
    let about = T::default().about();
    let schema = schemars::schema_for!(T).to_value();
    let offered = |role: &Role| Offered { pass: drawn_id(*role), role: *role };
    let offers = defaults.kind().offers().iter().map(offered).collect();
    MadeInfo { kind, title: about.title, about: about.about, offers, schema, defaults }
}

kinds! {
    /// A kind of made element with its parameters.
    MadeKind of Made, tell tells MadeInfo;
    /// Text set in a font.
    Lettering => "lettering",
    /// A drawing from an SVG file.
    Drawing => "drawing",
    /// One colour.
    Solid => "solid",
    /// Colours that pass into each other.
    Gradient => "gradient",
    /// Seeded noise, stripes and dots.
    Pattern => "pattern",
    /// A picture, or footage.
    Picture => "picture",
}
