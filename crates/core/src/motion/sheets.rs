//! A picture taken apart by its motion: what is seen at each pixel, and what is hidden beside it.
//!
//! *Own derivation.* Motion and depth are hard, the picture is not: a pixel at the rim of something that moves on its
//! own holds the colours of two surfaces, and only the nearer one's motion or only the farther one's. Such a pixel is
//! parted into the nearer surface with a coverage, which lies in front, and the farther one behind it. What is behind
//! goes on beneath what hides it, as far as it can come into sight.

use super::open::Open;
use crate::colour::unmix::{Around, near_share, parted, square};
use crate::focus::fill;
use crate::raster::bands::for_each_band;
use crate::raster::distance;
use crate::{Cancel, KernelError, Raster, Window};
use glam::Vec2;
use rayon::prelude::*;

/// One surface in a pixel.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Spot {
    /// Premultiplied by its own coverage, and by the picture's alpha.
    pub colour: [f32; 4],
    /// How much of the pixel it covers; 0 where there is none.
    pub cover: f32,
    /// Px of the scale from this frame to the next.
    pub motion: Vec2,
    /// One over its depth, or, without a depth, how fast it moves.
    pub near: f32,
}

/// A spot for each pixel of a window.
pub(super) struct Sheet {
    pub window: Window,
    pub spots: Vec<Spot>,
}

impl Sheet {
    /// Whether a place lies within the frame.
    #[inline(always)]
    pub fn holds(&self, at: Vec2) -> bool {
        self.window.contains(at.x.floor() as i32, at.y.floor() as i32)
    }

    /// The spot at a place, that of the nearest edge beyond the frame.
    #[inline(always)]
    pub fn at(&self, x: i32, y: i32) -> &Spot {
        let w = self.window;
        let column = (x - w.x).clamp(0, w.width as i32 - 1) as usize;
        let row = (y - w.y).clamp(0, w.height as i32 - 1) as usize;
        &self.spots[row * w.width as usize + column]
    }
}

/// A picture in two sheets.
pub(super) struct Sheets {
    /// What is seen; at a rim, what is in front.
    pub front: Sheet,
    /// What is behind, where something moves past it.
    pub back: Option<Sheet>,
    /// Pixels at which motion jumps.
    pub rims: Vec<bool>,
}

/// Pixels beyond a rim in which the colour of each side is looked for.
const LOOK: i32 = 2;

/// Whether displacements over the shutter of two neighbours are of different surfaces: they differ by more than half a pixel
/// and a twentieth of the larger, since what turns or comes nearer moves by a little more from pixel to pixel.
#[inline(always)]
pub(super) fn apart(a: Vec2, b: Vec2) -> bool {
    a.distance_squared(b) > 0.25 + 0.0025 * a.length_squared().max(b.length_squared())
}

/// What is known of each pixel beforehand.
struct Ground<'a> {
    picture: &'a Raster,
    motion: Vec<Vec2>,
    near: Vec<f32>,
    /// Longest share of the frame interval to either side.
    span: f32,
    rim: i32,
}

impl Sheets {
    /// Takes a picture (RGBA premultiplied) apart. `rim` px on both sides of an edge may hold the colours of both
    /// surfaces.
    pub fn of(
        picture: &Raster,
        motion: &Raster,
        depth: Option<&Raster>,
        open: Open,
        rim: u32,
        cancel: &Cancel,
    ) -> Result<Self, KernelError> {
        let ground = Ground::of(picture, motion, depth, open, rim);
        let w = picture.window();
        let mut sides = vec![None; w.area()];
        let row = w.width as usize;
        let near_jump = distance::in_square(w, &ground.jumps(cancel)?, ground.rim as u32);
        sides.par_chunks_mut(row.max(1)).enumerate().try_for_each(|(y, out)| {
            cancel.check()?;
            for (x, out) in out.iter_mut().enumerate().filter(|(x, _)| near_jump[y * row + x]) {
                *out = ground.sides(x, y);
            }
            Ok::<_, KernelError>(())
        })?;
        let mut front: Vec<Spot> = (0..w.area()).into_par_iter().map(|i| ground.whole(i)).collect();
        let rims: Vec<bool> = sides.iter().map(Option::is_some).collect();
        if !rims.contains(&true) {
            return Ok(Self { front: Sheet { window: w, spots: front }, back: None, rims });
        }
        let in_sight = distance::in_square(w, &rims, (ground.rim + LOOK) as u32);
        let mut known = vec![Spot::default(); w.area()];
        front.par_chunks_mut(row).zip(known.par_chunks_mut(row)).enumerate().try_for_each(
            |(y, (front, known))| {
                cancel.check()?;
                for x in (0..row).filter(|x| in_sight[y * row + x]) {
                    ground.part(&sides, x, y, &mut front[x], &mut known[x]);
                }
                Ok::<_, KernelError>(())
            },
        )?;
        let back = ground.hidden(&front, known, &rims, open, cancel)?;
        Ok(Self { front: Sheet { window: w, spots: front }, back: Some(back), rims })
    }
}

/// How the two sides of a rim move over the shutter: the displacement of the nearer one, and the way from there to the
/// farther one's, divided by its squared length.
#[derive(Clone, Copy, Debug)]
struct Sides {
    near: Vec2,
    to_far: Vec2,
}

impl Sides {
    fn is_near(&self, displacement: Vec2) -> bool {
        (displacement - self.near).dot(self.to_far) < 0.5
    }
}

impl<'a> Ground<'a> {
    fn of(picture: &'a Raster, motion: &Raster, depth: Option<&Raster>, open: Open, rim: u32) -> Self {
        let (u, v) = (motion.plane(0), motion.plane(1));
        let still = |v: f32| if v.is_finite() { v } else { 0.0 };
        let motion: Vec<Vec2> = u.iter().zip(v).map(|(u, v)| Vec2::new(still(*u), still(*v))).collect();
        let near = match depth {
            Some(depth) => depth.plane(0).iter().map(|z| if *z > 0.0 { z.recip() } else { 0.0 }).collect(),
            None => motion.iter().map(|m| m.length()).collect(),
        };
        Self { picture, motion, near, span: open.span(), rim: rim.clamp(1, 8) as i32 }
    }

    fn colour(&self, i: usize) -> [f32; 4] {
        std::array::from_fn(|c| self.picture.plane(c)[i])
    }

    fn displacement(&self, i: usize) -> Vec2 {
        self.motion[i] * self.span
    }

    /// The pixel as one surface.
    fn whole(&self, i: usize) -> Spot {
        Spot { colour: self.colour(i), cover: 1.0, motion: self.motion[i], near: self.near[i] }
    }

    /// The pixels of a square around one, and how far off they are, squared.
    #[inline(always)]
    fn around(&self, x: usize, y: usize, reach: i32) -> impl Iterator<Item = (usize, i32)> {
        square(self.size(), [x as i32, y as i32], reach)
    }

    fn size(&self) -> [i32; 2] {
        let w = self.picture.window();
        [w.width as i32, w.height as i32]
    }

    /// Pixels whose right or lower neighbour moves otherwise.
    fn jumps(&self, cancel: &Cancel) -> Result<Vec<bool>, KernelError> {
        let w = self.picture.window();
        let row = (w.width as usize).max(1);
        let mut out = vec![false; w.area()];
        out.par_chunks_mut(row).enumerate().try_for_each(|(y, out)| {
            cancel.check()?;
            let own = &self.motion[y * row..(y + 1) * row];
            let below = self.motion.get((y + 1) * row..(y + 2) * row).unwrap_or(own);
            for (x, out) in out.iter_mut().enumerate() {
                let right = own[(x + 1).min(row - 1)];
                let way = own[x] * self.span;
                *out = apart(way, right * self.span) || apart(way, below[x] * self.span);
            }
            Ok::<_, KernelError>(())
        })?;
        Ok(out)
    }

    /// How the two sides move at a rim; none where all around moves as one.
    fn sides(&self, x: usize, y: usize) -> Option<Sides> {
        let i = y * self.picture.window().width as usize + x;
        let nearest = self
            .around(x, y, self.rim)
            .map(|(j, _)| j)
            .fold(i, |a, j| if self.near[j] > self.near[a] { j } else { a });
        let near = self.displacement(nearest);
        let way = |j: usize| self.displacement(j) - near;
        let farthest = self
            .around(x, y, self.rim)
            .map(|(j, _)| j)
            .fold(nearest, |a, j| if way(j).length_squared() > way(a).length_squared() { j } else { a });
        let to_far = way(farthest);
        let length = to_far.length_squared();
        apart(near, near + to_far).then(|| Sides { near, to_far: to_far / length })
    }

    /// What is in front at a pixel, and what is known of what lies behind there.
    fn part(&self, rims: &[Option<Sides>], x: usize, y: usize, front: &mut Spot, known: &mut Spot) {
        let i = y * self.picture.window().width as usize + x;
        let Some(sides) = rims[i] else {
            // Beside a rim on its far side lies what goes on behind it.
            let own = self.displacement(i);
            let beside =
                self.around(x, y, self.rim + LOOK).any(|(j, _)| rims[j].is_some_and(|s| !s.is_near(own)));
            if beside {
                *known = self.whole(i);
            }
            return;
        };
        let mut around = Around::<4>::new();
        for (j, d) in self.around(x, y, self.rim + LOOK) {
            let side = (sides.is_near(self.displacement(j)), rims[j].is_some());
            around.add(side, self.colour(j), j, d);
        }
        let Some(both) = around.both() else { return };
        let by_shape = near_share(self.size(), [x as i32, y as i32], |j| sides.is_near(self.displacement(j)));
        let (cover, seen) = parted(self.colour(i), &both, by_shape);
        let [near, far] = both;
        let spot =
            |colour, cover, at: usize| Spot { colour, cover, motion: self.motion[at], near: self.near[at] };
        // The motion is that of the nearest pixel of each side.
        *front = spot(seen, cover, near.at);
        *known = spot(far.mean, 1.0, far.at);
    }

    /// What is known of what lies behind, carried on as far as it can come into sight.
    fn hidden(
        &self,
        front: &[Spot],
        known: Vec<Spot>,
        rims: &[bool],
        open: Open,
        cancel: &Cancel,
    ) -> Result<Sheet, KernelError> {
        let w = self.picture.window();
        let row = w.width as usize;
        let mut planes = Raster::zeros(w, PLANES);
        for_each_band(&mut planes, cancel, |band| {
            for y in band.window().rows() {
                let start = (y - w.y) as usize * row;
                let out: [&mut [f32]; PLANES] = band.rows(y);
                for (x, s) in known[start..start + row].iter().enumerate().filter(|(_, s)| s.cover > 0.0) {
                    let [r, g, b, a] = s.colour;
                    let all = [r, g, b, a, s.near, 1.0, s.motion.x, s.motion.y];
                    (0..PLANES).for_each(|c| out[c][x] = all[c]);
                }
            }
        })?;
        drop(known);
        let alike = |a: f32, b: f32| (a - b).abs() <= 0.1 * a.max(b);
        let carried = fill::carry_on::<PLANES>(&planes, alike, cancel)?;
        drop(planes);
        let far = distance::distance(w, rims, cancel)?;
        let longest = self.motion.iter().fold(0.0f32, |a, m| a.max(m.length_squared())).sqrt();
        let reach = longest * (open.closes - open.opens) * 2.0 + self.rim as f32 + 2.0;
        let mut spots = vec![Spot::default(); w.area()];
        spots.par_chunks_mut(row).enumerate().for_each(|(y, out)| {
            let rows: [&[f32]; PLANES] = carried.rows(w.y + y as i32);
            for (x, out) in out.iter_mut().enumerate() {
                let i = y * row + x;
                let [r, g, b, a, near, is, u, v] = rows.map(|r| r[x]);
                // What lies at the same place is no farther surface.
                if is > 0.0 && far.plane(0)[i] <= reach && near < front[i].near {
                    *out = Spot { colour: [r, g, b, a], cover: 1.0, motion: Vec2::new(u, v), near };
                }
            }
        });
        Ok(Sheet { window: w, spots })
    }
}

/// Colour, nearness, whether it is known, motion.
const PLANES: usize = 8;
