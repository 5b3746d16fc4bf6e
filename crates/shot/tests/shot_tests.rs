//! The shot document and the engine, tested from outside.
//!
//! One program for all files beside this one: linked once, its tests run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod arrivals;
mod bevelled;
mod cameras;
mod catalogue;
mod crossing;
mod document;
mod edits;
mod engine;
mod extracts;
mod fidelity;
#[path = "support/files.rs"]
mod files;
mod finishes;
mod foreign;
mod going;
mod handoff;
mod held;
mod hostile;
#[path = "support/kinds.rs"]
mod kinds;
mod lens;
mod looks;
mod moves;
mod moving;
mod pngs;
mod presets;
mod relit;
mod sequences;
#[path = "support/sky.rs"]
mod sky;
mod stills;
mod support;
mod textured;
mod textures;
mod thrown;
mod tracked;
mod tracks;
mod words;
