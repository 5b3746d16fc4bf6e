//! Opening a shot from disk in a server that has just started: the time to the first picture of a pane and
//! to the last tile of the tray, for a 1920×1080 file of 40 half channels, ZIP. A report, since the figures
//! in question are times of one cold start. `cargo bench -p jugata-cli --bench open`.
#![allow(missing_docs, clippy::unwrap_used)]

#[path = "../tests/support/mod.rs"]
mod support;

use jugata_core::{Raster, Window};
use jugata_exchange::exr_write::{Depth, NamedLayer, write};
use jugata_testkit::Postgres;
use serde_json::json;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Instant;
use support::Server;

const ROUNDS: usize = 5;
/// Requests that a browser has under way to one host at a time.
const CONNECTIONS: usize = 6;

const LAYERS: [(&str, &[&str]); 12] = [
    ("", &["R", "G", "B", "A"]),
    ("albedo", &["R", "G", "B"]),
    ("depth", &["Z"]),
    ("N", &["X", "Y", "Z"]),
    ("P", &["X", "Y", "Z"]),
    ("uv", &["U", "V"]),
    ("motion", &["X", "Y"]),
    ("id", &["Y"]),
    ("diffuse", &["R", "G", "B", "A"]),
    ("specular", &["R", "G", "B", "A"]),
    ("emission", &["R", "G", "B", "A"]),
    ("sky", &["R", "G", "B", "A", "X", "Y", "Z", "U", "V"]),
];

/// Noise over smooth shading with an empty part, as a render has.
fn file() -> Vec<u8> {
    let window = Window::of_size(1920, 1080);
    let mut seed = 1u32;
    let rasters: Vec<Raster> = LAYERS
        .iter()
        .map(|(_, channels)| {
            Raster::from_fn(window, channels.len(), |c, x, y| {
                seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                let noise = (seed >> 8) as f32 / (1 << 24) as f32 - 0.5;
                let k = 40.0 + c as f32;
                let smooth = 0.5 + 0.4 * (x as f32 / (k + 20.0)).sin() * (y as f32 / k).cos();
                if y > 864 { 0.0 } else { smooth + 0.007 * noise }
            })
        })
        .collect();
    let layers: Vec<NamedLayer<'_>> = LAYERS
        .iter()
        .zip(&rasters)
        .map(|(&(name, channels), raster)| NamedLayer { name, channels, raster, depth: Depth::Half })
        .collect();
    write(&layers, window, None).unwrap()
}

fn picture(server: &Server, id: &str, target: &serde_json::Value, scale: u32) -> usize {
    let look = json!({"target": target, "scale": scale}).to_string();
    let agent = ureq::Agent::new_with_defaults();
    let url = format!("{}/api/shots/{id}/revisions/1/picture", server.url);
    agent.get(url).query("look", look).call().unwrap().body_mut().read_to_vec().unwrap().len()
}

fn main() {
    let bytes = file();
    assert_eq!(LAYERS.iter().map(|(_, c)| c.len()).sum::<usize>(), 40);
    println!("the file has {:.0} MB", bytes.len() as f64 / 1e6);
    let postgres = Postgres::start();
    let folder = tempfile::tempdir().unwrap();
    let server = Server::start(&postgres.url(), folder.path(), 64);
    let start = Instant::now();
    let mut answer =
        ureq::post(format!("{}/api/shots?name=forty.exr", server.url)).send(bytes.as_slice()).unwrap();
    let made: serde_json::Value = answer.body_mut().read_json().unwrap();
    println!("bring in: {:.0} ms", start.elapsed().as_secs_f64() * 1e3);
    let id = made["id"].as_str().unwrap().to_owned();
    server.kill();
    let mut times: Vec<(f64, f64)> =
        (0..ROUNDS).map(|_| opened(&postgres.url(), folder.path(), &id)).collect();
    times.sort_by(|a, b| a.1.total_cmp(&b.1));
    let (first, tray) = times[ROUNDS / 2];
    println!("open from disk, median of {ROUNDS}: first picture {first:.0} ms, whole tray {tray:.0} ms");
}

/// Milliseconds to the first picture and to the last tile, in a new process.
fn opened(database: &str, folder: &std::path::Path, id: &str) -> (f64, f64) {
    let server = Server::start(database, folder, 64);
    let start = Instant::now();
    let since = || start.elapsed().as_secs_f64() * 1e3;
    let shot = server.get(&format!("/api/shots/{id}"))["shot"].clone();
    let element = &shot["elements"][0];
    let passes = element["passes"].as_array().unwrap();
    let next = AtomicUsize::new(0);
    // The tray waits for the first picture.
    picture(&server, id, &json!({"kind": "shot"}), 1);
    let first = since();
    std::thread::scope(|s| {
        for _ in 0..CONNECTIONS {
            s.spawn(|| {
                while let Some(pass) = passes.get(next.fetch_add(1, Ordering::Relaxed)) {
                    let target = json!({"kind": "pass", "element": element["id"], "pass": pass["id"]});
                    assert!(picture(&server, id, &target, 3) > 50);
                }
            });
        }
    });
    (first, since())
}
