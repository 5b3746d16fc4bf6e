//! What is asked for, found: one resolver for the content hash and for the samples of each want.

use super::composition;
use super::key::{self, ContentHash, Hashes};
use super::mattes::{Matte, matte};
use super::scene::{Reader, Scene, lacks};
use super::{Request, Target};
use crate::document::{Element, Provider, Step};
use crate::error::ShotError;
use crate::inputs::{Found, Lights};
use crate::intake::{self, MediaFile};
use crate::wants::Want;
use jugata_core::{Convention, Raster, Role, Scale, Window};
use std::ops::Range;
use std::sync::Arc;

/// How much of a pass is wanted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Area {
    /// What lies on the request's window.
    Window,
    /// All of it.
    Whole,
}

/// The pass that is asked for by number, of those that the reader sees.
fn numbered<'a>(reader: Reader<'a>, id: u32) -> Option<Provider<'a>> {
    let seen = |p: &Provider<'_>| !matches!(p, Provider::Extracted(_, at) if *at >= reader.seen);
    reader.element.provider(id).filter(seen)
}

/// The other element that is asked for its depth.
fn other<'a>(known: &Hashes<'a>, reader: Reader<'_>, id: u32) -> Option<&'a Element> {
    known.shot.element(id).filter(|e| e.id != reader.element.id)
}

/// What lies behind the reader's element: one that is named, if it is there, or all that is seen below it.
fn behind<'a>(known: &Hashes<'a>, reader: Reader<'_>, id: Option<u32>) -> Vec<&'a Element> {
    match id {
        Some(id) => other(known, reader, id).into_iter().collect(),
        None => known.shot.below(reader.element.id).collect(),
    }
}

/// Content of each want; `None` for what is not there.
pub(super) fn contents(known: &Hashes<'_>, reader: Reader<'_>, wants: &[Want]) -> Vec<Option<ContentHash>> {
    let of = |want: &Want| match want {
        Want::Role { role, .. } => key::of_role(known, reader, *role),
        Want::Pass(id) => numbered(reader, *id).map(|p| key::of_provider(known, reader.element, p)),
        Want::DepthOf(id) => {
            key::of_role(known, Reader::from_elsewhere(other(known, reader, *id)?), Role::Depth)
        }
        Want::PlaceOf(id) => Some(key::of_place(known, other(known, reader, *id)?)),
        Want::LightOf(id) => {
            let other = key::of_light(known, known.shot.element(*id)?);
            Some(key::of_light(known, reader.element).and(other))
        }
        Want::PictureOf(id) => other(known, reader, *id)
            .map(|e| key::of(&("picture of", key::of_element(known, e, e.steps.len()), known.shot.display))),
        Want::Behind(id) => Some(key::of_behind(known, reader.element, &behind(known, reader, *id))),
        Want::Picture(file) => Some(key::of(&("picture", &file.media))),
        Want::File(file) => Some(key::of(&("file", &file.media))),
        Want::Matte(id) => matte_of(reader, *id).map(|m| key::of_matte(known, m)),
        Want::Map(file, convention) => Some(key::of(&("map", &file.media, convention))),
        Want::Step(id) => step_of(reader.element, *id).map(|s| key::of(&("does", &s.does))),
        Want::Moves(first, last) => {
            let steps = steps_from(reader.element, *first, *last);
            Some(key::of(&(
                "moves of",
                key::of_moves_among(known, reader.element, steps, reader.seen).map(|h| key::of(&h)),
                known.shot.display,
            )))
        }
    };
    let moves = key::of_moves(known, reader.element, reader.after);
    let follows = |want: &Want| matches!(want, Want::Role { .. } | Want::Pass(_));
    let found = |want: &Want| match moves.filter(|_| follows(want)) {
        Some(moves) => of(want).map(|content| content.and(moves)),
        None => of(want),
    };
    wants.iter().map(found).collect()
}

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
                Some(pass) => Some(scene.pass(reader.element, pass, request)?),
                None => None,
            },
            Want::DepthOf(id) => match other(scene.hashes, reader, *id) {
                Some(other) => scene.read_whole(Reader::from_elsewhere(other), Role::Depth, request)?,
                None => None,
            },
            Want::PlaceOf(id) => match other(scene.hashes, reader, *id) {
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
            Want::PictureOf(id) => match other(scene.hashes, reader, *id) {
                Some(other) => Some(super::evaluate::alone(scene, other, request)?),
                None => None,
            },
            Want::Behind(id) => {
                let behind = behind(scene.hashes, reader, *id);
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
                    all.push((want, Found::Step(Box::new(step.does.clone()))));
                }
                continue;
            }
            Want::Moves(first, last) => {
                let steps = steps_from(reader.element, *first, *last);
                let chain = scene.moves_among(reader.element, steps, reader.seen)?;
                all.push((want, Found::Moves(Box::new(chain))));
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
        Want::Step(_) | Want::Moves(..) | Want::File(_) => Role::Other,
    }
}

/// The named matte of a number, where the reader sees it.
fn matte_of(reader: Reader<'_>, id: u32) -> Option<Matte<'_>> {
    let named = key::matte_of(reader.element, id).ok()?.seen_by(reader.seen);
    Some(Matte { reader: Reader { after: reader.after, ..named.reader }, ..named })
}

fn step_of(element: &Element, id: u32) -> Option<&Step> {
    element.steps.iter().find(|s| s.id == id)
}

/// The places of the steps from one number to another; one that is not there asks for none.
fn steps_from(element: &Element, first: Option<u32>, last: Option<u32>) -> Range<usize> {
    let place = |id: u32| element.steps.iter().position(|s| s.id == id);
    let from = first.map_or(Some(0), place);
    let to = last.map_or(Some(element.steps.len()), |id| place(id).map(|p| p + 1));
    from.zip(to).map_or(0..0, |(from, to)| from..to.max(from))
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
    let shot = intake::shot_of_files(std::slice::from_ref(file), scene.engine)?;
    let frame = Request::frame(&shot, Target::Shot, Scale::FULL);
    let request = Request { cancel: request.cancel.clone(), ..frame };
    Ok(super::evaluate::evaluate(scene.engine, &shot, &request)?.raster)
}
