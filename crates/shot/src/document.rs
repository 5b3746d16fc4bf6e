//! The shot document: what is kept, sent and put into a shot file.

use crate::drives::Drive;
use crate::error::ShotError;
use crate::extracts::ExtractKind;
pub use crate::files::MediaId;
use crate::files::{MediaFile, plain};
pub use crate::joins::{ByDepth, Joins};
pub use crate::limit::{Limit, MatteEdge, MattePart, NamedMatte};
use crate::made::{MadeKind, drawn_id};
use crate::params::{self, Field, Parameters, Slot};
pub use crate::parts::{HashedName, PaintedStroke, PartKind};
pub use crate::sequences::{FrameRange, Frames, Sequence, SequenceFrame};
use crate::steps::{Place, StepKind};
pub use crate::tracks::track::{FollowedBy, HeldTo, PutRight, Track};
use jugata_core::passes::checks::FindingKind;
use jugata_core::passes::repair::Repair;
use jugata_core::{Camera, Convention, Role, Window};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::borrow::Cow;
use ts_rs::TS;

/// Version of the document that this build writes.
pub const FORMAT: u32 = 2;

/// The oldest form that is still read; it had no drives, no made elements and no numbers in lists.
pub const OLDEST: u32 = 1;

/// A shot: elements over each other, the first lowest.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Shot {
    /// Version of this document's form.
    pub format: u32,
    /// Name for people.
    pub name: String,
    /// The frame, full-resolution px.
    pub display: Window,
    /// First and last frame; a still has none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub frames: Option<FrameRange>,
    /// Frames a second.
    #[serde(default = "default_rate")]
    pub rate: f32,
    /// Elements, lowest first.
    pub elements: Vec<Element>,
    /// What moves parameters over time.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(optional, as = "Option<Vec<Drive>>")]
    pub drives: Vec<Drive>,
}

/// The rate of cinema, for shots that say nothing.
fn default_rate() -> f32 {
    24.0
}

/// An element: a render with its passes, or something made; and what is done to it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Element {
    /// Number that stays with the element.
    pub id: u32,
    /// Name for people.
    pub name: String,
    /// Camera of the render, if known.
    pub camera: Option<Camera>,
    /// Its passes.
    pub passes: Vec<Pass>,
    /// Passes made from others, each from those before it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub extracts: Vec<Extract>,
    /// Mattes that several steps may use, each from those before it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub mattes: Vec<NamedMatte>,
    /// What was noted when its files came in, in sentences.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
    /// Numbered files that passes take their frames from.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sequences: Vec<Sequence>,
    /// In a still, the passes that may tell where its camera stands, as they are on the first frame; nothing where
    /// the camera has no place in the world, or no pass has files of its own for other frames.
    #[serde(skip)]
    #[ts(skip)]
    pub at_first: Vec<Pass>,
    /// What it is made of, where it is no render: then it has no passes of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub made: Option<MadeKind>,
    /// Planes of its untouched picture that are followed through the shot.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[ts(optional, as = "Option<Vec<Track>>")]
    pub tracks: Vec<Track>,
    /// Changes, in the order in which they happen.
    pub steps: Vec<Step>,
    /// Where it is put over those below it, after its steps; where it is, if not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub placement: Option<Place>,
    /// The plane of another element that it goes along with; where it is put is then told as of the frame of that plane's
    /// region.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub held: Option<HeldTo>,
    /// How it meets what lies below it; over it, if not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub joins: Option<Joins>,
    /// How it stands in one space with those below it, so that at each place the nearer one hides the other; it lies over
    /// all of them, if not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub by_depth: Option<ByDepth>,
    /// Whether it is only used by others, and not seen itself.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(optional, as = "Option<bool>")]
    pub only_used: bool,
}

/// A stored pass.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Pass {
    /// Number that stays with the pass.
    pub id: u32,
    /// Name for people.
    pub name: String,
    /// What it means.
    pub role: Role,
    /// Where its samples are.
    pub source: Source,
    /// How they are stored.
    #[serde(default)]
    pub convention: Convention,
    /// What is put right before anything reads it, in order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub repairs: Vec<Repair>,
    /// Findings that somebody has seen and left as they are.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub accepted: Vec<FindingKind>,
}

/// A pass that is made from other passes, anew wherever it is needed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Extract {
    /// Number that stays with it; no stored pass of the element has the same.
    pub id: u32,
    /// Name for people.
    pub name: String,
    /// Whether steps, and extractions after it, read it for its role in the place of what was there before.
    pub serves: bool,
    /// How it is made.
    pub does: ExtractKind,
    /// Passes that it reads instead of those that serve.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub reads: Vec<ReadsPass>,
}

/// A choice of what is read for a role.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct ReadsPass {
    /// The role.
    pub role: Role,
    /// Number of the pass, stored or extracted.
    pub pass: u32,
}

/// A pass of an element: stored, extracted, or drawn by a made element.
#[derive(Clone, Copy, Debug)]
pub enum Provider<'a> {
    /// From a file.
    Stored(&'a Pass),
    /// Extracted; with its place in the list.
    Extracted(&'a Extract, usize),
    /// Drawn, since the element is made.
    Drawn(&'a MadeKind, Role),
}

impl Provider<'_> {
    /// Its number.
    pub fn id(&self) -> u32 {
        match self {
            Self::Stored(p) => p.id,
            Self::Extracted(e, _) => e.id,
            Self::Drawn(_, role) => drawn_id(*role),
        }
    }

    /// What it means.
    pub fn role(&self) -> Role {
        match self {
            Self::Stored(p) => p.role,
            Self::Extracted(e, _) => e.does.kind().gives(),
            Self::Drawn(_, role) => *role,
        }
    }

    /// Its name.
    pub fn name(&self) -> &str {
        match self {
            Self::Stored(p) => &p.name,
            Self::Extracted(e, _) => &e.name,
            Self::Drawn(_, role) => role.label(),
        }
    }
}

/// Channels of a media file.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Source {
    /// The file, by what is in it.
    pub media: MediaId,
    /// The name under which it came, so that another machine can find it beside the shot file.
    pub file: String,
    /// Part of the file.
    pub part: u32,
    /// Channel names in canonical order.
    pub channels: Vec<String>,
    /// The sequence of the element that it takes its frames from; `media` and `file` are then the first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub sequence: Option<u32>,
}

/// One change.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, TS)]
#[serde(deny_unknown_fields)]
pub struct Step {
    /// Number that stays with the step.
    pub id: u32,
    /// Whether it happens.
    pub on: bool,
    /// What it does.
    pub does: StepKind,
    /// Passes that it reads instead of those that serve.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub reads: Vec<ReadsPass>,
    /// Where it happens; everywhere if not said.
    #[serde(default)]
    pub only_where: Option<Limit>,
    /// The track of its element that it goes along with, if it moves the picture: it is then told as of the frame of that
    /// track's region.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub held: Option<u32>,
    /// How it meets the picture.
    pub joins: Joins,
}

impl Shot {
    /// The shot without the files of its sequences: no sound document by itself, but all that a page needs, and what edits
    /// are worked out on.
    #[must_use]
    pub fn without_frames(&self) -> Self {
        let mut shot = self.clone();
        shot.elements.iter_mut().flat_map(|e| &mut e.sequences).for_each(|s| s.frames = Frames::default());
        shot
    }

    /// The document as JSON without the files of its sequences: thousands of frames are not taken through JSON for a value
    /// that is dragged. [`Shot::take_frames`] puts them back.
    pub(crate) fn as_value(&self) -> Result<Value, ShotError> {
        let wrong =
            |e: serde_json::Error| ShotError::Parameter { place: "The shot".into(), what: e.to_string() };
        serde_json::to_value(self.without_frames()).map_err(wrong)
    }

    /// Gives each sequence that has no files those that it has in another state of the shot.
    pub(crate) fn take_frames(&mut self, other: &Self) {
        for (element, sequence) in self.sequences_mut().filter(|(_, s)| s.frames.is_empty()) {
            sequence.frames = other.frames_of(element, sequence.id).cloned().unwrap_or_default();
        }
    }

    /// The files of one of its sequences.
    pub(crate) fn frames_of(&self, element: u32, sequence: u32) -> Option<&Frames> {
        let sequences = &self.element(element)?.sequences;
        sequences.iter().find(|s| s.id == sequence).map(|s| &s.frames)
    }

    /// Each of its sequences, with the number of its element.
    pub(crate) fn sequences_mut(&mut self) -> impl Iterator<Item = (u32, &mut Sequence)> {
        self.elements.iter_mut().flat_map(|e| e.sequences.iter_mut().map(|s| (e.id, s)))
    }

    /// The shot as it stands at a frame: every pass of a sequence has that frame's file.
    pub fn at_frame(&self, frame: i32) -> Cow<'_, Self> {
        if self.elements.iter().all(|e| e.sequences.is_empty()) {
            return Cow::Borrowed(self);
        }
        let mut shot = self.clone();
        for element in &mut shot.elements {
            let sequences = std::mem::take(&mut element.sequences);
            if let Some(MadeKind::Picture(picture)) = &mut element.made {
                let of = sequences.iter().find(|s| Some(s.id) == picture.sequence);
                if let Some(f) = of.and_then(|s| s.at(frame)) {
                    picture.picture = Some(MediaFile { name: f.file.clone(), media: f.media.clone() });
                }
                picture.sequence = None;
            }
            element.at_first = told_at_first(element, &sequences);
            for source in element.passes.iter_mut().map(|p| &mut p.source) {
                let found =
                    sequences.iter().find(|s| Some(s.id) == source.sequence).and_then(|s| s.at(frame));
                if let Some(f) = found {
                    (source.media, source.file) = (f.media.clone(), f.file.clone());
                }
                // Its sequence is taken away above; a still that named it would not be sound.
                source.sequence = None;
            }
        }
        Cow::Owned(shot)
    }

    /// Whether the parameter at an address is a direction, which turns on its way to another.
    pub fn turns(&self, at: &str) -> bool {
        self.means(at) == "direction"
    }

    /// What the numbers at an address are where that is more than numbers; empty for none.
    pub(crate) fn means(&self, at: &str) -> &'static str {
        self.parameter(at, |field, _| field.means).unwrap_or_default()
    }

    /// Whether the parameter at an address is one of a few words.
    pub(crate) fn is_choice(&self, at: &str) -> bool {
        let joins = at.ends_with("/joins/blend") || at.ends_with("/joins/space");
        joins || self.parameter(at, |_, slot| matches!(slot, Slot::Choice)).unwrap_or(false)
    }

    /// Whether the parameter at an address is one of a few words, or a text.
    pub(crate) fn has_words(&self, at: &str) -> bool {
        let text = |_: &'static Field, slot: Slot<'_>| matches!(slot, Slot::Text(_));
        self.is_choice(at) || self.parameter(at, text).unwrap_or(false)
    }

    /// What is said of the parameter at an address of a step, an extraction, a made element or a part of a matte.
    fn parameter<T>(&self, at: &str, say: impl Fn(&'static Field, Slot<'_>) -> T) -> Option<T> {
        let names: Vec<&str> = at.split('/').collect();
        let ["elements", id, rest @ ..] = names.as_slice() else { return None };
        let element = self.element(id.parse().ok()?)?;
        let number = |name: &str| name.parse::<u32>().ok();
        let (of, path): (&dyn Parameters, &[&str]) = match rest {
            ["steps", step, "does", path @ ..] => (element.step(number(step)?)?.does.kind(), path),
            ["extracts", id, "does", path @ ..] => {
                (element.extracts.iter().find(|x| Some(x.id) == number(id))?.does.kind(), path)
            }
            ["made", path @ ..] => (element.made.as_ref()?.kind(), path),
            ["steps", step, "only_where", "parts", part, "by", path @ ..] => {
                (element.step(number(step)?)?.only_where.as_ref()?.part(number(part)?)?, path)
            }
            ["mattes", matte, "matte", "parts", part, "by", path @ ..] => {
                let matte = element.mattes.iter().find(|m| Some(m.id) == number(matte))?;
                (matte.matte.part(number(part)?)?, path)
            }
            _ => return None,
        };
        let mut said = None;
        params::at_path(of, path, &mut |field, slot| said = Some(say(field, slot)));
        said
    }

    /// The first frame; 0 for a still.
    pub fn first_frame(&self) -> i32 {
        self.frames.map_or(0, |f| f.first)
    }

    /// The elements that are seen below another one, the lowest first.
    pub(crate) fn below(&self, element: u32) -> impl Iterator<Item = &Element> {
        self.elements.iter().take_while(move |e| e.id != element).filter(|e| !e.only_used)
    }

    /// An element by number.
    pub fn element(&self, id: u32) -> Option<&Element> {
        self.elements.iter().find(|e| e.id == id)
    }

    /// An element by number, to change.
    pub fn element_mut(&mut self, id: u32) -> Option<&mut Element> {
        self.elements.iter_mut().find(|e| e.id == id)
    }
}

/// The passes of an element that may tell where its camera stands, as they are on the first frame.
fn told_at_first(element: &Element, sequences: &[Sequence]) -> Vec<Pass> {
    if element.camera.is_none_or(|c| c.world.is_none()) {
        return Vec::new();
    }
    let first = |pass: &Pass| {
        let of = sequences.iter().find(|s| Some(s.id) == pass.source.sequence)?;
        let f = of.at(i32::MIN)?;
        let source =
            Source { media: f.media.clone(), file: f.file.clone(), sequence: None, ..pass.source.clone() };
        Some(Pass { source, ..pass.clone() })
    };
    element.tells_camera().filter_map(first).collect()
}

impl Element {
    /// The passes whose files may tell where its camera stands: by their header, or by positions of the world.
    pub(crate) fn tells_camera(&self) -> impl Iterator<Item = &Pass> {
        let beauty = self.pass_of(Role::Beauty).or_else(|| self.passes.first());
        let positions = self.pass_of(Role::Position);
        beauty.into_iter().chain(positions.filter(move |p| beauty.is_none_or(|b| b.id != p.id)))
    }

    /// Notes something that was seen when files came in. What does not fit into a document is not worth a refusal.
    pub(crate) fn note(&mut self, words: String) {
        if self.notes.len() < 200 {
            self.notes.push(plain(&words, 200));
        }
    }

    /// An element without anything, but for a number and a name.
    pub fn new(id: u32, name: String) -> Self {
        Self {
            id,
            name,
            camera: None,
            passes: Vec::new(),
            extracts: Vec::new(),
            mattes: Vec::new(),
            notes: Vec::new(),
            sequences: Vec::new(),
            at_first: Vec::new(),
            made: None,
            tracks: Vec::new(),
            steps: Vec::new(),
            placement: None,
            held: None,
            joins: None,
            by_depth: None,
            only_used: false,
        }
    }

    /// A made element.
    pub fn made(id: u32, name: String, made: MadeKind) -> Self {
        Self { made: Some(made), ..Self::new(id, name) }
    }

    /// A pass by number, of any origin.
    pub fn provider(&self, id: u32) -> Option<Provider<'_>> {
        self.providers().find(|p| p.id() == id)
    }

    /// Every pass: stored or drawn ones first, then extracted ones.
    pub fn providers(&self) -> impl Iterator<Item = Provider<'_>> {
        let extracted = self.extracts.iter().enumerate().map(|(i, e)| Provider::Extracted(e, i));
        self.passes.iter().map(Provider::Stored).chain(self.drawn()).chain(extracted)
    }

    /// Passes that a made element draws.
    fn drawn(&self) -> impl Iterator<Item = Provider<'_>> {
        let of = |made: &'_ MadeKind| made.kind().offers();
        self.made.iter().flat_map(move |made| of(made).iter().map(move |role| Provider::Drawn(made, *role)))
    }

    /// What is read for a role by one that chooses `reads` and sees the first `seen` extracted passes: the chosen one,
    /// else the last extracted one that serves, else the first stored one.
    pub fn provider_of(&self, role: Role, reads: &[ReadsPass], seen: usize) -> Option<Provider<'_>> {
        let visible = |p: &Provider<'_>| match p {
            Provider::Stored(_) | Provider::Drawn(..) => true,
            Provider::Extracted(_, place) => *place < seen,
        };
        let of_role = || self.providers().filter(|p| p.role() == role).filter(visible);
        let chosen = reads.iter().find(|r| r.role == role);
        let chosen = chosen.and_then(|r| of_role().find(|p| p.id() == r.pass));
        let serving = || of_role().filter(|p| matches!(p, Provider::Extracted(e, _) if e.serves)).last();
        let first = || of_role().find(|p| !matches!(p, Provider::Extracted(..)));
        chosen.or_else(serving).or_else(first)
    }

    /// The first stored pass of a role.
    pub fn pass_of(&self, role: Role) -> Option<&Pass> {
        self.passes.iter().find(|p| p.role == role)
    }

    /// A step by number.
    pub fn step(&self, id: u32) -> Option<&Step> {
        self.steps.iter().find(|s| s.id == id)
    }

    /// A number that no step has yet.
    pub fn free_step_id(&self) -> u32 {
        self.steps.iter().map(|s| s.id).max().unwrap_or(0).saturating_add(1)
    }
}

impl Step {
    /// A step of a kind with its defaults.
    pub fn new(id: u32, does: StepKind) -> Self {
        let joins = does.kind().joins();
        Self { id, on: true, does, reads: Vec::new(), only_where: None, held: None, joins }
    }

    /// The step as a sentence without its number: "Relight from … — only where object 6".
    /// `mattes` are those of the element, which a limit may name.
    pub fn sentence(&self, mattes: &[NamedMatte]) -> String {
        let names = |id: u32| mattes.iter().find(|m| m.id == id).map(|m| m.name.clone());
        let mut text = self.does.sentence();
        if self.joins.strength != 1.0 {
            text.push_str(&format!(" at {}", percent(self.joins.strength)));
        }
        if let Some(limit) = &self.only_where {
            text.push_str(&format!(" — only where {}", limit.sentence(&names)));
        }
        text
    }
}

fn percent(v: f32) -> String {
    format!("{:.0} %", v * 100.0)
}

/// JSON Schema of the shot document.
pub fn schema() -> serde_json::Value {
    schemars::schema_for!(Shot).to_value()
}
