//! Takes of a plane whose truth is a closed form: a texture that is a function of the plane's own places, seen through known
//! projective maps, with grain, light that changes, and something that passes before it.

use glam::{DMat3, DVec2, DVec3};
use jugata_core::track::{Quad, through};
use jugata_core::{Raster, Window};
use jugata_exchange::exr_write::{Depth, NamedLayer, write};
use std::f64::consts::{PI, TAU};

/// Size of the frames.
pub const SIZE: (u32, u32) = (400, 240);
/// How many frames a take has.
pub const FRAMES: i32 = 13;

/// What is written on planes: smooth waves of several lengths with some hard bars, a function of the place alone, worked out
/// once at `FINE` places for each px.
struct Texture {
    low: DVec2,
    fine: f64,
    wide: usize,
    places: Vec<f32>,
}

const FINE: f64 = 6.0;
/// The same of what lies behind, which nothing is measured on.
const COARSE: f64 = 2.0;

impl Texture {
    fn new(rng: &mut fastrand::Rng, low: DVec2, high: DVec2, fine: f64) -> Self {
        let mut any = |low: f64, high: f64| low + (high - low) * rng.f64();
        let wave = |any: &mut dyn FnMut(f64, f64) -> f64| {
            let (angle, length) = (any(0.0, TAU), any(7.0, 60.0));
            (DVec2::from_angle(angle) * TAU / length, any(0.0, TAU), any(0.3, 1.0) * length.sqrt() / 8.0)
        };
        let waves: Vec<_> = (0..24).map(|_| wave(&mut any)).collect();
        let size = high - low;
        let bars: Vec<_> = (0..12)
            .map(|_| {
                let at = low + DVec2::new(any(0.0, 1.0), any(0.0, 1.0)) * size;
                (at, DVec2::from_angle(any(0.0, PI)), any(4.0, 16.0), any(-0.35, 0.35))
            })
            .collect();
        let at = |p: DVec2| {
            let waves: f64 = waves.iter().map(|(k, phase, high)| high * (k.dot(p) + phase).sin()).sum();
            let bar = |(at, along, wide, high): &(DVec2, DVec2, f64, f64)| {
                if along.perp_dot(p - *at).abs() < *wide && (p - *at).length() < 70.0 { *high } else { 0.0 }
            };
            (0.35 + 0.07 * waves + bars.iter().map(bar).sum::<f64>()).clamp(0.01, 4.0) as f32
        };
        let [wide, tall] = (size * fine).to_array().map(|v| v as usize + 1);
        let place = |i: usize| low + DVec2::new((i % wide) as f64, (i / wide) as f64) / fine;
        Self { low, fine, wide, places: (0..wide * tall).map(|i| at(place(i))).collect() }
    }

    fn at(&self, p: DVec2) -> f64 {
        let q = (p - self.low) * self.fine;
        let tall = self.places.len() / self.wide;
        let [x, y] = [q.x.clamp(0.0, self.wide as f64 - 1.001), q.y.clamp(0.0, tall as f64 - 1.001)];
        let (i, j) = (x as usize, y as usize);
        let at = |i: usize, j: usize| f64::from(self.places[j * self.wide + i]);
        let (u, v) = (x - i as f64, y - j as f64);
        (at(i, j) * (1.0 - u) + at(i + 1, j) * u) * (1.0 - v)
            + (at(i, j + 1) * (1.0 - u) + at(i + 1, j + 1) * u) * v
    }
}

/// A shot of a plane.
pub struct Take {
    texture: Texture,
    behind: Texture,
    /// Corners of a region of it on the first frame.
    pub corners: Quad,
    goes: [f64; 8],
    occluder: Option<f64>,
    grain: f64,
    seed: u64,
}

impl Take {
    /// The take of a seed, with or without something that passes before it, and with grain of a standard deviation.
    pub fn new(seed: u64, occluder: bool, grain: f64) -> Self {
        let mut rng = fastrand::Rng::with_seed(seed);
        let mut any = |low: f64, high: f64| low + (high - low) * rng.f64();
        let (left, top) = (any(90.0, 140.0), any(50.0, 80.0));
        let (right, bottom) = (left + any(90.0, 150.0), top + any(75.0, 110.0));
        let corners = [(left, top), (right, top), (right, bottom), (left, bottom)]
            .map(|(x, y)| DVec2::new(x + any(-6.0, 6.0), y + any(-6.0, 6.0)));
        let middle = corners.iter().sum::<DVec2>() * 0.25;
        // Over the whole take: moved, turned, scaled, tilted.
        let goes = [
            any(-60.0, 60.0),
            any(-30.0, 30.0),
            any(-0.5, 0.5),
            any(-0.35, 0.35),
            any(-0.2, 0.2),
            any(-1.2e-3, 1.2e-3),
            any(-1.2e-3, 1.2e-3),
            any(-0.4, 0.4),
        ];
        let occluder = occluder.then(|| any(0.0, 240.0));
        let texture = Texture::new(&mut rng, middle - 95.0, middle + 95.0, FINE);
        let behind = Texture::new(&mut rng, DVec2::ZERO, DVec2::new(440.0, 280.0), COARSE);
        Self { texture, behind, corners, goes, occluder, grain, seed }
    }

    /// From the first frame to another: no linear course, so that a constant speed does not foretell it.
    pub fn by(&self, frame: i32) -> DMat3 {
        let t = f64::from(frame) / f64::from(FRAMES - 1);
        let eased = t * t * (3.0 - 2.0 * t) + 0.03 * (f64::from(frame) * 1.7).sin() * t;
        let [x, y, turn, grow, lean, px, py, _] = self.goes.map(|v| v * eased);
        let middle = DVec2::new(200.0, 120.0);
        let about = DMat3::from_translation(middle);
        let own = DMat3::from_cols(
            DVec3::new(1.0 + grow, 0.0, px),
            DVec3::new(lean, 1.0 + grow, py),
            DVec3::new(0.0, 0.0, 1.0),
        );
        DMat3::from_translation(DVec2::new(x, y)) * about * DMat3::from_angle(turn) * own * about.inverse()
    }

    /// A frame, one plane: grey, linear.
    pub fn frame(&self, frame: i32) -> Raster {
        let back = self.by(frame).inverse();
        let light = 1.0 + self.goes[7] * f64::from(frame) / f64::from(FRAMES);
        let mut rng = fastrand::Rng::with_seed(self.seed * 1000 + frame as u64);
        let plane = self.corners.iter().sum::<DVec2>() * 0.25;
        Raster::from_fn(Window::of_size(SIZE.0, SIZE.1), 1, |_, x, y| {
            let mut sum = 0.0;
            for i in 0..9 {
                let p = DVec2::new(f64::from(x), f64::from(y))
                    + (DVec2::new(f64::from(i % 3), f64::from(i / 3)) + 0.5) / 3.0;
                let on = through(back, p).unwrap_or_default();
                let passes = self.occluder.map(|y| DVec2::new(-80.0 + 44.0 * f64::from(frame), y));
                sum += match passes {
                    Some(c) if c.distance(p) < 40.0 => 0.25 + 0.1 * (p.x * 0.4).sin(),
                    // The plane ends a little way around the region.
                    _ if (on - plane).abs().max_element() < 95.0 => {
                        light * self.texture.at(on) * (1.0 + 0.001 * (on.x - 200.0) * self.goes[7])
                    }
                    _ => self.behind.at(p + f64::from(frame) * 2.0),
                };
            }
            // Grain with the spread of two dice each way is near enough to a Gaussian.
            let grain: f64 =
                (0..4).map(|_| rng.f64() - 0.5).sum::<f64>() * self.grain / (4.0f64 / 12.0).sqrt();
            (sum / 9.0 + grain).max(0.0) as f32
        })
    }
}

impl Take {
    /// A frame as an EXR file, float.
    ///
    /// # Panics
    /// It cannot be written.
    pub fn exr(&self, frame: i32) -> Vec<u8> {
        let grey = self.frame(frame);
        let rgba =
            Raster::from_fn(
                grey.window(),
                4,
                |c, x, y| {
                    if c == 3 { 1.0 } else { grey.sample(0, x, y).unwrap_or(0.0) }
                },
            );
        let layer =
            NamedLayer { name: "", channels: &["R", "G", "B", "A"], raster: &rgba, depth: Depth::Float };
        write(&[layer], grey.window(), None).expect("a frame is written")
    }
}
