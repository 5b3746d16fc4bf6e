//! A new shot from files, and more files into a shot.

use crate::backgrounds;
use crate::document::{Element, FORMAT, FrameRange, MediaId, Pass, Sequence, SequenceFrame, Shot, Source};
use crate::error::ShotError;
pub use crate::files::{MediaFile, Opens, plain, stem};
use crate::together;
use jugata_core::{Convention, Role, Window};
use jugata_exchange::camera_attributes::camera;
use jugata_exchange::roles::{PassProposal, propose};
use jugata_exchange::sets::{self, Run, Set};
use jugata_exchange::{ExchangeError, ImageFile};
use std::sync::Arc;

/// One file that is read already.
struct Read<'f>(&'f ImageFile);

impl Opens for Read<'_> {
    fn open(&self, _: &MediaFile) -> Result<Arc<ImageFile>, ShotError> {
        Ok(Arc::new(self.0.clone()))
    }

    fn frame(&self, _: &MediaFile) -> Result<Window, ShotError> {
        Ok(self.0.display_window)
    }
}

/// A shot with one element that holds every pass of the file, with proposed roles and no step.
pub fn shot_of(file: &ImageFile, name: &str, media: MediaId) -> Shot {
    let brought = MediaFile { name: plain(name, 180), media };
    shot_of_files(&[brought], &Read(file))
        .unwrap_or_else(|_| empty(plain(stem(name), 120), file.display_window))
}

fn empty(name: String, display: Window) -> Shot {
    Shot { format: FORMAT, name, display, frames: None, rate: 24.0, elements: Vec::new(), drives: Vec::new() }
}

/// A shot of many files: an element for each set of names, a pass for each group of channels, a sequence for
/// each run of frames. A file that cannot be read is noted and leaves the others alone.
///
/// # Errors
/// Nothing that can be read: the first file's reason.
pub fn shot_of_files(files: &[MediaFile], opens: &dyn Opens) -> Result<Shot, ShotError> {
    let names: Vec<String> = files.iter().map(|f| f.name.clone()).collect();
    let (mut elements, mut refused) = (Vec::new(), None);
    let mut display: Option<Window> = None;
    let mut rate: Option<f32> = None;
    for (id, set) in (1..).zip(sets::group(&names)) {
        let mut element = empty_element(id, &set);
        for run in &set.runs {
            match add_run(&mut element, run, files, opens) {
                Ok(file) => {
                    display.get_or_insert(file.display_window);
                    match (rate, rate_of(&file)) {
                        (Some(first), Some(own)) if f32::abs(first - own) > 0.01 => {
                            let words =
                                format!("{} says {own} frames a second, the shot has {first}.", run.pattern);
                            element.note(words);
                        }
                        (None, own) => rate = own,
                        _ => {}
                    }
                }
                Err(e) => {
                    element.notes.push(plain(&format!("{}: {e}", run.pattern), 200));
                    refused = refused.or(Some(e));
                }
            }
        }
        if !element.passes.is_empty() {
            elements.push(element);
        }
    }
    let Some(display) = display else {
        return Err(refused.unwrap_or(ShotError::Media(ExchangeError::NotAnImage)));
    };
    let mut elements = together::bring_together(elements, opens);
    for element in &mut elements {
        together::one_picture(element);
        together::tell_lengths(element);
        backgrounds::settle(element, opens);
    }
    let title = elements.first().map_or_else(String::new, |e: &Element| e.name.clone());
    let mut shot = Shot { rate: rate.unwrap_or(24.0), elements, ..empty(title, display) };
    shot.frames = range_of(&shot);
    Ok(shot)
}

pub(crate) fn empty_element(id: u32, set: &Set) -> Element {
    // One run alone keeps its whole name: words of passes are taken off only to bring passes together.
    let first = set.runs.first().map_or("", |r| stem(&r.pattern).trim_end_matches(['#', '.', '_', '-', ' ']));
    let name = if set.runs.len() == 1 || set.name.is_empty() { first } else { &set.name };
    Element::new(id, plain(name, 120))
}

/// Adds the passes of a run to an element: of a still, or of a sequence by its first file. Returns that file.
pub(crate) fn add_run(
    element: &mut Element,
    run: &Run,
    files: &[MediaFile],
    opens: &dyn Opens,
) -> Result<Arc<ImageFile>, ShotError> {
    let mut frames: Vec<(i32, &MediaFile)> =
        run.frames.iter().filter_map(|&(n, at)| Some((n, files.get(at)?))).collect();
    let file = loop {
        let Some(&(_, first)) = frames.first() else {
            return Err(ShotError::Media(ExchangeError::NotAnImage));
        };
        match opens.open(first) {
            Ok(file) => break file,
            // A bad first frame leaves the others.
            Err(e) if frames.len() > 1 => {
                element.note(format!("{}: {e}", first.name));
                frames.remove(0);
            }
            Err(e) => return Err(e),
        }
    };
    let first = frames[0].1.clone();
    frames.retain(|(_, f)| **f == first || sound(element, f, opens, file.display_window));
    for &place in &run.twice {
        element.note(format!("{} has the frame number of another file and is left out.", files[place].name));
    }
    file.notes.iter().for_each(|n| element.note(format!("{}: {n}", first.name)));
    if let Some((number, last)) = frames.last().filter(|_| frames.len() > 1)
        && let Ok(end) = opens.open(last)
    {
        tell_layers(element, &run.pattern, &file, (*number, &end));
    }
    let sequence = (run.numbered && frames.len() > 1).then(|| add_sequence(element, &run.pattern, &frames));
    element.camera = element.camera.or_else(|| camera(&file));
    add_passes(element, &file, &first, sequence);
    Ok(file)
}

/// Channels that only the first or only the last frame of a sequence has are told.
fn tell_layers(element: &mut Element, pattern: &str, first: &ImageFile, (number, last): (i32, &ImageFile)) {
    let names = |file: &ImageFile| -> Vec<String> {
        file.parts.iter().flat_map(|p| &p.channels).map(|c| c.name.clone()).collect()
    };
    let (a, b) = (names(first), names(last));
    let only = |these: &[String], those: &[String]| {
        let some: Vec<&str> =
            these.iter().filter(|n| !those.contains(n)).map(String::as_str).take(6).collect();
        some.join(", ")
    };
    let (gone, come) = (only(&a, &b), only(&b, &a));
    if !come.is_empty() {
        element.note(format!(
            "{pattern}: frame {number} has {come}, which the first frame lacks; they are not read."
        ));
    }
    if !gone.is_empty() {
        element.note(format!("{pattern}: frame {number} lacks {gone}, which the first frame has."));
    }
}

/// Whether a frame can be read; an odd size is noted, and kept.
fn sound(element: &mut Element, file: &MediaFile, opens: &dyn Opens, display: Window) -> bool {
    match opens.frame(file) {
        Ok(w) => {
            if (w.width, w.height) != (display.width, display.height) {
                let words = format!(
                    "{} is {}×{} px, the others {}×{}.",
                    file.name, w.width, w.height, display.width, display.height
                );
                element.note(words);
            }
            true
        }
        Err(e) => {
            element.note(format!("{}: {e} It is left out.", file.name));
            false
        }
    }
}

fn add_sequence(element: &mut Element, pattern: &str, frames: &[(i32, &MediaFile)]) -> u32 {
    let id = element.sequences.iter().map(|s| s.id).max().unwrap_or(0) + 1;
    let frames = frames
        .iter()
        .map(|(number, f)| SequenceFrame {
            number: *number,
            media: f.media.clone(),
            file: plain(&f.name, 180),
        })
        .collect();
    let sequence = Sequence { id, name: plain(pattern, 180), frames };
    let gaps: Vec<String> = sequence
        .gaps()
        .iter()
        .take(8)
        .map(|g| if g.first == g.last { g.first.to_string() } else { format!("{}–{}", g.first, g.last) })
        .collect();
    if !gaps.is_empty() {
        element
            .note(format!("{pattern}: frames {} are missing; the frame before is shown.", gaps.join(", ")));
    }
    element.sequences.push(sequence);
    id
}

/// From the first to the last frame that any sequence has; none for a still.
pub fn range_of(shot: &Shot) -> Option<FrameRange> {
    let numbers =
        || shot.elements.iter().flat_map(|e| &e.sequences).flat_map(|s| s.frames.iter()).map(|f| f.number);
    Some(FrameRange { first: numbers().min()?, last: numbers().max()? })
}

/// Frames a second, as a header says it.
fn rate_of(file: &ImageFile) -> Option<f32> {
    let attribute = file.parts.iter().flat_map(|p| &p.attributes).find(|a| a.name == "framesPerSecond")?;
    let (n, d) = attribute.value.split_once('/')?;
    let rate = n.trim().parse::<f32>().ok()? / d.trim().parse::<f32>().ok()?;
    (rate.is_finite() && (0.01..=10_000.0).contains(&rate)).then_some(rate)
}

/// Adds the passes of a file to an element, with the roles that names and values propose. One beauty: a
/// further picture is kept and read by no step.
pub fn add_passes(element: &mut Element, file: &ImageFile, brought: &MediaFile, sequence: Option<u32>) {
    let first = element.passes.iter().map(|p| p.id).max().unwrap_or(0) + 1;
    for (id, proposal) in (first..).zip(propose(file, stem(&brought.name))) {
        let mut pass = pass_of(id, proposal, file, brought, sequence);
        let there = element.passes.iter_mut().find(|p| p.role == Role::Beauty);
        if let (Role::Beauty, Some(there)) = (pass.role, there) {
            // The main colours of a file are more the picture than a layer that was its only colour.
            if is_main(&pass) && !is_main(there) && there.source.media != pass.source.media {
                there.role = Role::Other;
            } else {
                pass.role = Role::Other;
            }
        }
        element.passes.push(pass);
    }
    element.passes.sort_by_key(|p| p.role);
}

/// Whether a pass is made of a file's main channels, which no layer's name stands before.
fn is_main(pass: &Pass) -> bool {
    pass.source.channels.iter().all(|c| !c.contains(['.', ':', '/']))
}

fn pass_of(
    id: u32,
    proposal: PassProposal,
    file: &ImageFile,
    brought: &MediaFile,
    sequence: Option<u32>,
) -> Pass {
    let colour = matches!(proposal.role, Role::Beauty | Role::Albedo | Role::Diffuse | Role::Clay);
    let convention = Convention {
        // What the file says of its colour holds for colour only.
        colour: if colour { file.colour } else { Default::default() },
        primaries: file.primaries.filter(|_| colour),
        gamma: file.gamma.filter(|_| colour),
        alpha: if proposal.role == Role::Beauty { file.alpha } else { Default::default() },
        ..Convention::default()
    };
    Pass {
        id,
        name: plain(&proposal.name, 180),
        role: proposal.role,
        source: Source {
            media: brought.media.clone(),
            file: plain(&brought.name, 180),
            part: proposal.part as u32,
            channels: proposal.channels,
            sequence,
        },
        convention,
        repairs: Vec::new(),
        accepted: Vec::new(),
    }
}

/// A shot of a file that somebody chose as a picture: its beauty, or else its first channels, whatever they are called and
/// whatever they look like.
///
/// # Errors
/// A file that cannot be read.
pub fn shot_of_picture(file: &MediaFile, opens: &dyn Opens) -> Result<Shot, ShotError> {
    let mut shot = shot_of_files(std::slice::from_ref(file), opens)?;
    let element = shot.elements.first_mut().filter(|e| e.pass_of(Role::Beauty).is_none());
    if let Some(first) = element.and_then(|e| e.passes.first_mut()) {
        let (name, part) = (first.name.clone(), first.source.part as usize);
        let channels = first.source.channels.clone();
        let proposal =
            PassProposal { name, part, channels, role: Role::Beauty, confidence: 1.0, reason: String::new() };
        *first = pass_of(first.id, proposal, &*opens.open(file)?, file, None);
    }
    Ok(shot)
}

/// Adds files to an element of a shot: frames of a sequence that it has already join it (a frame that is
/// there is replaced), what is new becomes passes. Roles, conventions and steps stay.
///
/// # Errors
/// Nothing that can be read.
pub fn add_files(
    shot: &mut Shot,
    element: u32,
    files: &[MediaFile],
    opens: &dyn Opens,
) -> Result<(), ShotError> {
    let names: Vec<String> = files.iter().map(|f| f.name.clone()).collect();
    let display = shot.display;
    let found = shot.element_mut(element).ok_or(ShotError::Missing { what: "element", id: element })?;
    for run in sets::group(&names).iter().flat_map(|s| &s.runs) {
        if !join(found, run, files, opens, display) {
            add_run(found, run, files, opens)?;
        }
    }
    backgrounds::settle(found, opens);
    shot.frames = range_of(shot).or(shot.frames);
    Ok(())
}

/// Adds files as elements of their own, over those that are there: one for each set of names.
///
/// # Errors
/// Files that cannot be read; more elements than a shot may have.
pub fn add_elements(shot: &mut Shot, files: &[MediaFile], opens: &dyn Opens) -> Result<(), ShotError> {
    let names: Vec<String> = files.iter().map(|f| f.name.clone()).collect();
    let first = shot.elements.iter().map(|e| e.id).max().unwrap_or(0).saturating_add(1);
    for (id, set) in (first..).zip(sets::group(&names)) {
        let mut element = empty_element(id, &set);
        for run in &set.runs {
            let file = add_run(&mut element, run, files, opens)?;
            let (own, frame) = (file.display_window, shot.display);
            if (own.width, own.height) != (frame.width, frame.height) {
                let words = format!(
                    "{} is {}×{} px and the shot {}×{}.",
                    run.pattern, own.width, own.height, frame.width, frame.height
                );
                element.note(words);
            }
        }
        backgrounds::settle(&mut element, opens);
        shot.elements.push(element);
    }
    shot.frames = range_of(shot).or(shot.frames);
    Ok(())
}

/// Puts other files in the place of a pass's file, or of its whole sequence, for every pass that is read from
/// it: roles, conventions, repairs and steps stay.
///
/// # Errors
/// A pass that is not there; files that cannot be read; a file that lacks a channel of one of the passes.
pub fn replace(
    shot: &mut Shot,
    (element, pass): (u32, u32),
    files: &[MediaFile],
    opens: &dyn Opens,
) -> Result<(), ShotError> {
    let missing = |what, id| ShotError::Missing { what, id };
    let found = shot.element_mut(element).ok_or(missing("element", element))?;
    let old = found.passes.iter().find(|p| p.id == pass).ok_or(missing("pass", pass))?.source.clone();
    let names: Vec<String> = files.iter().map(|f| f.name.clone()).collect();
    let sets = sets::group(&names);
    let runs: Vec<&Run> = sets.iter().flat_map(|s| &s.runs).collect();
    let refuse = |place: &str, what: String| ShotError::Parameter { place: place.into(), what };
    let &[run] = runs.as_slice() else {
        return Err(refuse("These files", "they are not one file or the frames of one sequence".into()));
    };
    let frames: Vec<(i32, &MediaFile)> =
        run.frames.iter().filter_map(|&(n, at)| Some((n, files.get(at)?))).collect();
    let Some(&(_, first)) = frames.first() else { return Err(refuse("These files", "there is none".into())) };
    let file = opens.open(first)?;
    let same = |s: &Source| s.file == old.file && s.sequence == old.sequence;
    for p in found.passes.iter().filter(|p| same(&p.source)) {
        let part = file.parts.get(p.source.part as usize);
        let lacks = p.source.channels.iter().find(|c| part.is_none_or(|part| part.channel(c).is_none()));
        if let Some(channel) = lacks {
            return Err(refuse(&first.name, format!("it has no channel {channel} for {}", p.name)));
        }
    }
    let sequence = (run.numbered && (frames.len() > 1 || old.sequence.is_some()))
        .then(|| add_sequence(found, &run.pattern, &frames));
    for p in found.passes.iter_mut().filter(|p| same(&p.source)) {
        (p.source.media, p.source.file) = (first.media.clone(), plain(&first.name, 180));
        p.source.sequence = sequence;
    }
    found.sequences.retain(|s| Some(s.id) != old.sequence);
    shot.frames = range_of(shot);
    Ok(())
}

/// Puts the frames of a run into a sequence of the same name; false if there is none. A still of the same
/// name is replaced where it stands.
pub(crate) fn join(
    element: &mut Element,
    run: &Run,
    files: &[MediaFile],
    opens: &dyn Opens,
    display: Window,
) -> bool {
    if !run.numbered {
        let Some(file) = run.frames.first().and_then(|(_, at)| files.get(*at)) else { return true };
        let mut same = false;
        for source in element.passes.iter_mut().map(|p| &mut p.source).filter(|s| s.file == file.name) {
            source.media = file.media.clone();
            same = true;
        }
        return same;
    }
    let known = element.sequences.iter().position(|s| bare(&s.name) == bare(&run.pattern));
    let Some(at) = known.or_else(|| begun(element, run)) else { return false };
    let came = run.frames.iter().filter_map(|&(number, place)| {
        let file = files.get(place).filter(|f| sound(element, f, opens, display))?;
        Some(SequenceFrame { number, media: file.media.clone(), file: plain(&file.name, 180) })
    });
    let came: Vec<SequenceFrame> = came.collect();
    element.sequences[at].frames.put(came);
    true
}

/// A pattern without the digits of its frame number.
fn bare(pattern: &str) -> String {
    pattern.replace('#', "")
}

/// Where a lone file turns out to be a frame of a run, it becomes a sequence of one; its place.
fn begun(element: &mut Element, run: &Run) -> Option<usize> {
    let lone = |file: &String| -> Option<(Run, i32)> {
        let own = sets::group(std::slice::from_ref(file)).into_iter().flat_map(|s| s.runs).next()?;
        let number = own.frames.first()?.0;
        (own.numbered && bare(&own.pattern) == bare(&run.pattern)).then_some((own, number))
    };
    let stills = element.passes.iter().map(|p| &p.source).filter(|s| s.sequence.is_none());
    let (source, own, number) =
        stills.map(|s| (s, lone(&s.file))).find_map(|(s, l)| l.map(|(own, number)| (s, own, number)))?;
    let first = MediaFile { name: source.file.clone(), media: source.media.clone() };
    let id = add_sequence(element, &own.pattern, &[(number, &first)]);
    for source in element.passes.iter_mut().map(|p| &mut p.source).filter(|s| s.media == first.media) {
        source.sequence = Some(id);
    }
    element.sequences.iter().position(|s| s.id == id)
}

/// Files for tests that exist by their names only.
#[cfg(test)]
#[allow(missing_docs)]
pub(crate) mod made {
    use super::*;
    use jugata_core::{Raster, SampleKind};
    use jugata_exchange::Part;
    use jugata_exchange::file::{Attribute, CameraHeader, Channel, FileFormat};

    /// Files that exist by their names: "bad" cannot be read, "odd" and frame 9 have another size.
    pub struct Made;

    fn made(name: &str) -> Result<ImageFile, ShotError> {
        if name.contains("bad") {
            return Err(ShotError::Media(ExchangeError::NotAnImage));
        }
        let w = Window::of_size(if name.contains("odd") || name.contains("0009") { 9 } else { 8 }, 6);
        let channels: &[&str] = if name.contains("depth") { &["Z"] } else { &["B", "G", "R"] };
        let plane: Arc<jugata_exchange::samples::Samples> =
            Arc::new(Raster::filled(w, 1, 0.5).into_data().into());
        let channel =
            |n: &&str| Channel { name: (*n).into(), kind: SampleKind::Half, samples: plane.clone() };
        Ok(ImageFile {
            format: FileFormat::Exr,
            colour: Default::default(),
            primaries: None,
            gamma: None,
            alpha: Default::default(),
            notes: vec![],
            display_window: w,
            pixel_aspect: 1.0,
            parts: vec![Part {
                name: None,
                data_window: w,
                compression: String::new(),
                lossy: None,
                missing: vec![],
                channels: channels.iter().map(channel).collect(),
                camera: CameraHeader::default(),
                attributes: vec![Attribute {
                    name: "framesPerSecond".into(),
                    value: if name.contains("slow") { "12/1".into() } else { "25/1".into() },
                }],
            }],
        })
    }

    impl Opens for Made {
        fn open(&self, file: &MediaFile) -> Result<Arc<ImageFile>, ShotError> {
            made(&file.name).map(Arc::new)
        }

        fn frame(&self, file: &MediaFile) -> Result<Window, ShotError> {
            made(&file.name).map(|f| f.display_window)
        }
    }

    pub fn files(names: &[&str]) -> Vec<MediaFile> {
        names.iter().map(|n| MediaFile { name: (*n).into(), media: MediaId::of(n.as_bytes()) }).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::made::{Made, files};
    use super::*;

    #[test]
    fn files_become_elements_passes_and_sequences() {
        let shot = shot_of_files(
            &files(&[
                "orrery_beauty.0001.exr",
                "orrery_beauty.0002.exr",
                "orrery_beauty.0004.exr",
                "orrery_depth.0001.exr",
                "orrery_depth.0002.exr",
                "desk.exr",
            ]),
            &Made,
        )
        .unwrap();
        crate::check::check(&shot).unwrap();
        assert_eq!(shot.frames, Some(FrameRange { first: 1, last: 4 }));
        let e = &shot.elements[0];
        assert_eq!(
            (e.name.as_str(), e.passes.len(), e.sequences.len(), shot.elements.len()),
            ("orrery", 2, 2, 2)
        );
        assert_eq!(e.passes.iter().map(|p| p.role).collect::<Vec<_>>(), [Role::Beauty, Role::Depth]);
        assert_eq!(
            e.notes,
            [
                "orrery_beauty.####.exr: frames 3 are missing; the frame before is shown.",
                "Its sequences have different frames: orrery_beauty.####.exr 1–4; orrery_depth.####.exr 1–2.",
            ]
        );
        // At frame 3 the beauty of 2 is held, and depth of 2.
        let held = shot.at_frame(3);
        assert_eq!(held.elements[0].passes[0].source.file, "orrery_beauty.0002.exr");
        assert_eq!(shot.at_frame(4).elements[0].passes[0].source.file, "orrery_beauty.0004.exr");
    }

    #[test]
    fn a_bad_or_odd_file_is_noted_and_spoils_nothing() {
        let shot = shot_of_files(&files(&["a_bad.exr", "a.0001.exr", "a.0002.exr"]), &Made).unwrap();
        assert_eq!(shot.elements.len(), 1);
        let shot = shot_of_files(&files(&["a.bad.0001.exr", "a.bad.0002.exr", "b.exr"]), &Made).unwrap();
        assert_eq!(shot.elements.len(), 1);
        let shot = shot_of_files(&files(&["a.0008.exr", "a.0009.exr", "a.0010.exr"]), &Made).unwrap();
        assert_eq!(shot.elements[0].notes, ["a.0009.exr is 9×6 px, the others 8×6."]);
        assert_eq!(shot.elements[0].sequences[0].frames.len(), 3, "it is kept");
        assert!(shot_of_files(&files(&["bad.exr"]), &Made).is_err());
        assert!(shot_of_files(&[], &Made).is_err());
    }

    #[test]
    fn another_file_takes_the_place_of_a_pass_and_its_sequence() {
        let mut shot = shot_of_files(&files(&["a.0001.exr", "a.0002.exr", "a_depth.exr"]), &Made).unwrap();
        shot.elements[0].passes[1].role = Role::Clay;
        let ids: Vec<u32> = shot.elements[0].passes.iter().map(|p| p.id).collect();
        let beauty = shot.elements[0].passes.iter().find(|p| p.source.sequence.is_some()).unwrap().id;
        replace(&mut shot, (1, beauty), &files(&["b.0005.exr", "b.0006.exr", "b.0007.exr"]), &Made).unwrap();
        crate::check::check(&shot).unwrap();
        let e = &shot.elements[0];
        assert_eq!(e.passes.iter().map(|p| p.id).collect::<Vec<_>>(), ids);
        assert_eq!((e.sequences.len(), e.sequences[0].name.as_str()), (1, "b.####.exr"));
        assert_eq!(shot.frames, Some(FrameRange { first: 5, last: 7 }));
        assert!(e.passes.iter().any(|p| p.role == Role::Clay));
        // A file without the channels of the pass changes nothing.
        let before = shot.clone();
        let wrong = replace(&mut shot, (1, beauty), &files(&["c_depth.exr"]), &Made).unwrap_err();
        assert!(wrong.to_string().starts_with("c_depth.exr: it has no channel R for"), "{wrong}");
        assert!(replace(&mut shot, (1, beauty), &files(&["x.exr", "y.exr"]), &Made).is_err());
        assert_eq!(shot, before);
    }

    #[test]
    fn a_rate_that_differs_from_the_shots_is_noted() {
        let shot =
            shot_of_files(&files(&["a.1.exr", "a.2.exr", "slow_depth.1.exr", "slow_depth.2.exr"]), &Made)
                .unwrap();
        assert_eq!(shot.rate, 25.0);
        let notes: Vec<&String> = shot.elements.iter().flat_map(|e| &e.notes).collect();
        assert_eq!(notes, ["slow_depth.#.exr says 12 frames a second, the shot has 25."]);
    }

    #[test]
    fn more_frames_join_and_a_replaced_file_keeps_roles_and_steps() {
        let mut shot = shot_of_files(&files(&["a.0001.exr", "a.0002.exr"]), &Made).unwrap();
        shot.elements[0].passes[0].role = Role::Albedo;
        add_files(&mut shot, 1, &files(&["a.0003.exr", "a_depth.0001.exr"]), &Made).unwrap();
        let e = &shot.elements[0];
        assert_eq!(e.sequences[0].frames.len(), 3);
        assert_eq!(shot.frames, Some(FrameRange { first: 1, last: 3 }));
        assert_eq!(e.passes.iter().map(|p| p.role).collect::<Vec<_>>(), [Role::Depth, Role::Albedo]);
        add_elements(&mut shot, &files(&["card.exr"]), &Made).unwrap();
        let card = &shot.elements[1];
        assert_eq!((shot.elements.len(), card.id, card.name.as_str(), card.passes.len()), (2, 2, "card", 1));
        let again = MediaFile { name: "a.0002.exr".into(), media: MediaId::of(b"anew") };
        add_files(&mut shot, 1, &[again], &Made).unwrap();
        assert_eq!(shot.elements[0].sequences[0].frames[1].media, MediaId::of(b"anew"));
        crate::check::check(&shot).unwrap();
    }
}
