//! Kinds of step. A new kind is one file here and one line in the list at its end: the serde enum, its
//! schema, the deck's controls, the dispatch and [`catalogue`] follow from that.

mod blur;
mod cast_shadow;
mod change;
mod choke;
mod colour;
mod curves;
mod distance;
mod edge;
mod edge_light;
mod emboss;
mod exposure;
mod flow_loop;
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
pub use flow_loop::FlowLoop;
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

pub use crate::kinds::Reads;
pub use change::{Change, Effect, Ground, Group, Miss, Moves, Reach};

use crate::joins::Joins;
use crate::kinds::kinds;
use schemars::JsonSchema;
use serde::Serialize;
use ts_rs::TS;

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
    /// A still that flows in a loop.
    FlowLoop => "flow_loop",
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
