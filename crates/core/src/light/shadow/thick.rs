//! How thick things are taken to be behind what is seen of them.
//!
//! *Own derivation*, from two bounds. A thing is as thick as it is wide: twice the distance to its own edge on the screen,
//! as a ball or a rod of that width is at least (the chord of a circle at depth d under its rim is 2√(2Rd − d²), which is
//! 2d or more). And it ends where the deepest place of its own surface is seen: a plate that is seen from the front has
//! no depth to tell of, however wide it is. A surface goes on from pixel to pixel where it is smooth, and round an edge
//! that juts out, as from one face of a box to the next; it ends in a corner that goes in, where a thing stands on a floor.

use crate::depth::is_depth;
use crate::light::beside::{apart, dot, with_beside};
use crate::raster::distance;
use crate::{Cancel, KernelError, Raster};
use petgraph::unionfind::UnionFind;
use rayon::prelude::*;

/// How far behind a surface's plane its neighbour must lie to be another one, as a share of the depth.
pub(super) const STEP: f32 = 0.01;

/// Cosine between the normals of two pixels from which on a surface is smooth.
const SMOOTH: f32 = 0.7;

/// How far before another's plane a pixel may lie, as a share of the depth, that counts as in it: a normal that was found
/// from places halves the edge it lies at.
const FLAT: f32 = 1e-4;

/// Thickness at each pixel as a share of its depth, row after row: from unit normals and camera-space positions on one
/// window, and the focal length in its px.
pub(super) fn thickness(
    normals: &Raster,
    positions: &Raster,
    focal: f32,
    cancel: &Cancel,
) -> Result<Vec<f32>, KernelError> {
    let window = normals.window();
    let width = (window.width as usize).max(1);
    let pairs = pairs(normals, positions, cancel)?;
    let inside = distance::distance(window, &edges(&pairs, width), cancel)?;
    let mut thick = deepest(&pairs, positions.plane(2), width, cancel)?;
    let place = thick.par_iter_mut().zip(inside.plane(0)).zip(positions.plane(2));
    place.for_each(|((thick, inside), z)| {
        let wide = 2.0 * inside;
        let deep = (*thick / -z - 1.0) * focal;
        // What is seen of a thing takes up a pixel at least. Without depth there is no thing.
        *thick = if is_depth(-z) { (deep.min(wide).max(0.0) + 1.0) / focal } else { 0.0 };
    });
    Ok(thick)
}

/// What is told of a pixel and the one to its right: whether its surface goes on there, and which of the two lies at the
/// edge of a thing, beside which lies nothing or something behind. The same of the one below takes the next bits.
const GOES_ON: u8 = 1;
const EDGE: u8 = 2;
const OTHER_EDGE: u8 = 4;
const BELOW: u32 = 3;

/// All pixels with those to their right and below, row after row.
fn pairs(normals: &Raster, positions: &Raster, cancel: &Cancel) -> Result<Vec<u8>, KernelError> {
    let width = (normals.window().width as usize).max(1);
    let mut pairs = vec![0; normals.window().area()];
    pairs.par_chunks_mut(width).enumerate().try_for_each(|(row, pairs)| {
        cancel.check()?;
        for (way, shift) in [((1, 0), 0), ((0, 1), BELOW)] {
            with_beside(normals, positions, row, way, pairs, |pair, [n, m], [p, q]| {
                *pair |= told(n, m, p, q) << shift;
            });
        }
        Ok::<_, KernelError>(())
    })?;
    Ok(pairs)
}

/// What is told of two pixels from their normals and places.
#[inline(always)]
fn told(n: [f32; 3], m: [f32; 3], p: [f32; 3], q: [f32; 3]) -> u8 {
    // Each from the other's plane; below it where the edge between them juts out.
    let (from_n, from_m) = (dot(apart(p, q), n), dot(apart(q, p), m));
    let (step, flat) = (-STEP * p[2], -FLAT * p[2]);
    let near = from_n.abs().min(from_m.abs()) < step;
    let juts_out = (from_n < flat) & (from_m < flat);
    let goes_on = near & ((dot(n, m) > SMOOTH) | juts_out);
    let (there, other) = (is_depth(-p[2]), is_depth(-q[2]));
    let edge = there & (!other | (from_n < STEP * p[2]));
    let other_edge = other & (!there | (from_m < STEP * q[2]));
    [(goes_on, GOES_ON), (edge, EDGE), (other_edge, OTHER_EDGE)]
        .map(|(is, bit)| u8::from(is) * bit)
        .iter()
        .sum()
}

/// The pixels along the edges of things. Without them every wire casts the shadow of a curtain.
fn edges(pairs: &[u8], width: usize) -> Vec<bool> {
    let mut found = vec![false; pairs.len()];
    found.par_chunks_mut(width).enumerate().for_each(|(row, found)| {
        let from = row * width;
        let own = &pairs[from..from + found.len()];
        let mut left = 0;
        for (found, pair) in found.iter_mut().zip(own) {
            *found = pair & (EDGE | EDGE << BELOW) != 0 || left & OTHER_EDGE != 0;
            left = *pair;
        }
        let above = from.checked_sub(width).map_or(&[][..], |above| &pairs[above..from]);
        found.iter_mut().zip(above).for_each(|(found, above)| *found |= above & OTHER_EDGE << BELOW != 0);
    });
    found
}

/// The deepest place (planar Z) that is seen of each pixel's surface, row after row, from places along z.
fn deepest(pairs: &[u8], z: &[f32], width: usize, cancel: &Cancel) -> Result<Vec<f32>, KernelError> {
    // Pixels of a row that hang together are one run, so that few things have to be joined.
    let mut runs = vec![0u32; pairs.len()];
    let mut depths = Vec::new();
    for ((runs, pairs), z) in runs.chunks_mut(width).zip(pairs.chunks(width)).zip(z.chunks(width)) {
        let mut deepest = 0.0f32;
        for ((run, pair), z) in runs.iter_mut().zip(pairs).zip(z) {
            *run = depths.len() as u32;
            deepest = if z.is_finite() { deepest.max(-z) } else { deepest };
            if pair & GOES_ON == 0 {
                depths.push(deepest);
                deepest = 0.0;
            }
        }
    }
    let pieces = pieces(&runs, depths.len(), pairs, width, cancel)?;
    let mut of_pieces = vec![0.0f32; depths.len()];
    for (piece, depth) in pieces.iter().zip(&depths) {
        let deepest = &mut of_pieces[*piece as usize];
        *deepest = deepest.max(*depth);
    }
    depths.iter_mut().zip(&pieces).for_each(|(depth, piece)| *depth = of_pieces[*piece as usize]);
    Ok(runs.par_iter().map(|run| depths[*run as usize]).collect())
}

/// Which runs hang together: for each the number of one of them.
fn pieces(
    runs: &[u32],
    count: usize,
    pairs: &[u8],
    width: usize,
    cancel: &Cancel,
) -> Result<Vec<u32>, KernelError> {
    let mut pieces = UnionFind::<u32>::new(count);
    for ((above, below), pairs) in runs.chunks(width).zip(runs.chunks(width).skip(1)).zip(pairs.chunks(width))
    {
        cancel.check()?;
        let mut last = None;
        for ((above, below), pair) in above.iter().zip(below).zip(pairs) {
            // Most neighbours join the same two runs again.
            if pair & GOES_ON << BELOW != 0 && last != Some((*above, *below)) {
                pieces.union(*above, *below);
                last = Some((*above, *below));
            }
        }
    }
    Ok(pieces.into_labeling())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::surface::normals::from_positions;
    use crate::{Camera, Scale, Window};

    const W: Window = Window::of_size(240, 160);
    const CAMERA: Camera = Camera { focal: 200.0, centre_x: 120.0, centre_y: 80.0, world: None };

    /// Thickness over a scene from a depth, in px.
    fn of(depth: impl Fn(f32, f32) -> f32) -> Raster {
        let cancel = Cancel::new();
        let depth = Raster::from_fn(W, 1, |_, x, y| depth(x as f32 + 0.5, y as f32 + 0.5));
        let positions = CAMERA.positions(&depth, Scale::FULL, &cancel).unwrap();
        let normals = from_positions(&positions, &cancel).unwrap();
        let thick = thickness(&normals, &positions, CAMERA.focal, &cancel).unwrap();
        Raster::from_planar(W, 1, thick.iter().map(|v| v * CAMERA.focal).collect()).unwrap()
    }

    fn across(x: f32) -> bool {
        (100.0..140.0).contains(&x)
    }

    #[test]
    fn a_plate_from_the_front_is_thin_and_a_ball_is_round() {
        let plate = of(|x, y| if across(x) && (60.0..100.0).contains(&y) { 8.0 } else { 10.0 });
        assert!((plate.sample(0, 120, 80).unwrap() - 1.0).abs() < 0.1, "{:?}", plate.sample(0, 120, 80));
        // Its middle is at a depth of 10, its radius 1.2 units, which are 24 px.
        let ball = of(|x, y| {
            let inside = 1.0 - ((x - 120.0).powi(2) + (y - 80.0).powi(2)) / 576.0;
            if inside > 0.0 { 10.0 - 1.2 * inside.sqrt() } else { 20.0 }
        });
        let middle = ball.sample(0, 120, 80).unwrap();
        assert!((22.0..=28.0).contains(&middle), "to the rim and no farther: {middle}");
        let beside = ball.sample(0, 142, 80).unwrap();
        assert!((2.0..=6.0).contains(&beside), "as wide as it is there: {beside}");
    }

    #[test]
    fn a_box_is_as_thick_as_its_side_is_deep_and_ends_where_it_stands() {
        // Its top lies 2.4 units below the camera and goes back from 8 to 10; it stands before a wall, or on a floor that
        // goes on from its foot.
        let scene = |floor: bool| {
            move |x: f32, y: f32| match y {
                _ if across(x) && (128.0..140.0).contains(&y) => 480.0 / (y - 80.0),
                _ if across(x) && (140.0..150.0).contains(&y) => 8.0,
                _ if floor && y >= 108.0 => 560.0 / (y - 80.0),
                _ => 20.0,
            }
        };
        let wide = |thick: &Raster, x, y| thick.sample(0, x, y).unwrap();
        let alone = of(scene(false));
        // Five px from the foot, the nearest edge.
        assert!((8.0..=12.0).contains(&wide(&alone, 120, 145)), "front: {}", wide(&alone, 120, 145));
        let standing = of(scene(true));
        // Twenty from either side, and two units deep, which are a quarter of its depth, 50 px.
        assert!((35.0..=43.0).contains(&wide(&standing, 120, 146)), "front: {}", wide(&standing, 120, 146));
        // The same front as a plate on that floor has nothing behind it.
        let plate =
            of(|x, y| if across(x) && (128.0..150.0).contains(&y) { 8.0 } else { scene(true)(200.0, y) });
        assert!(wide(&plate, 120, 146) < 2.0, "plate: {}", wide(&plate, 120, 146));
    }

    #[test]
    fn what_has_no_depth_has_no_thickness() {
        let nothing = of(|_, _| f32::INFINITY);
        assert!(nothing.plane(0).iter().all(|v| *v == 0.0));
        let broken = of(|x, y| if x as i32 % 7 == 0 { f32::NAN } else { 5.0 + y * 0.01 });
        assert!(broken.plane(0).iter().all(|v| v.is_finite() && *v >= 0.0));
        let none = Raster::zeros(Window::of_size(0, 0), 3);
        assert!(thickness(&none, &none, CAMERA.focal, &Cancel::new()).unwrap().is_empty());
    }
}
