//! Shots and their revisions.

use super::{Shared, work};
use crate::error::Failure;
use crate::wire::{BroughtIn, Edit, RevisionSummary, ShotState, ShotSummary, Walk};
use jugata_exchange::{ExchangeError, ImageFile};
use jugata_shot::intake;
use rocket::data::{Data, ToByteUnit};
use rocket::http::Status;
use rocket::serde::json::{Error as JsonError, Json};
use rocket::serde::uuid::Uuid;
use rocket::{get, post};

/// A JSON body, or why it is not one.
pub type Body<'r, T> = Result<Json<T>, JsonError<'r>>;

/// The body, or the sentence.
pub fn body<T>(body: Body<'_, T>) -> Result<T, Failure> {
    body.map(Json::into_inner).map_err(|e| match e {
        JsonError::Io(_) => Failure::new(Status::PayloadTooLarge, "The request is too large or broke off."),
        JsonError::Parse(_, e) => {
            Failure::new(Status::UnprocessableEntity, format!("The request could not be understood: {e}."))
        }
    })
}

#[get("/api/shots")]
pub async fn list(rooms: &Shared) -> Result<Json<Vec<ShotSummary>>, Failure> {
    let rows = work(rooms, |r| r.store.list()).await?;
    Ok(Json(rows.into_iter().map(Into::into).collect()))
}

/// Brings an EXR in as a new shot. The body is the file.
#[post("/api/shots?<name>", data = "<data>")]
pub async fn bring_in(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<BroughtIn>, Failure> {
    let most = rooms.config.upload_bytes;
    let name: String = name.rsplit(['/', '\\']).next().unwrap_or(name).chars().take(180).collect();
    if name.trim().is_empty() {
        return Err(Failure::new(Status::UnprocessableEntity, "The file has no name."));
    }
    let got = data
        .open(most.bytes())
        .into_bytes()
        .await
        .map_err(|_| Failure::new(Status::BadRequest, "The file did not arrive whole; send it again."))?;
    if !got.is_complete() {
        let sentence = format!("The file is larger than the {} MiB that are taken at once.", most >> 20);
        return Err(Failure::new(Status::PayloadTooLarge, sentence));
    }
    let bytes = got.into_inner();
    let limits = rooms.config.limits;
    let (bytes, file) = work(rooms, move |_| {
        let file: ImageFile = jugata_exchange::read(&bytes, &limits)?;
        Ok::<_, ExchangeError>((bytes, file))
    })
    .await?;
    let size = bytes.len() as u64;
    let id = rooms.media.put(bytes).await?;
    let shot = work(rooms, move |r| {
        let shot = intake::shot_of(&file, &name, id.clone());
        r.store.note_media(&id, &name, size)?;
        r.store.create(&shot, &format!("Bring in {name}"))
    })
    .await?;
    Ok(Json(BroughtIn { id: shot }))
}

#[get("/api/shots/<id>")]
pub async fn load(rooms: &Shared, id: Uuid) -> Result<Json<ShotState>, Failure> {
    let loaded = work(rooms, move |r| r.store.load(id)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

#[post("/api/shots/<id>/revisions", data = "<edit>")]
pub async fn edit(rooms: &Shared, id: Uuid, edit: Body<'_, Edit>) -> Result<Json<ShotState>, Failure> {
    let edit = body(edit)?;
    let label: String = edit.label.chars().filter(|c| !c.is_control()).take(200).collect();
    let loaded = work(rooms, move |r| r.store.append(id, edit.base, &label, &edit.shot)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

#[post("/api/shots/<id>/undo", data = "<walk>")]
pub async fn undo(rooms: &Shared, id: Uuid, walk: Body<'_, Walk>) -> Result<Json<ShotState>, Failure> {
    let walk = body(walk)?;
    let loaded = work(rooms, move |r| r.store.undo(id, walk.base)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

#[post("/api/shots/<id>/redo", data = "<walk>")]
pub async fn redo(rooms: &Shared, id: Uuid, walk: Body<'_, Walk>) -> Result<Json<ShotState>, Failure> {
    let walk = body(walk)?;
    let loaded = work(rooms, move |r| r.store.redo(id, walk.base)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

#[get("/api/shots/<id>/history")]
pub async fn history(rooms: &Shared, id: Uuid) -> Result<Json<Vec<RevisionSummary>>, Failure> {
    let rows = work(rooms, move |r| r.store.history(id)).await?;
    Ok(Json(rows.into_iter().map(Into::into).collect()))
}
