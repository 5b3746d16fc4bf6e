//! Routes by noun.

mod handoff;
mod light;
pub(crate) mod media;
mod news;
mod pages;
mod pictures;
mod presets;
pub(crate) mod shots;

use crate::Rooms;
use crate::error::Failure;
use rocket::http::Status;
use rocket::tokio::task::spawn_blocking;
use rocket::{Route, State, routes};
use std::sync::Arc;

/// The rooms, as routes get them.
pub type Shared = State<Arc<Rooms>>;

/// Every route.
pub fn all() -> Vec<Route> {
    routes![
        pages::refused,
        pages::kinds,
        pages::extracts,
        pages::conventions,
        pages::page,
        pages::asset,
        shots::list,
        shots::bring_in,
        shots::from_files,
        shots::add_files,
        shots::take_remedies,
        shots::move_passes,
        shots::findings,
        shots::passes,
        news::news,
        news::delivery,
        news::memory,
        media::bring,
        media::bring_lut,
        media::cameras,
        shots::load,
        shots::edit,
        shots::undo,
        shots::redo,
        shots::history,
        pictures::saved,
        pictures::preview,
        pictures::figures,
        pictures::probe,
        pictures::place,
        light::found,
        light::ball,
        light::shape,
        presets::list,
        presets::save,
        presets::bring,
        presets::shown,
        presets::document,
        presets::rename,
        presets::remove,
        presets::apply,
        handoff::picture,
        handoff::document,
    ]
}

/// Runs blocking work (database, pixels) off the request threads.
pub(crate) async fn work<T: Send + 'static, E: Into<Failure> + Send + 'static>(
    rooms: &Arc<Rooms>,
    job: impl FnOnce(&Rooms) -> Result<T, E> + Send + 'static,
) -> Result<T, Failure> {
    let rooms = Arc::clone(rooms);
    spawn_blocking(move || job(&rooms).map_err(Into::into))
        .await
        .map_err(|_| Failure::new(Status::InternalServerError, "The work broke off; nothing was changed."))?
}
