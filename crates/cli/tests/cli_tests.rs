//! The command line, run as a person runs it.
//!
//! One program for all files beside this one: linked once, its tests run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod demo;
mod kills;
mod line;
mod support;
mod work;
