//! Revisions against a real PostgreSQL on loopback, and the media store.
#![allow(clippy::unwrap_used)]

use jugata_core::Window;
use jugata_shot::Shot;
use jugata_shot::document::{FORMAT, MediaId};
use jugata_shot::edits::EditAt;
use jugata_store::{DeliveredFile, MediaStore, Store, StoreError};
use jugata_testkit::Database;
use serde_json::json;

fn shot(name: &str) -> Shot {
    Shot {
        format: FORMAT,
        name: name.into(),
        display: Window::of_size(16, 9),
        frames: None,
        rate: 24.0,
        elements: Vec::new(),
        drives: Vec::new(),
    }
}

#[test]
fn revisions_are_a_line_that_undo_walks() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    assert!(!store.has_shots().unwrap());
    let id = store.create(&shot("one"), "Bring in").unwrap();
    let two = store.append(id, 1, "Rename", &shot("two")).unwrap();
    assert_eq!((two.revision, two.undo.as_deref(), two.redo.as_deref()), (2, Some("Rename"), None));

    // A write on anything but the head is refused and changes nothing.
    let stale = store.append(id, 1, "Too late", &shot("x")).unwrap_err();
    assert!(matches!(stale, StoreError::Stale { head: 2, base: 1 }), "{stale}");
    assert_eq!(store.load(id).unwrap().shot.name, "two");
    assert!(matches!(store.undo(id, 1), Err(StoreError::Stale { .. })));

    // Undo and redo, also through a new connection ("after a restart").
    let back = store.undo(id, 2).unwrap();
    assert_eq!((back.revision, back.shot.name.as_str(), back.redo.as_deref()), (1, "one", Some("Rename")));
    assert!(matches!(store.undo(id, 1), Err(StoreError::AtEnd { .. })));
    let again = Store::connect(&postgres.url()).unwrap();
    assert_eq!(again.load(id).unwrap().revision, 1);
    assert_eq!(again.redo(id, 1).unwrap().shot.name, "two");
    assert!(matches!(again.redo(id, 2), Err(StoreError::AtEnd { .. })));

    // An edit after undo starts a new line; the old one stays in the history.
    again.undo(id, 2).unwrap();
    let three = again.append(id, 1, "Rename", &shot("three")).unwrap();
    assert_eq!(three.revision, 3);
    let history = again.history(id).unwrap();
    let line: Vec<_> = history.iter().map(|r| (r.number, r.parent)).collect();
    assert_eq!(line, [(3, Some(1)), (2, Some(1)), (1, None)]);
    assert_eq!(again.revision(id, 2).unwrap().name, "two");
    assert_eq!(again.list().unwrap()[0].name, "three");
}

#[test]
fn of_writers_at_the_same_time_one_wins() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&shot("one"), "Bring in").unwrap();
    let ends: Vec<bool> = std::thread::scope(|s| {
        let writers: Vec<_> = (0..6)
            .map(|i| {
                s.spawn({
                    let store = store.clone();
                    move || store.append(id, 1, "Edit", &shot(&i.to_string())).is_ok()
                })
            })
            .collect();
        writers.into_iter().map(|w| w.join().unwrap()).collect()
    });
    assert_eq!(ends.iter().filter(|ok| **ok).count(), 1);
    assert_eq!(store.history(id).unwrap().len(), 2);
}

#[test]
fn unsound_documents_are_not_kept() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let bad = Shot { display: Window::of_size(0, 0), ..shot("bad") };
    assert!(matches!(store.create(&bad, "x"), Err(StoreError::Document(_))));
    let id = store.create(&shot("one"), "Bring in").unwrap();
    assert!(store.append(id, 1, "x", &bad).is_err());
    assert!(matches!(store.load(uuid::Uuid::new_v4()), Err(StoreError::Missing { what: "shot" })));
    assert_eq!(store.list().unwrap().len(), 1);
}

#[test]
fn media_are_kept_once_under_their_hash() {
    let folder = tempfile::tempdir().unwrap();
    let runtime = tokio::runtime::Builder::new_current_thread().build().unwrap();
    let media = MediaStore::local(&folder.path().join("media")).unwrap();
    runtime.block_on(async {
        let id = media.put(b"picture".to_vec()).await.unwrap();
        assert_eq!(id, MediaId::of(b"picture"));
        assert_eq!(media.put(b"picture".to_vec()).await.unwrap(), id);
        assert_eq!(media.get(&id).await.unwrap(), b"picture");
        assert!(matches!(media.get(&MediaId::of(b"x")).await, Err(StoreError::Missing { .. })));
    });
}

/// A shot of frames whose files exist by their names only.
fn sequence(last: i32) -> Shot {
    let frame = |number: i32| {
        let file = format!("a.{number}.exr");
        json!({"number": number, "media": MediaId::of(file.as_bytes()), "file": file})
    };
    let frames: Vec<_> = (1..=last).map(frame).collect();
    let element = json!({"id": 1, "name": "a", "passes": [], "steps": [],
        "sequences": [{"id": 1, "name": "a.#.exr", "frames": frames}]});
    let mut document = serde_json::to_value(shot("frames")).unwrap();
    document["elements"] = json!([element]);
    document["frames"] = json!({"first": 1, "last": last});
    serde_json::from_value(document).unwrap()
}

#[test]
fn a_change_made_while_files_arrive_keeps_both() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&sequence(1), "Bring in").unwrap();
    store.append_delivery(id, 1, "Deliver a.2.exr", &sequence(2), &[]).unwrap();
    store.append_delivery(id, 2, "Deliver a.3.exr", &sequence(3), &[]).unwrap();
    // Made on the first revision, before two frames came.
    let mine = Shot { name: "mine".into(), ..sequence(1) };
    let kept = store.append(id, 1, "Rename", &mine).unwrap();
    assert_eq!((kept.revision, kept.shot.name.as_str()), (4, "mine"));
    assert_eq!(kept.shot.elements[0].sequences[0].frames.len(), 3);
    assert_eq!(kept.undo.as_deref(), Some("Rename"));
    // A person's change in between is not carried over in silence.
    let late = store.append(id, 2, "Too late", &mine).unwrap_err();
    assert!(matches!(late, StoreError::Stale { head: 4, base: 2 }), "{late}");
    // A delivery on an older state is made anew by whoever brings it.
    assert!(matches!(store.append_delivery(id, 1, "Deliver", &mine, &[]), Err(StoreError::Stale { .. })));
}

#[test]
fn undo_and_redo_pass_over_what_arrived() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&sequence(1), "Bring in").unwrap();
    let named = |name: &str, last| Shot { name: name.into(), ..sequence(last) };
    let frames = |s: &Shot| s.elements[0].sequences[0].frames.len();
    store.append(id, 1, "Rename", &named("mine", 1)).unwrap();
    let arrived = store.append_delivery(id, 2, "Deliver", &named("mine", 2), &[]).unwrap();
    assert_eq!((arrived.revision, arrived.undo.as_deref()), (3, Some("Rename")));
    // The edit goes, the frame stays.
    let back = store.undo(id, 3).unwrap();
    assert_eq!((back.shot.name.as_str(), frames(&back.shot)), ("frames", 2));
    assert_eq!((back.undo, back.redo.as_deref()), (None, Some("Rename")));
    assert!(matches!(store.undo(id, back.revision), Err(StoreError::AtEnd { .. })), "files are no change");
    // Another frame, and the edit comes back with both.
    let next = store.append_delivery(id, back.revision, "Deliver", &named("frames", 3), &[]).unwrap();
    assert_eq!(next.redo.as_deref(), Some("Rename"));
    let again = store.redo(id, next.revision).unwrap();
    assert_eq!((again.shot.name.as_str(), frames(&again.shot)), ("mine", 3));
    assert_eq!((again.undo.as_deref(), again.redo), (Some("Rename"), None));
    // Once more round, without anything arriving: nothing is lost either way.
    let back = store.undo(id, again.revision).unwrap();
    assert_eq!((back.shot.name.as_str(), frames(&back.shot)), ("frames", 3));
    let again = store.redo(id, back.revision).unwrap();
    assert_eq!((again.shot.name.as_str(), frames(&again.shot)), ("mine", 3));
    // An edit on top, and two steps back.
    let two = store.append(id, again.revision, "Rename again", &named("yours", 3)).unwrap();
    let one = store.undo(id, two.revision).unwrap();
    assert_eq!((one.shot.name.as_str(), one.undo.as_deref()), ("mine", Some("Rename")));
    let none = store.undo(id, one.revision).unwrap();
    assert_eq!((none.shot.name.as_str(), frames(&none.shot), none.undo), ("frames", 3, None));
}

#[test]
fn a_damaged_media_file_is_healed_and_leftovers_of_a_kill_are_collected() {
    let folder = tempfile::tempdir().unwrap();
    let runtime = tokio::runtime::Builder::new_current_thread().build().unwrap();
    let media = MediaStore::local(folder.path()).unwrap();
    let id = runtime.block_on(media.put(b"picture".to_vec())).unwrap();
    let file = folder.path().join(jugata_shot::media::media_path(id.as_str()));
    for damage in [&b""[..], b"pictura"] {
        std::fs::write(&file, damage).unwrap();
        runtime.block_on(media.put(b"picture".to_vec())).unwrap();
        assert_eq!(std::fs::read(&file).unwrap(), b"picture");
    }
    let unfinished = file.with_file_name(format!("{}#1", id.as_str()));
    let other = file.with_file_name("notes#1");
    [&unfinished, &other].iter().for_each(|p| std::fs::write(p, b"pic").unwrap());
    MediaStore::local(folder.path()).unwrap().take_over().unwrap();
    assert!(!unfinished.exists() && other.exists() && file.exists());
}

#[test]
fn shots_are_kept_in_order() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&sequence(2), "Bring in").unwrap();
    // A name is a change like others; one of nothing but spaces is refused.
    let named = store.rename(id, "  hall \n ").unwrap();
    assert_eq!((named.shot.name.as_str(), named.undo.as_deref()), ("hall", Some("Rename the shot")));
    assert!(matches!(store.rename(id, " \t"), Err(StoreError::NoName)));
    let copy = store.copy(id).unwrap();
    assert_eq!(store.load(copy).unwrap().shot.name, "hall copy");
    // A revision with a name, and one that is brought back.
    store.name_revision(id, 1, Some("as it came")).unwrap();
    assert_eq!(store.history(id).unwrap()[1].name.as_deref(), Some("as it came"));
    let back = store.bring_back(id, 2, 1).unwrap();
    assert_eq!((back.revision, back.shot.name.as_str()), (3, "frames"));
    assert_eq!(store.undo(id, 3).unwrap().shot.name, "hall");
    assert!(matches!(store.bring_back(id, 1, 1), Err(StoreError::Stale { .. })));
    // Put away, deleted, and back again.
    let flags = || {
        store.list().unwrap().into_iter().find(|s| s.id == id).map(|s| (s.put_away, s.deleted_at.is_some()))
    };
    store.put_away(id, true).unwrap();
    store.delete(id, true).unwrap();
    assert_eq!(flags(), Some((true, true)));
    store.put_away(id, false).unwrap();
    store.delete(id, false).unwrap();
    assert_eq!(flags(), Some((false, false)));
    assert!(matches!(store.delete(uuid::Uuid::new_v4(), true), Err(StoreError::Missing { .. })));

    // Media: what a revision names stays, whatever the shot's state; what nothing names is found.
    let media = |name: &str| MediaId::of(name.as_bytes());
    for name in ["a.1.exr", "a.2.exr", "of nobody"] {
        store.note_media(&media(name), name, 100).unwrap();
    }
    let usage = store.usage().unwrap();
    assert_eq!((usage.files, usage.bytes, usage.unused, usage.unused_bytes), (3, 300, 1, 100));
    let later = chrono::Utc::now() + chrono::TimeDelta::hours(1);
    assert_eq!(store.unused_media(later).unwrap(), [(media("of nobody"), 100)]);
    assert_eq!(store.unused_media(later - chrono::TimeDelta::hours(3)).unwrap(), [], "it may be on its way");
    store.delete(id, true).unwrap();
    store.delete(copy, true).unwrap();
    assert_eq!(store.unused_media(later).unwrap().len(), 1);
    assert_eq!(store.forget_deleted(later).unwrap(), 2);
    assert_eq!(store.unused_media(later).unwrap().len(), 3);
    store.forget_media(&media("of nobody")).unwrap();
    assert_eq!(store.usage().unwrap().files, 2);
}

#[test]
fn what_was_delivered_is_remembered_as_it_was() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let at = |seconds| chrono::DateTime::from_timestamp(seconds, 123_000).unwrap();
    let file = |bytes, seconds| DeliveredFile {
        folder: "take".into(),
        name: "a.1.exr".into(),
        bytes,
        modified: at(seconds),
        refused: None,
    };
    store.note_delivered(&[file(10, 5)]).unwrap();
    store.note_delivered(&[file(20, 6)]).unwrap();
    assert_eq!(store.delivered().unwrap(), [file(20, 6)]);
    assert_eq!(store.delivery("take").unwrap(), None);
    // The shot of a folder comes with what made it, or not at all.
    let unsound = Shot { display: Window::of_size(0, 0), ..shot("one") };
    assert!(store.create_delivery("take", "Deliver", &unsound, &[file(30, 7)]).is_err());
    assert_eq!((store.delivery("take").unwrap(), store.delivered().unwrap()), (None, vec![file(20, 6)]));
    let id = store.create_delivery("take", "Deliver", &shot("one"), &[file(30, 7)]).unwrap();
    assert_eq!((store.delivery("take").unwrap(), store.delivered().unwrap()), (Some(id), vec![file(30, 7)]));
    // What was refused is told, until it is taken.
    let refused = DeliveredFile { refused: Some("It is cut off.".into()), ..file(40, 8) };
    store.note_delivered(std::slice::from_ref(&refused)).unwrap();
    assert_eq!(store.refused().unwrap(), [refused]);
    store.note_delivered(&[file(50, 9)]).unwrap();
    assert_eq!(store.refused().unwrap(), []);
}

#[test]
fn edits_of_two_people_to_different_things_are_both_kept() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&shot("one"), "Bring in").unwrap();
    let put = |at: &str, value: serde_json::Value| EditAt { at: at.into(), put: Some(value), after: None };
    let renamed = store.edit(id, 1, "Rename", &[put("name", "two".into())]).unwrap();
    assert_eq!((renamed.revision, renamed.shot.name.as_str()), (2, "two"));
    // Made on revision 1, as well: what the first person did stays.
    let both = store.edit(id, 1, "Set the rate", &[put("rate", 25.0.into())]).unwrap();
    assert_eq!((both.revision, both.shot.name.as_str(), both.shot.rate), (3, "two", 25.0));
    // The same thing twice is refused, and so is what would be no sound document.
    let stale = store.edit(id, 1, "Rename", &[put("name", "three".into())]).unwrap_err();
    assert!(matches!(stale, StoreError::Stale { head: 3, base: 1 }), "{stale}");
    let unsound = store.edit(id, 2, "Set the rate", &[put("rate", (-1.0).into())]).unwrap_err();
    assert!(!matches!(unsound, StoreError::Missing { .. }), "{unsound}");
    assert_eq!(store.load(id).unwrap().revision, 3);
    // Undo takes back the last of them alone.
    let undone = store.undo(id, 3).unwrap();
    assert_eq!((undone.shot.name.as_str(), undone.shot.rate), ("two", 24.0));
}
