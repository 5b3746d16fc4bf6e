//! Real roots of small polynomials, by intervals: slow to fail and never wrong about an interval's ends.

/// Highest degree that [`roots`] takes.
pub const MAX_DEGREE: usize = 4;

/// Roots of one polynomial inside an interval, in rising order.
#[derive(Clone, Copy, Debug, Default)]
struct Roots {
    found: [f64; MAX_DEGREE],
    count: usize,
}

impl Roots {
    fn push(&mut self, x: f64) {
        if self.count < MAX_DEGREE {
            self.found[self.count] = x;
            self.count += 1;
        }
    }
}

/// The roots of `Σ c[i] xⁱ` inside `low..high` where the polynomial changes its sign, rising.
///
/// Between the roots of its derivative a polynomial is monotone, so each change of sign there encloses
/// exactly one root, which safeguarded Newton steps then find.
///
/// # Panics
/// With more than [`MAX_DEGREE`] + 1 coefficients.
pub fn roots(c: &[f64], low: f64, high: f64) -> impl Iterator<Item = f64> + use<> {
    let r = solve(c, low, high);
    r.found.into_iter().take(r.count)
}

fn value(c: &[f64], x: f64) -> f64 {
    c.iter().rev().fold(0.0, |sum, k| sum * x + k)
}

fn solve(c: &[f64], low: f64, high: f64) -> Roots {
    let mut out = Roots::default();
    let degree = c.len() - 1;
    if degree == 0 {
        return out;
    }
    let mut slope = [0.0; MAX_DEGREE];
    for i in 1..=degree {
        slope[i - 1] = c[i] * i as f64;
    }
    let slope = &slope[..degree];
    let turns = solve(slope, low, high);
    let mut from = (low, value(c, low));
    for x in turns.found.into_iter().take(turns.count).chain([high]) {
        let to = (x, value(c, x));
        if from.1 * to.1 < 0.0 {
            out.push(enclosed(c, slope, from, to));
        }
        from = to;
    }
    out
}

/// The one root between two places of opposite sign.
fn enclosed(c: &[f64], slope: &[f64], (mut a, fa): (f64, f64), (mut b, _): (f64, f64)) -> f64 {
    let mut x = (a + b) * 0.5;
    for _ in 0..48 {
        let f = value(c, x);
        if f == 0.0 {
            return x;
        }
        if (f < 0.0) == (fa < 0.0) {
            a = x;
        } else {
            b = x;
        }
        let newton = x - f / value(slope, x);
        let next = if newton > a && newton < b { newton } else { (a + b) * 0.5 };
        if (next - x).abs() < 1e-11 * (1.0 + x.abs()) {
            return next;
        }
        x = next;
    }
    x
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn known_roots_are_found() {
        // (x−1)(x−2)(x+3)(x−0.5) multiplied out.
        let c = [-3.0, 9.5, -7.0, -0.5, 1.0];
        assert!(value(&c, 0.5).abs() < 1e-12 && value(&c, -3.0).abs() < 1e-12);
        let got: Vec<f64> = roots(&c, -10.0, 10.0).collect();
        let want = [-3.0, 0.5, 1.0, 2.0];
        assert!(got.len() == 4 && got.iter().zip(want).all(|(g, w)| (g - w).abs() < 1e-9), "{got:?}");
        assert_eq!(roots(&c, 0.7, 1.5).count(), 1);
        assert_eq!(roots(&[1.0, 0.0, 1.0], -5.0, 5.0).count(), 0);
    }
}
