//! The stored value that means "nothing here".
//!
//! Renderers write many (common practice, no source): 0, −1, 1e3, 1e4, 65504 (the largest half), 1e10, 1e30, 3.4e38,
//! infinity, NaN. What lies at one exact value where the picture is empty is nothing, whatever the value; without a
//! picture, what lies at one exact value far from all others is.

use crate::Raster;

/// Share of the samples that one value must have, and number, to be looked at.
const MASS: f64 = 0.002;
const LEAST: usize = 24;

/// Share of the empty pixels that must have the value, and of its pixels that must be empty.
const AGREES: f64 = 0.97;

/// How many times farther from the middle than the rest a value must lie, without a picture to go by.
const FAR: f32 = 8.0;

/// Samples among which shared values are looked for, and values that are then counted.
const SEEN: usize = 60_000;
const COUNTED: usize = 8;

/// The finite value that more samples have than any other, if enough have it.
pub fn shared(values: &[f32]) -> Option<f32> {
    let step = (values.len() / SEEN).max(1);
    let some = values.iter().step_by(step).filter(|v| v.is_finite());
    let mut bits: Vec<u32> = some.map(|v| v.to_bits()).collect();
    bits.sort_unstable();
    let mut runs: Vec<(usize, u32)> = bits.chunk_by(|a, b| a == b).map(|run| (run.len(), run[0])).collect();
    // What enough of all samples have, some of those that were looked at have.
    runs.sort_unstable_by(|a, b| b.0.cmp(&a.0).then(a.1.cmp(&b.1)));
    runs.truncate(if step == 1 { 1 } else { COUNTED });
    let count = |value: u32| values.iter().filter(|v| v.to_bits() == value).count();
    let counted = runs.iter().map(|(_, value)| (count(*value), *value));
    let (most, value) = counted.reduce(|a, b| if b.0 > a.0 { b } else { a })?;
    (most >= LEAST && most as f64 >= MASS * values.len() as f64).then(|| f32::from_bits(value))
}

/// The background of a depth as it is stored: `empty` says where the picture (or another pass) has nothing; without it
/// the value must stand apart from all others. `None` where nothing is infinite or NaN, or everything is something.
///
/// # Panics
/// None; a mask of another length is taken for none.
pub fn of_depth(depth: &Raster, empty: Option<&[bool]>) -> Option<f32> {
    let values = (depth.channels() > 0).then(|| depth.plane(0))?;
    match empty.filter(|e| e.len() == values.len() && e.iter().filter(|e| **e).count() >= LEAST) {
        Some(empty) => where_empty(values, empty),
        None => standing_apart(values),
    }
}

fn where_empty(values: &[f32], empty: &[bool]) -> Option<f32> {
    let inside: Vec<f32> = values.iter().zip(empty).filter(|(_, e)| **e).map(|(v, _)| *v).collect();
    let value = shared(&inside)?;
    let same = |v: f32| v.to_bits() == value.to_bits();
    let hits = inside.iter().filter(|v| same(**v)).count();
    let all = values.iter().filter(|v| same(**v)).count();
    // Rims are empty in the middle of some pixels that the picture covers a little.
    let near = rim(values.len(), empty);
    let stray = values.iter().zip(&near).filter(|(v, n)| same(**v) && !**n).count();
    (hits as f64 >= AGREES * inside.len() as f64 && stray as f64 <= (1.0 - AGREES) * all as f64)
        .then_some(value)
}

/// Empty pixels and those beside them in a row: no width is known here, so columns are left to the tolerance.
fn rim(len: usize, empty: &[bool]) -> Vec<bool> {
    (0..len).map(|i| empty[i.saturating_sub(1)..(i + 2).min(len)].contains(&true)).collect()
}

/// A value beyond all others: zero or less where the rest is above, or many times as far as the rest reaches.
fn standing_apart(values: &[f32]) -> Option<f32> {
    let value = shared(values)?;
    let mut rest: Vec<f32> = values.iter().copied().filter(|v| v.is_finite() && *v != value).collect();
    if rest.len() < LEAST {
        return None;
    }
    rest.sort_unstable_by(f32::total_cmp);
    let (low, high) = (rest[0], rest[rest.len() - 1]);
    let apart = (value <= 0.0 && low > 0.0 && !(value == 0.0 && high <= 1.0))
        || (low > 0.0 && value > FAR * high)
        || (value == 0.0 && high < 0.0)
        || (high < 0.0 && value < FAR * low);
    apart.then_some(value)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(32, 20);

    fn depth(nothing: f32) -> (Raster, Vec<bool>) {
        let empty = |x: i32| x < 6;
        let r = Raster::from_fn(W, 1, |_, x, y| if empty(x) { nothing } else { 4.0 + 0.1 * (x * y) as f32 });
        (r, (0..W.area()).map(|i| empty(W.pixel_at(i).0)).collect())
    }

    #[test]
    fn every_value_that_renderers_write_is_known_with_and_without_a_picture() {
        for nothing in [0.0, -1.0, 1e3, 1e4, 65504.0, 1e10, 1e30, 3.4e38] {
            let (r, empty) = depth(nothing);
            assert_eq!(of_depth(&r, Some(&empty)), Some(nothing));
            assert_eq!(of_depth(&r, None), Some(nothing), "{nothing} alone");
        }
        for nothing in [f32::INFINITY, f32::NAN] {
            let (r, empty) = depth(nothing);
            assert_eq!((of_depth(&r, Some(&empty)), of_depth(&r, None)), (None, None));
        }
    }

    #[test]
    fn a_wall_and_a_limit_are_no_background() {
        let wall = Raster::from_fn(W, 1, |_, x, y| if x < 12 { 90.0 } else { 4.0 + 0.1 * (x * y) as f32 });
        let full = vec![false; W.area()];
        assert_eq!((of_depth(&wall, None), of_depth(&wall, Some(&full))), (None, None));
        // 0..1 that reaches 0: near or far, nobody knows.
        let unit = Raster::from_fn(W, 1, |_, x, y| if x < 6 { 0.0 } else { 0.1 + 0.001 * (x * y) as f32 });
        assert_eq!(of_depth(&unit, None), None);
    }
}
