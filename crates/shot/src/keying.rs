//! What somebody changes while a frame is seen: a parameter that has keys gets a key at that frame, one that follows another
//! follows it a little higher or lower, and what drifts drifts around the new value.

use crate::address::found;
use crate::document::Shot;
use crate::drives::{Drive, DrivenBy, Goes, Key};
use crate::edits::EditAt;
use crate::error::ShotError;
use crate::resolve;
use serde_json::{Value, json};

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
        all.push(meant(shot, edit, frame)?);
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

fn meant(shot: &Shot, edit: EditAt, frame: i32) -> Result<EditAt, ShotError> {
    let drive = shot.drives.iter().find(|d| d.at == edit.at);
    let numbers = edit.put.as_ref().and_then(resolve::numbers);
    let (Some(drive), Some(mut value)) = (drive, numbers) else { return Ok(edit) };
    drive.take_drift(&mut value, frame);
    let put = |at: String, put: Value| EditAt { at, put: Some(put), after: None };
    Ok(match &drive.by {
        None => {
            // As the kind that stands there: what was sent may be a whole number by chance.
            let document = shot.as_value()?;
            let plain = found(&document, &edit.at).and_then(|old| resolve::like(old, &value));
            EditAt { put: plain.or(edit.put), ..edit }
        }
        Some(DrivenBy::Keys { keys }) if keys.iter().any(|k| k.value.len() != value.len()) => {
            let [own, new] = [keys.first().map_or(0, |k| k.value.len()), value.len()];
            return Err(ShotError::Parameter {
                place: format!("What drives {}", drive.at),
                what: format!(
                    "its keys have {own} numbers each, and {new} do not fit; take its keys off first"
                ),
            });
        }
        Some(DrivenBy::Keys { keys }) => {
            put(format!("drives/{}/by", drive.id), json!({ "kind": "keys", "keys": set(keys, frame, value) }))
        }
        Some(DrivenBy::Link { plus, .. }) => {
            let still = Drive { drift: None, ..drive.clone() };
            let follows = resolve::value_of(shot, &still, frame)?;
            let [want, now] = [value, follows].map(|v| (v.len() == 1).then(|| v[0]));
            let (Some(want), Some(now)) = (want, now) else {
                return Err(ShotError::Parameter {
                    place: format!("What drives {}", drive.at),
                    what: "it follows another parameter; take the link off to set it".into(),
                });
            };
            put(format!("drives/{}/by/plus", drive.id), json!(plus + want - now))
        }
    })
}

/// Keys with one at a frame set, or added; it goes on as the one before it does.
fn set(keys: &[Key], frame: i32, value: Vec<f32>) -> Vec<Key> {
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
        let key = |frame, value| Key { frame, value: vec![value], goes: Goes::Linear };
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
        let key = |frame, value| Key { frame, value: vec![value], goes: Goes::Linear };
        let keys = vec![key(1.0, 0.0), key(9.0, 2.0)];
        let drift = Some(Drift { amount: 0.5, period: 7.0, seed: 3 });
        let drifting = shot(Some(DrivenBy::Keys { keys: keys.clone() }), drift);
        let (_, values) = resolve::seen(&drifting, 5).unwrap();
        assert!((values[0].under[0] - 1.0).abs() < 1e-6, "{values:?}");
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
            let key = |frame, value| Key { frame, value, goes: Goes::Linear };
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
        // A corner moved in the picture is a key of the whole path; one more corner fits no key.
        let put = |corners: Vec<[f32; 2]>| {
            vec![EditAt { at: at("parts/1/by/corners"), put: Some(json!(corners)), after: None }]
        };
        let moved = edited(&moving, &on_frame(&moving, put(corners(7.0)), 2).unwrap()).unwrap();
        let Some(DrivenBy::Keys { keys }) = &moved.drives[0].by else { panic!("keys") };
        assert_eq!((keys.len(), &keys[1].value), (3, &corners(7.0).concat()));
        let more = [corners(7.0), corners(9.0)].concat();
        assert!(on_frame(&moving, put(more), 2).unwrap_err().to_string().contains("take its keys off"));
    }

    #[test]
    fn what_nothing_moves_any_more_keeps_the_value_that_is_seen() {
        let key = |frame, value| Key { frame, value: vec![value], goes: Goes::Linear };
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
}
