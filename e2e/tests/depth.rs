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
    let tile = s.see("[data-pass='10']").await;
    assert!(tile.attr("class").await.unwrap().unwrap().contains("border-dashed"));
    let before = pass_pixels(&s).await;
    s.type_number("To (units)", "2").await;
    s.kept(4).await;
    assert_eq!(pass_pixels(&s).await, before, "a pass is shown over its own range");
    assert_ne!(s.pixels().await, hazed);
    s.see("[data-step='3'] [aria-current]").await.click().await.unwrap();
    let choice = s.see("select[aria-label='Which depth is read']").await;
    assert!(choice.text().await.unwrap().contains("(serves)"));
    s.see("select[aria-label='Which depth is read'] option[value='2']").await.click().await.unwrap();
    s.kept(5).await;
    assert_eq!(s.pixels().await, hazed);

    // It reads the numbers under the crosshair, and undo takes all of it back.
    s.see("[data-pass='10']").await.click().await.unwrap();
    s.see("[data-extract='10']").await;
    s.click_pane("picture", 10, 10).await;
    s.until("numbers", "/depth 10\\s*\\d/.test(document.querySelector('[data-numbers]').textContent)").await;
    for revision in [4, 3, 2] {
        s.words("Undo").await.click().await.unwrap();
        s.kept(revision).await;
    }
    assert_eq!(s.pixels().await, hazed);
    assert_eq!(s.script("return document.querySelectorAll('[data-pass=\"10\"]').length").await, 0);
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

    // A depth range begins with the nearer part of what there is; its far end is dragged on the histogram.
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
    s.end().await;
}
