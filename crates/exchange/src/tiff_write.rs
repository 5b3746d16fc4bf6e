//! TIFF out: 16 bits for stills, 32-bit float for what goes on to be worked on.

use crate::coded::{Bits, Coded};
use crate::error::ExchangeError;
use jugata_core::Raster;
use std::io::Cursor;
use tiff::encoder::colortype::{ColorType, Gray16, Gray32Float, RGB16, RGB32Float};
use tiff::encoder::{Compression, DeflateLevel, Predictor, TiffEncoder, TiffValue};
use tiff::tags::ExtraSamples;

fn refuse(e: &dyn std::fmt::Display) -> ExchangeError {
    ExchangeError::Unwritable { what: e.to_string() }
}

/// A deflate-compressed file of 16 bits; a fourth plane is straight (unassociated) alpha.
///
/// # Errors
/// No pixel.
pub fn sixteen(coded: &Coded) -> Result<Vec<u8>, ExchangeError> {
    let numbers: Vec<u16> = coded.numbers(Bits::Sixteen).collect();
    let (size, alpha) = ([coded.width, coded.height], ExtraSamples::UnassociatedAlpha);
    match coded.planes {
        1 => encode::<Gray16>(size, &[], Predictor::Horizontal, &numbers),
        3 => encode::<RGB16>(size, &[], Predictor::Horizontal, &numbers),
        // The predictor of the crate knows nothing of a further plane.
        _ => encode::<RGB16>(size, &[alpha], Predictor::None, &numbers),
    }
}

/// A deflate-compressed file of 32-bit float, values as they are: a picture scene-linear with premultiplied (associated)
/// alpha; data of one to three planes (a missing third plane is 0).
///
/// # Errors
/// More than four planes; no pixel.
pub fn float(raster: &Raster) -> Result<Vec<u8>, ExchangeError> {
    let (w, planes) = (raster.window(), raster.channels());
    let wide = if planes == 2 { 3 } else { planes };
    let mut values = Vec::with_capacity(w.area() * wide);
    for i in 0..w.area() {
        values.extend((0..wide).map(|c| if c < planes { raster.plane(c)[i] } else { 0.0 }));
    }
    let size = [w.width, w.height];
    match wide {
        1 => encode::<Gray32Float>(size, &[], Predictor::None, &values),
        3 => encode::<RGB32Float>(size, &[], Predictor::None, &values),
        4 => encode::<RGB32Float>(size, &[ExtraSamples::AssociatedAlpha], Predictor::None, &values),
        _ => Err(refuse(&format!("a TIFF of {planes} planes is not written"))),
    }
}

fn encode<C: ColorType>(
    [width, height]: [u32; 2],
    extra: &[ExtraSamples],
    predictor: Predictor,
    values: &[C::Inner],
) -> Result<Vec<u8>, ExchangeError>
where
    [C::Inner]: TiffValue,
{
    let mut out = Cursor::new(Vec::new());
    let written = (|| {
        let mut encoder = TiffEncoder::new(&mut out)?
            .with_compression(Compression::Deflate(DeflateLevel::Balanced))
            .with_predictor(predictor);
        let mut image = encoder.new_image::<C>(width, height)?;
        if !extra.is_empty() {
            image.extra_samples(extra)?;
        }
        image.write_data(values)
    })();
    written.map_err(|e| refuse(&e))?;
    Ok(out.into_inner())
}
