//! The store, on a PostgreSQL of its own.
//!
//! One program for all files beside this one: linked once, its tests run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod jobs;
mod sequences;
mod store;
