//! Files that arrive.

use super::{Shared, work};
use crate::Rooms;
use crate::error::Failure;
use crate::wire::{Arrived, SceneCamera};
use jugata_exchange::{ExchangeError, ImageFile};
use jugata_shot::intake::{self, Brought};
use rocket::data::{Data, ToByteUnit};
use rocket::http::Status;
use rocket::post;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use std::sync::Arc;

/// Takes a file into the media store if it is an image that can be read. The body is the file.
#[post("/api/media?<name>", data = "<data>")]
pub async fn bring(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<Arrived>, Failure> {
    take(rooms, name, data).await.map(Json)
}

/// Takes a colour table in `.cube` text. The body is the file.
#[post("/api/luts?<name>", data = "<data>")]
pub async fn bring_lut(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<Brought>, Failure> {
    let (name, bytes) = whole(rooms, name, data).await?;
    let bytes = work(rooms, move |_| {
        jugata_exchange::cube_read::read(&bytes)?;
        Ok::<_, ExchangeError>(bytes)
    })
    .await?;
    keep(rooms, name, bytes).await.map(Json)
}

/// The cameras of a glTF 2.0 file, for the frame of a shot. The body is the file; it is not kept.
#[post("/api/shots/<id>/cameras?<name>", data = "<data>")]
pub async fn cameras(
    rooms: &Shared,
    id: Uuid,
    name: &str,
    data: Data<'_>,
) -> Result<Json<Vec<SceneCamera>>, Failure> {
    let (_, bytes) = whole(rooms, name, data).await?;
    work(rooms, move |r| {
        let display = r.store.load(id)?.shot.display;
        let found = jugata_exchange::gltf_cameras::cameras(&bytes, display)?;
        Ok::<_, Failure>(Json(
            found.into_iter().map(|c| SceneCamera { name: c.name, camera: c.camera }).collect(),
        ))
    })
    .await
}

/// The bytes of a file that arrives, and its name without its path.
async fn whole(rooms: &Shared, name: &str, data: Data<'_>) -> Result<(String, Vec<u8>), Failure> {
    let most = rooms.config.upload_bytes;
    let name = intake::plain(name.rsplit(['/', '\\']).next().unwrap_or(name), 180);
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
    Ok((name, got.into_inner()))
}

/// Puts a file into the media store.
pub async fn keep(rooms: &Arc<Rooms>, name: String, bytes: Vec<u8>) -> Result<Brought, Failure> {
    let size = bytes.len() as u64;
    let media = rooms.media.put(bytes).await?;
    let file = Brought { name, media };
    let noted = file.clone();
    work(rooms, move |r| r.store.note_media(&noted.media, &noted.name, size)).await?;
    Ok(file)
}

/// Reads, checks and keeps a file that arrives.
pub async fn take(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Arrived, Failure> {
    let (name, bytes) = whole(rooms, name, data).await?;
    let (bytes, image) = examine(rooms, bytes).await?;
    let arrived = Arrived {
        file: keep(rooms, name, bytes).await?,
        format: image.format.label().into(),
        width: image.display_window.width,
        height: image.display_window.height,
        notes: image.notes.clone(),
    };
    // Whoever brings a file in looks at it next: what was decoded for the check is kept.
    rooms.engine.admit(arrived.file.media.clone(), image);
    Ok(arrived)
}

/// Gives bytes back with the image that they are.
pub async fn examine(rooms: &Arc<Rooms>, bytes: Vec<u8>) -> Result<(Vec<u8>, ImageFile), Failure> {
    let limits = rooms.config.limits;
    work(rooms, move |_| {
        let image = jugata_exchange::read(&bytes, &limits)?;
        Ok::<_, ExchangeError>((bytes, image))
    })
    .await
}
