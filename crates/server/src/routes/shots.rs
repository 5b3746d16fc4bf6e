//! Shots and their revisions.

use super::shared::{Shared, drafted, revision};
use crate::desk::Waits;
use crate::error::Failure;
use crate::wire::{
    self, AskCourse, AtFrame, BroughtIn, Draft, Edit, Files, FindingSaid, MoreFiles, MovePasses, PassFacts,
    RevisionSummary, Sentence, ShotState, ShotSummary, TakeRemedies, Walk,
};
use crate::work::{ask, compute};
use jugata_core::Cancel;
use jugata_shot::intake::{self, MediaFile};
use jugata_shot::keying::on_frame;
use jugata_shot::values::DriveValue;
use jugata_shot::{Shot, ShotError};
use jugata_shot::{remedies, resolve};
use rocket::data::Data;
use rocket::http::Status;
use rocket::serde::json::{Error as JsonError, Json};
use rocket::serde::uuid::Uuid;
use rocket::{get, post};
use std::collections::{HashMap, HashSet};
use std::io::ErrorKind;

/// A JSON body, or why it is not one.
pub type Body<'r, T> = Result<Json<T>, JsonError<'r>>;

/// The body, or the sentence.
pub fn body<T>(body: Body<'_, T>) -> Result<T, Failure> {
    body.map(Json::into_inner).map_err(|e| match e {
        JsonError::Io(e) if e.kind() == ErrorKind::InvalidData => {
            Failure::new(Status::BadRequest, "The request is not UTF-8 text.")
        }
        JsonError::Io(_) => {
            Failure::new(Status::PayloadTooLarge, "The request is too large, or it was cut off.")
        }
        JsonError::Parse(_, e) => {
            Failure::new(Status::UnprocessableEntity, format!("The request could not be understood: {e}."))
        }
    })
}

#[get("/api/shots")]
pub async fn list(rooms: &Shared) -> Result<Json<Vec<ShotSummary>>, Failure> {
    let rows = ask(rooms, |s| s.list()).await?;
    Ok(Json(rows.into_iter().map(Into::into).collect()))
}

/// Brings one file in as a new shot. The body is the file.
#[post("/api/shots?<name>", data = "<data>")]
pub async fn bring_in(rooms: &Shared, name: &str, data: Data<'_>) -> Result<Json<BroughtIn>, Failure> {
    let file = super::media::take(rooms, name, data).await?.file;
    make(rooms, vec![file]).await
}

/// Makes a shot of files that are in the media store.
#[post("/api/shots/from", data = "<files>", rank = 1)]
pub async fn from_files(rooms: &Shared, files: Body<'_, Files>) -> Result<Json<BroughtIn>, Failure> {
    make(rooms, body(files)?.files).await
}

async fn make(rooms: &Shared, files: Vec<MediaFile>) -> Result<Json<BroughtIn>, Failure> {
    let files = bounded(files)?;
    let label = label("Bring in", &files);
    let shot = compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        intake::shot_of_files(&files, r.engine.as_ref())
    })
    .await?;
    let id = ask(rooms, move |s| s.create(&shot, &label)).await?;
    Ok(Json(BroughtIn { id }))
}

/// What was done with files, for the history: with one by its name, with more by their number.
pub fn label(verb: &str, files: &[MediaFile]) -> String {
    match files {
        [one] => format!("{verb} {}", one.name),
        many => format!("{verb} {} files", many.len()),
    }
}

/// Files join an element: further frames, replaced files, new passes. Roles and steps stay.
#[post("/api/shots/<id>/files", data = "<more>")]
pub async fn add_files(
    rooms: &Shared,
    id: Uuid,
    more: Body<'_, MoreFiles>,
) -> Result<Json<ShotState>, Failure> {
    let mut more = body(more)?;
    more.files = bounded(more.files)?;
    let mut shot = ask(rooms, move |s| s.load(id)).await?.shot;
    let base = more.base;
    let (label, shot) = compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let at = more.element;
        let verb = match more.instead {
            Some(pass) => {
                let at = at.ok_or(ShotError::Missing { what: "element", id: 0 })?;
                intake::replace(&mut shot, (at, pass), &more.files, r.engine.as_ref())?;
                "Replace by"
            }
            None => {
                match at {
                    Some(at) => intake::add_files(&mut shot, at, &more.files, r.engine.as_ref())?,
                    None => intake::add_elements(&mut shot, &more.files, r.engine.as_ref())?,
                }
                "Add"
            }
        };
        Ok::<_, ShotError>((label(verb, &more.files), shot))
    })
    .await?;
    let loaded = ask(rooms, move |s| s.append(id, base, &label, &shot)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

/// Takes the remedies of some findings of an element, as one edit.
#[post("/api/shots/<id>/remedies", data = "<take>")]
pub async fn take_remedies(
    rooms: &Shared,
    id: Uuid,
    take: Body<'_, TakeRemedies>,
) -> Result<Json<ShotState>, Failure> {
    let take = body(take)?;
    let mut shot = Shot::clone(&*revision(rooms, id, take.base).await?);
    let (base, label) = (take.base, intake::plain(&take.label, 200));
    let shot = compute(rooms, Waits::Pane, &Cancel::new(), move |r| {
        let found = r.engine.findings(&shot, take.element, take.frame)?;
        let chosen: Vec<_> = found
            .iter()
            .filter(|f| take.findings.iter().any(|c| c.pass == f.pass && c.kind == f.kind))
            .cloned()
            .collect();
        remedies::take(&mut shot, take.element, &chosen);
        Ok::<_, ShotError>(shot)
    })
    .await?;
    let loaded = ask(rooms, move |s| s.append(id, base, &label, &shot)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

/// Moves passes from one element to another.
#[post("/api/shots/<id>/passes/move", data = "<moves>")]
pub async fn move_passes(
    rooms: &Shared,
    id: Uuid,
    moves: Body<'_, MovePasses>,
) -> Result<Json<ShotState>, Failure> {
    let moves = body(moves)?;
    let mut shot = Shot::clone(&*revision(rooms, id, moves.base).await?);
    jugata_shot::move_passes(&mut shot, moves.from, &moves.passes, moves.to)?;
    let loaded =
        ask(rooms, move |s| s.append(id, moves.base, "Move passes to another element", &shot)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

/// Most different files of one name that come at once: those of some folders, dropped together.
const OF_ONE_NAME: usize = 64;

/// Most files that come at once.
const FILES: usize = 20_000;

/// Each file once; refused where there are too many, or names that cannot be.
fn bounded(files: Vec<MediaFile>) -> Result<Vec<MediaFile>, Failure> {
    let refuse = |what: String| Err(Failure::new(Status::UnprocessableEntity, what));
    if files.len() > FILES {
        return refuse(format!("{} files are more than the {FILES} that are taken at once.", files.len()));
    }
    if let Some(f) = files.iter().find(|f| !f.media.is_sound() || f.name.chars().count() > 180) {
        return refuse(format!("{}: its name or its hash is not possible.", intake::plain(&f.name, 60)));
    }
    let mut seen: HashMap<String, HashSet<String>> = HashMap::new();
    let mut once =
        |f: &MediaFile| seen.entry(f.name.clone()).or_default().insert(f.media.as_str().to_owned());
    let files: Vec<MediaFile> = files.into_iter().filter(|f| once(f)).collect();
    match seen.iter().find(|(_, media)| media.len() > OF_ONE_NAME) {
        Some((name, media)) => refuse(format!(
            "{} different files are called {}; give them different names, or bring them in folder by folder.",
            media.len(),
            intake::plain(name, 60)
        )),
        None => Ok(files),
    }
}

/// What the checks say of an element at a frame.
#[get("/api/shots/<id>/revisions/<number>/findings?<element>&<frame>")]
pub async fn findings(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    element: u32,
    frame: Option<i32>,
) -> Result<Json<Vec<FindingSaid>>, Failure> {
    let shot = revision(rooms, id, number).await?;
    compute(rooms, Waits::Page, &Cancel::new(), move |r| {
        let found = r.engine.findings(&shot, element, frame.unwrap_or(shot.first_frame()))?;
        let element = shot.element(element).ok_or(ShotError::Missing { what: "element", id: element })?;
        Ok::<_, Failure>(Json(wire::findings(element, &found)))
    })
    .await
}

/// What is known of an element's stored passes at a frame.
#[get("/api/shots/<id>/revisions/<number>/passes?<element>&<frame>")]
pub async fn passes(
    rooms: &Shared,
    id: Uuid,
    number: i32,
    element: u32,
    frame: Option<i32>,
) -> Result<Json<Vec<PassFacts>>, Failure> {
    let shot = revision(rooms, id, number).await?;
    compute(rooms, Waits::Page, &Cancel::new(), move |r| {
        let facts = r.engine.facts(&shot, element, frame.unwrap_or(shot.first_frame()))?;
        Ok::<_, Failure>(Json(facts.into_iter().map(Into::into).collect()))
    })
    .await
}

#[get("/api/shots/<id>")]
pub async fn load(rooms: &Shared, id: Uuid) -> Result<Json<ShotState>, Failure> {
    let loaded = ask(rooms, move |s| s.load(id)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

#[post("/api/shots/<id>/revisions", data = "<edit>")]
pub async fn edit(rooms: &Shared, id: Uuid, edit: Body<'_, Edit>) -> Result<Json<ShotState>, Failure> {
    let edit = body(edit)?;
    let label: String = edit.label.chars().filter(|c| !c.is_control()).take(200).collect();
    let edits = match edit.frame {
        Some(frame) => on_frame(&*revision(rooms, id, edit.base).await?, edit.edits, frame)?,
        None => edit.edits,
    };
    let loaded = ask(rooms, move |s| s.edit(id, edit.base, &label, &edits)).await?;
    Ok(Json(ShotState::at(id, loaded, edit.frame)))
}

#[post("/api/shots/<id>/undo", data = "<walk>")]
pub async fn undo(rooms: &Shared, id: Uuid, walk: Body<'_, Walk>) -> Result<Json<ShotState>, Failure> {
    let walk = body(walk)?;
    let loaded = ask(rooms, move |s| s.undo(id, walk.base)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

#[post("/api/shots/<id>/redo", data = "<walk>")]
pub async fn redo(rooms: &Shared, id: Uuid, walk: Body<'_, Walk>) -> Result<Json<ShotState>, Failure> {
    let walk = body(walk)?;
    let loaded = ask(rooms, move |s| s.redo(id, walk.base)).await?;
    Ok(Json(ShotState::new(id, loaded)))
}

/// The sentences of a document that is not saved: those of a value that moves.
#[post("/api/sentences", data = "<draft>")]
pub async fn sentences(rooms: &Shared, draft: Body<'_, Draft>) -> Result<Json<Vec<Sentence>>, Failure> {
    let draft = body(draft)?;
    let frame = draft.frame;
    let shot = drafted(rooms, draft).await?;
    Ok(Json(AtFrame::of(&shot, frame).sentences))
}

/// What moves over time, at a frame.
#[post("/api/at-frame", data = "<draft>")]
pub async fn at_frame(rooms: &Shared, draft: Body<'_, Draft>) -> Result<Json<AtFrame>, Failure> {
    let draft = body(draft)?;
    let frame = draft.frame;
    let shot = drafted(rooms, draft).await?;
    Ok(Json(AtFrame::of(&shot, frame)))
}

/// Most frames of a course.
const COURSE: usize = 4096;

/// The values of a driven parameter, frame by frame.
#[post("/api/course", data = "<ask>")]
pub async fn course(rooms: &Shared, ask: Body<'_, AskCourse>) -> Result<Json<Vec<DriveValue>>, Failure> {
    let ask = body(ask)?;
    let shot = drafted(rooms, ask.shot).await?;
    Ok(Json(resolve::course(&shot, &ask.at, (ask.from..=ask.to).take(COURSE))?))
}

#[get("/api/shots/<id>/history")]
pub async fn history(rooms: &Shared, id: Uuid) -> Result<Json<Vec<RevisionSummary>>, Failure> {
    let rows = ask(rooms, move |s| s.history(id)).await?;
    Ok(Json(rows.into_iter().map(Into::into).collect()))
}
