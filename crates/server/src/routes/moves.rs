//! What steps found out, and where what they lay on something is seen.

use super::shots::{Body, body};
use super::{Shared, drafted};
use crate::desk::compute;
use crate::error::Failure;
use crate::wire::{AskLaid, AskTold};
use jugata_core::Cancel;
use jugata_shot::laying::{LaidOut, lay_out};
use jugata_shot::telling::{Told, tell};
use rocket::post;
use rocket::serde::json::Json;

/// What a step found out, and how often the picture is sampled.
#[post("/api/told", data = "<ask>")]
pub async fn told(rooms: &Shared, ask: Body<'_, AskTold>) -> Result<Json<Told>, Failure> {
    let ask = body(ask)?;
    let shot = drafted(rooms, ask.shot).await?;
    let told = compute(rooms, &Cancel::new(), move |r| {
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
    let shot = drafted(rooms, ask.shot).await?;
    let laid = compute(rooms, &Cancel::new(), move |r| {
        let frame = ask.frame.unwrap_or(shot.first_frame());
        Ok::<_, Failure>(lay_out(&r.engine, &shot, frame, (ask.element, ask.layer), ask.at)?)
    })
    .await?;
    Ok(Json(laid))
}
