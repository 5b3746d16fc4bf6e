//! What steps that work along an edge have in common.

use crate::error::ShotError;
use crate::inputs::Inputs;
use crate::wants::{Want, cover};
use glam::Vec2;
use jugata_core::{Raster, Window};

/// What is asked for by a step along the edge of a named matte, or of the element itself.
pub(super) fn edge_of(matte: Option<u32>) -> Vec<Want> {
    vec![cover(matte)]
}

/// The matte whose edge it is about: the one that was asked for, else the element's own coverage, which no shadow or glow
/// of an earlier step blurs.
pub(super) fn matte_of(picture: &Raster, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
    match inputs.cover() {
        Some(matte) => Ok(matte.clone()),
        None => Ok(Raster::from_planar(picture.window(), 1, picture.plane(3).to_vec())?),
    }
}

/// Does `work` only where a matte and what lies within `reach` px of it are, in px of the scale: a title leaves most of its
/// frame alone. It is shown picture and matte there; elsewhere `rest` stays.
pub(super) fn about_matte(
    picture: &Raster,
    matte: &Raster,
    reach: f32,
    rest: impl FnOnce() -> Raster,
    work: impl FnOnce(&Raster, &Raster) -> Result<Raster, ShotError>,
) -> Result<Raster, ShotError> {
    let window = picture.window();
    let held = held_by(matte);
    if held.is_empty() {
        return Ok(rest());
    }
    let part = held.grown(reach.max(0.0).ceil() as u32).intersect(&window);
    if part == window {
        return work(picture, matte);
    }
    let mut out = rest();
    out.paste(&work(&picture.cropped(part, 0.0), &matte.cropped(part, 0.0))?);
    Ok(out)
}

/// No light on a picture.
pub(super) fn unlit(picture: &Raster) -> Raster {
    let mut out = Raster::zeros(picture.window(), 4);
    out.plane_mut(3).copy_from_slice(picture.plane(3));
    out
}

/// The smallest window that holds all that a matte covers.
fn held_by(matte: &Raster) -> Window {
    let w = matte.window();
    let (mut left, mut right, mut top, mut bottom) = (i64::MAX, i64::MIN, i64::MAX, i64::MIN);
    for y in w.rows() {
        let row = matte.row(0, y);
        // What is no number covers, too: it is looked at, and not passed over.
        let covers = |v: &f32| *v != 0.0;
        if let (Some(first), Some(last)) = (row.iter().position(covers), row.iter().rposition(covers)) {
            left = left.min(i64::from(w.x) + first as i64);
            right = right.max(i64::from(w.x) + last as i64 + 1);
            top = top.min(y.into());
            bottom = bottom.max(i64::from(y) + 1);
        }
    }
    if left > right { Window::new(w.x, w.y, 0, 0) } else { Window::from_edges(left, top, right, bottom) }
}

/// Unit vector of an angle in degrees, y down: 0 to the right, 90 up.
pub(super) fn toward(degrees: f32) -> Vec2 {
    let (sin, cos) = degrees.to_radians().sin_cos();
    Vec2::new(cos, -sin)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn work_is_done_about_the_matte_alone() {
        let w = Window::new(-5, 7, 60, 40);
        let picture = Raster::filled(w, 4, 0.5);
        let matte = Raster::from_fn(w, 1, |_, x, y| {
            f32::from(u8::from((10..14).contains(&x) && (20..23).contains(&y)))
        });
        assert_eq!(held_by(&matte), Window::new(10, 20, 4, 3));
        let out = about_matte(
            &picture,
            &matte,
            2.5,
            || picture.clone(),
            |p, m| {
                assert_eq!((p.window(), m.window()), (Window::new(7, 17, 10, 9), Window::new(7, 17, 10, 9)));
                Ok(Raster::filled(p.window(), 4, 0.9))
            },
        );
        let out = out.unwrap();
        assert_eq!((out.sample(0, 7, 17), out.sample(0, 6, 17), out.window()), (Some(0.9), Some(0.5), w));
        let none = Raster::zeros(w, 1);
        let out = about_matte(&picture, &none, 9.0, || picture.clone(), |_, _| panic!("nothing to do"));
        assert_eq!(out.unwrap(), picture);
    }
}
