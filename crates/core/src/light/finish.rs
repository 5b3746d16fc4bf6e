//! How the objects of a render answer light, told from its picture: which are metal, which are glossy and how rough, which
//! are matt.
//!
//! *Own derivation.* A metal has no diffuse light, so its diffuse pass is black, and its albedo too where a renderer
//! writes the diffuse one; all that is seen of it is mirrored, and its mean beside that of a white surface in its place
//! tells how much of it, and in which colour. (Black varnish is such a metal too, of a very dark colour: both answer light
//! alike.) Gloss is what is left of the picture without its diffuse light. The width of a highlight
//! tells the roughness: at half of its peak a GGX lobe of width α is turned from the mirror direction by an angle θ of
//! the half vector with `sin²θ = (√2 − 1) α² / (1 − α²)` (from Walter et al. 2007, eq. 33: `D` falls to half where
//! `cos²θ (α² − 1) + 1 = √2 α²`), and the mirrored direction turns by twice that.

use crate::colour::luminance;
use crate::light::harmonics::{self, Harmonics};
use crate::{Cancel, KernelError, Raster};
use glam::Vec3;
use std::f32::consts::SQRT_2;

/// What is known of a render, all on one window.
#[derive(Clone, Copy, Debug)]
pub struct Render<'a> {
    /// RGBA premultiplied.
    pub picture: &'a Raster,
    /// Which object each px shows: 0 for none, else its place in a list, from 1. One plane.
    pub objects: &'a Raster,
    /// Unit normals, camera space.
    pub normal: &'a Raster,
    /// Positions, camera space.
    pub position: Option<&'a Raster>,
    /// Surface colour.
    pub albedo: Option<&'a Raster>,
    /// Diffuse light.
    pub diffuse: Option<&'a Raster>,
}

/// What an object is taken to be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sort {
    /// No diffuse light, and mirrors in its own colour.
    Metal,
    /// A coat that mirrors over a coloured ground: varnish, glass, glaze.
    Gloss,
    /// No gloss at all, as far as can be told.
    Matt,
}

/// What is told of one object.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Told {
    /// Its number in [`Render::objects`].
    pub object: u32,
    /// How many px show it.
    pub seen: usize,
    /// What it is taken to be.
    pub sort: Sort,
    /// Perceptual roughness, if a highlight tells it.
    pub roughness: Option<f32>,
    /// Its own colour where the albedo does not say it: that of a metal whose albedo is black.
    pub colour: Option<[f32; 3]>,
}

/// Below this an albedo is black.
const BLACK: f32 = 0.02;

/// What has less than this share of diffuse light has none: passes are rounded, and a metal may be dusty.
const NO_DIFFUSE: f32 = 0.05;

/// What the usual metals reflect of their strongest colour (*common practice, no source*), and the least that anything
/// does: glass or varnish, 0.04.
const REFLECTS: [f32; 2] = [0.6, 0.04];

/// A surface that is brighter than this many times a white one in its place shines by itself; a mirror of a bright sky is
/// brighter, too, but not by so much.
const SHINES: f32 = 4.0;

/// What has less gloss than this share of its light has none.
const NO_GLOSS: f32 = 0.01;

/// A highlight that is told from light that was guessed stands out by this many times its spread, and by this share of
/// what the object shows on its bright side: nine harmonics may miss a lamp's light by a tenth.
const GUESSED: f32 = 4.0;
const STANDS_OUT: f32 = 0.2;

/// Share of a highlight's width that must come from the turning of the normals, for it to tell the roughness.
const CURVED: f32 = 0.5;

/// What has less than this share of the light of an object's bright side is its dark side.
const DARK: f32 = 0.3;

/// How many px an object must show to be told of, and how many clear of its edges to be told well.
const LEAST: usize = 12;

/// What each object is made of, in the order of the objects' numbers; objects of which too little is seen are left out.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn tell(render: Render<'_>, cancel: &Cancel) -> Result<Vec<Told>, KernelError> {
    check(render)?;
    let light = harmonics::fit(render.picture, render.normal, render.albedo.or(render.diffuse))?;
    let light = light.filter(|_| render.albedo.is_some()).map(|f| f.light);
    let (objects, slots) = by_object(render);
    let mut told = Vec::new();
    for (object, seen) in (0..).zip(&objects) {
        cancel.check()?;
        if seen.places.len() >= LEAST {
            told.push(Judge { render, light, seen, slots: &slots }.tell(object));
        }
    }
    Ok(told)
}

fn check(r: Render<'_>) -> Result<(), KernelError> {
    let window = r.picture.window();
    r.picture.expect_channels("picture", 4)?;
    let planes = [
        ("objects", Some(r.objects), 1),
        ("normals", Some(r.normal), 3),
        ("position", r.position, 3),
        ("albedo", r.albedo, 3),
        ("diffuse light", r.diffuse, 3),
    ];
    Ok(Raster::expect_each(window, planes)?)
}

/// No place in an object's list.
const NOWHERE: u32 = u32::MAX;

/// The px that an object is judged by.
#[derive(Clone, Default)]
struct Seen {
    places: Vec<usize>,
    /// How many px show nothing but the object. Where they are too few, as of a thin rod, all that it covers has to do.
    clear: usize,
}

/// The px of each object by its number: covered, with a normal, and of one object with the px beside them. And the other
/// way round: where each px stands in its object's list.
fn by_object(r: Render<'_>) -> (Vec<Seen>, Vec<u32>) {
    let (width, id) = (r.objects.window().width as usize, r.objects.plane(0));
    // There are not more objects than px, whatever the plane says.
    let most = (id.iter().fold(0f32, |a, b| a.max(*b)) as usize).min(id.len());
    let mut all = vec![Seen::default(); most + 1];
    let shown = |i: usize| {
        let n = triple(r.normal, i);
        let covered = r.picture.plane(3)[i] >= 0.99 && n.length_squared() > 0.25;
        let known = id[i] >= 1.0 && id[i] as usize <= most;
        (known && covered && triple(r.picture, i).is_finite()).then_some(id[i] as usize)
    };
    let alone = |i: usize| around(i, width, id.len()).into_iter().flatten().all(|j| id[j] == id[i]);
    for (i, k) in (0..id.len()).filter_map(|i| Some((i, shown(i)?))) {
        all[k].clear += usize::from(alone(i));
    }
    let mut slots = vec![NOWHERE; id.len()];
    for (i, k) in (0..id.len()).filter_map(|i| Some((i, shown(i)?))) {
        let seen = &mut all[k];
        if seen.clear < LEAST || alone(i) {
            slots[i] = seen.places.len() as u32;
            seen.places.push(i);
        }
    }
    (all, slots)
}

/// The px to the left, to the right, above and below, where there are any.
fn around(i: usize, width: usize, count: usize) -> [Option<usize>; 4] {
    let column = i % width.max(1);
    let (below, right) = (i + width, column + 1 < width);
    [
        (column > 0).then(|| i - 1),
        right.then_some(i + 1),
        i.checked_sub(width),
        (below < count).then_some(below),
    ]
}

#[inline]
fn triple(r: &Raster, i: usize) -> Vec3 {
    Vec3::from_array(std::array::from_fn(|c| r.plane(c)[i]))
}

/// Looks at one object.
struct Judge<'a> {
    render: Render<'a>,
    /// What a white surface shows, by its normal.
    light: Option<Harmonics>,
    seen: &'a Seen,
    /// Where each px of the render stands among the places of its object.
    slots: &'a [u32],
}

impl Judge<'_> {
    fn tell(&self, object: u32) -> Told {
        let told =
            |sort, roughness, colour| Told { object, seen: self.seen.places.len(), sort, roughness, colour };
        let picture = self.mean(self.render.picture);
        let bright = luminance(picture.to_array());
        let black = self.render.albedo.is_some_and(|a| luminance(self.mean(a).to_array()) < BLACK);
        // What is thin shows a part of what lies behind it: there only the albedo is its own.
        let clear = self.seen.clear >= LEAST;
        let dull = self
            .render
            .diffuse
            .filter(|_| clear || self.render.albedo.is_none())
            .map(|d| luminance(self.mean(d).to_array()) < NO_DIFFUSE * bright);
        let white = self.light.map(|l| self.white(&l));
        let share = white.map(|w| bright / luminance(w.to_array()).max(1e-12));
        match dull.unwrap_or(black) {
            true if bright <= 0.0 || share.is_some_and(|s| s > SHINES) => told(Sort::Matt, None, None),
            true => {
                let colour = black.then(|| self.metal_colour(white));
                told(Sort::Metal, self.roughness(&self.brightness(self.render.picture), false), colour)
            }
            false if !clear => told(Sort::Matt, None, None),
            false => match self.gloss(bright) {
                Some(roughness) => told(Sort::Gloss, roughness, None),
                None => told(Sort::Matt, None, None),
            },
        }
    }

    fn mean(&self, of: &Raster) -> Vec3 {
        self.seen.places.iter().map(|&i| triple(of, i)).filter(|v| v.is_finite()).sum::<Vec3>()
            / self.seen.places.len() as f32
    }

    /// What a white surface would show in its place, as a mean.
    fn white(&self, light: &Harmonics) -> Vec3 {
        self.seen.places.iter().map(|&i| self.white_at(light, i)).sum::<Vec3>()
            / self.seen.places.len() as f32
    }

    /// What a white surface would show at a place.
    fn white_at(&self, light: &Harmonics, i: usize) -> Vec3 {
        light.at(triple(self.render.normal, i).normalize()).max(Vec3::ZERO)
    }

    /// The colour of a metal from its light and that of a white surface in its place (its mean colour). Means are taken in
    /// stops, so that the lamps in a mirror do not count for more than the px that show them. A mirror seldom shows the
    /// lamps that light a white surface, so it looks darker than it is, and brighter only where it shows them all the
    /// same: the truth is taken to lie midway, in stops, between what is seen and what metals usually reflect, and never
    /// above that.
    fn metal_colour(&self, white: Option<Vec3>) -> [f32; 3] {
        let [usual, least] = REFLECTS;
        let (mut stops, mut tint, mut count) = (0.0, Vec3::ZERO, 0.0f32);
        for &i in &self.seen.places {
            let seen = triple(self.render.picture, i).max(Vec3::ZERO);
            let bright = luminance(seen.to_array());
            if bright > 1e-9 && bright.is_finite() {
                stops += bright.log2();
                tint += seen / bright;
                count += 1.0;
            }
        }
        if count < 1.0 {
            return [least; 3];
        }
        let seen = tint / count * (stops / count).exp2();
        let least_white = |w: Vec3| w.max(Vec3::splat((0.05 * w.max_element()).max(1e-12)));
        let share = white.map_or(seen, |w| seen / least_white(w));
        let most = share.max_element().max(1e-12);
        let reflects = if white.is_some() { (most.min(usual) * usual).sqrt().max(least) } else { usual };
        (share * (reflects / most)).to_array()
    }

    /// `None` if there is no gloss; else the roughness, if it can be told.
    fn gloss(&self, bright: f32) -> Option<Option<f32>> {
        if let Some(diffuse) = self.render.diffuse {
            let matt = self.brightness(diffuse);
            let gloss: Vec<f32> =
                self.brightness(self.render.picture).into_iter().zip(matt).map(|(s, m)| s - m).collect();
            let share =
                gloss.iter().map(|v| v.max(0.0)).sum::<f32>() / gloss.len() as f32 / bright.max(1e-12);
            return (share > NO_GLOSS).then(|| self.roughness(&gloss, false));
        }
        // Without a diffuse pass only a clear highlight tells: all else may be shadow, or light that falls off. What is
        // dark by the harmonics may be so because they took it for shadow, and tells nothing.
        let (albedo, light) = (self.render.albedo?, self.light?);
        let matt = |i: usize| luminance((self.white_at(&light, i) * triple(albedo, i)).to_array());
        let matt: Vec<f32> = self.seen.places.iter().map(|&i| matt(i)).collect();
        let [.., bright] = shares(matt.clone());
        let left = |(seen, matt): (f32, f32)| if matt < DARK * bright { 0.0 } else { seen - matt };
        let seen = self.brightness(self.render.picture);
        let gloss: Vec<f32> = seen.into_iter().zip(matt).map(left).collect();
        self.roughness(&gloss, true).map(Some)
    }

    /// How bright a picture is at every place.
    fn brightness(&self, of: &Raster) -> Vec<f32> {
        self.seen.places.iter().map(|&i| luminance(triple(of, i).to_array())).collect()
    }

    /// The mirrored direction at a place, seen from the eye.
    fn mirrored(&self, i: usize) -> Vec3 {
        let n = triple(self.render.normal, i).normalize();
        let view = self.render.position.map_or(Vec3::Z, |p| -triple(p, i).normalize_or(Vec3::NEG_Z));
        (2.0 * n.dot(view) * n - view).normalize_or(n)
    }

    /// The roughness that the width of the brightest highlight tells; `None` where none stands out, or where the surface is
    /// too flat to show one whole. If the matt light that was taken off is a guess, a highlight must stand out of that, too.
    fn roughness(&self, gloss: &[f32], guessed: bool) -> Option<f32> {
        let [low, usual, high] = shares(gloss.to_vec());
        let spread = (usual - low).max(high - usual);
        let calm = self.calm(gloss);
        let peak = (0..calm.len()).max_by(|a, b| calm[*a].total_cmp(&calm[*b]))?;
        let height = calm[peak] - usual;
        let clear = if guessed { GUESSED } else { 1.5 };
        let beside = if guessed { STANDS_OUT * shares(self.brightness(self.render.picture))[2] } else { 0.0 };
        if height.is_nan() || height <= (clear * (spread + 0.1 * usual.abs())).max(beside) {
            return None;
        }
        let (lobe, cut) = self.lobe(&calm, peak, usual + 0.5 * height);
        let around =
            lobe.iter().map(|&k| self.mirrored(self.seen.places[k]) * gloss[k].max(0.0)).sum::<Vec3>();
        let middle = around.try_normalize()?;
        // sin² of half the angle between two directions is (1 − cos) / 2.
        let edge = |turned: &dyn Fn(usize) -> f32| {
            let mut all: Vec<f32> = lobe.iter().map(|&k| turned(self.seen.places[k])).collect();
            all.sort_unstable_by(f32::total_cmp);
            all.get(all.len() * 9 / 10).map(|v| v / 0.9)
        };
        let mirrored = edge(&|i| 0.5 * (1.0 - self.mirrored(i).dot(middle)))?;
        // On a curved surface the normals make the highlight as wide as it is; on a flat one a lamp that stands near makes
        // it narrower, and nobody knows where it stands.
        let normal = |i: usize| triple(self.render.normal, i).normalize();
        let ahead = lobe.iter().map(|&k| normal(self.seen.places[k])).sum::<Vec3>().try_normalize()?;
        let curved = edge(&|i| 1.0 - normal(i).dot(ahead).powi(2))? >= CURVED * mirrored;
        // A highlight that ends where its object does is wider than it looks.
        let whole = lobe.len() >= 4 && cut * 3 <= lobe.len();
        let alpha2 = mirrored / (SQRT_2 - 1.0 + mirrored);
        (whole && curved).then(|| alpha2.sqrt().sqrt().clamp(0.05, 1.0))
    }

    /// The places beside a place that belong to the same object; `None` where one does not.
    fn beside(&self, k: usize) -> [Option<usize>; 4] {
        let (width, id) = (self.render.objects.window().width as usize, self.render.objects.plane(0));
        let i = self.seen.places[k];
        let same = |j: usize| (self.slots[j] != NOWHERE && id[j] == id[i]).then(|| self.slots[j] as usize);
        around(i, width, id.len()).map(|j| j.and_then(same))
    }

    /// Each with the mean of those beside it.
    fn calm(&self, gloss: &[f32]) -> Vec<f32> {
        let mean = |k: usize| {
            let near = self.beside(k).into_iter().flatten();
            let (sum, count) = near.fold((2.0 * gloss[k], 2.0), |(s, n), j| (s + gloss[j], n + 1.0));
            sum / count
        };
        (0..gloss.len()).map(mean).collect()
    }

    /// The places around a peak that are brighter than `level`, and how many of them lie at the object's edge.
    fn lobe(&self, gloss: &[f32], peak: usize, level: f32) -> (Vec<usize>, usize) {
        let (mut seen, mut lobe, mut cut, mut next) = (vec![false; gloss.len()], vec![peak], 0, 0);
        seen[peak] = true;
        while let Some(&k) = lobe.get(next) {
            next += 1;
            let beside = self.beside(k);
            cut += usize::from(beside.iter().any(Option::is_none));
            for j in beside.into_iter().flatten() {
                if !seen[j] && gloss[j] > level {
                    seen[j] = true;
                    lobe.push(j);
                }
            }
        }
        (lobe, cut)
    }
}

/// The values below which 16, 50 and 84 % of some lie: the middle and a standard deviation beside it, if they are spread
/// as errors are.
fn shares(mut values: Vec<f32>) -> [f32; 3] {
    values.sort_unstable_by(f32::total_cmp);
    let last = values.len().saturating_sub(1) as f32;
    [0.16, 0.5, 0.84].map(|share| values.get((last * share) as usize).copied().unwrap_or(f32::NAN))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;
    use crate::light::brdf;
    use std::f32::consts::{FRAC_1_PI, PI};

    const SIDE: i32 = 160;

    /// Unit normal of a ball that fills the picture, and whether it is there.
    fn ball(x: i32, y: i32) -> Option<Vec3> {
        let at = |v: i32| (v as f32 + 0.5) / SIDE as f32 * 2.1 - 1.05;
        let (x, y) = (at(x), -at(y));
        let rest = 1.0 - x * x - y * y;
        (rest > 0.0).then(|| Vec3::new(x, y, rest.sqrt()))
    }

    /// A ball under a lamp and a sky, seen from far away: its diffuse colour, its reflectance, and GGX α.
    fn seen(colour: [f32; 3], f0: [f32; 3], alpha: f32) -> [Raster; 5] {
        let w = Window::of_size(SIDE as u32, SIDE as u32);
        let lamp = Vec3::new(0.4, 0.5, 0.77).normalize();
        let half = (lamp + Vec3::Z).normalize();
        let planes = |n: usize, f: &dyn Fn(Vec3) -> [f32; 4]| {
            Raster::from_fn(w, n, |c, x, y| ball(x, y).map_or(0.0, |v| f(v)[c]))
        };
        let matt = |n: Vec3| {
            let white = 0.3 + 0.2 * n.y + PI * n.dot(lamp).max(0.0) * FRAC_1_PI;
            colour.map(|c| c * white)
        };
        let picture = planes(4, &|n| {
            let mirror = 2.0 * n.z * n - Vec3::Z;
            let room = 0.2 + 0.1 * mirror.y;
            let shine = |c: usize| {
                let lobe =
                    brdf::ggx_times_cosine(n.dot(lamp), n.z, n.dot(half), half.z, alpha * alpha, f0[c]);
                f0[c] * room + PI * if f0[c] > 0.0 { lobe } else { 0.0 }
            };
            let m = matt(n);
            [m[0] + shine(0), m[1] + shine(1), m[2] + shine(2), 1.0]
        });
        let spread = |v: [f32; 3]| [v[0], v[1], v[2], 0.0];
        [
            picture,
            planes(1, &|_| [1.0; 4]),
            planes(3, &|n| spread(n.to_array())),
            planes(3, &|_| spread(colour)),
            planes(3, &|n| spread(matt(n))),
        ]
    }

    fn told(of: &[Raster; 5], with_diffuse: bool) -> Told {
        let [picture, objects, normal, albedo, diffuse] = of;
        let render = Render {
            picture,
            objects,
            normal,
            position: None,
            albedo: Some(albedo),
            diffuse: with_diffuse.then_some(diffuse),
        };
        let all = tell(render, &Cancel::new()).unwrap();
        assert_eq!(all.len(), 1);
        all[0]
    }

    #[test]
    fn what_is_matt_has_no_gloss() {
        let matt = seen([0.5, 0.3, 0.2], [0.0; 3], 1.0);
        for with_diffuse in [true, false] {
            assert_eq!(told(&matt, with_diffuse).sort, Sort::Matt);
        }
    }

    #[test]
    fn the_width_of_a_highlight_tells_the_roughness() {
        for alpha in [0.06f32, 0.12, 0.25] {
            let varnish = seen([0.4, 0.2, 0.1], [0.04; 3], alpha);
            for with_diffuse in [true, false] {
                let told = told(&varnish, with_diffuse);
                assert_eq!((told.sort, told.colour), (Sort::Gloss, None), "α {alpha}");
                let got = told.roughness.unwrap();
                assert!(
                    (got - alpha.sqrt()).abs() < 0.05,
                    "α {alpha}: roughness {got}, diffuse {with_diffuse}"
                );
            }
        }
    }

    #[test]
    fn a_metal_has_a_colour_of_its_own() {
        let told = told(&seen([0.0; 3], [0.9, 0.6, 0.3], 0.15), true);
        assert_eq!(told.sort, Sort::Metal);
        assert!((told.roughness.unwrap() - 0.387).abs() < 0.05, "{:?}", told.roughness);
        let [r, g, b] = told.colour.unwrap();
        assert!((g / r - 2.0 / 3.0).abs() < 0.05 && (b / r - 1.0 / 3.0).abs() < 0.05, "{:?}", told.colour);
    }

    #[test]
    fn numbers_beyond_all_reason_are_no_objects() {
        let [picture, _, normal, albedo, _] = seen([0.5; 3], [0.0; 3], 1.0);
        let objects = Raster::filled(picture.window(), 1, 1e30);
        let render = Render {
            picture: &picture,
            objects: &objects,
            normal: &normal,
            position: None,
            albedo: Some(&albedo),
            diffuse: None,
        };
        assert_eq!(tell(render, &Cancel::new()).unwrap(), vec![]);
        let wrong = Render { objects: &albedo, ..render };
        assert!(tell(wrong, &Cancel::new()).is_err());
    }
}
