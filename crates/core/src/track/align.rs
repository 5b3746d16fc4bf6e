//! A region of one frame laid on another so that both differ least.
//!
//! Inverse compositional Gauss–Newton steps (Baker & Matthews 2004): the slopes are those of the region on its own frame, and
//! are worked out once. Beside the map each step solves what the light did: a gain, and an offset that is linear over the
//! region.

use super::plate::{Level, Plate};
use super::quad::{Quad, all_through, area, ends, sound, through};
use crate::geometry::place::by_corners;
use crate::{Cancel, Cancelled, Raster, Window};
use glam::{DMat3, DVec2};
use nalgebra::{SMatrix, SVector};

/// Unknowns of a step: eight of the map, gain, and an offset with its slope.
const UNKNOWNS: usize = 12;
/// Those of the map.
const OF_MAP: usize = 8;

type Square = SMatrix<f64, UNKNOWNS, UNKNOWNS>;
type Column = SVector<f64, UNKNOWNS>;

/// Pixels of a level that are compared, at most.
const MOST: usize = 24_000;
/// Pixels of a level with which it is of use.
const FEW: usize = 60;
/// Cells along each side of the region that are judged by themselves.
const CELLS: usize = 10;
/// Beyond this many spreads nothing of a difference is believed (Tukey's biweight with 95 % efficiency; Huber & Ronchetti
/// 2009, section 4.8).
const TUKEY: f64 = 4.685;
/// A step that moves no corner farther, px, is the last one.
const ENOUGH: f64 = 2e-3;
/// The same of what is only compared with other ways.
const ROUGHLY: f64 = 0.03;
const MOST_STEPS: usize = 30;
/// Frames without any noise still differ by what a pixel sees when its plane is nearer or farther: no smaller spread is
/// expected.
const LEAST_SPREAD: f64 = 0.003;
/// How far the coarsest level is searched on all sides, its own px.
const SEARCH: i32 = 10;

/// A pixel of the region.
#[derive(Clone, Copy, Debug)]
struct Spot {
    /// Where it is on its frame, full-resolution px.
    at: DVec2,
    /// The same about the middle of the region, by half its size.
    unit: [f64; 2],
    value: f64,
    /// Slope for each unit.
    slope: [f64; 2],
    cell: u16,
}

impl Spot {
    /// What each unknown changes.
    fn row(&self) -> Column {
        let ([x, y], [gx, gy]) = (self.unit, self.slope);
        let inward = -(x * gx + y * gy);
        Column::from([gx, gy, gx * x, gy * x, gx * y, gy * y, inward * x, inward * y, self.value, 1.0, x, y])
    }
}

/// A region as it looks on its frame.
pub(super) struct Template {
    corners: Quad,
    middle: DVec2,
    half: f64,
    /// For each level of the frame, the largest first.
    levels: Vec<Vec<Spot>>,
    /// Standard deviation of the grain that is left in it.
    grain: f64,
}

/// What was found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Aligned {
    pub by: DMat3,
    pub fits: f32,
    pub unsure: f32,
    /// Spread of what differs where it fits, at the finest level and at the next.
    pub spread: [f64; 2],
    /// Which cells fit.
    pub cells: Cells,
}

/// Less in common than this, and it is another thing that is seen.
const ALIKE_AT_LEAST: f64 = 0.3;

/// Which cells of a region count.
type Cells = [bool; CELLS * CELLS];

const ALL: Cells = [true; CELLS * CELLS];

/// What earlier frames told.
#[derive(Clone, Copy, Debug)]
pub(super) struct Known {
    /// Spread of what differs where a map is right, at the finest level and at the next; nothing yet is infinite.
    pub spread: [f64; 2],
    /// Which cells fitted on the last frame.
    pub cells: Cells,
    /// Where the way so far leads, and how far from it the corners may well be, px.
    pub leads: Option<(DMat3, f64)>,
}

impl Known {
    /// Nothing yet.
    pub const NOTHING: Self = Self { spread: [f64::INFINITY; 2], cells: ALL, leads: None };

    /// With what a frame told on which most of the region was seen.
    pub fn and(self, found: &Aligned) -> Self {
        let mut spread = self.spread;
        if found.fits > 0.6 {
            for (known, own) in spread.iter_mut().zip(found.spread) {
                // It grows as the plane turns away, and is believed slowly.
                *known = if known.is_finite() { own.clamp(*known * 0.8, *known * 1.15) } else { own };
            }
        }
        Self { spread, cells: found.cells, leads: None }
    }
}

/// The spread that is believed: no more than a little above what earlier frames had.
fn believed(own: f64, known: f64) -> f64 {
    own.min(1.5 * known.max(LEAST_SPREAD))
}

/// How much looks as it did: pixels that differ by no more than the spread tells. As long as none is known, the less they
/// differ the better.
fn likeness(state: &State, known: f64) -> f64 {
    if !state.is_seen() {
        return f64::MIN;
    }
    if !known.is_finite() {
        return -state.spread;
    }
    let most = TUKEY * known.max(LEAST_SPREAD);
    state.off.iter().flatten().map(|off| biweight(*off, most)).sum()
}

/// How well a map fits at a level.
struct State {
    by: DMat3,
    /// What differs at each spot that is seen.
    off: Vec<Option<f64>>,
    spread: f64,
    /// How much of the region's contrast is left.
    gain: f64,
    /// Share of what is to be seen of the region that is seen here, once the light is taken out; 1 is all of it, 0 is what two
    /// frames of grain have in common.
    alike: f64,
    normal: Square,
}

impl State {
    /// Whether it is the region at all that is seen: of what is flat everything looks like a part that has lost its contrast.
    fn is_seen(&self) -> bool {
        (0.5..2.0).contains(&self.gain) && self.alike > ALIKE_AT_LEAST
    }
}

impl Template {
    /// The region of a frame where it lies at `there`; `None` where it is too small or not seen.
    pub fn of(plate: &Plate, corners: Quad, there: DMat3, left_out: Option<&Raster>) -> Option<Self> {
        let quad = all_through(&corners, there)?;
        let middle = quad.iter().sum::<DVec2>() * 0.25;
        let half = quad.iter().map(|c| (*c - middle).abs().max_element()).fold(0.0, f64::max);
        // Crossed over, or with three corners in a line.
        let flat = by_corners([DVec2::ZERO, DVec2::ONE], quad).is_none();
        if flat || area(&quad).abs() < 128.0 || half > 1e6 {
            return None;
        }
        let spots = |level: usize| spots(plate.level(level), &quad, middle, half, left_out);
        let levels: Vec<_> = (0..plate.levels()).map(spots).collect();
        let [low, high] = ends(&quad);
        let grain = plate.grain(Window::around(low, high, plate.level(0).window)) * SOFTENED;
        (levels.first()?.len() >= FEW).then_some(Self { corners: quad, middle, half, levels, grain })
    }

    /// Whether it says too little of where it is: it looks the same wherever it is moved, what is seen of it is mostly grain,
    /// or a change of light would look like a move.
    pub fn is_plain(&self) -> bool {
        let spots = &self.levels[0];
        let mean = |f: fn(&Spot) -> f64| spots.iter().map(f).sum::<f64>() / spots.len() as f64;
        let (xx, xy, yy) =
            (mean(|s| s.slope[0].powi(2)), mean(|s| s.slope[0] * s.slope[1]), mean(|s| s.slope[1].powi(2)));
        // The smaller eigenvalue of the slopes' second moments (Shi & Tomasi 1994), less what grain alone makes of them.
        let least = 0.5 * (xx + yy) - (0.25 * (xx - yy).powi(2) + xy * xy).sqrt();
        let of_grain = (self.grain * SLOPE_OF_GRAIN * self.half).powi(2);
        if (least - of_grain).max(0.0).sqrt() / self.half < PLAIN || least < 2.0 * of_grain {
            return true;
        }
        let seen: Vec<Option<f64>> = spots.iter().map(|s| Some(s.value)).collect();
        let Some((_, normal)) = least_of(spots, &seen, &vec![1.0; spots.len()], OF_MAP, &[]) else {
            return true;
        };
        let spread = (self.grain * std::f64::consts::SQRT_2).max(LEAST_SPREAD);
        self.unsure(DMat3::IDENTITY, &normal, spread).is_none_or(|px| px > UNSURE)
    }

    /// The map to another frame, from some guesses on. Each is followed from coarse to fine, and so is what a search around
    /// it finds; the one under which the most looks as it did is kept, which is not always the one of the least difference:
    /// what passes before the plane differs under every map.
    pub fn align(
        &self,
        plate: &Plate,
        guesses: &[DMat3],
        known: &Known,
        cancel: &Cancel,
    ) -> Result<Aligned, Cancelled> {
        let levels = self.levels.len().min(plate.levels());
        let coarsest = (0..levels).rev().find(|l| self.levels[*l].len() >= FEW).unwrap_or(0);
        let fine = coarsest.min(1);
        let searched = self.searched(plate.level(coarsest), coarsest, guesses);
        let near = guesses.iter().map(|by| (coarsest.min(2), *by));
        let mut best: Option<(f64, State)> = None;
        for (level, by) in std::iter::once((coarsest, searched)).chain(near) {
            for cells in [&ALL, &known.cells] {
                cancel.check()?;
                let state = self.down(plate, level, fine, by, cells, known);
                let like = likeness(&state, known.spread[fine]);
                if best.as_ref().is_none_or(|(most, _)| like > *most) {
                    best = Some((like, state));
                }
                if known.cells.iter().filter(|c| !**c).count() * 10 < CELLS * CELLS {
                    break;
                }
            }
        }
        let (by, cells) = match &best {
            Some((_, state)) => (state.by, judged(&self.levels[fine], state, known.spread[fine])),
            None => (searched, ALL),
        };
        let state = self.solved(plate.level(0), &self.levels[0], by, OF_MAP, &cells, (known, ENOUGH));
        // Once more with those cells alone that fit.
        let cells = judged(&self.levels[0], &state, known.spread[0]);
        let state = self.solved(plate.level(0), &self.levels[0], state.by, OF_MAP, &cells, (known, ENOUGH));
        let spread = [state.spread, best.map_or(state.spread, |(_, s)| s.spread)];
        Ok(self.told(&state, known, spread))
    }

    /// From one level down to another.
    fn down(&self, plate: &Plate, from: usize, to: usize, by: DMat3, cells: &Cells, known: &Known) -> State {
        let at = |level: usize, by: DMat3| {
            let spots = &self.levels[level];
            // Few pixels tell no perspective.
            let free = match spots.len() {
                n if level > 0 && n < 300 => 2,
                n if level > 0 && n < 1500 => 6,
                _ => OF_MAP,
            };
            self.solved(plate.level(level), spots, by, free, cells, (known, ROUGHLY))
        };
        let mut state = at(from, by);
        for level in (to..from).rev() {
            state = at(level, state.by);
        }
        state
    }

    /// The best of some guesses, and of what lies around them at a coarse level.
    fn searched(&self, level: Level<'_>, of: usize, guesses: &[DMat3]) -> DMat3 {
        let spots = &self.levels[of];
        let mut best = (f64::NEG_INFINITY, guesses.first().copied().unwrap_or(DMat3::IDENTITY));
        for guess in guesses {
            for i in 0..(2 * SEARCH + 1) * (2 * SEARCH + 1) {
                let (x, y) = (i % (2 * SEARCH + 1) - SEARCH, i / (2 * SEARCH + 1) - SEARCH);
                let to = DVec2::new(x.into(), y.into()) * level.step;
                let by = DMat3::from_translation(to) * *guess;
                // What is near is likelier than what is far and looks alike.
                let far = 0.02 * to.length() / (level.step * f64::from(SEARCH));
                if let Some(alike) = alike(level, spots, by)
                    && alike - far > best.0
                {
                    best = (alike - far, by);
                }
            }
        }
        best.1
    }

    /// Steps at one level until nothing moves. `free` unknowns of the map are solved: two move it, six shear and scale it.
    fn solved(
        &self,
        level: Level<'_>,
        spots: &[Spot],
        start: DMat3,
        free: usize,
        cells: &Cells,
        (known, enough): (&Known, f64),
    ) -> State {
        let counts = |s: &Spot| f64::from(u8::from(cells[usize::from(s.cell)]));
        let mut by = start;
        let (mut weights, mut spread) = at_first(&seen(level, spots, by), spots, counts);
        for step in 0..MOST_STEPS {
            let seen = seen(level, spots, by);
            let leads = self.led(by, known, spread);
            let Some((solution, _)) = least_of(spots, &seen, &weights, free, &leads) else { break };
            let off;
            (off, spread) = left(spots, &seen, &weights, &solution);
            // Weights change slowly, so that a wrong start is not taken for what passes before the plane.
            let most = TUKEY * spread * if step < 3 { 2.0 } else { 1.0 };
            for ((w, s), off) in weights.iter_mut().zip(spots).zip(&off) {
                *w = off.map_or(0.0, |off| biweight(off, most)) * counts(s);
            }
            let next = by * self.stepped(&solution).inverse();
            if !sound(&self.corners, next) {
                break;
            }
            let moved = self.far(by, next);
            by = next;
            if moved < enough && step >= 3 {
                break;
            }
        }
        let seen = seen(level, spots, by);
        let solved = least_of(spots, &seen, &weights, free, &self.led(by, known, spread));
        let (solution, normal) = solved.unwrap_or((Column::zeros(), Square::zeros()));
        let (off, spread) = left(spots, &seen, &weights, &solution);
        let alike = explained(spots, &off, &weights);
        State { by, off, spread, gain: 1.0 + solution[8], alike, normal }
    }

    /// How far each corner is from where the way so far leads, as rows beside those of the pixels: they weigh what a few
    /// pixels weigh, and so decide only what the picture leaves open.
    fn led(&self, by: DMat3, known: &Known, spread: f64) -> Vec<(Column, f64)> {
        let Some((leads, far)) = known.leads else { return Vec::new() };
        let weight = spread * ALIKE / far;
        let mut rows = Vec::with_capacity(8);
        for c in &self.corners {
            let Some((along, off)) = self.slid(by, *c).zip(through(by, *c).zip(through(leads, *c))) else {
                continue;
            };
            let off = off.0 - off.1;
            rows.extend(along.into_iter().zip(off.to_array()).map(|(row, off)| (row * weight, off * weight)));
        }
        rows
    }

    /// How a place of the region is seen to move, right and down, with each unknown.
    fn slid(&self, by: DMat3, place: DVec2) -> Option<[Column; 2]> {
        let [x, y] = ((place - self.middle) / self.half).to_array();
        let at = through(by, place)?;
        let near = |d: DVec2| Some((through(by, place + d * 1e-3)? - at) / 1e-3 * self.half);
        let (dx, dy) = (near(DVec2::X)?, near(DVec2::Y)?);
        let right = Column::from([1.0, 0.0, x, 0.0, y, 0.0, -x * x, -x * y, 0.0, 0.0, 0.0, 0.0]);
        let down = Column::from([0.0, 1.0, 0.0, x, 0.0, y, -x * y, -y * y, 0.0, 0.0, 0.0, 0.0]);
        Some([right * dx.x + down * dy.x, right * dx.y + down * dy.y])
    }

    /// The map of a step about the middle of the region.
    fn stepped(&self, s: &Column) -> DMat3 {
        let unit = DMat3::from_cols_array(&[
            1.0 + s[2],
            s[3],
            s[6], //
            s[4],
            1.0 + s[5],
            s[7], //
            s[0],
            s[1],
            1.0,
        ]);
        let out = DMat3::from_translation(self.middle) * DMat3::from_scale(DVec2::splat(self.half));
        out * unit * out.inverse()
    }

    /// How far the farthest corner lies from one map to another, px.
    fn far(&self, a: DMat3, b: DMat3) -> f64 {
        let apart =
            |c: &DVec2| through(a, *c).zip(through(b, *c)).map_or(f64::INFINITY, |(a, b)| a.distance(b));
        self.corners.iter().map(apart).fold(0.0, f64::max)
    }

    /// What a state at the finest level says.
    fn told(&self, state: &State, known: &Known, spread: [f64; 2]) -> Aligned {
        let spots = &self.levels[0];
        let cells = judged(spots, state, known.spread[0]);
        let most = TUKEY * believed(state.spread, known.spread[0]);
        let good = spots.iter().zip(&state.off).filter(|(s, off)| {
            cells[usize::from(s.cell)] && off.is_some_and(|off| biweight(off, most) > 0.1)
        });
        let fits = if state.is_seen() { good.count() as f32 / spots.len() as f32 } else { 0.0 };
        let unsure = self.unsure(state.by, &state.normal, state.spread).unwrap_or(self.half) as f32;
        Aligned { by: state.by, fits, unsure, spread, cells }
    }

    /// Root mean square of how far the corners may be off under a map, by the covariance of a step's unknowns: the matrix that
    /// it solved, and the spread of what differs.
    fn unsure(&self, by: DMat3, normal: &Square, spread: f64) -> Option<f64> {
        let inverse = normal.try_inverse()?;
        let mut sum = 0.0;
        for c in &self.corners {
            sum += self.slid(by, *c)?.iter().map(|row| row.dot(&(inverse * row))).sum::<f64>();
        }
        // What softens the frames spreads a pixel's noise over its neighbours; both frames have some.
        Some((sum / 4.0).max(0.0).sqrt() * spread * ALIKE)
    }
}

/// A region whose corners could not be told better than this, px, is plain.
const UNSURE: f64 = 1.0;
/// What softening by σ 0.8 px leaves of the standard deviation of grain: 1 / (2σ√π).
const SOFTENED: f64 = 0.353;
/// Slope for each px that softened grain of standard deviation 1 makes: its correlation is a Gaussian of variance 2σ², so that
/// the slope's is 1 / (σ√2).
const SLOPE_OF_GRAIN: f64 = 0.884;

/// Less slope for a px than this, of the whole range, and a region is plain.
const PLAIN: f64 = 5e-4;

/// How much fewer differences tell something new than there are pixels: the noise of softened pixels goes together over about
/// 4πσ² of them (σ 0.8 px), of which each is compared.
const ALIKE: f64 = 2.8;

/// Weights to begin with: by the first power of what differs beside the middle difference (so that a half that is hidden pulls
/// no more than the other half), before the light is known.
fn at_first(seen: &[Option<f64>], spots: &[Spot], counts: impl Fn(&Spot) -> f64) -> (Vec<f64>, f64) {
    let off: Vec<Option<f64>> = spots.iter().zip(seen).map(|(s, v)| v.map(|v| v - s.value)).collect();
    let mut all: Vec<f64> = off.iter().flatten().copied().collect();
    if all.is_empty() {
        return (spots.iter().map(counts).collect(), 1.0);
    }
    let middle = all.len() / 2;
    let offset = *all.select_nth_unstable_by(middle, f64::total_cmp).1;
    let mut sizes: Vec<f64> = all.iter().map(|v| (v - offset).abs()).collect();
    let spread = sizes.select_nth_unstable_by(middle, f64::total_cmp).1.max(1e-5);
    let weight = |off: Option<f64>| off.map_or(0.0, |v| spread / (v - offset).abs().max(spread));
    (spots.iter().zip(off).map(|(s, off)| weight(off) * counts(s)).collect(), 1.4826 * spread)
}

/// Weight of a difference; nothing from `most` on.
fn biweight(off: f64, most: f64) -> f64 {
    let k = (off / most).powi(2);
    if k < 1.0 { (1.0 - k).powi(2) } else { 0.0 }
}

/// Pixels of a level inside a quad.
fn spots(level: Level<'_>, quad: &Quad, middle: DVec2, half: f64, left_out: Option<&Raster>) -> Vec<Spot> {
    let [low, high] = ends(quad).map(|p| p / level.step);
    let box_ = Window::around(low, high, level.window);
    let side = area(quad).signum();
    let inside = |p: DVec2| (0..4).all(|i| (quad[(i + 1) % 4] - quad[i]).perp_dot(p - quad[i]) * side >= 0.0);
    let mut all = Vec::new();
    for i in 0..box_.area() {
        let (x, y) = box_.pixel_at(i);
        let at = (DVec2::new(x.into(), y.into()) + 0.5) * level.step;
        let out =
            |m: &Raster| m.sample(0, at.x.floor() as i32, at.y.floor() as i32).is_some_and(|v| v > 0.05);
        if !inside(at) || left_out.is_some_and(out) {
            continue;
        }
        let Some([sx, sy]) = level.slope(x, y) else { continue };
        let unit = (at - middle) / half;
        let cell = |v: f64| (((v + 1.0) * 0.5 * CELLS as f64) as usize).min(CELLS - 1);
        all.push(Spot {
            at,
            unit: unit.to_array(),
            value: level.pixel(x, y).into(),
            slope: [f64::from(sx) * half, f64::from(sy) * half],
            cell: (cell(unit.y) * CELLS + cell(unit.x)) as u16,
        });
    }
    thinned(all)
}

/// Evenly fewer of them: steps of the golden ratio pick no rows or columns.
fn thinned(all: Vec<Spot>) -> Vec<Spot> {
    if all.len() <= MOST {
        return all;
    }
    let share = MOST as f64 / all.len() as f64;
    let kept = |i: usize| (i as f64 * 0.618_033_988_749_894_9).fract() < share;
    all.into_iter().enumerate().filter(|(i, _)| kept(*i)).map(|(_, s)| s).collect()
}

/// What is seen of each spot on a frame.
fn seen(level: Level<'_>, spots: &[Spot], by: DMat3) -> Vec<Option<f64>> {
    spots.iter().map(|s| through(by, s.at).and_then(|p| level.read(p)).map(f64::from)).collect()
}

/// How alike a region and what is seen of it are, but for gain and offset (−1..1); `None` where less than half is seen.
fn alike(level: Level<'_>, spots: &[Spot], by: DMat3) -> Option<f64> {
    let (mut n, mut a, mut b, mut aa, mut bb, mut ab) = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0);
    for s in spots {
        let Some(v) = through(by, s.at).and_then(|p| level.read(p)).map(f64::from) else { continue };
        (n, a, b) = (n + 1.0, a + s.value, b + v);
        (aa, bb, ab) = (aa + s.value * s.value, bb + v * v, ab + s.value * v);
    }
    if n < 0.5 * spots.len() as f64 {
        return None;
    }
    let (va, vb) = (aa - a * a / n, bb - b * b / n);
    Some((ab - a * b / n) / (va * vb).sqrt().max(1e-9))
}

/// The unknowns that leave the least difference, and the matrix that they solve; `None` where it is left open.
fn least_of(
    spots: &[Spot],
    seen: &[Option<f64>],
    weights: &[f64],
    free: usize,
    leads: &[(Column, f64)],
) -> Option<(Column, Square)> {
    let (mut normal, mut pull, mut count) = (Square::zeros(), Column::zeros(), 0usize);
    for (row, off) in leads {
        normal += row * row.transpose();
        pull += row * *off;
    }
    for ((s, seen), w) in spots.iter().zip(seen).zip(weights) {
        let Some(seen) = seen else { continue };
        if *w <= 0.0 {
            continue;
        }
        let row = s.row();
        let weighted = row * *w;
        pull += weighted * (seen - s.value);
        for j in 0..UNKNOWNS {
            for i in j..UNKNOWNS {
                normal[(i, j)] += row[i] * weighted[j];
            }
        }
        count += 1;
    }
    if count < FEW / 2 {
        return None;
    }
    normal.fill_upper_triangle_with_lower_triangle();
    for i in free..OF_MAP {
        normal.row_mut(i).fill(0.0);
        normal.column_mut(i).fill(0.0);
        normal[(i, i)] = 1.0;
        pull[i] = 0.0;
    }
    let scale = normal.diagonal().max();
    let mut damped = normal;
    (0..UNKNOWNS).for_each(|i| damped[(i, i)] += 1e-9 * scale);
    let solution = damped.cholesky()?.solve(&pull);
    solution.iter().all(|v| v.is_finite()).then_some((solution, damped))
}

/// What differs once the light is taken out, and its spread by the middle difference (MAD; Huber & Ronchetti 2009).
fn left(spots: &[Spot], seen: &[Option<f64>], weights: &[f64], solution: &Column) -> (Vec<Option<f64>>, f64) {
    let off: Vec<Option<f64>> = spots
        .iter()
        .zip(seen)
        .map(|(s, seen)| seen.map(|seen| seen - s.value - s.row().dot(solution)))
        .collect();
    let mut sizes: Vec<f64> =
        off.iter().zip(weights).filter(|(_, w)| **w > 0.0).filter_map(|(o, _)| o.map(f64::abs)).collect();
    let middle = sizes.len() / 2;
    let spread =
        if sizes.is_empty() { 1.0 } else { 1.4826 * *sizes.select_nth_unstable_by(middle, f64::total_cmp).1 };
    (off, spread.max(1e-5))
}

/// Share of what is to be seen of some spots that does not differ: what varies over them beyond a slope of light.
fn explained(spots: &[Spot], off: &[Option<f64>], weights: &[f64]) -> f64 {
    let (mut normal, mut pull) = (SMatrix::<f64, 3, 3>::zeros(), SVector::<f64, 3>::zeros());
    let row = |s: &Spot| SVector::<f64, 3>::from([1.0, s.unit[0], s.unit[1]]);
    for (s, w) in spots.iter().zip(weights) {
        normal += row(s) * row(s).transpose() * *w;
        pull += row(s) * (s.value * w);
    }
    let Some(light) = normal.try_inverse().map(|inverse| inverse * pull) else { return 0.0 };
    let (mut varies, mut differs) = (0.0, 0.0);
    for ((s, off), w) in spots.iter().zip(off).zip(weights) {
        varies += w * (s.value - row(s).dot(&light)).powi(2);
        differs += w * off.map_or(0.0, |off| off * off);
    }
    if varies > 0.0 { 1.0 - differs / varies } else { 0.0 }
}

/// Which cells look as they did: what differs there is little beside the spread of all, or beside what is to be seen in them.
fn judged(spots: &[Spot], state: &State, known: f64) -> Cells {
    let spread = believed(state.spread, known);
    let mut sums = [[0.0f64; 4]; CELLS * CELLS];
    for (s, off) in spots.iter().zip(&state.off) {
        let Some(off) = off else { continue };
        let [n, a, aa, oo] = &mut sums[usize::from(s.cell)];
        (*n, *a, *aa, *oo) = (*n + 1.0, *a + s.value, *aa + s.value * s.value, *oo + off * off);
    }
    sums.map(|[n, a, aa, oo]| {
        let (own, varies) = (oo / n.max(1.0), (aa / n.max(1.0) - (a / n.max(1.0)).powi(2)).max(0.0));
        n > 0.0 && own < (2.2 * spread).powi(2) + 0.15 * varies
    })
}
