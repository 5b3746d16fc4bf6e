//! Lettering with relief, as a titles designer makes it.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;
use thirtyfour::Key;

#[tokio::test(flavor = "multi_thread")]
async fn a_title_is_typed_embossed_made_glossy_and_its_look_put_on_another() {
    let s = Stage::start(320, 2).await;
    s.open_title(640).await;
    s.see("[data-element-name='3']").await;
    s.rest().await;
    s.look("title").await;

    // Typed: the picture follows.
    s.click("[data-element-name='3']").await;
    let field = s.see("[data-lines=text]").await;
    s.rest().await;
    let before = s.pixels().await;
    field.send_keys(" on the hill").await.unwrap();
    s.rest().await;
    s.look("title-typed").await;
    assert_ne!(s.pixels().await, before);
    // It is kept by itself, while the cursor still stands in the field.
    s.kept(2).await;
    s.browser.refresh().await.unwrap();
    s.click("[data-element-name='3']").await;
    s.until(
        "the text is there",
        "document.querySelector('[data-lines=text]')?.value.endsWith(' on the hill')",
    )
    .await;
    s.rest().await;
    // In the picture: the caret stands where its letter is, and a click there puts it back.
    s.click("[data-type-text]").await;
    let caret = async |at: &str| {
        s.until(
            &format!("the caret stands at {at}"),
            &format!("document.querySelector('[data-caret=\"{at}\"] path')"),
        )
        .await;
    };
    let length =
        s.script("return document.querySelector('[data-lines=text]').value.length").await.to_string();
    caret(&length).await;
    let end = "const b = document.querySelector('[data-caret] path').getBoundingClientRect();
        return [Math.round(b.left + b.width / 2), Math.round(b.top + b.height / 2)];";
    let end: (i64, i64) = serde_json::from_value(s.script(end).await).unwrap();
    let chain = s.browser.action_chain().key_down(Key::Control).send_keys(Key::Home).key_up(Key::Control);
    chain.perform().await.unwrap();
    caret("0").await;
    s.browser.action_chain().move_to(end.0, end.1).click().perform().await.unwrap();
    caret(&length).await;
    s.browser.action_chain().send_keys("s").perform().await.unwrap();
    s.until("it is typed", "document.querySelector('[data-lines=text]').value.endsWith('hills')").await;
    s.rest().await;
    s.look("title-caret").await;
    s.kept(3).await;
    s.browser.action_chain().send_keys(Key::Backspace).perform().await.unwrap();
    s.until("it is taken away", "document.querySelector('[data-lines=text]').value.endsWith('hill')").await;
    s.kept(4).await;

    // A font, shown in its own face.
    s.click("[data-select=font]").await;
    s.look("title-fonts").await;
    s.click("[data-option=limelight]").await;
    s.kept(5).await;
    s.rest().await;
    s.look("title-limelight").await;
    // A key that is pressed now is no letter of the list: nothing becomes Oswald.
    s.browser.action_chain().send_keys("o").perform().await.unwrap();
    s.until("the font stays", "document.querySelector('[data-select=font]').textContent.includes('Limelight') && document.querySelector('[data-saved=yes]')").await;
    // Undo by its key at once, where the list was left: what was chosen is taken back, and brought again.
    let chosen = s.pixels().await;
    s.undo_by_key(false).await;
    s.rest().await;
    assert_ne!(s.pixels().await, chosen);
    s.undo_by_key(true).await;
    s.kept(5).await;
    assert_eq!(s.pixels().await, chosen);

    // The band of highlight, and where the light comes from.
    s.click("[data-element='3'] [data-step='3'] button[aria-current]").await;
    s.see("[data-dial=from]").await;
    s.rest().await;
    s.look("title-emboss").await;
    let before = s.pixels().await;
    s.type_number("Width (px)", "9").await;
    s.kept(6).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    let before = s.pixels().await;
    s.drag("[data-dial=from]", 9, 4).await;
    s.kept(7).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);

    // A profile of one's own: straight at first, then with its upper end pulled down.
    let curves = "return document.querySelectorAll('[data-curve=drawn]').length";
    assert_eq!(s.script(curves).await.as_i64(), Some(0), "only where it is asked for");
    s.click("[data-select=profile]").await;
    s.click("[data-option=drawn]").await;
    s.kept(8).await;
    s.rest().await;
    let before = s.pixels().await;
    s.drag("[data-curve=drawn] [role=slider]:last-of-type", -50, 40).await;
    s.kept(9).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    s.look("title-profile").await;

    // The gloss turns.
    s.click("[data-element='3'] [data-step='4'] button[aria-current]").await;
    s.rest().await;
    let before = s.pixels().await;
    s.type_number("Turn (°)", "70").await;
    s.kept(10).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    s.look("title-gloss").await;
    // By its handle, too: across turns it, up tilts it.
    s.drag("[data-pane=picture] [data-handle=around]", 40, -20).await;
    s.kept(11).await;
    s.rest().await;
    s.look("title-gloss-dragged").await;
    let gloss = "return document.querySelector(\"[aria-label='Tilt (°)']\").value";
    assert_ne!(s.script(gloss).await.as_str(), Some("0"), "it was tilted");

    // Curves bend what is seen; undone, it is as it was.
    let before = s.pixels().await;
    s.add_change_to(3, "Curves").await;
    s.kept(12).await;
    s.rest().await;
    assert_eq!(s.pixels().await, before, "a straight curve changes nothing");
    s.see("[data-curve=all] [data-histogram=all]").await;
    s.drag("[data-curve=all] [role=slider]:last-of-type", -20, 12).await;
    s.kept(13).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    s.look("title-curves").await;

    // The look of the edge, kept and put on another lettering.
    s.click("[data-element='3'] [data-step='3'] button[aria-current]").await;
    s.click("[data-element='3'] [data-step='3'] [data-save-preset]").await;
    s.see("[data-preset-name]").await.send_keys("Gilt edge").await.unwrap();
    s.words("Save").await.click().await.unwrap();
    s.until("it is saved", "!document.querySelector('[role=dialog]')").await;
    s.click("[data-add-element]").await;
    s.click("[data-made-kind=lettering]").await;
    s.kept(14).await;
    s.type_number("Size (px)", "60").await;
    s.kept(15).await;
    s.rest().await;
    let before = s.pixels().await;
    s.click("[data-element='4'] [data-presets]").await;
    s.look("title-presets").await;
    s.click("[data-preset='Gilt edge'] [data-apply-preset]").await;
    s.see("[data-element='4'] [data-step='1']").await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    // 9 px on letters of 87 px are 6.2 px on letters of 60.
    let width: f64 = s
        .script("return +document.querySelector(\"[aria-label='Width (px)']\").value")
        .await
        .as_f64()
        .unwrap();
    assert!((width - 9.0 * 60.0 / (262.0 / 3.0)).abs() < 0.05, "{width}");
    s.look("title-second").await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn light_comes_round_an_edge_and_a_blur_is_graded_between_points() {
    let s = Stage::start(320, 2).await;
    s.open_title(640).await;
    s.see("[data-element-name='3']").await;

    // The light of what lies below comes in, turned by its handle in the picture.
    let before = s.pixels().await;
    s.add_change_to(3, "Light wrap").await;
    s.kept(2).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    s.type_number("Intensity (×)", "4").await;
    s.kept(3).await;
    s.rest().await;
    s.look("title-wrap").await;
    s.add_change_to(3, "Edge light").await;
    s.kept(4).await;
    s.rest().await;
    let before = s.pixels().await;
    s.drag("[data-pane=picture] [data-handle=from]", -90, 60).await;
    s.kept(5).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    s.look("title-rim").await;

    // A blur between points: the first stays sharp.
    s.add_change_to(1, "Graded blur").await;
    s.kept(6).await;
    s.click("[data-add-point]").await;
    s.kept(7).await;
    s.click("[data-add-point]").await;
    s.kept(8).await;
    s.rest().await;
    let before = s.pixels().await;
    s.drag("[data-pane=picture] [data-handle='blur-2']", -40, 30).await;
    s.kept(9).await;
    s.drag("[data-pane=picture] [data-handle='blur-size']", 30, 0).await;
    s.kept(10).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    s.look("title-graded").await;

    // A gradient of three colours, its ends dragged in the picture, fills the letters.
    s.click("[data-add-element]").await;
    s.click("[data-made-kind=gradient]").await;
    s.kept(11).await;
    s.click("[data-add-colour]").await;
    s.kept(12).await;
    s.drag("[data-pane=picture] [data-handle=to]", 60, -80).await;
    s.kept(13).await;
    s.rest().await;
    s.look("title-gradient").await;
    s.click("[data-element-name='3']").await;
    s.click("[data-select=fill]").await;
    s.look("title-fill-open").await;
    s.click("[data-option='4']").await;
    s.kept(14).await;
    s.rest().await;
    s.look("title-filled").await;
    s.end().await;
}
