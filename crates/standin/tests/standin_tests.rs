//! The stand-in as a source of truth for findings, focus and motion.
//!
//! One program for all files beside this one: linked once, its tests run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod exposed;
mod findings;
mod lens;
mod motion;
mod unhidden;
