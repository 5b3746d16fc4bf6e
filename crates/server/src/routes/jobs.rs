//! Ranges of frames that are written.

use super::handoff::{Download, media_type};
use super::shared::Shared;
use super::shots::{Body, body};
use crate::app::App;
use crate::error::Failure;
use crate::wire::{AskJob, ChangeJob, FrameOfJob, Job, Outbox};
use crate::work::ask as inquire;
use crate::work::work;
use jugata_shot::document::FrameRange;
use jugata_shot::handoff::Wish;
use jugata_store::{JobFrame, JobRow, JobState, Store, StoreError};
use rocket::http::{ContentType, Header, Status};
use rocket::response::stream::{ByteStream, Event, EventStream, stream};
use rocket::response::{self, Responder};
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::tokio::select;
use rocket::tokio::sync::mpsc::{Receiver, Sender, channel};
use rocket::tokio::time::{Duration, sleep};
use rocket::{Request, Shutdown, delete, get, post};
use std::io::{self, Write};
use std::sync::Arc;
use zip::CompressionMethod::Stored;
use zip::write::{SimpleFileOptions, ZipWriter};

/// Asks for a range of frames of a revision.
#[post("/api/shots/<id>/revisions/<number>/jobs", data = "<ask>")]
pub async fn start(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    ask: Body<'_, AskJob>,
) -> Result<(Status, Json<Job>), Failure> {
    let AskJob { wish, range } = body(ask)?;
    if wish.folder.is_some() && rooms.config.out.is_none() {
        let sentence = "This server has no folder to write into; it is started with one by --out.";
        return Err(Failure::new(Status::UnprocessableEntity, sentence));
    }
    let job = inquire(rooms, move |s| s.start_job(id, number, &wish, range)).await?;
    rooms.jobs.notify_one();
    Ok((Status::Created, Json(job.into())))
}

/// The folder for hand-off, and what keeps frames from being put there.
#[get("/api/outbox")]
pub fn outbox(rooms: &Shared) -> Json<Outbox> {
    Json(rooms.outbox())
}

/// The jobs of a shot, the newest first.
#[get("/api/shots/<id>/jobs")]
pub async fn list(rooms: &Shared, id: Uuid) -> Result<Json<Vec<Job>>, Failure> {
    Ok(Json(told(rooms, id).await?))
}

async fn told(rooms: &Arc<App>, shot: Uuid) -> Result<Vec<Job>, Failure> {
    Ok(inquire(rooms, move |s| s.jobs_of(shot)).await?.into_iter().map(Into::into).collect())
}

/// How often it is looked how far jobs have come, while somebody watches.
const LOOK: Duration = Duration::from_millis(400);

/// The jobs of a shot, again and again as they come on, whoever works on them.
#[get("/api/shots/<id>/jobs/news")]
pub fn news(rooms: &Shared, id: Uuid, mut end: Shutdown) -> EventStream![] {
    let rooms = Arc::clone(rooms);
    EventStream! {
        let mut before = None;
        loop {
            // While the database is away there is nothing to tell.
            if let Ok(now) = told(&rooms, id).await
                && before.as_ref() != Some(&now)
            {
                yield Event::json(&now);
                before = Some(now);
            }
            select! {
                () = sleep(LOOK) => {}
                () = &mut end => break,
            }
        }
    }
}

/// Pauses a job, stops it, lets it go on, tries again or puts it first.
#[post("/api/jobs/<id>", data = "<change>")]
pub async fn change(rooms: &Shared, id: Uuid, change: Body<'_, ChangeJob>) -> Result<Json<Job>, Failure> {
    let change = body(change)?;
    let job = inquire(rooms, move |s| changed(s, id, change)).await?;
    rooms.jobs.notify_one();
    Ok(Json(job.into()))
}

fn changed(store: &Store, id: Uuid, change: ChangeJob) -> Result<JobRow, StoreError> {
    match change {
        ChangeJob::Pause => store.set_job(id, JobState::Paused),
        ChangeJob::Stop => store.set_job(id, JobState::Stopped),
        ChangeJob::GoOn => store.set_job(id, JobState::Running),
        ChangeJob::TryAgain => store.try_again(id),
        ChangeJob::First => store.put_first(id),
    }
}

/// Forgets a job; what it has written goes when media are collected.
#[delete("/api/jobs/<id>")]
pub async fn remove(rooms: &Shared, id: Uuid) -> Result<Status, Failure> {
    inquire(rooms, move |s| s.remove_job(id)).await?;
    Ok(Status::NoContent)
}

/// Frames of a job that are shown as it comes on.
const SHOWN: usize = 8;

/// Frames of which it is told what went wrong.
const TOLD: usize = 50;

/// Some frames of a job that are written, from its first to its last, and those of which something is to be told.
#[get("/api/jobs/<id>/frames")]
pub async fn frames(rooms: &Shared, id: Uuid) -> Result<Json<Vec<FrameOfJob>>, Failure> {
    let frames = inquire(rooms, move |s| s.job_frames(id)).await?;
    let (written, others): (Vec<JobFrame>, Vec<JobFrame>) = frames.into_iter().partition(|f| f.written);
    let count = written.len();
    let shown =
        (0..SHOWN.min(count)).map(|i| written[i * (count - 1) / (SHOWN.min(count) - 1).max(1)].clone());
    let told = others.into_iter().filter(|f| f.error.is_some()).take(TOLD);
    Ok(Json(shown.chain(told).map(Into::into).collect()))
}

/// The file of a frame.
#[get("/api/jobs/<id>/frames/<frame>")]
pub async fn file(rooms: &Shared, id: Uuid, frame: i32) -> Result<Download, Failure> {
    let (made, wish) = inquire(rooms, move |s| Ok((s.job_frame(id, frame)?, s.job(id)?.wish))).await?;
    let bytes = rooms.media.get(&made.media).await?;
    Ok(Download::named(bytes, media_type(wish.form.format), &wish.file_name(frame)?))
}

/// A small picture of a frame, by which a page can tell that another was made in its place.
#[get("/api/jobs/<id>/frames/<frame>/picture")]
pub async fn picture(rooms: &Shared, id: Uuid, frame: i32) -> Result<(ContentType, Vec<u8>), Failure> {
    let made = inquire(rooms, move |s| s.job_frame(id, frame)).await?;
    let none = || Failure::new(Status::NotFound, "There is no picture of this frame.");
    Ok((ContentType::PNG, made.picture.ok_or_else(none)?))
}

/// All files of a job in one, as it comes.
pub struct Zip {
    come: Receiver<Vec<u8>>,
    name: Header<'static>,
}

impl<'r> Responder<'r, 'r> for Zip {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'r> {
        let mut come = self.come;
        let pieces = stream! {
            while let Some(piece) = come.recv().await {
                yield piece;
            }
        };
        let mut answer = ByteStream(pieces).respond_to(request)?;
        answer.set_header(ContentType::ZIP);
        answer.set_header(self.name);
        Ok(answer)
    }
}

/// Pieces of the file that wait for the network.
const PIECES: usize = 8;

/// The frames that are written, as one file.
#[get("/api/jobs/<id>/zip")]
pub async fn together(rooms: &Shared, id: Uuid) -> Result<Zip, Failure> {
    let job = inquire(rooms, move |s| s.job(id)).await?;
    if job.done == 0 {
        return Err(Failure::new(Status::NotFound, "Nothing of it is written yet."));
    }
    let name = super::handoff::attached(&job.wish.name.replace('#', ""), "zip");
    let (pieces, come) = channel(PIECES);
    let rooms = Arc::clone(rooms);
    rocket::tokio::spawn(async move {
        let zipped = work(&rooms, move |r| zipped(r, id, job.range, &job.wish, pieces));
        if let Err(e) = zipped.await {
            tracing::warn!("the zip of a job was not finished: {}", e.sentence);
        }
    });
    Ok(Zip { come, name })
}

/// Writes what is there of a job, a file after the other: what is sent needs no memory and no disk.
fn zipped(
    rooms: &App,
    id: Uuid,
    range: FrameRange,
    wish: &Wish,
    pieces: Sender<Vec<u8>>,
) -> Result<(), Failure> {
    let broken = |e: &dyn std::fmt::Display| Failure::new(NOBODY, e.to_string());
    let runtime = rocket::tokio::runtime::Handle::current();
    let mut zip = ZipWriter::new_stream(Sent { pieces, waiting: Vec::with_capacity(PIECE) });
    // Both EXR and PNG are compressed already.
    let options = SimpleFileOptions::default().compression_method(Stored).large_file(true);
    for frame in range.first..=range.last {
        let Ok(made) = rooms.store.job_frame(id, frame) else { continue };
        let bytes = runtime.block_on(rooms.media.get(&made.media))?;
        zip.start_file(wish.file_name(frame)?, options).map_err(|e| broken(&e))?;
        zip.write_all(&bytes).map_err(|e| broken(&e))?;
    }
    let mut sent = zip.finish().map_err(|e| broken(&e))?.into_inner();
    sent.flush().map_err(|e| broken(&e))
}

const NOBODY: Status = crate::error::NOBODY_WAITS;

/// Bytes that are sent at once.
const PIECE: usize = 256 << 10;

/// Hands what is written on to the network.
struct Sent {
    pieces: Sender<Vec<u8>>,
    waiting: Vec<u8>,
}

impl Write for Sent {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.waiting.extend_from_slice(bytes);
        if self.waiting.len() >= PIECE {
            self.flush()?;
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        if self.waiting.is_empty() {
            return Ok(());
        }
        let piece = std::mem::replace(&mut self.waiting, Vec::with_capacity(PIECE));
        self.pieces.blocking_send(piece).map_err(|_| io::Error::from(io::ErrorKind::BrokenPipe))
    }
}
