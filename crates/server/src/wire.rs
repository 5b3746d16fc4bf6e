//! What goes over the wire. The web's types are made from these (`make types`).

use chrono::{DateTime, Utc};
use jugata_core::passes::checks::{Finding, FindingKind, Remedy};
use jugata_core::{Camera, Role, Window};
use jugata_shot::Shot;
use jugata_shot::document::Element;
use jugata_shot::edits::EditAt;
use jugata_shot::engine::{Facts, PassValues, Target};
use jugata_shot::intake::MediaFile;
use jugata_shot::lamp::Lamp;
use jugata_shot::look::{Look, Other};
use jugata_shot::on_body::OnShape;
use jugata_shot::placing::PutLamp;
use jugata_shot::steps::Reads;
use jugata_store::{Loaded, PresetRow, RevisionRow, ShotRow, Usage};
use serde::{Deserialize, Serialize};
use ts_rs::TS;
use uuid::Uuid;

/// A failure in one sentence.
#[derive(Debug, Serialize, Deserialize, TS)]
pub struct Refusal {
    /// The sentence.
    pub error: String,
}

/// A shot in the list.
#[derive(Debug, Serialize, TS)]
pub struct ShotSummary {
    /// Number.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Revision at which it stands.
    pub revision: i32,
    /// When it was made.
    pub created_at: DateTime<Utc>,
    /// When it last changed.
    pub changed_at: DateTime<Utc>,
    /// Whether it is out of the way.
    pub put_away: bool,
    /// Whether it is deleted; it can be brought back.
    pub deleted: bool,
}

impl From<ShotRow> for ShotSummary {
    fn from(r: ShotRow) -> Self {
        Self {
            id: r.id,
            name: r.name,
            revision: r.head,
            created_at: r.created_at,
            changed_at: r.changed_at,
            put_away: r.put_away,
            deleted: r.deleted_at.is_some(),
        }
    }
}

/// What of a shot in the list changes; what is not said stays.
#[derive(Debug, Default, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields, default)]
pub struct Arrange {
    /// Its name.
    #[ts(optional)]
    pub name: Option<String>,
    /// Whether it is out of the way.
    #[ts(optional)]
    pub put_away: Option<bool>,
    /// Whether it is deleted.
    #[ts(optional)]
    pub deleted: Option<bool>,
}

/// What the media store holds.
#[derive(Debug, Serialize, TS)]
pub struct MediaUsage {
    /// Files.
    #[ts(type = "number")]
    pub files: i64,
    /// Their bytes.
    #[ts(type = "number")]
    pub bytes: i64,
    /// Files that nothing names.
    #[ts(type = "number")]
    pub unused: i64,
    /// Their bytes.
    #[ts(type = "number")]
    pub unused_bytes: i64,
}

impl From<Usage> for MediaUsage {
    fn from(u: Usage) -> Self {
        Self { files: u.files, bytes: u.bytes, unused: u.unused, unused_bytes: u.unused_bytes }
    }
}

/// The sentence of a step.
#[derive(Debug, Serialize, TS)]
pub struct Sentence {
    /// Element.
    pub element: u32,
    /// Step.
    pub step: u32,
    /// What it does.
    pub text: String,
    /// Passes that it reads beside the picture.
    pub reads: Vec<Reads>,
}

/// The sentences of all steps of a shot.
pub fn sentences(shot: &Shot) -> Vec<Sentence> {
    let of = |e: &jugata_shot::Element| {
        e.steps
            .iter()
            .map(|s| Sentence {
                element: e.id,
                step: s.id,
                text: s.sentence(&e.mattes),
                reads: Reads::of(&s.does.kind().wants()),
            })
            .collect::<Vec<_>>()
    };
    shot.elements.iter().flat_map(of).collect()
}

/// A shot as it stands.
#[derive(Debug, Serialize, TS)]
pub struct ShotState {
    /// Number.
    pub id: Uuid,
    /// Revision.
    pub revision: i32,
    /// The document.
    pub shot: Shot,
    /// Sentences of its steps.
    pub sentences: Vec<Sentence>,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would bring again.
    pub redo: Option<String>,
}

impl ShotState {
    /// From what the store holds.
    pub fn new(id: Uuid, l: Loaded) -> Self {
        let sentences = sentences(&l.shot);
        Self { id, revision: l.revision, shot: l.shot, sentences, undo: l.undo, redo: l.redo }
    }
}

/// A revision in the history.
#[derive(Debug, Serialize, TS)]
pub struct RevisionSummary {
    /// Number.
    pub number: i32,
    /// Revision it was made on.
    pub parent: Option<i32>,
    /// What was done.
    pub label: String,
    /// When.
    pub made_at: DateTime<Utc>,
    /// Whether it brought files only.
    pub delivered: bool,
    /// The name that somebody gave it.
    pub name: Option<String>,
}

impl From<RevisionRow> for RevisionSummary {
    fn from(r: RevisionRow) -> Self {
        let RevisionRow { number, parent, label, made_at, delivered, name } = r;
        Self { number, parent, label, made_at, delivered, name }
    }
}

/// A revision that is brought back.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct BringBack {
    /// Where the shot stands.
    pub base: i32,
}

/// An edit.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Edit {
    /// Revision it was made on.
    pub base: i32,
    /// What was done, in words.
    pub label: String,
    /// What changes, by address.
    pub edits: Vec<EditAt>,
}

/// A document that is not kept: a revision with what was edited on it.
#[derive(Clone, Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Draft {
    /// The shot.
    pub id: Uuid,
    /// Revision that it was edited on.
    pub base: i32,
    /// What changes, by address.
    pub edits: Vec<EditAt>,
}

/// Undo or redo.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Walk {
    /// Revision at which the person sees the shot.
    pub base: i32,
}

/// A shot that changed because files arrived.
#[derive(Debug, Clone, Serialize, TS)]
pub struct News {
    /// The shot.
    pub shot: Uuid,
    /// Revision at which it stands.
    pub revision: i32,
    /// What arrived, in words.
    pub words: String,
}

/// The drop folder.
#[derive(Debug, Clone, Serialize, TS)]
pub struct Delivery {
    /// Its path; none if the server watches no folder.
    pub folder: Option<String>,
    /// What could not be taken, a sentence each, the newest first.
    pub refused: Vec<String>,
}

/// Asks how far two pictures are apart.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Compare {
    /// The picture.
    pub target: Target,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// The other.
    pub other: Other,
}

/// How far two pictures are apart, clipped to 0..1 and encoded as sRGB.
#[derive(Debug, Clone, Serialize, TS)]
pub struct Figures {
    /// Peak signal-to-noise ratio, dB; none if they are equal.
    pub psnr: Option<f64>,
    /// Mean structural similarity; none for tiny pictures.
    pub ssim: Option<f64>,
    /// Largest difference, in codes of 255.
    pub largest: f64,
}

/// A picture of a document that is not saved: the value while dragging.
#[derive(Debug, Clone, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Preview {
    /// The document.
    pub shot: Draft,
    /// What to make a picture of.
    pub look: Look,
}

/// Numbers under the crosshair.
#[derive(Debug, Serialize, TS)]
pub struct Probe {
    /// Every pass.
    pub passes: Vec<PassValues>,
    /// The shot's picture there: linear RGBA.
    pub result: Vec<f32>,
    /// The element's picture before all steps: linear RGBA.
    pub untouched: Vec<f32>,
}

/// A click that places a lamp.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct PlaceLamp {
    /// The document as it stands.
    pub shot: Shot,
    /// Element.
    pub element: u32,
    /// The relight.
    pub step: u32,
    /// Place of the lamp in its list.
    pub lamp: usize,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// Full-resolution px.
    pub x: i32,
    /// Full-resolution px.
    pub y: i32,
    /// How.
    pub how: PutLamp,
}

/// The lamp after the click.
#[derive(Debug, Serialize, TS)]
pub struct Placed {
    /// The lamp.
    pub lamp: Lamp,
}

/// A preset in the list.
#[derive(Debug, Serialize, TS)]
pub struct PresetSummary {
    /// Number.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Its steps in sentences.
    pub sentences: Vec<String>,
    /// Whether it has a picture.
    pub pictured: bool,
    /// When it was saved.
    pub made_at: DateTime<Utc>,
}

impl From<PresetRow> for PresetSummary {
    fn from(row: PresetRow) -> Self {
        let sentences = row.preset.sentences();
        Self { id: row.id, name: row.preset.name, sentences, pictured: row.pictured, made_at: row.made_at }
    }
}

/// Steps to keep under a name.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct SavePreset {
    /// The document as it stands.
    pub shot: Shot,
    /// Element.
    pub element: u32,
    /// Its steps.
    pub steps: Vec<u32>,
    /// Frame of the picture; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// Name.
    pub name: String,
}

/// Where a preset is put.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct ApplyPreset {
    /// The document as it stands.
    pub shot: Shot,
    /// Element.
    pub element: u32,
}

/// A height or normals on a simple body.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskShape {
    /// The document as it stands.
    pub shot: Shot,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
    /// What is to be seen.
    pub how: OnShape,
    /// Who asks: a newer question of the same stops this one.
    #[serde(default)]
    #[ts(optional)]
    pub viewer: Option<String>,
}

/// Whose light is wanted.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskLight {
    /// The document as it stands.
    pub shot: Shot,
    /// Element.
    pub element: u32,
    /// Frame; the first if not said.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
}

/// The light on an element.
#[derive(Debug, Serialize, TS)]
pub struct LightFound {
    /// How well it explains the brightness of what was not left out, 0..1.
    pub explained: f32,
    /// Share of the pixels that were not left out as shadow or gloss.
    pub used: f32,
    /// The nine harmonics, RGB: what a white matt surface shows.
    pub light: [[f32; 3]; 9],
}

/// A file that arrived.
#[derive(Debug, Serialize, TS)]
pub struct Arrived {
    /// What to name it by when a shot is made of it.
    pub file: MediaFile,
    /// Its format in words.
    pub format: String,
    /// Frame, px.
    pub width: u32,
    /// Frame, px.
    pub height: u32,
    /// What was noted while reading.
    pub notes: Vec<String>,
}

/// Files that become a shot, or join one.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Files {
    /// The files.
    pub files: Vec<MediaFile>,
}

/// Files that join an element.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct MoreFiles {
    /// Revision at which the person sees the shot.
    pub base: i32,
    /// The element; none makes elements of their own.
    #[serde(default)]
    #[ts(optional)]
    pub element: Option<u32>,
    /// The files.
    pub files: Vec<MediaFile>,
    /// A pass whose file, or whole sequence, they take the place of.
    #[serde(default)]
    #[ts(optional)]
    pub instead: Option<u32>,
}

/// A finding whose remedy shall be taken, by its pass and kind.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Chosen {
    /// Number of the pass.
    pub pass: u32,
    /// What was found.
    pub kind: FindingKind,
}

/// Remedies to be taken in one edit.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct TakeRemedies {
    /// Revision at which the person sees the shot.
    pub base: i32,
    /// What it is called in the history.
    pub label: String,
    /// The element.
    pub element: u32,
    /// Frame at which it was looked at.
    pub frame: i32,
    /// Whose remedies; each must still be found.
    pub findings: Vec<Chosen>,
}

/// Passes to be moved from one element to another.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct MovePasses {
    /// Revision at which the person sees the shot.
    pub base: i32,
    /// The element that has them.
    pub from: u32,
    /// Numbers of the passes.
    pub passes: Vec<u32>,
    /// The element that they belong to.
    pub to: u32,
}

/// A camera of a scene file.
#[derive(Debug, Serialize, TS)]
pub struct SceneCamera {
    /// Its name.
    pub name: String,
    /// The camera, for the frame of the shot.
    pub camera: Camera,
}

/// A finding of the checks.
#[derive(Debug, Serialize, TS)]
pub struct FindingSaid {
    /// Number of the pass.
    pub pass: u32,
    /// What was found.
    pub kind: FindingKind,
    /// Its title.
    pub title: String,
    /// How sure, 0..1.
    pub confidence: f32,
    /// What, in sentences, with the evidence.
    pub what: String,
    /// What it costs.
    pub cost: Option<String>,
    /// The words of the remedy's button.
    pub button: Option<String>,
    /// What the remedy does.
    pub remedy: Option<Remedy>,
    /// Whether there is a picture of where.
    pub has_place: bool,
    /// Whether somebody has seen it and left it so.
    pub accepted: bool,
}

/// The findings of an element.
pub fn findings(element: &Element, found: &[Finding]) -> Vec<FindingSaid> {
    let accepted = |f: &Finding| {
        element.passes.iter().find(|p| p.id == f.pass).is_some_and(|p| p.accepted.contains(&f.kind))
    };
    found
        .iter()
        .map(|f| FindingSaid {
            pass: f.pass,
            kind: f.kind,
            title: f.kind.label().into(),
            confidence: f.confidence,
            what: f.what.clone(),
            cost: f.cost.clone(),
            button: f.remedy.as_ref().map(|(words, _)| words.clone()),
            remedy: f.remedy.as_ref().map(|(_, does)| *does),
            has_place: f.place.is_some(),
            accepted: accepted(f),
        })
        .collect()
}

/// What is known of a stored pass: where it is, how it is stored, and its range.
#[derive(Debug, Serialize, TS)]
pub struct PassFacts {
    /// Number of the pass.
    pub pass: u32,
    /// How it is stored, in words: "half, zip".
    pub stored: String,
    /// What names and values say that it is.
    pub proposed: Option<Role>,
    /// Why, in words.
    pub why: String,
    /// Names of hashed IDs, as the file lists them.
    pub names: Vec<(u32, String)>,
    /// Data window.
    pub window: Window,
    /// Smallest finite stored value.
    pub low: Option<f32>,
    /// Largest finite stored value.
    pub high: Option<f32>,
    /// How the canonical depths are spread: shares of the samples in even steps from the nearest to the
    /// farthest, for depth only.
    pub histogram: Vec<f32>,
    /// The nearest and farthest canonical depth, for depth only.
    pub range: Option<[f32; 2]>,
}

impl From<Facts> for PassFacts {
    fn from(f: Facts) -> Self {
        let [low, high] = f.ends.map_or([None; 2], |e| e.map(Some));
        let (proposed, why) = match f.proposal {
            Some((role, sure, why)) => (Some(role), format!("{why} ({:.0} % sure)", sure * 100.0)),
            None => (None, String::new()),
        };
        Self {
            pass: f.pass,
            stored: f.stored,
            proposed,
            why,
            names: f.names,
            window: f.window,
            low,
            high,
            histogram: f.histogram,
            range: f.range,
        }
    }
}

/// A shot that was brought in.
#[derive(Debug, Serialize, TS)]
pub struct BroughtIn {
    /// Number of the new shot.
    pub id: Uuid,
}
