//! Mattes painted with a brush. A stroke is kept as the points of its path, so that it is the same at every scale.

use super::outlines::to_segment;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::Vec2;

/// One stroke of a brush, in px of the window that is painted on.
#[derive(Clone, Debug, PartialEq)]
pub struct Stroke {
    /// The path.
    pub points: Vec<Vec2>,
    /// Width of the brush.
    pub size: f32,
    /// Share of the radius over which it fades, 0 hard, 1 soft to its middle.
    pub softness: f32,
    /// What the middle of the brush lays down, 0..1. A stroke does not add up over itself.
    pub flow: f32,
    /// Whether it takes away instead.
    pub erases: bool,
}

impl Stroke {
    /// What the brush lays down at a distance from the path.
    fn profile(&self, far: f32) -> f32 {
        let radius = self.size * 0.5;
        // A hard edge is still as soft as a pixel.
        let fade = (self.softness * radius).max(1.0);
        let t = ((radius + 0.5 * fade.min(1.0) - far) / fade).clamp(0.0, 1.0);
        self.flow * if self.softness > 0.0 { t * t * (3.0 - 2.0 * t) } else { t }
    }

    /// Pixels that it may touch.
    fn bounds(&self, a: Vec2, b: Vec2) -> Window {
        let room = Vec2::splat(self.size * 0.5 + 2.0);
        let (low, high) = ((a.min(b) - room).floor(), (a.max(b) + room).ceil());
        Window::from_edges(low.x as i64, low.y as i64, high.x as i64, high.y as i64)
    }
}

/// Paints strokes on a matte of zeros, one after the other: what a stroke lays down covers, what it erases is taken
/// away.
///
/// # Errors
/// Cancellation.
pub fn paint(window: Window, strokes: &[Stroke], cancel: &Cancel) -> Result<Raster, KernelError> {
    let paths: Vec<Path<'_>> = strokes.iter().filter_map(Path::of).collect();
    let mut out = Raster::zeros(window, 1);
    for_each_band(&mut out, cancel, |band| {
        let mut laid = vec![0.0; window.width as usize];
        for path in &paths {
            if path.bounds.intersect(&band.window()).is_empty() {
                continue;
            }
            for y in band.window().rows() {
                if cancel.is_cancelled() || !path.lay(y, window, &mut laid) {
                    continue;
                }
                for (m, s) in band.row(0, y).iter_mut().zip(&mut laid) {
                    *m = if path.stroke.erases { *m * (1.0 - *s) } else { *m + (1.0 - *m) * *s };
                    *s = 0.0;
                }
            }
        }
    })?;
    Ok(out)
}

/// Points of a path nearer to each other than this share of the brush's radius, and a quarter of a px, are one: nobody
/// sees the difference, and a hand writes many of them.
const SAME: f32 = 0.004;

/// A stroke on its way onto a matte.
struct Path<'a> {
    stroke: &'a Stroke,
    /// The path without the points that say nothing.
    points: Vec<Vec2>,
    /// Pixels that it may touch.
    bounds: Window,
}

impl<'a> Path<'a> {
    fn of(stroke: &'a Stroke) -> Option<Self> {
        let (first, last) = (*stroke.points.first()?, *stroke.points.last()?);
        let near = 0.25 + SAME * 0.5 * stroke.size;
        let mut points = vec![first];
        for p in &stroke.points {
            if p.distance(points[points.len() - 1]) > near {
                points.push(*p);
            }
        }
        points.push(last);
        let ends = |pick: fn(Vec2, Vec2) -> Vec2| points.iter().copied().reduce(pick).unwrap_or(first);
        let bounds = stroke.bounds(ends(Vec2::min), ends(Vec2::max));
        Some(Self { stroke, points, bounds })
    }

    /// Lays a row of the stroke on zeros; whether it touched any.
    fn lay(&self, y: i32, window: Window, laid: &mut [f32]) -> bool {
        let row = Window::new(window.x, y, window.width, 1);
        let mut any = false;
        for pair in self.points.windows(2) {
            let (a, b) = (pair[0], pair[1]);
            let part = self.stroke.bounds(a, b).intersect(&row);
            if part.is_empty() {
                continue;
            }
            any = true;
            let from = (part.x - window.x) as usize;
            let mut least = f32::INFINITY;
            for (x, v) in (part.x..).zip(&mut laid[from..from + part.width as usize]) {
                let far = to_segment(Vec2::new(x as f32 + 0.5, y as f32 + 0.5), a, b).sqrt();
                *v = v.max(self.stroke.profile(far));
                least = least.min(*v);
            }
            // Where the whole row has all that the brush can lay down, the rest of the path adds nothing.
            if part.width == window.width && least >= self.stroke.flow {
                break;
            }
        }
        any
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const W: Window = Window::new(-5, -5, 100, 60);

    fn stroke(points: &[[f32; 2]]) -> Stroke {
        let points = points.iter().map(|p| Vec2::from(*p)).collect();
        Stroke { points, size: 20.0, softness: 0.0, flow: 1.0, erases: false }
    }

    fn paint_all(strokes: &[Stroke]) -> Raster {
        paint(W, strokes, &Cancel::new()).unwrap()
    }

    #[test]
    fn a_dab_is_a_disc_and_a_line_a_capsule() {
        let sum = |m: &Raster| m.plane(0).iter().sum::<f32>();
        let disc = std::f32::consts::PI * 100.0;
        let dab = paint_all(&[stroke(&[[40.0, 20.0]])]);
        assert!((sum(&dab) / disc - 1.0).abs() < 0.02, "{}", sum(&dab));
        let line = paint_all(&[stroke(&[[30.0, 20.0], [70.0, 20.0]])]);
        assert!((sum(&line) / (disc + 800.0) - 1.0).abs() < 0.02, "{}", sum(&line));
    }

    #[test]
    fn flow_adds_up_over_strokes_and_not_within_one() {
        let half = |points: &[[f32; 2]]| Stroke { flow: 0.5, ..stroke(points) };
        let crossing = half(&[[20.0, 20.0], [60.0, 20.0], [40.0, 5.0], [40.0, 40.0]]);
        assert_eq!(paint_all(std::slice::from_ref(&crossing)).sample(0, 40, 20), Some(0.5));
        assert_eq!(paint_all(&[crossing.clone(), crossing.clone()]).sample(0, 40, 20), Some(0.75));
        let erased = Stroke { erases: true, ..crossing.clone() };
        assert_eq!(paint_all(&[crossing, erased]).sample(0, 40, 20), Some(0.25));
    }

    #[test]
    fn a_soft_brush_fades_from_its_middle_and_ends_where_a_hard_one_does() {
        let soft = paint_all(&[Stroke { softness: 1.0, ..stroke(&[[40.5, 20.5]]) }]);
        let at = |x: i32| soft.sample(0, x, 20).unwrap();
        assert!(at(40) == 1.0 && at(43) > at(46) && at(46) > at(49) && at(51) == 0.0);
    }

    #[test]
    fn a_window_in_pieces_is_the_same() {
        let strokes = [
            stroke(&[[-3.0, 4.0], [50.0, 33.0], [90.0, 2.0]]),
            Stroke { erases: true, size: 7.0, ..stroke(&[[45.0, 30.0]]) },
        ];
        let whole = paint_all(&strokes);
        let part = Window::new(30, 10, 33, 21);
        assert_eq!(paint(part, &strokes, &Cancel::new()).unwrap(), whole.cropped(part, 0.0));
        assert_eq!(paint_all(&[stroke(&[])]), Raster::zeros(W, 1));
    }
}
