//! Where things lie: the camera's projection, and moves of a picture.
//!
//! | module | subject |
//! |---|---|
//! | [`camera`] | projection, unprojection, position from depth |

pub mod camera;
