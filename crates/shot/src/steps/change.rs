//! What a kind of step can do.

use crate::error::ShotError;
use crate::inputs::{Found, Inputs};
use crate::joins::Joins;
use crate::kinds::Kind;
use crate::wants::Want;
use jugata_core::colour::blend::BlendMode;
use jugata_core::geometry::chain::Move;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::{Raster, Window};
use serde::Serialize;
use ts_rs::TS;

/// How far around a window a step looks.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Reach {
    /// This many full-resolution px; 0 for a change of each pixel by itself.
    Px(f32),
    /// This many px of whatever scale is asked for.
    OwnPx(u32),
    /// Every pixel of the frame.
    WholeFrame,
}

/// What a change gives back, RGBA, premultiplied, on the picture's window.
#[derive(Clone, Debug)]
pub enum Effect {
    /// A new picture with its own coverage.
    Replace(Raster),
    /// Something laid over the picture, with its own coverage.
    Over(Raster),
    /// Light that is added; coverage stays the picture's.
    Light(Raster),
}

/// Where a step puts the picture.
#[derive(Clone, Debug, PartialEq)]
pub struct Moves {
    /// From the picture before it to the picture after it.
    pub by: Move,
    /// How the picture is read.
    pub kernel: Kernel,
}

/// What a move is told on.
#[derive(Clone, Copy, Debug)]
pub struct Ground<'a> {
    /// The element's own frame, full-resolution px.
    pub frame: Window,
    /// What was found of what it asks for: whole passes at full resolution, in the render's own geometry.
    pub found: &'a [(Want, Found)],
}

/// A place, and how far what was solved is off there; full-resolution px.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, TS)]
pub struct Miss {
    /// The place.
    pub at: [f32; 2],
    /// How far off, right and down.
    pub by: [f32; 2],
}

/// What a kind of step does to a picture.
pub trait Change: Kind {
    /// Where it stands in the list of changes.
    fn group(&self) -> Group;
    /// How a new step of the kind joins.
    fn joins(&self) -> Joins {
        Joins::of(BlendMode::Normal)
    }
    /// How far it looks around; not at all, if not said.
    fn reach(&self) -> Reach {
        Reach::Px(0.0)
    }
    /// Whether it looks at its own matte (*Only where*), and not only is mixed by it.
    fn sees_its_limit(&self) -> bool {
        false
    }
    /// The motion blur that it is, which elements in one space can be given together, after they have met.
    fn exposes(&self) -> Option<&super::MotionBlur> {
        None
    }
    /// Whether it moves the picture instead of changing it: then `moves` is asked, and not `apply`.
    fn is_move(&self) -> bool {
        false
    }
    /// Where it moves the picture.
    ///
    /// # Errors
    /// What is wrong, as a sentence without its place.
    fn moves(&self, on: &Ground<'_>) -> Result<Moves, String> {
        let _ = on;
        Err("it moves nothing".into())
    }
    /// Whether `tells` has something to say.
    fn tells_of_itself(&self) -> bool {
        self.is_move()
    }
    /// What it found out, a sentence each: of what was solved.
    fn tells(&self, on: &Ground<'_>) -> Vec<String> {
        let _ = on;
        Vec::new()
    }
    /// Where what was solved does not fit what it was solved from, full-resolution px.
    fn misses(&self, on: &Ground<'_>) -> Vec<Miss> {
        let _ = on;
        Vec::new()
    }
    /// If what it brings is light, the numbers of the lamps that are lit: each is handed off as a layer. None of a light that
    /// has no lamps.
    fn lights(&self) -> Option<Vec<u32>> {
        None
    }
    /// What it makes of the picture so far (RGBA, linear, premultiplied, on the inputs' window), before it is joined.
    ///
    /// # Errors
    /// Missing inputs, shapes, cancellation.
    fn apply(&self, picture: &Raster, inputs: &Inputs<'_>) -> Result<Effect, ShotError> {
        let _ = inputs;
        Ok(Effect::Replace(picture.clone()))
    }
}

/// Headings of the list of changes, in the order of the work.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, TS)]
pub enum Group {
    /// Lamps, surroundings, shape by light.
    Light,
    /// Textures on what is rendered.
    #[serde(rename = "Surface")]
    Surface,
    /// Bevels, outlines and shadows along an edge.
    #[serde(rename = "Relief and edges")]
    Edge,
    /// Where the picture lies.
    Place,
    /// Sharpness, haze, distance.
    #[serde(rename = "Focus and air")]
    Air,
    /// Exposure and passes laid over.
    Finish,
}
