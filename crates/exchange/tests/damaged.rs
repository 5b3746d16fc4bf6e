//! Damaged, hostile and merely huge files: each message is a sentence of our own for a person, and nothing panics.
#![allow(clippy::unwrap_used)]

use jugata_exchange::{Damage, ExchangeError, Limits, read};
use std::collections::BTreeSet;
use std::path::PathBuf;

const FILES: [&str; 11] = [
    "library_zip.exr",
    "library_piz.exr",
    "library_tiled.exr",
    "library_parts.exr",
    "picture_rgba8.png",
    "picture_palette.png",
    "picture_rgba16_straight.tif",
    "layout_float32_tiles_deflate_planar.tif",
    "layout_uint16_strips_zstd_together.tif",
    "picture.hdr",
    "picture.jpg",
];

fn bytes(name: &str) -> Vec<u8> {
    std::fs::read(PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures").join(name)).unwrap()
}

/// The same file hurt in many ways: cut off, written over in places, with single bits turned.
fn hurt(file: &[u8]) -> Vec<Vec<u8>> {
    let n = file.len();
    let mut all: Vec<Vec<u8>> = (0..24).map(|k| file[..n * k / 24].to_vec()).collect();
    for k in 0..60usize {
        let mut one = file.to_vec();
        let at = (k * 2_654_435_761) % n;
        match k % 3 {
            0 => one[at] ^= 1 << (k % 8),
            1 => one[at..(at + 9).min(n)].fill(0xff),
            _ => one[at..(at + 17).min(n)].fill(0),
        }
        all.push(one);
    }
    all
}

#[test]
fn every_message_comes_from_a_short_list_of_sentences() {
    let mut said: BTreeSet<String> = BTreeSet::new();
    for name in FILES {
        for one in hurt(&bytes(name)) {
            if let Err(e) = read(&one, &Limits::default()) {
                // Figures differ from file to file; the sentence does not.
                let sentence: String =
                    e.to_string().chars().map(|c| if c.is_ascii_digit() { '#' } else { c }).collect();
                let mut short = sentence.clone();
                while short.contains("##") {
                    short = short.replace("##", "#");
                }
                said.insert(short);
            }
        }
    }
    let all: Vec<&str> = said.iter().map(String::as_str).collect();
    insta::assert_snapshot!(all.join("\n"));
    for sentence in &said {
        for word in ["IFD", "CRC", "Chunk", "chunk", "byte ", "{", "ZIP", "::", "None", "Invalid", "utf"] {
            assert!(!sentence.contains(word), "“{word}” is no word for a person: {sentence}");
        }
        assert!(sentence.ends_with('.') && !sentence.contains(".."), "{sentence}");
    }
}

#[test]
fn what_the_decoder_said_is_kept_for_those_who_look_for_the_cause() {
    let mut file = bytes("picture_rgba8.png");
    let at = file.len() - 20;
    file[at..at + 8].fill(0x5a);
    let refused = read(&file, &Limits::default());
    let told = refused.err().map(|e| (e.to_string(), e.detail().map(str::to_owned)));
    if let Some((sentence, detail)) = told {
        assert!(sentence.starts_with("The file is "), "{sentence}");
        assert!(detail.is_some());
    }
}

fn png(width: u32, height: u32, write: impl FnOnce(&mut png::Writer<&mut Vec<u8>>)) -> Vec<u8> {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_compression(png::Compression::Fast);
    write(&mut encoder.write_header().unwrap());
    out
}

#[test]
fn a_small_legal_file_that_expands_beyond_all_bounds_is_refused_before_it_is_decoded() {
    let (w, h) = (20_000u32, 20_000u32);
    let file = png(w, h, |writer| {
        use std::io::Write;
        let mut stream = writer.stream_writer().unwrap();
        let row = vec![0u8; w as usize * 3];
        (0..h).for_each(|_| stream.write_all(&row).unwrap());
        stream.finish().unwrap();
    });
    assert!(file.len() < 8 << 20, "{} bytes", file.len());
    let start = std::time::Instant::now();
    let refused = read(&file, &Limits::default()).unwrap_err();
    assert!(matches!(refused, ExchangeError::Limit { .. }), "{refused}");
    assert!(start.elapsed().as_secs() < 2, "before anything is decoded");
}

#[test]
fn a_palette_that_is_too_short_is_no_end_of_the_process() {
    let mut out = Vec::new();
    let mut encoder = png::Encoder::new(&mut out, 8, 8);
    encoder.set_color(png::ColorType::Indexed);
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_palette(vec![1, 2, 3, 4, 5, 6]);
    encoder.write_header().unwrap().write_image_data(&[200; 64]).unwrap();
    // Either it is read somehow, or refused in a sentence.
    if let Err(e) = read(&out, &Limits::default()) {
        assert!(matches!(e, ExchangeError::Damaged { damage: Damage::Garbled, .. }), "{e}");
    }
}
