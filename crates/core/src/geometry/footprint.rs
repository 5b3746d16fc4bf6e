//! The samples that a pixel is made of, where a picture shrinks or ends: the kernel stretched over an ellipse.
//!
//! *Own derivation on* Heckbert 1989 (elliptical weighted average). A pixel of the moved picture comes from a small
//! ellipse of the source, told by the slope `J` of the chain. Where the chain shrinks, the kernel is stretched over that
//! ellipse, along the ellipse's own axes; where it magnifies, it is the kernel itself. For a plain shrinking this is the
//! common stretched kernel.

use super::chain::MOST_SHRINK;
use super::kernel::Kernel;
use crate::{Raster, Window};
use glam::{DMat2, DVec2};

/// Samples that a pixel is made of, and their weights.
#[derive(Default)]
pub(super) struct Footprint {
    window: Window,
    weights: Vec<f32>,
    columns: Vec<f64>,
    rows: Vec<f64>,
}

impl Footprint {
    /// Sets it for a place; `false` where no sample of the source is met.
    pub fn set(&mut self, kernel: Kernel, at: DVec2, slope: DMat2, source: Window) -> bool {
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
    pub fn response(&self, turn: f64, across: bool) -> f64 {
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

    pub fn read(&self, source: &Raster, channel: usize) -> f32 {
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

/// Up to this many px of the source for a px the kernel stands as it is: what it lets through of finer patterns is little,
/// and stretching it there would cost sharpness that is seen.
pub(super) const PLAIN: f64 = 1.2;

/// From here on it is stretched by all that is shrunk; between the two it goes from one to the other.
const STRETCHED: f64 = 1.5;

/// How much a kernel is stretched along an axis that is shrunk `s` times.
fn widened(s: f64) -> f64 {
    if s <= PLAIN {
        1.0
    } else if s < STRETCHED {
        1.0 + (s - PLAIN) * ((STRETCHED - 1.0) / (STRETCHED - PLAIN))
    } else {
        s.min(MOST_SHRINK)
    }
}

/// The axes of the kernel: `√(J·Jᵀ)` with each of its own axes widened.
fn stretched(slope: DMat2) -> DMat2 {
    let m = slope * slope.transpose();
    let (a, b, d) = (m.x_axis.x, m.y_axis.x, m.y_axis.y);
    let axis = |squared: f64| widened(squared.sqrt());
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
