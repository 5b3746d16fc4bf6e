//! `jugata work` beside a server: whatever is killed, each frame is there once and right.
#![allow(clippy::unwrap_used)]

use jugata_core::Window;
use jugata_exchange::Limits;
use jugata_shot::document::{Element, FORMAT, FrameRange, Step};
use jugata_shot::drives::{Drive, DrivenBy, Goes, Key};
use jugata_shot::engine::CacheSizes;
use jugata_shot::handoff::{Format, Wish, encode};
use jugata_shot::made::{MadeKind, Pattern};
use jugata_shot::media::Folders;
use jugata_shot::steps::Blur;
use jugata_shot::{Engine, Shot, Target};
use jugata_store::{JobState, MediaStore, Store};
use jugata_testkit::{Bucket, Database, Postgres};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

fn shot(frames: i32) -> Shot {
    let mut pattern = Element::made(1, "pattern".into(), MadeKind::Pattern(Pattern::default()));
    pattern.steps = vec![Step::new(1, Blur { size: 24.0, ..Blur::default() }.into())];
    let key =
        |frame: i32, value: f32| Key { frame: frame as f32, value: vec![value].into(), goes: Goes::Linear };
    let keys = vec![key(1, 1.0), key(frames, 24.0)];
    let radius = "elements/1/steps/1/does/size".into();
    Shot {
        format: FORMAT,
        name: "softer".into(),
        display: Window::of_size(480, 270),
        frames: Some(FrameRange { first: 1, last: frames }),
        rate: 24.0,
        elements: vec![pattern],
        drives: vec![Drive { id: 1, at: radius, by: Some(DrivenBy::Keys { keys }), drift: None }],
    }
}

fn wish() -> Wish {
    Wish { target: Target::Shot, form: Format::ExrHalf.into(), name: "softer.####".into(), folder: None }
}

/// A process that is killed when dropped.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn jugata(args: &[&str], url: &str, media: &Path) -> Running {
    let mut command = Command::new(env!("CARGO_BIN_EXE_jugata"));
    command.args(args).args(["--database", url]).arg("--media").arg(media);
    Running(command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap())
}

/// What may be killed.
struct Place {
    postgres: Postgres,
    media: tempfile::TempDir,
    running: Vec<Running>,
}

impl Place {
    /// Two workers, and a server with a worker of its own.
    fn start(&self, which: usize) -> Running {
        let args: &[&str] = if which < 2 { &["work", "--lease", "2"] } else { &["serve", "--port", "0"] };
        jugata(args, &self.postgres.url(), self.media.path())
    }

    fn kill(&mut self, which: usize) {
        if which < self.running.len() {
            self.running[which] = self.start(which);
        } else {
            self.postgres.signal("KILL");
            self.postgres.go_on();
        }
    }
}

/// With `JUGATA_KILLS` so many kills and 200 frames; the figure is in FIDELITY.
#[test]
fn whatever_is_killed_each_frame_is_there_once_and_right() {
    let many = std::env::var("JUGATA_KILLS").ok().and_then(|n| n.parse::<usize>().ok());
    let (kills, frames) = (many.unwrap_or(7), if many.is_some() { 200 } else { 24 });
    let shot = shot(frames);
    let mut place =
        Place { postgres: Postgres::start(), media: tempfile::tempdir().unwrap(), running: Vec::new() };
    let store = Store::connect(&place.postgres.url()).unwrap();
    let id = store.create(&shot, "Bring in").unwrap();
    let job = store.start_job(id, 1, &wish(), FrameRange { first: 1, last: frames }).unwrap().id;
    place.running = (0..3).map(|which| place.start(which)).collect();

    let mut random = 7_u64;
    for _ in 0..kills {
        random = random.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        std::thread::sleep(Duration::from_millis(200 + (random >> 40) % 900));
        place.kill((random >> 33) as usize % 4);
    }
    let start = Instant::now();
    // The server's own worker keeps its frames for as long as one that is on its way.
    while store.job(job).map(|j| j.state).unwrap_or(JobState::Running) != JobState::Done {
        assert!(start.elapsed() < Duration::from_secs(120), "{:?}", store.job(job));
        std::thread::sleep(Duration::from_millis(100));
    }
    let row = store.job(job).unwrap();
    assert_eq!((row.done, row.failed), (i64::from(frames), 0), "{:?}", store.job_frames(job));
    let library = Folders::new(vec![]);
    let engine = Engine::new(Box::new(library), Limits::default(), CacheSizes::default());
    let media = MediaStore::local(place.media.path()).unwrap();
    let runtime = rocket::tokio::runtime::Runtime::new().unwrap();
    for frame in 1..=frames {
        let made = store.job_frame(job, frame).unwrap();
        let bytes = runtime.block_on(media.get(&made.media)).unwrap();
        let wanted = encode(&engine, &shot, &wish().request(&shot, frame), &wish().form).unwrap();
        assert!(bytes == wanted, "frame {frame}");
    }
    println!("{kills} kills, {frames} frames: all there after {:.0?}", start.elapsed());
}

#[test]
fn a_bucket_is_a_media_store_as_a_folder_is() {
    let (postgres, bucket) = (Database::make(), Bucket::start());
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&shot(2), "Bring in").unwrap();
    let range = FrameRange { first: 1, last: 2 };
    let (media, url) = (format!("s3://{}/observatory", Bucket::NAME), postgres.url());
    let run = |does: &str, how: &[&str]| {
        let mut command = Command::new(env!("CARGO_BIN_EXE_jugata"));
        command.args([does, "--database", &url, "--media", &media]).args(how).envs(bucket.environment());
        let said = command.output().unwrap();
        assert!(said.status.success(), "{}", String::from_utf8_lossy(&said.stderr));
        String::from_utf8(said.stdout).unwrap()
    };
    let one = store.start_job(id, 1, &wish(), range).unwrap().id;
    run("work", &["--until-done"]);
    assert_eq!(store.job(one).unwrap().done, 2);
    // Who comes later finds the frames there, and what nothing names is taken away.
    let two = store.start_job(id, 1, &wish(), range).unwrap().id;
    let said = run("work", &["--until-done"]);
    assert!(
        said.ends_with("\nsofter.0001.exr was there already\nsofter.0002.exr was there already\n"),
        "{said}"
    );
    store.remove_job(one).unwrap();
    store.remove_job(two).unwrap();
    let said = run("media", &["collect", "--older-than", "0"]);
    assert!(said.starts_with("2 files deleted"), "{said}");
}

#[test]
fn it_ends_when_nothing_is_left_to_do_and_says_what_it_has_written() {
    let postgres = Database::make();
    let media = tempfile::tempdir().unwrap();
    let store = Store::connect(&postgres.url()).unwrap();
    let id = store.create(&shot(2), "Bring in").unwrap();
    store.start_job(id, 1, &wish(), FrameRange { first: 1, last: 2 }).unwrap();
    let mut command = Command::new(env!("CARGO_BIN_EXE_jugata"));
    command.args(["work", "--until-done", "--database", &postgres.url()]).arg("--media").arg(media.path());
    let said = command.output().unwrap();
    let text = String::from_utf8(said.stdout).unwrap();
    assert!(said.status.success() && text.starts_with("Working as "), "{text}");
    assert!(text.ends_with("\nsofter.0001.exr\nsofter.0002.exr\n"), "{text}");
    // No database: a sentence, and no success.
    let none = Command::new(env!("CARGO_BIN_EXE_jugata"))
        .args(["work", "--database", "postgres://jugata@127.0.0.1:1/jugata"])
        .output()
        .unwrap();
    assert!(!none.status.success());
    assert!(String::from_utf8(none.stderr).unwrap().contains("The database cannot be reached"));
}
