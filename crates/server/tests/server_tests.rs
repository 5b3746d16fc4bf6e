//! The server, asked as the page asks it.
//!
//! One program for all files beside this one: linked once, its tests run beside each other.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic)]

mod deliveries;
mod floods;
mod jobs;
mod routes;
mod types;
