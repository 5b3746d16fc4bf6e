//! Shadows from what the picture itself shows: from each place a ray is marched over the depth toward the lamp.
//!
//! What is known is one surface a pixel. Behind it things are taken to be as thick as the caller says, and what is
//! outside the frame, or hidden behind something, casts no shadow.

use crate::bands::for_each_band;
use crate::depth::is_depth;
use crate::lamp::{Lamp, Place};
use crate::{Camera, Cancel, KernelError, Raster, Scale, Window, reach};
use glam::{Vec2, Vec3};

/// How far a ray starts off its surface, px of the scale at that depth: half a px beside the room that fronts leave
/// for their own slope. More moves every shadow's edge.
const LIFT: f32 = 0.5;

/// Smallest cosine by which a surface's own slope is told: flatter ones differ by more than any slack should be.
const FLATTEST: f32 = 0.12;

/// Rays that are clipped before they come nearer to the camera than this share of where they began.
const NEAREST: f32 = 0.05;

/// Rays that are added where the first ones disagree.
const MORE: usize = 4;

/// Pixels of a square whose rays differ, along each side.
const PATTERN: i32 = 3;

/// Levels of the pyramid: cells of 64 px at most. Larger ones are hardly ever free of everything.
const LEVELS: usize = 7;

/// Points over a lamp's disc: one for each ray of the pixels of a square.
const POINTS: usize = (PATTERN * PATTERN) as usize * (MORE + 1);

/// What casts shadows: the surfaces in the frame, in a pyramid of the nearest fronts and the nearest backs.
///
/// Fronts and backs are held as 1/Z, which runs evenly along a ray on the screen. A ray that passes in front of all
/// fronts of a cell, or behind all of its backs, skips it whole (hierarchical-Z tracing: Uludag 2014, GPU Pro 5, with
/// the backs added).
pub struct Occluders<'a> {
    normals: &'a Raster,
    positions: &'a Raster,
    grid: Grid,
    levels: Vec<Level>,
}

/// The camera in px of the scale, whole numbers at the middles of pixels.
#[derive(Clone, Copy)]
struct Grid {
    focal: f32,
    centre: Vec2,
}

impl Grid {
    fn new(camera: Camera, scale: Scale) -> Self {
        let middle = scale.picked(0) as f32 + 0.5;
        let step = scale.step() as f32;
        let centre = (Vec2::new(camera.centre_x, camera.centre_y) - middle) / step;
        Self { focal: camera.focal / step, centre }
    }

    /// Column, row and 1/Z of a point in front of the camera.
    fn project(&self, p: Vec3) -> Vec3 {
        let w = -1.0 / p.z;
        Vec3::new(self.centre.x + p.x * self.focal * w, self.centre.y - p.y * self.focal * w, w)
    }
}

/// Cells of 2ⁿ px.
struct Level {
    width: usize,
    height: usize,
    /// Largest 1/Z of a front (0 where there is nothing) and smallest 1/Z of a back (infinite where there is nothing).
    ends: Vec<[f32; 2]>,
}

impl Level {
    fn above(below: &Self) -> Self {
        let (width, height) = (below.width.div_ceil(2), below.height.div_ceil(2));
        let mut level = Self { width, height, ends: vec![[0.0, f32::INFINITY]; width * height] };
        for y in 0..below.height {
            for x in 0..below.width {
                let ([front, back], to) = (below.ends[y * below.width + x], (y / 2) * width + x / 2);
                level.ends[to] = [level.ends[to][0].max(front), level.ends[to][1].min(back)];
            }
        }
        level
    }
}

impl<'a> Occluders<'a> {
    /// From unit normals and camera-space positions on one window, picked at `scale`. Things are as thick as they are
    /// wide on the screen, but never more than `thickness`, a share of their depth: see [`edges`].
    ///
    /// # Errors
    /// Shapes that do not match; cancellation.
    pub fn new(
        normals: &'a Raster,
        positions: &'a Raster,
        camera: Camera,
        scale: Scale,
        thickness: f32,
        cancel: &Cancel,
    ) -> Result<Self, KernelError> {
        normals.expect_channels("normals", 3)?;
        positions.expect_channels("position", 3)?;
        positions.expect_window("position", normals.window())?;
        let window = normals.window();
        let grid = Grid::new(camera, scale);
        let inside = reach::distance(window, &edges(normals, positions), cancel)?;
        let mut ends = Raster::zeros(window, 2);
        for_each_band(&mut ends, cancel, |band| {
            for y in band.window().rows() {
                let (n, p, inside) = (normals.rows::<3>(y), positions.rows::<3>(y), inside.row(0, y));
                let [front, back] = band.rows(y);
                for i in 0..front.len() {
                    let (n, p) = (Vec3::new(n[0][i], n[1][i], n[2][i]), Vec3::new(p[0][i], p[1][i], p[2][i]));
                    let thick = thickness.min((2.0 * inside[i] + 1.0) / grid.focal);
                    (front[i], back[i]) = ends_of(n, p, grid.focal, thick);
                }
            }
        })?;
        let mut levels = vec![Level {
            width: window.width as usize,
            height: window.height as usize,
            ends: ends.plane(0).iter().zip(ends.plane(1)).map(|(&front, &back)| [front, back]).collect(),
        }];
        while let Some(last) = levels.last().filter(|l| l.width.max(l.height) > 1 && levels.len() < LEVELS) {
            levels.push(Level::above(last));
            cancel.check()?;
        }
        Ok(Self { normals, positions, grid, levels })
    }

    /// Share of a lamp that each place sees, 0..=1, one plane on the window; 1 where there is no surface or it faces
    /// away. Soft where the lamp has a size: the farther the blocker from the surface, the softer (rays go to points
    /// all over the lamp, other ones from each pixel of a square of nine, and what differs is averaged over that square).
    ///
    /// # Errors
    /// Cancellation.
    pub fn seen(&self, lamp: &Lamp, cancel: &Cancel) -> Result<Raster, KernelError> {
        let window = self.normals.window();
        let rays = Rays { occluders: self, lamp, points: disc() };
        let first = rays.cast(window, cancel)?;
        let more = if lamp.size > 0.0 { rays.refine(&first, cancel)? } else { first };
        self.smooth(&more, lamp.size > 0.0, cancel)
    }

    fn place(&self, i: usize) -> (Vec3, Vec3) {
        let at = |r: &Raster| Vec3::from_array(std::array::from_fn(|c| r.plane(c)[i]));
        (at(self.normals), at(self.positions))
    }

    /// Whether something lies between two points.
    fn blocked(&self, from: Vec3, to: Vec3) -> bool {
        let to = clipped(from, to);
        let (a, b) = (self.grid.project(from), self.grid.project(to));
        let window = self.normals.window();
        let corner = Vec2::new(window.x as f32 - 0.5, window.y as f32 - 0.5);
        Walk::new(a, b, corner, &self.levels).is_some_and(|mut walk| walk.meets(&self.levels))
    }

    /// Averages what differs over the 3×3 px around, on one surface: evenly where each pixel has other rays, as a tent
    /// where shadows are hard, which leaves them no stairs.
    fn smooth(&self, seen: &Raster, even: bool, cancel: &Cancel) -> Result<Raster, KernelError> {
        let window = seen.window();
        let (width, height) = (window.width as i32, window.height as i32);
        let plane = seen.plane(0);
        let mut out = Raster::zeros(window, 1);
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                let row = y - window.y;
                for (x, v) in (0i32..).zip(band.row(0, y)) {
                    let here = (row * width + x) as usize;
                    let own = plane[here];
                    *v = own.min(1.0);
                    if own > 1.0 {
                        continue;
                    }
                    let around = || {
                        (-1..=1).flat_map(move |dy| (-1i32..=1).map(move |dx| (dx, dy))).filter_map(
                            |(dx, dy)| {
                                let (px, py) = (x + dx, row + dy);
                                let inside = (0..width).contains(&px) && (0..height).contains(&py);
                                inside.then_some((dx, dy, (py * width + px) as usize))
                            },
                        )
                    };
                    if around().all(|(_, _, i)| plane[i] == own || plane[i] > 1.0) {
                        continue;
                    }
                    let (n, p) = self.place(here);
                    let (mut sum, mut weight) = (0.0, 0.0);
                    for (dx, dy, i) in around().filter(|&(_, _, i)| plane[i] <= 1.0) {
                        let (m, q) = self.place(i);
                        if n.dot(m) > 0.9 && (q - p).dot(n).abs() < 0.01 * -p.z {
                            let w = if even { 1.0 } else { [4.0, 2.0, 1.0][(dx.abs() + dy.abs()) as usize] };
                            sum += w * plane[i];
                            weight += w;
                        }
                    }
                    *v = if weight > 0.0 { sum / weight } else { own };
                }
            }
        })?;
        Ok(out)
    }
}

/// How far behind a surface's plane its neighbour must lie to be another one, as a share of the depth.
const STEP: f32 = 0.01;

/// The pixels along the edges of things: beside them lies nothing, or something behind. Twice the distance from there is
/// how thick a thing is taken to be, as a ball or a rod of that width would be at least (own derivation: the chord of a
/// circle at depth d under its rim is 2√(2Rd − d²), which is 2d or more). Without it every wire casts the shadow of a
/// curtain.
fn edges(normals: &Raster, positions: &Raster) -> Vec<bool> {
    let window = normals.window();
    let (w, h) = (window.width as usize, window.height as usize);
    let at = |r: &Raster, i: usize| Vec3::from_array(std::array::from_fn(|c| r.plane(c)[i]));
    let mut found = vec![false; w * h];
    for (i, found) in found.iter_mut().enumerate() {
        let (x, y) = (i % w, i / w);
        let (n, p) = (at(normals, i), at(positions, i));
        if !is_depth(-p.z) {
            continue;
        }
        let ends = |j: usize| {
            let q = at(positions, j);
            !is_depth(-q.z) || (q - p).dot(n) < STEP * p.z
        };
        *found = (x > 0 && ends(i - 1))
            || (x + 1 < w && ends(i + 1))
            || (y > 0 && ends(i - w))
            || (y + 1 < h && ends(i + w));
    }
    found
}

/// 1/Z of a surface's front, which leaves its own slope room, and of its back.
fn ends_of(n: Vec3, p: Vec3, focal: f32, thickness: f32) -> (f32, f32) {
    let depth = -p.z;
    if !is_depth(depth) || n.length_squared().is_nan() || n.length_squared() < 0.25 {
        return (0.0, f32::INFINITY);
    }
    let facing = n.dot(-p.normalize()).max(FLATTEST);
    let slack = depth / focal * (0.5 + 0.75 * (n.x.abs() + n.y.abs()) / facing);
    (1.0 / (depth + slack), 1.0 / (depth + slack + thickness * depth))
}

/// The end of a segment, brought forward if it would come too near to the camera or behind it.
fn clipped(from: Vec3, to: Vec3) -> Vec3 {
    let nearest = from.z * NEAREST;
    if to.z <= nearest { to } else { from + (to - from) * ((from.z - nearest) / (from.z - to.z)) }
}

/// Points spread evenly over the unit disc (Vogel 1979: turned by the golden angle, farther out as the root).
fn disc() -> [Vec2; POINTS] {
    std::array::from_fn(|i| {
        let (r, a) = (((i as f32 + 0.5) / POINTS as f32).sqrt(), i as f32 * 2.399_963);
        Vec2::new(r * a.cos(), r * a.sin())
    })
}

/// The point of the disc for a ray of a pixel: neighbours in a square of nine have others, and the rays of one pixel
/// lie far apart.
fn point_of(x: i32, y: i32, ray: usize) -> usize {
    let place = (y.rem_euclid(PATTERN) * PATTERN + x.rem_euclid(PATTERN)) as usize;
    // 4 is prime to 9: neighbours do not have neighbouring points.
    ray * (PATTERN * PATTERN) as usize + (place * 4) % (PATTERN * PATTERN) as usize
}

struct Rays<'a> {
    occluders: &'a Occluders<'a>,
    lamp: &'a Lamp,
    points: [Vec2; POINTS],
}

/// What is written for a place that no ray is cast from.
const NONE: f32 = 2.0;

impl Rays<'_> {
    /// One ray for each pixel.
    fn cast(&self, window: Window, cancel: &Cancel) -> Result<Raster, KernelError> {
        let mut out = Raster::zeros(window, 1);
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                let start = (y - window.y) as usize * window.width as usize;
                for (i, v) in band.row(0, y).iter_mut().enumerate() {
                    let (n, p) = self.occluders.place(start + i);
                    let begin = self.begins(n, p);
                    *v = begin.map_or(NONE, |from| self.free(from, p, (window.x + i as i32, y), 0));
                }
            }
        })?;
        Ok(out)
    }

    /// More rays where the first ones around disagree.
    fn refine(&self, first: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
        let window = first.window();
        let mut out = Raster::zeros(window, 1);
        let wide = window.width as i32;
        for_each_band(&mut out, cancel, |band| {
            for y in band.window().rows() {
                let own = first.row(0, y);
                let rows: Vec<&[f32]> = (y - 2..=y + 2)
                    .filter(|&y| window.contains(window.x, y))
                    .map(|y| first.row(0, y))
                    .collect();
                let start = (y - window.y) as usize * window.width as usize;
                for (x, v) in (0i32..).zip(band.row(0, y)) {
                    let here = own[x as usize];
                    *v = here;
                    let columns = (x - 2).max(0) as usize..(x + 3).min(wide) as usize;
                    let differs = |r: &&[f32]| r[columns.clone()].iter().any(|&v| v != here && v != NONE);
                    if here == NONE || !rows.iter().any(differs) {
                        continue;
                    }
                    let (n, p) = self.occluders.place(start + x as usize);
                    if let Some(from) = self.begins(n, p) {
                        let at = (window.x + x, y);
                        let more: f32 = (1..=MORE).map(|ray| self.free(from, p, at, ray)).sum();
                        *v = (here + more) / (MORE + 1) as f32;
                    }
                }
            }
        })?;
        Ok(out)
    }

    /// Where the rays of a place begin; `None` where there is no surface or the lamp is behind it.
    fn begins(&self, n: Vec3, p: Vec3) -> Option<Vec3> {
        let there = is_depth(-p.z) && n.length_squared() > 0.25;
        let toward = match self.lamp.place {
            Place::Directional { toward } => toward,
            Place::Point { position } | Place::Spot { position, .. } => position - p,
        };
        (there && n.dot(toward) > 0.0).then(|| p + n * (LIFT * -p.z / self.occluders.grid.focal))
    }

    /// 1 if a ray reaches its point of the lamp, else 0.
    fn free(&self, from: Vec3, p: Vec3, (x, y): (i32, i32), ray: usize) -> f32 {
        let off = self.points[point_of(x, y, ray)] * self.lamp.size;
        let to = match self.lamp.place {
            Place::Directional { toward } => {
                let (u, v) = toward.any_orthonormal_pair();
                let bent = toward + (u * off.x + v * off.y) * f32::from(u8::from(self.lamp.size > 0.0));
                // A thousand times as far away as the place itself is as good as endless on a screen.
                from + bent * (1e3 * -p.z)
            }
            Place::Point { position } | Place::Spot { position, .. } => {
                let (u, v) = (position - p).normalize_or(Vec3::Z).any_orthonormal_pair();
                position + u * off.x + v * off.y
            }
        };
        f32::from(u8::from(!self.occluders.blocked(from, to)))
    }
}

/// A ray on its way over the cells.
struct Walk {
    /// Column, row (from the window's corner) and 1/Z where it begins.
    start: Vec3,
    /// What they gain over the whole way.
    run: Vec3,
    /// Shares of the way for a px; huge where it does not move along that axis.
    inverse: Vec2,
    /// 1 for an axis along which it rises: its cells are left on that side.
    side: [u32; 2],
    /// Share of the way that is gone, and at which it ends.
    t: f32,
    end: f32,
    /// A thousandth of a px, so that it is over a cell's edge for sure.
    nudge: f32,
}

impl Walk {
    /// `None` if it never leaves its pixel.
    fn new(a: Vec3, b: Vec3, corner: Vec2, levels: &[Level]) -> Option<Self> {
        let (start, run) = (a - corner.extend(0.0), b - a);
        let longest = run.x.abs().max(run.y.abs());
        let size = levels.first().map(|l| Vec2::new(l.width as f32, l.height as f32))?;
        if !(longest > 1e-3 && longest.is_finite()) {
            return None;
        }
        let inverse = Vec2::new(inverted(run.x), inverted(run.y));
        let side = [u32::from(inverse.x > 0.0), u32::from(inverse.y > 0.0)];
        let leaves =
            |s: f32, size: f32, inverse: f32| if inverse > 0.0 { (size - s) * inverse } else { -s * inverse };
        let end = leaves(start.x, size.x, inverse.x).min(leaves(start.y, size.y, inverse.y)).min(1.0);
        let mut walk = Self { start, run, inverse, side, t: 0.0, end, nudge: 1e-3 / longest };
        let (x, y) = walk.pixel();
        walk.t = walk.exit(x, y, 0);
        Some(walk)
    }

    /// The pixel that it is in: a frame is never left at its upper or left edge, since the way ends there.
    #[inline(always)]
    fn pixel(&self) -> (u32, u32) {
        ((self.start.x + self.run.x * self.t) as u32, (self.start.y + self.run.y * self.t) as u32)
    }

    /// Share of the way at which it leaves a cell.
    #[inline(always)]
    fn exit(&self, x: u32, y: u32, level: u32) -> f32 {
        let edge = |cell: u32, side: u32| (((cell >> level) + side) << level) as f32;
        let across = (edge(x, self.side[0]) - self.start.x) * self.inverse.x;
        let down = (edge(y, self.side[1]) - self.start.y) * self.inverse.y;
        let t = if across < down { across } else { down };
        (if t > self.t { t } else { self.t }) + self.nudge
    }

    /// Whether it goes through something before its end.
    fn meets(&mut self, levels: &[Level]) -> bool {
        let (mut level, top) = (0, levels.len() - 1);
        let (mut x, mut y) = self.pixel();
        while self.t < self.end {
            let cells = &levels[level];
            let (column, row) = ((x >> level) as usize, (y >> level) as usize);
            if column >= cells.width || row >= cells.height {
                return false;
            }
            let [front, back] = cells.ends[row * cells.width + column];
            let exit = self.exit(x, y, level as u32);
            let (w0, w1) = (self.start.z + self.run.z * self.t, self.start.z + self.run.z * exit);
            if w0.min(w1) >= front || w0.max(w1) <= back {
                self.t = exit;
                let (from_x, from_y) = (x, y);
                (x, y) = self.pixel();
                // The cell above is tried only where it is another one: it could not be skipped before.
                let above = level + 1;
                if level < top && ((x ^ from_x) | (y ^ from_y)) >> above != 0 {
                    level = above;
                }
            } else if level > 0 {
                level -= 1;
            } else {
                let middle = 0.5 * (w0 + w1);
                if middle < front && middle > back {
                    return true;
                }
                self.t = exit;
                (x, y) = self.pixel();
            }
        }
        false
    }
}

/// 1/v, huge and still a number for none.
fn inverted(v: f32) -> f32 {
    if v.abs() > 1e-12 { 1.0 / v } else { 1e12 }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::surface::normals::from_positions;

    const W: Window = Window::of_size(240, 160);
    const CAMERA: Camera = Camera { focal: 200.0, centre_x: 120.0, centre_y: 80.0, world: None };

    struct Scene {
        normals: Raster,
        positions: Raster,
        scale: Scale,
    }

    /// A scene from a depth, at a scale.
    fn scene(depth: impl Fn(f32, f32) -> f32, scale: Scale) -> Scene {
        let depth = Raster::from_fn(scale.window(W), 1, |_, x, y| {
            depth(scale.picked(x) as f32 + 0.5, scale.picked(y) as f32 + 0.5)
        });
        let positions = CAMERA.positions(&depth, scale, &Cancel::new()).unwrap();
        let normals = from_positions(&positions, &Cancel::new()).unwrap();
        Scene { normals, positions, scale }
    }

    fn seen(s: &Scene, lamp: Lamp, thickness: f32) -> Raster {
        let cancel = Cancel::new();
        let o = Occluders::new(&s.normals, &s.positions, CAMERA, s.scale, thickness, &cancel).unwrap();
        o.seen(&lamp, &cancel).unwrap()
    }

    fn sun(toward: Vec3, size: f32) -> Lamp {
        Lamp { place: Place::Directional { toward: toward.normalize() }, power: [1.0; 3], size }
    }

    /// A wall at depth 10 and a plate at depth 8 that covers columns 100..140 and rows 60..100.
    fn plate(x: f32, y: f32) -> f32 {
        if (100.0..140.0).contains(&x) && (60.0..100.0).contains(&y) { 8.0 } else { 10.0 }
    }

    #[test]
    fn a_plate_shades_the_wall_where_geometry_says() {
        // The light comes from the left at 45°: over 2 units of distance the shadow moves 2 units to the right.
        // The plate's edges lie at x = ±20·8/200 = ±0.8 units, its shadow at 1.2..2.8; its thickness of 0.16 units
        // carries the near edge to 1.04. They are seen in px 141..176.
        // Three px of the scale are left for the room that fronts have.
        for (n, slack) in [(0, 3), (1, 6)] {
            let s = scene(plate, Scale::halved(n).unwrap());
            let v = seen(&s, sun(Vec3::new(-1.0, 0.0, 1.0), 0.0), 0.02);
            let at = |x: i32, y: i32| v.sample(0, x >> n, y >> n).unwrap();
            // Rows of the plate's shadow: ±0.8 units at depth 10 are ±16 px.
            for y in [80, 70, 90] {
                assert_eq!(at(160, y), 0.0, "scale {n}");
                assert_eq!(at(141 + slack, y), 0.0, "scale {n}");
                assert_eq!((at(176 - slack, y), at(176 + slack, y)), (0.0, 1.0), "scale {n}");
            }
            assert_eq!((at(160, 80 - 16 - slack), at(160, 80 + 16 + slack)), (1.0, 1.0));
            assert_eq!((at(50, 80), at(120, 80)), (1.0, 1.0), "the wall's other side and the plate itself");
        }
    }

    #[test]
    fn softness_grows_with_the_lamp() {
        let s = scene(plate, Scale::FULL);
        let v = seen(&s, sun(Vec3::new(-1.0, 0.0, 1.0), 0.1), 0.02);
        let row: Vec<f32> =
            (160..200).map(|x| (70..90).map(|y| v.sample(0, x, y).unwrap()).sum::<f32>() / 20.0).collect();
        let ramp = row.iter().filter(|v| (0.05..0.95).contains(*v)).count();
        // The shadow's far edge: directions ±0.1 about 45°, over 2√2 units, meet the wall ±0.4 units away, that is in
        // a ramp of 16 px; a disc spends 0.05..0.95 of its area in the middle 83 % of its width.
        assert!((8..=15).contains(&ramp), "{ramp}: {row:?}");
        assert!(row.windows(2).all(|w| w[1] >= w[0] - 0.1), "it rises evenly: {row:?}");
        let middle = row.iter().position(|v| *v >= 0.5).unwrap() as i32 + 160;
        assert!((174..=178).contains(&middle), "its middle stays: {middle}");
    }

    #[test]
    fn nothing_shades_itself() {
        // Tilted planes and a ball, lit from many sides.
        let ball = |x: f32, y: f32| {
            let r2 = ((x - 120.0).powi(2) + (y - 80.0).powi(2)) / 3600.0;
            if r2 < 1.0 { 10.0 - 2.5 * (1.0 - r2).sqrt() } else { f32::INFINITY }
        };
        let tilted = |x: f32, y: f32| 10.0 / (1.0 + 0.004 * (x - 120.0) - 0.003 * (y - 80.0));
        let scenes: [&dyn Fn(f32, f32) -> f32; 2] = [&tilted, &ball];
        for s in scenes.map(|f| scene(f, Scale::FULL)) {
            for k in 0..8 {
                let (sin, cos) = (k as f32 * 0.785).sin_cos();
                let lamp = sun(Vec3::new(sin, cos, 0.4), 0.0);
                let v = seen(&s, lamp, 0.1);
                let Place::Directional { toward } = lamp.place else { unreachable!() };
                let lit = |i: usize| {
                    Vec3::from_array(std::array::from_fn(|c| s.normals.plane(c)[i])).dot(toward) > 0.15
                };
                let all = (0..W.area()).filter(|&i| lit(i)).count();
                let dark = (0..W.area()).filter(|&i| lit(i) && v.plane(0)[i] < 0.99).count();
                assert!(dark * 200 <= all, "{dark} of {all} px from {sin} {cos}");
            }
        }
    }

    #[test]
    fn things_are_as_thick_as_is_said() {
        // The lamp stands behind the plate's plane, low: its rays to the wall pass behind the plate.
        let s = scene(plate, Scale::FULL);
        let bulb =
            Lamp { place: Place::Point { position: Vec3::new(-3.0, 0.0, -9.0) }, power: [1.0; 3], size: 0.0 };
        assert_eq!(seen(&s, bulb, 0.01).sample(0, 180, 80), Some(1.0), "they pass behind a thin plate");
        assert_eq!(seen(&s, bulb, 0.5).sample(0, 180, 80), Some(0.0), "and hit a thick one");
        let inside = Lamp { place: Place::Point { position: Vec3::new(0.0, 0.0, 1.0) }, ..bulb };
        assert_eq!(
            seen(&s, inside, 0.1).sample(0, 10, 10),
            Some(1.0),
            "a lamp behind the camera lights all it sees"
        );
    }

    #[test]
    fn degenerate_scenes_are_fine() {
        let empty = scene(|_, _| f32::INFINITY, Scale::FULL);
        let v = seen(&empty, sun(Vec3::new(1.0, 0.0, 0.2), 0.1), 0.1);
        assert!(v.plane(0).iter().all(|v| *v == 1.0));
        let none = Raster::zeros(Window::of_size(0, 0), 3);
        let o = Occluders::new(&none, &none, CAMERA, Scale::FULL, 0.1, &Cancel::new()).unwrap();
        assert!(o.seen(&sun(Vec3::Z, 0.0), &Cancel::new()).unwrap().window().is_empty());
    }
}
