//! The maths, against reference libraries.
//!
//! One program for all files beside this one: linked once, its tests run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod compare;
mod lens;
mod normals;
mod relight;
mod resample;
mod scipy;
mod track;
