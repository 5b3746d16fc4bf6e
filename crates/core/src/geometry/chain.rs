//! Moves of a picture, one after the other, as one map: a picture is sampled once, however often it was moved.
//!
//! Places are full-resolution px with the corner of the frame at the origin; the centre of pixel `(x, y)` lies at
//! `(x + ½, y + ½)`. All in `f64`.

use super::coordinate_map::CoordinateMap;
use super::kernel::Kernel;
use super::lattice::Lattice;
use super::lens::Lens;
use super::push::Warp;
use crate::{Scale, Window};
use glam::{DMat2, DMat3, DVec2, DVec3};
use std::sync::Arc;

/// One move.
#[derive(Clone, Debug, PartialEq)]
pub enum Move {
    /// A projective map, from the picture before it to the picture after it.
    Homography(DMat3),
    /// A bend, from the picture before it to the picture after it.
    Bend(Bend),
    /// The same bend the other way.
    Unbend(Bend),
}

impl Move {
    /// What undoes it; where everything is squeezed into a line, nothing does, and nothing is seen.
    pub fn undone(self) -> Self {
        match self {
            Self::Homography(by) => Self::Homography(by.inverse()),
            Self::Bend(bend) => Self::Unbend(bend),
            Self::Unbend(bend) => Self::Bend(bend),
        }
    }

    /// What it holds, bytes, as far as it is much.
    pub fn bytes(&self) -> usize {
        match self {
            Self::Bend(Bend::Map(map)) | Self::Unbend(Bend::Map(map)) => 1024 + map.bytes(),
            _ => 1024,
        }
    }
}

/// A map that no matrix tells.
#[derive(Clone, Debug, PartialEq)]
pub enum Bend {
    /// From what a pinhole camera would show to what a lens shows.
    Lens(Lens),
    /// Soft pushes and smears.
    Warp(Arc<Warp>),
    /// A grid of points that are dragged.
    Lattice(Arc<Lattice>),
    /// From a picture to what a coordinate map makes of it.
    Map(CoordinateMap),
}

/// A place, and how it changes with the place that was asked about: columns are what a px to the right and a px down make.
type Sloped = (DVec2, DMat2);

impl Bend {
    fn ahead(&self, place: DVec2) -> Option<Sloped> {
        match self {
            Self::Lens(lens) => lens.bent(place),
            Self::Warp(warp) => Some(warp.ahead(place)),
            Self::Lattice(lattice) => Some(lattice.ahead(place)),
            Self::Map(map) => map.ahead(place),
        }
    }

    fn back(&self, place: DVec2) -> Option<Sloped> {
        match self {
            Self::Lens(lens) => lens.straightened(place),
            Self::Warp(warp) => Some(warp.back(place)),
            Self::Lattice(lattice) => lattice.back(place),
            Self::Map(map) => map.back(place),
        }
    }

    fn is_none(&self) -> bool {
        match self {
            Self::Lens(lens) => lens.is_none(),
            Self::Warp(warp) => warp.is_none(),
            Self::Lattice(lattice) => lattice.is_none(),
            Self::Map(map) => map.is_none(),
        }
    }

    /// The smallest length over which it bends, px.
    fn detail(&self) -> f64 {
        match self {
            Self::Lens(_) => f64::INFINITY,
            Self::Warp(warp) => warp.detail(),
            Self::Lattice(lattice) => lattice.detail(),
            Self::Map(_) => 1.0,
        }
    }
}

/// A map that can be followed both ways.
#[derive(Clone, Debug, PartialEq)]
enum Stage {
    Projective {
        forward: DMat3,
        /// `None` where everything is squeezed into a line or a point.
        backward: Option<DMat3>,
    },
    Bent {
        bend: Bend,
        undone: bool,
    },
}

impl Stage {
    fn projective(forward: DMat3) -> Self {
        let inverse = forward.inverse();
        let sound = forward.determinant().abs() > 1e-12 && inverse.is_finite();
        Self::Projective { forward, backward: sound.then_some(inverse) }
    }

    fn of(next: Move) -> Self {
        match next {
            Move::Homography(forward) => Self::projective(forward),
            Move::Bend(bend) => Self::Bent { bend, undone: false },
            Move::Unbend(bend) => Self::Bent { bend, undone: true },
        }
    }

    fn is_identity(&self) -> bool {
        match self {
            Self::Projective { forward, .. } => {
                let off = *forward - DMat3::IDENTITY * forward.z_axis.z;
                // Less than 1e-9 px anywhere in a frame of 100,000 px.
                let size = |c: DVec3, px: f64| (c.x.abs() + c.y.abs()) * px + c.z.abs() * px * px;
                size(off.x_axis, 1e5) + size(off.y_axis, 1e5) + size(off.z_axis, 1.0) < 1e-4
                    && off.x_axis.z.abs() + off.y_axis.z.abs() < 1e-15
            }
            Self::Bent { bend, .. } => bend.is_none(),
        }
    }

    fn source(&self, p: DVec2) -> Option<Sloped> {
        match self {
            Self::Projective { backward, .. } => projected(backward.as_ref()?, p),
            Self::Bent { bend, undone: false } => bend.back(p),
            Self::Bent { bend, undone: true } => bend.ahead(p),
        }
    }

    fn forward(&self, p: DVec2) -> Option<DVec2> {
        match self {
            Self::Projective { forward, .. } => projected(forward, p).map(|(q, _)| q),
            Self::Bent { bend, undone: false } => bend.ahead(p).map(|(q, _)| q),
            Self::Bent { bend, undone: true } => bend.back(p).map(|(q, _)| q),
        }
    }
}

/// What lies nearer to the horizon than this share of the weight of what is in front is not drawn.
const HORIZON: f64 = 1e-4;

/// Moves in the order in which they happen.
#[derive(Clone, Debug, PartialEq)]
pub struct Chain {
    stages: Vec<Stage>,
    /// Full-resolution px, in which the stages are told, for a px.
    step: f64,
    /// How the picture is read.
    pub kernel: Kernel,
}

impl Default for Chain {
    fn default() -> Self {
        Self { stages: Vec::new(), step: 1.0, kernel: Kernel::default() }
    }
}

impl Chain {
    /// Moves in the order in which they happen; neighbours that are one map together become one, and what undoes the one
    /// before it goes with it.
    pub fn of(moves: impl IntoIterator<Item = Move>) -> Self {
        let mut chain = Self::default();
        moves.into_iter().for_each(|next| chain.add(Stage::of(next)));
        chain
    }

    fn add(&mut self, next: Stage) {
        if next.is_identity() {
            return;
        }
        match (self.stages.last(), &next) {
            (Some(Stage::Projective { forward: before, .. }), Stage::Projective { forward, .. }) => {
                let both = Stage::projective(*forward * *before);
                self.stages.pop();
                self.add(both);
            }
            (Some(Stage::Bent { bend: a, undone: x }), Stage::Bent { bend: b, undone: y })
                if x != y && a == b =>
            {
                self.stages.pop();
            }
            _ => self.stages.push(next),
        }
    }

    /// With one more move at the end.
    pub fn then(&self, next: Move) -> Self {
        let mut chain = self.clone();
        chain.add(Stage::of(next));
        chain
    }

    /// Read by a kernel.
    pub fn read_by(self, kernel: Kernel) -> Self {
        Self { kernel, ..self }
    }

    /// The same moves in px of a scale.
    pub fn at(&self, scale: Scale) -> Self {
        Self { step: f64::from(scale.step()), ..self.clone() }
    }

    /// Whether nothing is moved: then every bit of a picture stays.
    pub fn is_identity(&self) -> bool {
        self.stages.is_empty()
    }

    /// Whether it is one projective map.
    pub fn is_projective(&self) -> bool {
        self.stages.iter().all(|s| matches!(s, Stage::Projective { .. }))
    }

    /// The coordinate map, where the chain is nothing else, at full resolution: its pixels are read as they stand.
    pub(super) fn only_map(&self) -> Option<&CoordinateMap> {
        match self.stages.as_slice() {
            [Stage::Bent { bend: Bend::Map(map), undone: false }] if self.step == 1.0 => Some(map),
            _ => None,
        }
    }

    /// The smallest length over which it bends, px.
    pub fn detail(&self) -> f64 {
        let of = |s: &Stage| match s {
            Stage::Projective { .. } => f64::INFINITY,
            Stage::Bent { bend, .. } => bend.detail(),
        };
        self.stages.iter().map(of).fold(f64::INFINITY, f64::min) / self.step
    }

    /// Where a place of the moved picture comes from; `None` where nothing comes from.
    pub fn source(&self, place: DVec2) -> Option<DVec2> {
        self.source_with_slope(place).map(|(q, _)| q)
    }

    /// Where a place of the picture goes; `None` where it is not seen.
    pub fn forward(&self, place: DVec2) -> Option<DVec2> {
        let to = self.stages.iter().try_fold(place * self.step, |p, s| s.forward(p))?;
        Some(to / self.step)
    }

    /// Where a place of the moved picture comes from, and how that changes with the place: columns are what a px to the
    /// right and a px down make.
    pub fn source_with_slope(&self, place: DVec2) -> Option<(DVec2, DMat2)> {
        let start = (place * self.step, DMat2::IDENTITY);
        let (q, slope) = self.stages.iter().rev().try_fold(start, |(p, slope), s| {
            let (q, own) = s.source(p)?;
            Some((q, own * slope))
        })?;
        Some((q / self.step, slope))
    }

    /// The window that a picture on `window` covers after the moves, with what the kernel spreads; kept inside `within`.
    pub fn extent(&self, window: Window, within: Window) -> Window {
        if self.is_identity() || window.is_empty() {
            return window;
        }
        let grown = window.grown(self.kernel.radius().ceil() as u32);
        let outline = self.stages.iter().try_fold(self.outline(grown), |c, s| match s {
            Stage::Projective { forward, .. } => followed(*forward, &c),
            Stage::Bent { .. } => bent(&c, |p| s.forward(p)),
        });
        self.boxed(outline.as_deref(), within)
    }

    /// The part of a picture that `window` of the picture moved by a projective map is made of, as far as it lies in `within`.
    pub(super) fn projective_part(&self, window: Window, within: Window) -> Window {
        // A footprint is at most √2 as long as what a px away comes from, and never less than the kernel.
        let radius = self.kernel.radius();
        let grown = window.grown((radius * 1.5).ceil() as u32 + 1);
        let outline = self.stages.iter().rev().try_fold(self.outline(grown), |c, s| match s {
            Stage::Projective { backward, .. } => followed((*backward)?, &c),
            Stage::Bent { .. } => None,
        });
        self.boxed(outline.as_deref(), within)
    }

    /// Points along the edge of a window, full-resolution px: its corners, and more where a bend follows.
    fn outline(&self, w: Window) -> Vec<DVec2> {
        let (l, t, r, b) = (f64::from(w.x), f64::from(w.y), w.right() as f64, w.bottom() as f64);
        let corners =
            [DVec2::new(l, t), DVec2::new(r, t), DVec2::new(r, b), DVec2::new(l, b)].map(|p| p * self.step);
        if self.is_projective() {
            return corners.to_vec();
        }
        let along = |i: usize| {
            let (a, b) = (corners[i], corners[(i + 1) % 4]);
            (0..ALONG).map(move |k| a.lerp(b, f64::from(k) / f64::from(ALONG)))
        };
        let inside = (1..INSIDE * INSIDE).map(|i| {
            let share = DVec2::new(f64::from(i % INSIDE), f64::from(i / INSIDE)) / f64::from(INSIDE);
            corners[0] + (corners[2] - corners[0]) * share
        });
        (0..4).flat_map(along).chain(inside).collect()
    }

    fn boxed(&self, corners: Option<&[DVec2]>, within: Window) -> Window {
        let Some(corners) = corners.filter(|c| c.iter().all(|p| p.is_finite())) else {
            return Window::new(within.x, within.y, 0, 0);
        };
        let low = corners.iter().copied().fold(DVec2::INFINITY, DVec2::min) / self.step;
        let high = corners.iter().copied().fold(DVec2::NEG_INFINITY, DVec2::max) / self.step;
        let found = Window::around(low, high, within);
        // Between the points along an edge a bend may reach a little farther.
        if self.is_projective() { found } else { found.grown(2).intersect(&within) }
    }
}

/// Points along each edge of a window that is followed through a bend, and along a row of those inside.
const ALONG: u32 = 64;
const INSIDE: u32 = 24;

/// The strongest shrinking that is filtered in full; beyond it samples are left out.
pub const MOST_SHRINK: f64 = 64.0;

/// A place through a projective map, with its slope.
fn projected(map: &DMat3, place: DVec2) -> Option<Sloped> {
    let p = *map * place.extend(1.0);
    if !(p.z > HORIZON * 1e-4 && p.is_finite()) {
        return None;
    }
    let q = p.truncate() / p.z;
    let of = |c: DVec3| (c.truncate() - q * c.z) / p.z;
    Some((q, DMat2::from_cols(of(map.x_axis), of(map.y_axis))))
}

/// Points through a bend: those that are seen. `None` if none is.
fn bent(points: &[DVec2], through: impl Fn(DVec2) -> Option<DVec2>) -> Option<Vec<DVec2>> {
    let seen: Vec<DVec2> = points.iter().filter_map(|p| through(*p)).collect();
    (!seen.is_empty()).then_some(seen)
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

#[cfg(test)]
mod tests {
    use super::super::field::Field;
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
        let part = |chain: &Chain, window| Field::of(chain, window).part(within);
        assert!(part(&chain, Window::new(20, 20, 10, 10)).covers(&Window::new(9, 9, 7, 7)));
        assert_eq!(part(&Chain::default(), frame), frame);
        // A picture squeezed into a line is nothing.
        let flat = Chain::of([Move::Homography(DMat3::from_diagonal(DVec3::new(1.0, 0.0, 1.0)))]);
        assert_eq!(flat.source(DVec2::new(3.0, 0.0)), None);
        assert!(part(&flat, frame).is_empty());
        // A floor that runs to the horizon ends there, inside what may be held.
        let floor =
            Chain::of([Move::Homography(DMat3::from_cols_array(&[1., 0., 0., 0., 1., 0.02, 0., 0., -0.2]))]);
        let seen = floor.extent(frame, within);
        assert!(!seen.is_empty() && within.covers(&seen), "{seen:?}");
    }
}
