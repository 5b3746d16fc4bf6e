//! Mattes: where a change belongs. A matte is put together of parts, then shaped at its edge.

use crate::params::{self, Identified, Parameters, distinct, few, settle};
use crate::parts::{PartFrom, PartInfo, PartKind, catalogue};
use jugata_core::Window;
use jugata_core::matte::Combine;
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
    by: Option<PartKind>,
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
    pub by: PartKind,
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
    pub fn new(by: impl Into<PartKind>) -> Self {
        Self { id: 0, by: by.into(), joins: Combine::Or, invert: false, held: None }
    }
}

/// What mattes are put together of, as the interface sees it.
#[derive(Clone, Debug, Serialize, TS)]
pub struct MatteInfo {
    /// Every kind of part, in the order in which a menu shows them.
    pub parts: Vec<PartInfo>,
    /// What is done to the edge of a new one: nothing.
    pub edge: MatteEdge,
    /// JSON Schema of what may be done to an edge, in order, with `x-` notes for controls.
    #[ts(type = "ObjectSchema")]
    pub edge_schema: serde_json::Value,
}

impl MatteInfo {
    /// All there is to know.
    pub fn all() -> Self {
        let edge_schema = schemars::schema_for!(MatteEdge).to_value();
        Self { parts: catalogue().to_vec(), edge: MatteEdge::default(), edge_schema }
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
#[parameters]
#[derive(Copy)]
pub struct MatteEdge {
    /// Grown by this much, or choked if negative.
    #[param(label = "Grow", range = [-400.0, 400.0], slider = [-40.0, 40.0], step = 0.25, unit = "px")]
    pub grow: f32,
    /// Only a band along the edge: this far inside and outside of it.
    #[param(label = "The band", range = [0.0, 400.0], slider = [0.0, 60.0], step = 0.25, unit = "px")]
    #[serde(skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub band: Option<[f32; 2]>,
    /// How far the edge is softened.
    #[param(label = "Soften", range = [0.0, 400.0], slider = [0.0, 60.0], step = 0.25, unit = "px")]
    pub soften: f32,
    /// What is at or below this becomes nothing.
    #[param(label = "From", range = [-10.0, 10.0], slider = [0.0, 1.0], step = 0.01)]
    pub low: f32,
    /// What is at or above this becomes all.
    #[param(label = "To", default = 1.0, range = [-10.0, 10.0], slider = [0.0, 1.0], step = 0.01)]
    pub high: f32,
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

/// Most parts of a matte.
const MOST_PARTS: usize = 64;

impl Limit {
    /// A limit of one part.
    pub fn of(by: impl Into<PartKind>) -> Self {
        Self { parts: vec![MattePart { id: 1, ..MattePart::new(by) }], ..Self::default() }
    }

    /// The matte that is worked on where this one limits a step: the one with a name that it uses alone, or itself.
    pub fn worked_on<'a>(&'a self, mattes: &'a [NamedMatte]) -> &'a Self {
        let [only] = self.parts.as_slice() else { return self };
        let PartFrom::Matte(id) = only.by.kind().comes_from() else { return self };
        let named = mattes.iter().find(|m| m.id == id && !only.invert);
        named.map_or(self, |m| &m.matte)
    }

    /// Each of its parts in words.
    pub fn words(&self, mattes: &[NamedMatte]) -> Vec<String> {
        let names = |id| mattes.iter().find(|m| m.id == id).map(|m| m.name.clone());
        self.parts.iter().map(|p| p.by.kind().words(&names)).collect()
    }

    /// The parameters of one of its parts, by its number.
    pub(crate) fn part(&self, id: u32) -> Option<&dyn Parameters> {
        let part = self.parts.iter().find(|p| p.id == id)?;
        Some(part.by.kind())
    }

    /// Everywhere else.
    pub fn inverted(self) -> Self {
        Self { invert: !self.invert, ..self }
    }

    /// The limit in words: "object 6", "not 4–7.5 deep", "Ring and a shape of 4 corners". `names` knows mattes by number.
    pub fn sentence(&self, names: &dyn Fn(u32) -> Option<String>) -> String {
        let mut text = String::new();
        for part in &self.parts {
            let words = part.by.kind().words(names);
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
            if let PartFrom::Matte(matte) = part.by.kind().comes_from()
                && !known.contains(&matte)
            {
                return Err(format!("there is no matte {matte} that it could use"));
            }
        }
        params::check(&self.finish)
    }
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
