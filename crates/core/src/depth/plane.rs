//! The depth of a plane that stands in the scene.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::Vec2;

/// A plane by two places of the picture and a tilt. Across a picture 1/Z of a plane is straight, so these are all it
/// takes; no camera is needed.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Plane {
    /// Two places, px of the window.
    pub places: [Vec2; 2],
    /// Their depths, scene units.
    pub depths: [f32; 2],
    /// Turn of the lines of equal depth, degrees: 0 is square to the line between the places.
    pub tilt: f32,
}

/// Tilts nearer than this to 90° would run along the line itself, degrees.
const MOST_TILT: f32 = 85.0;

/// Depth of a plane over a window; infinite at and beyond its horizon. Two places that are one give a plane square to
/// the axis, at the first depth.
///
/// # Errors
/// Cancellation.
pub fn plane(window: Window, p: Plane, cancel: &Cancel) -> Result<Raster, KernelError> {
    let [a, b] = p.places;
    let along = b - a;
    let tilt = p.tilt.clamp(-MOST_TILT, MOST_TILT).to_radians();
    let turned = Vec2::from_angle(tilt).rotate(along.normalize_or_zero());
    let reach = along.dot(turned);
    let slope = if reach > 1e-6 { (1.0 / p.depths[1] - 1.0 / p.depths[0]) / reach } else { 0.0 };
    let mut out = Raster::zeros(window, 1);
    for_each_band(&mut out, cancel, |band| {
        let window = band.window();
        for y in window.rows() {
            for (x, v) in (window.x..).zip(band.row(0, y)) {
                let at = Vec2::new(x as f32 + 0.5, y as f32 + 0.5) - a;
                let inverse = 1.0 / p.depths[0] + slope * at.dot(turned);
                *v = if inverse > 1e-9 { 1.0 / inverse } else { f32::INFINITY };
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Camera;

    #[test]
    fn it_is_the_plane_through_its_places() {
        // A floor one unit below the camera, seen by it: Z = f/(y − cy) for y below the axis.
        let camera = Camera { focal: 100.0, centre_x: 40.0, centre_y: 20.0, world: None };
        let floor = |y: f32| camera.focal / (y - camera.centre_y);
        let places = [Vec2::new(30.0, 70.0), Vec2::new(30.0, 40.0)];
        let p = Plane { places, depths: places.map(|p| floor(p.y)), tilt: 0.0 };
        let z = plane(Window::of_size(80, 80), p, &Cancel::new()).unwrap();
        for (x, y) in [(3, 30), (79, 50), (40, 79)] {
            assert!((z.sample(0, x, y).unwrap() / floor(y as f32 + 0.5) - 1.0).abs() < 1e-4, "{x} {y}");
        }
        assert_eq!(z.sample(0, 10, 10), Some(f32::INFINITY), "above the horizon");
        // The same plane, by two places that do not lie square to its lines: the tilt makes up for it.
        let aslant = [Vec2::new(30.0, 70.0), Vec2::new(60.0, 40.0)];
        let p = Plane { places: aslant, depths: aslant.map(|p| floor(p.y)), tilt: -45.0 };
        let again = plane(Window::of_size(80, 80), p, &Cancel::new()).unwrap();
        assert!((again.sample(0, 3, 50).unwrap() / floor(50.5) - 1.0).abs() < 1e-4);
    }

    #[test]
    fn one_place_is_a_wall() {
        let p = Plane { places: [Vec2::ONE; 2], depths: [4.0, 9.0], tilt: 30.0 };
        let z = plane(Window::of_size(5, 5), p, &Cancel::new()).unwrap();
        assert!(z.plane(0).iter().all(|v| *v == 4.0));
    }
}
