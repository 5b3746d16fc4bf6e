//! One slice of pieces, blurred with the iris.
//!
//! An iris is convex, so each row of its kernel is one run, and a run is a difference of two running sums:
//! the cost of a pixel grows with the radius, not with its square. Large radii work on a coarser grid, where
//! the radius is small again.

use super::pieces::{CIRCLE, COVER, Layer};
use crate::focus::iris::{Iris, Run};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use multiversion::multiversion;
use rayon::prelude::*;

/// Pieces by how near their circle is to that of the slice: a tent up to the slices beside it, so that a
/// piece between two slices is shared by them. The tent is one of squared radii: the variance of the mix is then
/// that of the piece's own circle, and small circles are not blurred too much.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Slice {
    /// Signed radius of the slice in front, px.
    pub below: Option<f32>,
    /// Of this one.
    pub centre: f32,
    /// Of the slice behind.
    pub above: Option<f32>,
}

impl Slice {
    /// One over the distance to the slices in front and behind, in squared radii; 0 where there is none.
    fn fall(&self) -> [f32; 2] {
        let centre = squared(self.centre);
        [self.below, self.above].map(|other| other.map_or(0.0, |o| 1.0 / (squared(o) - centre).abs()))
    }

    /// Whether a range of circles has any weight.
    fn meets(&self, [low, high]: [f32; 2]) -> bool {
        self.below.is_none_or(|b| high > b) && self.above.is_none_or(|a| low < a)
    }

    /// Halvings of the grid on which a blur of this radius is worked out: its radius is then 5 to 10 cells,
    /// which keeps the shape of the iris to a tenth of its radius.
    fn halvings(&self) -> u32 {
        let radius = self.centre.abs();
        (0..).find(|h| radius <= 10.5 * (1 << h) as f32).unwrap_or(0)
    }
}

/// The square of a radius, with its sign.
#[inline(always)]
fn squared(radius: f32) -> f32 {
    radius * radius.abs()
}

/// Planes of a blurred slice: premultiplied colour, and the share of the aperture.
const PLANES: usize = 5;

/// A blurred slice on its grid.
pub struct Blurred {
    raster: Raster,
    halvings: u32,
    /// Columns that hold anything, for each row of the grid.
    spans: Vec<(usize, usize)>,
    full: Window,
}

/// Running sums of a slice's rows.
struct Sums {
    /// Row after row, for each plane: `width + 2·pad + 1` sums.
    data: Vec<f32>,
    stride: usize,
    pad: usize,
    /// Grid of the slice.
    width: usize,
    height: usize,
    /// Columns (of the padded row) that hold anything.
    spans: Vec<(usize, usize)>,
}

/// Blurs the pieces of a layer that belong to a slice; `None` if it has none.
///
/// # Errors
/// Cancellation.
pub fn blur(
    layer: &Layer,
    slice: Slice,
    iris: Iris,
    cancel: &Cancel,
) -> Result<Option<Blurred>, KernelError> {
    let halvings = slice.halvings();
    let full = layer.raster.window();
    let cell = (1usize << halvings) as f32;
    // A cell is a small blur of its own (box, then the tent of `row`: variance ¼ of its side squared, as a
    // disc of its side has); the kernel is the smaller by it.
    let wide = slice.centre.abs() / cell;
    // Without cells, a pixel's own square is what it is smaller by (variance 1/12).
    let own = if halvings > 0 { 1.0 } else { 1.0 / 3.0 };
    let radius = (wide * wide - own).max(0.25).sqrt();
    let runs = if slice.centre == 0.0 {
        vec![Run { dy: 0, left: -0.5, right: 0.5, weight: 1.0 }]
    } else {
        iris.runs(radius, slice.centre < 0.0)
    };
    let pad = radius.ceil() as usize + 2;
    let Some(sums) = Sums::of(layer, slice, halvings, pad, cancel)? else { return Ok(None) };
    let window = Window::of_size(sums.width as u32, sums.height as u32);
    let mut raster = Raster::zeros(window, PLANES);
    for_each_band(&mut raster, cancel, |band| {
        for y in band.window().rows() {
            let mut out: [&mut [f32]; PLANES] = band.rows(y);
            for run in &runs {
                sums.add(run, y, &mut out);
            }
        }
    })?;
    let spans = (0..sums.height as i32).map(|y| sums.reached(&runs, y)).collect();
    Ok(Some(Blurred { raster, halvings, spans, full }))
}

impl Sums {
    fn of(
        layer: &Layer,
        slice: Slice,
        halvings: u32,
        pad: usize,
        cancel: &Cancel,
    ) -> Result<Option<Self>, KernelError> {
        let full = layer.raster.window();
        let cell = 1usize << halvings;
        let (width, height) = ((full.width as usize).div_ceil(cell), (full.height as usize).div_ceil(cell));
        let stride = width + 2 * pad + 1;
        let mut data = vec![0.0f32; stride * PLANES * height];
        let mut spans = vec![(0, 0); height];
        data.par_chunks_mut(stride * PLANES).zip(spans.par_iter_mut()).enumerate().try_for_each(
            |(row, (sums, span))| {
                cancel.check()?;
                let mut cells = [const { Vec::new() }; PLANES];
                if gather(layer, slice, row, cell, width, &mut cells) {
                    *span = accumulate(sums, &cells, pad, stride);
                }
                Ok::<_, KernelError>(())
            },
        )?;
        let any = spans.iter().any(|(a, b)| b > a);
        Ok(any.then_some(Self { data, stride, pad, width, height, spans }))
    }

    /// The row of sums that stands for a row of the grid; beyond the frame, that of its edge.
    fn row(&self, y: i32) -> (usize, (usize, usize)) {
        let y = y.clamp(0, self.height as i32 - 1) as usize;
        (y * self.stride * PLANES, self.spans[y])
    }

    /// Adds one run of the kernel to a row of the answer.
    fn add(&self, run: &Run, y: i32, out: &mut [&mut [f32]; PLANES]) {
        let (start, span) = self.row(y - run.dy);
        if span.1 <= span.0 {
            return;
        }
        // The kernel is what a point spreads to; gathering turns it round.
        let [a, b] = [-run.right, -run.left].map(|end| {
            let at = self.pad as f32 + 0.5 + end;
            (at.floor() as usize, at.fract())
        });
        let (from, to) = self.span_of(span, run);
        let weights = [1.0 - b.1, b.1, 1.0 - a.1, a.1].map(|share| run.weight * share);
        for (c, out) in out.iter_mut().enumerate() {
            let sums = &self.data[start + c * self.stride + from..][..self.stride - from];
            add_run(&mut out[from..to], &sums[b.0..], &sums[a.0..], weights);
        }
    }

    /// Columns of the answer that a run reaches from a span of padded columns.
    fn span_of(&self, span: (usize, usize), run: &Run) -> (usize, usize) {
        let hold = |v: f32| v.clamp(0.0, self.width as f32) as usize;
        let pad = self.pad as f32;
        (hold(span.0 as f32 - pad + run.left - 1.5), hold((span.1 as f32 - pad + run.right + 1.5).ceil()))
    }

    /// Columns of a row of the answer that hold anything.
    fn reached(&self, runs: &[Run], y: i32) -> (usize, usize) {
        runs.iter()
            .filter_map(|run| {
                let (_, span) = self.row(y - run.dy);
                (span.1 > span.0).then(|| self.span_of(span, run))
            })
            .fold((self.width, 0), |(a, b), (c, d)| (a.min(c), b.max(d)))
    }
}

/// Adds the mean between two places of running sums, `right` less `left`, each between two of its samples.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn add_run(out: &mut [f32], right: &[f32], left: &[f32], [r0, r1, l0, l1]: [f32; 4]) {
    let n = out.len();
    let (b0, b1, a0, a1) = (&right[..n], &right[1..=n], &left[..n], &left[1..=n]);
    for i in 0..n {
        out[i] += (r0 * b0[i] + r1 * b1[i]) - (l0 * a0[i] + l1 * a1[i]);
    }
}

/// Weights of a tent round `centre`, `fall` being what [`Slice::fall`] gives; zero where nothing covers. Returns the largest.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn tent(out: &mut [f32], circle: &[f32], cover: &[f32], centre: f32, fall: [f32; 2]) -> f32 {
    let (mut most, centre) = (0.0f32, squared(centre));
    for ((o, s), cover) in out.iter_mut().zip(circle).zip(cover) {
        let d = squared(*s) - centre;
        let down = if d < 0.0 { -d * fall[0] } else { d * fall[1] };
        let w = if *cover > 0.0 { (1.0 - down).max(0.0) } else { 0.0 };
        *o = w;
        most = most.max(w);
    }
    most
}

/// Adds weighted samples.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn add_weighted(out: &mut [f32], line: &[f32], weights: &[f32]) {
    for ((o, v), w) in out.iter_mut().zip(line).zip(weights) {
        *o += v * w;
    }
}

/// Means of a slice's pieces over the cells of a row of the grid; false if there is none.
fn gather(
    layer: &Layer,
    slice: Slice,
    row: usize,
    cell: usize,
    width: usize,
    cells: &mut [Vec<f32>; PLANES],
) -> bool {
    let window = layer.raster.window();
    let rows = (row * cell..(row * cell + cell).min(window.height as usize)).map(|y| window.y + y as i32);
    let mut any = false;
    let fall = slice.fall();
    let mut weights = vec![0.0; window.width as usize];
    for y in rows.clone() {
        if !slice.meets(layer.ranges[(y - window.y) as usize]) {
            continue;
        }
        let raster = &layer.raster;
        let most = tent(&mut weights, raster.row(CIRCLE, y), raster.row(COVER, y), slice.centre, fall);
        if most == 0.0 {
            continue;
        }
        if !any {
            cells.iter_mut().for_each(|c| *c = vec![0.0; width]);
            any = true;
        }
        for (c, cells) in cells.iter_mut().enumerate() {
            let line = raster.row(c, y);
            if cell == 1 {
                add_weighted(cells, line, &weights);
            } else {
                let blocks = line.chunks(cell).zip(weights.chunks(cell));
                cells.iter_mut().zip(blocks).for_each(|(o, (v, w))| {
                    *o += v.iter().zip(w).map(|(v, w)| v * w).sum::<f32>();
                });
            }
        }
    }
    if any && cell > 1 {
        // Cells at the frame's edge hold fewer pixels.
        let high = rows.count();
        for cells in cells.iter_mut() {
            for (x, v) in cells.iter_mut().enumerate() {
                let wide = cell.min(window.width as usize - x * cell);
                *v /= (high * wide) as f32;
            }
        }
    }
    any
}

/// Writes running sums of each plane, the row held beyond its ends; the padded columns that hold anything.
fn accumulate(sums: &mut [f32], cells: &[Vec<f32>; PLANES], pad: usize, stride: usize) -> (usize, usize) {
    let cover = &cells[PLANES - 1];
    let first = cover.iter().position(|v| *v > 0.0).unwrap_or(0);
    let last = cover.iter().rposition(|v| *v > 0.0).unwrap_or(0);
    for (cells, sums) in cells.iter().zip(sums.chunks_mut(stride)) {
        let (left, right) = (cells[0], cells[cells.len() - 1]);
        let padded = std::iter::repeat_n(&left, pad).chain(cells).chain(std::iter::repeat_n(&right, pad));
        let mut sum = 0.0;
        sums[0] = 0.0;
        for (s, v) in sums[1..].iter_mut().zip(padded) {
            sum += v;
            *s = sum;
        }
    }
    let from = if first == 0 { 0 } else { first + pad };
    let to = if last + 1 == cover.len() { last + 1 + 2 * pad } else { last + 1 + pad };
    (from, to)
}

impl Blurred {
    /// The slice in a row of the full grid, written to `out` in the columns that are returned; `None` where
    /// the row is empty.
    pub fn row(&self, y: i32, out: &mut [Vec<f32>; PLANES]) -> Option<(usize, usize)> {
        let row = (y - self.full.y) as usize;
        let width = self.full.width as usize;
        if self.halvings == 0 {
            let (from, to) = self.spans[row];
            if to <= from {
                return None;
            }
            for (c, out) in out.iter_mut().enumerate() {
                out[from..to].copy_from_slice(&self.raster.row(c, row as i32)[from..to]);
            }
            return Some((from, to));
        }
        let (y0, y1, fy) = self.between(row, self.raster.window().height as usize);
        let (a, b) = (self.spans[y0], self.spans[y1]);
        let (low, high) = (a.0.min(b.0), a.1.max(b.1));
        if high <= low {
            return None;
        }
        let cell = 1usize << self.halvings;
        let (from, to) = (low.saturating_sub(1) * cell, ((high + 1) * cell).min(width));
        let last = self.raster.window().width as usize - 1;
        let cells = low.saturating_sub(2)..(high + 2).min(last + 1);
        let mut line = vec![0.0; last + 1];
        for (c, out) in out.iter_mut().enumerate() {
            let [top, bottom] = [y0, y1].map(|y| &self.raster.row(c, y as i32)[cells.clone()]);
            let between = line[cells.clone()].iter_mut().zip(top.iter().zip(bottom));
            between.for_each(|(o, (t, b))| *o = t + (b - t) * fy);
            spread(&line, cell, from, &mut out[from..to]);
        }
        Some((from, to))
    }

    /// The two cells whose middles are around the middle of a pixel, and where it lies between them.
    fn between(&self, at: usize, count: usize) -> (usize, usize, f32) {
        let cell = (1usize << self.halvings) as f32;
        let place = ((at as f32 + 0.5) / cell - 0.5).clamp(0.0, (count - 1) as f32);
        let first = place as usize;
        (first, (first + 1).min(count - 1), place - first as f32)
    }
}

/// Writes a line of cells `cell` px wide (a power of two above 1) over the pixels from `from` on (a multiple of
/// `cell`), straight between the middles of cells and held beyond those at its ends.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn spread(line: &[f32], cell: usize, from: usize, out: &mut [f32]) {
    let (half, last) = (cell / 2, line.len() - 1);
    let first = from / cell;
    let ends = |i: usize| [line[i.saturating_sub(1).min(last)], line[i.min(last)]];
    let share = 1.0 / cell as f32;
    // Half a cell left of a middle, then half a cell right of it.
    for (i, out) in out.chunks_mut(cell).enumerate() {
        let [left, middle] = ends(first + i);
        let [_, right] = ends(first + i + 1);
        let (before, after) = out.split_at_mut(half.min(out.len()));
        for (k, o) in before.iter_mut().enumerate() {
            *o = left + (middle - left) * ((half + k) as f32 + 0.5) * share;
        }
        for (k, o) in after.iter_mut().enumerate() {
            *o = middle + (right - middle) * (k as f32 + 0.5) * share;
        }
    }
}
