//! What values say of a pass whose name says nothing.

use crate::file::{Channel, ImageFile, Part};
use jugata_core::{Role, Window};

/// A guess from values.
#[derive(Clone, Debug, PartialEq)]
pub struct Guess {
    /// What it seems to be.
    pub role: Role,
    /// How sure, 0..1.
    pub confidence: f32,
    /// Why, in words.
    pub reason: String,
}

fn guess_of(role: Role, confidence: f32, reason: impl Into<String>) -> Option<Guess> {
    Some(Guess { role, confidence, reason: reason.into() })
}

/// Samples looked at.
const SAMPLES: usize = 20_000;

/// A guess for some channels of a part; `None` where values are like those of many things. Thresholds are
/// our own.
pub fn guess(part: &Part, channels: &[String], file: &ImageFile) -> Option<Guess> {
    let channels: Vec<&Channel> = channels.iter().map(|n| part.channel(n)).collect::<Option<_>>()?;
    let area = channels.first().map_or(0, |c| c.samples.len());
    // A few pixels prove nothing.
    if area < 64 || channels.iter().any(|c| c.samples.len() != area) {
        return None;
    }
    let at: Vec<usize> = (0..area).step_by((area / SAMPLES).max(1)).collect();
    let planes: Vec<Vec<f32>> =
        channels.iter().map(|c| at.iter().filter_map(|&i| c.samples.get(i)).collect()).collect();
    let picks = Picks { at, planes, data: part.data_window, display: file.display_window };
    match channels.len() {
        1 => picks.one(),
        2 => picks.two(),
        _ => picks.three(),
    }
}

/// Values of some pixels.
struct Picks {
    /// Their places in the data window, row after row.
    at: Vec<usize>,
    /// What each channel has there.
    planes: Vec<Vec<f32>>,
    data: Window,
    display: Window,
}

impl Picks {
    fn one(&self) -> Option<Guess> {
        let values = &self.planes[0];
        let far = values.iter().filter(|v| **v == f32::INFINITY || **v > 9_000.0).count();
        let finite: Vec<f32> = values.iter().copied().filter(|v| v.is_finite() && *v <= 9_000.0).collect();
        let (low, high) = ends(&finite)?;
        let mut distinct: Vec<u32> = finite.iter().map(|v| v.to_bits()).collect();
        distinct.sort_unstable();
        distinct.dedup();
        let whole = finite.iter().all(|v| v.fract() == 0.0);
        if far > 0 && low > 0.0 && distinct.len() > 50 {
            return guess_of(Role::Depth, 0.8, "its values are distances, with a background far beyond");
        }
        if whole && (2..=4096).contains(&distinct.len()) && high >= 2.0 && low >= 0.0 {
            let words = format!("its values are {} whole numbers", distinct.len());
            return guess_of(Role::ObjectId, 0.75, words);
        }
        let at = |v: f32| finite.iter().filter(|x| **x == v).count() as f32 / finite.len() as f32;
        if low == 0.0 && high == 1.0 && at(0.0) + at(1.0) > 0.8 && at(0.0) > 0.02 && at(1.0) > 0.02 {
            return guess_of(Role::Alpha, 0.7, "nearly all of its values are 0 or 1");
        }
        if low > 0.0 && high > 1.5 && high / low > 1.05 && distinct.len() > 500 {
            return guess_of(
                Role::Depth,
                0.5,
                format!("its values run from {low:.2} to {high:.2}, as distances do"),
            );
        }
        None
    }

    fn two(&self) -> Option<Guess> {
        if let Some(map) = self.identity() {
            return Some(map);
        }
        let pairs: Vec<[f32; 2]> =
            self.planes[0].iter().zip(&self.planes[1]).map(|(a, b)| [*a, *b]).collect();
        let filled: Vec<&[f32; 2]> =
            pairs.iter().filter(|p| **p != [0.0; 2] && p.iter().all(|v| v.is_finite())).collect();
        if filled.len() < 32 {
            return None;
        }
        let negative = filled.iter().filter(|p| p.iter().any(|v| *v < -1e-4)).count();
        let inside = filled.iter().filter(|p| p.iter().all(|v| (-1e-3..=1.001).contains(v))).count();
        if negative * 10 > filled.len() {
            return guess_of(Role::Motion, 0.6, "its two values go both ways round 0, as motion does");
        }
        let (low, high) = ends(&filled.iter().flat_map(|p| p.iter().copied()).collect::<Vec<_>>())?;
        if inside * 100 > filled.len() * 98 && high - low > 0.5 {
            return guess_of(Role::Uv, 0.65, "its two values fill 0..1, as texture coordinates do");
        }
        None
    }

    /// A map that leads each pixel to nearly its own place.
    fn identity(&self) -> Option<Guess> {
        let (data, display) = (self.data, self.display);
        let (w, h) = (f64::from(display.width.max(1)), f64::from(display.height.max(1)));
        let mut apart: Vec<f64> = self
            .at
            .iter()
            .zip(self.planes[0].iter().zip(&self.planes[1]))
            .map(|(&i, (a, b))| {
                let x = f64::from(data.x - display.x) + (i % data.width as usize) as f64 + 0.5;
                let y = f64::from(data.y - display.y) + (i / data.width as usize) as f64 + 0.5;
                let (s, t) = (x / w, 1.0 - y / h);
                (f64::from(*a) - s).abs().max((f64::from(*b) - t).abs())
            })
            .collect();
        apart.sort_unstable_by(f64::total_cmp);
        let middle = *apart.get(apart.len() / 2)?;
        (middle < 0.05).then(|| Guess {
            role: Role::StMap,
            confidence: 0.9,
            reason: "each of its pixels points to nearly its own place".into(),
        })
    }

    fn three(&self) -> Option<Guess> {
        let [x, y, z] = [0, 1, 2].map(|c| self.planes[c].as_slice());
        if z.iter().all(|v| *v == 0.0 || v.is_nan()) {
            return self.two();
        }
        let vectors: Vec<[f32; 3]> = (0..z.len())
            .map(|i| [x[i], y[i], z[i]])
            .filter(|v| v.iter().all(|x| x.is_finite()) && *v != [0.0; 3])
            .collect();
        if vectors.len() < 32 {
            return None;
        }
        let share = |of: &dyn Fn(&[f32; 3]) -> bool| {
            vectors.iter().filter(|v| of(v)).count() as f32 / vectors.len() as f32
        };
        let unit = |v: [f32; 3]| (v.iter().map(|x| x * x).sum::<f32>().sqrt() - 1.0).abs() < 0.02;
        let signed = share(&|v| unit(*v));
        if signed > 0.85 && share(&|v| v.iter().any(|x| *x < -1e-3)) > 0.05 {
            return guess_of(
                Role::Normal,
                0.92,
                format!("{:.0} % of its vectors have length 1", signed * 100.0),
            );
        }
        let coded = share(&|v| unit(v.map(|x| 2.0 * x - 1.0)));
        if coded > 0.85 {
            return guess_of(
                Role::Normal,
                0.9,
                format!("decoded from 0..1, {:.0} % of its vectors have length 1", coded * 100.0),
            );
        }
        // A third plane that leads away from the eye, or values on both sides of 0 beyond any colour.
        let negative = share(&|v| v.iter().any(|x| *x < -1e-2));
        if negative > 0.3 && share(&|v| v.iter().any(|x| x.abs() > 1.2)) > 0.5 {
            return guess_of(Role::Position, 0.6, "its values go both ways round 0, as places do");
        }
        let equal = share(&|v| v[0] == v[1] && v[1] == v[2]);
        if equal > 0.999 {
            return self
                .one()
                .map(|g| Guess { reason: format!("its planes are equal, and {}", g.reason), ..g });
        }
        None
    }
}

fn ends(values: &[f32]) -> Option<(f32, f32)> {
    let (a, b) = values
        .iter()
        .filter(|v| v.is_finite())
        .fold((f32::INFINITY, f32::NEG_INFINITY), |(a, b), v| (a.min(*v), b.max(*v)));
    (b >= a).then_some((a, b))
}
