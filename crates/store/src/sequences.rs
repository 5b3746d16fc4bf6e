//! Frames of sequences, kept beside the documents in lists that are named by what is in them: revisions share them, and a
//! frame that comes writes one list anew. They are written in the transaction of the revision that names them.

use crate::error::StoreError;
use crate::schema::frame_lists;
use crate::written::written;
use diesel::connection::SimpleConnection;
use diesel::prelude::*;
use jugata_shot::document::{Frames, SequenceFrame};
use jugata_shot::{Shot, check};
use moka::sync::Cache;
use serde_json::{Map, Value};
use std::collections::{HashMap, HashSet};

/// What stands in a kept document in the place of a sequence's frames: the names of its lists.
const LISTS: &str = "frame_lists";

/// About how many bytes one frame takes in memory.
pub(crate) const FRAME: usize = 160;

/// Bytes of frames that are kept in memory.
const KEPT: u64 = 64 << 20;

/// Removes the lists that no revision names.
const FORGET: &str = "LOCK TABLE frame_lists IN EXCLUSIVE MODE; \
    DELETE FROM frame_lists WHERE hash NOT IN (SELECT list #>> '{}' FROM revisions, \
    LATERAL jsonb_path_query(document, '$.elements[*].sequences[*].frame_lists[*]') AS list)";

/// Frames that were read lately, by the names of their lists.
#[derive(Clone)]
pub(crate) struct Known(Cache<Vec<String>, Frames>);

impl Known {
    pub(crate) fn new() -> Self {
        let weigh = |names: &Vec<String>, frames: &Frames| {
            u32::try_from(names.len() * 88 + frames.len() * FRAME).unwrap_or(u32::MAX)
        };
        Self(Cache::builder().max_capacity(KEPT).weigher(weigh).build())
    }
}

/// A shot as it is kept: its frames are put into lists.
///
/// # Errors
/// A name that cannot be kept; the database.
pub(crate) fn fold(db: &mut PgConnection, shot: &Shot) -> Result<Value, StoreError> {
    let mut document = written(&shot.without_frames())?;
    if shot.elements.iter().all(|e| e.sequences.is_empty()) {
        return Ok(document);
    }
    let sequences = || shot.elements.iter().flat_map(|e| &e.sequences);
    for (kept, sequence) in sequences_of(&mut document).zip(sequences()) {
        kept.insert(LISTS.into(), sequence.frames.list_names().into());
    }
    // Lists that nothing names are removed under a lock that waits for this one, and that this one waits for.
    db.batch_execute("LOCK TABLE frame_lists IN ROW EXCLUSIVE MODE")?;
    let names: Vec<&String> = sequences().flat_map(|s| s.frames.list_names()).collect();
    let there: HashSet<String> = frame_lists::table
        .filter(frame_lists::hash.eq_any(&names))
        .select(frame_lists::hash)
        .load(db)?
        .into_iter()
        .collect();
    for frames in sequences().map(|s| &s.frames) {
        for (name, list) in
            frames.list_names().iter().zip(frames.lists()).filter(|(n, _)| !there.contains(*n))
        {
            diesel::insert_into(frame_lists::table)
                .values((frame_lists::hash.eq(name), frame_lists::frames.eq(written(&list)?)))
                .on_conflict_do_nothing()
                .execute(db)?;
        }
    }
    Ok(document)
}

/// Removes the lists that no revision names any more.
///
/// # Errors
/// The database.
pub(crate) fn forget_unnamed(db: &mut PgConnection) -> Result<(), StoreError> {
    Ok(db.batch_execute(FORGET)?)
}

/// The shot of a document that is kept, checked. Documents of older builds say their frames themselves.
///
/// # Errors
/// An unsound document; lists that are not there; the database.
pub(crate) fn unfold(db: &mut PgConnection, known: &Known, mut document: Value) -> Result<Shot, StoreError> {
    let named: Vec<Option<Vec<String>>> = sequences_of(&mut document)
        .map(|s| s.shift_remove(LISTS).and_then(|names| serde_json::from_value(names).ok()))
        .collect();
    let mut shot = check::read_value(document)?;
    let held: Vec<Option<Frames>> = named.iter().map(|names| known.0.get(names.as_ref()?)).collect();
    let wanted: HashSet<&String> = named
        .iter()
        .zip(&held)
        .filter(|(_, held)| held.is_none())
        .flat_map(|(names, _)| names)
        .flatten()
        .collect();
    let lists = if wanted.is_empty() { HashMap::new() } else { lists(db, &wanted)? };
    let sequences = shot.elements.iter_mut().flat_map(|e| &mut e.sequences);
    for (sequence, (names, held)) in sequences.zip(named.into_iter().zip(held)) {
        let Some(names) = names else { continue };
        sequence.frames = match held {
            Some(frames) => frames,
            None => {
                let frames = joined(&names, &lists)?;
                known.0.insert(names, frames.clone());
                frames
            }
        };
    }
    Ok(check::sound(shot)?)
}

fn lists(
    db: &mut PgConnection,
    names: &HashSet<&String>,
) -> Result<HashMap<String, Vec<SequenceFrame>>, StoreError> {
    let rows: Vec<(String, Value)> = frame_lists::table.filter(frame_lists::hash.eq_any(names)).load(db)?;
    rows.into_iter().map(|(name, list)| Ok((name, serde_json::from_value(list)?))).collect()
}

/// The frames of some lists, one after the other.
fn joined(names: &[String], lists: &HashMap<String, Vec<SequenceFrame>>) -> Result<Frames, StoreError> {
    let mut frames = Vec::new();
    for name in names {
        frames.extend_from_slice(lists.get(name).ok_or(StoreError::Missing { what: "list of frames" })?);
    }
    Ok(frames.into())
}

/// The sequences of all elements of a document.
fn sequences_of(document: &mut Value) -> impl Iterator<Item = &mut Map<String, Value>> {
    fn each<'v>(of: Option<&'v mut Value>) -> impl Iterator<Item = &'v mut Value> + use<'v> {
        of.and_then(Value::as_array_mut).into_iter().flatten()
    }
    each(document.get_mut("elements"))
        .flat_map(|e| each(e.get_mut("sequences")))
        .filter_map(Value::as_object_mut)
}
