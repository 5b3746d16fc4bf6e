//! What the routes share: the rooms, and documents that are not kept.

use crate::app::App;
use crate::error::Failure;
use crate::wire::Draft;
use crate::work::ask;
use jugata_shot::keying::on_frame;
use jugata_shot::{Shot, edits, resolve};
use rocket::State;
use std::sync::Arc;
use uuid::Uuid;

/// The rooms, as routes get them.
pub type Shared = State<Arc<App>>;

/// A document that is not kept.
///
/// # Errors
/// No such revision; the database; an edit that does not fit.
pub(super) async fn drafted(rooms: &Arc<App>, draft: Draft) -> Result<Arc<Shot>, Failure> {
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
pub(super) async fn drafted_as_seen(rooms: &Arc<App>, draft: Draft) -> Result<Arc<Shot>, Failure> {
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
pub(super) async fn revision(rooms: &Arc<App>, id: Uuid, number: i32) -> Result<Arc<Shot>, Failure> {
    match rooms.store.known_revision(id, number) {
        Some(shot) => Ok(shot),
        None => ask(rooms, move |s| s.revision(id, number)).await,
    }
}
