//! Refocus, as a person sets it: added, pointed at, pulled.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;

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
