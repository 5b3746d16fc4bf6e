//! Passes as they arrive from elsewhere: in another convention, or spoiled. The test bed of the findings.

use crate::render::Passes;
use glam::{Mat4, Vec3};
use jugata_core::colour::srgb_encode;
use jugata_core::{Raster, Window};

macro_rules! damages {
    ($($(#[$doc:meta])* $variant:ident = $name:literal,)+) => {
        /// One way in which a render may arrive. Each leaves all but one pass as it was.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub enum Damage { $($(#[$doc])* $variant,)+ }

        impl Damage {
            /// Every damage.
            pub const ALL: &[Self] = &[$(Self::$variant,)+];

            /// Its name on the command line.
            pub const fn name(self) -> &'static str {
                match self { $(Self::$variant => $name,)+ }
            }
        }
    };
}

damages! {
    /// A block of the depth is NaN.
    DepthHoles = "depth-holes",
    /// Depth filtered like a picture.
    DepthAntialiased = "depth-antialiased",
    /// Depth as 0..1, near white.
    DepthNearWhite = "depth-near-white",
    /// Depth as 0..1, near black.
    DepthNearBlack = "depth-near-black",
    /// Depth as 1 ÷ distance.
    DepthInverse = "depth-inverse",
    /// Depth as graphics hardware keeps it.
    DepthHardware = "depth-hardware",
    /// Depth that ends at a distance.
    DepthClipped = "depth-clipped",
    /// Distance along the ray.
    DepthAlongRay = "depth-along-ray",
    /// Depth as 0..1 in 8 bits.
    DepthEightBit = "depth-8-bit",
    /// Depth as 0..1 with the sRGB curve on it.
    DepthCurved = "depth-srgb",
    /// Depth in hundredths of the scene's unit.
    DepthCentimetres = "depth-unit",
    /// Normals as 0..1.
    NormalsCoded = "normals-coded",
    /// Normals as 0..1 with the sRGB curve on them.
    NormalsCurved = "normals-srgb",
    /// Normals as 0..1 in 8 bits.
    NormalsEightBit = "normals-8-bit",
    /// Normals whose y runs down.
    NormalsFlipped = "normals-flipped",
    /// Normals with y and z swapped.
    NormalsSwapped = "normals-swapped",
    /// Normals of the world.
    NormalsWorld = "normals-world",
    /// Normals filtered like a picture.
    NormalsShort = "normals-short",
    /// UV from the top.
    UvFlipped = "uv-flipped",
    /// UV that tiles.
    UvTiled = "uv-tiled",
    /// UV in 8 bits.
    UvEightBit = "uv-8-bit",
    /// UV in half float.
    UvHalf = "uv-half",
    /// UV with the sRGB curve on it.
    UvCurved = "uv-srgb",
    /// Motion in fractions of the frame.
    MotionNormalised = "motion-normalised",
    /// Motion of 0..1 round ½.
    MotionCentred = "motion-centred",
    /// Motion to the frame before, y up.
    MotionBackward = "motion-backward",
    /// A picture not multiplied by alpha.
    AlphaStraight = "alpha-straight",
    /// Object IDs moved by some pixels.
    IdMoved = "id-moved",
    /// Normals of half the size.
    NormalsHalfSize = "normals-half-size",
}

/// How far [`Damage::IdMoved`] moves, px.
pub const MOVED: [i32; 2] = [5, -3];

/// Where [`Damage::DepthClipped`] ends, scene units.
pub const CLIPPED_AT: f32 = 13.0;

/// Range of the depths of 0..1, scene units.
pub const RANGE: [f32; 2] = [4.0, 24.0];

impl Damage {
    /// By its name.
    ///
    /// # Errors
    /// A sentence with every name.
    pub fn named(name: &str) -> Result<Self, String> {
        Self::ALL.iter().copied().find(|d| d.name() == name).ok_or_else(|| {
            let names: Vec<&str> = Self::ALL.iter().map(|d| d.name()).collect();
            format!("The damages are {}.", names.join(", "))
        })
    }

    /// Changes the passes as the damage does.
    pub fn apply(self, p: &mut Passes) {
        let [near, far] = RANGE;
        let white =
            |z: f32| if z.is_finite() { (1.0 - (z - near) / (far - near)).clamp(0.0, 1.0) } else { 0.0 };
        let coded = |v: f32| 0.5 * v + 0.5;
        let eight = |v: f32| (v.clamp(0.0, 1.0) * 255.0).round() / 255.0;
        match self {
            Self::DepthHoles => holes(&mut p.depth),
            Self::DepthAntialiased => {
                each(&mut p.depth, |z| if z.is_finite() { z } else { 60.0 });
                p.depth = filtered(&p.depth);
            }
            Self::DepthNearWhite => each(&mut p.depth, white),
            Self::DepthNearBlack => each(&mut p.depth, |z| 1.0 - white(z)),
            Self::DepthInverse => each(&mut p.depth, |z| 1.0 / z),
            Self::DepthHardware => {
                each(&mut p.depth, |z| (1.0 / z - 1.0 / far) / (1.0 / near - 1.0 / far));
            }
            Self::DepthClipped => each(&mut p.depth, |z| z.min(CLIPPED_AT)),
            Self::DepthAlongRay => along_ray(p),
            Self::DepthEightBit => each(&mut p.depth, |z| eight(white(z))),
            Self::DepthCurved => each(&mut p.depth, |z| srgb_encode(white(z))),
            Self::DepthCentimetres => each(&mut p.depth, |z| z * 100.0),
            Self::NormalsCoded => surfaces(&mut p.normal, |n: [f32; 3]| n.map(coded)),
            Self::NormalsCurved => surfaces(&mut p.normal, |n: [f32; 3]| n.map(|v| srgb_encode(coded(v)))),
            Self::NormalsEightBit => surfaces(&mut p.normal, |n: [f32; 3]| n.map(|v| eight(coded(v)))),
            Self::NormalsFlipped => surfaces(&mut p.normal, |[x, y, z]| [x, -y, z]),
            Self::NormalsSwapped => surfaces(&mut p.normal, |[x, y, z]| [x, z, y]),
            Self::NormalsWorld => {
                let back = Mat4::inverse(&p.world_to_camera);
                surfaces(&mut p.normal, |n: [f32; 3]| back.transform_vector3(Vec3::from(n)).to_array());
            }
            Self::NormalsShort => (0..8).for_each(|_| p.normal = filtered(&p.normal)),
            Self::UvFlipped => surfaces(&mut p.uv, |[u, v]| [u, 1.0 - v]),
            Self::UvTiled => surfaces(&mut p.uv, |[u, v]| [u * 3.0, v * 2.0 + 1.0]),
            Self::UvEightBit => each(&mut p.uv, eight),
            Self::UvHalf => each(&mut p.uv, |v| half::f16::from_f32(v).to_f32()),
            Self::UvCurved => each(&mut p.uv, srgb_encode),
            Self::MotionNormalised => {
                let (w, h) = (p.motion.window().width as f32, p.motion.window().height as f32);
                surfaces(&mut p.motion, |[x, y]| [x / w, y / h]);
            }
            Self::MotionCentred => each(&mut p.motion, |v| 0.5 + v / 64.0),
            Self::MotionBackward => surfaces(&mut p.motion, |[x, y]| [-x, y]),
            Self::AlphaStraight => straight(&mut p.beauty),
            Self::IdMoved => p.id = moved(&p.id),
            Self::NormalsHalfSize => p.normal = halved(&p.normal),
        }
    }
}

fn each(r: &mut Raster, change: impl Fn(f32) -> f32) {
    r.planes_mut().into_iter().for_each(|p| p.iter_mut().for_each(|v| *v = change(*v)));
}

/// Changes all samples but the zero ones, which mean that nothing is there.
fn surfaces<const N: usize>(r: &mut Raster, change: impl Fn([f32; N]) -> [f32; N]) {
    let mut planes = r.planes_mut();
    for i in 0..planes.first().map_or(0, |p| p.len()) {
        let v: [f32; N] = std::array::from_fn(|c| planes[c][i]);
        if v.iter().any(|v| *v != 0.0) {
            change(v).into_iter().enumerate().for_each(|(c, v)| planes[c][i] = v);
        }
    }
}

fn holes(r: &mut Raster) {
    let w = r.window();
    let (width, height) = (w.width as usize, w.height as usize);
    let plane = r.plane_mut(0);
    for y in height / 3..height / 3 + height / 10 {
        plane[y * width + width / 4..y * width + width / 3].fill(f32::NAN);
    }
}

/// A small tent, as renderers filter pictures with.
fn filtered(r: &Raster) -> Raster {
    let w = r.window();
    let (right, bottom) = (w.width as i32 - 1, w.height as i32 - 1);
    Raster::from_fn(w, r.channels(), |c, x, y| {
        let mut sum = 0.0;
        for (dy, ky) in [(-1, 0.25), (0, 0.5), (1, 0.25)] {
            for (dx, kx) in [(-1, 0.25), (0, 0.5), (1, 0.25)] {
                let (x, y) = ((x + dx).clamp(0, right), (y + dy).clamp(0, bottom));
                sum += kx * ky * r.sample(c, x, y).unwrap_or(0.0);
            }
        }
        sum
    })
}

fn along_ray(p: &mut Passes) {
    let camera = p.camera;
    p.depth = Raster::from_fn(p.depth.window(), 1, |_, x, y| {
        let z = p.depth.sample(0, x, y).unwrap_or(f32::INFINITY);
        let at = glam::Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
        if z.is_finite() { camera.unproject(at, z).length() } else { z }
    });
}

/// Colour divided by alpha, and a colour where nothing is, as a painting program leaves it.
fn straight(beauty: &mut Raster) {
    surfaces(beauty, |[r, g, b, a]| if a > 0.0 { [r / a, g / a, b / a, a] } else { [r, g, b, a] });
    let [r, g, b, a] =
        beauty.planes_mut().try_into().unwrap_or_else(|_| [(); 4].map(|()| Default::default()));
    for i in 0..a.len() {
        if a[i] == 0.0 {
            (r[i], g[i], b[i]) = (0.3, 0.4, 0.6);
        }
    }
}

fn moved(r: &Raster) -> Raster {
    Raster::from_fn(r.window(), r.channels(), |c, x, y| {
        r.sample(c, x - MOVED[0], y - MOVED[1]).unwrap_or(0.0)
    })
}

fn halved(r: &Raster) -> Raster {
    let w = r.window();
    let small = Window::of_size(w.width.div_ceil(2), w.height.div_ceil(2));
    Raster::from_fn(small, r.channels(), |c, x, y| r.sample(c, x * 2, y * 2).unwrap_or(0.0))
}
