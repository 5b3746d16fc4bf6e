//! Flow in a loop: a still picture that flows along vectors for ever, without a seam.
//!
//! Copies of the picture are displaced along the flow by times that grow and start again, each cross-faded out before it
//! starts again (Max & Becker 1995, "Flow visualization using moving textures"). They use two copies with straight
//! cross-fades, and the picture loses contrast and wins it back twice in a period. *Own derivation*: of three copies a third of a period apart, weighted by ⅔·sin²(π·p) of their phases
//! p, the weights add up to 1, and their squares to ½ at every moment, so that detail keeps an even contrast.

use crate::geometry::kernel::Kernel;
use crate::geometry::resample::{Block, Samples, blocks};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Window};
use glam::{DMat2, DVec2, Vec2};
use std::f64::consts::PI;

/// Copies that are laid over each other.
const COPIES: usize = 3;

/// Px along the flow that are gone in one step.
const STEP: f32 = 2.0;

/// Steps along the flow at most.
const STEPS: f32 = 96.0;

/// A flow that nobody sees, px over half a period.
const STILL: f32 = 0.01;

/// A copy at a moment: how long it has flowed, in frames, and its weight.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Copied {
    time: f32,
    weight: f32,
}

/// The copies at a frame of a period.
fn copies(frame: f64, period: f64) -> [Copied; COPIES] {
    std::array::from_fn(|k| {
        let phase = (frame / period + k as f64 / COPIES as f64).rem_euclid(1.0);
        let weight = 2.0 / COPIES as f64 * (PI * phase).sin().powi(2);
        Copied { time: ((phase - 0.5) * period) as f32, weight: weight as f32 }
    })
}

/// `picture` (any planes) as it has flowed at `frame` along `flow` (px of its own scale that pass in a frame; what is not
/// finite stands still), over a loop of `period` frames. Both lie on one window, which should be the whole frame: beyond its
/// edge the picture goes on in the colour of the edge. Frames a period apart are the same bit for bit, and so is each
/// pixel that does not flow.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn flowed(
    picture: &Raster,
    flow: &Raster,
    frame: f64,
    period: f64,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    flow.expect_channels("motion", 2)?;
    let w = picture.window();
    flow.expect_window("motion", w)?;
    if w.is_empty() || !(period > 0.0 && frame.is_finite()) {
        return Ok(picture.clone());
    }
    let (copies, field) = (copies(frame.rem_euclid(period), period), Field { flow, window: w });
    let half = (period * 0.5) as f32;
    let samples = Samples::of(picture, Kernel::CatmullRom);
    let mut out = picture.clone();
    for_each_band(&mut out, cancel, |band| {
        let mut block = Block::default();
        for part in blocks(band.window()) {
            let flows: Vec<Vec<usize>> =
                part.rows().map(|y| field.flowing(part, y, STILL / half).collect()).collect();
            if flows.iter().all(Vec::is_empty) {
                continue;
            }
            let left = (part.x - w.x) as usize;
            let of_row = |y: i32| &flows[(y - part.y) as usize];
            for y in part.rows() {
                for row in band.every_row(y) {
                    of_row(y).iter().for_each(|&i| row[left + i] = 0.0);
                }
            }
            for copy in copies {
                if cancel.is_cancelled() {
                    return;
                }
                block.places(part, |y, row| {
                    row.clear();
                    for &i in of_row(y) {
                        let own = Vec2::new(part.x as f32 + i as f32 + 0.5, y as f32 + 0.5);
                        let from = field.back(own, copy.time).as_dvec2();
                        row.put(i, Some((held(from, w), DMat2::IDENTITY)));
                    }
                });
                samples.read(&mut block, |y, lines| {
                    for (row, line) in band.every_row(y).into_iter().zip(lines) {
                        of_row(y).iter().for_each(|&i| row[left + i] += copy.weight * line[i]);
                    }
                });
            }
        }
    })?;
    cancel.check()?;
    Ok(out)
}

/// A place held inside a window, so that nothing is taken from beyond its edge.
fn held(place: DVec2, w: Window) -> DVec2 {
    let low = DVec2::new(f64::from(w.x), f64::from(w.y)) + 0.5;
    place.clamp(low, DVec2::new(w.right() as f64, w.bottom() as f64) - 0.5)
}

/// What flows, px in a frame.
struct Field<'a> {
    flow: &'a Raster,
    window: Window,
}

impl Field<'_> {
    /// At a pixel of a row.
    fn at(&self, i: usize, y: i32) -> Vec2 {
        let v = Vec2::new(self.flow.row(0, y)[i], self.flow.row(1, y)[i]);
        if v.is_finite() { v } else { Vec2::ZERO }
    }

    /// Columns of a row of a part, from its left, in which something flows faster than so many px a frame.
    fn flowing(&self, part: Window, y: i32, still: f32) -> impl Iterator<Item = usize> {
        let left = (part.x - self.window.x) as usize;
        (0..part.width as usize).filter(move |i| self.at(left + i, y).length() > still)
    }

    /// Between four pixels; at the edge that of the edge.
    fn between(&self, place: Vec2) -> Vec2 {
        let w = self.window;
        let p = place - Vec2::new(w.x as f32, w.y as f32) - 0.5;
        let p = p.clamp(Vec2::ZERO, Vec2::new((w.width - 1) as f32, (w.height - 1) as f32));
        let (x, y) = (p.x as usize, w.y + p.y as i32);
        let t = p - p.floor();
        let (x1, y1) = ((x + 1).min(w.width as usize - 1), (y + 1).min(w.bottom() as i32 - 1));
        self.at(x, y).lerp(self.at(x1, y), t.x).lerp(self.at(x, y1).lerp(self.at(x1, y1), t.x), t.y)
    }

    /// Where something at a place was so long ago, following the flow by the rule of the midpoint. What comes to a place
    /// that stands still comes from there.
    fn back(&self, place: Vec2, time: f32) -> Vec2 {
        let length = self.between(place).length() * time.abs();
        let steps = (length / STEP).ceil().clamp(1.0, STEPS);
        let t = -time / steps;
        let mut at = place;
        for _ in 0..steps as u32 {
            let half = at + self.between(at) * (0.5 * t);
            at += self.between(half) * t;
        }
        at
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn frame() -> Window {
        Window::of_size(60, 40)
    }

    fn run(picture: &Raster, flow: &Raster, at: f64, period: f64) -> Raster {
        flowed(picture, flow, at, period, &Cancel::new()).unwrap()
    }

    /// Values between 0 and 1 that have nothing to do with each other.
    fn noise() -> Raster {
        let value = |c: usize, x: i32, y: i32| {
            let n =
                (x as u32).wrapping_mul(0x9E37_79B9) ^ (y as u32).wrapping_mul(0x85EB_CA6B) ^ (c as u32) << 7;
            ((n ^ n >> 15).wrapping_mul(0x2C1B_3C6D) >> 8) as f32 / (1 << 24) as f32
        };
        Raster::from_fn(frame(), 4, value)
    }

    fn even(v: [f32; 2]) -> Raster {
        Raster::from_fn(frame(), 2, |c, _, _| v[c])
    }

    #[test]
    fn weights_and_their_squares_add_up_to_the_same_at_every_moment() {
        for i in 0..500 {
            let all = copies(f64::from(i) * 0.37, 24.0);
            let sum: f32 = all.iter().map(|c| c.weight).sum();
            let squares: f32 = all.iter().map(|c| c.weight * c.weight).sum();
            assert!((sum - 1.0).abs() < 1e-6 && (squares - 0.5).abs() < 1e-6, "{i}");
            assert!(all.iter().all(|c| c.time.abs() <= 12.0));
        }
    }

    #[test]
    fn a_loop_has_no_seam_and_comes_back_to_every_bit() {
        let (picture, flow) = (noise(), even([1.3, -0.4]));
        for at in [0.0, 5.0, 11.5] {
            assert_eq!(run(&picture, &flow, at, 24.0), run(&picture, &flow, at + 24.0, 24.0));
            assert_eq!(run(&picture, &flow, at, 24.0), run(&picture, &flow, at - 48.0, 24.0));
        }
        // From the last moment of a period to the first of the next it changes no more than within.
        let apart = |a: f64, b: f64| {
            let (a, b) = (run(&picture, &flow, a, 24.0), run(&picture, &flow, b, 24.0));
            a.data().iter().zip(b.data()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
        };
        let (within, across) = (apart(7.99, 8.01), apart(23.99, 24.01));
        assert!(across < 1.3 * within, "{across} {within}");
    }

    #[test]
    fn detail_keeps_an_even_contrast() {
        let (picture, flow) = (noise(), even([3.0, 2.0]));
        let spread = |at: f64| {
            let r = run(&picture, &flow, at, 12.0);
            let inner = r.cropped(Window::new(20, 14, 20, 12), 0.0);
            let mean = inner.data().iter().sum::<f32>() / inner.data().len() as f32;
            inner.data().iter().map(|v| (v - mean).powi(2)).sum::<f32>() / inner.data().len() as f32
        };
        let all: Vec<f32> = (0..12).map(|i| spread(f64::from(i))).collect();
        let (low, high) = all.iter().fold((f32::INFINITY, 0f32), |(l, h), v| (l.min(*v), h.max(*v)));
        assert!(high < 1.5 * low, "{all:?}");
    }

    #[test]
    fn what_does_not_flow_keeps_every_bit_and_no_nan_spreads() {
        let picture = noise();
        assert_eq!(run(&picture, &even([0.0, 0.0]), 3.0, 24.0), picture);
        let half = Raster::from_fn(frame(), 2, |c, x, _| match (c, x) {
            (_, ..30) => 0.0,
            (0, 59) => f32::NAN,
            (c, _) => [1.0, 0.5][c],
        });
        let got = run(&picture, &half, 9.0, 24.0);
        assert!(got.data().iter().all(|v| v.is_finite()));
        assert_eq!(
            got.cropped(Window::new(0, 0, 30, 40), 0.0),
            picture.cropped(Window::new(0, 0, 30, 40), 0.0)
        );
    }

    #[test]
    fn it_moves_as_fast_as_the_flow_says() {
        // A ramp moves by the mean of its copies' ways: at the middle of a period by nothing, and it never leaves its range.
        let ramp = Raster::from_fn(frame(), 1, |_, x, _| x as f32);
        let flow = Raster::from_fn(frame(), 2, |c, _, _| [0.5, 0.0][c]);
        for at in 0..24 {
            let want: f64 =
                copies(f64::from(at), 24.0).iter().map(|c| f64::from(c.weight * (30.0 - 0.5 * c.time))).sum();
            let got = f64::from(run(&ramp, &flow, f64::from(at), 24.0).sample(0, 30, 20).unwrap());
            assert!((got - want).abs() < 1e-3, "{at}: {got} {want}");
        }
    }

    #[test]
    fn a_flow_in_circles_is_followed_round() {
        let centre = Vec2::new(30.0, 20.0);
        let turn = 0.05f32;
        let flow = Raster::from_fn(frame(), 2, |c, x, y| {
            let d = Vec2::new(x as f32 + 0.5, y as f32 + 0.5) - centre;
            [-d.y * turn, d.x * turn][c]
        });
        let field = Field { flow: &flow, window: frame() };
        for time in [-12.0, 7.0, 20.0] {
            let at = field.back(Vec2::new(42.0, 20.0), time);
            let want = centre + Vec2::from_angle(-turn * time) * 12.0;
            // Within a hundredth of the way.
            assert!((at - want).length() < 0.01 * 12.0 * turn * time.abs(), "{time}: {at} {want}");
        }
    }

    #[test]
    fn nothing_is_nothing() {
        let none = Raster::zeros(Window::default(), 4);
        assert_eq!(run(&none, &Raster::zeros(Window::default(), 2), 1.0, 24.0), none);
        let one = Raster::filled(Window::of_size(1, 1), 4, 0.5);
        assert_eq!(run(&one, &Raster::filled(Window::of_size(1, 1), 2, 3.0), 1.0, 24.0), one);
        assert!(flowed(&one, &Raster::zeros(Window::of_size(2, 1), 2), 0.0, 24.0, &Cancel::new()).is_err());
    }
}
