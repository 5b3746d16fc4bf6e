//! Results as files.

use super::shared::{Shared, revision};
use crate::desk::Waits;
use crate::error::Failure;
use crate::work::compute;
use jugata_core::{Cancel, Scale};
use jugata_shot::document::FrameRange;
use jugata_shot::engine::{Request as Wanted, Target};
use jugata_shot::handoff::{FileForm, Format, encode};
use jugata_shot::look::Other;
use jugata_shot::proof::{Proof, WIDE, animated};
use jugata_shot::review::{self, Sheet};
use rocket::http::{ContentType, Header, Status};
use rocket::serde::uuid::Uuid;
use rocket::{Responder, get};
use std::io::{Cursor, Write};
use zip::CompressionMethod;
use zip::write::{SimpleFileOptions, ZipWriter};

/// A file to keep.
#[derive(Responder)]
pub struct Download(Vec<u8>, ContentType, Header<'static>);

impl Download {
    fn new(bytes: Vec<u8>, kind: ContentType, name: &str, ending: &str) -> Self {
        Self(bytes, kind, attached(name, ending))
    }

    /// With a name that has its ending.
    pub fn named(bytes: Vec<u8>, kind: ContentType, name: &str) -> Self {
        let (name, ending) = name.rsplit_once('.').unwrap_or((name, "bin"));
        Self::new(bytes, kind, name, ending)
    }
}

/// A name that any system takes for a file's.
fn plain(name: &str) -> String {
    let plain = |c: char| if c.is_ascii_alphanumeric() || "-.".contains(c) { c } else { '_' };
    name.chars().map(plain).take(100).collect()
}

/// What makes a browser keep an answer as a file of this name.
pub fn attached(name: &str, ending: &str) -> Header<'static> {
    let name = plain(name);
    Header::new(
        "Content-Disposition",
        format!("attachment; filename=\"{}.{ending}\"", name.trim_matches('.')),
    )
}

/// A frame of a revision at full size, the first if not said; `target` and `form` are JSON.
#[get("/api/shots/<id>/revisions/<number>/handoff?<target>&<form>&<frame>")]
pub async fn picture(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    target: &str,
    form: &str,
    frame: Option<i32>,
) -> Result<Download, Failure> {
    let wrong = |_| Failure::new(Status::UnprocessableEntity, "That is not something that is written.");
    let target: Target = serde_json::from_str(target).map_err(wrong)?;
    let form: FileForm = serde_json::from_str(form).map_err(wrong)?;
    let shot = revision(rooms, id, number).await?;
    let mut wanted = Wanted::frame(&shot, target, Scale::FULL);
    wanted.frame = frame.unwrap_or(wanted.frame);
    let cancel = wanted.cancel.clone();
    compute(rooms, Waits::Page, &cancel, move |r| {
        let bytes = encode(&r.engine, &shot, &wanted, &form)?;
        let kind = media_type(form.format);
        let name = match target {
            Target::Pass { element, pass } | Target::PlacedPass { element, pass } => shot
                .element(element)
                .and_then(|e| e.provider(pass))
                .map_or(shot.name.clone(), |p| format!("{}_{}", shot.name, p.role().label())),
            _ => shot.name.clone(),
        };
        Ok::<_, Failure>(Download::new(bytes, kind, &name, form.format.ending()))
    })
    .await
}

/// The result and the depth of an element as a pair of PNGs of one size, in one file: what viewers of 3D photos take.
#[get("/api/shots/<id>/revisions/<number>/pair?<element>&<pass>&<frame>")]
pub async fn pair(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    element: u32,
    pass: u32,
    frame: Option<i32>,
) -> Result<Download, Failure> {
    let shot = revision(rooms, id, number).await?;
    compute(rooms, Waits::Page, &Cancel::new(), move |r| {
        let written = |target| {
            let mut wanted = Wanted::frame(&shot, target, Scale::FULL);
            wanted.frame = frame.unwrap_or(wanted.frame);
            encode(&r.engine, &shot, &wanted, &Format::Png16.into())
        };
        let files =
            [("", written(Target::Shot)?), ("_depth", written(Target::PlacedPass { element, pass })?)];
        let name = plain(&shot.name);
        let packed = zipped(files.map(|(end, bytes)| (format!("{name}{end}.png"), bytes)));
        let packed = packed.map_err(|e| Failure::new(Status::InternalServerError, e.to_string()))?;
        Ok::<_, Failure>(Download::new(packed, ContentType::ZIP, &shot.name, "zip"))
    })
    .await
}

/// A review sheet of a revision: one HTML file; `reference` is JSON of what the result is measured against.
#[get("/api/shots/<id>/revisions/<number>/sheet?<frame>&<reference>")]
pub async fn sheet(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    frame: Option<i32>,
    reference: Option<&str>,
) -> Result<Download, Failure> {
    let wrong =
        |_| Failure::new(Status::UnprocessableEntity, "That is not something to measure the result against.");
    let reference: Option<Other> = reference.map(serde_json::from_str).transpose().map_err(wrong)?;
    let shot = revision(rooms, id, number).await?;
    let cancel = Cancel::new();
    let pulled = cancel.clone();
    compute(rooms, Waits::Page, &cancel, move |r| {
        let ask = Sheet { frame, reference: reference.as_ref(), cancel: pulled };
        let page = review::sheet(&r.engine, &shot, &ask)?;
        let name = format!("{}_review", shot.name);
        Ok::<_, Failure>(Download::new(page.into_bytes(), ContentType::HTML, &name, "html"))
    })
    .await
}

/// An animated proof of some frames, of all if none are said: one small PNG that a browser plays; `target` is JSON.
#[get("/api/shots/<id>/revisions/<number>/proof?<target>&<from>&<to>")]
pub async fn proof(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    target: &str,
    from: Option<i32>,
    to: Option<i32>,
) -> Result<Download, Failure> {
    let wrong = |_| Failure::new(Status::UnprocessableEntity, "That is not something that is written.");
    let target: Target = serde_json::from_str(target).map_err(wrong)?;
    let shot = revision(rooms, id, number).await?;
    let own = shot.frames.unwrap_or(FrameRange { first: 0, last: 0 });
    let frames = FrameRange { first: from.unwrap_or(own.first), last: to.unwrap_or(own.last) };
    let cancel = Cancel::new();
    let proof = Proof { target, frames, wide: WIDE, cancel: cancel.clone() };
    compute(rooms, Waits::Page, &cancel, move |r| {
        let bytes = animated(&r.engine, &shot, &proof)?;
        Ok::<_, Failure>(Download::new(bytes, ContentType::PNG, &format!("{}_proof", shot.name), "png"))
    })
    .await
}

fn zipped(files: impl IntoIterator<Item = (String, Vec<u8>)>) -> zip::result::ZipResult<Vec<u8>> {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in files {
        zip.start_file(name, SimpleFileOptions::default().compression_method(CompressionMethod::Stored))?;
        zip.write_all(&bytes)?;
    }
    Ok(zip.finish()?.into_inner())
}

/// What a browser is told of a file of a format.
pub fn media_type(format: Format) -> ContentType {
    let (top, sub) = format.media_type();
    ContentType::new(top, sub)
}

/// The shot file of a revision, which `jugata render` runs.
#[get("/api/shots/<id>/revisions/<number>/document")]
pub async fn document(rooms: &Shared, id: Uuid, number: i32) -> Result<Download, Failure> {
    let shot = revision(rooms, id, number).await?;
    let text = serde_json::to_string_pretty(&*shot)
        .map_err(|e| Failure::new(Status::InternalServerError, e.to_string()))?;
    Ok(Download::new(text.into_bytes(), ContentType::JSON, &shot.name, "json"))
}
