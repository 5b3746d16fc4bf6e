//! What a surface looks like: colour, relief, gloss.

use crate::lettering::ink as ink_of;
use glam::{Vec2, Vec3};

/// Colour over the surface.
#[derive(Clone, Copy, Debug)]
pub enum Paint {
    /// One colour.
    Plain(Vec3),
    /// Two colours in bands around the object.
    Bands(Vec3, Vec3, f32),
    /// Speckles of the second colour on the first.
    Speckle(Vec3, Vec3, f32),
    /// Grain of wood.
    Wood,
    /// The star chart on the wall.
    Chart,
    /// The paper label of the drum.
    Label,
    /// Brass with the observatory's name cut into it.
    Plate,
    /// A poster for the test of other textures: large and fine shapes, letters, two strong colours.
    Poster,
}

/// A surface.
#[derive(Clone, Copy, Debug)]
pub struct Material {
    /// Colour.
    pub paint: Paint,
    /// Reflectance head-on of the coat; metals colour it with their paint.
    pub f0: f32,
    /// GGX width.
    pub alpha: f32,
    /// Metal: no diffuse light, coloured mirror.
    pub metal: bool,
    /// Light of its own.
    pub glow: f32,
}

impl Material {
    /// A surface without gloss.
    pub const fn matt(paint: Paint) -> Self {
        Self { paint, f0: 0.0, alpha: 1.0, metal: false, glow: 0.0 }
    }

    /// A varnished surface.
    pub const fn glossy(paint: Paint, alpha: f32) -> Self {
        Self { paint, f0: 0.04, alpha, metal: false, glow: 0.0 }
    }

    /// A metal.
    pub const fn metal(paint: Paint, alpha: f32) -> Self {
        Self { paint, f0: 1.0, alpha, metal: true, glow: 0.0 }
    }
}

/// Brass, linear.
pub const BRASS: Vec3 = Vec3::new(0.72, 0.47, 0.17);

/// A repeatable number in 0..1 for a lattice cell.
fn hash(x: i32, y: i32) -> f32 {
    let mut h = (x as u32).wrapping_mul(0x9e37_79b1) ^ (y as u32).wrapping_mul(0x85eb_ca77);
    h = (h ^ (h >> 15)).wrapping_mul(0x2c1b_3c6d);
    h = (h ^ (h >> 12)).wrapping_mul(0x297a_2d39);
    (h ^ (h >> 15)) as f32 / u32::MAX as f32
}

/// Smooth noise in 0..1.
fn noise(p: Vec2) -> f32 {
    let cell = p.floor();
    let f = p - cell;
    let f = f * f * (Vec2::splat(3.0) - 2.0 * f);
    let (x, y) = (cell.x as i32, cell.y as i32);
    let mix = |a: f32, b: f32, t: f32| a + (b - a) * t;
    mix(mix(hash(x, y), hash(x + 1, y), f.x), mix(hash(x, y + 1), hash(x + 1, y + 1), f.x), f.y)
}

fn smooth(edge0: f32, edge1: f32, v: f32) -> f32 {
    let t = ((v - edge0) / (edge1 - edge0)).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// Places on the plate, as the rectangle of a line of text: left, bottom, width, height.
const PLATE_LINES: [(&str, [f32; 4]); 2] =
    [("VELDMERE", [0.14, 0.46, 0.74, 0.36]), ("OBSERVATORY", [0.2, 0.16, 0.62, 0.18])];

fn plate_ink(uv: Vec2) -> f32 {
    let text = PLATE_LINES
        .iter()
        .map(|(text, [x, y, w, h])| ink_of(text, (uv.x - x) / w, (uv.y - y) / h))
        .fold(0.0, f32::max);
    let border = Vec2::new((uv.x - 0.5).abs() - 0.46, ((uv.y - 0.5).abs() - 0.41) * 0.4);
    let line = smooth(0.008, 0.004, border.max_element().abs());
    text.max(line)
}

impl Paint {
    /// Linear colour at a place of the surface.
    pub fn colour(&self, uv: Vec2) -> Vec3 {
        match *self {
            Self::Plain(c) => c,
            Self::Bands(a, b, n) => {
                let wave = ((uv.y + 0.02 * noise(uv * 9.0)) * n * std::f32::consts::TAU).sin();
                a.lerp(b, smooth(-0.25, 0.25, wave))
            }
            Self::Speckle(a, b, n) => {
                let p = uv * Vec2::new(2.0 * n, n);
                a.lerp(b, smooth(0.5, 0.75, 0.6 * noise(p) + 0.4 * noise(p * 2.7)))
            }
            Self::Wood => {
                let ring = (uv.x * 38.0 + 3.0 * noise(uv * Vec2::new(3.0, 14.0))).sin();
                Vec3::new(0.15, 0.072, 0.034).lerp(Vec3::new(0.235, 0.122, 0.058), 0.5 + 0.5 * ring)
            }
            Self::Chart => chart(uv),
            Self::Label => label(uv),
            Self::Plate => BRASS * (1.0 - 0.75 * plate_ink(uv)),
            Self::Poster => poster(uv),
        }
    }

    /// Slope of the relief along u and v: nonzero where letters are cut.
    pub fn slope(&self, uv: Vec2) -> Vec2 {
        match self {
            Self::Plate => {
                let e = 0.002;
                let at = |dx: f32, dy: f32| plate_ink(uv + Vec2::new(dx, dy));
                Vec2::new(at(e, 0.0) - at(-e, 0.0), at(0.0, e) - at(0.0, -e)) * -0.55
            }
            _ => Vec2::ZERO,
        }
    }
}

fn chart(uv: Vec2) -> Vec3 {
    let mut c = Vec3::new(0.012, 0.022, 0.05) * (0.85 + 0.3 * noise(uv * 30.0));
    let p = (uv - Vec2::new(0.56, 0.5)) * Vec2::new(16.0, 9.0);
    let r = p.length();
    let line = |d: f32| smooth(0.03, 0.01, d.abs());
    let mut ink = 0.0f32;
    for k in 1..=5 {
        ink = ink.max(line(r - 0.85 * k as f32));
    }
    let spoke = (p.y.atan2(p.x) * 12.0 / std::f32::consts::TAU).rem_euclid(1.0);
    ink = ink.max(line((spoke - 0.5).abs() - 0.5) * smooth(4.3, 4.2, r));
    ink = ink.max(line((spoke.min(1.0 - spoke)) * r * 0.52) * smooth(4.3, 4.2, r));
    c = c.lerp(Vec3::new(0.42, 0.36, 0.2), ink * 0.7);
    // Stars: one in some cells of a lattice, each of its own brightness.
    let q = uv * Vec2::new(96.0, 54.0);
    let cell = q.floor();
    let (x, y) = (cell.x as i32, cell.y as i32);
    if hash(x, y) > 0.8 {
        let centre = cell + Vec2::new(0.3 + 0.4 * hash(x + 71, y), 0.3 + 0.4 * hash(x, y + 71));
        let size = 0.08 + 0.16 * hash(x + 5, y + 9);
        c = c.lerp(Vec3::new(0.9, 0.87, 0.75), smooth(size, size * 0.5, q.distance(centre)));
    }
    c
}

fn label(uv: Vec2) -> Vec3 {
    let paper = Vec3::new(0.72, 0.66, 0.52) * (0.94 + 0.1 * noise(uv * 60.0));
    let frame = smooth(0.012, 0.006, ((uv.y - 0.5).abs() - 0.36).abs());
    let u = (uv.x * 4.0).rem_euclid(1.0);
    let text = ink_of("ORRERY NO 7", (u - 0.1) / 0.8, (uv.y - 0.38) / 0.24);
    let stripe = smooth(0.42, 0.44, (uv.y - 0.5).abs());
    paper.lerp(Vec3::new(0.08, 0.05, 0.04), frame.max(text)).lerp(Vec3::new(0.32, 0.05, 0.04), stripe)
}

fn poster(uv: Vec2) -> Vec3 {
    let paper = Vec3::new(0.7, 0.66, 0.58);
    let (ink, red) = (Vec3::new(0.05, 0.09, 0.16), Vec3::new(0.5, 0.09, 0.05));
    let p = uv * Vec2::new(6.0, 4.0);
    let cell = p.floor();
    let within = p - cell;
    let round = smooth(0.33, 0.31, within.distance(Vec2::splat(0.5)));
    let odd = (cell.x + cell.y).rem_euclid(2.0) < 0.5;
    let mut c = paper.lerp(if odd { red } else { ink }, round);
    let text = ink_of("ORRERY", (within.x - 0.22) / 0.56, (within.y - 0.42) / 0.16);
    c = c.lerp(paper, text * round);
    // A comb of fine lines along each row's lower border.
    let comb = smooth(-0.2, 0.2, (uv.x * 90.0 * std::f32::consts::TAU).sin()) * smooth(0.1, 0.08, within.y);
    c.lerp(ink, comb)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn colours_stay_physical() {
        for paint in [Paint::Wood, Paint::Chart, Paint::Label, Paint::Plate, Paint::Poster] {
            for i in 0..400 {
                let c = paint.colour(Vec2::new(i as f32 % 20.0 / 20.0, i as f32 / 400.0));
                assert!(c.min_element() >= 0.0 && c.max_element() <= 1.0, "{paint:?} {c}");
            }
        }
    }

    #[test]
    fn the_plate_is_cut() {
        let cut = (0..4000).filter(|i| {
            let uv = Vec2::new((i % 200) as f32 / 200.0, (i / 200) as f32 / 20.0);
            Paint::Plate.slope(uv) != Vec2::ZERO
        });
        assert!(cut.count() > 200);
    }
}
