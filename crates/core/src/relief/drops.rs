//! Drops of rain on a surface: they grow where they sit, and the heavy ones run down. *Own derivation.*
//!
//! Each cell of a lattice has one drop at a time, whose place and size a hash gives; it lives for one unit of time, then
//! another follows elsewhere in the cell.

use super::noise::Noise;
use glam::{IVec2, Vec2, Vec3};

/// Most layers: what is finer is no drop any more.
const LAYERS: u32 = 4;

/// Radius of the largest drop, cells.
const LARGEST: f32 = 0.42;

/// How far off the middle of its cell a drop sits at most, cells.
const ASTRAY: f32 = 0.25;

/// Drops above this share of the largest run.
const HEAVY: f32 = 0.55;

/// The age at which a drop has grown, at which a heavy one lets go, and from which it dries up or runs out.
const GROWN: f32 = 0.35;
const LETS_GO: f32 = 0.5;
const GOES: f32 = 0.9;

/// How far a heavy drop runs, cells.
const RUN: f32 = 2.0;

/// How much longer the upper half of a running drop is than that of one that sits.
const TAIL: f32 = 1.4;

/// How thick the water stands at a place in cells (y down) at a time: 0 where there is none, 1 in the middle of the largest
/// drop. Layers of drops (four at most) lie among each other, each half as large as the one before and `gain` times as thick.
pub fn drops(noise: &Noise, layers: u32, gain: f32, place: Vec2, time: f32) -> f32 {
    let (mut most, mut thick) = (0.0f32, 1.0);
    for layer in 0..layers.clamp(1, LAYERS) {
        let scale = (1u32 << layer) as f32;
        most = most.max(thick * layer_of(&noise.octave(layer), place * scale, time));
        thick *= gain;
    }
    most
}

/// The same of one layer.
fn layer_of(noise: &Noise, place: Vec2, time: f32) -> f32 {
    let cell = place.floor().as_ivec2();
    let mut most = 0.0f32;
    for x in -1..=1 {
        // What runs comes from above.
        for y in -3..=1 {
            let from = cell + IVec2::new(x, y);
            let middle = from.as_vec2() + 0.5;
            if (place.x - middle.x).abs() < ASTRAY + LARGEST {
                most = most.max(drop_of(noise, from, place - middle, time));
            }
        }
    }
    most
}

/// How thick the drop of a cell stands so far off the cell's middle.
fn drop_of(noise: &Noise, cell: IVec2, off: Vec2, time: f32) -> f32 {
    let since = time + noise.lattice(cell.extend(i32::MIN)).x;
    let (life, age) = (since.floor(), since - since.floor());
    let Vec3 { x, y, z } = noise.lattice(cell.extend(life as i32));
    // Few are large.
    let size = 0.25 + 0.75 * z * z;
    let ease = |t: f32| {
        let t = t.clamp(0.0, 1.0);
        t * t * (3.0 - 2.0 * t)
    };
    let runs = if size > HEAVY { ((age - LETS_GO) / (1.0 - LETS_GO)).max(0.0) } else { 0.0 };
    let radius = LARGEST * size * ease(age / GROWN) * (1.0 - ease((age - GOES) / (1.0 - GOES)));
    let at = (Vec2::new(x, y) - 0.5) * (2.0 * ASTRAY) + Vec2::new(0.0, RUN * runs * runs);
    let mut d = off - at;
    if d.y < 0.0 {
        d.y /= 1.0 + TAIL * ease(runs * 4.0);
    }
    let left = 1.0 - d.length_squared() / (radius * radius);
    if left > 0.0 { left.sqrt() * radius / LARGEST } else { 0.0 }
}

#[cfg(test)]
mod tests {
    use super::super::noise::Basis;
    use super::*;

    const RAIN: Noise = Noise { basis: Basis::Cells, seed: 3, period: [0, 0] };

    #[test]
    fn water_stands_in_drops_and_never_jumps() {
        let (mut wet, mut most, mut jump) = (0, 0.0f32, 0.0f32);
        for i in 0..40_000u32 {
            let p = Vec2::new((i % 200) as f32, (i / 200) as f32) * 0.05;
            let v = drops(&RAIN, 2, 0.5, p, 0.3);
            assert!((0.0..=1.0).contains(&v), "{v}");
            wet += u32::from(v > 0.0);
            most = most.max(v);
            // A drop's rim is steep, as a ball's is: a hair further on it is a little lower.
            jump = jump.max((v - drops(&RAIN, 2, 0.5, p + Vec2::new(0.0, 1e-5), 0.3)).abs());
        }
        assert!((4_000..30_000).contains(&wet) && most > 0.6 && jump < 0.06, "{wet} {most} {jump}");
    }

    #[test]
    fn heavy_drops_run_down_and_all_come_and_go() {
        // The middle of mass of what is wet in a column of cells goes down while one of them runs.
        let (mut down, mut looked) = (0, 0);
        for cell in 0..60 {
            let c = IVec2::new(cell, 0);
            let at = |time: f32| {
                let (mut sum, mut total) = (0.0, 0.0);
                for k in 0..160 {
                    let y = k as f32 * 0.025 - 1.0;
                    for x in -4..=4 {
                        let v = drop_of(&RAIN, c, Vec2::new(x as f32 * 0.1, y), time);
                        (sum, total) = (sum + v * y, total + v);
                    }
                }
                (total > 0.0).then(|| sum / total)
            };
            // Each drop at the same ages of its own life.
            let born = 1.0 - RAIN.lattice(c.extend(i32::MIN)).x;
            let (Some(sits), Some(late)) = (at(born + 0.45), at(born + 0.85)) else { continue };
            looked += 1;
            down += i32::from(late > sits + 0.2);
            assert!(late > sits - 0.05, "nothing goes up");
            assert_eq!(at(born + 0.9999), None, "it is gone in the end");
        }
        assert!(looked > 50 && down > 8 && down < 40, "{looked} {down}");
    }

    #[test]
    fn tiles_fit_and_bytes_are_the_same() {
        let tiled = Noise { period: [5, 3], ..RAIN };
        for i in 0..400 {
            let p = Vec2::new((i % 20) as f32 * 0.25, (i / 20) as f32 * 0.125);
            let there = p + Vec2::new(5.0, 3.0);
            assert_eq!(drops(&tiled, 3, 0.5, p, 1.5).to_bits(), drops(&tiled, 3, 0.5, there, 1.5).to_bits());
        }
    }
}
