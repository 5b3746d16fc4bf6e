//! What lies before or behind a depth, cut out of a picture.

use crate::colour::grade::Ramp;
use crate::focus::law::Law;
use crate::focus::pieces::{CIRCLE, COVER, Pieces};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// Circle of what is infinitely far, for taking the picture apart: half a px of circle, where an edge begins, is then
/// a sixteenth of the depth, and a slant may change by as much with each px.
const FINE: f32 = 8.0;

/// Keeps what `keep` keeps (share 1) and makes the rest transparent, alpha included. A rim pixel that holds the
/// colours of two surfaces is parted, so that what stays carries nothing of what goes. Where everything around a
/// pixel stays, every bit of it does.
///
/// `picture` is RGBA premultiplied, `depth` lies on its window, which should be the whole frame; `rim` px on both
/// sides of an edge may hold the colours of both surfaces.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn reveal(
    picture: &Raster,
    depth: &Raster,
    keep: Ramp,
    rim: u32,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    depth.expect_window("depth", picture.window())?;
    let middle = (0.5 * (keep.from + keep.to)).max(1e-6);
    let law = Law { sharp: [middle; 2], near: FINE * middle, far: FINE * middle, most: f32::INFINITY };
    let pieces = Pieces::split(picture, law.radii(depth, cancel)?, None, rim, cancel)?;
    // The depth again, from the circle that it gave.
    let share = |circle: f32| {
        let inverse = (1.0 - circle / FINE) / middle;
        keep.at(if inverse > 1e-9 { 1.0 / inverse } else { f32::INFINITY })
    };
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let mut rows = band.rows::<4>(y);
            let front = &pieces.front.raster;
            let (near, cover) = (front.row(CIRCLE, y), front.row(COVER, y));
            let back = pieces.back.as_ref().map(|b| &b.raster);
            for i in 0..near.len() {
                let own = share(near[i]);
                let open = 1.0 - cover[i];
                let behind = back.filter(|b| open > 0.0 && b.row(COVER, y)[i] > 0.0);
                let other = behind.map_or(own, |b| share(b.row(CIRCLE, y)[i]));
                if own == 1.0 && other == 1.0 {
                    continue;
                }
                for (c, row) in rows.iter_mut().enumerate() {
                    let far = behind.map_or(0.0, |b| b.row(c, y)[i]);
                    row[i] = front.row(c, y)[i] * own + far * open * other;
                }
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(40, 20);

    /// A red card left of x = 20.5 before a blue wall; the rim pixel is half of each.
    fn card() -> (Raster, Raster) {
        let picture = Raster::from_fn(W, 4, |c, x, _| {
            let cover = (20.5 - x as f32).clamp(0.0, 1.0);
            match c {
                0 => cover,
                2 => 1.0 - cover,
                3 => 1.0,
                _ => 0.0,
            }
        });
        (picture, Raster::from_fn(W, 1, |_, x, _| if x <= 20 { 2.0 } else { 8.0 }))
    }

    #[test]
    fn what_stays_carries_nothing_of_what_goes() {
        let (picture, depth) = card();
        let near = reveal(&picture, &depth, Ramp { from: 5.0, to: 4.0 }, 1, &Cancel::new()).unwrap();
        assert_eq!(near.pixel(10, 9), picture.pixel(10, 9));
        assert_eq!(near.pixel(30, 9), Some(vec![0.0; 4]));
        let rim = near.pixel(20, 9).unwrap();
        assert!((rim[0] - 0.5).abs() < 0.02 && rim[2] < 0.02 && (rim[3] - 0.5).abs() < 0.02, "{rim:?}");
        let far = reveal(&picture, &depth, Ramp { from: 4.0, to: 5.0 }, 1, &Cancel::new()).unwrap();
        let rim = far.pixel(20, 9).unwrap();
        assert!(rim[0] < 0.02 && (rim[2] - 0.5).abs() < 0.02 && (rim[3] - 0.5).abs() < 0.02, "{rim:?}");
        // The two over each other are the picture again.
        for x in 0..40 {
            for c in 0..4 {
                let sum = near.sample(c, x, 9).unwrap() + far.sample(c, x, 9).unwrap();
                assert!((sum - picture.sample(c, x, 9).unwrap()).abs() < 1e-5, "{x} {c}");
            }
        }
    }

    #[test]
    fn with_all_or_nothing_kept_no_bit_is_in_doubt() {
        let (picture, depth) = card();
        let go = |from, to| reveal(&picture, &depth, Ramp { from, to }, 1, &Cancel::new()).unwrap();
        assert_eq!(go(100.0, 50.0), picture);
        assert!(go(1.0, 0.5).data().iter().all(|v| v.abs() < 1e-6));
    }

    #[test]
    fn a_soft_end_fades() {
        let picture = Raster::filled(W, 4, 1.0);
        let depth = Raster::from_fn(W, 1, |_, x, _| 2.0 + 0.1 * x as f32);
        let out = reveal(&picture, &depth, Ramp { from: 5.0, to: 3.0 }, 1, &Cancel::new()).unwrap();
        let at = |x: i32| out.sample(3, x, 5).unwrap();
        assert!(at(5) == 1.0 && at(35) < 1e-5 && (at(20) - 0.5).abs() < 0.01, "{} {}", at(20), at(35));
    }
}
