//! Light from all around, for the renderer and as the picture that *Light from all around* takes.

use crate::files::picture_file;
use glam::Vec3;
use jugata_core::{Raster, Window};
use jugata_standin::Around;
use std::f32::consts::PI;

/// A warm cap to the right and above, over an even dim rest.
pub const AROUND: Around =
    Around { rest: [0.1, 0.12, 0.15], toward: [0.7, 0.5, 0.4], cap: [3.0, 2.6, 2.0], until: 0.55 };

/// The same as a lat-long picture: its middle straight ahead (−z), its right quarter to the right, its top above.
pub fn lat_long() -> Vec<u8> {
    let size = Window::of_size(256, 128);
    let picture = Raster::from_fn(size, 4, |c, x, y| {
        let (turn, down) = ((x as f32 + 0.5) / 256.0 * 2.0 * PI - PI, (y as f32 + 0.5) / 128.0 * PI);
        let d = Vec3::new(down.sin() * turn.sin(), down.cos(), -down.sin() * turn.cos());
        AROUND.at(d).extend(1.0).to_array()[c]
    });
    picture_file(&picture)
}
