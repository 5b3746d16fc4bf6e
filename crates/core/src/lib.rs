//! Pixels and maths of Jugata. Pure: no files, no clock, no async, no database, no JSON of the web.
//!
//! # Conventions (written once, here; every other place links to them)
//!
//! - **Raster**: planar `f32`, row 0 at the top, x to the right, y down. The centre of pixel `(x, y)`
//!   lies at `(x + ½, y + ½)`. A raster has a data [`Window`] in the coordinates of the shot's display
//!   window (OpenEXR Technical Introduction). Outside it a picture is transparent and data has no sample.
//! - **Colour**: scene-linear, Rec.709 primaries (ITU-R BT.709-6), premultiplied by alpha, four planes
//!   R, G, B, A. Values above 1 are ordinary. A pass that is not colour never meets a colour transform.
//! - **Camera space**: x right, y up, z toward the viewer (right-handed); the camera looks along −z.
//! - **Depth**: planar Z along the view axis in scene units; larger is farther; `+inf` = nothing hit.
//! - **Normal**: unit length, camera space. The zero vector means "no surface here".
//! - **Position**: camera space, scene units.
//! - **UV**: u right, v up, origin bottom left.
//! - **Object ID**: whole numbers kept in `f32` (exact below 2²⁴); 0 is the background.
//! - **Matte**: one plane, 0 = untouched, 1 = fully affected.
//! - **NaN and infinity** are "no sample" in data; kernels let no NaN into a picture that had none.
//! - **Lengths in px** mean full-resolution px; at scale ½ⁿ they shrink with the picture.
//!
//! # Rooms, each using only those above it
//!
//! | room | subject |
//! |---|---|
//! | [`raster`] | samples and where they are; parallel bands and cancellation; proxies; distances |
//! | [`colour`] | linear light and sRGB, primaries, tables, blending, compositing, grading |
//! | [`geometry`] | the camera; moves as chains, lenses, warps, maps; sampling once |
//! | [`passes`] | what a pass means and how it was stored; what is wrong with it, and what puts it right |
//! | [`matte`] | where a change belongs |
//! | [`depth`] | depth put right, carried on, given to what has none; two pictures in one space |
//! | [`focus`] | focus set again; a picture taken apart by its depth |
//! | [`motion`] | motion blur: a picture taken apart by its motion |
//! | [`track`] | a plane followed through the frames |
//! | [`surface`] | height, normals, facing, curvature and clay out of what there is |
//! | [`relief`] | the edge of a matte finer than a pixel; bevels and bands along it; seeded noise |
//! | [`texture`] | pictures laid on surfaces through UV; the light that a surface is seen in |
//! | [`light`] | lamps, shadows, rims, flares, light from all around |
//! | [`show`] | pixels for a screen, a look from the side, comparison |
//!
//! # Limits
//!
//! Window sides are at most [`raster::window::MAX_SIDE`]; the caller bounds the bytes before it allocates.

pub mod colour;
pub mod depth;
pub mod focus;
pub mod geometry;
pub mod light;
pub mod matte;
pub mod motion;
pub mod passes;
pub mod raster;
pub mod relief;
pub mod show;
pub mod surface;
pub mod texture;
pub mod track;

pub use geometry::camera::Camera;
pub use passes::convention::Convention;
pub use passes::role::Role;
pub use passes::stored::SampleKind;
pub use raster::bands::{Cancel, Cancelled, KernelError};
pub use raster::scale::Scale;
pub use raster::window::Window;
pub use raster::{Raster, ShapeError};
