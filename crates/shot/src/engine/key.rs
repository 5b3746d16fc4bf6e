//! Hashes of everything that decides pixels.

use super::body;
use super::pose::told_by;
use super::reader::{
    Matte, Reader, behind, coverage, matte_of, named_matte, numbered, other, step_of, steps_from,
};
use super::request::Target;
pub(super) use crate::content::{ContentHash, of};
use crate::document::{Element, Extract, MediaId, Pass, Provider, Shot, Step};
use crate::error::ShotError;
use crate::kinds::Kind;
use crate::made::MadeKind;
use crate::parts::PartFrom;
use crate::still::Still;
use crate::wants::{OfFrame, Want, takes};
use jugata_core::{Camera, Role, Window};
use serde::Serialize;
use std::collections::HashMap;
use std::ops::Range;
use std::sync::{Arc, Mutex, PoisonError};

/// What of a shot has a hash of its own that others ask for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
enum Part {
    Pass,
    Extract,
    /// As one sees it that knows so many extracted passes.
    Matte(usize),
    Steps,
}

/// A shot at a frame, and the hashes of it that are known already: mattes and extractions that name each other are
/// looked at once, however often they are named.
pub(crate) struct Hashes<'a> {
    pub shot: &'a Shot,
    still: &'a Still<'a>,
    known: Mutex<HashMap<(Part, u32, u32), ContentHash>>,
    /// From how many frames, one after the other, it is looked at: none for the one that is seen.
    from: u8,
    /// The shot at other times, by the bits of how far they lie from now.
    others: Mutex<HashMap<u64, Arc<Still<'a>>>>,
}

impl<'a> Hashes<'a> {
    pub fn of(still: &'a Still<'_>) -> Self {
        Self { shot: still, still, known: Mutex::default(), from: 0, others: Mutex::default() }
    }

    /// The same of a frame that this one looks at. Steps that would look at frames beside it find none there: two of them
    /// would ask for all frames around each frame around, and so on.
    pub fn of_other<'b>(&self, still: &'b Still<'_>) -> Hashes<'b> {
        Hashes { from: self.from.saturating_add(1), ..Hashes::of(still) }
    }

    /// Frames from now until the frame of the shot that comes nearest to a number; 0 in a shot of one frame.
    pub fn until(&self, frame: u32) -> i32 {
        let Some(frames) = self.shot.frames else { return 0 };
        let asked = i32::try_from(frame).unwrap_or(i32::MAX);
        asked.clamp(frames.first.min(frames.last), frames.last).saturating_sub(self.still.frame())
    }

    /// Whether bodies may be followed here. A body that is chosen by how another one moves would ask for all frames of all
    /// frames.
    pub fn follows_bodies(&self) -> bool {
        self.from < 2
    }

    /// The same shot some frames later, or earlier below 0.
    pub fn later(&self, by: f64) -> Result<Arc<Still<'a>>, ShotError> {
        let others = || self.others.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(still) = others().get(&by.to_bits()) {
            return Ok(still.clone());
        }
        let still = Arc::new(self.still.later(by)?);
        others().insert(by.to_bits(), still.clone());
        Ok(still)
    }

    /// The hash of a part of an element, made the first time that it is asked for.
    fn once(&self, part: (Part, u32, u32), make: impl FnOnce() -> ContentHash) -> ContentHash {
        let known = || self.known.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(hash) = known().get(&part) {
            return *hash;
        }
        let hash = make();
        known().insert(part, hash);
        hash
    }
}

/// Content of a pass, at any window.
pub(super) fn of_pass(element: &Element, pass: &Pass) -> ContentHash {
    let s = &pass.source;
    let by = coverage(element, pass).map(|p| (&p.source.media, p.source.part, &p.source.channels));
    of(&(
        "pass",
        &s.media,
        s.part,
        &s.channels,
        pass.role,
        pass.convention,
        &pass.repairs,
        of_camera(element),
        by,
    ))
}

/// Content of an element's camera: the files say where it stands, and need not be read for that.
pub(crate) fn of_camera(element: &Element) -> (Option<Camera>, Vec<&MediaId>) {
    let first = element.at_first.iter().map(|p| &p.source.media);
    (element.camera, first.chain(told_by(element)).collect())
}

/// Content of all passes of an element, in a frame.
pub(super) fn of_passes(element: &Element, display: Window) -> ContentHash {
    let all: Vec<_> = element.passes.iter().map(|p| (p.id, &p.name, of_pass(element, p).0)).collect();
    of(&("passes", all, display))
}

/// Content of a pass, stored or extracted.
pub(super) fn of_provider(known: &Hashes<'_>, element: &Element, pass: Provider<'_>) -> ContentHash {
    match pass {
        Provider::Stored(p) => known.once((Part::Pass, element.id, p.id), || of_pass(element, p)),
        Provider::Extracted(e, place) => of_extract(known, element, e, place),
        Provider::Drawn(made, role) => of_drawn(known, element, made, role),
    }
}

/// Content of what a made element draws for a role.
pub(super) fn of_drawn(known: &Hashes<'_>, element: &Element, made: &MadeKind, role: Role) -> ContentHash {
    let kind = made.kind();
    let read = contents(known, Reader::of(element, &[]), &kind.wants());
    of(&("drawn", kind.about().version, made, role, read, known.shot.display))
}

/// Content of the moves among the first `count` steps of an element, which its passes follow; `None` without any.
pub(super) fn of_moves(known: &Hashes<'_>, element: &Element, count: usize) -> Option<ContentHash> {
    of_moves_among(known, element, 0..count, element.extracts.len())
}

/// Content of the moves among some steps, as one sees them that knows the first `seen` extracted passes.
pub(super) fn of_moves_among(
    known: &Hashes<'_>,
    element: &Element,
    steps: Range<usize>,
    seen: usize,
) -> Option<ContentHash> {
    let all = element.steps.iter().take(steps.end).skip(steps.start);
    let moves: Vec<_> = all
        .filter(|s| has_effect(s) && s.does.kind().is_move())
        .map(|s| {
            let reader = Reader { seen, ..Reader::of(element, &s.reads) };
            let read = contents(known, reader, &s.does.kind().wants());
            (s.does.kind().about().version, &s.does, read, of_held(element, s.held))
        })
        .collect();
    (!moves.is_empty()).then(|| of(&("moves", moves, element.made.as_ref())))
}

/// Content of what one kind moves.
pub(super) fn of_move(
    known: &Hashes<'_>,
    reader: Reader<'_>,
    what: &impl Serialize,
    kind: &dyn Kind,
    frame: Window,
) -> ContentHash {
    of(&("move", kind.about().version, what, contents(known, reader, &kind.wants()), frame))
}

/// Content of an element after its first `count` steps, where it is put.
pub(super) fn of_placed(known: &Hashes<'_>, element: &Element, count: usize) -> ContentHash {
    let picture = of_element(known, element, count);
    match (&element.placement, element.held) {
        (None, None) => picture,
        (Some(place), None) => of(&("placed", picture, place.about().version, place)),
        (place, Some(_)) => {
            let version = place.as_ref().map(|p| p.about().version);
            of(&("held", picture, version, place, of_holder(known, element)))
        }
    }
}

/// Content of where a track of an element is now.
pub(super) fn of_held(element: &Element, track: Option<u32>) -> Option<ContentHash> {
    let track = element.tracks.iter().find(|t| Some(t.id) == track)?;
    Some(of(&("track", track, track.now)))
}

/// Content of where an element goes along with another.
fn of_holder(known: &Hashes<'_>, element: &Element) -> Option<ContentHash> {
    let held = element.held?;
    let other = known.shot.element(held.element)?;
    let moves = of_moves(known, other, other.steps.len());
    Some(of(&("holder", of_held(other, Some(held.track)), moves, &other.placement, of_holder(known, other))))
}

/// Content of an extracted pass.
pub(super) fn of_extract(
    known: &Hashes<'_>,
    element: &Element,
    extract: &Extract,
    place: usize,
) -> ContentHash {
    known.once((Part::Extract, element.id, extract.id), || extract_anew(known, element, extract, place))
}

fn extract_anew(known: &Hashes<'_>, element: &Element, extract: &Extract, place: usize) -> ContentHash {
    let reader = Reader { element, chosen: &extract.reads, seen: place, after: 0 };
    let kind = extract.does.kind();
    let read = contents(known, reader, &kind.wants());
    of(&("extract", kind.about().version, &extract.does, read, of_camera(element), known.shot.display))
}

/// Content of positions that are made from a depth.
pub(super) fn of_positions(known: &Hashes<'_>, reader: Reader<'_>, depth: Provider<'_>) -> ContentHash {
    of(&("positions", of_provider(known, reader.element, depth).0, of_camera(reader.element)))
}

/// Content of what is read for a role: a pass, or what is derived for it.
pub(super) fn of_role(known: &Hashes<'_>, reader: Reader<'_>, role: Role) -> Option<ContentHash> {
    match (reader.provider(role), role, reader.element.camera) {
        (Some(pass), _, _) => Some(of_provider(known, reader.element, pass)),
        (None, Role::Position, Some(_)) => {
            reader.provider(Role::Depth).map(|d| of_positions(known, reader, d))
        }
        (None, Role::Alpha, _) => {
            reader.provider(Role::Beauty).map(|b| of(&("alpha", of_provider(known, reader.element, b).0)))
        }
        _ => None,
    }
}

/// Content of an element after its first `count` steps.
pub(super) fn of_element(known: &Hashes<'_>, element: &Element, count: usize) -> ContentHash {
    // From the last step on, whose hash is asked for on the way back through all of them.
    known.once((Part::Steps, element.id, count as u32), || {
        match element.steps.get(..count).and_then(|s| s.split_last()) {
            Some((step, before)) => of_step(known, element, step, of_element(known, element, before.len())),
            None => of(&("beauty", of_role(known, Reader::of(element, &[]), Role::Beauty).map(|h| h.0))),
        }
    })
}

/// Content of the light that is found on an element.
pub(super) fn of_light(known: &Hashes<'_>, element: &Element) -> ContentHash {
    let reader = Reader::of(element, &[]);
    let roles = [Role::Beauty, Role::Normal, Role::Albedo];
    let read = roles.map(|role| of_role(known, reader, role).map(|h| h.0));
    of(&("light", read, known.shot.display))
}

/// Content of what a kind works out on the way, under a key of all that decides it beside what it asked for.
pub(super) fn of_kept(known: &Hashes<'_>, reader: Reader<'_>, kind: &dyn Kind, key: &str) -> ContentHash {
    let about = kind.about();
    let read = contents(known, reader, &kind.wants());
    of(&("kept", about.title, about.version, read, of_camera(reader.element), key))
}

/// Content after a step, from the content before it. A step without effect passes it on.
fn of_step(known: &Hashes<'_>, element: &Element, step: &Step, before: ContentHash) -> ContentHash {
    if !has_effect(step) {
        return before;
    }
    let kind = step.does.kind();
    let place = place_of(element, step.id).unwrap_or(0);
    let read = contents(known, Reader::at(element, &step.reads, place), &kind.wants());
    let limit = limit_of(element, step).map(|m| of_matte(known, m));
    let what = (kind.about().version, &step.does, &step.joins, of_held(element, step.held));
    of(&("step", before, what, limit, read, of_camera(element)))
}

/// Whether a step can change a bit.
pub(super) fn has_effect(step: &Step) -> bool {
    step.on && step.joins.strength != 0.0
}

/// The matte of a step, if it has one.
pub(crate) fn limit_of<'a>(element: &'a Element, step: &'a Step) -> Option<Matte<'a>> {
    let limit = step.only_where.as_ref()?;
    let before = place_of(element, step.id).unwrap_or(0);
    let reader = Reader::at(element, &step.reads, before);
    Some(Matte { reader, limit, known: element.mattes.len(), what: step.does.title() })
}

/// Content of a matte.
pub(super) fn of_matte(known: &Hashes<'_>, m: Matte<'_>) -> ContentHash {
    let parts: Vec<_> = m
        .limit
        .parts
        .iter()
        .map(|p| match p.by.kind().comes_from() {
            PartFrom::Matte(id) => m.used(id).map(|m| {
                let part = (Part::Matte(m.reader.seen), m.reader.element.id, id);
                known.once(part, || of_matte(known, m)).0
            }),
            PartFrom::Pass(role) => of_role(known, m.reader, role).map(|h| h.0),
            PartFrom::Drawing => None,
        })
        .collect();
    let held: Vec<_> = m.limit.parts.iter().map(|p| of_held(m.reader.element, p.held)).collect();
    let versions: Vec<_> = m.limit.parts.iter().map(|p| p.by.kind().about().version).collect();
    // What is done to an edge is cut at the picture's own window.
    let window = if m.limit.finish.is_nothing() { None } else { of_role(known, m.reader, Role::Beauty) };
    let moves = of_moves(known, m.reader.element, m.reader.after);
    of(&("matte", m.limit, versions, parts, known.shot.display, window.map(|h| h.0), moves, held))
}

/// The elements that are seen, the lowest first.
pub(super) fn seen(shot: &Shot) -> impl Iterator<Item = &Element> {
    shot.elements.iter().filter(|e| !e.only_used)
}

/// Whether one of the elements that are seen stands in one space with those below it.
pub(super) fn in_space(shot: &Shot) -> bool {
    seen(shot).any(|e| e.by_depth.is_some())
}

/// Content of where an element stands in the shot.
pub(super) fn of_place(known: &Hashes<'_>, element: &Element) -> ContentHash {
    let reader = Reader::from_elsewhere(element);
    let read = [Role::Depth, Role::Alpha].map(|role| of_role(known, reader, role));
    of(&("place of", read, of_way(known, element, element.extracts.len()), element.by_depth))
}

/// Content of the way from an element's own pixels to the shot's, as one sees it that knows the first `seen` extracted
/// passes: the moves of its steps, and where it is put.
fn of_way(known: &Hashes<'_>, element: &Element, seen: usize) -> ContentHash {
    let moves = of_moves_among(known, element, 0..element.steps.len(), seen);
    let place = element.placement.as_ref().map(|p| (p.about().version, p));
    of(&("way", moves, of_holder(known, element), place, known.shot.display))
}

/// Content of where an element's own pixels go from one time to another, frames from now, as one sees it that knows the
/// first `seen` extracted passes; `None` where it has no such time.
fn of_going(known: &Hashes<'_>, element: &Element, seen: usize, times: [f64; 2]) -> Option<ContentHash> {
    let at = |by: f64| {
        let still = known.later(by).ok()?;
        Some(of_way(&Hashes::of(&still), still.element(element.id)?, seen))
    };
    let ends = at(times[0]).zip(at(times[1]))?;
    Some(of(&("going", times, ends, of_way(known, element, seen))))
}

/// Content of the cameras of an element on two other frames.
fn of_cameras(known: &Hashes<'_>, element: &Element, times: [i32; 2]) -> Option<ContentHash> {
    let at = |by: i32| {
        let still = known.later(by.into()).ok()?;
        Some(of(&of_camera(still.element(element.id)?)))
    };
    let ends = at(times[0]).zip(at(times[1]))?;
    Some(of(&("cameras", times, ends, of_camera(element))))
}

/// Content of something of the reader's element on another frame; `None` where that shows the same as now.
pub(super) fn of_frame(
    known: &Hashes<'_>,
    reader: Reader<'_>,
    by: i32,
    what: OfFrame,
) -> Option<ContentHash> {
    if known.from > 0 {
        return None;
    }
    let at = |known: &Hashes<'_>, element: &Element| match what {
        OfFrame::Picture => Some(of_element(known, element, reader.after)),
        OfFrame::Role(role) => contents(known, Reader { element, ..reader }, &[takes(role)]).pop().flatten(),
    };
    let still = known.later(by.into()).ok()?;
    let there = at(&known.of_other(&still), still.element(reader.element.id)?)?;
    (at(known, reader.element) != Some(there)).then_some(there)
}

/// Content of some elements laid over each other, as another one sees them from where it is put.
pub(super) fn of_behind(known: &Hashes<'_>, element: &Element, behind: &[&Element]) -> ContentHash {
    of(&("behind", of_all(known, behind), of_way(known, element, element.extracts.len())))
}

/// Content of some elements laid over each other.
fn of_all(known: &Hashes<'_>, elements: &[&Element]) -> ContentHash {
    let all: Vec<_> = elements.iter().map(|e| (of_placed(known, e, e.steps.len()), e.joins)).collect();
    if elements.iter().all(|e| e.by_depth.is_none()) {
        return of(&("shot", all));
    }
    let depth = |e| of_role(known, Reader::of(e, &[]), Role::Depth);
    let depths: Vec<_> = elements.iter().map(|e| (e.by_depth, depth(e))).collect();
    of(&("shot in space", all, depths))
}

/// Content of some elements in one space that are blurred together.
pub(super) fn of_exposed(known: &Hashes<'_>, elements: &[&Element]) -> ContentHash {
    of(&("exposed together", of_all(known, elements)))
}

/// Content of a depth carried on past its edges.
pub(super) fn of_carried(depth: ContentHash) -> ContentHash {
    of(&("carried", depth.0))
}

pub(super) fn element_of(shot: &Shot, id: u32) -> Result<&Element, ShotError> {
    shot.element(id).ok_or(ShotError::Missing { what: "element", id })
}

/// Place of a step in its element.
pub(crate) fn place_of(element: &Element, id: u32) -> Result<usize, ShotError> {
    element.steps.iter().position(|s| s.id == id).ok_or(ShotError::Missing { what: "step", id })
}

pub(super) fn pass_of(element: &Element, id: u32) -> Result<&Pass, ShotError> {
    element.passes.iter().find(|p| p.id == id).ok_or(ShotError::Missing { what: "pass", id })
}

/// A pass by number, stored or extracted.
pub(super) fn provider_of(element: &Element, id: u32) -> Result<Provider<'_>, ShotError> {
    element.provider(id).ok_or(ShotError::Missing { what: "pass", id })
}

/// Number of steps of an element that a target includes, if it is a state of one element.
pub(super) fn steps_of(element: &Element, target: Target) -> Result<Option<usize>, ShotError> {
    Ok(match target {
        Target::After { step, .. } => Some(place_of(element, step)? + 1),
        Target::Before { step, .. } => Some(place_of(element, step)?),
        Target::Gives { step, .. } => Some(place_of(element, step)? + 1),
        Target::Untouched { .. } => Some(0),
        _ => None,
    })
}

/// Content of a target, at any window.
pub(super) fn of_target(known: &Hashes<'_>, target: Target) -> Result<ContentHash, ShotError> {
    let shot = known.shot;
    let way = |element: &Element| of_way(known, element, element.extracts.len());
    match target {
        Target::Shot => Ok(of_all(known, &seen(shot).collect::<Vec<_>>())),
        Target::Pass { element, pass } => {
            let element = element_of(shot, element)?;
            Ok(of(&("shown", of_provider(known, element, provider_of(element, pass)?).0)))
        }
        Target::PlacedPass { element, pass } => {
            let own = of_target(known, Target::Pass { element, pass })?;
            Ok(of(&("in place", own, way(element_of(shot, element)?))))
        }
        Target::PlacedMatte { element, matte } => {
            let own = of_target(known, Target::Matte { element, matte })?;
            Ok(of(&("in place", own, way(element_of(shot, element)?))))
        }
        Target::Finding { element, pass, finding } => {
            let element = element_of(shot, element)?;
            pass_of(element, pass)?;
            Ok(of(&("finding", of_passes(element, known.shot.display).0, pass, finding)))
        }
        Target::Limit { element, step } => {
            let element = element_of(shot, element)?;
            let limit = limit_of(element, &element.steps[place_of(element, step)?]);
            Ok(limit.map_or_else(|| of(&"everywhere"), |m| of_matte(known, m)))
        }
        Target::Matte { element, matte } => {
            Ok(of_matte(known, named_matte(element_of(shot, element)?, matte)?))
        }
        Target::Gives { element, step } => {
            let element = element_of(shot, element)?;
            let after = place_of(element, step)? + 1;
            let [before, after] = [after - 1, after].map(|n| of_element(known, element, n));
            Ok(of(&("gives", before, after)))
        }
        Target::After { element, .. } | Target::Before { element, .. } | Target::Untouched { element } => {
            let element = element_of(shot, element)?;
            Ok(of_element(known, element, steps_of(element, target)?.unwrap_or(0)))
        }
    }
}

/// Content of each want; `None` for what is not there.
pub(super) fn contents(known: &Hashes<'_>, reader: Reader<'_>, wants: &[Want]) -> Vec<Option<ContentHash>> {
    let of = |want: &Want| match want {
        Want::Role { role, .. } => of_role(known, reader, *role),
        Want::Pass(id) => numbered(reader, *id).map(|p| of_provider(known, reader.element, p)),
        Want::DepthOf(id) => {
            of_role(known, Reader::from_elsewhere(other(known.shot, reader, *id)?), Role::Depth)
        }
        Want::PlaceOf(id) => Some(of_place(known, other(known.shot, reader, *id)?)),
        Want::LightOf(id) => {
            let other = of_light(known, known.shot.element(*id)?);
            Some(of_light(known, reader.element).and(other))
        }
        Want::PictureOf(id) => other(known.shot, reader, *id)
            .map(|e| of(&("picture of", of_element(known, e, e.steps.len()), known.shot.display))),
        Want::Behind(id) => Some(of_behind(known, reader.element, &behind(known.shot, reader, *id))),
        Want::Picture(file) => Some(of(&("picture", &file.media))),
        Want::File(file) => Some(of(&("file", &file.media))),
        Want::Matte(id) => matte_of(reader, *id).map(|m| of_matte(known, m)),
        Want::Map(file, convention) => Some(of(&("map", &file.media, convention))),
        Want::Going(times) => of_going(known, reader.element, reader.seen, *times),
        Want::OnFrame(by, what) => of_frame(known, reader, *by, *what),
        Want::Cameras(times) => of_cameras(known, reader.element, *times),
        Want::Body(matte, at) => body::content(known, reader, *matte, *at),
        Want::Step(id) => step_of(reader.element, *id).map(|s| of(&("does", &s.does))),
        Want::Moves(first, last) => {
            let steps = steps_from(reader.element, *first, *last);
            Some(of(&(
                "moves of",
                of_moves_among(known, reader.element, steps, reader.seen).map(|h| of(&h)),
                known.shot.display,
            )))
        }
    };
    let moves = of_moves(known, reader.element, reader.after);
    let follows = |want: &Want| matches!(want, Want::Role { .. } | Want::Pass(_));
    let found = |want: &Want| match moves.filter(|_| follows(want)) {
        Some(moves) => of(want).map(|content| content.and(moves)),
        None => of(want),
    };
    wants.iter().map(found).collect()
}
