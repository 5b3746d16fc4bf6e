//! Text set in a font: outlines of its letters (OpenType, shaped by rustybuzz).

use crate::error::ExchangeError;
use glam::Vec2;
use jugata_core::matte::path::{Path, Stroke};
use rustybuzz::ttf_parser::{GlyphId, OutlineBuilder};
use rustybuzz::{Face, Feature, UnicodeBuffer, ttf_parser::Tag};
use std::panic::{AssertUnwindSafe, catch_unwind};

/// A font that ships with the application; all are under the SIL Open Font License 1.1 (`fonts/`).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum ShippedFont {
    /// Inscription capitals.
    #[default]
    Cinzel,
    /// A heavy sans.
    ArchivoBlack,
    /// A narrow sans.
    Oswald,
    /// A slab serif.
    ZillaSlab,
    /// A pen script.
    GreatVibes,
    /// A poster face of thick and thin.
    Limelight,
}

impl ShippedFont {
    /// Every one.
    pub const ALL: [Self; 6] =
        [Self::Cinzel, Self::ArchivoBlack, Self::Oswald, Self::ZillaSlab, Self::GreatVibes, Self::Limelight];

    /// Its file.
    pub fn bytes(self) -> &'static [u8] {
        match self {
            Self::Cinzel => include_bytes!("../fonts/Cinzel_700Bold.ttf"),
            Self::ArchivoBlack => include_bytes!("../fonts/ArchivoBlack_400Regular.ttf"),
            Self::Oswald => include_bytes!("../fonts/Oswald_600SemiBold.ttf"),
            Self::ZillaSlab => include_bytes!("../fonts/ZillaSlab_600SemiBold.ttf"),
            Self::GreatVibes => include_bytes!("../fonts/GreatVibes_400Regular.ttf"),
            Self::Limelight => include_bytes!("../fonts/Limelight_400Regular.ttf"),
        }
    }
}

/// How lines stand to each other.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Align {
    /// Their left ends in line.
    Left,
    /// Their middles in line.
    #[default]
    Centre,
    /// Their right ends in line.
    Right,
}

/// What one line has of its own.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct OwnLine {
    /// Which line, the first is 0.
    pub line: usize,
    /// Factor on the size.
    pub size: f32,
    /// Space added between its letters beside that of all lines, em.
    pub tracking: f32,
}

/// How text is set. Lengths in px.
#[derive(Clone, Debug, PartialEq)]
pub struct Setting {
    /// Px of an em.
    pub size: f32,
    /// Factor on the size of every line but the first.
    pub later: f32,
    /// Lines that are set otherwise; of two that name the same line the first.
    pub lines: Vec<OwnLine>,
    /// Space added between letters, em.
    pub tracking: f32,
    /// From line to line, em.
    pub leading: f32,
    /// How lines stand to each other.
    pub align: Align,
    /// Radius of the arc that the lines run along, px: upwards if positive, downwards if negative; 0 for none.
    pub arc: f32,
}

impl Setting {
    /// Px of an em of a line, and the space added between its letters, em.
    fn of_line(&self, line: usize) -> (f32, f32) {
        let later = if line == 0 { 1.0 } else { self.later };
        match self.lines.iter().find(|own| own.line == line) {
            Some(own) => (self.size * own.size, self.tracking + own.tracking),
            None => (self.size * later, self.tracking),
        }
    }
}

/// Most letters that are set.
pub const MOST: usize = 5_000;

/// A font that was read.
pub struct Font<'a>(Face<'a>);

impl<'a> Font<'a> {
    /// Reads an OpenType or TrueType file; of a collection, its first font.
    ///
    /// # Errors
    /// What is no font, or has no outlines.
    pub fn read(bytes: &'a [u8]) -> Result<Self, ExchangeError> {
        // The library's arithmetic overflows on some damaged tables.
        let read = catch_unwind(|| Face::from_slice(bytes, 0));
        let face = read.ok().flatten().ok_or(ExchangeError::NotAFont)?;
        let outlined =
            face.tables().glyf.is_some() || face.tables().cff.is_some() || face.tables().cff2.is_some();
        if outlined { Ok(Self(face)) } else { Err(ExchangeError::NotAFont) }
    }

    /// How high its capitals are, em.
    pub fn capitals(&self) -> f32 {
        let em = self.0.units_per_em().max(1) as f32;
        self.0.capital_height().filter(|h| *h > 0).map_or(0.7, |h| f32::from(h) / em)
    }

    /// The outlines of some text, line by line, their middle at the origin: across by the alignment, down halfway between
    /// the top of the first line's capitals and the last line's baseline.
    ///
    /// # Errors
    /// More than [`MOST`] letters; a damaged font.
    pub fn outlines(&self, text: &str, how: &Setting) -> Result<Path, ExchangeError> {
        catch_unwind(AssertUnwindSafe(|| self.set(text, how))).unwrap_or(Err(ExchangeError::NotAFont))
    }

    /// Where a caret stands before each character of some text and after the last, top and bottom, placed as the outlines
    /// are. A character that ends a line has its caret there.
    ///
    /// # Errors
    /// As [`Self::outlines`].
    pub fn carets(&self, text: &str, how: &Setting) -> Result<Vec<[Vec2; 2]>, ExchangeError> {
        let find = || {
            let (lines, middle) = self.lines(text, how)?;
            let mut all = Vec::with_capacity(text.len() + 1);
            for line in &lines {
                let letters = self.shaped(line, how);
                let at = |x: f32| {
                    let put = placed(x, line.down, how.arc);
                    [-CARET[0], CARET[1]].map(|y| put(Vec2::new(0.0, y * line.size)) - Vec2::new(0.0, middle))
                };
                all.extend(line.text.char_indices().map(|(byte, _)| at(letters.before(line.text, byte))));
                all.push(at(letters.end));
            }
            Ok(all)
        };
        catch_unwind(AssertUnwindSafe(find)).unwrap_or(Err(ExchangeError::NotAFont))
    }

    fn set(&self, text: &str, how: &Setting) -> Result<Path, ExchangeError> {
        let (lines, middle) = self.lines(text, how)?;
        let mut path = Path::default();
        for line in &lines {
            self.line(line, how, &mut path);
        }
        Ok(path.mapped(|p| p - Vec2::new(0.0, middle)))
    }

    /// The lines of some text, and how far below the first baseline the middle of all lies, px.
    fn lines<'t>(&self, text: &'t str, how: &Setting) -> Result<(Vec<Line<'t>>, f32), ExchangeError> {
        let letters = text.chars().count();
        if letters > MOST {
            return Err(ExchangeError::Limit {
                what: "the number of letters",
                found: letters as u64,
                most: MOST as u64,
            });
        }
        let (mut lines, mut down) = (Vec::new(), 0.0);
        for (i, text) in text.split('\n').enumerate() {
            let (size, tracking) = how.of_line(i);
            if i > 0 {
                down += how.leading * size;
            }
            lines.push(Line { text, size, tracking, down });
        }
        // A last line that is empty is none yet.
        let last = match lines.as_slice() {
            [.., before, end] if end.text.is_empty() => before.down,
            _ => down,
        };
        // Along an arc the first baseline stays where it is.
        Ok((lines, 0.5 * (last - self.capitals() * how.of_line(0).0)))
    }

    /// A line's letters from left to right.
    fn shaped(&self, line: &Line<'_>, how: &Setting) -> Letters {
        let k = line.size / self.0.units_per_em().max(1) as f32;
        let mut buffer = UnicodeBuffer::new();
        buffer.push_str(line.text);
        buffer.guess_segment_properties();
        // Letters that are spaced out are not joined.
        let joined = u32::from(line.tracking == 0.0);
        let features: Vec<Feature> =
            [b"liga", b"clig"].map(|t| Feature::new(Tag::from_bytes(t), joined, ..)).into();
        let shaped = rustybuzz::shape(&self.0, &features, buffer);
        let gap = line.tracking * line.size;
        let positions = shaped.glyph_positions();
        let advance = |x: i32| x as f32 * k + gap;
        let wide: f32 = positions.iter().map(|p| advance(p.x_advance)).sum::<f32>() - gap;
        let mut pen = match how.align {
            Align::Left => 0.0,
            Align::Centre => -0.5 * wide,
            Align::Right => -wide,
        };
        let mut all = Vec::with_capacity(positions.len());
        for (info, at) in shaped.glyph_infos().iter().zip(positions) {
            let own = advance(at.x_advance);
            let shift = Vec2::new(at.x_offset as f32 * k, -(at.y_offset as f32) * k);
            let glyph = info.glyph_id as u16;
            all.push(Letter { glyph, cluster: info.cluster as usize, from: pen, own, shift });
            pen += own;
        }
        let end = if positions.is_empty() { pen } else { pen - gap };
        Letters { all, end, gap, k }
    }

    /// Adds a line.
    fn line(&self, line: &Line<'_>, how: &Setting, path: &mut Path) {
        let letters = self.shaped(line, how);
        let k = letters.k;
        for letter in &letters.all {
            let mut outline = Outline::default();
            self.0.outline_glyph(GlyphId(letter.glyph), &mut outline);
            // Within the letter's own advance, about its middle, y down.
            let middle = 0.5 * (letter.own - letters.gap);
            let shift = letter.shift - Vec2::new(middle, 0.0);
            let drawn = outline.0.mapped(|p| Vec2::new(p.x * k, -p.y * k) + shift);
            let put = placed(letter.from + middle, line.down, how.arc);
            path.strokes.extend(drawn.mapped(put).strokes);
        }
    }
}

/// How far a caret reaches above the baseline and below it, em.
const CARET: [f32; 2] = [0.85, 0.2];

/// A line of text.
struct Line<'t> {
    text: &'t str,
    /// Px of an em.
    size: f32,
    /// Space added between its letters, em.
    tracking: f32,
    /// How far its baseline lies below the first one, px.
    down: f32,
}

/// A letter of a line.
struct Letter {
    glyph: u16,
    /// Byte of the text that it begins with.
    cluster: usize,
    /// Where it begins, px.
    from: f32,
    /// How far the next one begins from there, px.
    own: f32,
    shift: Vec2,
}

/// The letters of a line.
struct Letters {
    all: Vec<Letter>,
    /// Where the last one ends, px.
    end: f32,
    /// Space added between them, px.
    gap: f32,
    /// Px of a unit of the font.
    k: f32,
}

impl Letters {
    /// Where the character at a byte of the text begins: of several that are one letter each takes its share of it.
    fn before(&self, text: &str, byte: usize) -> f32 {
        let Some(at) = self.all.iter().rposition(|l| l.cluster <= byte) else { return self.end };
        let first = self.all[at].cluster;
        let of = |l: &&Letter| l.cluster == first;
        let from = self.all.iter().filter(of).map(|l| l.from).fold(f32::MAX, f32::min);
        let wide: f32 = self.all.iter().filter(of).map(|l| l.own).sum();
        let next = self.all.iter().map(|l| l.cluster).filter(|c| *c > first).min().unwrap_or(text.len());
        let count = |part: Option<&str>| part.map_or(0, |p| p.chars().count());
        let share = count(text.get(first..byte)) as f32 / count(text.get(first..next)).max(1) as f32;
        from + wide * share
    }
}

/// Puts a letter whose middle is `along` px along a baseline `down` px below the first.
fn placed(along: f32, down: f32, arc: f32) -> impl Fn(Vec2) -> Vec2 {
    let straight = arc.abs() < 1.0;
    let angle = if straight { 0.0 } else { along / arc };
    // Lines below lie on smaller circles of an arc upwards, on larger ones of one downwards; each letter keeps its angle.
    let turn = Vec2::from_angle(angle);
    move |p: Vec2| {
        if straight {
            return p + Vec2::new(along, down);
        }
        let centre = Vec2::new(0.0, arc);
        let from = Vec2::new(p.x, p.y + down - arc);
        centre + turn.rotate(from)
    }
}

#[derive(Default)]
struct Outline(Path);

impl OutlineBuilder for Outline {
    fn move_to(&mut self, x: f32, y: f32) {
        self.0.strokes.push(Stroke::Move(Vec2::new(x, y)));
    }
    fn line_to(&mut self, x: f32, y: f32) {
        self.0.strokes.push(Stroke::Line(Vec2::new(x, y)));
    }
    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        self.0.strokes.push(Stroke::Quad(Vec2::new(x1, y1), Vec2::new(x, y)));
    }
    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        self.0.strokes.push(Stroke::Cubic(Vec2::new(x1, y1), Vec2::new(x2, y2), Vec2::new(x, y)));
    }
    fn close(&mut self) {
        self.0.strokes.push(Stroke::Close);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const SET: Setting = Setting {
        size: 100.0,
        later: 1.0,
        lines: Vec::new(),
        tracking: 0.0,
        leading: 1.2,
        align: Align::Centre,
        arc: 0.0,
    };

    fn box_of(text: &str, how: &Setting) -> [Vec2; 2] {
        Font::read(ShippedFont::Cinzel.bytes()).unwrap().outlines(text, how).unwrap().bounds().unwrap()
    }

    #[test]
    fn every_font_that_ships_has_outlines_for_a_title() {
        for font in ShippedFont::ALL {
            let read = Font::read(font.bytes()).unwrap();
            let [low, high] = read.outlines("Veldmere & Söhne 1889", &SET).unwrap().bounds().unwrap();
            let size = high - low;
            assert!(size.x > 500.0 && size.x < 2500.0 && size.y > 60.0 && size.y < 200.0, "{font:?} {size}");
            assert!((low.x + high.x).abs() < 40.0, "{font:?}: in the middle");
        }
    }

    #[test]
    fn settings_do_what_they_say() {
        let [low, high] = box_of("HHH", &SET);
        // Capitals lie about the origin, and are about 0.7 em high.
        assert!((low.y + high.y).abs() < 3.0 && (high.y - low.y - 70.0).abs() < 8.0, "{low} {high}");
        let [a, b] = box_of("HHH", &Setting { tracking: 0.1, ..SET });
        assert!(((b.x - a.x) - (high.x - low.x) - 20.0).abs() < 0.1, "two gaps of 10 px");
        let [a, b] = box_of("HHH\nHHH", &Setting { later: 0.5, ..SET });
        assert!(((b.y - a.y) - (high.y - low.y) - 60.0).abs() < 3.0, "{a} {b}");
        // One line has its own size and tracking, whatever holds for the later ones.
        let own = vec![OwnLine { line: 1, size: 2.0, tracking: 0.05 }];
        let [a, b] = box_of("H\nHHH\nH", &Setting { later: 0.5, lines: own, ..SET });
        let wide = 2.0 * (high.x - low.x) + 2.0 * 10.0;
        assert!(((b.x - a.x) - wide).abs() < 0.5, "twice as wide, with two gaps of 10 px: {a} {b}");
        // A caret stands before each letter and after the last.
        let font = Font::read(ShippedFont::Cinzel.bytes()).unwrap();
        let carets = font.carets("HHH\nH", &SET).unwrap();
        assert_eq!(carets.len(), 6);
        let wide = carets[1][0].x - carets[0][0].x;
        assert!((carets[3][0].x - carets[0][0].x - 3.0 * wide).abs() < 0.01, "{carets:?}");
        assert!((carets[4][0].x + 0.5 * wide).abs() < 0.01 && carets[4][0].y > carets[3][1].y - 1.0);
        assert!(carets[0][0].x <= low.x && carets[3][0].x >= high.x, "{carets:?} {low} {high}");
        let left = box_of("HHH", &Setting { align: Align::Left, ..SET });
        assert!(left[0].x > 0.0 && left[0].x < 10.0);
        // Along an arc upwards the ends lie lower than the middle.
        let [_, bent] = box_of("HHHHHHHHH", &Setting { arc: 400.0, ..SET });
        assert!(bent.y > high.y + 50.0, "{bent}");
        assert!(Font::read(b"no font").is_err());
        assert!(
            Font::read(ShippedFont::Cinzel.bytes()).unwrap().outlines(&"x".repeat(MOST + 1), &SET).is_err()
        );
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 150, failure_persistence: None, ..ProptestConfig::default() })]

        /// A damaged font gives outlines or a sentence, and never ends the program.
        #[test]
        fn damaged_fonts_are_borne(hits in prop::collection::vec((0usize..77_060, any::<u8>()), 1..40), cut in 1000usize..77_060) {
            let mut bytes = ShippedFont::Cinzel.bytes().to_vec();
            for (at, v) in hits {
                // The directory and the first tables as often as all the rest.
                let at = if v % 2 == 0 { at % 4000 } else { at };
                bytes[at] = v;
            }
            bytes.truncate(cut);
            if let Ok(font) = Font::read(&bytes) {
                let _ = font.outlines("Veldmere Söhne", &SET);
            }
        }
    }
}
