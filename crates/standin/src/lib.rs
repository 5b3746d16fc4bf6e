//! The stand-in renderer: the Veldmere orrery, every pass exact, and true re-renders with a lamp added.
//!
//! A small ray tracer that ships with Jugata so that every trick can be compared with the truth. The
//! *picture* is antialiased; the *passes* are not: each holds what one ray through the pixel's centre
//! hits, in canonical form (conventions: `jugata_core`). The same settings give the same bytes on every
//! run and for any number of threads.
//!
//! It takes its types from `jugata_core` and none of its maths of light: a truth that shared the code it
//! is to judge would prove nothing.
//!
//! | module | subject |
//! |---|---|
//! | [`shape`], [`bvh`] | what a ray hits |
//! | [`material`], [`lettering`] | what a surface looks like |
//! | [`scene`], [`orrery`], [`ship`], [`random`] | a scene; the Veldmere orrery; a ship of paper; a different room for each seed |
//! | [`added`] | light that a render adds |
//! | [`shade`], [`render`] | light, sampling, passes |
//! | [`bent`] | a lens that bends straight lines |
//! | [`damage`], [`export`] | passes as other renderers write them, rightly or wrongly; files |

pub mod added;
pub mod bent;
pub mod bvh;
pub mod damage;
pub mod export;
pub mod lettering;
pub mod material;
pub mod orrery;
mod polynomial;
pub mod random;
pub mod render;
pub mod scene;
pub mod shade;
pub mod shape;
pub mod ship;

pub use added::{AddedLamp, Around, LampPlace};
pub use bent::{Distortion, MapFor};
pub use damage::Damage;
pub use render::{Passes, Settings, Shutter, ThinLens, render, render_telling};
