//! Kinds of step. A new kind is one file here and one line in the list at its end: the serde enum, its
//! schema, the deck's controls, the dispatch and [`catalogue`] follow from that.

mod distance;
mod exposure;
mod haze;
mod match_light;
mod pass_over;
mod refocus;
mod relight;
mod reveal;
mod shaping;
mod surround;

pub use distance::Distance;
pub use exposure::Exposure;
pub use haze::{Haze, HazeColour};
pub use match_light::MatchLight;
pub use pass_over::{Channel, Laid, PassOver};
pub use refocus::{BlurBy, Refocus, Shows};
pub use relight::{AlbedoFrom, Relight};
pub use reveal::{Keeps, Reveal};
pub use shaping::Shaping;
pub use surround::{Surround, SurroundFrom};

use crate::document::Joins;
use crate::error::ShotError;
use crate::intake::MediaFile;
use crate::kinds::kinds;
use jugata_core::light::harmonics::Harmonics;
use jugata_core::{Camera, Cancel, Raster, Role, Scale, Window};
use schemars::JsonSchema;
use serde::{Serialize, de::DeserializeOwned};
use std::collections::BTreeMap;
use std::sync::Arc;
use ts_rs::TS;

/// How far around a window a step looks.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Reach {
    /// This many full-resolution px; 0 for a change of each pixel by itself.
    Px(f32),
    /// Every pixel of the frame.
    WholeFrame,
}

/// A pass that a step reads.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, TS)]
pub struct Reads {
    /// Its role.
    pub role: Role,
    /// Whether the step cannot do without.
    pub required: bool,
}

/// The light of the element that a step belongs to, and of the one it asked for.
#[derive(Clone, Copy, Debug)]
pub struct Lights {
    /// Of its own element, before any step.
    pub own: Harmonics,
    /// Of the other one, before any step.
    pub other: Harmonics,
}

/// What a step works on: everything lies on the wanted window, grown by its reach.
pub struct Inputs<'a> {
    /// The picture so far: RGBA, linear, premultiplied.
    pub picture: &'a Raster,
    /// Passes that it reads, canonical.
    pub passes: &'a BTreeMap<Role, Arc<Raster>>,
    /// Pictures from files that it uses: RGBA, linear, whole.
    pub pictures: &'a [Arc<Raster>],
    /// The light that it asked for.
    pub lights: Option<Lights>,
    /// Scale of all of them.
    pub scale: Scale,
    /// Camera of the element, if known.
    pub camera: Option<Camera>,
    /// The shot's frame, full-resolution px.
    pub frame: Window,
    /// Keeps what follows from the passes alone.
    pub keep: Keep<'a>,
    /// Pulled when nobody waits any more.
    pub cancel: &'a Cancel,
}

/// What a step makes of its passes on the way, by name: made once for as long as the passes, the camera, the window and
/// the scale are the same.
pub type Keep<'a> = &'a dyn Fn(&str, MakeKept<'_>) -> Result<Arc<Raster>, ShotError>;

/// How something that is kept is made.
pub type MakeKept<'a> = &'a mut dyn FnMut() -> Result<Raster, ShotError>;

impl Inputs<'_> {
    /// A pass that a step cannot do without.
    fn need(&self, role: Role, step: &str) -> Result<&Raster, ShotError> {
        let none = || ShotError::NoPass { step: step.into(), role, element: "it".into() };
        self.pass(role).ok_or_else(none)
    }

    /// A width of soft rims, full-resolution px, in whole px of the scale.
    fn rim(&self, px: u32) -> u32 {
        (self.scale.length(px as f32).ceil() as u32).max(1)
    }

    /// A pass that was read.
    pub fn pass(&self, role: Role) -> Option<&Raster> {
        self.passes.get(&role).map(Arc::as_ref)
    }
}

/// What a kind of step must say of itself.
pub trait Kind:
    Clone + Default + PartialEq + std::fmt::Debug + Serialize + DeserializeOwned + JsonSchema
{
    /// Where it stands in the list of changes.
    const GROUP: Group;
    /// Word for people.
    const TITLE: &'static str;
    /// One sentence on what it does.
    const ABOUT: &'static str;
    /// Raised when the same parameters give other pixels, so that nothing stale is reused.
    const VERSION: u32;
    /// How a new step of the kind joins.
    const JOINS: Joins;

    /// Passes that it reads beside the picture, given its parameters.
    fn reads(&self) -> Vec<Reads>;
    /// How far it looks around.
    fn reach(&self) -> Reach;
    /// Pictures from files that it uses.
    fn pictures(&self) -> Vec<MediaFile> {
        Vec::new()
    }
    /// Another element whose light it wants to know, beside that of its own.
    fn light_of(&self) -> Option<u32> {
        None
    }
    /// What it does, as the beginning of a sentence with the live values.
    fn sentence(&self) -> String;
    /// Checks that parameters are finite and in range.
    ///
    /// # Errors
    /// What is wrong, as the end of a sentence.
    fn check(&self) -> Result<(), String>;
    /// The changed picture, before it is joined: RGBA on the same window, with the picture's alpha.
    ///
    /// # Errors
    /// Missing inputs, shapes, cancellation.
    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError>;
}

/// Headings of the list of changes, in the order of the work.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, TS)]
pub enum Group {
    /// Lamps, surroundings, shape by light.
    Light,
    /// Sharpness, haze, distance.
    #[serde(rename = "Focus and air")]
    Air,
    /// Exposure and passes laid over.
    Finish,
}

/// A kind of step as the interface and the documentation see it.
#[derive(Clone, Debug, Serialize, TS)]
pub struct KindInfo {
    /// Name in documents.
    pub kind: &'static str,
    /// Where it stands in the list of changes.
    pub group: Group,
    /// Word for people.
    pub title: &'static str,
    /// One sentence.
    pub about: &'static str,
    /// A new step's parameters.
    pub defaults: StepKind,
    /// How a new step joins.
    pub joins: Joins,
    /// Passes it reads with those parameters.
    pub reads: Vec<Reads>,
    /// JSON Schema of the parameters, in order, with `x-` notes for controls.
    #[ts(type = "ObjectSchema")]
    pub schema: serde_json::Value,
}

/// The object-safe form of [`Kind`], which every kind of step has.
pub trait AnyStep {
    /// Word for people.
    fn title(&self) -> &'static str;
    /// Version of the kind's maths.
    fn version(&self) -> u32;
    /// How a new step of the kind joins.
    fn default_joins(&self) -> Joins;
    /// Passes that it reads beside the picture.
    fn reads(&self) -> Vec<Reads>;
    /// How far it looks around.
    fn reach(&self) -> Reach;
    /// Pictures from files that it uses.
    fn pictures(&self) -> Vec<MediaFile>;
    /// Another element whose light it wants to know.
    fn light_of(&self) -> Option<u32>;
    /// What it does, in words.
    fn sentence(&self) -> String;
    /// Checks the parameters.
    ///
    /// # Errors
    /// What is wrong, as the end of a sentence.
    fn check(&self) -> Result<(), String>;
    /// The changed picture, before it is joined.
    ///
    /// # Errors
    /// Missing inputs, shapes, cancellation.
    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError>;
}

impl<T: Kind> AnyStep for T {
    fn title(&self) -> &'static str {
        T::TITLE
    }
    fn version(&self) -> u32 {
        T::VERSION
    }
    fn default_joins(&self) -> Joins {
        T::JOINS
    }
    fn reads(&self) -> Vec<Reads> {
        Kind::reads(self)
    }
    fn reach(&self) -> Reach {
        Kind::reach(self)
    }
    fn pictures(&self) -> Vec<MediaFile> {
        Kind::pictures(self)
    }
    fn light_of(&self) -> Option<u32> {
        Kind::light_of(self)
    }
    fn sentence(&self) -> String {
        Kind::sentence(self)
    }
    fn check(&self) -> Result<(), String> {
        Kind::check(self)
    }
    fn apply(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        Kind::apply(self, inputs)
    }
}

fn tell<T: Kind>(kind: &'static str, defaults: StepKind) -> KindInfo {
    KindInfo {
        kind,
        group: T::GROUP,
        title: T::TITLE,
        about: T::ABOUT,
        joins: T::JOINS,
        reads: defaults.reads(),
        schema: schemars::schema_for!(T).to_value(),
        defaults,
    }
}

kinds! {
    /// A step's kind with its parameters.
    StepKind is AnyStep, tell tells KindInfo;
    /// Light added to the rendered surface.
    Relight => "relight",
    /// Light shaped by the axes of the normals.
    Shaping => "shaping",
    /// Light from all around.
    Surround => "surround",
    /// The light of one element brought to another.
    MatchLight => "match_light",
    /// Focus set again.
    Refocus => "refocus",
    /// Air between the camera and the surface.
    Haze => "haze",
    /// Grading that grows with distance.
    Distance => "distance",
    /// What lies before or behind a depth.
    Reveal => "reveal",
    /// A pass laid over the picture.
    PassOver => "pass_over",
    /// Brighter or darker.
    Exposure => "exposure",
}
