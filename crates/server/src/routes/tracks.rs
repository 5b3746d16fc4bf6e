//! Planes that are followed through a shot.

use super::shared::{Shared, drafted, revision};
use super::shots::{Body, body};
use crate::app::App;
use crate::desk::Waits;
use crate::error::Failure;
use crate::wire::{AskFollow, Draft, Following as News, ShotState};
use crate::work::{ask, compute};
use jugata_core::Cancel;
use jugata_core::track::course::Mark;
use jugata_shot::Shot;
use jugata_shot::edits::EditAt;
use jugata_shot::files::MediaFile;
use jugata_shot::tracks::file::TrackFile;
use jugata_shot::tracks::following::{Following, TrackSeen, follow, seen};
use rocket::http::Status;
use rocket::post;
use rocket::response::stream::TextStream;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::tokio::sync::mpsc::{UnboundedSender, unbounded_channel};
use std::sync::{Arc, PoisonError};

/// Where the tracks of a shot are at a frame.
#[post("/api/tracks", data = "<draft>")]
pub async fn tracks(rooms: &Shared, draft: Body<'_, Draft>) -> Result<Json<Vec<TrackSeen>>, Failure> {
    let draft = body(draft)?;
    let frame = draft.frame;
    let shot = drafted(rooms, draft).await?;
    let frame = frame.unwrap_or(shot.first_frame());
    let told =
        compute(rooms, Waits::Pane, &Cancel::new(), move |r| Ok::<_, Failure>(seen(&r.engine, &shot, frame)))
            .await?;
    Ok(Json(told))
}

/// Follows a track, and tells each frame as it is done. What is found is kept as a revision, whether or not somebody still
/// listens; one who stops listening stops it.
#[post("/api/shots/<id>/revisions/<number>/follow", data = "<which>")]
pub async fn start(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    which: Body<'_, AskFollow>,
) -> Result<TextStream![String], Failure> {
    let which = body(which)?;
    let shot = revision(rooms, id, number).await?;
    let key = (id, which.element, which.track);
    let cancel = Cancel::new();
    {
        let mut running = rooms.followed.lock().unwrap_or_else(PoisonError::into_inner);
        if running.contains_key(&key) {
            return Err(Failure::new(Status::Conflict, "This track is being followed already."));
        }
        running.insert(key, cancel.clone());
    }
    let (said, mut heard) = unbounded_channel();
    let rooms = Arc::clone(rooms);
    rocket::tokio::spawn(async move {
        let end = match followed(&rooms, (id, number), shot, which, (&cancel, said.clone())).await {
            Ok(state) => News::Done { state: Box::new(state) },
            Err(e) => News::Failed { sentence: e.sentence },
        };
        rooms.followed.lock().unwrap_or_else(PoisonError::into_inner).remove(&key);
        // Nobody may be listening any more.
        let _ = said.send(end);
    });
    Ok(TextStream! {
        while let Some(news) = heard.recv().await {
            let mut line = serde_json::to_string(&news).unwrap_or_default();
            line.push('\n');
            yield line;
        }
    })
}

/// Stops a track that is being followed; what was found so far is kept.
#[post("/api/shots/<id>/follow/stop", data = "<which>")]
pub async fn stop(rooms: &Shared, id: Uuid, which: Body<'_, AskFollow>) -> Result<Status, Failure> {
    let which = body(which)?;
    let running = rooms.followed.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(cancel) = running.get(&(id, which.element, which.track)) {
        cancel.cancel();
    }
    Ok(Status::NoContent)
}

async fn followed(
    rooms: &Arc<App>,
    (id, base): (Uuid, i32),
    shot: Arc<Shot>,
    which: AskFollow,
    (cancel, said): (&Cancel, UnboundedSender<News>),
) -> Result<ShotState, Failure> {
    let (stop, name) = (cancel.clone(), shot.name.clone());
    let course = compute(rooms, Waits::Job, cancel, move |r| {
        let what =
            Following { shot: &shot, element: which.element, track: which.track, frames: which.frames };
        let mut told = |m: &Mark, [done, of]: [usize; 2]| {
            if said.send(News::Frame { fit: m.into(), done, of }).is_err() {
                stop.cancel();
            }
        };
        Ok::<_, Failure>(follow(&r.engine, what, &stop, &mut told)?)
    })
    .await?;
    let bytes = serde_json::to_vec(&TrackFile::of(&course))
        .map_err(|e| Failure::new(Status::InternalServerError, e.to_string()))?;
    let size = bytes.len() as u64;
    let media = rooms.media.put(bytes).await?;
    let file = MediaFile { name: format!("{name}.track.json"), media: media.clone() };
    let put =
        serde_json::to_value(&file).map_err(|e| Failure::new(Status::InternalServerError, e.to_string()))?;
    let at = format!("elements/{}/tracks/{}/found", which.element, which.track);
    let edit = EditAt { at, put: Some(put), after: None };
    let loaded = ask(rooms, move |s| {
        s.note_media(&media, &file.name, size)?;
        s.edit(id, base, "Follow a plane", &[edit])
    })
    .await?;
    Ok(ShotState::new(id, loaded))
}
