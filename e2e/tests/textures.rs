//! Another texture on a rendered thing, as a compositor puts it there.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;

#[tokio::test(flavor = "multi_thread")]
async fn a_texture_is_put_on_an_object_and_dragged_over_it() {
    let s = Stage::start(640, 2).await;
    s.go("/").await;
    s.see("[data-step='1']").await;
    s.rest().await;

    // Checks at once; the deck says what lights them.
    let before = s.pixels().await;
    s.add_change("Re-texture").await;
    s.kept(2).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    let told = "document.querySelector('[data-told]')?.textContent.includes('albedo')";
    s.until("it says what lights it", told).await;
    s.look("retexture-all").await;

    // On the drum alone, which is picked in the picture.
    s.add_part("hashed").await;
    s.kept(3).await;
    s.click_pane("picture", -174, 70).await;
    s.until(
        "the sentence names it",
        "/only where Drum/.test(document.querySelector('[data-step=\"3\"] [aria-current]').textContent)",
    )
    .await;
    s.kept(4).await;
    s.rest().await;
    s.look("retexture-drum").await;

    // Its middle is dragged over the drum, its side makes it smaller: the numbers follow.
    s.click("[data-step='3'] [aria-current]").await;
    let middle = "[data-pane=picture] [data-handle=texture-middle]";
    s.see(middle).await;
    let before = s.pixels().await;
    let number = "document.querySelector('input[aria-label=\"Middle u\"]').value";
    let was = s.script(&format!("return {number}")).await;
    s.drag(middle, 14, -10).await;
    s.until("it has moved", &format!("{number} !== {was}")).await;
    s.kept(5).await;
    s.rest().await;
    assert_ne!(s.pixels().await, before);
    s.look("retexture-dragged").await;

    // Beside it the texture lies flat. What is pointed at in the picture is marked there, and the other way round.
    s.until("it lies flat", "document.querySelector('[data-pane=flat] img')?.naturalWidth > 0").await;
    s.point_at("[data-pane=picture]", -174, 70).await;
    s.until("its place is marked", "document.querySelector('[data-cross=flat]')").await;
    s.look("retexture-pointed").await;
    s.point_at("[data-handle=flat-middle]", 1, 1).await;
    let seen = "document.querySelector('[data-pane=picture] [data-cross=crosshair]')";
    s.until("its place is seen", &format!("{seen} && document.querySelector('[data-cross=flat]')")).await;
    s.look("retexture-flat").await;

    // It is dragged there, too.
    let (before, was) = (s.pixels().await, s.script(&format!("return {number}")).await);
    s.drag("[data-handle=flat-middle]", 24, 0).await;
    s.until("it has moved", &format!("{number} !== {was}")).await;
    s.kept(6).await;
    assert_ne!(s.pixels().await, before);
    s.click("[data-flat] [aria-checked=false]").await;
    s.see("[data-pane=pass]").await;
    s.end().await;
}
