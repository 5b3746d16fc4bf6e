//! A growing set of stretches of the number line.

use glam::{Vec4, Vec4Swizzles};

/// Stretches that are covered, joined where they touch.
///
/// What comes next mostly falls where the last one fell. So the stretch there is kept at hand together with the room on
/// both sides of it, and the list is gone to for nothing else.
#[derive(Debug)]
pub(super) struct Covered {
    /// The end of the stretch before the one at hand (with its sign changed) and the beginning of the one after; the
    /// beginning (again) and the end of the one at hand. So all are bounds from above. With none at hand nothing is.
    bounds: Vec4,
    /// Ends of the stretches, which rise and lie apart; what it says of the one at hand may be out of date.
    spans: Vec<[f32; 2]>,
    /// Where the one at hand is in the list.
    at: usize,
}

/// Makes bounds from below bounds from above.
const SIGNS: Vec4 = Vec4::new(-1.0, 1.0, -1.0, 1.0);
/// The bounds of the room, and those of the stretch at hand.
const ROOM: u32 = 0b0011;
const STRETCH: u32 = 0b1100;
/// Added to bounds, leaves those of the stretch itself.
const OWN: Vec4 = Vec4::new(f32::NEG_INFINITY, f32::NEG_INFINITY, 0.0, 0.0);
const NOTHING: Vec4 = Vec4::new(f32::INFINITY, f32::INFINITY, f32::NEG_INFINITY, f32::NEG_INFINITY);

impl Default for Covered {
    fn default() -> Self {
        Self { bounds: NOTHING, spans: Vec::new(), at: 0 }
    }
}

impl Covered {
    pub(super) fn clear(&mut self) {
        (self.bounds, self.at) = (NOTHING, 0);
        self.spans.clear();
    }

    /// Covers what lies from the second number to the first, and says whether the third (not less than the first) was
    /// free; the ends of stretches are.
    #[inline(always)]
    pub(super) fn meet(&mut self, t: Vec4) -> bool {
        // Whether it lies within the room and, with its ends, in the stretch at hand or over one of its ends.
        if (t.yzxy() * SIGNS).cmplt(self.bounds).all() {
            let free = (t.zzzz() * SIGNS).cmplt(self.bounds).bitmask() & STRETCH != STRETCH;
            self.grow(t);
            free
        } else {
            let free = !self.holds(t.z);
            // It mostly is where rays begin.
            self.cover(t);
            free
        }
    }

    /// Covers what lies from the second number to the first.
    #[inline(always)]
    pub(super) fn cover(&mut self, t: Vec4) {
        if (t.yxxy() * SIGNS).cmplt(self.bounds).all() {
            self.grow(t);
        } else {
            self.add(t.y, t.x);
        }
    }

    /// Adds to the stretch at hand, which only changes its own bounds.
    #[inline(always)]
    fn grow(&mut self, t: Vec4) {
        // All four are written at once, as they are read next.
        self.bounds = (t.yxyx() * SIGNS + OWN).max(self.bounds);
    }

    /// Whether `t` lies within a stretch; its ends are outside.
    #[inline(always)]
    fn holds(&mut self, t: f32) -> bool {
        let both = Vec4::splat(t) * SIGNS;
        if both.cmplt(self.bounds).bitmask() & ROOM != ROOM {
            self.reach(t);
        }
        both.cmplt(self.bounds).bitmask() & STRETCH == STRETCH
    }

    /// Takes the first stretch to hand that does not end below `t`, or the last one.
    #[inline(never)]
    fn reach(&mut self, t: f32) {
        self.put_back();
        self.take(self.find(t).min(self.spans.len().saturating_sub(1)));
    }

    /// Covers what lies from `low` to `high`, if it is anything.
    #[inline(never)]
    fn add(&mut self, low: f32, high: f32) {
        if low >= high {
            return;
        }
        self.put_back();
        let i = self.find(low);
        match self.spans.get_mut(i) {
            Some(s) if s[0] <= high => {
                *s = [s[0].min(low), s[1].max(high)];
                self.join(i);
            }
            _ => self.spans.insert(i, [low, high]),
        }
        self.take(i);
    }

    fn put_back(&mut self) {
        if let Some(s) = self.spans.get_mut(self.at) {
            *s = [-self.bounds.z, self.bounds.w];
        }
    }

    fn take(&mut self, i: usize) {
        self.at = i;
        self.bounds = self.spans.get(i).map_or(NOTHING, |own| {
            let before = i.checked_sub(1).map_or(f32::NEG_INFINITY, |i| self.spans[i][1]);
            let after = self.spans.get(i + 1).map_or(f32::INFINITY, |s| s[0]);
            Vec4::new(-before, after, -own[0], own[1])
        });
    }

    /// The first stretch that does not end below `t`; how many there are if all do.
    fn find(&self, t: f32) -> usize {
        let ends_below = |i: usize| self.spans.get(i).is_some_and(|s| s[1] < t);
        // Mostly it is near, else the whole list is searched by halves.
        let i = self.at.saturating_sub(1);
        let near = (i..i + 3).find(|i| !ends_below(*i));
        match near {
            Some(0) => 0,
            Some(found) if ends_below(found - 1) => found.min(self.spans.len()),
            _ => self.spans.partition_point(|s| s[1] < t),
        }
    }

    /// Joins the stretches that the one at `i` has grown over.
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

    #[cfg(test)]
    fn all(&mut self) -> Vec<[f32; 2]> {
        self.put_back();
        self.spans.clone()
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
            c.cover(Vec4::new(high, low, 0.0, 0.0));
        }
        assert_eq!(c.all(), [[-2.0, -1.0], [0.0, 1.0], [2.0, 3.0], [4.0, 5.0]]);
        c.cover(Vec4::new(4.0, 0.5, 0.0, 0.0));
        assert_eq!(c.all(), [[-2.0, -1.0], [0.0, 5.0]]);
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
                let (low, high) = (*low as f32, (low + length) as f32);
                // Halves are never ends.
                let t = asked[i % asked.len()] as f32 + 0.5;
                let within = |t: f32, &(low, length): &(i32, i32)| (low as f32) < t && t < (low + length) as f32;
                if t < high {
                    c.cover(Vec4::new(high, low, 0.0, 0.0));
                    prop_assert_eq!(c.holds(t), spans[..=i].iter().any(|s| within(t, s)));
                } else {
                    let free = c.meet(Vec4::new(high, low, t, 0.0));
                    prop_assert_eq!(free, !spans[..i].iter().any(|s| within(t, s)));
                }
                prop_assert!(c.all().windows(2).all(|s| s[0][1] < s[1][0]));
            }
        }
    }
}
