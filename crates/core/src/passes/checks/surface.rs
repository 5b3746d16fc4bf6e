//! What other passes say of the surface: directions from positions.

use super::evidence::ElementPasses;
use crate::{Camera, Raster, Role, Window};
use glam::{Vec2, Vec3};

/// Relative step in distance between neighbours above which they lie on different surfaces.
const SAME: f32 = 0.02;

/// Directions derived from places, and the places.
#[derive(Debug)]
pub struct Surface {
    window: Window,
    normals: Vec<Vec3>,
    positions: Vec<Vec3>,
    /// Whether places came from a pass of their own (surer than depth with a camera).
    pub from_position: bool,
}

impl Surface {
    /// From the position pass, if its camera could be solved, in the space of that camera; else from depth and camera.
    /// `None` without either.
    pub(super) fn of(passes: &ElementPasses, camera: impl FnOnce() -> Option<Camera>) -> Option<Self> {
        if let (Some(p), Some(solved)) = (passes.pass(Role::Position), passes.solved()) {
            let r = &p.stored;
            let nothing = crate::passes::background::shared(r.plane(0)).filter(|v| *v != 0.0);
            let place = |i: usize| {
                let v = Vec3::new(r.plane(0)[i], r.plane(1)[i], r.plane(2)[i]);
                let is = v.is_finite() && v != Vec3::ZERO && Some(v.x) != nothing;
                if is { solved.place(v) } else { Vec3::ZERO }
            };
            return Some(Self::new(r.window(), (0..r.window().area()).map(place).collect(), true));
        }
        let depth = passes.pass(Role::Depth)?;
        let camera = camera()?;
        let positions = positions(&depth.canonical, &camera);
        Some(Self::new(depth.canonical.window(), positions, false))
    }

    fn new(window: Window, positions: Vec<Vec3>, from_position: bool) -> Self {
        let w = window.width as usize;
        // On one processor, as all that a case makes once: see [`super::case::Case`].
        let normals =
            (0..positions.len()).map(|i| normal_at(&positions, w, i).unwrap_or(Vec3::ZERO)).collect();
        Self { window, normals, positions, from_position }
    }

    /// Unit direction at a pixel of the frame; zero where neighbours do not lie on one surface.
    pub fn normal(&self, x: i32, y: i32) -> Vec3 {
        self.index(x, y).map_or(Vec3::ZERO, |i| self.normals[i])
    }

    /// Place at a pixel of the frame; zero where nothing is.
    pub fn position(&self, x: i32, y: i32) -> Vec3 {
        self.index(x, y).map_or(Vec3::ZERO, |i| self.positions[i])
    }

    fn index(&self, x: i32, y: i32) -> Option<usize> {
        self.window.contains(x, y).then(|| {
            (i64::from(y) - i64::from(self.window.y)) as usize * self.window.width as usize
                + (i64::from(x) - i64::from(self.window.x)) as usize
        })
    }
}

/// Places from planar depth; zero where nothing is.
fn positions(depth: &Raster, camera: &Camera) -> Vec<Vec3> {
    let w = depth.window();
    let at = |i: usize| {
        let (x, y) = w.pixel_at(i);
        Vec2::new(x as f32 + 0.5, y as f32 + 0.5)
    };
    let place = |(i, &z): (usize, &f32)| if z.is_finite() { camera.unproject(at(i), z) } else { Vec3::ZERO };
    depth.plane(0).iter().enumerate().map(place).collect()
}

/// The direction of the surface at one pixel of a depth, for a camera; as [`Surface`] has it.
pub(super) fn direction_at(depth: &Raster, camera: &Camera, x: i32, y: i32) -> Option<Vec3> {
    let place = |x: i32, y: i32| {
        let z = depth.sample(0, x, y).filter(|z| z.is_finite())?;
        Some(camera.unproject(Vec2::new(x as f32 + 0.5, y as f32 + 0.5), z))
    };
    let middle = place(x, y)?;
    let near =
        |x: i32, y: i32| place(x, y).filter(|p| (p.z - middle.z).abs() < SAME * middle.z.abs().max(1e-6));
    let (l, r, u, d) = (near(x - 1, y)?, near(x + 1, y)?, near(x, y - 1)?, near(x, y + 1)?);
    (r - l).cross(u - d).try_normalize()
}

/// Cross product of position differences, on each axis from the side with the smaller step in depth; and
/// only where both sides lie on one surface, since this is a reference.
fn normal_at(p: &[Vec3], w: usize, i: usize) -> Option<Vec3> {
    let (x, y) = (i % w, i / w);
    let h = p.len() / w;
    if x == 0 || y == 0 || x + 1 >= w || y + 1 >= h || p[i] == Vec3::ZERO {
        return None;
    }
    let near = |j: usize| {
        (p[j] != Vec3::ZERO && (p[j].z - p[i].z).abs() < SAME * p[i].z.abs().max(1e-6)).then_some(p[j])
    };
    let (l, r, u, d) = (near(i - 1)?, near(i + 1)?, near(i - w)?, near(i + w)?);
    let n = (r - l).cross(u - d);
    let length = n.length();
    (length > 0.0 && length.is_finite()).then(|| n / length)
}
