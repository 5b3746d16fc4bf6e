//! The few samples that a kernel reads where nothing shrinks: most pixels of most moves.
//!
//! Pixels are read by blocks. What a block shows of the picture is laid out pixel after pixel first, so that a sample of all
//! four channels is one load, and stays in the nearest memory.
//!
//! Inside the functions that are made for several processors there are plain loops only: a closure that the standard
//! library calls would not be made for them, and be called for each sample.

// Loops over several rows and channels at once read plainer by their numbers.
#![allow(clippy::needless_range_loop)]

use super::footprint::PLAIN;
use super::kernel::Kernel;
use super::row::Row;
use crate::Raster;
use glam::{Mat4, Vec4};
use multiversion::multiversion;
use std::ops::Range;
use std::sync::LazyLock;

/// A source that is read by a kernel.
pub(super) struct Taps<'a> {
    kernel: Kernel,
    source: &'a Raster,
}

/// Where the samples of the pixels of a row begin, px of the source's planes, and how far their places lie beyond the middle
/// two.
#[derive(Default)]
pub(super) struct Starts {
    column: Vec<i32>,
    row: Vec<i32>,
    x: Vec<f32>,
    y: Vec<f32>,
    /// Not 0 where the kernel stands as it is and lies within the source.
    plain: Vec<u32>,
    /// The least and the largest column and row of those.
    spread: [i32; 4],
}

/// The samples of a block of pixels, RGBA, pixel after pixel.
#[derive(Default)]
pub(super) struct Near {
    columns: Range<i32>,
    rows: Range<i32>,
    pixels: Vec<[f32; 4]>,
    /// Whether they were laid out: not where they lie too far apart.
    laid: bool,
    /// A row as it is read.
    read: Vec<[f32; 4]>,
}

/// So many samples for a pixel of a block are laid out at most; what is scattered more is read where it lies.
const SCATTERED: usize = 8;

impl<'a> Taps<'a> {
    /// Reads a source.
    pub fn of(kernel: Kernel, source: &'a Raster) -> Self {
        Self { kernel, source }
    }

    /// Samples along a side.
    fn count(&self) -> usize {
        2 * self.kernel.radius() as usize
    }

    /// Finds where the samples of the rows of a block begin, and lays out what they are.
    pub fn look(&self, rows: &mut [(Row, Starts)], near: &mut Near) {
        let w = self.source.window();
        let size = (f64::from(w.width), f64::from(w.height));
        let (mut least, mut most, mut pixels) = ([i32::MAX; 2], [i32::MIN; 2], 0);
        for (places, starts) in rows {
            starts.find(places, self.count(), size, (f64::from(w.x), f64::from(w.y)));
            pixels += places.x.len();
            let [left, right, top, bottom] = starts.spread;
            (least, most) =
                ([least[0].min(left), least[1].min(top)], [most[0].max(right), most[1].max(bottom)]);
        }
        near.laid = false;
        if self.source.channels() == 4 && least[0] <= most[0] {
            let more = self.count() as i32;
            near.lay(self.source, [0, 1].map(|k| least[k]..most[k] + more), pixels);
        }
    }

    /// Reads a row of the block that was looked at last. What is left for a [`super::footprint::Footprint`] is put into
    /// `rest`: pixels that shrink, lie on the edge of the source, or meet what is not finite.
    pub fn read(&self, starts: &Starts, near: &mut Near, out: &mut [Vec<f32>], rest: &mut Vec<usize>) {
        match self.kernel {
            Kernel::Bilinear => self.read_by::<Straight, 2>(starts, near, out, rest),
            Kernel::CatmullRom => self.read_by::<Cubic, 4>(starts, near, out, rest),
            Kernel::Lanczos3 => self.read_by::<Lanczos, 6>(starts, near, out, rest),
        }
    }

    fn read_by<W: Weights<N>, const N: usize>(
        &self,
        starts: &Starts,
        near: &mut Near,
        out: &mut [Vec<f32>],
        rest: &mut Vec<usize>,
    ) {
        let wide = self.source.window().width as usize;
        match out {
            [r, g, b, a] => {
                let Near { columns, rows, pixels, read, laid } = near;
                read.resize(starts.x.len(), [0.0; 4]);
                if *laid {
                    let origin = (columns.start, rows.start);
                    coloured::<W, _, N>(starts, &Beside { pixels, wide: columns.len(), origin }, read, rest);
                } else {
                    let planes = [0, 1, 2, 3].map(|c| self.source.plane(c));
                    coloured::<W, _, N>(starts, &Apart { planes, wide }, read, rest);
                }
                part(read, [r, g, b, a]);
            }
            [one] => plane::<W, N>(starts, (self.source.plane(0), wide), one, rest),
            _ => rest.extend(0..starts.x.len()),
        }
    }
}

impl Near {
    fn lay(&mut self, source: &Raster, [columns, rows]: [Range<i32>; 2], pixels: usize) {
        let (wide, high) = (columns.len(), rows.len());
        self.laid = wide * high <= pixels * SCATTERED;
        if !self.laid {
            return;
        }
        if self.pixels.len() < wide * high {
            self.pixels.resize(wide * high, [0.0; 4]);
        }
        let across = source.window().width as usize;
        let planes = [0, 1, 2, 3].map(|c| source.plane(c));
        for (to, y) in self.pixels.chunks_exact_mut(wide).zip(rows.clone()) {
            let from = y as usize * across + columns.start as usize;
            interleave(planes.map(|p| &p[from..from + wide]), to);
        }
        (self.columns, self.rows) = (columns, rows);
    }
}

/// Four planes side by side.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn interleave([r, g, b, a]: [&[f32]; 4], to: &mut [[f32; 4]]) {
    let ((r, r_end), (g, g_end)) = (r.as_chunks::<4>(), g.as_chunks::<4>());
    let ((b, b_end), (a, a_end)) = (b.as_chunks::<4>(), a.as_chunks::<4>());
    let (to, to_end) = to.as_chunks_mut::<4>();
    let n = to.len();
    let (r, g, b, a) = (&r[..n], &g[..n], &b[..n], &a[..n]);
    for i in 0..n {
        let four = Mat4::from_cols(r[i].into(), g[i].into(), b[i].into(), a[i].into());
        to[i] = four.transpose().to_cols_array_2d();
    }
    for i in 0..to_end.len() {
        to_end[i] = [r_end[i], g_end[i], b_end[i], a_end[i]];
    }
}

/// Pixels into four planes.
#[inline(always)]
fn part(from: &[[f32; 4]], [r, g, b, a]: [&mut [f32]; 4]) {
    let (from, end) = from.as_chunks::<4>();
    let n = from.len();
    let ((r, r_end), (g, g_end)) = (r.as_chunks_mut::<4>(), g.as_chunks_mut::<4>());
    let ((b, b_end), (a, a_end)) = (b.as_chunks_mut::<4>(), a.as_chunks_mut::<4>());
    let (r, g, b, a) = (&mut r[..n], &mut g[..n], &mut b[..n], &mut a[..n]);
    for i in 0..n {
        let four = Mat4::from_cols_array_2d(&from[i]).transpose().to_cols_array_2d();
        [r[i], g[i], b[i], a[i]] = four;
    }
    for i in 0..end.len() {
        [r_end[i], g_end[i], b_end[i], a_end[i]] = end[i];
    }
}

impl Starts {
    fn find(&mut self, places: &Row, taps: usize, size: (f64, f64), origin: (f64, f64)) {
        let n = places.x.len();
        self.column.resize(n, 0);
        self.row.resize(n, 0);
        self.x.resize(n, 0.0);
        self.y.resize(n, 0.0);
        self.plain.resize(n, 0);
        find(self, places, taps, size, origin);
    }
}

/// Added to a whole number below 2³¹ it leaves that number in the lowest bits.
const WHOLE: f64 = 6_755_399_441_055_744.0;

#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn find(starts: &mut Starts, places: &Row, taps: usize, size: (f64, f64), origin: (f64, f64)) {
    let n = places.x.len();
    let (px, py) = (&places.x[..n], &places.y[..n]);
    let [xx, xy, yx, yy] = &places.slope;
    let (xx, xy, yx, yy) = (&xx[..n], &xy[..n], &yx[..n], &yy[..n]);
    let (column, row) = (&mut starts.column[..n], &mut starts.row[..n]);
    let (x_out, y_out, plain) = (&mut starts.x[..n], &mut starts.y[..n], &mut starts.plain[..n]);
    let before = (taps / 2 - 1) as f64;
    let most = (size.0 - taps as f64, size.1 - taps as f64);
    for i in 0..n {
        let (x, y) = (px[i] - origin.0 - 0.5, py[i] - origin.1 - 0.5);
        let (wx, wy) = (x.floor(), y.floor());
        let (fx, fy) = (wx - before, wy - before);
        x_out[i] = (x - wx) as f32;
        y_out[i] = (y - wy) as f32;
        column[i] = (fx + WHOLE).to_bits() as i32;
        row[i] = (fy + WHOLE).to_bits() as i32;
        // Not a number lies nowhere.
        let inside = (fx >= 0.0) & (fy >= 0.0) & (fx <= most.0) & (fy <= most.1);
        plain[i] = if inside { u64::MAX } else { 0 } as u32;
    }
    let longest = (PLAIN * PLAIN) as f32;
    let (mut left, mut right, mut top, mut bottom) = (i32::MAX, i32::MIN, i32::MAX, i32::MIN);
    for i in 0..n {
        // The larger eigenvalue of J·Jᵀ lies below a bound if what is left of it has no side below 0.
        let (a, d) = (xx[i] * xx[i] + yx[i] * yx[i], xy[i] * xy[i] + yy[i] * yy[i]);
        let b = xx[i] * xy[i] + yx[i] * yy[i];
        let (p, q) = (longest - a, longest - d);
        let short = (p >= 0.0) & (q >= 0.0) & (p * q >= b * b);
        let own = if short { plain[i] } else { 0 };
        plain[i] = own;
        let (c, r) = (column[i], row[i]);
        left = left.min(if own == 0 { i32::MAX } else { c });
        right = right.max(if own == 0 { i32::MIN } else { c });
        top = top.min(if own == 0 { i32::MAX } else { r });
        bottom = bottom.max(if own == 0 { i32::MIN } else { r });
    }
    starts.spread = [left, right, top, bottom];
}

/// Where samples of four channels come from.
trait Sampled {
    /// `N` samples beside each other, some rows below where those of a pixel begin.
    fn line<const N: usize>(&self, column: i32, row: i32) -> [Vec4; N];
}

/// Pixel after pixel.
struct Beside<'a> {
    pixels: &'a [[f32; 4]],
    wide: usize,
    origin: (i32, i32),
}

impl Sampled for Beside<'_> {
    #[inline(always)]
    fn line<const N: usize>(&self, column: i32, row: i32) -> [Vec4; N] {
        let from = (row - self.origin.1) as usize * self.wide + (column - self.origin.0) as usize;
        let samples = &self.pixels[from..from + N];
        let mut all = [Vec4::ZERO; N];
        for k in 0..N {
            all[k] = Vec4::from_array(samples[k]);
        }
        all
    }
}

/// A plane for each channel.
struct Apart<'a> {
    planes: [&'a [f32]; 4],
    wide: usize,
}

impl Sampled for Apart<'_> {
    #[inline(always)]
    fn line<const N: usize>(&self, column: i32, row: i32) -> [Vec4; N] {
        let from = row as usize * self.wide + column as usize;
        let mut all = [Vec4::ZERO; N];
        let [r, g, b, a] = self.planes;
        let (r, g, b, a) = (&r[from..from + N], &g[from..from + N], &b[from..from + N], &a[from..from + N]);
        for k in 0..N {
            all[k] = Vec4::new(r[k], g[k], b[k], a[k]);
        }
        all
    }
}

/// No more than covers wholly, and all that a number can be of a colour.
const ROOF: Vec4 = Vec4::new(f32::MAX, f32::MAX, f32::MAX, 1.0);

#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn coloured<W: Weights<N>, S: Sampled, const N: usize>(
    starts: &Starts,
    source: &S,
    read: &mut [[f32; 4]],
    rest: &mut Vec<usize>,
) {
    let n = starts.x.len();
    let (columns, rows) = (&starts.column[..n], &starts.row[..n]);
    let (xs, ys, plain) = (&starts.x[..n], &starts.y[..n], &starts.plain[..n]);
    let read = &mut read[..n];
    for i in 0..n {
        if plain[i] == 0 {
            rest.push(i);
            continue;
        }
        let (wx, wy) = (W::at(xs[i]), W::at(ys[i]));
        let mut sum = Vec4::ZERO;
        for j in 0..N {
            let line = source.line::<N>(columns[i], rows[i] + j as i32);
            let mut along = line[0] * wx[0];
            for k in 1..N {
                along += line[k] * wx[k];
            }
            sum += along * wy[j];
        }
        // Below black, above full coverage, or not a number.
        if !(sum.cmpge(Vec4::ZERO) & sum.cmple(ROOF)).all() {
            match held::<S, N>(sum, source, (columns[i], rows[i])) {
                Some(v) => sum = v,
                None => {
                    rest.push(i);
                    continue;
                }
            }
        }
        read[i] = sum.to_array();
    }
}

/// What overshoots, held to black and to full coverage where no sample goes beyond them; `None` if it is not finite.
#[cold]
#[inline(never)]
fn held<S: Sampled, const N: usize>(sum: Vec4, source: &S, (column, row): (i32, i32)) -> Option<Vec4> {
    let (mut low, mut high) = (Vec4::INFINITY, Vec4::NEG_INFINITY);
    for j in 0..N {
        for v in source.line::<N>(column, row + j as i32) {
            (low, high) = (low.min(v), high.max(v));
        }
    }
    let floor = Vec4::select(low.cmpge(Vec4::ZERO), Vec4::ZERO, Vec4::NEG_INFINITY);
    let roof = Vec4::new(
        f32::INFINITY,
        f32::INFINITY,
        f32::INFINITY,
        if high.w <= 1.0 { 1.0 } else { f32::INFINITY },
    );
    sum.is_finite().then(|| sum.max(floor).min(roof))
}

#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn plane<W: Weights<N>, const N: usize>(
    starts: &Starts,
    (samples, wide): (&[f32], usize),
    out: &mut [f32],
    rest: &mut Vec<usize>,
) {
    for i in 0..starts.x.len() {
        if starts.plain[i] == 0 {
            rest.push(i);
            continue;
        }
        let (wx, wy) = (W::at(starts.x[i]), W::at(starts.y[i]));
        let from = starts.row[i] as usize * wide + starts.column[i] as usize;
        let mut sum = 0.0f32;
        for j in 0..N {
            let line = &samples[from + j * wide..from + j * wide + N];
            let mut along = line[0] * wx[0];
            for k in 1..N {
                along += line[k] * wx[k];
            }
            sum += along * wy[j];
        }
        // As above; one plane is coverage.
        if (0.0..=1.0).contains(&sum) {
            out[i] = sum;
        } else {
            rest.push(i);
        }
    }
}

/// The weights of a kernel's samples, of sum 1, for a place some way beyond the middle two.
pub(crate) trait Weights<const N: usize> {
    fn at(t: f32) -> [f32; N];
}

struct Straight;

impl Weights<2> for Straight {
    #[inline(always)]
    fn at(t: f32) -> [f32; 2] {
        [1.0 - t, t]
    }
}

pub(crate) struct Cubic;

impl Weights<4> for Cubic {
    #[inline(always)]
    fn at(t: f32) -> [f32; 4] {
        const ALL: [Vec4; 4] = [
            Vec4::new(0.0, 1.0, 0.0, 0.0),
            Vec4::new(-0.5, 0.0, 0.5, 0.0),
            Vec4::new(1.0, -2.5, 2.0, -0.5),
            Vec4::new(-0.5, 1.5, -1.5, 0.5),
        ];
        (((ALL[3] * t + ALL[2]) * t + ALL[1]) * t + ALL[0]).to_array()
    }
}

/// Steps of a px in the table of Lanczos weights.
const PHASES: usize = 1024;

/// The six weights of each step, of sum 1, and two of nothing.
static LANCZOS: LazyLock<Vec<[Vec4; 2]>> = LazyLock::new(|| {
    let of = |i: usize| {
        let t = i as f64 / PHASES as f64;
        let w: [f64; 6] = std::array::from_fn(|k| Kernel::Lanczos3.weight(k as f64 - 2.0 - t));
        let sum: f64 = w.iter().sum();
        let [a, b, c, d, e, f] = w.map(|w| (w / sum) as f32);
        [Vec4::new(a, b, c, d), Vec4::new(e, f, 0.0, 0.0)]
    };
    (0..=PHASES).map(of).collect()
});

struct Lanczos;

impl Weights<6> for Lanczos {
    /// Between two steps of the table straight: within 1e-6 of the weights.
    #[inline(always)]
    fn at(t: f32) -> [f32; 6] {
        let at = t * PHASES as f32;
        let i = (at as usize).min(PHASES - 1);
        let k = at - i as f32;
        let table: &[[Vec4; 2]] = &LANCZOS;
        let (from, to) = (table[i], table[i + 1]);
        let [a, b, c, d] = (from[0] + (to[0] - from[0]) * k).to_array();
        let [e, f, ..] = (from[1] + (to[1] - from[1]) * k).to_array();
        [a, b, c, d, e, f]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weights_are_those_of_the_kernels() {
        for i in 0..=1000 {
            let t = i as f32 / 1000.0;
            for (n, w) in Cubic::at(t).into_iter().enumerate() {
                assert!(
                    (f64::from(w) - Kernel::CatmullRom.weight(n as f64 - 1.0 - f64::from(t))).abs() < 1e-6
                );
            }
            let exact: [f64; 6] =
                std::array::from_fn(|n| Kernel::Lanczos3.weight(n as f64 - 2.0 - f64::from(t)));
            let sum: f64 = exact.iter().sum();
            for (w, e) in Lanczos::at(t).into_iter().zip(exact) {
                assert!((f64::from(w) - e / sum).abs() < 2e-6, "{t} {w} {e}");
            }
        }
        assert_eq!(Cubic::at(0.0), [0.0, 1.0, 0.0, 0.0]);
        assert_eq!(Lanczos::at(0.0), [0.0, 0.0, 1.0, 0.0, 0.0, 0.0]);
    }
}
