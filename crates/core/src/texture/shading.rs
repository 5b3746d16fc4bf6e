//! The light that a surface is seen in, apart from its colour and its gloss.
//!
//! What is seen is `albedo · light + gloss`. A diffuse pass is `albedo · light` alone; without one the picture stands for it,
//! and gloss is told from it by its colour (Shafer 1985: what a surface mirrors has the colour of the light, what comes back
//! from within has its own), as far as the albedo has any.
//!
//! *Own derivation* of the rest. Where the albedo is plain, light is what is seen ÷ albedo, to the last grain. At the edges of
//! the old texture the picture is soft and the albedo pass (one ray a pixel) is not, and the quotient would leave a ghost of
//! the old texture: there the light is the mean over the plain pixels around. Near such edges a pixel may also hold a speck
//! that its one ray missed: what is far brighter or darker than all around takes their middle. A channel of dark albedo says
//! little of its light; it leans on the other channels ([`DARK`]), since light is seldom strongly coloured.

use super::colour_at;
use super::surface::{self, Surface};
use crate::raster::bands::for_each_band;
use crate::raster::blur::boxed;
use crate::{Cancel, KernelError, Raster};
use glam::{IVec2, Vec2, Vec3};

/// How far the light is looked for around an edge of the old texture, px.
pub const AROUND: i32 = 5;

/// Width of the mean over the pixels around an edge, px.
const NEAR: f32 = 1.5;

/// Share of plain pixels around from which on they say all.
const FEW_PLAIN: f32 = 0.08;

/// How far around a pixel near an edge others are compared with it, px.
const BESIDE: i32 = 2;

/// How far all of it looks, px.
pub const REACH: i32 = AROUND + AROUND + 1;

/// Albedo below which a channel leans on the others.
const DARK: f32 = 0.012;

/// Change of albedo from a pixel to the next, as a share of it, at which the pixel no longer counts as plain.
const PLAIN: f32 = 0.12;

/// An albedo that is no smaller than this for a surface that shows no colour of its own (metal).
const GREY: f32 = 0.5;

/// How strongly light may be coloured, one channel against another: a warm lamp, or its shadow under a blue sky. What would
/// need a more coloured light than that is gloss on a surface of another colour.
const COLOURED: f32 = 1.5;

/// How much brighter or darker than most around it a pixel near an edge may be.
const APART: f32 = 1.15;

/// Light on each pixel that others are carried on from (three planes: what would be seen of a white surface), and the gloss that lies over it (one plane,
/// as bright in all channels). `seen` is the diffuse pass or
/// the picture (its first three planes), `albedo` has three; `gloss` is whether gloss may be in what is seen. `spots` are those
/// of [`super::surface::spots`]. Looks
/// [`REACH`] px around.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn light(
    seen: &Raster,
    albedo: &Raster,
    gloss: bool,
    (surface, spots): (&Surface<'_>, &Raster),
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    albedo.expect_channels("albedo", 3)?;
    albedo.expect_window("albedo", surface.window())?;
    seen.expect_window("picture", surface.window())?;
    spots.expect_window("places on the surface", surface.window())?;
    let at = Lit { seen, albedo, gloss, surface, spots };
    let own = at.each(5, cancel, |p, i| at.own(p, i))?;
    let near = at.near_edges(&own, cancel)?;
    let calm = at.each(5, cancel, |p, i| if near(i) { at.calmed(&own, p, i) } else { px(&own, i) })?;
    at.each(4, cancel, |p, i| at.carried(&calm, p, i))
}

struct Lit<'a> {
    seen: &'a Raster,
    albedo: &'a Raster,
    gloss: bool,
    surface: &'a Surface<'a>,
    spots: &'a Raster,
}

/// Light, gloss and how plain the albedo is.
type Px = [f32; 5];

#[inline]
fn px(raster: &Raster, i: usize) -> Px {
    std::array::from_fn(|c| raster.plane(c)[i])
}

/// From here on a pixel counts as plain.
const IS_PLAIN: f32 = 0.5;

/// Least squares of a plane to light and gloss around a pixel: light changes over a curved surface, and a mean would flatten
/// it. Its slope is held back a little, so that few pixels on one side lead to no wild guess.
#[derive(Default)]
struct Plane {
    weight: f32,
    place: Vec2,
    /// xx, xy, yy.
    square: [f32; 3],
    value: [f32; 4],
    product: [Vec2; 4],
}

/// How much the slope of light is held back, px².
const CALM: f32 = 0.3;

impl Plane {
    fn add(&mut self, at: Vec2, values: Px, w: f32) {
        self.weight += w;
        self.place += at * w;
        self.square[0] += at.x * at.x * w;
        self.square[1] += at.x * at.y * w;
        self.square[2] += at.y * at.y * w;
        for ((sum, product), v) in self.value.iter_mut().zip(&mut self.product).zip(values) {
            *sum += v * w;
            *product += at * (v * w);
        }
    }

    /// The plane at the pixel itself; `None` without any weight.
    fn middle(&self) -> Option<[f32; 4]> {
        if self.weight <= 0.0 {
            return None;
        }
        let k = 1.0 / self.weight;
        let m = self.place * k;
        let [xx, xy, yy] = self.square.map(|v| v * k);
        let (xx, xy, yy) = (xx - m.x * m.x + CALM, xy - m.x * m.y, yy - m.y * m.y + CALM);
        let det = xx * yy - xy * xy;
        Some(std::array::from_fn(|c| {
            let mean = self.value[c] * k;
            let p = self.product[c] * k - m * mean;
            let slope = Vec2::new(p.x * yy - p.y * xy, p.y * xx - p.x * xy) / det;
            // Light does not go below nothing, nor above what a few times the mean would be.
            (mean - slope.dot(m)).clamp(0.25 * mean, 4.0 * mean)
        }))
    }
}

impl Lit<'_> {
    /// Works out some planes for each sure pixel.
    fn each(
        &self,
        planes: usize,
        cancel: &Cancel,
        of: impl Fn(IVec2, usize) -> Px + Sync,
    ) -> Result<Raster, KernelError> {
        let mut out = Raster::zeros(self.surface.window(), planes);
        let width = self.surface.window().width as usize;
        for_each_band(&mut out, cancel, |band| {
            let w = band.window();
            for y in w.rows() {
                let start = (y - self.surface.window().y) as usize * width;
                let mut rows = band.every_row(y);
                for i in (0..width).filter(|i| self.sure(start + i)) {
                    let values = of(IVec2::new(w.x + i as i32, y), start + i);
                    rows.iter_mut().zip(values).for_each(|(row, v)| row[i] = v);
                }
            }
        })?;
        Ok(out)
    }

    fn sure(&self, i: usize) -> bool {
        surface::is_source(self.spots, i)
            && colour_at(self.albedo, i).is_finite()
            && colour_at(self.seen, i).is_finite()
    }

    /// The sure pixels of the same object around one, with the way to each.
    #[inline]
    fn around(&self, at: IVec2, i: usize, reach: i32) -> impl Iterator<Item = (IVec2, usize)> {
        let offsets = (-reach..=reach).flat_map(move |dy| (-reach..=reach).map(move |dx| IVec2::new(dx, dy)));
        offsets.filter_map(move |d| {
            let j = self.surface.index(at + d)?;
            (self.surface.same(i, j) && self.sure(j)).then_some((d, j))
        })
    }

    /// Where there may be an edge of the old texture within [`AROUND`] px: most of a picture is far from any.
    fn near_edges(
        &self,
        own: &Raster,
        cancel: &Cancel,
    ) -> Result<impl Fn(usize) -> bool + Sync, KernelError> {
        let edge = |i: usize| f32::from(u8::from(own.plane(4)[i] < IS_PLAIN && self.sure(i)));
        let edges: Vec<f32> = (0..own.window().area()).map(edge).collect();
        let share = boxed(&Raster::from_planar(own.window(), 1, edges)?, (AROUND + 1) as f32, cancel)?;
        // A single pixel is more than twice this.
        let least = 0.5 / ((2 * AROUND + 3) * (2 * AROUND + 3)) as f32;
        Ok(move |i: usize| share.plane(0)[i] > least)
    }

    /// What a pixel says by itself.
    fn own(&self, at: IVec2, i: usize) -> Px {
        let (seen, albedo) = (colour_at(self.seen, i), colour_at(self.albedo, i));
        let gloss = self.gloss(seen, albedo);
        let e = self.leaning(seen - gloss, albedo);
        let most = self
            .around(at, i, 1)
            .map(|(_, j)| (colour_at(self.albedo, j) - albedo).abs().max_element())
            .fold(0.0, f32::max);
        let share = most / (PLAIN * albedo.max_element() + 1e-4);
        [e.x, e.y, e.z, gloss, 1.0 / (1.0 + share.powi(4))]
    }

    /// The least gloss without which the light on a pixel would be more strongly coloured than [`COLOURED`].
    fn gloss(&self, seen: Vec3, albedo: Vec3) -> f32 {
        if !self.gloss {
            return 0.0;
        }
        let lit = albedo.max(Vec3::splat(1e-4));
        let mut least = 0f32;
        for (i, j) in [(0, 1), (0, 2), (1, 0), (1, 2), (2, 0), (2, 1)] {
            let (one, most) = (1.0 / lit[i], COLOURED / lit[j]);
            if one > most {
                least = least.max((seen[i] * one - seen[j] * most) / (one - most));
            }
        }
        least.clamp(0.0, seen.min_element().max(0.0))
    }

    /// What is seen ÷ albedo, each channel leaning on all of them.
    fn leaning(&self, seen: Vec3, albedo: Vec3) -> Vec3 {
        let few = DARK * DARK;
        // A surface without any colour of its own is taken for a grey one.
        let grey = seen.element_sum() / (3.0 * GREY);
        let all = (seen.dot(albedo) + few * grey) / (albedo.length_squared() + few);
        ((seen * albedo + Vec3::splat(few * all)) / (albedo * albedo + few)).max(Vec3::ZERO)
    }

    /// The same, where an edge of the old texture is near held to what most around it say.
    fn calmed(&self, own: &Raster, at: IVec2, i: usize) -> Px {
        let mine = px(own, i);
        let plain = own.plane(4);
        if mine[4] < IS_PLAIN || self.around(at, i, AROUND).all(|(_, j)| plain[j] >= IS_PLAIN) {
            return mine;
        }
        let bright = |j: usize| own.plane(0)[j] + own.plane(1)[j] + own.plane(2)[j];
        let mut beside: Vec<(f32, usize)> = self
            .around(at, i, BESIDE)
            .filter(|(d, j)| *d != IVec2::ZERO && plain[*j] >= IS_PLAIN)
            .map(|(_, j)| (bright(j), j))
            .collect();
        if beside.len() < 4 {
            return mine;
        }
        beside.sort_unstable_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
        let (low, high) = (beside[beside.len() / 4].0 / APART, beside[beside.len() * 3 / 4].0 * APART);
        if (low..=high).contains(&bright(i)) {
            return mine;
        }
        let [r, g, b, gloss, _] = px(own, beside[beside.len() / 2].1);
        // Not as it is seen, so it is no longer plain: what lies over it stays out.
        [r, g, b, gloss, 0.25]
    }

    /// The same, at an edge of the old texture carried on from the plain pixels around.
    fn carried(&self, calm: &Raster, at: IVec2, i: usize) -> Px {
        let mine = px(calm, i);
        let share = if mine[4] < IS_PLAIN { 0.0 } else { mine[4] };
        if share > 0.999 {
            return mine;
        }
        let mut fit = Plane::default();
        let (mut plain, mut all) = (0f32, 0f32);
        for (d, j) in self.around(at, i, AROUND).filter(|(d, _)| d.length_squared() <= AROUND * AROUND) {
            let theirs = px(calm, j);
            // The nearest count most: what is not plain anywhere, as the grain of wood, still has light that changes.
            let near = (-(d.length_squared() as f32) / (2.0 * NEAR * NEAR)).exp();
            let bright = colour_at(self.albedo, j).max_element().powi(2);
            // Of dark places the quotient is mostly noise.
            fit.add(d.as_vec2(), theirs, (theirs[4] + 1e-3) * near * bright / (bright + 0.01));
            plain += theirs[4] * near;
            all += near;
        }
        let Some(around) = fit.middle() else { return mine };
        // Where nothing around is plain, a mean would only blur the light: grain finer than a pixel is seen as its mean, too.
        let share = share.max(1.0 - plain / (FEW_PLAIN * all));
        std::array::from_fn(|c| if c < 4 { around[c] + (mine[c] - around[c]) * share } else { share })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(48, 20);

    /// Light that rises to the right on bars of two colours, seen softly by 16 rays a pixel, with gloss over it.
    fn bed(gloss: f32) -> (Raster, Raster, impl Fn(f32) -> f32) {
        let light = |x: f32| 0.4 + 0.02 * x;
        let bar = |x: f32| if (x / 7.3).fract() < 0.5 { [0.7, 0.5, 0.2] } else { [0.1, 0.06, 0.2] };
        let albedo = Raster::from_fn(W, 3, |c, x, _| bar(x as f32 + 0.5)[c]);
        let seen = Raster::from_fn(W, 3, |c, x, _| {
            let rays = (0..16).map(|s| x as f32 + (s as f32 + 0.5) / 16.0);
            rays.map(|x| bar(x)[c] * light(x)).sum::<f32>() / 16.0 + gloss
        });
        (albedo, seen, light)
    }

    fn found(seen: &Raster, albedo: &Raster, gloss: bool) -> Raster {
        let (uv, cover) = (Raster::filled(W, 2, 0.5), Raster::filled(W, 1, 1.0));
        let surface = Surface::new(&uv, &cover, None).unwrap();
        let spots = surface::spots(&surface, &Cancel::new()).unwrap();
        light(seen, albedo, gloss, (&surface, &spots), &Cancel::new()).unwrap()
    }

    #[test]
    fn light_is_even_across_the_edges_of_the_old_texture() {
        let (albedo, seen, truth) = bed(0.0);
        let got = found(&seen, &albedo, false);
        let mut ghosts = 0f32;
        for x in 6..42 {
            let want = truth(x as f32 + 0.5);
            let naive = seen.sample(0, x, 9).unwrap() / albedo.sample(0, x, 9).unwrap();
            ghosts = ghosts.max((naive / want - 1.0).abs());
            for c in 0..3 {
                let e = got.sample(c, x, 9).unwrap();
                assert!((e / want - 1.0).abs() < 0.06, "{x} {c}: {e} is not {want}");
            }
            assert_eq!(got.sample(3, x, 9), Some(0.0));
        }
        assert!(ghosts > 0.4, "the plain quotient leaves ghosts: {ghosts}");
    }

    #[test]
    fn gloss_is_told_from_light_by_its_colour() {
        let (albedo, seen, truth) = bed(0.12);
        let got = found(&seen, &albedo, true);
        let taken = found(&seen, &albedo, false);
        let worst = |r: &Raster| {
            let off = |x: i32| (r.sample(0, x, 9).unwrap() / truth(x as f32 + 0.5) - 1.0).abs();
            (6..42).map(off).fold(0.0, f32::max)
        };
        assert!(worst(&got) < 0.5 * worst(&taken), "{} and {}", worst(&got), worst(&taken));
        assert!((6..42).all(|x| (0.0..0.13).contains(&got.sample(3, x, 9).unwrap())));
    }

    #[test]
    fn a_dark_channel_leans_on_the_others_and_metal_counts_as_grey() {
        let (uv, cover) = (Raster::filled(W, 2, 0.5), Raster::filled(W, 1, 1.0));
        let surface = Surface::new(&uv, &cover, None).unwrap();
        let none = Raster::zeros(W, 3);
        let at = Lit { seen: &none, albedo: &none, gloss: false, surface: &surface, spots: &none };
        let e = at.leaning(Vec3::new(0.5, 0.25, 0.03), Vec3::new(0.5, 0.25, 0.0));
        assert!((e - Vec3::ONE).abs().max_element() < 0.01, "{e}");
        let metal = at.leaning(Vec3::splat(0.3), Vec3::ZERO);
        assert!((metal - Vec3::splat(0.6)).abs().max_element() < 1e-4);
    }
}
