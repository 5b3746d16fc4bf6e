//! What somebody changes while a frame is seen: a parameter that has keys gets a key at that frame, one that follows another
//! follows it a little higher or lower, and what drifts drifts around the new value.

use crate::address::found;
use crate::document::Shot;
use crate::drives::{Drive, DrivenBy, Goes, Key};
use crate::edits::EditAt;
use crate::error::ShotError;
use crate::resolve;
use crate::values::DriveValue;
use serde_json::json;

/// Edits as they are meant while a frame is seen: what puts a value where something drives it changes what drives it.
///
/// # Errors
/// A value of several numbers that follows another parameter; a path with more or fewer places than its keys have.
pub fn on_frame(shot: &Shot, edits: Vec<EditAt>, frame: i32) -> Result<Vec<EditAt>, ShotError> {
    if shot.drives.is_empty() {
        return Ok(edits);
    }
    let mut all = Vec::with_capacity(edits.len());
    for edit in edits {
        all.extend(stands_still(shot, &edit, frame)?);
        all.extend(meant(shot, edit, frame)?);
    }
    Ok(all)
}

/// Where an edit takes a drive away, the value that is seen goes into the document.
fn stands_still(shot: &Shot, edit: &EditAt, frame: i32) -> Result<Option<EditAt>, ShotError> {
    let gone = shot
        .drives
        .iter()
        .find(|d| edit.put.is_none() && edit.after.is_none() && edit.at == format!("drives/{}", d.id));
    let Some(drive) = gone else { return Ok(None) };
    let (_, values) = resolve::seen(shot, frame)?;
    Ok(values.into_iter().find(|v| v.at == drive.at).map(|v| EditAt {
        at: v.at,
        put: Some(v.value),
        after: None,
    }))
}

fn meant(shot: &Shot, edit: EditAt, frame: i32) -> Result<Vec<EditAt>, ShotError> {
    let drive = shot.drives.iter().find(|d| d.at == edit.at);
    let value = edit.put.as_ref().and_then(DriveValue::of);
    let (Some(drive), Some(mut value)) = (drive, value) else { return Ok(vec![edit]) };
    drive.take_drift(&mut value, frame);
    match &drive.by {
        None => {
            // As the kind that stands there: what was sent may be a whole number by chance.
            let document = shot.as_value()?;
            let plain = found(&document, &edit.at).and_then(|old| value.like(old));
            Ok(vec![EditAt { put: plain.or(edit.put), ..edit }])
        }
        Some(DrivenBy::Keys { keys }) => {
            let unfit = keys.iter().find(|k| !k.value.fits(&value));
            let Some(other) = unfit else {
                return Ok(vec![with_keys(drive, &set(keys, frame, value))]);
            };
            let bent = bent(shot, drive, keys, frame, value.numbers())?;
            let keys = bent.ok_or_else(|| unfit_for(drive, &other.value, &value))?;
            // The path that stands in the document is as long as those of its keys.
            Ok(vec![edit, with_keys(drive, &keys)])
        }
        Some(DrivenBy::Link { plus, .. }) => {
            let still = Drive { drift: None, ..drive.clone() };
            let follows = resolve::value_of(shot, &still, frame)?;
            let ([want], [now]) = (value.numbers(), follows.numbers()) else {
                return Err(ShotError::Parameter {
                    place: format!("What drives {}", drive.at),
                    what: "it follows another parameter; take the link off to set it".into(),
                });
            };
            let at = format!("drives/{}/by/plus", drive.id);
            Ok(vec![EditAt { at, put: Some(json!(plus + want - now)), after: None }])
        }
    }
}

fn with_keys(drive: &Drive, keys: &[Key]) -> EditAt {
    let by = json!({ "kind": "keys", "keys": keys });
    EditAt { at: format!("drives/{}/by", drive.id), put: Some(by), after: None }
}

fn unfit_for(drive: &Drive, own: &DriveValue, new: &DriveValue) -> ShotError {
    let (own, new) = (own.said(), new.said());
    ShotError::Parameter {
        place: format!("What drives {}", drive.at),
        what: format!("its keys hold {own} each, and {new} do not fit; take its keys off first"),
    }
}

/// Keys of a path that gets a place or loses one: each key's path gets one on the same stretch, or loses the same one, and
/// the frame that is seen gets a key of the path as it was put. `None` if they differ in more.
fn bent(
    shot: &Shot,
    drive: &Drive,
    keys: &[Key],
    frame: i32,
    new: &[f32],
) -> Result<Option<Vec<Key>>, ShotError> {
    let (document, still) = (shot.as_value()?, Drive { drift: None, ..drive.clone() });
    let is_path = found(&document, &drive.at).is_some_and(|v| v.pointer("/0/0").is_some());
    let seen = resolve::value_of(shot, &still, frame)?;
    let (old, _) = seen.numbers().as_chunks::<2>();
    let (places, _) = new.as_chunks::<2>();
    let bend = if is_path { Bend::between(old, places) } else { None };
    let Some(bend) = bend else { return Ok(None) };
    let keys: Vec<Key> = keys
        .iter()
        .map(|k| Key { value: bend.of(k.value.numbers().as_chunks::<2>().0).into(), ..k.clone() })
        .collect();
    Ok(Some(set(&keys, frame, new.to_vec().into())))
}

/// What makes a path of one place more or less out of another.
enum Bend {
    /// A place comes before the one of a number, as far between its neighbours as this share.
    Gets(usize, f32),
    /// The place of a number goes.
    Loses(usize),
}

impl Bend {
    fn between(old: &[[f32; 2]], new: &[[f32; 2]]) -> Option<Self> {
        // What was seen and sent back differs by its rounding at most.
        let same = |a: &[f32; 2], b: &[f32; 2]| (a[0] - b[0]).abs().max((a[1] - b[1]).abs()) < 1e-3;
        let all_same = |a: &[[f32; 2]], b: &[[f32; 2]]| a.iter().zip(b).all(|(a, b)| same(a, b));
        let first = old.iter().zip(new).position(|(a, b)| !same(a, b));
        let at = first.unwrap_or(old.len().min(new.len()));
        if new.len() == old.len() + 1 && !old.is_empty() && all_same(&old[at..], &new[at + 1..]) {
            let (a, b) = ends(old, at);
            let way = [b[0] - a[0], b[1] - a[1]];
            let length = way[0] * way[0] + way[1] * way[1];
            let along = (new[at][0] - a[0]) * way[0] + (new[at][1] - a[1]) * way[1];
            let share = if length > 0.0 { (along / length).clamp(0.0, 1.0) } else { 0.5 };
            return Some(Self::Gets(at, share));
        }
        (old.len() == new.len() + 1 && all_same(&old[at + 1..], &new[at..])).then_some(Self::Loses(at))
    }

    fn of(&self, path: &[[f32; 2]]) -> Vec<f32> {
        let mut path = path.to_vec();
        match *self {
            Self::Gets(at, share) if !path.is_empty() => {
                let (a, b) = ends(&path, at);
                path.insert(at, [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share]);
            }
            Self::Loses(at) if at < path.len() => drop(path.remove(at)),
            _ => {}
        }
        path.concat()
    }
}

/// The places on both sides of a new one, of a path that comes back to its start.
fn ends(path: &[[f32; 2]], at: usize) -> ([f32; 2], [f32; 2]) {
    let before = at.checked_sub(1).unwrap_or(path.len() - 1);
    (path[before], path[at % path.len()])
}

/// Keys with one at a frame set, or added; it goes on as the one before it does.
fn set(keys: &[Key], frame: i32, value: DriveValue) -> Vec<Key> {
    let (mut keys, frame) = (keys.to_vec(), frame as f32);
    let at = keys.partition_point(|k| k.frame < frame);
    match keys.get_mut(at).filter(|k| k.frame == frame) {
        Some(key) => key.value = value,
        None => {
            let goes = at.checked_sub(1).map_or(Goes::default(), |before| keys[before].goes);
            keys.insert(at, Key { frame, value, goes });
        }
    }
    keys
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::document::{Element, Step};
    use crate::drives::Drift;
    use crate::edits::edited;
    use crate::limit::{Limit, MattePart};
    use crate::made::Solid;
    use crate::params::settle;
    use crate::parts::{FacingPart, PartKind, PolygonPart};
    use crate::steps::Exposure;
    use jugata_core::Window;

    const AT: &str = "elements/1/steps/1/does/stops";

    /// An element with two exposures, the first of them driven.
    fn shot(by: Option<DrivenBy>, drift: Option<Drift>) -> Shot {
        let mut shot = Shot {
            format: crate::document::FORMAT,
            name: "Keys".into(),
            display: Window::of_size(16, 9),
            frames: None,
            rate: 24.0,
            elements: Vec::new(),
            drives: Vec::new(),
        };
        let mut element = Element::made(1, "Grey".into(), Solid::default().into());
        element.steps =
            vec![Step::new(1, Exposure::default().into()), Step::new(2, Exposure::default().into())];
        shot.elements = vec![element];
        shot.drives = vec![Drive { id: 4, at: AT.into(), by, drift }];
        shot
    }

    fn put(value: f32) -> Vec<EditAt> {
        vec![EditAt { at: AT.into(), put: Some(json!(value)), after: None }]
    }

    fn stops(shot: &Shot, frame: i32) -> f64 {
        let still = crate::still::Still::of(shot, frame).unwrap();
        let document = serde_json::to_value(&*still).unwrap();
        found(&document, AT).unwrap().as_f64().unwrap()
    }

    fn after(shot: &Shot, value: f32, frame: i32) -> Shot {
        edited(shot, &on_frame(shot, put(value), frame).unwrap()).unwrap()
    }

    #[test]
    fn a_value_that_has_keys_gets_one_at_the_frame() {
        let key = |frame, value| Key { frame, value: vec![value].into(), goes: Goes::Linear };
        let keyed = shot(Some(DrivenBy::Keys { keys: vec![key(1.0, 0.0), key(9.0, 2.0)] }), None);
        let twice = after(&after(&keyed, 5.0, 4), 3.0, 4);
        assert_eq!([1, 4, 9].map(|f| stops(&twice, f)), [0.0, 3.0, 2.0]);
        let Some(DrivenBy::Keys { keys }) = &twice.drives[0].by else { panic!("keys") };
        assert_eq!((keys.len(), keys[1].goes), (3, Goes::Linear));
        // What nothing drives is put as it was.
        let other = vec![EditAt { at: "name".into(), put: Some(json!("Other")), after: None }];
        assert_eq!(on_frame(&keyed, other.clone(), 4).unwrap(), other);
    }

    #[test]
    fn a_link_is_moved_and_drift_goes_on_around_the_new_value() {
        let link = DrivenBy::Link { to: "elements/1/steps/2/does/stops".into(), times: 2.0, plus: 1.0 };
        let drift = Some(Drift { amount: 0.5, period: 7.0, seed: 3 });
        // What a browser sends may be a whole number.
        let whole = vec![EditAt { at: AT.into(), put: Some(json!(2)), after: None }];
        let drifts = shot(None, drift);
        let moved = edited(&drifts, &on_frame(&drifts, whole, 12).unwrap()).unwrap();
        assert!((stops(&moved, 12) - 2.0).abs() < 1e-5, "{}", stops(&moved, 12));
        for by in [Some(link), None] {
            let moved = after(&shot(by, drift), -3.0, 12);
            assert!((stops(&moved, 12) + 3.0).abs() < 1e-5, "{}", stops(&moved, 12));
            assert!((stops(&moved, 15) + 3.0).abs() <= 1.0 && stops(&moved, 15) != stops(&moved, 12));
        }
    }

    #[test]
    fn a_key_of_what_lies_under_drift_changes_nothing_where_it_is_set() {
        let key = |frame, value| Key { frame, value: vec![value].into(), goes: Goes::Linear };
        let keys = vec![key(1.0, 0.0), key(9.0, 2.0)];
        let drift = Some(Drift { amount: 0.5, period: 7.0, seed: 3 });
        let drifting = shot(Some(DrivenBy::Keys { keys: keys.clone() }), drift);
        let (_, values) = resolve::seen(&drifting, 5).unwrap();
        assert!((values[0].under.numbers()[0] - 1.0).abs() < 1e-6, "{values:?}");
        let keyed = shot(Some(DrivenBy::Keys { keys: set(&keys, 5, values[0].under.clone()) }), drift);
        assert!((stops(&keyed, 5) - stops(&drifting, 5)).abs() < 1e-6 && stops(&drifting, 5) != 1.0);
    }

    #[test]
    fn paths_edges_and_directions_of_mattes_have_keys() {
        let corners = |x: f32| vec![[x, 0.0], [x + 4.0, 0.0], [x, 5.0]];
        let by = [
            PartKind::from(PolygonPart { corners: corners(1.0), soft: 0.0 }),
            FacingPart { toward: [1.0, 0.0, 0.0], within: 10.0, until: 30.0 }.into(),
        ];
        let mut moving = shot(None, None);
        let mut limit = Limit { parts: by.into_iter().map(MattePart::new).collect(), ..Limit::default() };
        settle(&mut limit.parts);
        moving.elements[0].steps[0].only_where = Some(limit);
        let keys = |from: Vec<f32>, to: Vec<f32>| {
            let key = |frame, value: Vec<f32>| Key { frame, value: value.into(), goes: Goes::Linear };
            Some(DrivenBy::Keys { keys: vec![key(1.0, from), key(3.0, to)] })
        };
        let at = |rest: &str| format!("elements/1/steps/1/only_where/{rest}");
        let drive = |id, rest, by| Drive { id, at: at(rest), by, drift: None };
        moving.drives = vec![
            drive(1, "parts/1/by/corners", keys(corners(1.0).concat(), corners(3.0).concat())),
            drive(2, "parts/2/by/toward", keys(vec![1.0, 0.0, 0.0], vec![0.0, 0.0, 1.0])),
            drive(3, "finish/grow", keys(vec![0.0], vec![8.0])),
        ];
        let still = crate::still::Still::of(&moving, 2).unwrap();
        let limit = still.elements[0].steps[0].only_where.clone().unwrap();
        let PartKind::PolygonPart(PolygonPart { corners: seen, .. }) = &limit.parts[0].by else {
            panic!("a polygon")
        };
        assert_eq!(*seen, corners(2.0));
        let PartKind::FacingPart(FacingPart { toward, .. }) = limit.parts[1].by else {
            panic!("a direction")
        };
        assert!(
            (toward[0] - toward[2]).abs() < 1e-6 && (toward[0] - 0.5f32.sqrt()).abs() < 1e-6,
            "along the sphere"
        );
        assert_eq!(limit.finish.grow, 4.0);
        // A corner moved in the picture is a key of the whole path.
        let put = |corners: Vec<[f32; 2]>| {
            vec![EditAt { at: at("parts/1/by/corners"), put: Some(json!(corners)), after: None }]
        };
        let moved = edited(&moving, &on_frame(&moving, put(corners(7.0)), 2).unwrap()).unwrap();
        let Some(DrivenBy::Keys { keys }) = &moved.drives[0].by else { panic!("keys") };
        assert_eq!((keys.len(), keys[1].value.numbers()), (3, corners(7.0).concat().as_slice()));
        // Another corner comes to every key, as far between its neighbours, and goes again; three more fit none.
        let put_at = |shot: &Shot, corners: Vec<[f32; 2]>| {
            edited(shot, &on_frame(shot, put(corners), 2).unwrap()).unwrap()
        };
        let seen_at = |shot: &Shot, frame| {
            let still = crate::still::Still::of(shot, frame).unwrap();
            let document = serde_json::to_value(&*still).unwrap();
            DriveValue::of(found(&document, &at("parts/1/by/corners")).unwrap()).unwrap()
        };
        let mut four = corners(2.0);
        four.insert(1, [3.0, -1.0]);
        let bent = put_at(&moving, four.clone());
        assert_eq!(seen_at(&bent, 2).numbers(), four.concat());
        assert_eq!(seen_at(&bent, 1).numbers(), [1.0, 0.0, 2.0, 0.0, 5.0, 0.0, 1.0, 5.0]);
        let three = put_at(&bent, [&four[..2], &four[3..]].concat());
        assert_eq!(seen_at(&three, 3).numbers(), [3.0, 0.0, 4.0, 0.0, 3.0, 5.0]);
        let more = [corners(7.0), corners(9.0)].concat();
        assert!(on_frame(&moving, put(more), 2).unwrap_err().to_string().contains("take its keys off"));
    }

    #[test]
    fn what_nothing_moves_any_more_keeps_the_value_that_is_seen() {
        let key = |frame, value| Key { frame, value: vec![value].into(), goes: Goes::Linear };
        let keyed = shot(Some(DrivenBy::Keys { keys: vec![key(1.0, 0.0), key(9.0, 2.0)] }), None);
        let gone = vec![EditAt { at: "drives/4".into(), put: None, after: None }];
        let still = edited(&keyed, &on_frame(&keyed, gone, 5).unwrap()).unwrap();
        assert!(still.drives.is_empty() && [1, 9].map(|f| stops(&still, f)) == [1.0, 1.0]);
    }

    #[test]
    fn what_is_removed_takes_along_what_drove_it_or_followed_it() {
        let link = DrivenBy::Link { to: "elements/1/steps/2/does/stops".into(), times: 1.0, plus: 0.0 };
        let linked = shot(Some(link), None);
        for step in [1, 2] {
            let gone = [EditAt { at: format!("elements/1/steps/{step}"), put: None, after: None }];
            assert!(edited(&linked, &gone).unwrap().drives.is_empty(), "{step}");
        }
        // A drive of what never was is refused.
        let wrong = json!({ "id": 9, "at": "elements/1/steps/7/does/stops", "by": { "kind": "keys", "keys": [{ "frame": 1, "value": [1] }] } });
        let put = [EditAt { at: "drives/9".into(), put: Some(wrong), after: Some(4) }];
        assert!(edited(&linked, &put).is_err());
    }

    #[test]
    fn choices_and_texts_hold_their_words_between_keys() {
        let key =
            |frame, words: &str| Key { frame, value: DriveValue::Words(words.into()), goes: Goes::Smooth };
        let keyed = |at: &str, keys: Vec<Key>| {
            let mut shot = shot(None, None);
            shot.drives =
                vec![Drive { id: 1, at: at.into(), by: Some(DrivenBy::Keys { keys }), drift: None }];
            shot
        };
        let blend = "elements/1/steps/1/joins/blend";
        let moves = keyed(blend, vec![key(1.0, "screen"), key(5.0, "multiply")]);
        crate::check::check(&moves).unwrap();
        let words = |shot: &Shot, frame| {
            let still = crate::still::Still::of(shot, frame).unwrap();
            let document = serde_json::to_value(&*still).unwrap();
            found(&document, blend).unwrap().as_str().unwrap().to_owned()
        };
        assert_eq!([1, 4, 5].map(|f| words(&moves, f)), ["screen", "screen", "multiply"]);
        // Another word while a frame is seen is a key there.
        let put = vec![EditAt { at: blend.into(), put: Some(json!("normal")), after: None }];
        let three = edited(&moves, &on_frame(&moves, put, 3).unwrap()).unwrap();
        assert_eq!([2, 3, 4, 5].map(|f| words(&three, f)), ["screen", "normal", "normal", "multiply"]);
        // What it cannot choose, a number, a name and a kind are refused in a sentence.
        let wrong = [
            (blend, key(9.0, "frobnicated")),
            (blend, Key { frame: 9.0, value: vec![1.0].into(), goes: Goes::Hold }),
            ("elements/1/name", key(1.0, "Other")),
            ("elements/1/steps/1/does/kind", key(1.0, "saturation")),
        ];
        for (at, bad) in wrong {
            let keys = if at == blend { vec![key(1.0, "screen"), bad] } else { vec![bad] };
            let said = crate::check::check(&keyed(at, keys)).unwrap_err().to_string();
            assert!(said.contains("What drives") && !said.contains("invalid"), "{said}");
        }
    }
}
