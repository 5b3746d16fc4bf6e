//! Where things lie: the camera's projection, and moves of a picture.
//!
//! | module | subject |
//! |---|---|
//! | [`camera`] | projection, unprojection, position from depth |
//! | [`chain`] | moves one after the other: where a place comes from, and how large what comes out is |
//! | [`row`] | places and slopes of a row of pixels |
//! | [`field`] | where each pixel of a window comes from, bends on a grid |
//! | [`lens`] | what a lens does to straight lines, both ways |
//! | [`push`] | warps by hand: soft pushes and smears |
//! | [`flow`] | motion painted with a brush |
//! | [`going`] | motion vectors of a picture that is moved over time |
//! | `turn` | the turn by which directions are found again |
//! | [`lattice`] | a picture bent by a grid of points |
//! | [`coordinate_map`] | coordinate maps as moves |
//! | [`map_of`] | moves as coordinate maps |
//! | [`place`] | a picture put somewhere: moved, scaled, turned, in depth, or by four corners |
//! | [`kernel`] | how a picture is read between its samples |
//! | [`checker`] | a photographed checker found in a picture |
//! | [`straight`] | a lens solved from lines that ought to be straight |
//! | [`resample`] | a picture through a chain of moves |

pub mod camera;
pub mod chain;
pub mod checker;
pub mod coordinate_map;
pub mod field;
pub mod flow;
mod footprint;
pub mod going;
pub mod kernel;
pub mod lattice;
pub mod lens;
pub mod map_of;
pub mod place;
pub mod push;
pub mod resample;
pub mod row;
pub mod straight;
pub(crate) mod taps;
pub(crate) mod turn;
