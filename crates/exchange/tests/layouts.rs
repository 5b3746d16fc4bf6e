//! TIFF in every layout, against tifffile (fixtures and script: tests/fixtures/make_layouts.py).
#![allow(clippy::unwrap_used, clippy::panic)]

use jugata_exchange::{Limits, read};
use serde::Deserialize;
use std::collections::BTreeMap;
use std::path::PathBuf;

#[derive(Deserialize)]
struct Seen {
    width: u32,
    height: u32,
    planes: Vec<Vec<f32>>,
}

fn bytes(name: &str) -> Vec<u8> {
    std::fs::read(PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures").join(name)).unwrap()
}

#[test]
fn every_layout_is_read_as_another_library_reads_it() {
    let all: BTreeMap<String, Seen> = serde_json::from_slice(&bytes("layouts.json")).unwrap();
    assert!(all.len() > 70);
    let mut wrong = Vec::new();
    for (name, seen) in all {
        let file = match read(&bytes(&name), &Limits::default()) {
            Ok(file) => file,
            Err(e) => {
                wrong.push(format!("{name}: {e}"));
                continue;
            }
        };
        let size = (file.display_window.width, file.display_window.height);
        let channels = &file.parts[0].channels;
        if size != (seen.width, seen.height) || channels.len() != seen.planes.len() {
            wrong.push(format!("{name}: {size:?}, {} channels", channels.len()));
            continue;
        }
        // No channel is lost, whatever it is called.
        let order = ["R", "G", "B", "A", "band4", "band5"];
        let mut named: Vec<_> = channels.iter().collect();
        named.sort_by_key(|c| order.iter().position(|o| *o == c.name));
        for (channel, want) in named.iter().zip(&seen.planes) {
            let apart =
                channel.samples.wide().iter().zip(want).map(|(a, b)| (a - b).abs()).fold(0.0f32, f32::max);
            if apart > 1e-6 {
                wrong.push(format!("{name} {}: {apart}", channel.name));
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}
