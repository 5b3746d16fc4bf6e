//! A surface out of what there is: height from a picture, normals from height or depth, height from normals, facing,
//! curvature, clay, bump.
//!
//! | module | subject |
//! |---|---|
//! | [`height`] | height from a picture, and from normals |
//! | [`normals`] | normals from height, and from positions |
//! | [`facing`] | facing and curvature |
//! | [`clay`] | an evenly lit grey surface |
//! | [`bump`] | fine relief added to normals |
//! | [`bodies`] | simple bodies on which a normal map is judged |

pub mod bodies;
pub mod bump;
pub mod clay;
pub mod facing;
pub mod height;
pub mod normals;
