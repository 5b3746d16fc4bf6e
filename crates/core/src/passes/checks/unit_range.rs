//! Depth that may have been brought into 0..1: it says near and far, but not how far.

use super::evidence::Evidence;
use crate::passes::convention::DepthCoding;

/// Whether values look as if they had been brought into 0..1. Distances may be small as well, but a range that was made
/// 0..1 comes near both of its ends, and holds no infinity.
pub(super) fn fills_unit_range(pass: &Evidence, low: f32, high: f32) -> bool {
    let nothing = pass.convention.background;
    let beyond =
        nothing.is_some_and(|b| !(0.0..=1.0).contains(&b)) || pass.stored.plane(0).contains(&f32::INFINITY);
    let ends =
        [low, high].iter().chain(&nothing).fold((f32::INFINITY, 0f32), |(a, b), v| (a.min(*v), b.max(*v)));
    !beyond && low >= 0.0 && high <= 1.0 && high > low && ends.1 >= 0.8 && ends.0 <= 0.3
}

/// Least and largest sample that stands for a surface.
pub(super) fn ends(pass: &Evidence) -> (f32, f32) {
    let nothing = pass.convention.background;
    let surfaces = pass.stored.plane(0).iter().filter(|v| v.is_finite() && nothing != Some(**v));
    surfaces.fold((f32::INFINITY, f32::NEG_INFINITY), |(a, b), v| (a.min(*v), b.max(*v)))
}

/// Whether distances of a depth bear directions out: not while only near and far of 0..1 are guessed at.
pub(super) fn tells_directions(pass: &Evidence) -> bool {
    let (low, high) = ends(pass);
    let c = &pass.convention;
    let settled = c.near != 1.0 || c.far != 2.0;
    match c.depth_coding {
        DepthCoding::Units => !fills_unit_range(pass, low, high),
        DepthCoding::Inverse => true,
        _ => settled,
    }
}
