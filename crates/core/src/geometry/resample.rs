//! A picture through a chain of moves: sampled once.
//!
//! Where a chain magnifies, or shrinks by less than a fifth, the kernel reads its own few samples ([`super::taps`]); else,
//! and at the edges of a picture, all samples of a [`super::footprint`].

use super::chain::Chain;
use super::field::Field;
use super::footprint::Footprint;
use super::kernel::Kernel;
use super::row::Row;
use super::taps::{Starts, Taps};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::DVec2;

/// A picture moved by a chain, on `window`, by the chain's kernel; transparent where there is nothing.
/// Planes of coverage and colour are read alike. A kernel's overshoot makes no coverage above 1 and nothing below black
/// where there was none.
///
/// # Errors
/// Cancellation.
pub fn filtered(
    source: &Raster,
    chain: &Chain,
    window: Window,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    read(source, &Field::of(chain, window), cancel)
}

/// The same where the field of the chain over the window is known already: who asked it for the part of the picture.
///
/// # Errors
/// Cancellation.
pub fn read(source: &Raster, field: &Field<'_>, cancel: &Cancel) -> Result<Raster, KernelError> {
    let (chain, window) = (field.chain, field.window);
    if chain.is_identity() {
        return Ok(source.cropped(window, 0.0));
    }
    let samples = Samples::of(source, chain.kernel);
    let mut out = Raster::zeros(window, source.channels());
    for_each_band(&mut out, cancel, |band| {
        let mut places = Row::of(window.width);
        let mut scratch = Scratch::default();
        for y in band.window().rows() {
            // A row under a strong shrinking reads much: a newer request need not wait for all of it.
            if cancel.is_cancelled() {
                return;
            }
            field.row(window.x, y, &mut places);
            samples.row(&places, &mut scratch, &mut band.every_row(y));
        }
    })?;
    cancel.check()?;
    Ok(out)
}

/// A picture that is read between its samples, row after row, from wherever the pixels of a row come.
pub struct Samples<'a> {
    source: &'a Raster,
    kernel: Kernel,
    taps: Taps<'a>,
}

/// What reading a row needs; kept from one row to the next.
#[derive(Default)]
pub struct Scratch {
    footprint: Footprint,
    starts: Starts,
    rest: Vec<usize>,
}

impl<'a> Samples<'a> {
    /// Lays a picture out for a kernel.
    pub fn of(source: &'a Raster, kernel: Kernel) -> Self {
        Self { source, kernel, taps: Taps::of(kernel, source) }
    }

    /// Reads a row into one slice for each channel. Pixels that come from nowhere keep what stands in them.
    pub fn row(&self, places: &Row, scratch: &mut Scratch, out: &mut [&mut [f32]]) {
        let Scratch { footprint, starts, rest } = scratch;
        rest.clear();
        self.taps.read(places, starts, out, rest);
        for &x in rest.iter() {
            let Some((at, slope)) = places.at(x) else { continue };
            if footprint.set(self.kernel, at, slope, self.source.window()) {
                for (c, row) in out.iter_mut().enumerate() {
                    row[x] = footprint.read(self.source, c);
                }
            }
        }
    }
}

/// How much of the contrast of a pattern of a period, px of the source, is left after a chain: the mean over places of a
/// window and over both axes, 0..1. It is what a zone plate shows where its rings have that period.
pub fn contrast_kept(chain: &Chain, window: Window, period: f64) -> f64 {
    if chain.is_identity() || window.is_empty() {
        return 1.0;
    }
    let turn = std::f64::consts::TAU / period;
    let mut footprint = Footprint::default();
    let (mut sum, mut count) = (0.0, 0.0);
    for i in 0..LOOKS * LOOKS {
        // Spread so that no two rows of them have the same fractions of px.
        let share = |i: u32, k: f64| (f64::from(i) * k).fract();
        let x = window.x + (share(i, 0.754_877_666) * f64::from(window.width)) as i32;
        let y = window.y + (share(i, 0.569_840_291) * f64::from(window.height)) as i32;
        let place = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5);
        let Some((at, slope)) = chain.source_with_slope(place) else { continue };
        if at.abs().max_element() > 1e6 {
            continue;
        }
        let around = Window::new(at.x as i32 - 512, at.y as i32 - 512, 1024, 1024);
        if footprint.set(chain.kernel, at, slope, around) {
            for across in [true, false] {
                sum += footprint.response(turn, across);
                count += 1.0;
            }
        }
    }
    if count == 0.0 { 1.0 } else { (sum / count).min(1.0) }
}

/// Places along a side that are looked at.
const LOOKS: u32 = 16;
