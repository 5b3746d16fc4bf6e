//! Jobs against a real PostgreSQL: each frame once, by however many workers, whatever becomes of them.
#![allow(clippy::unwrap_used)]

use jugata_core::{Cancel, Window};
use jugata_exchange::Limits;
use jugata_shot::document::{Element, FORMAT, FrameRange};
use jugata_shot::drives::{Drive, DrivenBy, Goes, Key};
use jugata_shot::engine::CacheSizes;
use jugata_shot::handoff::{Format, Wish, encode};
use jugata_shot::made::{MadeKind, Solid};
use jugata_shot::{Engine, Shot, Target};
use jugata_store::media::StoreLibrary;
use jugata_store::{JobState, MediaPlace, MediaStore, Outcome, Store, StoreError, Worker};
use jugata_testkit::{Bucket, Postgres};
use object_store::aws::AmazonS3Builder;
use object_store::memory::InMemory;
use object_store::throttle::{ThrottleConfig, ThrottledStore};
use std::collections::BTreeMap;
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};
use tokio::runtime::Runtime;
use uuid::Uuid;

const LEASE: Duration = Duration::from_secs(30);

/// A solid whose opacity rises from frame to frame.
fn shot() -> Shot {
    let key = |frame: f32, value: f32| Key { frame, value: vec![value].into(), goes: Goes::Linear };
    let keys = Some(DrivenBy::Keys { keys: vec![key(1.0, 0.1), key(100.0, 0.9)] });
    Shot {
        format: FORMAT,
        name: "rising".into(),
        display: Window::of_size(16, 9),
        frames: Some(FrameRange { first: 1, last: 100 }),
        rate: 24.0,
        elements: vec![Element::made(1, "solid".into(), MadeKind::Solid(Solid::default()))],
        drives: vec![Drive { id: 1, at: "elements/1/made/opacity".into(), by: keys, drift: None }],
    }
}

fn wish() -> Wish {
    Wish { target: Target::Shot, form: Format::ExrFloat.into(), name: "rising.####".into(), folder: None }
}

struct Place {
    store: Store,
    media: MediaStore,
    runtime: Runtime,
    shot: Uuid,
    _folder: Option<tempfile::TempDir>,
    postgres: Postgres,
}

impl Place {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let media = MediaStore::local(folder.path()).unwrap();
        Self { _folder: Some(folder), ..Self::over(Runtime::new().unwrap(), media) }
    }

    /// Media somewhere else than in a folder.
    fn over(runtime: Runtime, media: MediaStore) -> Self {
        let postgres = Postgres::start();
        let store = Store::connect(&postgres.url()).unwrap();
        let shot = store.create(&shot(), "Bring in").unwrap();
        Self { store, media, runtime, shot, _folder: None, postgres }
    }

    fn job(&self, first: i32, last: i32) -> Uuid {
        self.store.start_job(self.shot, 1, &wish(), FrameRange { first, last }).unwrap().id
    }

    fn engine(&self) -> Engine {
        let library = StoreLibrary::new(self.media.clone(), self.runtime.handle().clone());
        Engine::new(Box::new(library), Limits::default(), CacheSizes::default())
    }

    fn worker(&self) -> Worker {
        let (store, media) = (self.store.clone(), self.media.clone());
        Worker::new(store, media, Arc::new(self.engine()), self.runtime.handle().clone())
    }

    fn frees(&self) -> bool {
        self.store.take_frame("somebody", LEASE).unwrap().is_some()
    }
}

#[test]
fn a_frame_is_kept_for_who_takes_it_and_comes_free_when_he_is_lost() {
    let p = Place::new();
    let job = p.job(1, 3);
    let short = Duration::from_millis(300);
    let lost = p.store.take_frame("lost", short).unwrap().unwrap();
    assert_eq!((lost.job, lost.shot, lost.revision, lost.frame), (job, p.shot, 1, 1));
    let [two, three] = [0; 2].map(|_| p.store.take_frame("there", LEASE).unwrap().unwrap());
    assert_eq!([two.frame, three.frame], [2, 3]);
    assert!(p.store.take_frame("there", LEASE).unwrap().is_none());
    assert_eq!(p.store.job(job).unwrap().taken, 3);
    // Whoever says that he is at work keeps it.
    for _ in 0..4 {
        std::thread::sleep(Duration::from_millis(150));
        assert!(p.store.still_at_work(&lost, short).unwrap());
        assert!(!p.frees());
    }
    std::thread::sleep(short);
    let found = p.store.take_frame("finder", LEASE).unwrap().unwrap();
    assert_eq!(found.frame, 1);
    assert!(!p.store.still_at_work(&lost, short).unwrap(), "it is another's now");
    // What one gives back is free at once, or after a pause; what went wrong is told.
    p.store.give_back(&found, Duration::ZERO, None).unwrap();
    let again = p.store.take_frame("finder", LEASE).unwrap().unwrap();
    p.store.give_back(&again, short, Some("The disk is full.")).unwrap();
    assert!(!p.frees());
    assert_eq!(p.store.job_frames(job).unwrap()[0].error.as_deref(), Some("The disk is full."));
    std::thread::sleep(short);
    assert!(p.frees());
}

#[test]
fn a_frame_that_loses_everybody_fails_and_can_be_tried_again() {
    let p = Place::new();
    let job = p.job(7, 7);
    for _ in 0..jugata_store::jobs::TRIES {
        assert!(p.store.take_frame("lost", Duration::ZERO).unwrap().is_some());
    }
    assert!(!p.frees());
    let row = p.store.job(job).unwrap();
    assert_eq!((row.state, row.failed), (JobState::Done, 1));
    let told = p.store.job_frames(job).unwrap()[0].error.clone().unwrap();
    assert_eq!(told, "It was tried 8 times; the last time, those who worked on it were lost.");
    assert_eq!(p.store.try_again(job).unwrap().state, JobState::Running);
    assert!(p.frees());
}

#[test]
fn jobs_are_paused_stopped_put_first_and_forgotten() {
    let p = Place::new();
    let (one, two) = (p.job(1, 4), p.job(11, 14));
    assert_eq!(p.store.take_frame("a", LEASE).unwrap().unwrap().job, one, "the one that was asked for first");
    p.store.put_first(two).unwrap();
    let hurried = p.store.take_frame("a", LEASE).unwrap().unwrap();
    assert_eq!(hurried.job, two);
    p.store.set_job(two, JobState::Paused).unwrap();
    assert_eq!(p.store.take_frame("a", LEASE).unwrap().unwrap().job, one);
    assert!(p.store.still_at_work(&hurried, LEASE).unwrap(), "what is begun is finished");
    p.store.set_job(two, JobState::Stopped).unwrap();
    assert!(!p.store.still_at_work(&hurried, LEASE).unwrap(), "what is begun is left");
    p.store.set_job(two, JobState::Running).unwrap();
    assert_eq!(p.store.take_frame("a", LEASE).unwrap().unwrap().job, two);
    p.store.remove_job(one).unwrap();
    assert_eq!(p.store.jobs_of(p.shot).unwrap().iter().map(|j| j.id).collect::<Vec<_>>(), [two]);
    assert!(p.store.job(one).is_err() && p.store.set_job(one, JobState::Paused).is_err());
    // What cannot be is refused in a sentence.
    let refused = |name: &str, first, last| {
        let wish = Wish { name: name.into(), ..wish() };
        p.store.start_job(p.shot, 1, &wish, FrameRange { first, last }).unwrap_err().to_string()
    };
    assert!(refused("a.####", 5, 4).contains("1 to 100000 frames long"));
    assert!(refused("a.####", i32::MIN, i32::MAX).contains("1 to 100000 frames long"));
    assert!(refused("a", 1, 2).contains("has no #"));
    assert!(refused("../a.####", 1, 2).contains("cannot be the name of a file"));
    assert!(p.store.start_job(p.shot, 9, &wish(), FrameRange { first: 1, last: 1 }).is_err());
}

#[test]
fn one_worker_and_three_give_what_the_engine_gives_and_nothing_is_made_twice() {
    let p = Place::new();
    let files = |job: Uuid| -> BTreeMap<i32, Vec<u8>> {
        let frames = p.store.job_frames(job).unwrap();
        let of = |frame| {
            let there = p.store.job_frame(job, frame).unwrap();
            assert!(there.picture.is_some());
            p.runtime.block_on(p.media.get(&there.media)).unwrap()
        };
        frames.iter().map(|f| (f.frame, of(f.frame))).collect()
    };
    let outcomes = Mutex::new(Vec::new());
    let work = |count: usize| {
        std::thread::scope(|s| {
            for _ in 0..count {
                s.spawn(|| {
                    let told = |_: &_, o: &Outcome| outcomes.lock().unwrap().push(o.clone());
                    p.worker().run(&Cancel::new(), false, told).unwrap();
                });
            }
        });
        std::mem::take(&mut *outcomes.lock().unwrap())
    };
    let one = p.job(1, 20);
    assert_eq!(work(1), vec![Outcome::Made; 20]);
    let alone = files(one);
    let wanted = |frame| {
        let (shot, wish) = (shot(), wish());
        encode(&p.engine(), &shot, &wish.request(&shot, frame), &wish.form).unwrap()
    };
    assert!(alone.iter().all(|(frame, bytes)| *bytes == wanted(*frame)));
    assert_ne!(alone[&1], alone[&2]);
    let row = p.store.job(one).unwrap();
    assert_eq!((row.state, row.done, row.failed, row.taken), (JobState::Done, 20, 0, 0));
    assert_eq!(row.bytes, alone.values().map(|b| b.len() as i64).sum::<i64>());

    // Frames that are there are taken over; a file that was lost is made again.
    let broken = p.store.job_frame(one, 5).unwrap();
    p.runtime.block_on(p.media.remove(&broken.media)).unwrap();
    let three = p.job(1, 30);
    let became = work(3);
    assert_eq!(became.iter().filter(|o| **o == Outcome::There).count(), 19);
    assert_eq!(became.iter().filter(|o| **o == Outcome::Made).count(), 11);
    let together = files(three);
    assert!(alone.iter().all(|(frame, bytes)| together[frame] == *bytes));
    assert!(together.iter().all(|(frame, bytes)| *bytes == wanted(*frame)));

    // Media of jobs are named by something, until the job is forgotten.
    let far = chrono::Utc::now() + Duration::from_secs(60);
    assert_eq!(p.store.unused_media(far).unwrap(), []);
    p.store.remove_job(one).unwrap();
    p.store.remove_job(three).unwrap();
    let unused = p.store.unused_media(far).unwrap();
    assert_eq!(unused.len(), 30);
    for (media, _) in unused {
        p.store.forget_media(&media).unwrap();
    }
    let content = broken.content;
    assert!(p.store.rendered(&content).unwrap().is_none());
}

#[test]
fn what_cannot_be_made_fails_and_what_fails_in_passing_is_tried_again() {
    let p = Place::new();
    let wish = Wish { target: Target::Untouched { element: 9 }, ..wish() };
    let job = p.store.start_job(p.shot, 1, &wish, FrameRange { first: 1, last: 2 }).unwrap().id;
    let worker = p.worker();
    worker.run(&Cancel::new(), false, |_, _| {}).unwrap();
    let row = p.store.job(job).unwrap();
    assert_eq!((row.state, row.failed), (JobState::Done, 2));
    let told = p.store.job_frames(job).unwrap()[1].error.clone().unwrap();
    assert!(told.contains("no element 9"), "{told}");

    // The database goes away while a frame is made: it is left, and taken again when it is back.
    let job = p.job(1, 1);
    let mut short = p.worker();
    short.lease = Duration::from_secs(1);
    let taken = short.take().unwrap().unwrap();
    p.postgres.go_away();
    assert_eq!(short.make(&taken, &Cancel::new()), Outcome::Left);
    p.postgres.go_on();
    let end = Cancel::new();
    std::thread::scope(|s| {
        s.spawn(|| p.worker().run(&end, true, |_, _| {}).unwrap());
        // Its lease ends by itself.
        let store = Store::connect(&p.postgres.url()).unwrap();
        let start = Instant::now();
        while store.job(job).unwrap().done == 0 {
            assert!(start.elapsed() < Duration::from_secs(60));
            std::thread::sleep(Duration::from_millis(100));
        }
        end.cancel();
    });
    // One who is told to end gives back what he has.
    let job = p.job(2, 2);
    let taken = worker.take().unwrap().unwrap();
    end.cancel();
    assert_eq!(worker.make(&taken, &end), Outcome::Left);
    assert_eq!(p.store.take_frame("next", LEASE).unwrap().unwrap().job, job);
}

/// Two workers on a range of frames, and what each frame became.
fn made_by_two(p: &Place, first: i32, last: i32) -> BTreeMap<i32, Vec<u8>> {
    let job = p.job(first, last);
    std::thread::scope(|s| {
        for _ in 0..2 {
            s.spawn(|| {
                let mut worker = p.worker();
                worker.lease = Duration::from_secs(1);
                worker.run(&Cancel::new(), false, |_, _| {}).unwrap();
            });
        }
    });
    let row = p.store.job(job).unwrap();
    assert_eq!((row.state, row.done, row.failed), (JobState::Done, i64::from(last - first + 1), 0));
    let of = |frame| p.runtime.block_on(p.media.get(&p.store.job_frame(job, frame).unwrap().media)).unwrap();
    (first..=last).map(|frame| (frame, of(frame))).collect()
}

#[test]
fn workers_on_a_bucket_and_on_a_slow_store_give_what_a_folder_gives() {
    let wanted = made_by_two(&Place::new(), 1, 6);

    let bucket = Bucket::start();
    let by = |secret: &str| {
        AmazonS3Builder::new()
            .with_endpoint(&bucket.address)
            .with_allow_http(true)
            .with_region("us-east-1")
            .with_bucket_name(Bucket::NAME)
            .with_access_key_id(Bucket::KEYS[0])
            .with_secret_access_key(secret)
    };
    let media = |folder: &str| MediaStore::bucket(by(Bucket::KEYS[1]), folder).unwrap();
    let p = Place::over(Runtime::new().unwrap(), media("observatory/media"));
    assert_eq!(made_by_two(&p, 1, 6), wanted);
    // The same bytes are kept once, wherever they are asked for; another folder of the bucket knows nothing of them.
    p.runtime.block_on(async {
        let id = p.media.put(b"plate".to_vec()).await.unwrap();
        assert_eq!(p.media.put(b"plate".to_vec()).await.unwrap(), id);
        assert!(p.media.has(&id, 5).await.unwrap());
        assert_eq!(media("observatory/media").get(&id).await.unwrap(), b"plate");
        let other = media("elsewhere");
        assert!(!other.has(&id, 5).await.unwrap());
        assert!(matches!(other.get(&id).await, Err(StoreError::Missing { .. })));
        p.media.remove(&id).await.unwrap();
        p.media.remove(&id).await.unwrap();
        assert!(!p.media.has(&id, 5).await.unwrap());
        let stranger = MediaStore::bucket(by("guessed"), "observatory/media").unwrap();
        assert!(stranger.put(b"plate".to_vec()).await.is_err());
    });

    // A frame takes longer to be written than others wait for one that says nothing: whoever writes it says that he is at work.
    let wait = Duration::from_millis(1500);
    let slow =
        ThrottleConfig { wait_put_per_call: wait, wait_get_per_call: wait / 30, ..ThrottleConfig::default() };
    let media = MediaStore::over(Arc::new(ThrottledStore::new(InMemory::new(), slow))).unwrap();
    let p = Place::over(Runtime::new().unwrap(), media);
    assert_eq!(made_by_two(&p, 1, 6), wanted);
}

#[test]
fn media_are_kept_where_one_setting_says() {
    let place = |text: &str| text.parse::<MediaPlace>();
    assert_eq!(place("data/media"), Ok(MediaPlace::Folder("data/media".into())));
    let bucket =
        |bucket: &str, folder: &str| MediaPlace::Bucket { bucket: bucket.into(), folder: folder.into() };
    assert_eq!(place("s3://plates/a/b/"), Ok(bucket("plates", "a/b")));
    assert_eq!(place("s3://plates"), Ok(bucket("plates", "")));
    assert_eq!(place("s3:///a").unwrap_err(), "s3:// is followed by the name of a bucket");
    assert!(place("ftp://there/a").unwrap_err().starts_with("media are not kept in ftp://"));
}

/// Workers that sleep instead of rendering. With `JUGATA_SCALE` 10,000 frames and 50 of them; the figure is in FIDELITY.
#[test]
fn many_workers_take_each_frame_once() {
    let (frames, workers, naps) = match std::env::var_os("JUGATA_SCALE") {
        Some(_) => (10_000, 50, 20),
        None => (400, 12, 2),
    };
    let p = Place::new();
    let job = p.job(1, frames);
    let made = p.worker();
    let first = p.store.take_frame("first", LEASE).unwrap().unwrap();
    assert_eq!(made.make(&first, &Cancel::new()), Outcome::Made);
    let there = p.store.job_frame(job, first.frame).unwrap();
    let (all, start) = (Mutex::new(vec![first.frame]), Instant::now());
    std::thread::scope(|s| {
        for i in 0..workers {
            let (store, all, there) = (p.store.clone(), &all, &there);
            s.spawn(move || {
                while let Some(taken) = store.take_frame(&format!("worker {i}"), LEASE).unwrap() {
                    std::thread::sleep(Duration::from_millis(naps));
                    all.lock().unwrap().push(taken.frame);
                    store.finish_frame(&taken, there, Some(Duration::from_millis(naps))).unwrap();
                }
            });
        }
    });
    let took = start.elapsed();
    println!("{frames} frames, {workers} workers: {:.0} a second", f64::from(frames) / took.as_secs_f64());
    let mut all = all.into_inner().unwrap();
    all.sort_unstable();
    assert_eq!(all, (1..=frames).collect::<Vec<_>>(), "each once");
    let row = p.store.job(job).unwrap();
    assert_eq!((row.state, row.done, row.failed), (JobState::Done, i64::from(frames), 0));
}
