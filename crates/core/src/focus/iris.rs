//! The opening of a lens: a regular polygon of blades, rounded toward a circle.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::f32::consts::TAU;
use ts_rs::TS;

/// Shape of the opening, inscribed in the circle of confusion.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Iris {
    /// Blades; fewer than three are a circle.
    pub blades: u32,
    /// Turn of the opening, degrees, counter-clockwise as it is seen in a blurred point of light behind the
    /// focus; at 0 a corner points to the right.
    pub rotation: f32,
    /// 0 for straight blades, 1 for a circle.
    pub roundness: f32,
}

impl Default for Iris {
    fn default() -> Self {
        Self { blades: 0, rotation: 0.0, roundness: 0.0 }
    }
}

/// A horizontal run of a blur kernel: pixels from `left` to `right` (px from the middle, fractional) in the
/// row `dy` below the middle, each with `weight`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Run {
    /// Rows below the middle.
    pub dy: i32,
    /// Left end, px.
    pub left: f32,
    /// Right end, px.
    pub right: f32,
    /// Weight of a pixel; over all runs, weight × length adds up to 1.
    pub weight: f32,
}

/// Points on one side of the polygon, or on a quarter of the circle.
const POINTS: u32 = 24;

/// Lines across each row over which chords are averaged.
const LINES: i32 = 16;

impl Iris {
    /// Distance of the rim from the middle in a direction (radians, y up), of a circle of radius 1.
    pub fn rim(&self, angle: f32) -> f32 {
        if self.blades < 3 {
            return 1.0;
        }
        let sector = TAU / self.blades as f32;
        let into = (angle - self.rotation.to_radians()).rem_euclid(sector) - sector * 0.5;
        let straight = (sector * 0.5).cos() / into.cos();
        straight + (1.0 - straight) * self.roundness
    }

    /// The rim as a polygon, radius 1, y down.
    fn outline(&self) -> Vec<[f32; 2]> {
        let count = self.blades.max(4) * POINTS;
        // Corners are among the points: they begin at the rotation.
        let start = if self.blades < 3 { 0.0 } else { self.rotation.to_radians() };
        (0..count)
            .map(|i| {
                let angle = start + TAU * i as f32 / count as f32;
                let r = self.rim(angle);
                [r * angle.cos(), -r * angle.sin()]
            })
            .collect()
    }

    /// The kernel of a blur of this radius, px, as runs from the top to the bottom row. `turned` gives the
    /// opening upside down, as it is seen in front of the focus.
    pub fn runs(&self, radius: f32, turned: bool) -> Vec<Run> {
        let sign = if turned { -radius } else { radius };
        let points: Vec<[f32; 2]> = self.outline().iter().map(|p| p.map(|v| v * sign)).collect();
        let rows = radius.ceil() as i32 + 1;
        let mut runs = Vec::new();
        let mut area = 0.0;
        for dy in -rows..=rows {
            // Mean length, round the middle of what the lines cover together.
            let (mut length, mut moment, mut met) = (0.0, 0.0, 0);
            for line in 0..LINES {
                let y = dy as f32 - 0.5 + (line as f32 + 0.5) / LINES as f32;
                if let Some([a, b]) = chord(&points, y) {
                    (length, moment, met) = (length + b - a, moment + 0.5 * (b * b - a * a), met + 1);
                }
            }
            if met > 0 && length > 0.0 {
                let (middle, half) = (moment / length, 0.5 * length / met as f32);
                let weight = met as f32 / LINES as f32;
                area += weight * 2.0 * half;
                runs.push(Run { dy, left: middle - half, right: middle + half, weight });
            }
        }
        if area <= 0.0 {
            return vec![Run { dy: 0, left: -0.5, right: 0.5, weight: 1.0 }];
        }
        runs.iter_mut().for_each(|r| r.weight /= area);
        runs
    }
}

/// Where a convex outline is cut by the horizontal line at `y`.
fn chord(points: &[[f32; 2]], y: f32) -> Option<[f32; 2]> {
    let mut ends: Option<[f32; 2]> = None;
    for (i, a) in points.iter().enumerate() {
        let b = points[(i + 1) % points.len()];
        if (a[1] <= y) == (b[1] <= y) {
            continue;
        }
        let x = a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]);
        ends = Some(ends.map_or([x, x], |[low, high]| [low.min(x), high.max(x)]));
    }
    ends.filter(|[low, high]| high > low)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::f32::consts::PI;

    /// Share of the circle that the opening covers.
    fn area(iris: &Iris) -> f32 {
        const N: u32 = 720;
        (0..N).map(|i| iris.rim(TAU * i as f32 / N as f32).powi(2)).sum::<f32>() / N as f32
    }

    fn moments(runs: &[Run]) -> (f32, f32, f32) {
        let mut m = (0.0, 0.0, 0.0);
        for r in runs {
            let w = r.weight * (r.right - r.left);
            m.0 += w;
            m.1 += w * (r.left + r.right) * 0.5;
            m.2 += w * r.dy as f32;
        }
        m
    }

    #[test]
    fn kernels_add_up_to_one_and_stay_in_the_middle() {
        for blades in [0, 3, 5, 6, 9] {
            for radius in [0.3, 1.0, 2.7, 20.0, 75.5] {
                let iris = Iris { blades, rotation: 13.0, roundness: 0.2 };
                for turned in [false, true] {
                    let (sum, x, y) = moments(&iris.runs(radius, turned));
                    assert!((sum - 1.0).abs() < 1e-4, "{blades} {radius}: {sum}");
                    // A row of pixels has no place within itself: a twentieth of a px may be off.
                    let off = (0.02 * radius).max(0.05);
                    assert!(x.abs() < off && y.abs() < off, "{blades} {radius}: {x} {y}");
                }
            }
        }
    }

    #[test]
    fn a_circle_has_its_area_and_a_hexagon_its_own() {
        // Regular hexagon in a circle of radius 1: 3√3/2 of π (plane geometry).
        let hexagon = Iris { blades: 6, ..Iris::default() };
        assert!((area(&hexagon) - 1.5 * 3f32.sqrt() / PI).abs() < 2e-3);
        assert!((area(&Iris { roundness: 1.0, ..hexagon }) - 1.0).abs() < 1e-5);
        let widest = Iris::default().runs(10.0, false).iter().map(|r| r.right - r.left).fold(0.0, f32::max);
        assert!((widest - 20.0).abs() < 0.1, "{widest}");
    }

    #[test]
    fn in_front_of_the_focus_the_opening_is_upside_down() {
        let triangle = Iris { blades: 3, rotation: 90.0, roundness: 0.0 };
        let widest = |turned| {
            let runs = triangle.runs(20.0, turned);
            runs.iter().max_by(|a, b| (a.right - a.left).total_cmp(&(b.right - b.left))).unwrap().dy
        };
        // A corner points up: the broad side is below, and above once turned.
        assert!(widest(false) > 5 && widest(true) < -5);
    }
}
