//! Many files at once: grouped by name into elements, passes and frames.

use crate::names::words;
use schemars::JsonSchema;
use serde::Serialize;

/// Files that are frames of one thing; a still has one.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Run {
    /// Name with `#` for the digits of the frame number; a still's own name.
    pub pattern: String,
    /// Frame numbers with the places of their files in the list, ascending; a still has the number 0.
    pub frames: Vec<(i32, usize)>,
    /// Whether the name has a frame number.
    pub numbered: bool,
    /// Files with a frame number that another file of the run has already.
    pub twice: Vec<usize>,
}

/// Runs that belong to one element.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Set {
    /// What their names share, without words that name a pass.
    pub name: String,
    /// The runs, in the order of their first files.
    pub runs: Vec<Run>,
}

/// A name in pieces: what stands before the frame number, its digits, what stands behind.
struct Pieces<'n> {
    before: &'n str,
    digits: &'n str,
    after: &'n str,
}

/// Whether a byte parts words.
const fn parts(byte: u8) -> bool {
    matches!(byte, b'.' | b'_' | b'-' | b' ')
}

/// The frame number is the last run of digits that stands alone: after a separator or at the start, and before a
/// separator or the end ("take2.0041.exr" has 41, "part3b.exr" none). A minus after another separator belongs to it
/// ("a.-0005.exr").
fn pieces(name: &str) -> Pieces<'_> {
    let stem = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
    let bytes = stem.as_bytes();
    let mut end = bytes.len();
    while end > 0 {
        let last = (0..end).rev().find(|&i| bytes[i].is_ascii_digit());
        let Some(last) = last else { break };
        let first = (0..=last).rev().take_while(|&i| bytes[i].is_ascii_digit()).last().unwrap_or(last);
        let alone_before = first == 0 || parts(bytes[first - 1]);
        let alone_after = last + 1 == bytes.len() || parts(bytes[last + 1]);
        if alone_before && alone_after && name[first..=last].parse::<i32>().is_ok() {
            let minus = first > 0 && bytes[first - 1] == b'-' && (first == 1 || parts(bytes[first - 2]));
            let from = first - usize::from(minus);
            return Pieces { before: &name[..from], digits: &name[from..=last], after: &name[last + 1..] };
        }
        end = first;
    }
    Pieces { before: name, digits: "", after: "" }
}

/// A number written right behind a word ("beauty0001.png"), which only other files of the same name, or its noughts, tell
/// from a part of the word; not that of a version ("hero_v003").
fn attached(name: &str) -> Option<Pieces<'_>> {
    let stem = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
    let bytes = stem.as_bytes();
    let count = bytes.iter().rev().take_while(|b| b.is_ascii_digit()).count();
    let first = bytes.len() - count;
    let version = first > 0
        && bytes[first - 1].eq_ignore_ascii_case(&b'v')
        && (first == 1 || parts(bytes[first - 2]) || bytes[first - 2].is_ascii_digit());
    (count > 0 && first > 0 && !version && stem[first..].parse::<i32>().is_ok()).then(|| Pieces {
        before: &name[..first],
        digits: &name[first..bytes.len()],
        after: &name[bytes.len()..],
    })
}

/// The pieces of every name: numbers behind words count where several files share the rest, or where they are padded.
fn all_pieces(names: &[String]) -> Vec<Pieces<'_>> {
    let tight: Vec<Option<Pieces<'_>>> = names.iter().map(|n| attached(n)).collect();
    let shared = |p: &Pieces<'_>| {
        let same = |q: &&Pieces<'_>| q.before == p.before && q.after == p.after;
        tight.iter().flatten().filter(same).count() > 1
    };
    names
        .iter()
        .zip(&tight)
        .map(|(name, tight)| match (pieces(name), tight) {
            (own, Some(p)) if own.digits.is_empty() && (p.digits.len() > 2 || shared(p)) => {
                Pieces { before: p.before, digits: p.digits, after: p.after }
            }
            (own, _) => own,
        })
        .collect()
}

/// Words that name a pass and not an element. (Those of `roles`, and the parts of them that stand alone.)
fn names_a_pass(word: &str) -> bool {
    const MORE: [&str; 8] = ["pass", "object", "aux", "data", "aov", "aovs", "passes", "extra"];
    crate::roles::is_word(word) || crate::roles::is_light(word) || MORE.contains(&word)
}

/// What is left of a name without its frame number, ending and words of passes.
fn element_of(before: &str, after: &str) -> String {
    let stem = if after.is_empty() { before.rsplit_once('.').map_or(before, |(s, _)| s) } else { before };
    let mut rest = stem.trim_end_matches(['.', '_', '-', ' ']);
    loop {
        let cut = rest.rfind(['.', '_', '-', ' ']);
        let last = cut.map_or(rest, |at| &rest[at + 1..]);
        let all = words(last);
        if all.is_empty() || !all.iter().any(|w| names_a_pass(w)) {
            break;
        }
        match cut {
            Some(at) => rest = rest[..at].trim_end_matches(['.', '_', '-', ' ']),
            // Nothing but the pass: the files have no element's name.
            None => return String::new(),
        }
    }
    rest.to_owned()
}

/// Groups file names (without folders). Every file is in exactly one run, but for those listed as `twice`.
pub fn group(names: &[String]) -> Vec<Set> {
    let mut runs: Vec<(String, Run)> = Vec::new();
    for (place, (name, p)) in names.iter().zip(all_pieces(names)).enumerate() {
        let number = p.digits.parse::<i32>().ok();
        let key = number.map(|_| (p.before, p.after));
        let pattern = match key {
            Some((before, after)) => {
                format!("{before}{}{after}", "#".repeat(p.digits.trim_start_matches('-').len()))
            }
            None => name.clone(),
        };
        // Padding may differ from file to file ("9", "10"): what stands around the number decides.
        let same = |r: &Run| {
            key.is_some_and(|(before, after)| {
                r.numbered
                    && r.pattern.trim_end_matches(after).trim_end_matches('#') == before
                    && r.pattern.ends_with(after)
            })
        };
        let frame = number.unwrap_or(0);
        match runs.iter_mut().find(|(_, r)| same(r)) {
            Some((_, run)) if run.frames.iter().any(|(n, _)| *n == frame) => run.twice.push(place),
            Some((_, run)) => run.frames.push((frame, place)),
            None => {
                let element = element_of(p.before, p.after);
                let run = Run {
                    pattern,
                    frames: vec![(frame, place)],
                    numbered: number.is_some(),
                    twice: Vec::new(),
                };
                runs.push((element, run));
            }
        }
    }
    let mut sets: Vec<Set> = Vec::new();
    for (element, mut run) in runs {
        run.frames.sort_unstable();
        match sets.iter_mut().find(|s| s.name == element) {
            Some(set) => set.runs.push(run),
            None => sets.push(Set { name: element, runs: vec![run] }),
        }
    }
    sets
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sets(names: &[&str]) -> Vec<Set> {
        group(&names.iter().map(|n| (*n).to_owned()).collect::<Vec<_>>())
    }

    fn shown(names: &[&str]) -> Vec<String> {
        sets(names)
            .iter()
            .flat_map(|s| {
                s.runs.iter().map(|r| {
                    format!(
                        "{}: {} {:?}",
                        s.name,
                        r.pattern,
                        r.frames.iter().map(|f| f.0).collect::<Vec<_>>()
                    )
                })
            })
            .collect()
    }

    #[test]
    fn passes_of_an_element_and_frames_of_a_pass_come_together() {
        assert_eq!(
            shown(&[
                "orrery_beauty.0001.exr",
                "orrery_depth.0001.exr",
                "orrery_beauty.0002.exr",
                "desk.0001.exr",
                "orrery_object_id.0002.exr"
            ]),
            [
                "orrery: orrery_beauty.####.exr [1, 2]",
                "orrery: orrery_depth.####.exr [1]",
                "orrery: orrery_object_id.####.exr [2]",
                "desk: desk.####.exr [1]",
            ]
        );
    }

    #[test]
    fn numbers_are_found_with_any_padding_and_separator() {
        assert_eq!(shown(&["a-9.png", "a-10.png", "a-11.png"]), ["a: a-#.png [9, 10, 11]"]);
        assert_eq!(
            shown(&["a_v02_0100_depth.exr", "a_v02_0101_depth.exr"]),
            ["a_v02: a_v02_####_depth.exr [100, 101]"]
        );
        assert_eq!(
            shown(&["part3b.exr", "beauty.exr", "12.tif"]),
            ["part3b: part3b.exr [0]", ": beauty.exr [0]", ": ##.tif [12]"]
        );
        assert_eq!(shown(&["beauty0001.png", "beauty0002.png"]), [": beauty####.png [1, 2]"]);
        assert_eq!(shown(&["a1.png", "a2.png", "a10.png"]), ["a: a#.png [1, 2, 10]"]);
        assert_eq!(
            shown(&["take3.exr", "take3_aux.exr"]),
            ["take3: take3.exr [0]", "take3: take3_aux.exr [0]"]
        );
        assert_eq!(shown(&["hero_v003.exr"]), ["hero_v003: hero_v003.exr [0]"]);
        assert_eq!(shown(&["a.-0002.exr", "a.-0001.exr", "a.0000.exr"]), ["a: a.####.exr [-2, -1, 0]"]);
        assert_eq!(shown(&["a.0000000041.exr"]), ["a: a.##########.exr [41]"]);
        assert_eq!(shown(&["a.9999999999.exr"]), ["a.9999999999: a.9999999999.exr [0]"]);
        let twice = sets(&["a.1.exr", "a.01.exr"]);
        assert_eq!((twice[0].runs[0].frames.len(), twice[0].runs[0].twice.len()), (1, 1));
    }
}
