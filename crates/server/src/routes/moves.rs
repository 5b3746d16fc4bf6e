//! What moves found out, and places that follow them.

use super::shots::{Body, body};
use super::{Shared, drafted};
use crate::desk::compute;
use crate::error::Failure;
use crate::wire::{AskFollow, AskTold};
use jugata_core::Cancel;
use jugata_shot::telling::{Told, follow, tell};
use rocket::http::Status;
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

/// Places that are followed at once, at most.
const PLACES: usize = 20_000;

/// Where places are seen after the moves of an element, or where they come from; `null` where they are not seen.
#[post("/api/follow", data = "<ask>")]
pub async fn places(
    rooms: &Shared,
    ask: Body<'_, AskFollow>,
) -> Result<Json<Vec<Option<[f64; 2]>>>, Failure> {
    let ask = body(ask)?;
    if ask.places.len() > PLACES {
        let sentence = format!("At most {PLACES} places are followed at once.");
        return Err(Failure::new(Status::UnprocessableEntity, sentence));
    }
    let shot = drafted(rooms, ask.shot).await?;
    let followed = compute(rooms, &Cancel::new(), move |r| {
        let frame = ask.frame.unwrap_or(shot.first_frame());
        Ok::<_, Failure>(follow(&r.engine, &shot, frame, (ask.element, ask.after), (&ask.places, ask.way))?)
    })
    .await?;
    Ok(Json(followed))
}
