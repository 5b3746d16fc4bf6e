//! One current picture of each main view, from the demo data, for the README (`make screenshots`).
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;
use jugata_standin::{Damage, Settings, export, render};
use std::path::{Path, PathBuf};
use std::time::Duration;

#[tokio::test(flavor = "multi_thread")]
async fn main_views() {
    if std::env::var_os("JUGATA_SCREENSHOTS").is_none() {
        // Pictures are made on request only; the tests of the interface are in bench.rs.
        return;
    }
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../docs/screenshots");
    std::fs::create_dir_all(&folder).unwrap();
    let s = Stage::start(1280, 4).await;
    s.go("/").await;
    s.see("[data-step]").await;
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(800)).await;
    s.shot(&folder.join("bench.png")).await;

    s.words("Wipe").await.click().await.unwrap();
    let second = s.see("[data-step='2'] button[aria-current]").await;
    second.click().await.unwrap();
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(800)).await;
    s.shot(&folder.join("wipe.png")).await;

    s.words("Pair").await.click().await.unwrap();
    s.see("[role=toolbar] [data-pass='2']").await.click().await.unwrap();
    s.choose("showing", "bands").await;
    s.see("[data-view]").await.click().await.unwrap();
    s.rest().await;
    s.shot(&folder.join("depth.png")).await;
    s.see("[data-view]").await.click().await.unwrap();
    s.see("[data-compare]").await.click().await.unwrap();
    s.choose("other", "0").await;
    s.see("[data-figures]").await;
    tokio::time::sleep(Duration::from_millis(1500)).await;
    s.shot(&folder.join("compare.png")).await;
    s.words("Close").await.click().await.unwrap();

    // Something made lies below; the render is put by its four corners.
    s.go("/").await;
    s.see("[data-step]").await;
    s.see("[data-add-element]").await.click().await.unwrap();
    s.see("[data-made-kind=gradient]").await.click().await.unwrap();
    s.kept(2).await;
    s.see("[data-element='2'] [aria-label=Lower]").await.click().await.unwrap();
    s.kept(3).await;
    s.see("[data-element-name='1']").await.click().await.unwrap();
    s.see("[data-place-element]").await.click().await.unwrap();
    s.kept(4).await;
    s.words("Corners").await.click().await.unwrap();
    s.kept(5).await;
    s.drag("[data-handle=top_left]", 60, 40).await;
    s.kept(6).await;
    s.drag("[data-handle=bottom_right]", -70, -24).await;
    s.kept(7).await;
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(1500)).await;
    s.shot(&folder.join("placed.png")).await;
    for revision in [6, 5, 4, 3, 2, 1] {
        s.see("[aria-label=Undo]").await.click().await.unwrap();
        s.kept(revision).await;
    }

    // A lens taken off by a line, and a warp, both beside the picture before.
    s.go("/").await;
    s.see("[data-step]").await;
    s.add_change("Lens").await;
    s.kept(8).await;
    s.words("Lines").await.click().await.unwrap();
    s.kept(9).await;
    s.see("[data-point=lens-line]").await.click().await.unwrap();
    for (n, (dx, dy)) in [(-210, 96), (-90, 112), (90, 113), (210, 97)].into_iter().enumerate() {
        s.click_pane("pass", dx, dy).await;
        s.kept(10 + n as u32).await;
    }
    s.see("[data-point=lens-line]").await.click().await.unwrap();
    tokio::time::sleep(Duration::from_millis(1500)).await;
    s.shot(&folder.join("lens.png")).await;
    s.add_change("Warp").await;
    s.kept(14).await;
    s.see("[data-point=push]").await.click().await.unwrap();
    s.drag("[data-pane=picture] [data-paint]", 60, -30).await;
    s.kept(15).await;
    s.see("[data-point=push]").await.click().await.unwrap();
    tokio::time::sleep(Duration::from_millis(1500)).await;
    s.shot(&folder.join("warp.png")).await;
    for revision in [14, 13, 12, 11, 10, 9, 8, 1] {
        s.see("[aria-label=Undo]").await.click().await.unwrap();
        s.kept(revision).await;
    }

    // A second lamp of many: a spot over the table, with the shadows that the depth tells.
    s.go("/").await;
    s.see("[data-step]").await;
    s.see("[data-add-lamp]").await.click().await.unwrap();
    let deck = |words: &str| {
        format!(
            "[...document.querySelectorAll('[aria-label=Deck] button')].find(b => b.textContent === '{words}').click(); return true"
        )
    };
    s.script(&deck("Point")).await;
    s.type_number("Place x (units)", "1.5").await;
    s.type_number("Place y (units)", "0.7").await;
    s.type_number("Intensity (×)", "2").await;
    s.type_number("Glow (×)", "0.6").await;
    s.see("[aria-label='Casts shadows']").await.click().await.unwrap();
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(4000)).await;
    s.shot(&folder.join("lamps.png")).await;
    s.see("[data-body]").await.click().await.unwrap();
    s.see("[data-turn] img").await;
    tokio::time::sleep(Duration::from_millis(1500)).await;
    s.shot(&folder.join("body.png")).await;
    s.words("Close").await.click().await.unwrap();

    // The plate in front is sharp, what lies behind it far from it.
    s.go("/").await;
    s.see("[data-step]").await;
    s.add_change("Refocus").await;
    s.type_number("Far (px)", "60").await;
    s.words("Pick in the picture").await.click().await.unwrap();
    let pane = s.see("[data-pane=picture]").await;
    let chain = s.browser.action_chain().move_to_element_center(&pane).move_by_offset(30, 85);
    chain.click().perform().await.unwrap();
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(2500)).await;
    s.shot(&folder.join("refocus.png")).await;

    // A matte of two parts over the picture, and clay out of normals and positions.
    s.go("/").await;
    s.see("[data-step='2'] [aria-current]").await.click().await.unwrap();
    s.words("Remove").await.click().await.unwrap();
    s.add_part("depth").await;
    s.words("Tint").await.click().await.unwrap();
    s.add_part("ellipse").await;
    s.words("but not").await.click().await.unwrap();
    s.see("[data-part='0']").await.click().await.unwrap();
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(1500)).await;
    s.shot(&folder.join("matte.png")).await;
    s.words("Hidden").await.click().await.unwrap();
    s.extract("clay").await;
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(4000)).await;
    s.shot(&folder.join("clay.png")).await;

    s.words("Hand off").await.click().await.unwrap();
    tokio::time::sleep(Duration::from_millis(500)).await;
    s.shot(&folder.join("handoff.png")).await;

    let mut damaged = render(&Settings { width: 1280, height: 720, ..Settings::default() });
    for damage in [Damage::DepthNearWhite, Damage::NormalsFlipped, Damage::UvEightBit, Damage::IdMoved] {
        damage.apply(&mut damaged);
    }
    let file = s.folder.path().join("brass_orrery.exr");
    std::fs::write(&file, export::exr(&damaged).unwrap()).unwrap();
    s.bring(&[file]).await;
    s.see("[data-pass=depth]").await.click().await.unwrap();
    tokio::time::sleep(Duration::from_millis(2500)).await;
    s.shot(&folder.join("intake.png")).await;

    s.go("/shots").await;
    s.see("main li img").await;
    s.until(
        "every picture is there",
        "[...document.querySelectorAll('main li img')].every((i) => i.complete && i.naturalWidth > 0)",
    )
    .await;
    tokio::time::sleep(Duration::from_millis(1500)).await;
    s.shot(&folder.join("shots.png")).await;

    s.open_title(1920).await;
    s.click("[data-element='3'] [data-step='3'] button[aria-current]").await;
    s.words("Single").await.click().await.unwrap();
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(2500)).await;
    s.shot(&folder.join("title.png")).await;

    // Prints on the ship that drifts past the orrery, in one lens with it, blurred by its own motion.
    s.open_drift(960, 12).await;
    for frame in 2..=8 {
        s.click("[aria-label='Next frame']").await;
        s.see(&format!("[data-frame='{frame}']")).await;
    }
    s.words("Pair").await.click().await.unwrap();
    s.click("[data-element='4'] [data-step='1'] button[aria-current]").await;
    s.rest().await;
    s.until("it lies flat", "document.querySelector('[data-pane=flat] img')?.naturalWidth > 0").await;
    tokio::time::sleep(Duration::from_millis(1500)).await;
    s.point_at("[data-pane=picture] [data-handle=texture-middle]", 20, 14).await;
    s.see("[data-cross=flat]").await;
    s.shot(&folder.join("texture.png")).await;
    // The demo's take: the focus on its way from one planet to another.
    s.open_demo_take(640, 48).await;
    s.see("[data-kept='48']").await;
    s.click("[data-step='3'] [aria-current]").await;
    s.words("Time").await.click().await.unwrap();
    s.click("[data-driven$='does/focus']").await;
    s.click("[data-ruler-key='17']").await;
    s.until("the course is there", "document.querySelector('[data-course]')?.dataset.course === '48'").await;
    s.rest().await;
    s.shot(&folder.join("time.png")).await;
    // The star chart on the wall, followed while the camera goes along.
    let files: Vec<PathBuf> = (1..=8)
        .map(|frame| {
            let file = s.folder.path().join(format!("chart.{frame:04}.exr"));
            let travel = [-0.06, -0.02, 0.0];
            let settings = Settings { frame, travel, ..Settings::sized(960, 540, 4) };
            std::fs::write(&file, export::exr(&render(&settings)).unwrap()).unwrap();
            file
        })
        .collect();
    s.open_frames(&files).await;
    s.see("[data-add-track]").await.click().await.unwrap();
    s.kept(2).await;
    for (corner, (dx, dy)) in [(-139, -83), (-150, -83), (-150, -104), (-139, -104)].into_iter().enumerate() {
        s.drag(&format!("[data-handle='track-{corner}']"), dx, dy).await;
        s.kept(3 + corner as u32).await;
    }
    s.see("[data-follow]").await.click().await.unwrap();
    s.kept(7).await;
    s.see("[data-fit='5']").await.click().await.unwrap();
    s.rest().await;
    tokio::time::sleep(Duration::from_millis(800)).await;
    s.shot(&folder.join("track.png")).await;
    s.end().await;
}
