//! Who reads passes and mattes of an element, and what is meant by what it asks for.

use crate::document::{Element, Extract, Pass, Provider, ReadsPass, Shot, Step};
use crate::error::ShotError;
use crate::limit::Limit;
use jugata_core::Role;
use jugata_core::passes::repair::Repair;
use std::ops::Range;

/// Who reads: which passes it chose, and how many of the extracted ones it sees.
#[derive(Clone, Copy)]
pub(crate) struct Reader<'a> {
    pub element: &'a Element,
    pub chosen: &'a [ReadsPass],
    pub seen: usize,
    /// After how many steps it reads: passes follow the moves among them.
    pub after: usize,
}

impl<'a> Reader<'a> {
    /// One that sees every extracted pass.
    pub fn of(element: &'a Element, chosen: &'a [ReadsPass]) -> Self {
        Self { element, chosen, seen: element.extracts.len(), after: 0 }
    }

    /// One that sees every extracted pass, after the first `after` steps.
    pub fn at(element: &'a Element, chosen: &'a [ReadsPass], after: usize) -> Self {
        Self { after, ..Self::of(element, chosen) }
    }

    /// What another element may read of this one: nothing that itself reads other elements, so that no depth is made
    /// of itself.
    pub fn from_elsewhere(element: &'a Element) -> Self {
        let asks = |e: &Extract| !e.does.kind().wants().iter().all(|w| w.element().is_none());
        let seen = element.extracts.iter().position(asks);
        Self { element, chosen: &[], seen: seen.unwrap_or(element.extracts.len()), after: 0 }
    }

    /// The pass that is read for a role.
    pub fn provider(&self, role: Role) -> Option<Provider<'a>> {
        self.element.provider_of(role, self.chosen, self.seen)
    }
}

/// A matte of an element: who reads its passes, what it is for (in words), and how many of the element's named
/// mattes it may use.
#[derive(Clone, Copy)]
pub(crate) struct Matte<'a> {
    pub reader: Reader<'a>,
    pub limit: &'a Limit,
    pub known: usize,
    pub what: &'a str,
}

impl<'a> Matte<'a> {
    /// The matte of a named one.
    pub fn named(element: &'a Element, place: usize) -> Option<Self> {
        let named = element.mattes.get(place)?;
        let reader = Reader::of(element, &[]);
        Some(Self { reader, limit: &named.matte, known: place, what: &named.name })
    }

    /// The same as one sees it that knows the first `seen` extracted passes: no pass is made of itself by way of a matte.
    pub fn seen_by(self, seen: usize) -> Self {
        Self { reader: Reader { seen, ..self.reader }, ..self }
    }

    /// The named matte of a number that this one may use.
    pub fn used(&self, id: u32) -> Option<Self> {
        let place = self.reader.element.mattes.iter().take(self.known).position(|m| m.id == id)?;
        Some(Self::named(self.reader.element, place)?.seen_by(self.reader.seen))
    }
}

/// How much of a pass is wanted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Area {
    /// What lies on the request's window.
    Window,
    /// All of it.
    Whole,
}

/// The pass that is asked for by number, of those that the reader sees.
pub(super) fn numbered<'a>(reader: Reader<'a>, id: u32) -> Option<Provider<'a>> {
    let seen = |p: &Provider<'_>| !matches!(p, Provider::Extracted(_, at) if *at >= reader.seen);
    reader.element.provider(id).filter(seen)
}

/// The other element that is asked for its depth.
pub(super) fn other<'a>(shot: &'a Shot, reader: Reader<'_>, id: u32) -> Option<&'a Element> {
    shot.element(id).filter(|e| e.id != reader.element.id)
}

/// What lies behind the reader's element: one that is named, if it is there, or all that is seen below it.
pub(super) fn behind<'a>(shot: &'a Shot, reader: Reader<'_>, id: Option<u32>) -> Vec<&'a Element> {
    match id {
        Some(id) => other(shot, reader, id).into_iter().collect(),
        None => shot.below(reader.element.id).collect(),
    }
}

/// A named matte by number.
pub(super) fn named_matte(element: &Element, id: u32) -> Result<Matte<'_>, ShotError> {
    let place = element.mattes.iter().position(|m| m.id == id);
    place.and_then(|p| Matte::named(element, p)).ok_or(ShotError::Missing { what: "matte", id })
}

/// The named matte of a number, where the reader sees it.
pub(super) fn matte_of(reader: Reader<'_>, id: u32) -> Option<Matte<'_>> {
    let named = named_matte(reader.element, id).ok()?.seen_by(reader.seen);
    Some(Matte { reader: Reader { after: reader.after, ..named.reader }, ..named })
}

pub(super) fn step_of(element: &Element, id: u32) -> Option<&Step> {
    element.steps.iter().find(|s| s.id == id)
}

/// The places of the steps from one number to another; one that is not there asks for none.
pub(super) fn steps_from(element: &Element, first: Option<u32>, last: Option<u32>) -> Range<usize> {
    let place = |id: u32| element.steps.iter().position(|s| s.id == id);
    let from = first.map_or(Some(0), place);
    let to = last.map_or(Some(element.steps.len()), |id| place(id).map(|p| p + 1));
    from.zip(to).map_or(0..0, |(from, to)| from..to.max(from))
}

/// What is said of a pass that is not there.
pub(crate) fn lacks(element: &Element, step: &str, role: Role) -> ShotError {
    let (step, element) = (step.to_owned(), element.name.clone());
    match role {
        Role::Position => ShotError::NoPositions { step, element },
        role => ShotError::NoPass { step, role, element },
    }
}

/// The pass whose last channel a pass is divided by, if it is.
pub(super) fn coverage<'e>(element: &'e Element, pass: &Pass) -> Option<&'e Pass> {
    let divides = pass.repairs.contains(&Repair::DivideByAlpha);
    let whole = |p: &&Pass| p.role == Role::Beauty && p.source.channels.len() >= 4;
    let alone = |p: &&Pass| p.role == Role::Alpha && p.source.channels.len() == 1;
    let by = || element.passes.iter().find(whole).or_else(|| element.passes.iter().find(alone));
    divides.then(by).flatten().filter(|by| by.id != pass.id)
}
