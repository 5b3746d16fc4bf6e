//! Files that arrive.

use super::shared::Shared;
use crate::app::App;
use crate::error::Failure;
use crate::wire::{Arrived, SceneCamera};
use crate::work::{ask, decode, work};
use jugata_exchange::gltf_cameras::NamedCamera;
use jugata_exchange::{ExchangeError, ImageFile};
use jugata_shot::intake::{self, MediaFile};
use jugata_store::StoreError;
use rocket::data::{Data, ToByteUnit};
use rocket::http::Status;
use rocket::post;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use std::io::ErrorKind;
use std::sync::Arc;
use tempfile::NamedTempFile;

/// Takes a file into the media store if it is an image that can be read. The body is the file.
#[post("/api/media?<name>", data = "<data>")]
pub async fn bring(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<Arrived>, Failure> {
    take(rooms, name, data).await.map(Json)
}

/// Takes a colour table in `.cube` text. The body is the file.
#[post("/api/luts?<name>", data = "<data>")]
pub async fn bring_lut(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<MediaFile>, Failure> {
    bring_checked(rooms, name, data, |bytes| jugata_exchange::cube_read::read(bytes).map(drop)).await
}

/// Takes an OpenType or TrueType font. The body is the file.
#[post("/api/fonts?<name>", data = "<data>")]
pub async fn bring_font(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<MediaFile>, Failure> {
    bring_checked(rooms, name, data, |bytes| jugata_exchange::lettering::Font::read(bytes).map(drop)).await
}

/// Takes an SVG drawing. The body is the file.
#[post("/api/drawings?<name>", data = "<data>")]
pub async fn bring_drawing(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<MediaFile>, Failure> {
    bring_checked(rooms, name, data, |bytes| jugata_exchange::drawing::Drawing::read(bytes).map(drop)).await
}

/// Takes a file that is kept as it is, once `check` finds nothing wrong with it.
async fn bring_checked(
    rooms: &Shared,
    name: &str,
    data: Data<'_>,
    check: impl FnOnce(&[u8]) -> Result<(), ExchangeError> + Send + 'static,
) -> Result<Json<MediaFile>, Failure> {
    let arriving = Arriving::new(rooms, name, data).await?;
    decode(rooms, || async {
        let (name, bytes) = arriving.whole(rooms).await?;
        let bytes = work(rooms, move |_| {
            check(&bytes)?;
            Ok::<_, ExchangeError>(bytes)
        })
        .await?;
        keep(rooms, name, bytes).await.map(Json)
    })
    .await
}

/// The cameras of a glTF 2.0 file, for the frame of a shot. The body is the file; it is not kept.
#[post("/api/shots/<id>/cameras?<name>", data = "<data>")]
pub async fn cameras(
    rooms: &Shared,
    id: Uuid,
    name: &str,
    data: Data<'_>,
) -> Result<Json<Vec<SceneCamera>>, Failure> {
    let arriving = Arriving::new(rooms, name, data).await?;
    let display = ask(rooms, move |s| s.load(id)).await?.shot.display;
    decode(rooms, || async {
        let (_, bytes) = arriving.whole(rooms).await?;
        let found = work(rooms, move |_| jugata_exchange::gltf_cameras::cameras(&bytes, display)).await?;
        let scene = |c: NamedCamera| SceneCamera { name: c.name, camera: c.camera };
        Ok(Json(found.into_iter().map(scene).collect()))
    })
    .await
}

/// A file that arrives. It waits on the disk, not in memory, until it is its turn to be looked at.
struct Arriving {
    name: String,
    file: NamedTempFile,
}

impl Arriving {
    async fn new(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Self, Failure> {
        let most = rooms.config.upload_bytes;
        let name = intake::plain(name.rsplit(['/', '\\']).next().unwrap_or(name), 180);
        if name.trim().is_empty() {
            return Err(Failure::new(Status::UnprocessableEntity, "The file has no name."));
        }
        let file = work(rooms, |r| NamedTempFile::new_in(r.media.waiting()).map_err(StoreError::Io)).await?;
        let got = data.open(most.bytes()).into_file(file.path()).await.map_err(|e| match e.kind() {
            ErrorKind::StorageFull => Failure::new(
                Status::InsufficientStorage,
                "The disk of the media store is full; make room and send the file again.",
            ),
            _ => Failure::new(Status::BadRequest, "The file did not arrive whole; send it again."),
        })?;
        if !got.is_complete() {
            let sentence = format!("The file is too large (limit {} MiB).", most >> 20);
            return Err(Failure::new(Status::PayloadTooLarge, sentence));
        }
        Ok(Self { name, file })
    }

    /// Its name without its path, and its bytes.
    async fn whole(self, rooms: &Shared) -> Result<(String, Vec<u8>), Failure> {
        let bytes = work(rooms, move |_| std::fs::read(self.file.path()).map_err(StoreError::Io)).await?;
        Ok((self.name, bytes))
    }
}

/// Puts a file into the media store.
pub async fn keep(rooms: &Arc<App>, name: String, bytes: Vec<u8>) -> Result<MediaFile, Failure> {
    let size = bytes.len() as u64;
    let media = rooms.media.put(bytes).await?;
    let file = MediaFile { name, media };
    let noted = file.clone();
    ask(rooms, move |s| s.note_media(&noted.media, &noted.name, size)).await?;
    Ok(file)
}

/// Reads, checks and keeps a file that arrives.
pub async fn take(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Arrived, Failure> {
    let arriving = Arriving::new(rooms, name, data).await?;
    decode(rooms, || async {
        let (name, bytes) = arriving.whole(rooms).await?;
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
    })
    .await
}

/// Gives bytes back with the image that they are.
pub async fn examine(rooms: &Arc<App>, bytes: Vec<u8>) -> Result<(Vec<u8>, ImageFile), Failure> {
    let limits = rooms.config.limits;
    work(rooms, move |_| {
        let image = jugata_exchange::read(&bytes, &limits)?;
        Ok::<_, ExchangeError>((bytes, image))
    })
    .await
}
