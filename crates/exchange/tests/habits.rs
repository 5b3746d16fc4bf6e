//! Channel names of many habits, and names that say nothing, where the values must decide.
#![allow(clippy::unwrap_used)]

use jugata_core::colour::ColourSpace;
use jugata_core::{Raster, Role, SampleKind, Window};
use jugata_exchange::file::{CameraHeader, Channel, FileFormat};
use jugata_exchange::roles::propose;
use jugata_exchange::{ImageFile, Part};
use std::sync::Arc;

const W: Window = Window::of_size(32, 24);

/// A part's name and its channels with their samples.
type Made<'n> = (Option<&'n str>, Vec<(String, Vec<f32>)>);

fn file(parts: &[Made<'_>]) -> ImageFile {
    let part = |(name, channels): &Made<'_>| Part {
        name: name.map(str::to_owned),
        data_window: W,
        compression: String::new(),
        lossy: None,
        missing: Vec::new(),
        channels: channels
            .iter()
            .map(|(n, v)| Channel {
                name: n.clone(),
                kind: SampleKind::Float,
                samples: Arc::new(v.clone().into()),
            })
            .collect(),
        camera: CameraHeader::default(),
        attributes: Vec::new(),
    };
    ImageFile {
        format: FileFormat::Exr,
        colour: ColourSpace::Linear,
        primaries: None,
        gamma: None,
        alpha: Default::default(),
        notes: Vec::new(),
        display_window: W,
        pixel_aspect: 1.0,
        parts: parts.iter().map(part).collect(),
    }
}

/// Names only: the samples are like nothing in particular.
fn named(part: Option<&str>, channels: &[String]) -> ImageFile {
    let grey = |c: usize| (0..W.area()).map(|i| 0.2 + 0.3 * ((i * 7 + c * 13) % 11) as f32 / 11.0).collect();
    file(&[(part, channels.iter().enumerate().map(|(c, n)| (n.clone(), grey(c))).collect())])
}

/// A role with layers that mean it, and sets of components that they come with.
type Habit = (Role, &'static [&'static str], &'static [&'static [&'static str]]);

/// Spellings of a role, as layer and components.
const HABITS: &[Habit] = &[
    (
        Role::Depth,
        &[
            "depth",
            "Depth",
            "zdepth",
            "ZDepth",
            "z",
            "zbuffer",
            "camera_depth",
            "depth_raw",
            "Z_pass",
            "depthPass",
            "distance",
        ],
        &[&["Z"], &["R"], &["Y"], &["V"], &["R", "G", "B"]],
    ),
    (
        Role::Normal,
        &[
            "N",
            "normal",
            "Normals",
            "nrm",
            "NORM",
            "worldNormal",
            "world_normals",
            "shading_normal",
            "N_cam",
            "normal_pass",
        ],
        &[&["X", "Y", "Z"], &["R", "G", "B"], &["x", "y", "z"], &["r", "g", "b"], &["R", "G", "B", "A"]],
    ),
    (
        Role::Position,
        &["P", "position", "Pos", "Pworld", "P_world", "worldPosition", "point_world", "WPOS"],
        &[&["X", "Y", "Z"], &["R", "G", "B"], &["x", "y", "z"]],
    ),
    (
        Role::Rest,
        &["Pref", "rest", "restP", "rest_position", "Pobject"],
        &[&["X", "Y", "Z"], &["R", "G", "B"]],
    ),
    (
        Role::Uv,
        &["uv", "UV", "UVs", "st", "texCoord", "texture_coordinates", "uv_pass"],
        &[&["U", "V"], &["R", "G", "B"], &["R", "G"], &["X", "Y"], &["u", "v"], &["S", "T"]],
    ),
    (
        Role::Motion,
        &[
            "motion",
            "velocity",
            "motionVector",
            "motion_vectors",
            "MV",
            "mvec",
            "Vector",
            "vel",
            "motionPass",
            "optical_flow",
        ],
        &[&["X", "Y"], &["R", "G"], &["X", "Y", "Z"], &["R", "G", "B", "A"]],
    ),
    (
        Role::ObjectId,
        &["objectID", "object_id", "objID", "ID", "id", "material_id", "matID", "IndexOB"],
        &[&["id"], &["R"], &["X"], &["R", "G", "B"]],
    ),
    (
        Role::Albedo,
        &[
            "albedo",
            "baseColor",
            "base_colour",
            "diffuse_color",
            "rawColour",
            "diffuse_filter",
            "DiffCol",
            "surface_color",
            "diffuse_albedo",
        ],
        &[&["R", "G", "B"], &["red", "green", "blue"], &["r", "g", "b"]],
    ),
    (
        Role::Shadow,
        &["AO", "ao", "shadow", "ambient_occlusion", "Shadows"],
        &[&["R", "G", "B"], &["Y"], &["R"]],
    ),
    (Role::Clay, &["clay"], &[&["R", "G", "B"]]),
    (Role::Height, &["height", "bump", "displacement", "Disp"], &[&["Y"], &["R"]]),
    (Role::Alpha, &["matte", "mask", "coverage", "opacity"], &[&["A"], &["Y"], &["R"]]),
    (Role::StMap, &["STmap", "st_map", "distortion_map"], &[&["R", "G"], &["R", "G", "B"], &["U", "V"]]),
    (
        Role::Beauty,
        &["beauty", "RGBA", "combined", "master_beauty", "rgb", "Final"],
        &[&["R", "G", "B"], &["R", "G", "B", "A"], &["r", "g", "b", "a"]],
    ),
];

#[test]
fn every_habit_is_understood() {
    let mut wrong = Vec::new();
    let mut tried = 0;
    for (role, layers, sets) in HABITS {
        for layer in *layers {
            // Bare, with a take, a view or another layer before, with numbers behind, in capitals.
            let dressed = [
                (*layer).to_owned(),
                format!("hero.{layer}"),
                format!("left.hero.{layer}"),
                format!("take2_{layer}"),
                format!("{layer}_01"),
                format!("{layer}.v003"),
                layer.to_uppercase(),
                format!("{layer}_pass"),
                format!("sh010.{layer}"),
                format!("{layer}_left"),
                format!("Layer 1.{layer}"),
                format!("{layer}_raw"),
                format!("aov.{layer}"),
            ];
            for (layer, set) in dressed.iter().flat_map(|l| sets.iter().map(move |s| (l, s))) {
                let dotted: Vec<String> = set.iter().map(|c| format!("{layer}.{c}")).collect();
                let lined: Vec<String> = set.iter().map(|c| format!("{layer}_{c}")).collect();
                let bare: Vec<String> = set.iter().map(|c| (*c).to_owned()).collect();
                for (part, channels) in
                    [(None, &dotted), (Some("main"), &dotted), (None, &lined), (Some(layer.as_str()), &bare)]
                {
                    tried += 1;
                    let got = propose(&named(part, channels), "shot");
                    if got.len() != 1 || got[0].role != *role {
                        let got: Vec<_> = got.iter().map(|p| (p.role, p.channels.join(" "))).collect();
                        wrong.push(format!("{part:?} {channels:?}: wanted {role:?}, got {got:?}"));
                    }
                }
            }
        }
    }
    let shown: Vec<&String> = wrong.iter().take(40).collect();
    assert!(wrong.is_empty(), "{} of {tried}: {shown:#?}", wrong.len());
    assert!(tried > 2 * 8876, "{tried}");
    println!("{tried} spellings");
}

#[test]
fn one_file_mixes_many_habits() {
    let names = [
        "R",
        "G",
        "B",
        "A",
        "Z",
        "NX",
        "NY",
        "NZ",
        "Pworld.x",
        "Pworld.y",
        "Pworld.z",
        "uv:U",
        "uv:V",
        "diffuse.R",
        "diffuse.G",
        "diffuse.B",
        "ID",
    ];
    let got: Vec<(Role, String)> = propose(&named(None, &names.map(str::to_owned)), "shot")
        .into_iter()
        .map(|p| (p.role, p.channels.join(" ")))
        .collect();
    assert_eq!(
        got,
        [
            (Role::Beauty, "R G B A".into()),
            (Role::Depth, "Z".into()),
            (Role::Normal, "NX NY NZ".into()),
            (Role::Position, "Pworld.x Pworld.y Pworld.z".into()),
            (Role::Uv, "uv:U uv:V".into()),
            (Role::ObjectId, "ID".into()),
            (Role::Other, "diffuse.R diffuse.G diffuse.B".into()),
        ]
    );
}

#[test]
fn a_files_own_name_speaks_where_its_channels_do_not() {
    for (stem, channels, role) in [
        ("orrery_depth.0001", &["Y"][..], Role::Depth),
        ("orrery_normals", &["R", "G", "B"], Role::Normal),
        ("hero-albedo-v2", &["R", "G", "B"], Role::Albedo),
        ("orrery", &["R", "G", "B"], Role::Beauty),
    ] {
        let channels: Vec<String> = channels.iter().map(|c| (*c).to_owned()).collect();
        assert_eq!(propose(&named(None, &channels), stem)[0].role, role, "{stem}");
    }
}

/// Roles of a file of nothing in particular, in the order of its channels.
fn roles_of(part: Option<&str>, channels: &[&str], stem: &str) -> Vec<(Role, String)> {
    let channels: Vec<String> = channels.iter().map(|c| (*c).to_owned()).collect();
    let list = propose(&named(part, &channels), stem);
    list.into_iter().map(|p| (p.role, p.channels.join(" "))).collect()
}

#[test]
fn a_files_name_never_outweighs_what_is_in_it() {
    let whole = ["R", "G", "B", "A", "depth.Z", "N.X", "N.Y", "N.Z"];
    for stem in ["depth_take3", "cryptomatte_v2", "normals", "object_id"] {
        assert_eq!(roles_of(None, &whole, stem)[0], (Role::Beauty, "R G B A".into()), "{stem}");
    }
    for stem in ["slow_motion_plate", "nozzle", "puzzle", "depth_of_the_mine"] {
        assert_eq!(roles_of(None, &["R", "G", "B"], stem)[0].0, Role::Beauty, "{stem}");
    }
    assert_eq!(roles_of(None, &["Y"], "take3")[0].0, Role::Beauty, "luminance alone is a picture");
    assert_eq!(roles_of(None, &["Y"], "take3_depth")[0].0, Role::Depth);
}

#[test]
fn the_only_colour_of_a_file_is_its_picture_whatever_it_is_called() {
    for part in ["C", "Part 0", "flat", "left", "rgba_main"] {
        assert_eq!(roles_of(Some(part), &["R", "G", "B", "A"], "take3")[0].0, Role::Beauty, "{part}");
    }
    for layer in ["C", "flat", "left"] {
        let channels = ["R", "G", "B"].map(|c| format!("{layer}.{c}"));
        let channels: Vec<&str> = channels.iter().map(String::as_str).collect();
        assert_eq!(
            roles_of(None, &[&channels[..], &["depth.Z"]].concat(), "take3")[0].0,
            Role::Beauty,
            "{layer}"
        );
    }
}

#[test]
fn a_piece_of_a_word_is_no_role() {
    let rgb = |layer: &str| ["R", "G", "B"].map(|c| format!("{layer}.{c}"));
    for (layer, role) in [
        ("AOPass", Role::Shadow),
        ("tangent", Role::Other),
        ("ZBack", Role::Other),
        ("nozzle", Role::Other),
        ("slow_motion_plate", Role::Other),
        ("diffuse", Role::Other),
    ] {
        let own = rgb(layer);
        let mut channels: Vec<&str> = own.iter().map(String::as_str).collect();
        channels.extend(["R", "G", "B"]);
        let found = roles_of(None, &channels, "take3");
        let of = found.iter().find(|f| f.1.starts_with(layer)).unwrap();
        assert_eq!(of.0, role, "{layer}: {found:?}");
    }
    // Three mattes in one layer are three.
    let own = rgb("puzzle matte");
    let channels: Vec<&str> = own.iter().map(String::as_str).chain(["R", "G", "B"]).collect();
    let found = roles_of(None, &channels, "take3");
    assert_eq!(found.iter().filter(|f| f.0 == Role::Alpha).count(), 3, "{found:?}");
}

#[test]
fn numbered_components_are_settled_by_name_or_by_values() {
    let names = ["R", "G", "B", "N.0", "N.1", "N.2", "P.0", "P.1", "P.2", "uv.0", "uv.1", "id.0"];
    let found = roles_of(None, &names, "take3");
    let want = [
        (Role::Beauty, "R G B"),
        (Role::Normal, "N.0 N.1 N.2"),
        (Role::Position, "P.0 P.1 P.2"),
        (Role::Uv, "uv.0 uv.1"),
        (Role::ObjectId, "id.0"),
    ];
    assert_eq!(found, want.map(|(r, c)| (r, c.to_owned())));
}

fn plane(of: impl Fn(f32, f32) -> f32) -> Vec<f32> {
    Raster::from_fn(W, 1, |_, x, y| of(x as f32, y as f32)).data().to_vec()
}

#[test]
fn values_decide_where_names_say_nothing() {
    let n = |c: usize, coded: bool| {
        plane(move |x, y| {
            let v = glam::Vec3::new((x - 16.0) / 24.0, (12.0 - y) / 24.0, 0.8).normalize()[c];
            if coded { 0.5 * v + 0.5 } else { v }
        })
    };
    let far = |x: f32, y: f32| if x < 4.0 { f32::INFINITY } else { 5.0 + 0.1 * x + 0.02 * y };
    let cases: Vec<(Role, Vec<Vec<f32>>)> = vec![
        (Role::Normal, (0..3).map(|c| n(c, false)).collect()),
        (Role::Normal, (0..3).map(|c| n(c, true)).collect()),
        (Role::Depth, vec![plane(far)]),
        (Role::ObjectId, vec![plane(|x, y| (x / 8.0).floor() + 4.0 * (y / 12.0).floor())]),
        (
            Role::Alpha,
            vec![plane(|x, _| {
                if x < 10.0 {
                    0.0
                } else if x == 10.0 {
                    0.4
                } else {
                    1.0
                }
            })],
        ),
        (Role::StMap, vec![plane(|x, _| (x + 0.5) / 32.0), plane(|_, y| 1.0 - (y + 0.5) / 24.0)]),
        (
            Role::Uv,
            vec![
                plane(|x, _| (x * 3.0 / 32.0).fract().max(0.01)),
                plane(|_, y| (y * 2.0 / 24.0).fract().max(0.01)),
            ],
        ),
        (Role::Motion, vec![plane(|x, _| (x - 16.0) * 0.3), plane(|_, y| (y - 12.0) * 0.2)]),
        (
            Role::Position,
            vec![
                plane(|x, _| (x - 16.0) * 0.3),
                plane(|_, y| (12.0 - y) * 0.3),
                plane(|x, y| -6.0 - 0.1 * x - 0.03 * y),
            ],
        ),
    ];
    for (role, planes) in cases {
        let count = planes.len();
        let channels =
            planes.into_iter().enumerate().map(|(c, v)| (format!("q7.{}", ["R", "G", "B"][c]), v)).collect();
        let got = propose(&file(&[(None, channels)]), "unknown");
        let first = &got[0];
        // Two components of colour are one pass as well.
        assert_eq!((first.role, first.channels.len()), (role, count), "{got:?}");
        assert!(first.confidence > 0.4 && first.confidence < 0.95 && !first.reason.is_empty());
    }
}

#[test]
fn name_and_values_together_are_surest() {
    let unit = |c: usize| plane(move |x, y| glam::Vec3::new(x - 16.0, y - 12.0, 9.0).normalize()[c]);
    let with = |name: &str| {
        let channels =
            ["X", "Y", "Z"].iter().enumerate().map(|(c, s)| (format!("{name}.{s}"), unit(c))).collect();
        propose(&file(&[(None, channels)]), "shot")[0].confidence
    };
    assert!(with("normal") > with("q7") && with("normal") > 0.95);
}
