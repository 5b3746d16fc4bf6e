//! What happens without anybody's doing, as server-sent events.

use super::shared::Shared;
use crate::error::Failure;
use crate::wire::Delivery;
use crate::work::work;
use jugata_shot::engine::Memory;
use rocket::response::stream::{Event, EventStream};
use rocket::serde::json::Json;
use rocket::tokio::select;
use rocket::tokio::sync::broadcast::error::RecvError;
use rocket::{Shutdown, get};

/// Shots that change because files arrive.
#[get("/api/news")]
pub fn news(rooms: &Shared, mut end: Shutdown) -> EventStream![] {
    let mut news = rooms.news.subscribe();
    EventStream! {
        loop {
            let said = select! {
                said = news.recv() => said,
                () = &mut end => break,
            };
            match said {
                Ok(news) => yield Event::json(&news),
                // Somebody slow has missed some; the next one tells the newest revision anyway.
                Err(RecvError::Lagged(_)) => {}
                Err(RecvError::Closed) => break,
            }
        }
    }
}

/// Where the drop folder is, and what could not be taken from it.
#[get("/api/delivery")]
pub async fn delivery(rooms: &Shared) -> Result<Json<Delivery>, Failure> {
    work(rooms, |r| Ok::<_, Failure>(Json(r.delivery()))).await
}

/// Memory that the engine holds.
#[get("/api/memory")]
pub async fn memory(rooms: &Shared) -> Result<Json<Memory>, Failure> {
    work(rooms, |r| Ok::<_, Failure>(Json(r.engine.memory().and(r.ahead.memory())))).await
}
