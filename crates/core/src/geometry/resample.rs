//! A picture through a chain of moves: sampled once.
//!
//! Where a chain magnifies, or shrinks by less than a fifth, the kernel reads its own few samples ([`super::taps`]); else,
//! and at the edges of a picture, all samples of a [`super::footprint`].

use super::chain::Chain;
use super::field::Field;
use super::footprint::Footprint;
use super::kernel::Kernel;
use super::row::Row;
use super::taps::{Near, Starts, Taps};
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
        let mut block = Block::default();
        for part in blocks(band.window()) {
            // A block under a strong shrinking reads much: a newer request need not wait for all of it.
            if cancel.is_cancelled() {
                return;
            }
            block.places(part, |y, row| field.row(part.x, y, row));
            let left = (part.x - window.x) as usize;
            samples.read(&mut block, |y, lines| {
                for (row, line) in band.every_row(y).into_iter().zip(lines) {
                    row[left..left + line.len()].copy_from_slice(line);
                }
            });
        }
    })?;
    cancel.check()?;
    Ok(out)
}

/// Columns of a block: what a band of so many shows of a picture stays in the nearest memory.
const BLOCK: u32 = 128;

/// A band cut into blocks that are read one after the other.
pub fn blocks(band: Window) -> impl Iterator<Item = Window> {
    (0..band.width.div_ceil(BLOCK)).map(move |i| {
        let left = i * BLOCK;
        Window::new(band.x + left as i32, band.y, BLOCK.min(band.width - left), band.height)
    })
}

/// A picture that is read between its samples, block after block, from wherever the pixels of a block come.
pub struct Samples<'a> {
    source: &'a Raster,
    kernel: Kernel,
    taps: Taps<'a>,
}

/// Where the pixels of a block come from, and what reading them needs; kept from one block to the next.
#[derive(Default)]
pub struct Block {
    part: Window,
    rows: Vec<(Row, Starts)>,
    near: Near,
    footprint: Footprint,
    rest: Vec<usize>,
    lines: Vec<Vec<f32>>,
}

impl Block {
    /// Says where the pixels of each row of a part of the picture come from.
    pub fn places(&mut self, part: Window, mut put: impl FnMut(i32, &mut Row)) {
        self.part = part;
        self.rows.resize_with(part.height as usize, Default::default);
        for (y, (places, _)) in part.rows().zip(&mut self.rows) {
            places.resize(part.width);
            put(y, places);
        }
    }
}

impl<'a> Samples<'a> {
    /// Reads a picture by a kernel.
    pub fn of(source: &'a Raster, kernel: Kernel) -> Self {
        Self { source, kernel, taps: Taps::of(kernel, source) }
    }

    /// Reads a block, and hands on each of its rows, a line for each channel; 0 where a pixel comes from nowhere.
    pub fn read(&self, block: &mut Block, mut put: impl FnMut(i32, &[Vec<f32>])) {
        let Block { part, rows, near, footprint, rest, lines } = block;
        self.taps.look(rows, near);
        lines.resize_with(self.source.channels(), Vec::new);
        lines.iter_mut().for_each(|line| line.resize(part.width as usize, 0.0));
        for (y, (places, starts)) in part.rows().zip(rows.iter()) {
            rest.clear();
            self.taps.read(starts, near, lines, rest);
            for &x in rest.iter() {
                let seen = places
                    .at(x)
                    .is_some_and(|(at, slope)| footprint.set(self.kernel, at, slope, self.source.window()));
                for (c, line) in lines.iter_mut().enumerate() {
                    line[x] = if seen { footprint.read(self.source, c) } else { 0.0 };
                }
            }
            put(y, lines);
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
