//! Frames that a renderer delivers while the disk or the database fails: none is lost. Pages of every server hear of them.
#![allow(clippy::unwrap_used)]

use jugata_server::wire::News;
use jugata_server::{App, Config, arrivals, delivery, open};
use jugata_standin::Settings;
use jugata_testkit::Postgres;
use rocket::tokio::sync::broadcast::Receiver;
use rocket::tokio::time::{Duration, sleep, timeout};
use std::path::Path;
use std::sync::Arc;

const SMALL: Settings = Settings::sized(32, 18, 1);

/// Delivers frames as a renderer does that writes under the final name.
fn deliver(folder: &Path, frames: std::ops::RangeInclusive<i32>) {
    std::fs::create_dir_all(folder).unwrap();
    for frame in frames {
        let picture = jugata_standin::render(&Settings { frame, ..SMALL });
        let bytes = jugata_standin::export::exr(&picture).unwrap();
        std::fs::write(folder.join(format!("orrery.{frame:04}.exr")), bytes).unwrap();
    }
}

async fn until(what: &str, is: impl Fn() -> bool) {
    let waits = async {
        while !is() {
            sleep(Duration::from_millis(100)).await;
        }
    };
    assert!(timeout(Duration::from_secs(60), waits).await.is_ok(), "{what}");
}

/// Frames of the one shot that deliveries made; 0 before it is there or while the database is away.
fn frames(rooms: &App) -> i32 {
    let shots = rooms.store.list().unwrap_or_default();
    assert!(shots.len() < 2, "one folder is one shot");
    let shot = shots.first().and_then(|s| rooms.store.load(s.id).ok());
    shot.map_or(0, |s| s.shot.frames.map_or(1, |f| f.last))
}

fn told(rooms: &App, part: &str) -> bool {
    rooms.delivery().refused.iter().any(|s| s.contains(part))
}

async fn bench(postgres: &Postgres, folder: &Path) -> Arc<App> {
    let mut config = Config::new(postgres.url(), folder.join("media"), folder.join("web"), 0);
    config.drop = Some(folder.join("drop"));
    open(config).await.unwrap()
}

#[rocket::async_test]
async fn frames_come_in_once_the_disk_and_the_database_take_them() {
    let postgres = Postgres::start();
    let folder = tempfile::tempdir().unwrap();
    let (media, drop) = (folder.path().join("media"), folder.path().join("drop"));
    let rooms = bench(&postgres, folder.path()).await;
    // A file in the place of the media folder: nothing can be kept, whoever runs the test.
    std::fs::remove_dir_all(&media).unwrap();
    std::fs::write(&media, "in the way").unwrap();
    let watching = rocket::tokio::spawn(delivery::watch(rooms.clone(), drop.clone()));
    deliver(&drop.join("take"), 1..=4);
    until("told", || told(&rooms, "orrery.0004.exr") && told(&rooms, "tried again")).await;
    assert_eq!(frames(&rooms), 0);
    std::fs::remove_file(&media).unwrap();
    until("the disk is back", || frames(&rooms) == 4).await;
    until("nothing is left to tell", || rooms.delivery().refused.is_empty()).await;

    // The database goes away while more frames come.
    postgres.go_away();
    deliver(&drop.join("take"), 5..=6);
    sleep(Duration::from_secs(4)).await;
    postgres.go_on();
    until("the database is back", || frames(&rooms) == 6).await;

    // A folder that is taken away and comes back goes on.
    std::fs::remove_dir_all(&drop).unwrap();
    sleep(Duration::from_secs(1)).await;
    deliver(&drop.join("take"), 7..=7);
    until("the folder is back", || frames(&rooms) == 7).await;
    watching.abort();

    // What was refused for good is told after a restart as well, and not tried again.
    std::fs::write(drop.join("bad.exr"), "no picture").unwrap();
    let watching = rocket::tokio::spawn(delivery::watch(rooms.clone(), drop.clone()));
    until("refused", || told(&rooms, "bad.exr: This is not an image")).await;
    watching.abort();
    let again = bench(&postgres, folder.path()).await;
    assert!(told(&again, "bad.exr: This is not an image"));
}

#[rocket::async_test]
async fn pages_of_another_server_hear_of_what_arrives_and_nobody_hears_twice() {
    let postgres = Postgres::start();
    let (here, there) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    let (a, b) = (bench(&postgres, here.path()).await, bench(&postgres, there.path()).await);
    let (mut at_a, mut at_b) = (a.news.subscribe(), b.news.subscribe());
    let drop = here.path().join("drop");
    let tasks = [
        rocket::tokio::spawn(delivery::watch(a.clone(), drop.clone())),
        rocket::tokio::spawn(arrivals::listen(a.clone())),
        rocket::tokio::spawn(arrivals::listen(b.clone())),
    ];
    let heard = async |page: &mut Receiver<News>| timeout(Duration::from_secs(30), page.recv()).await;
    deliver(&drop.join("take"), 1..=1);
    until("a new shot", || frames(&a) == 1).await;
    let shot = a.store.list().unwrap()[0].id;
    for page in [&mut at_a, &mut at_b] {
        let news = heard(page).await.unwrap().unwrap();
        assert_eq!((news.shot, news.revision), (shot, 1));
    }
    deliver(&drop.join("take"), 2..=2);
    until("a frame", || frames(&a) == 2).await;
    for page in [&mut at_a, &mut at_b] {
        let news = heard(page).await.unwrap().unwrap();
        assert_eq!((news.shot, news.revision), (shot, 2));
    }
    // An edit is no news, and what was told is found again by the next looks.
    let loaded = a.store.load(shot).unwrap();
    a.store.append(shot, loaded.revision, "Rename", &loaded.shot).unwrap();
    sleep(Duration::from_secs(3)).await;
    assert!(at_a.try_recv().is_err() && at_b.try_recv().is_err());
    tasks.iter().for_each(|t| t.abort());
}
