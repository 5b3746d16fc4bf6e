//! What a lamp itself looks like through a lens: a glow, streaks, and ghosts mirrored about the middle of the frame.
//! Own shapes; none of them is measured off a lens.

use crate::depth::is_depth;
use crate::light::lamp::{Lamp, Place};
use crate::raster::bands::for_each_band;
use crate::{Camera, Cancel, KernelError, Raster, Scale};
use glam::{Vec2, Vec3};
use std::f32::consts::PI;

/// A lamp in the picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Flare {
    /// Where it is seen, full-resolution px.
    pub at: Vec2,
    /// The middle of the frame, full-resolution px.
    pub middle: Vec2,
    /// Radius of the glow, full-resolution px: there it has about a third of its brightness.
    pub size: f32,
    /// Light in the middle of the glow, linear Rec.709.
    pub glow: [f32; 3],
    /// Light of the streaks and the ghosts, linear Rec.709.
    pub flare: [f32; 3],
}

/// Streaks that run out from the lamp.
const STREAKS: f32 = 6.0;

/// Ghosts: how far beyond the middle, as a share of the lamp's distance from it; radius in sizes; strength; tint.
const GHOSTS: [(f32, f32, f32, [f32; 3]); 4] = [
    (0.35, 0.35, 0.10, [1.0, 0.8, 0.6]),
    (0.70, 0.60, 0.06, [0.6, 1.0, 0.8]),
    (1.15, 0.25, 0.12, [0.8, 0.7, 1.0]),
    (1.60, 1.00, 0.04, [1.0, 0.9, 0.7]),
];

/// Where a lamp is seen, full-resolution px, and its depth (endless for a directional one); `None` where it is behind
/// the camera.
pub fn seen_at(lamp: &Lamp, camera: Camera) -> Option<(Vec2, f32)> {
    match lamp.place {
        // The lamp lies where its direction vanishes.
        Place::Directional { toward } => camera.project(toward).map(|at| (at, f32::INFINITY)),
        Place::Point { position } | Place::Spot { position, .. } => {
            camera.project(position).map(|at| (at, -position.z))
        }
    }
}

/// Share of a disc about a place (full-resolution px) where nothing lies nearer than a depth: 0 hidden, 1 free. Outside
/// the raster nothing is known, and nothing hides. Positions are camera space, picked at `scale`.
pub fn free(positions: &Raster, scale: Scale, at: Vec2, depth: f32, radius: f32) -> f32 {
    // Rings of 1, 6 and 12 points: enough that a lamp fades behind an edge instead of going out.
    let points = [(0u8, 1u8), (1, 6), (2, 12)].into_iter().flat_map(|(ring, count)| {
        (0..count).map(move |i| (f32::from(ring) * 0.5, 2.0 * PI * f32::from(i) / f32::from(count)))
    });
    let (mut open, mut all) = (0.0, 0.0);
    for (r, turn) in points {
        let p = (at + Vec2::from_angle(turn) * (r * radius)) / scale.step() as f32;
        let z = positions.sample(2, p.x.floor() as i32, p.y.floor() as i32).map(|z| -z);
        all += 1.0;
        // A lamp on a surface is not hidden by it: a hundredth of the depth is left to it.
        let hidden = z.is_some_and(|z| is_depth(z) && z < depth * 0.99);
        open += f32::from(u8::from(!hidden));
    }
    open / all
}

/// Adds a lamp's glow, streaks and ghosts to light (RGBA; alpha stays) at a scale.
///
/// # Errors
/// Light without four channels; cancellation.
pub fn add(light: &mut Raster, scale: Scale, flare: &Flare, cancel: &Cancel) -> Result<(), KernelError> {
    light.expect_channels("light", 4)?;
    let step = scale.step() as f32;
    for_each_band(light, cancel, |band| {
        let window = band.window();
        for y in window.rows() {
            let mut rows = band.rows::<3>(y);
            for i in 0..window.width as usize {
                let here = Vec2::new(window.x as f32 + i as f32 + 0.5, y as f32 + 0.5) * step;
                let v = flare.light_at(here);
                rows.iter_mut().zip(v.to_array()).for_each(|(r, v)| r[i] += v);
            }
        }
    })?;
    Ok(())
}

impl Flare {
    /// Light at a place, full-resolution px.
    fn light_at(&self, here: Vec2) -> Vec3 {
        let off = (here - self.at) / self.size;
        let r = off.length();
        let mut v = Vec3::from(self.glow) * (1.0 + r * r).powf(-1.5);
        let flare = Vec3::from(self.flare);
        if flare != Vec3::ZERO {
            let spoke = (off.y.atan2(off.x) * STREAKS * 0.5).cos().abs().powi(40);
            v += flare * (0.5 * spoke * (-0.6 * r).exp());
            for (beyond, radius, strength, tint) in GHOSTS {
                let ghost = self.middle + (self.middle - self.at) * beyond;
                let r = (here - ghost).length() / (self.size * radius);
                // A disc that is brighter at its soft rim.
                let disc = ((1.05 - r) / 0.1).clamp(0.0, 1.0) * (0.55 + 0.45 * r * r);
                v += flare * Vec3::from(tint) * (strength * disc);
            }
        }
        v
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const CAMERA: Camera = Camera { focal: 100.0, centre_x: 50.0, centre_y: 40.0, world: None };

    #[test]
    fn a_lamp_is_seen_where_it_projects_and_not_behind_the_camera() {
        let bulb = |z: f32| Lamp {
            place: Place::Point { position: Vec3::new(1.0, 0.5, z) },
            power: [1.0; 3],
            size: 0.1,
        };
        assert_eq!(seen_at(&bulb(-5.0), CAMERA), Some((Vec2::new(70.0, 30.0), 5.0)));
        assert_eq!(seen_at(&bulb(5.0), CAMERA), None);
        let far = Lamp { place: Place::Directional { toward: Vec3::new(0.0, 0.0, -1.0) }, ..bulb(0.0) };
        assert_eq!(seen_at(&far, CAMERA), Some((Vec2::new(50.0, 40.0), f32::INFINITY)));
    }

    #[test]
    fn what_lies_before_it_hides_it_and_at_an_edge_by_half() {
        let w = Window::of_size(100, 80);
        let positions =
            Raster::from_fn(w, 3, |c, x, _| if c == 2 { if x < 50 { -4.0 } else { -9.0 } } else { 0.0 });
        let of = |x: f32, depth: f32| free(&positions, Scale::FULL, Vec2::new(x, 40.0), depth, 10.0);
        assert_eq!((of(20.0, 6.0), of(80.0, 6.0), of(20.0, 3.0)), (0.0, 1.0, 1.0));
        assert!((0.3..0.7).contains(&of(50.0, 6.0)), "{}", of(50.0, 6.0));
        assert_eq!(of(-300.0, 6.0), 1.0, "outside nothing is known");
        assert_eq!(of(80.0, f32::INFINITY), 0.0, "a lamp far away is behind any surface");
    }

    #[test]
    fn the_glow_falls_off_and_any_window_is_the_same() {
        let flare = Flare {
            at: Vec2::new(30.0, 20.0),
            middle: Vec2::new(50.0, 40.0),
            size: 8.0,
            glow: [2.0, 1.0, 0.5],
            flare: [0.4; 3],
        };
        let mut whole = Raster::zeros(Window::of_size(100, 80), 4);
        add(&mut whole, Scale::FULL, &flare, &Cancel::new()).unwrap();
        let at = |x, y| whole.sample(0, x, y).unwrap();
        assert!(at(30, 20) > 1.9 && at(30, 28) < at(30, 22) && whole.sample(3, 30, 20) == Some(0.0));
        // (1 + 1)^-1.5 of the middle at one size off, where no streak runs.
        let plain = Flare { flare: [0.0; 3], ..flare };
        assert!((plain.light_at(Vec2::new(30.0, 28.0)).x - 2.0 * 2f32.powf(-1.5)).abs() < 1e-5);
        let part = Window::new(25, 15, 20, 10);
        let mut cut = Raster::zeros(part, 4);
        add(&mut cut, Scale::FULL, &flare, &Cancel::new()).unwrap();
        assert_eq!(cut, whole.cropped(part, 0.0));
        // A ghost lies on the other side of the middle.
        assert!(flare.light_at(Vec2::new(57.0, 47.0)).x > plain.light_at(Vec2::new(57.0, 47.0)).x);
    }
}
