//! The real interface, driven as a person does.
//!
//! One program for all files beside this one: linked once, its tests run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod bench;
mod depth;
mod elements;
mod focus;
mod intake;
mod light;
mod looking;
mod moves;
mod room;
mod screenshots;
mod textures;
mod time;
mod titles;
mod tracks;
