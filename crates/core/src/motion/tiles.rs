//! Which motions may bring something to a part of the picture: what lies far away and moves fast has to be looked for
//! there, too (tiles as McGuire, Hennessy, Bukowski & Osman 2012 have them, with several motions each instead of the
//! longest).

use super::open::Open;
use super::sheets::{Sheet, Sheets};
use crate::Window;
use glam::Vec2;
use rayon::prelude::*;

/// Side of a tile, px.
pub(super) const SIDE: u32 = 16;

/// Motions that are kept of a tile.
const OF_TILE: usize = 8;

/// Motions that are followed at a pixel.
const FOLLOWED: usize = 16;

/// Motions that may bring something to each tile.
pub(super) struct Tiles {
    pub across: usize,
    /// For each tile, what is to be followed.
    pub tiles: Vec<Tile>,
}

/// What may come by in a tile.
pub(super) struct Tile {
    /// Motions that may bring something to it.
    pub follow: Vec<Vec2>,
    /// Whether all that comes by is one surface, or surfaces whose motion passes into each other.
    pub calm: bool,
}

/// Motions of a tile that stand for all in it.
#[derive(Clone, Default)]
struct Own {
    motions: Vec<Vec2>,
    /// Whether motion jumps in it: then what is thin must be met exactly.
    rims: bool,
}

/// Adds a motion that no other stands for within a length, px over the shutter; the list is full if it cannot be.
fn add(list: &mut Vec<Vec2>, motion: Vec2, within: f32, span: f32, most: usize) -> bool {
    let limit = (within / span).powi(2);
    if list.iter().any(|m| m.distance_squared(motion) <= limit) {
        return true;
    }
    if list.len() < most {
        list.push(motion);
    }
    list.len() < most
}

impl Tiles {
    pub fn of(sheets: &Sheets, open: Open) -> Self {
        let w = sheets.front.window;
        let (across, down) = (w.width.div_ceil(SIDE) as usize, w.height.div_ceil(SIDE) as usize);
        let span = open.span();
        let own: Vec<Own> = (0..across * down)
            .into_par_iter()
            .map(|t| own(sheets, tile(w, t % across, t / across), span))
            .collect();
        let longest = own.iter().flat_map(|o| &o.motions).fold(0.0f32, |a, m| a.max(m.length()));
        let reach = (longest * span / SIDE as f32).ceil() as usize + 1;
        let tiles = (0..across * down)
            .into_par_iter()
            .map(|t| {
                let (x, y) = (t % across, t / across);
                let mut within = 1.0;
                loop {
                    if let Some(found) = gathered(&own, [across, down], [x, y], reach, open, within) {
                        break found;
                    }
                    within *= 2.0;
                }
            })
            .collect();
        Self { across, tiles }
    }
}

/// The pixels of a tile.
pub(super) fn tile(of: Window, x: usize, y: usize) -> Window {
    let side = SIDE as i32;
    Window::new(of.x + x as i32 * side, of.y + y as i32 * side, SIDE, SIDE).intersect(&of)
}

/// The motions that stand for those of a tile, in front and behind.
fn own(sheets: &Sheets, tile: Window, span: f32) -> Own {
    let w = sheets.front.window;
    let indices = || {
        tile.rows().flat_map(move |y| {
            let start = (y - w.y) as usize * w.width as usize + (tile.x - w.x) as usize;
            start..start + tile.width as usize
        })
    };
    let rims = indices().any(|i| sheets.rims[i]);
    let layers: Vec<&Sheet> = std::iter::once(&sheets.front).chain(&sheets.back).collect();
    let mut within = 0.75;
    loop {
        let mut motions = Vec::new();
        let fits = layers.iter().all(|layer| {
            indices().map(|i| &layer.spots[i]).filter(|s| s.cover > 0.0).all(|s| {
                // Within one surface the way is found from near by.
                let near = if rims { within } else { within + 0.1 * s.motion.length() * span };
                add(&mut motions, s.motion, near, span, OF_TILE + 1)
            })
        });
        if fits {
            return Own { motions, rims };
        }
        within *= 2.0;
    }
}

/// The motions of all tiles around that may bring something to one; none if these are more than can be followed.
fn gathered(
    own: &[Own],
    [across, down]: [usize; 2],
    [x, y]: [usize; 2],
    reach: usize,
    open: Open,
    within: f32,
) -> Option<Tile> {
    let (mut found, mut calm) = (Vec::new(), true);
    // What lies in the tile itself comes first: it is met most often.
    for m in &own[y * across + x].motions {
        if !add(&mut found, *m, within * 0.75, open.span(), FOLLOWED + 1) {
            return None;
        }
    }
    for row in y.saturating_sub(reach)..(y + reach + 1).min(down) {
        for column in x.saturating_sub(reach)..(x + reach + 1).min(across) {
            let from = &own[row * across + column];
            let apart = Vec2::new(column as f32 - x as f32, row as f32 - y as f32) * SIDE as f32;
            let beside = row.abs_diff(y) < 2 && column.abs_diff(x) < 2;
            calm &= !(beside && from.rims);
            for m in from.motions.iter().filter(|m| meets(apart, **m, open)) {
                calm &= !from.rims;
                let near = if from.rims { 0.75 } else { 0.75 + 0.1 * m.length() * open.span() };
                if !add(&mut found, *m, within * near, open.span(), FOLLOWED + 1) {
                    return None;
                }
            }
        }
    }
    Some(Tile { follow: found, calm })
}

/// Whether what lies in a tile that is `apart` from one comes to it while the shutter is open.
fn meets(apart: Vec2, motion: Vec2, open: Open) -> bool {
    // Two squares meet if their middles come within a side of each other on both axes, and a little more for rims.
    let near = SIDE as f32 + 2.0;
    let mut when = [open.opens, open.closes];
    for axis in 0..2 {
        let (from, speed) = (apart[axis], motion[axis]);
        if speed.abs() < 1e-6 {
            if from.abs() > near {
                return false;
            }
            continue;
        }
        let (a, b) = ((-near - from) / speed, (near - from) / speed);
        when = [when[0].max(a.min(b)), when[1].min(a.max(b))];
    }
    when[0] <= when[1]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_passes_a_tile_while_the_shutter_is_open_is_met() {
        let open = Open { opens: -0.25, closes: 0.25 };
        assert!(meets(Vec2::new(0.0, 0.0), Vec2::ZERO, open));
        assert!(!meets(Vec2::new(48.0, 0.0), Vec2::ZERO, open));
        // 160 px to the left in a frame: 40 within the half of the shutter after it.
        assert!(meets(Vec2::new(48.0, 0.0), Vec2::new(-160.0, 0.0), open));
        assert!(meets(Vec2::new(-48.0, 0.0), Vec2::new(-160.0, 0.0), open), "it came from there before");
        assert!(!meets(Vec2::new(80.0, 0.0), Vec2::new(-160.0, 0.0), open));
        assert!(!meets(Vec2::new(48.0, 48.0), Vec2::new(-160.0, 0.0), open), "it passes by");
    }

    #[test]
    fn motions_that_are_nearly_alike_stand_for_each_other() {
        let mut list = Vec::new();
        assert!(add(&mut list, Vec2::new(10.0, 0.0), 1.0, 0.5, 3));
        assert!(add(&mut list, Vec2::new(11.9, 0.0), 1.0, 0.5, 3) && list.len() == 1);
        assert!(add(&mut list, Vec2::new(12.1, 0.0), 1.0, 0.5, 3) && list.len() == 2);
        assert!(!add(&mut list, Vec2::new(0.0, 9.0), 1.0, 0.5, 3) && list.len() == 3);
    }
}
