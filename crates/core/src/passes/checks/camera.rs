//! The space of positions, and the camera they were taken with: solved from the pass, so that nobody has to ask for it.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind};
use crate::passes::convention::{Convention, OWN_AXES, Space};
use crate::passes::solve::{self, Solved};
use crate::{Camera, Role};

/// How well the camera of the element must show the places to be taken for the right one, px, beside what the solved one
/// leaves.
const FITS: f32 = 0.75;

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.role != Role::Position || case.pass(Role::Position).is_none_or(|p| p.id != pass.id) {
        return Vec::new();
    }
    match case.solved() {
        Some(solved) => told(case, pass, solved).into_iter().collect(),
        None => contradiction(case, pass).into_iter().collect(),
    }
}

fn told(case: &Case, pass: &Evidence, solved: &Solved) -> Option<Finding> {
    let (space, axes) = match solved.axes {
        Some(axes) => (Space::Camera, axes),
        None => (Space::World, OWN_AXES),
    };
    let known = case.setting().camera.filter(|c| fits(pass, c, solved));
    let right = pass.convention.space == space && pass.convention.axes == axes;
    if right && known.is_some() {
        return None;
    }
    let convention = Convention { space, axes, ..pass.convention };
    let camera = known.unwrap_or(solved.camera);
    let taken = format!(
        "It was taken with {:.1} mm (on 36 mm), which leaves {} px.",
        solve::lens_mm(&solved.camera, case.setting().display),
        figure(solved.residual)
    );
    let kind = match (right, space) {
        (true, _) => FindingKind::Camera,
        (false, Space::World) => FindingKind::WorldSpace,
        (false, Space::Camera) => FindingKind::NormalsAxes,
    };
    let what = match (right, space) {
        (true, _) => match case.setting().camera {
            None => "The camera can be taken from it.",
            Some(_) => "The camera of this element does not fit it.",
        },
        (false, Space::World) => "This position pass is in world space.",
        (false, Space::Camera) => "Its axes are not right, up and toward the viewer.",
    };
    let finding = Finding::new(pass, kind, sure(solved), format!("{what} {taken}"));
    let finding = match (right, case.setting().camera) {
        (true, None) => finding,
        (true, Some(_)) => finding.costs("whatever is made with the camera is in the wrong place"),
        _ => finding.costs("light and shadows from the wrong place"),
    };
    Some(match (known, right) {
        (Some(_), _) if space == Space::World => finding.convention("Turn into camera space", convention),
        (Some(_), _) => finding.convention("Read its axes so", convention),
        (None, true) => finding.camera("Take this camera", camera, convention),
        (None, false) => finding.camera("Take this camera and read it so", camera, convention),
    })
}

/// Two decimals, or fewer noughts.
fn figure(px: f32) -> String {
    if px < 0.005 { "less than 0.01".into() } else { format!("{px:.2}") }
}

/// Thousands of places on a grid that no chance makes: only what they leave counts.
fn sure(solved: &Solved) -> f32 {
    (0.99 - 0.2 * solved.residual).clamp(0.5, 0.99)
}

/// Whether a camera shows the places where they are seen.
fn fits(pass: &Evidence, camera: &Camera, solved: &Solved) -> bool {
    let left = match solved.axes {
        Some(_) => solve::residual(&pass.stored, camera, |p| solved.place(p)),
        None if camera.world.is_some() => {
            solve::residual(&pass.stored, camera, |p| camera.from_world(p, true))
        }
        None => None,
    };
    left.is_some_and(|r| r < FITS + 2.0 * solved.residual)
}

/// Share by which places must lie off their depth to be told, in the middle.
const OFF: f32 = 0.02;

/// Places that fit no camera are told where a depth with a camera says otherwise: nobody shall render with them unwarned.
fn contradiction(case: &Case, pass: &Evidence) -> Option<Finding> {
    let (depth, camera) = (case.pass(Role::Depth)?, case.setting().camera?);
    let (d, p) = (&depth.canonical, &pass.canonical);
    let w = p.window();
    let mut off: Vec<f32> = super::statistics::spread(w.area())
        .filter_map(|i| {
            let (x, y) = w.pixel_at(i);
            let z = d.sample(0, x, y).filter(|z| z.is_finite() && *z > 0.0)?;
            let place = glam::Vec3::new(p.plane(0)[i], p.plane(1)[i], p.plane(2)[i]);
            let at = glam::Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
            (place != glam::Vec3::ZERO).then(|| camera.unproject(at, z).distance(place) / z)
        })
        .collect();
    let middle = (off.len() >= 100).then(|| super::statistics::median(&mut off)).flatten()?;
    (middle > OFF).then(|| {
        let words = format!(
            "It fits no camera, and lies {} of the distance off the depth: one of the two is not what it is taken for.",
            super::finding::percent(f64::from(middle.min(9.0)))
        );
        Finding::new(pass, FindingKind::Contradicts, 0.8, words)
            .costs("whatever reads positions puts light and shadows in the wrong place")
    })
}
