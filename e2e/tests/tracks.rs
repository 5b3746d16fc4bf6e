//! A plane is drawn, followed through a take, and things are held to it.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;
use jugata_testkit::plane::Take;
use std::path::PathBuf;

const FRAMES: i32 = 5;

async fn go_to(s: &Stage, frame: i32) {
    s.click(&format!("[data-fit='{frame}']")).await;
    s.see(&format!("[data-frame='{frame}']")).await;
}

/// Where a handle lies on the screen.
async fn place(s: &Stage, handle: &str) -> (f64, f64) {
    let js = format!(
        "const b = document.querySelector(\"[data-handle='{handle}']\").getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2]"
    );
    let at = s.script(&js).await;
    (at[0].as_f64().unwrap(), at[1].as_f64().unwrap())
}

#[tokio::test(flavor = "multi_thread")]
async fn a_plane_is_followed_put_right_and_things_are_held_to_it() {
    let s = Stage::start(320, 1).await;
    let take = Take::new(2, false, 0.005);
    let files: Vec<PathBuf> = (1..=FRAMES)
        .map(|frame| {
            let file = s.folder.path().join(format!("wall.{frame:04}.exr"));
            std::fs::write(&file, take.exr(2 * (frame - 1))).unwrap();
            file
        })
        .collect();
    s.open_frames(&files).await;
    s.rest().await;
    s.click("[data-add-track]").await;
    s.see("[data-track-deck]").await;
    s.kept(2).await;
    s.look("track_drawn").await;
    s.drag("[data-handle='track-0']", -12, -8).await;
    s.kept(3).await;
    s.click("[data-follow]").await;
    s.until(
        "all frames were looked at",
        "document.querySelectorAll('[data-fit]').length === 5 && !document.querySelector('[data-following]')",
    )
    .await;
    s.kept(4).await;
    let drawn = place(&s, "track-1").await;
    go_to(&s, 5).await;
    s.until("it is told how well it fits", "/Frame 5: \\d+ % of it fits, corners within 0\\.\\d+ px/.test(document.querySelector('[data-fit-here]').textContent)").await;
    s.rest().await;
    let went = place(&s, "track-1").await;
    assert!((went.0 - drawn.0).hypot(went.1 - drawn.1) > 4.0, "it went along: {drawn:?}, {went:?}");
    s.look("track_followed").await;
    // Steadied, it lies where it was drawn; the numbers are those of the picture's own places.
    s.click("[aria-label='Steady the panes']").await;
    s.see("[data-steadied]").await;
    s.rest().await;
    let still = place(&s, "track-1").await;
    assert!((still.0 - drawn.0).hypot(still.1 - drawn.1) < 2.0, "{still:?} is not {drawn:?}");
    s.look("track_steadied").await;
    s.click("[data-steadied]").await;
    s.rest().await;
    // Where it slipped, a corner is dragged; undo takes that back.
    s.drag("[data-handle='track-2']", 6, 4).await;
    s.kept(5).await;
    s.see("[data-put-right='5']").await;
    s.click("[aria-label='Take the correction of frame 5 away']").await;
    s.kept(6).await;

    // A warp is held to it: on the frame of the region it is what it was, on others it goes along.
    s.add_change("Warp").await;
    s.kept(7).await;
    s.rest().await;
    s.click("[data-point=push]").await;
    s.drag("[data-pane=picture]", 30, 0).await;
    s.kept(8).await;
    s.click("[data-point=push]").await;
    s.rest().await;
    let free = s.pixels().await;
    s.choose("held", "0").await;
    s.kept(9).await;
    s.rest().await;
    assert_ne!(s.pixels().await, free, "it lies elsewhere on this frame");
    s.look("track_held").await;

    // A patch in one click: only the region changes, and it goes along.
    let patch = async |by: &str| {
        s.click("[data-track='1']").await;
        s.click("[data-patch]").await;
        s.click(&format!("[data-patch-by={by}]")).await;
    };
    patch("blur").await;
    s.kept(10).await;
    s.rest().await;
    s.look("track_patch").await;
    s.until(
        "a change of the region is chosen, on the frame of the plane",
        "document.querySelector(\"[data-frame='1']\") && document.querySelector(\"[role=region][aria-label='Deck']\").textContent.includes('a shape of 4 corners')",
    )
    .await;
    // A picture lies on it corner on corner.
    let label = s.folder.path().join("label.png");
    let squares: Vec<u8> = (0..240 * 120)
        .flat_map(|i| if (i / 24 + i / 2880) % 2 == 0 { [230, 120, 40] } else { [20, 60, 90] })
        .collect();
    std::fs::write(&label, jugata_exchange::png_write::screen(240, 120, &squares).unwrap()).unwrap();
    s.click("[data-track='1']").await;
    // One pane, which is as large whatever is chosen.
    s.browser.action_chain().send_keys("2").perform().await.unwrap();
    s.rest().await;
    let corner = place(&s, "track-2").await;
    s.see("[data-patch-picture]").await.send_keys(label.to_str().unwrap()).await.unwrap();
    s.kept(11).await;
    s.rest().await;
    s.look("track_laid").await;
    // So do its handles, though it has another size than the shot.
    s.click("[data-element-name='2']").await;
    s.see("[data-element-deck='2']").await;
    let there = format!(
        "[...document.querySelectorAll(\"[data-handle='bottom_right']\")].some((h) => {{ const b = h.getBoundingClientRect(); return Math.hypot(b.x + b.width / 2 - {}, b.y + b.height / 2 - {}) < 2 }})",
        corner.0, corner.1
    );
    s.until("its corner lies on that of the region", &there).await;
    s.end().await;
}
