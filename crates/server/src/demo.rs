//! The demo shot: the Veldmere orrery with one lamp added.

use crate::App;
use crate::error::Failure;

use jugata_shot::document::{Limit, LimitBy};
use jugata_shot::lamp::Lamp;
use jugata_shot::steps::{Exposure, StepKind};
use jugata_shot::{Step, intake};
use jugata_standin::orrery::object_id;
use jugata_standin::{Settings, export, render};
use rocket::http::Status;
use rocket::tokio::task::spawn_blocking;
use uuid::Uuid;

/// Renders the orrery with the stand-in renderer and makes a shot of it.
///
/// # Errors
/// The database or the media store.
pub async fn make(rooms: &App, settings: Settings) -> Result<Uuid, Failure> {
    let limits = rooms.config.limits;
    let broken = |e: rocket::tokio::task::JoinError| Failure::new(Status::InternalServerError, e.to_string());
    let (bytes, file) = spawn_blocking(move || {
        let bytes = export::exr(&render(&settings))?;
        let file = jugata_exchange::read(&bytes, &limits)?;
        Ok::<_, jugata_exchange::ExchangeError>((bytes, file))
    })
    .await
    .map_err(broken)??;
    let size = bytes.len() as u64;
    let id = rooms.media.put(bytes).await?;
    let mut shot = intake::shot_of(&file, "veldmere_orrery.exr", id.clone());
    shot.name = "Veldmere orrery".into();
    let element = &mut shot.elements[0];
    element.name = "Orrery".into();
    element.steps = steps();
    let store = rooms.store.clone();
    spawn_blocking(move || {
        store.note_media(&id, "veldmere_orrery.exr", size)?;
        store.create(&shot, "Bring in the orrery")
    })
    .await
    .map_err(broken)?
    .map_err(Failure::from)
}

/// A cool light from the right on everything but the wall, and a darker wall.
fn steps() -> Vec<Step> {
    let wall = || Limit::of(LimitBy::Objects { ids: vec![object_id("Wall")] });
    let lamp =
        Lamp { toward: [0.78, 0.35, 0.52], colour: [0.55, 0.78, 1.0], intensity: 0.5, ..Lamp::default() };
    let mut light = Step::new(1, StepKind::Relight(lamp.into()));
    light.only_where = Some(wall().inverted());
    let mut darker = Step::new(2, StepKind::Exposure(Exposure { stops: -0.6 }));
    darker.only_where = Some(wall());
    vec![light, darker]
}
