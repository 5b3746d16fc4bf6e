//! The monotone cubic through values at places (Fritsch & Carlson 1980, with the slopes of Fritsch & Butland 1984): it hits
//! every value and overshoots none.

/// Length and slope of the straight line on a stretch between two neighbouring places.
pub type Stretch = (f64, f64);

/// The slope at one of `count` (at least two) places: the weighted harmonic mean of the stretches on both sides, 0 where
/// they turn; at either end three places' worth. `stretch(i)` lies after place `i`.
pub fn slope(count: usize, i: usize, stretch: impl Fn(usize) -> Stretch) -> f64 {
    let last = count - 1;
    if last == 1 {
        return stretch(0).1;
    }
    if i == 0 || i == last {
        let (near, far) = if i == 0 { (0, 1) } else { (last - 1, last - 2) };
        return end(stretch(near), stretch(far));
    }
    let ((h0, d0), (h1, d1)) = (stretch(i - 1), stretch(i));
    if d0 * d1 <= 0.0 {
        return 0.0;
    }
    let (w0, w1) = (2.0 * h1 + h0, h1 + 2.0 * h0);
    (w0 + w1) / (w0 / d0 + w1 / d1)
}

/// The slope at an end, held so that nothing overshoots.
fn end((h0, d0): Stretch, (h1, d1): Stretch) -> f64 {
    let m = ((2.0 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    if m * d0 <= 0.0 {
        0.0
    } else if d0 * d1 <= 0.0 && m.abs() > 3.0 * d0.abs() {
        3.0 * d0
    } else {
        m
    }
}

/// Its value at a share `t` (0..1) of a stretch, from the values and the slopes at both ends.
pub fn between((h, d): Stretch, [y0, y1]: [f64; 2], [m0, m1]: [f64; 2], t: f64) -> f64 {
    let (a, b) = (3.0 * d - 2.0 * m0 - m1, m0 + m1 - 2.0 * d);
    if t >= 1.0 { y1 } else { y0 + h * t * (m0 + t * (a + t * b)) }
}

/// Its slope at a share `t` (0..1) of a stretch, from the slopes at both ends.
pub fn rise((_, d): Stretch, [m0, m1]: [f64; 2], t: f64) -> f64 {
    let (a, b) = (3.0 * d - 2.0 * m0 - m1, m0 + m1 - 2.0 * d);
    m0 + t * (2.0 * a + 3.0 * t * b)
}
