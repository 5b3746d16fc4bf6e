//! Refocus, as a person sets it: added, pointed at, pulled.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;
use serde_json::json;

/// The depth that the sentence names first.
fn depth_in(sentence: &str) -> f32 {
    let words: Vec<&str> = sentence.split_whitespace().collect();
    let at = words.iter().position(|w| *w == "at" || *w == "from").unwrap();
    words[at + 1].parse().unwrap()
}

#[tokio::test(flavor = "multi_thread")]
async fn focus_is_set_by_pointing_in_either_pane() {
    let s = Stage::start(480, 2).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    let untouched = s.pixels().await;
    s.add_change("Refocus").await;
    s.kept(2).await;
    // What is in the middle of the picture is sharp at once.
    let middle = depth_in(&s.sentence(3).await);
    assert!((4.0..20.0).contains(&middle), "{middle}");
    let first = s.pixels().await;
    assert_ne!(first, untouched);

    // The plate at the front, in the picture; the crosshair answers in the depth beside it.
    s.words("Pick in the picture").await.click().await.unwrap();
    s.click_pane("picture", 30, 85).await;
    s.kept(3).await;
    let plate = depth_in(&s.sentence(3).await);
    assert!(plate < middle, "{plate} {middle}");
    assert_ne!(s.pixels().await, first);
    // What was clicked is read in both: the sentence has the depth that the numbers show.
    let shown =
        "Math.abs(Number(document.querySelector('[data-numbers]').textContent.match(/depth ([\\d.]+)/)?.[1])";
    s.until("the depth of the plate", &format!("{shown} - {plate}) < 0.01")).await;

    // The wall, in the depth pane.
    s.words("Pick in the picture").await.click().await.unwrap();
    s.click_pane("pass", -100, -60).await;
    s.kept(4).await;
    let wall = depth_in(&s.sentence(3).await);
    assert!(wall > plate + 1.0, "{wall}");

    // Two clicks: everything between them stays sharp.
    s.words("Range").await.click().await.unwrap();
    s.click_pane("picture", -100, -60).await;
    s.words("And the other").await;
    s.click_pane("picture", 30, 85).await;
    s.kept(5).await;
    let range = s.sentence(3).await;
    assert!(range.contains(" to ") && (depth_in(&range) - plate).abs() < 0.3, "{range}");

    // The circles can be seen, and undo brings the picture back.
    let sharp = s.pixels().await;
    s.type_number("Far (px)", "120").await;
    s.kept(6).await;
    s.words("Circles").await.click().await.unwrap();
    s.kept(7).await;
    assert_ne!(s.pixels().await, sharp);
    for revision in [6, 5] {
        s.words("Undo").await.click().await.unwrap();
        s.kept(revision).await;
    }
    assert_eq!(s.pixels().await, sharp);
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_lens_is_the_same_as_that_of_another_element_until_it_is_let_go() {
    let s = Stage::start(320, 2).await;
    // One scene in metres, one in centimetres.
    let lens = |unit: f32, focus: f32, stop: f32| json!({ "kind": "refocus", "blur": "lens", "unit": unit, "focus": focus, "f_number": stop });
    s.open_twice([lens(1000.0, 8.0, 2.0), lens(10.0, 500.0, 8.0)]).await;
    let chosen = |element: u32| format!("[data-element='{element}'] [data-step='1'] button[aria-current]");
    let says = |text: &str| {
        format!(
            "document.querySelector(\"[data-element='2'] [data-step='1']\")?.innerText.includes('{text}')"
        )
    };
    s.click(&chosen(2)).await;
    s.until("it has its own lens", &says("500.00 units, f/8.0")).await;
    s.click("[data-select=same-as]").await;
    s.click("[data-option='elements/1/steps/1/does']").await;
    s.kept(2).await;
    s.until("it has the other's", &says("800.00 units, f/2.0")).await;
    s.look("focus-same").await;
    // It goes along with the other one.
    s.click(&chosen(1)).await;
    s.type_number("f-number", "4").await;
    s.kept(3).await;
    s.until("it follows", &says("800.00 units, f/4.0")).await;
    s.click(&chosen(2)).await;
    s.click("[data-select=same-as]").await;
    s.click("[data-option='']").await;
    s.kept(4).await;
    // Let go, it stays as it was seen, whatever becomes of the other one.
    s.click(&chosen(1)).await;
    s.type_number("f-number", "11").await;
    s.kept(5).await;
    s.rest().await;
    s.until("it stays", &says("800.00 units, f/4.0")).await;
    s.end().await;
}
