//! A lens solved from lines that ought to be straight (after Devernay & Faugeras 2001: the coefficients that straighten
//! them best).

use super::lens::{Lens, Model};
use glam::DVec2;
use nalgebra::{DMatrix, DVector};

/// Which model is solved.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Solves {
    /// k1, and k2 where the lines say enough.
    BrownConrady,
    /// The same of the division model.
    Division,
}

/// What was found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Straightened {
    /// The coefficients, in the unit that they were asked in.
    pub model: Model,
    /// How far the points lie from straight lines, px of the picture, root mean square: before, and after.
    pub residual: [f64; 2],
}

/// Points that say enough for a second coefficient, and lines.
const FOR_SECOND: (usize, usize) = (12, 3);

/// Solves the coefficients of a lens with a centre and a unit, px, from lines of at least three points each; `None` with
/// fewer points or where they leave it open.
pub fn straighten(lines: &[Vec<DVec2>], solves: Solves, centre: DVec2, unit: DVec2) -> Option<Straightened> {
    let lines: Vec<&[DVec2]> = lines.iter().map(Vec::as_slice).filter(|l| l.len() >= 3).collect();
    let points: usize = lines.iter().map(|l| l.len()).sum();
    if lines.is_empty() {
        return None;
    }
    let count = if points >= FOR_SECOND.0 && lines.len() >= FOR_SECOND.1 { 2 } else { 1 };
    let off = |k: &[f64]| residuals(&lines, &Lens::new(model_of(solves, k), centre, unit));
    let mut k = vec![0.0; count];
    let mut now = off(&k)?;
    let before = rms(&now);
    let mut damp = 1e-3;
    for _ in 0..60 {
        let columns: Option<Vec<Vec<f64>>> = (0..count)
            .map(|i| {
                let (mut a, mut b) = (k.clone(), k.clone());
                let h = 1e-5;
                a[i] += h;
                b[i] -= h;
                Some(off(&a)?.iter().zip(off(&b)?).map(|(a, b)| (a - b) / (2.0 * h)).collect())
            })
            .collect();
        let Some(columns) = columns else { break };
        let j = DMatrix::from_fn(now.len(), count, |r, c| columns[c][r]);
        let square = j.transpose() * &j;
        let pull = j.transpose() * DVector::from_row_slice(&now);
        let mut better = false;
        while damp < 1e9 && !better {
            let damped = &square + DMatrix::from_diagonal(&square.diagonal()) * damp;
            let Some(step) = damped.lu().solve(&pull) else { break };
            let next: Vec<f64> = k.iter().zip(step.iter()).map(|(k, s)| k - s).collect();
            match off(&next) {
                Some(there) if rms(&there) < rms(&now) => {
                    better = rms(&now) - rms(&there) > 1e-12 * before;
                    (k, now) = (next, there);
                    damp *= 0.2;
                    if !better {
                        damp = 1e9;
                    }
                }
                _ => damp *= 8.0,
            }
        }
        if !better {
            break;
        }
    }
    let sound = k.iter().all(|k| k.is_finite() && k.abs() < 100.0);
    sound.then(|| Straightened { model: model_of(solves, &k), residual: [before, rms(&now)] })
}

fn model_of(solves: Solves, k: &[f64]) -> Model {
    let second = k.get(1).copied().unwrap_or(0.0);
    match solves {
        Solves::BrownConrady => Model::BrownConrady { k: [k[0], second, 0.0], p: [0.0; 2] },
        Solves::Division => Model::Division { k: [k[0], second] },
    }
}

/// How far each point lies from the line through its straightened neighbours, px of the picture as it is: were it measured
/// in the straightened one, shrinking everything would seem to straighten it.
fn residuals(lines: &[&[DVec2]], lens: &Lens) -> Option<Vec<f64>> {
    Some(measured(lines, lens)?.into_iter().map(|(_, _, off)| off).collect())
}

/// Where the points of lines of at least three points each lie, and how far off the straight lines of a lens they are: as a way
/// across the line, px of the picture as it is. Nothing where the lens cannot be followed.
pub fn misses(lines: &[Vec<DVec2>], lens: &Lens) -> Vec<(DVec2, DVec2)> {
    let long: Vec<&[DVec2]> = lines.iter().map(Vec::as_slice).filter(|l| l.len() >= 3).collect();
    let all = measured(&long, lens).unwrap_or_default();
    all.into_iter().map(|(at, across, off)| (at, across * off)).collect()
}

/// For each point where it is, the direction across its line, and how far off it is.
fn measured(lines: &[&[DVec2]], lens: &Lens) -> Option<Vec<(DVec2, DVec2, f64)>> {
    let mut all = Vec::new();
    for line in lines {
        let straight: Option<Vec<_>> = line.iter().map(|p| lens.straightened(*p)).collect();
        let straight = straight?;
        let middle = straight.iter().map(|(p, _)| *p).sum::<DVec2>() / straight.len() as f64;
        let (mut xx, mut xy, mut yy) = (0.0, 0.0, 0.0);
        for (p, _) in &straight {
            let d = *p - middle;
            (xx, xy, yy) = (xx + d.x * d.x, xy + d.x * d.y, yy + d.y * d.y);
        }
        // Across the longer axis of the points.
        let angle = 0.5 * (2.0 * xy).atan2(xx - yy);
        let across = DVec2::new(-angle.sin(), angle.cos());
        all.extend(line.iter().zip(&straight).map(|(at, (p, slope))| {
            let off = (*p - middle).dot(across) / slope.determinant().abs().sqrt().max(1e-6);
            // The direction is that in the picture as it is.
            (*at, (slope.inverse() * across).normalize_or_zero(), off)
        }));
    }
    Some(all)
}

fn rms(all: &[f64]) -> f64 {
    (all.iter().map(|v| v * v).sum::<f64>() / all.len().max(1) as f64).sqrt()
}

#[cfg(test)]
mod tests {
    use super::*;

    const CENTRE: DVec2 = DVec2::new(960.0, 540.0);
    const UNIT: DVec2 = DVec2::splat(1101.0);

    fn bent_lines(model: Model, noise: f64, seed: u64) -> Vec<Vec<DVec2>> {
        let lens = Lens::new(model, CENTRE, UNIT);
        // A small generator of numbers: multiply with carry.
        let mut state = seed;
        let mut drawn = move || {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (state >> 40) as f64 / f64::from(1 << 23) - 1.0
        };
        let ends = [
            (DVec2::new(60.0, 80.0), DVec2::new(1850.0, 40.0)),
            (DVec2::new(100.0, 60.0), DVec2::new(40.0, 1030.0)),
            (DVec2::new(1800.0, 1000.0), DVec2::new(200.0, 900.0)),
            (DVec2::new(1700.0, 100.0), DVec2::new(1500.0, 1000.0)),
        ];
        let mut on = |(a, b): (DVec2, DVec2)| {
            let seen = (0..9).filter_map(|i| lens.bent(a.lerp(b, f64::from(i) / 8.0)));
            seen.map(|(p, _)| p + DVec2::new(drawn(), drawn()) * noise).collect()
        };
        ends.into_iter().map(&mut on).collect()
    }

    #[test]
    fn coefficients_come_back_from_lines_that_they_bent() {
        for (model, solves) in [
            (Model::BrownConrady { k: [-0.18, 0.04, 0.0], p: [0.0; 2] }, Solves::BrownConrady),
            (Model::BrownConrady { k: [0.12, -0.02, 0.0], p: [0.0; 2] }, Solves::BrownConrady),
            (Model::Division { k: [-0.15, 0.02] }, Solves::Division),
        ] {
            let found = straighten(&bent_lines(model, 0.0, 1), solves, CENTRE, UNIT).unwrap();
            let (want, got) = (Lens::new(model, CENTRE, UNIT), Lens::new(found.model, CENTRE, UNIT));
            for p in [DVec2::new(20.0, 30.0), DVec2::new(1900.0, 500.0), DVec2::new(700.0, 1070.0)] {
                let off = want.straightened(p).unwrap().0 - got.straightened(p).unwrap().0;
                assert!(off.length() < 1e-3, "{model:?} {found:?} {off}");
            }
            assert!(found.residual[1] < 1e-4 && found.residual[0] > 5.0, "{found:?}");
            // Drawn by hand, a third of a px off.
            let found = straighten(&bent_lines(model, 0.33, 2), solves, CENTRE, UNIT).unwrap();
            let got = Lens::new(found.model, CENTRE, UNIT);
            let off = want.straightened(DVec2::new(100.0, 100.0)).unwrap().0
                - got.straightened(DVec2::new(100.0, 100.0)).unwrap().0;
            assert!(off.length() < 4.0 && found.residual[1] < 0.33, "{found:?} {off}");
        }
    }

    #[test]
    fn too_little_solves_nothing_and_straight_lines_no_lens() {
        assert_eq!(straighten(&[vec![DVec2::ZERO, DVec2::ONE]], Solves::Division, CENTRE, UNIT), None);
        let none = Model::BrownConrady { k: [0.0; 3], p: [0.0; 2] };
        let found = straighten(&bent_lines(none, 0.0, 1), Solves::BrownConrady, CENTRE, UNIT).unwrap();
        assert!(
            matches!(found.model, Model::BrownConrady { k, .. } if k.iter().all(|k| k.abs() < 1e-6)),
            "{found:?}"
        );
    }
}
