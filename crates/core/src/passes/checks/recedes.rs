//! Whether the values of a depth rise or fall with distance, told by the directions of its surfaces, whatever the coding.

use super::case::Case;
use super::evidence::Evidence;
use super::lens::{direction, foretold};
use super::statistics::spread;
use crate::passes::convention::{Axes, OWN_AXES, Space};
use crate::passes::solve::turned;
use crate::{Camera, Role};
use glam::{Vec2, Vec3};

/// Longest way over one surface, px: long enough for codes of 8 bits to change.
const WAY: usize = 16;

/// Share of the ways that must say the same.
const OF_ONE_MIND: f64 = 0.75;

/// Ways that there must be along rows or columns for them to have a say.
const LEAST: usize = 100;

/// A change of `ln Z` along a way that says something.
const SLOPE: f64 = 1e-3;

/// Whether stored values rise (`true`) or fall with distance: along a way over one smooth surface its directions foretell
/// whether it recedes (own derivation, see [`super::lens`]). `None` where rows and columns do not say the same, as with
/// directions on other axes, or where too little is said.
pub(super) fn rises(case: &Case, depth: &Evidence) -> Option<bool> {
    let normals = case.pass(Role::Normal).filter(|n| n.stored.channels() >= 3)?;
    let width = case.setting().display.width as f32;
    let known = case.passes.known_camera();
    // Signs hardly depend on the lens: 45° will do where it is not known.
    let camera = known.unwrap_or_else(|| Camera::centred(1.2 * width, case.setting().display));
    let ways = |across| Ways::of(depth, normals, &camera, across);
    let said: Vec<Ways> = [ways(true), ways(false)].into_iter().filter(|w| w.count >= LEAST).collect();
    let first = said.first()?.mind > 0.0;
    said.iter().all(|w| w.mind.abs() > OF_ONE_MIND && (w.mind > 0.0) == first).then_some(first)
}

/// What the ways along rows, or along columns, say together.
struct Ways {
    /// −1 all fall, 1 all rise, weighted by how much is foretold.
    mind: f64,
    count: usize,
}

impl Ways {
    fn of(depth: &Evidence, normals: &Evidence, camera: &Camera, across: bool) -> Self {
        let axes = match normals.convention.space {
            Space::World => OWN_AXES,
            Space::Camera => normals.convention.axes,
        };
        let (mut alike, mut whole, mut count) = (0f64, 0f64, 0);
        for start in spread(depth.stored.window().area()).step_by(5) {
            let Some((said, measured)) = way(depth, normals, camera, &axes, (start, across)) else {
                continue;
            };
            if said.abs() > SLOPE && measured != 0.0 {
                alike += said.abs() * (said * measured).signum();
                whole += said.abs();
                count += 1;
            }
        }
        Self { mind: alike / whole.max(1e-12), count }
    }
}

/// The change of `ln Z` that is foretold along a way from a pixel on, as far as the surface is smooth, and the change of
/// the stored values.
fn way(
    depth: &Evidence,
    normals: &Evidence,
    camera: &Camera,
    axes: &Axes,
    (start, across): (usize, bool),
) -> Option<(f64, f64)> {
    let (w, v) = (depth.stored.window(), depth.stored.plane(0));
    let centre = Vec2::new(camera.centre_x, camera.centre_y);
    let (x0, y0) = w.pixel_at(start);
    let (mut said, mut last, mut end) = (0f64, None::<Vec3>, None);
    for step in 0..WAY {
        let (x, y) = if across { (x0 + step as i32, y0) } else { (x0, y0 + step as i32) };
        let i = start + step * if across { 1 } else { w.width as usize };
        if !w.contains(x, y) || !v[i].is_finite() || depth.convention.background == Some(v[i]) {
            break;
        }
        let Some(n) = direction(normals, x, y).filter(|n| last.is_none_or(|l| l.dot(*n) > 0.99)) else {
            break;
        };
        let at = Vec2::new(x as f32 + 0.5, y as f32 + 0.5) - centre;
        let Some(change) = foretold(turned(axes, n), at, across, camera.focal) else { break };
        said += f64::from(change);
        (last, end) = (Some(n), Some(i));
    }
    end.map(|end| (said, f64::from(v[end]) - f64::from(v[start])))
}
