//! Corners of an edge: where two stretches of it meet at an angle, and how far places beyond both are from it if it is
//! mitred there, as if each stretch went on straight.
//!
//! Own derivation. The edge is walked piece by piece. Where it turns much more between 3 px before a piece and 3 px after it
//! than over the 1.5 px beyond either, it has a corner; a curve, however tight, turns evenly. Both stretches are taken to be
//! straight from there on.

use super::contour::FromEdge;
use glam::{IVec2, Vec2};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use ts_rs::TS;

/// What lies beyond a corner of an edge.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Corners {
    /// All that is as far from the corner lies on an arc around it.
    #[default]
    Round,
    /// Both sides go on straight until they meet; an acute corner is cut off at four times its distance.
    Mitred,
}

/// How many times as far from the edge as it is taken to be a place beyond a mitred corner may be: the limit that strokes have
/// in SVG 2 (`stroke-miterlimit`).
pub const LIMIT: f32 = 4.0;

/// Px of the edge to either side of a piece that tell whether there is a corner, and px beyond them that tell how it bends.
const NEAR: f32 = 3.0;
const BEYOND: f32 = 1.5;

/// The least angle that is a corner, radians.
const LEAST: f32 = 0.35;

/// A stretch of an edge as one sees it from a corner.
#[derive(Clone, Copy, Debug)]
pub(super) struct Stretch {
    /// A place on it.
    pub at: Vec2,
    /// Its direction to the inside.
    pub inward: Vec2,
    /// Whether it is known to be straight some way from the corner.
    pub straight: bool,
}

impl Stretch {
    /// The direction in which the edge is walked.
    fn along(&self) -> Vec2 {
        Vec2::new(self.inward.y, -self.inward.x)
    }
}

/// A corner.
#[derive(Clone, Copy, Debug)]
pub(super) struct Corner {
    /// Where its two stretches meet, px.
    at: Vec2,
    /// The stretch that leads to it, and the one that leads away.
    sides: [Stretch; 2],
    /// Whether the inside is less than half of what is around it.
    convex: bool,
}

impl Corner {
    /// The corner between two stretches; nothing where they hardly meet.
    fn between(sides: [Stretch; 2]) -> Option<Self> {
        let [a, b] = sides;
        let turn = a.along().perp_dot(b.along());
        if turn.abs() < 0.1 {
            return None;
        }
        let at = a.at + a.along() * ((b.at - a.at).perp_dot(b.along()) / turn);
        Some(Self { at, sides, convex: a.along().dot(b.inward) < 0.0 })
    }

    /// How far a place is from the edge that is nearest to it at the corner; nothing for one that faces a side of it that is
    /// not known to be straight.
    pub fn told(&self, place: Vec2) -> Option<FromEdge> {
        let p = place - self.at;
        let [a, b] = self.sides;
        let beyond = p.dot(a.along()) > 0.0 && p.dot(b.along()) < 0.0;
        // Outside of a convex corner is what either side has outside; inside of a hollow one what either has inside.
        let [far_a, far_b] = [p.dot(a.inward), p.dot(b.inward)];
        let (far, side) = if (far_a < far_b) == self.convex { (far_a, a) } else { (far_b, b) };
        // Beside a corner its two sides say more than pixels do that see both.
        if !beyond && !side.straight && p.length() > TIP {
            return None;
        }
        let least = p.length() / LIMIT;
        if !beyond || far.abs() >= least {
            return Some(FromEdge { far, inward: side.inward });
        }
        let out = if self.convex { -1.0 } else { 1.0 };
        Some(FromEdge { far: out * least, inward: p.normalize_or_zero() * out })
    }
}

/// Px from a corner within which it is told by its two sides alone.
const TIP: f32 = 2.5;

/// No corner.
const NONE: u32 = u32::MAX;

/// The square of a place, among squares that are larger than corners reach.
fn cell(place: Vec2) -> IVec2 {
    (place / 4.0).floor().as_ivec2()
}

/// The corners of an edge, and which of them each of its pieces is at.
#[derive(Clone, Debug, Default)]
pub(super) struct Found {
    corners: Vec<Corner>,
    at: Vec<u32>,
}

/// An edge that can be walked.
pub(super) trait Walk {
    /// How many pieces it has.
    fn len(&self) -> usize;
    /// A piece as a stretch.
    fn stretch(&self, piece: u32) -> Stretch;
    /// The piece that follows it, or the one before it; none of those where one has been.
    fn next(&self, piece: u32, back: bool, been: &[(u32, f32)]) -> Option<u32>;
}

impl Found {
    /// The corners of an edge.
    pub fn of(edge: &(impl Walk + Sync)) -> Self {
        let count = edge.len() as u32;
        let all: Vec<Option<(f32, Corner)>> =
            (0..count).into_par_iter().map(|i| corner_at(edge, i)).collect();
        let angle = |i: u32| all[i as usize].map_or(0.0, |(angle, _)| angle);
        // Of the pieces at a corner the one tells it where it is the sharpest.
        let sharpest = |i: &u32| {
            let (own, _) = all[*i as usize]?;
            let sharper = |(j, _): &(u32, f32)| angle(*j) > own || (angle(*j) == own && j < i);
            (!around(edge, *i).iter().any(sharper)).then_some(())
        };
        let corner = |i: u32| {
            let (_, rough) = all[i as usize]?;
            sharpest(&i)?;
            Some(refined(edge, i, &rough).unwrap_or(rough))
        };
        let corners: Vec<Corner> = (0..count).into_par_iter().filter_map(corner).collect();
        let mut near: HashMap<IVec2, Vec<u32>> = HashMap::new();
        for (number, corner) in (0..).zip(&corners) {
            near.entry(cell(corner.at)).or_default().push(number);
        }
        let at = |i: u32| {
            let place = edge.stretch(i).at;
            let cells = (0..9).map(|c| cell(place) + IVec2::new(c % 3 - 1, c / 3 - 1));
            let far = |number: &u32| corners[*number as usize].at.distance(place);
            let all = cells.filter_map(|c| near.get(&c)).flatten().copied();
            all.filter(|n| far(n) < CLEAR).min_by(|a, b| far(a).total_cmp(&far(b))).unwrap_or(NONE)
        };
        let at = (0..count).into_par_iter().map(at).collect();
        Self { corners, at }
    }

    /// The corner that a piece is at.
    pub fn at(&self, piece: u32) -> Option<&Corner> {
        self.corners.get(*self.at.get(piece as usize)? as usize)
    }
}

/// The first piece that is at least so far from another along the edge, with all on the way to it and how far they are.
fn walked(edge: &impl Walk, from: u32, back: bool, far: f32) -> (Option<u32>, Vec<(u32, f32)>) {
    let (mut here, mut way, mut all) = (from, 0.0, vec![(from, 0.0)]);
    let mut end = None;
    while let Some(next) = edge.next(here, back, &all) {
        way += edge.stretch(here).at.distance(edge.stretch(next).at);
        here = next;
        if way >= far {
            end = Some(here);
            break;
        }
        all.push((here, way));
    }
    all.remove(0);
    (end, all)
}

/// The pieces to either side of one, as far as a corner reaches, and how far they are.
fn around(edge: &impl Walk, piece: u32) -> Vec<(u32, f32)> {
    [true, false].into_iter().flat_map(|back| walked(edge, piece, back, NEAR + 0.5).1).collect()
}

/// The corner at a piece, with how much more the edge turns there than beside it, radians.
fn corner_at(edge: &impl Walk, piece: u32) -> Option<(f32, Corner)> {
    let before = walked(edge, piece, true, NEAR).0?;
    let after = walked(edge, piece, false, NEAR).0?;
    let turn = |a: u32, b: u32| edge.stretch(a).inward.angle_to(edge.stretch(b).inward).abs();
    let sharp = turn(before, after);
    if sharp < LEAST {
        return None;
    }
    let beyond = |from: u32, back: bool| walked(edge, from, back, BEYOND).0.map_or(0.0, |to| turn(from, to));
    let angle = sharp - 2.0 * (beyond(before, true) + beyond(after, false));
    if angle < LEAST {
        return None;
    }
    Some((angle, Corner::between([edge.stretch(before), edge.stretch(after)])?))
}

/// As far, px, a stretch is followed for its direction.
const FAR: f32 = 20.0;

/// Nearer to a corner, px, an edge is seen with what lies around the corner.
const CLEAR: f32 = 3.5;

/// Pieces that face elsewhere by more than this, radians, are part of a bend.
const BENT: f32 = 0.05;

/// A corner by as much of its two stretches as is straight: a place beyond it may be far away, and a piece alone tells its
/// direction to a degree or two.
fn refined(edge: &impl Walk, piece: u32, rough: &Corner) -> Option<Corner> {
    let [before, after] = [true, false].map(|back| straight(edge, piece, back, rough.at));
    Corner::between([before?, after?])
}

/// The stretch of an edge to one side of a piece, from where it is clear of a corner.
fn straight(edge: &impl Walk, from: u32, back: bool, corner: Vec2) -> Option<Stretch> {
    let all: Vec<Stretch> = walked(edge, from, back, FAR)
        .1
        .into_iter()
        .map(|(piece, _)| edge.stretch(piece))
        .skip_while(|s| s.at.distance(corner) < CLEAR)
        .collect();
    let first = *all.first()?;
    let of = all.iter().take_while(|s| s.inward.angle_to(first.inward).abs() < BENT);
    let places: Vec<Vec2> = of.map(|s| s.at).collect();
    let along = first.along();
    let middle = places.iter().sum::<Vec2>() / places.len() as f32;
    // Least squares of the way across over the way along.
    let (mut across, mut spread) = (0.0, 0.0);
    for p in &places {
        let (u, v) = ((*p - middle).dot(along), (*p - middle).dot(first.inward));
        across += u * v;
        spread += u * u;
    }
    if spread < LEAST_SPREAD {
        return Some(first);
    }
    let inward = (first.inward - along * (across / spread)).normalize_or(first.inward);
    Some(Stretch { at: middle, inward, straight: true })
}

/// Square px along a stretch, summed over its pieces, that tell more of its direction than one piece does.
const LEAST_SPREAD: f32 = 20.0;

#[cfg(test)]
mod tests {
    use super::*;

    /// A square corner at the origin; the inside is right of it and below.
    fn square() -> Corner {
        let side = |at: [f32; 2], inward: [f32; 2]| Stretch {
            at: at.into(),
            inward: inward.into(),
            straight: false,
        };
        Corner::between([side([0.0, 5.0], [1.0, 0.0]), side([5.0, 0.0], [0.0, 1.0])]).unwrap()
    }

    #[test]
    fn beyond_a_square_corner_both_sides_go_on_straight() {
        let corner = square();
        assert!(corner.convex && corner.at.length() < 1e-6);
        assert_eq!(corner.told(Vec2::new(-3.0, -2.0)), Some(FromEdge { far: -3.0, inward: Vec2::X }));
        assert_eq!(corner.told(Vec2::new(-1.0, -2.0)), Some(FromEdge { far: -2.0, inward: Vec2::Y }));
        assert_eq!([[1.0, -3.0], [-3.0, 1.0], [3.0, 3.0]].map(|p| corner.told(p.into())), [None; 3]);
        // So near that no pixel tells, it is the two sides everywhere.
        assert_eq!(corner.told(Vec2::new(1.0, 0.5)), Some(FromEdge { far: 0.5, inward: Vec2::Y }));
    }

    #[test]
    fn an_acute_corner_is_cut_off() {
        // 10° between its sides, which lie to either side of the axis to the right.
        let way = |degrees: f32| Vec2::from_angle(degrees.to_radians());
        let sides = [(5.0, way(5.0 - 90.0)), (-5.0, way(-5.0 + 90.0))];
        let corner =
            Corner::between(sides.map(|(a, inward)| Stretch { at: way(a) * 9.0, inward, straight: false }))
                .unwrap();
        let told = corner.told(Vec2::new(-8.0, 0.0)).unwrap();
        assert!(corner.convex && (told.far + 2.0).abs() < 1e-5, "{told:?}");
        assert!((told.inward - Vec2::X).length() < 1e-5);
    }
}
