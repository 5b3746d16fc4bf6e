//! Passes proposed from channel names.

use crate::file::{ImageFile, Part};
use jugata_core::Role;
use serde::Serialize;

/// Channels that belong together, and what they seem to mean.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct PassProposal {
    /// Name for people: the layer's, or the role's where it has none.
    pub name: String,
    /// Index of the part.
    pub part: usize,
    /// Full channel names in canonical order (R G B A, X Y Z, U V).
    pub channels: Vec<String>,
    /// What it seems to be.
    pub role: Role,
    /// Why, in words.
    pub reason: String,
}

/// Words in a layer's or part's name (lower case, after splitting off numbers and separators), and the
/// role they speak for. Generic spellings of the trade (*common practice, no source*).
const WORDS: [(Role, &[&str]); 13] = [
    (Role::Depth, &["depth", "z", "zdepth", "depthz"]),
    (Role::Normal, &["n", "normal", "normals", "nrm", "norm"]),
    (Role::Position, &["p", "position", "pos", "pworld", "pcamera"]),
    (Role::StMap, &["stmap"]),
    (Role::Uv, &["uv", "uvs", "texcoord", "texcoords", "st"]),
    (Role::Motion, &["motion", "velocity", "vel", "mv", "motionvector", "motionvectors"]),
    (Role::ObjectId, &["id", "ids", "objectid", "objid", "oid"]),
    (Role::Albedo, &["albedo", "basecolor", "basecolour", "diffusecolor", "diffusecolour"]),
    (Role::Clay, &["clay"]),
    (Role::Shadow, &["shadow", "shadows", "ao", "occlusion"]),
    (Role::Height, &["height", "bump", "displacement"]),
    (Role::Alpha, &["alpha", "coverage"]),
    (Role::Beauty, &["beauty", "rgba", "rgb", "combined", "color", "colour"]),
];

/// Groups the channels of a file into passes and proposes a role for each.
pub fn propose(file: &ImageFile) -> Vec<PassProposal> {
    let mut list = Vec::new();
    for (index, part) in file.parts.iter().enumerate() {
        for (layer, suffixes) in layers(part) {
            list.extend(passes_of(index, part, &layer, &suffixes));
        }
    }
    // One beauty: the first; another picture stays a picture that no step reads by itself.
    let mut seen = false;
    for pass in &mut list {
        if pass.role == Role::Beauty && std::mem::replace(&mut seen, true) {
            pass.role = Role::Other;
            pass.reason = "a further colour picture; another pass is the beauty already".into();
        }
    }
    list.sort_by_key(|p| p.role);
    list
}

/// Channel suffixes by layer, in the order of the file.
fn layers(part: &Part) -> Vec<(String, Vec<String>)> {
    let mut groups: Vec<(String, Vec<String>)> = Vec::new();
    for channel in &part.channels {
        let (layer, suffix) = channel.name.rsplit_once('.').unwrap_or(("", &channel.name));
        match groups.iter_mut().find(|(name, _)| name == layer) {
            Some((_, suffixes)) => suffixes.push(suffix.to_owned()),
            None => groups.push((layer.to_owned(), vec![suffix.to_owned()])),
        }
    }
    groups
}

fn passes_of(index: usize, part: &Part, layer: &str, suffixes: &[String]) -> Vec<PassProposal> {
    let full = |s: &str| if layer.is_empty() { s.to_owned() } else { format!("{layer}.{s}") };
    let title = match (layer, &part.name) {
        ("", Some(name)) => name.as_str(),
        _ => layer,
    };
    let mut rest: Vec<&String> = suffixes.iter().collect();
    let mut out = Vec::new();
    // A set of known components is one pass; what is left over stands alone.
    for set in [&["R", "G", "B", "A"][..], &["X", "Y", "Z"], &["U", "V"]] {
        let found: Vec<&String> = set
            .iter()
            .filter_map(|want| rest.iter().copied().find(|s| s.eq_ignore_ascii_case(want)))
            .collect();
        let least = if set.len() == 4 { 3 } else { 2 };
        if found.len() >= least {
            rest.retain(|s| !found.contains(s));
            let channels: Vec<String> = found.iter().map(|s| full(s)).collect();
            let (role, reason) = role_of(title, None, channels.len());
            let name = if title.is_empty() { role.label().to_owned() } else { title.to_owned() };
            out.push(PassProposal { name, part: index, channels, role, reason });
        }
    }
    for suffix in rest {
        let (role, reason) = role_of(title, Some(suffix), 1);
        let name = if title.is_empty() { suffix.clone() } else { title.to_owned() };
        out.push(PassProposal { name, part: index, channels: vec![full(suffix)], role, reason });
    }
    out
}

fn role_of(title: &str, suffix: Option<&str>, channels: usize) -> (Role, String) {
    let fits = |role: Role| {
        role.channels().is_none_or(|n| {
            n == channels || (role == Role::Beauty && channels == 3) || (n == 2 && channels == 3)
        })
    };
    let said = [Some(title), suffix].into_iter().flatten().rev().find_map(|name| {
        let words = words(name);
        WORDS.iter().filter(|(role, _)| fits(*role)).find_map(|(role, known)| {
            words.iter().find(|w| known.contains(&w.as_str())).map(|w| (*role, w.clone()))
        })
    });
    match said {
        Some((role, word)) => (role, format!("its name says “{word}”")),
        None if title.is_empty() && suffix.is_none() && channels >= 3 => {
            (Role::Beauty, "the file's main colour channels".into())
        }
        None if suffix.is_some_and(|s| s.eq_ignore_ascii_case("A")) => {
            (Role::Alpha, "a lone A channel".into())
        }
        None => (Role::Other, "its name does not say".into()),
    }
}

/// A name in lower-case words: split at separators, at digits, and from lower to upper case; the last
/// words joined as well, so that "objectID" and "object_id" are one.
fn words(name: &str) -> Vec<String> {
    let mut list = vec![String::new()];
    let mut lower_before = false;
    for c in name.chars() {
        if !c.is_alphabetic() {
            list.push(String::new());
            lower_before = false;
            continue;
        }
        if c.is_uppercase() && lower_before {
            list.push(String::new());
        }
        lower_before = c.is_lowercase();
        if let Some(word) = list.last_mut() {
            word.extend(c.to_lowercase());
        }
    }
    list.retain(|w| !w.is_empty());
    let pairs: Vec<String> = list.windows(2).map(|w| w.concat()).collect();
    pairs.into_iter().rev().chain(list.into_iter().rev()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::file::{CameraHeader, Channel, SampleKind};
    use jugata_core::Window;
    use std::sync::Arc;

    fn file(parts: &[(Option<&str>, &[&str])]) -> ImageFile {
        let part = |(name, channels): &(Option<&str>, &[&str])| Part {
            name: name.map(str::to_owned),
            data_window: Window::of_size(1, 1),
            compression: String::new(),
            channels: channels
                .iter()
                .map(|c| Channel { name: (*c).into(), kind: SampleKind::Half, samples: Arc::new(vec![0.0]) })
                .collect(),
            camera: CameraHeader::default(),
            lossy: None,
            missing: Vec::new(),
            attributes: Vec::new(),
        };
        ImageFile {
            format: crate::file::FileFormat::Exr,
            colour: Default::default(),
            alpha: Default::default(),
            notes: Vec::new(),
            display_window: Window::of_size(1, 1),
            pixel_aspect: 1.0,
            parts: parts.iter().map(part).collect(),
        }
    }

    fn roles(parts: &[(Option<&str>, &[&str])]) -> Vec<(Role, String)> {
        propose(&file(parts)).into_iter().map(|p| (p.role, p.channels.join(" "))).collect()
    }

    #[test]
    fn generic_spellings_are_understood() {
        for (channels, role) in [
            (&["Z"][..], Role::Depth),
            (&["depth.Z"], Role::Depth),
            (&["zdepth.R"], Role::Depth),
            (&["hero.depth.Z"], Role::Depth),
            (&["N.X", "N.Y", "N.Z"], Role::Normal),
            (&["normal.R", "normal.G", "normal.B"], Role::Normal),
            (&["NORMALS_02.X", "NORMALS_02.Y", "NORMALS_02.Z"], Role::Normal),
            (&["P.X", "P.Y", "P.Z"], Role::Position),
            (&["uv.U", "uv.V"], Role::Uv),
            (&["velocity.X", "velocity.Y"], Role::Motion),
            (&["objectId.id"], Role::ObjectId),
            (&["object_id.R"], Role::ObjectId),
            (&["albedo.B", "albedo.G", "albedo.R"], Role::Albedo),
            (&["A", "B", "G", "R"], Role::Beauty),
            (&["weird.Q"], Role::Other),
        ] {
            assert_eq!(roles(&[(None, channels)])[0].0, role, "{channels:?}");
        }
    }

    #[test]
    fn channels_come_in_canonical_order() {
        assert_eq!(roles(&[(None, &["A", "B", "G", "R"])]), [(Role::Beauty, "R G B A".into())]);
        assert_eq!(
            roles(&[(None, &["B", "G", "R", "Z"])]),
            [(Role::Beauty, "R G B".into()), (Role::Depth, "Z".into())]
        );
    }

    #[test]
    fn part_names_count_and_one_picture_is_the_beauty() {
        let parts: &[(Option<&str>, &[&str])] = &[
            (Some("beauty"), &["R", "G", "B"]),
            (Some("normal"), &["R", "G", "B"]),
            (Some("extra"), &["R", "G", "B"]),
        ];
        assert_eq!(
            roles(parts).iter().map(|r| r.0).collect::<Vec<_>>(),
            [Role::Beauty, Role::Normal, Role::Other]
        );
    }
}
