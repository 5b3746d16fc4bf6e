//! The shadow that one render throws on another.
//!
//! *Own derivation.* Shadows of the surfaces of both, nearest first, over those of one's own alone: what is left is what the
//! other one keeps off. What is in one's own shadow already gets no darker, and what turns away from the light neither.

use crate::depth::is_depth;
use crate::raster::bands::for_each_band;
use crate::surface::normals::from_positions;
use crate::{Camera, Cancel, KernelError, Raster, Scale};

/// Surfaces of two renders in one space, the nearer one at each pixel.
#[derive(Clone, Debug)]
pub struct Meets {
    /// Unit normals, camera space.
    pub normals: Raster,
    /// Camera space, scene units.
    pub positions: Raster,
}

/// One's own surfaces, and before them those of another depth (planar Z) on the same window; `at` is the camera and the
/// scale of the pixels.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn met(
    normals: &Raster,
    positions: &Raster,
    other: &Raster,
    at: (Camera, Scale),
    cancel: &Cancel,
) -> Result<Meets, KernelError> {
    normals.expect_channels("normals", 3)?;
    positions.expect_channels("position", 3)?;
    positions.expect_window("position", normals.window())?;
    other.expect_window("other depth", normals.window())?;
    let theirs = at.0.positions(other, at.1, cancel)?;
    let slopes = from_positions(&theirs, cancel)?;
    let before = |own: &Raster, theirs: &Raster| {
        let mut out = own.clone();
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                let (depth, z) = (other.row(0, y), positions.row(2, y));
                for c in 0..3 {
                    let theirs = theirs.row(c, y);
                    for (i, v) in band.row(c, y).iter_mut().enumerate() {
                        if nearer(depth[i], z[i]) {
                            *v = theirs[i];
                        }
                    }
                }
            }
        })?;
        Ok::<_, KernelError>(out)
    };
    Ok(Meets { normals: before(normals, &slopes)?, positions: before(positions, &theirs)? })
}

/// Whether a depth lies before a surface of one's own, whose place is `z` (−depth; 0 where there is none).
fn nearer(depth: f32, z: f32) -> bool {
    is_depth(depth) && (z >= 0.0 || !z.is_finite() || depth < -z)
}

/// Share of the light that another render lets through, from what is seen of it among both and without the other.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn thrown(alone: &Raster, both: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    both.expect_window("seen among both", alone.window())?;
    let mut out = Raster::zeros(alone.window(), 1);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (alone, both) = (alone.row(0, y), both.row(0, y));
            for (i, v) in band.row(0, y).iter_mut().enumerate() {
                // What one's own shadow leaves nothing of has nothing to lose.
                let own = alone[i].max(1e-3);
                *v = (1.0 - (alone[i] - both[i]).max(0.0) / own).clamp(0.0, 1.0);
            }
        }
    })?;
    Ok(out)
}

/// A picture (RGBA, premultiplied) darkened where `seen` (1 = all light, 0 = none) says: by `darkness` down to `tint` times
/// itself.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn shaded(
    picture: &Raster,
    seen: &Raster,
    darkness: f32,
    tint: [f32; 3],
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    seen.expect_window("shadow", picture.window())?;
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let seen = seen.row(0, y);
            for (c, tint) in tint.into_iter().enumerate() {
                for (v, seen) in band.row(c, y).iter_mut().zip(seen) {
                    *v *= 1.0 - (1.0 - seen) * darkness * (1.0 - tint);
                }
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;
    use crate::light::lamp::{Lamp, Place};
    use crate::light::shadow::Occluders;
    use glam::Vec3;

    /// A wall 10 away and, of another render, a plate 8 away over columns 100 to 140 and rows 60 to 100. The sun stands at 45°
    /// to the left, so that the plate's shadow is moved by 2 units: over columns 144 to 176 of the wall.
    #[test]
    fn a_plate_of_another_render_throws_its_shadow_where_geometry_says() {
        let w = Window::of_size(240, 160);
        let camera = Camera { focal: 200.0, centre_x: 120.0, centre_y: 80.0, world: None };
        let cancel = Cancel::new();
        let depth = Raster::filled(w, 1, 10.0);
        let positions = camera.positions(&depth, Scale::FULL, &cancel).unwrap();
        let normals = Raster::from_fn(w, 3, |c, _, _| f32::from(u8::from(c == 2)));
        let is = |x: i32, y: i32| (100..140).contains(&x) && (60..100).contains(&y);
        let plate = Raster::from_fn(w, 1, |_, x, y| if is(x, y) { 8.0 } else { f32::INFINITY });
        let toward = Vec3::new(-1.0, 0.0, 1.0).normalize();
        let sun = Lamp { place: Place::Directional { toward }, power: [1.0; 3], size: 0.0 };
        let seen = |n: &Raster, p: &Raster| {
            Occluders::new(n, p, camera, Scale::FULL, 0.02, &cancel).unwrap().seen(&sun, &cancel).unwrap()
        };
        let both = met(&normals, &positions, &plate, (camera, Scale::FULL), &cancel).unwrap();
        let alone = seen(&normals, &positions);
        assert!(alone.plane(0).iter().all(|v| *v == 1.0), "a wall alone has no shadow");
        let through = thrown(&alone, &seen(&both.normals, &both.positions), &cancel).unwrap();
        for (x, y, want) in [(150, 80, 0.0), (172, 80, 0.0), (180, 80, 1.0), (60, 80, 1.0), (160, 40, 1.0)] {
            assert_eq!(through.sample(0, x, y), Some(want), "{x} {y}");
        }
        let grey = Raster::filled(w, 4, 0.8);
        let dark = shaded(&grey, &through, 0.5, [0.0, 0.5, 1.0], &cancel).unwrap();
        let at = |c| (dark.sample(c, 160, 80).unwrap() * 100.0).round();
        assert_eq!([0, 1, 2, 3].map(at), [40.0, 60.0, 80.0, 80.0]);
    }
}
