//! From the scene to a picture and its passes.

use crate::added::{AddedLamp, Around};
use crate::bent::Distortion;
use crate::material::Paint;
use crate::scene::Scene;
use crate::shade::{Dice, Found, find, radiance};
use crate::shape::Ray;
use crate::{orrery, random, ship};
use glam::{DVec2, Mat4, Quat, Vec2, Vec3};
use jugata_core::matte::hashed;
use jugata_core::raster::bands::for_each_band;
use jugata_core::{Camera, Cancel, Raster, Window};
use std::f32::consts::TAU;
use std::sync::atomic::{AtomicU32, Ordering};

/// A lens of some width: the truth for what is out of focus.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ThinLens {
    /// Radius of the opening, scene units.
    pub radius: f32,
    /// Depth of the plane that is sharp, scene units.
    pub focus: f32,
    /// Blades of a regular polygon inscribed in the opening, a corner to the right; fewer than three are a circle.
    pub blades: u32,
}

impl ThinLens {
    /// A point of the opening from two numbers in 0..1, evenly over its area; camera space.
    fn point(&self, u: f32, v: f32) -> Vec3 {
        if self.blades < 3 {
            let (angle, r) = (TAU * u, self.radius * v.sqrt());
            return Vec3::new(r * angle.cos(), r * angle.sin(), 0.0);
        }
        // A triangle from the middle to one side, then a place in it.
        let sector = u * self.blades as f32;
        let (side, along) = (sector.floor(), sector.fract());
        let corner = |i: f32| {
            let angle = TAU * i / self.blades as f32;
            Vec3::new(angle.cos(), angle.sin(), 0.0)
        };
        self.radius * v.sqrt() * corner(side).lerp(corner(side + 1.0), along)
    }
}

/// When the shutter is open.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shutter {
    /// When it opens, frame intervals from the frame.
    pub opens: f32,
    /// When it closes.
    pub closes: f32,
    /// Moments between the two that are rendered, 1 to 256.
    pub moments: u32,
    /// Samples of each moment along each side of a pixel.
    pub samples: u32,
}

impl Shutter {
    /// The moments, evenly spread.
    fn all(self) -> impl Iterator<Item = f32> {
        let count = self.moments.clamp(1, 256);
        let step = (self.closes - self.opens) / count as f32;
        (0..count).map(move |k| self.opens + (k as f32 + 0.5) * step)
    }
}

/// What to render.
#[derive(Clone, Debug)]
pub struct Settings {
    /// Picture width, px.
    pub width: u32,
    /// Picture height, px.
    pub height: u32,
    /// Samples per pixel along each side; 4 gives 16.
    pub samples: u32,
    /// Lamps beside the scene's own.
    pub added: Vec<AddedLamp>,
    /// Number of the frame; the planets stand at their places at 0.
    pub frame: i32,
    /// While the shutter is open, in frame intervals from the moment of the frame, and how many moments are taken of it; the
    /// picture is blurred by it, its passes are those of the frame.
    pub shutter: Option<Shutter>,
    /// How far the camera goes from one frame to the next, scene units in its own axes.
    pub travel: [f32; 3],
    /// How far the camera turns to the left from one frame to the next, after it went, degrees.
    pub pan: f32,
    /// The lens of the picture; its passes are always those of a pinhole.
    pub lens: Option<ThinLens>,
    /// What the lens does to straight lines: picture and passes are traced through it.
    pub bent: Option<Distortion>,
    /// Light from all around beside the scene's own.
    pub around: Option<Around>,
    /// How far the waves on the wall's front go to either side, units; 0 leaves it flat.
    pub relief: f32,
    /// A random room in the place of the orrery: the same for the same seed.
    pub seed: Option<u64>,
    /// What the colour of one object is instead: the truth of another texture on it.
    pub repaint: Option<(u32, Paint)>,
    /// The only objects that the camera sees, by ID; the others still cast shadows and are mirrored. All, if not said.
    pub only: Option<Vec<u32>>,
    /// Objects that are not there at all, by ID: they cast no shadow either.
    pub absent: Vec<u32>,
    /// The paper ship by itself, in the place of the orrery and of a room.
    pub ship: bool,
    /// Whether the file that is written has the diffuse part of the light as a pass.
    pub diffuse: bool,
}

impl Settings {
    /// The plain scene in a size, with samples per pixel along each side.
    pub const fn sized(width: u32, height: u32, samples: u32) -> Self {
        Self {
            width,
            height,
            samples,
            added: Vec::new(),
            frame: 0,
            shutter: None,
            travel: [0.0; 3],
            pan: 0.0,
            lens: None,
            bent: None,
            around: None,
            relief: 0.0,
            seed: None,
            repaint: None,
            only: None,
            absent: Vec::new(),
            ship: false,
            diffuse: false,
        }
    }
}

impl Default for Settings {
    fn default() -> Self {
        Self::sized(1280, 720, 4)
    }
}

/// A render.
#[derive(Clone, Debug)]
pub struct Passes {
    /// Antialiased RGBA, premultiplied, linear.
    pub beauty: Raster,
    /// Planar depth; `+inf` where nothing is.
    pub depth: Raster,
    /// Unit normals, camera space; zero where nothing is.
    pub normal: Raster,
    /// Camera space; zero where nothing is.
    pub position: Raster,
    /// Texture coordinates.
    pub uv: Raster,
    /// Object IDs, 0 where nothing is.
    pub id: Raster,
    /// Surface colour of what is diffuse; black for metals.
    pub albedo: Raster,
    /// The diffuse part of the picture, antialiased as it is; only if it was asked for.
    pub diffuse: Option<Raster>,
    /// Px from this frame to the next, x right, y down.
    pub motion: Raster,
    /// Where each place was on frame 0, three planes in the room's own axes: the same place of a body on every frame. Files do
    /// not have it.
    pub rest: Raster,
    /// Three pairs of hashed ID and coverage for each of two layers of ranks, as [`jugata_core::matte::hashed`] reads
    /// them: the objects of all samples of a pixel, antialiased as the picture is.
    pub hashed: Raster,
    /// The camera, px.
    pub camera: Camera,
    /// World to camera space.
    pub world_to_camera: Mat4,
    /// Focal length, mm.
    pub focal: f32,
    /// Sensor width, mm.
    pub sensor: f32,
    /// Names of the objects; an object's ID is its place in this list plus one.
    pub names: Vec<String>,
    /// Scene units for one unit of the room as it was built; lengths that suit the orrery are multiplied by it.
    pub unit: f32,
}

/// Mirrored bounces that the renderer follows.
const BOUNCES: u32 = 2;

/// Renders the orrery, a random room or the ship. Sizes are held to 1..=4096 px a side and 1..=16 samples.
pub fn render(settings: &Settings) -> Passes {
    render_telling(settings, &|_| ())
}

/// [`render`], which tells the share of the work that is done, 0..1, from whatever thread has done it.
pub fn render_telling(settings: &Settings, told: &(dyn Fn(f32) + Sync)) -> Passes {
    let window = Window::of_size(settings.width.clamp(1, 4096), settings.height.clamp(1, 4096));
    let room = settings.seed.map(random::good);
    let scene = scene_at(settings, room, settings.frame as f32);
    let unit = scene.outside.unit;
    let eye = Eye::of(&scene, settings, window);
    let picture = match settings.shutter {
        None => eye.beauty(settings.samples, told),
        Some(shutter) => exposed(&eye, settings, room, shutter, told),
    };
    let of = |first: usize, count: usize| {
        Raster::from_fn(window, count, |c, x, y| picture.sample(first + c, x, y).unwrap_or(0.0))
    };
    let (beauty, hashed) = (of(0, 4), of(4, RANKS * 2));
    let diffuse = settings.diffuse.then(|| of(SEEN - 3, 3));
    let data = eye.data(settings.frame as f32);
    let take = |first: usize, count: usize| {
        Raster::from_fn(window, count, |c, x, y| data.sample(first + c, x, y).unwrap_or(0.0))
    };
    Passes {
        beauty,
        depth: scaled(take(0, 1), unit),
        normal: take(1, 3),
        position: scaled(take(4, 3), unit),
        uv: take(7, 2),
        id: take(9, 1),
        albedo: take(10, 3),
        motion: take(13, 2),
        rest: scaled(take(15, 3), unit),
        diffuse,
        hashed,
        camera: eye.camera,
        world_to_camera: scene.outside.camera(scene.world_to_camera),
        focal: scene.focal,
        sensor: scene.sensor,
        names: scene.names.clone(),
        unit,
    }
}

/// The scene, or a random room, at a moment, which may lie between two frames.
fn scene_at(settings: &Settings, room: Option<u64>, frame: f32) -> Scene {
    let mut scene = match room {
        _ if settings.ship => ship::scene(frame),
        Some(room) => random::built(room, frame),
        None => orrery::scene(frame, settings.relief),
    };
    scene.around = settings.around.map(|a| a.in_the_world(scene.world_to_camera));
    scene.repaint = settings.repaint;
    if !settings.absent.is_empty() {
        scene.tree = scene.tree.without(&settings.absent);
    }
    let gone = -Vec3::from(settings.travel) / scene.outside.unit;
    let pose = |frame: f32| {
        Mat4::from_rotation_y(-(settings.pan * frame).to_radians()) * Mat4::from_translation(gone * frame)
    };
    scene.travel = match settings.pan {
        0.0 => Mat4::from_translation(gone),
        _ => pose(frame + 1.0) * pose(frame).inverse(),
    };
    scene.world_to_camera = pose(frame) * scene.world_to_camera;
    scene
}

/// The mean of the moments while the shutter is open, each with samples of its own; what is not colour is that of the frame.
fn exposed(
    eye: &Eye<'_>,
    settings: &Settings,
    room: Option<u64>,
    shutter: Shutter,
    told: &(dyn Fn(f32) + Sync),
) -> Raster {
    let mut sum = eye.beauty(settings.samples, &|_| ());
    let colour = |c: &usize| *c < 4 || *c >= SEEN - 3;
    (0..SEEN).filter(colour).for_each(|c| sum.plane_mut(c).fill(0.0));
    let count = shutter.all().count() as f32;
    for (k, t) in shutter.all().enumerate() {
        let scene = scene_at(settings, room, settings.frame as f32 + t);
        let now = Eye { moment: k as u32 + 1, ..Eye::of(&scene, settings, eye.window) };
        let now = now.beauty(shutter.samples, &|share| told((k as f32 + share) / count));
        for c in (0..SEEN).filter(colour) {
            sum.plane_mut(c).iter_mut().zip(now.plane(c)).for_each(|(s, v)| *s += v / count);
        }
    }
    sum
}

/// Lengths of the scene's own in units of the world.
fn scaled(mut lengths: Raster, unit: f32) -> Raster {
    if unit != 1.0 {
        lengths.planes_mut().into_iter().flatten().for_each(|v| *v *= unit);
    }
    lengths
}

/// Rows of the 3×4 matrix for column vectors.
fn world_rows(m: Mat4) -> [f32; 12] {
    let columns = m.to_cols_array();
    std::array::from_fn(|i| columns[(i % 4) * 4 + i / 4])
}

/// Ranks of hashed IDs: six objects in a pixel are more than ever meet.
pub const RANKS: usize = 6;

/// Surfaces that a ray may pass because the camera does not see them.
const MOST_PASSED: u32 = 256;
/// How far behind such a surface it goes on, units of the room.
const AHEAD: f32 = 1e-3;

/// Planes of what all samples of a pixel see: RGBA, ranks, the diffuse part.
const SEEN: usize = 4 + RANKS * 2 + 3;

/// Pairs of hashed ID and coverage, the largest coverage first, from how often each object was met.
fn ranks(seen: &[u32], taken: u32, names: &[String]) -> [f32; RANKS * 2] {
    let mut met: Vec<(u32, usize)> =
        seen.iter().copied().zip(0..).filter(|(n, id)| *n > 0 && *id > 0).collect();
    met.sort_unstable_by(|a, b| b.0.cmp(&a.0).then(a.1.cmp(&b.1)));
    let mut out = [0.0; RANKS * 2];
    for (rank, (count, id)) in met.into_iter().take(RANKS).enumerate() {
        out[2 * rank] = f32::from_bits(names.get(id - 1).map_or(0, |n| hashed::id_of(n)));
        out[2 * rank + 1] = count as f32 / taken as f32;
    }
    out
}

struct Eye<'a> {
    scene: &'a Scene,
    window: Window,
    camera: Camera,
    to_world: Mat4,
    lens: Option<ThinLens>,
    bent: Option<Distortion>,
    added: Vec<AddedLamp>,
    only: Option<&'a [u32]>,
    /// Other numbers have other samples.
    moment: u32,
}

impl<'a> Eye<'a> {
    fn of(scene: &'a Scene, settings: &'a Settings, window: Window) -> Self {
        let unit = scene.outside.unit;
        let camera = Camera {
            focal: scene.focal / scene.sensor * window.width as f32,
            centre_x: window.width as f32 * 0.5,
            centre_y: window.height as f32 * 0.5,
            world: Some(world_rows(scene.outside.camera(scene.world_to_camera))),
        };
        let lens = settings.lens.map(|l| ThinLens { radius: l.radius / unit, focus: l.focus / unit, ..l });
        let added = settings.added.iter().map(|l| l.in_units_of(unit)).collect();
        let to_world = scene.world_to_camera.inverse();
        let only = settings.only.as_deref();
        Self { scene, window, camera, to_world, lens, bent: settings.bent, added, only, moment: 0 }
    }

    fn ray(&self, at: Vec2) -> Ray {
        let direction = self.camera.unproject(self.seen_at(at), 1.0);
        Ray {
            origin: self.to_world.transform_point3(Vec3::ZERO),
            direction: self.to_world.transform_vector3(direction),
        }
    }

    /// What a ray meets of all that the camera sees.
    fn found(&self, ray: &Ray) -> Option<Found<'a>> {
        let Some(only) = self.only else { return find(self.scene, ray) };
        let mut ray = *ray;
        // A ray passes the two sides of an object; more than this many objects are never behind each other.
        for _ in 0..MOST_PASSED {
            let found = find(self.scene, &ray)?;
            if only.contains(&found.id) {
                return Some(found);
            }
            ray.origin = found.point + ray.direction.normalize() * AHEAD;
        }
        None
    }

    /// Where a pinhole would show what the lens shows at a place.
    fn seen_at(&self, at: Vec2) -> Vec2 {
        let Some(bent) = self.bent else { return at };
        let middle = Vec2::new(self.camera.centre_x, self.camera.centre_y).as_dvec2();
        let focal = f64::from(self.camera.focal);
        let straight = bent.straight(((at.as_dvec2() - middle) / focal).to_array());
        (DVec2::from(straight) * focal + middle).as_vec2()
    }

    /// A ray through a place of the opening, toward where the pinhole's ray meets the sharp plane.
    fn lens_ray(&self, at: Vec2, dice: &mut Dice) -> Ray {
        let Some(lens) = self.lens else { return self.ray(at) };
        let from = lens.point(dice.roll(), dice.roll());
        let direction = (self.camera.unproject(self.seen_at(at), lens.focus) - from) / lens.focus;
        Ray {
            origin: self.to_world.transform_point3(from),
            direction: self.to_world.transform_vector3(direction),
        }
    }

    fn beauty(&self, samples: u32, told: &(dyn Fn(f32) + Sync)) -> Raster {
        let (window, side) = (self.window, samples.clamp(1, 16));
        let done = AtomicU32::new(0);
        let mut out = Raster::zeros(window, SEEN);
        // Nothing pulls this token, so the loop cannot be cut short.
        let whole = for_each_band(&mut out, &Cancel::new(), |band| {
            for y in band.window().rows() {
                for i in 0..window.width as usize {
                    let px = self.pixel(i as u32, y as u32, side);
                    let rows: [&mut [f32]; SEEN] = band.rows(y);
                    rows.into_iter().zip(px).for_each(|(row, v)| row[i] = v);
                }
                let rows = done.fetch_add(1, Ordering::Relaxed) + 1;
                told(rows as f32 / window.height as f32);
            }
        });
        debug_assert!(whole.is_ok());
        out
    }

    /// The mean of a pixel's samples. After half of them (a checkerboard of its cells) a pixel that saw
    /// one smooth surface only is done: edges and mirrors get them all.
    fn pixel(&self, x: u32, y: u32, side: u32) -> [f32; SEEN] {
        let (mut sum, mut taken, mut first) = ([0.0f32; 4], 0u32, None);
        let mut diffuse = Vec3::ZERO;
        let mut seen = vec![0u32; self.scene.names.len() + 1];
        let mut smooth = true;
        for half in 0..2 {
            for s in (0..side * side).filter(|s| (s % side + s / side) % 2 == half) {
                let mut dice = Dice::new(y * self.window.width + x, taken + 256 * self.moment);
                let cell = Vec2::new((s % side) as f32, (s / side) as f32);
                let jitter = Vec2::new(dice.roll(), dice.roll());
                let ray =
                    self.lens_ray(Vec2::new(x as f32, y as f32) + (cell + jitter) / side as f32, &mut dice);
                let found = self.found(&ray);
                let kind = found.as_ref().map(|f| (f.id, f.normal, f.material.metal));
                let (id, normal, metal) = *first.get_or_insert(kind.unwrap_or((0, Vec3::ZERO, false)));
                let same = kind.map_or(id == 0, |(i, n, _)| i == id && n.dot(normal) > 0.995);
                smooth &= same && !metal;
                if let Some(found) = found {
                    seen[(found.id as usize).min(self.scene.names.len())] += 1;
                    // Bounded so that one unlucky path leaves no white dot.
                    let c = radiance(self.scene, &ray, &found, &self.added, &mut dice, BOUNCES);
                    diffuse += c.diffuse.min(Vec3::splat(24.0));
                    let c = c.all.min(Vec3::splat(24.0));
                    (0..3).for_each(|k| sum[k] += c[k]);
                    sum[3] += 1.0;
                }
                taken += 1;
            }
            if smooth && side > 1 && self.lens.is_none() {
                break;
            }
        }
        let colour = sum.map(|v| v / taken as f32);
        let ranks = ranks(&seen, taken, &self.scene.names);
        let diffuse = diffuse / taken as f32;
        std::array::from_fn(|c| match c {
            0..4 => colour[c],
            c if c < SEEN - 3 => ranks[c - 4],
            c => diffuse[c + 3 - SEEN],
        })
    }

    /// Px from where a point of an object is seen to where it is seen in the next frame.
    fn motion(&self, point: Vec3, spin: f32) -> Vec2 {
        if spin == 0.0 && self.scene.travel == Mat4::IDENTITY {
            return Vec2::ZERO;
        }
        let seen = |p: Vec3, camera: Mat4| self.camera.project(camera.transform_point3(p));
        let now = self.scene.world_to_camera;
        let turned = Quat::from_rotation_y(spin) * point;
        match (seen(point, now), seen(turned, self.scene.travel * now)) {
            (Some(now), Some(next)) => next - now,
            _ => Vec2::ZERO,
        }
    }

    /// Depth, normal, position, UV, ID, albedo, motion, place on frame 0 from one ray through each pixel's centre.
    fn data(&self, frame: f32) -> Raster {
        let window = self.window;
        let mut out = Raster::zeros(window, 18);
        let whole = for_each_band(&mut out, &Cancel::new(), |band| {
            for y in band.window().rows() {
                for i in 0..window.width as usize {
                    let ray = self.ray(Vec2::new(i as f32 + 0.5, y as f32 + 0.5));
                    let mut px = [0.0f32; 18];
                    px[0] = f32::INFINITY;
                    if let Some(found) = self.found(&ray) {
                        let p = self.scene.world_to_camera.transform_point3(found.point);
                        let n = self.scene.world_to_camera.transform_vector3(found.normal).normalize();
                        let a = if found.material.metal { Vec3::ZERO } else { found.colour };
                        let m = self.motion(found.point, found.spin);
                        let r = Quat::from_rotation_y(-found.spin * frame) * found.point;
                        px = [
                            -p.z,
                            n.x,
                            n.y,
                            n.z,
                            p.x,
                            p.y,
                            p.z,
                            found.uv.x,
                            found.uv.y,
                            found.id as f32,
                            a.x,
                            a.y,
                            a.z,
                            m.x,
                            m.y,
                            r.x,
                            r.y,
                            r.z,
                        ];
                    }
                    let rows: [&mut [f32]; 18] = band.rows(y);
                    rows.into_iter().zip(px).for_each(|(row, v)| row[i] = v);
                }
            }
        });
        debug_assert!(whole.is_ok());
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn small() -> Settings {
        Settings::sized(96, 54, 1)
    }

    #[test]
    fn the_work_that_is_done_is_told_up_to_all_of_it() {
        let told = std::sync::Mutex::new(Vec::new());
        let settings = Settings::sized(16, 70, 1);
        let passes = render_telling(&settings, &|share| told.lock().unwrap().push(share));
        let mut told = told.into_inner().unwrap();
        told.sort_by(f32::total_cmp);
        assert_eq!(told.len(), 70, "once for each row");
        assert!(told[0] > 0.0 && told[69] == 1.0, "{told:?}");
        assert_eq!(passes.beauty, render(&settings).beauty);
    }

    #[test]
    fn the_same_bytes_on_every_run_and_any_number_of_threads() {
        let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
        let (a, b) = (render(&small()), one.install(|| render(&small())));
        assert_eq!(a.beauty, b.beauty);
        assert_eq!(a.normal, b.normal);
    }

    #[test]
    fn passes_agree_with_each_other() {
        let p = render(&small());
        let w = p.beauty.window();
        let mut seen = 0;
        for y in w.rows() {
            for x in 0..w.width as i32 {
                let (z, id) = (p.depth.sample(0, x, y).unwrap(), p.id.sample(0, x, y).unwrap());
                assert_eq!(z.is_finite(), id > 0.0);
                if z.is_finite() {
                    let at = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
                    let want = p.camera.unproject(at, z);
                    let got = Vec3::from_slice(&p.position.pixel(x, y).unwrap());
                    assert!(got.distance(want) < 2e-3, "{got} {want}");
                    let n = Vec3::from_slice(&p.normal.pixel(x, y).unwrap());
                    assert!((n.length() - 1.0).abs() < 1e-4);
                    assert!(n.dot(-got.normalize()) > -0.35, "faces the viewer but for the relief");
                    seen += 1;
                }
            }
        }
        assert!(seen > 3000 && seen < w.area(), "most is covered, one corner is sky: {seen}");
        assert_eq!(p.beauty.pixel(95, 0).unwrap(), [0.0; 4]);
    }

    #[test]
    fn motion_leads_to_the_same_point_of_the_same_object_in_the_next_frame() {
        let at = |frame| render(&Settings { width: 320, height: 180, frame, ..small() });
        let (now, next) = (at(0), at(1));
        let (mut hits, mut moving) = (0, 0);
        for y in 0..180 {
            for x in 0..320 {
                let m = Vec2::new(now.motion.sample(0, x, y).unwrap(), now.motion.sample(1, x, y).unwrap());
                if m.length() < 0.5 {
                    continue;
                }
                moving += 1;
                let to = Vec2::new(x as f32 + 0.5, y as f32 + 0.5) + m;
                let there = next.id.sample(0, to.x.floor() as i32, to.y.floor() as i32);
                hits += usize::from(there == now.id.sample(0, x, y));
            }
        }
        assert!(moving > 300 && hits * 10 > moving * 9, "{hits} of {moving}");
    }

    #[test]
    fn hashed_coverage_adds_up_to_alpha_and_agrees_with_the_ids() {
        let p = render(&Settings { width: 160, height: 90, samples: 3, ..small() });
        let (mut same, mut all) = (0, 0);
        for i in 0..p.id.window().area() {
            let cover: f32 = (0..RANKS).map(|r| p.hashed.plane(2 * r + 1)[i]).sum();
            assert!((cover - p.beauty.plane(3)[i]).abs() < 1e-5);
            let id = p.id.plane(0)[i] as usize;
            if id > 0 {
                all += 1;
                same += usize::from(p.hashed.plane(0)[i].to_bits() == hashed::id_of(&p.names[id - 1]));
            }
        }
        assert!(same * 100 > all * 96, "{same} of {all}");
    }

    #[test]
    fn every_object_is_seen() {
        let p = render(&Settings { width: 480, height: 270, ..small() });
        for (i, name) in crate::orrery::OBJECTS.iter().enumerate() {
            let count = p.id.plane(0).iter().filter(|&&v| v == (i + 1) as f32).count();
            assert!(count > 30, "{name}: {count} px");
        }
    }
}
