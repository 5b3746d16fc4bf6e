//! Where a place of a texture is seen in the picture.

use super::placing::Placing;
use super::surface::Surface;
use glam::{IVec2, Mat2, Vec2};

/// Cells of the table along a side of the texture's square.
const CELLS: i32 = 48;

/// The middle of the square.
pub const MIDDLE: Vec2 = Vec2::splat(0.5);

/// How far beyond the square places are kept, in its sides.
const BEYOND: f32 = 0.5;

struct Seen {
    pixel: IVec2,
    /// Its place of texture space, and what a px changes of it.
    place: Vec2,
    slope: Mat2,
}

impl Seen {
    /// The pixel's centre, px.
    fn at(&self) -> Vec2 {
        self.pixel.as_vec2() + 0.5
    }
}

/// All pixels that see a texture's square or what is near it, by where in the texture they lie.
pub struct Sight {
    /// Width of the picture, px.
    wide: f32,
    seen: Vec<Seen>,
    cells: Vec<Vec<u32>>,
}

fn cell(place: Vec2) -> Option<IVec2> {
    let c = ((place + BEYOND) / (1.0 + 2.0 * BEYOND) * CELLS as f32).floor().as_ivec2();
    (c.min_element() >= 0 && c.max_element() < CELLS).then_some(c)
}

fn nearest(seen: &[Seen], place: Vec2) -> Option<&Seen> {
    let far = |s: &&Seen| s.place.distance_squared(place);
    seen.iter().min_by(|a, b| far(a).total_cmp(&far(b)))
}

impl Sight {
    /// Looks at a whole surface once; of several objects, if they are known and `one` is wanted, at the one whose pixels see
    /// the texture's middle best.
    pub fn of(surface: &Surface<'_>, placing: &Placing, one: bool) -> Self {
        let w = surface.window();
        let mut seen = Vec::new();
        for (pixel, spot) in surface.seen() {
            let place = placing.of_uv(spot.uv);
            if cell(place).is_some() {
                seen.push(Seen { pixel, place, slope: placing.slope(spot.slope) });
            }
        }
        let middle = nearest(&seen, MIDDLE).filter(|_| one).map(|s| s.pixel);
        seen.retain(|s| middle.is_none_or(|m| surface.shows_same(m, s.pixel)));
        let mut cells = vec![Vec::new(); (CELLS * CELLS) as usize];
        for (c, i) in seen.iter().zip(0..).filter_map(|(s, i)| Some((cell(s.place)?, i))) {
            cells[(c.y * CELLS + c.x) as usize].push(i);
        }
        Self { wide: w.width as f32, seen, cells }
    }

    /// Where a place of texture space is seen, px; `None` if it is hidden or out of the picture. Of several the one nearest to
    /// `near`, or the surest.
    pub fn find(&self, place: Vec2, near: Option<Vec2>) -> Option<Vec2> {
        let c = cell(place)?;
        let mut best: Option<(f32, Vec2)> = None;
        for dy in -1..=1 {
            for dx in -1..=1 {
                let n = c + IVec2::new(dx, dy);
                if n.min_element() < 0 || n.max_element() >= CELLS {
                    continue;
                }
                for s in self.cells[(n.y * CELLS + n.x) as usize].iter().map(|&i| &self.seen[i as usize]) {
                    if s.slope.determinant().abs() < 1e-20 {
                        continue;
                    }
                    let off = s.slope.inverse() * (place - s.place);
                    let far = off.abs().max_element();
                    let rank = near.map_or(far, |n| n.distance_squared(s.at() + off));
                    if far <= 1.0 && best.is_none_or(|(least, _)| rank < least) {
                        best = Some((rank, s.at() + off));
                    }
                }
            }
        }
        best.map(|(_, at)| at)
    }

    /// The seen pixel whose place is nearest, px; `None` if nothing near the square is seen.
    pub fn nearest(&self, place: Vec2) -> Option<Vec2> {
        nearest(&self.seen, place).map(Seen::at)
    }

    /// A straight line of texture space as it is seen: each run of it that is not hidden, px; of several the one that begins
    /// nearest to `near`.
    pub fn line(&self, from: Vec2, to: Vec2, steps: u32, mut near: Option<Vec2>) -> Vec<Vec<Vec2>> {
        let mut runs: Vec<Vec<Vec2>> = Vec::new();
        let mut open = false;
        // A line that jumps is seen on two things.
        let apart = self.wide * 0.06;
        for k in 0..=steps {
            let at = self.find(from.lerp(to, k as f32 / steps.max(1) as f32), near);
            near = at.or(near);
            let close =
                |run: &&mut Vec<Vec2>| at.zip(run.last()).is_some_and(|(a, b)| a.distance(*b) < apart);
            match (at, runs.last_mut().filter(|_| open).filter(close)) {
                (Some(at), Some(run)) => run.push(at),
                (Some(at), None) => runs.push(vec![at]),
                (None, _) => {}
            }
            open = at.is_some();
        }
        runs.retain(|run| run.len() > 1);
        runs
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Raster, Window};

    #[test]
    fn places_are_found_where_they_are_seen() {
        let w = Window::of_size(80, 60);
        // A slanting card, hidden on the right.
        let uv = Raster::from_fn(w, 2, |c, x, y| {
            let (x, y) = (x as f32 + 0.5, y as f32 + 0.5);
            if c == 0 { 0.012 * x + 0.003 * y } else { 1.0 - 0.015 * y }
        });
        let cover = Raster::from_fn(w, 1, |_, x, _| if x < 50 { 1.0 } else { 0.0 });
        let surface = Surface::new(&uv, &cover, None).unwrap();
        let placing = Placing::new(Vec2::splat(0.5), Vec2::ONE, 0.0, 1.0);
        let sight = Sight::of(&surface, &placing, false);
        // u = 0.3, v = 0.7 is texture (0.3, 0.3): y = 20, x = 20.
        assert!((sight.find(Vec2::new(0.3, 0.3), None).unwrap() - Vec2::splat(20.0)).length() < 0.01);
        assert_eq!(sight.find(Vec2::new(0.95, 0.3), None), None);
        assert!(sight.nearest(Vec2::new(0.95, 0.3)).is_some_and(|at| at.x > 48.0));
        let across = sight.line(Vec2::new(0.0, 0.3), Vec2::new(1.0, 0.3), 50, None);
        assert_eq!(across.len(), 1);
        assert!(across[0].iter().all(|p| (p.y - 20.0).abs() < 0.01 && p.x < 51.0), "{across:?}");
    }
}
