//! Open formats, against files of other programs.
//!
//! One program for all files beside this one: linked once, its tests run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod damaged;
mod habits;
mod layouts;
mod letters;
mod openexr;
mod pictures;
