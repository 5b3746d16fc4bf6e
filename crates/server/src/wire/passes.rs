//! Findings and facts of passes, as they are sent.

use super::Chosen;
use jugata_core::passes::checks::{Finding, FindingKind, Remedy};
use jugata_core::{Role, Window};
use jugata_shot::document::Element;
use jugata_shot::engine::Facts;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

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
