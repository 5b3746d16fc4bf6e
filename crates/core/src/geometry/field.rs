//! Where each pixel of a window comes from. *Own derivation.*
//!
//! A projective map is followed for each pixel. A bend is followed at 4×4 places of a tile of 16×16 pixels, and between them
//! runs the bicubic through these; where that is farther than [`CLOSE`] from the chain at the places between, or where the
//! chain bends over less than a tile, each pixel is followed. Tiles lie on one grid for every window, so that a picture in
//! pieces is the picture in one.

use super::chain::{Chain, MOST_SHRINK};
use crate::Window;
use glam::{DMat2, DVec2};
use rayon::prelude::*;

/// How far the bicubic may lie from the chain, px of the picture before.
pub const CLOSE: f64 = 0.005;

/// Px along a side of a tile.
const TILE: i32 = 16;

/// Where the places of a tile lie that are followed: pixel centres.
const NODES: [f64; 4] = [0.0, 5.0, 10.0, 15.0];

/// A place and its slope.
pub type Sloped = (DVec2, DMat2);

enum Tile {
    /// Places at 4×4 nodes.
    Smooth([[DVec2; 4]; 4]),
    /// Each pixel by itself.
    Each,
    /// Nothing is seen.
    Empty,
}

/// Where the pixels of a window come from.
pub struct Field<'a> {
    chain: &'a Chain,
    tiles: Window,
    all: Vec<Tile>,
}

impl<'a> Field<'a> {
    /// The field of a chain over a window, px of the chain's scale.
    pub fn of(chain: &'a Chain, window: Window) -> Self {
        if chain.is_projective() || window.is_empty() {
            return Self { chain, tiles: Window::default(), all: Vec::new() };
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
        Self { chain, tiles, all }
    }

    /// Where a pixel's centre comes from, with its slope.
    pub fn at(&self, x: i32, y: i32) -> Option<Sloped> {
        let mut one = [None];
        self.row(x, y, &mut one);
        one[0]
    }

    /// Where pixels of a row come from, from a column on.
    pub fn row(&self, left: i32, y: i32, into: &mut [Option<Sloped>]) {
        if self.all.is_empty() {
            for (x, to) in (left..).zip(into) {
                *to = followed(self.chain, x, y);
            }
            return;
        }
        let mut rest = into;
        let mut x = left;
        while !rest.is_empty() {
            let tx = x.div_euclid(TILE);
            let count = ((tx + 1) * TILE - x).min(rest.len() as i32) as usize;
            let (own, after) = rest.split_at_mut(count);
            self.row_of_tile((tx, y.div_euclid(TILE)), (x, y), own);
            rest = after;
            x += count as i32;
        }
    }

    fn row_of_tile(&self, (tx, ty): (i32, i32), (left, y): (i32, i32), into: &mut [Option<Sloped>]) {
        let tile = if self.tiles.contains(tx, ty) {
            &self.all[(ty - self.tiles.y) as usize * self.tiles.width as usize + (tx - self.tiles.x) as usize]
        } else {
            &Tile::Each
        };
        match tile {
            Tile::Empty => into.fill(None),
            Tile::Each => {
                for (x, to) in (left..).zip(into) {
                    *to = followed(self.chain, x, y);
                }
            }
            Tile::Smooth(nodes) => {
                let (weights, slopes) = lagrange(f64::from(y - ty * TILE));
                let at = |w: &[f64; 4]| {
                    let p = |i: usize| (0..4).fold(DVec2::ZERO, |sum, j| sum + nodes[j][i] * w[j]);
                    polynomial([p(0), p(1), p(2), p(3)])
                };
                let (along, down) = (at(&weights), at(&slopes));
                for (x, to) in (left - tx * TILE..).zip(into) {
                    let u = f64::from(x);
                    let place = ((along[3] * u + along[2]) * u + along[1]) * u + along[0];
                    let across = (along[3] * (3.0 * u) + along[2] * 2.0) * u + along[1];
                    let down = ((down[3] * u + down[2]) * u + down[1]) * u + down[0];
                    *to = Some((place, DMat2::from_cols(across, down)));
                }
            }
        }
    }

    /// A window that holds all places, and what is stretched there.
    pub fn shows(&self) -> Window {
        let mut low = DVec2::INFINITY;
        let mut high = DVec2::NEG_INFINITY;
        let mut see = |p: DVec2, room: f64| {
            low = low.min(p - room);
            high = high.max(p + room);
        };
        for (i, tile) in self.all.iter().enumerate() {
            match tile {
                Tile::Empty => {}
                Tile::Smooth(nodes) => {
                    let all = nodes.iter().flatten();
                    let (l, h) =
                        all.fold((DVec2::INFINITY, DVec2::NEG_INFINITY), |(l, h), p| (l.min(*p), h.max(*p)));
                    // Between its nodes a bicubic stays within this share of their spread; a footprint is part of it.
                    let room = (h - l).max_element();
                    see(l, room);
                    see(h, room);
                }
                Tile::Each => {
                    let (tx, ty) = self.tiles.pixel_at(i);
                    for y in (ty * TILE..(ty + 1) * TILE).step_by(EACH) {
                        for x in (tx * TILE..(tx + 1) * TILE).step_by(EACH) {
                            if let Some((p, slope)) = followed(self.chain, x, y) {
                                let s = slope.x_axis.abs() + slope.y_axis.abs();
                                see(
                                    p,
                                    s.max_element().min(MOST_SHRINK)
                                        * (EACH as f64 + self.chain.kernel.radius()),
                                );
                            }
                        }
                    }
                }
            }
        }
        if !(low.is_finite() && high.is_finite()) {
            return Window::default();
        }
        let most = 1e6;
        let (low, high) = (low.floor().clamp(DVec2::splat(-most), DVec2::splat(most)), high.ceil());
        let high = high.clamp(DVec2::splat(-most), DVec2::splat(most));
        Window::from_edges(low.x as i64, low.y as i64, high.x as i64, high.y as i64)
    }
}

/// Where pixels are followed one by one, every so many are looked at for what a window shows.
const EACH: usize = 1;

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
    if close { Tile::Smooth(nodes) } else { Tile::Each }
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
            let mut row = vec![None; window.width as usize];
            field.row(window.x, y, &mut row);
            for (x, told) in (window.x..).zip(row) {
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
        let shows = field.shows();
        for y in window.rows() {
            for x in window.x..window.right() as i32 {
                if let Some((p, _)) = field.at(x, y) {
                    assert!(shows.contains(p.x.floor() as i32, p.y.floor() as i32));
                }
            }
        }
    }
}
