//! A picture, or a pass, through a chain of moves: sampled once.
//!
//! *Own derivation on* Heckbert 1989 (elliptical weighted average). A pixel of the moved picture comes from a small
//! ellipse of the source, told by the slope `J` of the chain. Where the chain shrinks, the kernel is stretched over that
//! ellipse; where it magnifies, it is the kernel itself: its axes are `A = √max(J·Jᵀ, 1)`, taken along the ellipse's own
//! axes, so that nothing jumps where one becomes the other. For a plain shrinking this is the common stretched kernel.

use super::chain::{Chain, MOST_SHRINK};
use super::field::Field;
use super::kernel::Kernel;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Role, Window};
use glam::{DMat2, DVec2};

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
        let mut places = vec![None; window.width as usize];
        for y in band.window().rows() {
            field.row(window.x, y, &mut places);
            for (x, place) in places.iter().enumerate() {
                let Some((at, slope)) = *place else { continue };
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
    let field = Field::of(chain, window);
    let mut out = Raster::zeros(window, source.channels());
    for_each_band(&mut out, cancel, |band| {
        let mut footprint = Footprint::default();
        let mut places = vec![None; window.width as usize];
        for y in band.window().rows() {
            // A row under a strong shrinking reads much: a newer request need not wait for all of it.
            if cancel.is_cancelled() {
                return;
            }
            field.row(window.x, y, &mut places);
            for (x, place) in places.iter().enumerate() {
                let Some((at, slope)) = *place else { continue };
                if !footprint.set(chain.kernel, at, slope, source.window()) {
                    continue;
                }
                for c in 0..source.channels() {
                    band.row(c, y)[x] = footprint.read(source, c);
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

/// Samples that a pixel is made of, and their weights.
#[derive(Default)]
struct Footprint {
    window: Window,
    weights: Vec<f32>,
    columns: Vec<f64>,
    rows: Vec<f64>,
}

impl Footprint {
    /// Sets it for a place; `false` where no sample of the source is met.
    fn set(&mut self, kernel: Kernel, at: DVec2, slope: DMat2, source: Window) -> bool {
        let axes = stretched(slope);
        let radius = kernel.radius();
        let half =
            DVec2::new(axes.x_axis.x.abs() + axes.y_axis.x.abs(), axes.x_axis.y.abs() + axes.y_axis.y.abs())
                * radius;
        // Centres within the footprint.
        let low = (at - half - 0.5).ceil();
        let high = (at + half - 0.5).floor();
        let all = Window::from_edges(low.x as i64, low.y as i64, high.x as i64 + 1, high.y as i64 + 1);
        self.window = all.intersect(&source);
        if self.window.is_empty() {
            return false;
        }
        self.weights.clear();
        let upright = axes.x_axis.y == 0.0 && axes.y_axis.x == 0.0;
        let total = if upright {
            self.weigh_upright(kernel, at, axes, all)
        } else {
            self.weigh(kernel, at, axes, all)
        };
        if total.abs() < 1e-9 {
            return false;
        }
        let k = 1.0 / total;
        if k != 1.0 {
            self.weights.iter_mut().for_each(|w| *w = (f64::from(*w) * k) as f32);
        }
        true
    }

    /// Weights along the axes of the source; their sum, with those of samples that are not there.
    fn weigh_upright(&mut self, kernel: Kernel, at: DVec2, axes: DMat2, all: Window) -> f64 {
        let along = |into: &mut Vec<f64>, from: i64, to: i64, at: f64, axis: f64| {
            into.clear();
            into.extend((from..to).map(|i| kernel.weight((i as f64 + 0.5 - at) / axis)));
        };
        let (mut columns, mut rows) = (std::mem::take(&mut self.columns), std::mem::take(&mut self.rows));
        along(&mut columns, all.x.into(), all.right(), at.x, axes.x_axis.x);
        along(&mut rows, all.y.into(), all.bottom(), at.y, axes.y_axis.y);
        let w = self.window;
        let (left, top) = ((w.x - all.x) as usize, (w.y - all.y) as usize);
        for r in &rows[top..top + w.height as usize] {
            self.weights.extend(columns[left..left + w.width as usize].iter().map(|c| (r * c) as f32));
        }
        let total = rows.iter().sum::<f64>() * columns.iter().sum::<f64>();
        (self.columns, self.rows) = (columns, rows);
        total
    }

    fn weigh(&mut self, kernel: Kernel, at: DVec2, axes: DMat2, all: Window) -> f64 {
        let inverse = axes.inverse();
        let mut total = 0.0;
        for y in all.rows() {
            for x in all.x..all.right() as i32 {
                let d = inverse * (DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5) - at);
                let weight = kernel.weight(d.x) * kernel.weight(d.y);
                total += weight;
                if self.window.contains(x, y) {
                    self.weights.push(weight as f32);
                }
            }
        }
        total
    }

    /// What it leaves of a wave of 1 along an axis, `turn` radians a px.
    fn response(&self, turn: f64, across: bool) -> f64 {
        let (mut re, mut im) = (0.0, 0.0);
        let mut weights = self.weights.iter();
        for y in 0..self.window.height {
            for x in 0..self.window.width {
                let (sin, cos) = (turn * f64::from(if across { x } else { y })).sin_cos();
                let w = f64::from(weights.next().copied().unwrap_or(0.0));
                (re, im) = (re + w * cos, im + w * sin);
            }
        }
        re.hypot(im)
    }

    fn read(&self, source: &Raster, channel: usize) -> f32 {
        let w = self.window;
        let from = (w.x - source.window().x) as usize;
        let (mut sum, mut low, mut high) = (0.0f32, f32::INFINITY, f32::NEG_INFINITY);
        let mut weights = self.weights.chunks_exact(w.width as usize);
        for y in w.rows() {
            let row = &source.row(channel, y)[from..from + w.width as usize];
            for (v, k) in row.iter().zip(weights.next().unwrap_or_default()) {
                if *k != 0.0 {
                    sum += v * k;
                    (low, high) = (low.min(*v), high.max(*v));
                }
            }
        }
        let floor = if low >= 0.0 { 0.0 } else { f32::NEG_INFINITY };
        let covers = channel == 3 || source.channels() == 1;
        let roof = if covers && high <= 1.0 { 1.0 } else { f32::INFINITY };
        // What is not finite in a picture spreads no NaN.
        if sum.is_nan() { high.max(0.0) } else { sum.clamp(floor, roof) }
    }
}

/// `√max(J·Jᵀ, 1)`, at most [`MOST_SHRINK`], along its own axes.
fn stretched(slope: DMat2) -> DMat2 {
    let m = slope * slope.transpose();
    let (a, b, d) = (m.x_axis.x, m.y_axis.x, m.y_axis.y);
    let axis = |squared: f64| squared.max(1.0).sqrt().min(MOST_SHRINK);
    if b.abs() <= 1e-12 * (a + d) {
        return DMat2::from_diagonal(DVec2::new(axis(a), axis(d)));
    }
    let (middle, off) = ((a + d) * 0.5, ((a - d) * 0.5).hypot(b));
    let (large, small) = (axis(middle + off), axis(middle - off));
    if large == small {
        return DMat2::from_diagonal(DVec2::splat(large));
    }
    // The axis of the larger one; which of two ways to write it keeps its figures depends on which side is longer.
    let way = if a >= d { DVec2::new(a - middle + off, b) } else { DVec2::new(b, d - middle + off) };
    let u = way.normalize();
    let outer = DMat2::from_cols(u * u.x, u * u.y);
    DMat2::IDENTITY * small + outer * (large - small)
}
