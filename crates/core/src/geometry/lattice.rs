//! A picture bent by a grid of points that are dragged. Between the points runs the bicubic of Catmull & Rom (1974)
//! through them, so it has no kinks; where it folds, no place is found.

use glam::{DMat2, DVec2};

/// A grid over a rectangle, and how far each of its points is moved.
#[derive(Clone, Debug, PartialEq)]
pub struct Lattice {
    origin: DVec2,
    cell: DVec2,
    columns: usize,
    rows: usize,
    by: Vec<DVec2>,
    least: f64,
}

impl Lattice {
    /// A grid of at least 2×2 points from corner to corner of a rectangle, px. `by` has how far each is moved, row by row
    /// from the upper left; `None` if there are fewer or more of them.
    pub fn new([low, high]: [DVec2; 2], columns: usize, rows: usize, by: Vec<DVec2>) -> Option<Self> {
        let size = high - low;
        if columns < 2 || rows < 2 || by.len() != columns * rows || size.min_element() <= 0.0 {
            return None;
        }
        let cell = size / DVec2::new((columns - 1) as f64, (rows - 1) as f64);
        let mut lattice = Self { origin: low, cell, columns, rows, by, least: 1.0 };
        lattice.least = lattice.least_growth();
        Some(lattice)
    }

    /// Whether no place is moved.
    pub fn is_none(&self) -> bool {
        self.by.iter().all(|b| *b == DVec2::ZERO)
    }

    /// The smallest length over which it bends, px.
    pub fn detail(&self) -> f64 {
        self.cell.min_element()
    }

    /// Whether it folds somewhere.
    pub fn folds(&self) -> bool {
        self.least <= 0.0
    }

    fn moved_by(&self, column: i64, row: i64) -> DVec2 {
        let column = column.clamp(0, self.columns as i64 - 1) as usize;
        let row = row.clamp(0, self.rows as i64 - 1) as usize;
        self.by[row * self.columns + column]
    }

    /// Where a place goes, with its slope. Beyond the rectangle the picture is moved as at its edge.
    pub fn ahead(&self, place: DVec2) -> (DVec2, DMat2) {
        let last = DVec2::new((self.columns - 1) as f64, (self.rows - 1) as f64);
        let free = (place - self.origin) / self.cell;
        let at = free.clamp(DVec2::ZERO, last);
        // Beyond an edge nothing changes across it.
        let live = DVec2::new(f64::from(free.x == at.x), f64::from(free.y == at.y)) / self.cell;
        let cell = at.floor().min(last - 1.0);
        let (t, cx, cy) = (at - cell, cell.x as i64, cell.y as i64);
        let (wx, sx) = hermite(t.x);
        let (wy, sy) = hermite(t.y);
        let (mut by, mut across, mut down) = (DVec2::ZERO, DVec2::ZERO, DVec2::ZERO);
        for j in 0..4 {
            for i in 0..4 {
                let d = self.moved_by(cx + i as i64 - 1, cy + j as i64 - 1);
                by += d * (wx[i] * wy[j]);
                across += d * (sx[i] * wy[j]);
                down += d * (wx[i] * sy[j]);
            }
        }
        (place + by, DMat2::IDENTITY + DMat2::from_cols(across * live.x, down * live.y))
    }

    /// Where a place comes from, with its slope; `None` where it folds.
    pub fn back(&self, place: DVec2) -> Option<(DVec2, DMat2)> {
        solve(place, place - self.ahead(place).0 + place, |p| Some(self.ahead(p)))
    }

    fn least_growth(&self) -> f64 {
        let fine = 6;
        let mut least = f64::INFINITY;
        for y in 0..=(self.rows - 1) * fine {
            for x in 0..=(self.columns - 1) * fine {
                let at = DVec2::new(x as f64, y as f64) / fine as f64 * self.cell + self.origin;
                least = least.min(self.ahead(at).1.determinant());
            }
        }
        least
    }
}

/// Weights of four points in a row, between the second and the third, and how they change.
pub(crate) fn hermite(t: f64) -> ([f64; 4], [f64; 4]) {
    let (t2, t3) = (t * t, t * t * t);
    let weights = [
        0.5 * (-t3 + 2.0 * t2 - t),
        0.5 * (3.0 * t3 - 5.0 * t2 + 2.0),
        0.5 * (-3.0 * t3 + 4.0 * t2 + t),
        0.5 * (t3 - t2),
    ];
    let slopes = [
        0.5 * (-3.0 * t2 + 4.0 * t - 1.0),
        0.5 * (9.0 * t2 - 10.0 * t),
        0.5 * (-9.0 * t2 + 8.0 * t + 1.0),
        0.5 * (3.0 * t2 - 2.0 * t),
    ];
    (weights, slopes)
}

/// The place that a map brings to `to`, by damped Newton steps from a first guess, with the slope of the way back; `None`
/// where none is found within 1e-4 px, or where the map folds.
pub fn solve(
    to: DVec2,
    first: DVec2,
    map: impl Fn(DVec2) -> Option<(DVec2, DMat2)>,
) -> Option<(DVec2, DMat2)> {
    let mut p = first;
    let (mut at, mut slope) = map(p)?;
    for _ in 0..40 {
        let off = at - to;
        if off.length_squared() < 1e-18 {
            break;
        }
        if slope.determinant().abs() < 1e-9 {
            return None;
        }
        let way = slope.inverse() * off;
        let mut damp = 1.0;
        loop {
            let next = p - way * damp;
            if let Some((there, s)) = map(next)
                && (there - to).length_squared() < off.length_squared()
            {
                (p, at, slope) = (next, there, s);
                break;
            }
            damp *= 0.5;
            if damp < 1e-3 {
                let near = off.length_squared() < 1e-8 && slope.determinant() > 1e-9;
                return near.then(|| (p, slope.inverse()));
            }
        }
    }
    let found = (at - to).length_squared() < 1e-8 && slope.determinant() > 1e-9;
    found.then(|| (p, slope.inverse()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn points_go_where_they_are_dragged_and_come_back() {
        let mut by = vec![DVec2::ZERO; 20];
        by[6] = DVec2::new(12.0, -7.0);
        by[13] = DVec2::new(-9.0, 11.0);
        let l = Lattice::new([DVec2::ZERO, DVec2::new(200.0, 90.0)], 5, 4, by).unwrap();
        assert!(!l.folds() && !l.is_none());
        assert!((l.ahead(DVec2::new(50.0, 30.0)).0 - DVec2::new(62.0, 23.0)).length() < 1e-9);
        for i in 0..500 {
            let place = DVec2::new(f64::from(i % 25) * 10.0 - 20.0, f64::from(i / 25) * 6.0 - 10.0);
            let (at, slope) = l.back(place).unwrap();
            let (there, ahead) = l.ahead(at);
            assert!((there - place).length() < 1e-6);
            assert!((slope * ahead - DMat2::IDENTITY).to_cols_array().iter().all(|v| v.abs() < 1e-9));
        }
    }

    #[test]
    fn a_fold_is_told() {
        let mut by = vec![DVec2::ZERO; 9];
        by[4] = DVec2::new(120.0, 0.0);
        assert!(Lattice::new([DVec2::ZERO, DVec2::splat(200.0)], 3, 3, by.clone()).unwrap().folds());
        assert!(Lattice::new([DVec2::ZERO, DVec2::splat(200.0)], 3, 2, by).is_none());
    }
}
