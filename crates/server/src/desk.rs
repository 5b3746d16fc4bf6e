//! Work off the request threads: so much at once and no more, and none for those who have left.
//!
//! Pictures use all processors by themselves, so that more of them at once would only need more memory. What waits for
//! its turn and is no longer wanted leaves the queue at once: of a pane that is dragged in, only the newest request
//! comes to be worked on. Equal pictures that are asked for at the same time are made once.

use crate::App;
use crate::error::Failure;
use jugata_core::Cancel;
use jugata_store::{Store, StoreError};
use moka::future::Cache;
use rocket::http::Status;
use rocket::tokio::sync::{Semaphore, SemaphorePermit};
use rocket::tokio::task::spawn_blocking;
use rocket::tokio::time::{Duration, sleep, timeout};
use std::collections::HashMap;
use std::future::Future;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

/// Computations at once: a long one leaves room for the panes.
const COMPUTING: usize = 3;

/// Files that are unpacked at once: each may take a gigabyte.
const DECODING: usize = 2;

/// Bytes of finished pictures that are kept for whoever asks for the same.
const FINISHED: u64 = 64 << 20;

/// How long the database may keep silent.
const SILENCE: Duration = Duration::from_secs(10);

/// How often somebody who waits for a turn looks whether the answer is still wanted.
const LOOK: Duration = Duration::from_millis(20);

/// "Client closed request": nobody waits for this answer. Not a registered code, but widely understood.
pub const NOBODY_WAITS: Status = Status { code: 499 };

/// What is being worked on.
pub struct Desk {
    computing: Semaphore,
    decoding: Semaphore,
    finished: Cache<String, Arc<Vec<u8>>>,
    running: Mutex<HashMap<u64, Cancel>>,
    next: AtomicU64,
}

impl Default for Desk {
    fn default() -> Self {
        let weigh = |_: &String, bytes: &Arc<Vec<u8>>| u32::try_from(bytes.len() + 128).unwrap_or(u32::MAX);
        Self {
            computing: Semaphore::new(COMPUTING),
            decoding: Semaphore::new(DECODING),
            finished: Cache::builder().max_capacity(FINISHED).weigher(weigh).build(),
            running: Mutex::default(),
            next: AtomicU64::new(0),
        }
    }
}

impl Desk {
    /// Stops everything that can be stopped: the server ends.
    pub fn stop_all(&self) {
        self.running().values().for_each(Cancel::cancel);
        self.computing.close();
        self.decoding.close();
    }

    /// Computations that were begun since the start.
    pub fn begun(&self) -> u64 {
        self.next.load(Ordering::Relaxed)
    }

    fn running(&self) -> std::sync::MutexGuard<'_, HashMap<u64, Cancel>> {
        self.running.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A turn, or an error as soon as nobody wants it any more.
    async fn turn<'s>(of: &'s Semaphore, cancel: &Cancel) -> Result<SemaphorePermit<'s>, Failure> {
        let ended = |_| Failure::new(Status::ServiceUnavailable, "The server is ending; start it again.");
        let wanted = async {
            while !cancel.is_cancelled() {
                sleep(LOOK).await;
            }
        };
        rocket::tokio::select! {
            biased;
            () = wanted => Err(Failure::new(NOBODY_WAITS, "Nobody waits for this any more.")),
            permit = of.acquire() => permit.map_err(ended),
        }
    }

    /// The picture of a tag, made by `make` if nobody has made it or is making it. One who waits for another's picture,
    /// which the other gives up, makes it himself.
    ///
    /// # Errors
    /// As `make`.
    pub async fn finished<F: Future<Output = Result<Vec<u8>, Failure>>>(
        &self,
        tag: &str,
        cancel: &Cancel,
        make: impl Fn() -> F,
    ) -> Result<Arc<Vec<u8>>, Failure> {
        loop {
            let made = async { make().await.map(Arc::new) };
            match self.finished.try_get_with_by_ref(tag, made).await {
                Ok(bytes) => return Ok(bytes),
                Err(e) if e.status == NOBODY_WAITS && !cancel.is_cancelled() => {}
                Err(e) => return Err((*e).clone()),
            }
        }
    }
}

/// Short work off the request threads.
///
/// # Errors
/// As the job; a job that panics.
pub async fn work<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let rooms = Arc::clone(rooms);
    spawn_blocking(move || job(&rooms).map_err(Into::into)).await.map_err(|_| {
        Failure::new(Status::InternalServerError, "Something failed on our side; nothing was saved.")
    })?
}

/// A question to the database, which may not keep anybody waiting for ever.
///
/// # Errors
/// As the question; no answer in time.
pub async fn ask<T: Send + 'static>(
    rooms: &Arc<App>,
    question: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
) -> Result<T, Failure> {
    let late = |_| {
        let sentence = format!(
            "The database did not answer within {} s; reload to see what it has kept, and try again.",
            SILENCE.as_secs()
        );
        Failure::new(Status::ServiceUnavailable, sentence)
    };
    timeout(SILENCE, work(rooms, |r| question(&r.store))).await.map_err(late)?
}

/// Work with pixels, in its turn.
///
/// # Errors
/// As the job; nobody who waits.
pub async fn compute<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let _turn = Desk::turn(&rooms.desk.computing, cancel).await?;
    let number = rooms.desk.next.fetch_add(1, Ordering::Relaxed);
    rooms.desk.running().insert(number, cancel.clone());
    let done = work(rooms, job).await;
    rooms.desk.running().remove(&number);
    done
}

/// Unpacks a file, in its turn.
///
/// # Errors
/// As the job.
pub async fn decode<T, F: Future<Output = Result<T, Failure>>>(
    rooms: &Arc<App>,
    job: impl FnOnce() -> F,
) -> Result<T, Failure> {
    let _turn = Desk::turn(&rooms.desk.decoding, &Cancel::new()).await?;
    job().await
}
