//! Directions of a world whose camera nobody knows: those of the surface, turned as a whole.

use super::evidence::{ElementPasses, Evidence};
use super::lens::{View, focals};
use super::statistics::{median, spread};
use super::surface::direction_at;
use super::unit_range::tells_directions;
use crate::geometry::turn::best_turn;
use crate::passes::convention::Space;
use crate::passes::solve::{all_axes, turned};
use crate::{Camera, Role};
use glam::Vec3;
use nalgebra::{Matrix3, Vector3};

/// A turn that was found.
#[derive(Clone, Copy, Debug)]
pub struct Turn {
    /// The camera with its turn; where it stands stays unknown, and is taken for the world's origin.
    pub camera: Camera,
    /// Middle of the angles that are left, degrees.
    pub left: f32,
    /// The same on the best order of the camera's own axes.
    pub otherwise: f32,
}

/// Directions that are compared.
const PAIRS: usize = 1200;

/// What a turn may leave, degrees, and which share of what the camera's own axes leave.
const LEFT: f32 = 2.0;
/// The same by a depth that may have been brought into 0..1, which bends surfaces a little.
const LEFT_UNSETTLED: f32 = 0.3;
const BETTER: f32 = 0.25;

impl Turn {
    /// Looks for the turn (Kabsch 1976) by which the normals are those of the depth, for each focal length where the
    /// camera is not known. `None` where the camera's pose is known, or where its own axes do as well.
    pub(super) fn of(passes: &ElementPasses, view: &View) -> Option<Self> {
        let posed = passes.setting.camera.is_some_and(|c| c.world.is_some());
        if posed || passes.solved().is_some() || view.left < 0.05 {
            return None;
        }
        let (distance, normals) = (passes.pass(Role::Depth)?, passes.pass(Role::Normal)?);
        if normals.convention.space == Space::World {
            return None;
        }
        let at = places(distance, normals);
        let tried = focals(passes).into_iter().filter_map(|camera| turn(distance, &at, camera));
        let best = tried.reduce(|a, b| if b.left < a.left { b } else { a })?;
        let best = if passes.setting.camera.is_some() { best } else { refined(distance, &at, best) };
        let most = if tells_directions(distance) { LEFT } else { LEFT_UNSETTLED };
        (best.left < most && best.left < BETTER * best.otherwise).then_some(best)
    }
}

/// Pixels with a stored direction, evenly spread.
fn places(depth: &Evidence, normals: &Evidence) -> Vec<(i32, i32, Vec3)> {
    let w = depth.canonical.window();
    let all: Vec<(i32, i32, Vec3)> = spread(w.area())
        .filter_map(|i| {
            let (x, y) = w.pixel_at(i);
            Some((x, y, super::lens::direction(normals, x, y)?))
        })
        .collect();
    super::statistics::thinned(all, PAIRS)
}

fn turn(depth: &Evidence, at: &[(i32, i32, Vec3)], camera: Camera) -> Option<Turn> {
    let pairs: Vec<(Vec3, Vec3)> = at
        .iter()
        .filter_map(|&(x, y, stored)| Some((stored, direction_at(&depth.canonical, &camera, x, y)?)))
        .collect();
    if pairs.len() < 200 {
        return None;
    }
    let mut sum = Matrix3::<f64>::zeros();
    for (stored, derived) in &pairs {
        let [a, b] = [stored, derived].map(|v| Vector3::new(v.x.into(), v.y.into(), f64::from(v.z)));
        sum += b * a.transpose();
    }
    let turn = best_turn(sum)?;
    let row = |r: usize| Vec3::from(std::array::from_fn(|c| turn[(r, c)] as f32));
    let rows = [row(0), row(1), row(2)];
    let apart = |change: &dyn Fn(Vec3) -> Vec3| {
        let mut all: Vec<f32> =
            pairs.iter().map(|(n, d)| change(*n).dot(*d).clamp(-1.0, 1.0).acos()).collect();
        median(&mut all).unwrap_or(f32::INFINITY).to_degrees()
    };
    let left = apart(&|n| Vec3::from(rows.map(|r| r.dot(n))));
    let otherwise = all_axes().map(|a| apart(&|n| turned(&a, n))).fold(f32::INFINITY, f32::min);
    let world = std::array::from_fn(|i| if i % 4 < 3 { rows[i / 4][i % 4] } else { 0.0 });
    Some(Turn { camera: Camera { world: Some(world), ..camera }, left, otherwise })
}

/// Closes in on the focal length.
fn refined(depth: &Evidence, at: &[(i32, i32, Vec3)], mut best: Turn) -> Turn {
    let mut step = 1.34f32.sqrt();
    for _ in 0..8 {
        for focal in [best.camera.focal / step, best.camera.focal * step] {
            let tried = turn(depth, at, Camera { focal, ..best.camera });
            best = tried.filter(|t| t.left < best.left).unwrap_or(best);
        }
        step = step.sqrt();
    }
    best
}
