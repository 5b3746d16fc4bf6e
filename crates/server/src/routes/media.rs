//! Files that arrive.

use super::{Shared, work};
use crate::error::Failure;
use crate::wire::Arrived;
use jugata_exchange::ExchangeError;
use jugata_shot::intake::Brought;
use rocket::data::{Data, ToByteUnit};
use rocket::http::Status;
use rocket::post;
use rocket::serde::json::Json;

/// Takes a file into the media store if it is an image that can be read. The body is the file.
#[post("/api/media?<name>", data = "<data>")]
pub async fn bring(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<Arrived>, Failure> {
    take(rooms, name, data).await.map(Json)
}

/// Reads, checks and keeps a file that arrives.
pub async fn take(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Arrived, Failure> {
    let most = rooms.config.upload_bytes;
    let name: String = name
        .rsplit(['/', '\\'])
        .next()
        .unwrap_or(name)
        .chars()
        .filter(|c| !c.is_control())
        .take(180)
        .collect();
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
        let file = jugata_exchange::read(&bytes, &limits)?;
        Ok::<_, ExchangeError>((bytes, file))
    })
    .await?;
    let size = bytes.len() as u64;
    let id = rooms.media.put(bytes).await?;
    let arrived = Arrived {
        file: Brought { name: name.clone(), media: id.clone() },
        format: file.format.label().into(),
        width: file.display_window.width,
        height: file.display_window.height,
        notes: file.notes,
    };
    work(rooms, move |r| r.store.note_media(&id, &name, size)).await?;
    Ok(arrived)
}
