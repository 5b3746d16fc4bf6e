//! Motion painted with a brush. *Own derivation.*

use super::push::profile;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::DVec2;

/// A stroke along which the picture flows, px of the window that is painted on.
#[derive(Clone, Debug, PartialEq)]
pub struct FlowStroke {
    /// The path; it flows the way it was drawn.
    pub path: Vec<DVec2>,
    /// Radius of the brush.
    pub radius: f64,
    /// Share of the radius over which it fades, 0..1.
    pub softness: f64,
}

/// Vectors (x right, y down) of `speed` px along strokes, fading at their rims; a later stroke covers an earlier one.
///
/// # Errors
/// Cancellation.
pub fn painted(
    window: Window,
    strokes: &[FlowStroke],
    speed: f64,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let bounds: Vec<Window> = strokes.iter().map(|s| s.bounds(window)).collect();
    let mut out = Raster::zeros(window, 2);
    for_each_band(&mut out, cancel, |band| {
        let rows = band.window();
        for (stroke, bounds) in strokes.iter().zip(&bounds) {
            let part = bounds.intersect(&rows);
            for y in part.rows() {
                if cancel.is_cancelled() {
                    return;
                }
                let [u, v] = band.rows(y);
                for x in part.x..part.right() as i32 {
                    let place = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5);
                    let Some((way, laid)) = stroke.at(place) else { continue };
                    let i = (x - window.x) as usize;
                    for (to, d) in [(&mut u[i], way.x), (&mut v[i], way.y)] {
                        *to = (f64::from(*to) * (1.0 - laid) + d * speed * laid) as f32;
                    }
                }
            }
        }
    })?;
    cancel.check()?;
    Ok(out)
}

impl FlowStroke {
    fn bounds(&self, within: Window) -> Window {
        let low = self.path.iter().copied().fold(DVec2::INFINITY, DVec2::min) - self.radius;
        let high = self.path.iter().copied().fold(DVec2::NEG_INFINITY, DVec2::max) + self.radius;
        Window::around(low, high, within)
    }

    /// The way it goes at a place, of length 1 on a straight path, and how much of it is laid there.
    fn at(&self, place: DVec2) -> Option<(DVec2, f64)> {
        let (mut way, mut weights, mut nearest) = (DVec2::ZERO, 0.0, f64::INFINITY);
        for ends in self.path.windows(2) {
            let along = ends[1] - ends[0];
            let Some(direction) = along.try_normalize() else { continue };
            let share = ((place - ends[0]).dot(along) / along.length_squared()).clamp(0.0, 1.0);
            let far = (place - ends[0] - along * share).length() / self.radius;
            nearest = nearest.min(far);
            // What is near says most, so that the way turns smoothly past the corners of a path.
            let weight = profile(far, 1.0).0 * along.length();
            way += direction * weight;
            weights += weight;
        }
        let laid = profile(nearest, self.softness.clamp(0.05, 1.0)).0;
        (nearest < 1.0 && weights > 0.0 && laid > 0.0).then(|| (way / weights, laid))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_flows_the_way_it_is_drawn_and_fades_at_its_rim() {
        let window = Window::of_size(60, 40);
        let path = vec![DVec2::new(10.0, 20.0), DVec2::new(50.0, 20.0)];
        let right = FlowStroke { path, radius: 8.0, softness: 1.0 };
        let up = FlowStroke { path: vec![DVec2::new(30.0, 38.0), DVec2::new(30.0, 2.0)], ..right.clone() };
        let make = |s: &[FlowStroke]| painted(window, s, 12.0, &Cancel::new()).unwrap();
        let one = make(std::slice::from_ref(&right));
        let at = |r: &Raster, x: i32, y: i32| [0, 1].map(|c| r.sample(c, x, y).unwrap());
        let middle = at(&one, 20, 20);
        assert!((middle[0] - 12.0).abs() < 0.2 && middle[1].abs() < 1e-6, "{middle:?}");
        assert!(at(&one, 20, 25)[0] < 6.0 && at(&one, 20, 29) == [0.0; 2]);
        // The later stroke covers the earlier one.
        let both = make(&[right, up]);
        let crossed = at(&both, 30, 20);
        assert!(crossed[1] < -11.0 && crossed[0].abs() < 1.0, "{crossed:?}");
        assert_eq!(make(&[]), Raster::zeros(window, 2));
    }
}
