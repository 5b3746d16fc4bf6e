//! The drop folder: what a renderer writes into it comes in by itself.
//!
//! The folder is looked at again and again rather than watched by the operating system, which does not tell
//! of files that another machine writes. A file is taken once it has stopped changing; one that changes
//! afterwards is taken again in the place of what it was. Each folder inside makes one shot; files that lie
//! in the drop folder itself make one too.
//!
//! Only what is wrong with a file itself is noted in the database, so that it is not tried again until the file changes.
//! Everything else (a full disk, a database that is away, a file that cannot be opened) passes: such a file is tried again,
//! after a pause that grows with every failure.

use crate::app::App;
use crate::desk::Waits;
use crate::error::Failure;
use crate::routes::{media, shots};
use crate::troubles::{key, path_of};
use crate::wire;
use crate::work::{ask, compute, decode, work};
use chrono::{DateTime, Utc};
use jugata_core::Cancel;
use jugata_exchange::ImageFile;
use jugata_shot::delivery;
use jugata_shot::intake::{self, MediaFile};
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

/// Looks into the drop folder until the server ends.
pub async fn watch(rooms: Arc<App>, folder: PathBuf) {
    let mut ticks = interval(LOOK);
    let (mut taken, mut before) = (None, Known::new());
    loop {
        ticks.tick().await;
        let trouble = round(&rooms, &folder, &mut taken, &mut before).await.err().map(|e| e.sentence);
        let mut troubles = rooms.troubles();
        if let Some(sentence) = trouble.as_ref().filter(|t| troubles.all.as_ref() != Some(*t)) {
            tracing::warn!("the drop folder: {sentence}");
        }
        troubles.all = trouble;
    }
}

async fn round(
    rooms: &Arc<App>,
    folder: &Path,
    taken: &mut Option<Known>,
    before: &mut Known,
) -> Result<(), Failure> {
    let taken = match taken {
        Some(taken) => taken,
        None => {
            let rows = ask(rooms, |s| s.delivered()).await?;
            taken.insert(rows.iter().map(|f| (key(f), state(f))).collect())
        }
    };
    let at = folder.to_owned();
    let seen = work(rooms, move |_| look(&at)).await?;
    let mut ready: BTreeMap<String, Vec<Seen>> = BTreeMap::new();
    for file in &seen {
        let (key, now) = (key(&file.state), state(&file.state));
        let settled = before.get(&key) == Some(&now);
        if taken.get(&key) != Some(&now) && settled && !rooms.troubles().rests(&key) {
            ready.entry(file.state.folder.clone()).or_default().push(file.clone());
        }
    }
    *before = seen.iter().map(|f| (key(&f.state), state(&f.state))).collect();
    // A file that is gone troubles nobody.
    rooms.troubles().files.retain(|key, _| before.contains_key(key));
    let mut first = Ok(());
    for (folder, files) in ready {
        match take(rooms, &folder, files).await {
            Ok(done) => {
                rooms.troubles().ended(&done);
                taken.extend(done.iter().map(|f| (key(f), state(f))));
            }
            // The files of other folders may come in all the same.
            Err(e) => first = first.and(Err(e)),
        }
    }
    first
}

/// All files below the drop folder that have an ending of a picture. The folder is made again where somebody has taken it
/// away.
fn look(folder: &Path) -> Result<Vec<Seen>, Failure> {
    let mut found = Vec::new();
    if std::fs::read_dir(folder).is_err()
        && let Err(e) = std::fs::create_dir_all(folder)
    {
        let sentence = format!("The drop folder {} cannot be read or made: {e}.", folder.display());
        return Err(Failure::new(Status::ServiceUnavailable, sentence));
    }
    gather(folder, folder, 0, &mut found);
    found.sort_by(|a, b| a.path.cmp(&b.path));
    Ok(found)
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
        refused: None,
    };
    ENDINGS.contains(&ending.as_str()).then_some(Seen { path, state })
}

/// Whether a failure is the file's own, which will fail again until somebody writes it anew.
const fn is_final(e: &Failure) -> bool {
    matches!(e.status.code, 413 | 415 | 422)
}

/// Takes the files of one folder; returns those that need no further look: taken, or refused for good.
async fn take(rooms: &Arc<App>, folder: &str, files: Vec<Seen>) -> Result<Vec<DeliveredFile>, Failure> {
    let (mut taken, mut brought, mut refused) = (Vec::new(), Vec::new(), Vec::new());
    for file in files {
        match bring(rooms, &file).await {
            Ok(Some(one)) => {
                brought.push(one);
                taken.push(file.state);
            }
            Ok(None) => {}
            Err(e) if is_final(&e) => {
                refused.push(DeliveredFile { refused: Some(e.sentence), ..file.state });
            }
            Err(e) => rooms.troubles().failed(key(&file.state), e.sentence),
        }
    }
    if !brought.is_empty() {
        let (name, count, noted) = (folder.to_owned(), brought.len(), taken.clone());
        match compute(rooms, Waits::Page, &Cancel::new(), move |r| deliver(r, &name, &brought, &noted)).await
        {
            Ok((shot, revision)) => {
                let words =
                    if count == 1 { "one file arrived".into() } else { format!("{count} files arrived") };
                rooms.news.tell(wire::News { shot, revision, words });
            }
            // A document that cannot hold them will not hold them at the next look either.
            Err(e) if is_final(&e) => {
                let sentence = e.sentence;
                let why = |f| DeliveredFile { refused: Some(sentence.clone()), ..f };
                refused.extend(std::mem::take(&mut taken).into_iter().map(why));
            }
            Err(e) => {
                let mut troubles = rooms.troubles();
                taken.iter().for_each(|f| troubles.failed(key(f), e.sentence.clone()));
                taken.clear();
            }
        }
    }
    if !refused.is_empty() {
        refused.iter().for_each(|f| {
            let why = f.refused.as_deref().unwrap_or_default();
            tracing::warn!("{} was not taken: {why}", path_of(&f.folder, &f.name));
        });
        let noted = refused.clone();
        ask(rooms, move |s| s.note_delivered(&noted)).await?;
    }
    taken.append(&mut refused);
    Ok(taken)
}

/// Reads a file into the media store; `None` if it should be left to grow.
async fn bring(rooms: &Arc<App>, file: &Seen) -> Result<Option<MediaFile>, Failure> {
    let most = rooms.config.upload_bytes;
    if file.state.bytes as u64 > most {
        return Err(Failure::new(
            Status::PayloadTooLarge,
            format!("The file is larger than the {} MiB that are taken.", most >> 20),
        ));
    }
    let path = file.path.clone();
    let name = file.state.name.rsplit('/').next().unwrap_or(&file.state.name);
    let young = Utc::now().signed_duration_since(file.state.modified).num_seconds() < PATIENCE;
    let whole = |image: &ImageFile| image.parts.iter().all(|p| p.missing.is_empty());
    decode(rooms, || async {
        let bytes = work(rooms, move |_| std::fs::read(path).map_err(StoreError::from)).await?;
        match media::examine(rooms, bytes).await {
            Ok((_, image)) if young && !whole(&image) => Ok(None),
            Ok((bytes, _)) => media::keep(rooms, intake::plain(name, 180), bytes).await.map(Some),
            Err(_) if young => Ok(None),
            Err(e) => Err(e),
        }
    })
    .await
}

/// Puts files into the shot of their folder, which is made with the first of them.
fn deliver(
    rooms: &App,
    folder: &str,
    files: &[MediaFile],
    noted: &[DeliveredFile],
) -> Result<(Uuid, i32), Failure> {
    let label = shots::label("Deliver", files);
    let Some(id) = rooms.store.delivery(folder)? else {
        let mut shot = intake::shot_of_files(files, rooms.engine.as_ref())?;
        if !folder.is_empty() {
            shot.name = intake::plain(folder, 120);
        }
        return Ok((rooms.store.create_delivery(folder, &label, &shot, noted)?, 1));
    };
    loop {
        let now = rooms.store.load(id)?;
        let mut shot = now.shot;
        delivery::deliver(&mut shot, files, rooms.engine.as_ref())?;
        match rooms.store.append_delivery(id, now.revision, &label, &shot, noted) {
            // Somebody changed the shot in between: on top of that, then.
            Err(StoreError::Stale { .. }) => {}
            other => return Ok((id, other?.revision)),
        }
    }
}
