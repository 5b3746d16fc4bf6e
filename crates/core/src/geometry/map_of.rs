//! Any chain of moves written as a coordinate map, either way.

use super::chain::Chain;
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster, Scale, Window};
use glam::DVec2;

/// Which way a map of moves is made.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MapOf {
    /// For each pixel of the moved picture the place that it comes from.
    Moves,
    /// For each pixel of the picture before the place that it goes to: read by that, what was moved comes back.
    WayBack,
}

/// The map of a chain of full-resolution px (ST), on a window of px of a scale: exact for each pixel; 0, 0 where nothing
/// comes from. `frame` is what 0..1 spans, full-resolution px.
///
/// # Errors
/// Cancellation.
pub fn map_of(
    chain: &Chain,
    way: MapOf,
    frame: Window,
    (window, scale): (Window, Scale),
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let size = DVec2::new(frame.width.into(), frame.height.into());
    let corner = DVec2::new(frame.x.into(), frame.y.into());
    written(chain, way, (window, scale), cancel, |_, found| {
        let Some(from) = found else { return [0.0; 2] };
        let st = (from - corner) / size;
        let [s, t] = [st.x as f32, (1.0 - st.y) as f32];
        // 0, 0 says that nothing is there; the corner itself is a hair beside it.
        if s == 0.0 && t == 0.0 { [f32::MIN_POSITIVE, t] } else { [s, t] }
    })
}

/// The same as offsets from each pixel's own place, right and down, in units of so many full-resolution px on each axis; not a
/// number where nothing comes from.
///
/// # Errors
/// Cancellation.
pub fn offsets_of(
    chain: &Chain,
    way: MapOf,
    unit: [f64; 2],
    on: (Window, Scale),
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    written(chain, way, on, cancel, |at, found| match found {
        Some(from) => {
            let by = (from - at) / DVec2::from(unit);
            [by.x as f32, by.y as f32]
        }
        None => [f32::NAN; 2],
    })
}

/// Two planes of what `write` makes of each pixel's place and of the one that belongs to it, full-resolution px.
fn written(
    chain: &Chain,
    way: MapOf,
    (window, scale): (Window, Scale),
    cancel: &Cancel,
    write: impl Fn(DVec2, Option<DVec2>) -> [f32; 2] + Sync,
) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(window, 2);
    let step = f64::from(scale.step());
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            if cancel.is_cancelled() {
                return;
            }
            let [s, t] = band.rows(y);
            for (x, (s, t)) in (window.x..).zip(s.iter_mut().zip(t)) {
                let at = DVec2::new(f64::from(x) + 0.5, f64::from(y) + 0.5) * step;
                let found = match way {
                    MapOf::Moves => chain.source(at),
                    MapOf::WayBack => chain.forward(at),
                };
                [*s, *t] = write(at, found);
            }
        }
    })?;
    cancel.check()?;
    Ok(out)
}
