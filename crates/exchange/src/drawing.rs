//! Drawings: the static part of SVG, drawn by resvg.

use crate::error::ExchangeError;
use jugata_core::colour::srgb_decode;
use jugata_core::{Raster, Window};
use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree};

/// A drawing that was read.
pub struct Drawing(Tree);

/// Largest file, bytes.
pub const MOST_BYTES: usize = 16 << 20;

/// Most pixels that are drawn at once.
const MOST_PIXELS: usize = 64 << 20;

impl Drawing {
    /// Reads an SVG file (plain text). Text in it needs outlines: no fonts are looked up; pictures from other files are
    /// left out.
    ///
    /// # Errors
    /// What is no SVG, is too large, or has no size.
    pub fn read(bytes: &[u8]) -> Result<Self, ExchangeError> {
        if bytes.len() > MOST_BYTES {
            let (found, most) = (bytes.len() as u64, MOST_BYTES as u64);
            return Err(ExchangeError::Limit { what: "the number of its bytes", found, most });
        }
        let mut options = Options::default();
        // Nothing is read from elsewhere.
        options.image_href_resolver.resolve_string = Box::new(|_, _| None);
        options.resources_dir = None;
        Tree::from_data(bytes, &options).map(Self).map_err(|_| ExchangeError::NotADrawing)
    }

    /// Its width and height, px of its own.
    pub fn size(&self) -> [f32; 2] {
        [self.0.size().width(), self.0.size().height()]
    }

    /// Drawn on a window, RGBA, linear, premultiplied: `scale` px for each of its own, its upper left corner at `corner`.
    ///
    /// # Errors
    /// More pixels than are drawn at once.
    pub fn drawn(&self, window: Window, scale: f32, corner: [f32; 2]) -> Result<Raster, ExchangeError> {
        let (found, most) = (window.area() as u64, MOST_PIXELS as u64);
        let too_much = || ExchangeError::Limit { what: "the number of its pixels", found, most };
        if window.is_empty() {
            return Ok(Raster::zeros(window, 4));
        }
        if window.area() > MOST_PIXELS {
            return Err(too_much());
        }
        let mut map = Pixmap::new(window.width, window.height).ok_or_else(too_much)?;
        let at = [corner[0] - window.x as f32, corner[1] - window.y as f32];
        let put = Transform::from_scale(scale, scale).post_translate(at[0], at[1]);
        resvg::render(&self.0, put, &mut map.as_mut());
        // Its colours are sRGB, and were put together so.
        let linear: [f32; 256] = std::array::from_fn(|i| srgb_decode(i as f32 / 255.0));
        let mut out = Raster::zeros(window, 4);
        for (i, p) in map.pixels().iter().enumerate() {
            let alpha = f32::from(p.alpha()) / 255.0;
            let straight = p.demultiply();
            let rgb = [straight.red(), straight.green(), straight.blue()];
            for (c, v) in rgb.into_iter().enumerate() {
                out.plane_mut(c)[i] = linear[usize::from(v)] * alpha;
            }
            out.plane_mut(3)[i] = alpha;
        }
        Ok(out)
    }
}
