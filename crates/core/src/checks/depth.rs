//! What a depth measures, and which way it runs.
//!
//! Where a position pass tells the true distance, every coding is fitted to it and the one that leaves
//! least is taken. Without it, normals and camera still foretell how distance changes from pixel to pixel
//! (our own derivation): with `X' = (x−cx)/f`, `Y' = (y−cy)/f` and a surface `n` at planar depth Z,
//! `∂ ln Z/∂x = n.x / (f·(n.z + n.y·Y' − n.x·X'))` and `∂ ln Z/∂y = −n.y / (f·(…))`, whatever the scale.

use super::{Case, Evidence, Finding, FindingKind, median, percent, spread};
use crate::camera::Camera;
use crate::convention::{Convention, Curve, DepthCoding, DepthMeasure, ray_to_planar};
use crate::{Raster, Role};
use glam::{Vec2, Vec3};

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.role != Role::Depth || pass.stored.channels() == 0 {
        return Vec::new();
    }
    let mut found: Vec<Finding> = coding(case, pass).into_iter().collect();
    found.extend(clipped(case, pass));
    found
}

/// One way in which the depth may have been stored.
#[derive(Clone, Copy, Debug)]
struct Way {
    coding: DepthCoding,
    measure: DepthMeasure,
    curve: Curve,
}

const fn way(coding: DepthCoding, measure: DepthMeasure, curve: Curve) -> Way {
    Way { coding, measure, curve }
}

/// Simpler ways first: a later one must fit clearly better.
const WAYS: [Way; 11] = [
    way(DepthCoding::Units, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::Units, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::NearWhite, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::NearBlack, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::Inverse, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::NormalisedInverse, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::NearWhite, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::NearBlack, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::Inverse, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::NearWhite, DepthMeasure::Planar, Curve::SrgbApplied),
    way(DepthCoding::NearBlack, DepthMeasure::Planar, Curve::SrgbApplied),
];

/// A later way must leave less than this share of what a simpler one leaves.
const CLEARLY: f32 = 0.6;

/// A fitted convention, and what it leaves: the median relative error.
struct Fit {
    convention: Convention,
    left: f32,
}

fn coding(case: &Case, pass: &Evidence) -> Option<Finding> {
    if let Some(position) = case.pass(Role::Position).filter(|p| p.canonical.channels() == 3) {
        return by_position(case, pass, &position.canonical);
    }
    match (case.pass(Role::Normal), case.setting.camera) {
        (Some(n), Some(camera)) if n.canonical.channels() == 3 => by_normals(pass, &n.canonical, &camera),
        _ => by_range(case, pass),
    }
}

/// Stored value, true planar distance, and factor from ray to planar, of evenly spread samples.
fn pairs(case: &Case, pass: &Evidence, position: &Raster) -> Vec<(f32, f32, f32)> {
    let w = pass.stored.window();
    spread(w.area())
        .filter_map(|i| {
            let (x, y) = w.pixel_at(i);
            let (v, z) = (pass.stored.plane(0)[i], -position.sample(2, x, y)?);
            let at = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
            let ray = case.setting.camera.as_ref().map_or(1.0, |c| ray_to_planar(c, at));
            (v.is_finite() && z > 1e-6 && pass.convention.background != Some(v)).then_some((v, z, ray))
        })
        .collect()
}

fn by_position(case: &Case, pass: &Evidence, position: &Raster) -> Option<Finding> {
    let pairs = pairs(case, pass, position);
    if pairs.len() < 100 {
        return None;
    }
    let present = left(&pass.convention, &pairs);
    // Conventions that read it to a thousandth need no better one.
    if present < 1e-3 {
        return None;
    }
    let mut best: Option<(Way, Fit)> = None;
    for w in WAYS {
        let Some(fit) = fitted(w, &pass.convention, &pairs) else { continue };
        if best.as_ref().is_none_or(|(_, b)| fit.left < b.left * CLEARLY) {
            best = Some((w, fit));
        }
    }
    let (w, mut fit) = best?;
    if fit.left > present * CLEARLY || fit.left > 0.1 {
        return None;
    }
    fit.convention.background = fit.convention.background.or_else(|| background(pass, position));
    let confidence = (1.0 - fit.left * 4.0).clamp(0.3, 0.99);
    let evidence = format!(
        "Compared with the position pass it is wrong by {} as it is read now, and by {} if read so.",
        percent(f64::from(present.min(9.0))),
        percent(f64::from(fit.left))
    );
    Some(found(pass, w, fit.convention, confidence, &evidence, present))
}

/// The one stored value where the position pass has nothing.
fn background(pass: &Evidence, position: &Raster) -> Option<f32> {
    let w = pass.stored.window();
    let nothing: Vec<f32> = spread(w.area())
        .filter(|&i| {
            let (x, y) = w.pixel_at(i);
            (0..3).all(|c| position.sample(c, x, y) == Some(0.0))
        })
        .map(|i| pass.stored.plane(0)[i])
        .filter(|v| v.is_finite())
        .collect();
    let first = *nothing.first()?;
    let same = nothing.iter().filter(|v| **v == first).count();
    (nothing.len() >= 50 && same * 10 >= nothing.len() * 9).then_some(first)
}

/// Median relative error of a convention.
fn left(convention: &Convention, pairs: &[(f32, f32, f32)]) -> f32 {
    let along = convention.depth == DepthMeasure::AlongRay;
    let mut errors: Vec<f32> = pairs
        .iter()
        .map(|&(v, z, ray)| {
            let read = convention.decoded_depth(v) * if along { ray } else { 1.0 };
            if read.is_finite() { ((read - z) / z).abs() } else { 1.0 }
        })
        .collect();
    median(&mut errors).unwrap_or(f32::INFINITY)
}

fn fitted(w: Way, base: &Convention, pairs: &[(f32, f32, f32)]) -> Option<Fit> {
    let mut c = Convention { depth: w.measure, depth_coding: w.coding, curve: w.curve, ..*base };
    let along = w.measure == DepthMeasure::AlongRay;
    let points: Vec<(f32, f32)> =
        pairs.iter().map(|&(v, z, ray)| (c.uncurved(v), if along { z / ray } else { z })).collect();
    match w.coding {
        DepthCoding::Units => {
            let mut k: Vec<f32> = points.iter().filter(|p| p.0 > 0.0).map(|p| p.1 / p.0).collect();
            c.unit = rounded(median(&mut k)?);
        }
        DepthCoding::Inverse => {
            let mut k: Vec<f32> = points.iter().map(|p| p.1 * p.0).collect();
            c.unit = rounded(median(&mut k)?);
        }
        DepthCoding::NearWhite | DepthCoding::NearBlack => {
            let (a, b) = line(&points, |z| z)?;
            let (at_zero, at_one) = (rounded(a), rounded(a + b));
            (c.near, c.far) =
                if w.coding == DepthCoding::NearWhite { (at_one, at_zero) } else { (at_zero, at_one) };
        }
        DepthCoding::NormalisedInverse => {
            let (a, b) = line(&points, |z| 1.0 / z)?;
            (c.near, c.far) = (rounded(1.0 / (a + b)), rounded(1.0 / a));
        }
    }
    let sound = match w.coding {
        DepthCoding::Units | DepthCoding::Inverse => c.unit > 0.0,
        _ => c.far > c.near && c.near.abs() < 1e8 && c.far.abs() < 1e8,
    };
    sound.then(|| Fit { left: left(&c, pairs), convention: c })
}

/// To five figures: a fit is no surer, and people read it.
fn rounded(v: f32) -> f32 {
    if v == 0.0 || !v.is_finite() {
        return v;
    }
    let near_one = if (v - 1.0).abs() < 2e-4 { 1.0 } else { v };
    let digits = 10f64.powf(4.0 - f64::from(near_one.abs()).log10().floor());
    ((f64::from(near_one) * digits).round() / digits) as f32
}

/// Line through `(v, of(z))`: through the medians of the two outer thirds by value, then least squares of
/// what lies near that line. Returns the value at 0 and the slope.
fn line(points: &[(f32, f32)], of: impl Fn(f32) -> f32) -> Option<(f32, f32)> {
    let mut sorted: Vec<(f32, f32)> = points.iter().map(|&(v, z)| (v, of(z))).collect();
    sorted.sort_unstable_by(|a, b| a.0.total_cmp(&b.0));
    let third = sorted.len() / 3;
    if third < 10 {
        return None;
    }
    let middle = |part: &[(f32, f32)]| {
        let v = median(&mut part.iter().map(|p| p.0).collect::<Vec<_>>())?;
        let z = median(&mut part.iter().map(|p| p.1).collect::<Vec<_>>())?;
        Some((v, z))
    };
    let (low, high) = (middle(&sorted[..third])?, middle(&sorted[sorted.len() - third..])?);
    if high.0 - low.0 < 1e-9 {
        return None;
    }
    let slope = (high.1 - low.1) / (high.0 - low.0);
    let start = low.1 - slope * low.0;
    let mut apart: Vec<f32> = sorted.iter().map(|p| (p.1 - start - slope * p.0).abs()).collect();
    let most = median(&mut apart)? * 3.0 + 1e-9;
    let (mut n, mut sv, mut sz, mut svv, mut svz) = (0f64, 0f64, 0f64, 0f64, 0f64);
    for &(v, z) in sorted.iter().filter(|p| (p.1 - start - slope * p.0).abs() <= most) {
        let (v, z) = (f64::from(v), f64::from(z));
        (n, sv, sz, svv, svz) = (n + 1.0, sv + v, sz + z, svv + v * v, svz + v * z);
    }
    let spread = n * svv - sv * sv;
    if spread <= 0.0 {
        return Some((start, slope));
    }
    let b = (n * svz - sv * sz) / spread;
    Some((((sz - b * sv) / n) as f32, b as f32))
}

fn found(
    pass: &Evidence,
    w: Way,
    convention: Convention,
    confidence: f32,
    evidence: &str,
    cost: f32,
) -> Finding {
    let (kind, what, button) = match (w.coding, w.measure, w.curve) {
        (DepthCoding::Units, DepthMeasure::AlongRay, _) => (
            FindingKind::AlongRay,
            "It holds the distance along the ray from the eye, not along the view axis.".to_owned(),
            "Read as distance along the ray".to_owned(),
        ),
        (DepthCoding::Units, DepthMeasure::Planar, _) => (
            FindingKind::DepthDirection,
            format!("One of its units is {} of the scene's.", convention.unit),
            "Set the unit".to_owned(),
        ),
        (coding, _, Curve::None) => (
            FindingKind::DepthDirection,
            format!("It is stored as {}{}.", coding.label(), range_words(coding, &convention)),
            format!("Read as {}", coding.label()),
        ),
        (coding, ..) => (
            FindingKind::ColourManaged,
            format!("It is stored as {} with the sRGB curve on it.", coding.label()),
            "Take the curve off".to_owned(),
        ),
    };
    Finding::new(pass, kind, confidence, format!("{what} {evidence}"))
        .costs(format!("distances wrong by {}", percent(f64::from(cost.min(9.0)))))
        .convention(&button, convention)
}

fn range_words(coding: DepthCoding, c: &Convention) -> String {
    match coding {
        DepthCoding::Units | DepthCoding::Inverse => String::new(),
        _ => format!(" from {} to {} units", c.near, c.far),
    }
}

/// Measured and foretold change of `ln Z`, from normals and camera.
struct Change {
    value: f32,
    beside: f32,
    ray: f32,
    ray_beside: f32,
    foretold: f32,
}

fn changes(pass: &Evidence, normals: &Raster, camera: &Camera) -> Vec<Change> {
    let w = pass.stored.window();
    let v = pass.stored.plane(0);
    let width = w.width as usize;
    let ray = |x: i32, y: i32| ray_to_planar(camera, Vec2::new(x as f32 + 0.5, y as f32 + 0.5));
    let normal = |x: i32, y: i32| {
        let n = Vec3::new(normals.sample(0, x, y)?, normals.sample(1, x, y)?, normals.sample(2, x, y)?);
        (n != Vec3::ZERO).then_some(n)
    };
    spread(w.area())
        .flat_map(|i| [(i, true), (i, false)])
        .filter_map(|(i, across)| {
            let (x, y) = w.pixel_at(i);
            let (bx, by) = if across { (x + 1, y) } else { (x, y + 1) };
            if !w.contains(bx, by) {
                return None;
            }
            let j = if across { i + 1 } else { i + width };
            let (n, m) = (normal(x, y)?, normal(bx, by)?);
            // One surface, and not seen so flat that pixels are too coarse for it.
            if n.dot(m) < 0.999 {
                return None;
            }
            let rx = (x as f32 + 1.0 - camera.centre_x) / camera.focal;
            let ry = (y as f32 + 1.0 - camera.centre_y) / camera.focal;
            let facing = n.z + n.y * ry - n.x * rx;
            if facing < 0.2 || !v[i].is_finite() || !v[j].is_finite() {
                return None;
            }
            let foretold = if across { n.x } else { -n.y } / (camera.focal * facing);
            Some(Change { value: v[i], beside: v[j], ray: ray(x, y), ray_beside: ray(bx, by), foretold })
        })
        .collect()
}

/// How much of the foretold change a convention leaves unexplained: 0 all explained, 1 none, 2 reversed.
fn unexplained(convention: &Convention, changes: &[Change]) -> f32 {
    let along = convention.depth == DepthMeasure::AlongRay;
    let (mut apart, mut whole) = (0f64, 0f64);
    for c in changes {
        let read = |v: f32, ray: f32| convention.decoded_depth(v) * if along { ray } else { 1.0 };
        let (a, b) = (read(c.value, c.ray), read(c.beside, c.ray_beside));
        if !(a > 0.0 && b > 0.0 && a.is_finite() && b.is_finite()) {
            continue;
        }
        // Bounded, so that a step to another surface of like direction does not decide.
        let most = 0.02f32.max(4.0 * c.foretold.abs());
        let d = (b / a).ln().clamp(-most, most);
        apart += f64::from((d - c.foretold).abs());
        whole += f64::from(c.foretold.abs());
    }
    if whole > 0.0 { (apart / whole) as f32 } else { f32::INFINITY }
}

fn by_normals(pass: &Evidence, normals: &Raster, camera: &Camera) -> Option<Finding> {
    let changes = changes(pass, normals, camera);
    if changes.len() < 400 {
        return None;
    }
    let present = unexplained(&pass.convention, &changes);
    if present < 0.15 {
        return None;
    }
    let mut best: Option<(Way, Fit)> = None;
    for w in WAYS {
        let base = Convention {
            depth: w.measure,
            depth_coding: w.coding,
            curve: w.curve,
            unit: 1.0,
            ..pass.convention
        };
        let fit = match w.coding {
            DepthCoding::Units | DepthCoding::Inverse => {
                Some(Fit { left: unexplained(&base, &changes), convention: base })
            }
            _ => searched(&base, &changes),
        };
        let Some(fit) = fit else { continue };
        if best.as_ref().is_none_or(|(_, b)| fit.left < b.left * 0.75) {
            best = Some((w, fit));
        }
    }
    let (w, fit) = best?;
    // A planar depth whose normals carry relief never explains all; it must be clearly better.
    if fit.left > present * 0.75 || fit.left > 0.6 {
        return None;
    }
    let confidence = (1.0 - fit.left).clamp(0.3, 0.95);
    let evidence = "The normals foretell how distance changes from pixel to pixel, and so it fits best.";
    let mut f = found(pass, w, fit.convention, confidence, evidence, present.min(1.0));
    if !matches!(w.coding, DepthCoding::Units | DepthCoding::Inverse) {
        f.what.push_str(
            " Only the ratio of near and far can be told from the passes; set them to the scene's.",
        );
    }
    Some(f)
}

/// The ratio of near to the range (far = near + 1) that explains most, on a fine ladder.
fn searched(base: &Convention, changes: &[Change]) -> Option<Fit> {
    (-16..=16)
        .map(|k| {
            let near = 10f32.powf(k as f32 / 8.0);
            let convention = Convention { near, far: near + 1.0, ..*base };
            Fit { left: unexplained(&convention, changes), convention }
        })
        .min_by(|a, b| a.left.total_cmp(&b.left))
}

/// Values of 0..1 with nothing else to go by: ask.
fn by_range(case: &Case, pass: &Evidence) -> Option<Finding> {
    if pass.convention != (Convention { colour: pass.convention.colour, ..Convention::default() }) {
        return None; // somebody has said already
    }
    let values = pass.stored.plane(0);
    let (low, high) = values
        .iter()
        .filter(|v| v.is_finite())
        .fold((f32::INFINITY, f32::NEG_INFINITY), |(a, b), v| (a.min(*v), b.max(*v)));
    let normalised = low >= 0.0 && high <= 1.0 && high > low;
    // The picture's own background tells: where alpha is 0, nothing is, and that is far.
    let backdrop = case.pass(Role::Beauty).filter(|b| b.canonical.channels() == 4).and_then(|b| {
        let w = pass.stored.window();
        let mut behind: Vec<f32> = spread(w.area())
            .filter(|&i| {
                let (x, y) = w.pixel_at(i);
                b.canonical.sample(3, x, y) == Some(0.0)
            })
            .map(|i| values[i])
            .filter(|v| v.is_finite())
            .collect();
        (behind.len() > 50).then(|| median(&mut behind)).flatten()
    });
    match backdrop {
        Some(b) if b <= low + 1e-6 && normalised => {
            let convention = Convention {
                depth_coding: DepthCoding::NearWhite,
                near: 1.0,
                far: 2.0,
                background: Some(b),
                ..pass.convention
            };
            let words = "Its values lie in 0..1 and are smallest where the picture is empty, so near is white. \
                         Near and far are not known; set them to the scene's.";
            Some(
                Finding::new(pass, FindingKind::DepthDirection, 0.7, words)
                    .convention("Read as 0..1, near white", convention),
            )
        }
        Some(b) if b >= high - 1e-6 => None,
        _ if normalised => {
            let words = "Its values lie in 0..1, and no other pass tells whether near is white or black. \
                         Click something near and something far.";
            let mut f = Finding::new(pass, FindingKind::DepthDirection, 0.4, words);
            f.remedy = Some(("Click near and far".into(), super::Remedy::PointNearAndFar));
            Some(f)
        }
        _ => None,
    }
}

/// Share of samples that must hold one and the same largest (or smallest) value to count as clipped.
const MASS: f64 = 0.02;

fn clipped(case: &Case, pass: &Evidence) -> Option<Finding> {
    // Without normals or alpha nobody can tell a surface at the limit from nothing.
    let alpha = case.pass(Role::Beauty).is_some_and(|b| b.stored.channels() >= 4);
    if !alpha && case.pass(Role::Normal).is_none() {
        return None;
    }
    let z = pass.canonical.plane(0);
    let seen: Vec<f32> = z.iter().copied().filter(|v| v.is_finite()).collect();
    if seen.len() < 400 {
        return None;
    }
    let far = seen.iter().copied().fold(f32::NEG_INFINITY, f32::max);
    let near = seen.iter().copied().fold(f32::INFINITY, f32::min);
    [far, near].into_iter().find_map(|end| clipped_at(case, pass, end, seen.len(), far - near))
}

fn clipped_at(case: &Case, pass: &Evidence, end: f32, all: usize, range: f32) -> Option<Finding> {
    let z = pass.canonical.plane(0);
    let w = pass.canonical.window();
    let at = |i: usize| w.pixel_at(i);
    // Something must be there: a surface in another pass, or paint in the picture.
    let surface = |i: usize| {
        let (x, y) = at(i);
        let normal = case.pass(Role::Normal).and_then(|n| n.canonical.sample(2, x, y)).unwrap_or(0.0);
        // Seen straight on, a wall is equally far everywhere, and that is right.
        let straight = normal > 0.9995;
        let alpha = case.pass(Role::Beauty).and_then(|b| b.canonical.sample(3, x, y)).unwrap_or(1.0);
        alpha > 0.99 && !straight
    };
    let same = |i: usize| (z[i] - end).abs() <= 1e-5 * range.max(end.abs() * 1e-2);
    let count = (0..z.len()).filter(|&i| same(i) && surface(i)).count();
    if (count as f64) < MASS * all as f64 {
        return None;
    }
    let share = count as f64 / all as f64;
    let words = format!(
        "{} of it lies at exactly {end:.4} units though a surface is there: it was clipped at that distance.",
        percent(share)
    );
    let confidence = if case.pass(Role::Normal).is_some() { 0.9 } else { 0.6 };
    Some(
        Finding::new(pass, FindingKind::DepthClipped, confidence, words)
            .costs("nothing beyond can be told apart; ask for a farther limit")
            .at(pass, |i| same(i) && surface(i)),
    )
}
