//! A pass through a chain of moves: sampled once, as its meaning allows.

use crate::geometry::chain::Chain;
use crate::geometry::field::Field;
use crate::geometry::resample::filtered;
use crate::geometry::row::Row;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Role, Window};
use glam::DVec2;

/// A pass moved by a chain, on `window`, all in px of one scale ([`Chain::at`]): colour and coverage are filtered; all else is picked, since the
/// average of two depths is a depth where nothing is; vectors of motion are turned with the picture.
///
/// # Errors
/// Cancellation.
pub fn moved(
    source: &Raster,
    role: Role,
    chain: &Chain,
    window: Window,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    if chain.is_identity() {
        return Ok(source.cropped(window, role.outside()));
    }
    if role.averages() {
        return filtered(source, chain, window, cancel);
    }
    let turns = role == Role::Motion && source.channels() >= 2;
    let field = Field::of(chain, window);
    let mut out = Raster::filled(window, source.channels(), role.outside());
    for_each_band(&mut out, cancel, |band| {
        let mut places = Row::of(window.width);
        for y in band.window().rows() {
            field.row(window.x, y, &mut places);
            for x in 0..window.width as usize {
                let Some((at, slope)) = places.at(x) else { continue };
                let (sx, sy) = (at.x.floor() as i32, at.y.floor() as i32);
                if !source.window().contains(sx, sy) {
                    continue;
                }
                for c in 0..source.channels() {
                    band.row(c, y)[x] = source.sample(c, sx, sy).unwrap_or(role.outside());
                }
                if turns {
                    let v = DVec2::new(band.row(0, y)[x].into(), band.row(1, y)[x].into());
                    // A slope that cannot be turned round has no picture to move in.
                    let v = if slope.determinant().abs() > 1e-12 { slope.inverse() * v } else { v };
                    (band.row(0, y)[x], band.row(1, y)[x]) = (v.x as f32, v.y as f32);
                }
            }
        }
    })?;
    Ok(out)
}
