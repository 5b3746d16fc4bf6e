//! The flat texture: a part of UV with what lies on it, and which of it is seen in the picture.

use super::placing::Placing;
use super::pyramid::Pyramid;
use super::surface::Spot;
use crate::{Raster, Window};
use glam::{Mat2, UVec2, Vec2};

/// Longest side of a part that is shown, UV. What repeats more often is shown about its middle.
const WIDEST: f32 = 8.0;

/// Room around what is seen, as a share of it.
const ROOM: f32 = 0.06;

/// A part whose sides are less alike than this is grown.
const SLIMMEST: f32 = 0.5;

/// A part of UV: u to the right, v upward.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Span {
    /// The least u and v.
    pub low: Vec2,
    /// The largest.
    pub high: Vec2,
}

impl Span {
    /// The unit square.
    pub const UNIT: Self = Self { low: Vec2::ZERO, high: Vec2::ONE };

    /// Its width and height, UV.
    pub fn size(&self) -> Vec2 {
        self.high - self.low
    }

    /// What is seen of a surface with some room around it, and the unit square where that is not much more.
    pub fn of(seen: &[Spot]) -> Self {
        let (mut low, mut high) = (Vec2::INFINITY, Vec2::NEG_INFINITY);
        for s in seen {
            (low, high) = (low.min(s.uv), high.max(s.uv));
        }
        if !(low.is_finite() && high.is_finite()) {
            return Self::UNIT;
        }
        if low.min_element() >= -1.0 && high.max_element() <= 2.0 {
            (low, high) = (low.min(Vec2::ZERO), high.max(Vec2::ONE));
        }
        let (middle, size) = ((low + high) * 0.5, (high - low) * (1.0 + 2.0 * ROOM));
        let size = size.min(Vec2::splat(WIDEST)).max(Vec2::splat(1e-4));
        let half = size.max(Vec2::splat(size.max_element() * SLIMMEST)) * 0.5;
        Self { low: middle - half, high: middle + half }
    }

    /// Its size as a picture whose longer side has so many px.
    pub fn sized(&self, longest: u32) -> UVec2 {
        let size = self.size();
        (size / size.max_element() * longest as f32).round().as_uvec2().max(UVec2::ONE)
    }
}

/// Samples along a side of what a pixel sees, at most: what is seen from so near is shown with gaps.
const CLOSEST: f32 = 96.0;

/// Samples of all pixels together, at most, however wild the UV is.
const SAMPLES: f32 = 4e7;

/// Which pixels of a picture of a part of UV are seen.
fn shown(span: &Span, size: UVec2, seen: &[Spot]) -> Vec<bool> {
    let scale = size.as_vec2() / span.size() * Vec2::new(1.0, -1.0);
    let corner = Vec2::new(span.low.x, span.high.y);
    let most = (SAMPLES / seen.len().max(1) as f32).sqrt().clamp(1.0, CLOSEST);
    let mut all = vec![false; (size.x * size.y) as usize];
    for s in seen {
        let (at, sides) = ((s.uv - corner) * scale, Mat2::from_diagonal(scale) * s.slope);
        let count = |side: Vec2| (side.abs().max_element() * 1.5 + 1.0).clamp(1.0, most) as u32;
        let (m, n) = (count(sides.x_axis), count(sides.y_axis));
        for k in 0..m * n {
            let share = Vec2::new((k % m) as f32 + 0.5, (k / m) as f32 + 0.5) / Vec2::new(m as f32, n as f32);
            let p = (at + sides * (share - 0.5)).floor();
            if p.cmpge(Vec2::ZERO).all() && p.cmplt(size.as_vec2()).all() {
                all[p.y as usize * size.x as usize + p.x as usize] = true;
            }
        }
    }
    all
}

/// Two greys behind what is transparent, px along a side of their squares, and how much is left of what is not seen.
const BEHIND: [f32; 2] = [0.06, 0.09];
const SQUARE: u32 = 8;
const UNSEEN: f32 = 0.22;

/// The part of UV with a texture on it, RGBA, opaque, linear: as it is where it is seen, and dark elsewhere.
pub fn draw(texture: &Pyramid<'_>, placing: &Placing, span: &Span, size: UVec2, seen: &[Spot]) -> Raster {
    let shown = shown(span, size, seen);
    let step = span.size() / size.as_vec2() * Vec2::new(1.0, -1.0);
    let corner = Vec2::new(span.low.x, span.high.y);
    let window = Window::of_size(size.x, size.y);
    let mut out = Raster::zeros(window, 4);
    for (i, shown) in shown.iter().enumerate() {
        let (x, y) = (i as u32 % size.x, i as u32 / size.x);
        let uv = corner + (Vec2::new(x as f32, y as f32) + 0.5) * step;
        let [r, g, b, a] = placing.read(texture, uv, Mat2::from_diagonal(step));
        let behind = BEHIND[((x / SQUARE + y / SQUARE) % 2) as usize] * (1.0 - a).max(0.0);
        let left = if *shown { 1.0 } else { UNSEEN };
        for (c, v) in [r, g, b].into_iter().enumerate() {
            out.plane_mut(c)[i] = (v + behind) * left;
        }
        out.plane_mut(3)[i] = 1.0;
    }
    out
}

#[cfg(test)]
mod tests {
    use super::super::pyramid::{Beyond, stacked};
    use super::super::surface::Surface;
    use super::*;
    use crate::Cancel;

    /// A card that fills a picture, whose UV runs from `low` to `high`.
    fn card(low: Vec2, high: Vec2) -> Vec<Spot> {
        let w = Window::of_size(40, 30);
        let at = |x: f32, y: f32| {
            Vec2::new(low.x + (high.x - low.x) * x / 40.0, high.y - (high.y - low.y) * y / 30.0)
        };
        let uv = Raster::from_fn(w, 2, |c, x, y| at(x as f32 + 0.5, y as f32 + 0.5).to_array()[c]);
        let cover = Raster::filled(w, 1, 1.0);
        Surface::new(&uv, &cover, None).unwrap().seen().map(|(_, spot)| spot).collect()
    }

    #[test]
    fn a_part_holds_what_is_seen() {
        assert_eq!(Span::of(&[]), Span::UNIT);
        let near = Span::of(&card(Vec2::splat(0.2), Vec2::splat(0.7)));
        assert!(near.low.max_element() < 0.0 && near.high.min_element() > 1.0, "{near:?}");
        let far = Span::of(&card(Vec2::new(5.0, 3.0), Vec2::new(7.0, 3.5)));
        assert!(far.low.x < 5.05 && far.high.x > 6.95 && far.low.x > 4.0, "{far:?}");
        assert!(far.size().y >= far.size().x * SLIMMEST * 0.999, "{far:?}");
        let often = Span::of(&card(Vec2::ZERO, Vec2::splat(100.0)));
        assert!((often.size() - WIDEST).abs().max_element() < 1e-3, "{often:?}");
    }

    #[test]
    fn what_is_seen_is_bright_and_lies_where_its_uv_is() {
        // Red to the right, green downward in the texture.
        let picture = Raster::from_fn(Window::of_size(64, 64), 4, |c, x, y| match c {
            0 => x as f32 / 63.0,
            1 => y as f32 / 63.0,
            2 => 0.0,
            _ => 1.0,
        });
        let sizes = stacked(&picture, &Cancel::new()).unwrap();
        let texture = Pyramid::of(&sizes, picture.window(), Beyond::Nothing);
        let placing = Placing::new(Vec2::splat(0.5), Vec2::ONE, 0.0, 1.0);
        // The right half of the unit square, from v = ¼ to ¾.
        let seen = card(Vec2::new(0.5, 0.25), Vec2::new(1.0, 0.75));
        let flat = draw(&texture, &placing, &Span::UNIT, UVec2::splat(100), &seen);
        let of = |x: i32, y: i32| [0, 1].map(|c| flat.sample(c, x, y).unwrap());
        let [r, g] = of(75, 50);
        assert!((r - 0.755).abs() < 0.02 && (g - 0.505).abs() < 0.02, "{r} {g}");
        let [r, g] = of(25, 50);
        assert!((r - 0.255 * UNSEEN).abs() < 0.01 && (g - 0.505 * UNSEEN).abs() < 0.01, "{r} {g}");
        assert!(of(75, 10)[0] < 0.3, "above what is seen");
        let whole = (50..100).flat_map(|x| (26..74).map(move |y| (x, y))).all(|(x, y)| of(x, y)[0] > 0.4);
        assert!(whole, "no gaps in what is seen");
    }
}
