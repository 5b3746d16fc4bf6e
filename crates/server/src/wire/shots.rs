//! Shots, revisions and edits, as they are sent.

use chrono::{DateTime, Utc};
use jugata_shot::Shot;
use jugata_shot::edits::EditAt;
use jugata_shot::resolve::{self, DrivenValue};
use jugata_shot::steps::Reads;
use jugata_store::{Loaded, RevisionRow, ShotRow};
use serde::{Deserialize, Serialize};
use ts_rs::TS;
use uuid::Uuid;

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
    /// The parts of its matte in words; those of the matte with a name where it uses one alone.
    pub parts: Vec<String>,
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
                parts: s
                    .only_where
                    .as_ref()
                    .map_or_else(Vec::new, |l| l.worked_on(&e.mattes).words(&e.mattes)),
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
    /// The document, without the files of its sequences.
    pub shot: Shot,
    /// What moves, at the frame that was asked for.
    pub at_frame: AtFrame,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would bring again.
    pub redo: Option<String>,
}

impl ShotState {
    /// From what the store holds, seen at its first frame.
    pub fn new(id: Uuid, l: Loaded) -> Self {
        Self::at(id, l, None)
    }

    /// From what the store holds, seen at a frame.
    pub fn at(id: Uuid, l: Loaded, frame: Option<i32>) -> Self {
        let at_frame = AtFrame::of(&l.shot, frame);
        Self { id, revision: l.revision, shot: l.shot.without_frames(), at_frame, undo: l.undo, redo: l.redo }
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
    /// The frame that was seen; what has keys gets one there.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
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
    /// The frame that is seen; what has keys gets one there.
    #[serde(default)]
    #[ts(optional)]
    pub frame: Option<i32>,
}

/// What moves over time, at a frame.
#[derive(Debug, Default, Serialize, TS)]
pub struct AtFrame {
    /// Values of what is driven.
    pub driven: Vec<DrivenValue>,
    /// Sentences of the steps.
    pub sentences: Vec<Sentence>,
}

impl AtFrame {
    /// Of a shot at a frame, the first if not said.
    pub fn of(shot: &Shot, frame: Option<i32>) -> Self {
        let frame = frame.unwrap_or(shot.first_frame());
        // A shot that is kept is sound, so that its drives lead somewhere.
        let moved = (!shot.drives.is_empty()).then(|| resolve::seen(shot, frame).ok()).flatten();
        match moved {
            Some((seen, driven)) => Self { driven, sentences: sentences(&seen) },
            None => Self { driven: Vec::new(), sentences: sentences(shot) },
        }
    }
}

/// What is asked about a driven parameter over time.
#[derive(Debug, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct AskCourse {
    /// The shot.
    pub shot: Draft,
    /// Address of the parameter.
    pub at: String,
    /// First frame.
    pub from: i32,
    /// Last frame.
    pub to: i32,
}

/// Undo or redo.
#[derive(Debug, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct Walk {
    /// Revision at which the person sees the shot.
    pub base: i32,
}
