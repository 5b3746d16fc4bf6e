//! The one parallel helper: a raster cut into bands of rows, and the token that stops the work.

use crate::{Raster, ShapeError, Window};
use rayon::prelude::*;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use thiserror::Error;

/// Rows in a band: enough work to hide the hand-over between threads (about 60 k pixels at HD width),
/// few enough that a cancelled request stops within a millisecond or two.
pub const BAND_ROWS: u32 = 32;

/// The work was stopped because nobody waits for it any more.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
#[error("stopped: a newer request took its place")]
pub struct Cancelled;

/// Why a kernel gave no result.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[non_exhaustive]
pub enum KernelError {
    /// The inputs do not fit each other.
    #[error(transparent)]
    Shape(#[from] ShapeError),
    /// The work was stopped.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
}

/// A token shared by a request and whoever may stop it.
#[derive(Clone, Debug, Default)]
pub struct Cancel(Arc<AtomicBool>);

impl Cancel {
    /// A token that nobody has pulled yet.
    pub fn new() -> Self {
        Self::default()
    }

    /// Stops the work that holds a clone of this token, at its next band.
    pub fn cancel(&self) {
        self.0.store(true, Ordering::Release);
    }

    /// Whether the work should stop.
    pub fn is_cancelled(&self) -> bool {
        self.0.load(Ordering::Acquire)
    }

    /// `Err` once the token was pulled.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn check(&self) -> Result<(), Cancelled> {
        if self.is_cancelled() { Err(Cancelled) } else { Ok(()) }
    }
}

/// Some rows of every channel of an output raster.
pub struct Band<'a> {
    window: Window,
    planes: Vec<&'a mut [f32]>,
}

impl Band<'_> {
    /// The rows and columns that this band covers.
    pub fn window(&self) -> Window {
        self.window
    }

    /// Row `y` of one channel, to write.
    ///
    /// # Panics
    /// If the row or channel is outside the band.
    pub fn row(&mut self, channel: usize, y: i32) -> &mut [f32] {
        let width = self.window.width as usize;
        let start = (y - self.window.y) as usize * width;
        &mut self.planes[channel][start..start + width]
    }

    /// Row `y` of every channel, to write.
    ///
    /// # Panics
    /// If the row is outside the band.
    pub fn every_row(&mut self, y: i32) -> Vec<&mut [f32]> {
        let width = self.window.width as usize;
        let start = (y - self.window.y) as usize * width;
        self.planes.iter_mut().map(|plane| &mut plane[start..start + width]).collect()
    }

    /// Row `y` of the first `N` channels, to write.
    ///
    /// # Panics
    /// If there are fewer channels, or the row is outside.
    pub fn rows<const N: usize>(&mut self, y: i32) -> [&mut [f32]; N] {
        let width = self.window.width as usize;
        let start = (y - self.window.y) as usize * width;
        let mut planes = self.planes.iter_mut();
        std::array::from_fn(|_| match planes.next() {
            Some(plane) => &mut plane[start..start + width],
            None => &mut [],
        })
    }
}

fn split(out: &mut Raster) -> Vec<Band<'_>> {
    let window = out.window();
    if window.is_empty() {
        return Vec::new();
    }
    let chunk = (BAND_ROWS * window.width) as usize;
    let count = window.height.div_ceil(BAND_ROWS);
    let mut bands: Vec<Band<'_>> = (0..count)
        .map(|i| {
            let top = i * BAND_ROWS;
            let height = BAND_ROWS.min(window.height - top);
            let window = Window::new(window.x, window.y + top as i32, window.width, height);
            Band { window, planes: Vec::with_capacity(4) }
        })
        .collect();
    for plane in out.planes_mut() {
        for (band, rows) in bands.iter_mut().zip(plane.chunks_mut(chunk)) {
            band.planes.push(rows);
        }
    }
    bands
}

/// Runs `work` on every band of `out`, in parallel, until done or cancelled.
///
/// Bands share no pixel and `work` sees nothing of the other bands, so the result does not depend on
/// the number of threads.
///
/// # Errors
/// [`Cancelled`] if the token was pulled before the last band was started; `out` is then half done.
pub fn for_each_band(
    out: &mut Raster,
    cancel: &Cancel,
    work: impl Fn(&mut Band<'_>) + Sync,
) -> Result<(), Cancelled> {
    split(out).into_par_iter().try_for_each(|mut band| {
        cancel.check()?;
        work(&mut band);
        Ok(())
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::atomic::AtomicUsize;

    #[test]
    fn bands_cover_every_row_once() {
        for height in [0, 1, 31, 32, 33, 100] {
            let mut r = Raster::zeros(Window::new(-3, 7, 5, height), 2);
            for_each_band(&mut r, &Cancel::new(), |band| {
                for y in band.window().rows() {
                    let [a, b] = band.rows(y);
                    a.iter_mut().for_each(|v| *v += y as f32);
                    b.iter_mut().for_each(|v| *v -= 1.0);
                }
            })
            .unwrap();
            assert_eq!(r, Raster::from_fn(r.window(), 2, |c, _, y| if c == 0 { y as f32 } else { -1.0 }));
        }
    }

    #[test]
    fn a_cancelled_request_starts_no_further_band() {
        let mut r = Raster::zeros(Window::of_size(4, 100 * BAND_ROWS), 1);
        let (cancel, ran) = (Cancel::new(), AtomicUsize::new(0));
        let pool = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
        let end = pool.install(|| {
            for_each_band(&mut r, &cancel, |_| {
                if ran.fetch_add(1, Ordering::SeqCst) + 1 == 3 {
                    cancel.cancel();
                }
            })
        });
        assert_eq!(end, Err(Cancelled));
        assert_eq!(ran.load(Ordering::SeqCst), 3, "one thread: the band that cancelled is the last");
    }
}
