//! Light on a rendered surface.
//!
//! | module | subject |
//! |---|---|
//! | [`lamp`], [`brdf`] | lamps, and how a surface answers them |
//! | [`relight`], [`rims`] | light added to a rendered surface, soft at its edges |
//! | [`shadow`] | how much of a lamp each place sees |
//! | [`flare`] | what a lamp itself looks like through a lens |
//! | [`surround`], [`harmonics`] | light from all around; the light of a picture told by nine numbers |
//! | [`finish`] | which objects are metal, glossy or matt, told from the picture |
//! | [`axes`] | light shaped by the axes of the normals |

pub mod axes;
mod beside;
pub mod brdf;
pub mod cast;
pub mod finish;
pub mod flare;
pub mod harmonics;
pub mod lamp;
pub mod relight;
pub mod rims;
pub mod shadow;
pub mod surround;
