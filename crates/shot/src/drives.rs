//! What moves a parameter over time: keys, a link to another parameter, drift on top of either.
//!
//! A drive names its parameter by its address ([`crate::edits`]); what drives it lies beside the elements, so that a
//! parameter stays a plain value. [`crate::still`] puts the values of a frame in.

use crate::params::{TEXT, range};
use crate::values::DriveValue;
use jugata_core::raster::monotone::{between, slope};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What moves one parameter.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Drive {
    /// Number that stays with it.
    pub id: u32,
    /// Address of the parameter.
    pub at: String,
    /// Keys, or a link; nothing leaves the parameter's own value.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub by: Option<DrivenBy>,
    /// What is added on top.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub drift: Option<Drift>,
}

/// Where the values come from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum DrivenBy {
    /// Values at frames, and what lies between them.
    Keys {
        /// The keys, by ascending frame.
        keys: Vec<Key>,
    },
    /// Another parameter of the same kind, times a factor plus an offset. An angle of light, and how far
    /// something is moved, may follow where a lamp is.
    Link {
        /// Its address.
        to: String,
        /// Factor.
        times: f32,
        /// Offset.
        plus: f32,
    },
}

/// A value at a frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Key {
    /// The frame; it may lie between two.
    pub frame: f32,
    /// The value.
    pub value: DriveValue,
    /// How it goes on to the next.
    #[serde(default)]
    pub goes: Goes,
}

/// How a value goes on from a key to the next.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Goes {
    /// It stays until the next key.
    Hold,
    /// Straight.
    Linear,
    /// Smoothly through the keys, never past them.
    #[default]
    Smooth,
}

/// Smooth noise: the same on every machine.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Drift {
    /// Largest way to either side.
    pub amount: f32,
    /// Frames from one turn to the next.
    pub period: f32,
    /// Another number drifts otherwise.
    pub seed: u32,
}

/// Most keys of a parameter.
const KEYS: usize = 10_000;

impl Drive {
    /// Takes what drift adds at a frame off a value of the parameter.
    pub(crate) fn take_drift(&self, value: &mut DriveValue, frame: i32) {
        let (Some(drift), DriveValue::Numbers(numbers)) = (self.drift, value) else { return };
        for (c, v) in numbers.iter_mut().enumerate() {
            *v = (f64::from(*v) - drift.at(f64::from(frame), c)) as f32;
        }
    }

    /// Checks its own figures.
    ///
    /// # Errors
    /// What is wrong, as a sentence without its place.
    pub fn check(&self) -> Result<(), String> {
        if let Some(DrivenBy::Keys { keys }) = &self.by {
            if keys.is_empty() || keys.len() > KEYS {
                return Err(format!("{} keys are not possible", keys.len()));
            }
            for k in keys {
                range("a key's frame", k.frame, -1e7, 1e7)?;
                k.value.numbers().iter().try_for_each(|v| range("a key's value", *v, -1e12, 1e12))?;
                if k.value.words().is_some_and(|w| w.chars().count() > TEXT) {
                    return Err(format!("a key's words are longer than {TEXT} characters"));
                }
            }
            if !keys.windows(2).all(|pair| pair[0].value.fits(&pair[1].value)) {
                return Err("its keys do not all hold the same kind of value".into());
            }
            if !keys.windows(2).all(|pair| pair[0].frame < pair[1].frame) {
                return Err("its keys are not in ascending order".into());
            }
        }
        if let Some(DrivenBy::Link { times, plus, .. }) = &self.by {
            range("the factor of a link", *times, -1e9, 1e9)?;
            range("the offset of a link", *plus, -1e12, 1e12)?;
        }
        if let Some(d) = self.drift {
            range("the amount of drift", d.amount, 0.0, 1e9)?;
            range("the period of drift", d.period, 0.01, 1e6)?;
        }
        Ok(())
    }
}

/// The value of keys at a frame; before the first and after the last it stays. `turns` goes along the sphere between two
/// directions.
pub fn keyed(keys: &[Key], frame: f64, turns: bool) -> DriveValue {
    let after = keys.partition_point(|k| f64::from(k.frame) <= frame);
    let (Some(a), b) = (keys.get(after.saturating_sub(1)), keys.get(after)) else {
        return DriveValue::Numbers(Vec::new());
    };
    let (Some(b), true) = (b, after > 0) else { return a.value.clone() };
    let (DriveValue::Numbers(from), DriveValue::Numbers(to)) = (&a.value, &b.value) else {
        return a.value.clone();
    };
    let t = (frame - f64::from(a.frame)) / f64::from(b.frame - a.frame);
    DriveValue::Numbers(match a.goes {
        Goes::Hold => from.clone(),
        _ if turns && from.len() == 3 && to.len() == 3 => turned(from, to, t),
        Goes::Linear => mixed(from, to, |x, y| x + (y - x) * t),
        Goes::Smooth => (0..from.len().min(to.len())).map(|c| smooth(keys, after - 1, c, t) as f32).collect(),
    })
}

fn mixed(a: &[f32], b: &[f32], of: impl Fn(f64, f64) -> f64) -> Vec<f32> {
    a.iter().zip(b).map(|(x, y)| of(f64::from(*x), f64::from(*y)) as f32).collect()
}

/// Along the great circle from one direction to another; straight where they have no length or lie opposite.
fn turned(a: &[f32], b: &[f32], t: f64) -> Vec<f32> {
    let length = |v: &[f32]| v.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>().sqrt();
    let (la, lb) = (length(a), length(b));
    let cos = a.iter().zip(b).map(|(x, y)| f64::from(*x) * f64::from(*y)).sum::<f64>() / (la * lb);
    let angle = cos.clamp(-1.0, 1.0).acos();
    if !(1e-6..std::f64::consts::PI - 1e-3).contains(&angle) {
        return mixed(a, b, |x, y| x + (y - x) * t);
    }
    let (from, to) = (((1.0 - t) * angle).sin() / angle.sin(), (t * angle).sin() / angle.sin());
    mixed(a, b, |x, y| x / la * from + y / lb * to)
}

/// The monotone cubic through the keys on the stretch after key `i`, one component.
fn smooth(keys: &[Key], i: usize, c: usize, t: f64) -> f64 {
    let value = |k: &Key| k.value.numbers().get(c).copied().map_or(0.0, f64::from);
    let stretch = |i: usize| {
        let h = f64::from(keys[i + 1].frame) - f64::from(keys[i].frame);
        (h, (value(&keys[i + 1]) - value(&keys[i])) / h)
    };
    let slopes = [i, i + 1].map(|i| slope(keys.len(), i, stretch));
    between(stretch(i), [value(&keys[i]), value(&keys[i + 1])], slopes, t)
}

impl Drift {
    /// What is added to a component at a frame: values at whole periods by lot, and a quintic between them (Perlin 2002),
    /// so that speed and acceleration have no jumps.
    pub fn at(&self, frame: f64, component: usize) -> f64 {
        let place = frame / f64::from(self.period);
        let t = place - place.floor();
        let lot = |n: i64| lot(self.seed, component as u64, n);
        let (a, b) = (lot(place.floor() as i64), lot(place.floor() as i64 + 1));
        let s = t * t * t * (t * (t * 6.0 - 15.0) + 10.0);
        f64::from(self.amount) * (a + (b - a) * s)
    }
}

/// −1..1 by lot (SplitMix64, Steele et al. 2014).
fn lot(seed: u32, component: u64, n: i64) -> f64 {
    let mut z = u64::from(seed)
        .wrapping_mul(0xd134_2543_de82_ef95)
        .wrapping_add(component.wrapping_mul(0xa076_1d64_78bd_642f))
        .wrapping_add((n as u64).wrapping_mul(0x9e37_79b9_7f4a_7c15));
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    z ^= z >> 31;
    (z >> 11) as f64 / (1u64 << 52) as f64 - 1.0
}

#[cfg(test)]
mod tests {
    use super::*;

    fn keys(of: &[(f32, f32)], goes: Goes) -> Vec<Key> {
        of.iter().map(|&(frame, v)| Key { frame, value: vec![v].into(), goes }).collect()
    }

    const PCHIP: [(f64, f64); 10] = [
        (0.0, 1.000000000),
        (1.0, 2.043750000),
        (2.5, 2.824218750),
        (3.9, 2.999481250),
        (4.25, 2.921875000),
        (4.5, 2.750000000),
        (5.0, 2.500000000),
        (6.0, 2.525510204),
        (9.0, 3.275510204),
        (11.5, 5.356186224),
    ];

    /// Worked out in Python's whole numbers.
    const LOTS: [f64; 3] = [-962781.0, 662885.0, 476188.0];

    #[test]
    fn values_lie_where_scipy_puts_them() {
        // scipy.interpolate.PchipInterpolator([0, 4, 5, 12], [1, 3, 2.5, 6])(x), SciPy 1.17.
        let k = keys(&[(0.0, 1.0), (4.0, 3.0), (5.0, 2.5), (12.0, 6.0)], Goes::Smooth);
        for (x, want) in PCHIP {
            let got = keyed(&k, x, false).numbers()[0];
            assert!((f64::from(got) - want).abs() < 1e-6, "{x}: {got} {want}");
        }
        // Two keys are a straight line.
        let two = keys(&[(2.0, 1.0), (4.0, 5.0)], Goes::Smooth);
        assert_eq!(keyed(&two, 2.5, false).numbers(), [2.0]);
    }

    #[test]
    fn before_the_first_and_after_the_last_it_stays_and_a_hold_holds() {
        let k = keys(&[(1.0, 2.0), (3.0, 4.0), (5.0, -1.0)], Goes::Hold);
        let at = |f| keyed(&k, f, false).numbers()[0];
        assert_eq!(
            [at(-9.0), at(1.0), at(2.9), at(3.0), at(5.0), at(99.0)],
            [2.0, 2.0, 2.0, 4.0, -1.0, -1.0]
        );
        let k = keys(&[(1.0, 2.0), (3.0, 4.0)], Goes::Linear);
        assert_eq!(keyed(&k, 1.5, false).numbers(), [2.5]);
    }

    #[test]
    fn directions_go_along_the_sphere() {
        let key = |frame, value: [f32; 3]| Key { frame, value: value.to_vec().into(), goes: Goes::Smooth };
        let k = [key(0.0, [2.0, 0.0, 0.0]), key(10.0, [0.0, 0.0, 1.0])];
        let half = keyed(&k, 5.0, true);
        let half = half.numbers();
        let w = std::f32::consts::FRAC_1_SQRT_2;
        assert!((half[0] - w).abs() < 1e-6 && half[1] == 0.0 && (half[2] - w).abs() < 1e-6, "{half:?}");
    }

    #[test]
    fn drift_stays_in_its_bounds_is_smooth_and_is_the_same_everywhere() {
        let d = Drift { amount: 2.0, period: 8.0, seed: 7 };
        let all: Vec<f64> = (0..4000).map(|i| d.at(f64::from(i) * 0.25, 0)).collect();
        assert!(all.iter().all(|v| v.abs() <= 2.0) && all.iter().any(|v| v.abs() > 1.2));
        let steepest = all.windows(2).map(|p| (p[1] - p[0]).abs()).fold(0.0, f64::max);
        assert!(steepest < 4.0 * 15.0 / 8.0 * 0.25 / 8.0 * 1.01, "{steepest}");
        assert!(d.at(3.0, 0) != d.at(3.0, 1) && d.at(3.0, 0) != Drift { seed: 8, ..d }.at(3.0, 0));
        assert_eq!([0, 1, 2].map(|n| (lot(7, 0, n) * 1e6).round()), LOTS);
    }
}
