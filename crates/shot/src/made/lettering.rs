//! Lettering: text set in a font.

use super::drawn::{Made, ReadFile, filled, filling, rgba};
use crate::files::MediaFile;
use crate::kinds::prelude::*;
use glam::Vec2;
use jugata_core::Window;
use jugata_core::matte::path::Rule;
use jugata_core::relief::bevel::Side;
use jugata_core::relief::ring::{Ring, rings};
use jugata_exchange::lettering::{self, Align, Font, Setting, ShippedFont};

/// Which font.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LetteringFont {
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
    /// From a file.
    File,
}

impl LetteringFont {
    fn shipped(self) -> Option<ShippedFont> {
        Some(match self {
            Self::Cinzel => ShippedFont::Cinzel,
            Self::ArchivoBlack => ShippedFont::ArchivoBlack,
            Self::Oswald => ShippedFont::Oswald,
            Self::ZillaSlab => ShippedFont::ZillaSlab,
            Self::GreatVibes => ShippedFont::GreatVibes,
            Self::Limelight => ShippedFont::Limelight,
            Self::File => return None,
        })
    }
}

/// How its lines stand to each other.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(rename_all = "snake_case")]
pub enum LetteringAlign {
    /// Left ends in line.
    Left,
    /// Middles in line.
    #[default]
    Centre,
    /// Right ends in line.
    Right,
}

/// A ring of colour along the outline.
#[parameters(item)]
pub struct OutlineRing {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// How wide it is.
    #[param(label = "Width", default = 4.0, range = [0.0, 1000.0], slider = [0.0, 40.0], step = 0.1, unit = "px")]
    pub width: f32,
    /// On which side of the outline it lies.
    #[param(label = "Lies", default = Side::Outside)]
    pub side: Side,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [0.02; 3], range = [0.0, 1e3], means = "colour")]
    pub colour: [f32; 3],
    /// How opaque it is.
    #[param(label = "Opacity", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01)]
    pub opacity: f32,
}

impl OutlineRing {
    /// The same at a scale where lengths are `k` times as long.
    pub(crate) fn at(&self, k: f32) -> Ring {
        Ring { width: self.width * k, side: self.side, colour: self.colour, opacity: self.opacity }
    }
}

/// A line that is set otherwise than the rest.
#[parameters(item)]
pub struct OwnLine {
    /// Number that stays with it.
    #[param(means = "hidden")]
    pub id: u32,
    /// Which line.
    #[param(label = "Line", default = 1, range = [1.0, 1000.0], slider = [1.0, 8.0], step = 1.0)]
    pub line: u32,
    /// Its size, of the size of the lettering.
    #[param(label = "Size", default = 1.0, range = [0.01, 100.0], slider = [0.1, 3.0], step = 0.01, unit = "×")]
    pub size: f32,
    /// Space added between its letters, beside the tracking of all.
    #[param(label = "Tracking", range = [-1.0, 10.0], slider = [-0.1, 0.5], step = 0.005, unit = "em")]
    pub tracking: f32,
}

/// Parameters of Lettering.
#[parameters]
pub struct Lettering {
    /// What is written; a new line begins a new one.
    #[param(label = "Text", default = String::from("Title"), means = "lines", group = "Text")]
    pub text: String,
    /// The font.
    #[param(label = "Font", means = "font", group = "Text")]
    pub font: LetteringFont,
    /// An OpenType or TrueType file.
    #[ts(optional = nullable)]
    #[param(label = "Font file", means = "font-file", group = "Text", when = {"font": "file"})]
    pub file: Option<MediaFile>,
    /// Height of an em; capitals are about 0.7 of it.
    #[param(label = "Size", default = 200.0, range = [1.0, 20_000.0], slider = [10.0, 1000.0], step = 1.0, unit = "px", group = "Setting")]
    pub size: f32,
    /// Size of every line but the first.
    #[param(label = "Later lines", default = 1.0, range = [0.01, 100.0], slider = [0.1, 2.0], step = 0.01, unit = "×", group = "Setting")]
    pub later: f32,
    /// Space added between letters.
    #[param(label = "Tracking", range = [-1.0, 10.0], slider = [-0.1, 0.5], step = 0.005, unit = "em", group = "Setting")]
    pub tracking: f32,
    /// From one line to the next.
    #[param(label = "Leading", default = 1.2, range = [-20.0, 20.0], slider = [0.5, 2.5], step = 0.01, unit = "em", group = "Setting")]
    pub leading: f32,
    /// How its lines stand to each other.
    #[param(label = "Align", group = "Setting")]
    pub align: LetteringAlign,
    /// Radius of the arc that lines run along: upwards if positive, downwards if negative; 0 for straight lines.
    #[param(label = "Arc", range = [-100_000.0, 100_000.0], slider = [-4000.0, 4000.0], step = 10.0, unit = "px", group = "Setting")]
    pub arc: f32,
    /// Lines that are set otherwise than the rest.
    #[param(label = "Lines", means = "own-lines", item = "line", most = 64, group = "Setting")]
    pub lines: Vec<OwnLine>,
    /// Linear Rec.709.
    #[param(label = "Colour", default = [0.6, 0.6, 0.6], range = [0.0, 1e3], means = "colour", group = "Colour")]
    pub colour: [f32; 3],
    /// Another element whose picture fills the letters: a pattern, a gradient, footage.
    #[ts(optional = nullable)]
    #[param(label = "Filled by", means = "filled-by", group = "Colour")]
    pub fill: Option<u32>,
    /// How opaque the letters are; their rings stay.
    #[param(label = "Opacity", default = 1.0, range = [0.0, 1.0], slider = [0.0, 1.0], step = 0.01, group = "Colour")]
    pub opacity: f32,
    /// Rings along the outline; the first lies on top.
    #[param(label = "Rings", means = "rings", item = "ring", most = 16, group = "Rings")]
    pub rings: Vec<OutlineRing>,
}

impl OwnLine {
    fn set(&self) -> lettering::OwnLine {
        lettering::OwnLine { line: self.line.max(1) as usize - 1, size: self.size, tracking: self.tracking }
    }
}

impl Kind for Lettering {
    fn about(&self) -> About {
        About {
            title: "Lettering",
            about: "Sets text in a font, in the middle of the frame; put it elsewhere under Placed.",
            version: 1,
        }
    }

    fn wants(&self) -> Vec<Want> {
        let file = self.file.clone().filter(|_| self.font == LetteringFont::File);
        file.map(Want::File).into_iter().chain(self.fill.map(Want::PictureOf)).collect()
    }

    fn sentence(&self) -> String {
        let first = self.text.lines().next().unwrap_or_default();
        let shown: String = first.chars().take(24).collect();
        let more = if self.text.lines().nth(1).is_some() || shown.len() < first.len() { "…" } else { "" };
        format!("Lettering “{shown}{more}”, {:.0} px", self.size)
    }

    fn check(&self) -> Result<(), String> {
        let odd = |c: char| c.is_control() && c != '\n';
        if self.text.contains(odd) {
            Err("the text has characters that cannot be set".into())
        } else {
            Ok(())
        }
    }
}

impl Lettering {
    /// Letters of one colour.
    fn plain(&self, letters: &Raster) -> Raster {
        let mut base = Raster::zeros(letters.window(), 4);
        for (plane, v) in base.planes_mut().into_iter().zip(rgba(self.colour, self.opacity)) {
            plane.iter_mut().zip(letters.plane(0)).for_each(|(p, inside)| *p = v * inside);
        }
        base
    }
}

impl Lettering {
    /// How it is set at a scale where lengths are `k` times as long.
    fn setting(&self, k: f32) -> Setting {
        Setting {
            size: self.size * k,
            later: self.later,
            lines: self.lines.iter().map(OwnLine::set).collect(),
            tracking: self.tracking,
            leading: self.leading,
            align: match self.align {
                LetteringAlign::Left => Align::Left,
                LetteringAlign::Centre => Align::Centre,
                LetteringAlign::Right => Align::Right,
            },
            arc: self.arc * k,
        }
    }
}

/// Where its middle lies on a frame.
fn middle_of(frame: Window) -> Vec2 {
    Vec2::new(frame.x as f32, frame.y as f32) + 0.5 * Vec2::new(frame.width as f32, frame.height as f32)
}

impl Made for Lettering {
    fn height(&self, _: Window) -> Option<f32> {
        Some(self.size)
    }

    fn carets(&self, frame: Window, bytes: ReadFile<'_>) -> Result<Vec<[Vec2; 2]>, ShotError> {
        let file = self.file.as_ref().filter(|_| self.font == LetteringFont::File).map(bytes).transpose()?;
        let Some(font) = self.font.shipped().map(ShippedFont::bytes).or(file.as_deref().map(Vec::as_slice))
        else {
            return Ok(Vec::new());
        };
        let carets = Font::read(font)?.carets(&self.text, &self.setting(1.0))?;
        Ok(carets.into_iter().map(|ends| ends.map(|p| p + middle_of(frame))).collect())
    }

    fn draw(&self, inputs: &Inputs<'_>) -> Result<Raster, ShotError> {
        let (frame, cancel) = (inputs.window, inputs.cancel);
        let bytes = match (self.font.shipped(), &self.file) {
            (Some(font), _) => font.bytes(),
            (None, Some(file)) => inputs.file(file).unwrap_or_default(),
            (None, None) => return Err(inputs.wrong("it has no font file yet; choose one")),
        };
        let (setting, middle) = (self.setting(inputs.px(1.0)), middle_of(frame));
        let path = Font::read(bytes)?.outlines(&self.text, &setting)?.mapped(|p| p + middle);
        let letters = path.filled(frame, Rule::NonZero, cancel)?;
        let around: Vec<Ring> = self.rings.iter().map(|r| r.at(inputs.px(1.0))).collect();
        let base = match filling(inputs)? {
            Some(picture) => filled(letters.plane(0), picture, self.opacity),
            None => self.plain(&letters),
        };
        Ok(rings(&base, &letters, &around, cancel)?)
    }
}
