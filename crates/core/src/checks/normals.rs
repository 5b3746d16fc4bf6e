//! Normals: coding and curve from the lengths of vectors, axes and space from the surface itself.

use super::{Case, Evidence, Finding, FindingKind, percent, spread};
use crate::convention::{Axes, Axis, Convention, Curve, NormalCoding, Space};
use crate::repair::Repair;
use crate::{Camera, Role};
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
    super::median(&mut angles).unwrap_or(0.0)
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

/// Mean agreement from which axes are believed.
const AGREES: f32 = 0.8;

fn axes(case: &Case, pass: &Evidence) -> Option<Finding> {
    match case.surface() {
        Some(_) => axes_by_surface(case, pass),
        None => axes_by_facing(case, pass),
    }
}

/// Sums of products of stored and derived axes: the mean agreement of any choice of axes follows from them.
#[derive(Default)]
struct Products {
    sums: [[f64; 3]; 3],
    count: usize,
}

impl Products {
    fn add(&mut self, stored: Vec3, derived: Vec3) {
        for (i, row) in self.sums.iter_mut().enumerate() {
            for (j, sum) in row.iter_mut().enumerate() {
                *sum += f64::from(stored[i] * derived[j]);
            }
        }
        self.count += 1;
    }

    fn agreement(&self, axes: &Axes) -> f32 {
        let sum: f64 = axes
            .iter()
            .enumerate()
            .map(|(j, a)| {
                let (i, sign) = a.parts();
                self.sums[i][j] * f64::from(sign)
            })
            .sum();
        (sum / self.count.max(1) as f64) as f32
    }

    fn best(&self) -> (Axes, f32) {
        crate::solve::all_axes().map(|a| (a, self.agreement(&a))).fold(
            (crate::convention::OWN_AXES, f32::NEG_INFINITY),
            |b, c| if c.1 > b.1 + 1e-4 { c } else { b },
        )
    }
}

fn axes_by_surface(case: &Case, pass: &Evidence) -> Option<Finding> {
    let surface = case.surface()?;
    let (r, w) = (&pass.stored, pass.stored.window());
    let (mut own, mut turned) = (Products::default(), Products::default());
    // A rotation of the camera turns the derived directions into the world's.
    let solved = case.solved().map(|s| s.camera);
    let world = [case.setting.camera, solved].into_iter().flatten().find(|c| c.world.is_some());
    for i in spread(w.area()) {
        let (x, y) = w.pixel_at(i);
        let derived = surface.normal(x, y);
        let stored = pass.convention.decoded_normal(Vec3::new(r.plane(0)[i], r.plane(1)[i], r.plane(2)[i]));
        let Some(stored) = stored.try_normalize().filter(|_| derived != Vec3::ZERO) else { continue };
        own.add(stored, derived);
        if let Some(c) = &world {
            turned.add(stored, to_world(c, derived));
        }
    }
    if own.count < 300 {
        return None;
    }
    let table = |space: Space| if space == Space::World && world.is_some() { &turned } else { &own };
    let present = table(pass.convention.space).agreement(&pass.convention.axes);
    let (camera_axes, camera_score) = own.best();
    let (world_axes, world_score) = if world.is_some() { turned.best() } else { (camera_axes, -1.0) };
    // What is left unexplained is what counts: a camera that looks nearly level turns the world by a few
    // degrees only, and both agree well.
    let (space, axes, score) = if 1.0 - world_score < 0.6 * (1.0 - camera_score) {
        (Space::World, world_axes, world_score)
    } else {
        (Space::Camera, camera_axes, camera_score)
    };
    if score < AGREES || 1.0 - score > 0.5 * (1.0 - present) || score - present < 0.006 {
        return None;
    }
    let source = if surface.from_position { "positions" } else { "depth" };
    let evidence = format!(
        "Directions derived from {source} agree with it to {score:.3} so read, and to {present:.3} as it is read now."
    );
    let confidence = (1.0 - (1.0 - score) / (1.0 - present)).clamp(0.4, 0.99);
    Some(told(pass, space, axes, confidence, &evidence))
}

fn to_world(camera: &Camera, v: Vec3) -> Vec3 {
    let Some(m) = camera.world else { return v };
    // The inverse of a rotation is its transpose.
    Vec3::from(std::array::from_fn(|c| m[c] * v.x + m[4 + c] * v.y + m[8 + c] * v.z))
}

fn told(pass: &Evidence, space: Space, axes: Axes, confidence: f32, evidence: &str) -> Finding {
    let c = Convention { space, axes, ..pass.convention };
    let flipped: Vec<&str> =
        axes.iter().zip(["x", "y", "z"]).filter(|(a, _)| a.parts().1 < 0.0).map(|(_, n)| n).collect();
    let in_order = axes.iter().enumerate().all(|(j, a)| a.parts().0 == j);
    let own = axes == crate::convention::OWN_AXES;
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
            format!("Its {} runs the other way.", list(&flipped)),
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
        [one] => format!("{one} axis"),
        many => format!("{} axes", many.join(" and ")),
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
        case.setting.camera.map_or(Vec3::Z, |c| c.toward_viewer(at))
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
    let camera = case.setting.camera.filter(|k| k.world.is_some() && c.space == Space::Camera)?;
    let turned = away(&|n| camera.from_world(n, false));
    (turned < AWAY / 2.0).then(|| told(pass, Space::World, c.axes, 0.8, &evidence))
}
