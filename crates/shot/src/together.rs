//! Files that belong together whatever their names, and passes moved from one element to another.

use crate::document::{Element, Pass, Sequence, Shot};
use crate::error::ShotError;
use crate::files::Opens;
use jugata_core::{Role, Window};

/// Joins elements of one size of which only one has a picture: the others hold its data. Where several have one, data
/// joins the picture whose name it shares most of.
pub(crate) fn bring_together(elements: Vec<Element>, opens: &dyn Opens) -> Vec<Element> {
    let size = |e: &Element| {
        let source = &e.passes.first()?.source;
        let file = crate::intake::MediaFile { name: source.file.clone(), media: source.media.clone() };
        let frame: Window = opens.frame(&file).ok()?;
        Some((frame.width, frame.height))
    };
    let mut all: Vec<(Option<(u32, u32)>, Element)> = elements.into_iter().map(|e| (size(&e), e)).collect();
    let has_picture = |e: &Element| e.pass_of(Role::Beauty).is_some();
    let mut at = 0;
    while at < all.len() {
        let (own, e) = &all[at];
        let home = (!has_picture(e) && own.is_some()).then(|| {
            let of_size = |i: &usize| *i != at && all[*i].0 == *own && has_picture(&all[*i].1);
            let homes: Vec<usize> = (0..all.len()).filter(of_size).collect();
            let shared =
                |i: &usize| e.name.bytes().zip(all[*i].1.name.bytes()).take_while(|(a, b)| a == b).count();
            match homes.as_slice() {
                [one] => Some(*one),
                // Names that begin alike, if only with one of the pictures.
                many => {
                    let most = many.iter().map(shared).max().filter(|n| *n > 1)?;
                    let mut best = many.iter().filter(|i| shared(i) == most);
                    best.next().copied().filter(|_| best.next().is_none())
                }
            }
        });
        match home.flatten() {
            Some(home) => {
                let (_, guest) = all.remove(at);
                let home = if home > at { home - 1 } else { home };
                join(&mut all[home].1, guest);
                at = 0;
            }
            None => at += 1,
        }
    }
    let mut out: Vec<Element> = all.into_iter().map(|(_, e)| e).collect();
    out.iter_mut().zip(1..).for_each(|(e, id)| e.id = id);
    out
}

/// Puts everything of one element into another, with numbers that are free there.
fn join(home: &mut Element, guest: Element) {
    for sequence in &guest.sequences {
        let id = next_sequence(home);
        home.sequences.push(Sequence { id, ..sequence.clone() });
        for pass in guest.passes.iter().filter(|p| p.source.sequence == Some(sequence.id)) {
            add(home, pass, Some(id));
        }
    }
    guest.passes.iter().filter(|p| p.source.sequence.is_none()).for_each(|p| add(home, p, None));
    guest.notes.into_iter().for_each(|n| home.note(n));
    home.camera = home.camera.or(guest.camera);
    home.passes.sort_by_key(|p| p.role);
}

fn next_sequence(e: &Element) -> u32 {
    e.sequences.iter().map(|s| s.id).max().unwrap_or(0) + 1
}

fn add(home: &mut Element, pass: &Pass, sequence: Option<u32>) {
    let id = home.passes.iter().map(|p| p.id).max().unwrap_or(0) + 1;
    let mut pass = Pass { id, ..pass.clone() };
    pass.source.sequence = sequence;
    if pass.role == Role::Beauty && home.pass_of(Role::Beauty).is_some() {
        pass.role = Role::Other;
    }
    home.passes.push(pass);
}

/// Parts of the light are kept as other; where there is no whole picture beside them, the first of them is the picture.
pub(crate) fn one_picture(element: &mut Element) {
    if element.pass_of(Role::Beauty).is_some() {
        return;
    }
    let part = |role: Role| matches!(role, Role::Other | Role::Diffuse);
    let colours = |p: &&mut Pass| part(p.role) && p.source.channels.len() >= 3;
    let mut found: Vec<&mut Pass> = element.passes.iter_mut().filter(colours).collect();
    // Of several layers of one file none is more the picture than another.
    if let [pass] = found.as_mut_slice() {
        pass.role = Role::Beauty;
        element.passes.sort_by_key(|p| p.role);
    }
}

/// Sequences of one element that do not have the same frames are told.
pub(crate) fn tell_lengths(element: &mut Element) {
    let ends = |s: &Sequence| Some((s.frames.first()?.number, s.frames.last()?.number));
    let all: Vec<(String, (i32, i32))> =
        element.sequences.iter().filter_map(|s| Some((s.name.clone(), ends(s)?))).collect();
    let Some((_, first)) = all.first().cloned() else { return };
    if all.iter().any(|(_, e)| *e != first) {
        let each: Vec<String> = all.iter().take(6).map(|(name, (a, b))| format!("{name} {a}–{b}")).collect();
        element.note(format!("Its sequences have different frames: {}.", each.join("; ")));
    }
}

/// Moves passes from one element to another; a sequence goes with the passes that are read from it. An element that is left
/// with no pass and no step goes.
///
/// # Errors
/// Elements or passes that are not there; a pass to its own element.
pub fn move_passes(shot: &mut Shot, from: u32, passes: &[u32], to: u32) -> Result<(), ShotError> {
    let missing = |what, id| ShotError::Missing { what, id };
    let source = shot.elements.iter().find(|e| e.id == from).ok_or(missing("element", from))?.clone();
    let home = shot.element_mut(to).ok_or(missing("element", to))?;
    if from == to {
        return Err(ShotError::Parameter { place: source.name, what: "its passes are there already".into() });
    }
    for id in passes {
        let pass = source.passes.iter().find(|p| p.id == *id).ok_or(missing("pass", *id))?;
        let sequence = pass.source.sequence.and_then(|s| source.sequences.iter().find(|q| q.id == s));
        let sequence = sequence.map(|s| {
            let same = home.sequences.iter().find(|q| q.name == s.name && q.frames == s.frames).map(|q| q.id);
            same.unwrap_or_else(|| {
                let id = next_sequence(home);
                home.sequences.push(Sequence { id, ..s.clone() });
                id
            })
        });
        add(home, pass, sequence);
    }
    home.passes.sort_by_key(|p| p.role);
    if let Some(e) = shot.element_mut(from) {
        e.passes.retain(|p| !passes.contains(&p.id));
        let used: Vec<u32> = e.passes.iter().filter_map(|p| p.source.sequence).collect();
        e.sequences.retain(|s| used.contains(&s.id));
    }
    shot.elements.retain(|e| e.id != from || !e.passes.is_empty() || !e.steps.is_empty());
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::intake::made::{Made, files};
    use crate::intake::shot_of_files;

    fn shown(names: &[&str]) -> Vec<String> {
        let shot = shot_of_files(&files(names), &Made).unwrap();
        shot.elements
            .iter()
            .map(|e| {
                let roles: Vec<&str> = e.passes.iter().map(|p| p.role.label()).collect();
                format!("{}: {}", e.name, roles.join(", "))
            })
            .collect()
    }

    #[test]
    fn data_joins_the_only_picture_of_its_size_whatever_the_names() {
        assert_eq!(shown(&["take3.exr", "take3_aux_depth.exr"]), ["take3: beauty, depth"]);
        assert_eq!(shown(&["picture.exr", "the depth.exr"]), ["picture: beauty, depth"]);
        assert_eq!(shown(&["zz_depth.exr", "card.exr"]), ["card: beauty, depth"]);
        // Another size stays apart, and so does data that could belong to either of two pictures.
        assert_eq!(shown(&["picture.exr", "x odd depth.exr"]).len(), 2);
        assert_eq!(shown(&["first.exr", "second.exr", "q_depth.exr"]).len(), 3);
        assert_eq!(
            shown(&["hero.exr", "card.exr", "her_x_depth.exr"]),
            ["hero: beauty, depth", "card: beauty"]
        );
    }

    #[test]
    fn of_the_parts_of_the_light_the_whole_is_the_picture() {
        assert_eq!(
            shown(&["x_diffuse.exr", "x_main.exr", "x_specular.exr"]),
            ["x: beauty, diffuse light, other"]
        );
        assert_eq!(shown(&["x_diffuse.exr"]), ["x_diffuse: beauty"]);
        assert_eq!(shown(&["a.exr", "b.exr"]).len(), 2);
    }

    #[test]
    fn passes_are_moved_with_their_sequence() {
        let names = ["a.1.exr", "a.2.exr", "b.1.exr", "b.2.exr", "b_depth.1.exr", "b_depth.2.exr"];
        let mut shot = shot_of_files(&files(&names), &Made).unwrap();
        let depth = shot.elements[1].pass_of(Role::Depth).unwrap().id;
        move_passes(&mut shot, 2, &[depth], 1).unwrap();
        let [a, b] = shot.elements.as_slice() else { panic!() };
        assert!(a.pass_of(Role::Depth).is_some() && b.pass_of(Role::Depth).is_none());
        assert_eq!((a.sequences.len(), b.sequences.len()), (2, 1));
        crate::check::check(&shot).unwrap();
        let beauty = b.passes[0].id;
        move_passes(&mut shot, 2, &[beauty], 1).unwrap();
        assert_eq!(shot.elements.len(), 1);
        crate::check::check(&shot).unwrap();
        assert!(move_passes(&mut shot, 1, &[99], 1).is_err());
    }

    #[test]
    fn sequences_of_unequal_length_are_told() {
        let shot = shot_of_files(
            &files(&["a.1.exr", "a.2.exr", "a.3.exr", "a_depth.1.exr", "a_depth.2.exr"]),
            &Made,
        );
        let notes = shot.unwrap().elements[0].notes.clone();
        assert_eq!(notes, ["Its sequences have different frames: a.#.exr 1–3; a_depth.#.exr 1–2."]);
    }
}
