//! The light that is found on an element, and maps on simple bodies under ready lamps.

use super::Shared;
use super::shots::{Body, body};
use crate::desk::compute;
use crate::error::Failure;
use crate::wire::{AskLight, AskShape, LightFound};
use jugata_core::light::harmonics;
use jugata_core::{Cancel, Role, Scale};
use jugata_shot::check;
use jugata_shot::engine::{Finishing, Request as Wanted, Target};
use jugata_shot::look::plain_png;
use jugata_shot::on_body::on_shape;
use rocket::http::ContentType;
use rocket::post;
use rocket::serde::json::Json;

/// How well the light of an element explains its picture.
#[post("/api/light", data = "<ask>")]
pub async fn found(rooms: &Shared, ask: Body<'_, AskLight>) -> Result<Json<LightFound>, Failure> {
    let ask = body(ask)?;
    check::check(&ask.shot)?;
    let light = compute(rooms, &Cancel::new(), move |r| fit(r, &ask)).await?;
    Ok(Json(LightFound { explained: light.explained, used: light.used, light: light.light.0 }))
}

/// Finishes of the objects of an element, told from its picture.
#[post("/api/finishes", data = "<ask>")]
pub async fn finishes(rooms: &Shared, ask: Body<'_, AskLight>) -> Result<Json<Finishing>, Failure> {
    let ask = body(ask)?;
    check::check(&ask.shot)?;
    let told = compute(rooms, &Cancel::new(), move |r| {
        Ok::<_, Failure>(r.engine.finishes(&ask.shot, ask.element, &untouched(&ask))?)
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
    check::check(&ask.shot)?;
    let png = compute(rooms, &Cancel::new(), move |r| {
        let ball = harmonics::ball(&fit(r, &ask)?.light, SIDE);
        Ok::<_, Failure>(plain_png(&ball, Role::Beauty, Scale::FULL, &Cancel::new())?)
    })
    .await?;
    Ok((ContentType::PNG, png))
}

/// A height or normals on a simple body, as a PNG.
#[post("/api/shape", data = "<ask>")]
pub async fn shape(rooms: &Shared, ask: Body<'_, AskShape>) -> Result<(ContentType, Vec<u8>), Failure> {
    let ask = body(ask)?;
    check::check(&ask.shot)?;
    let cancel = rooms.viewers.newest(ask.viewer.as_deref())?;
    let wanted = cancel.clone();
    let png = compute(rooms, &wanted, move |r| {
        let frame = ask.frame.unwrap_or(ask.shot.first_frame());
        let made = on_shape(&r.engine, &ask.shot, frame, &ask.how, &cancel)?;
        Ok::<_, Failure>(plain_png(&made, Role::Beauty, Scale::FULL, &cancel)?)
    })
    .await?;
    Ok((ContentType::PNG, png))
}

fn fit(rooms: &crate::App, ask: &AskLight) -> Result<harmonics::Fit, Failure> {
    Ok(rooms.engine.light_on(&ask.shot, ask.element, &untouched(ask))?)
}

/// The element before any step.
fn untouched(ask: &AskLight) -> Wanted {
    let mut wanted = Wanted::frame(&ask.shot, Target::Untouched { element: ask.element }, Scale::FULL);
    wanted.frame = ask.frame.unwrap_or(wanted.frame);
    wanted
}
