//! OpenEXR against the OpenEXR project's own library (fixtures and their script: tests/fixtures/make.py).
#![allow(clippy::unwrap_used)]

use jugata_core::{Raster, Role, Window};
use jugata_exchange::camera_attributes::camera;
use jugata_exchange::coded::Bits;
use jugata_exchange::exr_write::{CameraOut, Depth, NamedLayer, write};
use jugata_exchange::file::SampleKind;
use jugata_exchange::{ExchangeError, Limits, exr_read, inspect};
use proptest::prelude::*;
use std::path::PathBuf;

fn fixture(name: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures").join(name)
}

fn bytes(name: &str) -> Vec<u8> {
    std::fs::read(fixture(name)).unwrap()
}

fn read(bytes: &[u8]) -> Result<jugata_exchange::ImageFile, ExchangeError> {
    exr_read::read(bytes, &Limits::default())
}

/// The formula of make.py.
fn value(channel: i32, x: i32, y: i32) -> f32 {
    (7 * x + 3 * y + 5 * channel).rem_euclid(64) as f32
}

const DATA: Window = Window::new(-5, 3, 37, 23);

fn follows_the_formula(samples: &[f32], channel: i32, scale: f32) {
    let want = Raster::from_fn(DATA, 1, |_, x, y| value(channel, x, y) * scale);
    assert_eq!(samples, want.data());
}

#[test]
fn every_lossless_compression_of_the_library_is_read_bit_for_bit() {
    for name in ["none", "rle", "zips", "zip", "piz", "tiled"] {
        let file = read(&bytes(&format!("library_{name}.exr"))).unwrap();
        assert_eq!(file.display_window, Window::of_size(32, 32), "{name}");
        let part = &file.parts[0];
        assert_eq!(part.data_window, DATA, "{name}");
        let kinds: Vec<_> = part.channels.iter().map(|c| (c.name.as_str(), c.kind)).collect();
        use SampleKind::{Float, Half, Uint};
        let want =
            [("A", Half), ("B", Half), ("G", Half), ("R", Half), ("depth.Z", Float), ("objectID.id", Uint)];
        assert_eq!(kinds, want, "{name}");
        for (i, c) in part.channels.iter().enumerate() {
            follows_the_formula(&c.samples.wide(), i as i32, if c.kind == Uint { 1.0 } else { 1.0 / 16.0 });
        }
    }
}

#[test]
fn parts_of_the_library_are_read_and_named() {
    let file = read(&bytes("library_parts.exr")).unwrap();
    let names: Vec<_> = file.parts.iter().map(|p| p.name.as_deref()).collect();
    assert_eq!(names, [Some("beauty"), Some("depth")]);
    follows_the_formula(&file.parts[1].channels[0].samples.wide(), 0, 1.0 / 16.0);
    let passes = jugata_exchange::roles::propose(&file, "shot");
    let roles: Vec<_> = passes.iter().map(|p| (p.role, p.part)).collect();
    assert_eq!(roles, [(Role::Beauty, 0), (Role::Depth, 1)]);
}

const CAMERA: CameraOut = CameraOut {
    world_to_camera: Some([
        1.0, 0.0, 0.0, 0.0, 0.0, 0.5, 0.25, 0.0, 0.0, -0.25, 0.5, 0.0, 3.0, 4.0, 5.0, 1.0,
    ]),
    focal: 50.0,
    sensor: [36.0, 20.25],
};

/// What ours.exr holds: values that half and float must keep apart, and those that are no numbers.
fn ours() -> (Raster, Raster) {
    let w = Window::new(-2, 1, 9, 5);
    let odd = [f32::INFINITY, f32::NEG_INFINITY, 0.0, -0.0, 65_504.0, 6.1e-5, 1.0 / 3.0];
    let picture = Raster::from_fn(w, 4, |c, x, y| odd[(x + 2 + 3 * y + c as i32) as usize % odd.len()]);
    let depth =
        Raster::from_fn(w, 1, |_, x, y| if x == 0 { f32::NAN } else { x as f32 / 3.0 + y as f32 * 1e-7 });
    (picture, depth)
}

fn written() -> Vec<u8> {
    let (picture, depth) = ours();
    let layers = [
        NamedLayer { name: "", channels: &["R", "G", "B", "A"], raster: &picture, depth: Depth::Half },
        NamedLayer { name: "depth", channels: &["Z"], raster: &depth, depth: Depth::Float },
    ];
    write(&layers, Window::of_size(8, 8), Some(CAMERA)).unwrap()
}

#[test]
fn what_we_write_is_read_back_bit_for_bit_by_us() {
    let (picture, depth) = ours();
    let file = read(&written()).unwrap();
    let part = &file.parts[0];
    let bits = |v: &[f32]| v.iter().map(|v| v.to_bits()).collect::<Vec<_>>();
    assert_eq!(bits(&part.channel("depth.Z").unwrap().samples.wide()), bits(depth.plane(0)));
    for (c, name) in ["R", "G", "B", "A"].into_iter().enumerate() {
        let want: Vec<f32> = picture.plane(c).iter().map(|&v| half::f16::from_f32(v).to_f32()).collect();
        assert_eq!(bits(&part.channel(name).unwrap().samples.wide()), bits(&want), "{name}");
    }
    assert_eq!(written(), written(), "the same bytes on every run");
    let c = camera(&file).unwrap();
    assert!((c.focal - 50.0 / 36.0 * 8.0).abs() < 1e-4);
}

#[test]
fn what_we_write_is_read_back_bit_for_bit_by_the_library() {
    let path = fixture("ours.exr");
    if std::env::var_os("JUGATA_UPDATE").is_some() {
        std::fs::write(&path, written()).unwrap();
        return;
    }
    assert_eq!(written(), bytes("ours.exr"), "write ours.exr anew, then run make.py so the library reads it");
    let seen: serde_json::Value = serde_json::from_slice(&bytes("ours.json")).unwrap();
    assert_eq!(seen["dataWindow"], serde_json::json!([[-2, 1], [6, 5]]));
    assert_eq!((seen["focal"].as_f64(), seen["sensor"][0].as_f64()), (Some(50.0), Some(36.0)));
    let matrix: Vec<f32> = serde_json::from_value(seen["worldToCamera"].clone()).unwrap();
    assert_eq!(Some(matrix.as_slice()), CAMERA.world_to_camera.as_ref().map(<[f32; 16]>::as_slice));
    let (picture, depth) = ours();
    let saw =
        |name: &str| -> Vec<u32> { serde_json::from_value(seen["channels"][name]["bits"].clone()).unwrap() };
    let z: Vec<u32> = depth.plane(0).iter().map(|v| v.to_bits()).collect();
    assert_eq!(saw("depth.Z"), z);
    for (c, name) in ["R", "G", "B", "A"].into_iter().enumerate() {
        let want: Vec<u32> =
            picture.plane(c).iter().map(|&v| half::f16::from_f32(v).to_bits().into()).collect();
        assert_eq!(saw(name), want, "{name}");
    }
}

#[test]
fn a_file_is_described() {
    insta::assert_snapshot!(
        inspect::report(&read(&bytes("library_zip.exr")).unwrap(), "library_zip").to_string()
    );
}

#[test]
fn limits_hold_before_anything_is_allocated() {
    let file = bytes("library_zip.exr");
    let say = |limits: Limits| exr_read::read(&file, &limits).unwrap_err().to_string();
    let all = Limits::default();
    assert_eq!(
        say(Limits { channels: 5, ..all }),
        "The file is too large: the number of channels is 6, and at most 5 is read."
    );
    assert!(say(Limits { decoded_bytes: 1000, ..all }).contains("its decoded size in bytes is 20424"));
    assert!(say(Limits { side: 30, ..all }).contains("longest side of a part is 37"));
    assert!(say(Limits { file_bytes: 100, ..all }).contains("its length in bytes"));
    assert!(matches!(exr_read::read(b"GIF89a", &all), Err(ExchangeError::NotAnImage)));
}

#[test]
fn pictures_that_cannot_be_are_not_written() {
    let (picture, depth) = ours();
    let layer = |name, channels, raster| NamedLayer { name, channels, raster, depth: Depth::Half };
    let w = Window::of_size(8, 8);
    assert!(write(&[], w, None).is_err());
    let empty = Raster::zeros(Window::of_size(0, 3), 1);
    assert!(write(&[layer("", &["Z"], &empty)], w, None).is_err());
    let twice = [layer("", &["Z"], &depth), layer("", &["Z"], &depth)];
    assert!(write(&twice, w, None).unwrap_err().to_string().contains("same name"));
    let other = depth.cropped(Window::of_size(2, 2), 0.0);
    assert!(
        write(&[layer("", &["R", "G", "B", "A"], &picture), layer("d", &["Z"], &other)], w, None).is_err()
    );
}

#[test]
fn png_of_16_bits_holds_straight_srgb() {
    let picture =
        Raster::from_planar(Window::of_size(2, 1), 4, vec![0.25, 0.0, 0.25, 0.0, 9.0, 0.0, 0.5, 0.0])
            .unwrap();
    let png = jugata_exchange::png_write::rgba16(&picture).unwrap();
    let mut reader = png::Decoder::new(std::io::Cursor::new(png)).read_info().unwrap();
    let mut data = vec![0; reader.output_buffer_size().unwrap()];
    reader.next_frame(&mut data).unwrap();
    let code = |i: usize| u16::from_be_bytes([data[2 * i], data[2 * i + 1]]);
    // 0.25 over alpha ½ is 0.5 straight: sRGB 0.735357 (IEC 61966-2-1) of 65535 = 48192.
    assert_eq!([code(0), code(1), code(2), code(3)], [48_192, 48_192, 65_535, 32_768]);
    assert_eq!([code(4), code(5), code(6), code(7)], [0, 0, 0, 0]);
}

#[test]
fn png_of_a_depth_is_near_white() {
    let z = vec![2.0, 4.0, 3.0, f32::INFINITY];
    let depth = Raster::from_planar(Window::of_size(4, 1), 1, z).unwrap();
    let coded = jugata_exchange::coded::depth(&depth, Bits::Sixteen).unwrap();
    let file = jugata_exchange::read(
        &jugata_exchange::png_write::of(&coded, Bits::Sixteen).unwrap(),
        &Limits::default(),
    );
    let codes: Vec<f32> =
        file.unwrap().parts[0].channels[0].samples.wide().iter().map(|v| (v * 65_535.0).round()).collect();
    assert_eq!(codes, [65_535.0, 1.0, 32_768.0, 0.0]);
}

/// A mip-mapped file as the crate writes it (the OpenEXR library's Python package writes none): the largest
/// level is read, smaller ones are not missed and not mixed in.
#[test]
fn of_mip_levels_the_largest_is_read() {
    use exr::prelude::*;
    let size = |level: usize| Vec2((19usize >> level).max(1), (11usize >> level).max(1));
    let samples = |level: usize| {
        let Vec2(w, h) = size(level);
        let v = |i: usize| if level == 0 { value(0, (i % w) as i32, (i / w) as i32) } else { -100.0 };
        FlatSamples::F32((0..w * h).map(v).collect())
    };
    let levels = Levels::Mip {
        rounding_mode: exr::math::RoundingMode::Down,
        level_data: (0..5).map(samples).collect(),
    };
    let channel = AnyChannel::new("Z", levels);
    let encoding = Encoding {
        compression: Compression::ZIP16,
        blocks: Blocks::Tiles(Vec2(8, 8)),
        line_order: LineOrder::Unspecified,
    };
    let layer = Layer::new(
        size(0),
        LayerAttributes::named("mip"),
        encoding,
        AnyChannels::sort(std::iter::once(channel).collect()),
    );
    let mut file = std::io::Cursor::new(Vec::new());
    Image::from_layer(layer).write().non_parallel().to_buffered(&mut file).unwrap();
    let file = read_all(file.get_ref());
    let part = &file.parts[0];
    assert!(part.missing.is_empty() && file.notes.is_empty(), "{:?}", file.notes);
    assert_eq!((part.data_window.width, part.data_window.height), (19, 11));
    let got = part.channels[0].samples.wide();
    assert!(got.iter().enumerate().all(|(i, v)| *v == value(0, (i % 19) as i32, (i / 19) as i32)), "{got:?}");
}

/// The crate has a `read` of its own.
fn read_all(bytes: &[u8]) -> jugata_exchange::ImageFile {
    read(bytes).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    /// Damaged anywhere, a file is either read or refused in a sentence; nothing panics or hangs.
    #[test]
    fn damaged_files_do_no_harm(which in 0usize..4, at in 0.0f64..1.0, with in any::<[u8; 4]>(), cut in 0.2f64..1.2) {
        let mut file = bytes(["library_zip.exr", "library_piz.exr", "library_tiled.exr", "library_parts.exr"][which]);
        let place = ((file.len() - 4) as f64 * at) as usize;
        file[place..place + 4].copy_from_slice(&with);
        file.truncate((file.len() as f64 * cut) as usize);
        let tight = Limits { decoded_bytes: 64 << 20, ..Limits::default() };
        if let Err(e) = exr_read::read(&file, &tight) {
            prop_assert!(!e.to_string().is_empty());
        }
    }
}
