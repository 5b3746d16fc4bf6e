//! Rectangles of pixels.

use glam::DVec2;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// The longest side a window may have, in px: above the largest stills in use, and small enough that
/// `width * height` cannot overflow `u64` nor a coordinate `i32`.
pub const MAX_SIDE: u32 = 1 << 17;

/// A half-open rectangle of pixels: columns `x .. x + width`, rows `y .. y + height`.
///
/// The origin may be negative (overscan). Row 0 of a display window is the top row.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Window {
    /// Leftmost column.
    pub x: i32,
    /// Topmost row.
    pub y: i32,
    /// Columns.
    pub width: u32,
    /// Rows.
    pub height: u32,
}

impl Window {
    /// A window at `(x, y)`.
    pub const fn new(x: i32, y: i32, width: u32, height: u32) -> Self {
        Self { x, y, width, height }
    }

    /// A window at the origin.
    pub const fn of_size(width: u32, height: u32) -> Self {
        Self::new(0, 0, width, height)
    }

    /// The window from left/top (inclusive) to right/bottom (exclusive); empty where they cross, and
    /// clipped to [`MAX_SIDE`] and the range of `i32`.
    pub fn from_edges(left: i64, top: i64, right: i64, bottom: i64) -> Self {
        let low = |v: i64| v.clamp(i64::from(i32::MIN / 2), i64::from(i32::MAX / 2)) as i32;
        let side = |a: i64, b: i64| b.saturating_sub(a).clamp(0, i64::from(MAX_SIDE)) as u32;
        Self::new(low(left), low(top), side(left, right), side(top, bottom))
    }

    /// The place at a share of its width and height, px.
    pub fn at_share(&self, share: DVec2) -> DVec2 {
        DVec2::new(self.x.into(), self.y.into()) + share * DVec2::new(self.width.into(), self.height.into())
    }

    /// The smallest window that holds a box of places, px, as far as it lies within another; empty where the box is none.
    pub fn around(low: DVec2, high: DVec2, within: Self) -> Self {
        if !(low.is_finite() && high.is_finite()) {
            return Self::new(within.x, within.y, 0, 0);
        }
        // Clamped first: far places are wider apart than any window.
        let x = |v: f64| v.clamp(f64::from(within.x), within.right() as f64) as i64;
        let y = |v: f64| v.clamp(f64::from(within.y), within.bottom() as f64) as i64;
        let (low, high) = (low.floor(), high.ceil());
        Self::from_edges(x(low.x), y(low.y), x(high.x), y(high.y))
    }

    /// First column to the right of the window.
    pub const fn right(&self) -> i64 {
        self.x as i64 + self.width as i64
    }

    /// First row below the window.
    pub const fn bottom(&self) -> i64 {
        self.y as i64 + self.height as i64
    }

    /// Number of pixels.
    pub const fn area(&self) -> usize {
        self.width as usize * self.height as usize
    }

    /// Whether the window holds no pixel.
    pub const fn is_empty(&self) -> bool {
        self.width == 0 || self.height == 0
    }

    /// Whether pixel `(x, y)` lies inside.
    pub const fn contains(&self, x: i32, y: i32) -> bool {
        let (x, y) = (x as i64, y as i64);
        x >= self.x as i64 && y >= self.y as i64 && x < self.right() && y < self.bottom()
    }

    /// The pixel of the sample at place `i` of a plane over this window, row after row. The window must not be
    /// empty.
    ///
    /// # Panics
    /// On a window without columns.
    pub const fn pixel_at(&self, i: usize) -> (i32, i32) {
        let width = self.width as usize;
        (self.x + (i % width) as i32, self.y + (i / width) as i32)
    }

    /// Whether every pixel of `other` lies inside (an empty window lies inside everything).
    pub fn covers(&self, other: &Self) -> bool {
        other.is_empty() || self.intersect(other) == *other
    }

    /// The pixels in both windows; an empty window where there are none.
    pub fn intersect(&self, other: &Self) -> Self {
        let left = self.x.max(other.x);
        let top = self.y.max(other.y);
        let right = self.right().min(other.right());
        let bottom = self.bottom().min(other.bottom());
        Self::from_edges(left.into(), top.into(), right, bottom)
    }

    /// What is left of it without another window that lies inside: at most four windows that share no pixel.
    pub fn without(&self, inside: &Self) -> Vec<Self> {
        let inner = self.intersect(inside);
        if inner.is_empty() {
            return vec![*self];
        }
        let (left, top): (i64, i64) = (self.x.into(), self.y.into());
        let (from, to) = (i64::from(inner.y), inner.bottom());
        [
            Self::from_edges(left, top, self.right(), from),
            Self::from_edges(left, to, self.right(), self.bottom()),
            Self::from_edges(left, from, inner.x.into(), to),
            Self::from_edges(inner.right(), from, self.right(), to),
        ]
        .into_iter()
        .filter(|w| !w.is_empty())
        .collect()
    }

    /// Grown by `px` on every side.
    pub fn grown(&self, px: u32) -> Self {
        let px = i64::from(px);
        Self::from_edges(
            i64::from(self.x) - px,
            i64::from(self.y) - px,
            self.right() + px,
            self.bottom() + px,
        )
    }

    /// The rows `y .. y + height`, as numbers.
    pub fn rows(&self) -> impl Iterator<Item = i32> + use<> {
        self.y..self.y.saturating_add_unsigned(self.height)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn windows_meet_and_miss() {
        let a = Window::new(-4, 2, 10, 5);
        assert_eq!(a.intersect(&Window::new(0, 0, 100, 4)), Window::new(0, 2, 6, 2));
        assert!(a.intersect(&Window::new(6, 2, 5, 5)).is_empty());
        assert_eq!(a.grown(3), Window::new(-7, -1, 16, 11));
        assert!(a.contains(-4, 2) && !a.contains(6, 2) && !a.contains(0, 7));
        assert!(a.covers(&Window::new(-1, 3, 2, 2)) && !a.covers(&Window::new(-5, 3, 2, 2)));
    }

    #[test]
    fn what_is_left_and_what_is_inside_make_the_whole() {
        let whole = Window::new(-3, 2, 9, 7);
        for inside in [
            Window::new(-1, 4, 3, 2),
            Window::new(-3, 2, 9, 3),
            Window::new(2, 5, 40, 40),
            whole,
            Window::default(),
        ] {
            let mut parts = whole.without(&inside);
            parts.push(whole.intersect(&inside));
            let held = |x: i32, y: i32| parts.iter().filter(|p| p.contains(x, y)).count();
            assert!(
                (0..whole.area()).all(|i| {
                    let (x, y) = whole.pixel_at(i);
                    held(x, y) == 1
                }),
                "{inside:?}"
            );
            assert_eq!(parts.iter().map(Window::area).sum::<usize>(), whole.area());
        }
    }

    #[test]
    fn places_in_a_plane_are_pixels() {
        let w = Window::new(-4, 2, 10, 5);
        assert_eq!([w.pixel_at(0), w.pixel_at(9), w.pixel_at(10)], [(-4, 2), (5, 2), (-4, 3)]);
    }

    #[test]
    fn extreme_edges_are_clipped_not_wrapped() {
        let w = Window::from_edges(i64::MIN, 0, i64::MAX, 10);
        assert_eq!((w.width, w.height), (MAX_SIDE, 10));
        assert!(Window::from_edges(5, 5, 1, 1).is_empty());
    }
}
