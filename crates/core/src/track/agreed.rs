//! What most of many pairs of places agree on, though some of them say something else.
//!
//! Of ways through few pairs, the one that leaves least in the middle is taken (least median of squares, Rousseeuw 1984), and
//! fitted to all pairs that agree with it.

/// A place on one frame, and the same place on another.
pub(super) type Pair<W> = (<W as Way>::Place, <W as Way>::Place);

/// A way from one frame to another that is told by pairs of places.
pub(super) trait Way: Copy {
    /// What it takes from one frame to the other.
    type Place: Copy;
    /// Pairs that settle it.
    const SET: usize;
    /// Pairs that there must be.
    const FEW: usize;
    /// The one that fits pairs best.
    fn fitted(pairs: &[Pair<Self>]) -> Option<Self>;
    /// The one through [`Self::SET`] pairs.
    fn through(pairs: &[Pair<Self>]) -> Option<Self> {
        Self::fitted(pairs)
    }
    /// How far it takes the first place of a pair from the second.
    fn off(self, pair: &Pair<Self>) -> f64;
}

/// Sets that are tried.
const TRIES: usize = 300;

/// What agrees lies within so many spreads.
const AGREES: f64 = 3.0;

/// A way, and who agrees with it.
pub(super) struct Agreed<W: Way> {
    pub by: W,
    pub agreeing: Vec<Pair<W>>,
}

impl<W: Way> Agreed<W> {
    /// The way that most pairs agree with. What agrees lies within some spreads, and within the second of `ends` and not
    /// closer than the first.
    pub fn of(pairs: &[Pair<W>], ends: [f64; 2]) -> Option<Self> {
        if pairs.len() < W::FEW {
            return None;
        }
        let limit = |spread: f64| (AGREES * spread).clamp(ends[0], ends[1]);
        let (mut by, spread) = middle::<W>(pairs)?;
        let mut within = limit(spread);
        let mut agreeing = Vec::new();
        // What agrees with a better way is found by it.
        for _ in 0..4 {
            agreeing = pairs.iter().copied().filter(|p| by.off(p) <= within).collect();
            if agreeing.len() < W::FEW {
                return None;
            }
            by = W::fitted(&agreeing)?;
            within = limit(mean_square(by, &agreeing).sqrt());
        }
        Some(Self { by, agreeing })
    }

    /// How many agree, as a share of those that there would be if all of something said so.
    pub fn share(&self, of: usize) -> f32 {
        (self.agreeing.len() as f32 / of.max(1) as f32).min(1.0)
    }

    /// What is left of those that agree, squared, on the mean.
    pub fn left(&self) -> f64 {
        mean_square(self.by, &self.agreeing)
    }
}

fn mean_square<W: Way>(by: W, pairs: &[Pair<W>]) -> f64 {
    pairs.iter().map(|p| by.off(p).powi(2)).sum::<f64>() / pairs.len().max(1) as f64
}

/// The way through few pairs that leaves least in the middle, and its spread (1.4826 middle differences, as of a Gaussian).
fn middle<W: Way>(pairs: &[Pair<W>]) -> Option<(W, f64)> {
    // The same choice at every run; only its spread matters.
    let mut state = 0x9E37_79B9_7F4A_7C15u64;
    let mut any = |n: usize| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (state >> 33) as usize % n
    };
    let mut best: Option<(W, f64)> = None;
    for _ in 0..TRIES {
        let set: Vec<Pair<W>> = (0..W::SET).map(|_| pairs[any(pairs.len())]).collect();
        let Some(by) = W::through(&set) else { continue };
        // A part of them settles which is better.
        let some = pairs.iter().step_by((pairs.len() / 400).max(1));
        let mut offs: Vec<f64> = some.map(|p| by.off(p)).collect();
        let half = offs.len() / 2;
        let left = *offs.select_nth_unstable_by(half, f64::total_cmp).1;
        if best.is_none_or(|(_, least)| left < least) {
            best = Some((by, left));
        }
    }
    best.map(|(by, left)| (by, 1.4826 * left))
}
