//! A growing set of stretches of the number line.

/// Stretches that are covered, joined where they touch.
#[derive(Debug, Default)]
pub(super) struct Covered {
    /// Ends of the stretches, which rise and lie apart.
    spans: Vec<[f32; 2]>,
    /// Where the last one was found: the next is mostly there too.
    last: usize,
}

impl Covered {
    pub(super) fn clear(&mut self) {
        self.spans.clear();
        self.last = 0;
    }

    /// The first stretch that does not end below `t`; how many there are if all do.
    #[inline(always)]
    fn find(&mut self, t: f32) -> usize {
        let ends_below = |i: usize| self.spans[i][1] < t;
        let mut i = self.last.min(self.spans.len());
        // A step either way, else the whole list by halves.
        if i < self.spans.len() && ends_below(i) {
            i += 1;
        }
        if i > 0 && !ends_below(i - 1) {
            i -= 1;
        }
        let found = (i == 0 || ends_below(i - 1)) && (i == self.spans.len() || !ends_below(i));
        self.last = if found { i } else { self.search(t) };
        self.last
    }

    #[cold]
    fn search(&self, t: f32) -> usize {
        self.spans.partition_point(|s| s[1] < t)
    }

    /// Whether `t` lies within a stretch; its ends are outside.
    #[inline(always)]
    pub(super) fn holds(&mut self, t: f32) -> bool {
        let i = self.find(t);
        self.spans.get(i).is_some_and(|s| s[0] < t && t < s[1])
    }

    /// Covers what lies from `low` to `high`.
    #[inline(always)]
    pub(super) fn add(&mut self, low: f32, high: f32) {
        let i = self.find(low);
        match self.spans.get_mut(i) {
            Some(s) if s[0] <= high => {
                let end = s[1].max(high);
                *s = [s[0].min(low), end];
                if self.spans.get(i + 1).is_some_and(|next| next[0] <= end) {
                    self.join(i);
                }
            }
            _ => self.insert(i, [low, high]),
        }
    }

    #[inline(never)]
    fn insert(&mut self, i: usize, span: [f32; 2]) {
        self.spans.insert(i, span);
    }

    /// Joins the stretches that the one at `i` has grown over.
    #[inline(never)]
    fn join(&mut self, i: usize) {
        let mut end = self.spans[i][1];
        let mut next = i + 1;
        while let Some(s) = self.spans.get(next).filter(|s| s[0] <= end) {
            end = end.max(s[1]);
            next += 1;
        }
        self.spans[i][1] = end;
        self.spans.drain(i + 1..next);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn stretches_that_touch_are_one() {
        let mut c = Covered::default();
        for (low, high) in [(0.0, 1.0), (4.0, 5.0), (2.0, 3.0), (-2.0, -1.0)] {
            c.add(low, high);
        }
        assert_eq!(c.spans, [[-2.0, -1.0], [0.0, 1.0], [2.0, 3.0], [4.0, 5.0]]);
        c.add(0.5, 4.0);
        assert_eq!(c.spans, [[-2.0, -1.0], [0.0, 5.0]]);
        assert_eq!([-1.5, -0.5, 0.0, 3.5, 5.0].map(|t| c.holds(t)), [true, false, false, true, false]);
        c.clear();
        assert!(!c.holds(-1.5));
    }

    proptest! {
        #[test]
        fn it_holds_what_one_of_its_stretches_holds(
            spans in proptest::collection::vec((-50i32..50, 1i32..6), 0..60),
            asked in proptest::collection::vec(-55i32..55, 40),
        ) {
            let mut c = Covered::default();
            for (i, (low, length)) in spans.iter().enumerate() {
                c.add(*low as f32, (low + length) as f32);
                // Halves are never ends.
                let t = asked[i % asked.len()] as f32 + 0.5;
                let within = |&(low, length): &(i32, i32)| (low as f32) < t && t < (low + length) as f32;
                prop_assert_eq!(c.holds(t), spans[..=i].iter().any(within));
                prop_assert!(c.spans.windows(2).all(|s| s[0][1] < s[1][0]));
            }
        }
    }
}
