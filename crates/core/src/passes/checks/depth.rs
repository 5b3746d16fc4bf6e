//! What a depth measures, and which way it runs.
//!
//! Where a position pass whose camera could be solved tells the true distance, every coding is fitted to it and the one
//! that leaves least is taken. Without it, normals still foretell how distance changes from pixel to pixel ([`super::lens`]).

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind, Remedy, percent};
use super::recedes::rises;
use super::statistics::{median, spread};
use super::unit_range::{ends, fills_unit_range};
use crate::passes::background;
use crate::passes::convention::{Convention, Curve, DepthCoding, DepthMeasure, ray_to_planar};
use crate::passes::solve::Solved;
use crate::{Camera, Raster, Role};
use glam::{Vec2, Vec3};

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.role != Role::Depth || pass.stored.channels() == 0 {
        return Vec::new();
    }
    let mut found: Vec<Finding> = coding(case, pass).into_iter().collect();
    found.extend(clipped(case, pass));
    found.extend(lens(case, pass));
    found
}

/// What depth and normals may leave unexplained for their focal length to be offered.
const OFFERS_LENS: f32 = 0.05;

/// The focal length that depth and normals agree for, where no camera is known.
fn lens(case: &Case, pass: &Evidence) -> Option<Finding> {
    let unknown = case.setting().camera.is_none() && case.solved().is_none();
    let view = case.view().filter(|v| unknown && v.left < OFFERS_LENS)?;
    let camera = case.camera()?;
    let words = format!(
        "The camera can be taken from it: it agrees with the normals for a lens of {:.1} mm (on 36 mm), to {} of every slant.",
        crate::passes::solve::lens_mm(&camera, case.setting().display),
        percent(f64::from(view.left))
    );
    Some(Finding::new(pass, FindingKind::Camera, 0.8, words).camera(
        "Take this camera",
        camera,
        pass.convention,
    ))
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
const WAYS: [Way; 15] = [
    way(DepthCoding::Units, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::Units, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::NearWhite, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::NearBlack, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::Inverse, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::NormalisedInverse, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::ZBuffer, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::Logarithmic, DepthMeasure::Planar, Curve::None),
    way(DepthCoding::NearWhite, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::NearBlack, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::Inverse, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::ZBuffer, DepthMeasure::AlongRay, Curve::None),
    way(DepthCoding::Logarithmic, DepthMeasure::AlongRay, Curve::None),
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
    // Places that the grid of pixels itself bears out are the third witness beside depth and position.
    if let (Some(position), Some(solved)) = (case.pass(Role::Position), case.solved()) {
        return by_position(pass, &position.stored, solved)
            .map(|f| with_camera(case, f, Some(solved.camera)));
    }
    let by_normals = by_normals(case, pass).map(|f| with_camera(case, f, case.camera()));
    by_normals.or_else(|| by_range(case, pass))
}

/// A distance along the ray can be read with a camera only: where none is known, the one that was found goes with it.
fn with_camera(case: &Case, found: Finding, camera: Option<Camera>) -> Finding {
    match (&found.remedy, camera) {
        (Some((words, Remedy::Convention { convention })), Some(camera))
            if convention.depth == DepthMeasure::AlongRay && case.setting().camera.is_none() =>
        {
            let (words, convention) = (words.clone(), *convention);
            found.camera(&words, camera, convention)
        }
        _ => found,
    }
}

/// A stored value, the true planar distance, and the factor from ray to planar.
type Pair = (f32, f32, f32);

/// Pairs of evenly spread samples.
fn pairs(pass: &Evidence, position: &Raster, solved: &Solved) -> Vec<Pair> {
    let w = pass.stored.window();
    let nothing = background::shared(position.plane(0)).filter(|v| *v != 0.0);
    spread(w.area())
        .filter_map(|i| {
            let (x, y) = w.pixel_at(i);
            let at = |c: usize| position.sample(c, x, y);
            let place = Vec3::new(at(0)?, at(1)?, at(2)?);
            if place == Vec3::ZERO || !place.is_finite() || nothing == Some(place.x) {
                return None;
            }
            let (v, z) = (pass.stored.plane(0)[i], -solved.place(place).z);
            let at = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
            let ray = ray_to_planar(&solved.camera, at);
            (v.is_finite() && z > 0.0 && pass.convention.background != Some(v)).then_some((v, z, ray))
        })
        .collect()
}

/// Median relative error up to which a convention is right and needs no better one. Places solved from passes of one ray
/// anywhere in a pixel are no surer.
const RIGHT: f32 = 2e-3;

/// What a way may leave to be taken for the right one, and to be sure of it.
const TAKEN: f32 = 0.03;
const SURELY: f32 = 5e-3;

fn by_position(pass: &Evidence, position: &Raster, solved: &Solved) -> Option<Finding> {
    let pairs = pairs(pass, position, solved);
    if pairs.len() < 100 {
        return None;
    }
    let present = left(&pass.convention, &pairs);
    if present < RIGHT + 2e-3 * solved.residual {
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
    if fit.left > present * CLEARLY || fit.left > TAKEN {
        return (present > TAKEN).then(|| contradicts(pass, present));
    }
    fit.convention.background = fit.convention.background.or_else(|| nothing(pass, position));
    let confidence = if fit.left < SURELY { 0.98 - 4.0 * fit.left } else { 0.85 };
    let evidence = format!(
        "Compared with the position pass it is wrong by {} as it is read now, and by {} if read so.",
        percent(f64::from(present.min(9.0))),
        percent(f64::from(fit.left))
    );
    Some(found(pass, w, fit.convention, confidence, &evidence, present))
}

fn contradicts(pass: &Evidence, present: f32) -> Finding {
    let words = format!(
        "It is {} off the distances of the position pass, in no way that is known: one of the two belongs elsewhere.",
        percent(f64::from(present.min(9.0)))
    );
    Finding::new(pass, FindingKind::Contradicts, 0.8, words)
        .costs("light and focus from another picture than this one")
}

/// The one stored value where the position pass has nothing.
fn nothing(pass: &Evidence, position: &Raster) -> Option<f32> {
    let w = pass.stored.window();
    let empty: Vec<bool> = (0..w.area())
        .map(|i| {
            let (x, y) = w.pixel_at(i);
            (0..3).all(|c| position.sample(c, x, y).is_none_or(|v| v == 0.0))
        })
        .collect();
    background::of_depth(&pass.stored, Some(&empty))
}

/// Median relative error of a convention.
fn left(convention: &Convention, pairs: &[Pair]) -> f32 {
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

fn fitted(w: Way, base: &Convention, pairs: &[Pair]) -> Option<Fit> {
    let mut c = Convention { depth: w.measure, depth_coding: w.coding, curve: w.curve, ..*base };
    let along = w.measure == DepthMeasure::AlongRay;
    let points: Vec<(f32, f32)> =
        pairs.iter().map(|&(v, z, ray)| (c.uncurved(v), if along { z / ray } else { z })).collect();
    match w.coding {
        DepthCoding::Units => {
            let mut k: Vec<f32> = points.iter().filter(|p| p.0 != 0.0).map(|p| p.1 / p.0).collect();
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
        DepthCoding::NormalisedInverse | DepthCoding::ZBuffer => {
            let (a, b) = line(&points, |z| 1.0 / z)?;
            let (at_zero, at_one) = (rounded(1.0 / a), rounded(1.0 / (a + b)));
            (c.near, c.far) =
                if w.coding == DepthCoding::ZBuffer { (at_zero, at_one) } else { (at_one, at_zero) };
        }
        DepthCoding::Logarithmic => {
            let (a, b) = line(&points, f32::ln)?;
            (c.near, c.far) = (rounded(a.exp()), rounded((a + b).exp()));
        }
    }
    let sound = match w.coding {
        DepthCoding::Units => c.unit != 0.0 && c.unit.is_finite(),
        DepthCoding::Inverse => c.unit > 0.0 && c.unit.is_finite(),
        DepthCoding::NearWhite | DepthCoding::NearBlack => c.far > c.near && c.far.is_finite(),
        _ => c.far > c.near && c.near > 0.0 && c.far.is_finite(),
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
        (DepthCoding::Units, DepthMeasure::Planar, _) if convention.unit < 0.0 => (
            FindingKind::DepthDirection,
            format!("It is negative: a distance times {}.", convention.unit),
            "Read as negative distance".to_owned(),
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

/// What a right depth leaves unexplained at most; relief on the normals leaves more, and then nothing is said.
const EXPLAINED: f32 = 0.02;

/// What a way may leave to be offered, and which share of what is left as it is read now.
const OFFERED: f32 = 0.2;
const BETTER: f32 = 0.4;

fn by_normals(case: &Case, pass: &Evidence) -> Option<Finding> {
    let view = case.view()?;
    // Where some order of the normals' axes bears the depth out as it is, it is the normals that are read wrongly.
    if view.left < EXPLAINED || (view.axes != view.present && view.left < 0.1) || case.turn().is_some() {
        return None;
    }
    let present = view.best(&pass.convention, &view.present).0;
    let mut best: Option<(Way, Fit)> = None;
    for w in WAYS {
        let base = Convention {
            depth: w.measure,
            depth_coding: w.coding,
            curve: w.curve,
            unit: 1.0,
            ..pass.convention
        };
        let left = |c: &Convention| view.best(c, &view.present).0;
        let fit = match w.coding {
            DepthCoding::Units => [1.0, -1.0]
                .map(|unit| Convention { unit, ..base })
                .map(|c| Fit { left: left(&c), convention: c })
                .into_iter()
                .reduce(|a, b| if b.left < a.left { b } else { a }),
            DepthCoding::Inverse => Some(Fit { left: left(&base), convention: base }),
            _ => searched(&base, &|c| view.rough(c, &view.present))
                .map(|c| Fit { left: left(&c), convention: c }),
        };
        let Some(fit) = fit else { continue };
        if best.as_ref().is_none_or(|(_, b)| fit.left < b.left * 0.75) {
            best = Some((w, fit));
        }
    }
    let (w, fit) = best?;
    if fit.left > present * BETTER || fit.left > OFFERED {
        return None;
    }
    // Two passes bear each other out; the camera of the header is a third, without it nothing is sure.
    let most = if case.setting().camera.is_some() { 0.95 } else { 0.85 };
    let confidence = (1.0 - 0.5 * fit.left).min(most);
    let evidence = "The normals foretell how distance changes from pixel to pixel, and so it fits best.";
    let mut f = found(pass, w, fit.convention, confidence, evidence, present.min(1.0));
    if !matches!(w.coding, DepthCoding::Units | DepthCoding::Inverse) {
        f.what.push_str(
            " Only the ratio of near and far can be told from the passes; set them to the scene's.",
        );
    }
    Some(f)
}

/// The ratio of near to the range (far = near + 1) that explains most: on a ladder, then between its best steps.
fn searched(base: &Convention, left: &dyn Fn(&Convention) -> f32) -> Option<Convention> {
    let at = |k: f32| {
        let near = 10f32.powf(k);
        Convention { near, far: near + 1.0, ..*base }
    };
    let ladder = |middle: f32, step: f32, n: i32| {
        let steps = (-n..=n).map(move |k| middle + step * k as f32);
        steps.map(|k| (k, left(&at(k)))).min_by(|a, b| a.1.total_cmp(&b.1))
    };
    let (first, least) = ladder(0.0, 0.25, 8)?;
    // What explains next to nothing at its best needs no finer look.
    if least > 0.9 {
        return Some(at(first));
    }
    let (second, _) = ladder(first, 0.06, 3)?;
    ladder(second, 0.015, 3).map(|(k, _)| at(k))
}

/// Values of 0..1, or negative ones, with nothing else to go by.
fn by_range(case: &Case, pass: &Evidence) -> Option<Finding> {
    let untouched = Convention {
        colour: pass.convention.colour,
        background: pass.convention.background,
        ..Convention::default()
    };
    if pass.convention != untouched {
        return None; // somebody has said already
    }
    let nothing = pass.convention.background;
    let (low, high) = ends(pass);
    if high < 0.0 && low.is_finite() {
        let convention = Convention { unit: -1.0, ..pass.convention };
        let words = "All of its distances are negative.";
        return Some(
            Finding::new(pass, FindingKind::DepthDirection, 0.92, words)
                .costs("nothing is where it is")
                .convention("Read as negative distance", convention),
        );
    }
    if !fills_unit_range(pass, low, high) {
        return None;
    }
    let as_coded = |coding: DepthCoding, words: &str, button: &str| {
        let convention = Convention { depth_coding: coding, near: 1.0, far: 2.0, ..pass.convention };
        let words = format!(
            "Its values lie in 0..1 and {words} Near and far are not known; set them to the scene's."
        );
        Some(Finding::new(pass, FindingKind::DepthDirection, 0.7, words).convention(button, convention))
    };
    // The picture's own background tells: where alpha is 0, nothing is, and that is far.
    match nothing.or_else(|| backdrop(case, pass)) {
        Some(b) if b <= low + 1e-6 => as_coded(
            DepthCoding::NearWhite,
            "are smallest where the picture is empty, so near is white.",
            "Read as 0..1, near white",
        ),
        Some(b) if b >= high - 1e-6 => as_coded(
            DepthCoding::NearBlack,
            "are largest where the picture is empty, so near is black.",
            "Read as 0..1, near black",
        ),
        _ => match rises(case, pass) {
            Some(true) => as_coded(
                DepthCoding::NearBlack,
                "rise where the normals say that surfaces recede, so near is black.",
                "Read as 0..1, near black",
            ),
            Some(false) => as_coded(
                DepthCoding::NearWhite,
                "fall where the normals say that surfaces recede, so near is white.",
                "Read as 0..1, near white",
            ),
            None => {
                let words = "Its values lie in 0..1, and no other pass tells whether near is white or black. \
                             Click something near and something far.";
                let mut f = Finding::new(pass, FindingKind::DepthDirection, 0.4, words);
                f.remedy = Some(("Click near and far".into(), Remedy::PointNearAndFar));
                Some(f)
            }
        },
    }
}

/// The middle of the values where the picture is empty.
fn backdrop(case: &Case, pass: &Evidence) -> Option<f32> {
    let w = pass.stored.window();
    let mut behind: Vec<f32> = spread(w.area())
        .filter(|&i| {
            let (x, y) = w.pixel_at(i);
            case.passes.empty(x, y) == Some(true)
        })
        .map(|i| pass.stored.plane(0)[i])
        .filter(|v| v.is_finite())
        .collect();
    (behind.len() > 50).then(|| median(&mut behind)).flatten()
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
    let mut seen: Vec<f32> = z.iter().copied().filter(|v| v.is_finite()).collect();
    if seen.len() < 400 {
        return None;
    }
    seen.sort_unstable_by(f32::total_cmp);
    let (near, far) = (seen[0], seen[seen.len() - 1]);
    // A few strays beyond all surfaces must not make everything seem to lie at one distance.
    let range = seen[seen.len() * 49 / 50] - seen[seen.len() / 50];
    [far, near].into_iter().find_map(|end| clipped_at(case, pass, end, seen.len(), range))
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
    let same = |i: usize| (z[i] - end).abs() <= 1e-5 * range;
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
