//! The server's own worker: it makes frames of jobs in its turn among the pictures that people wait for.

use crate::app::App;
use crate::desk::Waits;
use crate::work::{compute, work};
use jugata_core::Cancel;
use jugata_store::{Outcome, Taken, Worker};
use rocket::tokio::runtime::Handle;
use rocket::tokio::select;
use rocket::tokio::time::{Duration, sleep};
use std::sync::Arc;

/// How long it waits when there is nothing to do; a job that is asked for here wakes it at once.
const REST: Duration = Duration::from_secs(1);

/// Takes frames and makes them for as long as the server runs.
pub async fn work_on(rooms: Arc<App>) {
    let (store, media, engine) = (rooms.store.clone(), rooms.media.clone(), rooms.engine.clone());
    let worker = Arc::new(Worker::new(store, media, engine, Handle::current()));
    loop {
        let taking = worker.clone();
        let taken = work(&rooms, move |_| taking.take()).await;
        match taken {
            Ok(Some(taken)) => {
                if !make(&rooms, &worker, taken).await {
                    return;
                }
            }
            // Nothing to do, or no database.
            Ok(None) | Err(_) => select! {
                () = rooms.jobs.notified() => {}
                () = sleep(REST) => {}
            },
        }
    }
}

/// False if the server ends.
async fn make(rooms: &Arc<App>, worker: &Arc<Worker>, taken: Taken) -> bool {
    let cancel = Cancel::new();
    let (worker, end, frame) = (worker.clone(), cancel.clone(), taken.frame);
    match compute(rooms, Waits::Job, &cancel, move |_| {
        Ok::<_, crate::error::Failure>(worker.make(&taken, &end))
    })
    .await
    {
        Ok(Outcome::Failed(sentence)) => tracing::warn!("frame {frame}: {sentence}"),
        Ok(_) => {}
        Err(e) => {
            tracing::warn!("frame {frame} was left: {}", e.sentence);
            return e.status != rocket::http::Status::ServiceUnavailable;
        }
    }
    true
}
