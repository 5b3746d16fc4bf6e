//! Look-up tables of colour: a curve for each of red, green and blue, or a cube.

use crate::colour::clipped;
use thiserror::Error;

/// Why a table was refused.
#[derive(Debug, Clone, PartialEq, Error)]
#[non_exhaustive]
pub enum LutError {
    /// The number of entries is not what the size asks for.
    #[error("the table has {found} entries and should have {wanted}")]
    Entries {
        /// Entries given.
        found: usize,
        /// Entries for the size.
        wanted: usize,
    },
    /// Fewer than two points a side, or more than is sensible.
    #[error("a table of {0} points a side is not read")]
    Size(usize),
    /// Something that is no finite number, or a domain that is empty.
    #[error("the table holds a number that is not possible")]
    Number,
}

/// How the entries lie.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LutShape {
    /// Three curves of `size` points.
    Curves,
    /// A cube of `size` points a side, red running fastest.
    Cube,
}

/// A table over a box of colours; what lies outside the box is brought to its rim first.
#[derive(Clone, Debug, PartialEq)]
pub struct Lut {
    shape: LutShape,
    size: usize,
    low: [f32; 3],
    high: [f32; 3],
    table: Vec<[f32; 3]>,
}

impl Lut {
    /// Most points a side of a cube, and of curves (Cube LUT Specification 1.0, "LUT_3D_SIZE" 2..256 and
    /// "LUT_1D_SIZE" 2..65536).
    pub const MOST: (usize, usize) = (256, 65_536);

    /// Entries that a table of `size` points a side has; `None` if the size is not read.
    pub fn entries(shape: LutShape, size: usize) -> Option<usize> {
        match shape {
            LutShape::Curves => (2..=Self::MOST.1).contains(&size).then_some(size),
            LutShape::Cube => (2..=Self::MOST.0).contains(&size).then(|| size.pow(3)),
        }
    }

    /// A table of `size` points a side over the box from `low` to `high`.
    ///
    /// # Errors
    /// [`LutError`].
    pub fn new(
        shape: LutShape,
        size: usize,
        [low, high]: [[f32; 3]; 2],
        table: Vec<[f32; 3]>,
    ) -> Result<Self, LutError> {
        let wanted = Self::entries(shape, size).ok_or(LutError::Size(size))?;
        if table.len() != wanted {
            return Err(LutError::Entries { found: table.len(), wanted });
        }
        let finite = table.iter().chain([&low, &high]).flatten().all(|v| v.is_finite());
        if !finite || (0..3).any(|c| high[c] <= low[c]) {
            return Err(LutError::Number);
        }
        Ok(Self { shape, size, low, high, table })
    }

    /// Size in memory, bytes.
    pub fn bytes(&self) -> usize {
        std::mem::size_of_val(self.table.as_slice()) + std::mem::size_of::<Self>()
    }

    /// The table's colour for a colour: linear between the points of curves, trilinear in a cube (both as the
    /// Cube LUT Specification 1.0 allows). What is not finite counts as the low end.
    pub fn apply(&self, rgb: [f32; 3]) -> [f32; 3] {
        let last = self.size - 1;
        let at: [(usize, f32); 3] = std::array::from_fn(|c| {
            let t = clipped((rgb[c] - self.low[c]) / (self.high[c] - self.low[c])) * last as f32;
            let cell = (t as usize).min(last - 1);
            (cell, t - cell as f32)
        });
        match self.shape {
            LutShape::Curves => std::array::from_fn(|c| {
                let (i, t) = at[c];
                mix(self.table[i][c], self.table[i + 1][c], t)
            }),
            LutShape::Cube => self.trilinear(at),
        }
    }

    fn trilinear(&self, [(r, tr), (g, tg), (b, tb)]: [(usize, f32); 3]) -> [f32; 3] {
        let n = self.size;
        let along_red = |g: usize, b: usize| {
            let i = r + n * (g + n * b);
            let (a, z) = (self.table[i], self.table[i + 1]);
            std::array::from_fn::<f32, 3, _>(|c| mix(a[c], z[c], tr))
        };
        let planes = [b, b + 1].map(|b| {
            let (a, z) = (along_red(g, b), along_red(g + 1, b));
            std::array::from_fn::<f32, 3, _>(|c| mix(a[c], z[c], tg))
        });
        std::array::from_fn(|c| mix(planes[0][c], planes[1][c], tb))
    }
}

fn mix(a: f32, b: f32, t: f32) -> f32 {
    a + (b - a) * t
}

#[cfg(test)]
mod tests {
    use super::*;

    const UNIT: [[f32; 3]; 2] = [[0.0; 3], [1.0; 3]];

    fn cube(n: usize, f: impl Fn([f32; 3]) -> [f32; 3]) -> Lut {
        let at = |i: usize| i as f32 / (n - 1) as f32;
        let table = (0..n * n * n).map(|i| f([at(i % n), at(i / n % n), at(i / n / n)])).collect();
        Lut::new(LutShape::Cube, n, UNIT, table).unwrap()
    }

    #[test]
    fn a_cube_of_itself_changes_nothing_inside_and_holds_the_rim() {
        let lut = cube(5, |c| c);
        let got = lut.apply([0.1, 0.55, 0.99]);
        assert!((0..3).all(|c| (got[c] - [0.1, 0.55, 0.99][c]).abs() < 1e-6), "{got:?}");
        assert_eq!(lut.apply([-3.0, f32::NAN, 9.0]), [0.0, 0.0, 1.0]);
    }

    #[test]
    fn red_runs_fastest() {
        // A cube that gives red for red only.
        let lut = cube(2, |[r, ..]| [r, 0.0, 0.0]);
        assert_eq!((lut.apply([1.0, 0.0, 0.0]), lut.apply([0.0, 1.0, 1.0])), ([1.0, 0.0, 0.0], [0.0; 3]));
    }

    #[test]
    fn curves_answer_each_for_itself_over_their_own_domain() {
        let table = vec![[0.0, 1.0, 0.0], [0.5, 0.5, 0.25], [1.0, 0.0, 1.0]];
        let lut = Lut::new(LutShape::Curves, 3, [[0.0, 0.0, -1.0], [4.0, 1.0, 1.0]], table).unwrap();
        assert_eq!(lut.apply([2.0, 0.25, 0.5]), [0.5, 0.75, 0.625]);
    }

    #[test]
    fn tables_that_cannot_be_are_refused() {
        let made = |size, low, table| Lut::new(LutShape::Curves, size, [low, [1.0; 3]], table);
        assert_eq!(made(1, [0.0; 3], vec![[0.0; 3]]), Err(LutError::Size(1)));
        assert_eq!(made(2, [0.0; 3], vec![]), Err(LutError::Entries { found: 0, wanted: 2 }));
        assert_eq!(made(2, [1.0; 3], vec![[0.0; 3]; 2]), Err(LutError::Number));
        assert_eq!(made(2, [0.0; 3], vec![[f32::NAN; 3]; 2]), Err(LutError::Number));
        assert_eq!(Lut::entries(LutShape::Cube, 300), None);
    }
}
