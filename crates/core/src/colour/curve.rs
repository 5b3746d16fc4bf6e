//! Tone curves through points.

/// Values of a curve through points, `(x, y)` in any order: the monotone cubic of Fritsch & Carlson (1980) with the slopes of
/// Fritsch & Butland (1984), so that it hits every point and overshoots none; straight on beyond its ends. Two points at
/// one `x` are one, the later. Without points it is the identity.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Curve {
    points: Vec<[f32; 2]>,
    slopes: Vec<f32>,
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
        let slopes = slopes(&apart);
        Self { points: apart, slopes }
    }

    /// Whether it changes nothing.
    pub fn is_identity(&self) -> bool {
        self.points.iter().all(|[x, y]| x == y)
    }

    /// Its value at a place.
    pub fn at(&self, x: f32) -> f32 {
        let (p, m) = (&self.points, &self.slopes);
        let (Some(first), Some(last)) = (p.first(), p.last()) else { return x };
        if p.len() == 1 {
            return x + first[1] - first[0];
        }
        if x <= first[0] {
            return first[1] + (x - first[0]) * m[0];
        }
        if x >= last[0] {
            return last[1] + (x - last[0]) * m[m.len() - 1];
        }
        let i = p.partition_point(|q| q[0] <= x) - 1;
        let ([x0, y0], [x1, y1]) = (p[i], p[i + 1]);
        let h = x1 - x0;
        let t = (x - x0) / h;
        let (t2, t3) = (t * t, t * t * t);
        (2.0 * t3 - 3.0 * t2 + 1.0) * y0
            + (t3 - 2.0 * t2 + t) * h * m[i]
            + (3.0 * t2 - 2.0 * t3) * y1
            + (t3 - t2) * h * m[i + 1]
    }
}

/// Slopes at the points: the weighted harmonic mean of those on both sides, 0 where they turn; at the ends by three points.
fn slopes(p: &[[f32; 2]]) -> Vec<f32> {
    let n = p.len();
    if n < 2 {
        return vec![1.0; n];
    }
    let h: Vec<f32> = p.windows(2).map(|w| w[1][0] - w[0][0]).collect();
    let d: Vec<f32> = p.windows(2).map(|w| (w[1][1] - w[0][1]) / (w[1][0] - w[0][0])).collect();
    if n == 2 {
        return vec![d[0]; 2];
    }
    let end = |h0: f32, h1: f32, d0: f32, d1: f32| {
        let m = ((2.0 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
        if m * d0 <= 0.0 {
            0.0
        } else if d0 * d1 <= 0.0 && m.abs() > 3.0 * d0.abs() {
            3.0 * d0
        } else {
            m
        }
    };
    let mut m = vec![end(h[0], h[1], d[0], d[1])];
    for i in 1..n - 1 {
        let (a, b) = (d[i - 1], d[i]);
        let (w1, w2) = (2.0 * h[i] + h[i - 1], h[i] + 2.0 * h[i - 1]);
        m.push(if a * b <= 0.0 { 0.0 } else { (w1 + w2) / (w1 / a + w2 / b) });
    }
    m.push(end(h[n - 2], h[n - 3], d[n - 2], d[n - 3]));
    m
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
