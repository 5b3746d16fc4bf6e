//! PNG, TIFF, Radiance HDR, JPEG and the lossy codecs of OpenEXR against general-purpose libraries: Pillow,
//! tifffile, OpenCV, OpenEXR (fixtures, their script and what those libraries read: tests/fixtures).
#![allow(clippy::unwrap_used, clippy::panic)]

use jugata_core::Window;
use jugata_core::colour::ColourSpace;
use jugata_core::passes::convention::AlphaState;
use jugata_core::passes::stored::SampleKind;
use jugata_exchange::{ExchangeError, ImageFile, Limits, read};
use proptest::prelude::*;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

fn bytes(name: &str) -> Vec<u8> {
    std::fs::read(PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures").join(name)).unwrap()
}

fn open(name: &str) -> ImageFile {
    read(&bytes(name), &Limits::default()).unwrap_or_else(|e| panic!("{name}: {e}"))
}

fn seen() -> BTreeMap<String, Vec<Vec<f32>>> {
    serde_json::from_slice(&bytes("pictures.json")).unwrap()
}

/// Largest difference from what the other library read, whose whole numbers are `unit` steps to 1.
fn apart(name: &str, unit: f32) -> f32 {
    let file = open(name);
    let want = &seen()[name];
    let part = &file.parts[0];
    assert_eq!(part.channels.len(), want.len(), "{name}");
    let names: &[&str] = match want.len() {
        1 => &["Y"],
        3 => &["R", "G", "B"],
        _ => &["R", "G", "B", "A"],
    };
    let ours = |c: usize| {
        if name.starts_with("library") { &part.channels[c] } else { part.channel(names[c]).unwrap() }
    };
    (0..want.len())
        .flat_map(|c| {
            let got = ours(c).samples.wide().into_owned();
            assert_eq!(got.len(), want[c].len(), "{name}");
            want[c].iter().zip(got.iter()).map(|(w, g)| (w / unit - g).abs()).collect::<Vec<_>>()
        })
        .fold(0.0, f32::max)
}

#[test]
fn every_picture_is_what_another_library_reads() {
    for (name, unit, kind, most) in [
        ("picture_rgba8.png", 255.0, SampleKind::Byte, 1e-6),
        ("picture_grey8.png", 255.0, SampleKind::Byte, 1e-6),
        ("picture_palette.png", 255.0, SampleKind::Byte, 1e-6),
        ("picture_gama1.png", 255.0, SampleKind::Byte, 1e-6),
        ("picture_rgb16.png", 65_535.0, SampleKind::Word, 1e-6),
        ("picture_rgb8.tif", 255.0, SampleKind::Byte, 1e-6),
        ("picture_rgba16_straight.tif", 65_535.0, SampleKind::Word, 1e-6),
        ("picture_rgba16_assoc.tif", 65_535.0, SampleKind::Word, 1e-6),
        ("picture_float_tiles.tif", 1.0, SampleKind::Float, 1e-6),
        ("picture_float_planar.tif", 1.0, SampleKind::Float, 1e-6),
        ("picture_grey_float_big.tif", 1.0, SampleKind::Float, 1e-6),
        ("picture.hdr", 1.0, SampleKind::Half, 0.05),
        // JPEG decoders may differ by a code or two (ITU-T T.83).
        ("picture.jpg", 255.0, SampleKind::Byte, 2.5 / 255.0),
    ] {
        let apart = apart(name, unit);
        assert!(apart <= most, "{name}: {apart}");
        assert!(open(name).parts[0].channels.iter().all(|c| c.kind == kind), "{name}");
        assert_eq!(open(name).display_window, Window::of_size(17, 11), "{name}");
    }
}

#[test]
fn lossy_codecs_and_bottom_up_rows_are_what_the_library_reads() {
    for (name, most, lossy) in [
        ("library_pxr24.exr", 1e-6, true),
        ("library_b44.exr", 1e-6, true),
        ("library_b44a.exr", 1e-6, true),
        // Two implementations of one cosine transform round differently.
        ("library_dwaa.exr", 4e-3, true),
        ("library_dwab.exr", 4e-3, true),
        ("library_upward.exr", 1e-6, false),
        ("library_chroma.exr", 1e-6, false),
    ] {
        let apart = apart(name, 1.0);
        assert!(apart <= most, "{name}: {apart}");
        assert_eq!(open(name).parts[0].lossy.is_some(), lossy, "{name}");
    }
}

#[test]
fn headers_are_heard() {
    let says = |name| {
        let f = open(name);
        (f.colour, f.alpha, f.notes.join(" "))
    };
    assert_eq!(says("picture_rgba8.png").1, AlphaState::Straight);
    assert_eq!(says("picture_gama1.png").0, ColourSpace::Linear);
    assert_eq!(says("picture_rgb8.tif").0, ColourSpace::Srgb);
    assert_eq!(says("picture_float_tiles.tif").0, ColourSpace::Linear);
    assert_eq!(says("picture_rgba16_straight.tif").1, AlphaState::Straight);
    assert_eq!(says("picture_rgba16_assoc.tif").1, AlphaState::Premultiplied);
    assert!(says("picture_palette.png").2.contains("palette"));
    assert!(open("picture.jpg").parts[0].lossy.is_some());
}

/// A luminance/chroma picture written by hand from the OpenEXR File Layout: uncompressed, chroma at half
/// size each way.
fn luminance_chroma(rgb: [f32; 3]) -> Vec<u8> {
    let y: f32 = (0..3).map(|c| jugata_core::colour::LUMINANCE[c] * rgb[c]).sum();
    let values = [("BY", (rgb[2] - y) / y, 2), ("RY", (rgb[0] - y) / y, 2), ("Y", y, 1)];
    let mut out = vec![0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0];
    let mut attribute = |name: &str, kind: &str, data: &[u8]| {
        out.extend([name.as_bytes(), b"\0", kind.as_bytes(), b"\0"].concat());
        out.extend((data.len() as u32).to_le_bytes());
        out.extend(data);
    };
    let ints = |v: &[i32]| v.iter().flat_map(|v| v.to_le_bytes()).collect::<Vec<u8>>();
    let mut list = Vec::new();
    for (name, _, rate) in values {
        list.extend([name.as_bytes(), b"\0"].concat());
        list.extend(ints(&[1, 0, rate, rate]));
    }
    list.push(0);
    attribute("channels", "chlist", &list);
    attribute("compression", "compression", &[0]);
    attribute("dataWindow", "box2i", &ints(&[0, 0, 5, 3]));
    attribute("displayWindow", "box2i", &ints(&[0, 0, 5, 3]));
    attribute("lineOrder", "lineOrder", &[0]);
    attribute("pixelAspectRatio", "float", &1f32.to_le_bytes());
    attribute("screenWindowCenter", "v2f", &[0; 8]);
    attribute("screenWindowWidth", "float", &1f32.to_le_bytes());
    out.push(0);
    let row = |y: i32| {
        let of = |rate: i32| if y % rate == 0 { 6 / rate } else { 0 };
        let data: Vec<u8> = values
            .iter()
            .flat_map(|(_, v, rate)| half::f16::from_f32(*v).to_le_bytes().repeat(of(*rate) as usize))
            .collect();
        [ints(&[y, data.len() as i32]), data].concat()
    };
    let rows: Vec<Vec<u8>> = (0..4).map(row).collect();
    let mut at = out.len() as u64 + 4 * 8;
    for r in &rows {
        out.extend(at.to_le_bytes());
        at += r.len() as u64;
    }
    out.extend(rows.concat());
    out
}

#[test]
fn luminance_and_chroma_become_colour() {
    let rgb = [0.8, 0.4, 0.1];
    let file = read(&luminance_chroma(rgb), &Limits::default()).unwrap();
    let part = &file.parts[0];
    assert_eq!(part.channels.iter().map(|c| c.name.as_str()).collect::<Vec<_>>(), ["B", "G", "R"]);
    for (name, want) in ["R", "G", "B"].into_iter().zip(rgb) {
        let got = &part.channel(name).unwrap().samples.wide();
        assert_eq!(got.len(), 24);
        assert!(got.iter().all(|v| (v - want).abs() < 2e-3), "{name}: {got:?}");
    }
    assert!(file.notes.join(" ").contains("luminance and chroma"));
}

#[test]
fn what_is_there_of_an_unfinished_render_is_shown() {
    let whole = open("library_zips.exr");
    let mut cut = bytes("library_zips.exr");
    let table = whole.parts[0].data_window.height as usize;
    // Cut the last third of the file off.
    cut.truncate(cut.len() * 2 / 3);
    let file = read(&cut, &Limits::default()).unwrap();
    let part = &file.parts[0];
    assert_eq!(part.missing.len(), 1);
    let m = part.missing[0];
    assert_eq!(m.last, 3 + table as i32 - 1);
    assert!(m.first > 10 && file.notes[0].contains("missing or damaged"), "{m:?} {:?}", file.notes);
    let kept = (m.first - 3) as usize * 37;
    let red = |p: &jugata_exchange::Part| p.channel("R").unwrap().samples.wide().into_owned();
    let (a, b) = (red(part), red(&whole.parts[0]));
    assert_eq!(a[..kept], b[..kept]);
    assert!(a[kept..].iter().all(|v| v.is_nan()));
}

#[test]
fn a_zeroed_offset_table_loses_nothing() {
    let whole = open("library_zips.exr");
    let mut zeroed = bytes("library_zips.exr");
    let rows = whole.parts[0].data_window.height as usize;
    // The table is the only run of 8·rows bytes whose words ascend to the file's end: find its first entry.
    let first = (0..zeroed.len() - 8 * rows)
        .find(|&at| {
            let entry = |i: usize| u64::from_le_bytes(zeroed[at + 8 * i..at + 8 * i + 8].try_into().unwrap());
            entry(0) == (at + 8 * rows) as u64 && (1..rows).all(|i| entry(i) > entry(i - 1))
        })
        .unwrap();
    zeroed[first..first + 8 * rows].fill(0);
    let file = read(&zeroed, &Limits::default()).unwrap();
    assert!(file.parts[0].missing.is_empty());
    assert_eq!(file.parts[0].channel("R").unwrap().samples, whole.parts[0].channel("R").unwrap().samples);
}

#[test]
fn a_chunk_that_promises_the_moon_is_refused_before_it_is_unpacked() {
    // Found by fuzzing: the size of a section in a DWA chunk's own header, which the crate would allocate.
    let e = read(&bytes("damaged_dwa.exr"), &Limits::default()).unwrap_err();
    assert!(e.to_string().contains("promises far more pixels than its length can hold"), "{e}");
}

#[test]
fn what_is_no_image_is_refused_in_a_sentence() {
    for (data, says) in [
        (&b"GIF89a"[..], "not an image"),
        (b"", "not an image"),
        (b"\x89PNG\r\n\x1a\n\0\0\0", "is cut off before its end; copy it again"),
        (b"II*\0\xff\xff\xff\x7f", "is cut off before its end; copy it again"),
        (b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 90000 +X 90000\n", "too large"),
        (b"\xff\xd8\xff\xe0", "damaged"),
    ] {
        let e = read(data, &Limits::default()).unwrap_err();
        assert!(e.to_string().contains(says), "{e}");
    }
    let tight = Limits { decoded_bytes: 100, ..Limits::default() };
    for name in ["picture_rgb8.tif", "picture_rgb16.png", "picture.hdr", "picture.jpg", "library_b44.exr"] {
        assert!(matches!(read(&bytes(name), &tight), Err(ExchangeError::Limit { .. })), "{name}");
    }
}

const FILES: [&str; 12] = [
    "picture_rgba8.png",
    "picture_palette.png",
    "picture_rgb16.png",
    "picture_rgb8.tif",
    "picture_rgba16_straight.tif",
    "picture_float_tiles.tif",
    "picture_float_planar.tif",
    "picture_grey_float_big.tif",
    "picture.hdr",
    "picture.jpg",
    "library_b44.exr",
    "library_dwaa.exr",
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    /// Damaged anywhere, a file is either read or refused in a sentence; nothing panics or hangs.
    #[test]
    fn damaged_files_do_no_harm(which in 0usize..FILES.len(), at in 0.0f64..1.0, with in any::<[u8; 4]>(), cut in 0.2f64..1.2) {
        let mut file = bytes(FILES[which]);
        let place = ((file.len() - 4) as f64 * at) as usize;
        file[place..place + 4].copy_from_slice(&with);
        file.truncate((file.len() as f64 * cut) as usize);
        let tight = Limits { decoded_bytes: 64 << 20, ..Limits::default() };
        match read(&file, &tight) {
            Ok(f) => f.parts.iter().for_each(|p| {
                p.channels.iter().for_each(|c| assert_eq!(c.samples.len(), p.data_window.area()));
            }),
            Err(e) => prop_assert!(!e.to_string().is_empty()),
        }
    }
}

/// Against SciPy's `RegularGridInterpolator` (fixture from make_pictures.py).
#[test]
fn a_colour_table_answers_as_scipy_interpolates() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures");
    let lut = jugata_exchange::cube_read::read(&std::fs::read(folder.join("table.cube")).unwrap()).unwrap();
    let rows: Vec<[f32; 6]> =
        serde_json::from_slice(&std::fs::read(folder.join("table.json")).unwrap()).unwrap();
    assert_eq!(rows.len(), 40);
    for [r, g, b, want @ ..] in rows {
        let got = lut.apply([r, g, b]);
        assert!((0..3).all(|c| (got[c] - want[c]).abs() < 2e-6), "{got:?} {want:?}");
    }
}
