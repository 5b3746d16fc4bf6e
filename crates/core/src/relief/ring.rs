//! Rings of colour along the edge of a matte.

use super::bevel::Side;
use super::contour::{covered, signed_distance};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};

/// A ring of colour.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ring {
    /// Its width, px.
    pub width: f32,
    /// On which side of the edge it lies.
    pub side: Side,
    /// Linear, straight.
    pub colour: [f32; 3],
    /// 0..1.
    pub opacity: f32,
}

impl Ring {
    /// How far it reaches outside and inside, px.
    pub fn ends(&self) -> [f32; 2] {
        match self.side {
            Side::Inside => [0.0, self.width],
            Side::Outside => [self.width, 0.0],
            Side::Centred => [0.5 * self.width; 2],
        }
    }

    /// Share of a pixel that it covers whose middle is `far` px inside, and which the matte covers by `inside`. An end at the
    /// edge itself is the matte's own.
    fn share(&self, far: f32, inside: f32) -> f32 {
        let [outer, inner] = self.ends();
        let grown = |by: f32| if by == 0.0 { inside } else { covered(far + by) };
        (grown(outer) - grown(-inner)).max(0.0)
    }
}

/// A picture (RGBA, premultiplied) with rings along the edge of a matte (one channel), the first on top. What lies outside
/// lies under the picture, without a seam; what lies inside takes its place.
///
/// # Errors
/// Other channels or windows; cancellation.
pub fn rings(base: &Raster, matte: &Raster, all: &[Ring], cancel: &Cancel) -> Result<Raster, KernelError> {
    base.expect_channels("picture", 4)?;
    matte.expect_channels("matte", 1)?;
    matte.expect_window("matte", base.window())?;
    let all: Vec<&Ring> = all.iter().filter(|r| r.width > 0.0 && r.opacity > 0.0).collect();
    let widest = all.iter().map(|r| r.width).fold(0.0, f32::max);
    if all.is_empty() {
        return Ok(base.clone());
    }
    let distance = signed_distance(matte, widest + 2.0, cancel)?;
    let mut out = Raster::zeros(matte.window(), 4);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let (inside, far, own) = (matte.row(0, y), distance.row(0, y), base.rows::<4>(y));
            let mut rows = band.rows::<4>(y);
            for (x, inside) in inside.iter().enumerate() {
                let mut put = |colour: [f32; 3], share: f32| {
                    for (row, v) in rows.iter_mut().zip([colour[0], colour[1], colour[2], 1.0]) {
                        row[x] += v * share;
                    }
                };
                // Shares of the pixel that are still free, outside and inside of the edge: things beside each other add up.
                let (mut outside_free, mut inside_free) = (1.0 - inside, *inside);
                for ring in &all {
                    let [outer, inner] = ring.ends();
                    let shares = [
                        (Ring { side: Side::Outside, width: outer, ..**ring }, &mut outside_free),
                        (Ring { side: Side::Inside, width: inner, ..**ring }, &mut inside_free),
                    ];
                    for (part, free) in shares {
                        if part.width > 0.0 {
                            let share = part.share(far[x], *inside).min(*free) * ring.opacity;
                            put(ring.colour, share);
                            *free -= share;
                        }
                    }
                }
                // What is left of the picture, of its part inside the edge and of that outside.
                let left = |free: f32, of: f32| if of > 0.0 { free / of } else { 1.0 };
                let within = if own[3][x] > 0.0 { (inside / own[3][x]).min(1.0) } else { 0.0 };
                let left =
                    within * left(inside_free, *inside) + (1.0 - within) * left(outside_free, 1.0 - inside);
                rows.iter_mut().zip(own).for_each(|(row, v)| row[x] += v[x] * left);
            }
        }
    })?;
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    fn red(m: &Raster) -> Raster {
        Raster::from_fn(
            m.window(),
            4,
            |c, x, y| if [0, 3].contains(&c) { m.sample(0, x, y).unwrap() } else { 0.0 },
        )
    }

    #[test]
    fn rings_have_their_width_and_leave_no_seam() {
        // An edge at x = 20.25; the inside is to the right.
        let m =
            Raster::from_fn(Window::of_size(48, 12), 1, |_, x, _| (x as f32 + 1.0 - 20.25).clamp(0.0, 1.0));
        let ring = |side, width| Ring { width, side, colour: [0.0, 1.0, 0.0], opacity: 1.0 };
        for (side, width) in [(Side::Outside, 6.0), (Side::Inside, 5.5), (Side::Centred, 8.0)] {
            let made = rings(&red(&m), &m, &[ring(side, width)], &Cancel::new()).unwrap();
            let sum = |c: usize| made.row(c, 6).iter().sum::<f32>();
            assert!((sum(1) - width).abs() < 0.02, "{side:?} {}", sum(1));
            let outer = ring(side, width).ends()[0];
            assert!((sum(3) - (48.0 - 20.25 + outer)).abs() < 0.02, "{side:?} {}", sum(3));
            // Between ring and matte every pixel is fully covered.
            let first = made.row(3, 6).iter().position(|a| *a > 0.999).unwrap();
            assert!(made.row(3, 6)[first..].iter().all(|a| (a - 1.0).abs() < 1e-5));
        }
    }

    #[test]
    fn a_ring_on_an_opaque_picture_takes_its_place() {
        let w = Window::of_size(48, 12);
        let m = Raster::from_fn(w, 1, |_, x, _| (x as f32 + 1.0 - 20.25).clamp(0.0, 1.0));
        let base = Raster::from_fn(w, 4, |c, _, _| if c == 1 { 0.0 } else { 1.0 });
        for side in [Side::Outside, Side::Inside, Side::Centred] {
            let ring = Ring { width: 6.0, side, colour: [0.0, 1.0, 0.0], opacity: 1.0 };
            let made = rings(&base, &m, &[ring], &Cancel::new()).unwrap();
            assert!(made.plane(3).iter().all(|a| (a - 1.0).abs() < 1e-5), "{side:?}");
            let [r, g] = [0, 1].map(|c| made.row(c, 6).iter().sum::<f32>());
            assert!((g - 6.0).abs() < 0.02 && (r + g - 48.0).abs() < 1e-3, "{side:?} {r} {g}");
        }
    }

    #[test]
    fn no_ring_leaves_the_matte() {
        let m = Raster::from_fn(Window::of_size(9, 9), 1, |_, x, y| ((x * y) % 5) as f32 / 4.0);
        let made = rings(&red(&m), &m, &[], &Cancel::new()).unwrap();
        assert_eq!(made.plane(3), m.plane(0));
    }
}
