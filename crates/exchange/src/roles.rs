//! Passes proposed from channel names and from values.

use crate::file::{ImageFile, Part};
use crate::samples::Samples;
use crate::{manifest, names, values};
use jugata_core::Role;
use schemars::JsonSchema;
use serde::Serialize;

/// Channels that belong together, and what they seem to mean.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
pub struct PassProposal {
    /// Name for people: the layer's, or the role's where it has none.
    pub name: String,
    /// Index of the part.
    pub part: usize,
    /// Full channel names in canonical order (R G B A, X Y Z, U V).
    pub channels: Vec<String>,
    /// What it seems to be.
    pub role: Role,
    /// How sure, 0..1.
    pub confidence: f32,
    /// Why, in words.
    pub reason: String,
}

/// Words in a name (lower case, without numbers and separators), and the role they speak for. Generic
/// spellings of the trade (*common practice, no source*). Earlier roles win.
const WORDS: [(Role, &[&str]); 16] = [
    (Role::HashedId, &["cryptomatte", "crypto", "hashedid", "hashedids"]),
    (
        Role::Depth,
        &["depth", "z", "zdepth", "depthz", "zbuffer", "zpass", "distance", "camdepth", "dpth", "depthpass"],
    ),
    (
        Role::Normal,
        &[
            "n",
            "normal",
            "normals",
            "nrm",
            "norm",
            "nrml",
            "nor",
            "shadingnormal",
            "shadingnormals",
            "normalpass",
            "worldnormal",
            "worldnormals",
            "cameranormal",
            "cameranormals",
            "viewnormal",
            "ncamera",
            "nworld",
            "geometricnormal",
            "smoothnormal",
            "bumpnormal",
            "bumpnormals",
        ],
    ),
    (
        Role::Rest,
        &["pref", "rest", "restposition", "restp", "objectposition", "pobject", "referenceposition"],
    ),
    (
        Role::Position,
        &[
            "p",
            "position",
            "pos",
            "pworld",
            "pcamera",
            "pcam",
            "worldposition",
            "camposition",
            "cameraposition",
            "wpos",
            "point",
            "pointworld",
            "positions",
            "worldpos",
            "pointposition",
            "worldpoint",
            "pp",
            "xyz",
        ],
    ),
    (Role::StMap, &["stmap", "distortionmap", "uvmap", "coordinatemap", "distort", "undistort"]),
    (
        Role::Uv,
        &["uv", "uvs", "texcoord", "texcoords", "st", "texture", "uvw", "texturecoordinates", "uvpass"],
    ),
    (
        Role::Motion,
        &[
            "motion",
            "velocity",
            "vel",
            "mv",
            "motionvector",
            "motionvectors",
            "vector",
            "vectors",
            "motionvec",
            "mvec",
            "speed",
            "flow",
            "forward",
            "backward",
            "motionpass",
            "velocities",
            "opticalflow",
        ],
    ),
    (
        Role::ObjectId,
        &[
            "id",
            "ids",
            "objectid",
            "objid",
            "oid",
            "materialid",
            "matid",
            "mid",
            "instanceid",
            "objectindex",
            "indexob",
            "elementid",
            "renderid",
        ],
    ),
    (
        Role::Albedo,
        &[
            "albedo",
            "basecolor",
            "basecolour",
            "diffusecolor",
            "diffusecolour",
            "diffusefilter",
            "rawcolor",
            "rawcolour",
            "texturecolor",
            "texturecolour",
            "surfacecolor",
            "surfacecolour",
            "diffusealbedo",
            "diffcol",
            "flatcolor",
        ],
    ),
    (Role::Diffuse, &["diffuse", "diffuselight", "diffuselighting", "totaldiffuse", "diffusetotal"]),
    (Role::Clay, &["clay", "greyshade", "grayshade", "whitemodel"]),
    (
        Role::Shadow,
        &["shadow", "shadows", "ao", "occlusion", "ambientocclusion", "shadowpass", "amb", "shad", "occ"],
    ),
    (Role::Height, &["height", "bump", "displacement", "disp", "elevation", "heightmap", "displace"]),
    (Role::Alpha, &["alpha", "coverage", "matte", "mask", "opacity", "holdout", "a"]),
    (
        Role::Beauty,
        &[
            "beauty",
            "rgba",
            "rgb",
            "combined",
            "color",
            "colour",
            "main",
            "master",
            "final",
            "render",
            "image",
            "primary",
            "bty",
            "beautypass",
            "ci",
            "default",
        ],
    ),
];

/// Words for something that no role stands for, though its values look like one.
const NO_ROLE: [&str; 9] =
    ["tangent", "tangents", "bitangent", "binormal", "dpdu", "dpdv", "zback", "back", "plate"];

/// Words for a part of the light: such a picture is kept beside the whole one.
const LIGHT: [&str; 25] = [
    "diff",
    "specular",
    "spec",
    "reflection",
    "refl",
    "refraction",
    "refr",
    "emission",
    "emit",
    "emissive",
    "sss",
    "subsurface",
    "coat",
    "sheen",
    "transmission",
    "direct",
    "indirect",
    "gi",
    "volume",
    "light",
    "lighting",
    "glossy",
    "caustics",
    "selfillum",
    "incandescence",
];

/// Words that make of "diffuse" the colour, or a share of the light.
const DIFFUSE_PART: [&str; 8] = ["raw", "filter", "color", "colour", "col", "dir", "ind", "unshadowed"];

/// Words of mattes, which come three or four to a picture.
const MATTES: [&str; 7] = ["matte", "mattes", "mask", "masks", "puzzle", "multimatte", "holdout"];

/// Words in a file's name that say nothing of what is in it: takes, versions, sides, sizes, codings.
const ASIDE: [&str; 22] = [
    "v", "ver", "version", "take", "t", "left", "right", "l", "r", "px", "hd", "k", "f", "frame", "pass",
    "layer", "raw", "half", "float", "linear", "lin", "bit",
];

/// Whether a word names a part of the light.
pub(crate) fn is_light(word: &str) -> bool {
    LIGHT.contains(&word)
}

/// Whether a word speaks for some role; single letters do not in a file's name.
pub(crate) fn is_word(word: &str) -> bool {
    word.chars().count() > 1 && WORDS.iter().any(|(_, known)| known.contains(&word))
}

/// Confidence of a name alone.
const BY_NAME: f32 = 0.85;

/// Confidence of a name and values that say the same.
const BY_BOTH: f32 = 0.98;

/// Groups the channels of a file into passes and proposes a role for each. `stem` is the file's name without
/// its ending: it speaks where part and channels say nothing.
pub fn propose(file: &ImageFile, stem: &str) -> Vec<PassProposal> {
    let groups: Vec<(usize, &Part, names::Group)> = file
        .parts
        .iter()
        .enumerate()
        .flat_map(|(index, part)| names::groups(part).into_iter().map(move |g| (index, part, g)))
        .collect();
    let alone = groups.len() == 1;
    let mut list: Vec<PassProposal> = groups
        .iter()
        .flat_map(|(index, part, group)| match mattes(*index, part, group) {
            Some(mattes) => mattes,
            None => vec![proposal(*index, part, group, stem, file, alone)],
        })
        .collect();
    join_ranks(&mut list);
    no_brighter_than_the_picture(&mut list, file);
    only_picture(&mut list, &groups);
    one_beauty(&mut list);
    list.sort_by_key(|p| p.role);
    list
}

/// A layer of mattes holds one in each of its channels, unless they are all the same.
fn mattes(index: usize, part: &Part, group: &names::Group) -> Option<Vec<PassProposal>> {
    let title = if group.layer.is_empty() { part.name.as_deref().unwrap_or("") } else { &group.layer };
    let word = names::single_words(title).into_iter().find(|w| MATTES.contains(&w.as_str()))?;
    let planes: Vec<_> = group.channels.iter().filter_map(|n| part.channel(n)).map(|c| &c.samples).collect();
    let count = planes.len();
    if count < 3 || planes.windows(2).all(|p| p[0] == p[1]) {
        return None;
    }
    let of = |(channel, component): (&String, &String)| PassProposal {
        name: format!("{title} {component}"),
        part: index,
        channels: vec![channel.clone()],
        role: Role::Alpha,
        confidence: BY_NAME,
        reason: format!("its name says “{word}”, and each of its channels is one of its own"),
    };
    Some(group.channels.iter().zip(&group.components).map(of).collect())
}

/// The only colour of a file is its picture, whatever its part or layer is called, if nothing else speaks for it.
fn only_picture(list: &mut [PassProposal], groups: &[(usize, &Part, names::Group)]) {
    let colours: Vec<&(usize, &Part, names::Group)> =
        groups.iter().filter(|(_, _, g)| names::is_colour(g) && g.channels.len() >= 3).collect();
    if list.iter().any(|p| p.role == Role::Beauty) {
        return;
    }
    if let [(part, _, group)] = colours.as_slice()
        && let Some(p) = list.iter_mut().find(|p| p.part == *part && p.channels == group.channels)
        && p.role == Role::Other
        && p.confidence < BY_NAME
    {
        (p.role, p.confidence) = (Role::Beauty, 0.8);
        p.reason = "the only colour in the file".into();
    }
}

/// A part of the light is nowhere brighter than all of it: what is called diffuse and is brighter is something else, most
/// often the surface's colour.
fn no_brighter_than_the_picture(list: &mut [PassProposal], file: &ImageFile) {
    let planes = |p: &PassProposal| -> Option<Vec<&Samples>> {
        let part = file.parts.get(p.part)?;
        p.channels.iter().take(3).map(|n| part.channel(n).map(|c| c.samples.as_ref())).collect()
    };
    let of = |list: &[PassProposal], role| list.iter().position(|p| p.role == role);
    let (Some(picture), Some(diffuse)) = (of(list, Role::Beauty), of(list, Role::Diffuse)) else { return };
    let (Some(all), Some(part)) = (planes(&list[picture]), planes(&list[diffuse])) else { return };
    let (mut brighter, mut looked) = (0usize, 0usize);
    for (a, b) in all.iter().zip(&part).filter(|(a, b)| a.len() == b.len()) {
        let step = (a.len() / 4096).max(1);
        for (whole, light) in (0..a.len()).step_by(step).filter_map(|i| Some((a.get(i)?, b.get(i)?))) {
            looked += usize::from(light > 0.0);
            brighter += usize::from(light > whole * 1.05 + 0.01);
        }
    }
    if brighter * 20 > looked {
        let p = &mut list[diffuse];
        (p.role, p.confidence) = (Role::Other, BY_NAME);
        p.reason = "its name says “diffuse”, but it is brighter than the picture".into();
    }
}

/// The surest (of equals the first) colour picture is the beauty; another stays a picture that no step
/// reads by itself.
fn one_beauty(list: &mut [PassProposal]) {
    let best = list.iter().enumerate().filter(|(_, p)| p.role == Role::Beauty).fold(
        None::<(usize, f32)>,
        |b, (i, p)| match b {
            Some((_, c)) if c >= p.confidence => b,
            _ => Some((i, p.confidence)),
        },
    );
    for (i, p) in list.iter_mut().enumerate() {
        if p.role == Role::Beauty && best.is_some_and(|(b, _)| b != i) {
            p.role = Role::Other;
            p.reason = "a further colour picture; another pass is the beauty already".into();
        }
    }
}

fn proposal(
    index: usize,
    part: &Part,
    group: &names::Group,
    stem: &str,
    file: &ImageFile,
    alone: bool,
) -> PassProposal {
    let title = match (group.layer.as_str(), &part.name) {
        ("", Some(name)) => name.as_str(),
        ("", None) => "",
        (layer, _) => layer,
    };
    let count = group.channels.len();
    let suffix = if count == 1 { group.components.first().map(String::as_str) } else { None };
    let by_title = hashed(part, group).or_else(|| spoken(title, suffix, count));
    // A file of one pass may say what it is in its name only; what is inside several passes their own names say.
    let lone = title.is_empty() && alone;
    // A file's name outweighs no colours: a plane that comes three times over is grey.
    let plane = |role: &Role| role.channels() != Some(1) || count == 1 || grey(part, group);
    let by_file = || spoken_by_file(stem, count).filter(|(role, _)| lone && plane(role));
    let spoken = by_title.or_else(by_file);
    let seen = values::guess(part, &group.channels, file);
    let main = title.is_empty() && count >= 3 && names::is_colour(group);
    let luminance = lone && suffix == Some("Y") && count == 1;
    let (role, confidence, reason) = match (spoken, seen) {
        (Some((Role::Other, word)), _) => (Role::Other, BY_NAME, format!("its name says “{word}”")),
        (Some((role, word)), Some(v)) if v.role == role => {
            (role, BY_BOTH, format!("its name says “{word}”, and {}", v.reason))
        }
        (Some((role, word)), _) => (role, BY_NAME, format!("its name says “{word}”")),
        (None, Some(v)) if luminance && v.confidence < 0.7 => {
            (Role::Beauty, 0.6, "the file's only channel, its luminance".into())
        }
        (None, None) if luminance => (Role::Beauty, 0.6, "the file's only channel, its luminance".into()),
        (None, Some(v)) if !main || v.confidence > 0.85 => (v.role, v.confidence, v.reason),
        _ if main => (Role::Beauty, 0.9, "the file's main colour channels".into()),
        (None, Some(v)) => (v.role, v.confidence, v.reason),
        _ if suffix.is_some_and(|s| s.eq_ignore_ascii_case("A")) => {
            (Role::Alpha, 0.8, "a lone A channel".into())
        }
        _ => (Role::Other, 0.0, "neither its name nor its values say".into()),
    };
    let kept = role.channels().map_or(count, |n| n.min(count));
    let name = match (title, suffix) {
        ("", Some(s)) if count == 1 && s != "Y" => s.to_owned(),
        ("", _) if role == Role::Other => stem.to_owned(),
        ("", _) => role.label().to_owned(),
        (t, _) => t.to_owned(),
    };
    PassProposal { name, part: index, channels: group.channels[..kept].to_vec(), role, confidence, reason }
}

/// Whether the colours of a group are equal: a single plane three times over.
fn grey(part: &Part, group: &names::Group) -> bool {
    let planes: Vec<_> =
        group.channels.iter().take(3).filter_map(|n| part.channel(n)).map(|c| &c.samples).collect();
    planes.windows(2).all(|p| {
        let step = (p[0].len() / 4096).max(1);
        (0..p[0].len())
            .step_by(step)
            .filter_map(|i| Some((p[0].get(i)?, p[1].get(i)?)))
            .all(|(a, b)| (a - b).abs() <= 0.02 * (a.abs() + b.abs()) + 1e-3 || (a.is_nan() && b.is_nan()))
    })
}

/// What a file's name says of its one pass: its last word that is no take, version or side. Words before it belong to
/// what is in the picture ("slow_motion_plate").
fn spoken_by_file(stem: &str, count: usize) -> Option<(Role, String)> {
    let words = names::single_words(stem);
    let end = words.iter().rposition(|w| !ASIDE.contains(&w.as_str()))?;
    let last = &words[end];
    if is_light(last) && count >= 3 {
        return Some((Role::Other, last.clone()));
    }
    let joined = end.checked_sub(1).map(|before| words[before].clone() + last);
    let said: Vec<String> = joined.into_iter().chain([last.clone()]).collect();
    let fits = |role: Role| role != Role::Other && (role != Role::Alpha || count == 1);
    spoken_in(&said, count).filter(|(role, _)| fits(*role))
}

/// A layer that the header lists as hashed IDs.
fn hashed(part: &Part, group: &names::Group) -> Option<(Role, String)> {
    manifest::is_listed(part, &group.layer).then(|| (Role::HashedId, "cryptomatte, in the header".to_owned()))
}

/// Ranks of hashed IDs come in several layers ("object00", "object01" …): one pass of all of them.
fn join_ranks(list: &mut Vec<PassProposal>) {
    let stem = |name: &str| name.trim_end_matches(|c: char| c.is_ascii_digit()).to_owned();
    let mut ranks: Vec<PassProposal> = Vec::new();
    list.retain(|p| {
        let rank = p.role == Role::HashedId && p.channels.len() % 2 == 0;
        if rank {
            ranks.push(p.clone());
        }
        !rank
    });
    ranks.sort_by(|a, b| (a.part, &a.name).cmp(&(b.part, &b.name)));
    for mut rank in ranks {
        let name = stem(&rank.name);
        match list.iter_mut().find(|p| p.role == Role::HashedId && p.part == rank.part && p.name == name) {
            Some(p) => p.channels.append(&mut rank.channels),
            None => list.push(PassProposal { name, ..rank }),
        }
    }
}

/// The role that a layer's or a single channel's name speaks for, and the word that does.
fn spoken(title: &str, suffix: Option<&str>, count: usize) -> Option<(Role, String)> {
    // The component's own name counts where it is more than a letter of a set, or nothing else speaks.
    let own = suffix.filter(|s| s.chars().count() > 1).and_then(|s| spoken_in(&names::words(s), count));
    own.or_else(|| spoken_in(&names::words(title), count))
        .or_else(|| suffix.and_then(|s| spoken_in(&names::words(s), count)))
}

fn spoken_in(words: &[String], count: usize) -> Option<(Role, String)> {
    if let Some(word) = words.iter().find(|w| NO_ROLE.contains(&w.as_str())) {
        return Some((Role::Other, word.clone()));
    }
    // A part of the diffuse light ("diffuse direct") or its colour alone is not all of it.
    let part = |w: &String| LIGHT.contains(&w.as_str()) || DIFFUSE_PART.contains(&w.as_str());
    let in_part = words.iter().any(part);
    // The last word speaks first: "hero_beauty_depth" is a depth.
    words.iter().find_map(|w| {
        WORDS
            .iter()
            .filter(|(role, _)| *role != Role::Diffuse || !in_part)
            .find(|(role, known)| fits(*role, count) && known.contains(&w.as_str()))
            .map(|(r, _)| (*r, w.clone()))
    })
}

/// Whether a role can be in so many channels: single planes may come three times over as grey, directions
/// with an alpha, vectors with a third plane or a second pair.
fn fits(role: Role, count: usize) -> bool {
    match role.channels() {
        None => role == Role::HashedId && count >= 2 && count.is_multiple_of(2),
        Some(1) => count == 1 || (count >= 3 && role != Role::Alpha),
        Some(2) => (2..=4).contains(&count),
        Some(3) if matches!(role, Role::Albedo | Role::Diffuse | Role::Clay) => {
            count == 3 || count == 4 || count == 1
        }
        Some(3) => count == 3 || count == 4,
        Some(_) => count >= 3,
    }
}
