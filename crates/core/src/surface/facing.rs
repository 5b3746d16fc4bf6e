//! Facing and curvature.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec3;

/// How much each place of a surface faces the viewer, `n·v`, 0..1. With positions the viewer is where the camera is, else
/// infinitely far in front. 0 where there is no normal.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn facing(normals: &Raster, positions: Option<&Raster>, cancel: &Cancel) -> Result<Raster, KernelError> {
    normals.expect_channels("normals", 3)?;
    if let Some(p) = positions {
        p.expect_channels("position", 3)?;
        p.expect_window("position", normals.window())?;
    }
    let mut out = Raster::zeros(normals.window(), 1);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let [x, ny, z] = normals.rows(y);
            let place = positions.map(|p| p.rows::<3>(y));
            for (i, v) in band.row(0, y).iter_mut().enumerate() {
                let view = place.map_or(Vec3::Z, |p| -Vec3::new(p[0][i], p[1][i], p[2][i]));
                let view = view.try_normalize().unwrap_or(Vec3::Z);
                let cosine = Vec3::new(x[i], ny[i], z[i]).dot(view);
                *v = if cosine.is_finite() { cosine.clamp(0.0, 1.0) } else { 0.0 };
            }
        }
    })?;
    Ok(out)
}

/// How a surface bends across the picture: the divergence of its normals over `radius` px, positive on what bulges,
/// negative in what is hollow; 1 for a turn of a radian over that length. Over an edge, where `depths` jump by more than
/// a twentieth, nothing is measured.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn curvature(
    normals: &Raster,
    depths: Option<&Raster>,
    radius: f32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    normals.expect_channels("normals", 3)?;
    if let Some(z) = depths {
        z.expect_channels("depth", 1)?;
        z.expect_window("depth", normals.window())?;
    }
    let reach = (radius.round() as i32).max(1);
    let mut out = Raster::zeros(normals.window(), 1);
    let at = |x: i32, y: i32| {
        let n = Vec3::new(normals.sample(0, x, y)?, normals.sample(1, x, y)?, normals.sample(2, x, y)?);
        (n.length_squared() > 0.25).then_some(n)
    };
    let joined = |a: (i32, i32), b: (i32, i32)| {
        let Some(z) = depths else { return true };
        match (z.sample(0, a.0, a.1), z.sample(0, b.0, b.1)) {
            (Some(a), Some(b)) => (a - b).abs() < 0.05 * a.min(b),
            _ => false,
        }
    };
    for_each_band(&mut out, cancel, |band| {
        let window = band.window();
        for y in window.rows() {
            for (x, v) in (window.x..).zip(band.row(0, y)) {
                let Some(own) = at(x, y) else { continue };
                let side = |dx: i32, dy: i32| {
                    let there = (x + dx * reach, y + dy * reach);
                    at(there.0, there.1).filter(|_| joined((x, y), there)).unwrap_or(own)
                };
                // y runs down in storage and up in the normals.
                let turn = side(1, 0).x - side(-1, 0).x + side(0, -1).y - side(0, 1).y;
                *v = 0.5 * turn;
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn ball(r: f32, sign: f32) -> Raster {
        Raster::from_fn(Window::new(-50, -50, 101, 101), 3, |c, x, y| {
            let (u, v) = (x as f32 / r, -(y as f32) / r);
            let z = (1.0 - u * u - v * v).max(0.0).sqrt();
            if z == 0.0 { 0.0 } else { [sign * u, sign * v, z][c] }
        })
    }

    #[test]
    fn a_ball_faces_the_viewer_in_its_middle() {
        let f = facing(&ball(40.0, 1.0), None, &Cancel::new()).unwrap();
        assert_eq!(f.sample(0, 0, 0), Some(1.0));
        assert!((f.sample(0, 24, 0).unwrap() - 0.8).abs() < 1e-5 && f.sample(0, 45, 0) == Some(0.0));
        // Seen from where the camera is, a wall aside is seen aslant.
        let w = Window::of_size(2, 1);
        let wall = Raster::from_fn(w, 3, |c, _, _| f32::from(u8::from(c == 2)));
        let place = Raster::from_fn(w, 3, |c, x, _| [3.0 * x as f32, 0.0, -4.0][c]);
        let f = facing(&wall, Some(&place), &Cancel::new()).unwrap();
        assert!((f.sample(0, 1, 0).unwrap() - 0.8).abs() < 1e-6 && f.sample(0, 0, 0) == Some(1.0));
    }

    #[test]
    fn curvature_is_the_inverse_of_the_radius_and_signed() {
        for (sign, want) in [(1.0, 5.0 / 40.0 * 2.0), (-1.0, -5.0 / 40.0 * 2.0)] {
            let c = curvature(&ball(40.0, sign), None, 5.0, &Cancel::new()).unwrap();
            // Both axes bend: the sum of the two curvatures, over 5 px.
            assert!((c.sample(0, 3, 4).unwrap() - want).abs() < 1e-5, "{:?} {want}", c.sample(0, 3, 4));
        }
        let jump = Raster::from_fn(ball(1.0, 1.0).window(), 1, |_, x, _| if x < 0 { 2.0 } else { 5.0 });
        let two =
            Raster::from_fn(
                jump.window(),
                3,
                |c, x, _| if x < 0 { [0.0, 0.0, 1.0][c] } else { [0.6, 0.0, 0.8][c] },
            );
        assert_eq!(curvature(&two, Some(&jump), 3.0, &Cancel::new()).unwrap().sample(0, 0, 0), Some(0.0));
        assert!(curvature(&two, None, 3.0, &Cancel::new()).unwrap().sample(0, 0, 0).unwrap() > 0.2);
    }
}
