//! Workers: take frames of jobs, make them, bring them. The server has one of its own; `jugata work` is another.

use crate::error::StoreError;
use crate::jobs::{LEASE, Rendered, Taken};
use crate::media::MediaStore;
use crate::shots::Store;
use jugata_core::Cancel;
use jugata_shot::engine::Request;
use jugata_shot::{Engine, Shot, ShotError, handoff, look};
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::time::{Duration, Instant};
use tokio::runtime::Handle;
use uuid::Uuid;

/// How long a frame waits before it is tried again after the database or the media store has failed.
const AGAIN: Duration = Duration::from_secs(2);

/// How long a worker waits when there is nothing to do.
const REST: Duration = Duration::from_millis(500);

/// Somebody who makes frames. Its calls block.
pub struct Worker {
    /// Where frames are taken from and brought to.
    pub store: Store,
    /// Where files go.
    pub media: MediaStore,
    /// Makes pictures.
    pub engine: Arc<Engine>,
    /// Name among all workers.
    pub name: String,
    /// How long others leave a frame alone that it has taken.
    pub lease: Duration,
    runtime: Handle,
}

/// What became of a frame.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// It was made.
    Made,
    /// It was there already.
    There,
    /// It cannot be made, and why.
    Failed(String),
    /// It was left to others, or to another time.
    Left,
}

impl Worker {
    /// A worker with a name that nobody else has.
    pub fn new(store: Store, media: MediaStore, engine: Arc<Engine>, runtime: Handle) -> Self {
        let host = std::fs::read_to_string("/proc/sys/kernel/hostname").unwrap_or_default();
        let name = format!("{} {} {}", host.trim(), std::process::id(), Uuid::new_v4());
        Self { store, media, engine, name, lease: LEASE, runtime }
    }

    /// Takes frames and makes them until it is told to end, or, if it is not to wait, until nothing is free. `told` hears
    /// what became of each.
    ///
    /// # Errors
    /// The database, at once if it is not to wait.
    pub fn run(&self, end: &Cancel, wait: bool, told: impl Fn(&Taken, &Outcome)) -> Result<(), StoreError> {
        while !end.is_cancelled() {
            match self.take() {
                Ok(Some(taken)) => {
                    let outcome = self.make(&taken, end);
                    told(&taken, &outcome);
                }
                Ok(None) if !wait => return Ok(()),
                Ok(None) => std::thread::sleep(REST),
                // A database that is away comes back.
                Err(_) if wait => std::thread::sleep(AGAIN),
                Err(e) => return Err(e),
            }
        }
        Ok(())
    }

    /// Takes a frame, if one is free.
    ///
    /// # Errors
    /// The database.
    pub fn take(&self) -> Result<Option<Taken>, StoreError> {
        self.store.take_frame(&self.name, self.lease)
    }

    /// Makes a frame and brings it. What the shot itself does not allow fails; where the database or the media store fails,
    /// or it is told to end, it is given back.
    pub fn make(&self, taken: &Taken, end: &Cancel) -> Outcome {
        let made = self.at_work(taken, end, |cancel| {
            // A fault of ours costs the frame, not the worker.
            catch_unwind(AssertUnwindSafe(|| {
                end.check().map_err(ShotError::from)?;
                self.brought(taken, cancel)
            }))
        });
        let (outcome, noted) = match made {
            Ok(Ok(outcome)) => return outcome,
            Ok(Err(e)) if was_cancelled(&e) => {
                (Outcome::Left, self.store.give_back(taken, Duration::ZERO, None))
            }
            Ok(Err(e)) if !may_pass(&e) => self.failed(taken, e.to_string()),
            Ok(Err(e)) => (Outcome::Left, self.store.give_back(taken, AGAIN, Some(&e.to_string()))),
            Err(_) => self.failed(taken, "Something failed on our side; the log says where.".into()),
        };
        // If that cannot be noted, the frame becomes free by itself.
        if noted.is_err() { Outcome::Left } else { outcome }
    }

    fn failed(&self, taken: &Taken, sentence: String) -> (Outcome, Result<(), StoreError>) {
        let noted = self.store.fail_frame(taken, &sentence);
        (Outcome::Failed(sentence), noted)
    }

    fn brought(&self, taken: &Taken, cancel: &Cancel) -> Result<Outcome, StoreError> {
        let start = Instant::now();
        let shot = self.store.revision(taken.shot, taken.revision)?;
        let wanted = Request { cancel: cancel.clone(), ..taken.wish.request(&shot, taken.frame) };
        let content = handoff::content(&self.engine, &shot, &wanted, &taken.wish.form)?;
        if let Some(there) = self.store.rendered(&content)?
            && self.runtime.block_on(self.media.has(&there.media, there.bytes))?
        {
            self.store.finish_frame(taken, &there, None)?;
            return Ok(Outcome::There);
        }
        let made = self.rendered(&shot, &wanted, taken, content)?;
        self.store.finish_frame(taken, &made, Some(start.elapsed()))?;
        Ok(Outcome::Made)
    }

    fn rendered(
        &self,
        shot: &Shot,
        wanted: &Request,
        taken: &Taken,
        content: String,
    ) -> Result<Rendered, StoreError> {
        let bytes = handoff::encode(&self.engine, shot, wanted, &taken.wish.form)?;
        let picture = Some(look::small_png(&self.engine, shot, wanted)?);
        let size = bytes.len() as u64;
        let media = self.runtime.block_on(self.media.put(bytes))?;
        self.store.note_media(&media, &taken.wish.file_name(taken.frame)?, size)?;
        Ok(Rendered { content, media, bytes: i64::try_from(size).unwrap_or(i64::MAX), picture })
    }

    /// Does some work while another thread says that it is being done; it is told to stop when it need not be any more.
    fn at_work<T>(&self, taken: &Taken, end: &Cancel, work: impl FnOnce(&Cancel) -> T) -> T {
        let cancel = Cancel::new();
        let (done, ended) = channel::<()>();
        std::thread::scope(|scope| {
            let stop = cancel.clone();
            scope.spawn(move || {
                let mut said = Instant::now();
                while ended.recv_timeout(LOOK) == Err(RecvTimeoutError::Timeout) {
                    if end.is_cancelled() {
                        stop.cancel();
                    }
                    if said.elapsed() * 4 < self.lease.min(MOST_SILENT) {
                        continue;
                    }
                    said = Instant::now();
                    // While the database is away nobody else can take the frame either.
                    if let Ok(false) = self.store.still_at_work(taken, self.lease) {
                        stop.cancel();
                    }
                }
            });
            let made = work(&cancel);
            drop(done);
            made
        })
    }
}

fn was_cancelled(e: &StoreError) -> bool {
    matches!(e, StoreError::Document(e) if matches!(of_shot(e), ShotError::Cancelled(_)))
}

/// Whether something else may come of it another time: the database or the media store did not answer. A file that is not
/// there may only be out of reach.
fn may_pass(e: &StoreError) -> bool {
    match e {
        StoreError::Document(e) => matches!(of_shot(e), ShotError::NoMedia { .. }),
        StoreError::Json(_) | StoreError::Missing { .. } => false,
        _ => true,
    }
}

fn of_shot(e: &ShotError) -> &ShotError {
    match e {
        ShotError::Shared(e) => of_shot(e),
        e => e,
    }
}

/// How often a worker looks whether it is to end.
const LOOK: Duration = Duration::from_millis(50);

/// A job that is stopped is left within a quarter of this.
const MOST_SILENT: Duration = Duration::from_secs(4);
