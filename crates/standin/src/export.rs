//! A render as one multi-layer EXR.

use crate::render::Passes;
use jugata_exchange::ExchangeError;
use jugata_exchange::exr_write::{CameraOut, Depth, NamedLayer, write};

/// The picture as half, the passes as float, the camera in the header.
///
/// # Errors
/// None that the renderer's own rasters can cause; passed on from the writer.
pub fn exr(p: &Passes) -> Result<Vec<u8>, ExchangeError> {
    let layer = |name, channels, raster| NamedLayer { name, channels, raster, depth: Depth::Float };
    let window = p.beauty.window();
    let layers = [
        NamedLayer { name: "", channels: &["R", "G", "B", "A"], raster: &p.beauty, depth: Depth::Half },
        layer("depth", &["Z"], &p.depth),
        layer("normal", &["X", "Y", "Z"], &p.normal),
        layer("position", &["X", "Y", "Z"], &p.position),
        layer("uv", &["U", "V"], &p.uv),
        layer("objectID", &["id"], &p.id),
        layer("albedo", &["R", "G", "B"], &p.albedo),
        layer("motion", &["X", "Y"], &p.motion),
    ];
    let height = p.sensor * window.height as f32 / window.width as f32;
    let camera = CameraOut {
        // OpenEXR multiplies row vectors, so the columns of our matrix are its rows.
        world_to_camera: p.world_to_camera.to_cols_array(),
        focal: p.focal,
        sensor: [p.sensor, height],
    };
    write(&layers, window, Some(camera))
}
