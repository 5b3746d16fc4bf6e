//! What a kind of made element can do, and how several are drawn.

use crate::error::ShotError;
use crate::files::MediaFile;
use crate::inputs::Inputs;
use crate::kinds::Kind;
use glam::{DMat3, DVec2, Vec2};
use jugata_core::geometry::chain::{Chain, Move};
use jugata_core::passes::moved::moved;
use jugata_core::raster::bands::for_each_band;
use jugata_core::{KernelError, Raster, Role, Window};
use std::sync::Arc;

/// Reads the bytes of a file.
pub type ReadFile<'a> = &'a dyn Fn(&MediaFile) -> Result<Arc<Vec<u8>>, ShotError>;

/// How a kind of made element is drawn.
pub trait Made: Kind {
    /// What it offers to those who read it; coverage is that of its beauty.
    fn offers(&self) -> &'static [Role] {
        &[Role::Beauty, Role::Uv]
    }
    /// The file whose frame is its own; else it has the shot's.
    fn framed_by(&self) -> Option<&MediaFile> {
        None
    }
    /// How high its letters or what it draws is in the shot's frame, full-resolution px: what lengths of a look are fitted to.
    fn height(&self, frame: Window) -> Option<f32> {
        let _ = frame;
        None
    }
    /// Where a caret stands in its text, top and bottom, over a frame, full-resolution px: before each character and after the
    /// last. None of what has no text. `bytes` reads a file.
    ///
    /// # Errors
    /// A font that is missing, or is none.
    fn carets(&self, frame: Window, bytes: ReadFile<'_>) -> Result<Vec<[Vec2; 2]>, ShotError> {
        let _ = (frame, bytes);
        Ok(Vec::new())
    }
    /// Its picture (RGBA, linear, premultiplied) on the inputs' window, which is its whole frame.
    ///
    /// # Errors
    /// Missing inputs, shapes, cancellation.
    fn draw(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError>;
    /// How high it rises, 0..1, where it offers a height; else it is flat.
    ///
    /// # Errors
    /// As [`Self::draw`].
    fn rises(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        Ok(Raster::zeros(inputs.window, 1))
    }
}

/// What a made element offers for a role.
///
/// # Errors
/// As [`Made::draw`].
pub fn drawn(made: &dyn Made, role: Role, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
    match role {
        Role::Uv => Ok(uv(inputs.window)),
        Role::Height => made.rises(inputs),
        _ => made.draw(inputs),
    }
}

/// A colour (linear, straight) and how opaque it is, premultiplied.
pub(super) fn rgba([r, g, b]: [f32; 3], opacity: f32) -> [f32; 4] {
    [r * opacity, g * opacity, b * opacity, opacity]
}

/// Where a colour (premultiplied) stands between the first (0) and the last (1).
pub(super) type Stop = (f32, [f32; 4]);

/// Two colours that pass into each other.
pub(super) const fn two([first, second]: [[f32; 4]; 2]) -> [Stop; 2] {
    [(0.0, first), (1.0, second)]
}

/// Colours that pass into each other over a frame: `share` says where between the first and the last of the stops, which are
/// in order, each pixel's middle is.
pub(super) fn coloured(
    inputs: &Inputs<'_>,
    stops: &[Stop],
    share: impl Fn(Vec2) -> f32 + Sync,
) -> Result<Raster, ShotError> {
    each(inputs, |p| colour_at(stops, share(p)))
}

/// Planes over a frame, by what stands at each pixel's middle.
pub(super) fn each<const N: usize>(
    inputs: &Inputs<'_>,
    of: impl Fn(Vec2) -> [f32; N] + Sync,
) -> Result<Raster, ShotError> {
    let frame = inputs.window;
    let mut out = Raster::zeros(frame, N);
    for_each_band(&mut out, inputs.cancel, |band| {
        for y in band.window().rows() {
            let mut rows = band.rows::<N>(y);
            for (x, place) in (frame.x..).take(frame.width as usize).enumerate() {
                let values = of(Vec2::new(place as f32 + 0.5, y as f32 + 0.5));
                rows.iter_mut().zip(values).for_each(|(row, v)| row[x] = v);
            }
        }
    })
    .map_err(KernelError::from)?;
    Ok(out)
}

/// The colour at a place among stops that are in order; the ends go on beyond them.
pub(super) fn colour_at(stops: &[Stop], t: f32) -> [f32; 4] {
    let after = stops.iter().position(|s| s.0 > t).unwrap_or(stops.len());
    let (from, first) = stops.get(after.saturating_sub(1)).copied().unwrap_or_default();
    let (to, second) = stops.get(after).copied().unwrap_or((from, first));
    let t = if to > from { ((t - from) / (to - from)).clamp(0.0, 1.0) } else { 0.0 };
    std::array::from_fn(|c| first[c] + (second[c] - first[c]) * t)
}

/// The picture of the element that was asked for, stretched over the frame; `None` where none was found.
pub(super) fn filling(inputs: &Inputs<'_>) -> Result<Option<Raster>, ShotError> {
    let Some(picture) = inputs.pictures_of().next() else { return Ok(None) };
    let (from, to) = (picture.window(), inputs.window);
    if from == to {
        return Ok(Some(picture.clone()));
    }
    if from.is_empty() || to.is_empty() {
        return Ok(None);
    }
    let corner = |w: Window| DVec2::new(w.x.into(), w.y.into());
    let size = |w: Window| DVec2::new(w.width.into(), w.height.into());
    let stretched = DMat3::from_translation(corner(to))
        * DMat3::from_scale(size(to) / size(from))
        * DMat3::from_translation(-corner(from));
    let chain = Chain::of([Move::Homography(stretched)]);
    Ok(Some(moved(picture, Role::Beauty, &chain, to, inputs.cancel)?))
}

/// What is drawn as a matte, in the colours of a filling.
pub(super) fn filled(matte: &[f32], mut filling: Raster, opacity: f32) -> Raster {
    for plane in filling.planes_mut() {
        plane.iter_mut().zip(matte).for_each(|(v, inside)| *v *= inside * opacity);
    }
    filling
}

/// `u` right and `v` up over a frame, 0..1.
pub(super) fn uv(frame: Window) -> Raster {
    let (width, height) = (frame.width.max(1) as f32, frame.height.max(1) as f32);
    Raster::from_fn(frame, 2, |c, x, y| {
        if c == 0 {
            ((x - frame.x) as f32 + 0.5) / width
        } else {
            1.0 - ((y - frame.y) as f32 + 0.5) / height
        }
    })
}

/// Number of the pass that a made element draws for a role; documents name passes by it, so it never changes.
pub const fn drawn_id(role: Role) -> u32 {
    let place = match role {
        Role::Beauty => 0,
        Role::Uv => 1,
        Role::Normal => 2,
        Role::Depth => 3,
        Role::Height => 4,
        _ => 9,
    };
    1_000_001 + place
}
