//! Where an element's picture lies: its own frame, the moves of its steps as chains, and the windows they cover.

use super::keeper::Engine;
use super::key;
use super::planes::note;
use super::reader::{Area, Reader};
use super::request::{Event, Request, Target};
use super::scene::Scene;
use super::wants;
use crate::document::{Element, Provider, Step};
use crate::error::ShotError;
use crate::files::Opens;
use crate::limit::united;
use crate::steps::{Change, Ground, Miss, Moves, Place};
use crate::tracks::track::HeldTo;
use crate::wants::Want;
use glam::DMat3;
use jugata_core::geometry::chain::{Chain, Move};
use jugata_core::geometry::field::Field;
use jugata_core::geometry::kernel::Kernel;
use jugata_core::geometry::resample::read;
use jugata_core::{Raster, Role, Scale, Window};
use serde::Serialize;
use std::ops::Range;
use std::sync::Arc;

/// Neighbouring moves at the end of some steps.
pub(crate) struct Run {
    /// How many steps stand before them.
    pub after: usize,
    /// The moves as one, px of the request's scale.
    pub chain: Chain,
    /// How many they are.
    pub count: usize,
}

/// Whether a step moves the whole picture: then it is sampled together with the moves beside it.
pub(super) fn moves_all(step: &Step) -> bool {
    step.does.kind().is_move() && step.only_where.is_none() && step.joins.strength == 1.0
}

/// The largest window that anything is worked out on: a frame of overscan on each side.
pub(super) fn within(display: Window, scale: Scale) -> Window {
    scale.window(display.grown(display.width.max(display.height)))
}

impl Scene<'_> {
    /// The frame of an element itself, full-resolution px.
    pub fn frame_of(self, element: &Element) -> Result<Window, ShotError> {
        match element.made.as_ref().and_then(|m| m.kind().framed_by()) {
            Some(file) => self.engine.frame(file),
            None => Ok(self.shot.display),
        }
    }

    /// Where a step moves the picture; nothing where it changes it, or does nothing. `seen` is how many of the extracted
    /// passes it may read. What is held to a track comes with the track's own moves around it.
    fn moves_of(self, element: &Element, step: &Step, seen: usize) -> Result<Vec<Moves>, ShotError> {
        let Some(own) = self.own_moves(element, step, seen)? else { return Ok(Vec::new()) };
        let Some(track) = step.held else { return Ok(vec![own]) };
        let kernel = own.kernel;
        // What moved the picture before it moved the plane, too. What is itself held to a track did not: it is done as the
        // plane lies on its own frame.
        let mut before = Vec::new();
        for earlier in element.steps.iter().take_while(|s| s.id != step.id).filter(|s| s.held.is_none()) {
            before.extend(self.own_moves(element, earlier, seen)?);
        }
        let by = self.plane(element, track)?;
        let still = around(Move::Homography(by.inverse()), &before, kernel);
        Ok(still.into_iter().chain([own]).chain(around(Move::Homography(by), &before, kernel)).collect())
    }

    /// Where a step moves the picture by itself.
    fn own_moves(self, element: &Element, step: &Step, seen: usize) -> Result<Option<Moves>, ShotError> {
        let kind = step.does.kind();
        if !key::has_effect(step) || !kind.is_move() {
            return Ok(None);
        }
        let reader = Reader { seen, ..Reader::of(element, &step.reads) };
        // A map of moves is no map of the step that goes by it.
        let lacks = |w: &Want| w.role().is_some_and(|(role, must)| must && reader.provider(role).is_none());
        if seen < element.extracts.len() && kind.wants().iter().any(lacks) {
            return Ok(None);
        }
        let place = || format!("Step {} ({})", step.id, step.does.title());
        self.told(reader, &step.does, kind, place).map(Some)
    }

    /// Where a kind moves the picture; kept, since a map and its way back are as large as a picture.
    fn told(
        self,
        reader: Reader<'_>,
        what: &impl Serialize,
        kind: &dyn Change,
        place: impl Fn() -> String,
    ) -> Result<Moves, ShotError> {
        let frame = self.frame_of(reader.element)?;
        let content = key::of_move(self.hashes, reader, what, kind, frame);
        if let Some(kept) = self.engine.caches.moves.get(&content) {
            return Ok(kept);
        }
        let request = Request::frame(self.shot, Target::Shot, Scale::FULL);
        let found = wants::found(self, reader, kind.about().title, kind.wants(), &request, Area::Whole)?;
        let wrong = |what| ShotError::Parameter { place: place(), what };
        let moves = kind.moves(&Ground { frame, found: &found }).map_err(wrong)?;
        self.engine.caches.moves.insert(content, moves.clone());
        Ok(moves)
    }

    /// What a step that moves the picture found out.
    pub fn told_by(self, element: &Element, step: &Step) -> Result<Vec<String>, ShotError> {
        let (reader, kind) = (Reader::of(element, &step.reads), step.does.kind());
        let request = Request::frame(self.shot, Target::Shot, Scale::FULL);
        let found = wants::found(self, reader, kind.about().title, kind.wants(), &request, Area::Whole)?;
        Ok(kind.tells(&Ground { frame: self.frame_of(element)?, found: &found }))
    }

    /// Where what a step solved does not fit.
    pub fn missed_by(self, element: &Element, step: &Step) -> Result<Vec<Miss>, ShotError> {
        Ok(step.does.kind().misses(&Ground { frame: self.frame_of(element)?, found: &[] }))
    }

    /// Where an element is put, and where the plane goes that it is held to.
    fn placed(self, element: &Element) -> Result<Vec<Moves>, ShotError> {
        let put = |place: &Place| self.told(Reader::of(element, &[]), place, place, || element.name.clone());
        let mut all: Vec<Moves> = element.placement.as_ref().map(put).transpose()?.into_iter().collect();
        if let Some(held) = element.held {
            let other = key::element_of(self.shot, held.element)?;
            let by = Move::Homography(self.plane(other, held.track)?);
            let kernel = all.last().map_or(Kernel::default(), |m| m.kernel);
            // The plane is told in the other element's own frame; it is seen where that one is put.
            all.extend(around(by, &self.all_moves(other)?, kernel));
        }
        Ok(all)
    }

    /// All moves of an element's steps and where it is put.
    fn all_moves(self, element: &Element) -> Result<Vec<Moves>, ShotError> {
        self.moves_from(element, 0, element.extracts.len())
    }

    /// The moves of an element's steps after the first `count`, and where it is put, as one sees them that knows the first `seen`
    /// extracted passes.
    fn moves_from(self, element: &Element, count: usize, seen: usize) -> Result<Vec<Moves>, ShotError> {
        let mut all = Vec::new();
        for step in element.steps.iter().skip(count) {
            all.extend(self.moves_of(element, step, seen)?);
        }
        all.extend(self.placed(element)?);
        Ok(all)
    }

    /// The way back from the shot to where an element's picture is after its first `count` steps, px of a scale.
    pub fn moves_back(self, element: &Element, count: usize, scale: Scale) -> Result<Chain, ShotError> {
        let all = self.moves_from(element, count, element.extracts.len())?;
        let kernel = all.last().map_or(Kernel::default(), |m| m.kernel);
        let back = all.into_iter().rev().map(|m| m.by.undone());
        Ok(Chain::of(back).read_by(kernel).at(scale))
    }

    /// What takes each place of an element's untouched picture to where it is some frames later (earlier below 0), told
    /// in that picture as the shot shows it now, full-resolution px; as one sees it that knows the first `seen` extracted passes.
    pub fn going(self, element: &Element, seen: usize, by: f64) -> Result<Chain, ShotError> {
        let later = self.hashes.later(by)?;
        let hashes = key::Hashes::of(&later);
        let then = Scene::new(self.engine, &hashes);
        let gone = then.moves_from(key::element_of(&later, element.id)?, 0, seen)?;
        let back = self.moves_from(element, 0, seen)?;
        let back = back.into_iter().rev().map(|m| m.by.undone());
        Ok(Chain::of(gone.into_iter().map(|m| m.by).chain(back)))
    }

    /// All moves of an element's steps and where it is put as one chain, px of a scale: what its passes follow into the shot.
    pub fn moves_and_place(self, element: &Element, scale: Scale) -> Result<Chain, ShotError> {
        Ok(chained(self.all_moves(element)?).at(scale))
    }

    /// Where a track of an element is now, from the frame of its region; kept, since it is asked for by every window and its
    /// file would be read each time.
    pub fn plane(self, element: &Element, track: u32) -> Result<DMat3, ShotError> {
        let content = key::of_held(element, Some(track));
        let kept = content.and_then(|content| self.engine.caches.moves.get(&content));
        if let Some(Moves { by: Move::Homography(by), .. }) = kept {
            return Ok(by);
        }
        let by = now(self.engine, element, track)?;
        if let Some(content) = content {
            let kept = Moves { by: Move::Homography(by), kernel: Kernel::default() };
            self.engine.caches.moves.insert(content, kept);
        }
        Ok(by)
    }

    /// What makes a track stand as on the frame of its region, px of a scale: in the shot where its element is put, if
    /// `placed`, else in the element's own frame.
    pub fn steadied(self, held: HeldTo, placed: bool, scale: Scale) -> Result<Chain, ShotError> {
        let element = key::element_of(self.shot, held.element)?;
        let by = Move::Homography(self.plane(element, held.track)?.inverse());
        let moves = if placed { self.all_moves(element)? } else { Vec::new() };
        Ok(chained(around(by, &moves, Kernel::default())).at(scale))
    }

    /// All moves among the first `count` steps as one chain, px of a scale: what passes follow.
    pub fn moves_before(self, element: &Element, count: usize, scale: Scale) -> Result<Chain, ShotError> {
        Ok(self.moves_among(element, 0..count, element.extracts.len())?.at(scale))
    }

    /// All moves among some steps as one chain, full-resolution px, as one sees them that knows the first `seen` extracted
    /// passes.
    pub fn moves_among(
        self,
        element: &Element,
        steps: Range<usize>,
        seen: usize,
    ) -> Result<Chain, ShotError> {
        let mut all = Vec::new();
        for step in element.steps.iter().take(steps.end).skip(steps.start) {
            all.extend(self.moves_of(element, step, seen)?);
        }
        Ok(chained(all))
    }

    /// The moves at the end of the first `count` steps, with where the element is put, if `placed`.
    pub fn last_moves(
        self,
        element: &Element,
        count: usize,
        placed: bool,
        scale: Scale,
    ) -> Result<Run, ShotError> {
        let mut all = Vec::new();
        let mut count_of = 0;
        if placed {
            let own = self.placed(element)?;
            count_of += usize::from(!own.is_empty());
            all.extend(own.into_iter().rev());
        }
        let mut after = count.min(element.steps.len());
        while let Some(step) = after.checked_sub(1).and_then(|i| element.steps.get(i)) {
            if key::has_effect(step) {
                if !moves_all(step) {
                    break;
                }
                let own = self.moves_of(element, step, element.extracts.len())?;
                count_of += usize::from(!own.is_empty());
                all.extend(own.into_iter().rev());
            }
            after -= 1;
        }
        all.reverse();
        Ok(Run { after, count: count_of, chain: chained(all).at(scale) })
    }

    /// The move after the first `before` steps, with those just before it.
    pub fn moves_up_to(self, element: &Element, before: usize, scale: Scale) -> Result<Run, ShotError> {
        let mut run = self.last_moves(element, before, false, Scale::FULL)?;
        let Some(step) = element.steps.get(before) else {
            return Ok(Run { chain: run.chain.at(scale), ..run });
        };
        let own = self.moves_of(element, step, element.extracts.len())?;
        run.count += usize::from(!own.is_empty());
        for own in own {
            run.chain = run.chain.then(own.by).read_by(own.kernel);
        }
        run.chain = run.chain.at(scale);
        Ok(run)
    }

    /// What an element's picture covers before any step, px of the request's scale.
    fn covers_at_first(self, element: &Element, request: &Request) -> Result<Window, ShotError> {
        if element.made.is_some() {
            return Ok(request.scale.window(self.frame_of(element)?));
        }
        let frame = request.scale.window(request.display);
        let Some(beauty) = element.pass_of(Role::Beauty) else { return Ok(frame) };
        Ok(self.pass(element, Provider::Stored(beauty), request)?.window())
    }

    /// What an element's picture covers after its first `count` steps, px of the request's scale.
    pub fn covers(self, element: &Element, count: usize, request: &Request) -> Result<Window, ShotError> {
        let within = within(request.display, request.scale);
        // Neighbours are one move: the box of a box would grow with each.
        let run = self.last_moves(element, count, false, request.scale)?;
        let Some(last) = run.after.checked_sub(1) else {
            let first = self.covers_at_first(element, request)?.intersect(&within);
            return Ok(run.chain.extent(first, within));
        };
        let before = self.covers(element, last, request)?;
        // A move in part leaves some of the picture where it was.
        let own = self.moves_of(element, &element.steps[last], element.extracts.len())?;
        let part = chained(own).at(request.scale);
        Ok(run.chain.extent(united(before, part.extent(before, within)), within))
    }

    /// The shot's frame and whatever an element's picture has beyond it before a step: what a step sees that looks at the
    /// whole frame.
    pub fn whole_window(
        self,
        element: &Element,
        count: usize,
        request: &Request,
    ) -> Result<Window, ShotError> {
        Ok(united(request.scale.window(request.display), self.covers(element, count, request)?))
    }

    /// The picture of an element after some steps through a run of moves, on the request's window.
    pub fn sampled(
        self,
        element: &Element,
        run: &Run,
        request: &Request,
        before: impl Fn(&Request) -> Result<Arc<Raster>, ShotError>,
    ) -> Result<Raster, ShotError> {
        let whole = self.covers(element, run.after, request)?;
        let field = Field::of(&run.chain, request.window);
        let picture = before(&Request { window: field.part(whole), ..request.clone() })?;
        note(Some(request), Event::Sampled { element: element.id, moves: run.count });
        Ok(read(&picture, &field, &request.cancel)?)
    }
}

/// A move as it looks after some others: these undone, the move, and these done again.
fn around(by: Move, others: &[Moves], kernel: Kernel) -> Vec<Moves> {
    let undone = others.iter().rev().map(|m| m.by.clone().undone());
    let all = undone.chain([by]).chain(others.iter().map(|m| m.by.clone()));
    all.map(|by| Moves { by, kernel }).collect()
}

/// Moves as one chain, read by the kernel of the last.
fn chained(moves: impl IntoIterator<Item = Moves>) -> Chain {
    let all: Vec<Moves> = moves.into_iter().collect();
    let kernel = all.last().map_or(Kernel::default(), |m| m.kernel);
    Chain::of(all.into_iter().map(|m| m.by)).read_by(kernel)
}

/// From the frame of a track's region to that of the still.
fn now(engine: &Engine, element: &Element, id: u32) -> Result<DMat3, ShotError> {
    let track = element.tracks.iter().find(|t| t.id == id).ok_or(ShotError::Missing { what: "track", id })?;
    let course = track.course(|f| engine.bytes(f))?;
    Ok(track.by_time(&course, track.now.unwrap_or(track.at.into())))
}
