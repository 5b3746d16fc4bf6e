//! A pixel that shows two surfaces, taken apart by its colour.
//!
//! *Own derivation.* A pixel of a rim is `cover · near + (1 − cover) · far`. Both colours are those of the pixels beside the
//! rim, known as well as those agree with each other, so that for each cover the pixel's colour has a mean and a spread:
//! how well it fits says how likely that cover is. What the passes around tell (a straight edge through the pixel) is right
//! within a half, and weighs in beforehand. The cover is the mean of all that are likely: where a texture runs up to
//! the edge, or both sides look alike, the shape decides; against nothing, alpha does.

/// Spread of what the shape alone says, squared: evenly within a half.
const SHAPE: f32 = 0.5 * 0.5 / 3.0;

/// Share of its value by which any colour may be off, and what may be off anyway.
const GRAIN: [f32; 2] = [0.02, 2e-3];

/// How much each channel says: colours go together, and are about as good as one and a half.
const SAYS: [f32; 4] = [0.5, 0.5, 0.5, 1.0];

/// A share of a pixel that nobody sees.
const CRUMB: f32 = 2e-3;

/// Covers that are weighed, evenly from none to all.
const COVERS: usize = 17;

/// The pixels of a square around one of a plane of `size` px, by their place in it, with how far off they are, squared.
#[inline(always)]
pub(crate) fn square(size: [i32; 2], [x, y]: [i32; 2], reach: i32) -> impl Iterator<Item = (usize, i32)> {
    let [width, height] = size;
    let rows = (y - reach).max(0)..(y + reach + 1).min(height);
    rows.flat_map(move |row| {
        let columns = (x - reach).max(0)..(x + reach + 1).min(width);
        columns.map(move |column| {
            let (dx, dy) = (column - x, row - y);
            ((row * width + column) as usize, dx * dx + dy * dy)
        })
    })
}

/// Share of the near side around a pixel by a tent of three: what a straight edge would cover.
pub(crate) fn near_share(size: [i32; 2], at: [i32; 2], is_near: impl Fn(usize) -> bool) -> f32 {
    let (mut share, mut all) = (0.0, 0.0);
    for (j, far) in square(size, at, 1) {
        let weight = [4.0, 2.0, 1.0][far as usize];
        all += weight;
        share += if is_near(j) { weight } else { 0.0 };
    }
    share / all
}

/// One side of a rim: sums over its pixels, and the nearest of them.
#[derive(Clone, Copy, Debug)]
struct Side<const N: usize> {
    sum: [f32; N],
    squares: [f32; N],
    weight: f32,
    nearest: Option<(i32, usize)>,
}

impl<const N: usize> Side<N> {
    const NONE: Self = Self { sum: [0.0; N], squares: [0.0; N], weight: 0.0, nearest: None };

    fn add(&mut self, values: [f32; N], at: usize, far: i32) {
        let weight = 1.0 / (1 + far) as f32;
        for (c, v) in values.into_iter().enumerate() {
            self.sum[c] += v * weight;
            self.squares[c] += v * v * weight;
        }
        self.weight += weight;
        if self.nearest.is_none_or(|(d, _)| far < d) {
            self.nearest = Some((far, at));
        }
    }
}

/// What the pixels around one show of the two surfaces that meet there: values of `N` planes, RGBA first.
pub(crate) struct Around<const N: usize> {
    /// Near and far side, each of pixels that are no rim themselves and of those that are.
    sides: [[Side<N>; 2]; 2],
}

/// One side as it is seen around a pixel.
pub(crate) struct Seen<const N: usize> {
    /// Means of the planes, the pixels weighted by 1 ÷ (1 + distance²).
    pub mean: [f32; N],
    /// Squared spread of the planes.
    spread: [f32; N],
    /// The nearest pixel of that side.
    pub at: usize,
}

impl<const N: usize> Seen<N> {
    /// Its colour.
    pub fn colour(&self) -> [f32; 4] {
        std::array::from_fn(|c| self.mean[c])
    }
}

impl<const N: usize> Around<N> {
    pub fn new() -> Self {
        Self { sides: [[Side::NONE; 2]; 2] }
    }

    /// Takes in a pixel, `far` px² off: whether it is of the near side, and whether it is a rim itself.
    pub fn add(&mut self, (is_near, is_rim): (bool, bool), values: [f32; N], at: usize, far: i32) {
        self.sides[usize::from(!is_near)][usize::from(is_rim)].add(values, at, far);
    }

    /// The near and the far side, if there are both. Something thinner than its own rims has no pixel of its own colour:
    /// the rims have to do.
    pub fn both(&self) -> Option<[Seen<N>; 2]> {
        let seen = |[inner, rim]: &[Side<N>; 2]| {
            let of = if inner.weight > 0.0 { inner } else { rim };
            let (_, at) = [inner.nearest, rim.nearest].into_iter().flatten().min()?;
            let mean = of.sum.map(|v| v / of.weight);
            let spread = std::array::from_fn(|c| (of.squares[c] / of.weight - mean[c] * mean[c]).max(0.0));
            Some(Seen { mean, spread, at })
        };
        Some([seen(&self.sides[0])?, seen(&self.sides[1])?])
    }
}

/// How much of a pixel the near side covers, and what it leaves of it when the far side's colour behind it is taken away,
/// premultiplied. Both over each other give the pixel again: what is off the line between them stays with the near side.
pub(crate) fn parted<const N: usize>(
    pixel: [f32; 4],
    [near, far]: &[Seen<N>; 2],
    by_shape: f32,
) -> (f32, [f32; 4]) {
    let cover = covered(pixel, [near, far], by_shape);
    (cover, std::array::from_fn(|k| (pixel[k] - (1.0 - cover) * far.mean[k]).max(0.0)))
}

fn covered<const N: usize>(pixel: [f32; 4], [near, far]: [&Seen<N>; 2], by_shape: f32) -> f32 {
    // Twice the negative logarithm of how likely each cover is: what is off, and how wide it may be off.
    let mut off = [0.0f32; COVERS];
    let mut wide = [0.0f32; COVERS];
    let cover = |k: usize| k as f32 / (COVERS - 1) as f32;
    for (c, says) in SAYS.into_iter().enumerate() {
        let [f, b] = [near.mean[c], far.mean[c]];
        let grain = GRAIN[0] * f.abs().max(b.abs()) + GRAIN[1];
        for k in 0..COVERS {
            let (t, u) = (cover(k), 1.0 - cover(k));
            let spread = t * t * near.spread[c] + u * u * far.spread[c] + grain * grain;
            off[k] += says * (pixel[c] - t * f - u * b).powi(2) / spread;
            wide[k] += says * spread.ln();
        }
    }
    // Where no cover fits, the colours say the less.
    let best = off.iter().copied().fold(f32::INFINITY, f32::min);
    let trust = 1.0 / (1.0 + 0.5 * best);
    let unlikely: [f32; COVERS] =
        std::array::from_fn(|k| trust * (off[k] + wide[k]) + (cover(k) - by_shape).powi(2) / SHAPE);
    let least = unlikely.iter().copied().fold(f32::INFINITY, f32::min);
    let (mut sum, mut all) = (0.0, 0.0);
    for (k, v) in unlikely.into_iter().enumerate() {
        let likely = (-0.5 * (v - least)).exp();
        sum += likely * cover(k);
        all += likely;
    }
    // A colour that is no number says nothing.
    let cover = if all > 0.0 { sum / all } else { by_shape };
    // What is as good as all or nothing is: a crumb would only make a seam.
    if cover > 1.0 - CRUMB {
        1.0
    } else if cover < CRUMB {
        0.0
    } else {
        cover
    }
}
