//! Where a texture lies on what is seen: the UV of each pixel, how fast it changes, and both carried on to the pixels of
//! soft edges whose centres just miss the surface.
//!
//! *Own derivation.* A UV pass holds what one ray through a pixel's centre meets; the picture's own edges are soft. So a
//! pixel that a surface fully covers is *sure*; any other pixel that it covers in part takes the UV of the nearest sure one,
//! carried on along its slope. Where a matte is as hard as an object ID, its edge pixels are taken for covered as a tent over
//! their neighbours says. What is too thin to cover a pixel has to make do with pixels that it covers by half. Slopes are
//! differences to the neighbours on the same surface: across an edge or a seam of the UV nothing is subtracted.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::{IVec2, Mat2, Vec2};

/// How far soft edges are carried on, px: wider than the filter of any renderer in use.
pub const RIM: i32 = 3;

/// How far around an edge is looked for anything between 0 and 1, px.
pub const HARD: i32 = 4;

/// Weights of the tent by distance, squared: middle, side, corner.
const TENT: [f32; 3] = [4.0, 2.0, 1.0];

/// A pixel that is covered by at least this is fully covered: what is less is no rounding.
const FULL: f32 = 0.99;

/// Where a texture lies at a pixel.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spot {
    /// UV at the pixel's centre.
    pub uv: Vec2,
    /// Its change to the next pixel on the right (first column) and below (second column).
    pub slope: Mat2,
    /// How much of the pixel the surface covers.
    pub cover: f32,
    /// The same as a share of what the matte says.
    pub share: f32,
    /// Whether the pixel's own centre meets the surface, as far as is known.
    pub met: bool,
    /// The pixel that it is carried on from: itself where it is sure.
    pub from: IVec2,
    /// Whether the pixel shows nothing else.
    pub sure: bool,
}

/// What is known of a surface. All on one window.
#[derive(Clone, Copy, Debug)]
pub struct Surface<'a> {
    /// UV, two planes.
    pub uv: &'a Raster,
    /// How much of each pixel belongs to what gets the texture.
    pub cover: &'a Raster,
    /// Object IDs, if known: then slopes cross from no object to another.
    pub id: Option<&'a Raster>,
}

impl<'a> Surface<'a> {
    /// Puts what is known together.
    ///
    /// # Errors
    /// Shapes that do not match.
    pub fn new(uv: &'a Raster, cover: &'a Raster, id: Option<&'a Raster>) -> Result<Self, KernelError> {
        uv.expect_channels("UV", 2)?;
        cover.expect_channels("matte", 1)?;
        cover.expect_window("matte", uv.window())?;
        if let Some(id) = id {
            id.expect_channels("object IDs", 1)?;
            id.expect_window("object IDs", uv.window())?;
        }
        Ok(Self { uv, cover, id })
    }

    /// The window of all that is known.
    pub fn window(&self) -> Window {
        self.uv.window()
    }

    #[inline]
    pub(super) fn index(&self, at: IVec2) -> Option<usize> {
        let w = self.window();
        w.contains(at.x, at.y).then(|| (at.y - w.y) as usize * w.width as usize + (at.x - w.x) as usize)
    }

    #[inline]
    fn uv_at(&self, i: usize) -> Vec2 {
        Vec2::new(self.uv.plane(0)[i], self.uv.plane(1)[i])
    }

    #[inline]
    fn id_at(&self, i: usize) -> f32 {
        self.id.map_or(0.0, |id| id.plane(0)[i])
    }

    /// How much of a pixel is covered: what the matte says, but at a hard edge the mean of a 3×3 tent.
    fn covers(&self, at: IVec2, i: usize) -> f32 {
        let own = self.cover.plane(0)[i];
        if own != 0.0 && own != 1.0 {
            return own;
        }
        let (mut sum, mut total, mut differs) = (0f32, 0f32, false);
        for dy in -1..=1 {
            for dx in -1..=1 {
                let Some(j) = self.index(at + IVec2::new(dx, dy)) else { continue };
                let v = self.cover.plane(0)[j];
                let w = TENT[(dx * dx + dy * dy) as usize];
                differs |= v != own;
                sum += v * w;
                total += w;
            }
        }
        if differs && self.is_hard(at) { sum / total } else { own }
    }

    /// Whether a matte is nothing but 0 and 1 all around a pixel: an antialiased one is so only along the grid.
    fn is_hard(&self, at: IVec2) -> bool {
        let around = (-HARD..=HARD).flat_map(|dy| (-HARD..=HARD).map(move |dx| IVec2::new(dx, dy)));
        let mut values = around.filter_map(|d| self.index(at + d)).map(|j| self.cover.plane(0)[j]);
        values.all(|v| v == 0.0 || v == 1.0)
    }

    /// A pixel that shows nothing but the surface, and has a UV.
    #[inline]
    fn is_sure(&self, at: IVec2, i: usize) -> bool {
        self.cover.plane(0)[i] >= FULL && self.has_place(i) && self.covers(at, i) >= FULL
    }

    /// A pixel whose centre most likely meets the surface, and that has a UV.
    #[inline]
    fn is_fair(&self, i: usize) -> bool {
        self.cover.plane(0)[i] >= 0.5 && self.has_place(i)
    }

    /// Renderers write 0 where there is no UV; a pixel that has it by chance is carried on from its neighbours.
    #[inline]
    fn has_place(&self, i: usize) -> bool {
        let uv = self.uv_at(i);
        uv.is_finite() && uv != Vec2::ZERO
    }

    /// Whether two pixels show one object.
    #[inline]
    pub fn same(&self, a: usize, b: usize) -> bool {
        self.id.is_none_or(|id| id.plane(0)[a] == id.plane(0)[b])
    }

    /// Whether two places of the picture show one object, as far as is known.
    pub fn shows_same(&self, a: IVec2, b: IVec2) -> bool {
        self.index(a).zip(self.index(b)).is_none_or(|(a, b)| self.same(a, b))
    }

    /// All pixels that show at least half of the surface, with where the texture lies at each.
    pub fn seen(&self) -> impl Iterator<Item = (IVec2, Spot)> {
        let w = self.window();
        (0..w.area())
            .map(move |i| IVec2::from(w.pixel_at(i)))
            .filter_map(|at| Some((at, self.spot(at).filter(|s| s.cover >= 0.5)?)))
    }

    /// Where the texture lies at a pixel; `None` where the surface is not seen, or too far from where its UV is known.
    pub fn spot(&self, at: IVec2) -> Option<Spot> {
        let i = self.index(at)?;
        let cover = self.covers(at, i);
        if cover.is_nan() || cover <= 0.0 {
            return None;
        }
        let stated = self.cover.plane(0)[i];
        let share = if stated > 0.0 { cover / stated } else { 0.0 };
        if stated >= FULL && cover >= FULL && self.has_place(i) {
            let (uv, slope) = (self.uv_at(i), self.slope(at, i));
            return Some(Spot { uv, slope, cover, share, met: true, from: at, sure: true });
        }
        let sure = self.nearest(at, |p, j| self.is_sure(p, j));
        let (from, f) = sure.or_else(|| self.nearest(at, |_, j| self.is_fair(j)))?;
        let slope = self.slope(from, f);
        // A pixel of the same object whose centre does meet it knows its own place better.
        let own = self.id.is_some() && self.id_at(i) == self.id_at(f) && self.has_place(i);
        let carried = self.uv_at(f) + slope * (at - from).as_vec2();
        let uv = if own { self.uv_at(i) } else { carried };
        let met = own || (self.id.is_none() && self.is_fair(i));
        Some(Spot { uv, slope, cover, share, met, from, sure: false })
    }

    /// The nearest pixel of a kind around one, the upper left one of several.
    fn nearest(&self, at: IVec2, is: impl Fn(IVec2, usize) -> bool) -> Option<(IVec2, usize)> {
        let mut best: Option<(i32, IVec2, usize)> = None;
        for dy in -RIM..=RIM {
            for dx in -RIM..=RIM {
                let far = dx * dx + dy * dy;
                if far > RIM * RIM || best.is_some_and(|(least, ..)| far >= least) {
                    continue;
                }
                let p = at + IVec2::new(dx, dy);
                if let Some(i) = self.index(p).filter(|&i| is(p, i)) {
                    best = Some((far, p, i));
                }
            }
        }
        best.map(|(_, p, i)| (p, i))
    }

    /// How the UV changes about a sure pixel.
    fn slope(&self, at: IVec2, i: usize) -> Mat2 {
        let along = |way: IVec2| {
            let step = |sign: i32| {
                let j = self.index(at + way * sign).filter(|&j| self.same(i, j))?;
                let d = (self.uv_at(j) - self.uv_at(i)) * sign as f32;
                // A step of whole numbers is the seam of a texture that goes round, or from a tile to the next.
                let d = d - d.round();
                (d.is_finite() && self.is_fair(j)).then_some(d)
            };
            match (step(1), step(-1)) {
                (Some(a), Some(b)) => {
                    let (la, lb) = (a.length(), b.length());
                    // A seam, or the edge of another surface, lies on the side that changes far more.
                    if la > 4.0 * lb + 1e-7 {
                        Some(b)
                    } else if lb > 4.0 * la + 1e-7 {
                        Some(a)
                    } else {
                        Some((a + b) * 0.5)
                    }
                }
                (a, b) => a.or(b),
            }
        };
        let (x, y) = (along(IVec2::X), along(IVec2::Y));
        match (x, y) {
            (Some(x), Some(y)) => Mat2::from_cols(x, y),
            // A line one px thin: as fast across as along.
            (Some(x), None) => Mat2::from_cols(x, x.perp()),
            (None, Some(y)) => Mat2::from_cols(-y.perp(), y),
            (None, None) => Mat2::ZERO,
        }
    }
}

/// Where each pixel lies, worked out once: UV (2), slope (4), cover, its share of the matte, offset to the pixel it is carried
/// on from (2), and how it is known; all 0 where there is nothing.
pub const PLANES: usize = 11;

/// How a pixel is known: it shows nothing else, its centre meets the surface, or neither.
const SURE: f32 = 1.0;
const MET: f32 = 0.5;
const CARRIED: f32 = 0.25;

/// Works out [`Surface::spot`] for every pixel.
///
/// # Errors
/// Cancellation.
pub fn spots(surface: &Surface<'_>, cancel: &Cancel) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(surface.window(), PLANES);
    for_each_band(&mut out, cancel, |band| {
        let w = band.window();
        for y in w.rows() {
            let mut rows: [&mut [f32]; PLANES] = band.rows(y);
            for i in 0..w.width as usize {
                let at = IVec2::new(w.x + i as i32, y);
                if let Some(s) = surface.spot(at) {
                    let off = (s.from - at).as_vec2();
                    let [a, b, c, d] = s.slope.to_cols_array();
                    let known = match (s.sure, s.met) {
                        (true, _) => SURE,
                        (_, true) => MET,
                        _ => CARRIED,
                    };
                    let values = [s.uv.x, s.uv.y, a, b, c, d, s.cover, s.share, off.x, off.y, known];
                    rows.iter_mut().zip(values).for_each(|(row, v)| row[i] = v);
                }
            }
        }
    })?;
    Ok(out)
}

/// Whether others may be carried on from a pixel of [`spots`]: it stands for itself.
#[inline]
pub fn is_source(spots: &Raster, i: usize) -> bool {
    spots.plane(6)[i] > 0.0 && spots.plane(8)[i] == 0.0 && spots.plane(9)[i] == 0.0
}

/// A pixel of [`spots`].
#[inline]
pub fn spot_of(spots: &Raster, i: usize, at: IVec2) -> Option<Spot> {
    let v = |c: usize| spots.plane(c)[i];
    let cover = v(6);
    (cover > 0.0).then(|| Spot {
        uv: Vec2::new(v(0), v(1)),
        slope: Mat2::from_cols(Vec2::new(v(2), v(3)), Vec2::new(v(4), v(5))),
        cover,
        share: v(7),
        from: at + IVec2::new(v(8) as i32, v(9) as i32),
        met: v(10) >= MET,
        sure: v(10) == SURE,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    const W: Window = Window::new(-4, 2, 40, 30);

    #[test]
    fn a_hard_edge_is_taken_for_soft() {
        let (uv, _, _) = bed(20.0);
        let cover = Raster::from_fn(W, 1, |_, x, _| if x < 20 { 1.0 } else { 0.0 });
        let surface = Surface::new(&uv, &cover, None).unwrap();
        let spot = |x: i32| surface.spot(IVec2::new(x, 10));
        assert!(spot(18).is_some_and(|s| s.sure && s.cover == 1.0));
        assert!(spot(19).is_some_and(|s| !s.sure && s.cover == 0.75 && s.share == 0.75));
        assert!(spot(20).is_some_and(|s| !s.sure && s.cover == 0.25 && s.share == 0.0));
        assert_eq!(spot(21), None);
    }

    /// UV that runs across a window, with a soft upright edge at `edge`: beyond it lies something else.
    fn bed(edge: f32) -> (Raster, Raster, Raster) {
        let inside = |x: i32| x as f32 + 0.5 < edge;
        let uv = Raster::from_fn(W, 2, |c, x, y| match (inside(x), c) {
            (true, 0) => (x as f32 + 0.5) * 0.01,
            (true, _) => (y as f32 + 0.5) * 0.02,
            _ => -7.0,
        });
        let cover = Raster::from_fn(W, 1, |_, x, _| (edge - x as f32).clamp(0.0, 1.0));
        let id = Raster::from_fn(W, 1, |_, x, _| if inside(x) { 3.0 } else { 4.0 });
        (uv, cover, id)
    }

    #[test]
    fn a_soft_edge_carries_the_uv_on() {
        for (edge, ids) in [(20.3, true), (20.3, false), (20.8, true), (20.8, false)] {
            let (uv, cover, id) = bed(edge);
            let surface = Surface::new(&uv, &cover, ids.then_some(&id)).unwrap();
            let spots = spots(&surface, &Cancel::new()).unwrap();
            for y in W.rows() {
                let at = IVec2::new(20, y);
                let s = spot_of(&spots, surface.index(at).unwrap(), at).unwrap();
                assert!(!s.sure && s.from == IVec2::new(19, y), "{s:?}");
                assert!((s.uv - Vec2::new(0.205, (y as f32 + 0.5) * 0.02)).length() < 1e-6, "{s:?}");
                assert!((s.slope.x_axis - Vec2::new(0.01, 0.0)).length() < 1e-6);
                assert!((s.slope.y_axis - Vec2::new(0.0, 0.02)).length() < 1e-6);
                assert_eq!(surface.spot(IVec2::new(21, y)), None);
            }
        }
    }

    #[test]
    fn no_slope_crosses_a_seam() {
        // Once round in 16 px, and a jump to another part of the texture at x = 8.
        let uv = Raster::from_fn(W, 2, |c, x, _| match c {
            0 => (x as f32 / 16.0).rem_euclid(1.0),
            _ => {
                if x < 8 {
                    0.1
                } else {
                    0.4
                }
            }
        });
        let cover = Raster::filled(W, 1, 1.0);
        let surface = Surface::new(&uv, &cover, None).unwrap();
        for x in W.x..W.right() as i32 {
            let s = surface.spot(IVec2::new(x, 10)).unwrap();
            assert!((s.slope.x_axis - Vec2::new(1.0 / 16.0, 0.0)).length() < 1e-6, "{x}: {s:?}");
        }
    }

    #[test]
    fn what_is_no_number_is_no_place() {
        let uv = Raster::from_fn(W, 2, |_, x, _| if x < 10 { 0.3 } else { f32::NAN });
        let cover = Raster::from_fn(W, 1, |_, _, y| if y < 8 { 1.0 } else { f32::NAN });
        let surface = Surface::new(&uv, &cover, None).unwrap();
        assert!(surface.spot(IVec2::new(9, 5)).is_some_and(|s| s.sure));
        assert_eq!(surface.spot(IVec2::new(30, 5)), None);
        assert_eq!(surface.spot(IVec2::new(3, 20)), None);
    }
}
