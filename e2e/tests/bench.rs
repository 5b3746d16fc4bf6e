//! What a person does on the Bench, from bringing a render in to handing the result off.
#![allow(clippy::unwrap_used)]

use jugata_core::show::compare::difference;
use jugata_e2e::Stage;
use jugata_exchange::{Limits, exr_read};
use jugata_standin::{Settings, export, render};
use std::path::Path;

fn picture(path: &Path) -> jugata_core::Raster {
    let file = exr_read::read(&std::fs::read(path).unwrap(), &Default::default()).unwrap();
    file.parts[0].raster(&["R", "G", "B", "A"].map(str::to_owned)).unwrap()
}

#[tokio::test(flavor = "multi_thread")]
async fn from_upload_to_hand_off() {
    let s = Stage::start(320, 1).await;

    // Bring a render in.
    let settings = Settings::sized(320, 180, 1);
    let upload = s.folder.path().join("harbour_instrument.exr");
    let truth = render(&settings);
    std::fs::write(&upload, export::plain(&truth).unwrap()).unwrap();
    s.go("/shots").await;
    s.see("[data-upload]").await.send_keys(upload.to_str().unwrap()).await.unwrap();
    s.until("the new shot opens", "document.querySelector('h1')?.textContent === 'harbour_instrument'").await;
    s.see("[data-to-bench]").await.click().await.unwrap();

    // Its passes are there, and the normals stand beside the picture.
    s.until("nine tiles", "document.querySelectorAll('[role=toolbar] [data-pass]').length === 9").await;
    s.rest().await;
    let label = s.see("[data-pane=pass] span").await.text().await.unwrap();
    assert_eq!(label, "normal");
    let untouched = s.pixels().await;

    // Add a relight; the picture answers.
    s.add_change("Relight").await;
    s.see("[data-handle=lamp]").await;
    s.rest().await;
    let lit = s.pixels().await;
    assert_ne!(lit, untouched);

    // Drag the lamp in the picture.
    s.drag("[data-handle=lamp]", -70, 20).await;
    s.until(
        "the edit is kept",
        "document.querySelector('[data-saved=yes]')?.textContent.includes('revision 3')",
    )
    .await;
    s.rest().await;
    let dragged = s.pixels().await;
    assert_ne!(dragged, lit);
    let sentence = s.see("[data-step] [aria-current]").await.text().await.unwrap();
    assert!(sentence.contains("left"), "{sentence}");

    // Reload: everything is still there.
    s.browser.refresh().await.unwrap();
    s.see("[data-handle=lamp]").await;
    s.rest().await;
    assert_eq!(s.pixels().await, dragged);

    // Hold B for before.
    let press = |kind: &str| {
        format!("window.dispatchEvent(new KeyboardEvent('{kind}', {{ key: 'b' }})); return true")
    };
    s.script(&press("keydown")).await;
    s.until("the label says so", "document.querySelector('[data-pane=picture] span').textContent === 'Before all changes' || [...document.querySelectorAll('[data-pane=picture] span')].some(e => e.textContent === 'Before all changes')").await;
    s.rest().await;
    assert_eq!(s.pixels().await, untouched);
    s.script(&press("keyup")).await;

    // Undo the drag, and redo it.
    s.words("Undo").await.click().await.unwrap();
    s.until("undone", "document.querySelector('[data-saved=yes]')?.textContent.includes('revision 2')").await;
    s.rest().await;
    assert_eq!(s.pixels().await, lit);
    s.words("Redo").await.click().await.unwrap();
    s.until("redone", "document.querySelector('[data-saved=yes]')?.textContent.includes('revision 3')").await;

    // Hand off the float EXR and read it.
    s.words("Hand off").await.click().await.unwrap();
    s.see("[data-handoff]").await.click().await.unwrap();
    // The upload lies in the same folder; wait for the other file.
    std::fs::remove_file(&upload).unwrap();
    let result = picture(&s.downloaded("exr").await);
    assert_eq!(result.window(), truth.beauty.window());
    let figures = difference(&result, &truth.beauty, None).unwrap();
    assert!(figures.psnr > 10.0 && figures.psnr < 45.0, "relit, but the same scene: {}", figures.psnr);
    assert_eq!(result.pixel(319, 0), Some(vec![0.0; 4]), "the sky stays empty");
    // The pair for viewers of 3D photos at one click, and the light of the lamp as a layer beside the result.
    s.click("[data-pair]").await;
    assert!(std::fs::metadata(s.file("harbour_instrument.zip").await).unwrap().len() > 320 * 180);
    s.click("[data-sheet]").await;
    let sheet = s.file("harbour_instrument_review.html").await;
    assert!(std::fs::read_to_string(&sheet).unwrap().contains("Relight from the left"));
    std::fs::remove_file(s.file("harbour_instrument.exr").await).unwrap();
    s.click("[data-with=lights]").await;
    s.look("handoff_layers").await;
    s.see("[data-handoff]").await.click().await.unwrap();
    let file = std::fs::read(s.file("harbour_instrument.exr").await).unwrap();
    let file = jugata_exchange::read(&file, &Limits::default()).unwrap();
    assert!(
        file.parts[0].channel("rest.R").is_some() && file.parts[0].channel("light_1_Relight.R").is_some()
    );
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn limits_clicks_and_numbers() {
    let s = Stage::start(320, 1).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    let start = s.pixels().await;

    // A number is typed and kept.
    s.type_number("Intensity (×)", "2.5").await;
    s.until("kept", "document.querySelector('[data-saved=yes]')?.textContent.includes('revision 2')").await;
    s.rest().await;
    let bright = s.pixels().await;
    assert_ne!(bright, start);
    let sentence = s.see("[data-step='1'] [aria-current]").await.text().await.unwrap();
    assert!(sentence.contains("intensity 2.50"), "{sentence}");

    // The highlight is put where the picture is clicked.
    let before = s.script("return document.querySelector('[data-handle=lamp]').style.left").await;
    s.words("Place the highlight").await.click().await.unwrap();
    let pane = s.see("[data-pane=picture]").await;
    s.browser
        .action_chain()
        .move_to_element_center(&pane)
        .move_by_offset(-60, 10)
        .click()
        .perform()
        .await
        .unwrap();
    s.until("kept", "document.querySelector('[data-saved=yes]')?.textContent.includes('revision 3')").await;
    let after = s.script("return document.querySelector('[data-handle=lamp]').style.left").await;
    assert_ne!(before, after);

    // Pointing reads the picture and the pass.
    s.until(
        "numbers",
        "/normal -?[01]\\.\\d{4} -?[01]\\.\\d{4}/.test(document.querySelector('[data-numbers]').textContent)",
    )
    .await;

    // Limit to one object more, by clicking it: the sentence says so.
    s.words("Pick in the picture").await.click().await.unwrap();
    s.browser
        .action_chain()
        .move_to_element_center(&pane)
        .move_by_offset(40, 80)
        .click()
        .perform()
        .await
        .unwrap();
    s.until("kept", "document.querySelector('[data-saved=yes]')?.textContent.includes('revision 4')").await;
    let sentence = s.see("[data-step='1'] [aria-current]").await.text().await.unwrap();
    assert!(sentence.contains("not object 1, "), "{sentence}");

    // Two tabs. What the other one did to something else is kept beside what this one does.
    let id = s.script("return location.pathname.split('/').pop()").await;
    let other = async |path: &str, body: &str| {
        let post = format!(
            "window.answered = false; fetch('/api/shots/{}/{path}', {{method: 'POST', headers: {{'Content-Type': 'application/json'}}, body: '{body}'}}).then(() => {{ window.answered = true }}); return true",
            id.as_str().unwrap()
        );
        s.script(&post).await;
        s.until("the other tab has its answer", "window.answered").await;
    };
    other("undo", "{\"base\": 4}").await;
    s.see("[data-step='1'] [role=switch]").await.click().await.unwrap();
    s.kept(5).await;
    let sentence = s.see("[data-step='1'] [aria-current]").await.text().await.unwrap();
    assert!(!sentence.contains("not object 1, "), "the other's undo is kept: {sentence}");
    // What the other did to the same thing is not taken away: the later one is told and sees the newer state.
    let on = "[{\"at\": \"elements/1/steps/1/on\", \"put\": true}]";
    other("revisions", &format!("{{\"base\": 5, \"label\": \"Switch on\", \"edits\": {on}}}")).await;
    s.see("[data-step='1'] [role=switch]").await.click().await.unwrap();
    let told = s.see("[role=alert]").await.text().await.unwrap();
    assert!(told.contains("changed elsewhere"), "{told}");
    s.until(
        "the newer state",
        "document.querySelector('[data-saved=yes]')?.textContent.includes('revision 6')",
    )
    .await;

    // An object by its hashed ID: soft edges, and its name in the sentence.
    s.words("Remove").await.click().await.unwrap();
    s.kept(7).await;
    s.add_part("hashed").await;
    s.until(
        "the way is kept",
        "document.querySelector('[data-step=\"1\"] [aria-current]').textContent.includes('object')",
    )
    .await;
    let pane = s.see("[data-pane=picture]").await;
    let chain = s.browser.action_chain().move_to_element_center(&pane).move_by_offset(-2, -12);
    chain.click().perform().await.unwrap();
    s.until(
        "the sentence names it",
        "/only where (not )?(Sun|Stand|Ring|Wall|Table|Arms)/.test(document.querySelector('[data-step=\"1\"] [aria-current]').textContent)",
    )
    .await;
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_bad_file_gets_a_sentence_and_the_page_asks_nobody_else() {
    let s = Stage::start(160, 1).await;
    let bad = s.folder.path().join("holiday.exr");
    std::fs::write(&bad, b"not a picture").unwrap();
    s.go("/shots").await;
    s.see("[data-upload]").await.send_keys(bad.to_str().unwrap()).await.unwrap();
    let told = s.see("[role=alert]").await.text().await.unwrap();
    assert!(told.starts_with("holiday.exr: This is not an image that Jugata reads"), "{told}");
    s.go("/").await;
    s.rest().await;
    let others = s
        .script("return performance.getEntriesByType('resource').map(e => e.name).filter(n => !n.startsWith(location.origin) && !n.startsWith('blob:'))")
        .await;
    assert_eq!(others, serde_json::json!([]));
    let fonts = s.script("return [...document.fonts].filter(f => f.status === 'loaded').map(f => f.family).sort().at(0) ?? ''").await;
    assert!(fonts.as_str().unwrap().contains("IBM Plex"), "{fonts}");
    s.end().await;
}
