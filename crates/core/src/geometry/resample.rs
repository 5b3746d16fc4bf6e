//! A picture, or a pass, through a chain of moves: sampled once.
//!
//! Where a chain magnifies, or shrinks by less than a fifth, the kernel reads its own few samples ([`super::taps`]); else,
//! and at the edges of a picture, all samples of a [`super::footprint`].

use super::chain::Chain;
use super::field::{Field, Row};
use super::footprint::Footprint;
use super::taps::{Starts, Taps};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Role, Window};
use glam::DVec2;

/// A pass moved by a chain, on `window`, all in px of one scale ([`Chain::at`]): colour and coverage are filtered; all else is picked, since the
/// average of two depths is a depth where nothing is; vectors of motion are turned with the picture.
///
/// # Errors
/// Cancellation.
pub fn moved(
    source: &Raster,
    role: Role,
    chain: &Chain,
    window: Window,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    if chain.is_identity() {
        return Ok(source.cropped(window, role.outside()));
    }
    if role.averages() {
        return filtered(source, chain, window, cancel);
    }
    let turns = role == Role::Motion && source.channels() >= 2;
    let field = Field::of(chain, window);
    let mut out = Raster::filled(window, source.channels(), role.outside());
    for_each_band(&mut out, cancel, |band| {
        let mut places = Row::of(window.width);
        for y in band.window().rows() {
            field.row(window.x, y, &mut places);
            for x in 0..window.width as usize {
                let Some((at, slope)) = places.at(x) else { continue };
                let (sx, sy) = (at.x.floor() as i32, at.y.floor() as i32);
                if !source.window().contains(sx, sy) {
                    continue;
                }
                for c in 0..source.channels() {
                    band.row(c, y)[x] = source.sample(c, sx, sy).unwrap_or(role.outside());
                }
                if turns {
                    let v = DVec2::new(band.row(0, y)[x].into(), band.row(1, y)[x].into());
                    // A slope that cannot be turned round has no picture to move in.
                    let v = if slope.determinant().abs() > 1e-12 { slope.inverse() * v } else { v };
                    (band.row(0, y)[x], band.row(1, y)[x]) = (v.x as f32, v.y as f32);
                }
            }
        }
    })?;
    Ok(out)
}

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
    let taps = Taps::of(chain.kernel, source);
    let mut out = Raster::zeros(window, source.channels());
    for_each_band(&mut out, cancel, |band| {
        let mut footprint = Footprint::default();
        let mut places = Row::of(window.width);
        let (mut starts, mut rest) = (Starts::default(), Vec::new());
        for y in band.window().rows() {
            // A row under a strong shrinking reads much: a newer request need not wait for all of it.
            if cancel.is_cancelled() {
                return;
            }
            field.row(window.x, y, &mut places);
            rest.clear();
            taps.read(&places, &mut starts, &mut band.every_row(y), &mut rest);
            for &x in &rest {
                let Some((at, slope)) = places.at(x) else { continue };
                if footprint.set(chain.kernel, at, slope, source.window()) {
                    for c in 0..source.channels() {
                        band.row(c, y)[x] = footprint.read(source, c);
                    }
                }
            }
        }
    })?;
    cancel.check()?;
    Ok(out)
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
