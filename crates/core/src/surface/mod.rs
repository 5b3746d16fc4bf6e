//! A surface out of what there is: height from a picture, normals from height or depth, height from normals, facing,
//! curvature, clay, bump.
//!
//! | module | subject |
//! |---|---|
//! | [`height`] | height from a picture, and from normals |
//! | [`normals`] | normals from height, and from positions |
//! | [`shape`] | facing and curvature |
//! | [`clay`] | an evenly lit grey surface |
//! | [`bump`] | fine relief added to normals |

pub mod bump;
pub mod clay;
pub mod height;
pub mod normals;
pub mod shape;
