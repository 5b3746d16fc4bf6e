//! Values of driven parameters at a frame, in whatever order they follow each other.

use crate::address::{found, found_mut, names};
use crate::document::Shot;
use crate::drives::{Drive, DrivenBy, keyed};
use crate::error::ShotError;
use crate::unread::in_words;
use crate::values::DriveValue;
use glam::{Vec2, Vec3};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::collections::{BTreeSet, HashMap};
use ts_rs::TS;

/// What is wrong with the drives of a shot, wherever they lead.
///
/// # Errors
/// As [`driven`].
pub(crate) fn check_drives(shot: &Shot) -> Result<(), ShotError> {
    if shot.drives.is_empty() {
        return Ok(());
    }
    driven(shot, 0.0)?;
    check_words(shot)
}

/// Most different words that the keys of one choice may hold: more than any has.
const MOST_WORDS: usize = 64;

/// Refuses keys of a choice that hold none of its words. Numbers are checked with the still that they stand in.
fn check_words(shot: &Shot) -> Result<(), ShotError> {
    let mut all = Vec::new();
    for drive in shot.drives.iter().filter(|d| shot.is_choice(&d.at)) {
        let Some(DrivenBy::Keys { keys }) = &drive.by else { continue };
        let words: BTreeSet<&str> = keys.iter().filter_map(|k| k.value.words()).collect();
        if words.len() > MOST_WORDS {
            return Err(wrong(&drive.at, format!("{} words are more than it can choose of", words.len())));
        }
        all.push((drive, words.into_iter().collect::<Vec<_>>()));
    }
    // The first words of all of them together, then the second ones.
    for turn in 0..all.iter().map(|(_, words)| words.len()).max().unwrap_or(0) {
        let mut document = shot.as_value()?;
        for (drive, words) in &all {
            let Some(word) = words.get(turn) else { continue };
            let place = found_mut(&mut document, &drive.at).ok_or_else(|| gone(&drive.at))?;
            *place = Value::String((*word).to_owned());
        }
        as_shot(document)?;
    }
    Ok(())
}

/// A document with values of drives in it, as a shot.
fn as_shot(document: Value) -> Result<Shot, ShotError> {
    serde_path_to_error::deserialize(document)
        .map_err(|e| wrong(&e.path().to_string(), in_words(&e.inner().to_string())))
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
        *place = value.like(place).ok_or_else(|| wrong(at, "it has values of another kind"))?;
    }
    let mut driven = as_shot(document)?;
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
    /// The same without drift: what a key would hold that changes nothing.
    pub under: DriveValue,
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
        let mut under = DriveValue::of(&value)?;
        d.take_drift(&mut under, frame);
        Some(DrivenValue { at: d.at.clone(), value, under })
    };
    let values = shot.drives.iter().filter_map(of).collect();
    Ok((seen, values))
}

/// The values of one driven parameter at some frames.
///
/// # Errors
/// Nothing drives it; as [`driven`].
pub fn course(
    shot: &Shot,
    at: &str,
    frames: impl Iterator<Item = i32>,
) -> Result<Vec<DriveValue>, ShotError> {
    let document = shot.as_value()?;
    let drive = shot.drives.iter().find(|d| d.at == at).ok_or_else(|| gone(at))?;
    frames.map(|frame| Course::of(shot, f64::from(frame)).value(&document, &drive.at)).collect()
}

/// The value that a drive would give at a frame in the place of the shot's own of that parameter.
///
/// # Errors
/// As [`driven`].
pub(crate) fn value_of(shot: &Shot, drive: &Drive, frame: i32) -> Result<DriveValue, ShotError> {
    let mut course = Course::of(shot, f64::from(frame));
    course.drives.insert(drive.at.as_str(), drive);
    course.value(&shot.as_value()?, &drive.at)
}

/// Takes out the drives that a change left without their parameter, or without the one that they follow. `kept` tells of a
/// drive by its number whether it was sound before: one that never was is left to be refused.
pub(crate) fn prune(document: &mut Value, kept: impl Fn(&Drive) -> bool) {
    let Some(Ok(drives)) = document.get("drives").map(Vec::<Drive>::deserialize) else { return };
    let stands = |at: &str| found(document, at).and_then(DriveValue::of);
    let sound = |d: &Drive| {
        let Some(own) = stands(&d.at) else { return false };
        match &d.by {
            None => true,
            Some(DrivenBy::Keys { keys }) => keys.iter().all(|k| k.value.fits(&own)),
            Some(DrivenBy::Link { to, .. }) => stands(to).is_some_and(|other| {
                // An angle, or where something is put, may follow a direction or a place.
                other.fits(&own) || matches!((own.numbers().len(), other.numbers().len()), (1 | 2, 3))
            }),
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

/// How far out something is put that cannot be seen, px.
const OUT_OF_SIGHT: f32 = 50_000.0;

/// The values of a frame, found in whatever order the links ask for them.
struct Course<'a> {
    drives: HashMap<&'a str, &'a Drive>,
    shot: &'a Shot,
    frame: f64,
    known: HashMap<String, DriveValue>,
    /// Addresses whose values are being found: meeting one again is a circle.
    under_way: Vec<String>,
}

impl<'a> Course<'a> {
    fn of(shot: &'a Shot, frame: f64) -> Self {
        let drives = shot.drives.iter().map(|d| (d.at.as_str(), d)).collect();
        Self { drives, shot, frame, known: HashMap::new(), under_way: Vec::new() }
    }

    fn value(&mut self, document: &Value, at: &str) -> Result<DriveValue, ShotError> {
        if let Some(known) = self.known.get(at) {
            return Ok(known.clone());
        }
        let own = self.stands(document, at).ok_or_else(|| gone(at))?;
        let Some(drive) = self.drives.get(at).copied() else { return Ok(own) };
        if self.under_way.iter().any(|a| a == at) {
            return Err(wrong(at, "it follows itself by its links"));
        }
        self.under_way.push(at.to_owned());
        let mut value = match &drive.by {
            None => own.clone(),
            Some(DrivenBy::Keys { keys }) => keyed(keys, self.frame, self.shot.turns(at)),
            Some(DrivenBy::Link { to, times, plus }) => match self.followed(document, at, to)? {
                DriveValue::Numbers(all) => {
                    DriveValue::Numbers(all.iter().map(|v| v * times + plus).collect())
                }
                words => words,
            },
        };
        self.under_way.pop();
        if !own.fits(&value) {
            return Err(wrong(at, format!("{} cannot stand for {}", value.said(), own.said())));
        }
        if let (Some(drift), DriveValue::Numbers(all)) = (drive.drift, &mut value) {
            for (c, v) in all.iter_mut().enumerate() {
                *v = (f64::from(*v) + drift.at(self.frame, c)) as f32;
            }
        }
        self.known.insert(at.to_owned(), value.clone());
        Ok(value)
    }

    /// The value that a parameter follows: that of another; of an angle of light that follows where a lamp is, the angle
    /// under which the lamp is seen from the middle of the picture; of how far something is moved, the way to the lamp.
    fn followed(&mut self, document: &Value, at: &str, to: &str) -> Result<DriveValue, ShotError> {
        let value = self.value(document, to)?;
        let lamp = matches!(self.shot.means(to), "direction" | "lamp-place");
        Ok(match (self.shot.means(at), value.numbers()) {
            ("light-angle", [x, y, _]) if lamp => vec![y.atan2(*x).to_degrees()].into(),
            ("moved", [x, y, z]) if lamp => {
                let seen = self.seen(to, Vec3::new(*x, *y, *z))?;
                let anchor = at.rsplit_once('/').map(|(place, _)| format!("{place}/anchor"));
                let anchor = anchor.map(|at| self.value(document, &at)).transpose()?;
                let [ax, ay] = anchor.as_ref().map_or(&[][..], |a| a.numbers()) else { return Ok(value) };
                let frame = self.shot.display;
                let from = Vec2::new(ax * frame.width as f32, ay * frame.height as f32);
                (seen - from - Vec2::new(frame.x as f32, frame.y as f32)).to_array().to_vec().into()
            }
            _ => value,
        })
    }

    /// Where a lamp appears in the picture of its element, px: far out if it lies behind the camera.
    fn seen(&self, to: &str, lamp: Vec3) -> Result<Vec2, ShotError> {
        let element = names(to).nth(1).and_then(|id| id.parse().ok()).and_then(|id| self.shot.element(id));
        let camera = element.and_then(|e| e.camera).ok_or_else(|| {
            wrong(to, "nothing says where it is seen; give its element a focal length under Intake")
        })?;
        let away = Vec2::new(lamp.x, -lamp.y).normalize_or(Vec2::NEG_Y) * OUT_OF_SIGHT;
        let seen = camera.project(lamp).filter(|p| p.abs().max_element() < OUT_OF_SIGHT);
        Ok(seen.unwrap_or(away))
    }

    /// What stands at an address, if it is numbers, or the words of a choice or a text: no name and no kind of anything.
    fn stands(&self, document: &Value, at: &str) -> Option<DriveValue> {
        let own = found(document, at).and_then(DriveValue::of)?;
        (own.words().is_none() || self.shot.has_words(at)).then_some(own)
    }
}
