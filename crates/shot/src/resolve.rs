//! Values of driven parameters at a frame, in whatever order they follow each other.

use crate::address::{found, found_mut};
use crate::document::Shot;
use crate::drives::{Drive, DrivenBy, keyed};
use crate::error::ShotError;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::HashMap;
use ts_rs::TS;

/// What is wrong with the drives of a shot, wherever they lead.
///
/// # Errors
/// As [`driven`].
pub(crate) fn check_drives(shot: &Shot) -> Result<(), ShotError> {
    if shot.drives.is_empty() { Ok(()) } else { driven(shot, 0.0).map(drop) }
}

fn wrong(place: &str, what: impl Into<String>) -> ShotError {
    ShotError::Parameter { place: format!("What drives {place}"), what: what.into() }
}

/// The shot with the values of a frame.
///
/// # Errors
/// A drive of what is not there, that fits no parameter, or that follows itself.
pub(crate) fn driven(shot: &Shot, frame: f64) -> Result<Shot, ShotError> {
    let mut document = shot.as_value()?;
    let mut course = Course::of(shot, frame);
    let mut values = Vec::new();
    for drive in &shot.drives {
        let value = course.value(&document, &drive.at)?;
        values.push((drive.at.as_str(), value));
    }
    for (at, value) in values {
        let place = found_mut(&mut document, at).ok_or_else(|| gone(at))?;
        put(place, &value).ok_or_else(|| wrong(at, "it has values of another kind"))?;
    }
    let mut driven: Shot = serde_json::from_value(document).map_err(|e| wrong("the shot", e.to_string()))?;
    driven.take_frames(shot);
    Ok(driven)
}

/// A driven parameter's value at a frame, as it would stand in the document.
#[derive(Clone, Debug, PartialEq, Serialize, TS)]
pub struct DrivenValue {
    /// Address of the parameter.
    pub at: String,
    /// The value.
    #[ts(type = "unknown")]
    pub value: Value,
    /// Its numbers without drift: what a key would hold that changes nothing.
    pub under: Vec<f32>,
}

/// The shot with the values of a frame, and these values one by one.
///
/// # Errors
/// As [`driven`].
pub fn seen(shot: &Shot, frame: i32) -> Result<(Shot, Vec<DrivenValue>), ShotError> {
    let seen = driven(shot, f64::from(frame))?;
    let document = seen.as_value()?;
    let of = |d: &Drive| {
        let value = found(&document, &d.at)?.clone();
        let mut under = numbers(&value).unwrap_or_default();
        d.take_drift(&mut under, frame);
        Some(DrivenValue { at: d.at.clone(), value, under })
    };
    let values = shot.drives.iter().filter_map(of).collect();
    Ok((seen, values))
}

/// The numbers of one driven parameter at some frames.
///
/// # Errors
/// Nothing drives it; as [`driven`].
pub fn course(shot: &Shot, at: &str, frames: impl Iterator<Item = i32>) -> Result<Vec<Vec<f32>>, ShotError> {
    let document = shot.as_value()?;
    let drive = shot.drives.iter().find(|d| d.at == at).ok_or_else(|| gone(at))?;
    frames.map(|frame| Course::of(shot, f64::from(frame)).value(&document, &drive.at)).collect()
}

/// The value that a drive would give at a frame in the place of the shot's own of that parameter.
///
/// # Errors
/// As [`driven`].
pub(crate) fn value_of(shot: &Shot, drive: &Drive, frame: i32) -> Result<Vec<f32>, ShotError> {
    let mut course = Course::of(shot, f64::from(frame));
    course.drives.insert(drive.at.as_str(), drive);
    course.value(&shot.as_value()?, &drive.at)
}

/// Takes out the drives that a change left without their parameter, or without the one that they follow. `kept` tells of a
/// drive by its number whether it was sound before: one that never was is left to be refused.
pub(crate) fn prune(document: &mut Value, kept: impl Fn(&Drive) -> bool) {
    let Some(Ok(drives)) = document.get("drives").map(Vec::<Drive>::deserialize) else { return };
    let stands = |at: &str| found(document, at).and_then(numbers);
    let sound = |d: &Drive| {
        let Some(own) = stands(&d.at) else { return false };
        match &d.by {
            None => true,
            Some(DrivenBy::Keys { keys }) => keys.iter().all(|k| k.value.len() == own.len()),
            Some(DrivenBy::Link { to, .. }) => stands(to).is_some_and(|other| other.len() == own.len()),
        }
    };
    let lost: Vec<u32> = drives.iter().filter(|d| kept(d) && !sound(d)).map(|d| d.id).collect();
    if let Some(Value::Array(list)) = document.get_mut("drives") {
        list.retain(|d| {
            d.get("id").and_then(Value::as_u64).is_none_or(|id| !lost.iter().any(|l| u64::from(*l) == id))
        });
    }
}

fn gone(at: &str) -> ShotError {
    wrong(at, "there is no such parameter")
}

/// The values of a frame, found in whatever order the links ask for them.
struct Course<'a> {
    drives: HashMap<&'a str, &'a Drive>,
    shot: &'a Shot,
    frame: f64,
    known: HashMap<String, Vec<f32>>,
    /// Addresses whose values are being found: meeting one again is a circle.
    under_way: Vec<String>,
}

impl<'a> Course<'a> {
    fn of(shot: &'a Shot, frame: f64) -> Self {
        let drives = shot.drives.iter().map(|d| (d.at.as_str(), d)).collect();
        Self { drives, shot, frame, known: HashMap::new(), under_way: Vec::new() }
    }

    fn value(&mut self, document: &Value, at: &str) -> Result<Vec<f32>, ShotError> {
        if let Some(known) = self.known.get(at) {
            return Ok(known.clone());
        }
        let own = found(document, at).and_then(numbers).ok_or_else(|| gone(at))?;
        let Some(drive) = self.drives.get(at).copied() else { return Ok(own) };
        if self.under_way.iter().any(|a| a == at) {
            return Err(wrong(at, "it follows itself by its links"));
        }
        self.under_way.push(at.to_owned());
        let mut value = match &drive.by {
            None => own.clone(),
            Some(DrivenBy::Keys { keys }) => keyed(keys, self.frame, self.shot.turns(at)),
            Some(DrivenBy::Link { to, times, plus }) => {
                self.value(document, to)?.iter().map(|v| v * times + plus).collect()
            }
        };
        self.under_way.pop();
        if value.len() != own.len() {
            return Err(wrong(at, format!("{} values do not fit a parameter of {}", value.len(), own.len())));
        }
        if let Some(drift) = drive.drift {
            for (c, v) in value.iter_mut().enumerate() {
                *v = (f64::from(*v) + drift.at(self.frame, c)) as f32;
            }
        }
        self.known.insert(at.to_owned(), value.clone());
        Ok(value)
    }
}

/// The numbers of a parameter: one, some, a switch as 0 or 1, or those of a path one place after the other.
pub(crate) fn numbers(value: &Value) -> Option<Vec<f32>> {
    match value {
        Value::Number(n) => Some(vec![n.as_f64()? as f32]),
        Value::Bool(b) => Some(vec![f32::from(u8::from(*b))]),
        Value::Array(list) if !list.is_empty() => {
            Some(list.iter().map(numbers).collect::<Option<Vec<_>>>()?.concat())
        }
        _ => None,
    }
}

/// Puts numbers into a parameter's place, as the kind that stands there.
fn put(place: &mut Value, value: &[f32]) -> Option<()> {
    *place = like(place, value)?;
    Some(())
}

/// Numbers as the kind of value that stands in their place.
pub(crate) fn like(old: &Value, value: &[f32]) -> Option<Value> {
    let mut rest = value.iter().copied();
    let new = alike(old, &mut rest)?;
    rest.next().is_none().then_some(new)
}

fn alike(old: &Value, rest: &mut impl Iterator<Item = f32>) -> Option<Value> {
    let number = |v: f32| serde_json::Number::from_f64(f64::from(v)).map(Value::Number);
    Some(match old {
        Value::Bool(_) => Value::Bool(rest.next()? >= 0.5),
        Value::Number(n) if n.is_u64() => Value::from(rest.next()?.round().max(0.0) as u64),
        Value::Number(_) => number(rest.next()?)?,
        Value::Array(list) => list.iter().map(|one| alike(one, rest)).collect::<Option<_>>()?,
        _ => return None,
    })
}
