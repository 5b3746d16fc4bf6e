//! Samples that are no numbers: NaN, and infinity where it is no distance.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind, percent};
use crate::Role;
use crate::passes::repair::{Repair, is_missing};

/// Share of samples without a value beside an empty sky up to which they are its rims.
const RIMS: f64 = 0.02;

pub(super) fn check(case: &Case, pass: &Evidence) -> Vec<Finding> {
    // Fill, where it was asked for, has been applied to what is seen here.
    let stored = &pass.stored;
    let area = stored.window().area();
    // Nearly every pass has them all.
    if !stored.data().iter().any(|v| is_missing(pass.role, *v)) {
        return Vec::new();
    }
    let is = |i: usize| (0..stored.channels()).any(|c| is_missing(pass.role, stored.plane(c)[i]));
    // Where the picture is empty there is nothing to have a value, and none is missing.
    let empty = |i: usize| {
        let (x, y) = stored.window().pixel_at(i);
        pass.role != Role::Beauty && case.passes.empty(x, y) == Some(true)
    };
    let sky = (0..area).any(|i| is(i) && empty(i));
    let missing = |i: usize| is(i) && !empty(i);
    let count = (0..area).filter(|&i| missing(i)).count();
    if count == 0 {
        return Vec::new();
    }
    let share = count as f64 / area as f64;
    let effect = match pass.role {
        Role::Depth => "They are taken for nothing, as far away",
        Role::Beauty | Role::Albedo | Role::Diffuse | Role::Clay | Role::Shadow | Role::Alpha => {
            "They are shown black"
        }
        _ => "They are taken for no sample",
    };
    // A few at the rims of an empty sky are its own.
    if sky && share < RIMS {
        return Vec::new();
    }
    let words = format!("{count} samples are missing or no numbers. {effect}.");
    let found = Finding::new(pass, FindingKind::NotFinite, 1.0, words)
        .costs(format!("{} of the pass", percent(share)))
        .at(pass, |i| i < area && missing(i));
    // Filling would fill the sky, too.
    vec![if sky { found } else { found.repair("Fill from around", Repair::Fill) }]
}
