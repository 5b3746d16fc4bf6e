//! Shadows from what the picture itself shows: light is followed over the depth, away from the lamp.
//!
//! What is known is one surface a pixel. Behind it things are as thick as their own surface tells, and what is
//! outside the frame, or hidden behind something, casts no shadow.

mod covered;
mod sweep;
mod thick;

use crate::depth::is_depth;
use crate::light::beside::{apart, dot, with_beside};
use crate::light::lamp::{Lamp, Place};
use crate::raster::bands::for_each_band;
use crate::{Camera, Cancel, KernelError, Raster, Scale, Window};
use glam::{Vec2, Vec3};
use rayon::prelude::*;
use sweep::{Cell, Cells, Rows, Source, Tally, sweep};
use thick::STEP;

/// How far a ray starts off its surface, px of the scale at that depth: half a px beside the room that fronts leave
/// for their own slope. More moves every shadow's edge.
const LIFT: f32 = 0.5;

/// Smallest cosine by which a surface's own slope is told: flatter ones differ by more than any slack should be.
const FLATTEST: f32 = 0.12;

/// Points of a lamp that has a size.
const POINTS: usize = 12;

/// Of how many px one is met by the lines of one of these points: each is met by those of about three, and the nine
/// around it by those of most. Closer lines of fewer points leave less grain for the same work than the other way round
/// (see the test), but their steps are seen in a wide penumbra.
const SPACING: u32 = 4;

/// How far apart the px lie that are averaged in wide penumbras, one time after the other.
const SETTLED: [isize; 2] = [1, 2];

/// What casts shadows: the surfaces in the frame.
pub struct Occluders<'a> {
    normals: &'a Raster,
    positions: &'a Raster,
    focal: f32,
    centre: Vec2,
    cells: Cells,
    /// Which of the pixels around see the same surface, a bit each: see [`AROUND`].
    same: Rows<u8>,
}

impl<'a> Occluders<'a> {
    /// From unit normals and camera-space positions on one window, picked at `scale`. Things are as thick as
    /// is told by what is seen of them (see the module `thick`), but never more than `thickness`, a share of their depth.
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
        let (focal, centre) = on_grid(camera, scale, window);
        let thick = thick::thickness(normals, positions, focal, cancel)?;
        let mut cells = Rows::together(window.width as usize, window.height as usize);
        let rows = cells.all.par_chunks_mut(cells.stride).zip(thick.par_chunks(cells.width.max(1)));
        rows.enumerate().try_for_each(|(row, (cells, thick))| {
            cancel.check()?;
            let y = window.y + row as i32;
            let (n, p) = (normals.rows::<3>(y), positions.rows::<3>(y));
            for (i, (cell, thick)) in cells.iter_mut().zip(thick).enumerate() {
                let at = |rows: &[&[f32]; 3]| [rows[0][i], rows[1][i], rows[2][i]];
                *cell = cell_of(at(&n), at(&p), focal, thickness.min(*thick));
            }
            Ok::<_, KernelError>(())
        })?;
        let same = same_surface(normals, positions, &cells, cancel)?;
        Ok(Self { normals, positions, focal, centre, cells: Cells::new(cells), same })
    }

    /// Share of a lamp that each place sees, 0..=1, one plane on the window; 1 where there is no surface or it faces
    /// away. Soft where the lamp has a size: the farther the blocker from the surface, the softer (light comes from
    /// points all over the lamp, and what differs is averaged over the nine px around).
    ///
    /// # Errors
    /// Cancellation.
    pub fn seen(&self, lamp: &Lamp, cancel: &Cancel) -> Result<Raster, KernelError> {
        let (points, spacing) = if lamp.size > 0.0 { (POINTS, SPACING) } else { (1, 1) };
        self.seen_by(lamp, points, spacing, cancel)
    }

    /// The same, with so many points of the lamp whose lines meet one of so many px.
    fn seen_by(
        &self,
        lamp: &Lamp,
        points: usize,
        spacing: u32,
        cancel: &Cancel,
    ) -> Result<Raster, KernelError> {
        let sources = self.sources(lamp, points);
        let mut tallies = sweep(&self.cells, &sources, spacing, cancel)?;
        let kinds = self.kinds(lamp, &mut tallies);
        let mut seen = self.smooth(lamp.size > 0.0, &tallies, &kinds, cancel)?;
        if lamp.size > 0.0 {
            let mut other = Raster::zeros(seen.window(), 1);
            for step in SETTLED {
                self.settle(&seen, &mut other, step, cancel)?;
                std::mem::swap(&mut seen, &mut other);
            }
        }
        Ok(seen)
    }

    /// The points that stand for a lamp.
    fn sources(&self, lamp: &Lamp, count: usize) -> Vec<Source> {
        let source = |place, endless| Source::new(place, endless, self.focal, self.centre);
        match lamp.place {
            Place::Directional { toward } => {
                let (u, v) = toward.any_orthonormal_pair();
                let bent = |off: Vec2| toward + (u * off.x + v * off.y) * lamp.size;
                disc(count).map(|off| source(bent(off), true)).collect()
            }
            Place::Point { position } | Place::Spot { position, .. } => {
                ball(count).map(|off| source(position + off * lamp.size, false)).collect()
            }
        }
    }

    /// What the lines of each pixel say. Counts are taken away where a surface faces away from the lamp, and does not see
    /// it anyway.
    fn kinds(&self, lamp: &Lamp, tallies: &mut Rows<Tally>) -> Rows<u8> {
        let window = self.normals.window();
        let (far, at) = match lamp.place {
            Place::Directional { toward } => (0.0, toward),
            Place::Point { position } | Place::Spot { position, .. } => (1.0, position),
        };
        let (mut kinds, stride) = (Rows::new(tallies.width, tallies.height), tallies.stride);
        let rows = kinds.all.par_chunks_mut(stride).zip(tallies.all.par_chunks_mut(stride));
        rows.zip(self.cells.rows.all.par_chunks(stride)).enumerate().for_each(
            |(row, ((kinds, tallies), cells))| {
                let y = window.y + row as i32;
                let ([nx, ny, nz], [px, py, pz]) = (self.normals.rows::<3>(y), self.positions.rows::<3>(y));
                for i in 0..nx.len() {
                    let toward = (at.x - far * px[i], at.y - far * py[i], at.z - far * pz[i]);
                    let faces = nx[i] * toward.0 + ny[i] * toward.1 + nz[i] * toward.2 > 0.0;
                    if faces && cells[i].is_there() {
                        kinds[i] = tallies[i].kind();
                    } else {
                        tallies[i] = Tally::default();
                    }
                }
            },
        );
        kinds
    }

    /// Averages what differs over the 3×3 px around, on one surface: evenly where each pixel has other rays, as a tent
    /// where shadows are hard, which leaves them no stairs.
    fn smooth(
        &self,
        even: bool,
        tallies: &Rows<Tally>,
        kinds: &Rows<u8>,
        cancel: &Cancel,
    ) -> Result<Raster, KernelError> {
        let window = self.normals.window();
        let mut out = Raster::zeros(window, 1);
        for_each_band(&mut out, cancel, |band| {
            let mut near = vec![0; tallies.stride];
            for y in band.window().rows() {
                let row = (y - window.y) as usize;
                gathered(&kinds.all, row, &mut near);
                let start = row * tallies.stride;
                for ((i, v), near) in (start..).zip(band.row(0, y)).zip(&near) {
                    *v = match (*near, kinds.all[i]) {
                        (FREE | 0, _) | (_, 0) => 1.0,
                        (DARK, _) => 0.0,
                        _ => self.average(even, tallies, i),
                    };
                }
            }
        })?;
        Ok(out)
    }

    /// Share of the lines that are free over the 3×3 px around one, as far as they see the same surface.
    fn average(&self, even: bool, tallies: &Rows<Tally>, i: usize) -> f32 {
        let at = |i: usize, weight: u32| {
            let t = tallies.all[i];
            [u32::from(t.free) * weight, u32::from(t.lines) * weight]
        };
        let [mut free, mut lines] = at(i, if even { 1 } else { 4 });
        for (bit, (dx, dy)) in AROUND.into_iter().enumerate() {
            if self.same.all[i] >> bit & 1 == 1 {
                let weight = if even || dx != 0 && dy != 0 { 1 } else { 2 };
                let [f, l] = at(i.wrapping_add_signed(dy * tallies.stride as isize + dx), weight);
                free += f;
                lines += l;
            }
        }
        if lines > 0 { free as f32 / lines as f32 } else { 1.0 }
    }

    /// Takes the grain out of wide penumbras: averages over the 3×3 px that lie `step` apart, where all of them that see
    /// the same surface see a part of the lamp. Beside a sharp edge some see all or nothing, and it stays as it is.
    fn settle(
        &self,
        seen: &Raster,
        out: &mut Raster,
        step: isize,
        cancel: &Cancel,
    ) -> Result<(), KernelError> {
        let width = seen.window().width as isize;
        let (stride, top, plane) = (self.same.stride as isize, seen.window().y, seen.plane(0));
        let part = |v: f32| v > 0.0 && v < 1.0;
        for_each_band(out, cancel, |band| {
            for y in band.window().rows() {
                let (row, own) = ((y - top) as isize, seen.row(0, y));
                let out = band.row(0, y);
                out.copy_from_slice(own);
                for (x, v) in (0..width).zip(out).filter(|(_, v)| part(**v)) {
                    let (mut sum, mut count) = (*v, 1.0);
                    let all_parts = AROUND.into_iter().enumerate().all(|(bit, (dx, dy))| {
                        // On the same surface all the way there.
                        let same =
                            |k| self.same.all[((row + dy * k) * stride + x + dx * k) as usize] >> bit & 1;
                        if (0..step).any(|k| same(k) == 0) {
                            return true;
                        }
                        let other = plane[((row + dy * step) * width + x + dx * step) as usize];
                        sum += other;
                        count += 1.0;
                        part(other)
                    });
                    if all_parts {
                        *v = sum / count;
                    }
                }
            }
        })?;
        Ok(())
    }
}

/// The pixels around one.
const AROUND: [(isize, isize); 8] = [(-1, -1), (0, -1), (1, -1), (-1, 0), (1, 0), (-1, 1), (0, 1), (1, 1)];

/// Which of the pixels around each one lie on the same surface: they face about the same way and lie about in its plane.
fn same_surface(
    normals: &Raster,
    positions: &Raster,
    cells: &Rows<Cell>,
    cancel: &Cancel,
) -> Result<Rows<u8>, KernelError> {
    let mut same = Rows::new(cells.width, cells.height);
    same.all.par_chunks_mut(same.stride).enumerate().try_for_each(|(row, bits)| {
        cancel.check()?;
        let bits = &mut bits[..cells.width];
        for (bit, way) in AROUND.into_iter().enumerate() {
            with_beside(normals, positions, row, way, bits, |bits, [n, m], [p, q]| {
                let far = dot(apart(p, q), n).abs();
                *bits |= u8::from((dot(n, m) > 0.9) & (far < -STEP * p[2])) << bit;
            });
        }
        Ok::<_, KernelError>(())
    })?;
    Ok(same)
}

/// What the lines of a pixel say: all free, none free, or both; 0 where no surface faces the lamp.
const FREE: u8 = 1;
const DARK: u8 = 2;

impl Tally {
    /// A pixel that no line has met is unlike both, so that those around are asked.
    fn kind(self) -> u8 {
        match (self.lines, self.free) {
            (0, _) => FREE | DARK,
            (_, 0) => DARK,
            (lines, free) if free == lines => FREE,
            _ => FREE | DARK,
        }
    }
}

/// What the 3×3 px around say together, along a row that is as long as `near`.
fn gathered(kinds: &[u8], row: usize, near: &mut [u8]) {
    let width = near.len();
    let at = |row: usize| kinds.get(row * width..(row + 1) * width).unwrap_or(&[]);
    near.copy_from_slice(at(row));
    for other in row.checked_sub(1).into_iter().chain([row + 1]) {
        near.iter_mut().zip(at(other)).for_each(|(n, o)| *n |= o);
    }
    // The row as it was is needed to both sides.
    let mut left = 0;
    for x in 0..width {
        let right = near.get(x + 1).copied().unwrap_or(0);
        let own = near[x];
        near[x] = left | own | right;
        left = own;
    }
}

/// Focal length and principal point in px of the scale from the window's corner, whole numbers at the middles of pixels.
fn on_grid(camera: Camera, scale: Scale, window: Window) -> (f32, Vec2) {
    let middle = scale.picked(0) as f32 + 0.5;
    let step = scale.step() as f32;
    let centre = (Vec2::new(camera.centre_x, camera.centre_y) - middle) / step;
    (camera.focal / step, centre - Vec2::new(window.x as f32, window.y as f32))
}

/// A surface's front, which leaves its own slope room, its back, and where its rays begin.
fn cell_of(n: [f32; 3], p: [f32; 3], focal: f32, thickness: f32) -> Cell {
    let depth = -p[2];
    let there = is_depth(depth) & (dot(n, n) >= 0.25);
    // How far its front lies behind it and where its rays begin, as shares of the depth, of which a px is 1/focal.
    let far = dot(p, p).sqrt();
    let slope = 0.75 * (n[0].abs() + n[1].abs()) * far / (-dot(n, p)).max(FLATTEST * far);
    let (front, begin) = (1.0 + (0.5 + slope) / focal, 1.0 - LIFT / focal);
    let cell = Cell::new(1.0 / (depth * front), 1.0 / (depth * (front + thickness)), 1.0 / (depth * begin));
    if there { cell } else { Cell::default() }
}

/// Turn from one point of a spiral to the next, so that they lie evenly (the golden angle: Vogel 1979).
const TURN: f32 = 2.399_963;

/// Points spread evenly over the unit disc (Vogel 1979).
fn disc(count: usize) -> impl Iterator<Item = Vec2> {
    let middle = if count == 1 { 0.0 } else { 0.5 };
    (0..count).map(move |i| Vec2::from_angle(i as f32 * TURN) * ((i as f32 + middle) / count as f32).sqrt())
}

/// Points in the unit ball that are spread evenly over a disc from wherever they are seen: their density is
/// 1/(π²√(1 − r²)), of which the Abel transform is 1/π (own derivation), so that a share (2/π)(asin r − r√(1 − r²)) of
/// them lies within r.
fn ball(count: usize) -> impl Iterator<Item = Vec3> {
    (0..count).map(move |i| {
        if count == 1 {
            return Vec3::ZERO;
        }
        // Heights run evenly down the spiral; radii take their turns in an order of their own (the share of the plastic
        // number: Roberts 2018, "The unreasonable effectiveness of quasirandom sequences").
        let height = 1.0 - (2 * i + 1) as f32 / count as f32;
        let share = ((i as f32 + 0.5) * 0.754_878).fract();
        let round = Vec2::from_angle(i as f32 * TURN) * (1.0 - height * height).sqrt();
        Vec3::new(round.x, round.y, height) * radius_of(share)
    })
}

/// The radius within which a share of the points of a [`ball`] lies.
fn radius_of(share: f32) -> f32 {
    let within = |r: f32| std::f32::consts::FRAC_2_PI * (r.asin() - r * (1.0 - r * r).sqrt());
    let (mut low, mut high) = (0.0, 1.0);
    for _ in 0..20 {
        let middle = 0.5 * (low + high);
        if within(middle) < share { low = middle } else { high = middle }
    }
    0.5 * (low + high)
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
    fn some_points_do_for_all_of_a_lamp() {
        // A plate and a ball over a floor that runs back, in soft light of both kinds.
        let ball = |x: f32, y: f32| 1.0 - ((x - 60.0).powi(2) + (y - 70.0).powi(2)) / 900.0;
        let depth = |x: f32, y: f32| {
            let floor = if y > 30.0 { 600.0 / (y - 10.0) } else { 30.0 };
            let thing = if ball(x, y) > 0.0 { 8.0 - 1.2 * ball(x, y).sqrt() } else { plate(x, y) };
            if thing < 9.0 { thing } else { floor }
        };
        let s = scene(depth, Scale::FULL);
        let cancel = Cancel::new();
        let o = Occluders::new(&s.normals, &s.positions, CAMERA, s.scale, 0.1, &cancel).unwrap();
        let bulb =
            Lamp { place: Place::Point { position: Vec3::new(-4.0, 5.0, -5.0) }, power: [1.0; 3], size: 0.6 };
        let wide = Lamp { size: 2.0, ..bulb };
        let toward = Vec3::new(-0.6, 0.7, 0.4);
        for lamp in [sun(toward, 0.08), bulb, sun(toward, 0.3), wide] {
            let all = o.seen_by(&lamp, 400, 1, &cancel).unwrap();
            let some = o.seen(&lamp, &cancel).unwrap();
            let part: Vec<f32> = all
                .plane(0)
                .iter()
                .zip(some.plane(0))
                .filter(|(a, _)| (0.02..0.98).contains(*a))
                .map(|(a, b)| (a - b).powi(2))
                .collect();
            let rms = (part.iter().sum::<f32>() / part.len() as f32).sqrt();
            println!("{rms} over {} px", part.len());
            assert!(part.len() > 300 && rms < 0.07, "{rms} over {} px", part.len());
        }
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
    fn things_are_no_thicker_than_is_said() {
        // The lamp stands behind the nearest place of a ball, and before its middle: its rays to the wall go through it.
        let ball = |x: f32, y: f32| {
            let inside = 1.0 - ((x - 120.0).powi(2) + (y - 80.0).powi(2)) / 400.0;
            if inside > 0.0 { 8.8 - 0.8 * inside.sqrt() } else { 10.0 }
        };
        let s = scene(ball, Scale::FULL);
        let bulb =
            Lamp { place: Place::Point { position: Vec3::new(-3.0, 0.0, -8.0) }, power: [1.0; 3], size: 0.0 };
        assert_eq!(seen(&s, bulb, 0.001).sample(0, 180, 80), Some(1.0), "they pass behind a shell");
        assert_eq!(seen(&s, bulb, 0.5).sample(0, 180, 80), Some(0.0), "and hit what is solid");
        let inside = Lamp { place: Place::Point { position: Vec3::new(0.0, 0.0, 1.0) }, ..bulb };
        assert_eq!(
            seen(&s, inside, 0.1).sample(0, 10, 10),
            Some(1.0),
            "a lamp behind the camera lights all it sees"
        );
    }

    #[test]
    fn a_lamp_s_points_fill_a_disc_from_all_sides() {
        let many: Vec<Vec3> = ball(2000).collect();
        assert!(many.iter().all(|p| p.length() <= 1.0));
        for toward in [Vec3::X, Vec3::Z, Vec3::new(0.6, 0.0, 0.8), Vec3::splat(0.577_35)] {
            for r in [0.3, 0.5, 0.8f32] {
                let flat = |p: &&Vec3| (**p - toward * p.dot(toward)).length() < r;
                let share = many.iter().filter(flat).count() as f32 / 2000.0;
                assert!((share - r * r).abs() < 0.02, "{share} within {r} from {toward}");
            }
        }
        let middle: Vec2 = disc(POINTS).sum::<Vec2>() / POINTS as f32;
        assert!(middle.length() < 0.1, "{middle}");
        assert_eq!((disc(1).next(), ball(1).next()), (Some(Vec2::ZERO), Some(Vec3::ZERO)));
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
