//! Normals: coding and curve from the lengths of vectors, axes and space from the surface itself.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind, Remedy, percent};
use super::statistics::spread;
use super::surface::Surface;
use super::turn::Turn;
use crate::Role;
use crate::passes::convention::{Axes, Axis, Convention, Curve, NormalCoding, OWN_AXES, Space};
use crate::passes::repair::Repair;
use crate::passes::solve::{all_axes, turned};
use glam::{Vec2, Vec3};

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.role != Role::Normal || pass.stored.channels() < 3 {
        return Vec::new();
    }
    let vectors = vectors(pass);
    if vectors.len() < 100 {
        return Vec::new();
    }
    match coding(pass, &vectors) {
        // Axes can only be told once the coding is right.
        Some(found) => vec![found],
        None => length(pass, &vectors).into_iter().chain(axes(case, pass)).collect(),
    }
}

/// Stored vectors of spread samples, without "nothing".
fn vectors(pass: &Evidence) -> Vec<Vec3> {
    let r = &pass.stored;
    spread(r.window().area())
        .map(|i| Vec3::new(r.plane(0)[i], r.plane(1)[i], r.plane(2)[i]))
        .filter(|v| v.is_finite() && *v != Vec3::ZERO)
        .collect()
}

/// Share of vectors whose length is 1 within 2 %: eight bits leave 0.7 %, half 0.05 %.
fn unit_share(convention: &Convention, vectors: &[Vec3]) -> f32 {
    let unit =
        vectors.iter().filter(|v| (convention.decoded_normal(**v).length() - 1.0).abs() < 0.02).count();
    unit as f32 / vectors.len() as f32
}

fn coding(pass: &Evidence, vectors: &[Vec3]) -> Option<Finding> {
    let present = unit_share(&pass.convention, vectors);
    if present > 0.8 {
        return None;
    }
    let ways = [
        (NormalCoding::Signed, Curve::None),
        (NormalCoding::ZeroToOne, Curve::None),
        (NormalCoding::ZeroToOne, Curve::SrgbApplied),
        (NormalCoding::ZeroToOne, Curve::SrgbRemoved),
        (NormalCoding::Signed, Curve::SrgbApplied),
        (NormalCoding::Signed, Curve::SrgbRemoved),
    ];
    let tried = ways.map(|(normal, curve)| {
        let c = Convention { normal, curve, ..pass.convention };
        (unit_share(&c, vectors), c)
    });
    let (share, c) = tried.into_iter().max_by(|a, b| a.0.total_cmp(&b.0))?;
    if share < present + 0.3 || share < 0.5 {
        return None;
    }
    let evidence = format!(
        "So read, {} of its vectors have length 1, against {} as it is read now.",
        percent(f64::from(share)),
        percent(f64::from(present))
    );
    let (kind, what, button) = match c.curve {
        Curve::None if c.normal == NormalCoding::ZeroToOne => {
            (FindingKind::NormalsCoded, "Its directions are stored as 0..1.", "Read as 0..1")
        }
        Curve::None => (FindingKind::NormalsCoded, "Its directions are stored as −1..1.", "Read as −1..1"),
        Curve::SrgbApplied => {
            (FindingKind::ColourManaged, "The sRGB curve was put on its directions.", "Take the curve off")
        }
        Curve::SrgbRemoved => (
            FindingKind::ColourManaged,
            "The sRGB curve was taken off its directions, which never had it.",
            "Put the curve back",
        ),
    };
    Some(
        Finding::new(pass, kind, share, format!("{what} {evidence}"))
            .costs(format!("directions wrong by {:.0}° in the middle", apart(&pass.convention, &c, vectors)))
            .convention(button, c),
    )
}

/// Median angle between two readings, degrees.
fn apart(a: &Convention, b: &Convention, vectors: &[Vec3]) -> f32 {
    let mut angles: Vec<f32> = vectors
        .iter()
        .filter_map(|v| {
            let (a, b) = (a.decoded_normal(*v).try_normalize()?, b.decoded_normal(*v).try_normalize()?);
            Some(a.dot(b).clamp(-1.0, 1.0).acos().to_degrees())
        })
        .collect();
    super::statistics::median(&mut angles).unwrap_or(0.0)
}

/// Share of vectors of other length from which it is told.
const OFF_LENGTH: f32 = 0.2;

fn length(pass: &Evidence, vectors: &[Vec3]) -> Option<Finding> {
    let off = 1.0 - unit_share(&pass.convention, vectors);
    if off < OFF_LENGTH || pass.repairs.contains(&Repair::SnapEdges) {
        return None;
    }
    let shorter = vectors.iter().filter(|v| pass.convention.decoded_normal(**v).length() < 0.98).count();
    let words = format!(
        "{} of its vectors have another length than 1; they are read as directions only. Where two surfaces \
         meet, short ones are blends of both.",
        percent(f64::from(off))
    );
    let stored = pass.stored.clone();
    let c = pass.convention;
    Some(
        Finding::new(pass, FindingKind::NormalsLength, 0.9, words)
            .costs(format!("{} are too short", percent(shorter as f64 / vectors.len() as f64)))
            .repair("Keep directions, snap blends", Repair::SnapEdges)
            .at(pass, move |i| {
                let v = Vec3::new(stored.plane(0)[i], stored.plane(1)[i], stored.plane(2)[i]);
                v != Vec3::ZERO && (c.decoded_normal(v).length() - 1.0).abs() > 0.02
            }),
    )
}

fn axes(case: &Case, pass: &Evidence) -> Option<Finding> {
    if let Some(turn) = case.turn() {
        return Some(turned_world(case, pass, turn));
    }
    match case.surface() {
        Some(_) => axes_by_surface(case, pass),
        None => axes_by_facing(case, pass).or_else(|| axes_by_bend(pass)),
    }
}

/// Angle that directions may be off in the middle without a word, degrees: what derived directions are off by themselves.
const UNSEEN: f32 = 0.4;

/// Angle that the right axes may leave, degrees: relief and smoothed shading differ from the surface by no more.
const LEFT: f32 = 10.0;

/// Pairs of directions that are compared.
const PAIRS: usize = 3000;

/// A stored direction on its own axes, and the one derived from the surface, camera space.
type Pair = (Vec3, Vec3);

fn pairs(pass: &Evidence, surface: &Surface) -> Vec<Pair> {
    let (r, w) = (&pass.stored, pass.stored.window());
    let all: Vec<Pair> = spread(w.area())
        .filter_map(|i| {
            let (x, y) = w.pixel_at(i);
            let derived = surface.normal(x, y);
            let v = Vec3::new(r.plane(0)[i], r.plane(1)[i], r.plane(2)[i]);
            let stored = pass.convention.decoded_normal(v).try_normalize()?;
            (derived != Vec3::ZERO).then_some((stored, derived))
        })
        .collect();
    super::statistics::thinned(all, PAIRS)
}

/// Middle of the angles between both, degrees, after a change of the stored one.
fn apart_by(pairs: &[Pair], change: impl Fn(Vec3) -> Vec3) -> f32 {
    let mut angles: Vec<f32> =
        pairs.iter().map(|(n, d)| change(*n).dot(*d).clamp(-1.0, 1.0).acos()).collect();
    super::statistics::median(&mut angles).unwrap_or(0.0).to_degrees()
}

/// The axes that leave least, and what they leave; the plain ones unless others are clearly better.
fn best_axes(pairs: &[Pair], into_camera: impl Fn(Vec3) -> Vec3) -> (Axes, f32) {
    let left = |axes: &Axes| apart_by(pairs, |n| into_camera(turned(axes, n)));
    all_axes().map(|a| (a, left(&a))).fold((crate::passes::convention::OWN_AXES, f32::INFINITY), |b, c| {
        if c.1 < 0.8 * b.1 { c } else { b }
    })
}

fn axes_by_surface(case: &Case, pass: &Evidence) -> Option<Finding> {
    let surface = case.surface()?;
    let pairs = pairs(pass, surface);
    if pairs.len() < 300 {
        return None;
    }
    let solved = case.solved().map(|s| s.camera);
    let posed = [case.setting().camera, solved].into_iter().flatten().find(|c| c.world.is_some());
    let in_world = |n: Vec3| posed.map_or(n, |c| c.from_world(n, false));
    let present = match pass.convention.space {
        Space::World => apart_by(&pairs, |n| in_world(turned(&pass.convention.axes, n))),
        Space::Camera => apart_by(&pairs, |n| turned(&pass.convention.axes, n)),
    };
    if present < UNSEEN {
        return None;
    }
    let (own, own_left) = best_axes(&pairs, |n| n);
    let (other, other_left) =
        if posed.is_some() { best_axes(&pairs, in_world) } else { (own, f32::INFINITY) };
    // A camera that looks nearly level turns the world by a few degrees only: what is left decides.
    let (space, axes, left) = if other_left < 0.5 * own_left {
        (Space::World, other, other_left)
    } else {
        (Space::Camera, own, own_left)
    };
    let source = if surface.from_position { "positions" } else { "depth" };
    // Positions that bear out their own camera, or a camera in the header, are the third witness.
    let most = if surface.from_position || case.setting().camera.is_some() { 0.99 } else { 0.85 };
    if left > 0.5 * present || left > LEFT {
        return None;
    }
    let evidence = format!(
        "Directions derived from {source} are {left:.1}° off it in the middle if read so, and {present:.1}° as it is read now."
    );
    let mut found = told(pass, space, axes, (1.0 - left / present).clamp(0.4, most), &evidence);
    // The world can be left only with a camera whose turn is known.
    if let (Space::World, Some(camera)) = (space, posed)
        && case.setting().camera != Some(camera)
        && let Some((_, Remedy::Convention { convention })) = found.remedy
    {
        found = found.camera("Take the camera of the positions and read it so", camera, convention);
    }
    Some(found)
}

fn told(pass: &Evidence, space: Space, axes: Axes, confidence: f32, evidence: &str) -> Finding {
    let c = Convention { space, axes, ..pass.convention };
    let flipped: Vec<&str> =
        axes.iter().zip(["x", "y", "z"]).filter(|(a, _)| a.parts().1 < 0.0).map(|(_, n)| n).collect();
    let in_order = axes.iter().enumerate().all(|(j, a)| a.parts().0 == j);
    let own = axes == crate::passes::convention::OWN_AXES;
    let (kind, what, button) = match space {
        Space::World if pass.convention.space != Space::World => (
            FindingKind::WorldSpace,
            "Its directions are the world's, not the camera's.".to_owned(),
            "Turn into camera space".to_owned(),
        ),
        _ if own => (
            FindingKind::NormalsAxes,
            "Its axes are x, y, z of the camera as they stand in the file.".to_owned(),
            "Read axes as stored".to_owned(),
        ),
        _ if in_order => (
            FindingKind::NormalsAxes,
            format!("Its {} the other way.", list(&flipped)),
            format!("Flip {}", flipped.join(" and ")),
        ),
        _ => {
            let names: Vec<&str> = axes.iter().map(|a| a.label()).collect();
            (
                FindingKind::NormalsAxes,
                format!("Right, up and toward the viewer are its channels {}.", names.join(", ")),
                format!("Read as {}", names.join(", ")),
            )
        }
    };
    Finding::new(pass, kind, confidence, format!("{what} {evidence}"))
        .costs("light from the wrong side")
        .convention(&button, c)
}

fn list(names: &[&str]) -> String {
    match names {
        [one] => format!("{one} axis runs"),
        many => format!("{} axes run", many.join(" and ")),
    }
}

/// Share of directions that look away from the viewer above which they are not the camera's: those of a
/// visible surface look toward it, but for interpolation at rims and relief.
const AWAY: f32 = 0.06;

/// Nothing but the fact that what is seen faces the viewer.
fn axes_by_facing(case: &Case, pass: &Evidence) -> Option<Finding> {
    let (r, w) = (&pass.canonical, pass.canonical.window());
    let viewer = |i: usize| {
        let (x, y) = w.pixel_at(i);
        let at = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
        case.setting().camera.map_or(Vec3::Z, |c| c.toward_viewer(at))
    };
    let normals: Vec<(Vec3, Vec3)> = spread(w.area())
        .map(|i| (Vec3::new(r.plane(0)[i], r.plane(1)[i], r.plane(2)[i]), viewer(i)))
        .filter(|(n, _)| *n != Vec3::ZERO)
        .collect();
    if normals.len() < 300 {
        return None;
    }
    let away = |change: &dyn Fn(Vec3) -> Vec3| {
        normals.iter().filter(|(n, v)| change(*n).dot(*v) < -0.1).count() as f32 / normals.len() as f32
    };
    let present = away(&|n| n);
    if present < AWAY {
        return None;
    }
    let evidence = format!(
        "{} of its directions look away from the viewer, which no visible surface does.",
        percent(f64::from(present))
    );
    let c = &pass.convention;
    if away(&|n| Vec3::new(n.x, n.y, -n.z)) < AWAY / 2.0 {
        let (z, sign) = c.axes[2].parts();
        let axes = [c.axes[0], c.axes[1], Axis::new(z, sign > 0.0)];
        return Some(told(pass, c.space, axes, 0.85, &evidence));
    }
    let camera = case.setting().camera.filter(|k| k.world.is_some() && c.space == Space::Camera)?;
    let turned = away(&|n| camera.from_world(n, false));
    (turned < AWAY / 2.0).then(|| told(pass, Space::World, c.axes, 0.8, &evidence))
}

/// Share by which the bends must disagree to be told.
const BENT: f64 = 0.4;

/// A surface has one height, so how its slope to the right changes downward is how its slope downward changes to the
/// right (the mixed second derivatives are one and the same). Where y runs down instead, they are opposite. Own
/// derivation; seen from afar, so that a slope is `−n.x/n.z`. Both axes flipped cannot be told from a surface turned inside out.
fn axes_by_bend(pass: &Evidence) -> Option<Finding> {
    let (r, w) = (&pass.canonical, pass.canonical.window());
    let normal = |x: i32, y: i32| {
        let n = Vec3::new(r.sample(0, x, y)?, r.sample(1, x, y)?, r.sample(2, x, y)?);
        (n.z > 0.25).then_some(n)
    };
    let (mut alike, mut whole, mut said) = (0f64, 0f64, 0);
    for i in spread(w.area()) {
        let (x, y) = w.pixel_at(i);
        let around = [(x, y), (x + 1, y), (x - 1, y), (x, y + 1), (x, y - 1)].map(|(x, y)| normal(x, y));
        let [Some(m), Some(e), Some(o), Some(s), Some(n)] = around else { continue };
        if [e, o, s, n].iter().any(|v| v.dot(m) < 0.98) {
            continue;
        }
        let across = f64::from(e.y / e.z - o.y / o.z);
        // Rows run down, y runs up.
        let up = f64::from(n.x / n.z - s.x / s.z);
        let weight = across.abs().min(up.abs());
        if weight > 1e-4 {
            alike += weight * (across * up).signum();
            whole += weight;
            said += 1;
        }
    }
    let share = alike / whole.max(1e-12);
    if said < 200 || share > -BENT {
        return None;
    }
    let c = &pass.convention;
    let (y, sign) = c.axes[1].parts();
    let axes = [c.axes[0], Axis::new(y, sign > 0.0), c.axes[2]];
    let evidence = "As it is read now its surfaces bend in ways that no surface can.";
    Some(told(pass, c.space, axes, (0.4 - 0.5 * share as f32).min(0.85), evidence))
}

/// What is said of normals that were found to be of the world.
fn turned_world(case: &Case, pass: &Evidence, turn: &Turn) -> Finding {
    let c = Convention { space: Space::World, axes: OWN_AXES, ..pass.convention };
    let words = format!(
        "Its directions are the world's: turned as a whole they are {:.1}° off those of the depth in the middle, and {:.1}° on \
         the camera's axes. The camera's turn follows from that.",
        turn.left, turn.otherwise
    );
    let most = if case.setting().camera.is_some() { 0.9 } else { 0.85 };
    Finding::new(pass, FindingKind::WorldSpace, most, words).costs("light from the wrong side").camera(
        "Take the camera's turn and read it so",
        turn.camera,
        c,
    )
}
