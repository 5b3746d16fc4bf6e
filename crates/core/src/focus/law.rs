//! How far a point at some depth is out of focus.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// Two neighbours whose circles differ by more than this belong to different surfaces, px: half a px of blur
/// is where an edge begins to be seen.
pub const STEP: f32 = 0.5;

/// Radius of the circle of confusion by depth, in px of the scale at which it is used.
///
/// `r = k·|1/S − 1/z|` beyond the depths that are kept sharp, with one `k` in front and one behind: for a thin
/// lens of aperture radius `a` and a camera of `f` px, `k = a·f` (Potmesil & Chakravarty 1981, with the picture
/// plane at the focal length). Negative in front of the focus.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Law {
    /// Depths that stay sharp, near and far, scene units.
    pub sharp: [f32; 2],
    /// px · scene units, in front.
    pub near: f32,
    /// px · scene units, behind.
    pub far: f32,
    /// Largest radius, px.
    pub most: f32,
}

impl Law {
    /// Of a thin lens: aperture radius (scene units), focal length of the camera (px), focus depth.
    pub fn thin_lens(aperture: f32, focal_px: f32, focus: f32, most: f32) -> Self {
        let k = aperture * focal_px;
        Self { sharp: [focus; 2], near: k, far: k, most }
    }

    /// Signed radius at planar depth `z`, px. What is no depth is infinitely far.
    pub fn radius(&self, z: f32) -> f32 {
        let inverse = if z > 0.0 { 1.0 / z } else { 0.0 };
        let [near, far] = self.sharp.map(|z| 1.0 / z);
        if inverse > near {
            -(self.near * (inverse - near)).min(self.most)
        } else if inverse < far {
            (self.far * (far - inverse)).min(self.most)
        } else {
            0.0
        }
    }

    /// Signed radii of a depth pass.
    ///
    /// # Errors
    /// A depth without exactly one channel; cancellation.
    pub fn radii(&self, depth: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
        depth.expect_channels("depth", 1)?;
        let mut out = Raster::zeros(depth.window(), 1);
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                band.row(0, y).iter_mut().zip(depth.row(0, y)).for_each(|(r, z)| *r = self.radius(*z));
            }
        })?;
        Ok(out)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_lens_of_the_handbook_gives_its_circle() {
        // 50 mm at f/2 focused at 2 m, a point at 4 m: c = A·F·|D−S|/(D·(S−F)) = 25·50·2000/(4000·1950) mm
        // = 0.3205 mm (Potmesil & Chakravarty 1981); on 36 mm and 1920 px: 17.09 px across.
        let (f, n, s, d, sensor, width) = (0.05f32, 2.0, 2.0f32, 4.0, 0.036, 1920.0);
        let behind = f * s / (s - f); // where the picture plane is
        let law = Law::thin_lens(0.5 * f / n, behind / sensor * width, s, 1e3);
        assert!((2.0 * law.radius(d) - 17.09).abs() < 0.02, "{}", 2.0 * law.radius(d));
        assert!(law.radius(1.0) < 0.0 && law.radius(2.0) == 0.0);
    }

    #[test]
    fn what_is_no_depth_is_far_and_a_range_stays_sharp() {
        let law = Law { sharp: [2.0, 5.0], near: 10.0, far: 40.0, most: 6.0 };
        assert_eq!([2.0, 3.0, 5.0].map(|z| law.radius(z)), [0.0; 3]);
        assert_eq!([f32::INFINITY, f32::NAN, -1.0, 0.0].map(|z| law.radius(z)), [6.0; 4], "held at most");
        assert!((law.radius(1.0) + 5.0).abs() < 1e-5 && (law.radius(10.0) - 4.0).abs() < 1e-5);
    }
}
