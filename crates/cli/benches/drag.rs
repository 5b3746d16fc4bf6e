//! Dragging a lamp, lamps with shadows, and an environment at 1280×720 over HTTP: the time from sending a preview to
//! having its picture, p50 and p95, at proxy scale and at full size. A report rather than criterion's statistics, since
//! the figure in question is a percentile over different requests. `cargo bench -p jugata-cli --bench drag`.
#![allow(missing_docs, clippy::unwrap_used)]

#[path = "../tests/support/mod.rs"]
mod support;

use jugata_shot::lamp::Lamp;
use jugata_shot::steps::{Relight, StepKind, Surround};
use jugata_testkit::Postgres;
use serde_json::json;
use std::time::Instant;
use support::Server;

const REQUESTS: usize = 60;

/// A step at an angle.
type AtAngle = fn(f32) -> StepKind;

/// What is dragged, at an angle (radians): every request has another one, so that no result is reused.
fn dragged() -> [(&'static str, AtAngle); 4] {
    fn lamp(angle: f32, shadows: bool) -> Lamp {
        Lamp { toward: [angle.cos() * 0.8, angle.sin() * 0.8, 0.6], shadows, ..Lamp::default() }
    }
    [
        ("a lamp", |a| StepKind::Relight(lamp(a, false).into())),
        ("a lamp with soft shadows", |a| StepKind::Relight(lamp(a, true).into())),
        ("eight lamps with soft shadows", |a| {
            let lamps = (0..8).map(|i| lamp(a + 0.7 * i as f32, true)).collect();
            StepKind::Relight(Relight { lamps, ..Relight::default() })
        }),
        ("light from all around", |a| {
            StepKind::Surround(Surround { turn: a.to_degrees() % 180.0, ..Surround::default() })
        }),
    ]
}

fn main() {
    let postgres = Postgres::start();
    let folder = tempfile::tempdir().unwrap();
    let server = Server::start(&postgres.url(), folder.path(), 1280);
    let id = server.get("/api/shots")[0]["id"].as_str().unwrap().to_owned();
    let shot = server.get(&format!("/api/shots/{id}"))["shot"].clone();
    let agent = ureq::Agent::new_with_defaults();
    for (what, step) in dragged() {
        for (name, scale) in [("proxy scale ½ (640×360)", 1), ("full size (1280×720)", 0)] {
            let mut times: Vec<f64> = (0..REQUESTS + 5)
                .map(|i| {
                    let mut shot = shot.clone();
                    let angle = 0.05 * i as f32 + scale as f32;
                    shot["elements"][0]["steps"][0]["does"] = serde_json::to_value(step(angle)).unwrap();
                    let look = json!({"target": {"kind": "shot"}, "scale": scale, "viewer": "bench"});
                    let start = Instant::now();
                    let mut answer = agent
                        .post(format!("{}/api/preview", server.url))
                        .send_json(json!({"shot": {"id": id, "base": 1, "edits": [{"at": "", "put": shot}]}, "look": look}))
                        .unwrap();
                    let png = answer.body_mut().read_to_vec().unwrap();
                    assert!(png.len() > 1000);
                    start.elapsed().as_secs_f64() * 1e3
                })
                .skip(5)
                .collect();
            times.sort_by(f64::total_cmp);
            let at = |q: f64| times[((times.len() - 1) as f64 * q) as usize];
            println!(
                "drag {what}, {name}: p50 {:.1} ms, p95 {:.1} ms, worst {:.1} ms",
                at(0.5),
                at(0.95),
                at(1.0)
            );
        }
    }
}
