//! Where things lie: the camera's projection, and moves of a picture.
//!
//! | module | subject |
//! |---|---|
//! | [`camera`] | projection, unprojection, position from depth |
//! | [`chain`] | moves one after the other: where a place comes from, and how large what comes out is |
//! | [`field`] | where each pixel of a window comes from, bends on a grid |
//! | [`lens`] | what a lens does to straight lines, both ways |
//! | [`push`] | warps by hand: soft pushes and smears |
//! | [`flow`] | motion painted with a brush |
//! | [`lattice`] | a picture bent by a grid of points |
//! | [`coordinate_map`] | coordinate maps as moves, and moves as coordinate maps |
//! | [`place`] | a picture put somewhere: moved, scaled, turned, in depth, or by four corners |
//! | [`kernel`] | how a picture is read between its samples |
//! | [`straight`] | a lens solved from lines that ought to be straight |
//! | [`resample`] | a picture, or a pass, through a chain of moves |

pub mod camera;
pub mod chain;
pub mod coordinate_map;
pub mod field;
pub mod flow;
mod footprint;
pub mod kernel;
pub mod lattice;
pub mod lens;
pub mod place;
pub mod push;
pub mod resample;
pub mod straight;
pub(crate) mod taps;
