//! Simple bodies on which a normal map can be judged: a ball, a torus, a cube, a cone and draped cloth.
//!
//! Each is found by walking its distance field (Hart 1996, "Sphere Tracing"), turned as one likes, and gives normals and
//! positions in camera space as a render would: from there on light falls on it as on any other surface.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::{Mat3, Vec2, Vec3};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::f32::consts::{PI, TAU};
use ts_rs::TS;

/// A body.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Shape {
    /// A ball.
    #[default]
    Ball,
    /// A ring with a round section.
    Torus,
    /// A cube.
    Cube,
    /// A cone on its base.
    Cone,
    /// Cloth that hangs over something.
    Cloth,
}

/// How a body is seen.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BodyView {
    /// The body.
    pub shape: Shape,
    /// Turned to the right, and toward the viewer, radians.
    pub turn: Vec2,
    /// How often the map repeats across it.
    pub tiles: f32,
    /// Side of the picture, px.
    pub side: u32,
}

/// A body as a render of it would be.
#[derive(Clone, Debug)]
pub struct Body {
    /// White where it is, RGBA premultiplied.
    pub picture: Raster,
    /// Unit normals with the map's relief, camera space.
    pub normal: Raster,
    /// Positions, camera space.
    pub position: Raster,
}

/// Distance of the camera: near enough for some perspective.
const AWAY: f32 = 5.0;

/// Half of what the picture shows at the body's distance: bodies are about one unit large.
const ROOM: f32 = 1.35;

/// Steps of a walk, and how near is there.
const STEPS: usize = 160;
const NEAR: f32 = 4e-4;

/// A body under a normal map (3 planes, flat places (0, 0, 1), y up), repeated; without a map it is smooth.
///
/// # Errors
/// A map without three planes; cancellation.
pub fn seen(map: Option<&Raster>, how: BodyView, cancel: &Cancel) -> Result<Body, KernelError> {
    if let Some(map) = map {
        map.expect_channels("normal map", 3)?;
    }
    let window = Window::of_size(how.side, how.side);
    // The body turns; the walk is in its own space.
    let turn = Mat3::from_rotation_x(how.turn.y) * Mat3::from_rotation_y(how.turn.x);
    let own = turn.transpose();
    let eye = own * Vec3::new(0.0, 0.0, AWAY);
    let mut all = Raster::zeros(window, 7);
    for_each_band(&mut all, cancel, |band| {
        for y in band.window().rows() {
            let rows: [&mut [f32]; 7] = band.rows(y);
            let mut rows = rows;
            for x in 0..how.side as usize {
                let at = Vec2::new(x as f32 + 0.5, y as f32 + 0.5) / how.side as f32 * 2.0 - 1.0;
                let ray = Vec3::new(at.x * ROOM, -at.y * ROOM, -AWAY).normalize();
                let Some(p) = walk(how.shape, eye, own * ray) else { continue };
                let n = turn * relief(map, how, p, eye - p);
                let place = turn * p - Vec3::new(0.0, 0.0, AWAY);
                let values = [n.x, n.y, n.z, place.x, place.y, place.z, 1.0];
                rows.iter_mut().zip(values).for_each(|(r, v)| r[x] = v);
            }
        }
    })?;
    let planes = |from: usize, count: usize| {
        let data = (from..from + count).flat_map(|c| all.plane(c.min(6)).iter().copied()).collect();
        Raster::from_planar(window, count, data)
    };
    let alpha = all.plane(6);
    let picture = Raster::from_planar(window, 4, alpha.repeat(4))?;
    Ok(Body { picture, normal: planes(0, 3)?, position: planes(3, 3)? })
}

/// Where a ray meets a body.
fn walk(shape: Shape, from: Vec3, ray: Vec3) -> Option<Vec3> {
    // Nothing of a body is nearer than this.
    let mut t = AWAY - 2.2;
    for _ in 0..STEPS {
        let p = from + ray * t;
        let d = distance(shape, p);
        if d < NEAR {
            return Some(p);
        }
        t += d;
        if t > AWAY + 2.2 {
            return None;
        }
    }
    None
}

/// Distance to a body, or less.
fn distance(shape: Shape, p: Vec3) -> f32 {
    match shape {
        Shape::Ball => p.length() - 1.0,
        Shape::Torus => Vec2::new(Vec2::new(p.x, p.z).length() - 0.78, p.y).length() - 0.36,
        Shape::Cube => {
            // Edges are a little round, as they are on things.
            let q = p.abs() - Vec3::splat(0.66);
            q.max(Vec3::ZERO).length() + q.max_element().min(0.0) - 0.06
        }
        Shape::Cone => {
            let (r, slope) = (Vec2::new(p.x, p.z).length(), Vec2::new(2.0, 0.95).normalize());
            let side = Vec2::new(r, p.y - 1.0).dot(slope);
            let d = Vec2::new(side, -1.0 - p.y);
            d.max(Vec2::ZERO).length() + d.max_element().min(0.0) - 0.02
        }
        // Half of the height over the cloth is less than the distance to it, as steep as it is.
        Shape::Cloth => {
            let over = (p.y - fall(p.x, p.z)).abs() * 0.45 - 0.012;
            let q = Vec2::new(p.x.abs() - 1.15, p.z.abs() - 1.15);
            over.max(q.max_element())
        }
    }
}

/// Height of the cloth: a round table under it, and folds that grow outwards.
fn fall(x: f32, z: f32) -> f32 {
    let r = Vec2::new(x, z).length();
    let hang = ((r - 0.55) / 0.6).clamp(0.0, 1.0);
    let smooth = hang * hang * (3.0 - 2.0 * hang);
    let folds = (x.atan2(z) * 7.0).cos() * 0.09 * smooth;
    0.35 - 0.85 * smooth + folds * r.min(1.0)
}

/// Normal of a body by differences of its distance (central, four corners of a tetrahedron).
fn normal(shape: Shape, p: Vec3) -> Vec3 {
    const E: f32 = 6e-4;
    let corners =
        [Vec3::new(1.0, -1.0, -1.0), Vec3::new(-1.0, -1.0, 1.0), Vec3::new(-1.0, 1.0, -1.0), Vec3::ONE];
    corners.iter().map(|c| *c * distance(shape, p + *c * E)).sum::<Vec3>().normalize_or(Vec3::Y)
}

/// Place on the map, and the direction in which its first coordinate grows.
fn place_on(shape: Shape, p: Vec3, n: Vec3) -> (Vec2, Vec3) {
    let round = p.x.atan2(p.z);
    let along = Vec3::new(round.cos(), 0.0, -round.sin());
    match shape {
        Shape::Ball => (Vec2::new(round / PI, p.y.clamp(-1.0, 1.0).asin() / PI), along),
        Shape::Torus => {
            let tube = p.y.atan2(Vec2::new(p.x, p.z).length() - 0.78);
            (Vec2::new(round / TAU * 3.0, tube / TAU), along)
        }
        Shape::Cone => (Vec2::new(round / PI, p.y * 0.5), along),
        Shape::Cloth => (Vec2::new(p.x, -p.z) * 0.5, Vec3::X),
        Shape::Cube => {
            let a = n.abs();
            if a.x >= a.y && a.x >= a.z {
                (Vec2::new(-p.z * n.x.signum(), p.y) * 0.7, Vec3::new(0.0, 0.0, -n.x.signum()))
            } else if a.y >= a.z {
                (Vec2::new(p.x, -p.z * n.y.signum()) * 0.7, Vec3::X)
            } else {
                (Vec2::new(p.x * n.z.signum(), p.y) * 0.7, Vec3::new(n.z.signum(), 0.0, 0.0))
            }
        }
    }
}

/// The normal at a place, turned as the map says.
fn relief(map: Option<&Raster>, how: BodyView, p: Vec3, view: Vec3) -> Vec3 {
    let n = normal(how.shape, p);
    // Cloth is so thin that its other side may be what a difference finds at an edge.
    let n = if n.dot(view) < 0.0 { -n } else { n };
    let Some(map) = map.filter(|m| !m.window().is_empty()) else { return n };
    let (uv, along) = place_on(how.shape, p, n);
    let tangent = (along - n * n.dot(along)).normalize_or(n.any_orthonormal_vector());
    let m = repeated(map, uv * how.tiles);
    (tangent * m.x + n.cross(tangent) * m.y + n * m.z).normalize_or(n)
}

/// The map between its pixels, round about; v runs up.
fn repeated(map: &Raster, uv: Vec2) -> Vec3 {
    let w = map.window();
    let (x, y) = (uv.x * w.width as f32 - 0.5, -uv.y * w.height as f32 - 0.5);
    let (left, top) = (x.floor(), y.floor());
    let column = |i: f32| (i as i64).rem_euclid(i64::from(w.width)) as usize;
    let row = |i: f32| w.y + (i as i64).rem_euclid(i64::from(w.height)) as i32;
    let (a, b, j, k) = (column(left), column(left + 1.0), row(top), row(top + 1.0));
    let v = Vec3::from_array(std::array::from_fn(|c| {
        let (u, l) = (map.row(c, j), map.row(c, k));
        let (t, s) = (u[a] + (u[b] - u[a]) * (x - left), l[a] + (l[b] - l[a]) * (x - left));
        t + (s - t) * (y - top)
    }));
    if v.is_finite() { v.normalize_or(Vec3::Z) } else { Vec3::Z }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn body(shape: Shape, map: Option<&Raster>) -> Body {
        seen(map, BodyView { shape, turn: Vec2::new(0.5, 0.4), tiles: 2.0, side: 64 }, &Cancel::new())
            .unwrap()
    }

    #[test]
    fn every_body_is_there_and_faces_the_viewer() {
        for shape in [Shape::Ball, Shape::Torus, Shape::Cube, Shape::Cone, Shape::Cloth] {
            let b = body(shape, None);
            let mut count = 0;
            for i in 0..64 * 64 {
                if b.picture.plane(3)[i] > 0.0 {
                    count += 1;
                    let at = |r: &Raster| Vec3::from_array(std::array::from_fn(|c| r.plane(c)[i]));
                    let (n, p) = (at(&b.normal), at(&b.position));
                    assert!((n.length() - 1.0).abs() < 1e-3, "{shape:?}");
                    assert!(n.dot(-p.normalize()) > -0.15, "{shape:?} {n} {p}");
                }
            }
            assert!((700..3200).contains(&count), "{shape:?}: {count} px");
        }
    }

    #[test]
    fn a_ball_has_the_normals_of_a_ball() {
        let b = body(Shape::Ball, None);
        for (x, y) in [(32, 32), (20, 25), (45, 40)] {
            let p = Vec3::from_slice(&b.position.pixel(x, y).unwrap()) + Vec3::new(0.0, 0.0, AWAY);
            let n = Vec3::from_slice(&b.normal.pixel(x, y).unwrap());
            assert!((n - p.normalize()).length() < 3e-3, "{n} {p}");
        }
    }

    #[test]
    fn a_flat_map_changes_nothing_and_a_slope_turns_as_it_should() {
        let w = Window::of_size(4, 4);
        let flat = Raster::from_fn(w, 3, |c, _, _| [0.0, 0.0, 1.0][c]);
        let off = |a: &Body, b: &Body| {
            a.normal.data().iter().zip(b.normal.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
        };
        assert!(off(&body(Shape::Cube, Some(&flat)), &body(Shape::Cube, None)) < 1e-5);
        // On the front face of an unturned cube x of the map is right and y is up.
        let slope = Raster::from_fn(w, 3, |c, _, _| [0.6, 0.0, 0.8][c]);
        let how = BodyView { shape: Shape::Cube, turn: Vec2::ZERO, tiles: 1.0, side: 33 };
        let n = seen(Some(&slope), how, &Cancel::new()).unwrap().normal.pixel(16, 16).unwrap();
        assert!((Vec3::from_slice(&n) - Vec3::new(0.6, 0.0, 0.8)).length() < 1e-3, "{n:?}");
        let up = Raster::from_fn(w, 3, |c, _, _| [0.0, 0.6, 0.8][c]);
        let n = seen(Some(&up), how, &Cancel::new()).unwrap().normal.pixel(16, 16).unwrap();
        assert!((Vec3::from_slice(&n) - Vec3::new(0.0, 0.6, 0.8)).length() < 1e-3, "{n:?}");
    }
}
