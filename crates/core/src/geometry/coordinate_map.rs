//! Coordinate maps: for each pixel of a picture the place that it comes from. Read as moves, both ways.

use super::lattice::solve;
use super::row::Row;
use crate::{Raster, ShapeError, Window};
use glam::{DMat2, DVec2};
use multiversion::multiversion;
use std::sync::{Arc, OnceLock};

/// A map in canonical form (ST: s right, t up, 0..1 over the frame; both 0 where nothing is), as places in px.
#[derive(Clone, Debug)]
pub struct CoordinateMap {
    places: Arc<Raster>,
    frame: Window,
    back: Arc<OnceLock<Blocks>>,
    none: Arc<OnceLock<bool>>,
}

impl PartialEq for CoordinateMap {
    fn eq(&self, other: &Self) -> bool {
        Arc::ptr_eq(&self.places, &other.places) && self.frame == other.frame
    }
}

impl CoordinateMap {
    /// A map from its two planes, full-resolution px, over a frame.
    ///
    /// # Errors
    /// Another number of planes.
    pub fn new(st: Arc<Raster>, frame: Window) -> Result<Self, ShapeError> {
        st.expect_channels("the coordinate map", 2)?;
        Ok(Self { places: st, frame, back: Arc::default(), none: Arc::default() })
    }

    /// What it holds, bytes.
    pub fn bytes(&self) -> usize {
        self.places.bytes()
    }

    /// Where a pixel comes from. What lies as near to its own centre as `f32` can say of the frame lies on it, so that a
    /// map that moves nothing keeps every bit.
    fn at(&self, x: i32, y: i32) -> Option<DVec2> {
        let (s, t) = (f64::from(self.places.sample(0, x, y)?), f64::from(self.places.sample(1, x, y)?));
        let nothing = (s == 0.0 && t == 0.0) || !s.is_finite() || !t.is_finite();
        if nothing {
            return None;
        }
        let size = DVec2::new(self.frame.width.into(), self.frame.height.into());
        let place = DVec2::new(s, 1.0 - t) * size + DVec2::new(self.frame.x.into(), self.frame.y.into());
        let own = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5);
        Some(if (place - own).abs().cmple(size * OWN).all() { own } else { place })
    }

    /// Whether each pixel comes from itself.
    pub fn is_none(&self) -> bool {
        *self.none.get_or_init(|| self.moves_nothing())
    }

    fn moves_nothing(&self) -> bool {
        let window = self.places.window();
        let own = |x: i32, y: i32| self.at(x, y) == Some(DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5));
        window.covers(&self.frame)
            && window.rows().all(|y| (window.x..window.right() as i32).all(|x| own(x, y)))
    }

    /// Where the pixels of a row come from, from a column on; slopes by the pixels around.
    pub(super) fn row(&self, left: i32, y: i32, into: &mut Row) {
        let w = self.places.window();
        // Up to the last pixel that has one to its right.
        let whole = (w.right() - 1 - i64::from(left)).clamp(0, into.x.len() as i64) as usize;
        let inside = w.contains(left, y) && i64::from(y) + 1 < w.bottom();
        let done = if inside && self.row_without_holes(left, y, whole, into) { whole } else { 0 };
        for i in done..into.x.len() {
            let x = left + i as i32;
            let own = self.at(x, y);
            let Some(p) = own else {
                (into.x[i], into.y[i]) = (f64::NAN, f64::NAN);
                continue;
            };
            (into.x[i], into.y[i]) = (p.x, p.y);
            let across = self.at(x + 1, y).map(|q| q - p).or_else(|| self.at(x - 1, y).map(|q| p - q));
            let down = self.at(x, y + 1).map(|q| q - p).or_else(|| self.at(x, y - 1).map(|q| p - q));
            let (across, down) = (across.unwrap_or(DVec2::X), down.unwrap_or(DVec2::Y));
            let all = [across.x, across.y, down.x, down.y];
            into.slope.iter_mut().zip(all).for_each(|(to, v)| to[i] = v as f32);
        }
    }

    /// The same where every pixel, the one to its right and the one below hold a place; `false` if one does not.
    fn row_without_holes(&self, left: i32, y: i32, count: usize, into: &mut Row) -> bool {
        let w = self.places.window();
        let from = (y - w.y) as usize * w.width as usize + (left - w.x) as usize;
        let below = from + w.width as usize;
        let [s, t] = [0, 1].map(|c| &self.places.plane(c)[from..=from + count]);
        let [s2, t2] = [0, 1].map(|c| &self.places.plane(c)[below..below + count]);
        let origin = (f64::from(self.frame.x), f64::from(self.frame.y));
        let size = (f64::from(self.frame.width), f64::from(self.frame.height));
        fill(into, (s, t), (s2, t2), (origin, size), (f64::from(left) + 0.5, f64::from(y) + 0.5))
    }

    /// Where a place of the picture after comes from, with its slope: between pixels by the cubic through four of them,
    /// by straight lines beside the map's edge and beside holes.
    pub fn back(&self, place: DVec2) -> Option<(DVec2, DMat2)> {
        let cell = (place - 0.5).floor();
        if cell.abs().max_element() > 1e8 {
            return None;
        }
        let (t, x, y) = (place - 0.5 - cell, cell.x as i32, cell.y as i32);
        let mut near = [[None; 4]; 4];
        for (j, row) in near.iter_mut().enumerate() {
            for (i, at) in row.iter_mut().enumerate() {
                *at = self.at(x + i as i32 - 1, y + j as i32 - 1);
            }
        }
        if near.iter().flatten().all(Option::is_some) {
            return Some(between(&near, cubic(t.x), cubic(t.y)));
        }
        // At its edge a map says as much as the nearest pixel on a line allows.
        let one = |i: usize, j: usize| near[j][i];
        let wanted = [one(1, 1), one(2, 1), one(1, 2), one(2, 2)];
        if wanted.iter().all(Option::is_some) {
            return Some(between(&near, straight(t.x), straight(t.y)));
        }
        let nearest = one(if t.x < 0.5 { 1 } else { 2 }, if t.y < 0.5 { 1 } else { 2 })?;
        let own = cell + DVec2::new(if t.x < 0.5 { 0.5 } else { 1.5 }, if t.y < 0.5 { 0.5 } else { 1.5 });
        Some((nearest + (place - own), DMat2::IDENTITY))
    }

    /// Where a place of the picture before goes, with its slope.
    pub fn ahead(&self, place: DVec2) -> Option<(DVec2, DMat2)> {
        let blocks = self.back.get_or_init(|| Blocks::of(self));
        blocks.near(place).find_map(|start| solve(place, start, |p| self.back(p)))
    }
}

type Planes<'a> = (&'a [f32], &'a [f32]);

/// Places and slopes of a row of a map; `false` if one of its pixels, or of those to their right and below, holds none.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn fill(
    into: &mut Row,
    (s, t): Planes<'_>,
    (s2, t2): Planes<'_>,
    (origin, size): ((f64, f64), (f64, f64)),
    (left, y): (f64, f64),
) -> bool {
    let n = s2.len();
    let (s, t, t2) = (&s[..=n], &t[..=n], &t2[..n]);
    let (x_out, y_out) = (&mut into.x[..n], &mut into.y[..n]);
    for i in 0..n {
        let (px, py) = (f64::from(s[i]) * size.0 + origin.0, (1.0 - f64::from(t[i])) * size.1 + origin.1);
        let own = left + i as f64;
        // As in `at`.
        let near = ((px - own).abs() <= size.0 * OWN) & ((py - y).abs() <= size.1 * OWN);
        x_out[i] = if near { own } else { px };
        y_out[i] = if near { y } else { py };
    }
    let (w, h) = (size.0 as f32, size.1 as f32);
    let [xx, xy, yx, yy] = &mut into.slope;
    let (xx, xy, yx, yy) = (&mut xx[..n], &mut xy[..n], &mut yx[..n], &mut yy[..n]);
    let mut holes = 0u32;
    for i in 0..n {
        xx[i] = (s[i + 1] - s[i]) * w;
        xy[i] = (t[i] - t[i + 1]) * h;
        yx[i] = (s2[i] - s[i]) * w;
        yy[i] = (t[i] - t2[i]) * h;
        let hole = |s: f32, t: f32| u32::from((s == 0.0) & (t == 0.0) | !(s + t).is_finite());
        holes |= hole(s[i], t[i]) | hole(s[i + 1], t[i + 1]) | hole(s2[i], t2[i]);
    }
    holes == 0
}

/// What a 32-bit float tells apart of the frame.
const OWN: f64 = 1.2e-7;

type Near = [[Option<DVec2>; 4]; 4];

fn between(near: &Near, (wx, sx): ([f64; 4], [f64; 4]), (wy, sy): ([f64; 4], [f64; 4])) -> (DVec2, DMat2) {
    let (mut at, mut across, mut down) = (DVec2::ZERO, DVec2::ZERO, DVec2::ZERO);
    for (j, row) in near.iter().enumerate() {
        for (i, p) in row.iter().enumerate() {
            let p = p.unwrap_or_default();
            at += p * (wx[i] * wy[j]);
            across += p * (sx[i] * wy[j]);
            down += p * (wx[i] * sy[j]);
        }
    }
    (at, DMat2::from_cols(across, down))
}

fn straight(t: f64) -> ([f64; 4], [f64; 4]) {
    ([0.0, 1.0 - t, t, 0.0], [0.0, -1.0, 1.0, 0.0])
}

fn cubic(t: f64) -> ([f64; 4], [f64; 4]) {
    super::lattice::hermite(t)
}

/// Px along a side of a block of a map, and of a bin of the picture before.
const BLOCK: i32 = 16;

/// Blocks of a map by the part of the picture before that they show.
#[derive(Debug)]
struct Blocks {
    bins: Window,
    lists: Vec<Vec<(Window, DVec2)>>,
}

impl Blocks {
    fn of(map: &CoordinateMap) -> Self {
        let within = map.frame.grown(map.frame.width.max(map.frame.height));
        let bins = binned(within);
        let mut lists = vec![Vec::new(); bins.area()];
        let blocks = binned(map.places.window());
        let side = BLOCK as u32;
        // On one processor: this is made once, for all who wait for it. One that shared it out and waited would begin another
        // piece of the picture meanwhile, which wants this, too.
        let shown = (0..blocks.area()).filter_map(|i| {
            let (x, y) = blocks.pixel_at(i);
            block(map, Window::new(x * BLOCK, y * BLOCK, side, side), within)
        });
        for block in shown {
            let own = binned(block.0);
            for (x, y) in (0..own.area()).map(|i| own.pixel_at(i)) {
                lists[index_in(bins, x, y)].push(block);
            }
        }
        Self { bins, lists }
    }

    /// Places from which to look for what shows a place, in one order always.
    fn near(&self, place: DVec2) -> impl Iterator<Item = DVec2> {
        let at = place.floor();
        let (x, y) = (at.x.clamp(-1e8, 1e8) as i32, at.y.clamp(-1e8, 1e8) as i32);
        let (bx, by) = (x.div_euclid(BLOCK), y.div_euclid(BLOCK));
        let list: &[(Window, DVec2)] =
            if self.bins.contains(bx, by) { &self.lists[index_in(self.bins, bx, by)] } else { &[] };
        list.iter().filter(move |(shown, _)| shown.contains(x, y)).map(|(_, own)| *own)
    }
}

/// What a block of a map shows, as far as it lies within a window, and the pixel near its middle that holds a place.
fn block(map: &CoordinateMap, own: Window, within: Window) -> Option<(Window, DVec2)> {
    let (mut low, mut high) = (DVec2::INFINITY, DVec2::NEG_INFINITY);
    let middle = DVec2::new(f64::from(own.x), f64::from(own.y)) + f64::from(BLOCK / 2);
    let mut nearest: Option<DVec2> = None;
    for (x, y) in (0..own.area()).map(|i| own.pixel_at(i)) {
        let Some(p) = map.at(x, y) else { continue };
        (low, high) = (low.min(p), high.max(p));
        let at = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5);
        if nearest.is_none_or(|n| at.distance_squared(middle) < n.distance_squared(middle)) {
            nearest = Some(at);
        }
    }
    // As far as to the next block, and what a cubic overshoots.
    let room = (high - low) / f64::from(BLOCK) + 2.0;
    let shown = Window::around(low - room, high + room, within);
    nearest.filter(|_| !shown.is_empty()).map(|at| (shown, at))
}

fn index_in(bins: Window, x: i32, y: i32) -> usize {
    (y - bins.y) as usize * bins.width as usize + (x - bins.x) as usize
}

/// The bins that a window meets.
fn binned(w: Window) -> Window {
    let b = i64::from(BLOCK);
    let down = |v: i64| v.div_euclid(b);
    Window::from_edges(down(w.x.into()), down(w.y.into()), down(w.right() - 1) + 1, down(w.bottom() - 1) + 1)
}

#[cfg(test)]
mod tests {
    use super::super::chain::{Chain, Move};
    use super::super::map_of::{MapOf, map_of};
    use super::*;
    use crate::{Cancel, Scale};
    use glam::DMat3;

    fn frame() -> Window {
        Window::of_size(96, 64)
    }

    fn of(moves: Move, window: Window) -> CoordinateMap {
        let st = map_of(&Chain::of([moves]), MapOf::Moves, frame(), (window, Scale::FULL), &Cancel::new())
            .unwrap();
        CoordinateMap::new(Arc::new(st), frame()).unwrap()
    }

    #[test]
    fn a_map_of_nothing_moves_nothing() {
        for size in [(96, 64), (1920, 1080), (4095, 3)] {
            let frame = Window::of_size(size.0, size.1);
            let st =
                map_of(&Chain::default(), MapOf::Moves, frame, (frame, Scale::FULL), &Cancel::new()).unwrap();
            assert!(CoordinateMap::new(Arc::new(st), frame).unwrap().is_none(), "{size:?}");
        }
        assert!(!of(Move::Homography(DMat3::from_translation(DVec2::X)), frame()).is_none());
    }

    #[test]
    fn a_map_is_followed_both_ways() {
        let turn = DMat3::from_cols_array(&[0.9, 0.2, 1e-3, -0.2, 0.95, -5e-4, 10.0, -4.0, 1.0]);
        let map = of(Move::Homography(turn), frame().grown(20));
        let chain = Chain::of([Move::Homography(turn)]);
        let mut met = 0;
        for i in 0..600 {
            let place = DVec2::new(f64::from(i % 30) * 3.1 + 1.0, f64::from(i / 30) * 3.0 + 1.0);
            let want = chain.source(place).unwrap();
            assert!((map.back(place).unwrap().0 - want).length() < 1e-3);
            if let Some((there, slope)) = map.ahead(place) {
                met += 1;
                assert!((there - chain.forward(place).unwrap()).length() < 2e-3, "{place}");
                assert!((slope * map.back(there).unwrap().1 - DMat2::IDENTITY).determinant().abs() < 1e-3);
            }
        }
        assert!(met > 400, "{met}");
        assert_eq!(map.back(DVec2::splat(-500.0)), None);
        assert_eq!(map.ahead(DVec2::splat(-500.0)), None);
    }

    #[test]
    fn all_who_follow_a_map_the_other_way_at_once_get_there() {
        use rayon::prelude::*;
        let window = Window::of_size(1024, 512);
        let turned = Move::Homography(DMat3::from_angle(0.1));
        let st = map_of(&Chain::of([turned]), MapOf::Moves, window, (window, Scale::FULL), &Cancel::new())
            .unwrap();
        let st = Arc::new(st);
        let (done, finished) = std::sync::mpsc::channel();
        std::thread::spawn(move || {
            let threads = rayon::ThreadPoolBuilder::new().num_threads(4).build().unwrap();
            for _ in 0..10 {
                // A new one each time: the first who asks makes what all need.
                let map = CoordinateMap::new(st.clone(), window).unwrap();
                let met =
                    |i: u32| map.ahead(DVec2::new(f64::from(i % 1024), f64::from(i / 8 % 512))).is_some();
                let count = threads.install(|| (0..4096u32).into_par_iter().filter(|i| met(*i)).count());
                done.send(count).unwrap();
            }
        });
        for _ in 0..10 {
            let met = finished.recv_timeout(std::time::Duration::from_secs(60));
            assert!(met.is_ok_and(|met| met > 2000), "{met:?}");
        }
    }

    #[test]
    fn holes_are_nothing() {
        let mut st =
            map_of(&Chain::default(), MapOf::Moves, frame(), (frame(), Scale::FULL), &Cancel::new()).unwrap();
        for plane in st.planes_mut() {
            plane[30 * 96 + 40] = 0.0;
        }
        let map = CoordinateMap::new(Arc::new(st), frame()).unwrap();
        assert_eq!(map.back(DVec2::new(40.5, 30.5)), None);
        assert!(map.back(DVec2::new(43.5, 30.5)).is_some());
        assert!(!map.is_none());
    }
}
