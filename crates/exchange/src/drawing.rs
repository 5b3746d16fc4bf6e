//! Drawings: the static part of SVG, drawn by resvg.

use crate::error::ExchangeError;
use jugata_core::colour::srgb_decode;
use jugata_core::{Raster, Window};
use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::roxmltree::{self, Node};
use resvg::usvg::{Options, Tree};
use std::collections::HashMap;
use std::panic::{AssertUnwindSafe, catch_unwind};

/// A drawing that was read.
pub struct Drawing(Tree);

/// Largest file, bytes.
pub const MOST_BYTES: usize = 16 << 20;

/// Most shapes, those counted that others use again.
const MOST_THINGS: u64 = 200_000;

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
        let text = std::str::from_utf8(bytes).map_err(|_| ExchangeError::NotADrawing)?;
        let options = roxmltree::ParsingOptions { allow_dtd: true, ..Default::default() };
        let document =
            roxmltree::Document::parse_with_options(text, options).map_err(|_| ExchangeError::NotADrawing)?;
        let things = expanded(&document);
        if things > MOST_THINGS {
            let (found, most) = (things, MOST_THINGS);
            return Err(ExchangeError::Limit { what: "the number of its shapes", found, most });
        }
        let mut options = Options::default();
        // Nothing is read from elsewhere.
        options.image_href_resolver.resolve_string = Box::new(|_, _| None);
        options.resources_dir = None;
        let read = catch_unwind(AssertUnwindSafe(|| Tree::from_xmltree(&document, &options)));
        read.ok().and_then(Result::ok).map(Self).ok_or(ExchangeError::NotADrawing)
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
        let mut draw = || resvg::render(&self.0, put, &mut map.as_mut());
        catch_unwind(AssertUnwindSafe(&mut draw)).map_err(|_| ExchangeError::NotADrawing)?;
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

/// How many nodes a drawing has once everything that is used again stands where it is used: a few lines can ask for more
/// than any machine has.
fn expanded(document: &roxmltree::Document<'_>) -> u64 {
    let ids: HashMap<&str, Node<'_, '_>> =
        document.descendants().filter_map(|n| n.attribute("id").map(|id| (id, n))).collect();
    size_of(document.root(), &ids, &mut HashMap::new(), 0)
}

/// Nodes of a node and of all that it uses. One that uses itself is refused by the library that draws.
fn size_of<'a>(
    node: Node<'a, 'a>,
    ids: &HashMap<&str, Node<'a, 'a>>,
    known: &mut HashMap<roxmltree::NodeId, u64>,
    deep: u32,
) -> u64 {
    if let Some(size) = known.get(&node.id()) {
        return *size;
    }
    if deep > DEEPEST {
        return u64::MAX;
    }
    // Until it is known it counts as nothing: what names itself ends here.
    known.insert(node.id(), 0);
    let mut size = 1_u64;
    for child in node.children() {
        size = size.saturating_add(size_of(child, ids, known, deep + 1));
    }
    let named = node.attributes().filter(|a| a.name() == "href").filter_map(|a| a.value().strip_prefix('#'));
    for target in named.filter_map(|id| ids.get(id)) {
        size = size.saturating_add(size_of(*target, ids, known, deep + 1));
    }
    known.insert(node.id(), size);
    size
}

/// Deepest nesting that is followed.
const DEEPEST: u32 = 500;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_drawing_is_drawn_where_it_should_be_and_in_its_colours() {
        let svg = br##"<svg xmlns="http://www.w3.org/2000/svg" width="20" height="10"><rect x="2" y="3" width="10" height="5" fill="#bc8040"/></svg>"##;
        let drawing = Drawing::read(svg).unwrap();
        assert_eq!(drawing.size(), [20.0, 10.0]);
        let made = drawing.drawn(Window::new(-5, 0, 60, 40), 2.0, [3.0, 4.0]).unwrap();
        let inside = made.pixel(3 + 10, 4 + 10).unwrap();
        let want = [0xbc, 0x80, 0x40].map(|v: u8| srgb_decode(f32::from(v) / 255.0));
        assert!(inside.iter().zip(want).all(|(a, b)| (a - b).abs() < 1e-5) && inside[3] == 1.0, "{inside:?}");
        assert_eq!(made.sample(3, 3 + 4, 4 + 5), Some(0.0));
        let area: f32 = made.plane(3).iter().sum();
        assert!((area - 200.0).abs() < 0.5, "{area}");
    }

    #[test]
    fn what_is_no_drawing_or_asks_for_too_much_gets_a_sentence() {
        for bytes in [&b"<svg"[..], b"not one", b"", &[0xff, 0xfe, 0x00]] {
            assert!(matches!(Drawing::read(bytes), Err(ExchangeError::NotADrawing)), "{bytes:?}");
        }
        let mut svg = String::from(
            r#"<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><g id="a0"><path d="M0 0h1v1z"/></g>"#,
        );
        for i in 1..40 {
            svg += &format!(r##"<g id="a{i}"><use href="#a{}"/><use href="#a{}"/></g>"##, i - 1, i - 1);
        }
        let said = Drawing::read((svg + "</svg>").as_bytes()).err().map(|e| e.to_string());
        assert!(said.is_some_and(|s| s.contains("the number of its shapes")));
        let deep = "<g>".repeat(3000) + &"</g>".repeat(3000);
        let svg = format!(r#"<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9">{deep}</svg>"#);
        assert!(Drawing::read(svg.as_bytes()).is_err());
    }
}
