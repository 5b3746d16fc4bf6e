//! A frame as it is compared: one plane, compressed so that a lamp in the picture weighs no more than the rest, at several
//! sizes.

use super::quad::{Quad, ends};
use crate::colour::brightness::compressed;
use crate::colour::luminance;
use crate::geometry::taps::{Cubic, Weights};
use crate::raster::scale::average;
use crate::raster::soften::softened;
use crate::{Cancel, Cancelled, KernelError, Raster, Scale, Window};
use glam::DVec2;

/// Levels at most: each half as large as the one before.
pub(super) const LEVELS: u8 = 6;

/// Softened by this before anything is compared (twice its standard deviation, px), so that slopes hold between pixels and
/// grain counts less.
const SOFT: f32 = 1.6;

/// A frame at several sizes, the largest first.
pub(super) struct Plate {
    /// Before it was softened.
    raw: Raster,
    levels: Vec<Raster>,
}

impl Plate {
    /// A picture, RGB or RGBA; one plane is taken as it is. `shines` is the luminance that becomes a half.
    pub fn of(picture: &Raster, shines: f32, cancel: &Cancel) -> Result<Self, Cancelled> {
        let tone = compressed(picture, shines, cancel)?;
        let smooth = stopped(softened(&tone, SOFT, cancel))?;
        let mut levels = Vec::new();
        for n in 1..LEVELS {
            let Some(scale) = Scale::halved(n) else { break };
            if smooth.window().width >> n < 8 || smooth.window().height >> n < 8 {
                break;
            }
            levels.push(average(&smooth, scale, cancel)?);
        }
        levels.insert(0, smooth);
        Ok(Self { raw: tone, levels })
    }

    /// Standard deviation of the grain in a window, before it was softened: from differences that no slope and no edge along a
    /// row or column has (Immerkær 1996), by their middle, so that texture counts little.
    pub fn grain(&self, window: Window) -> f64 {
        let w = window.intersect(&self.raw.window());
        let at = |x: i32, y: i32| self.raw.sample(0, x, y);
        let mut all = Vec::new();
        for y in w.y + 1..(w.bottom() as i32 - 1) {
            for x in w.x + 1..(w.right() as i32 - 1) {
                let row = |y: i32| Some(at(x - 1, y)? - 2.0 * at(x, y)? + at(x + 1, y)?);
                if let (Some(a), Some(b), Some(c)) = (row(y - 1), row(y), row(y + 1)) {
                    all.push((a - 2.0 * b + c).abs());
                }
            }
        }
        let middle = all.len() / 2;
        if all.is_empty() {
            return 0.0;
        }
        f64::from(*all.select_nth_unstable_by(middle, f32::total_cmp).1) / (0.6745 * 6.0)
    }

    /// How many sizes there are.
    pub fn levels(&self) -> usize {
        self.levels.len()
    }

    /// A level.
    pub fn level(&self, level: usize) -> Level<'_> {
        let raster = &self.levels[level.min(self.levels.len() - 1)];
        let w = raster.window();
        Level { plane: raster.plane(0), window: w, step: f64::from(1u32 << level.min(self.levels.len() - 1)) }
    }
}

/// The rasters here have the windows and channels that they are asked for with.
fn stopped<T>(made: Result<T, KernelError>) -> Result<T, Cancelled> {
    made.map_err(|_| Cancelled)
}

/// One size of a frame.
#[derive(Clone, Copy)]
pub(super) struct Level<'a> {
    plane: &'a [f32],
    /// Px of this size.
    pub window: Window,
    /// Full-resolution px for one of these.
    pub step: f64,
}

impl Level<'_> {
    fn at(&self, x: i32, y: i32) -> f32 {
        self.plane[(y - self.window.y) as usize * self.window.width as usize + (x - self.window.x) as usize]
    }

    /// The value at a place, full-resolution px, by Catmull & Rom's cubic (1974); `None` less than two px from the edge.
    pub fn read(&self, place: DVec2) -> Option<f32> {
        let p = place / self.step - 0.5;
        let (x, y) = (p.x.floor(), p.y.floor());
        let w = self.window;
        let inside = x >= f64::from(w.x) + 1.0
            && y >= f64::from(w.y) + 1.0
            && x < w.right() as f64 - 2.0
            && y < w.bottom() as f64 - 2.0;
        if !inside {
            return None;
        }
        let (kx, ky) = (Cubic::at((p.x - x) as f32), Cubic::at((p.y - y) as f32));
        let (x, y) = (x as i32, y as i32);
        let mut sum = 0.0;
        for (j, ky) in ky.iter().enumerate() {
            let row = |i: i32| self.at(x - 1 + i, y - 1 + j as i32);
            sum += ky * (kx[0] * row(0) + kx[1] * row(1) + kx[2] * row(2) + kx[3] * row(3));
        }
        Some(sum)
    }

    /// The slope at a pixel, for each full-resolution px; `None` at the edge.
    pub fn slope(&self, x: i32, y: i32) -> Option<[f32; 2]> {
        let w = self.window;
        let inside = |dx: i32, dy: i32| w.contains(x + dx, y + dy);
        if !inside(-2, -2) || !inside(2, 2) {
            return None;
        }
        // Exact for quartics (the fourth-order central difference, Fornberg 1988, table 1).
        let of = |f: &dyn Fn(i32) -> f32| (8.0 * (f(1) - f(-1)) - (f(2) - f(-2))) / (12.0 * self.step as f32);
        Some([of(&|d| self.at(x + d, y)), of(&|d| self.at(x, y + d))])
    }

    /// The value of a pixel.
    pub fn pixel(&self, x: i32, y: i32) -> f32 {
        self.at(x, y)
    }
}

/// The middle luminance in the box of a region: what is brighter is compressed more.
pub(super) fn middle(picture: &Raster, corners: &Quad) -> f32 {
    let [low, high] = ends(corners);
    let w = Window::around(low, high, picture.window());
    let mut all = Vec::new();
    let stride = (w.area() / 10_000).max(1);
    for i in (0..w.area()).step_by(stride) {
        let (x, y) = w.pixel_at(i);
        let value = |c: usize| picture.sample(c, x, y).unwrap_or(0.0);
        let v = if picture.channels() >= 3 { luminance([value(0), value(1), value(2)]) } else { value(0) };
        if v.is_finite() && v > 0.0 {
            all.push(v);
        }
    }
    all.sort_unstable_by(f32::total_cmp);
    all.get(all.len() / 2).copied().unwrap_or(1.0).clamp(1e-6, 1e6)
}
