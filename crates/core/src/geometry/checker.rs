//! A photographed checker found in a picture: its rows and columns as lines of points that ought to be straight, from which
//! [`super::straight`] solves the lens.
//!
//! Where four squares meet, brightness is a saddle: candidates are maxima of `Lxy² − Lxx·Lyy` (as the Hessian detector of
//! Beaudet 1978 has it with the other sign) around which a ring changes between dark and bright four times. The place of each
//! is refined so that it lies on every edge around it (Förstner & Gülch 1987). *Own derivation*: the grid grows from one
//! corner to the next along the edges, each step foretold by the last one, so that a bent chart is followed as it bends.

use crate::colour::brightness::compressed;
use crate::colour::luminance;
use crate::raster::scale::average;
use crate::raster::soften::softened;
use crate::{Cancel, Cancelled, Raster, Scale, Window};
use glam::{DMat2, DVec2};
use std::collections::{BTreeMap, VecDeque};

/// The picture is looked through at most so wide; places are refined in full.
const WIDE: u32 = 1100;

/// Softened by so much before curvature is taken (twice its standard deviation, px).
const SOFT: f32 = 3.0;

/// Radius of the ring around a corner, px, and places on it.
const RING: f64 = 5.0;
const ON_RING: usize = 48;

/// Candidates that are kept, the strongest.
const MOST: usize = 4000;

/// Share of the strongest candidates' curvature that a corner must have.
const STRONG: f32 = 0.06;

/// How far a corner may lie from where it is foretold, as a share of the step.
const OFF: f64 = 0.28;

/// Corners that there must be for a chart.
const FEW: usize = 12;

/// A chart that was found.
#[derive(Clone, Debug, PartialEq)]
pub struct Checker {
    /// Its rows and columns, each as the corners along it in order, full-resolution px.
    pub lines: Vec<Vec<DVec2>>,
    /// How many corners there are.
    pub corners: usize,
}

/// A corner, and the directions of the two edges that cross in it.
#[derive(Clone, Copy)]
struct Corner {
    at: DVec2,
    edges: [DVec2; 2],
}

/// Looks for a checker in a picture (RGB or RGBA, linear; one plane is taken as it is); `None` where there is none.
///
/// # Errors
/// Cancellation.
pub fn find(picture: &Raster, cancel: &Cancel) -> Result<Option<Checker>, Cancelled> {
    let full = toned(picture, cancel)?;
    let at = Scale::at_most(full.window(), WIDE);
    let small = average(&full, at, cancel)?;
    let soft = softened(&small, SOFT, cancel).map_err(|_| Cancelled)?;
    let corners = corners(&soft);
    cancel.check()?;
    let Some(grid) = grid(&corners, small.window()) else { return Ok(None) };
    let step = f64::from(at.step());
    let refined =
        |i: usize, reach: f64| refined(&full, corners[i].at * step, (reach * step).clamp(3.0, 14.0));
    let places: BTreeMap<(i32, i32), DVec2> =
        grid.iter().filter_map(|(cell, (i, reach))| Some((*cell, refined(*i, 0.3 * reach)?))).collect();
    let lines = lines(&places);
    Ok((places.len() >= FEW && lines.len() >= 4).then_some(Checker { lines, corners: places.len() }))
}

/// Samples by which a picture's brightness is told.
const TOLD: usize = 20_000;

/// Brightness, compressed a little so that a lamp beside the chart does not outshine it; more would draw edges to their dark side.
fn toned(picture: &Raster, cancel: &Cancel) -> Result<Raster, Cancelled> {
    let of = |i: usize| match picture.channels() {
        0..=2 => picture.plane(0)[i],
        _ => luminance([0, 1, 2].map(|c| picture.plane(c)[i])),
    };
    let area = picture.window().area();
    let some = (0..area).step_by((area / TOLD).max(1)).map(of);
    let mut some: Vec<f32> = some.map(|v| if v.is_finite() { v.max(0.0) } else { 0.0 }).collect();
    let place = some.len() * 4 / 5;
    let bright = match some.len() {
        0 => 1.0,
        _ => some.select_nth_unstable_by(place, f32::total_cmp).1.max(1e-6),
    };
    compressed(picture, 4.0 * bright, cancel)
}

/// Saddles of brightness that look like corners of a checker, the strongest first.
fn corners(soft: &Raster) -> Vec<Corner> {
    let w = soft.window();
    let (width, height) = (w.width as usize, w.height as usize);
    let v = soft.plane(0);
    let margin = RING as usize + 2;
    if width < 4 * margin || height < 4 * margin {
        return Vec::new();
    }
    let mut curved = vec![0.0f32; v.len()];
    for y in 2..height - 2 {
        for x in 2..width - 2 {
            let at = |dx: i64, dy: i64| v[((y as i64 + dy) * width as i64 + x as i64 + dx) as usize];
            let xx = at(2, 0) - 2.0 * at(0, 0) + at(-2, 0);
            let yy = at(0, 2) - 2.0 * at(0, 0) + at(0, -2);
            let xy = at(1, 1) - at(1, -1) - at(-1, 1) + at(-1, -1);
            curved[y * width + x] = (xy * xy - xx * yy).max(0.0);
        }
    }
    let mut found: Vec<(f32, usize)> = Vec::new();
    for y in margin..height - margin {
        for x in margin..width - margin {
            let (i, here) = (y * width + x, curved[y * width + x]);
            let most = |j: usize| j == i || curved[j] < here || (curved[j] == here && j > i);
            if here > 0.0 && (y - 3..=y + 3).all(|y| (x - 3..=x + 3).all(|x| most(y * width + x))) {
                found.push((here, i));
            }
        }
    }
    found.sort_unstable_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
    let strongest = found.get(found.len().min(20).saturating_sub(1)).map_or(0.0, |f| f.0);
    let corner = |&(_, i): &(f32, usize)| {
        let at = DVec2::new((i % width) as f64 + 0.5, (i / width) as f64 + 0.5)
            + DVec2::new(f64::from(w.x), f64::from(w.y));
        Some(Corner { at, edges: edges(soft, at)? })
    };
    found.iter().take(MOST).take_while(|f| f.0 > STRONG * strongest).filter_map(corner).collect()
}

/// Between four samples; what lies beyond is as the edge.
fn sampled(r: &Raster, p: DVec2) -> f32 {
    let w = r.window();
    let q = p - DVec2::new(f64::from(w.x), f64::from(w.y)) - 0.5;
    let q = q.clamp(DVec2::ZERO, DVec2::new(f64::from(w.width - 1), f64::from(w.height - 1)));
    let (x, y) = (q.x as usize, q.y as usize);
    let (x1, y1) = ((x + 1).min(w.width as usize - 1), (y + 1).min(w.height as usize - 1));
    let (tx, ty) = ((q.x - x as f64) as f32, (q.y - y as f64) as f32);
    let at = |x: usize, y: usize| r.plane(0)[y * w.width as usize + x];
    let top = at(x, y) + (at(x1, y) - at(x, y)) * tx;
    let low = at(x, y1) + (at(x1, y1) - at(x, y1)) * tx;
    top + (low - top) * ty
}

/// Directions of the two edges through a corner: a ring around it changes four times between dark and bright, each time
/// opposite to another. `None` for anything else.
fn edges(r: &Raster, at: DVec2) -> Option<[DVec2; 2]> {
    let angle = |k: f64| std::f64::consts::TAU * k / ON_RING as f64;
    let ring: Vec<f32> =
        (0..ON_RING).map(|k| sampled(r, at + DVec2::from_angle(angle(k as f64)) * RING)).collect();
    let (low, high) =
        ring.iter().fold((f32::INFINITY, f32::NEG_INFINITY), |(l, h), v| (l.min(*v), h.max(*v)));
    let middle = 0.5 * (low + high);
    let mut changes = Vec::new();
    for k in 0..ON_RING {
        let (a, b) = (ring[k] - middle, ring[(k + 1) % ON_RING] - middle);
        if (a > 0.0) != (b > 0.0) {
            changes.push(angle(k as f64 + f64::from(a / (a - b))));
        }
    }
    let &[a, b, c, d] = &changes[..] else { return None };
    let opposite = |a: f64, b: f64| ((b - a) - std::f64::consts::PI).abs() < 0.5;
    if !opposite(a, c) || !opposite(b, d) {
        return None;
    }
    // The middle has the brightness between the two, or it is a bar and no crossing.
    let inside = (sampled(r, at) - middle).abs() < 0.3 * (high - low);
    let [first, second] =
        [(a, c), (b, d)].map(|(a, c)| DVec2::from_angle(0.5 * (a + c - std::f64::consts::PI)));
    (inside && first.perp_dot(second).abs() > 0.3).then_some([first, second])
}

/// Corners by their place in the chart, with how far the next one is.
type Grid = BTreeMap<(i32, i32), (usize, f64)>;

/// The largest grid that grows from one of the corners near the middle.
fn grid(corners: &[Corner], w: Window) -> Option<Grid> {
    let middle = w.at_share(DVec2::splat(0.5));
    let mut seeds: Vec<usize> = (0..corners.len()).collect();
    seeds.sort_by(|a, b| {
        corners[*a].at.distance_squared(middle).total_cmp(&corners[*b].at.distance_squared(middle))
    });
    let all = seeds.iter().take(60).filter_map(|seed| grown(corners, *seed));
    let best = all.reduce(|a, b| if b.len() > a.len() { b } else { a })?;
    (best.len() >= FEW).then_some(best)
}

/// The nearest corner along a direction, within a cone of 20°.
fn along(corners: &[Corner], from: usize, way: DVec2) -> Option<usize> {
    let nearest = |(_, d): &(usize, DVec2)| d.length();
    corners
        .iter()
        .enumerate()
        .map(|(i, c)| (i, c.at - corners[from].at))
        .filter(|(i, d)| *i != from && d.dot(way) > 0.94 * d.length() && d.length() > 4.0)
        .min_by(|a, b| nearest(a).total_cmp(&nearest(b)))
        .map(|(i, _)| i)
}

/// The corner that is nearest to a place, if it is near enough.
fn near(corners: &[Corner], place: DVec2, within: f64) -> Option<usize> {
    let apart = |i: &usize| corners[*i].at.distance(place);
    (0..corners.len()).min_by(|a, b| apart(a).total_cmp(&apart(b))).filter(|i| apart(i) < within)
}

/// The grid that grows from a corner: each cell knows the steps to its neighbours and foretells them.
fn grown(corners: &[Corner], seed: usize) -> Option<Grid> {
    let [a, b] = corners[seed].edges;
    let step = |way: DVec2| {
        let to = along(corners, seed, way).or_else(|| along(corners, seed, -way))?;
        let d = corners[to].at - corners[seed].at;
        Some(if d.dot(way) < 0.0 { -d } else { d })
    };
    let (u, v) = (step(a)?, step(b)?);
    if u.length() > 4.0 * v.length() || v.length() > 4.0 * u.length() {
        return None;
    }
    let mut cells: BTreeMap<(i32, i32), (usize, [DVec2; 2])> = BTreeMap::from([((0, 0), (seed, [u, v]))]);
    let mut taken = vec![false; corners.len()];
    taken[seed] = true;
    let mut open = VecDeque::from([(0, 0)]);
    while let Some(cell) = open.pop_front() {
        let (here, steps) = cells[&cell];
        for (axis, sign) in [(0, 1), (0, -1), (1, 1), (1, -1)] {
            let next = if axis == 0 { (cell.0 + sign, cell.1) } else { (cell.0, cell.1 + sign) };
            let way = steps[axis] * f64::from(sign);
            if cells.contains_key(&next) {
                continue;
            }
            let Some(to) = near(corners, corners[here].at + way, OFF * way.length()).filter(|to| !taken[*to])
            else {
                continue;
            };
            let mut own = steps;
            own[axis] = (corners[to].at - corners[here].at) * f64::from(sign);
            taken[to] = true;
            cells.insert(next, (to, own));
            open.push_back(next);
        }
    }
    Some(cells.into_iter().map(|(cell, (i, s))| (cell, (i, s[0].length().min(s[1].length())))).collect())
}

/// The place that lies on every edge around it: brightness rises across the way there, never along it.
fn refined(full: &Raster, first: DVec2, reach: f64) -> Option<DVec2> {
    let mut at = first;
    let cells = reach.ceil() as i32;
    for _ in 0..20 {
        let (mut square, mut pull) = (DMat2::ZERO, DVec2::ZERO);
        for dy in -cells..=cells {
            for dx in -cells..=cells {
                let d = DVec2::new(dx.into(), dy.into());
                let weight = (-2.0 * d.length_squared() / (reach * reach)).exp();
                let p = at + d;
                let slope = |step: DVec2| f64::from(sampled(full, p + step) - sampled(full, p - step)) * 0.5;
                let g = DVec2::new(slope(DVec2::X), slope(DVec2::Y));
                let outer = DMat2::from_cols(g * g.x, g * g.y) * weight;
                square += outer;
                pull += outer * p;
            }
        }
        if square.determinant().abs() < 1e-14 {
            return None;
        }
        let next = square.inverse() * pull;
        let moved = next.distance(at);
        at = next;
        if at.distance(first) > reach.max(4.0) || !at.is_finite() {
            return None;
        }
        if moved < 1e-4 {
            break;
        }
    }
    Some(at)
}

/// Rows and columns, each piece without a gap of three corners and more.
fn lines(places: &BTreeMap<(i32, i32), DVec2>) -> Vec<Vec<DVec2>> {
    let mut all = Vec::new();
    for turned in [false, true] {
        let cell = |(i, j): (i32, i32)| if turned { (j, i) } else { (i, j) };
        let by_line: BTreeMap<(i32, i32), DVec2> = places.iter().map(|(c, p)| (cell(*c), *p)).collect();
        let mut last: Option<(i32, i32)> = None;
        let mut line = Vec::new();
        for (c, p) in by_line {
            if last.is_none_or(|l| l.0 != c.0 || l.1 + 1 != c.1) {
                all.push(std::mem::take(&mut line));
            }
            line.push(p);
            last = Some(c);
        }
        all.push(line);
    }
    all.retain(|l| l.len() >= 3);
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::lens::{Lens, Model};
    use crate::geometry::straight::{Solves, straighten};

    const SIZE: (u32, u32) = (640, 400);
    const CENTRE: DVec2 = DVec2::new(320.0, 200.0);

    fn lens(k1: f64) -> Lens {
        Lens::new(Model::BrownConrady { k: [k1, 0.02, 0.0], p: [0.0; 2] }, CENTRE, DVec2::splat(377.0))
    }

    /// A tilted chart of 12 × 8 squares seen through a lens, on a plain wall, with grain.
    fn chart(k1: f64, grain: f32, turn: f64) -> Raster {
        let lens = lens(k1);
        let mut state = 7u64;
        let mut any = move || {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (state >> 40) as f32 / (1u64 << 24) as f32 - 0.5
        };
        Raster::from_fn(Window::of_size(SIZE.0, SIZE.1), 1, |_, x, y| {
            let mut sum = 0.0;
            for s in 0..36 {
                let p = DVec2::new(f64::from(x), f64::from(y))
                    + (DVec2::new(f64::from(s % 6), f64::from(s / 6)) + 0.5) / 6.0;
                let q = lens.straightened(p).map_or(p, |s| s.0);
                let [u, v] = on_chart(q, turn).to_array();
                let inside = (0.0..12.0).contains(&u) && (0.0..8.0).contains(&v);
                sum += match inside {
                    true if (u.floor() + v.floor()).rem_euclid(2.0) == 0.0 => 0.8,
                    true => 0.03,
                    false => 0.35,
                };
            }
            (sum / 36.0 + grain * any()).max(0.0)
        })
    }

    /// Squares of the chart at a place of the straight picture.
    fn on_chart(q: DVec2, turn: f64) -> DVec2 {
        let d = DVec2::from_angle(-turn).rotate(q - CENTRE);
        let d = d / (1.0 + 0.0004 * d.x - 0.0003 * d.y);
        d / 44.0 + DVec2::new(6.0, 4.0)
    }

    #[test]
    fn corners_of_a_bent_chart_lie_where_its_squares_meet() {
        for (k1, turn) in [(-0.22, 0.0), (0.15, 0.3), (0.0, 0.8)] {
            let found = find(&chart(k1, 0.03, turn), &Cancel::new()).unwrap().unwrap();
            assert!(found.corners >= 60, "{k1}: {}", found.corners);
            let off = |p: &DVec2| {
                let at = on_chart(lens(k1).straightened(*p).unwrap().0, turn);
                (at - at.round()).length() * 44.0
            };
            let all: Vec<f64> = found.lines.iter().flatten().map(off).collect();
            let rms = (all.iter().map(|v| v * v).sum::<f64>() / all.len() as f64).sqrt();
            assert!(rms < 0.08, "{k1}: {rms}");
            assert!(all.iter().all(|v| *v < 0.3), "{k1}: {:?}", all.iter().fold(0.0f64, |a, b| a.max(*b)));
        }
    }

    #[test]
    fn the_lens_comes_back_from_its_chart() {
        let found = find(&chart(-0.22, 0.02, 0.1), &Cancel::new()).unwrap().unwrap();
        let solved = straighten(&found.lines, Solves::BrownConrady, CENTRE, DVec2::splat(377.0)).unwrap();
        assert!(solved.residual[0] > 1.0 && solved.residual[1] < 0.05, "{solved:?}");
        let got = Lens::new(solved.model, CENTRE, DVec2::splat(377.0));
        // Where the chart is, the two lenses do the same up to what straight lines leave open: a projective map.
        let Model::BrownConrady { k, .. } = solved.model else { panic!() };
        assert!((k[0] + 0.22).abs() < 0.01, "{k:?}");
        let apart = DVec2::new(120.0, 90.0);
        assert!(
            got.straightened(apart).unwrap().0.distance(lens(-0.22).straightened(apart).unwrap().0) < 0.5
        );
    }

    #[test]
    fn a_picture_without_a_chart_has_none() {
        let w = Window::of_size(SIZE.0, SIZE.1);
        let waves = Raster::from_fn(w, 4, |c, x, y| {
            0.4 + 0.2
                * (x as f32 * 0.11 + c as f32).sin()
                * (y as f32 * 0.013 * (x as f32 * 0.02).cos()).sin()
        });
        let bars = Raster::from_fn(w, 1, |_, x, _| if x / 20 % 2 == 0 { 0.1 } else { 0.7 });
        let even = Raster::filled(w, 4, 0.3);
        let tiny = Raster::filled(Window::of_size(9, 9), 1, 0.3);
        for (name, r) in [("waves", waves), ("bars", bars), ("even", even), ("tiny", tiny)] {
            assert_eq!(find(&r, &Cancel::new()).unwrap(), None, "{name}");
        }
        assert_eq!(find(&Raster::zeros(Window::default(), 4), &Cancel::new()).unwrap(), None);
    }
}
