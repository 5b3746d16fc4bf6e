//! A server that is killed again and again while people edit and a renderer delivers, its media store and its database away at times:
//! what was acknowledged and what was delivered is there afterwards.
#![allow(clippy::unwrap_used)]

use crate::support::Server;
use jugata_standin::{Settings, export, render};
use jugata_store::Store;
use jugata_testkit::Postgres;
use serde_json::{Value, json};
use std::path::Path;
use std::thread::{self, sleep};
use std::time::{Duration, Instant};

/// An edit that the server said it has kept: the revision, and the exposure.
type Kept = (i32, f64);

/// Sets the exposure as fast as that is acknowledged, each time to another value, until the server is gone.
fn edit(url: &str, id: &str, from: usize) -> (Vec<Kept>, usize) {
    let agent = ureq::Agent::config_builder().timeout_global(Some(Duration::from_secs(20))).build();
    let agent = ureq::Agent::new_with_config(agent);
    let at = format!("{url}/api/shots/{id}");
    let (mut kept, mut n, mut base) = (Vec::new(), from, None::<i64>);
    loop {
        let Some(on) = base else {
            match agent.get(&at).call() {
                Ok(mut answer) => {
                    base = answer.body_mut().read_json().ok().and_then(|s: Value| s["revision"].as_i64());
                }
                Err(ureq::Error::StatusCode(_)) => sleep(Duration::from_millis(20)),
                Err(_) => return (kept, n),
            }
            continue;
        };
        n += 1;
        let stops = n as f64 / 1024.0;
        let put = json!({"at": "elements/1/steps/2/does/stops", "put": stops});
        let edit = json!({"base": on, "label": "Set exposure", "edits": [put]});
        match agent.post(format!("{at}/revisions")).send_json(&edit) {
            Ok(mut answer) => {
                let state = answer.body_mut().read_json::<Value>().ok();
                base = state.and_then(|s| s["revision"].as_i64());
                kept.extend(base.map(|r| (r as i32, stops)));
            }
            // The database is away, or the edit before was kept without its answer arriving.
            Err(ureq::Error::StatusCode(_)) => base = None,
            Err(_) => return (kept, n),
        }
    }
}

/// Writes a frame as a renderer does: under another name first.
fn deliver(folder: &Path, frame: i32) {
    let bytes = export::exr(&render(&Settings { frame, ..Settings::sized(32, 18, 1) })).unwrap();
    let part = folder.join(format!("orrery.{frame:04}.exr.part"));
    std::fs::write(&part, bytes).unwrap();
    std::fs::rename(&part, folder.join(format!("orrery.{frame:04}.exr"))).unwrap();
}

/// Numbers of the frames of the shot that a folder's files became.
fn frames(store: &Store, folder: &str) -> Option<Vec<i32>> {
    let shot = store.load(store.delivery(folder).ok()??).ok()?.shot;
    Some(shot.elements.first()?.sequences.first()?.frames.iter().map(|f| f.number).collect())
}

/// With `JUGATA_KILLS` so many kills; the figure is in FIDELITY.
#[test]
fn whenever_it_is_killed_no_edit_and_no_frame_is_lost() {
    let kills = std::env::var("JUGATA_KILLS").ok().and_then(|n| n.parse::<usize>().ok()).unwrap_or(4);
    let postgres = Postgres::start();
    let folder = tempfile::tempdir().unwrap();
    let (drop, media) = (folder.path().join("drop"), folder.path().join("media"));
    std::fs::create_dir_all(drop.join("take")).unwrap();
    let start = || {
        let drop = ["--drop".as_ref(), drop.as_os_str()];
        Server::start_with(&postgres.url(), folder.path(), 64, &drop)
    };
    let first = start();
    let shots = first.get("/api/shots").as_array().unwrap().clone();
    let id = shots[0]["id"].as_str().unwrap().to_owned();
    first.kill();

    let (mut kept, mut n, mut delivered, mut random) = (Vec::new(), 0, 0, 11_u64);
    for round in 0..kills {
        random = random.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let server = start();
        let editing = thread::spawn({
            let (url, id) = (server.url.clone(), id.clone());
            move || edit(&url, &id, n)
        });
        delivered += 1;
        deliver(&drop.join("take"), delivered);
        let (disk, database) = (round % 7 == 1, round % 10 == 2);
        if disk {
            // A file in the place of the media: nothing can be kept, whoever runs the test.
            std::fs::rename(&media, folder.path().join("away")).unwrap();
            std::fs::write(&media, "in the way").unwrap();
        }
        if database {
            postgres.go_away();
        }
        sleep(Duration::from_millis(300 + (random >> 40) % 900));
        if disk {
            std::fs::remove_file(&media).unwrap();
            std::fs::rename(folder.path().join("away"), &media).unwrap();
        }
        if database {
            postgres.go_on();
        }
        server.kill();
        let (more, last) = editing.join().unwrap();
        kept.extend(more);
        n = last;
    }

    let server = start();
    let store = Store::connect(&postgres.url()).unwrap();
    let began = Instant::now();
    let all: Vec<i32> = (1..=delivered).collect();
    let there = || frames(&store, "take");
    while there().as_ref() != Some(&all) {
        assert!(began.elapsed() < Duration::from_secs(60), "{:?} of {delivered}", there());
        sleep(Duration::from_millis(200));
    }
    let rows = store.list().unwrap();
    assert_eq!(rows.len(), shots.len() + 1, "one folder is one shot");
    let id = rows.iter().find(|r| r.id.to_string() == id).unwrap().id;
    for (revision, stops) in &kept {
        let shot = serde_json::to_value(&*store.revision(id, *revision).unwrap()).unwrap();
        assert_eq!(shot["elements"][0]["steps"][1]["does"]["stops"], json!(stops), "revision {revision}");
    }
    assert!(kept.len() > kills, "{} edits", kept.len());
    println!("{kills} kills: {} acknowledged edits and {delivered} delivered frames, none lost", kept.len());
    server.kill();
}
