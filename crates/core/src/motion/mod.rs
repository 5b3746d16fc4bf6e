//! Motion blur from vectors.
//!
//! The picture is taken apart into what is seen and what is hidden beside it ([`sheets`]). Then, for each pixel and for
//! many instants while the shutter is open, it is found which surfaces are there at that instant: a surface that is at `y`
//! now and moves by `v(y)` is at `y + t·v(y)`. They are laid over each other as they are seen at that instant, the nearer
//! over the farther, and the instants are averaged. So a moving edge is translucent, what stands still beside it is
//! untouched, and what passes behind something is hidden by it.
//!
//! *Own derivation*; which motions have to be looked for where is found by tiles ([`tiles`]). Surfaces move straight on and
//! evenly through the shutter, and what lies hidden is carried on from beside it.

pub mod looped;
mod open;
mod sheets;
mod tiles;

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::{Vec2, Vec4};
use multiversion::multiversion;
pub use open::Open;
use sheets::{Sheet, Sheets, Spot, apart};
use tiles::{Tile, Tiles};

/// Px that may pass between two instants where edges come by.
const STEP: f32 = 1.0;

/// The same within one surface: the widest at which the tents in which the picture is read still add up to an even line.
const CALM: f32 = 2.0;

/// Fewest and most instants.
const INSTANTS: [f32; 2] = [8.0, 256.0];

/// Px by which a surface may miss a place and still be there.
const MISS: f32 = 0.75;

/// A displacement that nobody sees, px.
const STILL: f32 = 0.02;

/// Share of the longer of two displacements, squared, by which they may differ and be of a surface that goes on: the floor
/// before a camera moves twice as fast two steps nearer, a body before it does not share its way at all.
const GOES_ON: f32 = 0.25;

/// Surfaces that are kept of one instant.
const MOST: usize = 8;

/// Blurs `picture` (RGBA, linear, premultiplied) by `motion` (px of its own scale from this frame to the next; what is not
/// finite stands still) while the shutter is open. Where `depth` is given, the nearer is seen over the farther, else the
/// faster over the slower. All lie on the picture's window, which should be the whole frame: beyond its edge
/// a surface goes on in the colour of the edge, and instants at which another one comes in from there are left out. `rim` px on both sides of an edge may hold the colours of both surfaces. Where nothing that
/// moves comes by, every bit stays.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn blur(
    picture: &Raster,
    motion: &Raster,
    depth: Option<&Raster>,
    open: Open,
    rim: u32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    let w = picture.window();
    motion.expect_channels("motion", 2)?;
    motion.expect_window("motion", w)?;
    if let Some(depth) = depth {
        depth.expect_window("depth", w)?;
    }
    let moves = |v: &f32| v.is_finite() && v.abs() * open.span() > STILL;
    if !motion.data().iter().any(moves) || open.closes <= open.opens {
        return Ok(picture.clone());
    }
    let sheets = Sheets::of(picture, motion, depth, open, rim, cancel)?;
    let tiles = Tiles::of(&sheets, open);
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        let rows = band.window();
        let row_of = |y: i64| ((y - i64::from(w.y)) / i64::from(tiles::SIDE)) as usize;
        // Tile by tile: what a pixel looks at, its neighbours below look at next.
        for row in row_of(rows.y.into())..=row_of(rows.bottom() - 1) {
            for column in 0..tiles.across {
                if cancel.is_cancelled() {
                    return;
                }
                let Tile { follow, calm } = &tiles.tiles[row * tiles.across + column];
                let step = if *calm { CALM } else { STEP };
                let Some(times) = Times::of(follow, open, step) else { continue };
                let tile = tiles::tile(w, column, row).intersect(&rows);
                let part = (tile.x - w.x) as usize..(tile.right() - i64::from(w.x)) as usize;
                for y in tile.rows() {
                    let line = band.rows(y).map(|row: &mut [f32]| &mut row[part.clone()]);
                    let first = Vec2::new(tile.x as f32 + 0.5, y as f32 + 0.5);
                    if *calm {
                        along(&sheets.front, &times, first, line);
                    } else {
                        over(&sheets, follow, &times, first, line);
                    }
                }
            }
        }
    })?;
    Ok(out)
}

/// The instants that are looked at.
struct Times {
    first: f32,
    step: f32,
    count: usize,
    span: f32,
}

impl Times {
    /// As many as what moves fastest needs; none where nothing moves.
    fn of(follow: &[Vec2], open: Open, step: f32) -> Option<Self> {
        let fastest = follow.iter().fold(0.0f32, |a, m| a.max(m.length_squared())).sqrt();
        if fastest * open.span() <= STILL {
            return None;
        }
        let length = open.closes - open.opens;
        let count = (fastest * length / step).ceil().clamp(INSTANTS[0], INSTANTS[1]);
        let step = length / count;
        Some(Self { first: open.opens + 0.5 * step, step, count: count as usize, span: open.span() })
    }

    #[inline(always)]
    fn at(&self, k: usize) -> f32 {
        self.first + k as f32 * self.step
    }
}

/// A surface that is at a place at an instant.
#[derive(Clone, Copy, Default)]
struct Met {
    near: f32,
    cover: f32,
    colour: [f32; 4],
    from: Vec2,
    /// Displacement while the shutter is open.
    way: Vec2,
    /// It comes in from beyond the frame, where nobody knows what is.
    unknown: bool,
}

/// Those of one instant, the nearest first.
#[derive(Default)]
struct There {
    met: [Met; MOST],
    count: usize,
    /// The farthest of what was looked at and is not there.
    beyond: Option<Spot>,
}

impl There {
    #[inline(always)]
    fn add(&mut self, met: Met) {
        if self.count == MOST {
            return;
        }
        let mut i = self.count;
        while i > 0 && self.met[i - 1].near < met.near {
            self.met[i] = self.met[i - 1];
            i -= 1;
        }
        self.met[i] = met;
        self.count += 1;
    }

    /// Whether a surface was met already, by another motion.
    #[inline(always)]
    fn has(&self, from: Vec2, way: Vec2) -> bool {
        let is = |m: &Met| m.from.distance_squared(from) < MISS * MISS && !apart(m.way, way);
        self.met[..self.count].iter().any(is)
    }

    #[inline(always)]
    fn passed(&mut self, spot: &Spot) {
        // Of what covers little of its pixel the colour is not known well enough.
        if spot.cover > 0.5 && self.beyond.is_none_or(|b| spot.near < b.near) {
            self.beyond = Some(*spot);
        }
    }

    #[inline(always)]
    fn is_closed(&self) -> bool {
        self.met[..self.count].iter().any(|m| m.cover > 0.999)
    }

    /// Colour and coverage of them over each other, as far as they are known; `still` is what the picture shows there.
    #[inline(always)]
    fn seen(&self, still: [f32; 4]) -> ([f32; 4], f32) {
        let (mut colour, mut left) = ([0.0; 4], 1.0);
        for m in &self.met[..self.count] {
            if m.unknown {
                return (colour, 1.0 - left);
            }
            (0..4).for_each(|c| colour[c] += left * m.colour[c]);
            left *= 1.0 - m.cover;
        }
        if left > 1e-3 {
            // Nobody knows what is there; the farthest surface around most likely goes on.
            let rest = self.beyond.map_or(still, |b| b.colour.map(|v| v / b.cover));
            (0..4).for_each(|c| colour[c] += left * rest[c]);
        }
        (colour, 1.0)
    }
}

/// A run of pixels, the middle of the first at `first`, of one surface that is all around: the mean over the instants.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn along(sheet: &Sheet, times: &Times, first: Vec2, line: [&mut [f32]; 4]) {
    let [r, g, b, a] = line;
    let middle = times.count / 2;
    for i in 0..a.len() {
        let place = Vec2::new(first.x + i as f32, first.y);
        let own = spot_at(sheet, place).motion;
        // One step from the motion of the place itself is enough where motion passes evenly from pixel to pixel, and so are
        // three instants, between which it is taken to pass evenly in time.
        let motion = |k: usize| spot_at(sheet, place - times.at(k) * own).motion;
        let [begins, halfway, ends] = [motion(0), motion(middle), motion(times.count - 1)];
        let mut sum = Vec4::ZERO;
        for (from, to, ks) in [(begins, halfway, 0..middle), (halfway, ends, middle..times.count)] {
            let count = (ks.end - ks.start).max(1);
            let step = (to - from) / count as f32;
            for (n, k) in ks.enumerate() {
                sum += read(sheet, place - times.at(k) * (from + n as f32 * step));
            }
        }
        let mean = sum / times.count as f32;
        (r[i], g[i], b[i], a[i]) = (mean.x, mean.y, mean.z, mean.w);
    }
}

/// The colour between four pixels; beyond the frame it is that of its edge.
#[inline(always)]
fn read(sheet: &Sheet, at: Vec2) -> Vec4 {
    let w = sheet.window;
    let last = Vec2::new(w.width as f32 - 1.0, w.height as f32 - 1.0);
    let at = (at - Vec2::new(w.x as f32, w.y as f32) - 0.5).clamp(Vec2::ZERO, last);
    let (x, y) = (at.x as usize, at.y as usize);
    let f = at - Vec2::new(x as f32, y as f32);
    let (row, beside) = (w.width as usize, usize::from(x + 1 < w.width as usize));
    let above = y * row + x;
    let below = if y + 1 < w.height as usize { above + row } else { above };
    let colour = |i: usize| Vec4::from_array(sheet.spots[i].colour);
    let (top, low) =
        (colour(above).lerp(colour(above + beside), f.x), colour(below).lerp(colour(below + beside), f.x));
    top.lerp(low, f.y)
}

/// A run of pixels, the middle of the first at `first`, past which several surfaces may come: the mean over the instants. A
/// pixel of which too little is known stays.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn over(sheets: &Sheets, follow: &[Vec2], times: &Times, first: Vec2, line: [&mut [f32]; 4]) {
    let [r, g, b, a] = line;
    let mut there = There::default();
    for i in 0..a.len() {
        let place = Vec2::new(first.x + i as f32, first.y);
        let still = [r[i], g[i], b[i], a[i]];
        let own = spot_at(&sheets.front, place).motion * times.span;
        let (mut sum, mut taken, mut same) = ([0.0f32; 4], 0.0f32, true);
        for k in 0..times.count {
            let t = times.at(k);
            there.count = 0;
            there.beyond = None;
            look(&sheets.front, place, own, follow, t, times.span, &mut there);
            if !there.is_closed()
                && let Some(back) = &sheets.back
            {
                look(back, place, own, follow, t, times.span, &mut there);
            }
            let (colour, cover) = there.seen(still);
            for c in 0..4 {
                sum[c] += colour[c];
            }
            taken += cover;
            same &= colour == still;
        }
        // The mean of what does not change would be off by its rounding.
        if !same && taken > 0.05 * times.count as f32 {
            (r[i], g[i], b[i], a[i]) = (sum[0] / taken, sum[1] / taken, sum[2] / taken, sum[3] / taken);
        }
    }
}

/// Adds what of a sheet is at a place at an instant, found from the motions that it may have; `own` is the displacement of what
/// is seen at the place.
#[inline(always)]
fn look(sheet: &Sheet, place: Vec2, own: Vec2, follow: &[Vec2], t: f32, span: f32, there: &mut There) {
    for motion in follow {
        let mut from = place - t * *motion;
        let mut spot = spot_at(sheet, from);
        for _ in 0..2 {
            let next = place - t * spot.motion;
            if next.distance_squared(from) < 1e-4 {
                break;
            }
            from = next;
            spot = spot_at(sheet, from);
        }
        let miss = from + t * spot.motion - place;
        if spot.cover == 0.0 || miss.length_squared() > MISS * MISS {
            there.passed(spot);
        } else if !there.has(from, spot.motion * span) {
            let mut met = between(sheet, from, spot, span);
            met.unknown &= !goes_on(own, met.way);
            there.add(met);
        }
    }
}

/// Whether displacements are of one surface that may go on beyond the frame.
#[inline(always)]
fn goes_on(a: Vec2, b: Vec2) -> bool {
    a.distance_squared(b) <= GOES_ON * a.length_squared().max(b.length_squared())
}

#[inline(always)]
fn spot_at(sheet: &Sheet, at: Vec2) -> &Spot {
    sheet.at(at.x.floor() as i32, at.y.floor() as i32)
}

/// The surface of a spot, read between pixels. What is farther than it ends it; what is nearer only hides it.
#[inline(always)]
fn between(sheet: &Sheet, from: Vec2, own: &Spot, span: f32) -> Met {
    let corner = (from - 0.5).floor();
    let f = from - 0.5 - corner;
    let (x, y) = (corner.x as i32, corner.y as i32);
    let weights = [(1.0 - f.x) * (1.0 - f.y), f.x * (1.0 - f.y), (1.0 - f.x) * f.y, f.x * f.y];
    let way = own.motion * span;
    let unknown = !sheet.holds(from);
    let mut met = Met { near: own.near, from, way, unknown, ..Met::default() };
    let mut hidden = 0.0;
    for (k, weight) in weights.into_iter().enumerate() {
        let s = sheet.at(x + (k as i32 & 1), y + (k as i32 >> 1));
        if s.cover == 0.0 || apart(way, s.motion * span) {
            if s.cover == 0.0 || s.near > own.near {
                hidden += weight;
            }
            continue;
        }
        (0..4).for_each(|c| met.colour[c] += weight * s.colour[c]);
        met.cover += weight * s.cover;
    }
    if hidden > 0.0 && hidden < 0.999 {
        let k = 1.0 / (1.0 - hidden);
        met.colour.iter_mut().for_each(|v| *v *= k);
        met.cover *= k;
    }
    met
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::new(-8, 3, 96, 48);
    const HALF: Open = Open { opens: -0.25, closes: 0.25 };

    fn run(picture: &Raster, motion: &Raster, depth: Option<&Raster>, open: Open) -> Raster {
        blur(picture, motion, depth, open, 1, &Cancel::new()).unwrap()
    }

    /// A white card between two columns before or behind a dark, patterned wall.
    fn card(speed: [f32; 2], depth: f32) -> (Raster, Raster, Raster) {
        let is = |x: i32| (20..52).contains(&x);
        let picture = Raster::from_fn(W, 4, |c, x, y| match (c, is(x)) {
            (3, _) | (_, true) => 1.0,
            _ => 0.1 + 0.02 * ((x * 3 + y * 5) % 7) as f32,
        });
        let motion = Raster::from_fn(W, 2, |c, x, _| if is(x) { speed[c] } else { 0.0 });
        (picture, motion, Raster::from_fn(W, 1, |_, x, _| if is(x) { depth } else { 6.0 }))
    }

    #[test]
    fn what_does_not_move_keeps_every_bit() {
        let (picture, _, depth) = card([0.0; 2], 2.0);
        assert_eq!(run(&picture, &Raster::zeros(W, 2), Some(&depth), HALF), picture);
        // Also beside what moves, and where a motion is no number.
        let (picture, mut motion, depth) = card([0.0, 12.0], 2.0);
        motion.row_mut(0, 10)[3] = f32::NAN;
        let out = run(&picture, &motion, Some(&depth), HALF);
        for x in (-8..16).chain(56..88) {
            assert_eq!(out.pixel(x, 20), picture.pixel(x, 20), "{x}");
        }
        assert_eq!(run(&picture, &motion, Some(&depth), Open { opens: 0.2, closes: 0.2 }), picture);
    }

    #[test]
    fn a_moving_edge_is_a_ramp_as_wide_as_its_way_and_the_wall_shows_through() {
        // 24 px a frame, a quarter of it to either side: a ramp of 12 px.
        let (picture, motion, depth) = card([24.0, 0.0], 2.0);
        let out = run(&picture, &motion, Some(&depth), HALF);
        for x in 8..34 {
            let cover = ((x as f32 + 0.5 - 14.0) / 12.0).clamp(0.0, 1.0);
            let got = out.sample(0, x, 20).unwrap();
            let wall = 0.16;
            let want = cover + (1.0 - cover) * wall;
            assert!((got - want).abs() < 0.07, "{x}: {got} {want}");
            assert!((out.sample(3, x, 20).unwrap() - 1.0).abs() < 1e-5);
        }
        // Opened from the frame on, all of it lies on one side.
        let late = run(&picture, &motion, Some(&depth), Open { opens: 0.0, closes: 0.5 });
        let at = |x: i32| late.sample(0, x, 20).unwrap();
        assert!(at(19) < 0.3 && at(33) > 0.99 && (at(26) - 0.58).abs() < 0.1, "{} {}", at(19), at(26));
    }

    #[test]
    fn what_passes_behind_leaves_what_is_before_it_alone() {
        let (picture, mut motion, _) = card([0.0; 2], 2.0);
        let depth = Raster::from_fn(W, 1, |_, x, _| if (20..52).contains(&x) { 2.0 } else { 6.0 });
        for y in W.rows() {
            let row = motion.row_mut(0, y);
            row.iter_mut().enumerate().for_each(|(i, v)| *v = if (28..60).contains(&i) { 0.0 } else { 40.0 });
        }
        let out = run(&picture, &motion, Some(&depth), HALF);
        for x in 22..50 {
            assert!((out.sample(0, x, 20).unwrap() - 1.0).abs() < 1e-5, "{x}");
        }
        for x in (0..18).chain(54..80) {
            assert!(out.sample(0, x, 20).unwrap() < 0.25, "no white is drawn into the wall: {x}");
        }
    }

    #[test]
    fn over_nothing_it_fades_out_and_no_light_is_lost() {
        let is = |x: i32| (30..50).contains(&x);
        let picture = Raster::from_fn(W, 4, |c, x, _| if is(x) { [0.8, 0.4, 0.2, 1.0][c] } else { 0.0 });
        let motion = Raster::from_fn(W, 2, |c, x, _| if is(x) && c == 0 { 30.0 } else { 0.0 });
        let out = run(&picture, &motion, None, HALF);
        for c in 0..4 {
            let sum = |r: &Raster| r.row(c, 20).iter().sum::<f32>();
            assert!((sum(&out) / sum(&picture) - 1.0).abs() < 0.02, "{c}: {} {}", sum(&out), sum(&picture));
        }
        assert!((out.sample(3, 30, 20).unwrap() - 0.5).abs() < 0.06);
    }

    #[test]
    fn small_and_empty_pictures_and_any_number_of_threads() {
        for w in [Window::of_size(0, 0), Window::of_size(1, 1), Window::of_size(3, 1)] {
            let out = run(&Raster::filled(w, 4, 0.5), &Raster::filled(w, 2, 1e9), None, HALF);
            assert!(out.window() == w && out.data().iter().all(|v| (v - 0.5).abs() < 1e-4), "{out:?}");
        }
        let (picture, motion, depth) = card([17.0, 9.0], 2.0);
        let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
        let go = || run(&picture, &motion, Some(&depth), HALF);
        assert_eq!(go(), one.install(go));
    }
}
