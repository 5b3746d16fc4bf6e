//! Mattes painted with a brush. A stroke is kept as the points of its path, so that it is the same at every scale.

use super::shapes::to_segment;
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
    let mut out = Raster::zeros(window, 1);
    let mut laid = Raster::zeros(window, 1);
    for stroke in strokes {
        cancel.check()?;
        let Some(touched) = lay(&mut laid, stroke) else { continue };
        for y in touched.rows() {
            let from = (touched.x - window.x) as usize;
            let part = from..from + touched.width as usize;
            let laid = &mut laid.row_mut(0, y)[part.clone()];
            for (m, s) in out.row_mut(0, y)[part].iter_mut().zip(laid) {
                *m = if stroke.erases { *m * (1.0 - *s) } else { *m + (1.0 - *m) * *s };
                *s = 0.0;
            }
        }
    }
    Ok(out)
}

/// Lays one stroke on a plane of zeros; the pixels that it may have touched.
fn lay(laid: &mut Raster, stroke: &Stroke) -> Option<Window> {
    let window = laid.window();
    let mut touched: Option<Window> = None;
    let one = [stroke.points.first().copied()?; 2];
    let pairs = if stroke.points.len() == 1 { &one[..] } else { &stroke.points[..] };
    for pair in pairs.windows(2) {
        let (a, b) = (pair[0], pair[1]);
        let box_ = stroke.bounds(a, b).intersect(&window);
        if box_.is_empty() {
            continue;
        }
        let from = (box_.x - window.x) as usize;
        for y in box_.rows() {
            let row = &mut laid.row_mut(0, y)[from..from + box_.width as usize];
            for (x, v) in (box_.x..).zip(row) {
                let far = to_segment(Vec2::new(x as f32 + 0.5, y as f32 + 0.5), a, b).sqrt();
                *v = v.max(stroke.profile(far));
            }
        }
        touched = Some(touched.map_or(box_, |t| {
            Window::from_edges(
                t.x.min(box_.x).into(),
                t.y.min(box_.y).into(),
                t.right().max(box_.right()),
                t.bottom().max(box_.bottom()),
            )
        }));
    }
    touched
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
