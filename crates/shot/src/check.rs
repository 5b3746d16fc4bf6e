//! What a sound document is. Everything that comes from outside passes here.

use crate::defaults;
use crate::document::{ByDepth, Element, Extract, FORMAT, NamedMatte, OLDEST, Pass, Sequence, Shot, Step};
use crate::drives::Drive;
use crate::error::ShotError;
use crate::params;
pub use crate::params::range;
use crate::resolve;
use crate::tracks;
use crate::unread::in_words;
use crate::wants::Want;
use jugata_core::passes::repair::Repair;
use jugata_core::raster::window::MAX_SIDE;
use std::collections::HashSet;

/// Most elements in a shot, passes or steps in an element, objects in a limit: far above any use, low
/// enough that a document cannot occupy the machine.
const MOST: usize = 256;

/// Longest name, characters.
const NAME: usize = 200;

fn wrong(place: impl Into<String>, what: impl Into<String>) -> ShotError {
    ShotError::Parameter { place: place.into(), what: what.into() }
}

/// Reads a document from JSON and checks it; an error names the place in the document. Steps may leave out what has a
/// default.
///
/// # Errors
/// Not JSON, not a shot document, another format version, or a figure out of range.
pub fn parse(json: &str) -> Result<Shot, ShotError> {
    sound(read(json)?)
}

/// A document as it is worked with, checked.
///
/// # Errors
/// Another format version, or a figure out of range.
pub fn sound(mut shot: Shot) -> Result<Shot, ShotError> {
    // What the first form had is what it is now; it only lacked some.
    if (OLDEST..FORMAT).contains(&shot.format) {
        shot.format = FORMAT;
    }
    check(&shot)?;
    Ok(shot)
}

/// Reads a document from JSON without checking its figures.
///
/// # Errors
/// Not JSON, or not a shot document.
pub fn read(json: &str) -> Result<Shot, ShotError> {
    let mut reader = serde_json::Deserializer::from_str(json);
    let document: serde_json::Value = serde_path_to_error::deserialize(&mut reader).map_err(|e| {
        ShotError::Syntax { path: e.path().to_string(), what: in_words(&e.inner().to_string()) }
    })?;
    reader.end().map_err(|e| ShotError::Syntax { path: "its end".into(), what: e.to_string() })?;
    read_value(document)
}

/// Reads a document that is JSON already, without checking its figures.
///
/// # Errors
/// Not a shot document.
pub fn read_value(mut document: serde_json::Value) -> Result<Shot, ShotError> {
    defaults::fill(&mut document);
    serde_path_to_error::deserialize(document)
        .map_err(|e| ShotError::Syntax { path: e.path().to_string(), what: in_words(&e.inner().to_string()) })
}

/// Checks sizes, counts, numbers and ranges.
///
/// # Errors
/// The first thing that is wrong.
pub fn check(shot: &Shot) -> Result<(), ShotError> {
    problems(shot).into_iter().next().map_or(Ok(()), Err)
}

/// Everything that is wrong with a document, in its order.
pub fn problems(shot: &Shot) -> Vec<ShotError> {
    let mut all: Vec<ShotError> = whole(shot).err().into_iter().collect();
    // Of what is far too much not each is looked at.
    for e in shot.elements.iter().take(MOST) {
        all.extend(element(e).err());
        all.extend(e.sequences.iter().take(MOST).filter_map(|s| sequence(s).err()));
        all.extend(e.passes.iter().take(MOST).filter_map(|p| pass(e, p).err()));
        all.extend(e.extracts.iter().take(MOST).filter_map(|x| extract(x).err()));
        let mattes: Vec<u32> = e.mattes.iter().take(MOST).map(|m| m.id).collect();
        let of_mattes = e.mattes.iter().take(MOST).enumerate();
        all.extend(of_mattes.filter_map(|(place, m)| matte(m, &mattes[..place]).err()));
        all.extend(e.steps.iter().take(MOST).filter_map(|s| step(s, &mattes).err()));
    }
    all.extend(tracks::check_elements(shot).map_err(|(at, what)| wrong(at, what)).err());
    all.extend(drives(shot).err());
    all.extend(circles(shot).err());
    all
}

/// What one element may ask of another: its passes, or its picture after all its steps, which ask on.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum Of {
    Passes(u32),
    Picture(u32),
}

impl Of {
    /// What it asks on.
    fn asks(self, shot: &Shot) -> Vec<Self> {
        let (Self::Passes(id) | Self::Picture(id)) = self;
        let of = |want| match want {
            Want::PictureOf(other) | Want::Behind(Some(other)) => vec![Self::Picture(other)],
            Want::Behind(None) => shot.below(id).take(MOST).map(|e| Self::Picture(e.id)).collect(),
            Want::LightOf(other) => vec![Self::Passes(other)],
            _ => Vec::new(),
        };
        let Some(e) = shot.element(id) else { return Vec::new() };
        match self {
            Self::Passes(_) => {
                let made = e.made.iter().flat_map(|m| m.kind().wants());
                let extracts = e.extracts.iter().take(MOST).flat_map(|x| x.does.kind().wants());
                made.chain(extracts).flat_map(of).collect()
            }
            Self::Picture(id) => {
                let steps = e.steps.iter().take(MOST).flat_map(|s| s.does.kind().wants()).flat_map(of);
                steps.chain([Self::Passes(id)]).collect()
            }
        }
    }

    /// Whether it comes back to something that is under way. `done` never does.
    fn comes_back(self, shot: &Shot, under_way: &mut Vec<Self>, done: &mut HashSet<Self>) -> bool {
        if under_way.contains(&self) {
            return true;
        }
        if !done.insert(self) {
            return false;
        }
        under_way.push(self);
        let back = self.asks(shot).into_iter().any(|next| next.comes_back(shot, under_way, done));
        under_way.pop();
        back
    }
}

/// Refuses an element whose picture would be made of itself.
fn circles(shot: &Shot) -> Result<(), ShotError> {
    let mut done = HashSet::new();
    let mut all = shot.elements.iter().take(MOST);
    match all.find(|e| Of::Picture(e.id).comes_back(shot, &mut Vec::new(), &mut done)) {
        Some(e) => {
            Err(wrong(&e.name, "it would be made of its own picture, by way of the elements that it uses"))
        }
        None => Ok(()),
    }
}

/// Pixels of a frame, at most: four times an 8K square.
const MOST_PIXELS: usize = 1 << 28;

fn whole(shot: &Shot) -> Result<(), ShotError> {
    if shot.format != FORMAT {
        return Err(ShotError::Format { found: shot.format, known: FORMAT });
    }
    name("The shot", &shot.name)?;
    let d = shot.display;
    if d.is_empty() || d.width > MAX_SIDE || d.height > MAX_SIDE {
        return Err(wrong("The shot", format!("a frame of {}×{} px is not possible", d.width, d.height)));
    }
    if d.area() > MOST_PIXELS {
        let side = MOST_PIXELS.isqrt();
        let what = format!(
            "its frame of {}×{} px is larger than {side}×{side}, the most that is worked on",
            d.width, d.height
        );
        return Err(wrong("The shot", what));
    }
    range("The frame rate", shot.rate, 0.01, 10_000.0).map_err(|what| wrong("The shot", what))?;
    if shot.frames.is_some_and(|f| f.last < f.first) {
        return Err(wrong("The shot", "its last frame comes before its first"));
    }
    count("The shot", "elements", shot.elements.len())?;
    distinct("The shot", "elements", shot.elements.iter().map(|e| e.id))
}

/// Most driven parameters of a shot.
const MOST_DRIVES: usize = 1024;

fn drives(shot: &Shot) -> Result<(), ShotError> {
    if shot.drives.len() > MOST_DRIVES {
        return Err(wrong("The shot", format!("{} drives are more than {MOST_DRIVES}", shot.drives.len())));
    }
    distinct("The shot", "drives", shot.drives.iter().map(|d| d.id))?;
    let at = |d: &Drive| format!("What drives {}", d.at);
    let mut driven = HashSet::new();
    for d in &shot.drives {
        d.check().map_err(|what| wrong(at(d), what))?;
        if !driven.insert(d.at.as_str()) {
            return Err(wrong(at(d), "two drives cannot share a parameter"));
        }
    }
    resolve::check_drives(shot)
}

fn element(e: &Element) -> Result<(), ShotError> {
    name("An element", &e.name)?;
    count(&e.name, "passes", e.passes.len())?;
    count(&e.name, "steps", e.steps.len())?;
    count(&e.name, "extracted passes", e.extracts.len())?;
    count(&e.name, "mattes", e.mattes.len())?;
    distinct(&e.name, "passes", e.providers().map(|p| p.id()))?;
    distinct(&e.name, "mattes", e.mattes.iter().map(|m| m.id))?;
    distinct(&e.name, "steps", e.steps.iter().map(|s| s.id))?;
    if let Some(made) = &e.made {
        made.check().map_err(|what| wrong(&e.name, what))?;
        if !e.passes.is_empty() {
            return Err(wrong(&e.name, "it is made, and can have no passes of a render"));
        }
    }
    if let Some(place) = &e.placement {
        params::check(place).map_err(|what| wrong(&e.name, what))?;
    }
    if let Some(joins) = &e.joins {
        range("strength", joins.strength, 0.0, 1.0).map_err(|what| wrong(&e.name, what))?;
    }
    if let Some(by) = &e.by_depth {
        range("distance", by.at, f32::MIN_POSITIVE, ByDepth::MOST).map_err(|what| wrong(&e.name, what))?;
        range("nearer by", by.nearer, -ByDepth::MOST, ByDepth::MOST).map_err(|what| wrong(&e.name, what))?;
    }
    if e.camera.is_some_and(|c| !c.is_sound()) {
        return Err(wrong(&e.name, "its camera has a focal length or centre that is not possible"));
    }
    e.tracks.iter().try_for_each(|t| name("A track", &t.name))?;
    tracks::check(e).map_err(|(at, what)| wrong(at, what))?;
    count(&e.name, "notes", e.notes.len())?;
    e.notes.iter().try_for_each(|n| name(&e.name, n))?;
    count(&e.name, "sequences", e.sequences.len())?;
    distinct(&e.name, "sequences", e.sequences.iter().map(|s| s.id))
}

fn pass(e: &Element, pass: &Pass) -> Result<(), ShotError> {
    convention(pass)?;
    count(&pass.name, "repairs", pass.repairs.len())?;
    count(&pass.name, "accepted findings", pass.accepted.len())?;
    if pass.source.sequence.is_some_and(|id| e.sequences.iter().all(|s| s.id != id)) {
        return Err(wrong(&pass.name, "it takes its frames from a sequence that is not there"));
    }
    name("A pass", &pass.name)?;
    name("A file", &pass.source.file)?;
    count(&pass.name, "channels", pass.source.channels.len())?;
    if !pass.source.media.is_sound() {
        return Err(wrong(&pass.name, "its media is not a BLAKE3 hash"));
    }
    Ok(())
}

fn extract(e: &Extract) -> Result<(), ShotError> {
    name("An extracted pass", &e.name)?;
    count(&e.name, "choices", e.reads.len())?;
    e.does.check().map_err(|what| wrong(&e.name, what))
}

/// A named matte may use those before it.
fn matte(m: &NamedMatte, before: &[u32]) -> Result<(), ShotError> {
    name("A matte", &m.name)?;
    m.matte.check(before).map_err(|what| wrong(&m.name, what))
}

/// Most frames of a sequence: more than an hour at 24 frames a second.
const FRAMES: usize = 100_000;

fn sequence(s: &Sequence) -> Result<(), ShotError> {
    name("A sequence", &s.name)?;
    s.frames.check(|frames| {
        if frames.is_empty() || frames.len() > FRAMES {
            return Err(wrong(&s.name, format!("a sequence of {} files is not possible", frames.len())));
        }
        if !frames.windows(2).all(|pair| pair[0].number < pair[1].number) {
            return Err(wrong(&s.name, "its frames are not in ascending order"));
        }
        for f in frames {
            name("A file", &f.file)?;
            if !f.media.is_sound() {
                return Err(wrong(&s.name, "its media is not a BLAKE3 hash"));
            }
        }
        Ok(())
    })
}

fn convention(pass: &Pass) -> Result<(), ShotError> {
    let c = &pass.convention;
    let numbers = [("near", c.near), ("far", c.far), ("unit", c.unit)];
    let scales = c.motion_scale.map(|v| ("motion scale", v));
    for (what, v) in numbers.into_iter().chain(scales) {
        range(what, v, -1e38, 1e38).map_err(|what| wrong(&pass.name, what))?;
    }
    // Renderers write the largest float there is where nothing is.
    if c.background.is_some_and(|v| !v.is_finite()) {
        return Err(wrong(&pass.name, "the value that means nothing is not a number"));
    }
    if let Some(gamma) = c.gamma {
        range("gamma", gamma, 0.1, 10.0).map_err(|what| wrong(&pass.name, what))?;
    }
    if c.primaries.is_some_and(|p| !p.is_sound()) {
        return Err(wrong(&pass.name, "its primaries make no colours"));
    }
    for repair in &pass.repairs {
        if let Repair::Shift { x, y } = repair
            && x.unsigned_abs().max(y.unsigned_abs()) > MAX_SIDE
        {
            return Err(wrong(&pass.name, "it is moved farther than any frame is wide"));
        }
    }
    Ok(())
}

fn step(s: &Step, mattes: &[u32]) -> Result<(), ShotError> {
    let place = || format!("Step {} ({})", s.id, s.does.title());
    s.does.check().map_err(|what| wrong(place(), what))?;
    range("strength", s.joins.strength, 0.0, 10.0).map_err(|what| wrong(place(), what))?;
    count(&place(), "choices", s.reads.len())?;
    if s.held.is_some() && !s.does.kind().is_move() {
        return Err(wrong(place(), "only what moves the picture can be held to a track"));
    }
    let gone = |w: &Want| matches!(w, Want::Matte(id) if !mattes.contains(id));
    if s.does.kind().wants().iter().any(gone) {
        return Err(wrong(place(), "it goes along the edge of a matte that is not there"));
    }
    match &s.only_where {
        Some(l) => l.check(mattes).map_err(|what| wrong(place(), what)),
        None => Ok(()),
    }
}

fn name(place: &str, text: &str) -> Result<(), ShotError> {
    let count = text.chars().count();
    if count > NAME || text.chars().any(char::is_control) {
        return Err(wrong(place, format!("its name must be at most {NAME} plain characters")));
    }
    Ok(())
}

fn count(place: &str, what: &str, n: usize) -> Result<(), ShotError> {
    if n > MOST { Err(wrong(place, format!("{n} {what} are more than {MOST}"))) } else { Ok(()) }
}

fn distinct(place: &str, what: &str, ids: impl Iterator<Item = u32>) -> Result<(), ShotError> {
    let mut seen = HashSet::new();
    for id in ids {
        if !seen.insert(id) {
            return Err(wrong(place, format!("two of its {what} have the number {id}")));
        }
    }
    Ok(())
}
