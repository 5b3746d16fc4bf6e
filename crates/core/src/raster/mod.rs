//! Planar samples in a window.

pub mod bands;
pub mod blur;
mod broad;
pub mod distance;
pub mod graded;
pub mod monotone;
pub(crate) mod neighbours;
pub mod scale;
pub mod soften;
pub mod window;

use crate::Window;
use thiserror::Error;

/// Shapes that do not fit each other.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum ShapeError {
    /// The number of samples is not window × channels.
    #[error("{samples} samples cannot fill {channels} channels of {width}×{height} px")]
    Samples {
        /// Samples given.
        samples: usize,
        /// Channels wanted.
        channels: usize,
        /// Window width, px.
        width: u32,
        /// Window height, px.
        height: u32,
    },
    /// A raster has another number of channels than the kernel works on.
    #[error("{what} needs {wanted} channels and has {found}")]
    Channels {
        /// Which input.
        what: &'static str,
        /// Channels wanted.
        wanted: usize,
        /// Channels found.
        found: usize,
    },
    /// Two rasters should share a window and do not.
    #[error("{what} covers another window than the picture")]
    Window {
        /// Which input.
        what: &'static str,
    },
}

/// Planar `f32` samples: channel after channel, each row after row, over one [`Window`].
///
/// What the channels mean is the holder's business (see the conventions in the crate documentation).
#[derive(Clone, Debug, PartialEq)]
pub struct Raster {
    window: Window,
    channels: usize,
    data: Vec<f32>,
}

impl Raster {
    /// All samples `value`.
    pub fn filled(window: Window, channels: usize, value: f32) -> Self {
        Self { window, channels, data: vec![value; window.area() * channels] }
    }

    /// All samples zero: transparent black as a picture.
    pub fn zeros(window: Window, channels: usize) -> Self {
        Self::filled(window, channels, 0.0)
    }

    /// Takes samples that are already planar.
    ///
    /// # Errors
    /// [`ShapeError::Samples`] if `data` does not hold `channels × window.area()` samples.
    pub fn from_planar(window: Window, channels: usize, data: Vec<f32>) -> Result<Self, ShapeError> {
        if data.len() != channels * window.area() {
            return Err(ShapeError::Samples {
                samples: data.len(),
                channels,
                width: window.width,
                height: window.height,
            });
        }
        Ok(Self { window, channels, data })
    }

    /// Each sample from its channel and pixel: `f(channel, x, y)`.
    pub fn from_fn(window: Window, channels: usize, mut f: impl FnMut(usize, i32, i32) -> f32) -> Self {
        let mut raster = Self::zeros(window, channels);
        for c in 0..channels {
            for y in window.rows() {
                for (x, v) in (window.x..).zip(raster.row_mut(c, y)) {
                    *v = f(c, x, y);
                }
            }
        }
        raster
    }

    /// Where the samples are.
    pub fn window(&self) -> Window {
        self.window
    }

    /// Number of planes.
    pub fn channels(&self) -> usize {
        self.channels
    }

    /// Every sample, channel after channel.
    pub fn data(&self) -> &[f32] {
        &self.data
    }

    /// Size in memory, bytes.
    pub fn bytes(&self) -> usize {
        std::mem::size_of_val(self.data.as_slice()) + std::mem::size_of::<Self>()
    }

    /// One channel, row after row.
    ///
    /// # Panics
    /// If there is no such channel.
    pub fn plane(&self, channel: usize) -> &[f32] {
        let n = self.window.area();
        &self.data[channel * n..(channel + 1) * n]
    }

    /// One channel, to write.
    ///
    /// # Panics
    /// If there is no such channel.
    pub fn plane_mut(&mut self, channel: usize) -> &mut [f32] {
        let n = self.window.area();
        &mut self.data[channel * n..(channel + 1) * n]
    }

    /// All channels as separate slices, to write.
    pub fn planes_mut(&mut self) -> Vec<&mut [f32]> {
        let n = self.window.area();
        if n == 0 {
            return (0..self.channels).map(|_| Default::default()).collect();
        }
        self.data.chunks_exact_mut(n).collect()
    }

    fn row_start(&self, channel: usize, y: i32) -> usize {
        let row = (i64::from(y) - i64::from(self.window.y)) as usize;
        channel * self.window.area() + row * self.window.width as usize
    }

    /// Row `y` (in window coordinates) of a channel.
    ///
    /// # Panics
    /// If the row or the channel is outside.
    pub fn row(&self, channel: usize, y: i32) -> &[f32] {
        let start = self.row_start(channel, y);
        &self.data[start..start + self.window.width as usize]
    }

    /// Row `y` of a channel, to write.
    ///
    /// # Panics
    /// If the row or the channel is outside.
    pub fn row_mut(&mut self, channel: usize, y: i32) -> &mut [f32] {
        let start = self.row_start(channel, y);
        &mut self.data[start..start + self.window.width as usize]
    }

    /// The first `N` channels of row `y`.
    ///
    /// # Panics
    /// If the row or a channel is outside.
    pub fn rows<const N: usize>(&self, y: i32) -> [&[f32]; N] {
        std::array::from_fn(|c| self.row(c, y))
    }

    /// One sample, or `None` outside the window.
    pub fn sample(&self, channel: usize, x: i32, y: i32) -> Option<f32> {
        if channel >= self.channels || !self.window.contains(x, y) {
            return None;
        }
        let at = (i64::from(x) - i64::from(self.window.x)) as usize;
        self.row(channel, y).get(at).copied()
    }

    /// All channels of one pixel, or `None` outside the window.
    pub fn pixel(&self, x: i32, y: i32) -> Option<Vec<f32>> {
        (0..self.channels).map(|c| self.sample(c, x, y)).collect()
    }

    /// Gives the samples away: channel after channel.
    pub fn into_data(self) -> Vec<f32> {
        self.data
    }

    /// The samples of `window`; where this raster has none, `outside`.
    pub fn cropped(&self, window: Window, outside: f32) -> Self {
        if window == self.window {
            return self.clone();
        }
        let mut out = Self::filled(window, self.channels, outside);
        let shared = self.window.intersect(&window);
        if shared.is_empty() {
            return out;
        }
        let from = (shared.x - self.window.x) as usize;
        let to = (shared.x - window.x) as usize;
        let n = shared.width as usize;
        for c in 0..self.channels {
            for y in shared.rows() {
                out.row_mut(c, y)[to..to + n].copy_from_slice(&self.row(c, y)[from..from + n]);
            }
        }
        out
    }

    /// Puts another raster's samples in their place, as far as this one reaches; both have the same channels.
    ///
    /// # Panics
    /// If the other has fewer channels.
    pub fn paste(&mut self, other: &Self) {
        let shared = self.window.intersect(&other.window);
        if shared.is_empty() {
            return;
        }
        let (to, from) = ((shared.x - self.window.x) as usize, (shared.x - other.window.x) as usize);
        let n = shared.width as usize;
        for c in 0..self.channels {
            for y in shared.rows() {
                self.row_mut(c, y)[to..to + n].copy_from_slice(&other.row(c, y)[from..from + n]);
            }
        }
    }

    /// Checks the number of channels.
    ///
    /// # Errors
    /// [`ShapeError::Channels`] naming `what`.
    pub fn expect_channels(&self, what: &'static str, wanted: usize) -> Result<(), ShapeError> {
        if self.channels == wanted {
            Ok(())
        } else {
            Err(ShapeError::Channels { what, wanted, found: self.channels })
        }
    }

    /// Checks that the raster lies on `window` exactly.
    ///
    /// # Errors
    /// [`ShapeError::Window`] naming `what`.
    pub fn expect_window(&self, what: &'static str, window: Window) -> Result<(), ShapeError> {
        if self.window == window { Ok(()) } else { Err(ShapeError::Window { what }) }
    }

    /// Checks the channels and the window of each of some rasters that is there.
    ///
    /// # Errors
    /// [`ShapeError`] naming the first that does not fit.
    pub fn expect_each<'a>(
        window: Window,
        all: impl IntoIterator<Item = (&'static str, Option<&'a Self>, usize)>,
    ) -> Result<(), ShapeError> {
        for (what, raster, channels) in all {
            if let Some(raster) = raster {
                raster.expect_channels(what, channels)?;
                raster.expect_window(what, window)?;
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn crop_keeps_samples_and_fills_outside() {
        let r =
            Raster::from_fn(Window::new(-1, 0, 3, 2), 2, |c, x, y| (c * 100) as f32 + (y * 10 + x) as f32);
        let crop = r.cropped(Window::new(0, 1, 3, 2), -7.0);
        assert_eq!(crop.plane(0), [10.0, 11.0, -7.0, -7.0, -7.0, -7.0]);
        assert_eq!(crop.plane(1), [110.0, 111.0, -7.0, -7.0, -7.0, -7.0]);
        for beside in [
            Window::new(i32::MIN, i32::MIN, 2, 1),
            Window::new(i32::MAX - 1, 1, 1, 2),
            Window::new(9, 0, 1, 1),
        ] {
            assert!(r.cropped(beside, -7.0).data().iter().all(|v| *v == -7.0), "{beside:?}");
        }
        assert_eq!(r.pixel(-1, 1), Some(vec![9.0, 109.0]));
        assert_eq!(r.pixel(2, 1), None);
    }

    #[test]
    fn wrong_sample_count_is_named() {
        let e = Raster::from_planar(Window::of_size(2, 2), 3, vec![0.0; 11]).unwrap_err();
        assert_eq!(e.to_string(), "11 samples cannot fill 3 channels of 2×2 px");
    }

    #[test]
    fn empty_rasters_are_fine() {
        let mut r = Raster::zeros(Window::of_size(0, 5), 4);
        assert_eq!(r.planes_mut().len(), 4);
        assert_eq!(r.cropped(Window::of_size(1, 1), 2.0).plane(3), [2.0]);
    }
}
