//! Made elements, placing by numbers and by corners, as a person does it; what was moved is undone again.
#![allow(clippy::unwrap_used)]

use jugata_e2e::Stage;

#[tokio::test(flavor = "multi_thread")]
async fn something_made_is_added_placed_joined_and_hidden() {
    let s = Stage::start(480, 2).await;
    s.go("/").await;
    s.see("[data-step='1'] [aria-current=true]").await;
    s.rest().await;
    let bare = s.pixels().await;

    s.click("[data-add-element]").await;
    s.look("elements-menu").await;
    s.click("[data-made-kind=gradient]").await;
    s.kept(2).await;
    s.see("[data-element-deck='2']").await;
    let over = s.pixels().await;
    assert_ne!(over, bare);
    s.look("elements-gradient").await;

    // In one space with the render, what is nearer hides it; over all again, it hides everything.
    s.click("[data-by-depth] [role=switch]").await;
    s.kept(3).await;
    s.rest().await;
    let among = s.pixels().await;
    assert!(among != over && among != bare);
    s.look("elements-by-depth").await;
    s.click("[data-by-depth] input").await;
    s.type_number("Distance", "0.001").await;
    s.kept(4).await;
    s.rest().await;
    assert_eq!(s.pixels().await, over, "it is nearer than all");
    s.click("[data-by-depth] [role=switch]").await;
    s.kept(5).await;
    assert_eq!(s.pixels().await, over);

    // Below the render, it is a background.
    s.click("[data-element='2'] [aria-label=Lower]").await;
    s.kept(6).await;
    assert_ne!(s.pixels().await, over);

    // Placed by its four corners, one of them dragged in the picture.
    s.click("[data-element-name='1']").await;
    s.click("[data-place-element]").await;
    s.kept(7).await;
    let placed = s.pixels().await;
    s.see("[data-column=Placed] [data-parameters]").await;
    s.words("Corners").await.click().await.unwrap();
    s.kept(8).await;
    assert_eq!(s.pixels().await, placed, "the corners lie where the frame has them");
    s.drag("[data-handle=top_left]", 60, 40).await;
    s.kept(9).await;
    s.rest().await;
    let pulled = s.pixels().await;
    assert_ne!(pulled, placed);
    s.look("elements-corners").await;

    // A step of Place on top of that.
    s.add_change_to(1, "Place").await;
    s.kept(10).await;
    s.type_number("Turn (°)", "15").await;
    s.kept(11).await;
    s.rest().await;
    assert_ne!(s.pixels().await, pulled);
    s.look("elements-place").await;
    assert!(s.sentence(3).await.contains("Place turned 15°"));

    // Hidden, it is gone; undone, it is back.
    s.click("[data-element-name='2']").await;
    s.see("[data-element-deck='2']").await;
    let with = s.pixels().await;
    s.click("[aria-label='Seen in the shot']").await;
    s.kept(12).await;
    s.rest().await;
    assert_ne!(s.pixels().await, with);
    s.click("[aria-label='Undo']").await;
    s.rest().await;
    s.until("it is seen again", "document.querySelector('[aria-label=\"Seen in the shot\"]')?.getAttribute('aria-checked') === 'true'").await;
    s.end().await;
}
