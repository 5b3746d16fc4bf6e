//! Depth and normals that were filtered like a picture: at silhouettes they hold values of no surface.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind, percent};
use crate::Role;
use crate::passes::blended::survey;
use crate::passes::repair::Repair;

/// Share of silhouettes with such a value from which depth counts as filtered. Thin things at a depth of
/// their own give a few such values in a clean render, a filter gives them nearly everywhere.
const MANY: f64 = 0.3;

pub(super) fn check(_: &Case, pass: &Evidence) -> Vec<Finding> {
    match pass.role {
        Role::Depth => depth(pass),
        _ => Vec::new(),
    }
}

fn depth(pass: &Evidence) -> Vec<Finding> {
    let (between, steps) = survey(&pass.canonical);
    let share = between.len() as f64 / steps.max(1) as f64;
    if steps < 50 || share < MANY {
        return Vec::new();
    }
    let mut marked = vec![false; pass.canonical.window().area()];
    between.iter().for_each(|(i, _)| marked[*i] = true);
    let confidence = (0.6 + share as f32 * 0.5).min(0.98);
    let words = format!(
        "At {} of its silhouettes it holds distances at which nothing is: it was antialiased like a picture.",
        percent(share.min(1.0))
    );
    vec![
        Finding::new(pass, FindingKind::Antialiased, confidence, words)
            .costs(format!("{} px on no surface: halos in refocus and haze", between.len()))
            .repair("Snap edges to a surface", Repair::SnapEdges)
            .at(pass, |i| marked[i]),
    ]
}
