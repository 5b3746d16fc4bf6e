//! Work off the request threads, each in its turn at the desk; questions to the database.

use crate::app::App;
use crate::desk::Waits;
use crate::error::Failure;
use jugata_core::Cancel;
use jugata_store::{Store, StoreError};
use rocket::http::Status;
use rocket::tokio::task::spawn_blocking;
use rocket::tokio::time::{Duration, timeout};
use std::future::Future;
use std::sync::Arc;

/// How long the database may keep silent.
const SILENCE: Duration = Duration::from_secs(10);

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

/// Work with pixels, in the turn of whoever waits for it.
///
/// # Errors
/// As the job; nobody who waits.
pub async fn compute<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<App>,
    waits: Waits,
    cancel: &Cancel,
    job: impl FnOnce(&App) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let _turn = rooms.desk.turn(waits, cancel).await?;
    work(rooms, move |rooms| rooms.desk.on_threads(waits, || job(rooms))).await
}

/// Unpacks a file, in its turn.
///
/// # Errors
/// As the job.
pub async fn decode<T, F: Future<Output = Result<T, Failure>>>(
    rooms: &Arc<App>,
    job: impl FnOnce() -> F,
) -> Result<T, Failure> {
    let _turn = rooms.desk.decoding().await?;
    job().await
}
