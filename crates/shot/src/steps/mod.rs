//! Kinds of step. A new kind is one file here and one line in the list at its end: the serde enum, its
//! schema, the deck's controls, the dispatch and [`catalogue`] follow from that.

mod blur;
mod cast_shadow;
mod choke;
mod colour;
mod curves;
mod distance;
mod edge;
mod edge_light;
mod emboss;
mod exposure;
mod gloss;
mod glow;
mod graded_blur;
mod grain;
mod grid;
mod haze;
mod lens;
mod light_wrap;
mod map;
mod match_light;
mod motion_blur;
mod outline;
mod pass_over;
mod place;
mod rays;
mod recolour;
mod refocus;
mod relight;
mod retexture;
mod reveal;
mod shaping;
mod sharpen;
mod soft_shadow;
mod surround;
mod vignette;
mod warp;

pub use blur::{Blur, BlurForm};
pub use cast_shadow::CastShadow;
pub use choke::Choke;
pub use colour::Colour;
pub use curves::Curves;
pub use distance::Distance;
pub use edge_light::EdgeLight;
pub use emboss::Emboss;
pub use exposure::Exposure;
pub use gloss::{Gloss, GlossOn};
pub use glow::Glow;
pub use graded_blur::{BlurPoint, GradedBlur};
pub use grain::Grain;
pub use grid::{Grid, GridPoint};
pub use haze::{Haze, HazeColour};
pub use lens::{LensBend, LensFrom, LensLine, LensModel, LensUnit, LensWay};
pub use light_wrap::LightWrap;
pub use map::{CoordinateMap, MapFrom, MapWay};
pub use match_light::MatchLight;
pub use motion_blur::{MotionBlur, Opens};
pub use outline::Outline;
pub use pass_over::{Channel, Laid, PassOver};
pub use place::{Place, PlacedBy};
pub use rays::Rays;
pub use recolour::Recolour;
pub use refocus::{BlurBy, Refocus, Shows};
pub use relight::{AlbedoFrom, Relight};
pub use retexture::{LitBy, Retexture};
pub use reveal::{Keeps, Reveal};
pub use shaping::Shaping;
pub use sharpen::Sharpen;
pub use soft_shadow::{ShadowFalls, SoftShadow};
pub use surround::{Surround, SurroundFrom};
pub use vignette::Vignette;
pub use warp::{PushedEllipse, SmearStroke, Warp};

use crate::error::ShotError;
use crate::inputs::{Found, Inputs};
use crate::joins::Joins;
use crate::kinds::{Kind, kinds};
use crate::wants::Want;
use jugata_core::colour::blend::BlendMode;
use jugata_core::geometry::chain::Move;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::{Raster, Role, Window};
use schemars::JsonSchema;
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

/// A pass that is read for its role.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, TS)]
pub struct Reads {
    /// Its role.
    pub role: Role,
    /// Whether it cannot be done without.
    pub required: bool,
}

impl Reads {
    /// Those among some wants.
    pub fn of(wants: &[Want]) -> Vec<Self> {
        wants.iter().filter_map(Want::role).map(|(role, required)| Self { role, required }).collect()
    }
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

/// A kind of step as the interface and the documentation see it.
#[derive(Clone, Debug, Serialize, TS)]
pub struct KindInfo {
    /// Name in documents.
    pub kind: &'static str,
    /// Where it stands in the list of changes.
    pub group: Group,
    /// Word for people.
    pub title: &'static str,
    /// One sentence.
    pub about: &'static str,
    /// A new step's parameters.
    pub defaults: StepKind,
    /// How a new step joins.
    pub joins: Joins,
    /// Whether it moves the picture.
    pub moves: bool,
    /// Whether it tells what it found out.
    pub tells: bool,
    /// Passes it reads with those parameters.
    pub reads: Vec<Reads>,
    /// JSON Schema of the parameters, in order, with `x-` notes for controls.
    #[ts(type = "ObjectSchema")]
    pub schema: serde_json::Value,
}

fn tell<T: Change + Default + JsonSchema>(kind: &'static str, defaults: StepKind) -> KindInfo {
    let own = T::default();
    KindInfo {
        kind,
        group: own.group(),
        title: own.about().title,
        about: own.about().about,
        joins: own.joins(),
        moves: own.is_move(),
        tells: own.tells_of_itself(),
        reads: Reads::of(&own.wants()),
        schema: schemars::schema_for!(T).to_value(),
        defaults,
    }
}

kinds! {
    /// A step's kind with its parameters.
    StepKind of Change, tell tells KindInfo;
    /// Light added to the rendered surface.
    Relight => "relight",
    /// Light shaped by the axes of the normals.
    Shaping => "shaping",
    /// Light from all around.
    Surround => "surround",
    /// The light of one element brought to another.
    MatchLight => "match_light",
    /// The shadow of another element.
    CastShadow => "cast_shadow",
    /// Another texture on a rendered thing.
    Retexture => "retexture",
    /// Highlight and shadow along a bevel.
    Emboss => "emboss",
    /// What a bevel mirrors.
    Gloss => "gloss",
    /// A rim of light.
    EdgeLight => "edge_light",
    /// Light of what lies behind.
    LightWrap => "light_wrap",
    /// Rings of colour along an edge.
    Outline => "outline",
    /// A shadow behind or within.
    SoftShadow => "soft_shadow",
    /// The edge drawn in, with colours from inside.
    Choke => "choke",
    /// The picture put somewhere.
    Place => "place",
    /// What a lens does to straight lines, taken off or put on.
    LensBend => "lens",
    /// The picture moved as a coordinate map says.
    CoordinateMap => "coordinate_map",
    /// Soft pushes and smears.
    Warp => "warp",
    /// A grid of points that are dragged.
    Grid => "grid",
    /// Focus set again.
    Refocus => "refocus",
    /// Blur by what moves.
    MotionBlur => "motion_blur",
    /// Air between the camera and the surface.
    Haze => "haze",
    /// Grading that grows with distance.
    Distance => "distance",
    /// What lies before or behind a depth.
    Reveal => "reveal",
    /// A pass laid over the picture.
    PassOver => "pass_over",
    /// Brighter or darker.
    Exposure => "exposure",
    /// Contrast, saturation, warmth, hues.
    Colour => "colour",
    /// Tone by points.
    Curves => "curves",
    /// Brightness through three colours.
    Recolour => "recolour",
    /// An even blur.
    Blur => "blur",
    /// A blur from place to place.
    GradedBlur => "graded_blur",
    /// Darker toward the edges.
    Vignette => "vignette",
    /// Grain.
    Grain => "grain",
    /// Light that spreads.
    Glow => "glow",
    /// Light drawn out along lines.
    Rays => "rays",
    /// Fine detail brought out.
    Sharpen => "sharpen",
}
