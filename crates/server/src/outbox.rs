//! The folder for hand-off: frames of jobs that name a folder are put there as they are written, whoever wrote them.
//!
//! A file is written beside its place and renamed, so that nobody reads half of one. What fails (a full disk, a folder that
//! is gone) is told in the interface and tried again; the frame stays in the media store meanwhile.

use crate::app::App;
use crate::error::Failure;
use crate::work::{ask, work};
use jugata_store::ToPut;
use rocket::http::Status;
use rocket::tokio::time::{Duration, sleep};
use std::collections::HashSet;
use std::fs::{self, File};
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::{Arc, PoisonError};
use uuid::Uuid;

/// How often it looks for frames that were written.
const LOOK: Duration = Duration::from_millis(500);

/// How long it rests after something failed.
const REST: Duration = Duration::from_secs(5);

/// Frames that are put at once.
const AT_ONCE: i64 = 16;

/// Puts frames into the folder for as long as the server runs.
pub async fn put_out(rooms: Arc<App>, folder: PathBuf) {
    let mut failed = HashSet::new();
    loop {
        let done = round(&rooms, &folder, &mut failed).await;
        told(&rooms, done.as_ref().err().map(|e| e.sentence.clone()));
        match done {
            Ok(count) if count > 0 => {}
            Ok(_) => sleep(LOOK).await,
            Err(_) => {
                sleep(REST).await;
                failed.clear();
            }
        }
    }
}

/// Keeps what is in the way, for those who look; the log hears of each trouble once.
fn told(rooms: &App, trouble: Option<String>) {
    let mut kept = rooms.out_trouble.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(sentence) = trouble.as_ref().filter(|t| kept.as_ref() != Some(*t)) {
        tracing::warn!("the folder for hand-off: {sentence}");
    }
    *kept = trouble;
}

/// Puts frames until none is left but those that have failed, and says how many.
async fn round(rooms: &Arc<App>, folder: &Path, failed: &mut HashSet<(Uuid, i32)>) -> Result<usize, Failure> {
    let (mut count, mut first) = (0, Ok(()));
    loop {
        let most = AT_ONCE + failed.len() as i64;
        let all = ask(rooms, move |s| s.to_put(most)).await?;
        let mut new = all.into_iter().filter(|one| !failed.contains(&(one.job, one.frame))).peekable();
        if new.peek().is_none() {
            return first.map(|()| count);
        }
        // One that cannot be put keeps no other from its folder.
        for one in new.collect::<Vec<_>>() {
            match carried(rooms, folder, &one).await {
                Ok(()) => count += 1,
                Err(e) => {
                    failed.insert((one.job, one.frame));
                    first = first.and(Err(e));
                }
            }
        }
    }
}

async fn carried(rooms: &Arc<App>, folder: &Path, one: &ToPut) -> Result<(), Failure> {
    let bytes = rooms.media.get(&one.media).await?;
    let (at, of) = (folder.join(&one.folder), one.clone());
    work(rooms, move |_| put(&at, &of, &bytes)).await?;
    let of = one.clone();
    ask(rooms, move |s| s.note_put(&of)).await
}

fn put(folder: &Path, of: &ToPut, bytes: &[u8]) -> Result<(), Failure> {
    let to = folder.join(&of.name);
    let part = folder.join(format!(".{}.part", of.name));
    let write = || -> io::Result<()> {
        fs::create_dir_all(folder)?;
        let mut file = File::create(&part)?;
        file.write_all(bytes)?;
        file.sync_all()?;
        fs::rename(&part, &to)
    };
    write().map_err(|e| {
        let _ = fs::remove_file(&part);
        let sentence = format!("{} cannot be written ({e}); it is tried again.", to.display());
        Failure::new(Status::InternalServerError, sentence)
    })
}
