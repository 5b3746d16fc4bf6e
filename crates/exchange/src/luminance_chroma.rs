//! Luminance and chroma to colour.
//!
//! OpenEXR may store a picture as luminance `Y` and two chroma differences `RY = (R−Y)/Y`, `BY = (B−Y)/Y`,
//! usually at half the size each way (OpenEXR Technical Introduction, "Luminance/Chroma Images").

use crate::file::{Part, SampleKind};
use exr::math::Vec2;
use exr::meta::header::Header;
use jugata_core::colour::LUMINANCE;

/// Adds R, G and B to a part that has Y, RY and BY, and takes those away; returns what is worth noting.
pub(crate) fn expand(part: &mut Part, header: &Header) -> Vec<String> {
    let subsampled = header.channels.list.iter().any(|c| c.sampling != Vec2(1, 1));
    let places = [part.position_of("Y"), part.position_of("RY"), part.position_of("BY")];
    let [Some(y), Some(ry), Some(by)] = places else {
        return if subsampled {
            vec!["Some of its channels are stored at a lower resolution; their samples are repeated.".into()]
        } else {
            Vec::new()
        };
    };
    let width = part.data_window.width as usize;
    let smooth = |at: usize, part: &Part| {
        let sampling = header.channels.list[at].sampling;
        let first = |start: i32, rate: usize| i64::from(start).rem_euclid(rate.max(1) as i64) as usize;
        let phase = (first(part.data_window.x, sampling.x()), first(part.data_window.y, sampling.y()));
        linear(&part.channels[at].samples.wide(), width, (sampling.x(), sampling.y()), phase)
    };
    let (red, blue) = (smooth(ry, part), smooth(by, part));
    let luminance = part.channels[y].samples.wide().into_owned();
    let mut rgb: [Vec<f32>; 3] = std::array::from_fn(|_| Vec::with_capacity(luminance.len()));
    for ((&l, &ry), &by) in luminance.iter().zip(&red).zip(&blue) {
        let (r, b) = ((ry + 1.0) * l, (by + 1.0) * l);
        let g = (l - r * LUMINANCE[0] - b * LUMINANCE[2]) / LUMINANCE[1];
        rgb.iter_mut().zip([r, g, b]).for_each(|(plane, v)| plane.push(v));
    }
    let mut gone = [y, ry, by];
    gone.sort_unstable();
    gone.into_iter().rev().for_each(|at| drop(part.channels.remove(at)));
    for (name, samples) in ["R", "G", "B"].into_iter().zip(rgb) {
        part.channels.push(Part::plain(name, SampleKind::Half, samples));
    }
    part.channels.sort_by(|a, b| a.name.cmp(&b.name));
    vec![
        "It is stored as luminance and chroma; colour was made from them, chroma interpolated linearly."
            .into(),
    ]
}

/// Interpolates between the true samples of a plane whose samples were repeated. `phase` is where the
/// plane starts within a cell of `rate` px.
fn linear(plane: &[f32], width: usize, rate: (usize, usize), phase: (usize, usize)) -> Vec<f32> {
    let (rx, ry) = (rate.0.max(1), rate.1.max(1));
    if width == 0 || (rx == 1 && ry == 1) {
        return plane.to_vec();
    }
    let height = plane.len() / width;
    let sample = |x: usize, y: usize| plane[y.min(height - 1) * width + x.min(width - 1)];
    let cell = |at: usize, rate: usize, phase: usize| {
        let into = (at + phase) % rate;
        (at.saturating_sub(into), into as f32 / rate as f32)
    };
    (0..height)
        .flat_map(|y| (0..width).map(move |x| (x, y)))
        .map(|(x, y)| {
            let ((x0, fx), (y0, fy)) = (cell(x, rx, phase.0), cell(y, ry, phase.1));
            let row = |y: usize| sample(x0, y) * (1.0 - fx) + far(sample(x0 + rx, y), sample(x0, y)) * fx;
            let (a, b) = (row(y0), row(y0 + ry));
            a * (1.0 - fy) + far(b, a) * fy
        })
        .collect()
}

/// The farther sample, or the nearer where the farther lies in rows that are missing.
fn far(v: f32, near: f32) -> f32 {
    if v.is_finite() { v } else { near }
}
