//! What every kind of part of a matte can do.

use crate::error::ShotError;
use crate::kinds::Kind;
use crate::wants::{Want, needs};
use glam::Vec2;
use jugata_core::{Cancel, Raster, Role, Scale, ShapeError, Window};

/// Longest length and farthest place of what is drawn, px.
pub(crate) const MOST_PX: f32 = 200_000.0;

/// How a part comes about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PartFrom {
    /// Each pixel from that of a pass, at full size.
    Pass(Role),
    /// It is drawn.
    Drawing,
    /// It is another matte of its element.
    Matte(u32),
}

impl PartFrom {
    /// What a part asks for.
    pub(crate) fn wants(self) -> Vec<Want> {
        match self {
            Self::Pass(role) => vec![needs(role)],
            Self::Matte(id) => vec![Want::Matte(id)],
            Self::Drawing => Vec::new(),
        }
    }
}

/// What a part is drawn on.
#[derive(Clone, Copy, Debug)]
pub struct Canvas<'a> {
    /// The pixels that are asked for, at the scale.
    pub window: Window,
    /// How large they are.
    pub scale: Scale,
    /// Pulled when nobody wants it any more.
    pub cancel: &'a Cancel,
}

impl Canvas<'_> {
    /// A length of the document, which tells full-resolution px, in px of the canvas.
    pub fn px(&self, length: f32) -> f32 {
        self.scale.length(length)
    }

    /// A place of the document on the canvas.
    pub fn at(&self, place: [f32; 2]) -> Vec2 {
        crate::params::at_scale(place, self.scale)
    }
}

/// A kind of part of a matte. Each is read from a pass, drawn, or another matte; the other ways of making one give nothing.
pub trait Part: Kind {
    /// How it comes about.
    fn comes_from(&self) -> PartFrom;

    /// The matte of each pixel of its pass: one channel, 0..=1.
    ///
    /// # Errors
    /// The pass has too few channels.
    fn of_pass(&self, pass: &Raster) -> Result<Raster, ShapeError> {
        Ok(Raster::zeros(pass.window(), 1))
    }

    /// The matte on a canvas: one channel, 0..=1.
    ///
    /// # Errors
    /// It was given up.
    fn draw(&self, on: &Canvas<'_>) -> Result<Raster, ShotError> {
        Ok(Raster::zeros(on.window, 1))
    }

    /// In words: "object 6", "4–7.5 deep". `names` knows mattes by number.
    fn words(&self, names: &dyn Fn(u32) -> Option<String>) -> String {
        let _ = names;
        self.sentence()
    }

    /// The pass that it is read from, if from one.
    fn role(&self) -> Option<Role> {
        if let PartFrom::Pass(role) = self.comes_from() { Some(role) } else { None }
    }

    /// Whether it is drawn in the picture, and so may be held to a plane of it.
    fn is_drawn(&self) -> bool {
        self.comes_from() == PartFrom::Drawing
    }

    /// Gives another matte that it names its new number.
    fn renumber(&mut self, numbers: &dyn Fn(u32) -> Option<u32>) {
        let _ = numbers;
    }
}
