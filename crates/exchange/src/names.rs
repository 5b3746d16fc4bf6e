//! Names of channels and layers: which channels belong together, and the words in a name.

use crate::file::Part;

/// Channels of one layer that make one pass.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Group {
    /// Name of the layer; empty for the main one.
    pub layer: String,
    /// Full channel names in canonical order.
    pub channels: Vec<String>,
    /// What is left of each name without the layer.
    pub components: Vec<String>,
}

/// Components that make one pass together, in canonical order, and how many of them must be there.
const SETS: [(&[&str], usize); 7] = [
    (&["r", "g", "b", "a"], 3),
    (&["red", "green", "blue", "alpha"], 3),
    (&["x", "y", "z"], 2),
    (&["u", "v"], 2),
    (&["s", "t"], 2),
    (&["r", "g"], 2),
    (&["0", "1", "2", "3"], 2),
];

/// Whether a group is made of colour components.
pub fn is_colour(group: &Group) -> bool {
    group.components.iter().any(|c| c.eq_ignore_ascii_case("g") || c.eq_ignore_ascii_case("green"))
}

fn is_component(text: &str) -> bool {
    // Numbers are components behind a dot only, which `split` sees to: elsewhere they are versions and takes.
    SETS[..SETS.len() - 1].iter().any(|(set, _)| set.iter().any(|c| c.eq_ignore_ascii_case(text)))
}

/// Groups of a part's channels, in the order of the file.
pub fn groups(part: &Part) -> Vec<Group> {
    let names: Vec<&str> = part.channels.iter().map(|c| c.name.as_str()).collect();
    let mut layers: Vec<(String, Vec<(String, String)>)> = Vec::new();
    for name in &names {
        let (layer, component) = split(name, &names);
        let entry = (component.to_owned(), (*name).to_owned());
        match layers.iter_mut().find(|(l, _)| l == layer) {
            Some((_, list)) => list.push(entry),
            None => layers.push((layer.to_owned(), vec![entry])),
        }
    }
    layers.into_iter().flat_map(|(layer, list)| grouped(&layer, list)).collect()
}

/// A channel's layer and component: at the last separator before a known component; else at the last dot,
/// colon or slash; else before a last letter that makes a set with other channels ("NX NY NZ").
fn split<'n>(name: &'n str, all: &[&str]) -> (&'n str, &'n str) {
    if let Some((layer, component)) = name.rsplit_once(['.', ':', '/', '_', '-'])
        && is_component(component)
    {
        return (layer, component);
    }
    if let Some((layer, component)) = name.rsplit_once(['.', ':', '/']) {
        return (layer, component);
    }
    let last = name.char_indices().last().map_or(0, |(at, _)| at);
    // A last digit is no component of a set ("light1", "light2").
    if name.ends_with(|c: char| c.is_ascii_digit()) {
        return ("", name);
    }
    let (stem, letter) = name.split_at(last);
    let siblings = |set: &[&str]| {
        set.iter()
            .filter(|c| {
                all.iter().any(|n| n.strip_prefix(stem).is_some_and(|rest| rest.eq_ignore_ascii_case(c)))
            })
            .count()
    };
    let in_set = SETS
        .iter()
        .any(|(set, least)| set.iter().any(|c| c.eq_ignore_ascii_case(letter)) && siblings(set) >= *least);
    if !stem.is_empty() && in_set { (stem, letter) } else { ("", name) }
}

fn grouped(layer: &str, mut rest: Vec<(String, String)>) -> Vec<Group> {
    let group = |entries: Vec<(String, String)>| {
        let (components, channels) = entries.into_iter().unzip();
        Group { layer: layer.to_owned(), channels, components }
    };
    let mut out = Vec::new();
    for (set, least) in SETS {
        let found: Vec<(String, String)> = set
            .iter()
            .filter_map(|c| rest.iter().find(|(own, _)| own.eq_ignore_ascii_case(c)).cloned())
            .collect();
        if found.len() >= least {
            rest.retain(|e| !found.contains(e));
            out.push(group(found));
        }
    }
    out.extend(rest.into_iter().map(|e| group(vec![e])));
    out
}

/// The words of a name, lower case, last first: split at separators, at digits, from lower to upper case, and before the
/// last capital of several ("AOPass" is AO and Pass); two neighbours joined as well, so that "objectID" and "object_id"
/// are one. A name without lower case is not split by case.
pub fn words(name: &str) -> Vec<String> {
    let list = single_words(name);
    let mut out = Vec::new();
    for end in (0..list.len()).rev() {
        if end > 0 {
            out.push(list[end - 1].clone() + &list[end]);
        }
        out.push(list[end].clone());
    }
    out
}

/// The words of a name, lower case, first to last.
pub fn single_words(name: &str) -> Vec<String> {
    let mut list = vec![String::new()];
    let (mut lower_before, mut capitals) = (false, 0);
    let chars: Vec<char> = name.chars().collect();
    for (i, &c) in chars.iter().enumerate() {
        if !c.is_alphabetic() {
            list.push(String::new());
            (lower_before, capitals) = (false, 0);
            continue;
        }
        let before_lower = chars.get(i + 1).is_some_and(|n| n.is_lowercase());
        if c.is_uppercase() && (lower_before || (capitals > 0 && before_lower && chars.len() > i + 2)) {
            list.push(String::new());
        }
        capitals = if c.is_uppercase() { capitals + 1 } else { 0 };
        lower_before = c.is_lowercase();
        if let Some(word) = list.last_mut() {
            word.extend(c.to_lowercase());
        }
    }
    list.retain(|w| !w.is_empty());
    list
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_found_in_any_writing() {
        assert_eq!(words("hero_objectID.02"), ["objectid", "id", "heroobject", "object", "hero"]);
        assert_eq!(words("NORMALS"), ["normals"]);
        assert_eq!(single_words("AOPass"), ["ao", "pass"]);
        assert_eq!(single_words("UVs"), ["uvs"]);
        assert_eq!(words("größe-Z9"), ["größez", "z", "größe"]);
        assert!(words("…12").is_empty());
    }
}
