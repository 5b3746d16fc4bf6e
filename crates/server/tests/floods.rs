//! Requests that mean harm, or come in floods: each gets its sentence, and the others are served.
#![allow(clippy::unwrap_used)]

use jugata_core::Window;
use jugata_server::{App, Config, build, demo, open};
use jugata_shot::document::Step;
use jugata_shot::steps::{StepKind, catalogue};
use jugata_standin::Settings;
use jugata_testkit::Postgres;
use rocket::http::{ContentType, Header, Method, Status};
use rocket::local::asynchronous::{Client, LocalResponse};
use serde_json::{Value, json};
use std::sync::Arc;
use std::time::{Duration, Instant};

struct Bench {
    client: Client,
    rooms: Arc<App>,
    id: String,
    // Dropped last: the server lets go of its connections first.
    folder: tempfile::TempDir,
    postgres: Postgres,
}

const SMALL: Settings = Settings::sized(64, 36, 1);

fn host() -> Header<'static> {
    Header::new("Host", "127.0.0.1:8417")
}

impl Bench {
    async fn new() -> Self {
        let postgres = Postgres::start();
        let folder = tempfile::tempdir().unwrap();
        let config = Config::new(postgres.url(), folder.path().join("media"), folder.path().join("web"), 0);
        let rooms = open(config).await.unwrap();
        let id = demo::make(&rooms, SMALL).await.unwrap().to_string();
        let client = Client::untracked(build(rooms.clone())).await.unwrap();
        Self { client, rooms, id, folder, postgres }
    }

    async fn send(&self, method: Method, path: &str, body: Vec<u8>) -> LocalResponse<'_> {
        self.client
            .req(method, path.to_owned())
            .header(host())
            .header(ContentType::JSON)
            .body(body)
            .dispatch()
            .await
    }

    async fn get(&self, path: &str) -> LocalResponse<'_> {
        self.client.get(path.to_owned()).header(host()).dispatch().await
    }

    /// Status and sentence.
    async fn said(&self, method: Method, path: &str, body: impl Into<Vec<u8>>) -> (u16, String) {
        let answer = self.send(method, path, body.into()).await;
        let code = answer.status().code;
        let said: Option<Value> = answer.into_json().await;
        (code, said.and_then(|s| Some(s["error"].as_str()?.to_owned())).unwrap_or_default())
    }

    async fn shot(&self) -> Value {
        let state: Value = self.get(&format!("/api/shots/{}", self.id)).await.into_json().await.unwrap();
        state["shot"].clone()
    }

    fn at(&self, rest: &str) -> String {
        format!("/api/shots/{}/revisions/1/{rest}", self.id)
    }
}

fn encoded(text: &str) -> String {
    let plain = |b: u8| b.is_ascii_alphanumeric();
    text.bytes().map(|b| if plain(b) { (b as char).to_string() } else { format!("%{b:02X}") }).collect()
}

#[rocket::async_test]
async fn equal_pictures_are_made_once_and_what_nobody_waits_for_is_not_made() {
    let b = Bench::new().await;
    let shot = b.shot().await;
    let preview = |viewer: String, exposure: f32| {
        let mut look = json!({"target": {"kind": "shot"}, "viewer": viewer});
        look["view"] = json!({"exposure": exposure});
        json!({"shot": {"id": b.id, "base": 1, "edits": [{"at": "", "put": shot}]}, "look": look})
            .to_string()
            .into_bytes()
    };
    let before = b.rooms.desk.begun();
    let all = (0..64).map(|i| b.send(Method::Post, "/api/preview", preview(format!("tab {i}"), 0.0)));
    let answers = rocket::futures::future::join_all(all).await;
    assert!(answers.iter().all(|a| a.status() == Status::Ok));
    assert_eq!(b.rooms.desk.begun() - before, 1);

    // One pane that is dragged in: what it no longer wants leaves the queue.
    let drag =
        (1..=64).map(|i| b.send(Method::Post, "/api/preview", preview("pane".into(), i as f32 * 0.01)));
    let answers = rocket::futures::future::join_all(drag).await;
    let codes: Vec<u16> = answers.iter().map(|a| a.status().code).collect();
    assert!(codes.contains(&200) && codes.iter().all(|c| [200, 499].contains(c)), "{codes:?}");
    assert!(codes.iter().filter(|c| **c == 200).count() < 32, "{codes:?}");

    // What is asked for ahead never keeps anybody waiting for the same picture, and is made in the end.
    let ahead = |exposure: f32| {
        let look = json!({"target": {"kind": "shot"}, "view": {"exposure": exposure}, "ahead": true});
        b.at(&format!("picture?look={}", encoded(&look.to_string())))
    };
    let paths: Vec<String> = (1..=16).map(|i| ahead(1.0 + i as f32 * 0.01)).collect();
    let wanted = (1..=16)
        .map(|i| b.send(Method::Post, "/api/preview", preview(format!("tab {i}"), 1.0 + i as f32 * 0.01)));
    let (made, wanted) = rocket::futures::future::join(
        rocket::futures::future::join_all(paths.iter().map(|p| b.get(p))),
        rocket::futures::future::join_all(wanted),
    )
    .await;
    assert!(wanted.iter().all(|a| a.status() == Status::Ok));
    assert!(made.iter().all(|a| [200, 499].contains(&a.status().code)));
    let before = b.rooms.desk.begun();
    assert_eq!(b.get(&ahead(5.0)).await.status(), Status::Ok);
    assert_eq!(b.get(&ahead(5.0)).await.status(), Status::Ok);
    assert_eq!(b.rooms.desk.begun() - before, 1);

    // A pane that leaves.
    let gone = b.rooms.viewers.newest(Some("pane")).unwrap();
    assert_eq!(b.said(Method::Post, "/api/viewers/leave", r#"["pane"]"#).await.0, 204);
    assert!(gone.is_cancelled());
}

#[rocket::async_test]
async fn a_database_that_hangs_is_told_and_waited_for() {
    let b = Bench::new().await;
    b.postgres.signal("STOP");
    let start = Instant::now();
    let asked = (0..12).map(|_| b.said(Method::Get, "/api/shots", Vec::new()));
    let all = rocket::futures::future::join_all(asked).await;
    let took = start.elapsed();
    b.postgres.signal("CONT");
    assert!(took < Duration::from_secs(14), "{took:?}");
    assert!(all.iter().all(|(code, said)| *code == 503 && said.contains("database")), "{all:?}");
    // A picture of a revision that is known needs no database.
    assert_eq!(b.get("/api/shots").await.status(), Status::Ok);
}

#[rocket::async_test]
async fn windows_and_crosshairs_beside_the_picture_are_no_trouble() {
    let b = Bench::new().await;
    let places = [i32::MIN, -1_000_000, -1, 0, 63, 64, 5000, i32::MAX - 1, i32::MAX];
    for x in places {
        for y in places {
            let probe = b.get(&b.at(&format!("probe?element=1&x={x}&y={y}"))).await.status();
            assert!(probe.code < 500, "probe {x} {y}: {probe}");
            for (width, height) in [(1, 1), (3, 70_000), (u32::MAX, 1)] {
                let window = json!({"x": x, "y": y, "width": width, "height": height});
                for target in [
                    json!({"kind": "shot"}),
                    json!({"kind": "untouched", "element": 1}),
                    json!({"kind": "pass", "element": 1, "pass": 2}),
                ] {
                    let look = json!({"target": target, "window": window, "scale": 1}).to_string();
                    let code = b.get(&b.at(&format!("picture?look={}", encoded(&look)))).await.status().code;
                    assert!(code < 500, "{look}: {code}");
                }
            }
        }
    }
}

#[rocket::async_test]
async fn what_cannot_be_is_refused_in_a_sentence() {
    let b = Bench::new().await;
    let refused = |got: (u16, String), code: u16, part: &str| {
        assert!(got.0 == code && got.1.contains(part), "{got:?} is not {code} {part}");
    };
    let look = |extra: Value| {
        let mut look = json!({"target": {"kind": "shot"}});
        extra.as_object().unwrap().iter().for_each(|(k, v)| look[k] = v.clone());
        b.at(&format!("picture?look={}", encoded(&look.to_string())))
    };
    refused(b.said(Method::Get, &look(json!({"scale": 7})), "").await, 422, "at most 6 times");
    refused(b.said(Method::Get, &look(json!({"viewer": "x".repeat(3000)})), "").await, 422, "at most 100");
    refused(
        b.said(Method::Get, &look(json!({"window": {"x": 0, "y": 0, "width": 9999, "height": 9999}})), "")
            .await,
        422,
        "9999",
    );
    refused(b.said(Method::Delete, "/api/shots", "").await, 405, "takes GET and POST, not DELETE");
    refused(b.said(Method::Get, "/api/preview", "").await, 405, "takes POST");
    refused(b.said(Method::Get, "/api/nothing", "").await, 404, "nothing at /api/nothing");
    refused(b.said(Method::Post, "/api/preview", vec![b'{', 0xff, 0xfe, b'}']).await, 400, "UTF-8");
    std::fs::create_dir_all(b.folder.path().join("web/assets")).unwrap();
    refused(b.said(Method::Get, "/assets/", "").await, 404, "nothing");

    // A name that PostgreSQL cannot keep, wherever it comes from.
    let mut named = b.shot().await;
    named["elements"][0]["passes"][0]["source"]["channels"][0] = json!("a\0b");
    let edit = json!({"base": 1, "label": "x", "edits": [{"at": "", "put": named}]}).to_string();
    refused(b.said(Method::Post, &format!("/api/shots/{}/revisions", b.id), edit).await, 422, "code 0");
    let label = json!({"base": 1, "label": "a\0b", "edits": [{"at": "", "put": b.shot().await}]}).to_string();
    assert_eq!(b.said(Method::Post, &format!("/api/shots/{}/revisions", b.id), label).await.0, 200);

    // A frame that no memory holds, and one whose refocus no memory holds.
    let mut vast = b.shot().await;
    vast["display"] = json!(Window::of_size(65_536, 65_536));
    let ask = |shot: &Value| {
        json!({"shot": {"id": b.id, "base": 1, "edits": [{"at": "", "put": shot}]}, "look": {"target": {"kind": "shot"}, "window": {"x": 0, "y": 0, "width": 4, "height": 4}}}).to_string()
    };
    refused(b.said(Method::Post, "/api/preview", ask(&vast)).await, 422, "the most that is worked on");
    vast["display"] = json!(Window::of_size(16_384, 16_384));
    let refocus = catalogue().iter().find(|k| matches!(k.defaults, StepKind::Refocus(_))).unwrap();
    vast["elements"][0]["steps"] = json!([Step::new(9, refocus.defaults.clone())]);
    refused(b.said(Method::Post, "/api/preview", ask(&vast)).await, 413, "MiB at once");
}

#[rocket::async_test]
async fn many_files_of_one_name_are_one_or_refused() {
    let b = Bench::new().await;
    let media = b.shot().await["elements"][0]["passes"][0]["source"]["media"].clone();
    let equal: Vec<Value> = (0..20_000).map(|_| json!({"name": "same.exr", "media": media})).collect();
    let body = json!({"files": equal}).to_string();
    let (start, got) = (Instant::now(), b.said(Method::Post, "/api/shots/from", body).await);
    assert_eq!(got.0, 200, "{got:?}");
    assert!(start.elapsed() < Duration::from_secs(5), "{:?}", start.elapsed());
    let other = |i: usize| json!({"name": "same.exr", "media": format!("{i:064x}")});
    let body = json!({"files": (0..100).map(other).collect::<Vec<_>>()}).to_string();
    let got = b.said(Method::Post, "/api/shots/from", body).await;
    assert!(got.0 == 422 && got.1.contains("100 different files are called same.exr"), "{got:?}");
}

#[rocket::async_test]
async fn many_uploads_at_once_wait_on_the_disk() {
    let b = Bench::new().await;
    let bytes = jugata_standin::export::exr(&jugata_standin::render(&SMALL)).unwrap();
    let send = |i: usize| {
        let request = b.client.post(format!("/api/media?name=take.{i:04}.exr"));
        request.header(host()).header(ContentType::Binary).body(&bytes).dispatch()
    };
    let answers = rocket::futures::future::join_all((0..50).map(send)).await;
    assert!(answers.iter().all(|a| a.status() == Status::Ok));
    let left = std::fs::read_dir(b.folder.path().join("media/arriving")).unwrap().count();
    assert_eq!(left, 0, "nothing is left of what arrived");
}
