//! Where each pixel of a window comes from. *Own derivation.*
//!
//! A projective map is followed for each pixel. A bend is followed at 4×4 places of a tile of 16×16 pixels, and between them
//! runs the bicubic through these; where that is farther than [`CLOSE`] from the chain at the places between, or where the
//! chain bends over less than a tile, each pixel is followed. Tiles lie on one grid for every window, so that a picture in
//! pieces is the picture in one.

use super::chain::{Chain, MOST_SHRINK};
use super::row::{Row, Sloped};
use crate::Window;
use glam::{DMat2, DVec2};
use multiversion::multiversion;
use rayon::prelude::*;
use std::ops::Range;
use std::sync::LazyLock;

/// How far the bicubic may lie from the chain, px of the picture before.
pub const CLOSE: f64 = 0.005;

/// Px along a side of a tile.
const TILE: i32 = 16;

/// Where the places of a tile lie that are followed: pixel centres.
const NODES: [f64; 4] = [0.0, 5.0, 10.0, 15.0];

enum Tile {
    /// Places at 4×4 nodes.
    Smooth(Box<[[DVec2; 4]; 4]>),
    /// Each pixel by itself.
    Each,
    /// Nothing is seen.
    Empty,
}

/// Where the pixels of a window come from.
pub struct Field<'a> {
    /// What it is of.
    pub chain: &'a Chain,
    /// Where the pixels are.
    pub window: Window,
    tiles: Window,
    all: Vec<Tile>,
}

impl<'a> Field<'a> {
    /// The field of a chain over a window, px of the chain's scale.
    pub fn of(chain: &'a Chain, window: Window) -> Self {
        if chain.is_projective() || chain.only_map().is_some() || window.is_empty() {
            return Self { chain, window, tiles: Window::default(), all: Vec::new() };
        }
        let t = i64::from(TILE);
        let down = |v: i64| v.div_euclid(t);
        let tiles = Window::from_edges(
            down(window.x.into()),
            down(window.y.into()),
            down(window.right() - 1) + 1,
            down(window.bottom() - 1) + 1,
        );
        let smooth = chain.detail() >= f64::from(TILE) * 1.5;
        let all = (0..tiles.area())
            .into_par_iter()
            .map(|i| {
                let (x, y) = tiles.pixel_at(i);
                if smooth { tile(chain, x * TILE, y * TILE) } else { Tile::Each }
            })
            .collect();
        Self { chain, window, tiles, all }
    }

    /// Where the pixels of a row come from, from a column on.
    pub fn row(&self, left: i32, y: i32, into: &mut Row) {
        let count = into.x.len();
        if let Some(map) = self.chain.only_map() {
            map.row(left, y, into);
            return;
        }
        if self.all.is_empty() {
            for i in 0..count {
                into.put(i, followed(self.chain, left + i as i32, y));
            }
            return;
        }
        let mut done = 0;
        while done < count {
            let x = left + done as i32;
            let tx = x.div_euclid(TILE);
            let own = ((tx + 1) * TILE - x).min((count - done) as i32) as usize;
            self.row_of_tile((tx, y.div_euclid(TILE)), (x, y), done..done + own, into);
            done += own;
        }
    }

    fn row_of_tile(&self, (tx, ty): (i32, i32), (left, y): (i32, i32), part: Range<usize>, into: &mut Row) {
        let tile = if self.tiles.contains(tx, ty) {
            &self.all[(ty - self.tiles.y) as usize * self.tiles.width as usize + (tx - self.tiles.x) as usize]
        } else {
            &Tile::Each
        };
        match tile {
            Tile::Empty => part.for_each(|i| into.put(i, None)),
            Tile::Each => {
                for (x, i) in (left..).zip(part) {
                    into.put(i, followed(self.chain, x, y));
                }
            }
            Tile::Smooth(nodes) => {
                let (weights, slopes) = &LAGRANGE[(y - ty * TILE) as usize];
                let at = |w: &[f64; 4]| {
                    let p = |i: usize| {
                        nodes[0][i] * w[0] + nodes[1][i] * w[1] + nodes[2][i] * w[2] + nodes[3][i] * w[3]
                    };
                    polynomial([p(0), p(1), p(2), p(3)])
                };
                smooth(into, part, f64::from(left - tx * TILE), at(weights), at(slopes));
            }
        }
    }

    /// The part of a picture that the window is made of, as far as it lies in `within`.
    pub fn part(&self, within: Window) -> Window {
        if self.chain.is_identity() {
            return self.window;
        }
        // What lies just beyond an edge is grown into it.
        let far = within.grown(MOST_SHRINK as u32 * 4);
        let shown = if self.chain.is_projective() {
            self.chain.projective_part(self.window, far)
        } else {
            let (low, high) = self.shows();
            Window::around(low, high, far)
        };
        shown.grown(self.chain.kernel.radius().ceil() as u32 + 2).intersect(&within)
    }

    /// A box that holds all places, and what is stretched there.
    fn shows(&self) -> (DVec2, DVec2) {
        let (mut low, mut high) = (DVec2::INFINITY, DVec2::NEG_INFINITY);
        let mut see = |p: DVec2, room: DVec2| {
            low = low.min(p - room);
            high = high.max(p + room);
        };
        let stretched = |slope: DMat2| {
            let s = slope.x_axis.abs() + slope.y_axis.abs();
            s.min(DVec2::splat(MOST_SHRINK)) * (1.0 + self.chain.kernel.radius())
        };
        if let Some(map) = self.chain.only_map() {
            let mut row = Row::of(self.window.width);
            for y in self.window.rows() {
                map.row(self.window.x, y, &mut row);
                (0..row.x.len()).filter_map(|i| row.at(i)).for_each(|(p, slope)| see(p, stretched(slope)));
            }
        }
        for (i, tile) in self.all.iter().enumerate() {
            match tile {
                Tile::Empty => {}
                Tile::Smooth(nodes) => {
                    let all = nodes.iter().flatten();
                    let (l, h) =
                        all.fold((DVec2::INFINITY, DVec2::NEG_INFINITY), |(l, h), p| (l.min(*p), h.max(*p)));
                    // Between its nodes a bicubic stays within this share of their spread; a footprint is part of it.
                    let room = DVec2::splat((h - l).max_element());
                    see(l, room);
                    see(h, room);
                }
                Tile::Each => {
                    let (tx, ty) = self.tiles.pixel_at(i);
                    let own = Window::new(tx * TILE, ty * TILE, TILE as u32, TILE as u32);
                    let pixels = (0..own.area()).map(|i| own.pixel_at(i));
                    pixels
                        .filter_map(|(x, y)| followed(self.chain, x, y))
                        .for_each(|(p, slope)| see(p, stretched(slope)));
                }
            }
        }
        (low, high)
    }
}

/// Where the centre of a pixel comes from, and the slope there. Far away there is nothing, and no whole number for it.
fn followed(chain: &Chain, x: i32, y: i32) -> Option<Sloped> {
    chain
        .source_with_slope(DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5))
        .filter(|(q, _)| q.abs().max_element() < 1e8)
}

fn tile(chain: &Chain, left: i32, top: i32) -> Tile {
    let at = |u: f64, v: f64| {
        let place = DVec2::new(f64::from(left) + 0.5 + u, f64::from(top) + 0.5 + v);
        chain.source(place).filter(|q| q.abs().max_element() < 1e8)
    };
    let mut nodes = [[DVec2::ZERO; 4]; 4];
    let mut seen = 0;
    for (row, v) in nodes.iter_mut().zip(NODES) {
        for (node, u) in row.iter_mut().zip(NODES) {
            if let Some(q) = at(u, v) {
                *node = q;
                seen += 1;
            }
        }
    }
    if seen == 0 {
        // What is not seen at 16 places may be at others: only where all around is nothing, too, is it left out.
        let around = [
            (-8.0, -8.0),
            (7.5, -8.0),
            (23.0, -8.0),
            (-8.0, 7.5),
            (7.5, 7.5),
            (23.0, 7.5),
            (-8.0, 23.0),
            (7.5, 23.0),
            (23.0, 23.0),
        ];
        return if around.iter().all(|(u, v)| at(*u, *v).is_none()) { Tile::Empty } else { Tile::Each };
    }
    if seen < 16 {
        return Tile::Each;
    }
    let close = BETWEEN.iter().all(|&(u, v)| {
        let ((wx, _), (wy, _)) = (lagrange(u), lagrange(v));
        let told = (0..16).fold(DVec2::ZERO, |sum, i| sum + nodes[i / 4][i % 4] * (wx[i % 4] * wy[i / 4]));
        at(u, v).is_some_and(|q| (q - told).length_squared() < CLOSE * CLOSE)
    });
    if close { Tile::Smooth(Box::new(nodes)) } else { Tile::Each }
}

/// The weights at each pixel of a tile, and how they change.
static LAGRANGE: LazyLock<[([f64; 4], [f64; 4]); TILE as usize]> =
    LazyLock::new(|| std::array::from_fn(|u| lagrange(u as f64)));

/// Pixels of a row of a tile, from a column on, by the cubics along it of the places and of how they change down.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn smooth(into: &mut Row, part: Range<usize>, from: f64, along: [DVec2; 4], down: [DVec2; 4]) {
    let n = part.len();
    let (x, y) = (&mut into.x[part.clone()], &mut into.y[part.clone()]);
    let [xx, xy, yx, yy] = &mut into.slope;
    let (xx, xy) = (&mut xx[part.clone()], &mut xy[part.clone()]);
    let (yx, yy) = (&mut yx[part.clone()], &mut yy[part]);
    let cubic = |c: [f64; 4], u: f64| ((c[3] * u + c[2]) * u + c[1]) * u + c[0];
    let steep = |c: [f64; 4], u: f64| (c[3] * (3.0 * u) + c[2] * 2.0) * u + c[1];
    let (ax, ay) = (along.map(|v| v.x), along.map(|v| v.y));
    let (dx, dy) = (down.map(|v| v.x), down.map(|v| v.y));
    for i in 0..n {
        let u = from + i as f64;
        x[i] = cubic(ax, u);
        y[i] = cubic(ay, u);
        xx[i] = steep(ax, u) as f32;
        xy[i] = steep(ay, u) as f32;
        yx[i] = cubic(dx, u) as f32;
        yy[i] = cubic(dy, u) as f32;
    }
}

/// Where the bicubic is looked at: between the nodes, where it is farthest off.
const BETWEEN: [(f64, f64); 5] = [(2.0, 2.0), (13.0, 2.0), (2.0, 13.0), (13.0, 13.0), (7.5, 7.5)];

/// Lagrange's weights of the nodes at a place of a tile, and how they change.
fn lagrange(u: f64) -> ([f64; 4], [f64; 4]) {
    let (mut weights, mut slopes) = ([1.0; 4], [0.0; 4]);
    for i in 0..4 {
        for j in (0..4).filter(|j| *j != i) {
            let k = 1.0 / (NODES[i] - NODES[j]);
            slopes[i] = slopes[i] * (u - NODES[j]) * k + weights[i] * k;
            weights[i] *= (u - NODES[j]) * k;
        }
    }
    (weights, slopes)
}

/// The cubic through four nodes, by its coefficients.
fn polynomial(p: [DVec2; 4]) -> [DVec2; 4] {
    // Newton's divided differences at 0, 5, 10, 15.
    let (d1, d2, d3) = (p[1] - p[0], p[2] - p[1], p[3] - p[2]);
    let (a, b, c) = (d1 / 5.0, (d2 - d1) / 50.0, (d3 - d2 * 2.0 + d1) / 750.0);
    [p[0], a - b * 5.0 + c * 50.0, b - c * 15.0, c]
}

#[cfg(test)]
mod tests {
    use super::super::chain::{Bend, Move};
    use super::super::lens::{Lens, Model};
    use super::super::push::{Push, Warp};
    use super::*;
    use glam::DMat3;
    use std::sync::Arc;

    fn chain() -> Chain {
        let model = Model::BrownConrady { k: [-0.3, 0.1, 0.0], p: [0.002, 0.001] };
        let lens = Lens::new(model, DVec2::new(300.0, 170.0), DVec2::splat(330.0));
        let push = Push {
            from: DVec2::new(200.0, 120.0),
            to: DVec2::new(260.0, 160.0),
            size: DVec2::new(80.0, 50.0),
            lies: 0.4,
            turn: 0.3,
            scale: 1.2,
            softness: 1.0,
        };
        Chain::of([
            Move::Unbend(Bend::Lens(lens)),
            Move::Bend(Bend::Warp(Arc::new(Warp::new(vec![push], vec![])))),
            Move::Bend(Bend::Lens(lens)),
        ])
    }

    #[test]
    fn tiles_are_as_good_as_the_chain() {
        let chain = chain();
        let window = Window::new(-40, -30, 700, 400);
        let field = Field::of(&chain, window);
        let smooth = field.all.iter().filter(|t| matches!(t, Tile::Smooth(_))).count();
        assert!(smooth * 10 > field.all.len() * 6, "{smooth} of {}", field.all.len());
        let (mut worst, mut bent): (f64, f64) = (0.0, 0.0);
        for y in window.rows() {
            let mut row = Row::of(window.width);
            field.row(window.x, y, &mut row);
            for (i, x) in (window.x..window.right() as i32).enumerate() {
                let told = row.at(i);
                let exact = followed(&chain, x, y);
                assert_eq!(told.is_some(), exact.is_some(), "{x} {y}");
                if let (Some((p, s)), Some((q, t))) = (told, exact) {
                    worst = worst.max((p - q).length());
                    bent = bent.max((s - t).to_cols_array().into_iter().fold(0.0, |a, v| v.abs().max(a)));
                }
            }
        }
        assert!(worst < 0.02 && bent < 0.02, "{worst} {bent}");
    }

    #[test]
    fn what_a_window_shows_holds_every_place() {
        let chain = chain();
        let window = Window::new(10, 20, 333, 111);
        let field = Field::of(&chain, window);
        let shows = field.part(window.grown(1000));
        for y in window.rows() {
            let mut row = Row::of(window.width);
            field.row(window.x, y, &mut row);
            for i in 0..window.width as usize {
                if let Some((p, _)) = row.at(i) {
                    assert!(shows.contains(p.x.floor() as i32, p.y.floor() as i32));
                }
            }
        }
    }

    #[test]
    fn far_places_hide_no_near_ones() {
        // At the left edge the picture runs to its horizon: more than a million px to the left, and a push elsewhere.
        let k = (1.0 - 4.2e-5) / 119.5;
        let back = DMat3::from_cols_array(&[1., 0., k, 0., 1., 0., -60., 0., 1.0 - 120.0 * k]);
        let push = Push {
            from: DVec2::new(70.0, 40.0),
            to: DVec2::new(80.0, 45.0),
            size: DVec2::splat(30.0),
            lies: 0.0,
            turn: 0.0,
            scale: 1.0,
            softness: 1.0,
        };
        let warp = Move::Bend(Bend::Warp(Arc::new(Warp::new(vec![push], vec![]))));
        let chain = Chain::of([Move::Homography(back.inverse()), warp]);
        let (window, within) = (Window::new(0, 0, 120, 90), Window::new(-300, -300, 900, 900));
        let field = Field::of(&chain, window);
        let part = field.part(within);
        let mut row = Row::of(window.width);
        let (mut near, mut far) = (0, 0.0f64);
        for y in window.rows() {
            field.row(window.x, y, &mut row);
            for (p, _) in (0..120).filter_map(|i| row.at(i)) {
                far = far.max(p.length());
                if within.contains(p.x.floor() as i32, p.y.floor() as i32) {
                    near += 1;
                    assert!(part.contains(p.x.floor() as i32, p.y.floor() as i32), "{p} {part:?}");
                }
            }
        }
        assert!(near > 1000 && far > 1e6, "{near} {far}");
    }
}
