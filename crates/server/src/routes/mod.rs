//! Routes by noun.

mod handoff;
mod jobs;
mod light;
pub(crate) mod media;
mod moves;
mod news;
mod order;
mod pages;
mod pictures;
mod presets;
pub(crate) mod shots;
pub mod tracks;

use crate::App;
use crate::desk::ask;
use crate::error::Failure;
use crate::wire::Draft;
use jugata_shot::keying::on_frame;
use jugata_shot::{Shot, edits, resolve};
use rocket::{Route, State, routes};
use std::sync::Arc;
use uuid::Uuid;

/// The rooms, as routes get them.
pub type Shared = State<Arc<App>>;

/// Every route.
pub fn all() -> Vec<Route> {
    routes![
        pages::refused,
        pages::kinds,
        pages::extracts,
        pages::made,
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
        media::bring_font,
        media::bring_drawing,
        media::cameras,
        shots::load,
        shots::edit,
        shots::undo,
        shots::redo,
        shots::history,
        order::arrange,
        order::copy,
        order::name,
        order::bring_back,
        order::usage,
        shots::sentences,
        shots::at_frame,
        shots::course,
        pictures::saved,
        pictures::preview,
        pictures::names,
        pictures::over_time,
        pictures::leave,
        pictures::figures,
        pictures::probe,
        pictures::histogram,
        pictures::place,
        light::found,
        light::ball,
        light::finishes,
        light::shape,
        moves::told,
        moves::laid,
        tracks::tracks,
        tracks::start,
        tracks::stop,
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
        handoff::pair,
        handoff::sheet,
        handoff::proof,
        jobs::start,
        jobs::list,
        jobs::news,
        jobs::change,
        jobs::remove,
        jobs::frames,
        jobs::file,
        jobs::picture,
        jobs::together,
    ]
}

/// A document that is not kept.
///
/// # Errors
/// No such revision; the database; an edit that does not fit.
async fn drafted(rooms: &Arc<App>, draft: Draft) -> Result<Arc<Shot>, Failure> {
    let shot = revision(rooms, draft.id, draft.base).await?;
    if draft.edits.is_empty() {
        return Ok(shot);
    }
    let edits = match draft.frame {
        Some(frame) => on_frame(&shot, draft.edits, frame)?,
        None => draft.edits,
    };
    Ok(Arc::new(edits::edited(&shot, &edits)?))
}

/// A document that is not kept, with the values of the frame that is seen.
///
/// # Errors
/// As [`drafted`].
async fn drafted_as_seen(rooms: &Arc<App>, draft: Draft) -> Result<Arc<Shot>, Failure> {
    let frame = draft.frame;
    let shot = drafted(rooms, draft).await?;
    if shot.drives.is_empty() {
        return Ok(shot);
    }
    Ok(Arc::new(resolve::seen(&shot, frame.unwrap_or(shot.first_frame()))?.0))
}

/// A revision, from memory where somebody has read it lately.
///
/// # Errors
/// No such revision; the database.
async fn revision(rooms: &Arc<App>, id: Uuid, number: i32) -> Result<Arc<Shot>, Failure> {
    match rooms.store.known_revision(id, number) {
        Some(shot) => Ok(shot),
        None => ask(rooms, move |s| s.revision(id, number)).await,
    }
}
