//! A lens that bends straight lines, for pictures that are traced through it: no picture is sampled twice in their truth.
//!
//! Brown-Conrady as OpenCV writes it; the way back by the fixed point that its documentation gives for undistortPoints. It
//! shares nothing with the product's own lenses, which it judges.

use jugata_core::{Raster, Window};

/// Coefficients, for places measured in focal lengths from the middle of the picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Distortion {
    /// k1, k2, k3.
    pub k: [f64; 3],
    /// p1, p2.
    pub p: [f64; 2],
}

/// Which way a map goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MapFor {
    /// Makes a straight picture of a bent one.
    Undistorting,
    /// Makes a bent picture of a straight one.
    Distorting,
}

impl Distortion {
    fn parts(&self, [x, y]: [f64; 2]) -> (f64, [f64; 2]) {
        let s = x * x + y * y;
        let [k1, k2, k3] = self.k;
        let [p1, p2] = self.p;
        let radial = 1.0 + k1 * s + k2 * s * s + k3 * s * s * s;
        (radial, [2.0 * p1 * x * y + p2 * (s + 2.0 * x * x), p1 * (s + 2.0 * y * y) + 2.0 * p2 * x * y])
    }

    /// Where the lens shows what a pinhole would show at a place.
    pub fn bent(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        let (radial, [dx, dy]) = self.parts([x, y]);
        [x * radial + dx, y * radial + dy]
    }

    /// Where a pinhole would show what the lens shows at a place.
    pub fn straight(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        let mut at = [x, y];
        for _ in 0..500 {
            let (radial, [dx, dy]) = self.parts(at);
            at = [(x - dx) / radial, (y - dy) / radial];
        }
        at
    }

    /// A map (ST: origin at the bottom left) of a frame for a focal length, px.
    pub fn map(&self, frame: Window, focal: f64, way: MapFor) -> Raster {
        let (w, h) = (f64::from(frame.width), f64::from(frame.height));
        let mut st = Raster::zeros(frame, 2);
        for y in frame.rows() {
            for x in 0..frame.width as usize {
                let own = [(x as f64 + 0.5 - w * 0.5) / focal, (f64::from(y) + 0.5 - h * 0.5) / focal];
                let from = match way {
                    MapFor::Undistorting => self.bent(own),
                    MapFor::Distorting => self.straight(own),
                };
                st.row_mut(0, y)[x] = ((from[0] * focal + w * 0.5) / w) as f32;
                st.row_mut(1, y)[x] = (1.0 - (from[1] * focal + h * 0.5) / h) as f32;
            }
        }
        st
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_ways_undo_each_other() {
        let lens = Distortion { k: [-0.2, 0.05, -0.01], p: [0.002, -0.001] };
        for i in 0..50 {
            let place = [f64::from(i % 10) * 0.1 - 0.45, f64::from(i / 10) * 0.1 - 0.2];
            let [x, y] = lens.straight(lens.bent(place));
            assert!((x - place[0]).hypot(y - place[1]) < 1e-12);
        }
    }
}
