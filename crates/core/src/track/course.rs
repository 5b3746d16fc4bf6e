//! Where a followed region is on each frame, with what somebody put right by hand.

use super::quad::{Quad, all_through};
use crate::geometry::place::between;
use glam::DMat3;

/// The region on one frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Mark {
    /// The frame.
    pub frame: i32,
    /// Its corners there, full-resolution px.
    pub corners: Quad,
    /// Share of it that is seen and looks as it did (0..1).
    pub fits: f32,
    /// How far the corners may be off, px.
    pub unsure: f32,
}

/// What somebody put right: where a quad of the first frame really is on another.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Correction {
    /// The frame.
    pub frame: i32,
    /// Corners on the frame on which the region was drawn.
    pub from: Quad,
    /// Where they are here.
    pub to: Quad,
}

/// A region over time.
#[derive(Clone, Debug, PartialEq)]
pub struct Course {
    /// The frame on which it was drawn.
    pub at: i32,
    /// Its corners there.
    pub corners: Quad,
    /// Where it was found, by ascending frame.
    pub marks: Vec<Mark>,
}

impl Course {
    /// What was found on a frame, if it was looked at.
    pub fn mark(&self, frame: i32) -> Option<&Mark> {
        self.marks.binary_search_by_key(&frame, |m| m.frame).ok().map(|i| &self.marks[i])
    }

    /// The corners on a frame as they were found; where they were not, on the way between the frames before and after it on
    /// which they were, or as on the last of those.
    fn found(&self, frame: i32) -> Quad {
        let on = |m: &Mark| (m.frame, m.corners);
        let found = || self.marks.iter().filter(|m| m.fits > 0.0);
        let before = found().rev().find(|m| m.frame <= frame).map(on);
        let after = found().find(|m| m.frame >= frame).map(on);
        between_frames(before, after, frame).unwrap_or(self.corners)
    }

    /// From the frame on which the region was drawn to another one. What was put right on some frames is carried on to those
    /// between them, and fades to nothing where the region was drawn.
    pub fn by(&self, frame: i32, corrections: &[Correction]) -> DMat3 {
        let mut corners = self.found(frame);
        let off = |c: &Correction| {
            let was = self.found(c.frame);
            let right = between(c.from, c.to).and_then(|by| all_through(&self.corners, by))?;
            Some((c.frame, [0, 1, 2, 3].map(|i| right[i] - was[i])))
        };
        let mut offs: Vec<(i32, Quad)> = corrections.iter().filter_map(off).collect();
        if !offs.is_empty() {
            if offs.iter().all(|(f, _)| *f != self.at) {
                offs.push((self.at, Quad::default()));
            }
            offs.sort_by_key(|(f, _)| *f);
            let before = offs.iter().rev().find(|(f, _)| *f <= frame).copied();
            let after = offs.iter().find(|(f, _)| *f >= frame).copied();
            let by = between_frames(before, after, frame).unwrap_or_default();
            (0..4).for_each(|i| corners[i] += by[i]);
        }
        between(self.corners, corners).unwrap_or(DMat3::IDENTITY)
    }
}

fn between_frames(before: Option<(i32, Quad)>, after: Option<(i32, Quad)>, frame: i32) -> Option<Quad> {
    match (before, after) {
        (Some((a, from)), Some((b, to))) if b > a => {
            let t = f64::from(frame - a) / f64::from(b - a);
            Some([0, 1, 2, 3].map(|i| from[i].lerp(to[i], t)))
        }
        (Some((_, only)), _) | (None, Some((_, only))) => Some(only),
        (None, None) => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::DVec2;

    const QUAD: Quad =
        [DVec2::new(10.0, 10.0), DVec2::new(90.0, 12.0), DVec2::new(88.0, 70.0), DVec2::new(12.0, 66.0)];

    fn moved(by: f64) -> Quad {
        QUAD.map(|c| c + DVec2::new(by, 0.5 * by))
    }

    fn course() -> Course {
        let mark = |frame: i32| Mark { frame, corners: moved(frame.into()), fits: 1.0, unsure: 0.0 };
        let lost = Mark { fits: 0.0, ..mark(30) };
        let lost = Mark { frame: 3, ..lost };
        Course { at: 0, corners: QUAD, marks: vec![mark(0), mark(1), mark(2), lost, mark(4)] }
    }

    fn first(course: &Course, frame: i32, corrections: &[Correction]) -> DVec2 {
        super::super::quad::through(course.by(frame, corrections), QUAD[0]).unwrap()
    }

    #[test]
    fn frames_between_lie_on_the_way_and_those_beyond_stay() {
        let c = course();
        for (frame, by) in [(0, 0.0), (2, 2.0), (3, 3.0), (4, 4.0), (9, 4.0), (-3, 0.0)] {
            assert!(first(&c, frame, &[]).distance(moved(by)[0]) < 1e-9, "{frame}");
        }
        assert_eq!(c.mark(5), None);
        assert_eq!(c.mark(4).map(|m| m.frame), Some(4));
    }

    #[test]
    fn what_is_put_right_on_one_frame_fades_to_the_first() {
        let c = course();
        let to = moved(4.0).map(|p| p + DVec2::new(0.0, 8.0));
        let right = [Correction { frame: 4, from: QUAD, to }];
        assert!(first(&c, 4, &right).distance(to[0]) < 1e-9);
        assert!(first(&c, 2, &right).distance(moved(2.0)[0] + DVec2::new(0.0, 4.0)) < 1e-9);
        assert!(first(&c, 0, &right).distance(QUAD[0]) < 1e-9);
        assert!(first(&c, -5, &right).distance(QUAD[0]) < 1e-9);
    }
}
