//! Results as files.

use super::{Shared, revision};
use crate::desk::compute;
use crate::error::Failure;
use jugata_core::Scale;
use jugata_shot::engine::{Request as Wanted, Target};
use jugata_shot::handoff::{Format, encode};
use rocket::http::{ContentType, Header, Status};
use rocket::serde::uuid::Uuid;
use rocket::{Responder, get};

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

/// What makes a browser keep an answer as a file of this name.
pub fn attached(name: &str, ending: &str) -> Header<'static> {
    let plain = |c: char| if c.is_ascii_alphanumeric() || "-.".contains(c) { c } else { '_' };
    let name: String = name.chars().map(plain).take(100).collect();
    Header::new(
        "Content-Disposition",
        format!("attachment; filename=\"{}.{ending}\"", name.trim_matches('.')),
    )
}

/// A frame of a revision at full size, the first if not said; `target` and `format` are JSON.
#[get("/api/shots/<id>/revisions/<number>/handoff?<target>&<format>&<frame>")]
pub async fn picture(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    target: &str,
    format: &str,
    frame: Option<i32>,
) -> Result<Download, Failure> {
    let wrong = |_| Failure::new(Status::UnprocessableEntity, "That is not something that is written.");
    let target: Target = serde_json::from_str(target).map_err(wrong)?;
    let format: Format = serde_json::from_str(&format!("\"{format}\"")).map_err(wrong)?;
    let shot = revision(rooms, id, number).await?;
    let mut wanted = Wanted::frame(&shot, target, Scale::FULL);
    wanted.frame = frame.unwrap_or(wanted.frame);
    let cancel = wanted.cancel.clone();
    compute(rooms, &cancel, move |r| {
        let bytes = encode(&r.engine, &shot, &wanted, format)?;
        let kind =
            if format == Format::Png16 { ContentType::PNG } else { ContentType::new("image", "x-exr") };
        let name = match target {
            Target::Pass { element, pass } => shot
                .element(element)
                .and_then(|e| e.provider(pass))
                .map_or(shot.name.clone(), |p| format!("{}_{}", shot.name, p.role().label())),
            _ => shot.name.clone(),
        };
        Ok::<_, Failure>(Download::new(bytes, kind, &name, format.ending()))
    })
    .await
}

/// The shot file of a revision, which `jugata render` runs.
#[get("/api/shots/<id>/revisions/<number>/document")]
pub async fn document(rooms: &Shared, id: Uuid, number: i32) -> Result<Download, Failure> {
    let shot = revision(rooms, id, number).await?;
    let text = serde_json::to_string_pretty(&*shot)
        .map_err(|e| Failure::new(Status::InternalServerError, e.to_string()))?;
    Ok(Download::new(text.into_bytes(), ContentType::JSON, &shot.name, "json"))
}
