//! Where the pixels of a row come from, with their slopes.

use glam::{DMat2, DVec2};

/// A place and its slope.
pub type Sloped = (DVec2, DMat2);

/// Where the pixels of a row come from.
#[derive(Debug, Default)]
pub struct Row {
    /// Across, px of the source; NaN where nothing comes from.
    pub x: Vec<f64>,
    /// Down.
    pub y: Vec<f64>,
    /// How a place changes with a px to the right, across and down, and with a px down.
    pub slope: [Vec<f32>; 4],
}

impl Row {
    /// A row of some pixels.
    pub fn of(width: u32) -> Self {
        let n = width as usize;
        Self { x: vec![f64::NAN; n], y: vec![f64::NAN; n], slope: std::array::from_fn(|_| vec![0.0; n]) }
    }

    /// Makes it a row of some pixels; what it said of them is not kept.
    pub fn resize(&mut self, width: u32) {
        let n = width as usize;
        self.x.resize(n, f64::NAN);
        self.y.resize(n, f64::NAN);
        self.slope.iter_mut().for_each(|s| s.resize(n, 0.0));
    }

    /// Says where a pixel comes from, with its slope.
    pub fn put(&mut self, i: usize, found: Option<Sloped>) {
        let (p, s) = found.unwrap_or((DVec2::NAN, DMat2::ZERO));
        (self.x[i], self.y[i]) = (p.x, p.y);
        for (to, v) in self.slope.iter_mut().zip(s.to_cols_array()) {
            to[i] = v as f32;
        }
    }

    /// Lets every pixel come from nowhere.
    pub fn clear(&mut self) {
        self.x.fill(f64::NAN);
        self.y.fill(f64::NAN);
    }

    /// Where a pixel comes from, with its slope.
    pub fn at(&self, i: usize) -> Option<(DVec2, DMat2)> {
        let p = DVec2::new(self.x[i], self.y[i]);
        let s = [0, 1, 2, 3].map(|k| f64::from(self.slope[k][i]));
        (!p.is_nan()).then(|| (p, DMat2::from_cols_array(&s)))
    }
}
