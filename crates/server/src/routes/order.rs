//! Shots kept in order: names, copies, what is put away or deleted, names of revisions, what media take.

use super::shared::Shared;
use super::shots::{Body, body};
use crate::error::Failure;
use crate::wire::{Arrange, BringBack, BroughtIn, MediaUsage, ShotState};
use crate::work::ask;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{get, patch, post, put};

/// Renames, puts away, deletes, or brings back a shot.
#[patch("/api/shots/<id>", data = "<change>")]
pub async fn arrange(rooms: &Shared, id: Uuid, change: Body<'_, Arrange>) -> Result<Status, Failure> {
    let change = body(change)?;
    ask(rooms, move |s| {
        if let Some(name) = &change.name {
            s.rename(id, name)?;
        }
        if let Some(away) = change.put_away {
            s.put_away(id, away)?;
        }
        change.deleted.map_or(Ok(()), |deleted| s.delete(id, deleted))
    })
    .await?;
    Ok(Status::NoContent)
}

/// A new shot that begins as another one stands.
#[post("/api/shots/<id>/copy")]
pub async fn copy(rooms: &Shared, id: Uuid) -> Result<Json<BroughtIn>, Failure> {
    Ok(Json(BroughtIn { id: ask(rooms, move |s| s.copy(id)).await? }))
}

/// Gives a revision a name; an empty one takes it away.
#[put("/api/shots/<id>/revisions/<number>/name", data = "<name>")]
pub async fn name(rooms: &Shared, id: Uuid, number: i32, name: Body<'_, String>) -> Result<Status, Failure> {
    let name = body(name)?;
    let name = (!name.trim().is_empty()).then_some(name);
    ask(rooms, move |s| s.name_revision(id, number, name.as_deref())).await?;
    Ok(Status::NoContent)
}

/// Makes the shot as it was at a revision, as a change that can be undone.
#[post("/api/shots/<id>/revisions/<number>/back", data = "<at>")]
pub async fn bring_back(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    at: Body<'_, BringBack>,
) -> Result<Json<ShotState>, Failure> {
    let base = body(at)?.base;
    let loaded = ask(rooms, move |s| s.bring_back(id, base, number)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

/// What the media store holds.
#[get("/api/media/usage")]
pub async fn usage(rooms: &Shared) -> Result<Json<MediaUsage>, Failure> {
    Ok(Json(ask(rooms, |s| s.usage()).await?.into()))
}
