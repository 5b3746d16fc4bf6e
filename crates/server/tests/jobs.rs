//! Ranges of frames through the routes, written by the server's own worker.
#![allow(clippy::unwrap_used)]

use jugata_server::{App, Config, build, demo, jobs, open, outbox};
use jugata_standin::Settings;
use jugata_testkit::Database;
use rocket::http::{ContentType, Header, Method, Status};
use rocket::local::asynchronous::{Client, LocalResponse};
use rocket::tokio::time::{Duration, Instant, sleep};
use serde_json::{Value, json};
use std::io::{Cursor, Read};
use std::sync::Arc;

struct Bench {
    client: Client,
    rooms: Arc<App>,
    shot: String,
    folder: tempfile::TempDir,
    _postgres: Database,
}

impl Bench {
    async fn new() -> Self {
        let postgres = Database::make();
        let folder = tempfile::tempdir().unwrap();
        let mut config =
            Config::new(postgres.url(), folder.path().join("media"), folder.path().join("web"), 0);
        config.out = Some(folder.path().join("out"));
        let rooms = open(config).await.unwrap();
        let shot = demo::make(&rooms, Settings::sized(64, 36, 1)).await.unwrap().to_string();
        let client = Client::untracked(build(rooms.clone())).await.unwrap();
        Self { client, rooms, shot, folder, _postgres: postgres }
    }

    async fn send(&self, method: Method, path: &str, body: Value) -> LocalResponse<'_> {
        let request = self.client.req(method, path.to_owned()).header(Header::new("Host", "127.0.0.1:8417"));
        request.header(ContentType::JSON).body(body.to_string()).dispatch().await
    }

    async fn json(&self, method: Method, path: &str, body: Value) -> Value {
        self.send(method, path, body).await.into_json().await.unwrap()
    }

    async fn bytes(&self, path: &str) -> Vec<u8> {
        let answer = self.send(Method::Get, path, Value::Null).await;
        assert_eq!(answer.status(), Status::Ok, "{path}");
        answer.into_bytes().await.unwrap()
    }

    async fn ask(&self, last: i32, target: Value, format: &str) -> (u16, Value) {
        let wish = json!({"target": target, "form": {"format": format}, "name": "orrery.##"});
        let body = json!({"wish": wish, "range": {"first": 9, "last": last}});
        let path = format!("/api/shots/{}/revisions/1/jobs", self.shot);
        let answer = self.send(Method::Post, &path, body).await;
        (answer.status().code, answer.into_json().await.unwrap())
    }

    /// The job once it stands so.
    async fn until(&self, id: &str, state: &str) -> Value {
        let start = Instant::now();
        loop {
            let all = self.json(Method::Get, &format!("/api/shots/{}/jobs", self.shot), Value::Null).await;
            let job = all.as_array().unwrap().iter().find(|j| j["id"] == id).unwrap().clone();
            if job["state"] == state {
                return job;
            }
            assert!(start.elapsed() < Duration::from_secs(60), "{job}");
            sleep(Duration::from_millis(50)).await;
        }
    }
}

#[rocket::async_test]
async fn a_range_is_written_and_kept_as_files_of_their_own_and_as_one() {
    let b = Bench::new().await;
    let (code, job) = b.ask(12, json!({"kind": "shot"}), "exr_float").await;
    assert_eq!(code, 201);
    let id = job["id"].as_str().unwrap().to_owned();
    let at = |rest: &str| format!("/api/jobs/{id}{rest}");
    // Nobody works yet: it waits, is stopped, and goes on.
    assert_eq!(b.send(Method::Get, &at("/zip"), Value::Null).await.status(), Status::NotFound);
    assert_eq!(b.json(Method::Post, &at(""), json!("stop")).await["state"], "stopped");
    rocket::tokio::spawn(jobs::work_on(b.rooms.clone()));
    sleep(Duration::from_millis(300)).await;
    assert_eq!(b.until(&id, "stopped").await["done"], 0);
    b.json(Method::Post, &at(""), json!("go_on")).await;
    let done = b.until(&id, "done").await;
    assert_eq!((&done["done"], &done["failed"], &done["left"]), (&json!(4), &json!(0), &Value::Null));

    let alone = format!(
        "/api/shots/{}/revisions/1/handoff?target=%7B%22kind%22:%22shot%22%7D&form=%7B%22format%22:%22exr_float%22%7D&frame=9",
        b.shot
    );
    let whole = b.bytes(&alone).await;
    let file = b.send(Method::Get, &at("/frames/9"), Value::Null).await;
    let name = file.headers().get_one("Content-Disposition").unwrap().to_owned();
    assert_eq!(name, "attachment; filename=\"orrery.09.exr\"");
    assert_eq!(file.into_bytes().await.unwrap(), whole, "the same bytes as one by one");
    assert!(b.bytes(&at("/frames/12/picture")).await.starts_with(b"\x89PNG"));
    let shown = b.json(Method::Get, &at("/frames"), Value::Null).await;
    let numbers: Vec<i64> = shown.as_array().unwrap().iter().map(|f| f["frame"].as_i64().unwrap()).collect();
    assert_eq!(numbers, [9, 10, 11, 12]);

    let mut zip = zip::ZipArchive::new(Cursor::new(b.bytes(&at("/zip")).await)).unwrap();
    let names: Vec<String> = zip.file_names().map(|n| n.unwrap().into_owned()).collect();
    assert_eq!(names, ["orrery.09.exr", "orrery.10.exr", "orrery.11.exr", "orrery.12.exr"]);
    let mut first = Vec::new();
    zip.by_name("orrery.09.exr").unwrap().read_to_end(&mut first).unwrap();
    assert_eq!(first, whole);

    // What fails says why; a frame without a file has none.
    let (_, job) = b.ask(10, json!({"kind": "untouched", "element": 77}), "png16").await;
    let failed = b.until(job["id"].as_str().unwrap(), "done").await;
    assert_eq!((&failed["done"], &failed["failed"]), (&json!(0), &json!(2)));
    let frames = format!("/api/jobs/{}/frames", failed["id"].as_str().unwrap());
    let told = b.json(Method::Get, &frames, Value::Null).await;
    assert_eq!(told[0]["error"], "There is no element 77 in this shot.");
    let none = format!("/api/jobs/{}/frames/9", failed["id"].as_str().unwrap());
    assert_eq!(b.send(Method::Get, &none, Value::Null).await.status(), Status::NotFound);
    let (code, said) = b.ask(8, json!({"kind": "shot"}), "png16").await;
    assert_eq!((code, &said["error"]), (422, &json!("The range: it must be 1 to 100000 frames long.")));
    assert_eq!(b.send(Method::Delete, &at(""), Value::Null).await.status(), Status::NoContent);
    assert_eq!(b.send(Method::Post, &at(""), json!("pause")).await.status(), Status::NotFound);
}

#[rocket::async_test]
async fn frames_are_put_into_a_folder_and_a_folder_that_is_in_the_way_loses_none() {
    let b = Bench::new().await;
    let out = b.folder.path().join("out");
    let path = format!("/api/shots/{}/revisions/1/jobs", b.shot);
    let ask = async |folder: &str| {
        let wish = json!({"target": {"kind": "shot"}, "form": {"format": "png16"}, "name": "o.##", "folder": folder});
        let body = json!({"wish": wish, "range": {"first": 1, "last": 3}});
        let answer = b.send(Method::Post, &path, body).await;
        (answer.status().code, answer.into_json::<Value>().await.unwrap())
    };
    for wrong in ["../up", "a/b", ".hidden", " "] {
        let (code, said) = ask(wrong).await;
        assert_eq!(code, 422, "{wrong}");
        assert!(said["error"].as_str().unwrap().ends_with("cannot be the name of a folder."), "{said}");
    }
    // A file lies where the folder of one job has to be: it is told, and keeps no other job from its own.
    std::fs::create_dir_all(&out).unwrap();
    std::fs::write(out.join("taken"), b"a file").unwrap();
    let (_, stuck) = ask("taken").await;
    let (code, free) = ask("Ring at dusk").await;
    assert_eq!(code, 201);
    rocket::tokio::spawn(jobs::work_on(b.rooms.clone()));
    rocket::tokio::spawn(outbox::put_out(b.rooms.clone(), out.clone()));
    let put = async |job: &Value, count: i64| {
        let start = Instant::now();
        loop {
            let now = b.until(job["id"].as_str().unwrap(), "done").await;
            if now["put"] == count {
                return;
            }
            assert!(start.elapsed() < Duration::from_secs(60), "{now}");
            sleep(Duration::from_millis(50)).await;
        }
    };
    put(&free, 3).await;
    let file = b.bytes(&format!("/api/jobs/{}/frames/2", free["id"].as_str().unwrap())).await;
    assert_eq!(std::fs::read(out.join("Ring at dusk/o.02.png")).unwrap(), file);
    assert_eq!(std::fs::read_dir(out.join("Ring at dusk")).unwrap().count(), 3, "no half of a file is left");
    put(&stuck, 0).await;
    let start = Instant::now();
    loop {
        let told = b.json(Method::Get, "/api/outbox", Value::Null).await;
        if told["trouble"].as_str().is_some_and(|t| t.contains("taken") && t.contains("tried again")) {
            break;
        }
        assert!(start.elapsed() < Duration::from_secs(60), "{told}");
        sleep(Duration::from_millis(50)).await;
    }
    std::fs::remove_file(out.join("taken")).unwrap();
    put(&stuck, 3).await;
    assert_eq!(std::fs::read(out.join("taken/o.02.png")).unwrap(), file);
}
