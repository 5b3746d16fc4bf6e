//! Light of what lies behind, let in along an edge.

use crate::raster::bands::for_each_band;
use crate::raster::soften::{radius_of, softened};
use crate::{Cancel, KernelError, Raster};

/// How light wraps around an edge.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Wrap {
    /// How far it reaches in, px.
    pub width: f32,
    /// How much what lies behind is blurred first, px.
    pub blur: f32,
    /// Factors of the three channels.
    pub tint: [f32; 3],
}

impl Wrap {
    /// Px around a pixel that are looked at.
    pub fn reach(&self) -> f32 {
        radius_of(self.width).max(radius_of(self.blur)) as f32
    }
}

/// The light (RGBA, no coverage) that comes round the edge of a matte from `behind` (RGBA, premultiplied), all on one window:
/// the blurred picture behind times `α · (1 − blurred α)`, which is half of it just inside the edge and nothing in the
/// middle of what is wide. What lies beyond the window is as its edge, so that no light comes in where the frame cuts.
///
/// Common practice, no source.
///
/// # Errors
/// Rasters of other windows or channels; cancellation.
pub fn wrapped(matte: &Raster, behind: &Raster, how: &Wrap, cancel: &Cancel) -> Result<Raster, KernelError> {
    let window = matte.window();
    matte.expect_channels("matte", 1)?;
    behind.expect_channels("picture behind", 4)?;
    behind.expect_window("picture behind", window)?;
    let wide = softened(matte, how.width, cancel)?;
    let light = softened(behind, how.blur, cancel)?;
    let mut out = Raster::zeros(window, 4);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (inside, around) = (matte.row(0, y), wide.row(0, y));
            for (c, tint) in how.tint.into_iter().enumerate() {
                let (row, light) = (band.row(c, y), light.row(c, y));
                for i in 0..row.len() {
                    let share = inside[i] * (1.0 - around[i]).max(0.0);
                    // What is not finite behind stays out of where nothing comes in.
                    row[i] = if share > 0.0 { light[i] * share * tint } else { 0.0 };
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

    fn half(edge: i32) -> Raster {
        Raster::from_fn(Window::of_size(80, 20), 1, |_, x, _| f32::from(u8::from(x >= edge)))
    }

    #[test]
    fn half_of_the_light_comes_in_at_a_straight_edge_and_none_far_inside() {
        let behind = Raster::from_fn(Window::of_size(80, 20), 4, |c, _, _| [0.2, 0.6, 1.0, 1.0][c]);
        let how = Wrap { width: 12.0, blur: 5.0, tint: [1.0, 0.5, 1.0] };
        let out = wrapped(&half(40), &behind, &how, &Cancel::new()).unwrap();
        // Just inside, the blurred matte is a half and the step of half a pixel's Gaussian.
        let step = 0.5 / (6.0 * std::f32::consts::TAU.sqrt());
        let near = |c: usize| out.sample(c, 40, 10).unwrap();
        assert!((near(0) - 0.2 * (0.5 - step)).abs() < 1e-3, "{}", near(0));
        assert!((near(1) - 0.3 * (0.5 - step)).abs() < 1e-3, "{}", near(1));
        assert_eq!((out.sample(2, 39, 10), out.sample(2, 75, 10)), (Some(0.0), Some(0.0)));
        assert_eq!(out.plane(3), vec![0.0; 80 * 20]);
    }

    #[test]
    fn none_comes_in_where_the_frame_cuts() {
        let all = Raster::filled(Window::of_size(40, 30), 1, 1.0);
        let behind = Raster::filled(all.window(), 4, 3.0);
        let how = Wrap { width: 20.0, blur: 9.0, tint: [1.0; 3] };
        let out = wrapped(&all, &behind, &how, &Cancel::new()).unwrap();
        assert!(out.data().iter().all(|v| v.abs() < 1e-5));
    }
}
