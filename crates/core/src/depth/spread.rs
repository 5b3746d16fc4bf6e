//! Depths given in a few places, spread over the picture along its edges.
//!
//! The sheet that is sought is smooth where the picture is and may break where the picture's colour does: it minimises
//! `Σ w_ij (d_i − d_j)² + λ Σ s_i (d_i − v_i)²` over neighbours, with `w_ij` small where their colours differ (least
//! squares on picture-weighted neighbours, Levin, Lischinski & Weiss 2004, in the symmetric form of Grady 2006), in 1/Z.
//! It is solved by conjugate gradients (Hestenes & Stiefel 1952) from a coarse grid to a fine one.

use super::is_depth;
use crate::colour::srgb_encode;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use rayon::prelude::*;

/// How strongly the picture guides.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spread {
    /// Difference of colour on a screen (0..1) that counts as an edge; smaller follows fainter edges.
    pub edge: f32,
}

/// Longest side of the grid that is solved on; above it the result is carried up along the picture's colours.
const MOST_SIDE: usize = 512;

/// Weight that even the hardest edge leaves, so that what no stroke reaches still gets a depth.
const LEAK: f32 = 1e-4;

/// Pull of a stroke against that of its neighbours.
const PULL: f32 = 100.0;

/// Depth over the window of `picture` (RGBA) from `given`: a plane of depths and a plane of how firmly each is
/// meant (0 = not at all). Infinite everywhere if nothing is given.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn spread(picture: &Raster, given: &Raster, how: Spread, cancel: &Cancel) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    given.expect_channels("strokes", 2)?;
    given.expect_window("strokes", picture.window())?;
    let window = picture.window();
    let any = given.plane(1).iter().zip(given.plane(0)).any(|(w, z)| *w > 0.0 && is_depth(*z));
    if !any {
        return Ok(Raster::filled(window, 1, f32::INFINITY));
    }
    let mut levels = vec![Level::finest(picture, given)];
    while let Some(coarser) = levels.last().and_then(Level::halved) {
        levels.push(coarser);
    }
    // Solve what is small enough, the coarsest first.
    let mut found: Option<(usize, Vec<f32>)> = None;
    for (k, level) in levels.iter().enumerate().rev() {
        if level.width.max(level.height) > MOST_SIDE {
            break;
        }
        let start = match &found {
            Some((_, values)) => level.raised(&levels[k + 1], values, how.edge),
            None => level.plain_mean(),
        };
        found = Some((k, level.solve(start, how.edge, cancel)?));
    }
    let (mut k, mut values) =
        found.unwrap_or_else(|| (levels.len() - 1, levels[levels.len() - 1].plain_mean()));
    while k > 0 {
        cancel.check()?;
        values = levels[k - 1].raised(&levels[k], &values, how.edge);
        k -= 1;
    }
    finished(window, &values, cancel)
}

fn finished(window: Window, values: &[f32], cancel: &Cancel) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(window, 1);
    let width = window.width as usize;
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let from = (y - window.y) as usize * width;
            let row = band.row(0, y).iter_mut().zip(&values[from..from + width]);
            row.for_each(|(z, v)| *z = 1.0 / v.max(1e-9));
        }
    })?;
    Ok(out)
}

/// A grid with the picture's colours (as on a screen) and what is given on it.
struct Level {
    width: usize,
    height: usize,
    colour: Vec<[f32; 3]>,
    /// 1/Z that is given.
    value: Vec<f32>,
    /// How firmly.
    firm: Vec<f32>,
}

impl Level {
    fn finest(picture: &Raster, given: &Raster) -> Self {
        let window = picture.window();
        let [r, g, b] = std::array::from_fn(|c| picture.plane(c));
        let seen = |v: f32| if v.is_finite() { srgb_encode(v.clamp(0.0, 1.0)) } else { 0.0 };
        let colour = (0..r.len()).into_par_iter().map(|i| [seen(r[i]), seen(g[i]), seen(b[i])]).collect();
        let sound = |i: usize| is_depth(given.plane(0)[i]) && given.plane(1)[i] > 0.0;
        let value = (0..r.len()).map(|i| if sound(i) { 1.0 / given.plane(0)[i] } else { 0.0 }).collect();
        let firm = (0..r.len()).map(|i| if sound(i) { given.plane(1)[i] } else { 0.0 }).collect();
        Self { width: window.width as usize, height: window.height as usize, colour, value, firm }
    }

    /// Half the size; `None` once it is small.
    fn halved(&self) -> Option<Self> {
        if self.width.min(self.height) < 16 {
            return None;
        }
        let (width, height) = (self.width.div_ceil(2), self.height.div_ceil(2));
        let mut next = Self { width, height, colour: Vec::new(), value: Vec::new(), firm: Vec::new() };
        for y in 0..height {
            for x in 0..width {
                let (mut colour, mut count, mut value, mut firm) = ([0.0; 3], 0.0, 0.0, 0.0);
                for i in self.block(2 * x, 2 * y) {
                    (0..3).for_each(|c| colour[c] += self.colour[i][c]);
                    count += 1.0;
                    value += self.firm[i] * self.value[i];
                    firm += self.firm[i];
                }
                next.colour.push(colour.map(|v| v / count));
                next.value.push(if firm > 0.0 { value / firm } else { 0.0 });
                // A thin stroke must still be there on a coarse grid.
                next.firm.push(firm.min(1.0));
            }
        }
        Some(next)
    }

    fn block(&self, x: usize, y: usize) -> impl Iterator<Item = usize> + '_ {
        let (w, h) = (self.width, self.height);
        (y..(y + 2).min(h)).flat_map(move |y| (x..(x + 2).min(w)).map(move |x| y * w + x))
    }

    /// The mean of what is given, everywhere.
    fn plain_mean(&self) -> Vec<f32> {
        let firm: f32 = self.firm.iter().sum();
        let sum: f32 = self.firm.iter().zip(&self.value).map(|(f, v)| f * v).sum();
        vec![if firm > 0.0 { sum / firm } else { 0.0 }; self.colour.len()]
    }

    /// Values of a coarser grid on this one: of the nearest coarse cells those count that look like the pixel (joint
    /// bilateral upsampling, Kopf et al. 2007).
    fn raised(&self, coarse: &Self, values: &[f32], edge: f32) -> Vec<f32> {
        let of = |i: usize| {
            let (x, y) = (i % self.width, i / self.width);
            let (cx, cy) = (x as f32 * 0.5 - 0.25, y as f32 * 0.5 - 0.25);
            let (mut sum, mut count) = (0.0, 0.0);
            for dy in 0..2i64 {
                for dx in 0..2i64 {
                    let (nx, ny) = (cx.floor() as i64 + dx, cy.floor() as i64 + dy);
                    let j = ny.clamp(0, coarse.height as i64 - 1) as usize * coarse.width
                        + nx.clamp(0, coarse.width as i64 - 1) as usize;
                    let near = (1.0 - (cx - nx as f32).abs()) * (1.0 - (cy - ny as f32).abs());
                    let w = near.max(0.01) * (weight(self.colour[i], coarse.colour[j], edge) + 1e-6);
                    (sum, count) = (sum + w * values[j], count + w);
                }
            }
            sum / count
        };
        (0..self.colour.len()).into_par_iter().map(of).collect()
    }

    /// Weights to the right and below.
    fn links(&self, edge: f32) -> Vec<[f32; 2]> {
        let (w, h) = (self.width, self.height);
        let of = |i: usize| {
            let link = |there: bool, j: usize| {
                if there { weight(self.colour[i], self.colour[j], edge) } else { 0.0 }
            };
            [link(i % w + 1 < w, i + 1), link(i / w + 1 < h, i + w)]
        };
        (0..self.colour.len()).into_par_iter().map(of).collect()
    }

    /// Conjugate gradients with the diagonal as preconditioner.
    fn solve(&self, start: Vec<f32>, edge: f32, cancel: &Cancel) -> Result<Vec<f32>, KernelError> {
        let links = self.links(edge);
        let system = System { level: self, links: &links };
        let diagonal: Vec<f32> = (0..start.len()).into_par_iter().map(|i| system.diagonal(i)).collect();
        let mut x = start;
        let ax = system.times(&x);
        let mut r: Vec<f32> = (0..x.len()).map(|i| PULL * self.firm[i] * self.value[i] - ax[i]).collect();
        let mut z: Vec<f32> = r.iter().zip(&diagonal).map(|(r, d)| r / d).collect();
        let mut p = z.clone();
        let mut rz = dot(&r, &z);
        let goal = 1e-10 * rz.max(dot_scale(self));
        for step in 0..MOST_STEPS {
            if step % 8 == 0 {
                cancel.check()?;
            }
            if rz <= goal {
                break;
            }
            let ap = system.times(&p);
            let k = (rz / dot(&p, &ap)) as f32;
            x.par_iter_mut().zip(&p).for_each(|(x, p)| *x += k * p);
            r.par_iter_mut().zip(&ap).for_each(|(r, a)| *r -= k * a);
            z.par_iter_mut().zip(&r).zip(&diagonal).for_each(|((z, r), d)| *z = r / d);
            let next = dot(&r, &z);
            let b = (next / rz) as f32;
            p.par_iter_mut().zip(&z).for_each(|(p, z)| *p = z + b * *p);
            rz = next;
        }
        Ok(x)
    }
}

/// Most steps of one grid: a start from the coarser grid needs far fewer.
const MOST_STEPS: usize = 400;

/// Size of the right side, for telling when a rest is small.
fn dot_scale(level: &Level) -> f64 {
    let sum: f64 = level.firm.iter().zip(&level.value).map(|(f, v)| f64::from(PULL * f * v * v)).sum();
    sum.max(1e-30)
}

/// How much two pixels hang together.
fn weight(a: [f32; 3], b: [f32; 3], edge: f32) -> f32 {
    let d2: f32 = a.iter().zip(b).map(|(a, b)| (a - b) * (a - b)).sum();
    (-0.5 * d2 / (edge * edge).max(1e-8)).exp() + LEAK
}

struct System<'a> {
    level: &'a Level,
    links: &'a [[f32; 2]],
}

impl System<'_> {
    fn diagonal(&self, i: usize) -> f32 {
        let w = self.level.width;
        let mut sum = self.links[i][0] + self.links[i][1] + PULL * self.level.firm[i];
        if !i.is_multiple_of(w) {
            sum += self.links[i - 1][0];
        }
        if i >= w {
            sum += self.links[i - w][1];
        }
        sum
    }

    fn times(&self, x: &[f32]) -> Vec<f32> {
        let (w, links) = (self.level.width, self.links);
        let of = |i: usize| {
            let mut sum = PULL * self.level.firm[i] * x[i];
            let mut link = |k: f32, j: usize| sum += k * (x[i] - x[j]);
            if links[i][0] > 0.0 {
                link(links[i][0], i + 1);
            }
            if links[i][1] > 0.0 {
                link(links[i][1], i + w);
            }
            if !i.is_multiple_of(w) {
                link(links[i - 1][0], i - 1);
            }
            if i >= w {
                link(links[i - w][1], i - w);
            }
            sum
        };
        (0..x.len()).into_par_iter().map(of).collect()
    }
}

/// A sum that is the same for any number of threads: of pieces of one size, in their order.
fn dot(a: &[f32], b: &[f32]) -> f64 {
    let pieces: Vec<f64> = a
        .par_chunks(4096)
        .zip(b.par_chunks(4096))
        .map(|(a, b)| a.iter().zip(b).map(|(a, b)| f64::from(*a) * f64::from(*b)).sum())
        .collect();
    pieces.iter().sum()
}

#[cfg(test)]
mod tests {
    use super::*;

    const W: Window = Window::of_size(80, 60);

    fn scene() -> Raster {
        // A bright disc on a dark ground.
        let bright = |x: i32, y: i32| (x - 40).pow(2) + (y - 30).pow(2) < 225;
        Raster::from_fn(W, 4, |c, x, y| {
            if c == 3 {
                1.0
            } else if bright(x, y) {
                0.8
            } else {
                0.05
            }
        })
    }

    fn given(at: &[(i32, i32, f32)]) -> Raster {
        Raster::from_fn(W, 2, |c, x, y| {
            let here = at.iter().find(|(px, py, _)| (x - px).abs() < 2 && (y - py).abs() < 2);
            here.map_or(0.0, |(_, _, z)| if c == 0 { *z } else { 1.0 })
        })
    }

    #[test]
    fn depths_spread_up_to_the_edges_of_the_picture() {
        let strokes = given(&[(40, 30, 2.0), (5, 5, 10.0)]);
        let z = spread(&scene(), &strokes, Spread { edge: 0.1 }, &Cancel::new()).unwrap();
        let at = |x, y| z.sample(0, x, y).unwrap();
        for (x, y) in [(40, 30), (29, 30), (50, 36)] {
            assert!((at(x, y) - 2.0).abs() < 0.1, "{x} {y}: {}", at(x, y));
        }
        for (x, y) in [(5, 5), (75, 55), (22, 30), (40, 50)] {
            assert!((at(x, y) - 10.0).abs() < 0.8, "{x} {y}: {}", at(x, y));
        }
    }

    #[test]
    fn between_strokes_on_one_surface_it_runs_evenly() {
        let flat = Raster::filled(W, 4, 1.0);
        // 1/Z from ½ to ⅒ along a strip of full height.
        let strokes = Raster::from_fn(W, 2, |c, x, _| match (x, c) {
            (0, 0) => 2.0,
            (79, 0) => 10.0,
            (0 | 79, 1) => 1.0,
            _ => 0.0,
        });
        let z = spread(&flat, &strokes, Spread { edge: 0.1 }, &Cancel::new()).unwrap();
        for x in [10, 40, 70] {
            let want = 0.5 - 0.4 * x as f32 / 79.0;
            assert!((1.0 / z.sample(0, x, 30).unwrap() - want).abs() < 2e-3, "{x}");
        }
    }

    #[test]
    fn nothing_given_is_nothing_found_and_threads_do_not_matter() {
        let none = Raster::zeros(W, 2);
        let z = spread(&scene(), &none, Spread { edge: 0.1 }, &Cancel::new()).unwrap();
        assert!(z.plane(0).iter().all(|z| *z == f32::INFINITY));
        let strokes = given(&[(40, 30, 2.0), (5, 5, 10.0)]);
        let go = || spread(&scene(), &strokes, Spread { edge: 0.1 }, &Cancel::new()).unwrap();
        let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
        assert_eq!(go(), one.install(go));
        let tiny = Window::of_size(1, 1);
        let z = spread(
            &Raster::filled(tiny, 4, 1.0),
            &Raster::filled(tiny, 2, 3.0),
            Spread { edge: 0.1 },
            &Cancel::new(),
        );
        assert!((z.unwrap().plane(0)[0] - 3.0).abs() < 1e-4);
    }
}
