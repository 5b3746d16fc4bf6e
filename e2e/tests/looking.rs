//! Ways of looking: displays of a pass, travel through depth, difference, spot, comparison with a re-render.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;
use jugata_standin::{AddedLamp, LampPlace, Settings, export, render};
use thirtyfour::Key;

/// A short digest of the pixels in the second pane.
const PASS_PIXELS: &str = "const c = document.querySelector('[data-pane=pass] canvas');
    const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
    let h = 17; for (let i = 0; i < d.length; i += 4) h = Math.imul(h ^ (d[i] + 256 * d[i+1] + 65536 * d[i+2]), 16777619);
    return String(h >>> 0)";

async fn pass_pixels(s: &Stage) -> String {
    s.rest().await;
    s.script(PASS_PIXELS).await.to_string()
}

#[tokio::test(flavor = "multi_thread")]
async fn passes_are_shown_in_many_ways_and_pictures_compared() {
    let s = Stage::start(320, 1).await;
    s.go("/").await;
    s.see("[data-step]").await;

    // Typed coordinates lead to a pixel.
    let go = s.see("[data-go]").await;
    go.send_keys("100, 50").await.unwrap();
    go.send_keys("\u{e007}").await.unwrap();
    s.until(
        "its numbers are shown",
        "document.querySelector('[data-numbers]').textContent.includes('x 100 y 50 px')",
    )
    .await;
    s.words("Fit").await.click().await.unwrap();

    // Normals as colour, then as lit clay.
    let colour = pass_pixels(&s).await;
    s.choose("showing", "lit").await;
    s.until(
        "clay is another picture",
        &format!("(() => {{ {PASS_PIXELS} }})() !== '{}'", colour.trim_matches('"')),
    )
    .await;

    // Depth: travel through it.
    s.see("[role=toolbar] [data-pass='2']").await.click().await.unwrap();
    let travel = s.see("[data-slider=travel] [role=slider]").await;
    let whole = pass_pixels(&s).await;
    travel.send_keys(Key::Home + Key::PageUp + Key::PageUp).await.unwrap();
    s.until(
        "the slice is another picture",
        &format!("(() => {{ {PASS_PIXELS} }})() !== '{}'", whole.trim_matches('"')),
    )
    .await;

    // Difference from the untouched picture.
    let picture = s.pixels().await;
    s.words("Difference").await.click().await.unwrap();
    s.until(
        "it says so",
        "document.querySelector('[data-pane=picture]').textContent.includes('Difference from the untouched')",
    )
    .await;
    s.rest().await;
    assert_ne!(s.pixels().await, picture);

    // Against the re-render with the lamp that the demo's relight stands for.
    let lamp = AddedLamp {
        place: LampPlace::Directional([0.78, 0.35, 0.52]),
        power: [0.3, 0.4, 0.5],
        size: 0.0,
        shadows: false,
    };
    let truth = render(&Settings { added: vec![lamp], ..Settings::sized(320, 180, 1) });
    let file = s.folder.path().join("rerender.exr");
    std::fs::write(&file, export::plain(&truth).unwrap()).unwrap();
    s.see("[data-compare]").await.click().await.unwrap();
    s.see("[data-file=reference]").await.send_keys(file.to_str().unwrap()).await.unwrap();
    let text = s.see("[data-figures]").await.text().await.unwrap();
    let psnr: f64 = text.lines().find_map(|l| l.strip_suffix(" dB")).unwrap().parse().unwrap();
    assert!((10.0..60.0).contains(&psnr), "{text}");
    assert!(text.contains("SSIM") && text.contains("of 255"), "{text}");
    s.end().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_colour_table_takes_the_place_of_the_view_transform() {
    let s = Stage::start(320, 1).await;
    let table = s.folder.path().join("inside out.cube");
    std::fs::write(&table, "TITLE \"inside out\"\nLUT_1D_SIZE 2\n1 1 1\n0 0 0\n").unwrap();
    s.go("/").await;
    s.see("[data-pane=picture]").await;
    s.rest().await;
    let before = s.pixels().await;
    s.see("[data-view]").await.click().await.unwrap();
    s.see("[data-table-file]").await.send_keys(table.to_str().unwrap()).await.unwrap();
    s.see("[data-select='table-reads']").await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    // It stays in the list of this browser, and can be put away.
    let kept = s.script("return document.querySelector('[data-select=table]').textContent").await;
    assert_eq!(kept, "inside out.cube");
    s.words("Reset view").await.click().await.unwrap();
    s.rest().await;
    assert_eq!(s.pixels().await, before);
    s.end().await;
}
