//! UV: which way it runs, where it lies, and whether a curve is on it.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind, percent};
use crate::Role;
use crate::passes::convention::{Convention, Curve, UvOrigin, Wrap};

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.role != Role::Uv || pass.canonical.channels() < 2 {
        return Vec::new();
    }
    [curve(case, pass), flipped(pass), range(pass)].into_iter().flatten().collect()
}

/// Neighbouring samples (middle, right, below) of one smooth patch, canonical.
fn patches(pass: &Evidence) -> Vec<[[f32; 2]; 3]> {
    let r = &pass.canonical;
    let (w, h) = (r.window().width as usize, r.window().height as usize);
    let at = |i: usize| [r.plane(0)[i], r.plane(1)[i]];
    let close = |a: [f32; 2], b: [f32; 2]| (a[0] - b[0]).abs() < 0.05 && (a[1] - b[1]).abs() < 0.05;
    super::statistics::spread(w * h)
        .filter(|i| i % w + 1 < w && i / w + 1 < h)
        .map(|i| [at(i), at(i + 1), at(i + w)])
        .filter(|p| p.iter().all(|v| *v != [0.0, 0.0]) && close(p[0], p[1]) && close(p[0], p[2]))
        .collect()
}

/// Share of one orientation from which UV counts as flipped: mirrored islands are ordinary, a mirrored
/// whole is not.
const ONE_WAY: f64 = 0.75;

/// On a surface seen from its front, v runs up where u runs right: `∂u/∂x·∂v/∂y − ∂u/∂y·∂v/∂x` is negative,
/// since rows run down.
fn flipped(pass: &Evidence) -> Option<Finding> {
    let patches = patches(pass);
    let turns: Vec<f32> = patches
        .iter()
        .map(|[m, r, d]| (r[0] - m[0]) * (d[1] - m[1]) - (d[0] - m[0]) * (r[1] - m[1]))
        .filter(|t| t.abs() > 1e-12)
        .collect();
    if turns.len() < 200 {
        return None;
    }
    let wrong = turns.iter().filter(|t| **t > 0.0).count() as f64 / turns.len() as f64;
    if wrong < ONE_WAY {
        return None;
    }
    let other = if pass.convention.uv_origin == UvOrigin::Bottom { UvOrigin::Top } else { UvOrigin::Bottom };
    let words = format!(
        "On {} of it a texture would be seen mirrored: its v runs down, from the top.",
        percent(wrong)
    );
    Some(
        Finding::new(pass, FindingKind::UvFlipped, wrong as f32 * 0.95, words)
            .costs("textures upside down")
            .convention("Flip v", Convention { uv_origin: other, ..pass.convention }),
    )
}

/// Share outside 0..1 that is told: rounding at a seam is not.
const OUTSIDE: f64 = 0.005;

fn range(pass: &Evidence) -> Option<Finding> {
    let r = &pass.canonical;
    let area = r.window().area();
    let out = |i: usize| (0..2).any(|c| !(-1e-3..=1.001).contains(&r.plane(c)[i]));
    let count = (0..area).filter(|&i| out(i)).count();
    let share = count as f64 / area.max(1) as f64;
    if share < OUTSIDE {
        return None;
    }
    let ends = |c: usize| r.plane(c).iter().fold((f32::MAX, f32::MIN), |(a, b), v| (a.min(*v), b.max(*v)));
    let ((u0, u1), (v0, v1)) = (ends(0), ends(1));
    let words = format!(
        "{} of it lies outside 0..1 (u {u0:.2} to {u1:.2}, v {v0:.2} to {v1:.2}): tiles of a layout, or a texture that repeats.",
        percent(share)
    );
    Some(
        Finding::new(pass, FindingKind::UvRange, 0.9, words)
            .costs("no texture there")
            .convention("Repeat the texture", Convention { uv_wrap: Wrap::Repeat, ..pass.convention })
            .at(pass, out),
    )
}

/// How much smaller the bends must be without a curve for it to be believed.
const STRAIGHTER: f64 = 0.6;

/// Across a patch UV runs nearly straight; a display curve bends it. Compares the sum of second differences
/// with that of first ones, for each way of taking a curve off; on flat surfaces where they are known (our
/// own derivation).
fn curve(case: &Case, pass: &Evidence) -> Option<Finding> {
    let r = &pass.stored;
    if r.channels() < 2 {
        return None;
    }
    let triples = triples(case, pass);
    let bends = |c: &Convention| {
        let (mut bend, mut run) = (0f64, 0f64);
        for plane in [r.plane(0), r.plane(1)] {
            for t in &triples {
                let [a, b, d] = [plane[t.from], plane[t.middle], plane[t.to]];
                // Dark values bend most, and one patch only.
                let one = [a, b, d].iter().all(|v| (0.005..=1.0).contains(v));
                if one && (2e-3..0.4).contains(&(a - d).abs()) {
                    let [a, b, d] = [a, b, d].map(|v| f64::from(c.uncurved(v)));
                    bend += (b - (a + (d - a) * f64::from(t.share))).abs();
                    run += (d - a).abs();
                }
            }
        }
        if run > 0.0 { bend / run } else { 0.0 }
    };
    let present = bends(&pass.convention);
    let ways = [Curve::None, Curve::SrgbApplied, Curve::SrgbRemoved].map(|curve| {
        let c = Convention { curve, ..pass.convention };
        (bends(&c), c)
    });
    let (best, c) = ways.into_iter().min_by(|a, b| a.0.total_cmp(&b.0))?;
    if present < 1e-3 || best > present * STRAIGHTER {
        return None;
    }
    let (what, button) = match c.curve {
        Curve::SrgbApplied => ("A display curve (sRGB) was put on it", "Take the curve off"),
        Curve::SrgbRemoved => ("A display curve (sRGB) was taken off it", "Put the curve back"),
        Curve::None => ("It has no curve on it", "Read without a curve"),
    };
    let words = format!(
        "{what}: read so, coordinates run {:.1} times as straight across surfaces.",
        present / best.max(1e-9)
    );
    let confidence = (1.0 - best / present) as f32;
    Some(
        Finding::new(pass, FindingKind::ColourManaged, confidence, words)
            .costs("textures slide by up to a tenth of their width")
            .convention(button, c),
    )
}

/// Three samples in a row on one surface, and where between the outer ones the middle one lies.
struct Triple {
    from: usize,
    middle: usize,
    to: usize,
    share: f32,
}

fn triples(case: &Case, pass: &Evidence) -> Vec<Triple> {
    let window = pass.stored.window();
    let (w, h) = (window.width as usize, window.height as usize);
    let reach = (w / 40).max(4);
    let at = |i: usize| window.pixel_at(i);
    super::statistics::spread(w * h)
        .flat_map(|i| [(i, true), (i, false)])
        .filter_map(|(i, across)| {
            let stride = if across { reach } else { reach * w };
            let inside =
                if across { i % w >= reach && i % w + reach < w } else { i >= stride && i + stride < w * h };
            if !inside {
                return None;
            }
            let (from, to) = (i - stride, i + stride);
            let Some(surface) = case.surface() else {
                return Some(Triple { from, middle: i, to, share: 0.5 });
            };
            let ([a, b, d], [p, q, s]) = (
                [from, i, to].map(|j| surface.normal(at(j).0, at(j).1)),
                [from, i, to].map(|j| surface.position(at(j).0, at(j).1)),
            );
            // One plane, and the places on one line of it; then coordinates go evenly along that line.
            let flat =
                a.dot(b) > 0.9998 && d.dot(b) > 0.9998 && (s - p).dot(b).abs() < 1e-3 * (s - p).length();
            let share = (q - p).length() / (s - p).length();
            (flat && share.is_finite()).then_some(Triple { from, middle: i, to, share })
        })
        .collect()
}
