//! The command line: what it says, what it writes, and that it agrees with the server.
#![allow(clippy::unwrap_used)]

use crate::support::{Server, jugata};
use jugata_testkit::Database;
use serde_json::json;
use std::path::Path;
use std::process::Output;

fn run(args: &[&str], at: &Path) -> Output {
    jugata().args(args).current_dir(at).output().unwrap()
}

fn say(o: &Output) -> String {
    assert!(o.status.success(), "{}", String::from_utf8_lossy(&o.stderr));
    String::from_utf8(o.stdout.clone()).unwrap()
}

fn complaint(args: &[&str], at: &Path) -> String {
    let o = run(args, at);
    assert!(!o.status.success());
    String::from_utf8(o.stderr).unwrap().trim().to_owned()
}

fn small(out: &str) -> Vec<&str> {
    vec!["standin", "--width", "96", "--height", "54", "--samples", "1", "--out", out]
}

#[test]
fn the_demo_scene_is_the_same_bytes_on_every_run_and_is_described() {
    let folder = tempfile::tempdir().unwrap();
    say(&run(&small("a.exr"), folder.path()));
    say(&run(&small("b.exr"), folder.path()));
    let read = |name: &str| std::fs::read(folder.path().join(name)).unwrap();
    assert_eq!(read("a.exr"), read("b.exr"));

    let text = say(&run(&["inspect", "a.exr"], folder.path()));
    for part in [
        "display window  96×54 at 0, 0",
        "focal 133.33 px",
        "objectID.id",
        "normals       98 %  normal.X normal.Y normal.Z",
        "findings\n  none",
    ] {
        assert!(text.contains(part), "{part} is not in\n{text}");
    }
    let report: serde_json::Value =
        serde_json::from_str(&say(&run(&["inspect", "--json", "a.exr"], folder.path()))).unwrap();
    let z = report["files"][0]["parts"][0]["channels"]
        .as_array()
        .unwrap()
        .iter()
        .find(|c| c["name"] == "depth.Z")
        .unwrap();
    assert!(z["not_finite"].as_u64().unwrap() > 0 && z["min"].as_f64().unwrap() > 3.0, "{z}");
}

#[test]
fn what_goes_wrong_is_one_sentence() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    std::fs::write(at.join("text.exr"), "hello").unwrap();
    std::fs::write(at.join("shot.json"), "{}").unwrap();
    assert!(
        complaint(&["inspect", "text.exr"], at)
            .starts_with("text.exr: This is not an image that Jugata reads")
    );
    // The words of a library only for who asks for them.
    std::fs::write(
        at.join("garbled.png"),
        b"\x89PNG\r\n\x1a\n\0\0\0\rIHDRbut nothing that such a header holds",
    )
    .unwrap();
    let [plain, verbose] = [&["inspect", "garbled.png"][..], &["inspect", "garbled.png", "--verbose"]]
        .map(|args| complaint(args, at));
    assert!(plain.lines().count() == 1 && verbose.ends_with(&plain), "{plain}\n{verbose}");
    assert!(verbose.contains("a decoder gave up") && !plain.contains("decoder"), "{verbose}");
    assert!(complaint(&["inspect", "gone.exr"], at).starts_with("gone.exr: The file could not be read"));
    assert!(complaint(&["render", "shot.json", "--out", "x.exr"], at).contains("is missing"));
    assert!(complaint(&["render", "shot.json", "--out", "x.exr", "--scale", "1/3"], at).contains("1/3"));
}

#[test]
fn the_command_line_and_the_browsers_hand_off_give_the_same_pixels() {
    let postgres = Database::make();
    let folder = tempfile::tempdir().unwrap();
    let server = Server::start(&postgres.url(), folder.path(), 160);
    let id = server.get("/api/shots")[0]["id"].as_str().unwrap().to_owned();
    let path = format!("/api/shots/{id}/revisions/1");
    std::fs::write(folder.path().join("shot.json"), server.bytes(&format!("{path}/document"))).unwrap();
    let plain = |format: &str| json!({ "format": format });
    let layers = json!({ "format": "exr_half", "packing": "piz", "with": ["passes", "lights"] });
    for (form, name, more) in [
        (plain("exr_float"), "out.exr", ""),
        (plain("png16"), "out.png", ""),
        (plain("png8"), "eight.png", "--bits 8"),
        (plain("tiff_float"), "out.tif", ""),
        (plain("jpeg"), "out.jpg", ""),
        (layers, "layers.exr", "--bits 16 --packing piz --with passes,lights"),
    ] {
        let mut args = vec!["render", "shot.json", "--media", "media", "--out", name];
        args.extend(more.split_whitespace());
        say(&run(&args, folder.path()));
        let target = "%7B%22kind%22%3A%22shot%22%7D";
        let written: String = form.to_string().bytes().map(|b| format!("%{b:02X}")).collect();
        let theirs = server.bytes(&format!("{path}/handoff?target={target}&form={written}"));
        assert_eq!(std::fs::read(folder.path().join(name)).unwrap(), theirs, "{form}");
    }
    for (wrong, said) in [
        (vec!["--out", "x.png", "--bits", "32"], "A .png file of 32 bits is not written."),
        (vec!["--out", "x.png", "--with", "lights"], "Only an .exr holds layers"),
        (vec!["--out", "x.exr", "--with", "lamps"], "“lamps” is none of untouched"),
        (vec!["--out", "x.gif"], "must end in .exr, .png, .tif or .jpg"),
    ] {
        let args: Vec<&str> = ["render", "shot.json"].into_iter().chain(wrong).collect();
        assert!(complaint(&args, folder.path()).contains(said), "{said}");
    }
    say(&run(&["review", "shot.json", "--media", "media", "--out", "review.html"], folder.path()));
    let sheet = std::fs::read(folder.path().join("review.html")).unwrap();
    assert!(sheet.starts_with(b"<!doctype html>") && sheet == server.bytes(&format!("{path}/sheet")));
    say(&run(&["proof", "shot.json", "--media", "media", "--out", "proof.png"], folder.path()));
    let proof = std::fs::read(folder.path().join("proof.png")).unwrap();
    let target = "%7B%22kind%22%3A%22shot%22%7D";
    assert!(proof == server.bytes(&format!("{path}/proof?target={target}")));
    assert!(
        complaint(
            &["proof", "shot.json", "--media", "media", "--out", "x.png", "--frames", "9-3"],
            folder.path()
        )
        .contains("frames")
    );
    // A preset that the server saved is put on the element without it.
    let (base, presets) = (server.get(&format!("/api/shots/{id}"))["revision"].clone(), "/api/presets");
    let save = json!({"shot": {"id": id, "base": base, "edits": []}, "element": 1, "steps": [1], "name": "Cool side"});
    let preset = server.post(presets, &save).unwrap();
    let document = server.bytes(&format!("{presets}/{}/document", preset.as_str().unwrap()));
    std::fs::write(folder.path().join("cool.json"), document).unwrap();
    let args = ["preset", "cool.json", "shot.json", "--out", "twice.json"];
    let o = run(&args, folder.path());
    assert!(o.status.success());
    assert!(String::from_utf8_lossy(&o.stderr).contains("limited to objects by number"));
    let twice: serde_json::Value =
        serde_json::from_slice(&std::fs::read(folder.path().join("twice.json")).unwrap()).unwrap();
    assert_eq!(twice["elements"][0]["steps"].as_array().unwrap().len(), 3);
    assert!(
        complaint(&["preset", "shot.json", "shot.json", "--out", "x.json"], folder.path())
            .contains("no preset")
    );

    // A folder that is not there is told as such, not as a missing file.
    let nowhere = ["render", "shot.json", "--media", "nowhere", "--out", "x.exr"];
    assert!(complaint(&nowhere, folder.path()).contains("nowhere is no folder"));

    // A window of the command line is that part of the whole.
    let args = ["render", "shot.json", "--media", "media", "--out", "part.exr", "--window", "40,20,30,25"];
    say(&run(&args, folder.path()));
    let read = |name: &str| {
        let bytes = std::fs::read(folder.path().join(name)).unwrap();
        let file = jugata_exchange::exr_read::read(&bytes, &Default::default()).unwrap();
        file.parts[0].raster(&["R".into(), "A".into()]).unwrap()
    };
    let part = read("part.exr");
    assert_eq!(part, read("out.exr").cropped(part.window(), 0.0));
}

#[test]
fn a_killed_server_loses_nothing_that_it_acknowledged() {
    let postgres = Database::make();
    let folder = tempfile::tempdir().unwrap();
    let server = Server::start(&postgres.url(), folder.path(), 64);
    let id = server.get("/api/shots")[0]["id"].as_str().unwrap().to_owned();
    let shot = server.get(&format!("/api/shots/{id}"))["shot"].clone();
    let url = server.url.clone();
    // Edits as fast as they are acknowledged, until the process dies under them.
    let edits = std::thread::spawn({
        let id = id.clone();
        move || {
            let mut kept = 1;
            for stops in 1..10_000 {
                let mut shot = shot.clone();
                shot["elements"][0]["steps"][1]["does"]["stops"] = json!(f64::from(stops) / 1000.0);
                let edit = json!({"base": kept, "label": "Set exposure", "edits": [{"at": "", "put": shot}]});
                match ureq::post(format!("{url}/api/shots/{id}/revisions")).send_json(&edit) {
                    Ok(_) => kept += 1,
                    Err(_) => break,
                }
            }
            kept
        }
    });
    std::thread::sleep(std::time::Duration::from_millis(1500));
    server.kill();
    let kept = edits.join().unwrap();
    assert!(kept > 5, "edits were made: {kept}");

    let server = Server::start(&postgres.url(), folder.path(), 64);
    let state = server.get(&format!("/api/shots/{id}"));
    let revision = i32::try_from(state["revision"].as_i64().unwrap()).unwrap();
    // The last edit may have been kept without its answer arriving; never the other way round.
    assert!(revision == kept || revision == kept + 1, "acknowledged {kept}, found {revision}");
    let stops = state["shot"]["elements"][0]["steps"][1]["does"]["stops"].as_f64().unwrap();
    assert!((stops - f64::from(revision - 1) / 1000.0).abs() < 1e-6);
    let undone = server.post(&format!("/api/shots/{id}/undo"), &json!({"base": revision})).unwrap();
    assert_eq!(undone["revision"].as_i64().unwrap(), i64::from(revision - 1), "undo outlives the restart");
}

#[test]
fn a_shot_file_is_made_checked_and_added_to_without_a_screen() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    for file in jugata_testkit::foreign::files("fence") {
        std::fs::copy(jugata_testkit::foreign::path(file), at.join(file)).unwrap();
    }
    let made = say(&run(&["shot", "new", "fence.exr", "fence_aux.exr", "--out", "fence.json"], at));
    assert!(made.contains("put right: This position pass is in world space"), "{made}");
    assert!(say(&run(&["shot", "check", "fence.json"], at)).contains("is sound"));
    let read = || -> serde_json::Value {
        serde_json::from_str(&std::fs::read_to_string(at.join("fence.json")).unwrap()).unwrap()
    };
    let focal = read()["elements"][0]["camera"]["focal"].as_f64().unwrap();
    assert!((focal - 351.68).abs() < 0.1, "{focal}");
    assert_eq!(read()["elements"].as_array().unwrap().len(), 1);

    let said = say(&run(&["shot", "add-step", "fence.json", "--kind", "exposure", "--set", "stops=1"], at));
    assert!(said.starts_with("1 Exposure") || said.starts_with("1 "), "{said}");
    say(&run(&["render", "fence.json", "--out", "out.exr", "--scale", "1/2"], at));
    assert!(
        complaint(&["shot", "add-step", "fence.json", "--kind", "nothing"], at)
            .contains("The kinds of step are")
    );

    // Any value is put by its address; what is no sound document is told and leaves the file.
    say(&run(&["shot", "set", "fence.json", "elements/1/steps/1/does/stops", "-1.5"], at));
    assert_eq!(read()["elements"][0]["steps"][0]["does"]["stops"], json!(-1.5));
    let stops = ["shot", "set", "fence.json", "elements/1/steps/1/does/stops", "1e9"];
    assert!(complaint(&stops, at).contains("must lie between"));
    assert_eq!(read()["elements"][0]["steps"][0]["does"]["stops"], json!(-1.5));

    // All that is wrong is said at once.
    let mut bad = read();
    bad["rate"] = json!(0);
    bad["elements"][0]["camera"]["focal"] = json!(-1.0);
    bad["elements"][0]["steps"][0]["does"]["stops"] = json!(1e9);
    std::fs::write(at.join("bad.json"), bad.to_string()).unwrap();
    let told = complaint(&["shot", "check", "bad.json"], at);
    assert_eq!(told.lines().count(), 3, "{told}");

    // A file that was made anew is used and told.
    std::fs::copy(jugata_testkit::foreign::path("truth_fence_sun.exr"), at.join("fence.exr")).unwrap();
    let again = run(&["render", "fence.json", "--out", "again.exr", "--scale", "1/2"], at);
    let words = String::from_utf8_lossy(&again.stderr).into_owned();
    assert!(
        again.status.success() && words.contains("fence.exr is not the file that this shot was made with"),
        "{words}"
    );
}

#[test]
fn media_that_nothing_names_are_collected() {
    let postgres = Database::make();
    let folder = tempfile::tempdir().unwrap();
    let server = Server::start(&postgres.url(), folder.path(), 64);
    let bytes = small_render();
    let media: serde_json::Value = ureq::post(format!("{}/api/media?name=alone.exr", server.url))
        .send(&bytes[..])
        .unwrap()
        .body_mut()
        .read_json()
        .unwrap();
    let hash = media["file"]["media"].as_str().unwrap();
    let file = folder.path().join("media").join(jugata_shot::media::media_path(hash));
    assert!(file.exists());
    let (url, store) = (postgres.url(), folder.path().join("media"));
    let line = |rest: &[&str]| {
        let mut all = vec!["media", "--database", &url, "--media", store.to_str().unwrap()];
        all.extend(rest);
        say(&run(&all, folder.path()))
    };
    assert!(line(&["usage"]).contains("1 of them"));
    assert!(line(&["collect"]).starts_with("0 files"), "what came today may be on its way into a shot");
    assert!(line(&["collect", "--older-than", "0"]).starts_with("1 files"));
    assert!(!file.exists());
    // The demo shots still have their own: a picture, a ship, a sun, and a take of 48 frames.
    assert_eq!(server.get("/api/media/usage")["files"], 51);
}

#[test]
fn a_range_of_frames_is_rendered_and_gone_on_with() {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    std::fs::write(at.join("still.exr"), small_render()).unwrap();
    say(&run(&["shot", "new", "still.exr", "--out", "shot.json"], at));
    let text = std::fs::read_to_string(at.join("shot.json")).unwrap();
    let mut shot: serde_json::Value = serde_json::from_str(&text).unwrap();
    shot["frames"] = json!({"first": 1, "last": 3});
    shot["elements"][0]["steps"] = json!([{"id": 1, "does": {"kind": "exposure", "stops": 0.0}}]);
    let keys = json!([{"frame": 1, "value": [0]}, {"frame": 3, "value": [2]}]);
    shot["drives"] =
        json!([{"id": 1, "at": "elements/1/steps/1/does/stops", "by": {"kind": "keys", "keys": keys}}]);
    std::fs::write(at.join("shot.json"), shot.to_string()).unwrap();
    let args = ["render", "shot.json", "--out", "out.###.exr", "--frames", "1-3"];
    let told = say(&run(&args, at));
    assert_eq!(told.lines().collect::<Vec<_>>(), ["out.001.exr", "out.002.exr", "out.003.exr"]);
    let mean = |name: &str| {
        let file =
            jugata_exchange::exr_read::read(&std::fs::read(at.join(name)).unwrap(), &Default::default());
        let red = file.unwrap().parts[0].raster(&["R".into()]).unwrap();
        red.plane(0).iter().sum::<f32>()
    };
    let [first, middle, last] = ["out.001.exr", "out.002.exr", "out.003.exr"].map(mean);
    assert!((middle / first - 2.0).abs() < 1e-3 && (last / first - 4.0).abs() < 1e-3);
    // What is there already stays, and what is missing comes.
    std::fs::remove_file(at.join("out.002.exr")).unwrap();
    std::fs::write(at.join("out.003.exr"), "kept").unwrap();
    let again: Vec<&str> = args.into_iter().chain(["--resume"]).collect();
    assert_eq!(say(&run(&again, at)).trim(), "out.002.exr");
    assert_eq!(std::fs::read(at.join("out.003.exr")).unwrap(), b"kept");
    assert!((mean("out.002.exr") - middle).abs() < 1e-6);
    let nowhere = ["render", "shot.json", "--out", "out.exr", "--frames", "1-3"];
    assert!(complaint(&nowhere, at).contains("has no # where the number"));
}

fn small_render() -> Vec<u8> {
    jugata_standin::export::exr(&jugata_standin::render(&jugata_standin::Settings::sized(32, 18, 1))).unwrap()
}

#[test]
fn a_plane_is_followed_and_written_for_others() {
    let folder = tempfile::tempdir().unwrap();
    let take = jugata_testkit::plane::Take::new(2, false, 0.0);
    let files: Vec<String> = (0..3).map(|frame| format!("wall.{frame:04}.exr")).collect();
    for (frame, file) in files.iter().enumerate() {
        std::fs::write(folder.path().join(file), take.exr(2 * frame as i32)).unwrap();
    }
    let mut new = vec!["shot", "new"];
    new.extend(files.iter().map(String::as_str));
    new.extend(["--out", "wall.json"]);
    say(&run(&new, folder.path()));
    let corners: Vec<String> = take.corners.iter().map(|c| format!("{},{}", c.x, c.y)).collect();
    let mut track = vec!["track", "wall.json", "--corners"];
    track.extend(corners.iter().map(String::as_str));
    let said = say(&run(&track, folder.path()));
    assert!(said.starts_with("Found on 3 of 3 frames, with at least "), "{said}");
    let found = std::fs::read(folder.path().join("wall.track.json")).unwrap();
    let found: serde_json::Value = serde_json::from_slice(&found).unwrap();
    let truth = jugata_core::track::all_through(&take.corners, take.by(4)).unwrap();
    for (is, truth) in found["frames"][2]["corners"].as_array().unwrap().iter().zip(&truth) {
        let far = (is[0].as_f64().unwrap() - truth.x).hypot(is[1].as_f64().unwrap() - truth.y);
        assert!(far < 0.1, "{is} is not {truth}");
    }
    let shot = std::fs::read(folder.path().join("wall.json")).unwrap();
    let shot: serde_json::Value = serde_json::from_slice(&shot).unwrap();
    assert_eq!(shot["elements"][0]["tracks"][0]["found"]["name"], "wall.track.json");
    let wrong = complaint(&["track", "wall.json", "--corners", "1,2", "3", "4,5", "6,7"], folder.path());
    assert!(wrong.contains("3 is no corner; write x,y in px"), "{wrong}");
    let none = complaint(&["track", "wall.json", "--track", "7"], folder.path());
    assert_eq!(none, "There is no track 7 in this shot.");
}

#[test]
fn a_table_of_finishes_is_filled_from_the_picture() {
    let dir = tempfile::tempdir().unwrap();
    let at = dir.path();
    say(&run(&["standin", "--width", "240", "--height", "136", "--samples", "2", "--out", "orrery.exr"], at));
    say(&run(&["shot", "new", "orrery.exr", "--out", "shot.json"], at));
    say(&run(&["shot", "add-step", "shot.json", "--kind", "relight"], at));
    let told = say(&run(&["shot", "finishes", "shot.json", "--step", "1"], at));
    assert!(told.contains("Metal: ") && told.contains("objects 4 are metal"), "{told}");
    let shot: serde_json::Value =
        serde_json::from_str(&std::fs::read_to_string(at.join("shot.json")).unwrap()).unwrap();
    let table = shot["elements"][0]["steps"][0]["does"]["finishes"].as_array().unwrap();
    assert!(
        table.iter().any(|f| f["metalness"] == json!(1.0) && f["colour_from"] == json!("own")),
        "{table:?}"
    );
    say(&run(&["shot", "add-step", "shot.json", "--kind", "exposure"], at));
    assert!(complaint(&["shot", "finishes", "shot.json", "--step", "2"], at).contains("finishes"));
}
