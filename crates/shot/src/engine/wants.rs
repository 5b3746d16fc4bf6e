//! What is asked for, found: one resolver for the content hash and for the samples of each want.

use super::body;
use super::composition;
use super::key;
use super::mattes::matte;
use super::pose;
use super::reader::{Area, Reader, behind, lacks, matte_of, numbered, other, step_of, steps_from};
use super::request::{Request, Target};
use super::scene::Scene;
use crate::document::{Element, Provider};
use crate::error::ShotError;
use crate::files::MediaFile;
use crate::inputs::{Found, Going, Lights};
use crate::intake;
use crate::wants::{OfFrame, Want};
use jugata_core::{Convention, Raster, Role, Scale, Window};
use std::sync::Arc;

/// What each want finds; what is not there and not needed is left out. `what` asks, in words.
pub(crate) fn found(
    scene: Scene<'_>,
    reader: Reader<'_>,
    what: &str,
    wants: Vec<Want>,
    request: &Request,
    area: Area,
) -> Result<Vec<(Want, Found)>, ShotError> {
    let mut all = Vec::with_capacity(wants.len());
    for want in wants {
        request.cancel.check()?;
        let raster = match &want {
            Want::Role { role, .. } => match area {
                Area::Window => scene.read(reader, *role, request)?,
                Area::Whole => scene.read_whole(reader, *role, request)?,
            },
            Want::Pass(id) => match numbered(reader, *id) {
                Some(pass) => Some(scene.numbered(reader, pass, request)?),
                None => None,
            },
            Want::DepthOf(id) => match other(scene.shot, reader, *id) {
                Some(other) => scene.read_whole(Reader::from_elsewhere(other), Role::Depth, request)?,
                None => None,
            },
            Want::PlaceOf(id) => match other(scene.shot, reader, *id) {
                Some(other) => composition::place_of(scene, other, request)?,
                None => None,
            },
            Want::LightOf(id) => {
                let light = |e: &Element| Ok::<_, ShotError>(scene.light_of(e, request)?.light);
                let other = light(key::element_of(scene.shot, *id)?)?;
                let lights = Lights { own: light(reader.element)?, other };
                all.push((want, Found::Lights(Box::new(lights))));
                continue;
            }
            Want::PictureOf(id) => match other(scene.shot, reader, *id) {
                Some(other) => Some(super::evaluate::alone(scene, other, request)?),
                None => None,
            },
            Want::Behind(id) => {
                let behind = behind(scene.shot, reader, *id);
                Some(composition::behind(scene, reader, &behind, request)?)
            }
            Want::Picture(file) => Some(picture(scene, file, request)?),
            Want::File(file) => {
                let bytes = scene.engine.bytes(file)?;
                all.push((want, Found::File(bytes)));
                continue;
            }
            Want::Matte(id) => {
                let missing = || ShotError::Missing { what: "matte", id: *id };
                let m = matte_of(reader, *id).ok_or_else(missing)?;
                let window = match area {
                    Area::Window => request.window,
                    Area::Whole => scene.whole_window(reader.element, 0, request)?,
                };
                Some(matte(scene, m, &Request { window, ..request.clone() })?)
            }
            Want::Map(file, convention) => {
                let (places, frame) = map(scene, file, convention, request)?;
                all.push((want, Found::Map(places, frame)));
                continue;
            }
            Want::Step(id) => {
                if let Some(step) = step_of(reader.element, *id) {
                    all.push((want, Found::Step(step.does.parameters())));
                }
                continue;
            }
            Want::Moves(first, last) => {
                let steps = steps_from(reader.element, *first, *last);
                let chain = scene.moves_among(reader.element, steps, reader.seen)?;
                all.push((want, Found::Moves(Box::new(chain))));
                continue;
            }
            Want::Cameras(times) => {
                if let Some(cameras) = pose::cameras(scene, reader.element, *times)? {
                    all.push((want, Found::Cameras(Box::new(cameras))));
                }
                continue;
            }
            Want::Body(matte, at) => {
                if let Some(body) = body::body(scene, reader, *matte, *at, request)? {
                    all.push((want, Found::Body(Box::new(body))));
                }
                continue;
            }
            Want::OnFrame(by, what) => on_frame(scene, reader, *by, *what, request)?,
            Want::Going(times) => {
                let frame = scene.frame_of(reader.element)?;
                // Beside the frame there may be no such shot: a value that drifts out of its range. Then nothing goes anywhere.
                let [from, to] = times.map(|by| scene.going(reader.element, reader.seen, by));
                if let (Ok(from), Ok(to)) = (from, to) {
                    let going = Going { times: *times, at: [from, to], frame };
                    all.push((want, Found::Going(Box::new(going))));
                }
                continue;
            }
        };
        match (raster, want.role()) {
            (Some(raster), _) if is_mean(reader, &want) => all.push((want, Found::Mean(raster))),
            (Some(raster), _) => all.push((want, Found::Raster(raster))),
            (None, Some((role, true))) => return Err(lacks(reader.element, what, role)),
            (None, _) => {}
        }
    }
    Ok(all)
}

/// Something of the reader's element on another frame, on the request's window.
fn on_frame(
    scene: Scene<'_>,
    reader: Reader<'_>,
    by: i32,
    what: OfFrame,
    request: &Request,
) -> Result<Option<Arc<Raster>>, ShotError> {
    if key::of_frame(scene.hashes, reader, by, what).is_none() {
        return Ok(None);
    }
    let still = scene.hashes.later(by.into())?;
    let hashes = scene.hashes.of_other(&still);
    let then = Scene::new(scene.engine, &hashes);
    let element = key::element_of(&still, reader.element.id)?;
    // What is traced is what happens on the frame that is seen.
    let request = Request { frame: request.frame.saturating_add(by), trace: None, ..request.clone() };
    match what {
        OfFrame::Picture => Ok(Some(super::evaluate::after_steps(then, element, reader.after, &request)?)),
        OfFrame::Role(role) => then.read(Reader { element, ..reader }, role, &request),
    }
}

/// Whether each sample of what is asked for is a mean over its pixel.
fn is_mean(reader: Reader<'_>, want: &Want) -> bool {
    let pass = match want {
        Want::Role { role, .. } => reader.provider(*role),
        Want::Pass(id) => numbered(reader, *id),
        _ => None,
    };
    matches!(pass, Some(Provider::Extracted(e, _)) if e.does.kind().is_mean())
}

/// What a pass that was found means.
pub(super) fn role_of(reader: Reader<'_>, want: &Want) -> Role {
    match want {
        Want::Role { role, .. } => *role,
        Want::Pass(id) => numbered(reader, *id).map_or(Role::Other, |p| p.role()),
        Want::DepthOf(_) | Want::PlaceOf(_) => Role::Depth,
        Want::Map(..) => Role::StMap,
        Want::LightOf(_) | Want::Picture(_) | Want::PictureOf(_) | Want::Behind(_) => Role::Beauty,
        Want::Matte(_) => Role::Alpha,
        Want::OnFrame(_, OfFrame::Picture) => Role::Beauty,
        Want::OnFrame(_, OfFrame::Role(role)) => *role,
        Want::Step(_)
        | Want::Moves(..)
        | Want::Going(_)
        | Want::Cameras(_)
        | Want::Body(..)
        | Want::File(_) => Role::Other,
    }
}

/// A coordinate map from a file, whole and canonical, and the frame that it is made for.
fn map(
    scene: Scene<'_>,
    file: &MediaFile,
    convention: &Convention,
    request: &Request,
) -> Result<(Arc<Raster>, Window), ShotError> {
    let mut shot = intake::shot_of_files(std::slice::from_ref(file), scene.engine)?;
    let nothing = || ShotError::Media(jugata_exchange::ExchangeError::NotAnImage);
    let element = shot.elements.first_mut().ok_or_else(nothing)?;
    let place = element.passes.iter().position(|p| p.role == Role::StMap).unwrap_or(0);
    let pass = element.passes.get_mut(place).ok_or_else(nothing)?;
    (pass.role, pass.convention) = (Role::StMap, *convention);
    pass.repairs.clear();
    let (pass, display) = (pass.clone(), shot.display);
    let element = shot.elements.first().ok_or_else(nothing)?;
    Ok((scene.engine.pass(element, &pass, Scale::FULL, display, Some(request))?, display))
}

/// A picture from a file, whole.
fn picture(scene: Scene<'_>, file: &MediaFile, request: &Request) -> Result<Arc<Raster>, ShotError> {
    let shot = intake::shot_of_picture(file, scene.engine)?;
    let frame = Request::frame(&shot, Target::Shot, Scale::FULL);
    let request = Request { cancel: request.cancel.clone(), ..frame };
    Ok(super::evaluate::evaluate(scene.engine, &shot, &request)?.raster)
}
