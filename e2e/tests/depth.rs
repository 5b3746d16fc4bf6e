//! Extracted depth and mattes, as a person makes them: extracted, dragged on the histogram, painted, named.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;

/// The value of a number's field.
async fn number(s: &Stage, label: &str) -> f32 {
    let js = format!("return document.querySelector(\"input[aria-label='{label}']\").value");
    s.script(&js).await.as_str().unwrap().parse().unwrap()
}

/// Draws with the left button over a pane, px from its middle.
async fn draw(s: &Stage, pane: &str, points: &[(i64, i64)]) {
    let pane = s.see(&format!("[data-pane={pane}]")).await;
    let mut chain = s.browser.action_chain().move_to_element_center(&pane);
    let (mut at, mut down) = ((0, 0), false);
    for &(x, y) in points {
        chain = chain.move_by_offset(x - at.0, y - at.1);
        if !down {
            (chain, down) = (chain.click_and_hold(), true);
        }
        at = (x, y);
    }
    chain.release().perform().await.unwrap();
}

/// A short digest of the pixels in the second pane.
async fn pass_pixels(s: &Stage) -> String {
    let js = "const c = document.querySelector('[data-pane=pass] canvas');
        return c.toDataURL().length + ':' + c.toDataURL().slice(-200)";
    s.script(js).await.to_string()
}

#[tokio::test(flavor = "multi_thread")]
async fn depth_is_extracted_shown_read_and_undone() {
    let s = Stage::start(480, 2).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    s.add_change("Haze").await;
    s.kept(2).await;
    let hazed = s.pixels().await;

    // A depth twice as far makes more haze, and the step says that it may choose.
    s.extract("range_depth").await;
    s.kept(3).await;
    let tile = s.see("[data-pass='1001']").await;
    assert!(tile.attr("class").await.unwrap().unwrap().contains("border-dashed"));
    let before = pass_pixels(&s).await;
    s.type_number("To (units)", "2").await;
    s.kept(4).await;
    assert_eq!(pass_pixels(&s).await, before, "a pass is shown over its own range");
    assert_ne!(s.pixels().await, hazed);
    s.see("[data-step='3'] [aria-current]").await.click().await.unwrap();
    let choice = s.see("[data-select=reads-depth]").await;
    assert!(choice.text().await.unwrap().contains("(default)"));
    s.choose("reads-depth", "2").await;
    s.kept(5).await;
    assert_eq!(s.pixels().await, hazed);

    // It reads the numbers under the crosshair, and undo takes all of it back.
    s.see("[data-pass='1001']").await.click().await.unwrap();
    s.see("[data-extract='1001']").await;
    s.click_pane("picture", 10, 10).await;
    s.until("numbers", "/depth 2\\s*\\d/.test(document.querySelector('[data-numbers]').textContent)").await;
    for revision in [4, 3, 2] {
        s.words("Undo").await.click().await.unwrap();
        s.kept(revision).await;
    }
    assert_eq!(s.pixels().await, hazed);
    assert_eq!(s.script("return document.querySelectorAll('[data-pass=\"1001\"]').length").await, 0);
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn mattes_are_dragged_on_the_histogram_painted_put_together_and_named() {
    let s = Stage::start(480, 2).await;
    s.go("/").await;
    s.see("[data-step='2'] [aria-current]").await.click().await.unwrap();
    s.rest().await;
    s.words("Remove").await.click().await.unwrap();
    s.kept(2).await;
    let everywhere = s.pixels().await;

    // A depth range begins with the nearer part of what there is; its far end is dragged on the histogram, which is
    // not there to be dragged on before it is known how far the depth reaches.
    s.answer_late("/passes?", 500).await;
    s.add_part("depth").await;
    s.kept(3).await;
    let far = number(&s, "Far").await;
    let near_part = s.pixels().await;
    assert_ne!(near_part, everywhere);
    s.drag("[data-range=high]", 60, 0).await;
    s.kept(4).await;
    let farther = number(&s, "Far").await;
    assert!(farther > far + 0.5, "{far} {farther}");
    assert!(s.sentence(2).await.contains(&format!("{farther:.2} deep")), "{}", s.sentence(2).await);
    assert_ne!(s.pixels().await, near_part);
    s.drag("[data-range=lowSoft]", -8, 0).await;
    s.kept(5).await;

    // A stroke takes some of it away.
    let unpainted = s.pixels().await;
    s.add_part("brush").await;
    s.kept(6).await;
    s.type_number("Size (px)", "90").await;
    draw(&s, "picture", &[(-120, 40), (-60, 60), (0, 50), (80, 70)]).await;
    s.kept(7).await;
    assert!(s.sentence(2).await.ends_with("deep or 1 stroke"), "{}", s.sentence(2).await);
    s.words("but not").await.click().await.unwrap();
    s.kept(8).await;
    assert!(s.sentence(2).await.ends_with("deep but not 1 stroke"));
    // The matte lies over the picture as a tint while one paints; hidden, the picture has changed under the stroke.
    s.words("Hidden").await.click().await.unwrap();
    s.words("Done painting").await.click().await.unwrap();
    s.rest().await;
    let painted = s.pixels().await;
    assert_ne!(painted, unpainted);

    // A shape whose handle is dragged in the picture.
    s.add_part("ellipse").await;
    s.kept(9).await;
    s.drag("[data-pane=picture] [data-handle=ellipse-wide]", 30, 0).await;
    s.kept(10).await;

    // Under a name, another step uses it; a change of it is one for both.
    s.see("[data-keep-matte]").await.click().await.unwrap();
    s.see("input[name=name]").await.send_keys("Front").await.unwrap();
    s.words("Keep").await.click().await.unwrap();
    s.kept(11).await;
    assert!(s.sentence(2).await.ends_with("only where Front"), "{}", s.sentence(2).await);
    s.see("[data-step='1'] [aria-current]").await.click().await.unwrap();
    s.words("Remove").await.click().await.unwrap();
    s.kept(12).await;
    s.see("[data-add-part]").await.click().await.unwrap();
    let front = s.see("[role=menuitem]").await;
    assert!(front.text().await.unwrap().starts_with("Front"));
    front.click().await.unwrap();
    s.kept(13).await;
    let shared = s.pixels().await;
    // Its ellipse is dragged from the other step now, and both follow.
    s.see("[data-named]").await;
    s.see("[data-part='2']").await.click().await.unwrap();
    s.drag("[data-pane=picture] [data-handle=ellipse-centre]", 60, 20).await;
    s.kept(14).await;
    assert_ne!(s.pixels().await, shared);
    s.words("Use a copy").await.click().await.unwrap();
    s.kept(15).await;
    assert!(s.sentence(1).await.ends_with("or an ellipse"), "{}", s.sentence(1).await);
    assert!(s.sentence(2).await.ends_with("only where Front"));
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_picture_is_rocked_and_cut_by_depth() {
    let s = Stage::start(480, 2).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    let whole = s.pixels().await;

    // Seventeen views of which the middle one is the picture; past a thirtieth of the width the page warns.
    s.words("Rock").await.click().await.unwrap();
    s.until("all views", "document.querySelector('[data-pane=rock]')?.dataset.views === '17'").await;
    s.type_number("By (px)", "12").await;
    s.until("no warning", "!document.body.textContent.includes('parallax looks unnatural')").await;
    s.type_number("By (px)", "40").await;
    s.until("a warning", "document.body.textContent.includes('above 16 px, parallax looks unnatural')").await;
    let moves = "const c = document.querySelector('[data-pane=rock] canvas'); const a = c.toDataURL();
        const done = arguments[arguments.length - 1]; setTimeout(() => done(a !== c.toDataURL()), 900);";
    let moved = s.browser.execute_async(moves, vec![]).await.unwrap().json().clone();
    assert_eq!(moved, serde_json::json!(true), "the picture is rocked");
    s.words("Pair").await.click().await.unwrap();

    // What is nearer than the plate's depth and a little stays.
    s.add_change("Reveal").await;
    s.kept(2).await;
    s.words("Pick in the picture").await.click().await.unwrap();
    s.click_pane("picture", 30, 85).await;
    s.kept(3).await;
    assert!(s.sentence(3).await.contains("Reveal what is nearer than"), "{}", s.sentence(3).await);
    assert_ne!(s.pixels().await, whole);
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn an_element_without_depth_gets_one_from_another_from_strokes_and_as_a_plane() {
    let s = Stage::start(320, 1).await;
    let card = s.folder.path().join("card.exr");
    let size = jugata_core::Window::of_size(320, 180);
    let picture = jugata_core::Raster::from_fn(size, 4, |c, x, _| match c {
        3 => f32::from(u8::from(x > 160)),
        _ => f32::from(u8::from(x > 160)) * if x > 240 { 0.7 } else { 0.1 },
    });
    let layer = jugata_exchange::exr_write::NamedLayer {
        name: "",
        channels: &["R", "G", "B", "A"],
        raster: &picture,
        depth: jugata_exchange::exr_write::Depth::Float,
    };
    std::fs::write(&card, jugata_exchange::exr_write::write(&[layer], size, None).unwrap()).unwrap();
    s.go("/").await;
    s.see("[data-to-intake]").await.click().await.unwrap();
    s.see("[data-add-element]").await.send_keys(card.to_str().unwrap()).await.unwrap();
    s.until("two elements", "document.querySelectorAll('section[data-checked]').length === 2").await;
    s.see("[data-to-bench]").await.click().await.unwrap();
    s.see("[data-element='2'] h2").await;
    s.rest().await;
    // A change of the card brings its passes into the tray.
    s.add_change_to(2, "Exposure").await;
    s.kept(3).await;

    s.extract("elements_depth").await;
    s.kept(4).await;
    s.click_pane("pass", 40, 20).await;
    s.until("a depth is lent", "/depth\\s*\\d/.test(document.querySelector('[data-numbers]').textContent)")
        .await;

    s.extract("plane_depth").await;
    s.kept(5).await;
    let nearer = pass_pixels(&s).await;
    s.drag("[data-pane=pass] [data-handle=near_at]", 60, -40).await;
    s.kept(6).await;
    assert_ne!(pass_pixels(&s).await, nearer);

    s.extract("paint_depth").await;
    s.kept(7).await;
    s.type_number("Depth (units)", "2").await;
    draw(&s, "picture", &[(60, 0), (80, 10)]).await;
    s.kept(8).await;
    s.type_number("Depth (units)", "9").await;
    draw(&s, "picture", &[(180, 0), (200, 10)]).await;
    s.kept(9).await;
    // The dark and the bright half of the card have the depth of their stroke, far from it as well.
    for (dx, depth) in [(30, 2.0), (150, 9.0)] {
        s.words("Done painting").await.click().await.unwrap();
        s.click_pane("pass", dx, -60).await;
        let words = "document.querySelector('[data-numbers]').textContent.match(/depth 3\\s*([\\d.]+)/)?.[1]";
        s.until("the number", &format!("Math.abs(Number({words}) - {depth}) < 0.3")).await;
        s.words("Paint").await.click().await.unwrap();
    }
    // The card may lie under the orrery as well.
    let over = s.pixels().await;
    s.see("[data-element='2'] [aria-label=Lower]").await.click().await.unwrap();
    s.kept(10).await;
    assert_ne!(s.pixels().await, over);
    s.end().await;
}
