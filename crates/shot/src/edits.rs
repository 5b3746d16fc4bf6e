//! Edits by address: what is sent when a document changes, and how two people's changes to one shot are put together.
//!
//! An address names a place in a document by names and by numbers that stay, joined by `/`:
//! `elements/1/steps/3/does/lamps/2/intensity`. Things in a list are named by their `id`, never by their place in it; a
//! list whose things have none is one value. The empty address is the whole document.

use crate::address::{found_mut, id_of, named};
use crate::check;
use crate::document::{Frames, Shot};
use crate::error::ShotError;
use crate::resolve;
use crate::tracks;
use serde::{Deserialize, Deserializer, Serialize};
use serde_json::{Map, Value};
use ts_rs::TS;

/// One edit: something put, moved or removed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, TS)]
#[serde(deny_unknown_fields)]
pub struct EditAt {
    /// Where.
    pub at: String,
    /// The value that is put there; nothing removes what is there, or moves it if `after` is told.
    #[serde(default, skip_serializing_if = "Option::is_none", deserialize_with = "even_null")]
    #[ts(optional, type = "unknown")]
    pub put: Option<Value>,
    /// For one of a list: the number of the one that it comes after; 0 puts it first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub after: Option<u32>,
}

/// A null is a value that is put.
fn even_null<'de, D: Deserializer<'de>>(from: D) -> Result<Option<Value>, D::Error> {
    Value::deserialize(from).map(Some)
}

/// Most edits of one request.
pub const MOST_EDITS: usize = 4096;

impl EditAt {
    fn moves(&self) -> bool {
        self.put.is_none() && self.after.is_some()
    }

    fn removes(&self) -> bool {
        self.put.is_none() && self.after.is_none()
    }

    /// Whether both cannot be had: one changes what the other changes or takes away.
    fn meets(&self, other: &Self) -> bool {
        let (mut a, mut b) = (self.at.split('/').peekable(), other.at.split('/').peekable());
        if self.at.is_empty() || other.at.is_empty() {
            return true;
        }
        while let (Some(x), Some(y)) = (a.peek(), b.peek()) {
            if x != y {
                return false;
            }
            a.next();
            b.next();
        }
        let same = a.peek().is_none() && b.peek().is_none();
        // Moving something in its list leaves what it is.
        match (self.moves(), other.moves()) {
            (true, true) => same,
            (true, false) => other.removes() && b.peek().is_none(),
            (false, true) => self.removes() && a.peek().is_none(),
            (false, false) => true,
        }
    }
}

/// Whether any of some edits cannot be had together with any of some others.
pub fn meet(mine: &[EditAt], theirs: &[EditAt]) -> bool {
    mine.iter().any(|a| theirs.iter().any(|b| a.meets(b)))
}

/// A shot with some edits, checked. A sequence whose files an edit does not tell keeps those that it has.
///
/// # Errors
/// An address that leads nowhere; what comes out is no sound document.
pub fn edited(shot: &Shot, edits: &[EditAt]) -> Result<Shot, ShotError> {
    if edits.len() > MOST_EDITS {
        return Err(wrong("An edit", &format!("{} changes at once are more than {MOST_EDITS}", edits.len())));
    }
    let mut document = shot.as_value()?;
    edits.iter().try_for_each(|e| apply(&mut document, e))?;
    // What is removed takes along what drove it and what followed it.
    resolve::prune(&mut document, |drive| shot.drives.iter().any(|d| d.id == drive.id));
    let mut edited = check::read_value(document)?;
    edited.take_frames(shot);
    tracks::let_go(&mut edited);
    check::sound(edited)
}

/// The edits that make one shot out of another.
///
/// # Errors
/// A document that cannot be written, which no sound one is.
pub fn between(from: &Shot, to: &Shot) -> Result<Vec<EditAt>, ShotError> {
    // Only files that changed are told.
    let mut ends = [from.clone(), to.clone()];
    for (end, other) in ends.iter_mut().zip([to, from]) {
        for (element, sequence) in end.sequences_mut() {
            if other.frames_of(element, sequence.id) == Some(&sequence.frames) {
                sequence.frames = Frames::default();
            }
        }
    }
    let mut edits = Vec::new();
    differ(&mut edits, "", &as_value(&ends[0])?, &as_value(&ends[1])?);
    Ok(edits)
}

fn as_value(shot: &Shot) -> Result<Value, ShotError> {
    serde_json::to_value(shot).map_err(|e| wrong("The shot", &e.to_string()))
}

fn wrong(place: &str, what: &str) -> ShotError {
    ShotError::Parameter { place: place.into(), what: what.into() }
}

fn under(at: &str, name: &str) -> String {
    if at.is_empty() { name.to_owned() } else { format!("{at}/{name}") }
}

/// Numbers of the things of a list, if all have one.
fn ids(list: &[Value]) -> Option<Vec<u64>> {
    list.iter().map(id_of).collect()
}

fn differ(edits: &mut Vec<EditAt>, at: &str, from: &Value, to: &Value) {
    match (from, to) {
        _ if from == to => {}
        (Value::Object(a), Value::Object(b)) if a.get("kind") == b.get("kind") => fields(edits, at, a, b),
        (Value::Array(a), Value::Array(b)) => match (ids(a), ids(b)) {
            (Some(was), Some(is)) => list(edits, at, (a, &was), (b, &is)),
            _ => edits.push(EditAt { at: at.into(), put: Some(to.clone()), after: None }),
        },
        _ => edits.push(EditAt { at: at.into(), put: Some(to.clone()), after: None }),
    }
}

fn fields(edits: &mut Vec<EditAt>, at: &str, from: &Map<String, Value>, to: &Map<String, Value>) {
    for (name, value) in to {
        match from.get(name) {
            Some(old) => differ(edits, &under(at, name), old, value),
            None => edits.push(EditAt { at: under(at, name), put: Some(value.clone()), after: None }),
        }
    }
    for name in from.keys().filter(|name| !to.contains_key(*name)) {
        edits.push(EditAt { at: under(at, name), put: None, after: None });
    }
}

fn list(edits: &mut Vec<EditAt>, at: &str, (a, was): (&[Value], &[u64]), (b, is): (&[Value], &[u64])) {
    let place = |id: u64| under(at, &id.to_string());
    for id in was.iter().filter(|id| !is.contains(id)) {
        edits.push(EditAt { at: place(*id), put: None, after: None });
    }
    // The list as it stands after the edits so far.
    let mut now: Vec<u64> = was.iter().copied().filter(|id| is.contains(id)).collect();
    for (i, (id, value)) in is.iter().zip(b).enumerate() {
        let after = i.checked_sub(1).map_or(Some(0), |before| u32::try_from(is[before]).ok());
        match was.iter().position(|old| old == id) {
            None => {
                now.insert(i.min(now.len()), *id);
                edits.push(EditAt { at: place(*id), put: Some(value.clone()), after });
            }
            Some(old) => {
                differ(edits, &place(*id), &a[old], value);
                if now.get(i) != Some(id) {
                    now.retain(|other| other != id);
                    now.insert(i.min(now.len()), *id);
                    edits.push(EditAt { at: place(*id), put: None, after });
                }
            }
        }
    }
}

fn apply(document: &mut Value, edit: &EditAt) -> Result<(), ShotError> {
    let gone = || wrong("An edit", &format!("there is no {} in this shot any more", edit.at));
    if edit.at.is_empty() {
        *document = edit.put.clone().ok_or_else(gone)?;
        return Ok(());
    }
    let (holder, last) = edit.at.rsplit_once('/').unwrap_or(("", &edit.at));
    match found_mut(document, holder).ok_or_else(gone)? {
        Value::Object(fields) => match &edit.put {
            Some(value) => drop(fields.insert(last.to_owned(), value.clone())),
            None => drop(fields.shift_remove(last).ok_or_else(gone)?),
        },
        Value::Array(list) => in_list(list, last, edit).ok_or_else(gone)?,
        _ => return Err(gone()),
    }
    Ok(())
}

/// Puts, moves or removes one of a list; `None` if it is not there.
fn in_list(list: &mut Vec<Value>, name: &str, edit: &EditAt) -> Option<()> {
    let old = list.iter().position(|one| named(one, name));
    let Some(after) = edit.after else {
        match (&edit.put, old) {
            (Some(value), Some(at)) => list[at] = value.clone(),
            (Some(value), None) => list.push(value.clone()),
            (None, at) => drop(list.remove(at?)),
        }
        return Some(());
    };
    let taken = old.map(|at| list.remove(at));
    let value = edit.put.clone().or(taken)?;
    // Where the one before it is gone by now, it comes last.
    let before = list.iter().position(|one| id_of(one) == Some(after.into()));
    let place = if after == 0 { 0 } else { before.map_or(list.len(), |at| at + 1) };
    list.insert(place, value);
    Some(())
}
