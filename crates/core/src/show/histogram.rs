//! How often each tone is met in a picture.

use crate::colour::srgb_encode;
use crate::{KernelError, Raster};
use serde::Serialize;
use ts_rs::TS;

/// Bars from black to white.
pub const BARS: usize = 64;

/// Shares of a picture's tones.
#[derive(Clone, Debug, PartialEq, Serialize, TS)]
pub struct Histogram {
    /// Shares of all three channels together, from black to white.
    pub all: Vec<f32>,
    /// Shares of red.
    pub red: Vec<f32>,
    /// Shares of green.
    pub green: Vec<f32>,
    /// Shares of blue.
    pub blue: Vec<f32>,
}

/// Counts the tones of a picture (RGBA, premultiplied), each pixel by its coverage; `display` counts them as seen on a screen
/// (under the sRGB curve). What lies below 0 or above 1 is not counted, and neither is what is no number.
///
/// # Errors
/// A picture without exactly four channels.
pub fn histogram(picture: &Raster, display: bool) -> Result<Histogram, KernelError> {
    picture.expect_channels("picture", 4)?;
    let alpha = picture.plane(3);
    let of = |c: usize| {
        let (mut bars, mut total) = (vec![0.0f64; BARS], 0.0f64);
        for (v, a) in picture.plane(c).iter().zip(alpha).filter(|(_, a)| **a > 0.0) {
            total += f64::from(*a);
            let v = if display { srgb_encode(v / a) } else { v / a };
            if (0.0..=1.0).contains(&v) {
                bars[((v * BARS as f32) as usize).min(BARS - 1)] += f64::from(*a);
            }
        }
        bars.into_iter().map(|b| (b / total.max(f64::MIN_POSITIVE)) as f32).collect::<Vec<f32>>()
    };
    let [red, green, blue] = [0, 1, 2].map(of);
    let all = (0..BARS).map(|i| (red[i] + green[i] + blue[i]) / 3.0).collect();
    Ok(Histogram { all, red, green, blue })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    #[test]
    fn a_tone_is_counted_where_it_is_seen() {
        // Two pixels of linear 0.5, one of them half covered, one black, one above white.
        let pixels =
            [[0.5, 0.5, 0.5, 1.0], [0.25, 0.25, 0.25, 0.5], [0.0, 0.0, 0.0, 1.0], [4.0, 0.5, 0.0, 1.0]];
        let picture = Raster::from_fn(Window::of_size(4, 1), 4, |c, x, _| pixels[x as usize][c]);
        let linear = histogram(&picture, false).unwrap();
        let near = |a: f32, b: f64| assert!((f64::from(a) - b).abs() < 1e-6, "{a} {b}");
        near(linear.red[32], 1.5 / 3.5);
        near(linear.red[0], 1.0 / 3.5);
        near(linear.green[32], 2.5 / 3.5);
        near(linear.blue[0], 2.0 / 3.5);
        near(linear.all[32], (1.5 + 2.5 + 1.5) / 3.0 / 3.5);
        // IEC 61966-2-1: linear 0.5 is 0.7354 on a screen.
        let seen = histogram(&picture, true).unwrap();
        near(seen.red[(0.7354 * 64.0) as usize], 1.5 / 3.5);
        let nothing = histogram(&Raster::zeros(Window::of_size(3, 2), 4), true).unwrap();
        assert_eq!(nothing.all, vec![0.0; BARS]);
    }
}
