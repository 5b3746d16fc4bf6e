//! Lenses, pushes, smears, grids and maps as a person makes them: drawn and dragged in the picture.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;

/// What the deck says of what a move found out.
async fn told(s: &Stage, what: &str) {
    let js =
        format!("document.querySelector('[data-told]')?.textContent.includes({})", serde_json::json!(what));
    s.until(&format!("it says “{what}”"), &js).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_lens_is_taken_off_by_lines_and_put_back_by_what_took_it_off() {
    let s = Stage::start(480, 2).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    s.add_change("Lens").await;
    s.kept(2).await;
    s.rest().await;
    told(&s, "not sampled").await;
    let flat = s.pixels().await;

    // Coefficients as numbers: the picture reaches beyond the frame.
    s.type_number("k1", "-0.15").await;
    s.kept(3).await;
    s.rest().await;
    assert_ne!(s.pixels().await, flat);
    told(&s, "sampled once, by Catmull-Rom").await;
    s.see("[data-overscan]").await;
    assert!(s.sentence(3).await.contains("Undistort: k1 -0.15"));
    s.look("moves-lens").await;

    // A second one puts back what the first took off: nothing is sampled, and every bit is there.
    s.add_change("Lens").await;
    s.kept(4).await;
    s.choose("lens_of", "3").await;
    s.kept(5).await;
    // The hint of the list that the pointer is still over lies in the way.
    s.script("[...document.querySelectorAll('button[role=radio]')].find((b) => b.textContent === 'Distort').click()").await;
    s.kept(6).await;
    s.rest().await;
    told(&s, "every bit stays").await;
    assert_eq!(s.pixels().await, flat);

    // Lines along something straight, drawn in the picture before the step.
    s.click("[data-step='3'] [aria-current]").await;
    s.words("Lines").await.click().await.unwrap();
    s.kept(7).await;
    s.click("[data-point=lens-line]").await;
    for (n, (dx, dy)) in [(-150, -60), (-60, -70), (60, -70), (150, -58)].into_iter().enumerate() {
        s.click_pane("pass", dx, dy).await;
        s.kept(8 + n as u32).await;
    }
    s.look("moves-lines").await;
    told(&s, "px off straight ones").await;
    s.rest().await;
    let before = s.pixels().await;
    s.drag("[data-handle='line-1-2']", 0, -8).await;
    s.kept(12).await;
    s.rest().await;
    assert_eq!(s.pixels().await, before, "what is put back is what was taken off");
    s.click("[data-step='4'] [aria-label='Step 4 happens']").await;
    s.kept(13).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn pushes_smears_and_grids_are_drawn_in_the_picture_and_stay_editable() {
    let s = Stage::start(480, 2).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    let flat = s.pixels().await;
    s.add_change("Warp").await;
    s.kept(2).await;
    s.click("[data-point=push]").await;
    s.drag("[data-pane=picture] [data-paint]", 50, 20).await;
    s.kept(3).await;
    s.click("[data-point=push]").await;
    s.rest().await;
    let pushed = s.pixels().await;
    assert_ne!(pushed, flat);
    s.look("moves-push").await;
    s.drag("[data-handle=push-1]", -30, 10).await;
    s.kept(4).await;
    s.drag("[data-handle=push-wide]", 20, -30).await;
    s.kept(5).await;
    s.rest().await;
    let turned = s.pixels().await;
    assert_ne!(turned, pushed);
    // By keyboard.
    let grip = s.see("[data-handle=push-1]").await;
    grip.send_keys(thirtyfour::Key::Right + "").await.unwrap();
    s.kept(6).await;
    s.rest().await;
    assert_ne!(s.pixels().await, turned);

    s.click("[data-point=smear]").await;
    s.drag("[data-pane=picture] [data-paint]", -70, 30).await;
    s.kept(7).await;
    s.click("[data-point=smear]").await;
    s.rest().await;
    s.look("moves-smear").await;
    assert!(s.sentence(3).await.contains("Warp by 1 push and 1 smear"));

    // One more without a pointer: into the middle, and on by the arrow keys.
    s.see("[data-add-push]").await.send_keys(thirtyfour::Key::Enter + "").await.unwrap();
    s.kept(8).await;
    assert!(s.sentence(3).await.contains("Warp by 2 pushes and 1 smear"));

    s.add_change("Grid").await;
    s.kept(9).await;
    s.rest().await;
    let before = s.pixels().await;
    s.drag("[data-handle=grid-8]", 24, 14).await;
    s.kept(10).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    told(&s, "2 moves in one").await;
    s.look("moves-grid").await;
    // The map of both, as a pass.
    s.extract("moves_map").await;
    s.kept(11).await;
    s.rest().await;
    s.look("moves-map").await;
    // Motion, painted.
    s.extract("paint_flow").await;
    s.kept(12).await;
    s.click("[data-point=paint-flow]").await;
    s.drag("[data-pane=pass] [data-paint]", 80, 30).await;
    s.kept(13).await;
    s.rest().await;
    s.look("moves-flow").await;
    s.end().await;
}

/// A chart of squares as a lens bends it: places move outward by the square of their distance from the middle.
fn chart(width: usize, height: usize) -> Vec<u8> {
    let at = |i: usize| {
        let (x, y) = ((i % width) as f64 - width as f64 / 2.0, (i / width) as f64 - height as f64 / 2.0);
        let bent = 1.0 + 0.18 * (x * x + y * y) / (width * width / 4) as f64;
        let (u, v) = (x * bent / 26.0 + 8.0, y * bent / 26.0 + 5.0);
        match (0.0..16.0).contains(&u) && (0.0..10.0).contains(&v) {
            true if (u.floor() + v.floor()).rem_euclid(2.0) == 0.0 => 225,
            true => 30,
            false => 120,
        }
    };
    (0..width * height).flat_map(|i| [at(i); 3]).collect()
}

#[tokio::test(flavor = "multi_thread")]
async fn the_lens_comes_from_a_photographed_checker() {
    let s = Stage::start(64, 1).await;
    let file = s.folder.path().join("chart.png");
    std::fs::write(&file, jugata_exchange::png_write::screen(480, 270, &chart(480, 270)).unwrap()).unwrap();
    s.bring(&[file]).await;
    s.words("To the Bench").await.click().await.unwrap();
    s.see("[data-pane]").await;
    s.add_change("Lens").await;
    s.kept(2).await;
    s.words("Lines").await.click().await.unwrap();
    s.kept(3).await;
    s.click("[data-find-checker]").await;
    s.kept(4).await;
    told(&s, "px off straight ones").await;
    s.rest().await;
    s.look("moves-checker").await;
    s.end().await;
}
