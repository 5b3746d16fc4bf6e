//! Tone curves through points.

use crate::raster::monotone::{Stretch, between, rise, slope};

/// Values of a curve through points, `(x, y)` in any order: the monotone cubic ([`crate::raster::monotone`]); straight on
/// beyond its ends. Two points at one `x` are one, the later. Without points it is the identity.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Curve {
    points: Vec<[f32; 2]>,
    slopes: Vec<f64>,
}

impl Curve {
    /// The curve through some points.
    pub fn through(points: &[[f32; 2]]) -> Self {
        let mut points = points.to_vec();
        points.sort_by(|a, b| a[0].total_cmp(&b[0]));
        let mut apart: Vec<[f32; 2]> = Vec::with_capacity(points.len());
        for p in points {
            match apart.last_mut() {
                Some(last) if p[0] - last[0] < 1e-6 => *last = p,
                _ => apart.push(p),
            }
        }
        let own = Self { points: apart, slopes: Vec::new() };
        let count = own.points.len();
        let slopes = if count < 2 {
            vec![1.0; count]
        } else {
            (0..count).map(|i| slope(count, i, |i| own.stretch(i))).collect()
        };
        Self { slopes, ..own }
    }

    /// Whether it changes nothing.
    pub fn is_identity(&self) -> bool {
        self.points.iter().all(|[x, y]| x == y)
    }

    /// The places at which it begins and ends; none without points.
    pub fn ends(&self) -> Option<[f32; 2]> {
        Some([self.points.first()?[0], self.points.last()?[0]])
    }

    /// Its value at a place.
    pub fn at(&self, x: f32) -> f32 {
        let (Some(first), Some(last)) = (self.points.first(), self.points.last()) else { return x };
        if self.points.len() == 1 {
            return x + first[1] - first[0];
        }
        let beyond = |[from, value]: [f32; 2], slope: f64| value + (x - from) * slope as f32;
        if x <= first[0] {
            return beyond(*first, self.slopes[0]);
        }
        if x >= last[0] {
            return beyond(*last, self.slopes[self.slopes.len() - 1]);
        }
        let (i, t) = self.share(x);
        let y = [self.points[i][1], self.points[i + 1][1]].map(f64::from);
        between(self.stretch(i), y, [self.slopes[i], self.slopes[i + 1]], t) as f32
    }

    /// How steep it is at a place.
    pub fn slope_at(&self, x: f32) -> f32 {
        let Some([first, last]) = self.ends() else { return 1.0 };
        let slope = match self.slopes.len() {
            count if count < 2 || x <= first => self.slopes[0],
            count if x >= last => self.slopes[count - 1],
            _ => {
                let (i, t) = self.share(x);
                rise(self.stretch(i), [self.slopes[i], self.slopes[i + 1]], t)
            }
        };
        slope as f32
    }

    /// The stretch in which a place between the ends lies, and its share of it.
    fn share(&self, x: f32) -> (usize, f64) {
        let i = self.points.partition_point(|p| p[0] <= x) - 1;
        (i, f64::from(x - self.points[i][0]) / self.stretch(i).0)
    }

    /// Length and slope between a point and the next.
    fn stretch(&self, i: usize) -> Stretch {
        let ([x0, y0], [x1, y1]) = (self.points[i].map(f64::from), self.points[i + 1].map(f64::from));
        (x1 - x0, (y1 - y0) / (x1 - x0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn values_are_those_of_scipy() {
        // scipy.interpolate.PchipInterpolator([0, .2, .5, .6, 1], [0, .1, .7, .7, 1])([.1, .3, .45, .55, .9]), SciPy 1.17.1.
        let curve = Curve::through(&[[0.0, 0.0], [0.2, 0.1], [0.5, 0.7], [0.6, 0.7], [1.0, 1.0]]);
        let want = [0.030_769_2, 0.289_743_6, 0.660_897_4, 0.7, 0.877_187_5];
        for (x, y) in [0.1, 0.3, 0.45, 0.55, 0.9].into_iter().zip(want) {
            assert!((curve.at(x) - y).abs() < 1e-6, "{x}: {} {y}", curve.at(x));
        }
        // As steep as the value changes about a place.
        for x in [0.1, 0.3, 0.45, 0.55, 0.9] {
            let about = (curve.at(x + 0.01) - curve.at(x - 0.01)) / 0.02;
            assert!((curve.slope_at(x) - about).abs() < 0.02, "{x}: {} {about}", curve.slope_at(x));
        }
    }

    #[test]
    fn no_points_and_points_on_the_diagonal_change_nothing() {
        for points in [vec![], vec![[0.0, 0.0], [1.0, 1.0]], vec![[0.0, 0.0], [0.3, 0.3], [1.0, 1.0]]] {
            let curve = Curve::through(&points);
            assert!(curve.is_identity());
            for x in [-0.5, 0.0, 0.1, 0.77, 1.0, 3.0] {
                assert!((curve.at(x) - x).abs() < 1e-6);
            }
        }
        assert_eq!(Curve::through(&[[0.5, 0.7]]).at(0.1), 0.1 + 0.7 - 0.5);
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

        /// It hits its points exactly, and between two of them it stays between them.
        #[test]
        fn it_hits_its_points_and_overshoots_none(points in prop::collection::vec([0.0f32..1.0, 0.0f32..1.0], 1..9)) {
            let curve = Curve::through(&points);
            for p in &curve.points {
                prop_assert!((curve.at(p[0]) - p[1]).abs() < 1e-6);
            }
            for pair in curve.points.windows(2) {
                for i in 0..=20 {
                    let x = pair[0][0] + (pair[1][0] - pair[0][0]) * i as f32 / 20.0;
                    let y = curve.at(x);
                    prop_assert!(y >= pair[0][1].min(pair[1][1]) - 1e-5 && y <= pair[0][1].max(pair[1][1]) + 1e-5);
                }
            }
        }
    }
}
