//! Light followed over the screen, away from the lamp.
//!
//! All rays of light in a plane through the camera and the lamp are seen on one straight line, which goes through the
//! place where the lamp is seen (an epipolar line: Hartley & Zisserman 2003, §9.1). Along it 1/Z of a ray is linear. With
//! a lamp at (e, D) in homogeneous px and 1/Z = h/D there (h = 1, or 0 for parallel light), v₀ = D·x₀ − e along the line
//! at some place x₀ of it, β = D/v₀, γ = h/v₀ and d the px from x₀, the figure
//!
//! `t = (1/Z + γ·d) / (1 + β·d)`
//!
//! is the same all along a ray, and another one for each ray (own derivation: the pencil of lines through the lamp in
//! the plane of d and 1/Z). So one walk along the line, away from the lamp, answers for all of its pixels: each covers
//! the rays from its back to its front for all that follow.

use super::covered::Covered;
use crate::{Cancel, KernelError};
use glam::{DVec2, Vec2, Vec3, Vec4, Vec4Swizzles};
use rayon::prelude::*;
use std::ops::Range;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Px across that are walked at a time, by the lines of all sources: the same few lines of the cache serve them all.
const ABREAST: f64 = 256.0;

/// Counts that are kept apart, each by one thread, and added up at the end.
const COUNTS: usize = 8;

/// A pixel's surface: 1/Z of what is nearest to the camera, of its back, and of where rays begin; 0 where there is none.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Cell(Vec4);

impl Cell {
    /// From 1/Z of the front, of the back and of where rays begin.
    pub(super) fn new(front: f32, back: f32, begin: f32) -> Self {
        Self(Vec4::new(front, back, begin, 0.0))
    }

    /// Whether there is a surface.
    #[inline(always)]
    pub(super) fn is_there(self) -> bool {
        self.0.x > 0.0
    }

    /// The rays that go through these.
    ///
    /// A line meets each pixel in one place, between which rays go on: over a px, 1/Z of the ray of a figure t changes by
    /// βt − γ. What they pass within it they have met, however thin it is: otherwise light that falls steeply would come
    /// through all that is thinner than such a step.
    #[inline(always)]
    fn rays(self, at: At) -> Vec4 {
        let rays = self.0 * at.share + at.add;
        let front = rays.xxxx();
        rays.min(front - (front * at.turn - at.near).abs() + BACK)
    }
}

/// What makes a figure of 1/Z at a place along a line, and how much it is for a px: `t = share · 1/Z + add`,
/// `share · (βt − γ) = turn · t − near`.
#[derive(Clone, Copy, Debug)]
struct At {
    share: Vec4,
    add: Vec4,
    turn: Vec4,
    near: Vec4,
}

/// Added to bounds from above, leaves the one of the back alone.
const BACK: Vec4 = Vec4::new(f32::INFINITY, 0.0, f32::INFINITY, f32::INFINITY);

/// Pixels row after row, with room between the rows: were they a multiple of a page long, all pixels above each other
/// would share the same few lines of the cache.
#[derive(Clone, Debug)]
pub(super) struct Rows<T> {
    pub(super) width: usize,
    pub(super) height: usize,
    /// From a pixel to the one below it.
    pub(super) stride: usize,
    pub(super) all: Vec<T>,
}

impl<T: Copy + Default + Send + Sync> Rows<T> {
    pub(super) fn new(width: usize, height: usize) -> Self {
        let stride = stride_of(width);
        Self { width, height, stride, all: vec![T::default(); stride * height] }
    }

    /// The same for what is large: most of the time goes into memory that is touched for the first time, so all threads
    /// take part.
    pub(super) fn together(width: usize, height: usize) -> Self {
        let stride = stride_of(width);
        let all = rayon::iter::repeat_n(T::default(), stride * height).with_min_len(AT_ONCE).collect();
        Self { width, height, stride, all }
    }

    /// Goes over its pixels with those of another that holds column after column what this one holds row after row.
    fn with_columns(&mut self, other: &Self, each: impl Fn(&mut T, T) + Sync) {
        let bands = self.all.par_chunks_mut(self.stride * TILE).enumerate();
        bands.for_each(|(band, rows)| {
            for (tile, columns) in other.all.chunks(other.stride * TILE).enumerate() {
                for (row, y) in rows.chunks_mut(self.stride).zip(band * TILE..) {
                    let row = row.get_mut(tile * TILE..self.width).unwrap_or(&mut []);
                    row.iter_mut()
                        .zip(columns.chunks(other.stride))
                        .for_each(|(v, column)| each(v, column[y]));
                }
            }
        });
    }

    fn turned(&self) -> Self {
        let mut out = Self::together(self.height, self.width);
        out.with_columns(self, |v, other| *v = other);
        out
    }
}

/// From a row to the next.
fn stride_of(width: usize) -> usize {
    width.next_multiple_of(512) + 8
}

/// Px that a thread makes at a time.
const AT_ONCE: usize = 1 << 16;

/// Px of a side of the pieces in which rows become columns.
const TILE: usize = 16;

/// The surfaces in the frame, row after row and also column after column: where lines go on from row to row, those that
/// lie side by side go over memory in its order.
#[derive(Clone, Debug)]
pub(super) struct Cells {
    pub(super) rows: Rows<Cell>,
    columns: Rows<Cell>,
}

impl Cells {
    pub(super) fn new(rows: Rows<Cell>) -> Self {
        let columns = rows.turned();
        Self { rows, columns }
    }

    fn over(&self, turned: bool) -> &Rows<Cell> {
        if turned { &self.columns } else { &self.rows }
    }
}

/// How many lines went over a pixel, and on how many of them its ray was free.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Tally {
    pub(super) lines: u16,
    pub(super) free: u16,
}

impl Tally {
    #[inline(always)]
    fn add(&mut self, other: Self) {
        self.lines = self.lines.saturating_add(other.lines);
        self.free = self.free.saturating_add(other.free);
    }
}

/// A point of a lamp as it is seen: homogeneous px (whole numbers at the middles of pixels, from the window's corner),
/// and what its 1/Z is a share of.
#[derive(Clone, Copy, Debug)]
pub(super) struct Source {
    e: DVec2,
    depth: f64,
    near: f64,
}

impl Source {
    /// A point of the scene, or (`endless`) a direction; focal length and principal point in px from the window's corner.
    pub(super) fn new(place: Vec3, endless: bool, focal: f32, centre: Vec2) -> Self {
        let (p, focal, centre) = (place.as_dvec3(), f64::from(focal), centre.as_dvec2());
        let depth = -p.z;
        let e = DVec2::new(centre.x * depth + p.x * focal, centre.y * depth - p.y * focal);
        Self { e, depth, near: f64::from(u8::from(!endless)) }
    }
}

/// Walks the lines of all sources: about one for each `spacing` px of them. The lines of each source are moved on a
/// little, so that together they miss nothing.
pub(super) fn sweep(
    cells: &Cells,
    sources: &[Source],
    spacing: u32,
    cancel: &Cancel,
) -> Result<Rows<Tally>, KernelError> {
    let bundles = bundles(cells, sources, spacing);
    let next = AtomicUsize::new(0);
    let count = || {
        // Where light goes down or up, and, turned, where it goes to either side.
        let mut counts: [Option<Rows<Tally>>; 2] = [None, None];
        let mut walk = Walk::default();
        while let Some(bundle) = bundles.get(next.fetch_add(1, Ordering::Relaxed)) {
            let Some(turned) = bundle.first().map(|strand| strand.fan.turned) else { continue };
            let cells = cells.over(turned);
            let tallies =
                counts[usize::from(turned)].get_or_insert_with(|| Rows::new(cells.width, cells.height));
            walk.over(bundle, &cells.all, &mut tallies.all, cancel)?;
        }
        Ok::<_, KernelError>(counts)
    };
    let counts = rayon::current_num_threads().clamp(1, COUNTS);
    let counts = (0..counts).into_par_iter().map(|_| count()).collect::<Result<Vec<_>, _>>()?;
    let [mut rows, mut columns] = [None, None];
    for [r, c] in counts {
        (rows, columns) = (both(rows, r), both(columns, c));
    }
    let mut all = rows.unwrap_or_else(|| Rows::new(cells.rows.width, cells.rows.height));
    if let Some(columns) = columns {
        all.with_columns(&columns, Tally::add);
    }
    Ok(all)
}

/// What two threads have counted.
fn both(a: Option<Rows<Tally>>, b: Option<Rows<Tally>>) -> Option<Rows<Tally>> {
    let (mut a, b) = match (a, b) {
        (Some(a), Some(b)) => (a, b),
        (a, b) => return a.or(b),
    };
    a.all.par_iter_mut().zip(&b.all).for_each(|(a, b)| a.add(*b));
    Some(a)
}

/// Lines of one source that are walked side by side.
struct Strand {
    fan: Fan,
    lattice: Lattice,
    numbers: Range<i64>,
}

/// The lines of all sources, in bundles that lie close together.
fn bundles(cells: &Cells, sources: &[Source], spacing: u32) -> Vec<Vec<Strand>> {
    let mut ways = [const { Vec::new() }; 4];
    for (i, source) in sources.iter().enumerate() {
        let fans = Fan::all(cells, *source);
        let lattice = Lattice::new(fans.iter().flatten(), cells.rows.width * cells.rows.height, spacing, i);
        for (way, fan) in ways.iter_mut().zip(fans) {
            way.extend(fan.map(|fan| (fan, lattice)));
        }
    }
    let mut bundles = Vec::new();
    for way in &ways {
        let first = way.iter().map(|(fan, _)| fan.crossings[0]).fold(f64::INFINITY, f64::min);
        let last = way.iter().map(|(fan, _)| fan.crossings[1]).fold(f64::NEG_INFINITY, f64::max);
        let mut from = first;
        while from <= last {
            let strand = |&(fan, lattice): &(Fan, Lattice)| {
                let all = lattice.between(fan.crossings);
                let numbers = all.start.max(lattice.first(from))..all.end.min(lattice.first(from + ABREAST));
                (!numbers.is_empty()).then_some(Strand { fan, lattice, numbers })
            };
            bundles.push(way.iter().filter_map(strand).collect());
            from += ABREAST;
        }
    }
    bundles
}

/// Where lines cross: at multiples of the spacing, moved on.
#[derive(Clone, Copy, Debug)]
struct Lattice {
    spacing: f64,
    moved: f64,
}

impl Lattice {
    /// For a source with its number. Every px has its line where `spacing` is 1; else there are so many lines that they
    /// go over a share of the px, wherever they are seen to come from.
    fn new<'a>(fans: impl Iterator<Item = &'a Fan>, px: usize, spacing: u32, number: usize) -> Self {
        if spacing <= 1 {
            return Self { spacing: 1.0, moved: 0.0 };
        }
        let steps: f64 = fans.map(Fan::steps).sum();
        let spacing = f64::from(spacing) * (steps / px as f64).max(0.25);
        // Moved on by the golden section, as evenly as any number of them can be.
        Self { spacing, moved: (number as f64 * 0.618_034).fract() * spacing }
    }

    fn crossing(self, number: i64) -> f64 {
        number as f64 * self.spacing + self.moved
    }

    /// Number of the first line that crosses from a place on.
    fn first(self, from: f64) -> i64 {
        let at = (from - self.moved) / self.spacing;
        let cut = at as i64;
        cut + i64::from((cut as f64) < at)
    }

    /// Numbers of the lines that cross from one place to another.
    fn between(self, [low, high]: [f64; 2]) -> Range<i64> {
        // One that ends right at a line is as good as one that ends just before it.
        self.first(low)..self.first(high)
    }
}

/// Lines that mostly go one of the four ways. A px is counted along that way (u) and across it.
#[derive(Clone, Copy, Debug)]
struct Fan {
    /// Whether it goes to a side, over columns.
    turned: bool,
    /// Px across.
    wide: usize,
    /// Place of u = 0, and the step to the next.
    origin: usize,
    step: isize,
    source: Source,
    /// Where the lines are farthest apart, and how the source lies to it along u: see the module's v₀.
    u0: f64,
    v0: f64,
    /// First and last u at which light goes this way.
    within: [f64; 2],
    /// First and last crossing of u0 that is needed.
    crossings: [f64; 2],
}

impl Fan {
    /// The ways over the rows and over the columns, with and against their order, as far as light goes there.
    fn all(cells: &Cells, source: Source) -> [Option<Self>; 4] {
        [(false, false), (false, true), (true, false), (true, true)]
            .map(|(turned, back)| Self::new(cells, source, turned, back))
    }

    fn new(cells: &Cells, source: Source, turned: bool, back: bool) -> Option<Self> {
        let &Rows { width: wide, height, stride, .. } = cells.over(turned);
        let last = height.checked_sub(1)?;
        let depth = source.depth;
        let mut e = if turned { source.e } else { DVec2::new(source.e.y, source.e.x) };
        let (mut origin, mut step) = (0, stride as isize);
        if back {
            // v = −(D·x − e) with x = last − u.
            e.x = depth * last as f64 - e.x;
            (origin, step) = (last * stride, -step);
        }
        let last = last as f64;
        let u0 = if depth >= 0.0 { last } else { 0.0 };
        let v0 = depth * u0 - e.x;
        let mut within = [0.0, last];
        if depth > 0.0 {
            within[0] = (e.x / depth + 0.5).ceil().max(0.0);
        } else if depth < 0.0 {
            within[1] = (e.x / depth - 0.5).floor().min(last);
        }
        (v0 > 0.0 && within[0] <= within[1]).then_some(())?;
        let source = Source { e, ..source };
        let mut fan = Self { turned, wide, origin, step, source, u0, v0, within, crossings: [0.0; 2] };
        fan.crossings = fan.needed()?;
        Some(fan)
    }

    /// At a u: its px from u0, how far apart lines are there, and where the one that crosses u0 at 0 is.
    fn at(&self, u: f64) -> (f64, f64, f64) {
        let d = u - self.u0;
        (d, 1.0 + d * self.source.depth / self.v0, -d * self.source.e.y / self.v0)
    }

    /// Crossings of u0 by lines that are inside the window at a u.
    fn inside(&self, u: f64) -> [f64; 2] {
        let (_, apart, first) = self.at(u);
        [-0.5, self.wide as f64 - 0.5].map(|edge| (edge - first) / apart)
    }

    /// Crossings of u0 by lines that go over the window and rise by no more than a px for a px.
    fn needed(&self) -> Option<[f64; 2]> {
        let (e, depth, v0) = (self.source.e, self.source.depth, self.v0);
        let [[a, b], [c, d]] = self.within.map(|u| self.inside(u));
        let mut range = [a.min(c), b.max(d)];
        if depth == 0.0 {
            (e.y.abs() <= v0).then_some(())?;
        } else {
            let (a, b) = ((e.y - v0) / depth, (e.y + v0) / depth);
            range = [range[0].max(a.min(b)), range[1].min(a.max(b))];
        }
        (range[0] <= range[1] && range.iter().all(|v| v.is_finite())).then_some(range)
    }

    /// Steps that lines take which cross u0 at every px.
    fn steps(&self) -> f64 {
        let [first, last] = self.crossings;
        let over = |u: usize| {
            let [a, b] = self.inside(u as f64);
            (b.min(last) - a.max(first)).max(0.0)
        };
        (self.within[0] as usize..=self.within[1] as usize).map(over).sum()
    }

    /// Where the row of a u begins.
    fn row(&self, u: usize) -> usize {
        self.origin.wrapping_add_signed(u as isize * self.step)
    }
}

/// Lines that are walked side by side.
#[derive(Debug, Default)]
struct Walk {
    /// What each line has met.
    lines: Vec<Covered>,
}

impl Walk {
    /// Walks lines from the lamp to the window's end, all of them at the same pace.
    fn over(
        &mut self,
        bundle: &[Strand],
        cells: &[Cell],
        tallies: &mut [Tally],
        cancel: &Cancel,
    ) -> Result<(), KernelError> {
        let count: usize = bundle.iter().map(Strand::len).sum();
        self.lines.resize_with(count, Covered::default);
        self.lines.iter_mut().for_each(Covered::clear);
        let from = bundle.iter().map(|s| s.fan.within[0]).fold(f64::INFINITY, f64::min);
        let to = bundle.iter().map(|s| s.fan.within[1]).fold(0.0, f64::max);
        for u in from as usize..=to as usize {
            if u % 64 == 0 {
                cancel.check()?;
            }
            let mut rest = self.lines.as_mut_slice();
            for strand in bundle {
                let (lines, others) = rest.split_at_mut(strand.len());
                strand.step(u, lines, cells, tallies);
                rest = others;
            }
        }
        Ok(())
    }
}

impl Strand {
    fn len(&self) -> usize {
        (self.numbers.end - self.numbers.start) as usize
    }

    /// Takes those of its lines that are inside the window on to a u.
    fn step(&self, u: usize, lines: &mut [Covered], cells: &[Cell], tallies: &mut [Tally]) {
        let Self { fan, lattice, numbers } = self;
        if !(fan.within[0]..=fan.within[1]).contains(&(u as f64)) {
            return;
        }
        let inside = lattice.between(fan.inside(u as f64));
        let (from, to) = (inside.start.max(numbers.start), inside.end.min(numbers.end));
        if from >= to {
            return;
        }
        let (d, apart, first) = fan.at(u as f64);
        let (beta, gamma) = (fan.source.depth / fan.v0, fan.source.near / fan.v0);
        let share = 1.0 / (1.0 + beta * d);
        let place = At {
            share: Vec4::splat(share as f32),
            add: Vec4::splat((gamma * d * share) as f32),
            turn: Vec4::splat((beta * share) as f32),
            near: Vec4::splat((gamma * share) as f32),
        };
        // Where lines are, here and a row before, goes evenly from one to the next.
        let crossing = lattice.crossing(from);
        let at = first + crossing * apart + 0.5;
        let begun = u as f64 > fan.within[0];
        let rise = |crossing: f64, e: f64| if begun { beta * crossing - e / fan.v0 } else { 0.0 };
        let (mut y, mut was) = (fixed(at), fixed(at - rise(crossing, fan.source.e.y)));
        let y_step = lattice.spacing * apart;
        let (y_step, was_step) = (fixed(y_step), fixed(y_step - rise(lattice.spacing, 0.0)));
        let (row, row_before) = (fan.row(u), fan.row(u.saturating_sub(1)));
        let widest = fan.wide as i32 - 1;
        let abreast = (from - numbers.start) as usize..(to - numbers.start) as usize;
        for line in &mut lines[abreast] {
            // What is lost may carry a line that runs along the window's edge over it.
            let across = ((y >> BITS) as i32).clamp(0, widest) as usize;
            let last = (was >> BITS) as usize;
            if last != across && last < fan.wide {
                // What the pixel shows in whose corner it changes rows is in the way, too.
                let late = ((y + was) >> (BITS + 1)) as usize == last;
                let cell = cells[if late { row + last } else { row_before + across }];
                if cell.is_there() {
                    line.cover(cell.rays(place));
                }
            }
            let here = row + across;
            let cell = cells[here];
            if cell.is_there() {
                let free = line.meet(cell.rays(place));
                tallies[here].add(Tally { lines: 1, free: u16::from(free) });
            }
            y += y_step;
            was += was_step;
        }
    }
}

/// Binary places of a px: enough that what is lost along a bundle is nothing, with room for any window.
const BITS: u32 = 32;

fn fixed(v: f64) -> i64 {
    (v * (1i64 << BITS) as f64) as i64
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;
    use proptest::prelude::*;

    const W: Window = Window::of_size(64, 48);
    const CENTRE: Vec2 = Vec2::new(31.5, 23.5);

    fn filled(cell: Cell) -> Rows<Cell> {
        let mut rows = Rows::new(64, 48);
        rows.all.fill(cell);
        rows
    }

    fn tallies(cells: Rows<Cell>, place: Vec3, endless: bool) -> Vec<Tally> {
        let source = Source::new(place, endless, 50.0, CENTRE);
        let t = sweep(&Cells::new(cells), &[source], 1, &Cancel::new()).unwrap();
        (0..48).flat_map(|y| t.all[y * t.stride..y * t.stride + 64].to_vec()).collect()
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 600, failure_persistence: None, ..ProptestConfig::default() })]

        #[test]
        fn lines_miss_no_pixel(x in -30f32..30.0, y in -30f32..30.0, z in -30f32..30.0, endless: bool) {
            // Rays begin before the front, as those of all surfaces do.
            let cells = filled(Cell::new(0.099, 0.099, 0.101));
            let t = tallies(cells, Vec3::new(x, y, z), endless);
            // The pixel in which the lamp is seen, or the place opposite to it, has no way to go.
            let missed = t.iter().filter(|t| t.lines == 0).count();
            prop_assert!(missed <= 4, "{missed}");
            // From behind, a wall hides its own front.
            let before = z > if endless { 0.0 } else { -9.8 };
            prop_assert!(!before || t.iter().all(|t| t.free == t.lines), "nothing hides");
            let walked: usize = t.iter().map(|t| usize::from(t.lines)).sum();
            prop_assert!(walked <= 3 * W.area(), "{walked} steps for {} px", W.area());
        }

        #[test]
        fn a_thing_hides_what_lies_behind_it_on_the_ray(
            x in -8f32..8.0, y in -8f32..8.0, z in -12f32..4.0, column in 2i32..62, row in 2i32..46,
        ) {
            // A thing of 3×3 px at depth 5, thick and far from the lamp's own place, and a wall at depth 10.
            let lamp = Vec3::new(x, y, z);
            let ray = |c: i32, r: i32| Vec3::new((c as f32 - CENTRE.x) / 50.0, (CENTRE.y - r as f32) / 50.0, -1.0);
            let thing = ray(column, row) * 5.0;
            if (-6.5..=-4.0).contains(&z) {
                return Ok(());
            }
            let mut cells = filled(Cell::new(0.099, 0.09, 0.1));
            for (dy, dx) in (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| (dy, dx))) {
                let at = (row + dy) as usize * cells.stride + (column + dx) as usize;
                cells.all[at] = Cell::new(0.2, 0.18, 0.2);
            }
            // Where the ray through the thing's middle (at 1/Z = 0.19) meets the wall, if it is seen there.
            let middle = thing / 5.0 / 0.19;
            if !(z > -10.0 && z > middle.z) {
                return Ok(());
            }
            let k = (-10.0 - lamp.z) / (middle.z - lamp.z);
            let wall = lamp + (middle - lamp) * k;
            let (c, r) = (CENTRE.x + wall.x * 5.0, CENTRE.y - wall.y * 5.0);
            if !((1.0..62.0).contains(&c) && (1.0..46.0).contains(&r)) {
                return Ok(());
            }
            let (c, r) = (c.round() as i32, r.round() as i32);
            // Half a px beside the ray is still within the thing only where the ray is not steep.
            if (c - column).abs().max((r - row).abs()) <= 8 {
                return Ok(());
            }
            let t = tallies(cells, lamp, false)[(r * 64 + c) as usize];
            prop_assert_eq!((t.lines > 0, t.free), (true, 0), "{:?} at {} {}", t, c, r);
        }
    }

    #[test]
    fn nothing_is_fine() {
        let lamp = Source::new(Vec3::ZERO, false, 50.0, CENTRE);
        let none = sweep(&Cells::new(Rows::new(0, 0)), &[lamp], 1, &Cancel::new()).unwrap();
        assert!(none.all.is_empty());
        let cells = filled(Cell::new(0.1, 0.1, 0.1));
        let none = tallies(cells, Vec3::ZERO, false);
        assert!(none.iter().all(|t| *t == Tally::default()), "a lamp in the camera has no lines");
    }
}
