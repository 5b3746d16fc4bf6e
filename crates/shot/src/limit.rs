//! Mattes: where a change belongs. A matte is put together of parts, then shaped at its edge.

use crate::params::{self, Identified, distinct, few, range, settle};
use jugata_core::matte::Combine;
use jugata_core::{Role, Window};
use jugata_parameters::parameters;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// The matte that limits a step.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(from = "LimitForm")]
pub struct Limit {
    /// What makes the matte, in order; none makes an empty one.
    pub parts: Vec<MattePart>,
    /// What is done to its edge.
    #[ts(optional, as = "Option<MatteEdge>")]
    pub finish: MatteEdge,
    /// Everywhere else instead.
    pub invert: bool,
}

/// A limit as a document may hold it: the first documents had one part, under the name `by`.
#[derive(Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct LimitForm {
    #[serde(default)]
    parts: Vec<MattePart>,
    #[serde(default)]
    by: Option<LimitBy>,
    #[serde(default)]
    finish: MatteEdge,
    #[serde(default)]
    invert: bool,
}

impl From<LimitForm> for Limit {
    fn from(f: LimitForm) -> Self {
        let first = f.by.map(MattePart::new);
        let mut parts: Vec<MattePart> = first.into_iter().chain(f.parts).collect();
        settle(&mut parts);
        Self { parts, finish: f.finish, invert: f.invert }
    }
}

/// A part of a matte.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct MattePart {
    /// Number that stays with it.
    #[serde(default)]
    pub id: u32,
    /// What makes it.
    pub by: LimitBy,
    /// How it joins the parts before it; the first joins an empty matte.
    #[serde(default)]
    pub joins: Combine,
    /// Everywhere else instead.
    #[serde(default)]
    pub invert: bool,
    /// The track of its element that it goes along with, if it is drawn: it is then told as of the frame of that track's
    /// region.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub held: Option<u32>,
}

impl Identified for MattePart {
    fn id(&self) -> u32 {
        self.id
    }
    fn set_id(&mut self, id: u32) {
        self.id = id;
    }
}

impl MattePart {
    /// A part that joins as one more.
    pub fn new(by: LimitBy) -> Self {
        Self { id: 0, by, joins: Combine::Or, invert: false, held: None }
    }
}

/// A matte that several steps may use.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct NamedMatte {
    /// Number that stays with it.
    pub id: u32,
    /// Name for people.
    pub name: String,
    /// The matte.
    pub matte: Limit,
}

/// What is done to the edge of a matte, in this order. Lengths in full-resolution px.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields, default)]
pub struct MatteEdge {
    /// Grown by this much, or choked if negative.
    pub grow: f32,
    /// Only a band along the edge: this far inside and outside of it.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub band: Option<[f32; 2]>,
    /// How far the edge is softened.
    pub soften: f32,
    /// What is at or below this becomes nothing.
    pub low: f32,
    /// What is at or above this becomes all.
    pub high: f32,
}

impl Default for MatteEdge {
    fn default() -> Self {
        Self { grow: 0.0, band: None, soften: 0.0, low: 0.0, high: 1.0 }
    }
}

impl MatteEdge {
    /// Whether nothing is done.
    pub fn is_nothing(&self) -> bool {
        *self == Self::default()
    }

    /// Px around a window that it looks at, in px of a scale where lengths are `k` times as long.
    pub fn reach(&self, k: f32) -> f32 {
        let band = self.band.map_or(0.0, |[a, b]| (a.max(b) * k).ceil() + 2.0);
        jugata_core::matte::edges::reach(self.grow * k, self.soften * k) + band
    }
}

/// What makes a part of a matte.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum LimitBy {
    /// Objects, by their numbers in the object ID pass.
    Objects {
        /// The numbers.
        ids: Vec<u32>,
    },
    /// Objects, by their hashed IDs: antialiased.
    Hashed {
        /// The objects.
        ids: Vec<HashedName>,
    },
    /// A range of depth with soft ends, scene units.
    Depth {
        /// Nearest fully affected depth.
        near: f32,
        /// Farthest fully affected depth.
        far: f32,
        /// Length of the ramp in front of `near`.
        near_soft: f32,
        /// Length of the ramp behind `far`.
        far_soft: f32,
    },
    /// The element itself: its alpha.
    Coverage,
    /// What faces a direction.
    Facing {
        /// The direction, camera space.
        toward: [f32; 3],
        /// Degrees away from it up to which all is affected.
        within: f32,
        /// Degrees away from it from which on nothing is.
        until: f32,
    },
    /// A range of luminance of the untouched picture, as on a screen (0 black, 1 white).
    Luminance {
        /// Lowest fully affected value.
        low: f32,
        /// Highest fully affected value.
        high: f32,
        /// Length of the ramp below `low`.
        low_soft: f32,
        /// Length of the ramp above `high`.
        high_soft: f32,
    },
    /// A range of hue of the untouched picture.
    Hue {
        /// Its middle, degrees: 0 red, 120 green, 240 blue.
        hue: f32,
        /// Its width, degrees.
        width: f32,
        /// Length of the ramp on both sides, degrees.
        soft: f32,
        /// Saturation (0..1) below which it fades.
        least: f32,
    },
    /// An ellipse. Full-resolution px.
    Ellipse {
        /// Its middle.
        centre: [f32; 2],
        /// Half its width and height.
        radii: [f32; 2],
        /// Turn against the clock, degrees.
        turned: f32,
        /// Width of its soft edge.
        soft: f32,
    },
    /// A polygon. Full-resolution px.
    Polygon {
        /// Its corners.
        corners: Vec<[f32; 2]>,
        /// Width of its soft edge.
        soft: f32,
    },
    /// From nothing to all between two places. Full-resolution px.
    Gradient {
        /// Where there is nothing yet.
        from: [f32; 2],
        /// Where there is all.
        to: [f32; 2],
    },
    /// Painted.
    Brush {
        /// The strokes, in order.
        #[serde(deserialize_with = "crate::params::listed")]
        strokes: Vec<PaintedStroke>,
    },
    /// A matte of the element by name.
    Named {
        /// Its number.
        matte: u32,
    },
}

/// An object by its hashed ID.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct HashedName {
    /// Bits of the ID.
    pub id: u32,
    /// Its name, as the file lists it; empty if it does not.
    pub name: String,
}

/// A stroke of a brush. Full-resolution px.
#[parameters(item)]
pub struct PaintedStroke {
    /// Number that stays with it.
    pub id: u32,
    /// Width of the brush.
    #[param(label = "Brush", default = 20.0, range = [0.0, 20_000.0])]
    pub size: f32,
    /// Share of its radius over which it fades.
    #[param(label = "Softness", range = [0.0, 1.0])]
    pub softness: f32,
    /// What it lays down.
    #[param(label = "Flow", default = 1.0, range = [0.0, 1.0])]
    pub flow: f32,
    /// Whether it takes away.
    pub erases: bool,
    /// Its path.
    #[param(label = "Path", range = [-MOST_PX, MOST_PX])]
    pub points: Vec<[f32; 2]>,
}

/// Most points of all strokes or corners of a matte: some hours of painting.
pub const MOST_POINTS: usize = 50_000;

/// Most pixels that all strokes of a matte may touch, each as often as the brush passes it: half a minute of computing.
const MOST_PAINT: f64 = 2e10;

/// Most parts of a matte.
const MOST_PARTS: usize = 64;

/// Longest length and farthest place in a document, px.
const MOST_PX: f32 = 200_000.0;

impl LimitBy {
    /// The pass that it is read from, if from one.
    pub fn role(&self) -> Option<Role> {
        match self {
            Self::Objects { .. } => Some(Role::ObjectId),
            Self::Hashed { .. } => Some(Role::HashedId),
            Self::Depth { .. } => Some(Role::Depth),
            Self::Facing { .. } => Some(Role::Normal),
            Self::Coverage | Self::Luminance { .. } | Self::Hue { .. } => Some(Role::Beauty),
            Self::Ellipse { .. } | Self::Polygon { .. } | Self::Gradient { .. } => None,
            Self::Brush { .. } | Self::Named { .. } => None,
        }
    }

    /// Whether it is drawn on the picture, and so may be held to a plane of it.
    pub fn is_drawn(&self) -> bool {
        matches!(
            self,
            Self::Ellipse { .. } | Self::Polygon { .. } | Self::Gradient { .. } | Self::Brush { .. }
        )
    }

    /// In words: "object 6", "4–7.5 deep". `names` knows mattes by number.
    fn words(&self, names: &dyn Fn(u32) -> Option<String>) -> String {
        match self {
            Self::Objects { ids } if ids.is_empty() => "no object yet".into(),
            Self::Objects { ids } => {
                format!("object {}", ids.iter().map(u32::to_string).collect::<Vec<_>>().join(", "))
            }
            Self::Hashed { ids } if ids.is_empty() => "no object yet".into(),
            Self::Hashed { ids } => {
                let name =
                    |h: &HashedName| if h.name.is_empty() { format!("{:08x}", h.id) } else { h.name.clone() };
                ids.iter().map(name).collect::<Vec<_>>().join(", ")
            }
            Self::Depth { near, far, .. } => format!("{near:.2}–{far:.2} deep"),
            Self::Coverage => "the element".into(),
            Self::Facing { within, .. } => format!("facing within {within:.0}°"),
            Self::Luminance { low, high, .. } => {
                format!("luminance {:.0}–{:.0} %", low * 100.0, high * 100.0)
            }
            Self::Hue { hue, .. } => format!("hue {hue:.0}°"),
            Self::Ellipse { .. } => "an ellipse".into(),
            Self::Polygon { corners, .. } => format!("a shape of {} corners", corners.len()),
            Self::Gradient { .. } => "a gradient".into(),
            Self::Brush { strokes } if strokes.is_empty() => "nothing painted yet".into(),
            Self::Brush { strokes } if strokes.len() == 1 => "1 stroke".into(),
            Self::Brush { strokes } => format!("{} strokes", strokes.len()),
            Self::Named { matte } => names(*matte).unwrap_or_else(|| "a matte that is gone".into()),
        }
    }

    /// Checks numbers and counts.
    fn check(&self) -> Result<(), String> {
        let place = |what: &str, [x, y]: [f32; 2]| {
            range(what, x, -MOST_PX, MOST_PX).and_then(|()| range(what, y, -MOST_PX, MOST_PX))
        };
        match self {
            Self::Objects { ids } => {
                few("objects", ids.len(), 256)?;
                // Numbers are kept in 32-bit float, exact below 2²⁴.
                let large = ids.iter().any(|&i| i >= 1 << 24);
                if large { Err("an object number is too large".into()) } else { Ok(()) }
            }
            Self::Hashed { ids } => {
                few("objects", ids.len(), 256)?;
                let sound =
                    |h: &HashedName| h.name.chars().count() <= 200 && !h.name.chars().any(char::is_control);
                if ids.iter().all(sound) { Ok(()) } else { Err("an object's name is not possible".into()) }
            }
            Self::Depth { near, far, near_soft, far_soft } => {
                ends([("near", *near), ("far", *far)], [*near_soft, *far_soft], 1e9)?;
                if near > far { Err("the near end lies behind the far end".into()) } else { Ok(()) }
            }
            Self::Luminance { low, high, low_soft, high_soft } => {
                ends([("the low end", *low), ("the high end", *high)], [*low_soft, *high_soft], 1e6)
            }
            Self::Facing { toward, within, until } => {
                toward.iter().try_for_each(|v| range("the direction", *v, -1e6, 1e6))?;
                range("the angle", *within, 0.0, 180.0)?;
                range("the angle", *until, 0.0, 180.0)
            }
            Self::Hue { hue, width, soft, least } => {
                range("the hue", *hue, -3600.0, 3600.0)?;
                range("the width", *width, 0.0, 360.0)?;
                range("the softness", *soft, 0.0, 360.0)?;
                range("the saturation", *least, 0.0, 1.0)
            }
            Self::Ellipse { centre, radii, turned, soft } => {
                place("the middle", *centre)?;
                radii.iter().try_for_each(|r| range("the size", *r, 0.0, MOST_PX))?;
                range("the turn", *turned, -3600.0, 3600.0)?;
                range("the softness", *soft, 0.0, MOST_PX)
            }
            Self::Polygon { corners, soft } => {
                few("corners", corners.len(), 1000)?;
                corners.iter().try_for_each(|c| place("a corner", *c))?;
                range("the softness", *soft, 0.0, MOST_PX)
            }
            Self::Gradient { from, to } => place("the start", *from).and_then(|()| place("the end", *to)),
            Self::Brush { strokes } => {
                distinct("stroke", strokes.iter().map(Identified::id))?;
                strokes.iter().try_for_each(|s| params::check(s))?;
                few("points", strokes.iter().map(|s| s.points.len()).sum(), MOST_POINTS)?;
                let work: f64 = strokes.iter().map(PaintedStroke::work).sum();
                if work > MOST_PAINT {
                    return Err(
                        "its strokes are too wide for their number of points; use fewer, or a smaller brush"
                            .into(),
                    );
                }
                Ok(())
            }
            Self::Coverage | Self::Named { .. } => Ok(()),
        }
    }
}

impl PaintedStroke {
    /// Pixels that are touched, at most: a square round each point, no larger than the largest frames.
    fn work(&self) -> f64 {
        self.points.len() as f64 * (f64::from(self.size) + 4.0).powi(2).min(1.6e7)
    }
}

fn ends(of: [(&str, f32); 2], soft: [f32; 2], most: f32) -> Result<(), String> {
    of.iter().try_for_each(|(what, v)| range(what, *v, -most, most))?;
    soft.iter().zip(of).try_for_each(|(v, (what, _))| range(&format!("{what} softness"), *v, 0.0, most))
}

impl Limit {
    /// A limit of one part.
    pub fn of(by: LimitBy) -> Self {
        Self { parts: vec![MattePart { id: 1, ..MattePart::new(by) }], ..Self::default() }
    }

    /// Everywhere else.
    pub fn inverted(self) -> Self {
        Self { invert: !self.invert, ..self }
    }

    /// The limit in words: "object 6", "not 4–7.5 deep", "Ring and a shape of 4 corners". `names` knows mattes by number.
    pub fn sentence(&self, names: &dyn Fn(u32) -> Option<String>) -> String {
        let mut text = String::new();
        for part in &self.parts {
            let words = part.by.words(names);
            let words = if part.invert { format!("not {words}") } else { words };
            text = match (text.is_empty(), part.joins) {
                (true, _) => words,
                (_, Combine::Or) => format!("{text} or {words}"),
                (_, Combine::And) => format!("{text} and {words}"),
                (_, Combine::Minus) => format!("{text} but not {words}"),
            };
        }
        if text.is_empty() {
            return if self.invert { "anywhere" } else { "nothing is chosen yet" }.into();
        }
        if self.finish.band.is_some() {
            text = format!("along the edge of {text}");
        }
        match (self.invert, self.parts.len() > 1) {
            (true, true) => format!("not ({text})"),
            (true, false) => format!("not {text}"),
            _ => text,
        }
    }

    /// Checks numbers and counts, and that named mattes are among `known`.
    ///
    /// # Errors
    /// What is wrong, as the end of a sentence.
    pub fn check(&self, known: &[u32]) -> Result<(), String> {
        few("parts of a matte", self.parts.len(), MOST_PARTS)?;
        distinct("part", self.parts.iter().map(Identified::id))?;
        for part in &self.parts {
            part.by.check()?;
            if let LimitBy::Named { matte } = part.by
                && !known.contains(&matte)
            {
                return Err(format!("there is no matte {matte} that it could use"));
            }
        }
        let f = &self.finish;
        range("the growth of a matte", f.grow, -400.0, 400.0)?;
        range("the softness of a matte", f.soften, 0.0, 400.0)?;
        f.band.iter().flatten().try_for_each(|v| range("the band of a matte", *v, 0.0, 400.0))?;
        range("the low level", f.low, -10.0, 10.0)?;
        range("the high level", f.high, -10.0, 10.0)
    }
}

/// A place in a document as one on a raster at a scale: px of the whole picture, divided by the scale's step.
pub(crate) fn at_scale([x, y]: [f32; 2], scale: jugata_core::Scale) -> glam::Vec2 {
    glam::Vec2::new(scale.length(x), scale.length(y))
}

/// The smallest window that holds both.
pub(crate) fn united(a: Window, b: Window) -> Window {
    if a.is_empty() {
        return b;
    }
    if b.is_empty() {
        return a;
    }
    Window::from_edges(
        a.x.min(b.x).into(),
        a.y.min(b.y).into(),
        a.right().max(b.right()),
        a.bottom().max(b.bottom()),
    )
}
