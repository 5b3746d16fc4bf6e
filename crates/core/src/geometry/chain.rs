//! Moves of a picture, one after the other, as one map: a picture is sampled once, however often it was moved.
//!
//! Places are full-resolution px with the corner of the frame at the origin; the centre of pixel `(x, y)` lies at
//! `(x + ½, y + ½)`. All in `f64`.

use super::kernel::Kernel;
use crate::{Scale, Window};
use glam::{DMat2, DMat3, DVec2, DVec3};

/// One move.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Move {
    /// A projective map, from the picture before it to the picture after it.
    Homography(DMat3),
}

/// A map that can be followed both ways.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Stage {
    forward: DMat3,
    /// `None` where everything is squeezed into a line or a point.
    backward: Option<DMat3>,
}

impl Stage {
    fn new(forward: DMat3) -> Self {
        let inverse = forward.inverse();
        let sound = forward.determinant().abs() > 1e-12 && inverse.is_finite();
        Self { forward, backward: sound.then_some(inverse) }
    }

    fn is_identity(&self) -> bool {
        let off = self.forward - DMat3::IDENTITY * self.forward.z_axis.z;
        // Less than 1e-9 px anywhere in a frame of 100,000 px.
        let size = |c: DVec3, px: f64| (c.x.abs() + c.y.abs()) * px + c.z.abs() * px * px;
        size(off.x_axis, 1e5) + size(off.y_axis, 1e5) + size(off.z_axis, 1.0) < 1e-4
            && off.x_axis.z.abs() + off.y_axis.z.abs() < 1e-15
    }
}

/// What lies nearer to the horizon than this share of the weight of what is in front is not drawn.
const HORIZON: f64 = 1e-4;

/// Moves in the order in which they happen.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Chain {
    stages: Vec<Stage>,
    /// How the picture is read.
    pub kernel: Kernel,
}

impl Chain {
    /// Moves in the order in which they happen; neighbours that are one map together become one.
    pub fn of(moves: impl IntoIterator<Item = Move>) -> Self {
        let mut chain = Self::default();
        for Move::Homography(matrix) in moves {
            let before = chain.stages.pop();
            chain.stages.push(Stage::new(before.map_or(matrix, |b| matrix * b.forward)));
        }
        chain.stages.retain(|s| !s.is_identity());
        chain
    }

    /// With one more move at the end.
    pub fn then(&self, next: Move) -> Self {
        let before = self.stages.iter().map(|s| Move::Homography(s.forward));
        Self::of(before.chain([next])).read_by(self.kernel)
    }

    /// Read by a kernel.
    pub fn read_by(self, kernel: Kernel) -> Self {
        Self { kernel, ..self }
    }

    /// The same moves in px of a scale.
    pub fn at(&self, scale: Scale) -> Self {
        if scale == Scale::FULL || self.is_identity() {
            return self.clone();
        }
        let n = f64::from(scale.step());
        let (down, up) = (DVec3::new(1.0 / n, 1.0 / n, 1.0), DVec3::new(n, n, 1.0));
        let scaled =
            |s: &Stage| Stage::new(DMat3::from_diagonal(down) * s.forward * DMat3::from_diagonal(up));
        Self { stages: self.stages.iter().map(scaled).collect(), kernel: self.kernel }
    }

    /// Whether nothing is moved: then every bit of a picture stays.
    pub fn is_identity(&self) -> bool {
        self.stages.is_empty()
    }

    /// The numbers that decide the map, for content hashes.
    pub fn key(&self) -> (Vec<[f64; 9]>, Kernel) {
        (self.stages.iter().map(|s| s.forward.to_cols_array()).collect(), self.kernel)
    }

    /// Where a place of the moved picture comes from; `None` where nothing comes from.
    pub fn source(&self, place: DVec2) -> Option<DVec2> {
        self.stages.iter().rev().try_fold(place, |p, s| projected(s.backward? * p.extend(1.0)))
    }

    /// Where a place of the picture goes; `None` where it is not seen.
    pub fn forward(&self, place: DVec2) -> Option<DVec2> {
        self.stages.iter().try_fold(place, |p, s| projected(s.forward * p.extend(1.0)))
    }

    /// Where a place of the moved picture comes from, and how that changes with the place: columns are what a px to the
    /// right and a px down make.
    pub fn source_with_slope(&self, place: DVec2) -> Option<(DVec2, DMat2)> {
        self.stages.iter().rev().try_fold((place, DMat2::IDENTITY), |(p, slope), s| {
            let b = s.backward?;
            let q = projected(b * p.extend(1.0))?;
            let w = (b * p.extend(1.0)).z;
            let of = |c: DVec3| (c.truncate() - q * c.z) / w;
            Some((q, DMat2::from_cols(of(b.x_axis), of(b.y_axis)) * slope))
        })
    }

    /// The window that a picture on `window` covers after the moves, with what the kernel spreads; kept inside `within`.
    pub fn extent(&self, window: Window, within: Window) -> Window {
        if self.is_identity() || window.is_empty() {
            return window;
        }
        let grown = window.grown(self.kernel.radius().ceil() as u32);
        let corners = self.stages.iter().try_fold(corners_of(grown), |c, s| followed(s.forward, &c));
        boxed(corners.as_deref(), within)
    }

    /// The part of a picture that `window` of the moved picture is made of, as far as it lies in `within`.
    pub fn part(&self, window: Window, within: Window) -> Window {
        if self.is_identity() {
            return window;
        }
        // A footprint is at most √2 as long as what a px away comes from, and never less than the kernel.
        let radius = self.kernel.radius();
        let grown = window.grown((radius * 1.5).ceil() as u32 + 1);
        let corners = self.stages.iter().rev().try_fold(corners_of(grown), |c, s| followed(s.backward?, &c));
        let found = boxed(corners.as_deref(), within.grown(MOST_SHRINK as u32 * 4));
        found.grown(radius.ceil() as u32 + 2).intersect(&within)
    }
}

/// The strongest shrinking that is filtered in full; beyond it samples are left out.
pub const MOST_SHRINK: f64 = 64.0;

fn projected(p: DVec3) -> Option<DVec2> {
    let seen = p.z > HORIZON * 1e-4 && p.is_finite();
    seen.then(|| p.truncate() / p.z)
}

fn corners_of(w: Window) -> Vec<DVec2> {
    let (l, t, r, b) = (f64::from(w.x), f64::from(w.y), w.right() as f64, w.bottom() as f64);
    vec![DVec2::new(l, t), DVec2::new(r, t), DVec2::new(r, b), DVec2::new(l, b)]
}

/// A polygon through a projective map: what lies behind the viewer is cut off. `None` if nothing is left.
fn followed(map: DMat3, corners: &[DVec2]) -> Option<Vec<DVec2>> {
    let ends: Vec<DVec3> = corners.iter().map(|p| map * p.extend(1.0)).collect();
    let front = ends.iter().map(|p| p.z).fold(0.0, f64::max) * HORIZON;
    let mut seen = Vec::with_capacity(ends.len() + 1);
    for (i, &a) in ends.iter().enumerate() {
        let b = ends[(i + 1) % ends.len()];
        if a.z > front {
            seen.push(a.truncate() / a.z);
        }
        if (a.z > front) != (b.z > front) {
            let cut = a.lerp(b, (front - a.z) / (b.z - a.z));
            seen.push(cut.truncate() / front.max(1e-12));
        }
    }
    (!seen.is_empty()).then_some(seen)
}

fn boxed(corners: Option<&[DVec2]>, within: Window) -> Window {
    let Some(corners) = corners.filter(|c| c.iter().all(|p| p.is_finite())) else {
        return Window::new(within.x, within.y, 0, 0);
    };
    let low = corners.iter().copied().fold(DVec2::INFINITY, DVec2::min).floor();
    let high = corners.iter().copied().fold(DVec2::NEG_INFINITY, DVec2::max).ceil();
    // Clamped first: far corners are wider apart than any window.
    let x = |v: f64| v.clamp(f64::from(within.x), within.right() as f64) as i64;
    let y = |v: f64| v.clamp(f64::from(within.y), within.bottom() as f64) as i64;
    Window::from_edges(x(low.x), y(low.y), x(high.x), y(high.y))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn scaled(k: f64) -> Move {
        Move::Homography(DMat3::from_diagonal(DVec3::new(k, k, 1.0)))
    }

    #[test]
    fn moves_that_undo_each_other_are_none() {
        let turn = |a: f64| Move::Homography(DMat3::from_angle(a));
        assert!(Chain::of([scaled(0.3), turn(0.7), turn(-0.7), scaled(1.0 / 0.3)]).is_identity());
        assert!(!Chain::of([Move::Homography(DMat3::from_translation(DVec2::new(1e-3, 0.0)))]).is_identity());
        assert!(Chain::of([]).is_identity());
    }

    #[test]
    fn a_scale_measures_the_same_moves_in_its_own_px() {
        let chain = Chain::of([Move::Homography(DMat3::from_cols_array(&[
            1.1, 0.2, 1e-3, -0.3, 0.9, -5e-4, 12.0, -7.0, 1.0,
        ]))]);
        let half = Scale::halved(1).unwrap();
        let place = DVec2::new(40.0, 30.0);
        let apart = chain.at(half).source(place * 0.5).unwrap() * 2.0 - chain.source(place).unwrap();
        assert!(apart.length() < 1e-9, "{apart}");
    }

    #[test]
    fn slopes_are_those_of_small_steps() {
        let tilted = DMat3::from_cols_array(&[1.1, 0.2, 1e-3, -0.3, 0.9, -5e-4, 12.0, -7.0, 1.0]);
        let chain = Chain::of([scaled(1.7), Move::Homography(tilted)]);
        for place in [DVec2::new(3.0, 4.0), DVec2::new(300.0, -120.0)] {
            let (q, slope) = chain.source_with_slope(place).unwrap();
            assert_eq!(Some(q), chain.source(place));
            assert!((chain.forward(q).unwrap() - place).length() < 1e-9);
            for (column, step) in [(slope.x_axis, DVec2::X), (slope.y_axis, DVec2::Y)] {
                let h = 1e-4;
                let to = |k: f64| chain.source(place + step * k).unwrap();
                let told = (to(h) - to(-h)) / (2.0 * h);
                assert!((column - told).length() < 1e-7, "{column} {told}");
            }
        }
    }

    #[test]
    fn extents_hold_what_is_moved_and_parts_what_it_is_made_of() {
        let (frame, within) = (Window::of_size(100, 50), Window::new(-1000, -1000, 3000, 3000));
        let chain = Chain::of([scaled(2.0)]).read_by(Kernel::Bilinear);
        assert_eq!(chain.extent(frame, within), Window::new(-2, -2, 204, 104));
        assert!(chain.part(Window::new(20, 20, 10, 10), within).covers(&Window::new(9, 9, 7, 7)));
        assert_eq!(Chain::default().part(frame, within), frame);
        // A picture squeezed into a line is nothing.
        let flat = Chain::of([Move::Homography(DMat3::from_diagonal(DVec3::new(1.0, 0.0, 1.0)))]);
        assert_eq!(flat.source(DVec2::new(3.0, 0.0)), None);
        assert!(flat.part(frame, within).is_empty());
        // A floor that runs to the horizon ends there, inside what may be held.
        let floor =
            Chain::of([Move::Homography(DMat3::from_cols_array(&[1., 0., 0., 0., 1., 0.02, 0., 0., -0.2]))]);
        let seen = floor.extent(frame, within);
        assert!(!seen.is_empty() && within.covers(&seen), "{seen:?}");
    }
}
