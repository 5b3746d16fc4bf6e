//! Pixels as codes between 0 and 1: what files of whole numbers hold.

use crate::error::ExchangeError;
use jugata_core::Raster;
use jugata_core::colour::{clipped, srgb_encode};

/// Bits of a code.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bits {
    /// 256 codes.
    Eight,
    /// 65,536 codes.
    Sixteen,
}

impl Bits {
    /// The largest code.
    pub fn largest(self) -> f32 {
        match self {
            Self::Eight => 255.0,
            Self::Sixteen => 65_535.0,
        }
    }
}

/// Interleaved codes, 0 to 1, row by row.
#[derive(Clone, Debug)]
pub struct Coded {
    /// Px.
    pub width: u32,
    /// Px.
    pub height: u32,
    /// 1 is grey, 3 are R, G, B, 4 have a straight alpha as well.
    pub planes: usize,
    /// Whether it is data, which nobody may put a curve on, and not an sRGB picture.
    pub data: bool,
    /// The codes.
    pub samples: Vec<f32>,
}

impl Coded {
    /// The codes as whole numbers, the nearest of each.
    pub fn numbers(&self, bits: Bits) -> impl Iterator<Item = u16> {
        self.samples.iter().map(move |v| (clipped(*v) * bits.largest() + 0.5) as u16)
    }

    /// As numbers of 8 bits.
    pub fn bytes(&self) -> Vec<u8> {
        self.numbers(Bits::Eight).map(|v| v as u8).collect()
    }
}

fn shape(raster: &Raster, channels: usize) -> Result<(), ExchangeError> {
    raster.expect_channels("picture", channels).map_err(|e| ExchangeError::Unwritable { what: e.to_string() })
}

fn coded(of: &Raster, planes: usize, data: bool, mut code: impl FnMut(usize, &mut Vec<f32>)) -> Coded {
    let w = of.window();
    let mut samples = Vec::with_capacity(w.area() * planes);
    (0..w.area()).for_each(|i| code(i, &mut samples));
    Coded { width: w.width, height: w.height, planes, data, samples }
}

/// A linear premultiplied RGBA picture with straight alpha as PNG asks: sRGB curve, values clipped to 0..1, NaN as 0.
///
/// # Errors
/// A picture without four channels.
pub fn picture(picture: &Raster) -> Result<Coded, ExchangeError> {
    shape(picture, 4)?;
    Ok(coded(picture, 4, false, |i, out| {
        let alpha = picture.plane(3)[i];
        let straight = if alpha > 0.0 { 1.0 / alpha } else { 0.0 };
        (0..3).for_each(|c| out.push(srgb_encode(picture.plane(c)[i] * straight)));
        out.push(alpha);
    }))
}

/// The same over black, without alpha.
///
/// # Errors
/// A picture without four channels.
pub fn over_black(picture: &Raster) -> Result<Coded, ExchangeError> {
    shape(picture, 4)?;
    Ok(coded(picture, 3, false, |i, out| {
        (0..3).for_each(|c| out.push(srgb_encode(picture.plane(c)[i])));
    }))
}

/// One to three planes of data, grey or RGB (a missing third plane is black), without any curve: `signed` data is coded as
/// `½ + ½ v` (normals: flat is ½, ½, 1), other data is clipped to 0..1. What is no number is 0.
///
/// # Errors
/// More planes than three.
pub fn data(data: &Raster, signed: bool) -> Result<Coded, ExchangeError> {
    let planes = data.channels();
    if !(1..=3).contains(&planes) {
        let what = format!("{planes} planes of data in one such file are not written");
        return Err(ExchangeError::Unwritable { what });
    }
    let code = |v: f32| if signed { 0.5 + 0.5 * v } else { v };
    let wide = if planes == 1 { 1 } else { 3 };
    Ok(coded(data, wide, true, |i, out| {
        (0..wide).for_each(|c| out.push(if c < planes { code(data.plane(c)[i]) } else { 0.0 }));
    }))
}

/// A planar depth, grey: the nearest is white, the farthest black but one step, nothing black; even steps of depth between
/// (the pair that viewers of 3D photos take: common practice, no source).
///
/// # Errors
/// A depth without exactly one channel.
pub fn depth(depth: &Raster, bits: Bits) -> Result<Coded, ExchangeError> {
    shape(depth, 1)?;
    let finite = || depth.plane(0).iter().copied().filter(|z| z.is_finite());
    let (near, far) = (finite().fold(f32::INFINITY, f32::min), finite().fold(f32::NEG_INFINITY, f32::max));
    let least = 1.0 / bits.largest();
    let scale = if far > near { (1.0 - least) / (far - near) } else { 0.0 };
    Ok(coded(depth, 1, true, |i, out| {
        let z = depth.plane(0)[i];
        out.push(if z.is_finite() { 1.0 - (z - near) * scale } else { 0.0 });
    }))
}
