//! The shot document, and the engine that turns it into pictures.
//!
//! | module | subject |
//! |---|---|
//! | [`document`] | elements, passes, steps, limits: the serde types of a shot file |
//! | [`check`] | what a sound document is |
//! | [`conventions`] | how passes may be stored, as fields |
//! | [`params`], [`wants`], [`inputs`], [`kinds`] | what all kinds share: declared parameters, what they ask for, what they get |
//! | [`lamp`], [`finish`] | lamps as a document holds them; how some objects answer them |
//! | [`curve`] | curves that are drawn by points |
//! | [`limit`] | mattes: what limits a step |
//! | [`extracts`] | kinds of extracted pass: one file and one line each |
//! | [`steps`] | kinds of step: one file and one line each |
//! | [`made`] | kinds of made element: one file and one line each |
//! | [`engine`] | document + target + window + scale → raster, cached and cancellable |
//! | [`look`] | pictures for a screen |
//! | [`media`] | where the bytes of a media file come from |
//! | [`handoff`] | results as files |
//! | [`intake`] | a new shot from files, and more files into a shot |
//! | [`delivery`] | files that come one after the other |
//! | [`inspection`] | what files hold and what is wrong with them |
//! | [`placing`] | putting a lamp by pointing at the picture |
//! | [`charting`] | lines along a photographed checker |
//! | [`telling`] | what a step found out, and what moves cost |
//! | [`preset`] | steps kept under a name, put on another element |
//! | [`review`] | a sheet for somebody who has no Jugata |
//! | [`rocking`] | a picture seen from a little to the side |
//! | [`on_body`] | a height or a normal map on a simple body |
//! | [`files`], [`joins`] | media files by what is in them; how a change meets what was there |
//! | [`drives`], [`still`] | what moves parameters over time; a shot at one frame |
//! | [`tracks`] | planes that are followed, and what is held to them |
//! | [`edits`] | edits by address, and how those of two people are put together |
//! | [`error`] | what can go wrong, in sentences |

mod address;
mod backgrounds;
pub mod charting;
pub mod check;
pub mod content;
pub mod conventions;
pub mod curve;
mod defaults;
pub mod delivery;
pub mod document;
pub mod drives;
pub mod edits;
pub mod engine;
pub mod error;
pub mod extracts;
pub mod files;
pub mod finish;
pub mod handoff;
pub mod inputs;
pub mod inspection;
pub mod intake;
pub mod joins;
pub mod keying;
pub mod kinds;
pub mod lamp;
pub mod laying;
pub mod limit;
pub mod look;
pub mod made;
pub mod media;
pub mod on_body;
pub mod params;
pub mod parts;
pub mod placing;
pub mod preset;
pub mod proof;
pub mod remedies;
pub mod resolve;
pub mod review;
pub mod rocking;
pub mod sequences;
pub mod steps;
pub mod still;
pub mod telling;
pub mod texture;
mod together;
pub mod tracks;
mod unread;
pub mod values;
pub mod wants;

pub use document::{Element, Joins, Limit, MediaId, Pass, Shot, Source, Step};
pub use engine::{Engine, Request, Target};
pub use error::ShotError;
pub use extracts::ExtractKind;
pub use steps::StepKind;
pub use together::move_passes;
