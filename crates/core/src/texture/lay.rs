//! A texture laid on a surface of a picture, in the surface's own light.
//!
//! *Own derivation.* Where the surface fills a pixel, its diffuse part `D` becomes `T·E`, the texture times the light; what
//! is gloss stays on top, untouched. In a pixel of a soft edge only the surface's own part changes: `cover · (T − a·A)·E` is
//! added, `A` and `E` being those of the nearest sure pixel. Nothing is divided by a coverage, so that an edge stays as soft
//! as it was, and no old colour is left in it.

use super::colour_at;
use super::placing::Placing;
use super::pyramid::Pyramid;
use super::surface::{Surface, spot_of};
use crate::raster::bands::for_each_band;
use crate::{Cancel, KernelError, Raster};
use glam::{IVec2, Mat2, Vec2, Vec3};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How a texture meets the colour that was there.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum Meets {
    /// It takes its place.
    #[default]
    Instead,
    /// Both are multiplied, as print on paper.
    Multiplied,
}

/// What is known of the surface's light. All on the surface's window.
#[derive(Clone, Copy, Debug)]
pub enum Lit<'a> {
    /// By its colour and the light on it ([`super::shading::light`]), and the part of the picture that is diffuse.
    Apart {
        /// Three planes.
        albedo: &'a Raster,
        /// Light, three planes, and gloss, one ([`super::shading::light`]).
        light: &'a Raster,
        /// The diffuse part, three planes or more; the gloss that was found is still in it.
        diffuse: &'a Raster,
    },
    /// Not at all: the texture shines by itself, and the old surface goes.
    Itself,
}

/// A texture, where it lies, and how it meets what is there.
#[derive(Debug)]
pub struct Laid<'a> {
    /// The texture.
    pub texture: Pyramid<'a>,
    /// Where it lies.
    pub placing: Placing,
    /// How it meets the old colour.
    pub meets: Meets,
    /// Factor on its colour.
    pub gain: Vec3,
    /// Whether a soft edge gets its share; else whoever mixes the result in by the same matte gives it.
    pub covered: bool,
}

impl Laid<'_> {
    /// Colour (premultiplied) and coverage of the texture where a pixel sees it.
    #[inline]
    fn read(&self, uv: Vec2, slope: Mat2) -> (Vec3, f32) {
        let [r, g, b, a] = self.placing.read(&self.texture, uv, slope);
        (Vec3::new(r, g, b) * self.gain, a)
    }
}

/// The picture (RGBA, premultiplied) with a texture on the surface that `spots` ([`super::surface::spots`]) tells of.
///
/// # Errors
/// Shapes that do not match; cancellation.
pub fn lay(
    picture: &Raster,
    surface: &Surface<'_>,
    spots: &Raster,
    lit: Lit<'_>,
    laid: &Laid<'_>,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    picture.expect_channels("picture", 4)?;
    picture.expect_window("picture", surface.window())?;
    spots.expect_window("places on the surface", surface.window())?;
    let window = surface.window();
    let mut out = Raster::zeros(window, 4);
    for_each_band(&mut out, cancel, |band| {
        for y in band.window().rows() {
            let at = (y - window.y) as usize * window.width as usize;
            let mut rows: [&mut [f32]; 4] = band.rows(y);
            for (c, row) in rows.iter_mut().enumerate() {
                row.copy_from_slice(picture.row(c, y));
            }
            for (i, x) in (window.x..window.right() as i32).enumerate() {
                let here = IVec2::new(x, y);
                let Some(spot) = spot_of(spots, at + i, here) else { continue };
                let (texture, a) = laid.read(spot.uv, spot.slope);
                if a == 0.0 && laid.meets == Meets::Instead {
                    continue;
                }
                let from = (spot.from.y - window.y) as usize * window.width as usize
                    + (spot.from.x - window.x) as usize;
                let old = Vec3::new(rows[0][i], rows[1][i], rows[2][i]);
                let gain = change(
                    old,
                    lit,
                    laid.meets,
                    (texture, a),
                    (
                        at + i,
                        [from, if spot.met { at + i } else { from }],
                        spot.sure,
                        if laid.covered { spot.cover } else { spot.share },
                    ),
                );
                // What is no number in a pass changes nothing.
                if gain.is_finite() {
                    (0..3).for_each(|c| rows[c][i] += gain[c]);
                }
            }
        }
    })?;
    Ok(out)
}

/// A texture as each pixel of a surface sees it, RGBA, premultiplied; 0 where the surface is not seen.
///
/// # Errors
/// Cancellation.
pub fn read(
    surface: &Surface<'_>,
    texture: &Pyramid<'_>,
    placing: &Placing,
    cancel: &Cancel,
) -> Result<Raster, KernelError> {
    let mut out = Raster::zeros(surface.window(), 4);
    for_each_band(&mut out, cancel, |band| {
        let w = band.window();
        for y in w.rows() {
            let mut rows: [&mut [f32]; 4] = band.rows(y);
            for i in 0..w.width as usize {
                if let Some(s) = surface.spot(IVec2::new(w.x + i as i32, y)) {
                    let px = placing.read(texture, s.uv, s.slope);
                    rows.iter_mut().zip(px).for_each(|(row, v)| row[i] = v);
                }
            }
        }
    })?;
    Ok(out)
}

/// What the texture changes of a pixel.
#[inline]
fn change(
    old: Vec3,
    lit: Lit<'_>,
    meets: Meets,
    (texture, a): (Vec3, f32),
    (i, [from, coloured], sure, cover): (usize, [usize; 2], bool, f32),
) -> Vec3 {
    match lit {
        Lit::Itself if meets == Meets::Multiplied => (texture - Vec3::splat(a)) * old * cover,
        // Of a soft edge the old surface's part is not known; it is taken for as bright as the whole.
        Lit::Itself => (texture - a * old) * cover,
        Lit::Apart { albedo, light, diffuse } => {
            let (own, e) = (colour_at(albedo, coloured), colour_at(light, from));
            let diffuse = (colour_at(diffuse, i) - light.plane(3)[i]).max(Vec3::ZERO);
            match (sure, meets) {
                (true, Meets::Instead) => texture * e - a * diffuse,
                (true, Meets::Multiplied) => (texture - Vec3::splat(a)) * diffuse,
                (false, Meets::Instead) => (texture - a * own) * e * cover,
                (false, Meets::Multiplied) => (texture - Vec3::splat(a)) * own * e * cover,
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::{pyramid, shading, surface};
    use super::*;
    use crate::Window;
    use crate::texture::pyramid::Beyond;

    const W: Window = Window::of_size(30, 20);

    fn plain(rgb: [f32; 3]) -> Raster {
        Raster::from_fn(W, 3, |c, _, _| rgb[c])
    }

    /// A surface that ends softly at x = 20.4 before black, in the light of 0.8, with gloss of 0.1 on it.
    #[test]
    fn a_soft_edge_takes_the_new_colour_and_keeps_its_gloss_and_softness() {
        let cover = Raster::from_fn(W, 1, |_, x, _| (20.4 - x as f32).clamp(0.0, 1.0));
        let (old, e, gloss) = ([0.5f32, 0.2, 0.1], 0.8f32, 0.1f32);
        let picture = Raster::from_fn(W, 4, |c, x, _| {
            let k = (20.4 - x as f32).clamp(0.0, 1.0);
            if c == 3 { 1.0 } else { (old[c] * e + gloss) * k }
        });
        let diffuse = Raster::from_fn(W, 3, |c, x, _| old[c] * e * (20.4 - x as f32).clamp(0.0, 1.0));
        let uv = Raster::from_fn(W, 2, |c, x, y| if c == 0 { x as f32 / 30.0 } else { y as f32 / 20.0 });
        let albedo = plain(old);
        let surface = Surface::new(&uv, &cover, None).unwrap();
        let cancel = Cancel::new();
        let spots = surface::spots(&surface, &cancel).unwrap();
        let light = shading::light(&diffuse, &albedo, false, (&surface, &spots), &cancel).unwrap();
        let fresh = [0.1f32, 0.7, 0.3];
        let texture =
            Raster::from_fn(Window::of_size(4, 4), 4, |c, _, _| if c == 3 { 1.0 } else { fresh[c] });
        let stacked = pyramid::stacked(&texture, &cancel).unwrap();
        let laid = |meets| Laid {
            texture: Pyramid::of(&stacked, texture.window(), Beyond::Tiles),
            placing: Placing::new(Vec2::splat(0.5), Vec2::ONE, 0.0, 1.0),
            meets,
            gain: Vec3::ONE,
            covered: true,
        };
        let lit = Lit::Apart { albedo: &albedo, light: &light, diffuse: &diffuse };
        for meets in [Meets::Instead, Meets::Multiplied] {
            let out = lay(&picture, &surface, &spots, lit, &laid(meets), &cancel).unwrap();
            for x in 0..30 {
                let k = (20.4 - x as f32).clamp(0.0, 1.0);
                for c in 0..3 {
                    let t = if meets == Meets::Instead { fresh[c] } else { fresh[c] * old[c] };
                    let want = (t * e + gloss) * k;
                    let got = out.sample(c, x, 7).unwrap();
                    assert!((got - want).abs() < 2e-3, "{meets:?} {x} {c}: {got} is not {want}");
                }
            }
        }
    }
}
