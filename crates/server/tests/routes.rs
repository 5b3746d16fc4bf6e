//! The routes through Rocket's local client, against a real PostgreSQL.
#![allow(clippy::unwrap_used)]

use jugata_server::{App, Config, build, demo, open};
use jugata_standin::Settings;
use jugata_testkit::Database;
use rocket::http::{ContentType, Header, Status};
use rocket::local::asynchronous::{Client, LocalResponse};
use serde_json::{Value, json};
use std::sync::Arc;

struct Bench {
    client: Client,
    rooms: Arc<App>,
    id: String,
    bytes: Vec<u8>,
    // Dropped last: the server lets go of its connections first.
    _folder: tempfile::TempDir,
    _postgres: Database,
}

const SMALL: Settings = Settings::sized(64, 36, 1);

impl Bench {
    async fn new() -> Self {
        let postgres = Database::make();
        let folder = tempfile::tempdir().unwrap();
        let mut config =
            Config::new(postgres.url(), folder.path().join("media"), folder.path().join("web"), 0);
        config.upload_bytes = 4 << 20;
        let rooms = open(config).await.unwrap();
        let id = demo::make(&rooms, SMALL).await.unwrap().to_string();
        let bytes = jugata_standin::export::exr(&jugata_standin::render(&SMALL)).unwrap();
        let client = Client::untracked(build(rooms.clone())).await.unwrap();
        Self { client, rooms, id, bytes, _folder: folder, _postgres: postgres }
    }

    async fn get(&self, path: &str) -> LocalResponse<'_> {
        self.client.get(path.to_owned()).header(host()).dispatch().await
    }

    async fn post(&self, path: &str, body: &Value) -> LocalResponse<'_> {
        self.client.post(path.to_owned()).header(host()).json(body).dispatch().await
    }

    async fn upload(&self, name: &str, body: &[u8]) -> (Status, Value) {
        let r = self
            .client
            .post(format!("/api/shots?name={name}"))
            .header(host())
            .header(ContentType::Binary)
            .body(body)
            .dispatch()
            .await;
        (r.status(), r.into_json().await.unwrap())
    }

    async fn state(&self) -> Value {
        self.get(&format!("/api/shots/{}", self.id)).await.into_json().await.unwrap()
    }

    fn at(&self, rest: &str) -> String {
        format!("/api/shots/{}/{rest}", self.id)
    }
}

fn host() -> Header<'static> {
    Header::new("Host", "127.0.0.1:8417")
}

/// A query value: every byte that is not plain is encoded.
fn encoded(text: &str) -> String {
    let plain = |b: u8| b.is_ascii_alphanumeric();
    text.bytes().map(|b| if plain(b) { (b as char).to_string() } else { format!("%{b:02X}") }).collect()
}

#[rocket::async_test]
async fn revisions_conflicts_undo_and_redo() {
    let b = Bench::new().await;
    let state = b.state().await;
    assert_eq!(state["revision"], 1);
    assert!(
        state["at_frame"]["sentences"][0]["text"]
            .as_str()
            .unwrap()
            .starts_with("Relight from the upper right")
    );

    let mut shot = state["shot"].clone();
    shot["elements"][0]["steps"][1]["does"]["stops"] = json!(1.5);
    let edit = json!({"base": 1, "label": "Brighter", "edits": [{"at": "", "put": shot}]});
    let saved = b.post(&b.at("revisions"), &edit).await;
    assert_eq!(saved.status(), Status::Ok);
    let again = b.post(&b.at("revisions"), &edit).await;
    assert_eq!(again.status(), Status::Conflict);
    let said: Value = again.into_json().await.unwrap();
    assert!(said["error"].as_str().unwrap().starts_with("This shot was changed elsewhere"));

    let undone: Value = b.post(&b.at("undo"), &json!({"base": 2})).await.into_json().await.unwrap();
    assert_eq!((&undone["revision"], &undone["redo"]), (&json!(1), &json!("Brighter")));
    assert_eq!(b.post(&b.at("undo"), &json!({"base": 1})).await.status(), Status::Conflict);
    let redone: Value = b.post(&b.at("redo"), &json!({"base": 1})).await.into_json().await.unwrap();
    assert_eq!(redone["shot"]["elements"][0]["steps"][1]["does"]["stops"], 1.5);
    let history: Value = b.get(&b.at("history")).await.into_json().await.unwrap();
    assert_eq!(history.as_array().unwrap().len(), 2);
}

#[rocket::async_test]
async fn pictures_have_an_etag_and_change_with_the_document() {
    let b = Bench::new().await;
    let look = json!({"target": {"kind": "shot"}, "viewer": "t"});
    let path = b.at(&format!("revisions/1/picture?look={}", encoded(&look.to_string())));
    let first = b.get(&path).await;
    assert_eq!((first.status(), first.content_type()), (Status::Ok, Some(ContentType::PNG)));
    let tag = first.headers().get_one("ETag").unwrap().to_owned();
    let png = first.into_bytes().await.unwrap();
    assert_eq!(&png[1..4], b"PNG");

    let known = b.client.get(path.clone()).header(host()).header(Header::new("If-None-Match", tag.clone()));
    assert_eq!(known.dispatch().await.status(), Status::NotModified);

    // A document that is not saved gives another picture; the same document the same tag.
    let mut shot = b.state().await["shot"].clone();
    let same = b
        .post(
            "/api/preview",
            &json!({"shot": {"id": b.id, "base": 1, "edits": [{"at": "", "put": shot}]}, "look": look}),
        )
        .await;
    assert_eq!(same.headers().get_one("ETag"), Some(tag.as_str()));
    shot["elements"][0]["steps"][0]["does"]["lamps"][0]["intensity"] = json!(4.0);
    let other = b
        .post(
            "/api/preview",
            &json!({"shot": {"id": b.id, "base": 1, "edits": [{"at": "", "put": shot}]}, "look": look}),
        )
        .await;
    assert_ne!(other.headers().get_one("ETag"), Some(tag.as_str()));
    assert_ne!(other.into_bytes().await.unwrap(), png);

    // Bare bytes are the same pixels under another tag.
    let bare = json!({"target": {"kind": "shot"}, "raw": true});
    let shot = &b.state().await["shot"];
    let raw = b
        .post(
            "/api/preview",
            &json!({"shot": {"id": b.id, "base": 1, "edits": [{"at": "", "put": shot}]}, "look": bare}),
        )
        .await;
    assert_eq!(raw.content_type(), Some(ContentType::Binary));
    assert_ne!(raw.headers().get_one("ETag"), Some(tag.as_str()));
    let raw = raw.into_bytes().await.unwrap();
    let decoded = jugata_exchange::read(&png, &Default::default()).unwrap();
    let planes = decoded.parts[0].raster(&["R".into(), "G".into(), "B".into()]).unwrap();
    assert_eq!(raw.len(), planes.window().area() * 4);
    for (i, px) in raw.chunks(4).enumerate() {
        let want = [0, 1, 2].map(|c| (planes.plane(c)[i] * 255.0).round() as u8);
        assert_eq!((&px[..3], px[3]), (&want[..], 255), "pixel {i}");
    }
}

#[rocket::async_test]
async fn pictures_of_frames_are_named_without_being_made_and_made_ahead() {
    let b = Bench::new().await;
    // A still that was given frames, and a value that moves over three of them.
    let mut shot = b.state().await["shot"].clone();
    shot["frames"] = json!({"first": 1, "last": 5});
    let keys = json!([{"frame": 2, "value": [0.5], "goes": "linear"}, {"frame": 4, "value": [2.0], "goes": "linear"}]);
    shot["drives"] = json!([{"id": 1, "at": "elements/1/steps/1/does/lamps/1/intensity", "by": {"kind": "keys", "keys": keys}}]);
    let edit = json!({"base": 1, "label": "Let it move", "edits": [{"at": "", "put": shot}]});
    assert_eq!(b.post(&b.at("revisions"), &edit).await.status(), Status::Ok);
    let ask = json!({"look": {"target": {"kind": "shot"}, "viewer": null}, "from": 1, "to": 5});
    let names = async |revision: i32| -> Vec<Option<String>> {
        b.post(&b.at(&format!("revisions/{revision}/names")), &ask).await.into_json().await.unwrap()
    };
    let told = names(2).await;
    assert!(told.iter().all(Option::is_some));
    // Equal before the first key and after the last, and no two of those between.
    assert_eq!((&told[0], &told[3]), (&told[1], &told[4]));
    assert!(told[1] != told[2] && told[2] != told[3] && told[1] != told[3]);
    // A picture that was made ahead has its name, and is what somebody gets who wants it.
    let look = |ahead: bool, frame: i32| {
        encoded(&json!({"target": {"kind": "shot"}, "frame": frame, "ahead": ahead}).to_string())
    };
    let made = b.get(&b.at(&format!("revisions/2/picture?look={}", look(true, 3)))).await;
    assert_eq!(made.headers().get_one("ETag"), told[2].as_deref());
    let made = made.into_bytes().await.unwrap();
    let wanted = b.get(&b.at(&format!("revisions/2/picture?look={}", look(false, 3)))).await;
    assert_eq!(wanted.into_bytes().await.unwrap(), made);
    // Another revision with the same pictures has the same names.
    b.post(&b.at("undo"), &json!({"base": 2})).await;
    b.post(&b.at("redo"), &json!({"base": 1})).await;
    assert_eq!(names(2).await, told);
    let most = json!({"look": {"target": {"kind": "shot"}}, "from": i32::MIN, "to": i32::MAX});
    let refused = b.post(&b.at("revisions/2/names"), &most).await;
    assert_eq!(refused.status(), Status::UnprocessableEntity);

    // One pixel over time is what the probe says at each frame.
    let course = json!({"target": {"kind": "shot"}, "x": 40, "y": 20, "from": 1, "to": 5});
    let over: Vec<Vec<f32>> = b.post(&b.at("revisions/2/pixels"), &course).await.into_json().await.unwrap();
    for (frame, pixel) in (1..).zip(&over) {
        let probe: Value = b
            .get(&b.at(&format!("revisions/2/probe?element=1&frame={frame}&x=40&y=20")))
            .await
            .into_json()
            .await
            .unwrap();
        let result: Vec<f32> = serde_json::from_value(probe["result"].clone()).unwrap();
        assert_eq!(&result, pixel, "frame {frame}");
    }
    assert!(over.len() == 5 && over[2][0] > over[1][0]);
}

#[rocket::async_test]
async fn every_frame_of_the_demos_take_is_another_and_its_focus_goes_between_two_planets() {
    let b = Bench::new().await;
    let id = demo::make_take(&b.rooms, Settings::sized(96, 54, 1), 12).await.unwrap();
    let state: Value = b.get(&format!("/api/shots/{id}")).await.into_json().await.unwrap();
    assert_eq!(state["shot"]["frames"], json!({"first": 1, "last": 12}));
    let ask = json!({"look": {"target": {"kind": "shot"}}, "from": 1, "to": 12});
    let path = format!("/api/shots/{id}/revisions/1/names");
    let names: Vec<Option<String>> = b.post(&path, &ask).await.into_json().await.unwrap();
    let distinct: std::collections::HashSet<_> = names.iter().flatten().collect();
    assert_eq!(distinct.len(), 12);
    let focus = json!({"shot": {"id": id, "base": 1, "edits": []}, "at": "elements/1/steps/3/does/focus", "from": 1, "to": 12});
    let course: Vec<Vec<f32>> = b.post("/api/course", &focus).await.into_json().await.unwrap();
    let (from, to) = (course[0][0], course[11][0]);
    assert!((from - to).abs() > 0.5 && [from, to].iter().all(|z| (5.0..12.0).contains(z)), "{from} {to}");
    assert!(course.windows(2).all(|p| (p[1][0] - p[0][0]) * (to - from) >= 0.0), "it goes one way");
}

#[rocket::async_test]
async fn a_rocked_picture_is_another_one_with_another_depth() {
    let b = Bench::new().await;
    let mut shot = b.state().await["shot"].clone();
    // No step reads depth, so the picture itself stays the same.
    let plain = json!({"target": {"kind": "untouched", "element": 1}});
    let mut rocked = plain.clone();
    rocked["rock"] = json!({"amount": 6.0, "phase": 1.0});
    let tag = async |shot: &Value, look: &Value| {
        let answer = b
            .post(
                "/api/preview",
                &json!({"shot": {"id": b.id, "base": 1, "edits": [{"at": "", "put": shot}]}, "look": look}),
            )
            .await;
        assert_eq!(answer.status(), Status::Ok);
        answer.headers().get_one("ETag").unwrap().to_owned()
    };
    let before = [tag(&shot, &plain).await, tag(&shot, &rocked).await];
    assert_ne!(before[0], before[1]);
    shot["elements"][0]["extracts"] = json!([{"id": 1001, "name": "far", "serves": true, "does": {
        "kind": "range_depth", "measure": "same", "from_near": 1.0, "to_near": 9.0, "from_far": 2.0, "to_far": 8.0, "hold": false,
    }}]);
    assert_eq!(tag(&shot, &plain).await, before[0]);
    assert_ne!(tag(&shot, &rocked).await, before[1]);
}

/// A shot as it stands at its first revision, as a page sends it.
fn as_kept(id: &str) -> Value {
    json!({"id": id, "base": 1, "edits": []})
}

#[rocket::async_test]
async fn numbers_and_clicks() {
    let b = Bench::new().await;
    let probe: Value = b.get(&b.at("revisions/1/probe?element=1&x=32&y=30")).await.into_json().await.unwrap();
    let depth = probe["passes"].as_array().unwrap().iter().find(|p| p["role"] == "depth").unwrap();
    let z = depth["canonical"][0].as_f64().unwrap();
    assert!((3.0..20.0).contains(&z), "{z}");
    assert_eq!(depth["canonical"], depth["stored"]);
    assert_eq!(probe["result"].as_array().unwrap().len(), 4);
    // How often each tone is met before a step; what is not there is said.
    let asked = |step: u32| b.at(&format!("revisions/1/histogram?element=1&step={step}&display=true"));
    let tones: Value = b.get(&asked(1)).await.into_json().await.unwrap();
    for of in ["all", "red", "green", "blue"] {
        let shares: Vec<f64> = serde_json::from_value(tones[of].clone()).unwrap();
        let sum: f64 = shares.iter().sum();
        assert!(shares.len() == 64 && sum > 0.5 && sum < 1.0 + 1e-4, "{of}: {sum}");
    }
    assert_eq!(b.get(&asked(77)).await.status(), Status::NotFound);

    let shot = b.state().await["shot"].clone();
    let click = |x: i32, y: i32, how: Value| json!({"shot": as_kept(&b.id), "element": 1, "step": 1, "lamp": 0, "x": x, "y": y, "how": how});
    let highlight = || json!({"kind": "highlight"});
    let placed: Value = b.post("/api/place", &click(32, 12, highlight())).await.into_json().await.unwrap();
    let before = &shot["elements"][0]["steps"][0]["does"]["lamps"][0];
    assert_ne!(placed["lamp"]["toward"], before["toward"]);
    let depth = |v: &Value| v["lamp"]["position"][2].as_f64().unwrap();
    let hung = async |lift: f64| -> Value {
        let how = json!({"kind": "surface", "lift": lift});
        b.post("/api/place", &click(32, 12, how)).await.into_json().await.unwrap()
    };
    let (on, off) = (hung(0.0).await, hung(0.5).await);
    assert!(depth(&off) > depth(&on) && depth(&off) < depth(&on) + 0.51, "nearer by at most the lift");
    let aimed: Value =
        b.post("/api/place", &click(32, 12, json!({"kind": "aim"}))).await.into_json().await.unwrap();
    assert_eq!(aimed["lamp"]["aim"], on["lamp"]["position"]);
    let nothing = b.post("/api/place", &click(63, 0, highlight())).await;
    assert_eq!(nothing.status(), Status::UnprocessableEntity);
    let said: Value = nothing.into_json().await.unwrap();
    assert_eq!(said["error"], "Step 1: there is no surface at that place.");
}

#[rocket::async_test]
async fn a_file_comes_in_and_results_go_out() {
    let b = Bench::new().await;
    let (status, made) = b.upload("my_render.exr", &b.bytes).await;
    assert_eq!(status, Status::Ok, "{made}");
    let path = format!("/api/shots/{}", made["id"].as_str().unwrap());
    let state: Value = b.get(&path).await.into_json().await.unwrap();
    assert_eq!(state["shot"]["name"], "my_render");
    let roles: Vec<&str> = state["shot"]["elements"][0]["passes"]
        .as_array()
        .unwrap()
        .iter()
        .map(|p| p["role"].as_str().unwrap())
        .collect();
    assert_eq!(
        roles,
        ["beauty", "depth", "normal", "position", "uv", "motion", "object_id", "hashed_id", "albedo"]
    );
    assert!(state["shot"]["elements"][0]["camera"]["focal"].as_f64().unwrap() > 10.0);

    let target = encoded(&json!({"kind": "shot"}).to_string());
    let handoff = |target: &str, format: &str| {
        let form = encoded(&json!({"format": format}).to_string());
        b.at(&format!("revisions/1/handoff?target={target}&form={form}"))
    };
    let out = b.get(&handoff(&target, "exr_float")).await;
    let name = out.headers().get_one("Content-Disposition").unwrap().to_owned();
    assert_eq!(name, "attachment; filename=\"Veldmere_orrery.exr\"");
    let file =
        jugata_exchange::exr_read::read(&out.into_bytes().await.unwrap(), &Default::default()).unwrap();
    assert_eq!(file.parts[0].channels.len(), 4);
    let png = b.get(&handoff(&target, "png16")).await;
    assert_eq!(png.content_type(), Some(ContentType::PNG));
    // The depth beside it: of the same size, with a name that says so.
    let element = &b.state().await["shot"]["elements"][0];
    let depth = element["passes"].as_array().unwrap().iter().find(|p| p["role"] == "depth").unwrap();
    let target = json!({"kind": "pass", "element": element["id"], "pass": depth["id"]}).to_string();
    let png = b.get(&handoff(&encoded(&target), "png16")).await;
    let name = png.headers().get_one("Content-Disposition").unwrap().to_owned();
    assert_eq!(name, "attachment; filename=\"Veldmere_orrery_depth.png\"");
    let grey = jugata_exchange::read(&png.into_bytes().await.unwrap(), &Default::default()).unwrap();
    assert_eq!((grey.display_window, grey.parts[0].channels.len()), (file.display_window, 1));
    let pair = format!("revisions/1/pair?element={}&pass={}", element["id"], depth["id"]);
    let pair = b.get(&b.at(&pair)).await.into_bytes().await.unwrap();
    let mut pair = zip::ZipArchive::new(std::io::Cursor::new(pair)).unwrap();
    let names: Vec<String> = pair.file_names().map(|n| n.unwrap().into_owned()).collect();
    assert_eq!(names, ["Veldmere_orrery.png", "Veldmere_orrery_depth.png"]);
    assert!(pair.by_name("Veldmere_orrery_depth.png").unwrap().size() > 1000);
    let document = b.get(&b.at("revisions/1/document")).await.into_string().await.unwrap();
    assert!(jugata_shot::check::parse(&document).is_ok());
}

#[rocket::async_test]
async fn hostile_uploads_get_one_sentence_and_harm_nothing() {
    let b = Bench::new().await;
    let mut torn = b.bytes.clone();
    torn.truncate(torn.len() / 2);
    // A data window of 2³¹ px: the header promises terabytes.
    let mut huge = b.bytes.clone();
    let at = huge.windows(18).position(|w| w == b"dataWindow\0box2i\0\x10").unwrap() + 17 + 4 + 8;
    huge[at..at + 4].copy_from_slice(&i32::MAX.to_le_bytes());
    let mut scribbled = b.bytes.clone();
    let end = scribbled.len();
    scribbled[end / 2..end / 2 + 400].fill(0xa5);
    for (name, body, code) in [
        ("text.exr", &b"hello"[..], 415),
        ("empty.exr", &[], 415),
        ("magic.exr", &[0x76, 0x2f, 0x31, 0x01], 422),
        ("big.exr", &vec![0; 5 << 20], 413),
    ] {
        let (status, said) = b.upload(name, body).await;
        let sentence = said["error"].as_str().unwrap();
        assert_eq!(status.code, code, "{name}: {sentence}");
        assert!(sentence.ends_with('.') && !sentence.contains('\n'), "{name}: {sentence}");
    }
    // What is there of a torn or damaged file comes in, and what is missing is said.
    for (name, body) in [("torn.exr", &torn), ("scribbled.exr", &scribbled)] {
        let (status, made) = b.upload(name, body).await;
        assert_eq!(status, Status::Ok, "{made}");
        let state: Value =
            b.get(&format!("/api/shots/{}", made["id"].as_str().unwrap())).await.into_json().await.unwrap();
        let notes = state["shot"]["elements"][0]["notes"].to_string();
        assert!(notes.contains("missing or damaged"), "{name}: {notes}");
    }
    let (status, said) = b.upload("huge.exr", &huge).await;
    assert!((400..500).contains(&status.code), "{said}");
    let list: Value = b.get("/api/shots").await.into_json().await.unwrap();
    assert_eq!(list.as_array().unwrap().len(), 3, "nothing was made of the others");
}

#[rocket::async_test]
async fn passes_are_known_checked_and_compared() {
    let b = Bench::new().await;
    let json = |path: &str| format!("{path}?element=1");
    let found: Value = b.get(&b.at(&json("revisions/1/findings"))).await.into_json().await.unwrap();
    assert_eq!(found, json!([]), "the demo is clean");
    let facts: Value = b.get(&b.at(&json("revisions/1/passes"))).await.into_json().await.unwrap();
    let facts = facts.as_array().unwrap();
    assert_eq!(facts.len(), 9);
    assert!(facts.iter().any(|f| f["names"].as_array().unwrap().iter().any(|n| n[1] == "Ring")));
    let histogram = facts.iter().find(|f| !f["range"].is_null()).unwrap()["histogram"].as_array().unwrap();
    let sum: f64 = histogram.iter().map(|v| v.as_f64().unwrap()).sum();
    assert!((sum - 1.0).abs() < 1e-3);
    let ask =
        |target: Value| json!({"target": {"kind": "shot"}, "other": {"kind": "target", "target": target}});
    let of = async |target: Value| -> Value {
        b.post(&b.at("revisions/1/compare"), &ask(target)).await.into_json().await.unwrap()
    };
    let same = of(json!({"kind": "shot"})).await;
    assert_eq!((&same["psnr"], same["largest"].as_f64()), (&Value::Null, Some(0.0)));
    let other = of(json!({"kind": "untouched", "element": 1})).await;
    assert!(other["psnr"].as_f64().unwrap() > 10.0 && other["ssim"].as_f64().unwrap() < 1.0, "{other}");
}

#[rocket::async_test]
async fn bad_requests_are_refused_in_a_sentence() {
    let b = Bench::new().await;
    let shot = b.state().await["shot"].clone();
    let mut bad = shot.clone();
    bad["elements"][0]["steps"][0]["does"]["wrap"] = json!(7.0);
    let said: Value = b
        .post(&b.at("revisions"), &json!({"base": 1, "label": "x", "edits": [{"at": "", "put": bad}]}))
        .await
        .into_json()
        .await
        .unwrap();
    assert_eq!(said["error"], "Step 1 (Relight): “Wrap” is 7, and must lie between 0 and 1.");
    let window =
        json!({"target": {"kind": "shot"}, "window": {"x": 0, "y": 0, "width": 90000, "height": 90000}});
    let large = b
        .post(
            "/api/preview",
            &json!({"shot": {"id": b.id, "base": 1, "edits": [{"at": "", "put": shot}]}, "look": window}),
        )
        .await;
    assert_eq!(large.status(), Status::UnprocessableEntity);
    assert_eq!(
        b.post(&b.at("revisions"), &json!({"nonsense": 1})).await.status(),
        Status::UnprocessableEntity
    );
    assert_eq!(b.get("/api/shots/00000000-0000-0000-0000-000000000000").await.status(), Status::NotFound);
    assert_eq!(b.get("/api/nothing").await.status(), Status::NotFound);
}

#[rocket::async_test]
async fn other_sites_are_turned_away() {
    let b = Bench::new().await;
    let ask = |host: &'static str, origin: Option<&'static str>| {
        let mut r = b.client.get("/api/shots").header(Header::new("Host", host));
        if let Some(o) = origin {
            r.add_header(Header::new("Origin", o));
        }
        async move { r.dispatch().await.status() }
    };
    assert_eq!(ask("127.0.0.1:1", None).await, Status::Ok);
    assert_eq!(ask("localhost:1", Some("http://localhost:1")).await, Status::Ok);
    assert_eq!(ask("rebound.example:1", None).await, Status::Forbidden);
    assert_eq!(ask("127.0.0.1:1", Some("http://evil.example")).await, Status::Forbidden);
    assert_eq!(ask("127.0.0.1:1", Some("http://127.0.0.1:2")).await, Status::Forbidden);
    let r = b.get("/api/shots").await;
    assert!(r.headers().get_one("Content-Security-Policy").unwrap().starts_with("default-src 'self'"));
}

/// Puts a file into a folder as a renderer does that writes under the final name.
fn put(folder: &std::path::Path, name: &str, bytes: &[u8]) {
    std::fs::create_dir_all(folder).unwrap();
    std::fs::write(folder.join(name), bytes).unwrap();
}

#[rocket::async_test]
async fn what_a_renderer_delivers_comes_in_by_itself() {
    use rocket::tokio::time::{Duration, sleep, timeout};
    let postgres = Database::make();
    let folder = tempfile::tempdir().unwrap();
    let drop = folder.path().join("drop");
    let mut config = Config::new(postgres.url(), folder.path().join("media"), folder.path().join("web"), 0);
    config.drop = Some(drop.clone());
    let rooms = open(config).await.unwrap();
    let mut news = rooms.news.subscribe();
    let watching = rocket::tokio::spawn(jugata_server::delivery::watch(rooms.clone(), drop.clone()));
    let frame = |frame| {
        let settings = Settings { frame, ..SMALL };
        jugata_standin::export::exr(&jugata_standin::render(&settings)).unwrap()
    };
    put(&drop.join("take one"), "orrery.0001.exr", &frame(1));
    put(&drop.join("take one"), "notes.txt", b"not a picture");
    let told = timeout(Duration::from_secs(20), news.recv()).await.unwrap().unwrap();
    assert_eq!((told.revision, told.words.as_str()), (1, "one file arrived"));
    put(&drop.join("take one"), "orrery.0002.exr", &frame(2));
    put(&drop.join("take one"), "orrery.0003.exr", &frame(3));
    let mut revision = 0;
    let mut frames = None;
    while frames.as_ref().is_none_or(|f: &jugata_shot::document::FrameRange| f.last < 3) {
        let again = timeout(Duration::from_secs(20), news.recv()).await.unwrap().unwrap();
        assert!(again.shot == told.shot && again.revision > revision);
        revision = again.revision;
        frames = rooms.store.load(told.shot).unwrap().shot.frames;
    }
    let shot = rooms.store.load(told.shot).unwrap().shot;
    assert_eq!(
        (shot.name.as_str(), shot.elements.len(), shot.elements[0].sequences.len()),
        ("take one", 1, 1)
    );

    // A bad file is told once it had time to grow, and spoils nothing; what was taken is not taken again.
    put(&drop, "bad.exr", b"half a file");
    let bad = || rooms.delivery().refused.iter().any(|s| s.contains("bad.exr: This is not an image"));
    timeout(Duration::from_secs(30), async {
        while !bad() {
            sleep(Duration::from_millis(200)).await;
        }
    })
    .await
    .unwrap();
    assert_eq!(rooms.store.load(told.shot).unwrap().revision, revision);
    assert_eq!(rooms.delivery().refused.len(), 1, "{:?}", rooms.delivery().refused);

    // After a restart, nothing is taken twice.
    watching.abort();
    let again = rocket::tokio::spawn(jugata_server::delivery::watch(rooms.clone(), drop));
    sleep(Duration::from_millis(2500)).await;
    again.abort();
    assert!(news.try_recv().is_err());
}

#[rocket::async_test]
async fn a_colour_table_is_taken_and_shown_through() {
    let b = Bench::new().await;
    let send = |name: &'static str, body: &'static str| {
        b.client.post(format!("/api/luts?name={name}")).header(host()).body(body).dispatch()
    };
    let bad = send("bad.cube", "LUT_1D_SIZE 2\n0 0 0\n").await;
    assert_eq!(bad.status(), Status::UnprocessableEntity);
    // One that gives middle grey for everything.
    let flat = send("flat.cube", "LUT_1D_SIZE 2\n.5 .5 .5\n.5 .5 .5\n").await;
    assert_eq!(flat.status(), Status::Ok);
    let file: Value = flat.into_json().await.unwrap();
    assert_eq!(file["name"], "flat.cube");
    let look = json!({"target": {"kind": "shot"}, "grade": {"file": file, "reads": "srgb"}}).to_string();
    let shown = b.get(&b.at(&format!("revisions/1/picture?look={}", encoded(&look)))).await;
    assert_eq!(shown.status(), Status::Ok);
    let png = shown.into_bytes().await.unwrap();
    let picture = jugata_exchange::read(&png, &jugata_exchange::Limits::default()).unwrap();
    assert!(picture.parts[0].channels[0].samples.wide().iter().all(|v| (v * 255.0).round() == 128.0));
    let memory: Value = b.get("/api/memory").await.into_json().await.unwrap();
    assert!(memory["files"]["bytes"].as_u64().unwrap() > 0 && memory["files"]["most"] == 1u64 << 30);
}

#[rocket::async_test]
async fn the_grey_of_a_depth_is_the_same_whatever_part_is_on_the_screen() {
    let b = Bench::new().await;
    let grey = |x: i32, width: u32| {
        let window = json!({"x": x, "y": 10, "width": width, "height": 4});
        let look = json!({"target": {"kind": "pass", "element": 1, "pass": 2}, "window": window}).to_string();
        b.at(&format!("revisions/1/picture?look={}", encoded(&look)))
    };
    let mut rows = Vec::new();
    for (x, width) in [(0, 64), (20, 12)] {
        let png = b.get(&grey(x, width)).await.into_bytes().await.unwrap();
        let picture = jugata_exchange::read(&png, &jugata_exchange::Limits::default()).unwrap();
        let plane = picture.parts[0].channels[0].samples.wide().to_vec();
        rows.push(plane[(20 - x) as usize..][..12].to_vec());
    }
    assert_eq!(rows[0], rows[1]);
}

#[rocket::async_test]
async fn the_demo_brings_presets_along_that_fit_what_they_are_for() {
    let b = Bench::new().await;
    demo::make_presets(&b.rooms, b.id.parse().unwrap()).await.unwrap();
    let title = demo::make_title(&b.rooms, 320).await.unwrap();
    let presets: Vec<Value> = b.get("/api/presets").await.into_json().await.unwrap();
    assert_eq!(presets.len(), 5);
    for p in presets {
        assert_eq!(p["pictured"], true, "{p}");
        let letters = p["height"].is_number();
        let shot = if letters { title.to_string() } else { b.id.clone() };
        let ask = json!({ "shot": as_kept(&shot), "element": if letters { 3 } else { 1 } });
        let id = p["id"].as_str().unwrap();
        let applied: Value =
            b.post(&format!("/api/presets/{id}/apply"), &ask).await.into_json().await.unwrap();
        assert_eq!(applied["missing"], json!([]), "{p}");
    }
}
