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
//! # Modules
//!
//! | module | subject |
//! |---|---|
//! | [`window`], [`raster`] | where samples are, and the samples |
//! | [`bands`] | the one parallel helper, and cancellation |
//! | [`scale`] | proxies: halving that averages colour and picks data |
//! | [`role`], [`convention`], [`stored`] | what a pass means, and how it was stored |
//! | [`checks`], [`repair`] | what is wrong with a pass, and what puts it right |
//! | [`camera`], [`solve`] | projection, unprojection, position from depth; the camera found in a position pass |
//! | [`background`] | the stored value that means "nothing here" |
//! | [`colour`], [`primaries`] | linear light and sRGB; primaries of files and their way to Rec.709 |
//! | [`blend`], [`composite`] | blend modes, Porter–Duff |
//! | [`matte`], [`hashed`], [`reach`] | where a change belongs; distance to the nearest of some pixels |
//! | [`lamp`], [`brdf`], [`relight`], [`rims`] | light added to a rendered surface, soft at its edges |
//! | [`shadow`] | how much of a lamp each place sees |
//! | [`flare`] | what a lamp itself looks like through a lens |
//! | [`surround`], [`harmonics`] | light from all around; the light of a picture told by nine numbers |
//! | [`depth`] | depth put right, carried on, and given to what has none |
//! | [`focus`], [`iris`] | focus set again, and the opening of the lens |
//! | [`grade`] | haze, and grading that grows with distance |
//! | [`shaping`] | light shaped by the axes of the normals |
//! | [`reveal`] | what lies before or behind a depth, cut out |
//! | [`parallax`] | a picture seen from a little to the side |
//! | [`surface`] | height, normals, facing, curvature and clay out of what there is |
//! | [`shapes`] | simple bodies on which a normal map is judged |
//! | [`lut`] | colour tables |
//! | [`view`] | turning any pass into 8-bit pixels for a screen |
//! | [`compare`] | PSNR and largest difference |
//!
//! # Limits
//!
//! Window sides are at most [`window::MAX_SIDE`]; the caller bounds the bytes before it allocates.

pub mod background;
pub mod bands;
mod beside;
pub mod blend;
pub mod brdf;
pub mod camera;
pub mod checks;
pub mod colour;
pub mod compare;
pub mod composite;
pub mod convention;
pub mod depth;
pub mod flare;
pub mod focus;
pub mod grade;
pub mod harmonics;
pub mod hashed;
pub mod iris;
pub mod lamp;
pub mod lut;
pub mod matte;
pub mod parallax;
pub mod primaries;
pub mod raster;
pub mod reach;
pub mod relight;
pub mod repair;
pub mod reveal;
pub mod rims;
pub mod role;
pub mod scale;
pub mod shadow;
pub mod shapes;
pub mod shaping;
pub mod solve;
pub mod stored;
pub mod surface;
pub mod surround;
pub mod view;
pub mod window;

pub use bands::{Cancel, Cancelled, KernelError};
pub use camera::Camera;
pub use convention::Convention;
pub use raster::{Raster, ShapeError};
pub use role::Role;
pub use scale::Scale;
pub use stored::SampleKind;
pub use window::Window;
