//! The light that is found on an element, and maps on simple bodies under ready lamps.

use super::shared::{Shared, drafted_as_seen};
use super::shots::{Body, body};
use crate::desk::Waits;
use crate::error::Failure;
use crate::wire::{AskLight, AskShape, LightFound};
use crate::work::compute;
use jugata_core::light::harmonics;
use jugata_core::{Cancel, Role, Scale};
use jugata_shot::Shot;
use jugata_shot::engine::{Finishing, Request as Wanted, Target};
use jugata_shot::look::plain_png;
use jugata_shot::on_body::on_shape;
use rocket::http::ContentType;
use rocket::post;
use rocket::serde::json::Json;
use std::sync::Arc;

/// How well the light of an element explains its picture.
#[post("/api/light", data = "<ask>")]
pub async fn found(rooms: &Shared, ask: Body<'_, AskLight>) -> Result<Json<LightFound>, Failure> {
    let ask = body(ask)?;
    let untouched = untouched(rooms, ask).await?;
    let light = compute(rooms, Waits::Pane, &Cancel::new(), move |r| untouched.light(r)).await?;
    Ok(Json(LightFound { explained: light.explained, used: light.used, light: light.light.0 }))
}

/// Finishes of the objects of an element, told from its picture.
#[post("/api/finishes", data = "<ask>")]
pub async fn finishes(rooms: &Shared, ask: Body<'_, AskLight>) -> Result<Json<Finishing>, Failure> {
    let ask = body(ask)?;
    let u = untouched(rooms, ask).await?;
    let told = compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        Ok::<_, Failure>(r.engine.finishes(&u.shot, u.element, &u.wanted)?)
    })
    .await?;
    Ok(Json(told))
}

/// Side of the ball's picture, px.
const SIDE: u32 = 128;

/// A white ball in the light of an element.
#[post("/api/light/ball", data = "<ask>")]
pub async fn ball(rooms: &Shared, ask: Body<'_, AskLight>) -> Result<(ContentType, Vec<u8>), Failure> {
    let ask = body(ask)?;
    let untouched = untouched(rooms, ask).await?;
    let png = compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let ball = harmonics::ball(&untouched.light(r)?.light, SIDE);
        Ok::<_, Failure>(plain_png(&ball, Role::Beauty, Scale::FULL, &Cancel::new())?)
    })
    .await?;
    Ok((ContentType::PNG, png))
}

/// A height or normals on a simple body, as a PNG.
#[post("/api/shape", data = "<ask>")]
pub async fn shape(rooms: &Shared, ask: Body<'_, AskShape>) -> Result<(ContentType, Vec<u8>), Failure> {
    let ask = body(ask)?;
    let shot = drafted_as_seen(rooms, ask.shot).await?;
    let cancel = rooms.viewers.newest(ask.viewer.as_deref())?;
    let wanted = cancel.clone();
    let png = compute(rooms, Waits::Pane, &wanted, move |r| {
        let frame = ask.frame.unwrap_or(shot.first_frame());
        let made = on_shape(&r.engine, &shot, frame, &ask.how, &cancel)?;
        Ok::<_, Failure>(plain_png(&made, Role::Beauty, Scale::FULL, &cancel)?)
    })
    .await?;
    Ok((ContentType::PNG, png))
}

/// An element before any step.
struct Untouched {
    shot: Arc<Shot>,
    element: u32,
    wanted: Wanted,
}

impl Untouched {
    /// The light that is found on it.
    fn light(&self, rooms: &crate::App) -> Result<harmonics::Fit, Failure> {
        Ok(rooms.engine.light_on(&self.shot, self.element, &self.wanted)?)
    }
}

async fn untouched(rooms: &Shared, ask: AskLight) -> Result<Untouched, Failure> {
    let AskLight { shot, element, frame } = ask;
    let shot = drafted_as_seen(rooms, shot).await?;
    let mut wanted = Wanted::frame(&shot, Target::Untouched { element }, Scale::FULL);
    wanted.frame = frame.unwrap_or(wanted.frame);
    Ok(Untouched { shot, element, wanted })
}
