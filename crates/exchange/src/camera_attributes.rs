//! The camera of a render, from its header.

use crate::file::ImageFile;
use jugata_core::Camera;

/// The camera of the first part that describes one: focal length and sensor where both are given, else
/// the standard screen window (OpenEXR Technical Introduction: width and centre of the window at distance
/// 1). A screen window of the default width 1 without worldToCamera says nothing.
pub fn camera(file: &ImageFile) -> Option<Camera> {
    let display = file.display_window;
    file.parts.iter().find_map(|part| {
        let c = &part.camera;
        let by_sensor = match (c.focal, c.sensor) {
            (Some(focal), Some([width, _])) => Camera::from_sensor(focal, width, display),
            _ => None,
        };
        let told = c.world_to_camera.is_some() || c.screen_window_width != 1.0;
        let by_screen = || {
            let mut camera = Camera::from_sensor(1.0, c.screen_window_width, display)?;
            camera.centre_x -= c.screen_window_centre[0] * camera.focal;
            camera.centre_y += c.screen_window_centre[1] * camera.focal;
            camera.is_sound().then_some(camera)
        };
        let mut camera = by_sensor.or_else(|| told.then(by_screen).flatten())?;
        camera.world = c.world_to_camera.and_then(rows);
        Some(camera)
    })
}

/// Rows of a 3×4 matrix for column vectors from the header's 4×4 for row vectors; `None` unless its turn
/// has unit rows, so that it is a plain rotation and a move.
fn rows(m: [f32; 16]) -> Option<[f32; 12]> {
    let out: [f32; 12] = std::array::from_fn(|i| m[(i % 4) * 4 + i / 4]);
    let unit = |r: usize| {
        let length: f32 = out[4 * r..4 * r + 3].iter().map(|v| v * v).sum();
        (length - 1.0).abs() < 1e-2
    };
    (out.iter().all(|v| v.is_finite()) && (0..3).all(unit)).then_some(out)
}
