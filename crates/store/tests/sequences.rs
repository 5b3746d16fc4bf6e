//! Takes of thousands of frames: what a document weighs, and that no frame is lost on the way through the database.
#![allow(clippy::unwrap_used)]

use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};
use jugata_shot::Shot;
use jugata_shot::document::{FORMAT, MediaId};
use jugata_shot::edits::EditAt;
use jugata_store::{Store, StoreError};
use jugata_testkit::Database;
use serde_json::{Value, json};

const PASSES: u32 = 20;

/// A render of twenty passes, each of them a sequence of its own, from frame 1 on; the last pass may lack some.
fn take(frames: i32, of_last: i32) -> Shot {
    let frame = |pass: u32, number: i32| {
        let file = format!("hall_pass{pass:02}.{number:04}.exr");
        json!({"number": number, "media": MediaId::of(file.as_bytes()), "file": file})
    };
    let sequence = |pass: u32| {
        let last = if pass == PASSES { of_last } else { frames };
        let files: Vec<Value> = (1..=last).map(|number| frame(pass, number)).collect();
        json!({"id": pass, "name": format!("hall_pass{pass:02}.####.exr"), "frames": files})
    };
    let sequences: Vec<Value> = (1..=PASSES).map(sequence).collect();
    serde_json::from_value(json!({
        "format": FORMAT, "name": "hall", "rate": 24.0, "display": {"x": 0, "y": 0, "width": 16, "height": 9},
        "frames": {"first": 1, "last": frames},
        "elements": [{"id": 1, "name": "hall", "passes": [], "steps": [], "sequences": sequences}],
    }))
    .unwrap()
}

#[derive(QueryableByName)]
struct Found {
    #[diesel(sql_type = BigInt)]
    n: i64,
}

fn number(db: &mut PgConnection, sql: &str) -> i64 {
    diesel::sql_query(sql).get_result::<Found>(db).unwrap().n
}

#[test]
fn a_document_of_forty_thousand_files_stays_small() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let mut db = PgConnection::establish(&postgres.url()).unwrap();
    let whole = take(2000, 2000);
    let id = store.create(&take(2000, 1999), "Bring in").unwrap();
    let longest = "SELECT max(octet_length(document::text))::bigint AS n FROM revisions";
    let bytes = number(&mut db, longest);
    assert!(bytes < 24_000, "{bytes} bytes");

    // One frame that comes writes one list anew; nothing else is written twice.
    let lists = "SELECT count(*) AS n FROM frame_lists";
    let before = number(&mut db, lists);
    store.append_delivery(id, 1, "Deliver", &whole, &[]).unwrap();
    assert_eq!(number(&mut db, lists), before + 1);
    store.rename(id, "the hall").unwrap();
    assert_eq!(number(&mut db, lists), before + 1);

    // What is read is what was written, by one that has it in memory and by one that has not.
    let fresh = Store::connect(&postgres.url()).unwrap();
    for store in [&store, &fresh] {
        assert_eq!(*store.revision(id, 1).unwrap(), take(2000, 1999));
        assert_eq!(*store.revision(id, 2).unwrap(), whole);
        assert_eq!(store.load(id).unwrap().shot.elements, whole.elements);
    }
    // A list that is gone is told, and not taken for a sequence without files.
    diesel::sql_query("DELETE FROM frame_lists WHERE hash = (SELECT min(hash) FROM frame_lists)")
        .execute(&mut db)
        .unwrap();
    let torn = Store::connect(&postgres.url()).unwrap().load(id).unwrap_err();
    assert!(matches!(torn, StoreError::Missing { what: "list of frames" }), "{torn}");
}

#[test]
fn edits_keep_the_frames_that_they_do_not_tell() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&take(450, 450), "Bring in").unwrap();
    // An edit as a page makes it: it knows the sequences, and none of their files.
    let mut seen = serde_json::to_value(take(450, 450).without_frames()).unwrap();
    assert_eq!(seen["elements"][0]["sequences"][0].get("frames"), None);
    seen["elements"][0]["name"] = json!("north hall");
    let whole = EditAt { at: String::new(), put: Some(seen.clone()), after: None };
    let element = EditAt { at: "elements/1".into(), put: Some(seen["elements"][0].clone()), after: None };
    for (base, edit) in [(1, whole), (2, element)] {
        let kept = store.edit(id, base, "Rename", &[edit]).unwrap().shot;
        assert_eq!(kept.elements[0].name, "north hall");
        assert_eq!(kept.elements[0].sequences, take(450, 450).elements[0].sequences);
    }
    // A sequence that nobody knows has no files to keep.
    seen["elements"][0]["sequences"][0]["id"] = json!(77);
    let unknown = EditAt { at: String::new(), put: Some(seen), after: None };
    let refused = store.edit(id, 3, "Rename", &[unknown]).unwrap_err().to_string();
    assert!(refused.contains("a sequence of 0 files is not possible"), "{refused}");
    // Made while frames came: both stay.
    store.append_delivery(id, 3, "Deliver", &take(451, 450), &[]).unwrap();
    let rate = EditAt { at: "rate".into(), put: Some(json!(25.0)), after: None };
    let both = store.edit(id, 3, "Set the rate", &[rate]).unwrap().shot;
    assert_eq!((both.rate, both.elements[0].sequences[0].frames.len()), (25.0, 451));
}

#[test]
fn documents_of_older_builds_say_their_frames_themselves() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&take(3, 3), "Bring in").unwrap();
    let mut db = PgConnection::establish(&postgres.url()).unwrap();
    let old = serde_json::to_string(&take(5, 4)).unwrap();
    diesel::sql_query("UPDATE revisions SET document = $1::jsonb")
        .bind::<Text, _>(old)
        .execute(&mut db)
        .unwrap();
    assert_eq!(store.load(id).unwrap().shot, take(5, 4));
}

#[test]
fn lists_and_media_stay_for_as_long_as_a_revision_names_them() {
    let postgres = Database::make();
    let store = Store::connect(&postgres.url()).unwrap();
    let mut db = PgConnection::establish(&postgres.url()).unwrap();
    let (short, long) =
        (store.create(&take(2, 2), "Bring in").unwrap(), store.create(&take(3, 3), "Bring in").unwrap());
    let file = "hall_pass01.0003.exr";
    store.note_media(&MediaId::of(file.as_bytes()), file, 100).unwrap();
    assert_eq!(store.usage().unwrap().unused, 0);
    let later = chrono::Utc::now() + chrono::TimeDelta::hours(1);
    for (gone, lists, unused) in [(long, PASSES, 1), (short, 0, 1)] {
        store.delete(gone, true).unwrap();
        assert_eq!(store.forget_deleted(later).unwrap(), 1);
        assert_eq!(number(&mut db, "SELECT count(*) AS n FROM frame_lists"), i64::from(lists));
        assert_eq!(store.usage().unwrap().unused, unused);
    }
}
