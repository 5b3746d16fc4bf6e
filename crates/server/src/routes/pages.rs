//! The web interface and what it is built from.

use super::shared::Shared;
use crate::error::Failure;
use jugata_shot::conventions::{Field, fields};
use jugata_shot::extracts::{ExtractInfo, catalogue as extractions};
use jugata_shot::limit::MatteInfo;
use jugata_shot::made::{MadeInfo, catalogue as made_kinds};
use jugata_shot::steps::{KindInfo, catalogue};
use rocket::fs::NamedFile;
use rocket::get;
use rocket::http::{Header, Status};
use rocket::response::Responder;
use rocket::serde::json::Json;
use std::path::PathBuf;

/// Where the guard sends what it refuses.
#[get("/api/refused")]
pub fn refused() -> Failure {
    Failure::new(Status::Forbidden, "This server answers only its own pages on this machine.")
}

/// Every kind of step.
#[get("/api/kinds")]
pub fn kinds() -> Json<&'static [KindInfo]> {
    Json(catalogue())
}

/// Every kind of extraction.
#[get("/api/extracts")]
pub fn extracts() -> Json<&'static [ExtractInfo]> {
    Json(extractions())
}

/// Every kind of made element.
#[get("/api/made")]
pub fn made() -> Json<&'static [MadeInfo]> {
    Json(made_kinds())
}

/// What mattes are put together of.
#[get("/api/mattes")]
pub fn mattes() -> Json<MatteInfo> {
    Json(MatteInfo::all())
}

/// The fields of conventions, from which Intake makes its controls.
#[get("/api/conventions")]
pub fn conventions() -> Json<Vec<Field>> {
    Json(fields())
}

/// A file of the interface with how long a browser may keep it.
#[derive(Responder)]
pub struct Kept {
    file: NamedFile,
    cache: Header<'static>,
}

impl Kept {
    async fn open(path: PathBuf, cache: &'static str) -> Option<Self> {
        // A folder can be opened, too, and has no bytes to send.
        if !rocket::tokio::fs::metadata(&path).await.ok()?.is_file() {
            return None;
        }
        let file = NamedFile::open(path).await.ok()?;
        Some(Self { file, cache: Header::new("Cache-Control", cache) })
    }
}

/// Files whose names carry a hash of their contents.
#[get("/assets/<path..>")]
pub async fn asset(rooms: &Shared, path: PathBuf) -> Option<Kept> {
    Kept::open(rooms.config.web.join("assets").join(path), "public, max-age=31536000, immutable").await
}

/// The page, at every address that is not something else.
#[get("/<path..>", rank = 20)]
pub async fn page(rooms: &Shared, path: PathBuf) -> Result<Kept, Result<Failure, Status>> {
    // The catcher knows whether it is there for another method.
    let missing = Err(Err(Status::NotFound));
    if path.starts_with("api") {
        return missing;
    }
    if path.extension().is_some() {
        return Kept::open(rooms.config.web.join(&path), "no-cache").await.map_or(missing, Ok);
    }
    Kept::open(rooms.config.web.join("index.html"), "no-cache").await.ok_or_else(|| {
        let sentence = "The interface is not built; run `make web`, or give --web its folder.";
        Ok(Failure::new(Status::NotFound, sentence))
    })
}
