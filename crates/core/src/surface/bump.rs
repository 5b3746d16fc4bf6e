//! Fine relief added to the normals of a surface.

use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::Vec3;

/// Base normals turned by those of a detail map, whose flat places are (0, 0, 1): reoriented normal mapping
/// (Barré-Brisebois & Hill 2012), `t = b + (0, 0, 1)`, `u = d·(−1, −1, 1)`, `r = t (t·u)/t_z − u`. A flat map changes no
/// bit; nothing stays nothing.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn reoriented(base: &Raster, detail: &Raster, cancel: &Cancel) -> Result<Raster, KernelError> {
    base.expect_channels("normals", 3)?;
    detail.expect_channels("detail", 3)?;
    detail.expect_window("detail", base.window())?;
    each(base, cancel, |b, x, y| {
        let d = Vec3::from_array(std::array::from_fn(|c| detail.row(c, y)[x]));
        // Facing straight away there is no turn from +z to this normal that is shorter than others.
        if d == Vec3::Z || d == Vec3::ZERO || b.z < -0.999 {
            return b;
        }
        let (t, u) = (b + Vec3::Z, Vec3::new(-d.x, -d.y, d.z));
        (t * (t.dot(u) / t.z) - u).normalize_or(b)
    })
}

/// Normals of a surface that is raised by a height: the perturbation from screen derivatives of position and height
/// (Mikkelsen 2010, "Bump Mapping Unparametrized Surfaces on the GPU"). `height` is in px of the raster times `strength`,
/// so that a slope looks the same at any distance; a px is as long as `depth ÷ focal` there.
///
/// Derivatives are taken from the side with the smaller step of depth, so that no edge is bridged.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn raised(
    normals: &Raster,
    positions: &Raster,
    height: &Raster,
    strength: f32,
    focal: f32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    positions.expect_channels("position", 3)?;
    positions.expect_window("position", normals.window())?;
    height.expect_channels("height", 1)?;
    height.expect_window("height", normals.window())?;
    normals.expect_channels("normals", 3)?;
    let window = normals.window();
    let (wide, tall) = (window.width as usize, window.height as usize);
    let place = |i: usize| Vec3::from_array(std::array::from_fn(|c| positions.plane(c)[i]));
    let h = height.plane(0);
    // Difference of position and height along an axis.
    let along = |i: usize, at: usize, size: usize, step: usize| -> Option<(Vec3, f32)> {
        let p = place(i);
        let ahead = (at + 1 < size).then(|| (place(i + step) - p, h[i + step] - h[i]));
        let behind = (at > 0).then(|| (p - place(i - step), h[i] - h[i - step]));
        let sound = |d: &Option<(Vec3, f32)>| d.filter(|(d, h)| d.is_finite() && h.is_finite());
        match (sound(&ahead), sound(&behind)) {
            // Both sides on one surface: the mean has no half px of shift.
            (Some((a, ha)), Some((b, hb))) => {
                let near = a.z.abs().min(b.z.abs());
                if (a.z - b.z).abs() < 0.25 * near + 1e-3 * -p.z {
                    Some(((a + b) * 0.5, (ha + hb) * 0.5))
                } else if a.z.abs() < b.z.abs() {
                    Some((a, ha))
                } else {
                    Some((b, hb))
                }
            }
            (one, other) => one.or(other),
        }
    };
    each(normals, cancel, |n, x, y| {
        let row = (y - window.y) as usize;
        let i = row * wide + x;
        let depth = -place(i).z;
        let (Some((dx, hx)), Some((dy, hy))) = (along(i, x, wide, 1), along(i, row, tall, wide)) else {
            return n;
        };
        let unit = strength * depth / focal;
        let (r1, r2) = (dy.cross(n), n.cross(dx));
        let det = dx.dot(r1);
        let gradient = (r1 * hx + r2 * hy) * (unit * det.signum());
        let raised = n * det.abs() - gradient;
        if gradient == Vec3::ZERO || !raised.is_finite() { n } else { raised.normalize_or(n) }
    })
}

/// Every normal, from its value, column and row.
fn each(
    normals: &Raster,
    cancel: &Cancel,
    f: impl Fn(Vec3, usize, i32) -> Vec3 + Sync,
) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(normals.window(), 3);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let n = normals.rows::<3>(y);
            let mut rows = band.rows::<3>(y);
            for x in 0..n[0].len() {
                let v = Vec3::new(n[0][x], n[1][x], n[2][x]);
                let v = if v.length_squared() > 0.25 { f(v, x, y) } else { v };
                rows.iter_mut().zip(v.to_array()).for_each(|(r, v)| r[x] = v);
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::surface::normals::{Derivative, FromHeight, from_height};
    use crate::{Camera, Scale, Window};

    const W: Window = Window::of_size(40, 30);

    fn flat(n: Vec3) -> Raster {
        Raster::from_fn(W, 3, |c, _, _| n[c])
    }

    #[test]
    fn a_flat_map_changes_no_bit_and_a_flat_base_gives_the_map() {
        let base = flat(Vec3::new(0.6, -0.36, 0.714_143));
        assert_eq!(reoriented(&base, &flat(Vec3::Z), &Cancel::new()).unwrap(), base);
        let map = flat(Vec3::new(0.2, 0.3, 0.93).normalize());
        let got = reoriented(&flat(Vec3::Z), &map, &Cancel::new()).unwrap();
        assert!(got.data().iter().zip(map.data()).all(|(a, b)| (a - b).abs() < 1e-6));
        assert_eq!(reoriented(&flat(Vec3::ZERO), &map, &Cancel::new()).unwrap(), flat(Vec3::ZERO));
    }

    #[test]
    fn the_map_is_turned_as_the_base_is() {
        // The turn from +z to the base, by Rodrigues, is what reoriented normal mapping does in closed form.
        let (base, map) = (Vec3::new(0.48, 0.6, 0.64), Vec3::new(0.3, -0.2, 0.93).normalize());
        let turn = glam::Quat::from_rotation_arc(Vec3::Z, base);
        let got = reoriented(&flat(base), &flat(map), &Cancel::new()).unwrap();
        let got = Vec3::from_slice(&got.pixel(3, 3).unwrap());
        assert!((got - turn * map).length() < 1e-5, "{got} {}", turn * map);
    }

    #[test]
    fn a_raised_wall_has_the_normals_of_its_height() {
        let camera = Camera { focal: 50.0, centre_x: 20.0, centre_y: 15.0, world: None };
        let wall = Raster::filled(W, 1, 5.0);
        let positions = camera.positions(&wall, Scale::FULL, &Cancel::new()).unwrap();
        let height = Raster::from_fn(W, 1, |_, x, y| 0.3 * (0.5 * x as f32).sin() + 0.02 * y as f32);
        let got = raised(&flat(Vec3::Z), &positions, &height, 2.0, 50.0, &Cancel::new()).unwrap();
        let how = FromHeight { strength: 2.0, kernel: Derivative::Central, tileable: false, y_down: false };
        let want = from_height(&height, how, &Cancel::new()).unwrap();
        for y in 1..29 {
            for x in 1..39 {
                let (g, w) = (
                    Vec3::from_slice(&got.pixel(x, y).unwrap()),
                    Vec3::from_slice(&want.pixel(x, y).unwrap()),
                );
                assert!((g - w).length() < 1e-4, "{x},{y}: {g} {w}");
            }
        }
        let level = Raster::filled(W, 1, 0.7);
        assert_eq!(
            raised(&flat(Vec3::Z), &positions, &level, 2.0, 50.0, &Cancel::new()).unwrap(),
            flat(Vec3::Z)
        );
    }
}
