//! Outlines of lines and curves, filled with exact coverage.

use crate::{Cancel, KernelError, Raster, Window};
use glam::Vec2;
use rayon::prelude::*;
use zeno::{Command, Fill, Format, Mask, Vector};

/// A piece of an outline. Places in px, y down.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Stroke {
    /// Begins a closed outline.
    Move(Vec2),
    /// A straight line.
    Line(Vec2),
    /// A quadratic Bézier curve: its control point and its end.
    Quad(Vec2, Vec2),
    /// A cubic Bézier curve: its control points and its end.
    Cubic(Vec2, Vec2, Vec2),
    /// Ends an outline where it began.
    Close,
}

/// What lies inside of outlines that overlap.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Rule {
    /// What is gone round at all: fonts.
    #[default]
    NonZero,
    /// What is crossed an odd number of times.
    EvenOdd,
}

/// Closed outlines.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Path {
    /// Their pieces, one after the other.
    pub strokes: Vec<Stroke>,
}

/// Rows that are filled at once.
const BAND: u32 = 128;

impl Path {
    /// The same with every place put elsewhere.
    pub fn mapped(&self, put: impl Fn(Vec2) -> Vec2) -> Self {
        let strokes = self.strokes.iter().map(|s| match *s {
            Stroke::Move(p) => Stroke::Move(put(p)),
            Stroke::Line(p) => Stroke::Line(put(p)),
            Stroke::Quad(a, p) => Stroke::Quad(put(a), put(p)),
            Stroke::Cubic(a, b, p) => Stroke::Cubic(put(a), put(b), put(p)),
            Stroke::Close => Stroke::Close,
        });
        Self { strokes: strokes.collect() }
    }

    /// Left, top, right and bottom of its places; `None` if it has none.
    pub fn bounds(&self) -> Option<[Vec2; 2]> {
        let mut ends: Option<[Vec2; 2]> = None;
        let mut see = |p: Vec2| {
            let [low, high] = ends.unwrap_or([p; 2]);
            ends = Some([low.min(p), high.max(p)]);
        };
        for stroke in &self.strokes {
            match *stroke {
                Stroke::Move(p) | Stroke::Line(p) => see(p),
                Stroke::Quad(a, p) => [a, p].into_iter().for_each(&mut see),
                Stroke::Cubic(a, b, p) => [a, b, p].into_iter().for_each(&mut see),
                Stroke::Close => {}
            }
        }
        ends
    }

    /// Share of each pixel that lies inside, to 1/255.
    ///
    /// # Errors
    /// Cancellation.
    pub fn filled(&self, window: Window, rule: Rule, cancel: &Cancel) -> Result<Raster, KernelError> {
        let mut out = Raster::zeros(window, 1);
        let Some([low, high]) = self.bounds().filter(|[a, b]| a.is_finite() && b.is_finite()) else {
            return Ok(out);
        };
        if window.is_empty() {
            return Ok(out);
        }
        let fill = if rule == Rule::NonZero { Fill::NonZero } else { Fill::EvenOdd };
        let width = window.width as usize;
        let chunks = out.plane_mut(0).par_chunks_mut(width * BAND as usize).enumerate();
        chunks.try_for_each(|(i, rows)| {
            cancel.check()?;
            let top = window.y + (i as u32 * BAND) as i32;
            let tall = (rows.len() / width) as u32;
            if (high.y as i64) < i64::from(top) - 1 || (low.y as i64) > i64::from(top) + i64::from(tall) + 1 {
                return Ok(());
            }
            // Places are told from the corner of what is filled: they are kept to 1/256 px.
            let corner = Vec2::new(window.x as f32, top as f32);
            let commands = self.commands(corner);
            let mut bytes = vec![0u8; rows.len()];
            Mask::new(commands.as_slice())
                .format(Format::Alpha)
                .size(window.width, tall)
                .style(fill)
                .render_into(&mut bytes, None);
            rows.iter_mut().zip(bytes).for_each(|(v, b)| *v = f32::from(b) / 255.0);
            Ok::<_, KernelError>(())
        })?;
        Ok(out)
    }

    /// Lines of it, told from a corner. Curves are cut so finely that no line is farther from its curve than [`NEAR`].
    fn commands(&self, corner: Vec2) -> Vec<Command> {
        let at = |p: Vec2| {
            let p = (p - corner).clamp(Vec2::splat(-30_000.0), Vec2::splat(30_000.0));
            Vector::new(p.x, p.y)
        };
        let mut out = Vec::with_capacity(self.strokes.len() * 4);
        let mut pen = Vec2::ZERO;
        for stroke in &self.strokes {
            match *stroke {
                Stroke::Move(p) => out.push(Command::MoveTo(at(p))),
                Stroke::Line(p) => out.push(Command::LineTo(at(p))),
                Stroke::Quad(a, p) => {
                    // A third of the way to the control point makes a cubic of it.
                    let k = 2.0 / 3.0;
                    cut([pen, pen.lerp(a, k), p.lerp(a, k), p], |q| out.push(Command::LineTo(at(q))));
                }
                Stroke::Cubic(a, b, p) => cut([pen, a, b, p], |q| out.push(Command::LineTo(at(q)))),
                Stroke::Close => out.push(Command::Close),
            }
            if let Stroke::Move(p) | Stroke::Line(p) | Stroke::Quad(_, p) | Stroke::Cubic(_, _, p) = *stroke {
                pen = p;
            }
        }
        out
    }
}

/// Farthest that a line may be from its curve, px.
const NEAR: f32 = 0.004;

/// Ends of the lines that a cubic curve is cut into. A piece of `1/n` of it is at most `d/(8 n²)` from its chord, `d` being
/// the largest second derivative, at most six times the largest second difference of its points.
fn cut([a, b, c, d]: [Vec2; 4], mut see: impl FnMut(Vec2)) {
    let bend = 6.0 * (a - 2.0 * b + c).length().max((b - 2.0 * c + d).length());
    let count = (bend / (8.0 * NEAR)).sqrt().ceil().clamp(1.0, 500.0) as u32;
    for i in 1..=count {
        let t = i as f32 / count as f32;
        let u = 1.0 - t;
        see(if i == count {
            d
        } else {
            a * (u * u * u) + b * (3.0 * u * u * t) + c * (3.0 * u * t * t) + d * (t * t * t)
        });
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ring() -> Path {
        // A circle by four cubics (error 2.7e-4 of the radius), and a square hole that goes the other way.
        let k = 0.552_285;
        let (c, r) = (Vec2::new(40.3, 39.7), 30.0);
        let at = |x: f32, y: f32| c + Vec2::new(x, y) * r;
        let mut strokes = vec![Stroke::Move(at(1.0, 0.0))];
        strokes.push(Stroke::Cubic(at(1.0, k), at(k, 1.0), at(0.0, 1.0)));
        strokes.push(Stroke::Cubic(at(-k, 1.0), at(-1.0, k), at(-1.0, 0.0)));
        strokes.push(Stroke::Cubic(at(-1.0, -k), at(-k, -1.0), at(0.0, -1.0)));
        strokes.push(Stroke::Cubic(at(k, -1.0), at(1.0, -k), at(1.0, 0.0)));
        strokes.push(Stroke::Close);
        for (i, (x, y)) in [(-0.3, -0.3), (-0.3, 0.3), (0.3, 0.3), (0.3, -0.3)].into_iter().enumerate() {
            strokes.push(if i == 0 { Stroke::Move(at(x, y)) } else { Stroke::Line(at(x, y)) });
        }
        strokes.push(Stroke::Close);
        Path { strokes }
    }

    #[test]
    fn coverage_is_that_of_many_samples() {
        let w = Window::of_size(80, 300);
        let got = ring().filled(w, Rule::NonZero, &Cancel::new()).unwrap();
        let inside = |p: Vec2| {
            let d = p - Vec2::new(40.3, 39.7);
            d.length() < 30.0 && d.abs().max_element() > 9.0
        };
        let (mut sum, mut worst) = (0.0, 0.0_f32);
        for y in 0..300 {
            for x in 0..80 {
                let at = |i: i32| {
                    Vec2::new(
                        x as f32 + ((i % 32) as f32 + 0.5) / 32.0,
                        y as f32 + ((i / 32) as f32 + 0.5) / 32.0,
                    )
                };
                let want = (0..1024).filter(|i| inside(at(*i))).count() as f32 / 1024.0;
                let off = (got.sample(0, x, y).unwrap() - want).abs();
                (sum, worst) = (sum + off, worst.max(off));
            }
        }
        println!("{sum} {worst}");
        assert!(sum / 24_000.0 < 1.0 / 255.0 && worst < 0.03, "{sum} {worst}");
    }

    #[test]
    fn windows_and_rules() {
        let w = Window::of_size(80, 300);
        let all = ring().filled(w, Rule::EvenOdd, &Cancel::new()).unwrap();
        let part = Window::new(13, 17, 30, 40);
        let own = ring().filled(part, Rule::EvenOdd, &Cancel::new()).unwrap();
        let apart = own
            .data()
            .iter()
            .zip(all.cropped(part, 0.0).data())
            .map(|(a, b)| (a - b).abs())
            .fold(0.0, f32::max);
        assert!(apart < 1.5 / 255.0, "{apart}");
        assert!(
            Path::default()
                .filled(w, Rule::NonZero, &Cancel::new())
                .unwrap()
                .data()
                .iter()
                .all(|v| *v == 0.0)
        );
        let far = ring().mapped(|p| p * 1e7);
        assert!(far.filled(part, Rule::NonZero, &Cancel::new()).is_ok());
    }
}
