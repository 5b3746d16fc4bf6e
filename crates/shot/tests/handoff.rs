//! Files that are handed off: layers that add up, and what general-purpose libraries read of them (Pillow, tifffile, the
//! OpenEXR library; what they read of `fixtures/written` and the script that asked them lie beside it).
#![allow(clippy::unwrap_used, clippy::panic)]

use crate::support::{engine, engine_with};
use jugata_core::{Raster, Role, Scale, Window};
use jugata_exchange::coded;
use jugata_exchange::{ImageFile, Limits, read};
use jugata_shot::document::{FrameRange, NamedMatte, Step};
use jugata_shot::engine::{CacheSizes, Engine, Request, Target};
use jugata_shot::handoff::{FileForm, Format, Packing, With, encode, whole};
use jugata_shot::lamp::Lamp;
use jugata_shot::made::{MadeKind, Pattern};
use jugata_shot::parts::DepthPart;
use jugata_shot::steps::{Distance, Exposure, Place, Relight, StepKind, Surround};
use jugata_shot::{Element, Limit, Shot};
use serde_json::Value;
use std::path::PathBuf;

fn named(file: &ImageFile, layer: &str, channel: &str) -> Vec<f32> {
    let name = if layer.is_empty() { channel.to_owned() } else { format!("{layer}.{channel}") };
    let part = &file.parts[0];
    let found = part.channel(&name).unwrap_or_else(|| {
        let all: Vec<&str> = part.channels.iter().map(|c| c.name.as_str()).collect();
        panic!("no {name} among {all:?}")
    });
    found.samples.wide().into_owned()
}

fn layers(file: &ImageFile) -> Vec<String> {
    let of = |name: &str| name.rsplit_once('.').map_or("", |(layer, _)| layer).to_owned();
    let mut all: Vec<String> = file.parts[0].channels.iter().map(|c| of(&c.name)).collect();
    all.sort_unstable();
    all.dedup();
    all
}

fn written(engine: &Engine, shot: &Shot, form: &FileForm) -> ImageFile {
    let request = Request::frame(shot, Target::Shot, Scale::FULL);
    read(&encode(engine, shot, &request, form).unwrap(), &Limits::default()).unwrap()
}

fn lit(steps: Vec<StepKind>) -> (Engine, Shot) {
    let (engine, mut shot) = engine();
    let element = &mut shot.elements[0];
    element.steps = steps.into_iter().enumerate().map(|(i, does)| Step::new(i as u32 + 1, does)).collect();
    (engine, shot)
}

fn lamps() -> StepKind {
    let second = Lamp { id: 2, toward: [-0.8, 0.3, 0.5], intensity: 2.0, ..Lamp::new() };
    let dark = Lamp { id: 3, on: false, ..Lamp::new() };
    Relight { lamps: vec![Lamp::new(), second, dark], ..Relight::default() }.into()
}

#[test]
fn each_lamp_and_each_light_is_a_layer_and_all_add_up_to_the_result() {
    let (engine, shot) = lit(vec![
        lamps(),
        Surround::default().into(),
        // What bends the light afterwards goes into the rest, so that they add up all the same.
        Exposure { stops: 0.7 }.into(),
        Distance { contrast: 1.4, ..Distance::default() }.into(),
    ]);
    for format in [Format::ExrHalf, Format::ExrFloat] {
        let file = written(&engine, &shot, &FileForm { with: vec![With::Lights], ..format.into() });
        let lights = ["light_1_Relight_1", "light_1_Relight_2", "light_2_Surroundings"];
        let title = jugata_shot::StepKind::from(Surround::default()).title().replace(' ', "_");
        let lights = lights.map(|l| l.replace("Surroundings", &title));
        let all = layers(&file);
        assert!(lights.iter().all(|l| all.contains(l)) && all.len() == 5, "{all:?}");
        for channel in ["R", "G", "B"] {
            let result = named(&file, "", channel);
            let mut sum = named(&file, "rest", channel);
            let rest = sum.clone();
            for light in &lights {
                let one = named(&file, light, channel);
                assert!(one.iter().any(|v| v.abs() > 0.01), "{light} gives something");
                sum.iter_mut().zip(one).for_each(|(s, v)| *s += v);
            }
            for i in 0..sum.len() {
                // One code of half float at the size of what was added, or what single precision leaves.
                let size = result[i].abs().max(rest[i].abs()).max(2f32.powi(-14));
                let code = if format == Format::ExrHalf { 2f32.powi(-10) } else { 1e-6 } * size;
                assert!((sum[i] - result[i]).abs() <= code, "{channel} {i}: {} {}", sum[i], result[i]);
            }
        }
    }
}

#[test]
fn passes_mattes_and_the_untouched_picture_go_along_under_their_names() {
    let (engine, mut shot) = lit(vec![lamps()]);
    let near = Limit::of(DepthPart { near: 1.0, far: 6.0, near_soft: 0.1, far_soft: 0.1 });
    shot.elements[0].mattes = vec![NamedMatte { id: 1, name: "What is near".into(), matte: near }];
    let with = vec![With::Untouched, With::Passes, With::Mattes];
    let file = written(&engine, &shot, &FileForm { with, packing: Packing::Piz, ..Format::ExrFloat.into() });
    let all = layers(&file);
    assert!(all.contains(&"What_is_near".into()) && all.contains(&"untouched".into()), "{all:?}");
    // The file reaches as far as the picture does, beyond the frame.
    let all_of_it = Request::frame(&shot, Target::Shot, Scale::FULL);
    let all_of_it = whole(&engine, &shot, &all_of_it, Format::ExrFloat).unwrap();
    let of = |target| engine.evaluate(&shot, &Request { target, ..all_of_it.clone() }).unwrap().raster;
    assert_eq!(named(&file, "untouched", "G"), of(Target::Untouched { element: 1 }).plane(1));
    assert_eq!(named(&file, "What_is_near", "A"), of(Target::Matte { element: 1, matte: 1 }).plane(0));
    let depth = shot.elements[0].pass_of(Role::Depth).unwrap();
    assert_eq!(named(&file, &depth.name, "Z"), of(Target::Pass { element: 1, pass: depth.id }).plane(0));
    // What lies under a picture that was moved is moved along.
    let mut moved = shot.clone();
    moved.elements[0].steps.push(Step::new(9, Place { moved: [3.0, 2.0], ..Place::default() }.into()));
    let with = vec![With::Passes, With::Mattes];
    let file = written(&engine, &moved, &FileForm { with, ..Format::ExrFloat.into() });
    let data = file.parts[0].data_window;
    for (target, layer, channel) in [
        (Target::Matte { element: 1, matte: 1 }, "What_is_near", "A"),
        (Target::Pass { element: 1, pass: depth.id }, depth.name.as_str(), "Z"),
    ] {
        let (own, written) = (of(target), named(&file, layer, channel));
        for (x, y) in [(10, 10), (21, 13), (30, 18)] {
            let there = (y + 2 - data.y) as usize * data.width as usize + (x + 3 - data.x) as usize;
            let [kept, placed] = [own.sample(0, x, y).unwrap(), written[there]];
            assert!(kept == placed || (kept - placed).abs() < 1e-6, "{layer} {x} {y}: {kept} {placed}");
        }
    }
    // Another element brings its name along; two of one name are told apart.
    shot.elements[0].name = "Orrery".into();
    shot.elements.push(Element::made(2, "Orrery".into(), MadeKind::Pattern(Pattern::default())));
    let file = written(&engine, &shot, &FileForm { with: vec![With::Untouched], ..Format::ExrFloat.into() });
    assert_eq!(layers(&file), ["", "Orrery_untouched", "Orrery_untouched_2"]);
}

#[test]
fn a_file_brings_the_camera_along_unless_the_picture_was_moved() {
    let (engine, mut shot) = lit(vec![]);
    // A quarter turn about the view axis and a step aside.
    let world = [0.0, -1.0, 0.0, 2.0, 1.0, 0.0, 0.0, -3.0, 0.0, 0.0, 1.0, 5.0];
    let told = shot.elements[0].camera.map(|c| jugata_core::Camera { world: Some(world), ..c });
    shot.elements[0].camera = told;
    let camera = |shot: &Shot| {
        jugata_exchange::camera_attributes::camera(&written(&engine, shot, &Format::ExrHalf.into()))
    };
    let (told, read) = (told.unwrap(), camera(&shot).unwrap());
    assert!((read.focal / told.focal - 1.0).abs() < 1e-5, "{read:?}");
    assert_eq!((read.centre_x, read.centre_y, read.world), (told.centre_x, told.centre_y, told.world));
    shot.elements[0].steps = vec![Step::new(1, Place::default().into())];
    assert!(camera(&shot).is_none());
}

#[test]
fn layers_that_need_too_much_memory_are_refused_in_a_sentence() {
    let sizes = CacheSizes { at_once: 3 << 20, ..CacheSizes::default() };
    let (engine, shot) = engine_with(sizes);
    let request = Request::frame(&shot, Target::Shot, Scale::FULL);
    let form = |with| FileForm { with, ..Format::ExrHalf.into() };
    assert!(encode(&engine, &shot, &request, &form(vec![With::Untouched])).is_ok());
    let refused = encode(&engine, &shot, &request, &form(vec![With::Passes])).unwrap_err().to_string();
    assert!(
        refused.contains("more than the 3 MiB that are allowed at once; leave some of them out"),
        "{refused}"
    );
}

/// A picture and data small enough to be read by eye, with what single and half precision must keep apart.
fn tiny() -> (Engine, Shot) {
    let (engine, _) = engine();
    let pattern = Element::made(1, "pattern".into(), MadeKind::Pattern(Pattern::default()));
    let shot = Shot {
        format: jugata_shot::document::FORMAT,
        name: "tiny".into(),
        display: Window::new(-2, 1, 9, 5),
        frames: Some(FrameRange { first: 7, last: 9 }),
        rate: 23.976,
        elements: vec![pattern],
        drives: Vec::new(),
    };
    (engine, shot)
}

fn folder() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures/written")
}

fn forms() -> Vec<(&'static str, FileForm)> {
    let packed = |packing| FileForm { packing, ..Format::ExrHalf.into() };
    vec![
        ("float.exr", Format::ExrFloat.into()),
        ("layers.exr", FileForm { with: vec![With::Untouched], ..Format::ExrFloat.into() }),
        ("zip.exr", packed(Packing::Zip)),
        ("zip_line.exr", packed(Packing::ZipLine)),
        ("piz.exr", packed(Packing::Piz)),
        ("runs.exr", packed(Packing::Runs)),
        ("plain.exr", packed(Packing::Plain)),
        ("eight.png", Format::Png8.into()),
        ("sixteen.png", Format::Png16.into()),
        ("sixteen.tif", Format::Tiff16.into()),
        ("float.tif", Format::TiffFloat.into()),
        ("proof.jpg", Format::Jpeg.into()),
    ]
}

/// `JUGATA_UPDATE=1` writes the files; `fixtures/written/read.py` then asks the libraries.
#[test]
fn other_libraries_read_what_was_meant() {
    let (engine, shot) = tiny();
    let request = Request::frame(&shot, Target::Shot, Scale::FULL);
    let picture = engine.evaluate(&shot, &request).unwrap().raster;
    let update = std::env::var_os("JUGATA_UPDATE").is_some();
    if update {
        std::fs::create_dir_all(folder()).unwrap();
    }
    let seen: Value = std::fs::read(folder().join("read.json"))
        .map(|text| serde_json::from_slice(&text).unwrap())
        .unwrap_or_default();
    for (name, form) in forms() {
        let bytes = encode(&engine, &shot, &request, &form).unwrap();
        if update {
            std::fs::write(folder().join(name), bytes).unwrap();
            continue;
        }
        assert!(std::fs::read(folder().join(name)).unwrap() == bytes, "{name} is written otherwise now");
        let want = meant(&picture, &form);
        let channels = seen[name]["channels"].as_array().unwrap();
        assert_eq!(channels.len(), want.len(), "{name}");
        // The nearest code may lie half a code off; a proof loses a little more.
        let near = match form.format {
            Format::ExrFloat | Format::TiffFloat => 0.0,
            Format::ExrHalf => 2f32.powi(-11),
            Format::Png16 | Format::Tiff16 => 0.51 / 65_535.0,
            Format::Png8 => 0.51 / 255.0,
            Format::Jpeg => 12.0 / 255.0,
        };
        for (c, (got, want)) in channels.iter().zip(&want).enumerate() {
            let got: Vec<f32> = serde_json::from_value(got.clone()).unwrap();
            let apart = got.iter().zip(want).map(|(g, w)| (g - w).abs()).fold(0.0, f32::max);
            assert!(got.len() == want.len() && apart <= near, "{name}, channel {c}: {apart}");
        }
        if name.ends_with(".exr") {
            let about = &seen[name]["about"];
            assert_eq!(about["display"], serde_json::json!([[-2, 1], [6, 5]]), "{name}");
            assert_eq!((&about["counter"], &about["rate"]), (&7.into(), &23.976.into()), "{name}");
            // ITU-R BT.709-6, with the white of D65.
            let rec709 = serde_json::json!([0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329]);
            assert_eq!(about["chromaticities"], rec709, "{name}");
        }
    }
}

/// Channels in the order in which the script tells them.
fn meant(picture: &Raster, form: &FileForm) -> Vec<Vec<f32>> {
    let codes = |c: &coded::Coded| {
        (0..c.planes).map(|p| c.samples.iter().skip(p).step_by(c.planes).copied().collect()).collect()
    };
    match form.format {
        Format::Png8 | Format::Png16 | Format::Tiff16 => codes(&coded::picture(picture).unwrap()),
        Format::Jpeg => codes(&coded::over_black(picture).unwrap()),
        _ => {
            let own: Vec<Vec<f32>> = (0..4).map(|c| picture.plane(c).to_vec()).collect();
            if form.with.is_empty() { own } else { [own.clone(), own].concat() }
        }
    }
}

#[test]
fn depth_and_normals_are_coded_for_files_of_whole_numbers() {
    let (engine, shot) = lit(vec![]);
    for (role, planes) in [(Role::Depth, 1), (Role::Normal, 3)] {
        let pass = shot.elements[0].pass_of(role).unwrap().id;
        let request = Request::frame(&shot, Target::Pass { element: 1, pass }, Scale::FULL);
        for format in [Format::Png8, Format::Png16, Format::Tiff16, Format::TiffFloat, Format::Jpeg] {
            let file = read(&encode(&engine, &shot, &request, &format.into()).unwrap(), &Limits::default());
            let file = file.unwrap();
            let count = if file.parts[0].channels.len() == 1 { 1 } else { 3 };
            assert_eq!(count, planes, "{role:?} as {format:?}");
            // The nearest is white, and what faces the viewer has the most blue.
            let last = if planes == 1 { "Y" } else { "B" };
            let last = file.parts[0].channel(last).unwrap().samples.wide().into_owned();
            let most = last.iter().copied().filter(|v| v.is_finite()).fold(0.0f32, f32::max);
            let coded = format != Format::TiffFloat;
            assert!(!coded || (most <= 1.0 && most > 0.9), "{role:?} as {format:?}: {most}");
        }
    }
}
