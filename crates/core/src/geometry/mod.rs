//! Where things lie: the camera's projection, and moves of a picture.
//!
//! | module | subject |
//! |---|---|
//! | [`camera`] | projection, unprojection, position from depth |
//! | [`chain`] | moves one after the other: where a place comes from, and how large what comes out is |
//! | [`place`] | a picture put somewhere: moved, scaled, turned, in depth, or by four corners |
//! | [`kernel`] | how a picture is read between its samples |
//! | [`resample`] | a picture, or a pass, through a chain of moves |

pub mod camera;
pub mod chain;
pub mod kernel;
pub mod place;
pub mod resample;
