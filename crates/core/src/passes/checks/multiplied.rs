//! Data that was multiplied by alpha, as pictures are: at soft edges its values fall with the coverage.
//!
//! Own derivation: at a pixel that is partly covered, next to a fully covered one of the same surface, data goes on as it
//! is beside (nearly), or is what it is beside times alpha. Which of the two it is, is counted.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind, percent};
use crate::Role;
use crate::passes::repair::Repair;

/// Coverages that are looked at: farther out a product cannot be told from nothing, farther in not from the value.
const PARTLY: std::ops::RangeInclusive<f32> = 0.15..=0.85;

/// Pixels that must say.
const LEAST: usize = 30;

/// Share of them that must speak for a product.
const MOST: f64 = 0.7;

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    let of = matches!(pass.role, Role::Depth | Role::Normal | Role::Uv | Role::Position);
    if !of || pass.repairs.contains(&Repair::DivideByAlpha) {
        return Vec::new();
    }
    found(case, pass).into_iter().collect()
}

fn found(case: &Case, pass: &Evidence) -> Option<Finding> {
    let beauty = case.pass(Role::Beauty).filter(|b| b.stored.channels() >= 4)?;
    let (w, b) = (pass.stored.window(), &beauty.stored);
    let n = pass.stored.channels().min(3);
    let mut said: Vec<(usize, bool)> = Vec::new();
    for i in 0..w.area() {
        let (x, y) = w.pixel_at(i);
        let Some(alpha) = b.sample(3, x, y).filter(|a| PARTLY.contains(a)) else { continue };
        let inside = [(-1, 0), (1, 0), (0, -1), (0, 1)]
            .into_iter()
            .map(|(dx, dy)| (x + dx, y + dy))
            .find(|(x, y)| b.sample(3, *x, *y).is_some_and(|a| a >= 0.999));
        let Some((ix, iy)) = inside else { continue };
        let value = |x: i32, y: i32| -> [f32; 3] {
            std::array::from_fn(|c| if c < n { pass.stored.sample(c, x, y).unwrap_or(0.0) } else { 0.0 })
        };
        let (here, there) = (value(x, y), value(ix, iy));
        let size = |v: [f32; 3]| v.iter().map(|v| v * v).sum::<f32>().sqrt();
        let (own, whole) = (size(here), size(there));
        let is = own > 0.0 && own.is_finite() && whole > 0.0 && whole.is_finite();
        if !is || Some(here[0]) == pass.convention.background || whole > 1e6 * own || own > 1e6 * whole {
            continue;
        }
        // Of directions it is the length that tells; of all else the value.
        let (as_product, as_is) = if pass.role == Role::Normal {
            ((own / whole - alpha).abs(), (own / whole - 1.0).abs())
        } else {
            let off = |k: f32| size(std::array::from_fn(|c| here[c] - k * there[c])) / whole;
            (off(alpha), off(1.0))
        };
        said.push((i, as_product < 0.5 * as_is));
    }
    let products = said.iter().filter(|s| s.1).count();
    let share = products as f64 / said.len().max(1) as f64;
    if said.len() < LEAST || share < MOST {
        return None;
    }
    let mut marked = vec![false; w.area()];
    said.iter().filter(|s| s.1).for_each(|s| marked[s.0] = true);
    let words = format!(
        "At {} of the soft edges its values fall with alpha, as colour does: it was multiplied by alpha.",
        percent(share)
    );
    Some(
        Finding::new(pass, FindingKind::Multiplied, (0.5 + 0.5 * share as f32).min(0.97), words)
            .costs("wrong values along every soft edge")
            .repair("Divide by alpha", Repair::DivideByAlpha)
            .at(pass, |i| marked[i]),
    )
}
