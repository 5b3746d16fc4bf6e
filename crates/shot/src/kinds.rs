//! What kinds of step, of extracted pass and of made element have in common: one trait for what they say of themselves,
//! and one list each, from which the serde enum, the dispatch and the catalogue follow.

use crate::params::Parameters;
use crate::texture::TextureFrom;
use crate::wants::Want;
use jugata_core::Role;
use jugata_core::texture::placing::Placing;
use jugata_core::texture::pyramid::Beyond;
use serde::Serialize;
use ts_rs::TS;

/// What a kind is called and says of itself.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct About {
    /// Words for people.
    pub title: &'static str,
    /// One sentence on what it does.
    pub about: &'static str,
    /// Raised when the same parameters give other samples, so that nothing stale is reused.
    pub version: u32,
}

/// A texture that is laid on something seen.
pub struct Lays {
    /// Where it comes from.
    pub from: TextureFrom,
    /// The matte that gets it, if one was chosen.
    pub on: Option<u32>,
    /// Its middle, UV.
    pub middle: [f32; 2],
    /// Its width and height, UV.
    pub size: [f32; 2],
    /// Against the clock, degrees.
    pub turn: f32,
    /// What lies beyond its square.
    pub beyond: Beyond,
}

impl Lays {
    /// Where it lies, if it is seen `aspect` times as wide as high.
    pub fn placing(&self, aspect: f32) -> Placing {
        Placing::new(self.middle.into(), self.size.into(), self.turn.to_radians(), aspect)
    }
}

/// What every kind says of itself; its parameters are declared by `#[parameters]`.
pub trait Kind: Parameters {
    /// What it is called.
    fn about(&self) -> About;
    /// What it asks for beside the picture it stands on, given its parameters.
    fn wants(&self) -> Vec<Want>;
    /// What it does, in words with the live values.
    fn sentence(&self) -> String;
    /// The texture that it lays on something seen, if it does.
    fn lays(&self) -> Option<Lays> {
        None
    }
    /// Checks what the declared ranges cannot say.
    ///
    /// # Errors
    /// What is wrong, as a sentence without its place.
    fn check(&self) -> Result<(), String> {
        Ok(())
    }
}

/// A pass that is read for its role.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, TS)]
pub struct Reads {
    /// Its role.
    pub role: Role,
    /// Whether it cannot be done without.
    pub required: bool,
}

impl Reads {
    /// Those among some wants.
    pub fn of(wants: &[Want]) -> Vec<Self> {
        wants.iter().filter_map(Want::role).map(|(role, required)| Self { role, required }).collect()
    }
}

/// An enum of kinds, tagged by name in documents. `$trait` is what each of them can do, `$tell` makes a catalogue's entry
/// of one.
macro_rules! kinds {
    ($(#[$about:meta])* $enum:ident of $trait:ident, $tell:ident tells $info:ident;
     $($(#[$doc:meta])* $name:ident => $kind:literal),+ $(,)?) => {
        $(#[$about])*
        #[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize, schemars::JsonSchema, ts_rs::TS)]
        #[serde(tag = "kind")]
        pub enum $enum {
            $($(#[$doc])* #[serde(rename = $kind)] $name($name)),+
        }

        impl $enum {
            /// Name in documents.
            pub fn name(&self) -> &'static str {
                match self { $(Self::$name(_) => $kind),+ }
            }

            /// What it is, whichever it is.
            pub fn kind(&self) -> &dyn $trait {
                match self { $(Self::$name(k) => k),+ }
            }

            /// The same, to change its parameters.
            pub fn kind_mut(&mut self) -> &mut dyn $trait {
                match self { $(Self::$name(k) => k),+ }
            }

            /// Its parameters, whichever kind it is.
            pub fn parameters(&self) -> std::sync::Arc<dyn std::any::Any + Send + Sync> {
                match self { $(Self::$name(k) => std::sync::Arc::new(k.clone())),+ }
            }

            /// Words for people.
            pub fn title(&self) -> &'static str {
                self.kind().about().title
            }

            /// What it does, in words with the live values.
            pub fn sentence(&self) -> String {
                self.kind().sentence()
            }

            /// Checks all its parameters.
            ///
            /// # Errors
            /// What is wrong, as a sentence without its place.
            pub fn check(&self) -> Result<(), String> {
                $crate::params::check(self.kind())?;
                self.kind().check()
            }
        }

        $(impl From<$name> for $enum {
            fn from(kind: $name) -> Self {
                Self::$name(kind)
            }
        })+

        /// Every kind, in the order in which a menu shows them.
        pub fn catalogue() -> &'static [$info] {
            // Made once: schemas take a while.
            static ALL: std::sync::LazyLock<Vec<$info>> =
                std::sync::LazyLock::new(|| vec![$($tell::<$name>($kind, $enum::$name($name::default()))),+]);
            &ALL
        }
    };
}

pub(crate) use kinds;

/// What the file of a kind needs.
pub(crate) mod prelude {
    pub(crate) use super::{About, Kind};
    pub(crate) use crate::error::ShotError;
    pub(crate) use crate::inputs::Inputs;
    pub(crate) use crate::joins::Joins;
    pub(crate) use crate::wants::{Want, cover, needs, takes};
    pub(crate) use jugata_core::colour::blend::BlendMode;
    pub(crate) use jugata_core::{Raster, Role};
    pub(crate) use jugata_parameters::parameters;
    pub(crate) use schemars::JsonSchema;
    pub(crate) use serde::{Deserialize, Serialize};
    pub(crate) use ts_rs::TS;
}
