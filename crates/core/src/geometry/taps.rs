//! The few samples that a kernel reads where nothing shrinks: most pixels of most moves.
//!
//! Inside the functions that are made for several processors there are plain loops only: a closure that the standard
//! library calls would not be made for them, and be called for each sample.

// Loops over several rows and channels at once read plainer by their numbers.
#![allow(clippy::needless_range_loop)]

use super::footprint::PLAIN;
use super::kernel::Kernel;
use super::row::Row;
use crate::Raster;
use multiversion::multiversion;
use rayon::prelude::*;
use std::sync::LazyLock;

/// A source, laid out for a kernel.
pub(super) struct Taps<'a> {
    kernel: Kernel,
    source: &'a Raster,
    /// RGBA, pixel after pixel, for kernels that read many samples.
    pixels: Vec<[f32; 4]>,
}

/// Where the samples of the pixels of a row begin, and how far their places lie beyond the middle two.
#[derive(Default)]
pub(super) struct Starts {
    from: Vec<u32>,
    x: Vec<f32>,
    y: Vec<f32>,
    plain: Vec<bool>,
}

impl<'a> Taps<'a> {
    /// Lays a source out.
    pub fn of(kernel: Kernel, source: &'a Raster) -> Self {
        let many = source.channels() == 4 && kernel != Kernel::Bilinear;
        let pixels = if many { pixels_of(source) } else { Vec::new() };
        Self { kernel, source, pixels }
    }

    /// Reads a row. What is left for a [`super::footprint::Footprint`] is put into `rest`: pixels that shrink, lie on the
    /// edge of the source, overshoot, or meet what is not finite.
    pub fn read(&self, places: &Row, starts: &mut Starts, out: &mut [&mut [f32]], rest: &mut Vec<usize>) {
        match self.kernel {
            Kernel::Bilinear => self.read_by::<Straight, 2, 1>(places, starts, out, rest),
            Kernel::CatmullRom => self.read_by::<Cubic, 4, 2>(places, starts, out, rest),
            Kernel::Lanczos3 => self.read_by::<Lanczos, 6, 3>(places, starts, out, rest),
        }
    }

    fn read_by<W: Weights<N>, const N: usize, const H: usize>(
        &self,
        places: &Row,
        starts: &mut Starts,
        out: &mut [&mut [f32]],
        rest: &mut Vec<usize>,
    ) {
        let window = self.source.window();
        let size = (window.width as usize, window.height as usize);
        starts.find(places, N, size, (f64::from(window.x), f64::from(window.y)));
        match out {
            [r, g, b, a] if !self.pixels.is_empty() => {
                interleaved::<W, N, H>(starts, &self.pixels, size.0, [r, g, b, a], rest);
            }
            [r, g, b, a] => {
                let planes = [0, 1, 2, 3].map(|c| self.source.plane(c));
                planar::<W, N, 4>(starts, planes, size.0, [r, g, b, a], rest);
            }
            [one] => planar::<W, N, 1>(starts, [self.source.plane(0)], size.0, [one], rest),
            _ => rest.extend(0..places.x.len()),
        }
    }
}

fn pixels_of(source: &Raster) -> Vec<[f32; 4]> {
    let width = source.window().width as usize;
    let mut pixels = vec![[0.0; 4]; source.window().area()];
    if width == 0 {
        return pixels;
    }
    let planes = [0, 1, 2, 3].map(|c| source.plane(c));
    pixels.par_chunks_mut(width * 32).enumerate().for_each(|(i, rows)| {
        let from = i * width * 32;
        let [r, g, b, a] = planes.map(|p| &p[from..from + rows.len()]);
        for ((((to, r), g), b), a) in rows.iter_mut().zip(r).zip(g).zip(b).zip(a) {
            *to = [*r, *g, *b, *a];
        }
    });
    pixels
}

impl Starts {
    fn find(&mut self, places: &Row, taps: usize, size: (usize, usize), origin: (f64, f64)) {
        let n = places.x.len();
        self.from.resize(n, 0);
        self.x.resize(n, 0.0);
        self.y.resize(n, 0.0);
        self.plain.resize(n, false);
        find(self, places, taps, size, origin);
    }
}

#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn find(starts: &mut Starts, places: &Row, taps: usize, size: (usize, usize), origin: (f64, f64)) {
    let n = places.x.len();
    let (px, py) = (&places.x[..n], &places.y[..n]);
    let [xx, xy, yx, yy] = &places.slope;
    let (xx, xy, yx, yy) = (&xx[..n], &xy[..n], &yx[..n], &yy[..n]);
    let (from, x_out) = (&mut starts.from[..n], &mut starts.x[..n]);
    let (y_out, plain) = (&mut starts.y[..n], &mut starts.plain[..n]);
    let before = (taps / 2 - 1) as f64;
    let most = (size.0 as f64 - taps as f64, size.1 as f64 - taps as f64);
    let longest = (PLAIN * PLAIN) as f32;
    for i in 0..n {
        let (x, y) = (px[i] - origin.0 - 0.5, py[i] - origin.1 - 0.5);
        let (wx, wy) = (x.floor(), y.floor());
        let (fx, fy) = (wx - before, wy - before);
        // Not a number lies nowhere.
        let inside = (fx >= 0.0) & (fy >= 0.0) & (fx <= most.0) & (fy <= most.1);
        x_out[i] = (x - wx) as f32;
        y_out[i] = (y - wy) as f32;
        // Exact in 64 bits; a picture has fewer than 2³² pixels.
        let start = if inside { fy * size.0 as f64 + fx } else { 0.0 };
        from[i] = start as u32;
        // The larger eigenvalue of J·Jᵀ lies below a bound if what is left of it has no side below 0.
        let (a, d) = (xx[i] * xx[i] + yx[i] * yx[i], xy[i] * xy[i] + yy[i] * yy[i]);
        let b = xx[i] * xy[i] + yx[i] * yy[i];
        let (p, q) = (longest - a, longest - d);
        plain[i] = inside & (p >= 0.0) & (q >= 0.0) & (p * q >= b * b);
    }
}

#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn interleaved<W: Weights<N>, const N: usize, const H: usize>(
    starts: &Starts,
    pixels: &[[f32; 4]],
    width: usize,
    [r, g, b, a]: [&mut &mut [f32]; 4],
    rest: &mut Vec<usize>,
) {
    for i in 0..starts.from.len() {
        if !starts.plain[i] {
            rest.push(i);
            continue;
        }
        let (wx, wy) = (W::at(starts.x[i]), W::at(starts.y[i]));
        let from = starts.from[i] as usize;
        let mut sum = [[0.0f32; 8]; H];
        for (j, w) in wy.iter().enumerate() {
            let row = pixels[from + j * width..from + j * width + N].as_flattened();
            let (pairs, _) = row.as_chunks::<8>();
            for (s, v) in sum.iter_mut().zip(pairs) {
                for k in 0..8 {
                    s[k] += v[k] * w;
                }
            }
        }
        let mut two = [0.0f32; 8];
        for (s, w) in sum.iter().zip(wx.as_chunks::<2>().0) {
            for k in 0..8 {
                two[k] += s[k] * w[k / 4];
            }
        }
        let out = [two[0] + two[4], two[1] + two[5], two[2] + two[6], two[3] + two[7]];
        // Below black, above full coverage, or not finite: told apart from what was there already.
        let least = out[0].min(out[1]).min(out[2]).min(out[3]);
        let finite = (out[0] + out[1] + out[2]) < f32::INFINITY;
        if (least >= 0.0) & (out[3] <= 1.0) & finite {
            (r[i], g[i], b[i], a[i]) = (out[0], out[1], out[2], out[3]);
        } else {
            rest.push(i);
        }
    }
}

#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn planar<W: Weights<N>, const N: usize, const C: usize>(
    starts: &Starts,
    planes: [&[f32]; C],
    width: usize,
    out: [&mut &mut [f32]; C],
    rest: &mut Vec<usize>,
) {
    for i in 0..starts.from.len() {
        if !starts.plain[i] {
            rest.push(i);
            continue;
        }
        let (wx, wy) = (W::at(starts.x[i]), W::at(starts.y[i]));
        let from = starts.from[i] as usize;
        let (mut all, mut least, mut total) = ([0.0f32; C], 0.0f32, 0.0f32);
        for c in 0..C {
            let plane = planes[c];
            for j in 0..N {
                let row = &plane[from + j * width..from + j * width + N];
                let mut along = 0.0;
                for k in 0..N {
                    along += row[k] * wx[k];
                }
                all[c] += along * wy[j];
            }
            least = least.min(all[c]);
            total += all[c];
        }
        // As above; a total is not finite if a part of it is not.
        if (least >= 0.0) & (all[C - 1] <= 1.0) & (total < f32::INFINITY) {
            for c in 0..C {
                out[c][i] = all[c];
            }
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
        let (t2, t3) = (t * t, t * t * t);
        [
            0.5 * (-t3 + 2.0 * t2 - t),
            0.5 * (3.0 * t3 - 5.0 * t2 + 2.0),
            0.5 * (-3.0 * t3 + 4.0 * t2 + t),
            0.5 * (t3 - t2),
        ]
    }
}

/// Steps of a px in the table of Lanczos weights.
const PHASES: usize = 1024;

/// The six weights of each step, of sum 1.
static LANCZOS: LazyLock<Vec<[f32; 6]>> = LazyLock::new(|| {
    let of = |i: usize| {
        let t = i as f64 / PHASES as f64;
        let w: [f64; 6] = std::array::from_fn(|k| Kernel::Lanczos3.weight(k as f64 - 2.0 - t));
        let sum: f64 = w.iter().sum();
        w.map(|w| (w / sum) as f32)
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
        let table: &[[f32; 6]] = &LANCZOS;
        let (a, b) = (&table[i], &table[i + 1]);
        let mut weights = *a;
        for n in 0..6 {
            weights[n] += (b[n] - a[n]) * k;
        }
        weights
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
