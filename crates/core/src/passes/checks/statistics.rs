//! Samples and middle values for the checks.

/// Middle value of some numbers (they are reordered); `None` of none.
pub(super) fn median(values: &mut [f32]) -> Option<f32> {
    let middle = values.len() / 2;
    (!values.is_empty()).then(|| *values.select_nth_unstable_by(middle, f32::total_cmp).1)
}

/// At most this many samples are looked at where a statistic needs no neighbours.
const SAMPLES: usize = 60_000;

/// Indexes of evenly spread samples.
pub(super) fn spread(area: usize) -> impl Iterator<Item = usize> + Clone {
    (0..area).step_by((area / SAMPLES).max(1))
}

/// At most about so many of some things, evenly spread.
pub(super) fn thinned<T>(all: Vec<T>, most: usize) -> Vec<T> {
    let step = (all.len() / most).max(1);
    all.into_iter().step_by(step).collect()
}
