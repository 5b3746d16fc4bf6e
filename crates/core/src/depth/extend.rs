//! Depth carried on past the edge of what it belongs to, so that whatever reads it finds the element's own depth
//! under the soft rim of the picture.

use super::{inside, is_depth};
use crate::raster::bands::for_each_band;
use crate::raster::distance;
use crate::raster::soften::softened;
use crate::{Cancel, KernelError, Raster, Window};

/// How far, and from where. Lengths in px of the raster.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Extend {
    /// Width of the band outside the edge that is given a depth.
    pub by: f32,
    /// How far inside the edge samples are trusted: nearer to it they may be spoilt.
    pub choke: f32,
    /// Blur of what is new, so that it carries no streaks.
    pub soften: f32,
}

/// The matte's core (coverage of at least a half, choked) keeps its depth; each pixel up to `by` px outside takes
/// the depth of its nearest core pixel. Inside the matte nothing is touched but what has no depth: the untouched
/// depth stays on top. Without coverage the matte is where there is any depth.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn extend(
    depth: &Raster,
    alpha: Option<&Raster>,
    how: Extend,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let window = depth.window();
    depth.expect_channels("depth", 1)?;
    if let Some(alpha) = alpha {
        alpha.expect_channels("alpha", 1)?;
        alpha.expect_window("alpha", window)?;
    }
    let inside = inside(depth, alpha);
    let core = core(depth, &inside, how.choke, cancel)?;
    let nearest = distance::nearest(window, &core, cancel)?;
    let most = how.by.max(0.0);
    let width = window.width as usize;
    let z = depth.plane(0);
    let mut grown = depth.clone();
    let mut new = vec![false; z.len()];
    for (i, v) in grown.plane_mut(0).iter_mut().enumerate() {
        let (own, from) = (z[i], nearest[i]);
        // What has a depth inside the matte keeps it.
        if from == distance::NONE || (inside[i] && is_depth(own)) {
            continue;
        }
        let far = apart(i, from as usize, width);
        // A choked core lies that much farther off, but pixels under the matte always get something.
        if inside[i] || far <= most + how.choke.max(0.0) + 0.5 {
            (*v, new[i]) = (z[from as usize], true);
        }
    }
    soften_new(&mut grown, &new, how.soften, cancel)?;
    Ok(grown)
}

/// Distance between two places of a plane, px.
fn apart(a: usize, b: usize, width: usize) -> f32 {
    let (dx, dy) = ((a % width).abs_diff(b % width), (a / width).abs_diff(b / width));
    ((dx * dx + dy * dy) as f32).sqrt()
}

/// What is farther than `choke` px inside.
fn core(depth: &Raster, inside: &[bool], choke: f32, cancel: &Cancel) -> Result<Vec<bool>, KernelError> {
    let z = depth.plane(0);
    if choke <= 0.0 {
        return Ok(inside.iter().zip(z).map(|(i, z)| *i && is_depth(*z)).collect());
    }
    let outside: Vec<bool> = inside.iter().map(|i| !i).collect();
    let far = distance::distance(depth.window(), &outside, cancel)?;
    Ok(far.plane(0).iter().zip(z).map(|(far, z)| *far > choke && is_depth(*z)).collect())
}

/// Blurs the new samples among themselves, in 1/Z (in which surfaces are straight across the picture).
fn soften_new(depth: &mut Raster, new: &[bool], soften: f32, cancel: &Cancel) -> Result<(), KernelError> {
    if soften <= 0.0 {
        return Ok(());
    }
    let window = depth.window();
    let mut planes = Raster::zeros(window, 2);
    for (i, &z) in depth.plane(0).iter().enumerate() {
        if new[i] && is_depth(z) {
            planes.plane_mut(0)[i] = 1.0 / z;
            planes.plane_mut(1)[i] = 1.0;
        }
    }
    let blurred = softened(&planes, soften, cancel)?;
    let start = |w: Window, y: i32| (y - w.y) as usize * w.width as usize;
    for_each_band(depth, cancel, |band| {
        for y in band.window().rows() {
            let new = &new[start(window, y)..][..window.width as usize];
            let [sum, count] = blurred.rows(y);
            for (i, v) in band.row(0, y).iter_mut().enumerate() {
                if new[i] && is_depth(*v) && sum[i] > 0.0 {
                    *v = count[i] / sum[i];
                }
            }
        }
    })?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    const NO: f32 = f32::INFINITY;
    const W: Window = Window::new(-2, 3, 40, 30);

    fn on(w: Window, f: impl Fn(i32, i32) -> f32) -> Raster {
        Raster::from_fn(w, 1, |_, x, y| f(x, y))
    }

    fn square(x: i32, y: i32) -> bool {
        (10..20).contains(&x) && (10..20).contains(&y)
    }

    fn go(depth: &Raster, alpha: Option<&Raster>, by: f32, choke: f32) -> Raster {
        extend(depth, alpha, Extend { by, choke, soften: 0.0 }, &Cancel::new()).unwrap()
    }

    #[test]
    fn it_reaches_as_far_as_it_is_told_and_leaves_what_is_there() {
        let depth = on(W, |x, y| if square(x, y) { 4.0 + 0.1 * x as f32 } else { NO });
        let e = go(&depth, None, 3.0, 0.0);
        for (x, y) in [(12, 12), (10, 19)] {
            assert_eq!(e.sample(0, x, y), depth.sample(0, x, y));
        }
        assert_eq!([9, 7, 6].map(|x| e.sample(0, x, 15).unwrap()), [5.0, 5.0, NO]);
        assert_eq!(e.sample(0, 22, 15), Some(4.0 + 0.1 * 19.0));
        // To the corner by distance, not by steps.
        assert_eq!(e.sample(0, 7, 7), Some(NO));
        assert_eq!(e.sample(0, 8, 8), Some(5.0));
    }

    #[test]
    fn spoilt_rims_are_not_carried_on() {
        // The outermost px is a mix with the background.
        let spoilt = |x: i32, y: i32| square(x, y) && !((11..19).contains(&x) && (11..19).contains(&y));
        let depth = on(W, |x, y| {
            if spoilt(x, y) {
                50.0
            } else if square(x, y) {
                4.0
            } else {
                NO
            }
        });
        let alpha = on(W, |x, y| f32::from(u8::from(square(x, y))));
        let e = go(&depth, Some(&alpha), 5.0, 1.0);
        assert_eq!(e.sample(0, 7, 15), Some(4.0));
        assert_eq!(e.sample(0, 10, 15), Some(50.0), "inside the matte it stays");
        assert_eq!(e.sample(0, 4, 15), Some(NO));
    }

    #[test]
    fn each_pixel_takes_the_surface_that_is_nearest_in_the_picture() {
        let depth = on(W, |x, _| {
            if x < 10 {
                2.0
            } else if x >= 20 {
                9.0
            } else {
                NO
            }
        });
        let e = go(&depth, None, 40.0, 0.0);
        assert_eq!([11, 14, 15, 18].map(|x| e.sample(0, x, 9).unwrap()), [2.0, 2.0, 9.0, 9.0]);
    }

    #[test]
    fn nothing_to_carry_on_is_no_trouble() {
        for w in [Window::of_size(0, 0), Window::of_size(3, 1)] {
            assert_eq!(go(&Raster::filled(w, 1, NO), None, 9.0, 2.0), Raster::filled(w, 1, NO));
        }
    }

    #[test]
    fn what_is_new_is_softened_and_nothing_else() {
        let depth = on(W, |x, y| if square(x, y) { if y % 2 == 0 { 4.0 } else { 6.0 } } else { NO });
        let how = Extend { by: 8.0, choke: 0.0, soften: 4.0 };
        let e = extend(&depth, None, how, &Cancel::new()).unwrap();
        assert_eq!(e.sample(0, 12, 12), depth.sample(0, 12, 12));
        let new = [13, 14].map(|y| e.sample(0, 5, y).unwrap());
        assert!((new[0] - new[1]).abs() < 0.1, "{new:?}");
    }
}
