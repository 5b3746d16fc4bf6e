//! Intake: a damaged set comes in, its findings are seen, a click puts it right.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;
use jugata_exchange::exr_write::{Depth, NamedLayer, write};
use jugata_standin::{Damage, Passes, Settings, export, render};
use std::path::PathBuf;

fn passes(frame: i32) -> Passes {
    render(&Settings { frame, ..Settings::sized(480, 270, 2) })
}

/// The findings of a pass in the table, by its role.
fn told(role: &str) -> String {
    format!("document.querySelector('[data-checked=yes] [data-pass={role}]')?.dataset.findings")
}

#[tokio::test(flavor = "multi_thread")]
async fn a_damaged_render_is_told_and_put_right_at_a_click() {
    let s = Stage::start(320, 1).await;
    let mut p = passes(0);
    let truth = p.clone();
    for damage in [Damage::NormalsFlipped, Damage::DepthNearWhite] {
        damage.apply(&mut p);
    }
    let file = s.folder.path().join("veldmere_damaged.exr");
    std::fs::write(&file, export::plain(&p).unwrap()).unwrap();
    s.bring(&[file]).await;

    s.until("normals are told", &format!("{} === 'normals_axes'", told("normal"))).await;
    s.until("depth is told", &format!("{} === 'depth_direction'", told("depth"))).await;
    s.until("the others are silent", &format!("{} === '' && {} === ''", told("uv"), told("object_id"))).await;

    // The evidence stands beside the pass, with the remedy.
    s.see("[data-pass=normal]").await.click().await.unwrap();
    let card = s.see("[data-finding=normals_axes]").await.text().await.unwrap();
    assert!(card.contains("y axis runs the other way") && card.contains("% sure"), "{card}");
    s.see("[data-finding=normals_axes] [data-remedy]").await.click().await.unwrap();
    s.until("the finding goes", &format!("{} === ''", told("normal"))).await;
    s.until(
        "its reading says so",
        "document.querySelector('[data-pass=normal] [data-reading]').textContent.includes('−y')",
    )
    .await;

    // The pass is right: what is read is what the renderer saw.
    let (x, y) = (240, 135);
    let want = truth.normal.pixel(x, y).unwrap();
    let id = s.script("return location.pathname.split('/')[2]").await;
    let probe = format!(
        "const r = new XMLHttpRequest(); r.open('GET', '/api/shots/{}/revisions/2/probe?element=1&x={x}&y={y}', false); r.send(); \
         return JSON.parse(r.responseText).passes.find(p => p.role === 'normal').canonical",
        id.as_str().unwrap()
    );
    let got: Vec<f32> = serde_json::from_value(s.script(&probe).await).unwrap();
    assert!(got.iter().zip(&want).all(|(a, b)| (a - b).abs() < 1e-3), "{got:?} {want:?}");

    // Undo brings the finding back; redo takes it away.
    s.words("Undo").await.click().await.unwrap();
    s.until("the finding is back", &format!("{} === 'normals_axes'", told("normal"))).await;

    // All sure remedies at once.
    s.words("certain ones").await.click().await.unwrap();
    s.until("nothing is left", &format!("{} === '' && {} === ''", told("normal"), told("depth"))).await;
    s.until(
        "and it says so",
        "document.querySelector('section').textContent.includes('nothing wrong was found')",
    )
    .await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_folder_of_frames_and_passes_becomes_one_element() {
    let s = Stage::start(320, 1).await;
    let mut files = Vec::new();
    for frame in [1, 2, 4] {
        let p = passes(frame);
        let w = p.beauty.window();
        for (name, channels, raster) in [
            ("beauty", &["R", "G", "B", "A"][..], &p.beauty),
            ("depth", &["Z"], &p.depth),
            ("normal", &["X", "Y", "Z"], &p.normal),
        ] {
            let path = s.folder.path().join(format!("orrery_{name}.{frame:04}.exr"));
            let layer = NamedLayer { name: "", channels, raster, depth: Depth::Float };
            std::fs::write(&path, write(&[layer], w, None).unwrap()).unwrap();
            files.push(path);
        }
    }
    let torn = s.folder.path().join("orrery_uv.0001.exr");
    std::fs::write(&torn, b"not an image").unwrap();
    files.push(torn);
    s.bring(&files).await;

    let words = s.see("section").await.text().await.unwrap();
    assert!(words.contains("orrery") && words.contains("frames 1–4, 3 sequences"), "{words}");
    assert!(words.contains("frames 3 are missing"), "{words}");
    let trouble = s.see("[role=alert]").await.text().await.unwrap();
    assert!(trouble.contains("orrery_uv.0001.exr: This is not an image"), "{trouble}");

    // On the Bench the frames differ.
    s.see("[data-to-bench]").await.click().await.unwrap();
    s.see("[data-frame='1']").await;
    s.rest().await;
    let first = s.pixels().await;
    s.see("[aria-label='Next frame']").await.click().await.unwrap();
    s.see("[data-frame='2']").await;
    s.rest().await;
    assert_ne!(s.pixels().await, first);
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn two_clicks_say_which_way_a_lone_depth_runs() {
    let s = Stage::start(320, 1).await;
    let mut p = passes(0);
    Damage::DepthNearWhite.apply(&mut p);
    let file = s.folder.path().join("lone_depth.exr");
    let layer = NamedLayer { name: "", channels: &["Z"], raster: &p.depth, depth: Depth::Float };
    std::fs::write(&file, write(&[layer], p.depth.window(), None).unwrap()).unwrap();
    s.bring(&[file]).await;
    s.until("it asks", &format!("{} === 'depth_direction'", told("depth"))).await;
    s.words("Click near and far").await.click().await.unwrap();
    let picture = s.see("img[data-big]").await;
    // The table below is near, the wall at the upper left is far.
    for (x, y) in [(0, 95), (-150, -60)] {
        let chain = s.browser.action_chain().move_to_element_center(&picture).move_by_offset(x, y);
        chain.click().perform().await.unwrap();
    }
    s.until(
        "it is read so",
        "document.querySelector('[data-pass=depth] [data-reading]').textContent.includes('near white')",
    )
    .await;
    s.until("the question goes", &format!("{} === ''", told("depth"))).await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn delivered_frames_appear_while_one_works() {
    let s = Stage::start(320, 1).await;
    let drop = s.folder.path().join("drop/orrery take");
    std::fs::create_dir_all(&drop).unwrap();
    let deliver = |frame: i32| {
        let path = drop.join(format!("orrery.{frame:04}.exr"));
        std::fs::write(path, export::plain(&passes(frame)).unwrap()).unwrap();
    };
    s.go("/shots").await;
    s.see("[data-delivery]").await;
    deliver(1);
    // The card appears by itself.
    s.words("orrery take").await.click().await.unwrap();
    s.see("[data-pane=picture]").await;
    assert_eq!(s.script("return document.querySelectorAll('[data-frame]').length").await, 0);
    deliver(2);
    deliver(3);
    s.until(
        "the ruler has come to three frames",
        "document.querySelector('[data-frame] [role=slider]')?.ariaValueMax === '3'",
    )
    .await;
    // A change made now stands on top of what arrives.
    s.add_change("Exposure").await;
    s.until(
        "the step is kept",
        "document.querySelector('[data-saved=yes]') && document.querySelectorAll('[data-step]').length === 1",
    )
    .await;
    deliver(4);
    s.until(
        "the fourth frame is there",
        "document.querySelector('[data-frame] [role=slider]')?.ariaValueMax === '4'",
    )
    .await;
    s.until("and the step as well", "document.querySelectorAll('[data-step]').length === 1").await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn another_file_takes_the_place_of_a_pass() {
    let s = Stage::start(320, 1).await;
    let write = |name: &str, frame| {
        let file = s.folder.path().join(name);
        std::fs::write(&file, export::plain(&passes(frame)).unwrap()).unwrap();
        file
    };
    let (old, new) = (write("take_a.exr", 0), write("take_b.exr", 7));
    s.bring(&[old]).await;
    s.see("[data-replace]").await.send_keys(new.to_str().unwrap()).await.unwrap();
    s.until("the file is another", "document.querySelector('aside').textContent.includes('take_b.exr')")
        .await;
    s.end().await;
}

/// A scene of a foreign renderer, as its files.
fn foreign(scene: &str) -> Vec<PathBuf> {
    jugata_testkit::foreign::files(scene).iter().map(|f| jugata_testkit::foreign::path(f)).collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn two_files_of_another_renderer_become_one_element_and_its_camera_is_solved_and_taken() {
    let s = Stage::start(320, 1).await;
    s.bring(&foreign("fence")).await;
    s.until("one element", "document.querySelectorAll('[data-checked]').length === 1").await;
    s.until("world space is told", &format!("{} === 'world_space'", told("position"))).await;
    s.see("[data-pass=position]").await.click().await.unwrap();
    let card = s.see("[data-finding=world_space]").await.text().await.unwrap();
    assert!(card.contains("This position pass is in world space. It was taken with 49.5 mm"), "{card}");
    s.see("[data-finding=world_space] [data-remedy]").await.click().await.unwrap();
    s.until("the finding goes", &format!("{} === ''", told("position"))).await;
    s.until(
        "the camera is the element's",
        "[...document.querySelectorAll('section input')].some((i) => i.value.startsWith('49.5'))",
    )
    .await;

    // The rest at once; then nothing is left, and nothing is offered.
    s.words("certain one").await.click().await.unwrap();
    s.until(
        "nothing is left",
        "document.querySelector('[data-checked=yes]')?.textContent.includes('nothing wrong was found')",
    )
    .await;

    // On the Bench the picture is there.
    s.see("[data-to-bench]").await.click().await.unwrap();
    s.see("[data-ready]:not([data-ready=''])").await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn on_a_right_set_nothing_is_put_right_and_passes_move_between_elements() {
    let s = Stage::start(320, 1).await;
    let folder = s.folder.path();
    let (room, orrery) = (folder.join("room.exr"), folder.join("veldmere.exr"));
    let settings = Settings { seed: Some(16), ..Settings::sized(480, 270, 2) };
    std::fs::write(&room, export::plain(&render(&settings)).unwrap()).unwrap();
    std::fs::write(&orrery, export::plain(&passes(0)).unwrap()).unwrap();
    s.bring(&[room, orrery]).await;
    s.until("two elements, both checked", "document.querySelectorAll('[data-checked=yes]').length === 2")
        .await;
    s.until(
        "nothing to put right",
        "[...document.querySelectorAll('[data-checked=yes]')].every((e) => e.textContent.includes('nothing wrong was found'))",
    )
    .await;
    s.until(
        "no such button",
        "![...document.querySelectorAll('button')].some((b) => b.textContent.includes('certain one'))",
    )
    .await;

    // A pass belongs to the other element after all.
    s.see("[data-checked] [data-pass=albedo]").await.click().await.unwrap();
    s.choose("belongs", "2").await;
    let albedos = "[...document.querySelectorAll('[data-checked]')].map((e) => e.querySelectorAll('[data-pass=albedo]').length).join()";
    s.until("it has gone over", &format!("{albedos} === '0,2'")).await;

    // Another is dragged there, and undo brings it back.
    let uvs = albedos.replace("albedo", "uv");
    s.script(
        "const [from, to] = [document.querySelector('[data-checked] [data-pass=uv]'), document.querySelectorAll('[data-checked]')[1]];
        const carried = new DataTransfer();
        const drag = (e, kind) => e.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: carried }));
        drag(from, 'dragstart'); drag(to, 'dragover'); drag(to, 'drop'); return null",
    )
    .await;
    s.until("it has gone over, too", &format!("{uvs} === '0,2'")).await;
    s.words("Undo").await.click().await.unwrap();
    s.until("it is back", &format!("{uvs} === '1,1'")).await;
    s.end().await;
}
