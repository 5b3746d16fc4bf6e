//! Proxies: rasters at ½ⁿ of their size.
//!
//! Colour, alpha and coverage are averaged; depth, normals, IDs, UV and positions are *picked*, since
//! the average of two depths across an edge is a depth where nothing is.

use crate::raster::bands::{Cancel, Cancelled, for_each_band};
use crate::{Raster, Window};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// The coarsest scale, ½⁶: an 8K picture at 120 px, smaller than any tile in the interface.
pub const MAX_HALVINGS: u8 = 6;

/// A scale of ½ⁿ.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, JsonSchema, TS,
)]
#[serde(try_from = "u8", into = "u8")]
#[schemars(with = "Halvings")]
#[ts(type = "number")]
pub struct Scale(u8);

/// How a scale stands in a file.
#[derive(JsonSchema)]
#[schemars(transparent)]
struct Halvings(
    #[allow(dead_code)]
    #[schemars(range(max = 6))]
    u8,
);

impl TryFrom<u8> for Scale {
    type Error = String;

    fn try_from(n: u8) -> Result<Self, String> {
        Self::halved(n).ok_or_else(|| format!("a size is halved at most {MAX_HALVINGS} times, not {n} times"))
    }
}

impl From<Scale> for u8 {
    fn from(scale: Scale) -> Self {
        scale.0
    }
}

impl Scale {
    /// Full resolution.
    pub const FULL: Self = Self(0);

    /// ½ⁿ, or `None` above [`MAX_HALVINGS`].
    pub const fn halved(n: u8) -> Option<Self> {
        if n <= MAX_HALVINGS { Some(Self(n)) } else { None }
    }

    /// The finest scale at which a full-resolution window is at most `width` px wide; the coarsest if none is.
    pub fn at_most(full: Window, width: u32) -> Self {
        let fits = |s: &Self| s.window(full).width <= width;
        (0..=MAX_HALVINGS).map(Self).find(fits).unwrap_or(Self(MAX_HALVINGS))
    }

    /// How often the size was halved.
    pub const fn halvings(self) -> u8 {
        self.0
    }

    /// Full-resolution px per px at this scale.
    pub const fn step(self) -> i32 {
        1 << self.0
    }

    /// A full-resolution length in px at this scale.
    pub fn length(self, px: f32) -> f32 {
        px / self.step() as f32
    }

    /// The smallest window at this scale that covers a full-resolution window.
    pub fn window(self, full: Window) -> Window {
        let n = self.0;
        let up = |v: i64| (v + i64::from(self.step()) - 1) >> n;
        if full.is_empty() {
            return Window::new(full.x >> n, full.y >> n, 0, 0);
        }
        Window::from_edges(
            i64::from(full.x) >> n,
            i64::from(full.y) >> n,
            up(full.right()),
            up(full.bottom()),
        )
    }

    /// The full-resolution pixel whose sample stands for column or row `i` of picked data.
    pub const fn picked(self, i: i32) -> i32 {
        if self.0 == 0 { i } else { i * self.step() + self.step() / 2 }
    }
}

/// Averages each block of 2ⁿ × 2ⁿ px: for colour (premultiplied), alpha and mattes. Pixels outside the
/// data window count as transparent, so an edge that falls inside a block fades instead of growing.
///
/// # Errors
/// [`Cancelled`] if nobody waits for the picture any more.
pub fn average(full: &Raster, scale: Scale, cancel: &Cancel) -> Result<Raster, Cancelled> {
    if scale == Scale::FULL {
        return Ok(full.clone());
    }
    let window = scale.window(full.window());
    let (step, source) = (scale.step(), full.window());
    let weight = 1.0 / (step * step) as f32;
    let mut out = Raster::zeros(window, full.channels());
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let block = Window::from_edges(
                source.x.into(),
                i64::from(y) * i64::from(step),
                source.right(),
                i64::from(y + 1) * i64::from(step),
            );
            for (c, sums) in band.every_row(y).into_iter().enumerate() {
                for sy in block.intersect(&source).rows() {
                    for (sx, v) in (source.x..).zip(full.row(c, sy)) {
                        sums[((sx >> scale.halvings()) - window.x) as usize] += v;
                    }
                }
                sums.iter_mut().for_each(|v| *v *= weight);
            }
        }
    })?;
    Ok(out)
}

/// Picks the sample nearest the middle of each block (see [`Scale::picked`]), held inside the data
/// window at its borders: for depth, normals, positions, UV and IDs.
///
/// # Errors
/// [`Cancelled`] if nobody waits for the picture any more.
pub fn pick(full: &Raster, scale: Scale, cancel: &Cancel) -> Result<Raster, Cancelled> {
    if scale == Scale::FULL || full.window().is_empty() {
        return Ok(full.cropped(scale.window(full.window()), 0.0));
    }
    let source = full.window();
    let hold = |v: i32, low: i32, n: u32| v.clamp(low, low + n as i32 - 1);
    let mut out = Raster::zeros(scale.window(source), full.channels());
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let left = band.window().x;
            let sy = hold(scale.picked(y), source.y, source.height);
            for (c, to) in band.every_row(y).into_iter().enumerate() {
                let from = full.row(c, sy);
                for (x, v) in (left..).zip(to) {
                    *v = from[(hold(scale.picked(x), source.x, source.width) - source.x) as usize];
                }
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    const HALF: Scale = Scale(1);

    #[test]
    fn the_finest_scale_that_fits_is_found() {
        let at_most = |width| Scale::at_most(Window::of_size(1000, 10), width).halvings();
        assert_eq!([at_most(1000), at_most(999), at_most(250), at_most(1)], [0, 1, 2, MAX_HALVINGS]);
    }

    #[test]
    fn windows_shrink_outwards() {
        assert_eq!(HALF.window(Window::new(-3, 1, 7, 4)), Window::new(-2, 0, 4, 3));
        assert_eq!(Scale(2).window(Window::of_size(1920, 1080)), Window::of_size(480, 270));
        assert_eq!(Scale::FULL.window(Window::new(5, 6, 7, 8)), Window::new(5, 6, 7, 8));
    }

    #[test]
    fn colour_averages_and_fades_at_an_odd_border() {
        let r = Raster::from_fn(Window::of_size(3, 2), 1, |_, x, _| x as f32);
        assert_eq!(
            average(&r, HALF, &Cancel::new()).unwrap().plane(0),
            [0.5, 1.0],
            "the last block is half outside"
        );
    }

    #[test]
    fn blocks_are_the_same_however_many_bands_there_are() {
        // Higher than several bands, with a data window that no block fits.
        let full =
            Raster::from_fn(Window::new(-5, 3, 37, 301), 2, |c, x, y| (x * 3 + y * 7 + c as i32) as f32);
        for n in 1..4 {
            let (scale, step) = (Scale(n), 1 << n);
            let small = average(&full, scale, &Cancel::new()).unwrap();
            let picked = pick(&full, scale, &Cancel::new()).unwrap();
            assert_eq!(small.window(), scale.window(full.window()));
            for y in small.window().rows() {
                for x in small.window().x..small.window().right() as i32 {
                    let block = (0..step * step).map(|i| (x * step + i % step, y * step + i / step));
                    let sum: f32 = block.filter_map(|(x, y)| full.sample(1, x, y)).sum();
                    assert_eq!(small.sample(1, x, y), Some(sum / (step * step) as f32), "{x}, {y} at ½^{n}");
                    let at = |v: i32, low: i32, end: i64| scale.picked(v).clamp(low, end as i32 - 1);
                    let (w, right, bottom) = (full.window(), full.window().right(), full.window().bottom());
                    let wanted = full.sample(0, at(x, w.x, right), at(y, w.y, bottom));
                    assert_eq!(picked.sample(0, x, y), wanted, "{x}, {y} at ½^{n}");
                }
            }
        }
    }

    #[test]
    fn nobody_waits_for_what_was_given_up() {
        let (full, cancel) = (Raster::zeros(Window::of_size(64, 64), 1), Cancel::new());
        cancel.cancel();
        assert_eq!(average(&full, HALF, &cancel), Err(Cancelled));
        assert_eq!(pick(&full, HALF, &cancel), Err(Cancelled));
    }

    #[test]
    fn data_is_picked_never_mixed() {
        let r = Raster::from_fn(Window::of_size(4, 4), 1, |_, x, _| if x < 2 { 1.0 } else { f32::INFINITY });
        assert_eq!(
            pick(&r, HALF, &Cancel::new()).unwrap().plane(0),
            [1.0, f32::INFINITY, 1.0, f32::INFINITY]
        );
        let odd = Raster::from_fn(Window::of_size(3, 1), 1, |_, x, _| x as f32);
        assert_eq!(pick(&odd, HALF, &Cancel::new()).unwrap().plane(0), [1.0, 2.0]);
    }
}
