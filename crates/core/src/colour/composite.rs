//! Elements over each other.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// `over` of Porter & Duff 1984: `out = top + bottom · (1 − αtop)`, all premultiplied RGBA on one window.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn over(top: &Raster, bottom: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    top.expect_channels("upper picture", 4)?;
    bottom.expect_channels("lower picture", 4)?;
    bottom.expect_window("lower picture", top.window())?;
    let mut out = Raster::zeros(top.window(), 4);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let alpha = top.row(3, y);
            for c in 0..4 {
                let (t, b) = (top.row(c, y), bottom.row(c, y));
                for (i, o) in band.row(c, y).iter_mut().enumerate() {
                    *o = t[i] + b[i] * (1.0 - alpha[i]);
                }
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    #[test]
    fn over_of_the_paper() {
        let px = |v: [f32; 4]| Raster::from_planar(Window::of_size(1, 1), 4, v.to_vec()).unwrap();
        let run = |t, b| over(&px(t), &px(b), &Cancel::new()).unwrap();
        // Half-covering red over opaque blue; opaque hides; transparent shows.
        assert_eq!(run([0.5, 0.0, 0.0, 0.5], [0.0, 0.0, 1.0, 1.0]), px([0.5, 0.0, 0.5, 1.0]));
        assert_eq!(run([0.3, 0.2, 0.1, 1.0], [9.0, 9.0, 9.0, 1.0]), px([0.3, 0.2, 0.1, 1.0]));
        assert_eq!(run([0.0; 4], [0.1, 0.2, 0.3, 0.4]), px([0.1, 0.2, 0.3, 0.4]));
    }
}
