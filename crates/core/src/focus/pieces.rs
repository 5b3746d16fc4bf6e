//! A picture taken apart into pieces of surface.

use super::fill::{self, KNOWN, TELLS};
use super::law::STEP;
use crate::colour::unmix::{Around, parted};
use crate::raster::bands::for_each_band;
use crate::raster::distance;
use crate::{Cancel, KernelError, Raster, Window};

/// Share of its circle by which a slanted surface may change with each px.
const SLANT: f32 = 0.03;

/// Pixels beyond the soft edge in which the colour of each side is looked for.
const LOOK: i32 = 2;

/// Pieces, at most one for each pixel: premultiplied colour (4 planes), coverage, signed circle in px.
#[derive(Clone, Debug)]
pub struct Layer {
    /// The planes.
    pub raster: Raster,
    /// Smallest and largest circle of what covers anything, for each row; the first above the second if
    /// nothing does.
    pub ranges: Vec<[f32; 2]>,
}

impl Layer {
    fn new(raster: Raster) -> Self {
        let ranges = raster
            .window()
            .rows()
            .map(|y| {
                let covered = raster.row(CIRCLE, y).iter().zip(raster.row(COVER, y));
                covered
                    .filter(|(_, cover)| **cover > 0.0)
                    .fold([f32::INFINITY, f32::NEG_INFINITY], |[a, b], (s, _)| [a.min(*s), b.max(*s)])
            })
            .collect();
        Self { raster, ranges }
    }
}

/// A picture in pieces, at most two for each pixel.
#[derive(Clone, Debug)]
pub struct Pieces {
    /// What is seen; at a rim, what is in front.
    pub front: Layer,
    /// What is behind, where something is known or supposed to be.
    pub back: Option<Layer>,
    /// For each pixel, how much of what lies behind its own surface may be seen there (0..1), and the circle
    /// from which on that is. A surface whose edge is farther off than its own circle hides all that is behind
    /// it, whatever its slant does to the sum of its shares.
    pub open: Raster,
}

/// Plane of the coverage.
pub const COVER: usize = 4;
/// Plane of the signed circle.
pub const CIRCLE: usize = 5;

impl Pieces {
    /// Takes a picture (RGBA premultiplied) apart by the signed circles of its pixels, on one window. `rim`
    /// px on both sides of an edge may hold the colours of both surfaces. `hidden` is what is known of the back from
    /// elsewhere, as [`fill::carry_on`] takes it.
    ///
    /// # Errors
    /// Cancellation.
    pub fn split(
        picture: &Raster,
        radii: Raster,
        hidden: Option<&Raster>,
        rim: u32,
        cancel: &Cancel,
    ) -> Result<Self, KernelError> {
        let window = picture.window();
        let edges = Edges::find(&radii, rim, cancel)?;
        // Six planes of the front, and where there are edges six of what is known of the back.
        let mut both = Raster::zeros(window, if edges.any { 12 } else { 6 });
        let reach = rim as i32 + LOOK;
        let view = View { picture, radii: &radii, edges: &edges, reach };
        let in_sight = distance::in_square(window, &edges.is, reach as u32);
        for_each_band(&mut both, cancel, |band| {
            for y in band.window().rows() {
                for c in 0..4 {
                    band.row(c, y).copy_from_slice(picture.row(c, y));
                }
                band.row(COVER, y).fill(1.0);
                band.row(CIRCLE, y).copy_from_slice(radii.row(0, y));
                let start = (y - window.y) as usize * window.width as usize;
                for at in (0..window.width as usize).filter(|at| in_sight[start + at]) {
                    let (front, behind) = view.look(window.x + at as i32, y);
                    if let Some(piece) = front {
                        (0..6).for_each(|c| band.row(c, y)[at] = piece[c]);
                    }
                    if let Some(known) = behind {
                        (0..5).for_each(|c| band.row(6 + c, y)[at] = known[c]);
                        band.row(11, y)[at] = 1.0;
                    }
                }
            }
        })?;
        let mut data = both.into_data();
        let known = data.split_off(window.area() * 6);
        data.shrink_to_fit();
        let front = Layer::new(Raster::from_planar(window, 6, data)?);
        // Distance of each pixel to the nearest edge, px.
        let far = distance::distance(window, &edges.is, cancel)?;
        let open = open(&radii, &far, rim, cancel)?;
        let back = if edges.any {
            let known = Raster::from_planar(window, 6, known)?;
            Some(Layer::new(back(known, hidden, &front, &far, rim, cancel)?))
        } else {
            None
        };
        Ok(Self { front, back, open })
    }
}

/// How far from an edge what lies behind a pixel may be seen, px, beyond its own circle.
fn slack(rim: u32) -> f32 {
    (rim + 2) as f32
}

/// See [`Pieces::open`].
fn open(radii: &Raster, far: &Raster, rim: u32, cancel: &Cancel) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(radii.window(), 2);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (circle, far) = (radii.row(0, y), far.row(0, y));
            let [share, from] = band.rows(y);
            for i in 0..circle.len() {
                let own = circle[i].abs();
                let left = own + slack(rim) - far[i];
                share[i] = (left / (0.25 * own + 2.0)).clamp(0.0, 1.0);
                // Neighbours on the same slant are a little farther out of focus.
                from[i] = circle[i] + (0.5 * own).max(3.0);
            }
        }
    })?;
    Ok(out)
}

/// Carries on what is known of the back, and keeps it where it lies behind the front and can be seen from some
/// pixel near an edge.
fn back(
    known: Raster,
    hidden: Option<&Raster>,
    front: &Layer,
    far: &Raster,
    rim: u32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    // Planes of the fill are colour, circle, weight; those of a piece colour, coverage, circle.
    let mut filled = fill::carry_on::<6>(&known, fill::same_circle, cancel)?;
    drop(known);
    let widest = front.ranges.iter().flatten().filter(|v| v.is_finite()).fold(0.0f32, |a, v| a.max(v.abs()));
    for_each_band(&mut filled, cancel, |band| {
        for y in band.window().rows() {
            let (near, far) = (front.raster.row(CIRCLE, y), far.row(0, y));
            if let Some(hidden) = hidden {
                let told = hidden.rows::<6>(y);
                let guessed = band.rows::<6>(y);
                for at in (0..near.len()).filter(|at| told[KNOWN][*at] > 0.0) {
                    // What is farther than the guess may be seen past it on the other frame, and be hidden by it now.
                    let (seen, guess) = (told[TELLS][at], guessed[TELLS][at]);
                    if guessed[KNOWN][at] == 0.0 || seen < guess || fill::same_circle(guess, seen) {
                        (0..6).for_each(|c| guessed[c][at] = told[c][at]);
                    }
                }
            }
            let [_, _, _, _, cover, circle] = band.rows(y);
            cover.swap_with_slice(circle);
            for i in 0..near.len() {
                // A quarter more, because large circles are blurred on a coarse grid.
                let seen = far[i] <= widest + 1.25 * circle[i].abs() + slack(rim) + 2.0;
                let behind = cover[i] > 0.5 && circle[i] > near[i] + 0.5 * STEP;
                cover[i] = f32::from(u8::from(behind && seen));
            }
        }
    })?;
    Ok(filled)
}

/// Where circles jump.
pub(super) struct Edges {
    window: Window,
    /// For each pixel of a rim, the circle that parts near from far around it; NaN elsewhere.
    middle: Vec<f32>,
    /// Whether each pixel is one of a rim.
    is: Vec<bool>,
    any: bool,
}

impl Edges {
    pub(super) fn find(radii: &Raster, rim: u32, cancel: &Cancel) -> Result<Self, KernelError> {
        let window = radii.window();
        let reach = rim.clamp(1, 8) as i32;
        let mut middle = Raster::filled(window, 1, f32::NAN);
        for_each_band(&mut middle, cancel, |band| {
            for y in band.window().rows() {
                let rows: Vec<&[f32]> = (y - reach..=y + reach)
                    .filter(|&y| y >= window.y && i64::from(y) < window.bottom())
                    .map(|y| radii.row(0, y))
                    .collect();
                // Columns first: the ends of each column, then of the columns around a pixel.
                let ends = |pick: fn(f32, f32) -> f32| -> Vec<f32> {
                    let mut all = rows[0].to_vec();
                    rows[1..]
                        .iter()
                        .for_each(|r| all.iter_mut().zip(*r).for_each(|(a, v)| *a = pick(*a, *v)));
                    all
                };
                let (low, high) = (ends(f32::min), ends(f32::max));
                let out = band.row(0, y);
                let n = out.len();
                for (i, o) in out.iter_mut().enumerate() {
                    let around = i.saturating_sub(reach as usize)..(i + reach as usize + 1).min(n);
                    let least = low[around.clone()].iter().copied().fold(f32::INFINITY, f32::min);
                    let most = high[around].iter().copied().fold(f32::NEG_INFINITY, f32::max);
                    // A slant changes a little with each px, the more the larger its circles; an edge at once.
                    let slant = STEP + SLANT * most.max(-least);
                    if most - least > slant * (2 * reach) as f32 {
                        *o = 0.5 * (least + most);
                    }
                }
            }
        })?;
        let middle = middle.into_data();
        let is: Vec<bool> = middle.iter().map(|v| !v.is_nan()).collect();
        let any = is.contains(&true);
        Ok(Self { window, middle, is, any })
    }

    /// Whether each pixel is one of a rim.
    pub(super) fn are(&self) -> &[bool] {
        &self.is
    }

    fn at(&self, x: i32, y: i32) -> f32 {
        self.middle[(y - self.window.y) as usize * self.window.width as usize + (x - self.window.x) as usize]
    }
}

/// A rim pixel in two.
struct Parted {
    front: [f32; 4],
    cover: f32,
    near: f32,
    back: [f32; 4],
    far: f32,
}

struct View<'a> {
    picture: &'a Raster,
    radii: &'a Raster,
    edges: &'a Edges,
    reach: i32,
}

impl View<'_> {
    /// The front piece of a rim pixel, and what is known of the back at a pixel that sees an edge.
    fn look(&self, x: i32, y: i32) -> (Option<[f32; 6]>, Option<[f32; 5]>) {
        if self.edges.at(x, y).is_nan() {
            return (None, self.behind(x, y));
        }
        let Some(p) = self.part(x, y) else { return (None, None) };
        let [r, g, b, a] = p.front;
        let back = [p.back[0], p.back[1], p.back[2], p.back[3], p.far];
        (Some([r, g, b, a, p.cover, p.near]), Some(back))
    }

    fn colour(&self, x: i32, y: i32) -> [f32; 4] {
        let at = (x - self.picture.window().x) as usize;
        std::array::from_fn(|c| self.picture.row(c, y)[at])
    }

    fn circle(&self, x: i32, y: i32) -> f32 {
        self.radii.row(0, y)[(x - self.radii.window().x) as usize]
    }

    /// The pixels around one, with their distance squared.
    fn around(&self, x: i32, y: i32) -> impl Iterator<Item = (i32, i32, i32)> {
        let (w, n) = (self.picture.window(), self.reach);
        (-n..=n).flat_map(move |dy| (-n..=n).map(move |dx| (dx, dy))).filter_map(move |(dx, dy)| {
            let (x, y) = (x + dx, y + dy);
            w.contains(x, y).then_some((x, y, dx * dx + dy * dy))
        })
    }

    /// The colours of both sides beyond the rim, and how much of the pixel the near one covers. What is off the line
    /// between them stays with the front, so that the two pieces over each other give the pixel again.
    fn part(&self, x: i32, y: i32) -> Option<Parted> {
        let middle = self.edges.at(x, y);
        let mut around = Around::<5>::new();
        for (qx, qy, d) in self.around(x, y) {
            let ([r, g, b, a], circle) = (self.colour(qx, qy), self.circle(qx, qy));
            let side = (circle < middle, !self.edges.at(qx, qy).is_nan());
            around.add(side, [r, g, b, a, circle], 0, d);
        }
        let sides = around.both()?;
        let (cover, front) = parted(self.colour(x, y), &sides, self.near_share(x, y, middle));
        let [near, far] = sides;
        Some(Parted { front, cover, near: near.mean[4], back: far.colour(), far: far.mean[4] })
    }

    /// Share of the near side among the pixels around one, by a tent of three: what a straight edge would cover.
    fn near_share(&self, x: i32, y: i32, middle: f32) -> f32 {
        let w = self.radii.window();
        let mut share = 0.0;
        for (dy, ky) in [(-1, 0.25), (0, 0.5), (1, 0.25)] {
            for (dx, kx) in [(-1, 0.25), (0, 0.5), (1, 0.25)] {
                let at = |v: i32, low: i32, high: i64| v.clamp(low, high as i32 - 1);
                if self.circle(at(x + dx, w.x, w.right()), at(y + dy, w.y, w.bottom())) < middle {
                    share += kx * ky;
                }
            }
        }
        share
    }

    /// Colour and circle of a pixel beside a rim on its far side: it shows what lies behind.
    fn behind(&self, x: i32, y: i32) -> Option<[f32; 5]> {
        let circle = self.circle(x, y);
        let beside = self.around(x, y).any(|(qx, qy, _)| circle > self.edges.at(qx, qy));
        let [r, g, b, a] = self.colour(x, y);
        beside.then_some([r, g, b, a, circle])
    }
}
