//! Lamps, light from all around, matched light, presets and bodies, as a person uses them on the Bench.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;
use jugata_standin::{Settings, export, render};
use thirtyfour::prelude::*;

/// Brings a second render of the orrery in as an element of its own.
async fn add_second(s: &Stage) {
    let second = s.folder.path().join("second.exr");
    let settings = Settings { width: 320, height: 180, samples: 1, frame: 6, ..Settings::default() };
    std::fs::write(&second, export::plain(&render(&settings)).unwrap()).unwrap();
    s.see("[data-to-intake]").await.click().await.unwrap();
    s.see("[data-add-element]").await.send_keys(second.to_str().unwrap()).await.unwrap();
    s.until("two elements", "document.querySelectorAll('section[data-checked]').length === 2").await;
    s.see("[data-to-bench]").await.click().await.unwrap();
    s.see("[data-element='2'] h2").await;
    s.rest().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn lamps_are_added_hung_aimed_and_cast_shadows() {
    let s = Stage::start(320, 1).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    let one = s.pixels().await;

    // A second lamp: a spot, with two handles. The first stays, small, and is chosen again by taking hold of it.
    s.see("[data-add-lamp]").await.click().await.unwrap();
    s.kept(2).await;
    assert_ne!(s.pixels().await, one);
    s.press_in_deck("Spot").await;
    s.until(
        "a spot",
        "document.querySelector('[data-handle=lamp-aim]') && document.querySelector('[data-handle=lamp-1]')",
    )
    .await;
    s.rest().await;
    assert!(s.sentence(1).await.contains("and from a spot 6.00 units deep"), "{}", s.sentence(1).await);
    let spot = s.pixels().await;
    s.drag("[data-pane=picture] [data-handle=lamp-aim]", 60, 20).await;
    s.rest().await;
    let aimed = s.pixels().await;
    assert_ne!(aimed, spot);

    // It is hung over what is clicked, and turned to what is clicked.
    s.words("Place above a surface").await.click().await.unwrap();
    s.click_pane("picture", -60, 40).await;
    s.until(
        "it hangs elsewhere",
        "!document.querySelector('[data-step=\"1\"]').textContent.includes('6.00 units')",
    )
    .await;
    s.rest().await;
    let hung = s.pixels().await;
    assert_ne!(hung, aimed);
    s.words("Aim it at").await.click().await.unwrap();
    s.click_pane("picture", 40, 60).await;
    s.until("it is aimed", "!document.querySelector('[aria-pressed=true][data-aim]')").await;
    s.rest().await;

    // Shadows: another picture, and the sentence says so.
    let bare = s.pixels().await;
    s.see("[aria-label='Casts shadows']").await.click().await.unwrap();
    s.until(
        "the sentence says so",
        "document.querySelector('[data-step=\"1\"]').textContent.includes('with shadows')",
    )
    .await;
    s.rest().await;
    assert_ne!(s.pixels().await, bare);
    // The light alone, and back to the picture.
    let whole = s.pixels().await;
    s.click("[data-step='1'] [data-alone]").await;
    s.until(
        "it is said",
        "document.querySelector('[data-pane=picture]').textContent.includes('What step 1 gives')",
    )
    .await;
    s.rest().await;
    assert_ne!(s.pixels().await, whole);
    s.look("light-alone").await;
    s.click("[data-step='1'] [data-alone]").await;
    s.rest().await;
    assert_eq!(s.pixels().await, whole);
    s.drag("[data-pane=picture] [data-handle=lamp-1]", -40, 10).await;
    s.until(
        "the first is chosen",
        "document.querySelector('[aria-label=Lamps] [aria-checked=true]')?.textContent.startsWith('1')",
    )
    .await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn finishes_are_proposed_and_one_object_gets_its_own() {
    let s = Stage::start(480, 2).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    // The demo has what was proposed: brass mirrors the lamp in its own colour.
    s.until("there are finishes", "Number(document.querySelector('[data-finishes]')?.dataset.finishes) >= 2")
        .await;
    let proposed = s.pixels().await;
    s.look("finishes").await;
    // The parameters of the chosen one stand in the place of those of the rest.
    let of_finish = "!document.querySelector('input[aria-label^=Thickness]')";
    s.choose("finish", "1").await;
    s.until("its fields are seen", of_finish).await;
    s.type_number("Roughness", "0.15").await;
    s.kept(2).await;
    let rough = s.pixels().await;
    assert_ne!(rough, proposed);
    s.look("finish-chosen").await;
    // The table, which nothing names, is given a finish of its own.
    s.choose("finish", "rest").await;
    s.choose("finish", "pick").await;
    s.click_pane("picture", 170, 85).await;
    s.kept(3).await;
    s.until("its fields are seen", of_finish).await;
    s.type_number("Specular", "0.5").await;
    s.kept(4).await;
    assert_ne!(s.pixels().await, rough);
    s.look("finish-own").await;
    // A click on the same object chooses its finish again.
    s.choose("finish", "rest").await;
    s.choose("finish", "pick").await;
    s.click_pane("picture", 170, 85).await;
    s.until("it is chosen", of_finish).await;
    // Proposed again, everything is as it was.
    s.choose("finish", "propose").await;
    let told = r"/\d+ of \d+ objects metal/.test(document.querySelector('[data-finish-said]')?.textContent)";
    s.until("it is said what was found", told).await;
    s.kept(5).await;
    assert_eq!(s.pixels().await, proposed);
    s.look("finishes-said").await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_surround_is_turned_and_a_picture_may_stand_in_for_it() {
    let s = Stage::start(320, 1).await;
    s.go("/").await;
    s.see("[data-step]").await;
    s.add_change("Light from all around").await;
    s.kept(2).await;
    let ahead = s.pixels().await;
    s.type_number("Turn (°)", "90").await;
    s.kept(3).await;
    assert_ne!(s.pixels().await, ahead);
    assert!(s.sentence(3).await.contains("turned 90°"), "{}", s.sentence(3).await);

    // Any picture can be what is all around.
    let file = s.folder.path().join("courtyard.exr");
    let size = jugata_core::Window::of_size(64, 32);
    let picture = jugata_core::Raster::from_fn(size, 4, |c, x, _| if c == 3 || x > 32 { 1.0 } else { 0.0 });
    let layer = jugata_exchange::exr_write::NamedLayer {
        name: "",
        channels: &["R", "G", "B", "A"],
        raster: &picture,
        depth: jugata_exchange::exr_write::Depth::Float,
    };
    std::fs::write(&file, jugata_exchange::exr_write::write(&[layer], size, None).unwrap()).unwrap();
    let panels = s.pixels().await;
    s.press_in_deck("Picture").await;
    s.see("[data-file=picture]").await.send_keys(file.to_str().unwrap()).await.unwrap();
    s.until(
        "its name is said",
        "document.querySelector('[data-step=\"3\"]').textContent.includes('courtyard.exr')",
    )
    .await;
    s.rest().await;
    assert_ne!(s.pixels().await, panels);
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_preset_is_applied_to_another_element_and_its_light_matched() {
    let s = Stage::start(320, 1).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current]").await;
    s.see("[data-step='1'] [data-save-preset]").await.click().await.unwrap();
    s.see("[data-preset-name]").await.send_keys("Cool side").await.unwrap();
    s.words("Save").await.click().await.unwrap();
    s.until("it is saved", "!document.querySelector('[role=dialog]')").await;
    add_second(&s).await;
    let before = s.pixels().await;

    // It goes to the end of the other element's steps; what is limited by objects of the first one is told.
    s.see("[data-element='2'] [data-presets]").await.click().await.unwrap();
    s.see("[data-preset='Cool side'] img").await;
    // Another name is written over the first.
    let title = s.see("[data-preset='Cool side'] [data-preset-title]").await;
    title.send_keys(Key::Control + "a").await.unwrap();
    title.send_keys("Cooler side" + Key::Enter).await.unwrap();
    s.see("[data-preset='Cooler side'] [data-apply-preset]").await.click().await.unwrap();
    let told = s.see("[data-missing]").await.text().await.unwrap();
    assert!(told.contains("limited to objects by number"), "{told}");
    s.words("Close").await.click().await.unwrap();
    s.see("[data-element='2'] [data-step='1']").await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);

    // The light of the first element on the second one.
    s.add_change_to(2, "Match the light").await;
    s.until(
        "the own light is told",
        "Number(document.querySelector('[data-explained]')?.dataset.explained) > 0.1",
    )
    .await;
    s.choose("like", "1").await;
    s.until("both are told", "document.querySelectorAll('[data-light-report] img').length === 2").await;
    s.until(
        "the sentence says so",
        "document.body.textContent.includes('Match the light to that of element 1')",
    )
    .await;

    // The preset can be taken away again.
    s.see("[data-element='2'] [data-presets]").await.click().await.unwrap();
    s.see("[aria-label='Remove Cooler side']").await.click().await.unwrap();
    s.until(
        "none is left",
        "document.querySelector('[role=dialog]').textContent.includes('Nothing is saved yet')",
    )
    .await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn normals_are_seen_on_a_body_that_is_turned() {
    let s = Stage::start(320, 1).await;
    s.go("/").await;
    s.see("[data-step]").await;
    s.see("[data-body]").await.click().await.unwrap();
    s.see("[data-turn] img").await;
    let shown = || s.script("return document.querySelector('[data-turn] img').src");
    let first = shown().await;
    s.drag("[data-turn]", 80, 20).await;
    s.until("it turned", "document.querySelector('[data-turn]').dataset.turn !== '-20,25'").await;
    s.until("another picture", &format!("document.querySelector('[data-turn] img').src !== {first}")).await;
    s.words("Torus").await.click().await.unwrap();
    s.until("a torus", "document.querySelector('[data-turn] img').alt.endsWith('torus')").await;
    s.end().await;
}
