//! Work off the request threads: so much at once and no more, and none for those who have left.
//!
//! Pictures use all processors by themselves, so that more of them at once would only need more memory. What waits for
//! its turn and is no longer wanted leaves the queue at once: of a pane that is dragged in, only the newest request
//! comes to be worked on. Equal pictures that are asked for at the same time are made once. What is made ahead of being
//! wanted is made while there is nothing else to do, and given up as soon as there is.
//!
//! What no pane waits for (checks, small pictures, frames of jobs, what is made ahead) has turns of its own, and threads of its own, to
//! which the system gives the processors when the others leave them: a drag is as quick while a shot is being checked as it is
//! afterwards. Of those turns, small pictures, of which a page asks for dozens at once, have one, and what takes minutes never has all.

use crate::App;
use crate::error::Failure;
use jugata_core::Cancel;
use jugata_store::{Store, StoreError};
use moka::future::Cache;
use rayon::{ThreadPool, ThreadPoolBuilder};
use rocket::http::Status;
use rocket::tokio::sync::{Semaphore, SemaphorePermit};
use rocket::tokio::task::spawn_blocking;
use rocket::tokio::time::{Duration, sleep, timeout};
use std::collections::HashMap;
use std::future::Future;
use std::sync::atomic::{AtomicU64, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

/// Computations at once for panes: one that is given up leaves room for the next until it has noticed.
const COMPUTING: usize = 2;

/// Computations at once that no pane waits for.
const BEHIND: usize = 3;

/// How many of those may be frames of jobs and tracks that are followed, which go on for minutes.
const LONG: usize = 2;

/// Files that are unpacked at once: each may take a gigabyte.
const DECODING: usize = 2;

/// Bytes of finished pictures that are kept for whoever asks for the same.
const FINISHED: u64 = 64 << 20;

/// How much the threads of what no pane waits for give way (`nice(2)`): about a tenth of a processor that others want, too.
const GIVES_WAY: i32 = 10;

/// How long the database may keep silent.
const SILENCE: Duration = Duration::from_secs(10);

/// How often somebody who waits for a turn looks whether the answer is still wanted.
const LOOK: Duration = Duration::from_millis(20);

/// "Client closed request": nobody waits for this answer. Not a registered code, but widely understood.
pub const NOBODY_WAITS: Status = Status { code: 499 };

/// What is being worked on.
pub struct Desk {
    computing: Semaphore,
    behind: Semaphore,
    /// The one turn of small pictures.
    aside: Semaphore,
    long: Semaphore,
    decoding: Semaphore,
    /// The threads of what no pane waits for; none if the system gave none.
    giving_way: Option<ThreadPool>,
    finished: Cache<String, Arc<Vec<u8>>>,
    running: Mutex<HashMap<u64, Cancel>>,
    ahead: Mutex<HashMap<u64, Cancel>>,
    /// Computations that somebody waits for, begun or in the queue.
    wanted: AtomicUsize,
    next: AtomicU64,
    next_ahead: AtomicU64,
}

/// Somebody waits for a computation for as long as this lives.
struct Wanted<'d>(&'d Desk);

impl Drop for Wanted<'_> {
    fn drop(&mut self) {
        self.0.wanted.fetch_sub(1, Ordering::SeqCst);
    }
}

impl Default for Desk {
    fn default() -> Self {
        let weigh = |_: &String, bytes: &Arc<Vec<u8>>| u32::try_from(bytes.len() + 128).unwrap_or(u32::MAX);
        Self {
            computing: Semaphore::new(COMPUTING),
            behind: Semaphore::new(BEHIND),
            aside: Semaphore::new(1),
            long: Semaphore::new(LONG),
            decoding: Semaphore::new(DECODING),
            giving_way: threads_that_give_way(),
            finished: Cache::builder().max_capacity(FINISHED).weigher(weigh).build(),
            running: Mutex::default(),
            ahead: Mutex::default(),
            wanted: AtomicUsize::new(0),
            next: AtomicU64::new(0),
            next_ahead: AtomicU64::new(0),
        }
    }
}

/// One thread for each processor. On Linux a priority is a thread's own.
fn threads_that_give_way() -> Option<ThreadPool> {
    let pool = ThreadPoolBuilder::new().thread_name(|n| format!("behind-{n}")).start_handler(|_| {
        if let Err(e) = rustix::process::nice(GIVES_WAY) {
            tracing::debug!("a thread does not give way: {e}");
        }
    });
    pool.build().inspect_err(|e| tracing::warn!("no threads for what nobody waits for: {e}")).ok()
}

impl Desk {
    /// Stops everything that can be stopped: the server ends.
    pub fn stop_all(&self) {
        self.running().values().for_each(Cancel::cancel);
        let turns = [&self.computing, &self.behind, &self.aside, &self.long, &self.decoding];
        turns.iter().for_each(|t| t.close());
    }

    /// Computations that were begun since the start.
    pub fn begun(&self) -> u64 {
        self.next.load(Ordering::Relaxed)
    }

    fn running(&self) -> std::sync::MutexGuard<'_, HashMap<u64, Cancel>> {
        self.running.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Somebody wants something now: what is made ahead gives way.
    fn want(&self) -> Wanted<'_> {
        self.wanted.fetch_add(1, Ordering::SeqCst);
        self.ahead().values().for_each(Cancel::cancel);
        Wanted(self)
    }

    fn ahead(&self) -> std::sync::MutexGuard<'_, HashMap<u64, Cancel>> {
        self.ahead.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Until nothing is wanted, or an error as soon as nobody wants what was to be made ahead.
    async fn idle(&self, cancel: &Cancel) -> Result<(), Failure> {
        while self.wanted.load(Ordering::SeqCst) > 0 {
            given_up(cancel)?;
            sleep(LOOK).await;
        }
        given_up(cancel)
    }

    /// A turn, or an error as soon as nobody wants it any more.
    async fn turn<'s>(of: &'s Semaphore, cancel: &Cancel) -> Result<SemaphorePermit<'s>, Failure> {
        let ended = |_| Failure::new(Status::ServiceUnavailable, "The server is ending; start it again.");
        let wanted = async {
            loop {
                given_up(cancel)?;
                sleep(LOOK).await;
            }
        };
        rocket::tokio::select! {
            biased;
            no = wanted => no,
            permit = of.acquire() => permit.map_err(ended),
        }
    }

    /// The picture of a tag, if it is kept; else `make` makes it ahead of being wanted. Nobody is kept waiting for it, so that
    /// one who wants it now makes it himself.
    ///
    /// # Errors
    /// As `make`.
    pub async fn finished_ahead<F: Future<Output = Result<Vec<u8>, Failure>>>(
        &self,
        tag: &str,
        make: F,
    ) -> Result<Arc<Vec<u8>>, Failure> {
        if let Some(bytes) = self.finished.get(tag).await {
            return Ok(bytes);
        }
        let bytes = Arc::new(make.await?);
        self.finished.insert(tag.to_owned(), Arc::clone(&bytes)).await;
        Ok(bytes)
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

/// Work with pixels for a pane, in its turn.
///
/// # Errors
/// As the job; nobody who waits.
pub async fn compute<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let _wanted = rooms.desk.want();
    let _turn = Desk::turn(&rooms.desk.computing, cancel).await?;
    begun(rooms, cancel, job).await
}

/// Work that somebody waits for, though no pane does: it leaves the processors to those who do.
///
/// # Errors
/// As the job; nobody who waits.
pub async fn compute_behind<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let _wanted = rooms.desk.want();
    behind(rooms, cancel, job).await
}

/// A frame of a job, or a track that is followed: it leaves the processors to everybody else, and keeps nobody from working ahead.
///
/// # Errors
/// As the job; nobody who waits.
pub async fn compute_long<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let _turn = Desk::turn(&rooms.desk.long, cancel).await?;
    behind(rooms, cancel, job).await
}

/// Small pictures, of which a page asks for dozens: one at a time, and leaving the processors to the panes.
///
/// # Errors
/// As the job; nobody who waits.
pub async fn compute_aside<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let _wanted = rooms.desk.want();
    let _turn = Desk::turn(&rooms.desk.aside, cancel).await?;
    behind(rooms, cancel, job).await
}

/// Work with pixels that nobody waits for yet: while nothing else is to be done, and given up for what is.
///
/// # Errors
/// As the job; nobody who waits, or somebody who waits for something else.
pub async fn compute_ahead<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let desk = &rooms.desk;
    desk.idle(cancel).await?;
    let number = desk.next_ahead.fetch_add(1, Ordering::Relaxed);
    desk.ahead().insert(number, cancel.clone());
    // Something may have been wanted between the look and the note.
    let done = match desk.wanted.load(Ordering::SeqCst) {
        0 => behind(rooms, cancel, job).await,
        _ => Err(nobody()),
    };
    desk.ahead().remove(&number);
    done
}

/// A job in a turn behind the panes, on the threads that give way.
async fn behind<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let _turn = Desk::turn(&rooms.desk.behind, cancel).await?;
    let job = move |rooms: &App| match &rooms.desk.giving_way {
        Some(threads) => threads.install(|| job(rooms)),
        None => job(rooms),
    };
    begun(rooms, cancel, job).await
}

/// A job whose turn it is.
async fn begun<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let number = rooms.desk.next.fetch_add(1, Ordering::Relaxed);
    rooms.desk.running().insert(number, cancel.clone());
    let done = work(rooms, job).await;
    rooms.desk.running().remove(&number);
    done
}

fn nobody() -> Failure {
    Failure::new(NOBODY_WAITS, "Nobody waits for this any more.")
}

fn given_up(cancel: &Cancel) -> Result<(), Failure> {
    if cancel.is_cancelled() { Err(nobody()) } else { Ok(()) }
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

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]
    use super::*;

    #[rocket::async_test]
    async fn a_pane_finds_a_turn_whatever_else_is_at_work() {
        let (desk, cancel, soon) = (Desk::default(), Cancel::new(), Duration::from_millis(100));
        let take = async |turns: &[&Semaphore]| {
            for turn in turns {
                Desk::turn(turn, &cancel).await.unwrap().forget();
            }
        };
        for _ in 0..LONG {
            timeout(soon, take(&[&desk.long, &desk.behind])).await.unwrap();
        }
        assert!(timeout(soon, take(&[&desk.long])).await.is_err(), "what takes minutes never has every turn");
        timeout(soon, take(&[&desk.aside, &desk.behind])).await.unwrap();
        assert!(timeout(soon, take(&[&desk.aside])).await.is_err(), "one small picture at a time");
        assert!(timeout(soon, take(&[&desk.behind])).await.is_err(), "so many at once and no more");
        for _ in 0..COMPUTING {
            timeout(soon, take(&[&desk.computing])).await.unwrap();
        }
        assert!(timeout(soon, take(&[&desk.computing])).await.is_err());
    }

    #[test]
    fn threads_of_what_no_pane_waits_for_give_way() {
        let nice = || rustix::process::getpriority_process(None).unwrap();
        let (own, theirs) = (nice(), threads_that_give_way().unwrap().install(nice));
        assert_eq!(theirs, (own + GIVES_WAY).min(19), "nice(2) adds up");
        assert_eq!(nice(), own);
    }

    #[rocket::async_test]
    async fn what_is_made_ahead_waits_for_quiet_and_gives_way() {
        let (desk, cancel) = (Desk::default(), Cancel::new());
        let soon = Duration::from_millis(100);
        let wanted = desk.want();
        assert!(timeout(soon, desk.idle(&cancel)).await.is_err(), "somebody waits for something");
        drop(wanted);
        timeout(soon, desk.idle(&cancel)).await.unwrap().unwrap();
        desk.ahead().insert(1, cancel.clone());
        let wanted = [desk.want(), desk.want()];
        assert!(cancel.is_cancelled());
        assert_eq!(desk.idle(&cancel).await.unwrap_err().status, NOBODY_WAITS);
        drop(wanted);
        timeout(soon, desk.idle(&Cancel::new())).await.unwrap().unwrap();
    }
}
