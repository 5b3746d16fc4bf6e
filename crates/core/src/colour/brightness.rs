//! Brightness of a picture, compressed so that a lamp in it weighs no more than the rest.

use super::luminance;
use crate::raster::bands::for_each_band;
use crate::{Cancel, Cancelled, Raster};

/// Luminance of a picture (RGB or RGBA, linear; one plane is taken as it is) from 0 to 1: `half` becomes a half. What is not
/// finite, or below black, is black.
///
/// # Errors
/// Cancellation.
pub(crate) fn compressed(picture: &Raster, half: f32, cancel: &Cancel) -> Result<Raster, Cancelled> {
    let mut out = Raster::zeros(picture.window(), 1);
    let toned = |v: f32| {
        let v = if v.is_finite() { v.max(0.0) } else { 0.0 };
        v / (v + half)
    };
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let out = band.row(0, y);
            if picture.channels() >= 3 {
                let [r, g, b] = picture.rows(y);
                (0..out.len()).for_each(|i| out[i] = toned(luminance([r[i], g[i], b[i]])));
            } else if picture.channels() > 0 {
                out.iter_mut().zip(picture.row(0, y)).for_each(|(out, v)| *out = toned(*v));
            }
        }
    })?;
    Ok(out)
}
