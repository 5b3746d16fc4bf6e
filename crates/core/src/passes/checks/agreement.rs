//! Passes that do not lie on the picture: another size, or moved.
//!
//! The place is found by phase correlation (Kuglin & Hines 1975) of edges: those of the picture with those
//! of the pass.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind};
use crate::passes::repair::Repair;
use crate::{Raster, Role, Window};
use rustfft::num_complex::Complex;
use rustfft::{FftDirection, FftPlanner};

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    let Some(beauty) = case.pass(Role::Beauty).filter(|b| b.id != pass.id) else { return Vec::new() };
    if let Some(found) = size(case, pass, beauty) {
        return vec![found];
    }
    by_data(case, pass).or_else(|| place(pass, beauty)).into_iter().collect()
}

/// Farthest move that is looked for between passes whose edges lie on whole pixels, px.
const NEAR: i32 = 3;

/// Share of the edges that must lie on others' if it is moved, and by how much more than as it lies.
const ON_OTHERS: f32 = 0.6;
const CLEARLY: f32 = 1.4;

/// Data is not filtered, so that the edges of its passes lie on the very same pixels: a pass whose edges lie on those of
/// two others only if it is moved, or turned upside down, was moved or turned.
fn by_data(case: &Case, pass: &Evidence) -> Option<Finding> {
    let window = pass.canonical.window();
    let data = |p: &&Evidence| {
        matches!(p.role, Role::Depth | Role::Normal | Role::Position | Role::Uv | Role::ObjectId)
            && p.canonical.window() == window
    };
    let others: Vec<&Evidence> = case.passes.each.iter().filter(data).filter(|p| p.id != pass.id).collect();
    if !data(&pass) || others.len() < 2 {
        return None;
    }
    let found = |p: &Evidence| case.steps(p, || steps(p));
    let own = found(pass);
    let mut all = vec![false; own.len()];
    others.iter().for_each(|p| all.iter_mut().zip(found(p)).for_each(|(a, s)| *a |= s));
    let (w, h) = (window.width as i32, window.height as i32);
    let marks: Vec<(i32, i32)> =
        (0..own.len()).filter(|&i| own[i]).map(|i| (i as i32 % w, i as i32 / w)).collect();
    if marks.len() < 80 {
        return None;
    }
    let on = |map: &dyn Fn(i32, i32) -> (i32, i32)| {
        let (mut hits, mut inside) = (0, 0);
        for &(x, y) in &marks {
            let (x, y) = map(x, y);
            if (0..w).contains(&x) && (0..h).contains(&y) {
                inside += 1;
                hits += usize::from(all[(y * w + x) as usize]);
            }
        }
        if inside * 2 > marks.len() { hits as f32 / inside as f32 } else { 0.0 }
    };
    let as_is = on(&|x, y| (x, y));
    let moves = (-NEAR..=NEAR).flat_map(|dy| (-NEAR..=NEAR).map(move |dx| (dx, dy)));
    let (moved, by) = moves
        .map(|(dx, dy)| (on(&|x, y| (x + dx, y + dy)), (dx, dy)))
        .fold((0.0, (0, 0)), |a, b| if b.0 > a.0 { b } else { a });
    // Edges between rows are marked on the upper one, which is the lower one upside down.
    let over = on(&|x, y| (x, h - 1 - y)).max(on(&|x, y| (x, h - 2 - y)));
    if over > ON_OTHERS && over > 1.8 * as_is.max(moved * 0.8) {
        let words = format!(
            "Its edges lie on those of the other passes only upside down ({} of them, against {} as it is).",
            super::finding::percent(over.into()),
            super::finding::percent(as_is.into())
        );
        return Some(
            Finding::new(pass, FindingKind::Disagrees, 0.95, words)
                .costs("nothing of it is where the picture is")
                .repair("Turn it upside down", Repair::FlipRows),
        );
    }
    (by != (0, 0) && moved > ON_OTHERS && moved > CLEARLY * as_is)
        .then(|| told(pass, by, (0.5 + 0.5 * moved).min(0.95)))
}

/// Where neighbours to the right or below lie on another surface.
fn steps(pass: &Evidence) -> Vec<bool> {
    let (r, role) = (&pass.canonical, pass.role);
    let (w, h) = (r.window().width as usize, r.window().height as usize);
    let n = r.channels().min(3);
    // Small round things change much from pixel to pixel without an edge.
    let least = if role == Role::Depth { 0.18 } else { 0.6 };
    let at = |i: usize| -> [f32; 3] { std::array::from_fn(|c| if c < n { r.plane(c)[i] } else { 0.0 }) };
    // On one processor, as all that a case makes once.
    (0..w * h)
        .map(|i| {
            let beside = |j: usize| apart(role, at(i), at(j)) > least;
            (i % w + 1 < w && beside(i + 1)) || (i + w < w * h && beside(i + w))
        })
        .collect()
}

fn size(case: &Case, pass: &Evidence, beauty: &Evidence) -> Option<Finding> {
    let (p, b, display) = (pass.stored.window(), beauty.stored.window(), case.setting().display);
    let same = (p.width, p.height) == (b.width, b.height);
    // A data window inside the frame that does not start at its corner is a crop, not another size.
    let crop = display.covers(&p) && (p.x, p.y) != (display.x, display.y);
    if same || crop || p.covers(&b) || p == display {
        return None;
    }
    let ratio = f64::from(p.width) / f64::from(b.width.max(1));
    let stretched = (f64::from(p.height) / f64::from(b.height.max(1)) / ratio - 1.0).abs() > 0.02;
    let words = format!(
        "It is {}×{} px and the picture {}×{} px{}.",
        p.width,
        p.height,
        b.width,
        b.height,
        if stretched { ", of another shape" } else { "" }
    );
    let cost = format!("each of its samples stands for {:.2} px", 1.0 / ratio);
    let finding = Finding::new(pass, FindingKind::Disagrees, if stretched { 0.7 } else { 0.98 }, words);
    Some(finding.costs(cost).repair("Stretch to the frame", Repair::Fit))
}

/// Longest side of the piece that is compared, px.
const PIECE: u32 = 512;

/// Farthest move that is looked for, px.
const REACH: i32 = 40;

fn place(pass: &Evidence, beauty: &Evidence) -> Option<Finding> {
    if matches!(pass.role, Role::Other | Role::Beauty | Role::Motion | Role::StMap | Role::Height) {
        return None;
    }
    let shared = pass.canonical.window().intersect(&beauty.canonical.window());
    let piece = middle(shared)?;
    let a = edges(&beauty.canonical, Role::Beauty, piece);
    let b = edges(&pass.canonical, pass.role, piece);
    let peak = correlate(a, b, piece)?;
    let (x, y) = peak.at;
    let far = x.abs().max(y.abs());
    // Next to none is the rounding of edges that lie between pixels.
    if far < 2 || peak.height < 2.2 * peak.at_zero || peak.height < 8.0 * peak.noise {
        return None;
    }
    let confidence = (0.5 + 0.1 * (peak.height / peak.at_zero.max(peak.noise)).min(4.5)).min(0.95);
    Some(told(pass, (x, y), confidence))
}

fn told(pass: &Evidence, (x, y): (i32, i32), confidence: f32) -> Finding {
    let side =
        |v: i32, plus: &str, minus: &str| format!("{} px {}", v.abs(), if v < 0 { minus } else { plus });
    let words = format!(
        "Its edges lie on the picture's if it is moved by {} and {}.",
        side(x, "to the right", "to the left"),
        side(y, "down", "up")
    );
    Finding::new(pass, FindingKind::Disagrees, confidence, words)
        .costs(format!("{:.0} px off at every edge", (x as f32).hypot(y as f32)))
        .repair("Move it there", Repair::Shift { x, y })
}

fn middle(w: Window) -> Option<Window> {
    let (width, height) = (w.width.min(PIECE), w.height.min(PIECE));
    let piece = Window::new(
        w.x + ((w.width - width) / 2) as i32,
        w.y + ((w.height - height) / 2) as i32,
        width,
        height,
    );
    (width >= 64 && height >= 64).then_some(piece)
}

/// How strongly two neighbouring samples of a role differ, 0..1.
fn apart(role: Role, a: [f32; 3], b: [f32; 3]) -> f32 {
    let sum: f32 = (0..3).map(|c| (a[c] - b[c]).abs()).sum();
    match role {
        Role::Depth => match (a[0].is_finite(), b[0].is_finite()) {
            (true, true) => ((a[0] / b[0]).ln().abs() * 6.0).min(1.0),
            (false, false) => 0.0,
            _ => 1.0,
        },
        Role::ObjectId => f32::from(u8::from(a[0] != b[0])),
        Role::Normal => (sum * 1.2).min(1.0),
        Role::Position => (sum / (0.02 + a[2].abs() * 0.06)).min(1.0),
        Role::Uv => (sum * 6.0).min(1.0),
        _ => {
            let level = |v: [f32; 3]| v.iter().sum::<f32>() + 0.05;
            ((level(a) / level(b)).abs().max(1e-6).ln().abs() * 2.0).min(1.0)
        }
    }
}

/// How strongly neighbours differ, 0..1, faded out toward the border of the piece.
fn edges(r: &Raster, role: Role, piece: Window) -> Vec<Complex<f32>> {
    let n = r.channels().min(3);
    let at = |x: i32, y: i32| -> [f32; 3] {
        std::array::from_fn(|c| if c < n { r.sample(c, x, y).unwrap_or(0.0) } else { 0.0 })
    };
    let fade = |at: i32, start: i32, size: u32| {
        let t = (f64::from(at - start) + 0.5) / f64::from(size);
        (0.5 - 0.5 * (t * std::f64::consts::TAU).cos()) as f32
    };
    piece
        .rows()
        .flat_map(|y| (piece.x..piece.x + piece.width as i32).map(move |x| (x, y)))
        .map(|(x, y)| {
            let v = apart(role, at(x, y), at(x + 1, y)).max(apart(role, at(x, y), at(x, y + 1)));
            let v = if v.is_finite() { v } else { 0.0 };
            Complex::new(v * fade(x, piece.x, piece.width) * fade(y, piece.y, piece.height), 0.0)
        })
        .collect()
}

struct Peak {
    /// How far the second must move to lie on the first.
    at: (i32, i32),
    height: f32,
    at_zero: f32,
    noise: f32,
}

fn correlate(mut a: Vec<Complex<f32>>, mut b: Vec<Complex<f32>>, piece: Window) -> Option<Peak> {
    let (w, h) = (piece.width as usize, piece.height as usize);
    for set in [&mut a, &mut b] {
        let mean = set.iter().map(|v| v.re).sum::<f32>() / set.len() as f32;
        if mean <= 1e-5 {
            return None; // nothing to compare
        }
        transform(set, w, h, FftDirection::Forward);
    }
    for (a, b) in a.iter_mut().zip(&b) {
        let product = *a * b.conj();
        // Wholly whitened spectra are mostly noise for edges this sparse; the root keeps some weight.
        let size = product.norm().max(1e-12);
        *a = product / size.sqrt();
    }
    transform(&mut a, w, h, FftDirection::Inverse);
    let value = |x: i32, y: i32| a[y.rem_euclid(h as i32) as usize * w + x.rem_euclid(w as i32) as usize].re;
    let reach_x = REACH.min(w as i32 / 4);
    let reach_y = REACH.min(h as i32 / 4);
    let all = || (-reach_y..=reach_y).flat_map(|y| (-reach_x..=reach_x).map(move |x| (x, y)));
    let at = all().max_by(|p, q| value(p.0, p.1).total_cmp(&value(q.0, q.1)))?;
    let around_zero = (-1..=1).flat_map(|y| (-1..=1).map(move |x| (x, y)));
    let at_zero = around_zero.map(|(x, y)| value(x, y)).fold(0.0, f32::max);
    let mut levels: Vec<f32> = all().map(|(x, y)| value(x, y).abs()).collect();
    let noise = super::statistics::median(&mut levels)?.max(1e-9);
    Some(Peak { at, height: value(at.0, at.1), at_zero, noise })
}

/// Rows, then columns, in place. The size is not divided out: only ratios are used.
fn transform(data: &mut [Complex<f32>], w: usize, h: usize, direction: FftDirection) {
    let mut planner = FftPlanner::new();
    let rows = planner.plan_fft(w, direction);
    rows.process(data);
    let columns = planner.plan_fft(h, direction);
    let mut turned: Vec<Complex<f32>> = (0..w * h).map(|i| data[(i % h) * w + i / h]).collect();
    columns.process(&mut turned);
    for (i, v) in data.iter_mut().enumerate() {
        *v = turned[(i % w) * h + i / w];
    }
}
