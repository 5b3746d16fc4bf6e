//! A texture at every size, and its mean over what a pixel sees of it.
//!
//! *Own derivation on* Williams 1983 (pyramids) and Heckbert 1989 (what a pixel sees of a texture is the image of the pixel,
//! here the parallelogram of its two sides). The mean over that parallelogram is taken with a grid of samples on the level
//! whose texels are about as large as the grid is wide, so that each texel is met once: as even as a box over the pixel, and
//! as cheap for a texture that is far away as for one that is near.

use crate::{Cancel, KernelError, Raster, Window};
use glam::{Mat2, Vec2, Vec4};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What lies beyond the texture's own square.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Beyond {
    /// Nothing: the surface stays as it was.
    #[default]
    Nothing,
    /// The same again.
    Tiles,
    /// The same, turned over each time.
    Mirrored,
    /// The texture's border, drawn out.
    Border,
}

impl Beyond {
    /// The texel that stands for one beyond a side of `count` texels.
    #[inline]
    fn texel(self, i: i64, count: i64) -> Option<i64> {
        if (0..count).contains(&i) {
            return Some(i);
        }
        match self {
            Self::Nothing => None,
            Self::Tiles => Some(i.rem_euclid(count)),
            Self::Mirrored => {
                let at = i.rem_euclid(2 * count);
                Some(at.min(2 * count - 1 - at))
            }
            Self::Border => Some(i.clamp(0, count - 1)),
        }
    }
}

/// One size of the texture: where it starts, in texels, and its sides.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Level {
    start: usize,
    width: usize,
    height: usize,
}

/// Sizes of a texture, each half as large as the one before, down to one texel.
fn levels(window: Window) -> Vec<Level> {
    let mut level = Level { start: 0, width: window.width as usize, height: window.height as usize };
    let mut all = vec![level];
    while level.width > 1 || level.height > 1 {
        level = Level {
            start: level.start + level.width * level.height,
            width: level.width.div_ceil(2),
            height: level.height.div_ceil(2),
        };
        all.push(level);
    }
    all
}

/// All sizes of a picture (RGBA, linear, premultiplied), one below the other: a texel in each row, its four samples side by
/// side, since they are always read together. Keep it for as long as the picture is the same.
///
/// # Errors
/// Not four channels; cancellation.
pub fn stacked(picture: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    picture.expect_channels("texture", 4)?;
    let all = levels(picture.window());
    let last = all.last().map_or(0, |l| l.start + l.width * l.height);
    let mut data = vec![0f32; last * 4];
    for c in 0..4 {
        data.iter_mut().skip(c).step_by(4).zip(picture.plane(c)).for_each(|(to, v)| *to = *v);
    }
    for pair in all.windows(2) {
        cancel.check()?;
        let (done, rest) = data.split_at_mut(pair[1].start * 4);
        halve(&done[pair[0].start * 4..], pair[0], rest, pair[1]);
    }
    Ok(Raster::from_planar(Window::of_size(4, last as u32), 1, data)?)
}

/// Means over as much of the larger level as a texel of the smaller one covers; an odd side is shared out evenly.
fn halve(from: &[f32], large: Level, into: &mut [f32], small: Level) {
    let share = |from: usize, to: usize| {
        let wide = from as f32 / to as f32;
        move |i: usize| {
            let (low, high) = (i as f32 * wide, (i + 1) as f32 * wide);
            (low as usize..(high.ceil() as usize).min(from)).map(move |j| {
                let covered = (high.min(j as f32 + 1.0) - low.max(j as f32)).max(0.0);
                (j, covered / wide)
            })
        }
    };
    let (across, down) = (share(large.width, small.width), share(large.height, small.height));
    for y in 0..small.height {
        for x in 0..small.width {
            let mut sum = Vec4::ZERO;
            for (j, wy) in down(y) {
                for (i, wx) in across(x) {
                    sum += texel_at(from, j * large.width + i) * (wx * wy);
                }
            }
            into[(y * small.width + x) * 4..][..4].copy_from_slice(&sum.to_array());
        }
    }
}

#[inline]
fn texel_at(data: &[f32], i: usize) -> Vec4 {
    data.get(i * 4..i * 4 + 4).map_or(Vec4::ZERO, Vec4::from_slice)
}

/// Most samples along a side of what a pixel sees; what is longer is read from smaller sizes.
const MOST: f32 = 16.0;

/// A texture at every size, ready to be read.
#[derive(Debug)]
pub struct Pyramid<'a> {
    data: &'a [f32],
    levels: Vec<Level>,
    beyond: Beyond,
}

impl<'a> Pyramid<'a> {
    /// Reads what [`stacked`] made of a picture on this window.
    pub fn of(stacked: &'a Raster, picture: Window, beyond: Beyond) -> Self {
        Self { data: stacked.data(), levels: levels(picture), beyond }
    }

    /// Mean over the parallelogram about a place of texture space, whose sides are the columns of `sides`: RGBA, premultiplied.
    pub fn mean(&self, at: Vec2, sides: Mat2) -> [f32; 4] {
        let Some(base) = self.levels.first() else { return [0.0; 4] };
        let size = Vec2::new(base.width as f32, base.height as f32);
        let (a, b) = (sides.x_axis * size, sides.y_axis * size);
        if !(at.is_finite() && a.is_finite() && b.is_finite()) {
            return [0.0; 4];
        }
        let (long, short) = (a.length(), b.length());
        // How thin it is, too: two long sides that nearly agree see a narrow band.
        let thin = a.perp_dot(b).abs() / long.max(short).max(1e-12);
        let fine = long.min(short).min(thin).max(long.max(short) / MOST).max(1.0);
        // A sample for every texel and a half or less of the level that is chosen.
        let level = (fine / 2.0).max(1.0).log2().floor() as usize;
        let level = level.min(self.levels.len() - 1);
        let shrink = (1 << level) as f32;
        let count = |side: f32| (side / shrink).ceil().clamp(1.0, 2.0 * MOST) as i32;
        let (m, n) = (count(long), count(short));
        let mut sum = Vec4::ZERO;
        for j in 0..n {
            let along_b = sides.y_axis * ((j as f32 + 0.5) / n as f32 - 0.5);
            for i in 0..m {
                let along_a = sides.x_axis * ((i as f32 + 0.5) / m as f32 - 0.5);
                sum += self.between(level, at + along_a + along_b);
            }
        }
        (sum / (m * n) as f32).to_array()
    }

    /// Straight between the four texels about a place.
    #[inline]
    fn between(&self, level: usize, at: Vec2) -> Vec4 {
        let l = self.levels[level];
        let place = at * Vec2::new(l.width as f32, l.height as f32) - 0.5;
        let low = place.floor();
        let f = place - low;
        let (x, y) = (low.x as i64, low.y as i64);
        let top = self.texel(l, x, y).lerp(self.texel(l, x + 1, y), f.x);
        let bottom = self.texel(l, x, y + 1).lerp(self.texel(l, x + 1, y + 1), f.x);
        top.lerp(bottom, f.y)
    }

    #[inline]
    fn texel(&self, l: Level, x: i64, y: i64) -> Vec4 {
        let (w, h) = (l.width as i64, l.height as i64);
        match (self.beyond.texel(x, w), self.beyond.texel(y, h)) {
            (Some(x), Some(y)) => texel_at(self.data, l.start + (y * w + x) as usize),
            _ => Vec4::ZERO,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(picture: &Raster, beyond: Beyond, at: Vec2, sides: Mat2) -> [f32; 4] {
        let stacked = stacked(picture, &Cancel::new()).unwrap();
        Pyramid::of(&stacked, picture.window(), beyond).mean(at, sides)
    }

    fn ramp(width: u32, height: u32) -> Raster {
        Raster::from_fn(Window::of_size(width, height), 4, |c, x, y| match c {
            0 => (x as f32 + 0.5) / width as f32,
            1 => (y as f32 + 0.5) / height as f32,
            2 => 0.25,
            _ => 1.0,
        })
    }

    #[test]
    fn every_size_has_the_mean_of_the_whole() {
        for (w, h) in [(1, 1), (7, 5), (64, 16), (33, 2)] {
            let all = stacked(&ramp(w, h), &Cancel::new()).unwrap();
            let last = &all.data()[all.data().len() - 4..];
            for (v, want) in last.iter().zip([0.5, 0.5, 0.25, 1.0]) {
                assert!((v - want).abs() < 1e-5, "{w}×{h}: {last:?}");
            }
        }
    }

    #[test]
    fn a_ramp_is_read_where_it_is_however_large_the_pixel() {
        for side in [1e-4f32, 0.01, 0.05, 0.3] {
            for turn in [0.0f32, 0.6, 1.3] {
                let sides = Mat2::from_angle(turn) * side;
                let at = Vec2::new(0.47, 0.55);
                let [u, v, b, a] = read(&ramp(128, 96), Beyond::Nothing, at, sides);
                assert!((u - at.x).abs() < 2e-3 && (v - at.y).abs() < 2e-3, "{side} {turn}: {u} {v}");
                assert!((b - 0.25).abs() < 1e-5 && (a - 1.0).abs() < 1e-5);
            }
        }
    }

    #[test]
    fn what_is_finer_than_a_pixel_is_grey() {
        let checks =
            Raster::from_fn(
                Window::of_size(256, 256),
                4,
                |c, x, y| {
                    if c == 3 { 1.0 } else { ((x + y) % 2) as f32 }
                },
            );
        // From eight texels a pixel on, straight and slanting, wide and narrow.
        for (a, b) in [(8.0, 8.0), (40.0, 9.0), (120.0, 30.0)] {
            for turn in [0.0f32, 0.37, 0.7] {
                let sides = Mat2::from_angle(turn) * Mat2::from_diagonal(Vec2::new(a, b) / 256.0);
                for at in [Vec2::new(0.5, 0.5), Vec2::new(0.501, 0.4993)] {
                    let v = read(&checks, Beyond::Tiles, at, sides)[0];
                    assert!((v - 0.5).abs() < 0.03, "{a}×{b} {turn}: {v}");
                }
            }
        }
    }

    #[test]
    fn beyond_the_border() {
        let p = ramp(8, 8);
        let at = |beyond, x: f32| read(&p, beyond, Vec2::new(x, 0.5), Mat2::ZERO);
        assert_eq!(at(Beyond::Nothing, 1.2)[3], 0.0);
        assert!((at(Beyond::Nothing, 1.0)[3] - 0.5).abs() < 1e-5, "the border itself is half covered");
        assert!((at(Beyond::Tiles, 1.2)[0] - at(Beyond::Nothing, 0.2)[0]).abs() < 1e-5);
        assert!((at(Beyond::Mirrored, 1.2)[0] - at(Beyond::Nothing, 0.8)[0]).abs() < 1e-5);
        assert!((at(Beyond::Mirrored, -1.2)[0] - at(Beyond::Nothing, 0.8)[0]).abs() < 1e-5);
        assert!((at(Beyond::Border, 3.0)[0] - 7.5 / 8.0).abs() < 1e-5);
        assert_eq!(at(Beyond::Tiles, f32::NAN), [0.0; 4]);
        assert_eq!(read(&p, Beyond::Tiles, Vec2::ZERO, Mat2::from_diagonal(Vec2::INFINITY)), [0.0; 4]);
    }
}
