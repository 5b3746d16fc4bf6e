//! Focus set again on a rendered picture.
//!
//! The picture is taken apart into pieces of surface, each with a coverage and a circle of confusion
//! ([`pieces`]): a pixel at a rim holds a piece of what is in front and one of what is behind; behind what is
//! near lies what its surroundings suggest ([`fill`]). The pieces are gathered into slices by their signed
//! circle, each slice is blurred with its own iris ([`blur`]), and the slices are laid over each other from
//! near to far.
//!
//! *Own derivation.* A blurred piece covers a share of the aperture at each pixel. The pieces of one surface
//! cover shares that do not overlap, even where they fall into several slices: so shares are added up, not
//! multiplied, until the aperture is full; what lies behind gets only what is left. A continuous surface
//! stays closed whatever its slant, a near blur is translucent over what it hides, and nothing from behind
//! bleeds over what is sharp.

pub mod blur;
pub mod fill;
pub mod hidden;
pub mod iris;
pub mod law;
pub mod pieces;
pub mod reveal;

pub use law::Law;

use crate::colour::luminance;
use crate::focus::iris::Iris;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use blur::{Blurred, Slice};
use hidden::OtherFrame;
use multiversion::multiversion;
use pieces::Pieces;

/// Bright points that shine more out of focus than their pixels say.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Boost {
    /// Luminance from which on it works.
    pub from: f32,
    /// Gain far above that; 0 is none.
    pub gain: f32,
}

/// How a picture is refocused.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Focus {
    /// Circle of confusion by depth, px of this scale.
    pub law: Law,
    /// Opening.
    pub iris: Iris,
    /// Highlights.
    pub boost: Boost,
    /// Width of the picture's own soft edges, px of this scale: how far the colours of two surfaces mix.
    pub rim: u32,
}

/// Radii of the slices, px: fine steps where a px is seen, then by a third, so that the mix of two
/// neighbours looks like what lies between them.
const STEPS: [f32; 20] = [
    0.0, 1.0, 2.0, 3.0, 4.25, 6.0, 8.0, 10.5, 14.0, 18.5, 24.5, 32.0, 42.0, 55.0, 72.0, 95.0, 125.0, 165.0,
    220.0, 300.0,
];

/// Signed radii of all slices that a range of radii needs, from near to far.
fn slices(low: f32, high: f32) -> Vec<f32> {
    let side = |most: f32| {
        let count = STEPS.iter().position(|&s| s >= most).unwrap_or(STEPS.len() - 1);
        STEPS.iter().skip(1).take(count).copied()
    };
    let mut all: Vec<f32> = side(-low).map(|s| -s).collect();
    all.reverse();
    all.push(0.0);
    all.extend(side(high));
    all
}

/// Refocuses `picture` (RGBA, linear, premultiplied) by `depth` on the same window, which should be the
/// whole frame: what lies beyond its edge is taken to be as the edge. What is hidden is taken from `others` where they
/// show it, the first of them first, and guessed elsewhere.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn refocus(
    picture: &Raster,
    depth: &Raster,
    focus: &Focus,
    others: &[OtherFrame<'_>],
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    depth.expect_window("depth", picture.window())?;
    let radii = focus.law.radii(depth, cancel)?;
    let (low, high) = ends(&radii);
    if high - low.min(0.0) < 1e-3 && high < 1e-3 {
        return Ok(picture.clone());
    }
    let hidden = match others {
        [] => None,
        others => Some(hidden::behind(&radii, others, focus.law, focus.rim, cancel)?),
    };
    let mut pieces = Pieces::split(picture, radii, hidden.as_ref(), focus.rim, cancel)?;
    if focus.boost.gain > 0.0 {
        boost(&mut pieces, focus.boost, cancel)?;
    }
    let mut gathered = Gathered::new(picture);
    let centres = slices(low, high);
    for (k, &centre) in centres.iter().enumerate() {
        cancel.check()?;
        let below = k.checked_sub(1).map(|k| centres[k]);
        let slice = Slice { below, centre, above: centres.get(k + 1).copied() };
        if let Some(blurred) = blur::blur(&pieces.front, slice, focus.iris, cancel)? {
            gathered.lay_under(&blurred, Some(centre), &pieces.open, cancel)?;
        }
        let Some(back) = &pieces.back else { continue };
        if let Some(blurred) = blur::blur(back, slice, focus.iris, cancel)? {
            gathered.lay_under(&blurred, None, &pieces.open, cancel)?;
        }
    }
    gathered.closed(cancel)
}

/// Smallest and largest radius; zero where there is none.
fn ends(radii: &Raster) -> (f32, f32) {
    radii.plane(0).iter().fold((0.0f32, 0.0f32), |(a, b), &v| (a.min(v), b.max(v)))
}

/// Lifts what is bright and out of focus.
fn boost(pieces: &mut Pieces, boost: Boost, cancel: &Cancel) -> Result<(), KernelError> {
    for_each_band(&mut pieces.front.raster, cancel, |band| {
        for y in band.window().rows() {
            let [r, g, b, _, _, s] = band.rows(y);
            for i in 0..r.len() {
                let t = ((luminance([r[i], g[i], b[i]]) - boost.from) / boost.from.max(0.1)).clamp(0.0, 1.0);
                let k = 1.0 + boost.gain * t * t * (3.0 - 2.0 * t) * (s[i].abs() * 0.5).min(1.0);
                (r[i], g[i], b[i]) = (r[i] * k, g[i] * k, b[i] * k);
            }
        }
    })?;
    Ok(())
}

/// Coverage below which there is nothing.
const DUST: f32 = 2e-5;

/// What the aperture has seen so far at each pixel: colour, and the share that is taken.
struct Gathered(Raster);

impl Gathered {
    fn new(picture: &Raster) -> Self {
        Self(Raster::zeros(picture.window(), 5))
    }

    /// Adds a slice behind all that are there: what is seen, with its circle, or what is hidden.
    fn lay_under(
        &mut self,
        slice: &Blurred,
        circle: Option<f32>,
        open: &Raster,
        cancel: &Cancel,
    ) -> Result<(), KernelError> {
        let width = self.0.window().width as usize;
        // What is hidden lies behind all surfaces.
        let circle = circle.unwrap_or(f32::INFINITY);
        for_each_band(&mut self.0, cancel, |band| {
            let mut seen: [Vec<f32>; 5] = std::array::from_fn(|_| vec![0.0; width]);
            for y in band.window().rows() {
                let Some((from, to)) = slice.row(y, &mut seen) else { continue };
                let planes = band.rows::<5>(y).map(|row| &mut row[from..to]);
                let [open, behind] = open.rows(y).map(|row| &row[from..to]);
                lay(planes, std::array::from_fn(|c| &seen[c][from..to]), [open, behind], circle);
            }
        })?;
        Ok(())
    }

    /// The picture: where the aperture is not quite full, what it has seen stands for the rest.
    fn closed(mut self, cancel: &Cancel) -> Result<Raster, KernelError> {
        let window = self.0.window();
        for_each_band(&mut self.0, cancel, |band| {
            for y in band.window().rows() {
                let [r, g, b, a, taken] = band.rows(y);
                for i in 0..taken.len() {
                    let whole = if taken[i] > 1e-4 { 1.0 / taken[i] } else { 1.0 };
                    // Differences of running sums leave dust where nothing is.
                    let k = if a[i] > DUST { whole } else { 0.0 };
                    for out in [&mut r[i], &mut g[i], &mut b[i], &mut a[i]] {
                        *out = (*out * k).max(0.0);
                    }
                }
            }
        })?;
        let mut data = self.0.into_data();
        data.truncate(window.area() * 4);
        Ok(Raster::from_planar(window, 4, data)?)
    }
}

/// Adds a row of a slice behind what is there: colour and share of the aperture each, `open` being how much of
/// what lies behind may be seen, and the circle from which on that is.
#[multiversion(targets("x86_64+avx2", "aarch64+neon"))]
fn lay([r, g, b, a, taken]: [&mut [f32]; 5], seen: [&[f32]; 5], [open, behind]: [&[f32]; 2], circle: f32) {
    let n = taken.len();
    let (r, g, b, a) = (&mut r[..n], &mut g[..n], &mut b[..n], &mut a[..n]);
    let [sr, sg, sb, sa, shares] = seen.map(|s| &s[..n]);
    let (open, behind) = (&open[..n], &behind[..n]);
    for i in 0..n {
        let through = if circle > behind[i] { open[i] } else { 1.0 };
        let (share, free) = (shares[i], (1.0 - taken[i]).max(0.0));
        let part = if share > free { free / share } else { 1.0 };
        let k = if share > 1e-7 { through * part } else { 0.0 };
        taken[i] += share * k;
        r[i] += sr[i] * k;
        g[i] += sg[i] * k;
        b[i] += sb[i] * k;
        a[i] += sa[i] * k;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    const W: Window = Window::of_size(160, 90);

    fn focus(sharp: f32, k: f32) -> Focus {
        let law = Law { sharp: [sharp; 2], near: k, far: k, most: 60.0 };
        Focus { law, iris: Iris::default(), boost: Boost::default(), rim: 1 }
    }

    fn run(picture: &Raster, depth: &Raster, f: &Focus) -> Raster {
        refocus(picture, depth, f, &[], &Cancel::new()).unwrap()
    }

    fn flat(z: f32) -> Raster {
        Raster::filled(W, 1, z)
    }

    #[test]
    fn what_is_in_focus_keeps_its_pixels() {
        let picture =
            Raster::from_fn(
                W,
                4,
                |c, x, y| if c == 3 { 1.0 } else { ((x * 7 + y * 13 + c as i32) % 11) as f32 * 0.1 },
            );
        let out = run(&picture, &flat(5.0), &focus(5.0, 100.0));
        assert_eq!(out, picture);
        // Also beside something that is far out of focus.
        let depth = Raster::from_fn(W, 1, |_, x, _| if x < 80 { 2.0 } else { 5.0 });
        let out = run(&picture, &depth, &focus(2.0, 50.0));
        for x in 0..70 {
            assert!((out.sample(1, x, 40).unwrap() - picture.sample(1, x, 40).unwrap()).abs() < 1e-5, "{x}");
        }
    }

    #[test]
    fn a_point_of_light_spreads_to_the_iris_with_the_same_sum() {
        for k in [60.0, 300.0] {
            let picture = Raster::from_fn(W, 4, |c, x, y| {
                if c == 3 { 1.0 } else { f32::from(u8::from((x, y) == (80, 45))) * 900.0 }
            });
            let out = run(&picture, &flat(10.0), &focus(5.0, k));
            let sum: f64 = out.plane(0).iter().map(|v| f64::from(*v)).sum();
            assert!((sum - 900.0).abs() < 9.0, "{k}: {sum}");
            let radius = k * 0.1;
            let inside = out.sample(0, 80 + (radius * 0.7) as i32, 45).unwrap();
            let want = 900.0 / (std::f32::consts::PI * radius * radius);
            assert!((inside / want - 1.0).abs() < 0.12, "{k}: {inside} {want}");
            assert!(out.sample(0, 80 + (radius * 1.4) as i32 + 2, 45).unwrap() < 0.02 * want);
        }
    }

    #[test]
    fn a_slanted_surface_of_one_colour_stays_closed() {
        let picture = Raster::from_fn(W, 4, |c, _, _| [0.2, 0.5, 0.8, 1.0][c]);
        let depth = Raster::from_fn(W, 1, |_, x, y| 2.0 + 0.05 * x as f32 + 0.02 * y as f32);
        let out = run(&picture, &depth, &focus(4.0, 120.0));
        for c in 0..4 {
            let worst =
                out.plane(c).iter().zip(picture.plane(c)).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
            assert!(worst < 1e-4, "{c}: {worst}");
        }
    }

    /// A white card left of x = 80 before or behind a black wall.
    fn card(z_card: f32, z_wall: f32) -> (Raster, Raster) {
        let picture = Raster::from_fn(W, 4, |c, x, _| if c == 3 || x < 80 { 1.0 } else { 0.0 });
        (picture, Raster::from_fn(W, 1, |_, x, _| if x < 80 { z_card } else { z_wall }))
    }

    #[test]
    fn a_sharp_edge_stays_sharp_before_what_is_blurred() {
        let (picture, depth) = card(2.0, 8.0);
        let out = run(&picture, &depth, &focus(2.0, 40.0));
        let at = |x| out.sample(0, x, 45).unwrap();
        assert!((at(78) - 1.0).abs() < 1e-4 && at(81).abs() < 1e-4, "{} {}", at(78), at(81));
    }

    #[test]
    fn a_near_blur_is_translucent_over_what_it_hides() {
        let (picture, depth) = card(1.0, 4.0);
        let f = focus(4.0, 16.0); // 12 px in front
        let out = run(&picture, &depth, &f);
        let at = |x| out.sample(0, x, 45).unwrap();
        // A half plane blurred by a disc: ½ on its edge, and symmetric about it.
        assert!(
            (at(79) + at(80) - 1.0).abs() < 0.03 && (at(80) - 0.47).abs() < 0.03,
            "{} {}",
            at(79),
            at(80)
        );
        assert!(at(70) > 0.85 && at(66) > 0.98 && at(90) < 0.15 && at(93) < 0.02);
    }

    #[test]
    fn frame_edges_are_held() {
        let picture = Raster::filled(W, 4, 1.0);
        let out = run(&picture, &flat(9.0), &focus(3.0, 200.0));
        assert!(out.data().iter().all(|v| (v - 1.0).abs() < 1e-4));
    }

    #[test]
    fn nothing_is_no_trouble() {
        for w in [Window::of_size(0, 0), Window::of_size(1, 1), Window::of_size(3, 1)] {
            let out = run(&Raster::filled(w, 4, 0.5), &Raster::filled(w, 1, f32::NAN), &focus(2.0, 90.0));
            assert!(out.window() == w && out.data().iter().all(|v| (v - 0.5).abs() < 1e-4), "{out:?}");
        }
    }

    #[test]
    fn the_same_bytes_for_any_number_of_threads() {
        let (picture, depth) = card(2.0, 8.0);
        let one = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
        let f = focus(3.0, 50.0);
        assert_eq!(run(&picture, &depth, &f), one.install(|| run(&picture, &depth, &f)));
    }
}
