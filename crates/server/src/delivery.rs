//! The drop folder: what a renderer writes into it comes in by itself.
//!
//! The folder is looked at again and again rather than watched by the operating system, which does not tell
//! of files that another machine writes. A file is taken once it has stopped changing; one that changes
//! afterwards is taken again in the place of what it was. Each folder inside makes one shot; files that lie
//! in the drop folder itself make one too.

use crate::Rooms;
use crate::error::Failure;
use crate::routes::{media, shots, work};
use crate::wire;
use chrono::{DateTime, Utc};
use jugata_exchange::ImageFile;
use jugata_shot::delivery;
use jugata_shot::intake::{self, Brought};
use jugata_store::{DeliveredFile, StoreError};
use rocket::http::Status;
use rocket::tokio::time::{Duration, interval};
use std::collections::{BTreeMap, HashMap};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use uuid::Uuid;

/// Time between two looks; a file that did not change from one to the next is ready.
const LOOK: Duration = Duration::from_millis(700);

/// How long a file with missing parts may go on growing before it is taken as it is, seconds.
const PATIENCE: i64 = 6;

/// Folders inside folders that are looked into.
const DEPTH: usize = 4;

/// Files of the drop folder that are looked at.
const MOST: usize = 50_000;

/// Sentences that are kept about files that were not taken.
const SENTENCES: usize = 50;

/// Endings of files that are taken; a renderer's temporary names have others.
const ENDINGS: [&str; 7] = ["exr", "png", "tif", "tiff", "hdr", "jpg", "jpeg"];

/// A file as the folder shows it: its path and its state.
#[derive(Clone, Debug)]
struct Seen {
    path: PathBuf,
    state: DeliveredFile,
}

type State = (i64, DateTime<Utc>);

const fn state(f: &DeliveredFile) -> State {
    (f.bytes, f.modified)
}

type Known = HashMap<(String, String), State>;

fn key(f: &DeliveredFile) -> (String, String) {
    (f.folder.clone(), f.name.clone())
}

/// Looks into the drop folder until the server ends.
pub async fn watch(rooms: Arc<Rooms>, folder: PathBuf) {
    let mut ticks = interval(LOOK);
    let (mut taken, mut before) = (None, Known::new());
    loop {
        ticks.tick().await;
        match round(&rooms, &folder, &mut taken, &mut before).await {
            Ok(()) => {}
            // A database that is away for a while: the next look tries again.
            Err(e) => refuse(&rooms, e.sentence),
        }
    }
}

fn refuse(rooms: &Rooms, sentence: String) {
    if let Ok(mut list) = rooms.refused.lock()
        && list.first() != Some(&sentence)
    {
        list.insert(0, sentence);
        list.truncate(SENTENCES);
    }
}

async fn round(
    rooms: &Arc<Rooms>,
    folder: &Path,
    taken: &mut Option<Known>,
    before: &mut Known,
) -> Result<(), Failure> {
    let taken = match taken {
        Some(taken) => taken,
        None => {
            let rows = work(rooms, |r| r.store.delivered()).await?;
            taken.insert(rows.iter().map(|f| (key(f), state(f))).collect())
        }
    };
    let at = folder.to_owned();
    let seen = work(rooms, move |_| Ok::<_, Failure>(look(&at))).await?;
    let mut ready: BTreeMap<String, Vec<Seen>> = BTreeMap::new();
    for file in &seen {
        let (key, now) = (key(&file.state), state(&file.state));
        if taken.get(&key) != Some(&now) && before.get(&key) == Some(&now) {
            ready.entry(file.state.folder.clone()).or_default().push(file.clone());
        }
    }
    *before = seen.iter().map(|f| (key(&f.state), state(&f.state))).collect();
    for (folder, files) in ready {
        let done = take(rooms, &folder, files).await?;
        let noted = done.clone();
        work(rooms, move |r| r.store.note_delivered(&noted)).await?;
        taken.extend(done.iter().map(|f| (key(f), state(f))));
    }
    Ok(())
}

/// All files below the drop folder that have an ending of a picture.
fn look(folder: &Path) -> Vec<Seen> {
    let mut found = Vec::new();
    gather(folder, folder, 0, &mut found);
    found.sort_by(|a, b| a.path.cmp(&b.path));
    found
}

fn gather(top: &Path, at: &Path, depth: usize, found: &mut Vec<Seen>) {
    let Ok(entries) = std::fs::read_dir(at) else { return };
    for entry in entries.flatten() {
        let (path, Ok(kind)) = (entry.path(), entry.file_type()) else { continue };
        if entry.file_name().to_string_lossy().starts_with('.') || found.len() >= MOST {
            continue;
        }
        if kind.is_dir() && depth < DEPTH {
            gather(top, &path, depth + 1, found);
        } else if kind.is_file()
            && let Some(seen) = seen(top, path)
        {
            found.push(seen);
        }
    }
}

fn seen(top: &Path, path: PathBuf) -> Option<Seen> {
    let ending = path.extension()?.to_str()?.to_ascii_lowercase();
    let about = path.metadata().ok()?;
    let inside = path.strip_prefix(top).ok()?.to_string_lossy().replace('\\', "/");
    let (folder, name) = inside.split_once('/').unwrap_or(("", &inside));
    let state = DeliveredFile {
        folder: folder.to_owned(),
        name: name.to_owned(),
        bytes: i64::try_from(about.len()).ok()?,
        // PostgreSQL keeps microseconds.
        modified: DateTime::from_timestamp_micros(
            DateTime::<Utc>::from(about.modified().ok()?).timestamp_micros(),
        )?,
    };
    ENDINGS.contains(&ending.as_str()).then_some(Seen { path, state })
}

/// Takes the files of one folder; returns those that need no further look.
async fn take(rooms: &Arc<Rooms>, folder: &str, files: Vec<Seen>) -> Result<Vec<DeliveredFile>, Failure> {
    let (mut done, mut brought) = (Vec::new(), Vec::new());
    for file in files {
        match bring(rooms, &file).await {
            Ok(Some(one)) => {
                brought.push(one);
                done.push(file.state);
            }
            Ok(None) => {}
            Err(e) => {
                refuse(rooms, format!("{}: {}", file.path.display(), e.sentence));
                done.push(file.state);
            }
        }
    }
    if !brought.is_empty() {
        let (name, count) = (folder.to_owned(), brought.len());
        let (shot, revision) = match work(rooms, move |r| deliver(r, &name, &brought)).await {
            // A document that cannot hold them will not hold them at the next look either.
            Err(e) if e.status == Status::UnprocessableEntity => {
                refuse(rooms, format!("{folder}: {}", e.sentence));
                return Ok(done);
            }
            other => other?,
        };
        let words = if count == 1 { "one file arrived".into() } else { format!("{count} files arrived") };
        // An error means that nobody listens.
        let _ = rooms.news.send(wire::News { shot, revision, words });
    }
    Ok(done)
}

/// Reads a file into the media store; `None` if it should be left to grow.
async fn bring(rooms: &Arc<Rooms>, file: &Seen) -> Result<Option<Brought>, Failure> {
    let most = rooms.config.upload_bytes;
    if file.state.bytes as u64 > most {
        return Err(Failure::new(
            Status::PayloadTooLarge,
            format!("The file is larger than the {} MiB that are taken.", most >> 20),
        ));
    }
    let path = file.path.clone();
    let bytes = work(rooms, move |_| std::fs::read(path).map_err(StoreError::from)).await?;
    let name = file.state.name.rsplit('/').next().unwrap_or(&file.state.name);
    let young = Utc::now().signed_duration_since(file.state.modified).num_seconds() < PATIENCE;
    let whole = |image: &ImageFile| image.parts.iter().all(|p| p.missing.is_empty());
    match media::examine(rooms, bytes).await {
        Ok((_, image)) if young && !whole(&image) => Ok(None),
        Ok((bytes, _)) => media::keep(rooms, intake::plain(name, 180), bytes).await.map(Some),
        Err(_) if young => Ok(None),
        Err(e) => Err(e),
    }
}

/// Puts files into the shot of their folder, which is made with the first of them.
fn deliver(rooms: &Rooms, folder: &str, files: &[Brought]) -> Result<(Uuid, i32), Failure> {
    let label = shots::label("Deliver", files);
    let Some(id) = rooms.store.delivery(folder)? else {
        let mut shot = intake::shot_of_files(files, rooms.engine.as_ref())?;
        if !folder.is_empty() {
            shot.name = intake::plain(folder, 120);
        }
        let id = rooms.store.create(&shot, &label)?;
        rooms.store.note_delivery(folder, id)?;
        return Ok((id, 1));
    };
    loop {
        let now = rooms.store.load(id)?;
        let mut shot = now.shot;
        delivery::deliver(&mut shot, files, rooms.engine.as_ref())?;
        match rooms.store.append_delivery(id, now.revision, &label, &shot) {
            // Somebody changed the shot in between: on top of that, then.
            Err(StoreError::Stale { .. }) => {}
            other => return Ok((id, other?.revision)),
        }
    }
}

impl Rooms {
    /// Where the drop folder is, and what was not taken from it.
    pub fn delivery(&self) -> wire::Delivery {
        wire::Delivery {
            folder: self.config.drop.as_ref().map(|f| f.display().to_string()),
            refused: self.refused.lock().map(|r| r.clone()).unwrap_or_default(),
        }
    }
}
