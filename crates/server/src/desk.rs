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

use crate::error::{Failure, NOBODY_WAITS};
use jugata_core::Cancel;
use moka::future::Cache;
use rayon::{ThreadPool, ThreadPoolBuilder};
use rocket::http::Status;
use rocket::tokio::sync::{Semaphore, SemaphorePermit};
use rocket::tokio::time::{Duration, sleep};
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

/// How often somebody who waits for a turn looks whether the answer is still wanted.
const LOOK: Duration = Duration::from_millis(20);

/// What is being worked on.
pub struct Desk {
    computing: Semaphore,
    behind: Semaphore,
    /// The one turn of small pictures.
    aside: Semaphore,
    long: Semaphore,
    decoding: Semaphore,
    /// Threads for what no pane waits for, as many lots as there are turns of that; fewer if the system gave none.
    ///
    /// Each job has a lot to itself. A thread that waits for its share of a job takes up whatever its lot has to do meanwhile: were
    /// that another job, which wants what the first has begun to load, both would wait for ever.
    giving_way: Mutex<Vec<ThreadPool>>,
    finished: Cache<String, Arc<Vec<u8>>>,
    running: Mutex<HashMap<u64, Cancel>>,
    ahead: Mutex<HashMap<u64, Cancel>>,
    /// Computations that somebody waits for, begun or in the queue.
    wanted: AtomicUsize,
    next: AtomicU64,
    begun: AtomicU64,
}

/// Who waits for a computation, and so which turns it takes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Waits {
    /// A pane.
    Pane,
    /// Somebody, though no pane: it leaves the processors to those.
    Page,
    /// A page that asks for dozens of small pictures: one at a time, behind the panes.
    Strip,
    /// A job, or a track that is followed, for minutes: it leaves the processors to everybody else, and keeps nobody from
    /// working ahead.
    Job,
    /// Nobody yet: while nothing else is to be done, and given up for what is.
    Nobody,
}

/// A turn for as long as this lives.
pub struct Turn<'d> {
    desk: &'d Desk,
    number: u64,
    permits: Vec<SemaphorePermit<'d>>,
    wanted: Option<Wanted<'d>>,
}

impl Drop for Turn<'_> {
    fn drop(&mut self) {
        self.desk.running().remove(&self.number);
        self.desk.ahead().remove(&self.number);
    }
}

/// A lot of threads that one job has to itself for as long as this lives.
struct Lent<'d> {
    desk: &'d Desk,
    threads: Option<ThreadPool>,
}

impl Drop for Lent<'_> {
    fn drop(&mut self) {
        self.desk.lots().extend(self.threads.take());
    }
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
            giving_way: Mutex::new((0..BEHIND).map_while(|_| threads_that_give_way()).collect()),
            finished: Cache::builder().max_capacity(FINISHED).weigher(weigh).build(),
            running: Mutex::default(),
            ahead: Mutex::default(),
            wanted: AtomicUsize::new(0),
            next: AtomicU64::new(0),
            begun: AtomicU64::new(0),
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
        self.begun.load(Ordering::Relaxed)
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

    /// A turn for whoever waits.
    ///
    /// # Errors
    /// Nobody who waits; for what is made ahead, somebody who waits for something else.
    pub async fn turn(&self, waits: Waits, cancel: &Cancel) -> Result<Turn<'_>, Failure> {
        let number = self.next.fetch_add(1, Ordering::Relaxed);
        let mut turn = Turn { desk: self, number, permits: Vec::new(), wanted: None };
        match waits {
            Waits::Pane | Waits::Page | Waits::Strip => turn.wanted = Some(self.want()),
            Waits::Job => {}
            Waits::Nobody => {
                self.idle(cancel).await?;
                self.ahead().insert(number, cancel.clone());
                // Something may have been wanted between the look and the note.
                if self.wanted.load(Ordering::SeqCst) > 0 {
                    return Err(Failure::nobody_waits());
                }
            }
        }
        let of: &[&Semaphore] = match waits {
            Waits::Pane => &[&self.computing],
            Waits::Page | Waits::Nobody => &[&self.behind],
            Waits::Strip => &[&self.aside, &self.behind],
            Waits::Job => &[&self.long, &self.behind],
        };
        for &of in of {
            turn.permits.push(Self::permit(of, cancel).await?);
        }
        self.running().insert(number, cancel.clone());
        self.begun.fetch_add(1, Ordering::Relaxed);
        Ok(turn)
    }

    /// A turn to unpack a file.
    ///
    /// # Errors
    /// The server ends.
    pub async fn decoding(&self) -> Result<SemaphorePermit<'_>, Failure> {
        Self::permit(&self.decoding, &Cancel::new()).await
    }

    /// Does a job on the threads of whoever waits for it.
    pub fn on_threads<T: Send>(&self, waits: Waits, job: impl FnOnce() -> T + Send) -> T {
        if waits == Waits::Pane {
            return job();
        }
        let lent = Lent { desk: self, threads: self.lots().pop() };
        match &lent.threads {
            Some(threads) => threads.install(job),
            None => job(),
        }
    }

    fn lots(&self) -> std::sync::MutexGuard<'_, Vec<ThreadPool>> {
        self.giving_way.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// A permit, or an error as soon as nobody wants it any more.
    async fn permit<'s>(of: &'s Semaphore, cancel: &Cancel) -> Result<SemaphorePermit<'s>, Failure> {
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

fn given_up(cancel: &Cancel) -> Result<(), Failure> {
    if cancel.is_cancelled() { Err(Failure::nobody_waits()) } else { Ok(()) }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]
    use super::*;
    use rocket::tokio::time::timeout;

    #[rocket::async_test]
    async fn a_pane_finds_a_turn_whatever_else_is_at_work() {
        let (desk, cancel, soon) = (Desk::default(), Cancel::new(), Duration::from_millis(100));
        let take = async |turns: &[&Semaphore]| {
            for turn in turns {
                Desk::permit(turn, &cancel).await.unwrap().forget();
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

    #[test]
    fn jobs_that_load_the_same_at_once_do_not_wait_for_each_other_for_ever() {
        use rayon::prelude::*;
        use std::sync::mpsc;
        let desk = Arc::new(Desk::default());
        let cache = moka::sync::Cache::<u32, u32>::new(8);
        let load = || {
            let piece = |i: u32| std::thread::sleep(Duration::from_millis(u64::from(i % 7)));
            (0..64).into_par_iter().for_each(piece);
            7
        };
        let (done, finished) = mpsc::channel();
        for key in 0..5 {
            for late in 0..BEHIND as u64 {
                let (desk, cache, done) = (Arc::clone(&desk), cache.clone(), done.clone());
                std::thread::spawn(move || {
                    std::thread::sleep(Duration::from_millis(4 * late));
                    let loaded = desk.on_threads(Waits::Page, || cache.get_with(key, load));
                    let _ = done.send(loaded);
                });
            }
            for _ in 0..BEHIND {
                let loaded = finished.recv_timeout(Duration::from_secs(30));
                assert_eq!(loaded, Ok(7), "they wait for each other");
            }
        }
        assert_eq!(desk.lots().len(), BEHIND, "every lot came back");
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
