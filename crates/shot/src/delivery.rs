//! Files that a renderer delivers one after the other into a shot that people work on meanwhile.

use crate::document::{Element, Shot};
use crate::error::ShotError;
use crate::intake::{MediaFile, Opens, add_run, empty_element, join, range_of};
use jugata_exchange::sets::{self, Set};

/// Puts delivered files into a shot: frames into the sequences that they belong to, new passes into the
/// element of their name, new elements behind the others. Roles, conventions and steps stay.
///
/// # Errors
/// A file that cannot be read and that belongs to nothing.
pub fn deliver(shot: &mut Shot, files: &[MediaFile], opens: &dyn Opens) -> Result<(), ShotError> {
    let names: Vec<String> = files.iter().map(|f| f.name.clone()).collect();
    let display = shot.display;
    for set in sets::group(&names) {
        let at = match owner(shot, &set) {
            Some(at) => at,
            None => {
                let id = shot.elements.iter().map(|e| e.id).max().unwrap_or(0) + 1;
                shot.elements.push(empty_element(id, &set));
                shot.elements.len() - 1
            }
        };
        let element = &mut shot.elements[at];
        let known = element.passes.len();
        for run in &set.runs {
            // What was noted of a file that is written anew is noted of what it was.
            forget(element, run.frames.iter().filter_map(|&(_, at)| files.get(at)));
            if !join(element, run, files, opens, display) {
                add_run(element, run, files, opens)?;
            }
        }
        if element.passes.len() > known {
            crate::backgrounds::settle(element, opens);
        }
    }
    shot.frames = range_of(shot).or(shot.frames);
    Ok(())
}

/// Takes back what was noted of files.
fn forget<'f>(element: &mut Element, files: impl Iterator<Item = &'f MediaFile>) {
    for file in files {
        let of = format!("{}: ", file.name);
        element.notes.retain(|n| !n.starts_with(&of));
    }
}

/// The element that has files of the set's name already.
fn owner(shot: &Shot, set: &Set) -> Option<usize> {
    let own = |names: Vec<String>| sets::group(&names).iter().any(|s| s.name == set.name);
    shot.elements.iter().position(|e| {
        let frames = e.sequences.iter().filter_map(|s| s.frames.first()).map(|f| f.file.clone());
        own(frames.chain(e.passes.iter().map(|p| p.source.file.clone())).collect())
    })
}

/// What deliveries changed between two states of a shot, put into a third that was made on the older one:
/// so that somebody's change does not collide with frames that came meanwhile.
pub fn carry(before: &Shot, after: &Shot, into: &mut Shot) {
    for new in &after.elements {
        let Some(old) = before.element(new.id) else {
            if into.element(new.id).is_none() {
                into.elements.push(new.clone());
            }
            continue;
        };
        // An element that was taken away stays away.
        let Some(own) = into.element_mut(new.id) else { continue };
        own.sequences.clone_from(&new.sequences);
        own.notes.clone_from(&new.notes);
        for pass in &new.passes {
            let known = old.passes.iter().find(|p| p.id == pass.id);
            match (known, own.passes.iter_mut().find(|p| p.id == pass.id)) {
                (Some(known), Some(own)) if known.source != pass.source => own.source = pass.source.clone(),
                (None, None) => own.passes.push(pass.clone()),
                _ => {}
            }
        }
    }
    if into.frames == before.frames {
        into.frames = after.frames;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::intake::made::{Made, files};
    use crate::intake::shot_of_files;
    use crate::steps::{Exposure, StepKind};
    use crate::{Step, check};
    use jugata_core::Role;

    fn delivered(shot: &mut Shot, names: &[&str]) {
        deliver(shot, &files(names), &Made).unwrap();
        check::check(shot).unwrap();
    }

    #[test]
    fn frames_that_come_one_by_one_make_one_sequence() {
        let mut shot = shot_of_files(&files(&["orrery.0001.exr"]), &Made).unwrap();
        assert!(shot.elements[0].sequences.is_empty());
        for name in ["orrery.0002.exr", "orrery.0003.exr", "orrery.0002.exr"] {
            delivered(&mut shot, &[name]);
        }
        let e = &shot.elements[0];
        assert_eq!((shot.elements.len(), e.passes.len(), e.sequences.len()), (1, 1, 1));
        assert_eq!(e.sequences[0].frames.iter().map(|f| f.number).collect::<Vec<_>>(), [1, 2, 3]);
        assert_eq!(shot.frames.map(|f| (f.first, f.last)), Some((1, 3)));
        assert_eq!(shot.at_frame(2).elements[0].passes[0].source.file, "orrery.0002.exr");
    }

    #[test]
    fn passes_join_their_element_and_others_become_elements() {
        let mut shot = shot_of_files(&files(&["orrery_beauty.0001.exr"]), &Made).unwrap();
        delivered(&mut shot, &["orrery_depth.0001.exr", "desk.0001.exr"]);
        delivered(&mut shot, &["desk.0002.exr", "orrery_depth.0002.exr"]);
        assert_eq!(
            shot.elements.iter().map(|e| e.name.as_str()).collect::<Vec<_>>(),
            ["orrery_beauty", "desk"]
        );
        let roles: Vec<Role> = shot.elements[0].passes.iter().map(|p| p.role).collect();
        assert_eq!(roles, [Role::Beauty, Role::Depth]);
        assert_eq!(shot.elements[0].sequences[0].frames.len(), 2);
    }

    #[test]
    fn what_was_noted_of_a_file_goes_when_it_is_written_anew() {
        let mut shot = shot_of_files(&files(&["orrery.0001.exr", "orrery.0002.exr"]), &Made).unwrap();
        let notes = ["orrery.0001.exr: rows 80–179 are missing.", "orrery.0002.exr: rows 1–9 are missing."];
        shot.elements[0].notes = notes.map(String::from).to_vec();
        delivered(&mut shot, &["orrery.0001.exr"]);
        assert_eq!(shot.elements[0].notes, notes[1..]);
    }

    #[test]
    fn a_change_made_meanwhile_keeps_both_itself_and_the_frames() {
        let before = shot_of_files(&files(&["a.1.exr", "a.2.exr"]), &Made).unwrap();
        let mut after = before.clone();
        delivered(&mut after, &["a.3.exr", "b.1.exr"]);
        let mut mine = before.clone();
        mine.elements[0].steps.push(Step::new(1, StepKind::Exposure(Exposure { stops: 1.0 })));
        mine.elements[0].passes[0].role = Role::Albedo;
        carry(&before, &after, &mut mine);
        check::check(&mine).unwrap();
        assert_eq!((mine.elements.len(), mine.elements[0].steps.len()), (2, 1));
        assert_eq!((mine.elements[0].passes[0].role, mine.frames), (Role::Albedo, after.frames));
        let mut emptied = before.clone();
        emptied.elements.clear();
        carry(&before, &after, &mut emptied);
        assert_eq!(emptied.elements.len(), 1, "only the new one");
    }
}
