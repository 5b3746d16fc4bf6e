//! Presets: steps kept under a name, and put on another element.

use super::shared::{Shared, drafted_as_seen};
use super::shots::{Body, body};
use crate::app::App;
use crate::desk::Waits;
use crate::error::Failure;
use crate::wire::{ApplyPreset, PresetSummary, SavePreset};
use crate::work::ask as inquire;
use crate::work::compute;
use jugata_core::{Cancel, Scale};
use jugata_shot::engine::{Request as Wanted, Target};
use jugata_shot::look::small_png;
use jugata_shot::preset::{Applied, Preset};
use jugata_shot::{Shot, ShotError};
use rocket::http::{ContentType, Status};
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{delete, get, post, put};

/// Every preset.
#[get("/api/presets")]
pub async fn list(rooms: &Shared) -> Result<Json<Vec<PresetSummary>>, Failure> {
    let rows = inquire(rooms, |s| s.presets()).await?;
    Ok(Json(rows.into_iter().map(Into::into).collect()))
}

/// Saves steps of an element, with a picture of the element after them.
#[post("/api/presets", data = "<ask>")]
pub async fn save(rooms: &Shared, ask: Body<'_, SavePreset>) -> Result<(Status, Json<Uuid>), Failure> {
    let SavePreset { shot, element, steps, frame, name } = body(ask)?;
    let shot = drafted_as_seen(rooms, shot).await?;
    let (preset, picture) = compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let from = shot.element(element).ok_or(ShotError::Missing { what: "element", id: element })?;
        let preset = Preset::of(&name, from, shot.display, &steps)?;
        let step = preset.steps.last().map_or(0, |s| s.id);
        let picture = picture(r, &shot, frame, Target::After { element, step })?;
        Ok::<_, Failure>((preset, picture))
    })
    .await?;
    let id = inquire(rooms, move |s| s.save_preset(&preset, Some(&picture))).await?;
    Ok((Status::Created, Json(id)))
}

/// Takes in a preset that was written out elsewhere.
#[post("/api/presets/from", data = "<preset>")]
pub async fn bring(rooms: &Shared, preset: Body<'_, Preset>) -> Result<(Status, Json<Uuid>), Failure> {
    let preset = body(preset)?;
    preset.check()?;
    let id = inquire(rooms, move |s| s.save_preset(&preset, None)).await?;
    Ok((Status::Created, Json(id)))
}

/// A small PNG of the element after a step.
fn picture(rooms: &App, shot: &Shot, frame: Option<i32>, after: Target) -> Result<Vec<u8>, Failure> {
    let mut wanted = Wanted::frame(shot, after, Scale::FULL);
    wanted.frame = frame.unwrap_or(wanted.frame);
    Ok(small_png(&rooms.engine, shot, &wanted)?)
}

/// The picture of a preset.
#[get("/api/presets/<id>/picture")]
pub async fn shown(rooms: &Shared, id: Uuid) -> Result<(ContentType, Vec<u8>), Failure> {
    Ok((ContentType::PNG, inquire(rooms, move |s| s.preset_picture(id)).await?))
}

/// A preset as a file.
#[get("/api/presets/<id>/document")]
pub async fn document(rooms: &Shared, id: Uuid) -> Result<Json<Preset>, Failure> {
    Ok(Json(inquire(rooms, move |s| s.preset(id)).await?))
}

/// Gives a preset another name.
#[put("/api/presets/<id>/name", data = "<name>")]
pub async fn rename(rooms: &Shared, id: Uuid, name: Body<'_, String>) -> Result<Status, Failure> {
    let name = body(name)?;
    let preset = Preset { name, ..inquire(rooms, move |s| s.preset(id)).await? };
    preset.check()?;
    inquire(rooms, move |s| s.change_preset(id, &preset)).await?;
    Ok(Status::NoContent)
}

/// Takes a preset away.
#[delete("/api/presets/<id>")]
pub async fn remove(rooms: &Shared, id: Uuid) -> Result<Status, Failure> {
    inquire(rooms, move |s| s.remove_preset(id)).await?;
    Ok(Status::NoContent)
}

/// A document with a preset on one of its elements; nothing is kept.
#[post("/api/presets/<id>/apply", data = "<ask>")]
pub async fn apply(rooms: &Shared, id: Uuid, ask: Body<'_, ApplyPreset>) -> Result<Json<Applied>, Failure> {
    let ask = body(ask)?;
    let shot = drafted_as_seen(rooms, ask.shot).await?;
    let preset = inquire(rooms, move |s| s.preset(id)).await?;
    let applied = preset.apply(&shot, ask.element, ask.lengths)?;
    Ok(Json(Applied { shot: applied.shot.without_frames(), ..applied }))
}
