//! Motion: coding, scale and sign, measured by warping.
//!
//! The picture of this frame, followed along its vectors, must be found in the next one. The scale and sign
//! that leave the smallest difference are the right ones (our own derivation); without a next frame only
//! the coding can be told.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind};
use super::statistics::{median, spread};
use crate::passes::convention::{Convention, MotionTime, MotionUnit, MotionY, NormalCoding, canonical};
use crate::{Cancel, Raster, Role};

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.role != Role::Motion || pass.stored.channels() < 2 {
        return Vec::new();
    }
    let coding = coding(case, pass);
    let measured = match (case.pass(Role::Beauty), &case.passes.next) {
        (Some(now), Some(next)) => scale(case, pass, &coding, &now.canonical, next),
        _ => Measured::Nothing,
    };
    match measured {
        Measured::Right => Vec::new(),
        Measured::Other(found) => vec![*found],
        Measured::Nothing => centred(pass, &coding).into_iter().collect(),
    }
}

/// What following a picture along its vectors says.
enum Measured {
    /// They lead to the next frame as they are read.
    Right,
    /// They do if they are read otherwise.
    Other(Box<Finding>),
    /// Too little moves to tell.
    Nothing,
}

/// What the values themselves say of their coding.
enum Coding {
    Signed,
    /// And how sure that is.
    RoundHalf(f32),
    Unknown,
}

/// Values of 0..1 that crowd round ½ are coded; signed motion crowds round 0. Where the camera moves, nearly everything does:
/// then what is nothing tells, which stands still. With neither, values well inside 0..1 on both axes are likely coded.
fn coding(case: &Case, pass: &Evidence) -> Coding {
    let (surfaces, nothing) = motion_values(case, pass);
    let all = || surfaces.iter().chain(&nothing).flatten();
    if surfaces[0].is_empty() {
        return Coding::Unknown;
    }
    if !all().all(|v| (0.0..=1.0).contains(v)) {
        return Coding::Signed;
    }
    let near = |v: &[f32], to: f32| v.iter().filter(|v| (**v - to).abs() < 0.01).count() * 20 > v.len() * 19;
    let middle =
        |off: f32| surfaces.iter().all(|v| median(&mut v.clone()).is_some_and(|m| (m - 0.5).abs() < off));
    if nothing[0].len() > 50 {
        return match [0.5, 0.0].map(|to| nothing.iter().all(|v| near(v, to))) {
            [true, _] => Coding::RoundHalf(0.9),
            [_, true] => Coding::Signed,
            _ => Coding::Unknown,
        };
    }
    // In px, all of a picture would have to go the same way by about half a pixel.
    match middle(0.02) {
        true => Coding::RoundHalf(0.85),
        false if middle(0.35) && all().all(|v| (0.02..=0.98).contains(v)) => Coding::RoundHalf(0.7),
        false => Coding::Unknown,
    }
}

/// Values round ½ that are not read so.
fn centred(pass: &Evidence, coding: &Coding) -> Option<Finding> {
    let Coding::RoundHalf(sure) = *coding else { return None };
    if pass.convention.motion_coding == NormalCoding::ZeroToOne {
        return None;
    }
    let convention = Convention { motion_coding: NormalCoding::ZeroToOne, ..pass.convention };
    let words = "Its values lie in 0..1 and crowd round ½, so ½ is no motion. The scale is not known: it takes the next frame, or the renderer's setting.";
    Some(
        Finding::new(pass, FindingKind::MotionScale, sure, words)
            .costs("everything seems to move one way")
            .convention("Read ½ as no motion", convention),
    )
}

/// Stored values of both axes where the picture shows something, and where it shows nothing.
fn motion_values(case: &Case, pass: &Evidence) -> ([Vec<f32>; 2], [Vec<f32>; 2]) {
    let alpha = case.pass(Role::Beauty).map(|b| &b.canonical).filter(|b| b.channels() > 3);
    let w = pass.stored.window();
    let (mut surfaces, mut nothing) = ([Vec::new(), Vec::new()], [Vec::new(), Vec::new()]);
    for i in spread(w.area()) {
        let (x, y) = w.pixel_at(i);
        let open = alpha.and_then(|a| a.sample(3, x, y)).is_some_and(|a| a <= 0.0);
        let into = if open { &mut nothing } else { &mut surfaces };
        for (c, into) in into.iter_mut().enumerate() {
            into.extend(Some(pass.stored.plane(c)[i]).filter(|v| v.is_finite()));
        }
    }
    (surfaces, nothing)
}

/// A pixel that is followed: where it is, and its brightness.
#[derive(Clone)]
struct Followed {
    x: i32,
    y: i32,
    brightness: f32,
}

/// Most pixels that are followed: the measure is a mean, and so many settle it.
const MOST: usize = 12_000;

/// Motion of this size (px, in the scale tried) is what is looked for.
const REACH: f32 = 48.0;

/// The right scale must leave less than this share of the difference.
const CLEARLY: f64 = 0.85;

/// A reading that explains this share of what the best one does may be right itself.
const MUCH: f64 = 0.6;

/// An ordinary convention that explains this share of what the best factors do is likelier than they are.
const AS_GOOD: f64 = 0.9;

fn scale(case: &Case, pass: &Evidence, coding: &Coding, now: &Raster, next: &Raster) -> Measured {
    let next = brightness(next);
    let places = places(pass, now, &next);
    let as_read = motion_at(&pass.canonical, &places);
    let still = vec![[0.0; 2]; places.len()];
    let [present, still] = [&as_read, &still].map(|v| error(&places, v, &next, [1.0, 1.0]));
    let (Some(present), Some(still)) = (present, still) else { return Measured::Nothing };
    // Of what standing still leaves, a right reading explains about as much as the best.
    let clearly = |left: f64| left < present * CLEARLY && still - present < MUCH * (still - left);
    let readings = readings(case, pass, coding);
    let found = other_reading(case, &readings, &places, &next);
    if let Some((left, convention)) = found.filter(|(left, _)| clearly(*left))
        && both_halves(case, pass, &readings, &places, &next)
    {
        let words = format!(
            "Followed along its vectors, the picture is found in the next frame if they are read as {}: the difference falls to {:.0} % of what it is now.",
            in_words(&convention),
            100.0 * left / present
        );
        let sure = (1.0 - left / present) as f32 * 0.5 + 0.5;
        let found = Finding::new(pass, FindingKind::MotionScale, sure, words)
            .costs("blur of another length or direction than the motion")
            .convention("Set scale and direction", convention);
        return Measured::Other(Box::new(found));
    }
    // Vectors that lead hardly nearer than standing still say nothing for the way they are read.
    if present < still * CLEARLY { Measured::Right } else { Measured::Nothing }
}

/// The pass in px to the next frame, in each coding that may be its own, with the convention of that.
fn readings(case: &Case, pass: &Evidence, coding: &Coding) -> Vec<(Convention, Raster)> {
    // Where the camera moves, nearly all goes one way, and vectors round ½ fit as well as vectors round 0: their values tell first.
    let codings: &[NormalCoding] = match coding {
        Coding::Signed => &[NormalCoding::Signed],
        Coding::RoundHalf(_) => &[NormalCoding::ZeroToOne],
        Coding::Unknown => &[NormalCoding::Signed, NormalCoding::ZeroToOne],
    };
    let read = |&coding| {
        let base = in_px(pass, coding);
        let read = canonical(&pass.stored, Role::Motion, &base, case.setting(), &Cancel::new()).ok()?;
        Some((base, read))
    };
    codings.iter().filter_map(read).collect()
}

/// The reading that leaves the least difference, and how much.
fn other_reading(
    case: &Case,
    readings: &[(Convention, Raster)],
    places: &[Followed],
    next: &Raster,
) -> Option<(f64, Convention)> {
    let still = error(places, &vec![[0.0; 2]; places.len()], next, [1.0, 1.0])?;
    let mut best: Option<(f64, Convention)> = None;
    for (base, read) in readings {
        let vectors = motion_at(read, places);
        let Some((left, s)) = searched(places, &vectors, next) else { continue };
        let as_good = |p: [f32; 2]| {
            error(places, &vectors, next, p).is_some_and(|e| still - e > AS_GOOD * (still - left))
        };
        let s = plain(s, case).find(|&p| as_good(p)).unwrap_or(s);
        if best.as_ref().is_none_or(|(b, _)| left < *b * 0.9) {
            best = Some((left, named(*base, s, case)));
        }
    }
    best
}

/// Px to the next frame, y down, in a coding.
fn in_px(pass: &Evidence, coding: NormalCoding) -> Convention {
    Convention {
        motion_coding: coding,
        motion_scale: [1.0; 2],
        motion_unit: MotionUnit::Px,
        motion_y: MotionY::Down,
        motion_time: MotionTime::Forward,
        ..pass.convention
    }
}

/// Side of the squares of a picture whose halves are compared, px.
const SQUARE: i32 = 8;

/// Whether what one half of the places says holds for the other, square by square like a chessboard: in a small picture some
/// reading always fits the few places that there are.
fn both_halves(
    case: &Case,
    pass: &Evidence,
    readings: &[(Convention, Raster)],
    places: &[Followed],
    next: &Raster,
) -> bool {
    let dark = |p: &Followed| (p.x.div_euclid(SQUARE) + p.y.div_euclid(SQUARE)) % 2 == 0;
    let (a, b): (Vec<Followed>, Vec<Followed>) = places.iter().cloned().partition(dark);
    let holds = |from: &[Followed], on: &[Followed]| {
        let (_, convention) = other_reading(case, readings, from, next)?;
        let read = canonical(&pass.stored, Role::Motion, &convention, case.setting(), &Cancel::new()).ok()?;
        let left = error(on, &motion_at(&read, on), next, [1.0, 1.0])?;
        let present = error(on, &motion_at(&pass.canonical, on), next, [1.0, 1.0])?;
        Some(left < present * CLEARLY)
    };
    [(&a, &b), (&b, &a)].into_iter().all(|(from, on)| holds(from, on) == Some(true))
}

/// Factors of ordinary conventions near the measured ones: where little moves on an axis, that axis is
/// measured badly, and what is ordinary is likelier.
fn plain([sx, sy]: [f32; 2], case: &Case) -> impl Iterator<Item = [f32; 2]> {
    let (w, h) = (case.setting().display.width as f32, case.setting().display.height as f32);
    let (two, own) = (sx.abs().log2().round().exp2(), figure(sx.abs()));
    [[1.0, 1.0], [w, h], [w, w], [w * 0.5, h * 0.5], [h, h], [two, two], [own, own]]
        .into_iter()
        .filter(move |p| (sx.abs() / p[0]).ln().abs() < 0.3)
        .map(move |p| [p[0].copysign(sx), p[1].copysign(sy)])
}

/// The convention that says in its own words what the factors say.
fn named(base: Convention, [sx, sy]: [f32; 2], case: &Case) -> Convention {
    let (w, h) = (case.setting().display.width as f32, case.setting().display.height as f32);
    let is = |v: f32, size: f32| (v.abs() / size - 1.0).abs() < 0.05;
    let (motion_unit, unit) = if is(sx, w) && is(sy, h) {
        (MotionUnit::Size, [w, h])
    } else if is(sx, w) && is(sy, w) {
        (MotionUnit::Width, [w, w])
    } else {
        (MotionUnit::Px, [1.0, 1.0])
    };
    let back = sx < 0.0;
    let up = (sy < 0.0) != back;
    Convention {
        motion_unit,
        motion_time: if back { MotionTime::Backward } else { MotionTime::Forward },
        motion_y: if up { MotionY::Up } else { MotionY::Down },
        motion_scale: [figure(sx.abs() / unit[0]), figure(sy.abs() / unit[1])],
        ..base
    }
}

fn in_words(c: &Convention) -> String {
    let mut words = vec![
        c.motion_unit.label().to_owned(),
        c.motion_time.label().to_owned(),
        format!("y {}", c.motion_y.label()),
    ];
    if c.motion_coding == NormalCoding::ZeroToOne {
        words.push("½ for no motion".into());
    }
    if c.motion_scale != [1.0; 2] {
        words.push(format!("times {} and {}", c.motion_scale[0], c.motion_scale[1]));
    }
    words.join(", ")
}

/// One plane: the sum of red, green and blue, each brought below 1 so that a few bright edges and their noise do not outweigh all else.
fn brightness(picture: &Raster) -> Raster {
    let mut out = Raster::zeros(picture.window(), 1);
    for c in 0..picture.channels().min(3) {
        let bounded = picture.plane(c).iter().map(|v| v.max(0.0) / (1.0 + v.max(0.0)));
        out.plane_mut(0).iter_mut().zip(bounded).for_each(|(sum, v)| *sum += v);
    }
    out
}

/// Pixels where something changes from frame to frame and from pixel to pixel (elsewhere every motion
/// fits), evenly spread, with their brightness. The same for every reading, so that their errors compare.
fn places(pass: &Evidence, now: &Raster, next: &Raster) -> Vec<Followed> {
    let w = pass.canonical.window();
    let now = brightness(now);
    // What most of the pass holds is what stands still, in any coding: what a moving thing uncovers is found
    // nowhere.
    let still = [0, 1].map(|c| {
        let mut v: Vec<f32> =
            spread(w.area()).map(|i| pass.stored.plane(c)[i]).filter(|v| v.is_finite()).collect();
        median(&mut v).unwrap_or(0.0)
    });
    let all: Vec<Followed> = (0..w.area())
        .filter(|&i| (0..2).any(|c| pass.stored.plane(c)[i] != still[c]))
        .filter_map(|i| {
            let (x, y) = w.pixel_at(i);
            let b = now.sample(0, x, y)?;
            let slope = (now.sample(0, x + 1, y)? - b).abs() + (now.sample(0, x, y + 1)? - b).abs();
            let change = (next.sample(0, x, y)? - b).abs();
            (slope > 0.01 && change > 0.03).then_some(Followed { x, y, brightness: b })
        })
        .collect();
    let step = all.len().div_ceil(MOST).max(1);
    all.into_iter().step_by(step).collect()
}

fn motion_at(motion: &Raster, places: &[Followed]) -> Vec<[f32; 2]> {
    places.iter().map(|p| [0, 1].map(|c| motion.sample(c, p.x, p.y).unwrap_or(0.0))).collect()
}

/// Mean difference when followed with factors on the two axes; bounded for each pixel, since what is
/// uncovered is found nowhere.
fn error(places: &[Followed], motion: &[[f32; 2]], next: &Raster, s: [f32; 2]) -> Option<f64> {
    let (mut sum, mut count) = (0f64, 0usize);
    for (p, m) in places.iter().zip(motion) {
        let at = [p.x as f32 + s[0] * m[0], p.y as f32 + s[1] * m[1]];
        let Some(there) = bilinear(next, at) else { continue };
        sum += f64::from((there - p.brightness).abs().min(0.5));
        count += 1;
    }
    (count > 100 && count * 2 > places.len()).then(|| sum / count as f64)
}

fn bilinear(r: &Raster, at: [f32; 2]) -> Option<f32> {
    if !(at[0].abs() < 1e6 && at[1].abs() < 1e6) {
        return None;
    }
    let (x, y) = (at[0].floor(), at[1].floor());
    let (fx, fy) = (at[0] - x, at[1] - y);
    let px = |x: f32, y: f32| r.sample(0, x as i32, y as i32);
    let top = px(x, y)? * (1.0 - fx) + px(x + 1.0, y)? * fx;
    let low = px(x, y + 1.0)? * (1.0 - fx) + px(x + 1.0, y + 1.0)? * fx;
    Some(top * (1.0 - fy) + low * fy)
}

/// The factors that leave least: a ladder of sizes with every sign, then ever finer steps. Both axes go together, as they do in every
/// ordinary convention: with a factor for each, some pair always fits the few pixels of a small picture.
fn searched(places: &[Followed], motion: &[[f32; 2]], next: &Raster) -> Option<(f64, [f32; 2])> {
    let mut sizes: Vec<f32> = motion.iter().map(|m| m[0].hypot(m[1])).filter(|v| *v > 1e-9).collect();
    let typical = median(&mut sizes)?;
    let flat = next.window().height as f32 / next.window().width.max(1) as f32;
    let mut best: Option<(f64, [f32; 2])> = None;
    let try_one = |best: &mut Option<(f64, [f32; 2])>, s: [f32; 2]| {
        if let Some(e) = error(places, motion, next, s)
            && best.is_none_or(|b| e < b.0)
        {
            *best = Some((e, s));
        }
    };
    // From a quarter of a pixel to the reach, a quarter more each time.
    let mut size = 0.25;
    while size < REACH {
        for (sx, sy) in [(1.0, 1.0), (1.0, -1.0), (-1.0, 1.0), (-1.0, -1.0)] {
            // Both axes alike, or by width and height.
            try_one(&mut best, [sx * size / typical, sy * size / typical]);
            try_one(&mut best, [sx * size / typical, sy * size / typical * flat]);
        }
        size *= 1.25;
    }
    let mut step = 0.2;
    while step > 0.004 {
        let (_, at) = best?;
        for k in [1.0 + step, 1.0 - step] {
            try_one(&mut best, at.map(|s| s * k));
        }
        if best.is_some_and(|b| b.1 == at) {
            step *= 0.5;
        }
    }
    best
}

/// A small whole number (or one over it) where the measure is within 4 % of one; else three figures.
fn figure(v: f32) -> f32 {
    for near in [v.round(), 1.0 / (1.0 / v).round()] {
        if (1.0 / 64.0..=64.0).contains(&near) && (v / near - 1.0).abs() < 0.04 {
            return near;
        }
    }
    let digits = 10f32.powf(2.0 - v.abs().max(1e-12).log10().floor());
    (v * digits).round() / digits
}
