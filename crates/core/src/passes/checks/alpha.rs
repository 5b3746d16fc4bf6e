//! Straight or premultiplied.

use super::case::Case;
use super::evidence::Evidence;
use super::finding::{Finding, FindingKind, percent};
use super::statistics::spread;
use crate::Role;
use crate::passes::convention::{AlphaState, Convention};

/// Share of empty pixels with colour above which the picture is straight: glows over nothing are small.
const COLOURED: f64 = 0.3;

pub(super) fn check(_: &Case, pass: &Evidence) -> Vec<Finding> {
    if pass.role != Role::Beauty || pass.stored.channels() < 4 {
        return Vec::new();
    }
    by_empty(pass).or_else(|| by_edges(pass)).into_iter().collect()
}

fn light(pass: &Evidence, i: usize) -> f32 {
    (0..3).map(|c| pass.stored.plane(c)[i].abs()).sum()
}

/// Colour where alpha is 0: premultiplied pictures have none, but for light of its own.
fn by_empty(pass: &Evidence) -> Option<Finding> {
    if pass.convention.alpha == AlphaState::Straight {
        return None;
    }
    let alpha = pass.stored.plane(3);
    let empty: Vec<usize> = (0..alpha.len()).filter(|&i| alpha[i] == 0.0).collect();
    let coloured = |i: usize| alpha[i] == 0.0 && light(pass, i) > 1e-3;
    let share = empty.iter().filter(|&&i| coloured(i)).count() as f64 / empty.len().max(1) as f64;
    if empty.len() < 100 || share < COLOURED {
        return None;
    }
    let words =
        format!("{} of its empty pixels have colour: it was never multiplied by alpha.", percent(share));
    Some(told(pass, AlphaState::Straight, 0.95, words).at(pass, coloured))
}

/// At soft edges premultiplied colour falls with alpha, straight colour stays.
fn by_edges(pass: &Evidence) -> Option<Finding> {
    let (w, alpha) = (pass.stored.window().width as usize, pass.stored.plane(3));
    let (mut falls, mut stays, mut count) = (0f64, 0f64, 0usize);
    let all = if alpha.len() > 4_000_000 {
        spread(alpha.len()).collect()
    } else {
        (0..alpha.len()).collect::<Vec<_>>()
    };
    for i in all {
        if !(0.1..=0.9).contains(&alpha[i]) {
            continue;
        }
        let inside = [i.wrapping_sub(2), i + 2, i.wrapping_sub(2 * w), i + 2 * w]
            .into_iter()
            .find(|&j| alpha.get(j).is_some_and(|a| *a > 0.99));
        let Some(inside) = inside.filter(|&j| light(pass, j) > 0.02) else { continue };
        let own = f64::from(light(pass, inside));
        falls += (f64::from(light(pass, i)) - own * f64::from(alpha[i])).abs() / own;
        stays += (f64::from(light(pass, i)) - own).abs() / own;
        count += 1;
    }
    if count < 100 {
        return None;
    }
    let straight = stays < falls;
    let present = pass.convention.alpha == AlphaState::Straight;
    let ratio = if straight { stays / falls.max(1e-9) } else { falls / stays.max(1e-9) };
    if straight == present || ratio > 0.6 {
        return None;
    }
    let (state, words) = if straight {
        (
            AlphaState::Straight,
            "At its soft edges colour stays as bright as inside: it was never multiplied by alpha.",
        )
    } else {
        (AlphaState::Premultiplied, "At its soft edges colour falls with alpha: it is multiplied already.")
    };
    Some(told(pass, state, (1.0 - ratio as f32 * 0.6).min(0.9), words.into()))
}

fn told(pass: &Evidence, alpha: AlphaState, confidence: f32, words: String) -> Finding {
    let (cost, button) = match alpha {
        AlphaState::Straight => ("bright fringes over any backdrop", "Read as straight"),
        AlphaState::Premultiplied => ("dark fringes over any backdrop", "Read as premultiplied"),
    };
    Finding::new(pass, FindingKind::Alpha, confidence, words)
        .costs(cost)
        .convention(button, Convention { alpha, ..pass.convention })
}
