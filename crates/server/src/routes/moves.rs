//! What steps found out, lines along a checker, and where what they lay on something is seen.

use super::shared::{Shared, drafted};
use super::shots::{Body, body};
use crate::desk::Waits;
use crate::error::Failure;
use crate::wire::{AskLaid, AskTold, Flat};
use crate::work::compute;
use jugata_core::Cancel;
use jugata_shot::charting::lines_of_checker;
use jugata_shot::document::Shot;
use jugata_shot::engine::Engine;
use jugata_shot::error::ShotError;
use jugata_shot::laying::{self, LaidAt, LaidBy, LaidOut, LaidPlace, flat_texture, lay_out};
use jugata_shot::steps::LensLine;
use jugata_shot::telling::{Told, tell};
use rocket::http::Status;
use rocket::post;
use rocket::serde::json::Json;

/// What a step found out, how often the picture is sampled, and the frame of its element.
#[post("/api/told", data = "<ask>")]
pub async fn told(rooms: &Shared, ask: Body<'_, AskTold>) -> Result<Json<Told>, Failure> {
    let ask = body(ask)?;
    let shot = drafted(rooms, ask.shot).await?;
    let told = compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let frame = ask.frame.unwrap_or(shot.first_frame());
        Ok::<_, Failure>(tell(&r.engine, &shot, frame, ask.element, ask.step)?)
    })
    .await?;
    Ok(Json(told))
}

/// Where a texture that is laid on something is seen.
#[post("/api/laid", data = "<ask>")]
pub async fn laid(rooms: &Shared, ask: Body<'_, AskLaid>) -> Result<Json<LaidOut>, Failure> {
    let ask = body(ask)?;
    let found = of_texture(rooms, ask, |engine, shot, by, _| lay_out(engine, shot, by)).await?;
    Ok(Json(found))
}

/// The UV at a place of the picture, or the place of a UV.
#[post("/api/laid/at", data = "<ask>")]
pub async fn laid_at(rooms: &Shared, ask: Body<'_, AskLaid>) -> Result<Json<LaidPlace>, Failure> {
    let ask = body(ask)?;
    let found = of_texture(rooms, ask, |engine, shot, by, at| {
        at.map_or(Ok(LaidPlace::default()), |at| laying::laid_at(engine, shot, by, at))
    });
    Ok(Json(found.await?))
}

/// The flat texture, if one is laid.
#[post("/api/laid/flat", data = "<ask>")]
pub async fn flat(rooms: &Shared, ask: Body<'_, AskLaid>) -> Result<Json<Option<Flat>>, Failure> {
    let ask = body(ask)?;
    let made = of_texture(rooms, ask, |engine, shot, by, _| flat_texture(engine, shot, by)).await?;
    Ok(Json(made.map(Flat::from)))
}

/// Asks about a texture that is laid on something.
async fn of_texture<T: Send + 'static>(
    rooms: &Shared,
    ask: AskLaid,
    find: fn(&Engine, &Shot, LaidBy, Option<LaidAt>) -> Result<T, ShotError>,
) -> Result<T, Failure> {
    let shot = drafted(rooms, ask.shot).await?;
    let frame = ask.frame.unwrap_or(shot.first_frame());
    let by = LaidBy { element: ask.element, layer: ask.layer, frame, placed: ask.placed };
    compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        Ok::<_, Failure>(find(&r.engine, &shot, by, ask.at)?)
    })
    .await
}

/// Lines along a photographed checker in the picture that a step stands on.
#[post("/api/checker", data = "<ask>")]
pub async fn checker(rooms: &Shared, ask: Body<'_, AskTold>) -> Result<Json<Vec<LensLine>>, Failure> {
    let ask = body(ask)?;
    let step =
        ask.step.ok_or_else(|| Failure::new(Status::BadRequest, "Say which step stands on the chart."))?;
    let shot = drafted(rooms, ask.shot).await?;
    let cancel = Cancel::new();
    let stop = cancel.clone();
    let lines = compute(rooms, Waits::Page, &cancel, move |r| {
        let frame = ask.frame.unwrap_or(shot.first_frame());
        Ok::<_, Failure>(lines_of_checker(&r.engine, &shot, frame, (ask.element, step), &stop)?)
    })
    .await?;
    Ok(Json(lines))
}
